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
	open, err := p.WithoutStaff(answers)
	require.NoError(t, err)
	assert.JSONEq(t, `{"first": "2026-05-01", "last": "2026-05-02", "born": "1990-01-01", "rows": [{"day": "2026-07-01"}]}`, string(open))
}
