package desk

import (
	"net/http"
	"slices"
	"strconv"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
)

// manuscriptPage is the form as a document with its margin.
type manuscriptPage struct {
	Frame
	Def        *form.Form
	Pages      []pageRow
	Selected   string
	Remarks    []form.Remark
	Ties       int
	Undo, Redo int64
	Notice     string
	Problem    string
	Types      []typeOption
}

type typeOption struct{ Value, Words string }

type pageRow struct {
	*form.Page
	Number   int
	Ties     []tieLine
	Editor   *tieEditor // when selected
	Selected bool
	Sections []sectionRow
	Only     bool // the only page of the form
}

type sectionRow struct {
	*form.Section
	Page     string
	Ties     []tieLine
	Editor   *tieEditor
	Selected bool
	Items    []itemRow
}

type itemRow struct {
	*form.Item
	Section    string
	Index      int
	Summary    string // what is answered: choices, or the type in words
	Ties       []tieLine
	Drives     []driven
	Selected   bool
	Editors    []*tieEditor
	ChoiceText string // its choices one a line, when selected
	Starting   string // a first expression for a value
	Remarks    []form.Remark
	First      bool
	Last       bool
	Types      []typeOption
	Text       bool // whether lengths make sense
	CanValue   bool
}

// driven is a question that depends on the one selected.
type driven struct{ Key, Label, Effect string }

// tieLine is one tie in the margin: a knot, a sentence, and the questions that
// arcs run from.
type tieLine struct {
	Kind    string // shown, required, locked, value, choices, check, wording: the form of its knot
	Lead    string // the words before the sentence
	Pieces  []expr.Piece
	Sources string // keys, separated by blanks
	Faulty  string
}

// tieEditor is the sentence editor of one tie.
type tieEditor struct {
	Owner, Property string
	Title           string
	State           string // always, never or when
	Usual           string // the state that is not written in the file
	Join            string
	Clauses         []clauseRow
	Source          string
	Written         bool // more than clauses: shown as it is written
	Fault           string
}

type clauseRow struct {
	N        int
	Key      string
	Label    string
	Op       string
	Subjects []expr.Subject
	Ops      []expr.Operator
	Operands []operand
	Many     bool
	Picked   map[string]bool
	Options  []option
}

type option struct{ Value, Label string }

type operand struct {
	N      int
	Value  string
	Input  string // text, number, date, time, datetime-local or choice
	Picked string
}

func (d *Desk) manuscript(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	return d.showManuscript(w, r, f, def, r.URL.Query().Get("at"), http.StatusOK, "", nil)
}

// offered are the types that the designer offers, those that can be filled in.
var offered = []form.Type{form.Text, form.Paragraph, form.Number, form.Email, form.Phone, form.Website, form.Date, form.Time, form.MonthDay,
	form.YesNo, form.Tick, form.ChoiceType, form.ChoicesType, form.Address, form.Note, form.Hidden, form.Calculation}

// showManuscript prints the manuscript, or only its part that changes when htmx
// asks. faults are those of a tie that was just written and could not be kept.
func (d *Desk) showManuscript(w http.ResponseWriter, r *http.Request, f store.Form, def *form.Form, at string, status int, problem string, fault *tieFault) error {
	fr, err := d.frame(r, f, def, "manuscript")
	if err != nil {
		return err
	}
	p := manuscriptPage{Frame: fr, Def: def, Selected: at, Problem: problem}
	if p.Undo, p.Redo, err = d.store.History(r.Context(), f.ID); err != nil {
		return err
	}
	_, p.Remarks = compiled(def)
	for _, t := range offered {
		p.Types = append(p.Types, typeOption{string(t), t.Words()})
	}
	b := &rowBuilder{def: def, syms: def.Symbols(), at: at, remarks: p.Remarks, types: p.Types, fault: fault, today: expr.ClockAt(d.now().Unix(), def.Symbols().Zone)}
	p.Pages = b.pages()
	p.Ties = b.ties
	name := "manuscript"
	if r.Header.Get("HX-Request") != "" {
		name = "manuscript-body"
	}
	return d.pages.Page(w, status, name, p)
}

// tieFault is a tie as it was written last, with what is wrong with it.
type tieFault struct{ owner, property, source, text string }

