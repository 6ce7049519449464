package margin

import (
	"strconv"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/web/desk/layout"
)

// LetterTies are the lines beside a letter: when it is sent.
func (m *Margin) LetterTies(i int) []Line {
	l, at := m.Def.Messages[i], "messages."+strconv.Itoa(i)+"."
	how := "once"
	if l.Again {
		how = "and again after every change"
	}
	var out []Line
	if l.When == "" {
		out = append(out, Line{Kind: "letter", Property: at + "when", Lead: "Sent always, " + how})
	} else {
		out = m.add(out, "", at+"when", "letter", "Sent when ", l.When)
		if l.Again {
			last := &out[len(out)-1]
			last.Pieces = append(last.Pieces, expr.Piece{Text: ", " + how})
		}
	}
	return m.add(out, "", at+"at", "letter", "At its moment: ", l.At)
}

// HookTies are the lines beside a hook: when its program is told.
func (m *Margin) HookTies(i int) []Line {
	h, at := m.Def.Hooks[i], "hooks."+strconv.Itoa(i)+".when"
	if h.When == "" {
		return []Line{{Kind: "letter", Property: at, Lead: "Told of every response"}}
	}
	return m.add(nil, "", at, "letter", "Told when ", h.When)
}

// HookEditor unfolds the condition of a hook, in the row that is called at.
func (m *Margin) HookEditor(i int, at string) *Editor {
	return m.sending("hooks."+strconv.Itoa(i)+".when", "Told", m.Def.Hooks[i].When, at)
}

// LetterEditor unfolds the condition of a letter, in the row that is called at.
func (m *Margin) LetterEditor(i int, at string) *Editor {
	return m.sending("messages."+strconv.Itoa(i)+".when", "Sent", m.Def.Messages[i].When, at)
}

// OpenEditor unfolds for whom the form is open.
func (m *Margin) OpenEditor() *Editor {
	var src string
	if m.Def.Opening != nil {
		src = m.Def.Opening.Shown.Expr
	}
	e := m.sending(form.OpenWhen, "Open for", src, "")
	e.Kind, e.Always, e.When = "shown", "everyone", "those for whom"
	return e
}

// EndEditor unfolds for which answers a closing text is read.
func (m *Margin) EndEditor(i int) *Editor {
	return m.editor("", "ends."+strconv.Itoa(i)+".when", "wording", "When", m.Def.Ends[i].When)
}

// EndTie is the line beside a closing text: for which answers it is read.
func (m *Margin) EndTie(i int) []Line {
	return m.add(nil, "", "ends."+strconv.Itoa(i)+".when", "wording", "When ", m.Def.Ends[i].When)
}

// sending unfolds the condition of something that goes out.
func (m *Margin) sending(property, title, src, at string) *Editor {
	e := m.editor("", property, "letter", title, src)
	e.Rule, e.Of, e.NoNever = true, at, true
	if e.Source == "" && e.Fault == "" {
		e.State = "always"
	}
	return e
}

// Moment is when a letter goes instead of at once.
type Moment struct {
	Source string // as it is written, "" for at once
	Reads  string
	Fault  string
	Begun  bool // the question that it is counted from is still to be given

	Pointed   bool                   // it can be set by pointing
	By        author.SetLetterMoment // so
	Questions []layout.Option        // that it can be counted from
}

// LetterMoment is the moment of a letter.
func (m *Margin) LetterMoment(i int) Moment {
	at := "messages." + strconv.Itoa(i) + ".at"
	out := Moment{Source: m.Def.Messages[i].At}
	for _, it := range author.Moments(m.Def) {
		out.Questions = append(out.Questions, layout.Option{Value: it.Key, Label: m.label(it.Key, it.Name())})
	}
	if m.Fault != nil && m.Fault.Property == "messages.0.at" {
		out.Source, out.Fault = m.Fault.Source, m.Fault.Text
		return out
	}
	out.By, out.Pointed = author.LetterMoment(m.Def, out.Source)
	n, err := expr.Parse(out.Source)
	if out.Source == "" || err != nil {
		return out
	}
	syms := m.Scope("", at)
	out.Reads, out.Begun = expr.PiecesText(syms.Phrase(n)), expr.HasGap(n)
	if faults := expr.CheckBegun(n, syms, false); len(faults) > 0 {
		out.Fault = faults[0].Text
	}
	return out
}
