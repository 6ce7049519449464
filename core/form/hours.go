package form

import (
	"slices"
	"strconv"
	"strings"
	"time"
)

// Hours are recurring hours within which a form is open: on the days of a
// recurrence rule (RFC 5545, such as FREQ=WEEKLY;BYDAY=MO,TU), from one time of
// day until another, which may lie after midnight; the same twice is a whole day.
type Hours struct {
	Rule  string `json:"rule"`
	From  string `json:"from"`
	Until string `json:"until"`
}

// AllDay reports whether the hours are whole days.
func (h *Hours) AllDay() bool { return h.From == h.Until }

// DaysWords are on which days the hours are; without any it is every day.
func (h *Hours) DaysWords() string {
	if h == nil {
		return Recurrence{Kind: EveryDay}.String()
	}
	return RecurrenceOf(h.Rule).String()
}

// TimesWords are between which times of day they last.
func (h *Hours) TimesWords() string {
	switch {
	case h == nil:
		return "at any time"
	case h.AllDay():
		return "all day"
	}
	return "from " + h.From + " to " + h.Until
}

// String is both in one.
func (h *Hours) String() string { return h.DaysWords() + ", " + h.TimesWords() }

// MomentWords are a moment of a form file, local to a zone or RFC 3339, as people read it
// there; "" for none, and as it is written where it is no moment.
func MomentWords(text string, zone *time.Location) string {
	const words = "2 January 2006, 15:04"
	for _, layout := range []string{"2006-01-02T15:04", "2006-01-02T15:04:05", time.DateOnly} {
		if t, err := time.ParseInLocation(layout, text, zone); err == nil {
			return t.Format(words)
		}
	}
	if t, err := time.Parse(time.RFC3339, text); err == nil {
		return t.In(zone).Format(words)
	}
	return text
}

// Kind is how days recur, as people say it.
type Kind string

// The kinds of a Recurrence.
const (
	EveryDay   Kind = "day"   // every day
	EveryWeek  Kind = "week"  // on days of the week
	EveryMonth Kind = "month" // on the first, second … last of a day of the week in the month
	OnDate     Kind = "date"  // on a day of the month
	ByRule     Kind = "rule"  // as a rule says that is none of these
)

// Kinds are all of them, as they are offered.
var Kinds = []Kind{EveryDay, EveryWeek, EveryMonth, OnDate, ByRule}

// Recurrence is on which days something recurs. Which fields count follows from its kind.
type Recurrence struct {
	Kind  Kind
	Every int      // week: each for 1, every second for 2, up to MostWeeks
	Days  []string // week: codes of RFC 5545, such as MO, in the order of the week
	Nth   int      // month: 1 to 4, or -1 for the last
	Day   string   // month: a code
	Date  int      // date: 1 to 31, or -1 for the last day
	Rule  string   // rule: of RFC 5545
}

// MostWeeks is the longest interval of weeks that is said in words.
const MostWeeks = 4

// Weekday is a day of the week by its code in RFC 5545.
type Weekday struct{ Code, Name string }

// Weekdays are those of a week, Monday first (ISO 8601).
var Weekdays = []Weekday{
	{"MO", "Monday"}, {"TU", "Tuesday"}, {"WE", "Wednesday"}, {"TH", "Thursday"}, {"FR", "Friday"}, {"SA", "Saturday"},
	{"SU", "Sunday"},
}

func dayName(code string) (string, bool) {
	i := slices.IndexFunc(Weekdays, func(d Weekday) bool { return d.Code == code })
	if i < 0 {
		return "", false
	}
	return Weekdays[i].Name, true
}

// Nths are the places of a day of the week in its month, in words.
var Nths = map[int]string{1: "first", 2: "second", 3: "third", 4: "fourth", -1: "last"}