type rowBuilder struct {
	def     *form.Form
	syms    *expr.Symbols
	at      string
	remarks []form.Remark
	types   []typeOption
	fault   *tieFault
	today   expr.Clock
	ties    int
}

func (b *rowBuilder) pages() []pageRow {
	var out []pageRow
	for i, p := range b.def.Pages {
		row := pageRow{Page: p, Number: i + 1, Selected: p.Key == b.at, Only: len(b.def.Pages) == 1,
			Ties: b.rules(b.syms, []ruleOf{{"shown", p.Shown}})}
		for _, n := range p.Next {
			if line, ok := b.line(b.syms, "value", "Then "+b.nameOf(n.Page)+" when ", n.When); ok {
				row.Ties = append(row.Ties, line)
			}
		}
		if row.Selected {
			row.Editor = b.editor(b.syms, p.Key, "shown", p.Shown, true)
		}
		for _, s := range p.Sections {
			row.Sections = append(row.Sections, b.section(p, s))
		}
		out = append(out, row)
	}
	return out
}

func (b *rowBuilder) nameOf(page string) string {
	if p := b.def.Page(page); p != nil {
		return p.Name()
	}
	return page
}

func (b *rowBuilder) section(p *form.Page, s *form.Section) sectionRow {
	row := sectionRow{Section: s, Page: p.Key, Selected: s.Key == b.at, Ties: b.rules(b.syms, []ruleOf{{"shown", s.Shown}})}
	if s.Repeat != nil && s.Repeat.Rows != "" {
		if line, ok := b.line(b.syms, "value", "As many rows as ", s.Repeat.Rows); ok {
			row.Ties = append(row.Ties, line)
		}
	}
	if row.Selected {
		row.Editor = b.editor(b.syms, s.Key, "shown", s.Shown, true)
	}
	for i, it := range s.Items {
		row.Items = append(row.Items, b.item(s, it, i))
	}
	return row
}

func (b *rowBuilder) item(s *form.Section, it *form.Item, i int) itemRow {
	syms := b.syms
	if g := syms.Groups[s.Key]; g != nil {
		syms = syms.InRow(g)
	}
	row := itemRow{Item: it, Section: s.Key, Index: i, Selected: it.Key == b.at, Summary: summary(b.def, it), First: i == 0, Last: i == len(s.Items)-1}
	row.Ties = b.rules(syms, []ruleOf{{"shown", it.Shown}, {"required", it.Required}, {"locked", it.Locked}})
	if it.Value != nil {
		lead := map[string]string{"starts": "Starts as ", "follows": "Follows ", "is": "Always is "}[it.Value.Property()]
		if line, ok := b.line(syms, "value", lead, it.Value.Expr()); ok {
			row.Ties = append(row.Ties, line)
		}
		if line, ok := b.line(syms, "value", "… only while ", it.Value.When); ok {
			row.Ties = append(row.Ties, line)
		}
	}
	b.choiceLines(&row, syms, it)
	for _, ch := range it.Checks {
		if line, ok := b.line(syms, "check", "Accepted when ", ch.OK); ok {
			row.Ties = append(row.Ties, line)
		}
	}
	for _, wd := range it.Wording {
		if line, ok := b.line(syms, "wording", "Worded “"+wd.Label+"” when ", wd.When); ok {
			row.Ties = append(row.Ties, line)
		}
	}
	for _, rm := range b.remarks {
		if rm.Item == it.Key {
			row.Remarks = append(row.Remarks, rm)
		}
	}
	if row.Selected {
		b.unfold(&row, syms, it)
	}
	return row
}

func (b *rowBuilder) choiceLines(row *itemRow, syms *expr.Symbols, it *form.Item) {
	if !it.Type.Picks() {
		return
	}
	candidate := syms.WithCandidate(expr.Type{Kind: expr.Choice, Options: b.def.Options(it)})
	add := func(lead, src string) {
		if line, ok := b.line(candidate, "choices", lead, src); ok {
			row.Ties = append(row.Ties, line)
		}
	}
	add("Choices offered when ", it.Offered.Expr)
	add("Choices withheld when ", it.Withheld.Expr)
	for _, c := range it.Choices {
		add(c.Name()+" offered when ", c.Offered.Expr)
		add(c.Name()+" withheld when ", c.Withheld.Expr)
	}
	if it.ChoicesFrom != nil && it.ChoicesFrom.Where != "" {
		add("Choices from "+it.ChoicesFrom.List+" where ", it.ChoicesFrom.Where)
	}
}

