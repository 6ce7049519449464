package engine

import (
	"fmt"
	"strings"

	"lazo/core/expr"
)

// Because explains one effect on an item.
type Because struct {
	Effect string       // shown, required, locked, value, choices, check or wording
	Holds  bool         // whether the effect holds
	Truth  expr.Truth   // of the deciding condition
	Says   string       // the result in plain words: "Cox’s name is not shown"
	Reason *expr.Reason // of the deciding condition, if there is one
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
			return []Because{o.whySection(i)}
		}
	}
	for i := range o.p.pages {
		if o.p.pages[i].Key == key {
			return []Because{o.whyPage(i)}
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

func (o *Outcome) whyPage(i int) Because {
	pg := &o.p.pages[i]
	name := pg.Name()
	switch {
	case o.onRoute[i] && pg.shown.fixed:
		return o.because("shown", true, name+" is on the route", nil, nil)
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
				return o.because("shown", false, fmt.Sprintf("%s is passed over: after %s comes %s", name, o.p.pages[j].Name(), o.p.pages[n.page].Name()), n.code, o.p.Symbols)
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
				b = Because{Effect: "shown", Truth: expr.NotMet, Says: fmt.Sprintf("%s has %d rows, so there is no row %d of %s", o.p.sections[it.section].Name(), g.Count, row+1, it.Name())}
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
	if !st.part {
		return out
	}
	out = append(out, o.whyRules(it, st, scope)...)
	out = append(out, o.whyValue(it, st, row, scope)...)
	return append(out, o.whyRest(it, st, scope)...)
}

func (o *Outcome) whyShown(it *item, st *ItemState, scope *expr.Symbols) Because {
	name := st.Label()
	if name == "" {
		name = it.Key
	}
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
		out = append(out, o.because("required", st.Required, "an answer "+word[st.Required]+"required", it.required.code, scope))
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

func (o *Outcome) whyValue(it *item, st *ItemState, row int, scope *expr.Symbols) []Because {
	if it.value == nil {
		return nil
	}
	v := o.valueOf(st, row)
	var when *expr.Code
	if it.when != nil {
		when = it.when.code
	}
	says := expr.PiecesText(scope.Phrase(it.value.Node))
	switch {
	case st.touched:
		return []Because{o.because("value", false, "the respondent’s own answer stands; by itself it would be "+says, when, scope)}
	case !st.automatic:
		return []Because{o.because("value", false, "no value comes by itself", when, scope)}
	case v.IsBlank():
		return []Because{o.because("value", true, "it is "+says+", which is blank", when, scope)}
	}
	return []Because{o.because("value", true, "it is "+says+": "+it.symbol.Type.Say(v, &o.frame), when, scope)}
}

func (o *Outcome) whyRest(it *item, st *ItemState, scope *expr.Symbols) []Because {
	var out []Because
	if it.options != nil && it.offers {
		scope := scope.WithCandidate(expr.Type{Kind: expr.Choice, Options: it.options})
		for i, value := range it.all {
			o.frame.Candidate = expr.ChoiceValue(value)
			label := it.options.Labels[i]
			rules := []rule{it.offered}
			withheld := []rule{it.withheld}
			if i < len(it.choices) {
				rules = append(rules, it.choices[i].offered)
				withheld = append(withheld, it.choices[i].withheld)
			}
			for _, ru := range rules {
				if !ru.fixed && !o.met(ru) {
					out = append(out, o.because("choices", false, label+" is not offered", ru.code, scope))
				}
			}
			for _, ru := range withheld {
				if !ru.fixed && o.met(ru) {
					out = append(out, o.because("choices", false, label+" is withheld", ru.code, scope))
				}
			}
		}
		o.frame.Candidate = expr.Value{}
	}
	for _, ch := range it.checks {
		if t := ch.code.Truth(&o.frame); t == expr.NotMet {
			out = append(out, o.because("check", false, "the answer is not accepted: "+ch.message, ch.code, scope))
		}
	}
	if st.wording > 0 {
		out = append(out, o.because("wording", true, "it is worded “"+st.Label()+"”", it.wording[st.wording-1].code, scope))
	}
	return out
}

// Lines renders the explanation as plain text, the reason indented below.
func (b Because) Lines() []string {
	line := strings.ToUpper(b.Says[:1]) + b.Says[1:]
	if b.Reason == nil {
		return []string{line + "."}
	}
	out := []string{line + ":"}
	for _, l := range b.Reason.Lines() {
		out = append(out, "  "+l)
	}
	return out
}
