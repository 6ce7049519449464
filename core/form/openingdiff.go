package form

import (
	"fmt"
	"strings"
	"time"
)

// opening says how the opening of a form differs.
func (d *differ) opening() {
	a, b := Opening{}, Opening{}
	if d.before.Opening != nil {
		a = *d.before.Opening
	}
	if d.after.Opening != nil {
		b = *d.after.Opening
	}
	say := func(differs bool, format string, args ...any) {
		if differs {
			d.say("", "%s: %s", d.after.Title, fmt.Sprintf(format, args...))
		}
	}
	say(a.From != b.From, "opens %s", or(momentRead(b.From), "as soon as it is published"))
	say(a.Until != b.Until, "%s", or(prefixed("closes on ", momentRead(b.Until)), "does not close by itself"))
	say(hoursRead(a.Hours) != hoursRead(b.Hours), "open %s", or(hoursRead(b.Hours), "every day, at any time"))
	if a.Shown != b.Shown {
		who := "open for everyone"
		if b.Shown.Expr != "" {
			who = "open only for those for whom " + d.sentence(b.Shown.Expr)
		}
		say(true, "%s", who)
	}
	if a.Limit != b.Limit {
		most := "takes any number of responses"
		if b.Limit > 0 {
			most = fmt.Sprintf("takes at most %d responses", b.Limit)
		}
		say(true, "%s", most)
	}
	say(a.GraceMinutes != b.GraceMinutes && b.GraceMinutes > 0, "%d minutes more for those who had begun", b.GraceMinutes)
	say(a.GraceMinutes > 0 && b.GraceMinutes == 0, "no more time for those who had begun")
	say(a.Before != b.Before, "other words before it opens")
	say(a.After != b.After, "other words after it has closed")
	say(a.Full != b.Full, "other words when it is full")
}

func or(text, otherwise string) string {
	if text == "" {
		return otherwise
	}
	return text
}

func prefixed(with, text string) string {
	if text == "" {
		return ""
	}
	return with + strings.TrimPrefix(text, "on ")
}

// momentRead is a moment as people read it, "" for none.
func momentRead(text string) string {
	for _, layout := range []string{"2006-01-02T15:04", "2006-01-02T15:04:05", time.DateOnly, time.RFC3339} {
		if t, err := time.Parse(layout, text); err == nil {
			return "on " + t.Format("2 January 2006 at 15:04")
		}
	}
	return text
}

// hoursRead are recurring hours as people read them, "" for none.
func hoursRead(h *Hours) string {
	if h == nil {
		return ""
	}
	days := RecurrenceOf(h.Rule).String()
	if h.AllDay() {
		return days + ", all day"
	}
	return days + " from " + h.From + " to " + h.Until
}