func (b *rowBuilder) unfold(row *itemRow, syms *expr.Symbols, it *form.Item) {
	row.Editors = []*tieEditor{b.editor(syms, it.Key, "shown", it.Shown, true)}
	if it.Asked() && !it.Type.Computed() {
		row.Editors = append(row.Editors, b.editor(syms, it.Key, "required", it.Required, false), b.editor(syms, it.Key, "locked", it.Locked, false))
	}
	row.CanValue = it.Asked()
	row.Starting = starting(it)
	row.Text = it.Type == form.Text || it.Type == form.Paragraph
	row.Types = b.types
	if !slices.ContainsFunc(b.types, func(t typeOption) bool { return t.Value == string(it.Type) }) {
		row.Types = append(slices.Clone(b.types), typeOption{string(it.Type), it.Type.Words()})
	}
	var lines []string
	for _, c := range it.Choices {
		if c.Label == "" || c.Label == c.Value {
			lines = append(lines, c.Value)
		} else {
			lines = append(lines, c.Value+" = "+c.Label)
		}
	}
	row.ChoiceText = strings.Join(lines, "\n")
	for _, t := range b.def.Dependents(it.Key) {
		row.Drives = append(row.Drives, driven{t.Owner, b.label(t.Owner), effectWords(t.Property)})
	}
}

func (b *rowBuilder) label(key string) string {
	if p, ok := b.def.Find(key); ok {
		return p.Item.Name()
	}
	if _, s := b.def.Section(key); s != nil {
		return s.Name()
	}
	return b.nameOf(key)
}

// effectWords says what a tie changes, by its property.
func effectWords(property string) string {
	head, _, _ := strings.Cut(property, ".")
	if w := map[string]string{"shown": "is shown", "required": "is required", "locked": "is locked", "value": "gets its value", "checks": "is checked",
		"wording": "is worded", "next": "comes next", "repeat": "repeats"}[head]; w != "" {
		return w
	}
	return "offers its choices"
}

type ruleOf struct {
	property string
	rule     form.Rule
}

// rules are the margin lines of shown, required and locked.
func (b *rowBuilder) rules(syms *expr.Symbols, rules []ruleOf) []tieLine {
	var out []tieLine
	for _, ru := range rules {
		word := map[string]string{"shown": "Shown", "required": "Required", "locked": "Locked"}[ru.property]
		switch {
		case ru.rule.IsZero(), ru.rule.Fixed && ru.rule.Yes == (ru.property == "shown"):
		case ru.rule.Fixed && ru.property == "shown":
			out = append(out, tieLine{Kind: "shown", Lead: "Never shown"})
		case ru.rule.Fixed && ru.property == "required": // its mark beside the question says so
		case ru.rule.Fixed:
			out = append(out, tieLine{Kind: ru.property, Lead: word + " always"})
		default:
			line, _ := b.line(syms, ru.property, word+" when ", ru.rule.Expr)
			out = append(out, line)
		}
	}
	return out
}

// line is one tie as a sentence; ok is false if there is none.
func (b *rowBuilder) line(syms *expr.Symbols, kind, lead, src string) (tieLine, bool) {
	if src == "" {
		return tieLine{}, false
	}
	b.ties++
	n, err := expr.Parse(src)
	if err != nil {
		return tieLine{Kind: kind, Lead: lead, Pieces: []expr.Piece{{Text: src, Role: expr.ASource}}, Faulty: err.Error()}, true
	}
	say := syms.Sentence
	if strings.HasSuffix(lead, " as ") || strings.HasSuffix(lead, " is ") || lead == "Follows " {
		say = syms.Phrase
	}
	return tieLine{Kind: kind, Lead: lead, Pieces: say(n), Sources: strings.Join(expr.Mentions(n), " ")}, true
}

