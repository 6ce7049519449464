package engine

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"lazo/core/expr"
	"lazo/core/form"
)

// Because explains one effect on an item.
type Because struct {
	Effect string       // shown, rows, required, locked, value, choices, check or wording
	Holds  bool         // whether the effect holds
	Truth  expr.Truth   // of the deciding condition
	Says   string       // the result in plain words: "Cox’s name is not shown"
	Reason *expr.Reason // of the deciding condition, if there is one
	Facts  []expr.Fact  // what a value was computed from
}

// FactsText says the facts in one line.
func (b Because) FactsText() string { return expr.FactsText(b.Facts) }

// Told says in half a sentence what decided, such as "Length in metres is 14": the facts of
// all that was met, or else of all that was not.
func (b Because) Told() string {
	if b.Reason == nil {
		return ""
	}
	var parts []string
	var walk func(r *expr.Reason)
	walk = func(r *expr.Reason) {
		switch {
		case (r.Truth == expr.Met) != (b.Truth == expr.Met):
		case len(r.Kids) > 0:
			for i := range r.Kids {
				walk(&r.Kids[i])
			}
		default:
			said := r.Says
			if len(r.Facts) > 0 {
				said = expr.FactsText(r.Facts)
			}
			if !slices.Contains(parts, said) {
				parts = append(parts, said)
			}
		}
	}
	walk(b.Reason)
	return strings.Join(parts, ", ")
}

// Why explains every effect on the item, section or page with that key that is
// not simply the usual one; whether it is shown is always explained. Row counts
// from 0 in a repeating section. It is nil if there is no such key.
func (o *Outcome) Why(key string, row int) []Because {
	if it := o.p.lookup[key]; it != nil {
		return o.whyItem(it, row)
	}
	for i := range o.p.sections {
		if sec := &o.p.sections[i]; sec.Key == key {
			out := append([]Because{o.whySection(i)}, o.whyRows(i)...)
			if o.Sections[i] {
				out = append(out, o.whyChecks(sec.checks, sec.group, sec.Name())...)
			}
			return out
		}
	}
	for i := range o.p.pages {
		if o.p.pages[i].Key == key {
			out := []Because{o.whyPage(i)}
			if o.onRoute[i] {
				out = append(out, o.whyChecks(o.p.pages[i].checks, -1, o.p.Form.PageName(i))...)
			}
			return out
		}
	}
	return nil
}

func (o *Outcome) because(effect string, holds bool, says string, code *expr.Code, scope *expr.Symbols) Because {
	b := Because{Effect: effect, Holds: holds, Truth: expr.NotMet, Says: says}
	if holds {
		b.Truth = expr.Met
	}
	if code != nil {
		b.Truth = code.Truth(&o.frame)
		reason := code.Why(&o.frame, scope)
		b.Reason = &reason
	}
	return b
}

// whyChecks says which checks of a section or page are not met, in which of its rows.
func (o *Outcome) whyChecks(checks []check, group int, name string) []Because {
	var out []Because
	scope, rows := o.p.Symbols, 1
	if group >= 0 {
		scope, rows = scope.InRow(o.p.groups[group].symbol), o.frame.Groups[group].Count
	}
	for row := range rows {
		for _, ch := range checks {
			where := name
			if group >= 0 {
				o.frame.Groups[group].Row = row
				where = fmt.Sprintf("row %d of %s", row+1, name)
			}
			if ch.code.Truth(&o.frame) == expr.NotMet {
				out = append(out, o.because("check", false, where+" is not accepted: "+sentence(ch.message), ch.code, scope))
			}
		}
	}
	if group >= 0 {
		o.frame.Groups[group].Row = 0
	}
	return out
}

