package engine

import (
	"encoding/json"
	"time"

	"lazo/core/form"
)

// WithoutStaff are stored answers without those that only the workspace sees.
func (p *Program) WithoutStaff(answers []byte) ([]byte, error) {
	raw, err := ParseAnswers(answers)
	if err != nil {
		return nil, err
	}
	for pl := range p.Form.Places() {
		if !pl.Item.Staff {
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
// order: of questions for a date outside rows, but for those that only the workspace sees.
func (p *Program) DaysAhead(answers []byte, now time.Time) (out []DayAhead) {
	raw, err := ParseAnswers(answers)
	if err != nil {
		return nil
	}
	today := now.In(p.loc).Format(time.DateOnly)
	for pl := range p.Form.Places() {
		it := pl.Item
		if it.Type != form.Date || pl.Section.Repeat != nil || it.Staff {
			continue
		}
		text, _ := raw[it.Key].(string)
		if day, err := time.Parse(time.DateOnly, text); err == nil && text >= today {
			out = append(out, DayAhead{it.Key, it.Name(), day})
		}
	}
	return out
}
