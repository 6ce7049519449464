package e2e

import (
	"context"
	"fmt"
	"net/url"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/view"
	"lazo/store"
	"lazo/web/e2e/browser"
)

// typed is a form with a question of each type, in a section that repeats too, and a
// condition about one of them at each place where a sentence can be changed.
func typed(key, language string) *form.Form {
	one := func(prefix string) string {
		var items []string
		for _, row := range form.Types() {
			more := ""
			if row.Type.Picks() || row.Type == form.Grid {
				more = `, "choices": [{"value": "teal", "label": "Teal Rowers"}, {"value": "heron", "label": "Heron Club"}, {"value": "none", "label": "No club"}]`
			}
			switch row.Type {
			case form.Grid:
				more += `, "rows": [{"key": "sat", "label": "Saturday"}]`
			case form.Note:
				continue
			case form.Hidden:
				more = `, "value": {"is": "url.club"}`
			case form.Calculation:
				more = `, "value": {"is": "1 + 1"}`
			}
			items = append(items, fmt.Sprintf(`{"key": "%s_%s", "type": "%s", "label": "%s %s"%s}`, prefix, row.Type, row.Type,
				strings.ToUpper(prefix), row.Words, more))
		}
		return strings.Join(items, ",")
	}
	const begun = `q_text is answered`
	src := `{"lazo": 1, "key": "` + key + `", "title": "` + key + `", "timezone": "UTC", "language": "` + language + `",
	 "parameters": [{"name": "club", "label": "Partner"}], "opening": {"shown": "url.club is answered"},
	 "lists": {"piers": [{"code": "n1", "name": "North", "depth": 3, "lit": true}]},
	 "messages": [{"key": "m", "name": "M", "when": "` + begun + `", "to": ["a@pedralta.example"], "subject": "S", "body": "B"}],
	 "hooks": [{"key": "h", "url": "https://desk.example/h", "when": "` + begun + `"}], "ends": [{"when": "` + begun + `", "text": "E"}],
	 "pages": [{"key": "p", "next": [{"when": "` + begun + `", "page": "z"}], "sections": [{"key": "s", "items": [` + one("q") + `]},
	  {"key": "crew", "title": "Crew", "repeat": {"max": 3, "name": "Crew"}, "items": [` + one("r") + `,
	   {"key": "row_target", "type": "text", "label": "Row target", "shown": "r_text is answered"}]},
	  {"key": "t", "checks": [{"ok": "` + begun + `", "message": "m"}], "items": [
	   {"key": "target", "type": "text", "label": "Target", "shown": "` + begun + `", "required": "any(crew, r_text is answered)",
	    "checks": [{"ok": "` + begun + `", "message": "m"}], "wording": [{"when": "` + begun + `", "label": "W"}]},
	   {"key": "marked", "type": "text", "label": "Marked"},
	   {"key": "valued", "type": "text", "label": "Valued", "value": {"starts": "if(` + begun + `, \"a\", \"b\")"}},
	   {"key": "drawn", "type": "choice", "label": "Drawn", "choices_from": {"list": "piers", "value": "code", "label": "name", "where": "` + begun + `"}},
	   {"key": "picked", "type": "choice", "label": "Picked", "choices": [{"value": "a", "label": "Aft"}, {"value": "b", "label": "Bow", "offered": "` + begun + `"}],
	    "offered": "` + begun + `"}]}]},
	  {"key": "z", "sections": [{"key": "zz", "items": [{"key": "word", "type": "text", "label": "Word"}]}]}]}`
	def, remarks := form.Read([]byte(src))
	if def == nil || len(form.Errors(remarks)) > 0 {
		panic(fmt.Sprint(remarks))
	}
	return def
}

// seat is a place where a sentence can be changed by hand.
type seat struct {
	name            string
	at              string // where it is opened, below the form
	id              string // what the ids of its fields begin with
	owner, property string
	around          string // what the clause stands in, in what is stored
	subjects        func(def *form.Form, syms *expr.Symbols) []expr.Subject
}

