package engine_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
)

func TestWhatALetterCarries(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "America/Montevideo", "pages": [{"key": "p", "sections": [
		{"key": "s", "items": [{"key": "first", "type": "date", "label": "First"}, {"key": "last", "type": "date", "label": "Last"},
			{"key": "born", "type": "date", "label": "Born"}, {"key": "seen", "type": "date", "label": "Seen", "staff": true}]},
		{"key": "rows", "repeat": {"max": 3}, "items": [{"key": "day", "type": "date", "label": "Day"}, {"key": "memo", "type": "text", "label": "M", "staff": true}]}]}]}`))
	require.NotNil(t, p, remarks)
	answers := []byte(`{"first": "2026-05-01", "last": "2026-05-02", "born": "1990-01-01", "seen": "2026-06-01",
		"rows": [{"day": "2026-07-01", "memo": "x"}]}`)
	// In Montevideo it is still the first of May.
	days := p.DaysAhead(answers, time.Date(2026, 5, 2, 1, 0, 0, 0, time.UTC))
	require.Len(t, days, 2)
	assert.Equal(t, "First", days[0].Label)
	assert.Equal(t, "Last", days[1].Label)
	open, err := p.Sendable(answers)
	require.NoError(t, err)
	assert.JSONEq(t, `{"first": "2026-05-01", "last": "2026-05-02", "born": "1990-01-01", "rows": [{"day": "2026-07-01"}]}`, string(open))
}

// What is sensitive is left out of letters, and of what they carry, but not of what the
// respondent and the office see; it decides as it did.
func TestWhatIsSensitiveIsNotSent(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [
		{"key": "s", "items": [{"key": "name", "type": "text", "label": "Name"}, {"key": "allergy", "type": "text", "label": "Allergy", "sensitive": true},
			{"key": "day", "type": "date", "label": "Day", "sensitive": true}, {"key": "email", "type": "email", "label": "Mail", "sensitive": true}]},
		{"key": "rowers", "repeat": {"max": 3}, "items": [{"key": "who", "type": "text", "label": "Who"},
			{"key": "ill", "type": "text", "label": "Ill", "sensitive": true}]}]}],
		"messages": [{"key": "m", "to": ["{email}"], "subject": "{name}: {allergy}",
			"body": "{when allergy is answered}\nIt is {allergy}, {length(allergy)}.\n{end}\n{each rowers}\n{who}/{ill}\n{end}"}],
		"documents": [{"key": "d", "name": "Card of {name}", "body": "{allergy} {name}"}]}`))
	require.NotNil(t, p, remarks)
	withheld := 0
	for _, r := range remarks {
		if r.Kind == "withheld" {
			withheld++
		}
	}
	assert.Equal(t, 3, withheld, "subject, body and document say so: %v", remarks)
	answers := `{"name": "Ana", "allergy": "pollen", "day": "2030-01-01", "email": "a@b.example", "rowers": [{"who": "Bo", "ill": "no"}]}`
	o := sending(t, p, engine.New, "", answers)
	require.True(t, o.Accepted)
	l := o.Letters()[0]
	assert.Equal(t, []string{"a@b.example"}, l.To)
	assert.Equal(t, "Ana: •••", l.Subject)
	assert.Equal(t, "It is •••, •••.\nBo/•••\n", l.Body)
	kept := engine.Submitted{Answers: []byte(answers)}
	_, sent, _, err := p.Document("d", kept, true)
	require.NoError(t, err)
	assert.Equal(t, "••• Ana", sent)
	_, own, _, err := p.Document("d", kept, false)
	require.NoError(t, err)
	assert.Equal(t, "pollen Ana", own)
	open, err := p.Sendable([]byte(answers))
	require.NoError(t, err)
	assert.JSONEq(t, `{"name": "Ana", "rowers": [{"who": "Bo"}]}`, string(open))
	assert.Empty(t, p.DaysAhead([]byte(answers), time.Date(2029, 1, 1, 0, 0, 0, 0, time.UTC)))
}
