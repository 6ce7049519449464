package engine

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"time"

	"lazo/core/form"
)

// Filling in by the workspace: one answer of a response that came.

// Kept is a response as it is stored, to be changed.
type Kept struct {
	Answers    []byte // JSON
	Parameters map[string][]string
	Received   time.Time
}

// RefusedError says why an answer can't be put into a response.
type RefusedError struct{ Text string }

func (e RefusedError) Error() string { return e.Text }

// Put gives a response with an answer to an item that only the workspace sees, outside
// rows, put into it; an empty value takes the answer out. The form is run as of when the
// response was received, so that nothing else of it changes but what depends on the
// answer. Over are problems of other answers, which do not hinder it. What the response
// has besides the form's own answers stays. The error is a [RefusedError] if the answer
// itself can't be put there.
func (p *Program) Put(r Kept, key, value string) (out Stored, over []Finding, err error) {
	it := p.lookup[key]
	if it == nil || !it.Staff || it.group >= 0 {
		return out, nil, RefusedError{"there is no such question for the workspace"}
	}
	raw, err := ParseAnswers(r.Answers)
	if err != nil {
		return out, nil, err
	}
	outcome := p.Run(Input{
		Answers: p.Answers(map[string]any{key: value}), Prior: p.Answers(raw), Params: r.Parameters, At: r.Received, Mode: Staff,
	})
	st := outcome.State(key, 0)
	if !st.Fillable() {
		return out, nil, RefusedError{it.Name() + " is locked or not asked with these answers"}
	}
	if problems := st.Problems(); len(problems) > 0 && !(value == "" && problems[0].Code == Missing) {
		return out, nil, RefusedError{it.Name() + ": " + problems[0].String()}
	}
	if slices.Contains(outcome.Unmatched, key) {
		return out, nil, RefusedError{it.Name() + " has no choice “" + value + "”"}
	}
	over = outcome.Override()
	if out, err = outcome.ToStore(); err != nil {
		return out, over, err
	}
	out.Answers, err = p.beside(outcome.Stored(), raw)
	return out, over, err
}

// beside keeps what a response has under keys that the form does not know.
func (p *Program) beside(stored, raw map[string]any) ([]byte, error) {
	known := p.Form.Keys()
	merged := maps.Clone(stored)
	for key, v := range raw {
		if !known[key] {
			merged[key] = v
		}
	}
	return json.Marshal(merged)
}

// Beside adds to what is to be stored what a response had so far under keys that the form
// does not know, such as what the workspace filled in by a later edition.
func (p *Program) Beside(stored []byte, before []byte) ([]byte, error) {
	next, err := ParseAnswers(stored)
	if err != nil {
		return nil, err
	}
	raw, err := ParseAnswers(before)
	if err != nil {
		return nil, err
	}
	return p.beside(next, raw)
}

// Asks reports whether the form has an item with that key outside rows which only the
// workspace sees.
func (p *Program) Asks(key string) bool {
	it := p.lookup[key]
	return it != nil && it.Staff && it.group < 0 && it.Type != form.Note
}

// Said puts a finding into words: where it is and what is wrong.
func (f Finding) Said() string {
	where := f.Label
	if f.Row >= 0 {
		where = fmt.Sprintf("%s (%d)", f.Label, f.Row+1)
	}
	return where + ": " + f.Problem.String()
}
