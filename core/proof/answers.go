package proof

import (
	"slices"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// blankOnly is when a value is none of its cases and not unknown either.
func (m *model) blankOnly(v *val) sat.Lit {
	some := []sat.Lit{v.free}
	for _, c := range v.cases {
		some = append(some, c.when)
	}
	return m.Or(some...).Not()
}

// value is what the answer to an item counts as.
func (w *world) value(it *item, row int) *val {
	if w.shares(it.Key) {
		return w.parent.value(it, row)
	}
	key := cellKey{it, row}
	if v := w.values[key]; v != nil {
		return v
	}
	v := it.hollow()
	if m := w.side.model; m.Late() {
		v.free, m.cut = m.Unknown(), true
	} else {
		v = w.decide(it, row)
	}
	w.values[key] = v
	return v
}

func (w *world) decide(it *item, row int) *val {
	m := w.side.model
	part, shown := w.part(it, row), w.shown(it, row)
	auto := w.automatic(it, row)
	v, hidden := auto, auto // hidden is what counts while it is not shown
	if w.later && (it.Staff || it.once()) {
		auto = &val{free: m.Unknown(), set: auto.set, cells: auto.cells, parts: auto.parts}
		v, hidden = auto, auto
	}
	if it.property != "is" {
		own, touched := w.own(it, row)
		if g := it.section.group; g != nil && m.comparesRows(g.key) {
			given := m.given(g, row)
			own, touched = m.gate(own, given), m.And(touched, given)
		}
		v = m.choose(m.And(touched, w.closed(it, row).Not()), own, auto)
		if !it.Staff {
			hidden = m.choose(touched, own, auto)
		}
	}
	var kept *val
	switch {
	case it.Parked:
	case it.WhenHidden == "keep":
		kept = m.gate(w.offeredOnly(it, row, hidden, sat.Yes), m.And(part.Not(), w.fits(it, row, hidden)))
	case it.WhenHidden == "fill":
		kept = m.gate(w.offeredOnly(it, row, auto, sat.Yes), part.Not())
	}
	switch it.Type {
	case form.Tick:
		unticked := vcase{m.And(shown, m.blankOnly(v)), expr.YesNoValue(false)}
		v = &val{free: v.free, cases: m.merged(append(slices.Clone(v.cases), unticked))}
	case form.ChoicesType:
		set := *v
		set.set = &picks{m.Or(v.set.present, m.And(shown, v.free.Not())), slices.Clone(v.set.of)}
		for i, p := range set.set.of {
			set.set.of[i] = m.And(p, v.set.present)
		}
		v = &set
	}
	if it.rows != nil && it.kind() == expr.Grid {
		whole := *v
		whole.cells = nil
		for i, c := range v.cells {
			whole.cells = append(whole.cells, m.gate(c, m.Or(part.Not(), w.met(it.rows[i], row))))
		}
		v = &whole
	}
	v = w.offeredOnly(it, row, v, shown)
	v = m.gate(v, part)
	if kept != nil {
		v = m.choose(part, v, kept)
	}
	return v
}

// offeredOnly drops the picks that are not on offer, where they are judged by that.
func (w *world) offeredOnly(it *item, row int, v *val, judged sat.Lit) *val {
	if !it.varies() || it.symbol == nil || it.symbol.Type.Options == nil {
		return v
	}
	m := w.side.model
	out := *v
	if v.cells != nil {
		out.cells = nil
		for _, cell := range v.cells {
			out.cells = append(out.cells, w.offeredOnly(it, row, cell, judged))
		}
		return &out
	}
	if v.set != nil {
		out.set = &picks{present: v.set.present, of: make([]sat.Lit, len(v.set.of))}
		for i := range v.set.of {
			out.set.of[i] = m.And(v.set.of[i], m.Or(judged.Not(), w.offer(it, row, i)))
		}
		return &out
	}
	out.cases = nil
	for _, c := range v.cases {
		keep := judged.Not()
		for i, cand := range it.candidates {
			if cand.Value == c.v.Text() {
				keep = m.Or(keep, w.offer(it, row, i))
			}
		}
		if when := m.And(c.when, keep); when != sat.No {
			out.cases = append(out.cases, vcase{when, c.v})
		}
	}
	return &out
}

// offer is when a choice of an item is on offer.
func (w *world) offer(it *item, row, i int) sat.Lit {
	return w.once("offer"+expr.Int(int64(i)).String(), it, row, func() sat.Lit {
		m := w.side.model
		cand := it.candidates[i]
		before := w.candidate
		w.candidate = cand.Value
		defer func() { w.candidate = before }()
		all := []sat.Lit{w.met(it.offered, row), w.met(it.withheld, row).Not()}
		if cand.Written >= 0 {
			ch := it.choices[cand.Written]
			all = append(all, w.met(ch.offered, row), w.met(ch.withheld, row).Not())
		}
		if cand.Entry != nil && it.where != nil {
			pl := it.where.place
			pl.entry = cand.Entry
			all = append(all, w.truth(w.node(it.where), pl, row).met)
		}
		if it.HasPlaces() && (it.Places != nil || cand.Written >= 0 && it.Choices[cand.Written].Places != nil) {
			all = append(all, m.full(it, row, cand.Value).Not())
		}
		return m.And(all...)
	})
}

// full is that others have taken all places of a choice.
func (m *model) full(it *item, row int, choice string) sat.Lit {
	key := cellKey{it, row}
	if m.taken[key] == nil {
		m.taken[key] = map[string]sat.Lit{}
	}
	l, ok := m.taken[key][choice]
	if !ok {
		l = m.Unknown()
		m.taken[key][choice] = l
	}
	return l
}

// truthAbout is the truth of a condition as it is tried on one choice or entry of a list.
func (w *world) truthAbout(cand engine.Candidate, n expr.Node, pl place, row int) truth {
	before := w.candidate
	w.candidate, pl.entry = cand.Value, cand.Entry
	defer func() { w.candidate = before }()
	return w.truth(n, pl, row)
}

// automatic is the value that comes by itself.
func (w *world) automatic(it *item, row int) *val {
	m := w.side.model
	out := it.hollow()
	if it.value == nil {
		return out
	}
	when := sat.Yes
	if it.when != nil {
		when = w.truthOf(it.when, row).met
	}
	p := w.side.program
	if member, ok := it.value.node.(*expr.Member); ok && member.Of == "url" && w.side.beyond[it.value.node] == "" {
		lits, inputs := m.paramInput(member.Name)
		sym := p.Symbols.Params[member.Name]
		for i, texts := range inputs {
			if read, _ := sym.Read(texts); i > 0 {
				w.come(it, out, vcase{lits[i], p.Comes(it.Key, read.Text, read.Texts)})
			}
		}
	} else {
		got := w.valueOf(it.value, row)
		switch {
		case got.set != nil && out.set != nil:
			w.comeAll(it, out, got)
		case got.set != nil || got.cells != nil || got.parts != nil && it.Type.Computed():
			if it.Type.Computed() {
				out = got
			} else {
				out.free = m.Unknown()
			}
		default:
			for _, c := range got.cases {
				w.come(it, out, vcase{c.when, p.Comes(it.Key, c.v, nil)})
			}
			out.free = got.free
		}
	}
	out.cases = m.merged(out.cases)
	return m.gate(out, when)
}

// come adds a case to a value, or the picks that it is.
func (w *world) come(it *item, out *val, c vcase) {
	m := w.side.model
	if out.set == nil {
		out.cases = append(out.cases, c)
		return
	}
	if c.v.Kind() != expr.Choices {
		return
	}
	out.set.present = m.Or(out.set.present, c.when)
	for i := range out.set.of {
		if c.v.Holds(w.optionAt(it, i)) {
			out.set.of[i] = m.Or(out.set.of[i], c.when)
		}
	}
}

func (w *world) optionAt(it *item, i int) string {
	if len(it.candidates) > 0 {
		return it.candidates[i].Value
	}
	return it.symbol.Type.Options.Values[i]
}

// comeAll fills a set with another one.
func (w *world) comeAll(it *item, out, got *val) {
	m := w.side.model
	from := optionsOf(it.value.node, w.side)
	if from == nil || it.Type == form.Ranking {
		out.free = m.Unknown()
		return
	}
	out.set.present, out.free = got.set.present, got.free
	for j, p := range got.set.of {
		if i, ok := it.symbol.Type.Options.Match(from[j]); ok && i < len(out.set.of) {
			out.set.of[i] = m.Or(out.set.of[i], m.And(p, got.set.present))
		}
	}
}

// expr is what the value of an expression can be.
func (w *world) expr(n expr.Node, pl place, row int) *val {
	m := w.side.model
	switch n := n.(type) {
	case *expr.Name:
		if v := w.named(n, pl, row); v != nil {
			if it := w.side.items[n.Name]; it.kind() != expr.Choice && it.kind() != expr.Address {
				return v
			}
			bare := *v
			if bare.parts = nil; w.side.items[n.Name].kind() == expr.Choice {
				return &bare
			}
		}
	case *expr.Call:
		switch n.Name {
		case "if":
			c := w.truth(n.Args[0], pl, row)
			a, b := w.expr(n.Args[1], pl, row), blankVal()
			if len(n.Args) == 3 {
				b = w.expr(n.Args[2], pl, row)
			}
			if plain(a) && plain(b) {
				return m.choose(c.met, w.common(n, pl, a), m.gate(w.common(n, pl, b), c.not))
			}
		case "first":
			return w.first(n.Args, n, pl, row)
		}
	}
	out := blankVal()
	known := w.tabulate(n, pl, row, func(code *expr.Code, f *expr.Evaluation, when sat.Lit) {
		if v := code.Value(f); v.Kind() != expr.Blank {
			out.cases = append(out.cases, vcase{when, v})
		}
	})
	if !known {
		// Truth is followed further than values are.
		if code := w.side.code(n, pl.scope); code != nil && code.Type.Kind == expr.YesNo {
			t := w.truth(n, pl, row)
			return &val{free: sat.No, cases: []vcase{{t.met, expr.YesNoValue(true)}, {t.not, expr.YesNoValue(false)}}}
		}
		return &val{free: sat.Yes}
	}
	out.cases = m.merged(out.cases)
	return out
}

// plain reports whether a value has no parts.
func plain(v *val) bool { return v.set == nil && v.cells == nil && v.parts == nil }

// common is a choice as a text, where it stands beside texts.
func (w *world) common(n expr.Node, pl place, v *val) *val {
	code := w.side.code(n, pl.scope)
	if code == nil || code.Type.Kind != expr.Text {
		return v
	}
	out := &val{free: v.free}
	for _, c := range v.cases {
		if c.v.Kind() == expr.Choice {
			c.v = expr.TextValue(c.v.Text())
		}
		out.cases = append(out.cases, c)
	}
	return out
}

// first is the first of several values that is answered.
func (w *world) first(args []expr.Node, n expr.Node, pl place, row int) *val {
	m := w.side.model
	out := blankVal()
	blank := sat.Yes
	for _, a := range args {
		v := w.expr(a, pl, row)
		if !plain(v) {
			return &val{free: sat.Yes}
		}
		v = m.gate(w.common(n, pl, v), blank)
		out.cases = append(out.cases, v.cases...)
		out.free = m.Or(out.free, v.free)
		blank = m.And(blank, m.blank(v))
	}
	out.cases = m.merged(out.cases)
	return out
}

// valueOf is what the value of an expression of the form can be, in a row.
func (w *world) valueOf(c *condition, row int) *val {
	if w.side.beyond[c.node] != "" {
		return &val{free: sat.Yes}
	}
	return w.expr(c.node, c.place, row)
}
