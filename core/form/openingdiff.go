package form

import (
	"cmp"
	"fmt"
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
	zone := d.words.Zone
	say := func(differs bool, format string, args ...any) {
		if differs {
			d.say("", "%s: %s", d.after.Title, fmt.Sprintf(format, args...))
		}
	}
	say(a.From != b.From, "opens %s", cmp.Or(prefixed("on ", MomentWords(b.From, zone)), "as soon as it is published"))
	say(a.Until != b.Until, "%s", cmp.Or(prefixed("closes on ", MomentWords(b.Until, zone)), "does not close by itself"))
	say(a.Hours.String() != b.Hours.String(), "open %s", b.Hours)
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

func prefixed(with, text string) string {
	if text == "" {
		return ""
	}
	return with + text
}