func summary(def *form.Form, it *form.Item) string {
	if it.Type.Picks() {
		labels := def.Options(it).Labels
		text := strings.Join(labels[:min(len(labels), 8)], " · ")
		if len(labels) > 8 {
			text += " · and " + strconv.Itoa(len(labels)-8) + " more"
		}
		if it.Type == form.ChoicesType {
			text += " (several)"
		}
		return text
	}
	words := it.Type.Words()
	return strings.ToUpper(words[:1]) + words[1:]
}

// editor prepares the sentence editor of one rule.
func (b *rowBuilder) editor(syms *expr.Symbols, owner, property string, ru form.Rule, usually bool) *tieEditor {
	e := &tieEditor{Owner: owner, Property: property, Title: map[string]string{"shown": "Shown", "required": "Required", "locked": "Locked"}[property], Usual: "never", State: "never", Join: "all"}
	if usually {
		e.Usual, e.State = "always", "always"
	}
	if ru.Fixed {
		e.State = map[bool]string{true: "always", false: "never"}[ru.Yes]
	}
	e.Source = ru.Expr
	if b.fault != nil && b.fault.owner == owner && b.fault.property == property {
		e.Source, e.Fault, e.State, e.Written = b.fault.source, b.fault.text, "when", true
		return e
	}
	if ru.Expr == "" {
		return e
	}
	e.State = "when"
	n, err := expr.Parse(ru.Expr)
	if err != nil {
		e.Written, e.Fault = true, err.Error()
		return e
	}
	join, clauses, ok := syms.Clauses(n)
	if !ok {
		e.Written = true
		if _, faults := expr.CompileCondition(n, syms); len(faults) > 0 {
			e.Fault = faults[0].Text
		}
		return e
	}
	e.Join = join
	for i, c := range clauses {
		e.Clauses = append(e.Clauses, b.clause(syms, owner, i, c))
	}
	return e
}

func (b *rowBuilder) clause(syms *expr.Symbols, owner string, n int, c expr.Clause) clauseRow {
	subject, _ := syms.Subject(c.Key)
	row := clauseRow{N: n, Key: c.Key, Label: subject.Label, Op: c.Op, Subjects: b.subjects(syms, owner), Ops: subject.Type.Operators(), Picked: map[string]bool{}}
	op := subject.Type.Operator(c.Op)
	if o := subject.Type.Options; o != nil {
		for i := range o.Values {
			row.Options = append(row.Options, option{o.Values[i], o.Labels[i]})
		}
	}
	if op.Operands == expr.Many {
		row.Many = true
		for _, v := range c.Values {
			row.Picked[v] = true
		}
		return row
	}
	input := map[expr.Kind]string{expr.Num: "number", expr.Date: "date", expr.Time: "time", expr.Moment: "datetime-local"}[subject.Type.Kind]
	if input == "" {
		input = "text"
	}
	if len(row.Options) > 0 {
		input = "choice"
	}
	for i, v := range c.Values {
		row.Operands = append(row.Operands, operand{N: i, Value: v, Input: input})
	}
	return row
}

// subjects are all that a clause can be about at this place, but the owner itself.
func (b *rowBuilder) subjects(syms *expr.Symbols, owner string) []expr.Subject {
	var out []expr.Subject
	for p := range b.def.Places() {
		if p.Item.Key == owner {
			continue
		}
		if s, ok := syms.Subject(p.Item.Key); ok {
			out = append(out, s)
		}
	}
	for _, p := range b.def.Parameters {
		if s, ok := syms.Subject("url." + p.Name); ok {
			out = append(out, s)
		}
	}
	for _, key := range expr.ClauseSubjects {
		if s, ok := syms.Subject(key); ok {
			out = append(out, s)
		}
	}
	return out
}

// starting is a first expression for a value of the item's type, to be changed.
func starting(it *form.Item) string {
	switch it.Type {
	case form.Number:
		return "0"
	case form.Date:
		return "today"
	case form.Time:
		return "12:00"
	case form.YesNo, form.Tick:
		return "yes"
	case form.ChoiceType, form.ChoicesType:
		if len(it.Choices) > 0 {
			return expr.Quote(it.Choices[0].Value)
		}
	case form.Hidden:
		return "now"
	}
	return expr.Quote("…")
}

// hinders reports whether the draft can't be published.
func hinders(remarks []form.Remark) bool { return len(form.Errors(remarks)) > 0 }
