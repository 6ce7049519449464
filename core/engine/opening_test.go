package engine_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
)

func opened(t require.TestingT, opening, more string) *engine.Program {
	p, remarks := engine.Load(
		fmt.Appendf(
			nil,
			`{"lazo": 1, "key": "t", "title": "T", "timezone": "Europe/Madrid", "end": "usual", "opening": %s %s, "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "n", "type": "number", "label": "N"}]}]}]}`,
			opening,
			more,
		),
	)
	require.NotNil(t, p, remarks)
	return p
}

func at(text string) time.Time {
	loc, _ := time.LoadLocation("Europe/Madrid")
	t, err := time.ParseInLocation("2006-01-02 15:04:05", text, loc)
	if err != nil {
		panic(err)
	}
	return t
}

func TestRecurringHours(t *testing.T) {
	for _, c := range []struct{ hours, moment, open, next string }{
		{`{"rule": "FREQ=WEEKLY;BYDAY=MO,TU", "from": "09:00", "until": "17:00"}`, "2026-05-25 08:59:59", "before",
			"2026-05-25 09:00:00"},
		{`{"rule": "FREQ=WEEKLY;BYDAY=MO,TU", "from": "09:00", "until": "17:00"}`, "2026-05-25 09:00:00", "open",
			"2026-05-25 17:00:00"},
		{`{"rule": "FREQ=WEEKLY;BYDAY=MO,TU", "from": "09:00", "until": "17:00"}`, "2026-05-26 17:00:00", "before",
			"2026-06-01 09:00:00"},
		// one day goes on where the one before ends
		{`{"rule": "FREQ=WEEKLY;BYDAY=MO,TU", "from": "00:00", "until": "00:00"}`, "2026-05-25 12:00:00", "open",
			"2026-05-27 00:00:00"},
		{`{"rule": "FREQ=WEEKLY;BYDAY=FR", "from": "20:00", "until": "02:00"}`, "2026-05-30 01:59:59", "open",
			"2026-05-30 02:00:00"},
		{`{"rule": "FREQ=WEEKLY;INTERVAL=2;BYDAY=MO", "from": "00:00", "until": "00:00"}`, "2024-01-08 12:00:00", "before",
			"2024-01-15 00:00:00"},
		{`{"rule": "FREQ=MONTHLY;BYMONTHDAY=-1", "from": "10:00", "until": "11:00"}`, "2026-02-28 10:30:00", "open",
			"2026-02-28 11:00:00"},
		// the night of the jump
		{`{"rule": "FREQ=DAILY", "from": "02:30", "until": "03:30"}`, "2026-03-29 01:59:59", "before", "2026-03-29 03:00:00"},
		{`{"rule": "FREQ=DAILY;COUNT=2", "from": "09:00", "until": "10:00"}`, "2026-05-25 09:30:00", "before", ""},
	} {
		p := opened(t, `{"hours": `+c.hours+`}`, "")
		in := engine.Input{At: at(c.moment)}
		assert.Equal(t, c.open, string(p.Run(in).Open), "%s at %s", c.hours, c.moment)
		next, ok := p.NextChange(in)
		if c.next == "" {
			assert.False(t, ok, c.hours)
			continue
		}
		require.True(t, ok, c.hours)
		assert.Equal(t, c.next, next.Format("2006-01-02 15:04:05"), "%s at %s", c.hours, c.moment)
	}
	for _, bad := range []string{`{"rule": "ON MONDAYS", "from": "09:00", "until": "10:00"}`,
		`{"rule": "FREQ=HOURLY", "from": "09:00", "until": "10:00"}`,
		`{"rule": "FREQ=DAILY", "from": "nine", "until": "10:00"}`} {
		p, remarks := engine.Load(
			[]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "opening": {"hours": ` + bad + `}, "pages": []}`),
		)
		assert.Nil(t, p, bad)
		assert.NotEmpty(t, remarks)
	}
}

func TestGraceIsForThoseWhoHadBegun(t *testing.T) {
	p := opened(t, `{"until": "2026-05-30T18:00", "grace_minutes": 30}`, "")
	late := at("2026-05-30 18:20:00")
	assert.Equal(t, engine.Open, p.Run(engine.Input{At: late, Begun: at("2026-05-30 17:59:00")}).Open)
	assert.Equal(t, engine.After, p.Run(engine.Input{At: late, Begun: at("2026-05-30 18:01:00")}).Open)
	assert.Equal(t, engine.After, p.Run(engine.Input{At: late}).Open)
	p = opened(t, `{"hours": {"rule": "FREQ=DAILY", "from": "09:00", "until": "17:00"}, "grace_minutes": 30}`, "")
	assert.Equal(t, engine.Open, p.Run(engine.Input{At: at("2026-05-30 17:20:00"), Begun: at("2026-05-30 16:59:00")}).Open)
	// Days that go on into each other close with the last of them.
	days := opened(t, `{"hours": {"rule": "FREQ=WEEKLY;BYDAY=MO,TU", "from": "00:00", "until": "00:00"}, "grace_minutes": 30}`,
		"")
	begun := at("2026-05-25 12:00:00")
	assert.Equal(t, engine.Open, days.Run(engine.Input{At: at("2026-05-27 00:20:00"), Begun: begun}).Open)
	assert.Equal(t, engine.Before, days.Run(engine.Input{At: at("2026-05-27 00:31:00"), Begun: begun}).Open)
	assert.Equal(t, engine.Before,
		p.Run(engine.Input{At: at("2026-05-30 17:31:00"), Begun: at("2026-05-30 16:59:00")}).Open)
}

func TestWhatWasSentCanBeChangedUntil(t *testing.T) {
	p := opened(
		t, `{"until": "2026-05-30T18:00"}`,
		`, "returning": {"change": true, "until": "2026-06-05T12:00"}, "ends": [{"when": "n > 3", "text": "many"}]`,
	)
	after := at("2026-06-01 12:00:00")
	assert.Equal(t, engine.After, p.Run(engine.Input{At: after}).Open)
	assert.Equal(t, engine.Open, p.Run(engine.Input{At: after, Mode: engine.Revisit}).Open)
	assert.True(t, p.MayChange(after))
	assert.False(t, p.MayChange(at("2026-06-05 12:00:00")))
	assert.Equal(t, engine.After, p.Run(engine.Input{At: at("2026-06-05 12:00:00"), Mode: engine.Revisit}).Open)
	assert.Equal(t, "usual", p.Run(engine.Input{At: after, Answers: p.Answers(map[string]any{"n": "3"})}).End())
	assert.Equal(t, "many", p.Run(engine.Input{At: after, Answers: p.Answers(map[string]any{"n": "4"})}).End())
	assert.False(t, opened(t, `{}`, "").MayChange(after))
}

// Between now and the next change of the hours nothing changes.
func TestHoursAreNeverLate(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		rule := rapid.SampledFrom([]string{"FREQ=WEEKLY;BYDAY=MO,WE,SU", "FREQ=DAILY", "FREQ=DAILY;INTERVAL=3",
			"FREQ=MONTHLY;BYDAY=1SA", "FREQ=YEARLY;BYMONTH=5"}).
			Draw(t, "rule")
		clock := func(name string) string {
			return fmt.Sprintf("%02d:%02d", rapid.IntRange(0, 23).Draw(t, name),
				rapid.SampledFrom([]int{0, 15, 30}).Draw(t, name+" minutes"))
		}
		p := opened(t, fmt.Sprintf(`{"hours": {"rule": %q, "from": %q, "until": %q}}`, rule, clock("from"), clock("until")),
			"")
		now := at("2026-01-01 00:00:00").Add(time.Duration(rapid.Int64Range(0, 400*86400).Draw(t, "now")) * time.Second)
		open := p.Run(engine.Input{At: now}).Open
		next, ok := p.NextChange(engine.Input{At: now})
		span := int64(40 * 86400)
		if ok {
			span = int64(next.Sub(now) / time.Second)
			if next.Sub(now) < 300*24*time.Hour { // beyond, it only says that it has not looked further
				require.NotEqual(t, open, p.Run(engine.Input{At: next}).Open, "it changes at %s", next)
			}
		}
		for range 6 {
			later := now.Add(time.Duration(rapid.Int64Range(0, span-1).Draw(t, "later")) * time.Second)
			require.Equal(t, open, p.Run(engine.Input{At: later}).Open, "at %s, before %s", later, next)
		}
	})
}
