package proof

import (
	"encoding/json"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// input is what can be answered to a question, or to a part of one, in one row: nothing, or
// one of several raw answers.
type input struct {
	name string
	row  int
	lits []sat.Lit
	raws []any // the first is untouched; an emptied one is nil, too
}

func inputKey(name string, row int) string { return name + "#" + strconv.Itoa(row) }

// inputOf is the input of that name, made where it is first asked for.
func (m *model) inputOf(name string, row int, raws func() []any) *input {
	key := inputKey(name, row)
	if in := m.inputs[key]; in != nil {
		return in
	}
	in := &input{name: name, row: row, raws: append([]any{nil}, raws()...)}
	in.lits = m.OneOf(len(in.raws))
	m.inputs[key] = in
	m.listed = append(m.listed, in)
	return in
}

// picked is whether a choice is picked, among several.
func (m *model) picked(name, choice string, row int) sat.Lit {
	return m.inputOf(name+"\x00"+choice, row, func() []any { return []any{choice} }).lits[1]
}

// versions are the items of that key on all sides, if they are of one type.
func (m *model) versions(it *item) []*item {
	out := []*item{it}
	for _, sd := range m.sides {
		if other := sd.items[it.Key]; other != nil && other != it && other.alike(it) {
			out = append(out, other)
		}
	}
	return out
}

// inputName is the key, unless another side has something of another type there.
func (m *model) inputName(it *item) string {
	return it.side.named(it.Key)
}

// named is a name of an item, or of a part of one, as the model calls it: with a mark on the
// second side, if the first has another type there.
func (sd *side) named(name string) string {
	base, part := cut(name)
	first := sd.model.sides[0].items[base]
	it := sd.items[base]
	if first == nil || it == nil || first.alike(it) {
		return name
	}
	if base += "\x01"; part != "" {
		base += "." + part
	}
	return base
}

// alike reports whether the same can be answered to two editions of an item.
func (it *item) alike(other *item) bool { return it.Type == other.Type && it.kind() == other.kind() }

// raws are the answers to an item that make a difference, as they are sent.
func (m *model) raws(it *item) []any {
	var out []any
	add := func(raw any) {
		if !slices.ContainsFunc(out, func(r any) bool { return r == raw }) {
			out = append(out, raw)
		}
	}
	for _, one := range m.versions(it) {
		switch one.kind() {
		case expr.YesNo:
			add(true)
			if one.Type != form.Tick || one.Value != nil || one.WhenHidden == "keep" { // else the same as untouched
				add(false)
			}
		case expr.Choice:
			for _, c := range one.candidates {
				add(c.Value)
			}
		case expr.Num:
			for _, v := range m.valuesOf(one) {
				add(json.Number(v.Number().String())) // a text is read as the form's language writes it
			}
		case expr.Date, expr.Time, expr.Moment:
			for _, v := range m.valuesOf(one) {
				add(v.Plain(one.side.program.Location()))
			}
		case expr.Text:
			for _, s := range m.textsOf(one).texts {
				add(s)
			}
		case expr.File:
			add(aFile)
		}
		if one.Value != nil {
			out = append(out, nil)
		}
	}
	return out
}

// aFile stands for a file in the lists of raw answers; see sent.
const aFile = "\x00file"

// sent is a raw answer as it is really sent.
func sent(it *item, raw any) any {
	if raw != any(aFile) {
		return raw
	}
	file := map[string]any{"id": "proof", "name": "boat.png", "type": "image/png",
		"size": strconv.Itoa(min(1000, it.FileLimit()))}
	for _, a := range it.Accept {
		a = strings.ToLower(strings.TrimSpace(a))
		switch family, any := strings.CutSuffix(a, "/*"); {
		case strings.HasPrefix(a, "."):
			file["name"] = "papers" + a
		case any && family != "image":
			file["type"] = family + "/plain"
		case !any:
			file["type"] = a
		}
	}
	return file
}

func (m *model) valuesOf(it *item) []expr.Value {
	if v := m.variables[it.side.named(it.Key)]; v != nil && v.kind == it.kind() && len(v.values) > 0 {
		return v.values
	}
	switch it.kind() {
	case expr.Num:
		return []expr.Value{expr.NumberValue(expr.Int(1))}
	case expr.Date:
		return []expr.Value{expr.DayValue(usualDay)}
	case expr.Time:
		return []expr.Value{expr.TimeValue(12 * 3600)}
	}
	return nil
}

// own is what a respondent answers to an item in a row, and whether they touched it at all.
func (w *world) own(it *item, row int) (*val, sat.Lit) {
	if !it.answerable() {
		return it.hollow(), sat.No
	}
	m := w.side.model
	if w.without[it.Key] {
		return it.hollow(), sat.No
	}
	if v := w.fixed[inputKey(it.Key, row)]; v != nil {
		return v, sat.Yes
	}
	if it.unknownList() {
		out := it.hollow()
		out.free = m.Unknown()
		return out, out.free
	}
	name := m.inputName(it)
	switch it.kind() {
	case expr.Choices:
		return w.ownPicks(it, name, row)
	case expr.Grid:
		return w.ownCells(it, name, row)
	case expr.Address:
		out, touched := it.hollow(), []sat.Lit{}
		for _, part := range expr.AddressParts {
			in := m.inputOf(name+"."+part, row, func() []any { return m.partTexts(it, part) })
			for i, raw := range in.raws[1:] {
				s, _ := raw.(string)
				out.parts[part].cases = append(out.parts[part].cases, vcase{in.lits[i+1], expr.TextValue(s)})
			}
			touched = append(touched, in.lits[0].Not())
		}
		return out, m.Or(touched...)
	}
	in := m.inputOf(name, row, func() []any { return m.raws(it) })
	out := it.hollow()
	touched := in.lits[0].Not()
	for i, raw := range in.raws {
		if v, ok := it.side.program.ReadAnswer(it.Key, sent(it, raw)); ok && i > 0 {
			out.cases = append(out.cases, vcase{in.lits[i], v})
		} else if text, _ := raw.(string); it.kind() == expr.Text && m.textsOf(it).unsure[text] {
			out.cases = append(out.cases, vcase{m.And(in.lits[i], m.Unknown()), expr.TextValue(text)})
			if !slices.Contains(m.plain, in.lits[i].Not()) {
				m.plain = append(m.plain, in.lits[i].Not())
			}
		}
	}
	out.cases = m.merged(out.cases)
	if out.parts != nil {
		w.ownOther(it, name, row, out, w.isOther(it, out))
	}
	return out, touched
}

// ownOther adds what is written for a choice that brings a text, when that is picked.
func (w *world) ownOther(it *item, name string, row int, out *val, picked sat.Lit) {
	m := w.side.model
	other := m.inputOf(name+".other", row, func() []any { return m.otherTexts(it) })
	for i, raw := range other.raws {
		s, _ := raw.(string)
		if i == 0 {
			s = usualOther
		}
		if s != "" {
			out.parts[otherPart].cases = append(out.parts[otherPart].cases,
				vcase{m.And(picked, other.lits[i]), expr.TextValue(s)})
		}
	}
}

// usualOther is what is written for a choice that brings a text.
const usualOther = "Something else"

func (w *world) isOther(it *item, v *val) sat.Lit {
	var of []sat.Lit
	for _, c := range v.cases {
		if c.v.Text() == it.symbol.Type.Options.Other {
			of = append(of, c.when)
		}
	}
	return w.side.model.Or(of...)
}

func (m *model) otherTexts(it *item) []any {
	out := []any{""}
	if v := m.variables[it.side.named(it.Key+".other")]; v != nil {
		for i := range v.values {
			out = append(out, v.values[i].Text())
		}
	}
	return out
}

func (m *model) partTexts(it *item, part string) []any {
	var out []any
	if v := m.variables[it.side.named(it.Key+"."+part)]; v != nil {
		for i := range v.values {
			out = append(out, v.values[i].Text())
		}
	} else {
		out = []any{map[string]string{"country": "UY", "postcode": "11000", "city": "Pedralta"}[part]}
		if out[0] == "" {
			out[0] = "Harbour road 1"
		}
	}
	return out
}

// addresses are the addresses that make a difference: every text of each part, or none.
// There are none if they would be too many.
func (m *model) addresses(it *item) []map[string]string {
	out := []map[string]string{{}}
	for _, part := range expr.AddressParts {
		texts := m.partTexts(it, part)
		for _, before := range slices.Clone(out) {
			for _, raw := range texts {
				one := maps.Clone(before)
				one[part], _ = raw.(string)
				out = append(out, one)
			}
		}
		if len(out) > 4*maxWays {
			return nil
		}
	}
	return out[1:] // the first has no part at all
}

func (w *world) ownPicks(it *item, name string, row int) (*val, sat.Lit) {
	m := w.side.model
	out, touched := it.hollow(), []sat.Lit{}
	out.set.of = make([]sat.Lit, len(it.candidates))
	for i, c := range it.candidates {
		out.set.of[i] = m.picked(name, c.Value, row)
		touched = append(touched, out.set.of[i])
	}
	if it.Value != nil || it.WhenHidden == "keep" || it.Type == form.Ranking {
		touched = append(touched, m.picked(name, "", row)) // emptied by hand
	}
	any := m.Or(touched...)
	out.set.present = any
	if out.parts != nil {
		w.ownOther(it, name, row, out, w.otherPicked(it, out))
	}
	return out, any
}

func (w *world) otherPicked(it *item, v *val) sat.Lit {
	for i, c := range it.candidates {
		if c.Value == it.symbol.Type.Options.Other {
			return v.set.of[i]
		}
	}
	return sat.No
}

func (w *world) ownCells(it *item, name string, row int) (*val, sat.Lit) {
	m := w.side.model
	out, touched := it.hollow(), []sat.Lit{}
	options := it.symbol.Type.Options.Values
	for i, r := range it.Rows {
		cell := name + "." + r.Key
		if it.Many {
			set := &picks{of: make([]sat.Lit, len(options))}
			for j, o := range options {
				set.of[j] = m.picked(cell, o, row)
			}
			set.present = m.Or(set.of...)
			out.cells[i].set = set
			touched = append(touched, set.present)
			continue
		}
		in := m.inputOf(cell, row, func() []any {
			var raws []any
			for _, one := range m.versions(it) {
				for _, o := range one.symbol.Type.Options.Values {
					if !slices.Contains(raws, any(o)) {
						raws = append(raws, o)
					}
				}
			}
			return raws
		})
		for j, raw := range in.raws[1:] {
			if s, ok := raw.(string); ok && slices.Contains(options, s) {
				out.cells[i].cases = append(out.cells[i].cases, vcase{in.lits[j+1], expr.ChoiceValue(s)})
			}
		}
		touched = append(touched, in.lits[0].Not())
	}
	return out, m.Or(touched...)
}

// hollow is a blank value of the item's make.
func (it *item) hollow() *val {
	out := blankVal()
	if it.symbol == nil {
		return out
	}
	o := it.symbol.Type.Options
	switch it.kind() {
	case expr.Choices:
		n := len(it.candidates)
		if it.Type.Computed() && o != nil {
			n = len(o.Values)
		}
		out.set = &picks{present: sat.No, of: make([]sat.Lit, n)}
		for i := range out.set.of {
			out.set.of[i] = sat.No
		}
	case expr.Grid:
		for range it.Rows {
			cell := blankVal()
			if it.Many {
				cell.set = &picks{present: sat.No, of: make([]sat.Lit, len(o.Values))}
				for i := range cell.set.of {
					cell.set.of[i] = sat.No
				}
			}
			out.cells = append(out.cells, cell)
		}
	case expr.Address:
		out.parts = map[string]*val{}
		for _, part := range expr.AddressParts {
			out.parts[part] = blankVal()
		}
	}
	if o != nil && o.Other != "" && !it.Type.Computed() {
		out.parts = map[string]*val{otherPart: blankVal()}
	}
	return out
}

// clockCases are the moments of the clock's regions.
func (m *model) clockCases() []vcase {
	values := m.variables[clockName].values
	if m.clock == nil {
		m.clock = m.OneOf(len(values))
	}
	out := make([]vcase, len(values))
	for i, v := range values {
		out[i] = vcase{m.clock[i], v}
	}
	return out
}

// usualFirst are the moments of the clock, the usual one before the others.
func (m *model) usualFirst() []sat.Lit {
	out := slices.Clone(m.clock)
	for i, v := range m.variables[clockName].values {
		if i < len(out) && v.Unix() == m.at.Unix() {
			out[0], out[i] = out[i], out[0]
		}
	}
	return out
}

// paramInput is what can arrive in an address parameter.
func (m *model) paramInput(name string) (lits []sat.Lit, inputs [][]string) {
	v := m.variables["url."+name]
	if v == nil {
		v = &variable{name: "url." + name, kind: expr.Text}
		v.buildTexts()
		m.variables["url."+name] = v
	}
	if v.inputs == nil {
		texts := m.paramTexts(name, v)
		v.inputs = append(v.inputs, nil)
		for _, text := range texts {
			v.inputs = append(v.inputs, []string{text})
		}
		for _, more := range subsets(v.sets) {
			for _, text := range texts {
				if len(more) > 0 && !contains(more, text) {
					v.inputs = append(v.inputs, append([]string{text}, more...))
				}
			}
		}
		m.params[name] = m.OneOf(len(v.inputs))
	}
	return m.params[name], v.inputs
}

// paramTexts are the texts that can arrive and make a difference: all values of a parameter
// that has fixed ones in some edition, and those that the regions are made of.
func (m *model) paramTexts(name string, v *variable) (out []string) {
	add := func(text string) {
		if !slices.Contains(out, text) {
			out = append(out, text)
		}
	}
	for _, sd := range m.sides {
		sym := sd.program.Symbols.Params[name]
		for _, text := range sym.Inputs() {
			add(text)
		}
		switch { // something that counts as given, though nothing compares it
		case sym.Type.Options != nil:
		case sym.Type.Kind == expr.Num:
			add("1")
		case sym.Type.Kind == expr.Date:
			usual := expr.DayValue(usualDay)
			add(usual.Plain(nil))
		}
	}
	for i := range v.values {
		if one := &v.values[i]; one.Kind() == expr.Num {
			add(one.Number().String())
		} else {
			add(one.Plain(nil))
		}
	}
	return out
}

// mixed reports whether editions that are compared read a parameter in other ways.
func (m *model) mixed(name string) bool {
	first := m.sides[0].program.Symbols.Params[name].Type
	return slices.ContainsFunc(m.sides, func(sd *side) bool {
		other := sd.program.Symbols.Params[name].Type
		if first.Options == nil || other.Options == nil {
			return first.Kind != other.Kind || first.Options != other.Options
		}
		return first.Kind != other.Kind || !slices.Equal(first.Options.Values, other.Options.Values) ||
			!slices.Equal(first.Options.Labels, other.Options.Labels)
	})
}

// maxSearched is for how many values of one parameter all combinations are looked at.
const maxSearched = 4

func subsets(of []string) [][]string {
	if len(of) > maxSearched {
		out := [][]string{of}
		for _, s := range of {
			out = append(out, []string{s})
		}
		return out
	}
	var out [][]string
	for bits := range 1 << len(of) {
		var set []string
		for i, s := range of {
			if bits>>i&1 == 1 {
				set = append(set, s)
			}
		}
		out = append(out, set)
	}
	return out
}

// timeOf is a moment of the clock in the zone of a form.
func timeOf(v expr.Value, sd *side) time.Time {
	return time.Unix(v.Unix(), 0).In(sd.program.Location())
}

// maxWays bounds in how many ways one question is answered where each is looked at.
const maxWays = 64

// ways are all answers to an item that make a difference, each for itself; nil if they are
// too many.
func (w *world) ways(it *item, row int) []*val {
	out := []*val{it.hollow()}
	options := 0
	if o := it.symbol.Type.Options; o != nil {
		options = len(o.Values)
	}
	switch it.kind() {
	case expr.Choices:
		if options > 6 {
			return nil
		}
		for bits := 1; bits < 1<<options; bits++ {
			for _, text := range w.side.model.othersOf(it) {
				v := it.hollow()
				v.set.present = sat.Yes
				for i := range v.set.of {
					if bits>>i&1 == 1 {
						v.set.of[i] = sat.Yes
					}
				}
				if out = append(out, withOther(v, text)); w.otherPicked(it, v) == sat.No {
					break
				}
			}
		}
		if len(out) > 2*maxWays {
			return nil
		}
		return out
	case expr.Grid:
		return w.gridWays(it, options)
	case expr.Address:
		for _, parts := range w.side.model.addresses(it) {
			v := it.hollow()
			for name, text := range parts {
				v.parts[name].cases = []vcase{{sat.Yes, expr.TextValue(text)}}
			}
			out = append(out, v)
		}
		if len(out) == 1 {
			return nil
		}
		return out
	}
	w.own(it, row)
	in := w.side.model.inputs[inputKey(w.side.model.inputName(it), row)]
	if in == nil || len(in.raws) > maxWays {
		return nil
	}
	for i, raw := range in.raws {
		if v, ok := it.side.program.ReadAnswer(it.Key, sent(it, raw)); ok && i > 0 && v.Kind() != expr.Blank {
			for _, text := range w.side.model.othersOf(it) {
				one := it.hollow()
				one.cases = []vcase{{sat.Yes, v}}
				out = append(out, withOther(one, text))
				if one.parts[otherPart] == nil || v.Text() != it.symbol.Type.Options.Other {
					break
				}
			}
		}
	}
	return out
}

// withOther gives a choice that brings a text one.
func withOther(v *val, text string) *val {
	if other := v.parts[otherPart]; other != nil {
		other.cases = []vcase{{sat.Yes, expr.TextValue(text)}}
	}
	return v
}

// othersOf are the texts that are looked at for a choice that brings one.
func (m *model) othersOf(it *item) []string {
	out := []string{usualOther}
	for _, raw := range m.otherTexts(it) {
		if s, _ := raw.(string); s != "" {
			out = append(out, s)
		}
	}
	return out
}

func (w *world) gridWays(it *item, options int) []*val {
	if it.Many {
		return nil
	}
	out := []*val{it.hollow()}
	for i := range it.Rows {
		var next []*val
		for _, v := range out {
			next = append(next, v)
			for _, o := range it.symbol.Type.Options.Values {
				one := it.hollow()
				copy(one.cells, v.cells)
				one.cells[i] = &val{free: sat.No, cases: []vcase{{sat.Yes, expr.ChoiceValue(o)}}}
				next = append(next, one)
			}
		}
		if out = next; len(out) > maxWays {
			return nil
		}
	}
	return out
}
