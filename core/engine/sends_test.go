package engine_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
)

// Between now and the next change the same messages and hooks follow from what is answered,
// and at the next change others do.
func TestTheNextChangeIsThatOfMessagesAndHooksToo(t *testing.T) {
	conditions := []string{"", "now >= 2026-05-30T12:00", `weekday in ("sat", "sun")`, "time between 09:00 and 17:00",
		"today > day",
		"age(born) >= 18", "today < day + 2 days and swim", "mode = \"new\" and today = 2026-05-31"}
	moments := []string{"", "2026-05-31", "2026-05-30T18:30", "day + 1 day", "now + 3 days"}
	told := map[string]int{}
	rapid.Check(t, func(t *rapid.T) {
		subject := rapid.SampledFrom([]string{"Your entry", "It is {today}"}).Draw(t, "subject")
		when, hook := rapid.SampledFrom(conditions).Draw(t, "when"), rapid.SampledFrom(conditions).Draw(t, "hook")
		src := fmt.Sprintf(`{"lazo": 1, "key": "t", "title": "T", "timezone": "America/Montevideo", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
			{"key": "day", "type": "date", "label": "Day"}, {"key": "born", "type": "date", "label": "Born"}, {"key": "swim", "type": "yes_no", "label": "Swim"}]}]}],
			"messages": [{"key": "m", "to": ["harbour@pedralta.example"], "subject": %q, "body": "B", "when": %q, "at": %q, "again": %v}],
			"hooks": [{"key": "h", "url": "https://club.example/h", "events": ["received", "changed"], "when": %q}]}`,
			subject, when, rapid.SampledFrom(moments).Draw(t, "at"), rapid.Bool().Draw(t, "again"), hook)
		p, remarks := engine.Load([]byte(src))
		require.NotNil(t, p, remarks)
		answers := map[string]any{"day": "2026-05-29", "born": "2008-05-31", "swim": rapid.Bool().Draw(t, "swim")}
		d := drawn{answers: answers, mode: rapid.SampledFrom([]string{"new", "revisit", "staff"}).Draw(t, "mode"),
			at: time.Date(2026, 5, 29, 15, 0, rapid.IntRange(0, 3*86400).Draw(t, "seconds"), 0, time.UTC)}
		if d.mode != "new" {
			d.prior = map[string]any{"day": rapid.SampledFrom([]string{"2026-05-29", "2026-05-31"}).Draw(t, "the day before"),
				"swim": true}
		}
		seen := func(at time.Time) map[string]any {
			later := d
			later.at = at
			return plain(t, p.Run(later.input(p)))
		}
		next, ok := p.NextChange(d.input(p))
		told[fmt.Sprint(ok)]++
		horizon := int64(10 * 86400)
		if ok {
			require.True(t, next.After(d.at))
			if next.Before(d.at.AddDate(0, 0, 10)) { // else the looks were used up by what changes nothing
				require.NotEqual(t, seen(d.at), seen(next), "nothing changes at %s\n%s", next, src)
			}
			horizon = min(horizon, int64(next.Sub(d.at)/time.Second))
			require.Equal(t, seen(d.at), seen(next.Add(-time.Second)), "it changed before %s\n%s", next, src)
		}
		for range 8 {
			at := d.at.Add(time.Duration(rapid.Int64Range(0, horizon-1).Draw(t, "later")) * time.Second)
			require.Equal(t, seen(d.at), seen(at), "it changed by %s, before %s\n%s", at, next, src)
		}
	})
	require.Positive(t, told["true"])
}

// A page that is being filled in is not asked for again for the sake of a letter.
func TestALetterOfEverySecondChangesNothingThatIsSeen(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "a", "type": "text", "label": "A", "shown": "now >= 2026-05-30T12:00"}]}]}],
		"messages": [{"key": "m", "to": ["harbour@pedralta.example"], "subject": "S", "body": "B", "at": "now + 3 days"}]}`))
	require.NotNil(t, p, remarks)
	at := time.Date(2026, 5, 30, 11, 0, 0, 0, time.UTC)
	next, ok := p.NextChange(engine.Input{At: at})
	require.True(t, ok)
	require.Equal(t, at.Add(time.Second), next)
	next, ok = p.NextSeen(engine.Input{At: at})
	require.True(t, ok)
	require.Equal(t, at.Add(time.Hour), next)
}