// RecurrenceOf reads a recurrence rule as people say it, else as ByRule.
func RecurrenceOf(rule string) Recurrence {
	other := Recurrence{Kind: ByRule, Rule: rule}
	parts := map[string]string{}
	for part := range strings.SplitSeq(strings.TrimPrefix(rule, "RRULE:"), ";") {
		name, value, _ := strings.Cut(part, "=")
		parts[name] = value
	}
	has := func(names ...string) bool {
		return len(parts) == len(names) && !slices.ContainsFunc(names, func(n string) bool { return parts[n] == "" })
	}
	switch freq := parts["FREQ"]; {
	case freq == "DAILY" && has("FREQ"):
		return Recurrence{Kind: EveryDay}
	case freq == "WEEKLY" && (has("FREQ", "BYDAY") || has("FREQ", "INTERVAL", "BYDAY")):
		return weekly(other, parts["INTERVAL"], strings.Split(parts["BYDAY"], ","))
	case freq == "MONTHLY" && has("FREQ", "BYDAY"):
		at := max(0, len(parts["BYDAY"])-2)
		nth, err := strconv.Atoi(parts["BYDAY"][:at])
		_, known := dayName(parts["BYDAY"][at:])
		if err == nil && known && Nths[nth] != "" {
			return Recurrence{Kind: EveryMonth, Nth: nth, Day: parts["BYDAY"][at:]}
		}
	case freq == "MONTHLY" && has("FREQ", "BYMONTHDAY"):
		if n, err := strconv.Atoi(parts["BYMONTHDAY"]); err == nil && (n == -1 || n >= 1 && n <= 31) {
			return Recurrence{Kind: OnDate, Date: n}
		}
	}
	return other
}

func weekly(other Recurrence, interval string, days []string) Recurrence {
	out := Recurrence{Kind: EveryWeek, Every: 1}
	if interval != "" {
		var err error
		if out.Every, err = strconv.Atoi(interval); err != nil || out.Every < 1 || out.Every > MostWeeks {
			return other
		}
	}
	for _, d := range Weekdays {
		if slices.Contains(days, d.Code) {
			out.Days = append(out.Days, d.Code)
		}
	}
	if len(out.Days) != len(days) {
		return other
	}
	return out
}

// RRule is the recurrence as a rule of RFC 5545, "" for a week without days.
func (r Recurrence) RRule() string {
	switch r.Kind {
	case EveryDay:
		return "FREQ=DAILY"
	case EveryWeek:
		if len(r.Days) == 0 {
			return ""
		}
		rule := "FREQ=WEEKLY;"
		if r.Every > 1 {
			rule += "INTERVAL=" + strconv.Itoa(r.Every) + ";"
		}
		return rule + "BYDAY=" + strings.Join(r.Days, ",")
	case EveryMonth:
		return "FREQ=MONTHLY;BYDAY=" + strconv.Itoa(r.Nth) + r.Day
	case OnDate:
		return "FREQ=MONTHLY;BYMONTHDAY=" + strconv.Itoa(r.Date)
	}
	return r.Rule
}

// String says on which days, in words: “every day”, “on Mondays and Thursdays”, “on the
// first Saturday of the month”.
func (r Recurrence) String() string {
	switch r.Kind {
	case EveryDay:
		return "every day"
	case EveryWeek:
		var names []string
		for _, code := range r.Days {
			name, _ := dayName(code)
			names = append(names, name)
		}
		if r.Every > 1 {
			return "on " + listed(names) + " of every " + Nths[min(r.Every, 4)] + " week"
		}
		for i := range names {
			names[i] += "s"
		}
		return "on " + listed(names)
	case EveryMonth:
		name, _ := dayName(r.Day)
		return "on the " + Nths[r.Nth] + " " + name + " of the month"
	case OnDate:
		if r.Date == -1 {
			return "on the last day of the month"
		}
		return "on day " + strconv.Itoa(r.Date) + " of the month"
	}
	return "by the rule " + r.Rule
}

// listed joins names as people do.
func listed(names []string) string {
	if len(names) < 2 {
		return strings.Join(names, "")
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1]
}
