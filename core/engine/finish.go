package engine

import "lazo/core/expr"

// finish lays the form's conditions side by side in the order in which a run
// needs them, once the form is known to be sound.
func (c *compiler) finish() {
	p := c.p
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