func (o *Outcome) whyPage(i int) Because {
	pg := &o.p.pages[i]
	name := o.p.Form.PageName(i)
	switch {
	case o.onRoute[i] && pg.shown.fixed && i == 0:
		return o.because("shown", true, name+" is on the route: every filling begins with it", nil, nil)
	case o.onRoute[i] && pg.shown.fixed:
		return o.because("shown", true, name+" is on the route: it is always shown, and nothing before leads past it", nil,
			nil)
	case o.onRoute[i]:
		return o.because("shown", true, name+" is on the route", pg.shown.code, o.p.Symbols)
	case pg.shown.fixed && !pg.shown.yes:
		return o.because("shown", false, name+" is never shown", nil, nil)
	case !pg.shown.fixed && pg.shown.code.Truth(&o.frame) != expr.Met:
		return o.because("shown", false, name+" is not on the route", pg.shown.code, o.p.Symbols)
	}
	// Jumped over: the page before it that leads past it says why.
	for j := i - 1; j >= 0; j-- {
		if !o.onRoute[j] {
			continue
		}
		for _, n := range o.p.pages[j].next {
			if n.code.Truth(&o.frame) == expr.Met && n.page > i {
				return o.because(
					"shown", false,
					fmt.Sprintf("%s is passed over: after %s comes %s", name, o.p.Form.PageName(j), o.p.Form.PageName(n.page)), n.code,
					o.p.Symbols,
				)
			}
		}
	}
	return o.because("shown", false, name+" is not on the route", nil, nil)
}

func (o *Outcome) whySection(i int) Because {
	sec := &o.p.sections[i]
	switch {
	case !o.onRoute[sec.page]:
		b := o.whyPage(sec.page)
		b.Says = fmt.Sprintf("%s is not shown, because its page is not: %s", sec.Name(), b.Says)
		return b
	case sec.shown.fixed && o.Sections[i]:
		return o.because("shown", true, sec.Name()+" is always shown", nil, nil)
	case sec.shown.fixed:
		return o.because("shown", false, sec.Name()+" is never shown", nil, nil)
	case o.Sections[i]:
		return o.because("shown", true, sec.Name()+" is shown", sec.shown.code, o.p.Symbols)
	}
	return o.because("shown", false, sec.Name()+" is not shown", sec.shown.code, o.p.Symbols)
}

func (o *Outcome) whyItem(it *item, row int) []Because {
	scope := o.p.Symbols
	var st *ItemState
	if it.group >= 0 {
		g := &o.frame.Groups[it.group]
		if row < 0 || row >= g.Count {
			b := o.whySection(int(it.section))
			if o.Sections[it.section] {
				b = Because{
					Effect: "shown", Truth: expr.NotMet,
					Says: fmt.Sprintf("%s has %s, so there is no row %d of %s", o.p.sections[it.section].Name(), rowsWords(g.Count),
						row+1, it.Name()),
				}
			} else {
				b.Says = fmt.Sprintf("%s is not shown, because its section is not: %s", it.Name(), b.Says)
			}
			return []Because{b}
		}
		g.Row = row
		defer func() { g.Row = 0 }()
		scope = scope.InRow(o.p.groups[it.group].symbol)
		st = &o.Rows[it.group].Row(row)[it.index]
	} else {
		st = &o.Items[it.index]
	}
	out := []Because{o.whyShown(it, st, scope)}
	if st.kept && !o.valueOf(st, row).IsBlank() {
		out = append(
			out,
			o.because("value", true, "its answer is kept although it is not shown: "+o.sayValue(it, o.valueOf(st, row)), nil,
				nil),
		)
	}
	if !st.part {
		return out
	}
	out = append(out, o.whyRules(it, st, scope)...)
	out = append(out, o.whyValue(it, st, row, scope)...)
	return append(out, o.whyRest(it, st, row, scope)...)
}

func (o *Outcome) whyShown(it *item, st *ItemState, scope *expr.Symbols) Because {
	name := it.Name()
	switch {
	case it.Parked:
		return o.because("shown", false, name+" is parked: it takes no part", nil, nil)
	case !o.Sections[it.section]:
		b := o.whySection(int(it.section))
		b.Says = fmt.Sprintf("%s is not shown, because its section is not: %s", name, b.Says)
		return b
	case st.part && !st.Shown:
		return o.because("shown", false, name+" is seen by the workspace only", nil, nil)
	case it.shown.fixed && it.shown.yes:
		return o.because("shown", true, name+" is always shown", nil, nil)
	case it.shown.fixed:
		return o.because("shown", false, name+" is never shown", nil, nil)
	case st.Shown:
		return o.because("shown", true, name+" is shown", it.shown.code, scope)
	}
	return o.because("shown", false, name+" is not shown", it.shown.code, scope)
}