// seats are all of them; the bar for marked questions and views have fields of their own.
var seats = []seat{
	{name: "margin", at: "?at=target", id: "shown-0", owner: "target", property: "shown"},
	{name: "check", at: "?at=target", id: "checks-0-ok-0", owner: "target", property: "checks.0.ok"},
	{name: "wording", at: "?at=target", id: "wording-0-when-0", owner: "target", property: "wording.0.when"},
	{name: "rows of a section", at: "?at=target", id: "required-0", owner: "target", property: "required",
		around: "any(crew, %s)"},
	{name: "within a row", at: "?at=row_target", id: "shown-0", owner: "row_target", property: "shown"},
	{name: "case of a value", at: "?at=valued", id: "value-cases-0-when-0", owner: "valued",
		property: "value.cases.0.when"},
	{name: "narrowing a list", at: "?at=drawn", id: "choices_from-where-0", owner: "drawn",
		property: "choices_from.where"},
	{name: "choices offered", at: "?at=picked", id: "offered-0", owner: "picked", property: "offered"},
	{name: "one choice offered", at: "?at=picked", id: "choices-1-offered-0", owner: "picked",
		property: "choices.1.offered"},
	{name: "check of a section", at: "?at=t", id: "checks-0-ok-0", owner: "t", property: "checks.0.ok"},
	{name: "route", at: "?at=p", id: "next-0-when-0", owner: "p", property: "next.0.when"},
	{name: "e-mail", at: "?at=letter-m", id: "messages-0-when-0", property: "messages.0.when"},
	{name: "hook", at: "?at=hook-h", id: "hooks-0-when-0", property: "hooks.0.when"},
	{name: "opening", at: "/public/opening?pressed=who", id: "opening-shown-0", property: form.OpenWhen,
		subjects: author.Arriving},
	{name: "closing text", at: "/public/ends?shows=0", id: "ends-0-when-0", property: "ends.0.when"},
	{name: "marked questions", id: "many", owner: "marked", property: "shown"},
	{name: "view", id: "clause0"},
}

// written are the values that are typed, by the kind of what they are compared with: as
// they are stored, and as people of a language type them.
func written(subject expr.Subject, op expr.Operator) []string {
	if op.Of == expr.Num {
		return []string{"7"}
	}
	pair := map[expr.Kind][]string{
		expr.Num: {"2.5", "12"}, expr.Date: {"2026-05-30", "2026-06-01"}, expr.Time: {"09:05", "18:30"},
		expr.Moment: {"2026-05-30T09:05", "2026-06-01T18:30"},
	}[subject.Type.Kind]
	if o := subject.Type.Options; o != nil {
		pair = o.Values[max(0, len(o.Values)-2):]
	}
	if pair == nil {
		pair = []string{"Ab1", "x"}
	}
	n := op.Operands
	if n == expr.Many {
		n = min(2, len(pair))
	}
	return pair[:n]
}

// typist sets conditions in a browser of a language.
type typist struct {
	*visitor
	lang string
	id   store.FormID
	ws   store.WorkspaceID
	def  *form.Form
	last expr.Clause // what was set before
}

// opens brings the place into the browser.
func (p *typist) opens(s seat) {
	p.t.Helper()
	base := fmt.Sprintf("/forms/%d", p.id)
	switch s.name {
	case "marked questions":
		p.open(base)
		p.click("#row-marked .mark-box")
	case "view":
		p.open(base + "/responses?edit=1&when=" + url.QueryEscape("q_text is answered"))
	default:
		p.open(base + s.at)
	}
	p.do(chromedp.WaitVisible("#" + p.field(s, "key")))
}

// field is the id of a field of the place's clause.
func (p *typist) field(s seat, name string) string {
	if s.name != "view" || strings.HasPrefix(name, "v") || strings.HasPrefix(name, "o0") {
		return s.id + "-" + name
	}
	return name + "0"
}

// stored is the condition as it is stored now.
func (p *typist) stored(s seat) string {
	p.t.Helper()
	if s.name == "view" {
		return js[string](p.visitor, `new URLSearchParams(location.search).get("when") ?? ""`)
	}
	f, err := p.store.InWorkspace(p.ws).Form(p.id).Get(context.Background())
	require.NoError(p.t, err)
	def, err := f.Definition()
	require.NoError(p.t, err)
	return def.Expr(s.owner, s.property)
}

// becomes waits until what is stored is what was meant.
func (p *typist) becomes(s seat, want string) bool {
	p.t.Helper()
	if s.around != "" {
		want = fmt.Sprintf(s.around, want)
	}
	got := ""
	for end := time.Now().Add(4 * time.Second); time.Now().Before(end); time.Sleep(15 * time.Millisecond) {
		if got = p.stored(s); got == want {
			return true
		}
	}
	return assert.Equal(p.t, want, got,
		js[string](p.visitor, `document.querySelector("#notices, .notice")?.innerText ?? ""`))
}

