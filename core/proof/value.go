package proof

import (
	"slices"
	"strings"

	"lazo/core/expr"
	"lazo/core/proof/sat"
)

// val is what a value can be: cases that exclude each other, else blank.
type val struct {
	cases []vcase
	free  sat.Lit // it is something that is not known, blank perhaps
	set   *picks
	cells []*val          // of a grid, by row
	parts map[string]*val // of an address; "other" of a choice that brings a text
}

type vcase struct {
	when sat.Lit
	v    expr.Value
}

// picks is a set of choices: which are picked, if there is a set at all.
type picks struct {
	present sat.Lit
	of      []sat.Lit // by the number of the choice
}

func blankVal() *val { return &val{free: sat.No} }

// blank reports when a value counts as not answered; what is not known may.
func (m *model) blank(v *val) sat.Lit {
	if v.set != nil {
		any := []sat.Lit{}
		for _, p := range v.set.of {
			any = append(any, m.And(p, v.set.present))
		}
		if v.free != sat.No {
			any = append(any, m.And(v.free, m.unknownOf(v)))
		}
		return m.Or(any...).Not()
	}
	var some []sat.Lit
	for _, c := range v.cases {
		some = append(some, c.when)
	}
	for _, c := range v.cells {
		some = append(some, m.blank(c).Not())
	}
	for name, p := range v.parts {
		if name != otherPart {
			some = append(some, m.blank(p).Not())
		}
	}
	if v.free != sat.No {
		some = append(some, m.And(v.free, m.unknownOf(v)))
	}
	return m.Or(some...).Not()
}

// unknownOf says whether something that is not known is answered, for each value once.
func (m *model) unknownOf(v *val) sat.Lit {
	if l, ok := m.answered[v]; ok {
		return l
	}
	l := m.Unknown()
	m.answered[v] = l
	return l
}

const otherPart = "other"

// gate is the value where a literal holds, else blank.
func (m *model) gate(v *val, g sat.Lit) *val {
	switch g {
	case sat.Yes:
		return v
	case sat.No:
		return m.emptied(v)
	}
	out := &val{free: m.And(v.free, g)}
	for _, c := range v.cases {
		if w := m.And(c.when, g); w != sat.No {
			out.cases = append(out.cases, vcase{w, c.v})
		}
	}
	if v.set != nil {
		out.set = &picks{m.And(v.set.present, g), v.set.of}
	}
	for _, c := range v.cells {
		out.cells = append(out.cells, m.gate(c, g))
	}
	if v.parts != nil {
		out.parts = map[string]*val{}
		for name, p := range v.parts {
			out.parts[name] = m.gate(p, g)
		}
	}
	return out
}

// emptied is a blank of the same make.
func (m *model) emptied(v *val) *val {
	out := blankVal()
	if v.set != nil {
		out.set = &picks{sat.No, v.set.of}
	}
	for range v.cells {
		out.cells = append(out.cells, blankVal())
	}
	if v.parts != nil {
		out.parts = map[string]*val{}
		for name := range v.parts {
			out.parts[name] = blankVal()
		}
	}
	return out
}

// choose is one value where c holds, else another of the same make.
func (m *model) choose(c sat.Lit, a, b *val) *val {
	switch c {
	case sat.Yes:
		return a
	case sat.No:
		return b
	}
	x, y := m.gate(a, c), m.gate(b, c.Not())
	out := &val{free: m.Or(x.free, y.free)}
	out.cases = m.merged(append(slices.Clone(x.cases), y.cases...))
	if x.set != nil && y.set != nil {
		out.set = &picks{present: m.Or(x.set.present, y.set.present), of: make([]sat.Lit, len(x.set.of))}
		for i := range out.set.of {
			out.set.of[i] = m.Or(m.And(c, x.set.of[i]), m.And(c.Not(), y.set.of[i]))
		}
	}
	for i := range x.cells {
		out.cells = append(out.cells, m.choose(c, x.cells[i], y.cells[i]))
	}
	if x.parts != nil && y.parts != nil {
		out.parts = map[string]*val{}
		for name := range x.parts {
			out.parts[name] = m.choose(c, x.parts[name], y.parts[name])
		}
	}
	return out
}

// merged joins cases of the same value.
func (m *model) merged(cases []vcase) []vcase {
	at := map[string]int{}
	var out []vcase
	var whens [][]sat.Lit
	for _, c := range cases {
		if c.when == sat.No || c.v.Kind() == expr.Blank {
			continue
		}
		key := keyOf(&c.v)
		i, ok := at[key]
		if !ok {
			i = len(out)
			at[key] = i
			out, whens = append(out, c), append(whens, nil)
		}
		whens[i] = append(whens[i], c.when)
	}
	for i := range out {
		out[i].when = m.Or(whens[i]...)
	}
	return out
}

// keyOf tells values apart.
func keyOf(v *expr.Value) string {
	var b strings.Builder
	b.WriteByte(byte(v.Kind()))
	switch v.Kind() {
	case expr.Num:
		b.WriteString(v.Number().String())
	case expr.Text, expr.Choice:
		b.WriteString(v.Text())
	case expr.Choices:
		b.WriteString(strings.Join(v.Picks(), "\x00"))
	case expr.Address, expr.File:
		for _, p := range v.Parts() {
			b.WriteString(p.Name + "\x00" + p.Text + "\x00")
		}
	default:
		b.WriteString(expr.Int(v.Unix()).String())
	}
	return b.String()
}

// atLeast are literals that say whether at least 1, 2, … of some others hold, up to a number.
func (m *model) atLeast(of []sat.Lit, up int) []sat.Lit {
	row := []sat.Lit{}
	for _, l := range of {
		next := make([]sat.Lit, min(up, len(row)+1))
		for k := range next {
			before, same := sat.Yes, sat.No
			if k > 0 {
				before = row[k-1]
			}
			if k < len(row) {
				same = row[k]
			}
			next[k] = m.Or(same, m.And(before, l))
		}
		row = next
	}
	for len(row) < up {
		row = append(row, sat.No)
	}
	return row
}

// counted is how many of some literals hold, as a number.
func (m *model) counted(of []sat.Lit) *val {
	at := m.atLeast(of, len(of))
	out := blankVal()
	for n := range len(of) + 1 {
		when := sat.Yes
		if n > 0 {
			when = at[n-1]
		}
		if n < len(of) {
			when = m.And(when, at[n].Not())
		}
		if when != sat.No {
			out.cases = append(out.cases, vcase{when, expr.NumberValue(expr.Int(int64(n)))})
		}
	}
	return out
}

// cased writes a small set out as cases, each a set of its own; ok is false for a large one.
func (m *model) cased(v *val, options []string) (cases []vcase, ok bool) {
	if len(options) > 6 {
		return nil, false
	}
	for bits := range 1 << len(options) {
		whens := []sat.Lit{v.set.present}
		var of []string
		for i, o := range options {
			if bits>>i&1 == 1 {
				whens = append(whens, v.set.of[i])
				of = append(of, o)
			} else {
				whens = append(whens, v.set.of[i].Not())
			}
		}
		if w := m.And(whens...); w != sat.No {
			cases = append(cases, vcase{w, expr.ChoicesValue(of)})
		}
	}
	return cases, true
}
