package engine

import (
	"encoding/json"
	"strings"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/text"
)

// Opening says whether a form takes responses.
type Opening string

// The states of opening.
const (
	Before Opening = "before"
	Open   Opening = "open"
	After  Opening = "after"
	Full   Opening = "full"
	// Offline is a form that the workspace has taken out of public, whatever its
	// opening says.
	Offline Opening = "offline"
)

// Outcome is what a form is for one input. It is to be read only.
type Outcome struct {
	Open      Opening
	Accepted  bool
	Items     []ItemState // those outside repeating sections, in the order of the form
	Rows      []RowsState // the repeating sections, in the order of the form
	Sections  []bool      // whether each section is shown
	Unmatched []string    // parameters and answers that name no choice

	p         *Program
	frame     expr.Evaluation
	onRoute   []bool
	mode      Mode
	apart     map[string]bool // see Input.Apart
	confirmed bool            // its address needs no confirming any more
	until     int64
	sound     bool // it would be accepted if the form is open
	judge     *Outcome
	in        *Input // where anything can go out

	pageProblems, sectionProblems [][]Problem // of their checks; nil if there are none
}

// JudgedBy lets another outcome, that of the edition which is live now, say whether
// the form takes responses.
func (o *Outcome) JudgedBy(live *Outcome) {
	o.Open, o.until, o.judge = live.Open, min(o.until, live.until), live
	o.Accepted = o.sound && o.Open == Open
}

// ItemState is what an item is for one input.
type ItemState struct {
	item  *item
	extra *extra // what few have, so that the states of a form stay small

	Shown    bool // it can be seen
	Required bool
	Locked   bool

	part      bool  // it takes part, though perhaps only the workspace sees it
	kept      bool  // it does not take part, but its value counts
	closed    bool  // the respondent can't fill it
	touched   bool  // the value is the respondent's own
	emptied   bool  // and it is blank by their hand
	automatic bool  // the value came by itself
	unmatched bool  // something was sent that is none of the choices
	wording   int32 // from 1; 0 is the usual

}

type extra struct {
	problems []Problem
	offered  []string // the choices on offer, where that varies
	full     []string // the choices that have no place left
	rows     []bool   // of a grid: which are shown
	aside    []string // picks that are not on offer, and so count for nothing

	worded                      bool // its texts hold answers, and here they are
	label, help                 string
	markdownLabel, markdownHelp string // of a note, or of an item with links in them
	placeholder                 string
	low, high                   string
	lines                       []string      // what the rows of a grid say
	choices                     []choiceWords // of the choices that are written out
}

type choiceWords struct{ label, help string }

var noExtra extra

// more is what few states have, to be read.
func (s *ItemState) more() *extra {
	if s.extra == nil {
		return &noExtra
	}
	return s.extra
}

// own is what few states have, to be added to.
func (s *ItemState) own() *extra {
	if s.extra == nil {
		s.extra = &extra{}
	}
	return s.extra
}

// Problems are what is wrong with the answer.
func (s *ItemState) Problems() []Problem { return s.more().problems }

// Choices are the values on offer; nil if it is not shown or has no choices.
func (s *ItemState) Choices() []string {
	switch {
	case !s.Shown:
		return nil
	case s.item.offers:
		return s.more().offered
	}
	return s.item.all
}

// Full are the choices that have no place left. The workspace may go beyond, and has them
// on offer all the same.
func (s *ItemState) Full() []string { return s.more().full }

// OffersVary reports whether what is on offer can be otherwise.
func (s *ItemState) OffersVary() bool { return s.item.offers }

// Worded reports whether answers stand in the texts of the item.
func (s *ItemState) Worded() bool { return s.more().worded }

// Item is the definition.
func (s *ItemState) Item() *form.Item { return s.item.Item }

// Part reports whether it takes part, though perhaps only the workspace sees it.
func (s *ItemState) Part() bool { return s.part }