func (o *Outcome) whyRules(it *item, st *ItemState, scope *expr.Symbols) []Because {
	var out []Because
	word := map[bool]string{true: "is ", false: "is not "}
	if !it.required.fixed || it.required.yes {
		if !st.Required && o.met(it.required) {
			says := "an answer is not demanded again: it was given when the response was received, and is never kept"
			out = append(out, o.because("required", false, says, nil, nil))
		} else {
			out = append(out, o.because("required", st.Required, "an answer "+word[st.Required]+"required", it.required.code,
				scope))
		}
	}
	if !it.locked.fixed || it.locked.yes {
		locked := o.met(it.locked)
		out = append(out, o.because("locked", locked, "it "+word[locked]+"locked", it.locked.code, scope))
	}
	return out
}

func (o *Outcome) met(ru rule) bool {
	if ru.fixed {
		return ru.yes
	}
	return ru.code.Truth(&o.frame) == expr.Met
}

// sayValue says an answer in plain words.
func (o *Outcome) sayValue(it *item, v *expr.Value) string {
	if v.IsBlank() {
		return "nothing"
	}
	return it.symbol.Type.Say(v, &o.frame)
}

// rowsWords says a number of rows.
func rowsWords(n int) string {
	switch n {
	case 0:
		return "no rows"
	case 1:
		return "1 row"
	}
	return fmt.Sprintf("%d rows", n)
}

// whyRows explains why a repeating section has as many rows as it has.
func (o *Outcome) whyRows(i int) []Because {
	sec := &o.p.sections[i]
	if sec.group < 0 || !o.Sections[i] {
		return nil
	}
	g, state := &o.p.groups[sec.group], &o.Rows[sec.group]
	says := sec.Name() + " has " + rowsWords(state.Count)
	b := Because{Effect: "rows", Holds: true, Truth: expr.Met}
	switch {
	case len(state.Problems) > 0:
		says += ", the most that it can have; more were asked for"
	case g.rows != nil:
		says += ", from " + expr.PiecesText(o.p.Symbols.Phrase(g.rows.Node))
		if v := g.rows.Value(&o.frame); v.IsBlank() {
			says += ", which is blank: the least is taken"
		} else if state.Count == sec.Repeat.Min {
			says += "; it has no fewer"
		}
	case state.Count == sec.Repeat.Min:
		says += ", the least that it can have"
	default:
		says += ", as many as were added"
	}
	if g.rows != nil {
		b.Facts = g.rows.Facts(&o.frame)
	}
	b.Says = says
	return []Because{b}
}

// whyKept explains the value of an item that is locked, or that the respondent can
// not see to fill, where no tie gives one.
func (o *Outcome) whyKept(it *item, st *ItemState, v *expr.Value) []Because {
	switch {
	case !st.closed || st.automatic:
		return nil
	case v.IsBlank():
		return []Because{o.because("value", false, "it can’t be filled here and has no value", nil, nil)}
	}
	return []Because{o.because("value", true,
		"it can’t be filled here and keeps what the response has: "+o.sayValue(it, v), nil, nil)}
}

func (o *Outcome) whyValue(it *item, st *ItemState, row int, scope *expr.Symbols) []Because {
	v := o.valueOf(st, row)
	if it.value == nil || it.property != "is" && st.closed && !st.automatic {
		return o.whyKept(it, st, v)
	}
	var when *expr.Code
	if it.when != nil {
		when = it.when.code
	}
	says := expr.PiecesText(scope.Phrase(it.value.Node))
	var b Because
	switch {
	case st.touched && st.emptied:
		b = o.because("value", false, "the respondent emptied it, and it stays empty; by itself it would be "+says, when,
			scope)
	case st.touched:
		b = o.because("value", false, "the respondent’s own answer stands; by itself it would be "+says, when, scope)
	case it.once && !st.automatic:
		b = o.because("value", true, "it was decided when the response was received, and is kept: "+o.sayValue(it, v), nil,
			nil)
	case !st.automatic:
		b = o.because("value", false, "no value comes by itself", when, scope)
	case v.IsBlank() && it.value.Type.Kind != expr.YesNo:
		b = o.because("value", true, "it is "+says+", which is blank", when, scope)
	case it.value.Type.Kind == expr.YesNo:
		b = o.because("value", true, "it tells whether "+says+": "+o.sayValue(it, v), when, scope)
	case says == o.sayValue(it, v):
		b = o.because("value", true, "it is "+says, when, scope)
	default:
		b = o.because("value", true, "it is "+says+": "+o.sayValue(it, v), when, scope)
	}
	b.Facts = it.value.Facts(&o.frame)
	return []Because{b}
}

