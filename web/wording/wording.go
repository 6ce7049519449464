// Package wording has the application's own public words in several languages:
// what buttons, messages and dates say around the texts of a form's author.
//
// Code and templates speak English; a file of each other language maps an English
// phrase to its own. A phrase that a language lacks is said in English. To add a
// language, add its file and its line in known; the tests say what it still lacks.
package wording

import (
	"embed"
	"encoding/json"
	"strings"
	"time"

	"golang.org/x/text/feature/plural"
	"golang.org/x/text/language"
	"golang.org/x/text/language/display"
	"golang.org/x/text/message"

	"lazo/cache"
	"lazo/core/expr"
	"lazo/core/text"
)

//go:embed *.json
var files embed.FS

// Words are the words of one language.
type Words struct {
	Tag     string // as the form names it; the words may be English all the same
	words   language.Tag
	phrases map[string]phrase
	printer *message.Printer
	speech  *text.Conventions // of the language itself, as what is inserted into texts is written
}

// spoken is a language that the application has words in.
type spoken struct {
	tag     language.Tag
	file    string
	phrases map[string]phrase
}

var known = []spoken{
	{tag: language.English, file: "en.json"},
	{tag: language.Spanish, file: "es.json"},
	{tag: language.Arabic, file: "ar.json"},
}

// Languages are the tags of the languages that there are words in.
var Languages = func() []string {
	var out []string
	for _, k := range known {
		out = append(out, k.tag.String())
	}
	return out
}()

var matcher = func() language.Matcher {
	tags := make([]language.Tag, 0, len(known))
	for i := range known {
		tags = append(tags, known[i].tag)
		data, err := files.ReadFile(known[i].file)
		if err == nil {
			err = json.Unmarshal(data, &known[i].phrases)
		}
		if err != nil {
			panic("wording: " + known[i].file + ": " + err.Error()) // it ships with the program
		}
	}
	return language.NewMatcher(tags)
}()

// asked are those that were asked for before; few, since forms name them.
var asked = cache.New(200, func(string, *Words) int { return 1 })

// For returns the words of the language with a tag (BCP 47): those of the nearest
// language that there are words in, English if none is near.
func For(tag string) *Words {
	w, _ := asked.GetOrMake(tag, func() (*Words, error) { return find(tag), nil })
	return w
}

func find(tag string) *Words {
	t, err := language.Parse(tag)
	if err != nil {
		t = language.English
	}
	_, at, sure := matcher.Match(t)
	if sure == language.No {
		at = 0
	}
	k := known[at]
	return &Words{Tag: t.String(), words: k.tag, phrases: k.phrases, printer: message.NewPrinter(k.tag),
		speech: text.Of(t)}
}

// Best picks one of a form's languages, the first of which is its own, for a
// browser's Accept-Language header (RFC 9110).
func Best(languages []string, accept string) string {
	if len(languages) < 2 || accept == "" || len(accept) > 500 {
		return languages[0]
	}
	tags := make([]language.Tag, len(languages))
	for i, l := range languages {
		tags[i] = language.Make(l)
	}
	wanted, _, err := language.ParseAcceptLanguage(accept)
	if err != nil || len(wanted) == 0 {
		return languages[0]
	}
	_, at, _ := language.NewMatcher(tags).Match(wanted...)
	return languages[at]
}

// Speaks reports whether there are words in a language.
func Speaks(tag string) bool {
	_, _, sure := matcher.Match(language.Make(tag))
	return sure >= language.High
}

// OwnName is what speakers of a language call it.
func OwnName(tag string) string {
	name := display.Self.Name(language.Make(tag))
	if name == "" {
		return tag
	}
	return name
}

// Direction is rtl for a language that is written from right to left, else ltr.
func Direction(tag string) string {
	script, _ := language.Make(tag).Script()
	switch script.String() {
	case "Arab", "Hebr", "Thaa", "Syrc", "Nkoo", "Adlm":
		return "rtl"
	}
	return "ltr"
}

// phrase is what a language says for an English phrase: one text, or one for each of its
// plural forms (CLDR, by their names), of which the first number among the arguments
// picks one.
type phrase struct {
	text  string
	forms map[string]string
}

// UnmarshalJSON reads a text, or an object of texts by plural form.
func (p *phrase) UnmarshalJSON(data []byte) error {
	if len(data) > 0 && data[0] == '{' {
		return json.Unmarshal(data, &p.forms)
	}
	return json.Unmarshal(data, &p.text)
}

var pluralNames = map[plural.Form]string{
	plural.Zero: "zero", plural.One: "one", plural.Two: "two", plural.Few: "few", plural.Many: "many",
	plural.Other: "other",
}

// inLanguage is the phrase in the form that the arguments ask for.
func (p phrase) inLanguage(tag language.Tag, args []any) string {
	if p.forms == nil {
		return p.text
	}
	for _, arg := range args {
		if n, ok := arg.(int); ok {
			if text := p.forms[pluralNames[plural.Cardinal.MatchPlural(tag, n, 0, 0, 0, 0)]]; text != "" {
				return text
			}
			break
		}
	}
	return p.forms["other"]
}

// Say says an English phrase. It may hold the verbs of fmt for args; numbers among
// these are written as the language writes them, and the first of them decides whether
// one is spoken of or several.
func (w *Words) Say(phrase string, args ...any) string {
	text := w.phrases[phrase].inLanguage(w.words, args)
	if text == "" {
		text = phrase
	}
	if len(args) == 0 {
		return text
	}
	return w.printer.Sprintf(text, args...)
}

// Day says a date as texts with answers do: 30 May 2026.
func (w *Words) Day(t time.Time) string {
	return w.speech.Day(dayOf(t))
}

// Moment says a date with a time of day.
func (w *Words) Moment(t time.Time) string {
	return w.speech.Moment(dayOf(t), secondsOf(t))
}

// Time says a time of day.
func (w *Words) Time(t time.Time) string { return w.speech.Time(secondsOf(t)) }

// Month is the name of a month.
func (w *Words) Month(m time.Month) string { return w.speech.Month(m) }

func dayOf(t time.Time) expr.Day {
	return expr.ClockAt(t.Unix(), t.Location()).Day()
}

func secondsOf(t time.Time) int64 { return int64(t.Hour()*3600 + t.Minute()*60 + t.Second()) }

// Number writes a plain decimal number, such as -1234.50, with the language's
// signs and digits, without loss.
func (w *Words) Number(plain string) string {
	whole, fraction, hasFraction := strings.Cut(strings.TrimPrefix(plain, "-"), ".")
	sample := []rune(w.printer.Sprintf("%.1f", 1234567.5)) // one, group, …, decimal sign, five
	group, decimal, one := string(sample[1]), string(sample[len(sample)-2]), sample[0]
	digits := func(s string) string {
		return strings.Map(func(c rune) rune {
			if c < '0' || c > '9' {
				return c
			}
			return one - 1 + c - '0'
		}, s)
	}
	var b strings.Builder
	if strings.HasPrefix(plain, "-") {
		b.WriteByte('-')
	}
	for i, c := range whole {
		if i > 0 && (len(whole)-i)%3 == 0 {
			b.WriteString(group)
		}
		b.WriteRune(c)
	}
	if hasFraction {
		b.WriteString(decimal + fraction)
	}
	return digits(b.String())
}
