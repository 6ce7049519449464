package proof

import (
	"cmp"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// passed looks for items that can appear on a page that the respondent has left behind.
func (p *prover) passed() {
	graph := p.side.program.Form.Graph()
	for _, pg := range p.side.pages {
		later := map[string]bool{}
		for _, after := range p.side.pages[pg.index+1:] {
			for _, sec := range after.sections {
				if sec.group != nil {
					later[sec.Key] = true
				}
				for _, it := range sec.items {
					later[it.Key] = true
				}
			}
		}
		var before *world
		for _, sec := range pg.sections {
			for _, it := range sec.items {
				if p.never[it.Key] || it.Parked || it.Staff || it.Type.Computed() || p.up() ||
					!dependsOn(graph, later, it.Key, sec.Key) {
					continue
				}
				if before == nil {
					before = p.side.world()
					before.without = later
				}
				p.late(it, before, later)
			}
		}
	}
}

func dependsOn(g *form.Graph, later map[string]bool, keys ...string) bool {
	for _, key := range keys {
		for _, t := range g.Needs(key) {
			if later[t.Key] {
				return true
			}
		}
	}
	return false
}

// late looks for an input with which an item is shown that was not while the pages after
// its own were not filled in yet.
func (p *prover) late(it *item, before *world, later map[string]bool) {
	rows := p.overRows(it.section, func(row int) sat.Lit {
		return p.m.And(p.w.shown(it, row), before.shown(it, row).Not())
	})
	l := p.m.Or(rows...)
	if l == sat.No {
		return
	}
	shown := func(fl engine.Filling) bool {
		return anyRow(run(p.side.program, fl), it, func(st *engine.ItemState) bool { return st.Shown })
	}
	test := func(fl engine.Filling) bool {
		if !shown(fl) {
			return false
		}
		early := fl
		early.Answers = map[string]any{}
		for k, v := range fl.Answers {
			if !later[k] {
				early.Answers[k] = v
			}
		}
		return !shown(early)
	}
	fl, found, settled := p.seek(l, p.found, test)
	switch {
	case found:
		r := p.say(Late, form.Hint, it.remarkPlace()+".shown", it.Key,
			"%s can appear on a page that the respondent has passed, with %s.",
			it.Name(), cmp.Or(p.told(fl, it.Key), "nothing else answered"))
		r.Witness = witnessOf(fl)
	case !settled:
		p.leave(it.remarkPlace()+".shown", it.Key, "Whether "+it.Name()+" can appear after its page was passed is not decided.",
			sentence(p.why(it.shown.condition)))
	}
}
