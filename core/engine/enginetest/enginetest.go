// Package enginetest makes large forms for benchmarks.
package enginetest

import (
	"fmt"

	"lazo/core/form"
)

// Shape is the size of a form to be made.
type Shape struct {
	Questions, Ties int  // ties per question
	Chain           bool // each question is shown by the one before
	Clock           int  // one tie in so many reads the clock; 0 for none
}

// Made is a form of that shape, its conditions, and full answers to it.
func Made(s Shape) (f *form.Form, conditions []string, answers map[string]any) {
	f = &form.Form{Lazo: 1, Key: "bench", Title: "Bench", Timezone: "America/Montevideo"}
	answers = map[string]any{}
	sec := &form.Section{Key: "s"}
	for i := range s.Questions {
		it := &form.Item{Key: fmt.Sprintf("q%d", i), Label: "Question", Type: form.Number}
		answers[it.Key] = fmt.Sprint(i % 10)
		if i%2 == 1 {
			it.Type = form.ChoiceType
			it.Choices = []form.Choice{{Value: "a"}, {Value: "b"}, {Value: "c"}}
			answers[it.Key] = "b"
		}
		for n := range s.Ties {
			num, pick := (i*7+n*13)%max(i, 1)&^1, (i*5+n*11)%max(i, 1)|1
			cond := fmt.Sprintf(`q%d >= %d or q%d = "b"`, num, n, pick)
			if i < 2 {
				cond = `mode = "new"`
			}
			if s.Chain && i > 0 {
				cond = fmt.Sprintf("q%d is answered", i-1)
			}
			if s.Clock > 0 && (i*s.Ties+n)%s.Clock == 0 {
				cond = "now >= 2026-01-01T00:00"
			}
			conditions = append(conditions, cond)
			switch n {
			case 0:
				it.Shown = form.When(cond)
			case 1:
				it.Required = form.When(cond)
			default:
				it.Checks = append(it.Checks, form.Check{OK: cond, Message: "no"})
			}
		}
		sec.Items = append(sec.Items, it)
	}
	f.Pages = []*form.Page{{Key: "p", Sections: []*form.Section{sec}}}
	return f, conditions, answers
}