// whyChoices explains each choice that is not on offer, and each that is although
// its conditions say otherwise.
func (o *Outcome) whyChoices(it *item, st *ItemState, scope *expr.Symbols) []Because {
	if it.options == nil || !it.offers || !st.Shown {
		return nil
	}
	var out []Because
	candidate := scope.WithCandidate(expr.Type{Kind: expr.Choice, Options: it.options})
	defer func() { o.frame.Candidate, o.frame.Entry = expr.Value{}, nil }()
	for i, value := range it.all {
		o.frame.Candidate, o.frame.Entry = expr.ChoiceValue(value), it.entry(i)
		label := it.options.Labels[i]
		kept := slices.Contains(st.more().offered, value)
		tell := func(ru rule, wanted bool, says string, syms *expr.Symbols) {
			if o.met(ru) == wanted {
				return
			}
			if kept {
				says = "stays on offer here, since the response has it already"
			}
			out = append(out, o.because("choices", kept, label+" "+says, ru.code, syms))
		}
		if o.frame.Entry != nil {
			tell(rule{condition: *it.where}, true, "is not offered", scope.WithEntry(o.p.columns[it.ChoicesFrom.List], false))
		}
		if slices.Contains(st.Full(), value) {
			out = append(out, o.because("choices", false, label+" is full", nil, nil))
		}
		tell(it.offered, true, "is not offered", candidate)
		tell(it.withheld, false, "is withheld", candidate)
		if i < len(it.choices) {
			tell(it.choices[i].offered, true, "is not offered", candidate)
			tell(it.choices[i].withheld, false, "is withheld", candidate)
		}
	}
	for _, value := range st.more().aside {
		label := value
		if i, ok := it.options.Find(value); ok {
			label = it.options.Labels[i]
		}
		out = append(out, o.because("choices", false, label+" was picked and is set aside, since it is not on offer", nil,
			nil))
	}
	return out
}

// whyProblems explains what is wrong with the answer itself.
func (o *Outcome) whyProblems(it *item, st *ItemState, row int) []Because {
	var out []Because
	if st.unmatched && (it.Type.Picks() || it.Type == form.Grid) {
		out = append(out, o.because("choices", false, "something was sent that is none of the choices; it is left out", nil,
			nil))
	}
	for _, p := range st.Problems() {
		if p.Code == Refused {
			continue // told with its condition
		}
		b := o.because("check", false, "the answer is not accepted: "+sentence(p.String()), nil, nil)
		if v := o.valueOf(st, row); !v.IsBlank() {
			b.Facts = []expr.Fact{{Label: it.Name(), Value: it.symbol.Type.SayFact(v, &o.frame)}}
			if v.Kind() == expr.Choices {
				b.Facts = append(b.Facts, expr.Fact{Label: "the number of picks", Value: fmt.Sprint(len(v.Picks()))})
			} else if p.Code == TooShort || p.Code == TooLong {
				b.Facts = append(b.Facts, expr.Fact{Label: "its length", Value: fmt.Sprint(expr.Length(v.Text()))})
			}
		}
		out = append(out, b)
	}
	return out
}

// sentence is a message as the end of another sentence: without its full stop.
func sentence(message string) string { return strings.TrimSuffix(strings.TrimSpace(message), ".") }

func (o *Outcome) whyRest(it *item, st *ItemState, row int, scope *expr.Symbols) []Because {
	out := append(o.whyChoices(it, st, scope), o.whyProblems(it, st, row)...)
	for _, ch := range it.checks {
		if t := ch.code.Truth(&o.frame); t == expr.NotMet {
			out = append(out, o.because("check", false, "the answer is not accepted: "+sentence(ch.message), ch.code, scope))
		}
	}
	if st.wording > 0 {
		out = append(out, o.because("wording", true, "it is worded “"+st.Label()+"”", it.wording[st.wording-1].code, scope))
	}
	return out
}

// Lines renders the explanation as plain text, the reason indented below.
func (b Because) Lines() []string {
	first, size := utf8.DecodeRuneInString(b.Says)
	line := strings.ToUpper(string(first)) + b.Says[size:]
	if len(b.Facts) > 0 {
		line += " (" + expr.FactsText(b.Facts) + ")"
	}
	if b.Reason == nil {
		return []string{line + "."}
	}
	out := []string{line + ":"}
	for _, l := range b.Reason.Lines() {
		out = append(out, "  "+l)
	}
	return out
}
