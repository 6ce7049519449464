package proof

import (
	"slices"
	"strings"

	"lazo/core/expr"
)

// val is what a value can be: cases that exclude each other, else blank.
type val struct {
	cases []vcase
	free  lit // it is something that is not known, blank perhaps
	set   *picks
	cells []*val          // of a grid, by row
	parts map[string]*val // of an address; "other" of a choice that brings a text
}

type vcase struct {
	when lit
	v    expr.Value
}

// picks is a set of choices: which are picked, if there is a set at all.
type picks struct {
	present lit
	of      []lit // by the number of the choice
}

func blankVal() *val { return &val{free: no} }

// blank reports when a value counts as not answered; what is not known may.
func (m *model) blank(v *val) lit {
	if v.set != nil {
		any := []lit{}
		for _, p := range v.set.of {
			any = append(any, m.and(p, v.set.present))
		}
		if v.free != no {
			any = append(any, m.and(v.free, m.unknownOf(v)))
		}
		return m.or(any...).not()
	}
	var some []lit
	for _, c := range v.cases {
		some = append(some, c.when)
	}
	for _, c := range v.cells {
		some = append(some, m.blank(c).not())
	}
	for name, p := range v.parts {
		if name != otherPart {
			some = append(some, m.blank(p).not())
		}
	}
	if v.free != no {
		some = append(some, m.and(v.free, m.unknownOf(v)))
	}
	return m.or(some...).not()
}

// unknownOf says whether something that is not known is answered, for each value once.
func (m *model) unknownOf(v *val) lit {
	if l, ok := m.answered[v]; ok {
		return l
	}
	l := m.unknown()
	m.answered[v] = l
	return l
}

const otherPart = "other"

// gate is the value where a literal holds, else blank.
func (m *model) gate(v *val, g lit) *val {
	switch g {
	case yes:
		return v
	case no:
		return m.emptied(v)
	}
	out := &val{free: m.and(v.free, g)}
	for _, c := range v.cases {
		if w := m.and(c.when, g); w != no {
			out.cases = append(out.cases, vcase{w, c.v})
		}
	}
	if v.set != nil {
		out.set = &picks{m.and(v.set.present, g), v.set.of}
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
		out.set = &picks{no, v.set.of}
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
func (m *model) choose(c lit, a, b *val) *val {
	switch c {
	case yes:
		return a
	case no:
		return b
	}
	x, y := m.gate(a, c), m.gate(b, c.not())
	out := &val{free: m.or(x.free, y.free)}
	out.cases = m.merged(append(slices.Clone(x.cases), y.cases...))
	if x.set != nil && y.set != nil {
		out.set = &picks{present: m.or(x.set.present, y.set.present), of: make([]lit, len(x.set.of))}
		for i := range out.set.of {
			out.set.of[i] = m.or(m.and(c, x.set.of[i]), m.and(c.not(), y.set.of[i]))
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
	var whens [][]lit
	for _, c := range cases {
		if c.when == no || c.v.Kind() == expr.Blank {
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
		out[i].when = m.or(whens[i]...)
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
func (m *model) atLeast(of []lit, up int) []lit {
	row := []lit{}
	for _, l := range of {
		next := make([]lit, min(up, len(row)+1))
		for k := range next {
			before, same := yes, no
			if k > 0 {
				before = row[k-1]
			}
			if k < len(row) {
				same = row[k]
			}
			next[k] = m.or(same, m.and(before, l))
		}
		row = next
	}
	for len(row) < up {
		row = append(row, no)
	}
	return row
}

// counted is how many of some literals hold, as a number.
func (m *model) counted(of []lit) *val {
	at := m.atLeast(of, len(of))
	out := blankVal()
	for n := range len(of) + 1 {
		when := yes
		if n > 0 {
			when = at[n-1]
		}
		if n < len(of) {
			when = m.and(when, at[n].not())
		}
		if when != no {
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
		whens := []lit{v.set.present}
		var of []string
		for i, o := range options {
			if bits>>i&1 == 1 {
				whens = append(whens, v.set.of[i])
				of = append(of, o)
			} else {
				whens = append(whens, v.set.of[i].not())
			}
		}
		if w := m.and(whens...); w != no {
			cases = append(cases, vcase{w, expr.ChoicesValue(of)})
		}
	}
	return cases, true
}
