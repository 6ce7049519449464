package engine

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"time"

	"lazo/core/form"
)

// Filling in by the workspace: one answer of a response that came.

// Submitted is a response as it is stored, to be changed.
type Submitted struct {
	Answers    []byte // JSON
	Parameters map[string][]string
	Received   time.Time
}

// RefusedError says why an answer can't be put into a response.
type RefusedError struct{ Text string }

func (e RefusedError) Error() string { return e.Text }

// Filled is a response with an answer of the workspace put into it.
type Filled struct {
	Stored
	Over  []Finding // problems of other answers, which do not hinder it
	Alone bool      // nothing but the answer itself changed; only Answers says what is stored
}

// Put puts an answer into a response, to an item that only the workspace sees, outside
// rows; nil or "" takes the answer out. It is done by the edition that the response
// belongs to, or by the newest one where only that asks it: then the answer alone is put
// beside the others. The form is run as of when the response was received, so that nothing
// else of it changes but what depends on the answer. What the response has besides the
// form's own answers stays. The error is a [RefusedError] if the answer itself can't be
// put there.
func Put(own, newest *Program, r Submitted, key string, value any) (Filled, error) {
	if own.asksStaff(key) {
		return own.put(r, key, value)
	}
	out, err := newest.put(r, key, value)
	if err != nil {
		return out, err
	}
	answers, err := withAnswer(r.Answers, key, AnswerIn(out.Answers, key))
	return Filled{Stored: Stored{Answers: answers}, Alone: true}, err
}

// PutBack is Put for an answer that was there before another took its place: both are JSON,
// nil for nothing. It is refused if something else stands there by now.
func PutBack(own, newest *Program, r Submitted, key string, before, after json.RawMessage) (Filled, error) {
	if !SameAnswers(AnswerIn(r.Answers, key), after) {
		return Filled{}, RefusedError{"it was changed since"}
	}
	raw, err := ParseAnswers(fmt.Appendf(nil, `{"answer": %s}`, cmp.Or(string(before), "null")))
	if err != nil {
		return Filled{}, err
	}
	out, err := Put(own, newest, r, key, raw["answer"])
	if err == nil && len(before) == 0 { // there was nothing at all
		out.Answers, err = withAnswer(out.Answers, key, nil)
	}
	return out, err
}

func (p *Program) put(r Submitted, key string, value any) (out Filled, err error) {
	if !p.asksStaff(key) {
		return out, RefusedError{"there is no such question for the workspace"}
	}
	it := p.lookup[key]
	raw, err := ParseAnswers(r.Answers)
	if err != nil {
		return out, err
	}
	outcome := p.Run(Input{
		Answers: p.Answers(map[string]any{key: value}), Prior: p.Answers(raw), Params: r.Parameters, At: r.Received,
		Mode: Staff,
	})
	st := outcome.State(key, 0)
	if !st.Fillable() {
		return out, RefusedError{it.Name() + " is locked or not asked with these answers"}
	}
	blank := value == nil || value == ""
	if problems := st.Problems(); len(problems) > 0 && !(blank && problems[0].Code == Missing) {
		return out, RefusedError{it.Name() + ": " + problems[0].String()}
	}
	if slices.Contains(outcome.Unmatched, key) {
		return out, RefusedError{fmt.Sprintf("%s has no choice “%v”", it.Name(), value)}
	}
	out.Over = outcome.Override()
	if out.Stored, err = outcome.ToStore(); err != nil {
		return out, err
	}
	out.Answers, err = p.beside(outcome.Stored(), raw)
	return out, err
}

// AnswerIn is what an object of answers holds under a key, as JSON; nil for nothing.
func AnswerIn(answers []byte, key string) json.RawMessage {
	var all map[string]json.RawMessage
	if json.Unmarshal(answers, &all) != nil {
		return nil
	}
	return all[key]
}

// withAnswer is an object of answers with one put in, or taken out for nil.
func withAnswer(answers []byte, key string, answer json.RawMessage) ([]byte, error) {
	var all map[string]json.RawMessage
	if err := json.Unmarshal(answers, &all); err != nil {
		return nil, err
	}
	if delete(all, key); answer != nil {
		all[key] = answer
	}
	return json.Marshal(all)
}

// SameAnswers reports whether two answers, or all answers of two responses, are stored the
// same; none and null are alike.
func SameAnswers(a, b []byte) bool {
	read := func(data []byte) (v any) {
		dec := json.NewDecoder(bytes.NewReader(data))
		dec.UseNumber()
		if dec.Decode(&v) != nil {
			return nil
		}
		return v
	}
	return reflect.DeepEqual(read(a), read(b))
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

// asksStaff reports whether the form has an item with that key outside rows which only
// the workspace sees.
func (p *Program) asksStaff(key string) bool {
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