// Fillable reports whether the respondent can answer.
func (s *ItemState) Fillable() bool { return s.Shown && !s.closed && s.item.slot >= 0 }

// Touched reports whether the value is the respondent's own.
func (s *ItemState) Touched() bool { return s.touched }

// Automatic reports whether the value came from a value tie.
func (s *ItemState) Automatic() bool { return s.automatic }

// Aside are the picks that were set aside because they are not on offer; they come
// back with the offer.
func (s *ItemState) Aside() []string { return s.more().aside }

// Unmatched reports whether the respondent sent something that is none of the choices.
func (s *ItemState) Unmatched() bool { return s.unmatched }

// Label is the label in the wording that applies, with the answers that stand in it.
func (s *ItemState) Label() string {
	if e := s.more(); e.worded {
		return e.label
	}
	return s.labelSource()
}

// Bare are label and help without where their links go. What looks like a link in an
// answer stays as it was written.
func (s *ItemState) Bare() (label, help string) {
	if !s.Worded() {
		return text.Bare(s.labelSource()), text.Bare(s.helpSource())
	}
	e := s.more()
	if e.markdownLabel == "" && e.markdownHelp == "" || s.item.Type == form.Note {
		return e.label, e.help
	}
	return bareOf(e.markdownLabel, e.label), bareOf(e.markdownHelp, e.help)
}

func bareOf(markdown, plain string) string {
	parts := text.Links(markdown, true)
	if parts == nil {
		return plain
	}
	var b strings.Builder
	for _, p := range parts {
		b.WriteString(p.Text)
	}
	return b.String()
}

// Help is the help text in the wording that applies, with the answers that stand in it.
func (s *ItemState) Help() string {
	if e := s.more(); e.worded {
		return e.help
	}
	return s.helpSource()
}

// Markdown are label and help of a note, which are Markdown; answers stand in it as plain
// text. Of other items they are for text.Links.
func (s *ItemState) Markdown() (label, help string) {
	if e := s.more(); e.worded {
		return e.markdownLabel, e.markdownHelp
	}
	return s.labelSource(), s.helpSource()
}

// Placeholder is what stands in the empty field.
func (s *ItemState) Placeholder() string {
	if e := s.more(); e.worded {
		return e.placeholder
	}
	return s.item.Placeholder
}

// Choice is what a choice that is written out says.
func (s *ItemState) Choice(n int) (label, help string) {
	if e := s.more(); e.worded {
		return e.choices[n].label, e.choices[n].help
	}
	return s.item.Choices[n].Name(), s.item.Choices[n].Help
}

// Ends are the words at the ends of a scale.
func (s *ItemState) Ends() (low, high string) {
	if e := s.more(); e.worded {
		return e.low, e.high
	}
	return s.item.Low, s.item.High
}

// RowLabel is what a row of a grid says.
func (s *ItemState) RowLabel(n int) string {
	if e := s.more(); e.worded {
		return e.lines[n]
	}
	return s.item.Rows[n].Name()
}

func (s *ItemState) labelSource() string {
	if s.wording > 0 {
		if l := s.item.Wording[s.wording-1].Label; l != "" {
			return l
		}
	}
	return s.item.Label
}

func (s *ItemState) helpSource() string {
	if s.wording > 0 {
		if h := s.item.Wording[s.wording-1].Help; h != "" {
			return h
		}
	}
	return s.item.Help
}

// RowsState is a repeating section for one input.
type RowsState struct {
	Shown        bool
	Count, Width int         // rows, and items in a row
	Items        []ItemState // row by row
	IDs          []string    // the identity of each row, "" for none; nil if no row has one
	Problems     []Problem
	RowProblems  [][]Problem // of the section's checks, by row; nil if it has none
}

// ID is the identity of a row, "" if it has none.
func (s *RowsState) ID(row int) string {
	if row < len(s.IDs) {
		return s.IDs[row]
	}
	return ""
}

