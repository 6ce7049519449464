package engine_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
)

// clockConditions are conditions on the clock of every kind that the language has.
var clockConditions = []string{
	"time between 02:10 and 02:20", "time >= 18:00", "time < 00:30", "time = 02:30", "not time > 23:59",
	`weekday = "sun"`, `weekday in ("sat", "mon")`, "today >= 2026-10-26", "today = 2026-10-25",
	"today between 2026-03-29 and 2026-03-30",
	"now >= 2026-10-25T02:30", "now < 2026-03-29T02:30", "now + 1 day >= 2026-10-26T02:30",
	"now - 1 month < 2026-09-25T02:45", "now + 90 minutes >= 2026-10-25T03:00",
	"today + 1 day = 2026-10-26", "age(2008-10-25) >= 18", "days(today, 2026-10-26) < 1",
	`time >= 02:30 and weekday = "sun"`,
	"if(time < 02:40, today, today + 1 day) >= 2026-10-26",
}

// Around every clock change of a zone within a year the next change is told
// exactly: at every quarter of an hour the answer is held against a look at every
// minute.
func TestNextChangeAroundClockChanges(t *testing.T) {
	for _, name := range []string{"Europe/Berlin", "America/New_York", "Australia/Lord_Howe", "America/Montevideo",
		"Asia/Beirut", "America/Havana",
		"Africa/Casablanca", "Atlantic/Azores", "Pacific/Chatham", "America/St_Johns"} {
		loc, err := time.LoadLocation(name)
		require.NoError(t, err)
		changes := offsetChanges(loc)
		if name == "America/Montevideo" {
			changes = []time.Time{time.Date(2026, 10, 25, 3, 0, 0, 0, loc)} // none, and so an ordinary night
		}
		require.NotEmpty(t, changes, name)
		for i, cond := range clockConditions {
			p, remarks := engine.Load(
				[]byte(
					strings.Replace(withItems(fmt.Sprintf(`{"key": "n", "type": "note", "label": "N", "shown": %q}`, cond)),
						"Europe/Madrid", name, 1),
				),
			)
			require.NotNil(t, p, remarks)
			holds := func(at time.Time) bool { return p.Run(engine.Input{At: at}).State("n", 0).Shown }
			for _, change := range changes {
				from := change.Add(-3 * time.Hour)
				minutes := make([]bool, 10*60+1) // the condition at every minute from there
				for m := range minutes {
					minutes[m] = holds(from.Add(time.Duration(m) * time.Minute))
				}
				for at := i % 15; at < 6*60; at += 15 {
					next, ok := p.NextChange(engine.Input{At: from.Add(time.Duration(at) * time.Minute)})
					flips := at + 1
					for flips < len(minutes) && minutes[flips] == minutes[at] {
						flips++
					}
					told := "never"
					if ok {
						told = next.Sub(from).String()
					}
					if flips < len(minutes) {
						assert.True(
							t,
							ok && next.Sub(from) <= time.Duration(flips)*time.Minute && next.Sub(from) > time.Duration(flips-1)*time.Minute,
							"%s in %s at %s: it changes in minute %d of the night, told is %s", cond, name,
							from.Add(time.Duration(at)*time.Minute), flips, told,
						)
					} else {
						assert.False(t, ok && next.Before(from.Add(time.Duration(len(minutes)-1)*time.Minute)) &&
							holds(next) == minutes[at],
							"%s in %s at %s: nothing changes, told is %s", cond, name, from.Add(time.Duration(at)*time.Minute), told)
					}
				}
			}
		}
	}
}

// offsetChanges are the moments of 2026 at which a zone's offset changes.
func offsetChanges(loc *time.Location) []time.Time {
	var out []time.Time
	at := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	_, before := at.In(loc).Zone()
	for ; at.Year() == 2026; at = at.Add(15 * time.Minute) {
		if _, now := at.In(loc).Zone(); now != before {
			out, before = append(out, at.In(loc)), now
		}
	}
	return out
}

// A pick with places in one row takes it from the other rows, so that it has to be asked
// about when it changes.
func TestPlacesInRowsDriveEachOther(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "a", "title": "A", "timezone": "UTC", "pages": [{"key": "p", "sections": [
		{"key": "crew", "repeat": {"max": 9}, "items": [
			{"key": "seat", "type": "choice", "label": "Seat", "choices": [{"value": "bow", "places": 1}, {"value": "stern"}]},
			{"key": "free", "type": "choice", "label": "Free", "choices": [{"value": "x"}]}]}]}]}`))
	require.NotNil(t, p, remarks)
	assert.True(t, p.Drives("seat"))
	assert.False(t, p.Drives("free"))
}
