package engine

// Disagreements counts the conditions outside repeating sections that the run
// decides otherwise than the explanation of them would.
func (o *Outcome) Disagreements() (differ, compared int) {
	for _, it := range o.p.items {
		if it.group >= 0 {
			continue
		}
		conditions := []*condition{&it.shown.condition, &it.required.condition, &it.locked.condition}
		for i := range it.checks {
			conditions = append(conditions, &it.checks[i].condition)
		}
		for _, c := range conditions {
			if c.code == nil {
				continue
			}
			compared++
			if c.code.Truth(&o.frame) != c.test.Truth(&o.frame) {
				differ++
			}
		}
	}
	return differ, compared
}
