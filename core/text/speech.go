package text

//go:generate go run ../../scripts/cldrgen ../../.run/cldr/node_modules

import (
	_ "embed"
	"encoding/json"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"lazo/core/expr"
)

// Conventions are how a language writes numbers, dates, times and lists, from CLDR: the
// long form of a date, the short of a time.
type Conventions struct {
	OfDay, OfTime      string   // patterns: MMMM d, y; h:mm a
	OfMoment           string   // and of both: {1}, {0}
	OfMonthDay         string   // of a day without its year: MMMM d
	AM, PM             string   `json:",omitempty"`
	Months             []string // as they stand in a date
	MonthsAlone        []string `json:",omitempty"` // where the pattern of a date wants them
	Weekdays           []string // Sunday first, as they stand in a date
	Decimal, Group     string
	Minus              string
	Pattern            string // of a number, which has the sizes of its groups: #,##,##0.###
	SparseGroups       bool   `json:",omitempty"` // four digits are not grouped
	Digits             string `json:",omitempty"` // the ten digits, if they are not 0 to 9
	Two, Start, Middle string // patterns of lists: {0} and {1}
	End                string
	Yes, No            string

	tag language.Tag
}

//go:embed cldr.json
var cldr []byte

// languages are the conventions by language tag.
var languages = sync.OnceValue(func() map[string]*Conventions {
	out := map[string]*Conventions{}
	if err := json.Unmarshal(cldr, &out); err != nil {
		panic("text: " + err.Error()) // it ships with the program
	}
	for tag, c := range out {
		c.tag = language.Make(tag)
	}
	return out
})

// Speech says values in a language. Of one that CLDR does not have, the nearest above it
// is taken, and English at last.
func Speech(tag language.Tag) expr.Speech { return Of(tag) }

// Of are the conventions that Speech speaks by.
func Of(tag language.Tag) *Conventions {
	for t := tag; t != language.Und; t = t.Parent() {
		if c := languages()[t.String()]; c != nil {
			return c
		}
	}
	if base, sure := tag.Base(); sure > language.No {
		if c := languages()[base.String()]; c != nil {
			return c
		}
	}
	return languages()["en"]
}

// Number is n with the language's signs and groups.
func (c *Conventions) Number(n expr.Number) string {
	whole, fraction, _ := strings.Cut(n.String(), ".")
	whole, negative := strings.CutPrefix(whole, "-")
	primary, secondary := c.groups()
	var parts []string
	for size := primary; size > 0 && len(whole) > size &&
		(len(parts) > 0 || !c.SparseGroups || len(whole) > size+1); size = secondary {
		parts = append([]string{whole[len(whole)-size:]}, parts...)
		whole = whole[:len(whole)-size]
	}
	out := strings.Join(append([]string{whole}, parts...), c.Group)
	if fraction != "" {
		out += c.Decimal + fraction
	}
	if negative {
		out = c.Minus + out
	}
	return c.digits(out)
}

// Signs are the signs at the decimal point and between groups, and how many digits a group
// but the last has.
func (c *Conventions) Signs() (decimal, group rune, second int) {
	decimal, _ = utf8.DecodeRuneInString(c.Decimal)
	group, _ = utf8.DecodeRuneInString(c.Group)
	_, second = c.groups()
	return decimal, group, second
}

// groups are the digits of the last group, and of those before it; 0 if there are none.
func (c *Conventions) groups() (primary, secondary int) {
	whole, _, _ := strings.Cut(c.Pattern, ".")
	parts := strings.Split(whole, ",")
	if len(parts) < 2 {
		return 0, 0
	}
	primary = len(parts[len(parts)-1])
	secondary = primary
	if len(parts) > 2 {
		secondary = len(parts[1])
	}
	return primary, secondary
}

// digits writes digits as the language does.
func (c *Conventions) digits(s string) string {
	if c.Digits == "" {
		return s
	}
	own := []rune(c.Digits)
	return strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' {
			return own[r-'0']
		}
		return r
	}, s)
}

// Day is a date in its long form: May 30, 2026.
func (c *Conventions) Day(d expr.Day) string {
	year, month, day := d.Date()
	return c.day(c.OfDay, year, month, day)
}

// MonthDay is a day without its year: May 30.
func (c *Conventions) MonthDay(month, day int) string { return c.day(c.OfMonthDay, 0, month, day) }

// Weekday is the name of a day of the week.
func (c *Conventions) Weekday(d time.Weekday) string { return c.Weekdays[d] }

// Mode is who fills a form in, by the value of the mode.
func (c *Conventions) Mode(mode string) string {
	base, _ := c.tag.Base()
	words := modes[base.String()]
	if words == nil {
		words = modes["en"]
	}
	return words[mode]
}

