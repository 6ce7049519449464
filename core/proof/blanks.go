package proof

import (
	"cmp"
	"slices"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// blankSometimes looks for an input that can be sent while a value that is to come by itself
// is blank.
func (p *prover) blankSometimes(it *item) {
	if p.up() || p.never[""] {
		return
	}
	for row := range p.overRows(it.section, func(int) sat.Lit { return sat.Yes }) {
		fl, found, settled := p.seek(p.blankIn(it, row), p.found,
			func(fl engine.Filling) bool { return p.isBlank(it, row, fl) })
		switch {
		case found:
			r := p.say(CanBeBlank, form.Hint, it.value.at, it.Key, "%s is blank %s.", it.Name(), p.whileBlank(it, row, fl))
			r.With = p.told(fl, it.Key)
			r.Witness = witnessOf(fl)
			return
		case !settled:
			p.leave(it.value.at, it.Key, "Whether "+it.Name()+" can be blank in what is sent is not decided.",
				sentence(p.why(it.value)))
			return
		}
	}
}

// blankIn is when everything can be sent while an item takes part, is not answered by hand
// and is blank although it is to be filled in.
func (p *prover) blankIn(it *item, row int) sat.Lit {
	_, touched := p.w.own(it, row)
	if it.property == "is" {
		touched = sat.No
	}
	all := []sat.Lit{
		p.w.accepted(), p.w.part(it, row), p.m.And(touched, p.w.closed(it, row).Not()).Not(), p.m.blank(p.w.value(it, row)),
	}
	if it.when != nil {
		all = append(all, p.w.truthOf(it.when, row).met)
	}
	return p.m.And(all...)
}

// isBlank runs the form to see the same.
func (p *prover) isBlank(it *item, row int, fl engine.Filling) bool {
	o := run(p.side.program, fl)
	st := o.State(it.Key, row)
	if !o.Accepted || st == nil || !st.Part() || st.Touched() {
		return false
	}
	if it.when != nil {
		if t, _, ok := o.Truth(it.Key, "value.when", row); !ok || t != expr.Met {
			return false
		}
	}
	v := o.Value(st, row)
	return v.IsBlank()
}

// whileBlank says in what a value is blank: what it names that is blank, else the answers.
func (p *prover) whileBlank(it *item, row int, fl engine.Filling) string {
	o := run(p.side.program, fl)
	var blank []string
	expr.Walk(it.value.node, func(n expr.Node) {
		if !isName(n) {
			return
		}
		is := &expr.IsBlank{X: n}
		code := p.side.code(is, it.value.place.scope)
		if code == nil || o.TruthOf(code, it.Key, row, engine.Candidate{}) != expr.Met {
			return
		}
		if said := p.phrase(is, it.value); !slices.Contains(blank, said) {
			blank = append(blank, said)
		}
	})
	if len(blank) > 0 {
		return "while " + strings.Join(blank, " and ")
	}
	return "with " + cmp.Or(p.told(fl, it.Key), "nothing else answered")
}