// Row returns the items of one row, from 0.
func (s *RowsState) Row(n int) []ItemState { return s.Items[n*s.Width : (n+1)*s.Width] }

func (o *Outcome) valueOf(s *ItemState, row int) *expr.Value {
	it := s.item
	switch {
	case it.slot < 0:
		return &expr.Value{}
	case it.group < 0:
		return &o.frame.Slots[it.slot]
	}
	g := &o.frame.Groups[it.group]
	return &g.Cells[row*g.Width+int(it.slot)]
}

// Location is the form's time zone.
func (o *Outcome) Location() *time.Location { return o.p.loc }

// Value returns the value of an item; row counts from 0 in a repeating section.
func (o *Outcome) Value(s *ItemState, row int) expr.Value { return *o.valueOf(s, row) }

// State returns the state of the item with that key, or nil; row is its row.
func (o *Outcome) State(key string, row int) *ItemState {
	it := o.p.lookup[key]
	if it == nil {
		return nil
	}
	if it.group < 0 {
		return &o.Items[it.index]
	}
	state := &o.Rows[it.group]
	if row < 0 || row >= state.Count {
		return nil
	}
	return &state.Row(row)[it.index]
}

// States are the states of all items of a section that does not repeat, in their order.
func (o *Outcome) States(s *form.Section) []ItemState {
	if len(s.Items) == 0 {
		return nil
	}
	first := o.p.lookup[s.Items[0].Key].index
	return o.Items[first : int(first)+len(s.Items)]
}

// Group returns the state of a repeating section, or nil.
func (o *Outcome) Group(key string) *RowsState {
	g := o.p.Symbols.Groups[key]
	if g == nil {
		return nil
	}
	return &o.Rows[g.Index]
}

// SectionShown reports whether the section with that key is shown.
func (o *Outcome) SectionShown(key string) bool {
	for i := range o.p.sections {
		if o.p.sections[i].Key == key {
			return o.Sections[i] && o.sees(o.p.sections[i].Staff)
		}
	}
	return false
}

// sees reports whether who fills the form in sees a page or section, which may be for the
// workspace only.
func (o *Outcome) sees(staff bool) bool { return !staff || o.mode == Staff }

// Route lists the keys of the pages that the respondent goes through.
func (o *Outcome) Route() []string {
	route := make([]string, 0, len(o.onRoute))
	for i, on := range o.onRoute {
		if on && o.sees(o.p.pages[i].Staff) {
			route = append(route, o.p.pages[i].Key)
		}
	}
	return route
}

// Stored is what would be kept, by key: blanks and empty sets left out, but for
// what was emptied by hand although a value would come by itself, which is null;
// empty if the outcome is not accepted. Rows carry their identity under RowID.
func (o *Outcome) Stored() map[string]any {
	out := map[string]any{}
	if !o.Accepted {
		return out
	}
	for i := range o.Items {
		o.store(out, &o.Items[i], 0)
	}
	for gi := range o.Rows {
		state := &o.Rows[gi]
		rows := make([]any, state.Count)
		answered := false
		for r := range state.Count {
			row := map[string]any{}
			for i := range state.Row(r) {
				o.store(row, &state.Row(r)[i], r)
			}
			answered = answered || len(row) > 0
			if id := state.ID(r); id != "" {
				row[RowID] = id
			}
			rows[r] = row
		}
		if answered {
			out[o.p.groups[gi].symbol.Key] = rows
		}
	}
	return out
}

func (o *Outcome) store(out map[string]any, s *ItemState, row int) {
	if (!s.part && !s.kept) || s.item.slot < 0 || !s.item.IsStored() {
		return
	}
	if v := o.valueOf(s, row); !v.IsBlank() {
		out[s.item.Key] = v.JSON(o.p.loc)
	} else if s.emptied && s.item.value != nil {
		out[s.item.Key] = nil // emptied by hand, and so it stays
	}
}

