// Package author is what a designer does to a form: commands, each a value that says
// what is wanted in the designer's terms, and becomes the edit that does it. A command
// says besides the edit what it drops, so that nothing goes without being told; undo
// brings it back with the rest.
//
// The fields of a command hold what was typed or picked; a command that can't be done
// says in words why, as a form.ErrEdit.
package author

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"lazo/core/form"
)

// Command is something that a designer does to a form. Do gives the edit for the form as
// it is, and does not change it; now is the moment, for what a new condition may compare
// with. Errors are form.ErrEdit, a [Fault] or an [Unsure].
type Command interface {
	Do(f *form.Form, now time.Time) (Doing, error)
}

// Commands are all commands, by the name under which a page posts them; each is made
// empty, to be filled in.
var Commands = map[string]func() Command{
	"add":          func() Command { return &AddItem{} },
	"add-page":     func() Command { return &AddPage{} },
	"add-section":  func() Command { return &AddSection{} },
	"add-tie":      func() Command { return &AddTie{} },
	"add-case":     func() Command { return &AddCase{} },
	"choice":       func() Command { return &SetChoice{} },
	"choices":      func() Command { return &SetChoices{} },
	"choices-from": func() Command { return &DrawChoices{} },
	"copy-tie":     func() Command { return &CopyTie{} },
	"delete":       func() Command { return &Delete{} },
	"down":         func() Command { return &Step{} },
	"duplicate":    func() Command { return &Duplicate{} },
	"key":          func() Command { return &RenameKey{} },
	"list":         func() Command { return &SetList{} },
	"many":         func() Command { return &DoWithThese{} },
	"move":         func() Command { return &Move{} },
	"narrow":       func() Command { return &NarrowChoices{} },
	"parameters":   func() Command { return &SetParameters{} },
	"passage":      func() Command { return &ChangePassage{} },
	"remove-tie":   func() Command { return &RemoveTie{} },
	"repeat":       func() Command { return &SetRepeat{} },
	"set":          func() Command { return &SetProperty{} },
	"source":       func() Command { return &WriteTie{} },
	"state":        func() Command { return &SetState{} },
	"tie-many":     func() Command { return &TieThese{} },
	"rows":         func() Command { return &SetRows{} },
	"tie-texts":    func() Command { return &SetTieTexts{} },
	"up":           func() Command { return &Step{Up: true} },
	"value":        func() Command { return &SetValueSource{} },

	"add-letter":      func() Command { return &AddLetter{} },
	"add-document":    func() Command { return &AddDocument{} },
	"document":        func() Command { return &SetDocument{} },
	"remove-document": func() Command { return &RemoveDocument{} },

	"add-hook":      func() Command { return &AddHook{} },
	"hook":          func() Command { return &SetHook{} },
	"remove-hook":   func() Command { return &RemoveHook{} },
	"confirm":       func() Command { return &SetConfirm{} },
	"letter":        func() Command { return &SetLetter{} },
	"letter-moment": func() Command { return &SetLetterMoment{} },
	"remove-letter": func() Command { return &RemoveLetter{} },
	"letter-up":     func() Command { return &MoveLetter{Up: true} },
	"letter-down":   func() Command { return &MoveLetter{} },

	"end":       func() Command { return &SetEnd{} },
	"add-end":   func() Command { return &AddEnd{} },
	"end-up":    func() Command { return &MoveEnd{Up: true} },
	"end-down":  func() Command { return &MoveEnd{} },
	"framing":   func() Command { return &SetFraming{} },
	"languages": func() Command { return &SetLanguages{} },
	"opening":   func() Command { return &SetOpening{} },
	"returning": func() Command { return &SetReturning{} },
	"sending":   func() Command { return &SetSending{} },
	"theme":     func() Command { return &SetTheme{} },
}

// Doing is the edit that does a command, with what it takes along.
type Doing struct {
	Edit  form.Edit
	At    string   // the key of what is at hand after it, "" for nothing
	Drops []string // in words: "its choices", "its least and greatest"
}

// Says joins what an edit drops to one sentence, "" for nothing.
func (d Doing) Says() string {
	switch len(d.Drops) {
	case 0:
		return ""
	case 1:
		return "Dropped with this: " + d.Drops[0] + ". Undo brings it back."
	}
	last := len(d.Drops) - 1
	return "Dropped with this: " + strings.Join(d.Drops[:last], ", ") + " and " + d.Drops[last] + ". Undo brings it back."
}

// Empty reports whether nothing would change.
func (d Doing) Empty() bool { return d.Edit.Op == form.Batch && len(d.Edit.Edits) == 0 }

// nothing is a Doing that changes nothing.
func nothing(at string) Doing { return Doing{Edit: form.Edit{Op: form.Batch}, At: at} }

func misfit(format string, args ...any) error {
	return fmt.Errorf("%w: %s", form.ErrEdit, fmt.Sprintf(format, args...))
}

// Reason is why a form.ErrEdit was returned, in words.
func Reason(err error) string { return strings.ReplaceAll(err.Error(), form.ErrEdit.Error()+": ", "") }

// Fault is a tie that can't be kept as it was written.
type Fault struct{ Owner, Property, Source, Text string }

// Error is what is wrong with it.
func (f *Fault) Error() string { return f.Text }

// Unsure is a command that has to be told first what becomes of others.
type Unsure struct {
	Key, Label string
	Broken     []string // what would break, a sentence each
}

// Error is what is to be decided.
func (u *Unsure) Error() string { return "what depends on it is to be decided first" }

func item(f *form.Form, key string) (*form.Item, error) {
	p, ok := f.Find(key)
	if !ok {
		return nil, misfit("there is no item “%s”", key)
	}
	return p.Item, nil
}

// set is the edit that sets a property, or takes it away for a zero value.
func set[T comparable](key, property string, v T) form.Edit {
	var zero T
	if v == zero {
		return form.SetProperty(key, property, nil)
	}
	return form.SetProperty(key, property, v)
}

func batch(edits ...form.Edit) form.Edit { return form.Edit{Op: form.Batch, Edits: edits} }

// count reads a whole number, 0 for nothing.
func count(text string, most int) (int, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return 0, nil
	}
	n, err := strconv.Atoi(text)
	if err != nil || n < 0 {
		return 0, misfit("a whole number was expected, “%s” was found", text)
	}
	if n > most {
		return 0, misfit("a whole number up to %d was expected, “%s” was found", most, text)
	}
	return n, nil
}
