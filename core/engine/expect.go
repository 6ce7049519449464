package engine

import (
	"fmt"
	"slices"
	"strconv"

	"lazo/core/form"
)

// Expectation is what an outcome is remembered by: enough to tell an author, once
// the form has changed, what has become of the same filling.
type Expectation struct {
	Open     Opening                 `json:"open"`
	Accepted bool                    `json:"accepted"`
	Items    map[string]ExpectedItem `json:"items"` // by key; KEY#2 in the second row
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
	e := Expectation{Open: o.Open, Accepted: o.Accepted, Items: map[string]ExpectedItem{}}
	o.eachShown(func(name string, s *ItemState, row int) {
		it := ExpectedItem{Required: s.Required, Locked: s.Locked, Choices: slices.Clone(s.Choices())}
		if s.item.slot >= 0 {
			it.Value = o.valueOf(s, row).Plain(o.p.loc)
		}
		e.Items[name] = it
	})
	return e
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
			say("%s: was %s, is now %s", label, pick(was.Required, "required", "optional"), pick(is.Required, "required", "optional"))
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
	if e.Accepted != o.Accepted {
		say("it was %s, is now %s", pick(e.Accepted, "accepted", "not accepted"), pick(o.Accepted, "accepted", "not accepted"))
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