// MarshalJSON writes the outcome as lazo rehearse prints it, without next_change.
func (o *Outcome) MarshalJSON() ([]byte, error) { return json.Marshal(o.object()) }

func (o *Outcome) object() map[string]any {
	items := map[string]any{}
	for i := range o.Items {
		items[o.Items[i].item.Key] = o.itemObject(&o.Items[i], 0)
	}
	for gi := range o.Rows {
		state := &o.Rows[gi]
		rows := make([]any, state.Count)
		for r := range state.Count {
			row := map[string]any{}
			for i := range state.Row(r) {
				s := &state.Row(r)[i]
				row[s.item.Key] = o.itemObject(s, r)
			}
			rows[r] = row
		}
		problems := texts(state.Problems)
		for _, row := range state.RowProblems {
			problems = append(problems, texts(row)...)
		}
		items[o.p.groups[gi].symbol.Key] = map[string]any{"shown": state.Shown &&
			o.sees(o.p.sections[o.p.groups[gi].section].Staff), "rows": rows,
			"problems": problems}
	}
	sections := map[string]any{}
	for i, part := range o.Sections {
		sec := map[string]any{"shown": part && o.sees(o.p.sections[i].Staff)}
		if len(o.p.sections[i].checks) > 0 {
			sec["problems"] = texts(o.SectionProblems(i))
		}
		sections[o.p.sections[i].Key] = sec
	}
	pages := map[string]any{}
	for i := range o.p.pages {
		if len(o.p.pages[i].checks) > 0 {
			pages[o.p.pages[i].Key] = map[string]any{"problems": texts(o.pageProblems[i])}
		}
	}
	unmatched := o.Unmatched
	if unmatched == nil {
		unmatched = []string{}
	}
	out := map[string]any{"open": o.Open, "route": o.Route(), "items": items, "sections": sections,
		"accepted": o.Accepted, "stored": o.Stored(), "unmatched": unmatched}
	if len(pages) > 0 {
		out["pages"] = pages
	}
	if len(o.p.Form.Messages) > 0 || o.p.Form.Confirm != nil {
		out["messages"] = o.Messages()
	}
	if len(o.p.Form.Hooks) > 0 {
		out["hooks"] = o.Hooks()
	}
	return out
}

// SectionProblems are what the checks of a section find, in all its rows.
func (o *Outcome) SectionProblems(i int) []Problem {
	if g := o.p.sections[i].group; g >= 0 {
		var out []Problem
		for _, row := range o.Rows[g].RowProblems {
			out = append(out, row...)
		}
		return out
	}
	if o.sectionProblems == nil {
		return nil
	}
	return o.sectionProblems[i]
}

func (o *Outcome) itemObject(s *ItemState, row int) map[string]any {
	out := map[string]any{"shown": s.Shown, "required": s.Required, "locked": s.Locked,
		"value": o.valueOf(s, row).JSON(o.p.loc), "label": s.Label(), "problems": texts(s.Problems())}
	if help := s.Help(); help != "" {
		out["help"] = help
	}
	if s.item.Type.Picks() && s.Shown {
		out["choices"] = s.Choices()
		if len(s.Full()) > 0 {
			out["full"] = s.Full()
		}
	}
	if s.item.Type == form.Grid && s.Shown {
		rows := map[string]any{}
		for i, row := range s.item.Rows {
			rows[row.Key] = map[string]any{"shown": s.RowShown(i), "label": s.RowLabel(i)}
		}
		out["rows"], out["choices"] = rows, s.Choices()
	}
	return out
}

func texts(problems []Problem) []string {
	out := make([]string, len(problems))
	for i, p := range problems {
		out[i] = p.String()
	}
	return out
}

// Report is an outcome with the moment of its next change, as it is printed.
func (o *Outcome) Report(next time.Time, changes bool) map[string]any {
	out := o.object()
	out["next_change"] = nil
	if changes {
		out["next_change"] = next.In(o.p.loc).Format(time.RFC3339)
	}
	return out
}
