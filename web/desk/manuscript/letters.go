package manuscript

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/author"
	"lazo/core/form"
	"lazo/core/text"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/margin"
)

// letterRow is a letter at the end of the manuscript: a sheet of its own with its margin.
type letterRow struct {
	*form.Message
	At       string // what it is called among what can be at hand
	Index    int
	First    bool
	Last     bool
	Selected bool
	Subject  []text.Bit
	Body     []text.Bit
	To       []text.Bit
	Carries  []string // in words
	Remarks  []form.Remark
	Ties     []margin.Line
	Editor   *margin.Editor // when selected
	Moment   margin.Moment
	ToText   string         // the addresses as they are written
	Went     string         // what became of those that were called for, in words
	Attach   []attachChoice // when selected
}

// attachChoice is something that a letter can carry.
type attachChoice struct {
	layout.Option
	Picked bool
}

// letters are the form's letters; only what one is tied to is shown of a narrowed
// manuscript, and so none.
func (b *rowBuilder) letters() []letterRow {
	if b.only != nil {
		return nil
	}
	var out []letterRow
	for i := range b.Def.Messages {
		out = append(out, b.letter(i))
	}
	return out
}

func (b *rowBuilder) letter(i int) letterRow {
	m := &b.Def.Messages[i]
	at := "messages." + strconv.Itoa(i) + "."
	row := letterRow{Message: m, At: author.LetterAt(m.Key), Index: i, First: i == 0, Last: i == len(b.Def.Messages)-1,
		Subject: text.Outline(m.Subject, false, b.Syms), Body: text.Outline(m.Body, true, b.Syms)}
	row.Selected = row.At == b.at
	for n, to := range m.To {
		if n > 0 {
			row.To = append(row.To, text.Bit{Words: ", "})
		}
		row.To = append(row.To, text.Outline(to, false, b.Syms)...)
	}
	choices := b.attachable()
	for _, what := range m.Attach {
		if n := slices.IndexFunc(choices, func(c attachChoice) bool { return c.Value == what }); n >= 0 {
			choices[n].Picked = true
			row.Carries = append(row.Carries, choices[n].Label)
		}
	}
	for _, rm := range b.remarks {
		if strings.HasPrefix(rm.At, at) {
			row.Remarks = append(row.Remarks, rm)
		}
	}
	if !row.Selected {
		row.Ties = b.LetterTies(i)
		return row
	}
	row.ToText, row.Attach = strings.Join(m.To, ", "), choices
	row.Editor, row.Moment = b.LetterEditor(i, row.At), b.LetterMoment(i)
	return row
}

// wentOut says what became of the letters of a message so far.
func wentOut(t store.LetterTally, zone *time.Location) string {
	if t == (store.LetterTally{}) {
		return "None has gone out yet."
	}
	var parts []string
	add := func(n int, one, many string) {
		if n == 1 {
			parts = append(parts, one)
		} else if n > 1 {
			parts = append(parts, strconv.Itoa(n)+" "+many)
		}
	}
	if t.Sent > 0 {
		last := t.Last.In(zone).Format("2 January")
		add(t.Sent, "Went out once, on "+last, "went out, the last on "+last)
	}
	add(t.Waits, "one waits", "wait")
	add(t.Held, "one is held back", "are held back")
	add(t.Fails, "one failed", "failed")
	if len(parts) == 0 {
		return "None has gone out yet."
	}
	said := strings.Join(parts, "; ") + "."
	return strings.ToUpper(said[:1]) + said[1:]
}

// attachable is what letters of the form can carry, in words.
func (b *rowBuilder) attachable() []attachChoice {
	var out []attachChoice
	for i, words := range layout.Carried(form.Attachable) {
		out = append(out, attachChoice{layout.Option{Value: form.Attachable[i], Label: words}, false})
	}
	for _, d := range b.Def.Documents {
		out = append(out, attachChoice{layout.Option{Value: d.Key, Label: "the document " + text.Name(d.Name)}, false})
	}
	return out
}

// emails are the questions for an address that can be confirmed.
func emails(def *form.Form) (out []layout.Option) {
	for pl := range def.Places() {
		if pl.Item.Type == form.Email && pl.Section.Repeat == nil && !pl.Item.Staff {
			out = append(out, layout.Option{Value: pl.Item.Key, Label: pl.Item.Name()})
		}
	}
	return out
}

// hookRow is another program that is told, with its margin.
type hookRow struct {
	*form.Hook
	At       string
	Selected bool
	Of       []attachChoice // the events, when selected
	Remarks  []form.Remark
	Ties     []margin.Line
	Editor   *margin.Editor // when selected
}

// hooks are the programs that the form tells.
func (b *rowBuilder) hooks() (out []hookRow) {
	if b.only != nil {
		return nil
	}
	for i := range b.Def.Hooks {
		h := &b.Def.Hooks[i]
		row := hookRow{Hook: h, At: author.HookAt(h.Key)}
		for _, rm := range b.remarks {
			if strings.HasPrefix(rm.At, "hooks."+strconv.Itoa(i)+".") {
				row.Remarks = append(row.Remarks, rm)
			}
		}
		if row.Selected = row.At == b.at; row.Selected {
			row.Editor = b.HookEditor(i, row.At)
			for _, e := range form.HookEvents {
				row.Of = append(row.Of, attachChoice{layout.Option{Value: e, Label: hookWords[e]}, h.Tells(e)})
			}
		} else {
			row.Ties = b.HookTies(i)
		}
		out = append(out, row)
	}
	return out
}

var hookWords = map[string]string{
	"received": "when a response is received", "changed": "when it is changed", "deleted": "when it is deleted",
}

// documentRow is a document, to be printed or carried by letters.
type documentRow struct {
	*form.Document
	At       string
	Selected bool
	Name     []text.Bit
	Body     []text.Bit
	Papers   []layout.Option
	Remarks  []form.Remark
}

func (b *rowBuilder) documents() (out []documentRow) {
	if b.only != nil {
		return nil
	}
	for i := range b.Def.Documents {
		d := &b.Def.Documents[i]
		row := documentRow{Document: d, At: author.DocumentAt(d.Key), Name: text.Outline(d.Name, false, b.Syms),
			Body: text.Outline(d.Body, true, b.Syms)}
		row.Selected = row.At == b.at
		for _, rm := range b.remarks {
			if strings.HasPrefix(rm.At, "documents."+strconv.Itoa(i)+".") {
				row.Remarks = append(row.Remarks, rm)
			}
		}
		for _, size := range form.Papers {
			row.Papers = append(row.Papers, layout.Option{Value: size, Label: strings.ToUpper(size[:1]) + size[1:]})
		}
		out = append(out, row)
	}
	return out
}
