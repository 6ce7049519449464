package engine

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"time"

	"lazo/core/form"
)

// Expectation is what an outcome is remembered by: enough to tell an author, once
// the form has changed, what has become of the same filling.
type Expectation struct {
	Open     Opening                 `json:"open"`
	Accepted bool                    `json:"accepted"`
	Items    map[string]ExpectedItem `json:"items"` // by key; KEY#2 in the second row
	Goes     []ExpectedLetter        `json:"goes"`  // what goes out; nil where that was not remembered yet
}

// ExpectedLetter is a letter to one address, or a program that is told.
type ExpectedLetter struct {
	Key  string `json:"key"`
	To   string `json:"to,omitempty"` // "" for a program
	At   string `json:"at,omitempty"` // as a moment of RFC 3339, "" for at once
	Name string `json:"name"`
}

func (l ExpectedLetter) words() string {
	switch {
	case l.To == "":
		return "the program “" + l.Name + "”"
	case l.At != "":
		return "the letter “" + l.Name + "” to " + l.To + " at " + l.At
	}
	return "the letter “" + l.Name + "” to " + l.To
}

// ExpectedItem is the remembered state of an item that was shown.
type ExpectedItem struct {
	Required bool     `json:"required,omitempty"`
	Locked   bool     `json:"locked,omitempty"`
	Value    string   `json:"value,omitempty"`
	Choices  []string `json:"choices,omitempty"`
}

// Expect remembers an outcome.
func (o *Outcome) Expect() Expectation {
	e := Expectation{Open: o.Open, Accepted: o.Accepted, Items: map[string]ExpectedItem{}, Goes: o.expectedLetters()}
	o.eachShown(func(name string, s *ItemState, row int) {
		it := ExpectedItem{Required: s.Required, Locked: s.Locked, Choices: slices.Clone(s.Choices())}
		if s.item.slot >= 0 {
			it.Value = o.valueOf(s, row).Plain(o.p.loc)
		}
		e.Items[name] = it
	})
	return e
}

// expectedLetters are what goes out of the outcome.
func (o *Outcome) expectedLetters() []ExpectedLetter {
	out := []ExpectedLetter{}
	for _, l := range o.Letters() {
		if !l.Goes {
			continue
		}
		one := ExpectedLetter{Key: l.Key, Name: cmp.Or(l.Name, l.Key)}
		if l.At != nil {
			one.At = l.At.Format(time.RFC3339)
		}
		for _, one.To = range l.To {
			out = append(out, one)
		}
	}
	for _, key := range o.Hooks() {
		out = append(out, ExpectedLetter{Key: key, Name: key})
	}
	return out
}

func (o *Outcome) eachShown(visit func(name string, s *ItemState, row int)) {
	for i := range o.Items {
		if s := &o.Items[i]; s.Shown {
			visit(s.item.Key, s, 0)
		}
	}
	for g := range o.Rows {
		state := &o.Rows[g]
		for r := range state.Count {
			for i := range state.Row(r) {
				if s := &state.Row(r)[i]; s.Shown {
					visit(s.item.Key+"#"+strconv.Itoa(r+1), s, r)
				}
			}
		}
	}
}

// Differences says in words how an outcome differs from what was expected of it,
// in the order of the form; none if it does not.
func (e Expectation) Differences(o *Outcome) []string {
	var out []string
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	if e.Open != o.Open {
		say("the form was %s, is now %s", e.Open, o.Open)
	}
	now := o.Expect()
	seen := map[string]bool{}
	o.eachShown(func(name string, s *ItemState, _ int) {
		seen[name] = true
		label := rowLabel(s.item.Item, name)
		was, ok := e.Items[name]
		if !ok {
			say("%s: was not shown, is now shown", label)
			return
		}
		is := now.Items[name]
		if was.Required != is.Required {
			say("%s: was %s, is now %s", label, pick(was.Required, "required", "optional"),
				pick(is.Required, "required", "optional"))
		}
		if was.Locked != is.Locked {
			say("%s: was %s, is now %s", label, pick(was.Locked, "locked", "fillable"), pick(is.Locked, "locked", "fillable"))
		}
		if was.Value != is.Value {
			say("%s: was %s, is now %s", label, quoteOr(was.Value), quoteOr(is.Value))
		}
		if !slices.Equal(was.Choices, is.Choices) {
			say("%s: offers other choices", label)
		}
	})
	for _, it := range o.p.items {
		for row := 0; row <= form.MaxRows; row++ {
			name := it.Key
			if row > 0 {
				name += "#" + strconv.Itoa(row)
			}
			if _, was := e.Items[name]; was && !seen[name] {
				seen[name] = true
				say("%s: was shown, is now not shown", rowLabel(it.Item, name))
			} else if row > 0 && !was {
				break
			}
		}
	}
	for name := range e.Items {
		if !seen[name] {
			seen[name] = true
			say("%s: was shown, is no longer in the form", name)
		}
	}
	if e.Goes != nil {
		for _, l := range e.Goes {
			if !slices.Contains(now.Goes, l) {
				say(pick(l.To == "", "%s was told, and is not now", "%s went out, and does not now"), l.words())
			}
		}
		for _, l := range now.Goes {
			if !slices.Contains(e.Goes, l) {
				say(pick(l.To == "", "%s was not told, and is now", "%s did not go out, and does now"), l.words())
			}
		}
	}
	if e.Accepted != o.Accepted {
		say("it was %s, is now %s", pick(e.Accepted, "accepted", "not accepted"),
			pick(o.Accepted, "accepted", "not accepted"))
	}
	return out
}

func rowLabel(it *form.Item, name string) string {
	if len(name) > len(it.Key) {
		return it.Name() + " in row " + name[len(it.Key)+1:]
	}
	return it.Name()
}

func pick(yes bool, a, b string) string {
	if yes {
		return a
	}
	return b
}

func quoteOr(s string) string {
	if s == "" {
		return "blank"
	}
	return "“" + s + "”"
}