// sets makes a clause about a subject with an operator, key by key, and looks at what is
// stored on the way: with the subject, with the operator, with each value.
func (p *typist) sets(s seat, syms *expr.Symbols, subject expr.Subject, op expr.Operator) bool {
	p.t.Helper()
	loose := s.name == "marked questions"
	clause := expr.Clause{Key: subject.Key, Op: op.ID}
	if p.last.Key == subject.Key && !loose { // then what fits stays
		clause.Values = syms.KeptOperands(subject.Type, op, p.last.Values)
	}
	defer func() { p.last = clause }()
	text := func() string {
		n, err := syms.ClauseNode(clause)
		require.NoError(p.t, err, clause)
		return n.String()
	}
	key, menu := "#"+p.field(s, "key"), "#"+p.field(s, "op")
	switch {
	case p.last.Key == subject.Key && !loose: // it is about that already
	case s.name == "view":
		p.choose(key, subject.Key)
	default:
		p.into(key)
		p.keys(subject.Label + kb.Tab)
	}
	offers := fmt.Sprintf(`[...(document.querySelector(%q)?.options ?? [])].map((o) => o.value).join() === %q`, menu,
		ids(subject.Type.Operators()))
	word := subject.Label
	if s.name == "view" {
		word = subject.Key
	}
	said := fmt.Sprintf(`document.querySelector(%q).value.toLowerCase() === %q`, key, strings.ToLower(word))
	if !p.comes(offers) || !p.comes(said) {
		return false
	}
	p.choose(menu, op.ID)
	if !p.comes(fmt.Sprintf(`document.querySelector(%q).value === %q && %s`, menu, op.ID, p.waitsFor(s, subject, op))) {
		return false
	}
	if !loose && !p.becomes(s, text()) {
		return false
	}
	for i, value := range written(subject, op) {
		switch {
		case op.Operands != expr.Many:
			before := clause.Values[:min(i, len(clause.Values))]
			after := clause.Values[min(i+1, len(clause.Values)):]
			clause.Values = slices.Concat(before, []string{value}, after)
		case slices.Contains(clause.Values, value):
			continue
		default:
			clause.Values = append(clause.Values, value)
		}
		if !p.comes(`!document.querySelector(".htmx-request") && ` + p.waitsFor(s, subject, op)) { // stored is not yet shown
			return false
		}
		p.gives(s, subject, op, i, value)
		if !loose && !p.becomes(s, text()) {
			return false
		}
	}
	if loose {
		p.click("#tie-many")
		return p.becomes(s, text())
	}
	return true
}

// comes waits for a script to become true.
func (p *typist) comes(script string) bool {
	p.t.Helper()
	for end := time.Now().Add(4 * time.Second); time.Now().Before(end); time.Sleep(15 * time.Millisecond) {
		if js[bool](p.visitor, "Boolean("+script+")") {
			return true
		}
	}
	return assert.Fail(p.t, "it did not come about", script)
}

// ofTheClock are fields for dates and times: those of the subject before have the same
// operators as numbers, and stand until the answer comes.
const ofTheClock = "[type=date], [type=time], [type=datetime-local]"

func clocked(subject expr.Subject) bool {
	return slices.Contains([]expr.Kind{expr.Date, expr.Time, expr.Moment}, subject.Type.Kind)
}

// waitsFor is that the fields of an operator are there, of the kind that the subject is of.
func (p *typist) waitsFor(s seat, subject expr.Subject, op expr.Operator) string {
	switch {
	case op.Operands == expr.Many && subject.Type.Options != nil:
		return fmt.Sprintf(`document.getElementById(%q)`, p.field(s, "o0"))
	case op.Operands > 0:
		last := p.field(s, fmt.Sprint("v", op.Operands-1))
		return fmt.Sprintf(`document.getElementById(%q) && !document.getElementById(%q) && document.getElementById(%q).matches(%q) === %v`,
			last, p.field(s, fmt.Sprint("v", op.Operands)), last, ofTheClock, op.Of != expr.Num && clocked(subject))
	}
	return fmt.Sprintf(`!document.getElementById(%q) && !document.getElementById(%q)`, p.field(s, "v0"), p.field(s, "o0"))
}

