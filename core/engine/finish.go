package engine

import "lazo/core/expr"

// finish makes what every run starts from, once the form is known to be sound,
// and lays its conditions side by side in the order in which a run needs them.
func (c *compiler) finish() {
	p := c.p
	for _, it := range p.items {
		if it.group < 0 {
			p.template = append(p.template, ItemState{item: it})
		}
	}
	var tests []*expr.Test
	for _, s := range p.order {
		if s.kind == stepItem {
			tests = append(tests, &p.items[s.at].shown.test)
		}
	}
	checks := 0
	for _, it := range p.items {
		checks += len(it.checks)
	}
	slab := make([]check, 0, checks)
	for _, it := range p.items {
		at := len(slab)
		slab = append(slab, it.checks...)
		it.checks = slab[at:len(slab):len(slab)]
		tests = append(tests, &it.required.test)
		for i := range it.checks {
			tests = append(tests, &it.checks[i].test)
		}
	}
	expr.Pack(tests)
}
