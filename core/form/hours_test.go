package form_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"lazo/core/form"
)

// A rule of RFC 5545 reads as people say it, and what they say is that rule again.
func TestRulesOfTimeInWords(t *testing.T) {
	for rule, words := range map[string]string{
		"FREQ=DAILY":                                 "every day",
		"FREQ=WEEKLY;BYDAY=MO":                       "on Mondays",
		"FREQ=WEEKLY;BYDAY=MO,TH":                    "on Mondays and Thursdays",
		"FREQ=WEEKLY;BYDAY=FR,SA,SU":                 "on Fridays, Saturdays and Sundays",
		"FREQ=WEEKLY;INTERVAL=2;BYDAY=SA":            "on Saturday of every second week",
		"FREQ=MONTHLY;BYDAY=1SA":                     "on the first Saturday of the month",
		"FREQ=MONTHLY;BYDAY=-1FR":                    "on the last Friday of the month",
		"FREQ=MONTHLY;BYMONTHDAY=15":                 "on day 15 of the month",
		"FREQ=MONTHLY;BYMONTHDAY=-1":                 "on the last day of the month",
		"FREQ=YEARLY;BYMONTH=5":                      "by the rule FREQ=YEARLY;BYMONTH=5",
		"FREQ=MONTHLY;BYDAY=5MO":                     "by the rule FREQ=MONTHLY;BYDAY=5MO",
		"FREQ=MONTHLY;BYDAY=MO":                      "by the rule FREQ=MONTHLY;BYDAY=MO",
		"FREQ=WEEKLY;INTERVAL=9;BYDAY=SA":            "by the rule FREQ=WEEKLY;INTERVAL=9;BYDAY=SA",
		"FREQ=WEEKLY;BYDAY=MO;UNTIL=20260530":        "by the rule FREQ=WEEKLY;BYDAY=MO;UNTIL=20260530",
		"FREQ=WEEKLY;BYDAY=MO,MO":                    "by the rule FREQ=WEEKLY;BYDAY=MO,MO",
		"FREQ=MONTHLY;BYMONTHDAY=40":                 "by the rule FREQ=MONTHLY;BYMONTHDAY=40",
		"FREQ=WEEKLY":                                "by the rule FREQ=WEEKLY",
		"every first Saturday, if the weather holds": "by the rule every first Saturday, if the weather holds",
	} {
		r := form.RecurrenceOf(rule)
		assert.Equal(t, words, r.String(), rule)
		assert.Equal(t, rule, r.RRule())
	}
	assert.Empty(t, form.Recurrence{Kind: form.EveryWeek}.RRule(), "a week without days has no rule")
}

func TestAnyRecurrenceComesBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := form.Recurrence{Kind: rapid.SampledFrom(form.Kinds[:4]).Draw(t, "kind")}
		code := func(d form.Weekday) string { return d.Code }
		switch r.Kind {
		case form.EveryWeek:
			r.Every = rapid.IntRange(1, form.MostWeeks).Draw(t, "every")
			for _, d := range form.Weekdays {
				if rapid.Bool().Draw(t, d.Code) {
					r.Days = append(r.Days, d.Code)
				}
			}
			if len(r.Days) == 0 {
				return
			}
		case form.EveryMonth:
			r.Nth = rapid.SampledFrom([]int{1, 2, 3, 4, -1}).Draw(t, "nth")
			r.Day = code(rapid.SampledFrom(form.Weekdays).Draw(t, "day"))
		case form.OnDate:
			r.Date = rapid.SampledFrom([]int{-1, 1, 15, 31}).Draw(t, "date")
		}
		assert.Equal(t, r, form.RecurrenceOf(r.RRule()))
		assert.Equal(t, r, form.RecurrenceOf("RRULE:"+r.RRule()))
	})
}

// What changes about opening is said in words, each thing by itself.
func TestDifferencesOfOpening(t *testing.T) {
	read := func(opening string) *form.Form {
		f, remarks := form.Read([]byte(`{"lazo": 1, "key": "t", "title": "Entry", "timezone": "UTC", "parameters": [{"name": "club", "label": "Club"}],
			"opening": ` + opening + `, "pages": []}`))
		assert.Empty(t, form.Errors(remarks))
		return f
	}
	said := func(a, b string) (out []string) {
		for _, c := range form.Diff(read(a), read(b)) {
			out = append(out, c.Text)
		}
		return out
	}
	full := `{"from": "2026-03-01T09:00", "until": "2026-05-30T18:00", "hours": {"rule": "FREQ=MONTHLY;BYDAY=1SA", "from": "09:00", "until": "17:00"},
		"shown": "url.club is answered", "limit": 120, "grace_minutes": 30, "before": "Soon.", "after": "Over.", "full": "Full."}`
	assert.Equal(t, []string{
		"Entry: opens on 1 March 2026, 09:00", "Entry: closes on 30 May 2026, 18:00",
		"Entry: open on the first Saturday of the month, from 09:00 to 17:00",
		"Entry: open only for those for whom the address’s Club is given", "Entry: takes at most 120 responses",
		"Entry: 30 minutes more for those who had begun", "Entry: other words before it opens",
		"Entry: other words after it has closed",
		"Entry: other words when it is full",
	}, said("{}", full))
	assert.Equal(t, []string{
		"Entry: opens as soon as it is published", "Entry: does not close by itself", "Entry: open every day, at any time",
		"Entry: open for everyone",
		"Entry: takes any number of responses", "Entry: no more time for those who had begun",
		"Entry: other words before it opens",
		"Entry: other words after it has closed", "Entry: other words when it is full",
	}, said(full, "{}"))
	assert.Empty(t, said(full, full))
}