// modes are who fills a form in.
var modes = map[string]map[string]string{
	"en": {"new": "someone for the first time", "revisit": "someone coming back", "staff": "the office"},
	"es": {"new": "alguien por primera vez", "revisit": "alguien que vuelve", "staff": "la oficina"},
	"ar": {"new": "شخص لأول مرة", "revisit": "شخص عاد إلى رده", "staff": "المكتب"},
	"de": {"new": "jemand zum ersten Mal", "revisit": "jemand, der zurückkommt", "staff": "das Büro"},
	"fr": {"new": "quelqu’un pour la première fois", "revisit": "quelqu’un qui revient", "staff": "le bureau"},
}

// Country is a country by its code of two letters (ISO 3166); what is none stays as it is.
func (c *Conventions) Country(code string) string {
	region, err := language.ParseRegion(code)
	if err != nil || len(code) != 2 || !region.IsCountry() {
		return code
	}
	if names := display.Regions(c.tag); names != nil {
		if name := names.Name(region); name != "" {
			return name
		}
	}
	return code
}

func (c *Conventions) day(pattern string, year, month, day int) string {
	return c.fill(pattern, func(field string) string {
		switch field[0] {
		case 'y':
			return c.digits(strconv.Itoa(year))
		case 'd':
			return c.number(day, len(field))
		case 'M', 'L':
			switch {
			case len(field) < 3:
				return c.number(month, len(field))
			case field[0] == 'L' && c.MonthsAlone != nil:
				return c.MonthsAlone[month-1]
			}
			return c.Months[month-1]
		}
		return "" // an era
	})
}

// Month is the name of a month by itself.
func (c *Conventions) Month(m time.Month) string {
	if c.MonthsAlone != nil {
		return c.MonthsAlone[m-1]
	}
	return c.Months[m-1]
}

// Time is a time of day in its short form: 6:00 PM.
func (c *Conventions) Time(sec int64) string {
	hour, minute := int(sec/3600), int(sec/60%60)
	return c.fill(c.OfTime, func(field string) string {
		switch field[0] {
		case 'H':
			return c.number(hour, len(field))
		case 'h':
			return c.number((hour+11)%12+1, len(field))
		case 'k':
			return c.number((hour+23)%24+1, len(field))
		case 'K':
			return c.number(hour%12, len(field))
		case 'm':
			return c.number(minute, len(field))
		}
		if hour < 12 {
			return c.AM
		}
		return c.PM
	})
}

// Moment is a date in its long form with the time in its short one.
func (c *Conventions) Moment(d expr.Day, sec int64) string {
	day, time := c.Day(d), c.Time(sec)
	return strings.NewReplacer("{1}", day, "{0}", time).Replace(c.fill(c.OfMoment, func(string) string { return "" }))
}

// YesNo is a word of the language.
func (c *Conventions) YesNo(yes bool) string {
	if yes {
		return c.Yes
	}
	return c.No
}

// List joins words: a, b and c.
func (c *Conventions) List(words []string) string {
	join := func(pattern, a, b string) string { return strings.NewReplacer("{0}", a, "{1}", b).Replace(pattern) }
	switch len(words) {
	case 0:
		return ""
	case 1:
		return words[0]
	case 2:
		return join(c.Two, words[0], words[1])
	}
	last := len(words) - 1
	out := join(c.End, words[last-1], words[last])
	for i := last - 2; i > 0; i-- {
		out = join(c.Middle, words[i], out)
	}
	return join(c.Start, words[0], out)
}

// number is n with at least so many digits.
func (c *Conventions) number(n, least int) string {
	s := strconv.Itoa(n)
	return c.digits(strings.Repeat("0", max(0, least-len(s))) + s)
}

// fill replaces the fields of a pattern of CLDR: runs of one letter; what stands between
// apostrophes stands for itself.
func (c *Conventions) fill(pattern string, field func(string) string) string {
	var b strings.Builder
	for i := 0; i < len(pattern); {
		at := pattern[i]
		switch {
		case at == '\'' && strings.HasPrefix(pattern[i:], "''"):
			b.WriteByte('\'')
			i += 2
		case at == '\'':
			end := strings.IndexByte(pattern[i+1:], '\'')
			if end < 0 {
				return b.String() + pattern[i+1:]
			}
			b.WriteString(pattern[i+1 : i+1+end])
			i += end + 2
		case at >= 'a' && at <= 'z', at >= 'A' && at <= 'Z':
			n := 1
			for i+n < len(pattern) && pattern[i+n] == at {
				n++
			}
			b.WriteString(field(pattern[i : i+n]))
			i += n
		default:
			b.WriteByte(at)
			i++
		}
	}
	return strings.TrimSpace(b.String())
}