// gives types or picks one value.
func (p *typist) gives(s seat, subject expr.Subject, op expr.Operator, i int, value string) {
	p.t.Helper()
	field := "#" + p.field(s, fmt.Sprint("v", i))
	switch {
	case op.Of == expr.Num:
		p.write(field, value+kb.Tab)
	case op.Operands == expr.Many && subject.Type.Options != nil:
		at, _ := subject.Type.Options.Find(value)
		p.click("#" + s.id + fmt.Sprint("-o", at))
	case subject.Type.Options != nil:
		p.choose(field, value)
	case clocked(subject):
		p.date(field, value)
	case subject.Type.Kind == expr.Num && p.lang != "en":
		p.write(field, strings.Replace(value, ".", ",", 1)+kb.Tab)
	default:
		p.write(field, value+kb.Tab)
	}
}

func ids(ops []expr.Operator) string {
	var out []string
	for _, op := range ops {
		out = append(out, op.ID)
	}
	return strings.Join(out, ",")
}

// Every operator with every type of subject can be set by hand, wherever a sentence can be
// changed, in browsers of three languages. An ordinary run sets a part of all, other ones in
// each place and language; LAZO_SOAK sets all of it.
func TestEveryConditionCanBeSetByHand(t *testing.T) {
	subjectsEvery, opsEvery := 24, 2
	if os.Getenv("LAZO_SOAK") != "" {
		subjectsEvery, opsEvery = 1, 1
	}
	for number, lang := range []string{"en", "es", "de"} {
		t.Run(lang, func(t *testing.T) {
			t.Parallel()
			p := newTypist(t, lang)
			set := 0
			for place, s := range seats {
				if only := os.Getenv("LAZO_PLACE"); only != "" && s.name != only {
					continue
				}
				set += p.all(s, func(subject, op int) bool {
					return (subject+place*2+number*7)%subjectsEvery == 0 && (subject+op+place+number)%opsEvery == 0
				})
			}
			t.Logf("%d conditions", set)
		})
	}
}

// all sets the conditions of a place that are due, by the numbers of their subject and their
// operator, until one fails; it returns how many.
func (p *typist) all(s seat, due func(subject, op int) bool) (set int) {
	p.t.Helper()
	syms, subjects := p.scope(s)
	p.last = expr.Clause{}
	for i, subject := range subjects {
		for j, op := range subject.Type.Operators() {
			if !due(i, j) {
				continue
			}
			if p.last.Key == "" || s.name == "marked questions" {
				p.opens(s)
			}
			set++
			if !p.sets(s, syms, subject, op) {
				p.t.Errorf("%s: %s %s (%s)", s.name, subject.Label, op.Words, p.lang)
				return set
			}
		}
	}
	return set
}

// scope are the symbols of a place, and what a condition there can be about.
func (p *typist) scope(s seat) (*expr.Symbols, []expr.Subject) {
	syms := p.def.Scope(s.owner, s.property)
	if s.around != "" {
		syms = syms.InRow(syms.Groups["crew"])
	}
	if s.name == "view" {
		program, _ := engine.Compile(p.def)
		syms = view.NewLens(program, nil, nil).Syms
	}
	if s.subjects != nil {
		return syms, s.subjects(p.def, syms)
	}
	subjects := author.Subjects(p.def, syms, "")
	// no question depends on itself
	return syms, slices.DeleteFunc(subjects, func(about expr.Subject) bool { return about.Key == s.owner })
}

func newTypist(t *testing.T, lang string) *typist {
	t.Helper()
	tab, stop := browser.In(context.Background(), lang, 1280, 900)
	t.Cleanup(stop)
	ctx, cancel := context.WithTimeout(tab, 6*time.Hour)
	t.Cleanup(cancel)
	own := *shared
	own.tab = tab
	p := &typist{visitor: &visitor{&own, t, ctx}, lang: lang, def: typed("typed-"+lang, lang)}
	in, m := p.office()
	f, err := in.CreateForm(context.Background(), p.def)
	require.NoError(t, err)
	_, err = in.Form(f.ID).Publish(context.Background(), f.DraftVersion, m.ID)
	require.NoError(t, err)
	p.id, p.ws = f.ID, f.WorkspaceID
	p.signIn()
	require.Equal(t, lang, p.language())
	return p
}
