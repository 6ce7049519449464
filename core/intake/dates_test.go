package intake_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/intake"
)

func TestOrders(t *testing.T) {
	const day, month = intake.DayFirst, intake.MonthFirst
	for name, try := range map[string]struct {
		column []string
		want   []intake.Order
	}{
		"day first":             {[]string{"01/04/2026", "30/05/2026"}, []intake.Order{day}},
		"month first":           {[]string{"01/04/2026", "05/30/2026"}, []intake.Order{month}},
		"either":                {[]string{"01/04/2026", "02.03.2026"}, []intake.Order{day, month}},
		"the same either way":   {[]string{"05/05/2026"}, []intake.Order{day}},
		"as Lazo writes them":   {[]string{"2026-04-01"}, nil},
		"beside one that tells": {[]string{"2026-04-01", "31-12-2026"}, []intake.Order{day}},
		"neither":               {[]string{"30/05/2026", "05/30/2026"}, nil},
		"no dates":              {[]string{"soon"}, nil},
		"with something else":   {[]string{"01/04/2026", "soon"}, []intake.Order{day, month}},
	} {
		assert.Equal(t, try.want, intake.Orders(try.column), name)
	}
}

// A date in figures is read as its column tells, or as it is said; never as one might guess.
func TestDatesAreNotGuessed(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "a", "title": "A", "timezone": "UTC", "language": "en-US", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "born", "type": "date", "label": "Born"}]}]}]}`))
	require.NotNil(t, p, remarks)
	read := func(match string, cells ...string) (days []string, reading intake.Reading) {
		rows := [][]string{{"Born"}}
		for _, c := range cells {
			rows = append(rows, []string{c})
		}
		r, err := intake.NewReader(p, rows[0], []string{match}, time.Now())
		require.NoError(t, err)
		reading, err = r.Read(rows, func(_ int, res intake.Response) error {
			days = append(days, string(res.Answers))
			return nil
		})
		require.NoError(t, err)
		return days, reading
	}
	days, _ := read("born", "01/04/2026", "30/05/2026")
	assert.Equal(t, []string{`{"born": "2026-04-01"}`, `{"born": "2026-05-30"}`}, tidy(days),
		"the column tells, whatever the form's language is")
	days, reading := read("born", "01/04/2026")
	assert.Empty(t, days)
	require.Len(t, reading.Faults, 1)
	assert.Contains(t, reading.Faults[0].Text, "whether the day or the month comes first")
	days, _ = read("born~day", "01/04/2026")
	assert.Equal(t, []string{`{"born": "2026-04-01"}`}, tidy(days))
	days, _ = read("born~month", "01/04/2026")
	assert.Equal(t, []string{`{"born": "2026-01-04"}`}, tidy(days))
	days, _ = read("born~month", "01/04/2026", "30/05/2026")
	assert.Equal(t, []string{`{"born": "2026-04-01"}`, `{"born": "2026-05-30"}`}, tidy(days), "what can't be is not said")
	days, _ = read("born", "2026-04-01")
	assert.Equal(t, []string{`{"born": "2026-04-01"}`}, tidy(days))
}

func tidy(list []string) (out []string) {
	for _, s := range list {
		out = append(out, strings.ReplaceAll(s, `":"`, `": "`))
	}
	return out
}
