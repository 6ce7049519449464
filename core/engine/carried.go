package engine

import (
	"encoding/json"
	"time"

	"lazo/core/form"
)

// Sendable are stored answers as a letter may carry them: without those that only the
// workspace sees, and those that are sensitive.
func (p *Program) Sendable(answers []byte) ([]byte, error) {
	return p.withoutHidden(answers, func(it *form.Item) bool { return it.Staff || p.sensitive[it.Key] })
}

// WithoutSensitive are stored answers without those that are sensitive.
func (p *Program) WithoutSensitive(answers []byte) ([]byte, error) {
	return p.withoutHidden(answers, func(it *form.Item) bool { return p.sensitive[it.Key] })
}

func (p *Program) withoutHidden(answers []byte, hides func(it *form.Item) bool) ([]byte, error) {
	raw, err := ParseAnswers(answers)
	if err != nil {
		return nil, err
	}
	for pl := range p.Form.Places() {
		if !hides(pl.Item) {
			continue
		}
		delete(raw, pl.Item.Key)
		rows, _ := raw[pl.Section.Key].([]any)
		for _, row := range rows {
			if m, ok := row.(map[string]any); ok {
				delete(m, pl.Item.Key)
			}
		}
	}
	return json.Marshal(raw)
}

// DayAhead is a day that was answered.
type DayAhead struct {
	Key, Label string    // of its question
	Day        time.Time // its beginning, in UTC
}

// DaysAhead are the days among stored answers that are not past in the form's zone, in its
// order: of questions for a date outside rows, but for those that only the workspace sees and
// those that are sensitive.
func (p *Program) DaysAhead(answers []byte, now time.Time) (out []DayAhead) {
	raw, err := ParseAnswers(answers)
	if err != nil {
		return nil
	}
	today := now.In(p.loc).Format(time.DateOnly)
	for pl := range p.Form.Places() {
		it := pl.Item
		if it.Type != form.Date || pl.Section.Repeat != nil || it.Staff || p.sensitive[it.Key] {
			continue
		}
		text, _ := raw[it.Key].(string)
		if day, err := time.Parse(time.DateOnly, text); err == nil && text >= today {
			out = append(out, DayAhead{it.Key, it.Name(), day})
		}
	}
	return out
}
