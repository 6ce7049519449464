// Package margin is what stands beside a form's questions: every tie as a sentence, and as
// a sentence to be changed.
package margin

import (
	"slices"
	"strconv"
	"strings"

	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
)

// Line is one tie in the margin: a knot, a sentence, and the questions that
// arcs run from.
type Line struct {
	Kind     string // shown, required, locked, value, choices, check, wording, route: the form of its knot
	Property string
	Lead     string // the words before the sentence
	Pieces   []expr.Piece
	Sources  string // keys, separated by blanks
	Faulty   string
	Begun    bool // a value is still to be given in it
}

// Editor is one tie unfolded: as a sentence, or as it is written.
type Editor struct {
	Owner, Property, ID string
	Kind                string
	Title               string
	Rule                bool   // it has the states always and never too
	NoNever             bool   // but for never
	Of                  string // the row that it is unfolded in, if that is not its owner's
	State               string // always, never or when
	Always, When        string // the words for those, "" for the usual ones
	Root                *Passage
	Source              string
	Written             bool // shown as it is written
	Fault               string
	Begun               bool     // a value is still to be given in it
	Waits               []string // the parts that wait for it, in words
	Reads               string   // a written one as a sentence
	Sources             string   // the keys it names, if it is written
	Bothways            bool     // whether the rehearsal can fill the form for it
	Texts               []Text
	Value               *Value
	Groups              []layout.Option // the repeating sections whose rows it can be about
	Subjects            []expr.Subject  // what it can be about, if that is more than elsewhere in the form
}

// Row is the row that the tie is unfolded in.
func (t Editor) Row() string {
	if t.Of != "" {
		return t.Of
	}
	return t.Owner
}

// Example is an expression such as could be written here.
func (t Editor) Example() string {
	if t.Property == "repeat.rows" {
		return "left to the respondent; or such as count_of_rowers"
	}
	return `such as boat_class = "eight" and trailer >= 12`
}

// Text is a text that belongs to a tie: the message of a check, the label of
// a wording, the page of a route.
type Text struct {
	Field, Label, Value string
	Options             []layout.Option
}

// Passage is a part of a condition: a group, a clause, or a piece left as it
// is written.
type Passage struct {
	Path, ID string
	Join     string
	OfLabel  string // of a group by rows
	Parts    []*Passage
	Clause   *Clause
	Source   string
	Words    string // it as a sentence
}

// Group reports whether the part is a group.
func (p *Passage) Group() bool { return p.Join != "" }

// ByRows reports whether it is a group about the rows of a section.
func (p *Passage) ByRows() bool { return p.OfLabel != "" }

// Clause is one statement about a subject, with what it can be changed into.
type Clause struct {
	Key      string
	Label    string
	Op       string
	Ops      []expr.Operator
	Unit     string // words behind its operands
	Operands []Operand
	Many     bool
	Picked   map[string]bool
	Options  []layout.Option
}

// Operand is what a subject is compared with.
type Operand struct {
	N       int
	Value   string
	Input   string // text, number, date, time, datetime-local or choice
	Written bool   // an expression rather than a plain value
}

// Value is where a value comes from.
type Value struct {
	How        string // "", starts, follows or is
	From       string // fixed, answer, parameter, today, now or written
	Fixed      string
	Input      string
	Options    []layout.Option // of a choice question
	Answer     string          // the label of the question it is taken from
	Parameter  string
	Parameters []layout.Option
	Source     string
	Computed   bool
	Type       string
	Otherwise  string // of cases: what it is in none of them
}

// SharedList is a list of the workspace; Columns are its key and those that a response
// stores and people read.
type SharedList struct {
	ID        store.ListID
	Key, Name string
	Columns   []string
}

// Margin builds the lines and editors beside one draft.
type Margin struct {
	Def    *form.Form
	Shared []SharedList // the workspace's lists to draw choices from
	Syms   *expr.Symbols
	Today  expr.Day
	Fault  *author.Fault // of an expression that was not taken
	Write  string        // the property that is shown as it is written
	Ties   int           // lines made so far

	labels author.Labels
}

// label tells a question from others that read alike.
func (m *Margin) label(key, label string) string {
	if m.labels == nil {
		m.labels = author.LabelsOf(m.Def)
	}
	return m.labels.Name(key, label)
}

var effectTitles = map[string]string{
	"shown": "Shown", "required": "Required", "locked": "Locked", "offered": "Choices offered",
	"withheld": "Choices withheld",
}

// ItemTies lists every tie of an item as a line.
func (m *Margin) ItemTies(it *form.Item) []Line {
	out := m.rules(it.Key, []ruleOf{{"shown", it.Shown}, {"required", it.Required}, {"locked", it.Locked}})
	if v := it.Value; v != nil {
		lead := map[string]string{"starts": "Starts as ", "follows": "Follows ", "is": "Always is "}[v.Property()]
		out = m.add(out, it.Key, "value."+v.Property(), "value", lead, v.Expr())
		out = m.add(out, it.Key, "value.when", "value", "… only while ", v.When)
	}
	if it.Type.Picks() {
		out = m.add(out, it.Key, "offered", "choices", "Choices offered when ", it.Offered.Expr)
		out = m.add(out, it.Key, "withheld", "choices", "Choices withheld when ", it.Withheld.Expr)
		for i, c := range it.Choices {
			at := "choices." + strconv.Itoa(i) + "."
			out = m.add(out, it.Key, at+"offered", "choices", c.Name()+" offered when ", c.Offered.Expr)
			out = m.add(out, it.Key, at+"withheld", "choices", c.Name()+" withheld when ", c.Withheld.Expr)
		}
		if from := it.ChoicesFrom; from != nil {
			out = m.add(out, it.Key, "choices_from.where", "choices", "Choices from "+m.ListName(from.List)+" where ",
				from.Where)
		}
	}
	out = m.add(out, it.Key, "places", "choices", "As many places for each choice as ", it.Places.Expr())
	for i, c := range it.Choices {
		out = m.add(out, it.Key, "choices."+strconv.Itoa(i)+".places", "choices", c.Name()+" has as many places as ",
			c.Places.Expr())
	}
	for i, row := range it.Rows {
		out = m.add(out, it.Key, "rows."+strconv.Itoa(i)+".shown", "shown", row.Name()+" shown when ", row.Shown.Expr)
	}
	for _, b := range it.Bounds() {
		out = m.add(out, it.Key, b.Property, "check", boundLead(it, b.Property), b.Expr())
	}
	for i, ch := range it.Checks {
		out = m.add(out, it.Key, "checks."+strconv.Itoa(i)+".ok", "check", "Accepted when ", ch.OK)
	}
	for i, wd := range it.Wording {
		out = m.add(out, it.Key, "wording."+strconv.Itoa(i)+".when", "wording", "Worded “"+wd.Label+"” when ", wd.When)
	}
	return out
}

// boundLead begins the line of a bound that is an expression.
func boundLead(it *form.Item, property string) string {
	switch {
	case it.Type == form.Date && property == "min", it.Type == form.Time && property == "min":
		return "No earlier than "
	case it.Type == form.Date && property == "max", it.Type == form.Time && property == "max":
		return "No later than "
	}
	p, _ := form.PropertyNamed(property)
	return p.Lead
}

// SectionTies lists every tie of a section.
func (m *Margin) SectionTies(s *form.Section) []Line {
	out := m.rules(s.Key, []ruleOf{{"shown", s.Shown}})
	if s.Repeat != nil {
		out = m.add(out, s.Key, "repeat.rows", "value", "As many rows as ", s.Repeat.Rows)
	}
	for i, ch := range s.Checks {
		out = m.add(out, s.Key, "checks."+strconv.Itoa(i)+".ok", "check", "Accepted when ", ch.OK)
	}
	return out
}

// PageTies lists every tie of a page: its condition, its routes and its checks.
func (m *Margin) PageTies(p *form.Page) []Line {
	out := m.rules(p.Key, []ruleOf{{"shown", p.Shown}})
	for i, ch := range p.Checks {
		out = m.add(out, p.Key, "checks."+strconv.Itoa(i)+".ok", "check", "Accepted when ", ch.OK)
	}
	for i, n := range p.Next {
		out = m.add(out, p.Key, "next."+strconv.Itoa(i)+".when", "route", "Then "+m.Def.NameOf(n.Page)+" when ", n.When)
	}
	return out
}

type ruleOf struct {
	property string
	rule     form.Rule
}

// rules are the lines of shown, required and locked.
func (m *Margin) rules(owner string, rules []ruleOf) []Line {
	var out []Line
	for _, ru := range rules {
		word := effectTitles[ru.property]
		switch {
		case ru.rule.IsZero(), ru.rule.Fixed && ru.rule.Yes == (ru.property == "shown"):
		case ru.rule.Fixed && ru.property == "shown":
			out = append(out, Line{Kind: "shown", Property: "shown", Lead: "Never shown"})
		case ru.rule.Fixed && ru.property == "required": // its mark beside the question says so
		case ru.rule.Fixed:
			out = append(out, Line{Kind: ru.property, Property: ru.property, Lead: word + " always"})
		default:
			out = m.add(out, owner, ru.property, ru.property, word+" when ", ru.rule.Expr)
		}
	}
	return out
}

// add puts the line of a tie behind out, if there is one.
func (m *Margin) add(out []Line, owner, property, kind, lead, src string) []Line {
	if src == "" {
		return out
	}
	m.Ties++
	line := Line{Kind: kind, Property: property, Lead: lead}
	n, err := expr.Parse(src)
	if err != nil {
		line.Pieces, line.Faulty = []expr.Piece{{Text: src, Role: expr.ASource}}, err.Error()
		return append(out, line)
	}
	syms := m.Scope(owner, property)
	switch {
	case form.Wants(property):
		line.Pieces = syms.Sentence(n)
	case strings.HasPrefix(property, "value."):
		line.Pieces = syms.PhraseFor(n, owner)
	default:
		line.Pieces = syms.Phrase(n)
	}
	line.Sources = strings.Join(expr.Mentions(n, m.Syms.Repeats), " ")
	line.Begun = expr.HasGap(n)
	return append(out, line)
}

// Scope is form.Scope on the symbols that were made once.
func (m *Margin) Scope(owner, property string) *expr.Symbols {
	return m.Def.Narrow(m.Syms, owner, property)
}

// DOMID is a property as an id of the page.
func DOMID(property string) string { return strings.ReplaceAll(property, ".", "-") }

// editor unfolds the condition at a property.
func (m *Margin) editor(owner, property, kind, title, src string) *Editor {
	e := &Editor{Owner: owner, Property: property, ID: DOMID(property), Kind: kind, Title: title, State: "when",
		Source:  src,
		Written: m.Write == property}
	if property != form.OpenWhen { // when one arrives there are no rows yet
		for s := range author.Repeating(m.Def) {
			e.Groups = append(e.Groups, layout.Option{Value: s.Key, Label: s.Name()})
		}
	}
	if m.Fault != nil && m.Fault.Owner == owner && m.Fault.Property == property {
		e.Source, e.Fault, e.Written = m.Fault.Source, m.Fault.Text, true
		return e
	}
	if src == "" {
		return e
	}
	m.Ties++
	syms := m.Scope(owner, property)
	if syms.Row != nil || syms.Candidate != nil || syms.Entry != nil {
		e.Subjects = author.Subjects(m.Def, syms, "")
	}
	n, err := expr.Parse(src)
	if err != nil {
		e.Written, e.Fault = true, err.Error()
		return e
	}
	e.Begun, e.Waits = expr.HasGap(n), syms.Waiting(n)
	if faults := expr.CheckBegun(n, syms, true); len(faults) > 0 {
		e.Fault = faults[0].Text
	} else {
		e.Bothways = form.Seekable(property) && expr.Finished(n) != nil
	}
	if e.Written {
		e.Sources = strings.Join(expr.Mentions(n, m.Syms.Repeats), " ")
		e.Reads = expr.PiecesText(syms.Sentence(n))
		return e
	}
	e.Root = m.passage(syms, syms.Outline(n), "", e.ID)
	return e
}

// rule unfolds shown, required or locked, which can also hold always or never.
func (m *Margin) rule(owner, property string, ru form.Rule) *Editor {
	e := m.editor(owner, property, property, effectTitles[property], ru.Expr)
	e.Rule = true
	if ru.Expr != "" || e.Fault != "" {
		return e
	}
	e.State = map[bool]string{true: "always", false: "never"}[ru.Yes]
	if ru.IsZero() {
		e.State = map[bool]string{true: "always", false: "never"}[property == "shown"]
	}
	return e
}

func (m *Margin) passage(syms *expr.Symbols, p *expr.Passage, path, id string) *Passage {
	row := &Passage{Path: path, ID: id, Join: p.Join, Source: p.Source}
	if path != "" {
		row.ID = id + "-" + DOMID(path)
	}
	if n, err := expr.Parse(p.Source); p.Source != "" && err == nil {
		row.Words = expr.PiecesText(syms.Sentence(n))
	}
	if p.Clause != nil {
		row.Clause = m.Clause(syms, *p.Clause)
		return row
	}
	inner := syms
	if g := syms.Groups[p.Of]; g != nil {
		row.OfLabel, inner = g.Label, syms.InRow(g)
	}
	for i, kid := range p.Parts {
		at := strconv.Itoa(i)
		if path != "" {
			at = path + "." + at
		}
		row.Parts = append(row.Parts, m.passage(inner, kid, at, id))
	}
	return row
}

// Clause is a clause with all that it can be changed into.
func (m *Margin) Clause(syms *expr.Symbols, c expr.Clause) *Clause {
	subject, _ := syms.Subject(c.Key)
	row := &Clause{
		Key: c.Key, Label: m.label(subject.Key, subject.Label), Op: c.Op,
		Ops: subject.Type.Operators(), Picked: map[string]bool{},
	}
	op := subject.Type.Operator(c.Op)
	if o := subject.Type.Options; o != nil {
		for i := range o.Values {
			row.Options = append(row.Options, layout.Option{Value: o.Values[i], Label: o.Labels[i]})
		}
	}
	if op.Operands == expr.Many && len(row.Options) > 0 {
		row.Many = true
		for _, v := range c.Values {
			row.Picked[v] = true
		}
		return row
	}
	of := subject.Type
	if op.Of != expr.Blank {
		of = expr.Type{Kind: op.Of}
	}
	row.Unit = op.Unit
	for i, v := range c.Values {
		o := Operand{N: i, Value: v, Input: inputFor(of.Kind)}
		o.Written = !plainOperand(of, v)
		if of.Kind == expr.Num {
			o.Value = engine.NumbersOf(m.Def.Language).Typed(v)
		}
		switch {
		case o.Written:
			o.Input = "text"
		case len(row.Options) > 0:
			o.Input = "choice"
		}
		row.Operands = append(row.Operands, o)
	}
	return row
}

func inputFor(k expr.Kind) string {
	if in := map[expr.Kind]string{expr.Num: "number", expr.Date: "date", expr.Time: "time",
		expr.Moment: "datetime-local"}[k]; in != "" {
		return in
	}
	return "text"
}

// plainOperand reports whether an operand is a value, or still to be given, rather than an
// expression.
func plainOperand(t expr.Type, text string) bool {
	if text == "" {
		return true
	}
	switch t.Kind {
	case expr.Num:
		_, err := expr.ParseNumber(text)
		return err == nil
	case expr.Date:
		_, ok := expr.ParseDay(text)
		return ok
	case expr.Time:
		_, ok := expr.ParseTime(text)
		return ok
	case expr.Moment:
		n, err := expr.Parse(text)
		lit, ok := n.(*expr.Literal)
		return err == nil && ok && lit.Kind == expr.Moment
	}
	if t.Options != nil {
		_, ok := t.Options.Find(text)
		return ok
	}
	return true
}

// value unfolds where a value comes from.
func (m *Margin) value(it *form.Item) *Editor {
	e := &Editor{Owner: it.Key, Property: "value", ID: "value", Kind: "value", Title: "Value"}
	v := &Value{Computed: it.Type.Computed(), Type: string(it.Type)}
	e.Value = v
	for _, p := range m.Def.Parameters {
		v.Parameters = append(v.Parameters, layout.Option{Value: p.Name, Label: layout.LabelOr(p.Label, p.Name)})
	}
	if it.Type.Picks() {
		o := m.Def.Options(it)
		for i := range o.Values {
			v.Options = append(v.Options, layout.Option{Value: o.Values[i], Label: o.Labels[i]})
		}
	}
	syms := m.Scope(it.Key, "value")
	v.Input = "text"
	if sym := syms.Items[it.Key]; sym != nil {
		v.Input = inputFor(sym.Type.Kind)
	}
	if it.Type == form.YesNo || it.Type == form.Tick {
		v.Options = []layout.Option{{Value: "yes", Label: "Yes"}, {Value: "no", Label: "No"}}
	}
	if it.Value == nil {
		if v.Computed {
			v.How, v.From = "is", "written"
		}
		return e
	}
	v.How, v.Source = it.Value.Property(), it.Value.Expr()
	v.From = "written"
	if m.Fault != nil && m.Fault.Owner == it.Key && m.Fault.Property == "value" {
		v.Source, e.Fault = m.Fault.Source, m.Fault.Text
		return e
	}
	n, err := expr.Parse(v.Source)
	if err != nil {
		e.Fault = err.Error()
		return e
	}
	if m.Write != "value" {
		m.valueFrom(v, syms, n)
	}
	e.Reads, e.Begun = expr.PiecesText(syms.Phrase(n)), expr.HasGap(n)
	if faults := expr.CheckBegun(n, syms, false); len(faults) > 0 {
		e.Fault = faults[0].Text
	}
	return e
}

// valueFrom recognizes the simple sources of a value.
func (m *Margin) valueFrom(v *Value, syms *expr.Symbols, n expr.Node) {
	switch n := n.(type) {
	case *expr.Gap:
		v.From = "fixed"
	case *expr.Literal:
		v.From, v.Fixed = "fixed", m.asTyped(n.String())
	case *expr.Call:
		if _, rest, ok := form.Cases(v.Source); ok {
			v.From, v.Otherwise = "cases", m.asTyped(rest)
		}
	case *expr.Name:
		switch {
		case n.Name == "today" || n.Name == "now":
			v.From = n.Name
		case syms.Items[n.Name] != nil:
			s, _ := syms.Subject(n.Name)
			v.From, v.Answer = "answer", m.label(s.Key, s.Label)
		}
	case *expr.Member:
		if n.Of == "url" {
			v.From, v.Parameter = "parameter", n.Name
		}
	}
}

// asTyped is an expression as it is typed for a value: a text without its quotes, nothing
// for what is still to be given.
func (m *Margin) asTyped(src string) string {
	if src == expr.GapSign {
		return ""
	}
	if n, err := expr.Parse(src); err == nil {
		if lit, ok := n.(*expr.Literal); ok && lit.Kind == expr.Text {
			return lit.Text
		}
	}
	return engine.NumbersOf(m.Def.Language).Typed(src)
}

// cases unfolds the cases of a value, if it goes by cases.
func (m *Margin) cases(it *form.Item) []*Editor {
	if it.Value == nil || m.Write == "value" {
		return nil
	}
	cases, _, ok := form.Cases(it.Value.Expr())
	if !ok {
		return nil
	}
	var out []*Editor
	for i, one := range cases {
		title := "When"
		if i > 0 {
			title = "Else when"
		}
		e := m.editor(it.Key, "value.cases."+strconv.Itoa(i)+".when", "value", title, one.When)
		e.Texts = []Text{{Field: "value", Label: "it is", Value: m.asTyped(one.Value), Options: m.valueOptions(it)}}
		out = append(out, e)
	}
	return out
}

// valueOptions are the choices of a question that is answered by one, for its value.
func (m *Margin) valueOptions(it *form.Item) []layout.Option {
	if it.Type != form.ChoiceType {
		return nil
	}
	var out []layout.Option
	for i, value := range m.Def.Options(it).Values {
		out = append(out, layout.Option{Value: value, Label: m.Def.Options(it).Labels[i]})
	}
	return out
}

// Editors unfolds every tie that an item has, shown and required in any case.
func (m *Margin) Editors(it *form.Item) []*Editor {
	out := []*Editor{m.rule(it.Key, "shown", it.Shown)}
	if it.Asked() && !it.Type.Computed() {
		out = append(out, m.rule(it.Key, "required", it.Required))
		if !it.Locked.IsZero() || m.Write == "locked" {
			out = append(out, m.rule(it.Key, "locked", it.Locked))
		}
	}
	if it.Asked() && (it.Value != nil || it.Type.Computed()) {
		out = append(append(out, m.value(it)), m.cases(it)...)
		if it.Value != nil && it.Value.Follows != "" && it.Value.When != "" {
			out = append(out, m.editor(it.Key, "value.when", "value", "… only while", it.Value.When))
		}
	}
	if it.Type.Picks() {
		if it.Offered.Expr != "" {
			out = append(out, m.editor(it.Key, "offered", "choices", "Choices offered when", it.Offered.Expr))
		}
		if it.Withheld.Expr != "" {
			out = append(out, m.editor(it.Key, "withheld", "choices", "Choices withheld when", it.Withheld.Expr))
		}
		for i, c := range it.Choices {
			at := "choices." + strconv.Itoa(i) + "."
			if c.Offered.Expr != "" {
				out = append(out, m.editor(it.Key, at+"offered", "choices", c.Name()+" offered when", c.Offered.Expr))
			}
			if c.Withheld.Expr != "" {
				out = append(out, m.editor(it.Key, at+"withheld", "choices", c.Name()+" withheld when", c.Withheld.Expr))
			}
		}
		if it.ChoicesFrom != nil && it.ChoicesFrom.Where != "" {
			out = append(out, m.editor(
				it.Key, "choices_from.where", "choices", "From "+m.ListName(it.ChoicesFrom.List)+", those where",
				it.ChoicesFrom.Where,
			))
		}
	}
	for i, row := range it.Rows {
		if row.Shown.Expr != "" {
			out = append(out, m.editor(it.Key, "rows."+strconv.Itoa(i)+".shown", "shown", row.Name()+" shown when",
				row.Shown.Expr))
		}
	}
	out = append(out, m.checkEditors(it.Key, it.Checks)...)
	for i, wd := range it.Wording {
		e := m.editor(it.Key, "wording."+strconv.Itoa(i)+".when", "wording", "Worded otherwise when", wd.When)
		e.Texts = []Text{{Field: "label", Label: "question", Value: wd.Label}, {Field: "help", Label: "help", Value: wd.Help}}
		out = append(out, e)
	}
	return out
}

// checkEditors unfolds the checks of an item, a section or a page.
func (m *Margin) checkEditors(owner string, checks []form.Check) []*Editor {
	var out []*Editor
	for i, ch := range checks {
		e := m.editor(owner, "checks."+strconv.Itoa(i)+".ok", "check", "Accepted when", ch.OK)
		e.Texts = []Text{{Field: "message", Label: "else the respondent reads", Value: ch.Message}}
		out = append(out, e)
	}
	return out
}

// SectionEditors unfolds every tie of a section.
func (m *Margin) SectionEditors(s *form.Section) []*Editor {
	return append([]*Editor{m.rule(s.Key, "shown", s.Shown)}, m.checkEditors(s.Key, s.Checks)...)
}

// PageEditors unfolds every tie of the page with that number, which counts from 1.
func (m *Margin) PageEditors(p *form.Page, number int) []*Editor {
	out := append([]*Editor{m.rule(p.Key, "shown", p.Shown)}, m.checkEditors(p.Key, p.Checks)...)
	for i, n := range p.Next {
		e := m.editor(p.Key, "next."+strconv.Itoa(i)+".when", "route", "Goes on elsewhere when", n.When)
		var pages []layout.Option
		for _, later := range m.Def.Pages[min(number, len(m.Def.Pages)):] {
			pages = append(pages, layout.Option{Value: later.Key, Label: m.Def.NameOf(later.Key)})
		}
		e.Texts = []Text{{Field: "page", Label: "then to", Value: n.Page, Options: pages}}
		out = append(out, e)
	}
	return out
}

// Addable are the kinds of tie that an item does not have yet, or can have more of.
func Addable(it *form.Item) []layout.Option {
	var out []layout.Option
	if it.Asked() && !it.Type.Computed() {
		if it.Locked.IsZero() {
			out = append(out, layout.Option{Value: "locked", Label: "Locked"})
		}
		if it.Value == nil {
			out = append(out, layout.Option{Value: "value", Label: "Filled"})
		} else if it.Value.Follows != "" && it.Value.When == "" {
			out = append(out, layout.Option{Value: "value.when", Label: "Only while"})
		}
		if it.Type.Picks() {
			if it.Offered.Expr == "" {
				out = append(out, layout.Option{Value: "offered", Label: "Choices offered"})
			}
			if it.Withheld.Expr == "" {
				out = append(out, layout.Option{Value: "withheld", Label: "Choices withheld"})
			}
			if it.ChoicesFrom != nil && it.ChoicesFrom.Where == "" {
				out = append(out, layout.Option{Value: "choices_from.where", Label: "List narrowed"})
			}
		}
		out = append(out, layout.Option{Value: "check", Label: "Checked"})
	}
	return append(out, layout.Option{Value: "wording", Label: "Reworded"})
}

// Tied is a question that the selected one depends on or drives.
type Tied struct{ Key, Label, Effect, Through string }

// tiedShown is how many of them are named; the rest are counted.
const tiedShown = 8

// Tied are those of all that are named, and how many more there are.
func (m *Margin) Tied(all []form.Tied) (out []Tied, more int) {
	more = max(0, len(all)-tiedShown)
	for _, t := range all[:len(all)-more] {
		row := Tied{Key: t.Key, Label: m.Def.NameOf(t.Key)}
		if t.Through != "" {
			row.Through = m.Def.NameOf(t.Through)
		}
		var effects []string
		for _, p := range t.Effects {
			if w := author.EffectWords(p); !slices.Contains(effects, w) {
				effects = append(effects, w)
			}
		}
		row.Effect = strings.Join(effects, ", ")
		out = append(out, row)
	}
	return out, more
}

// First is a clause about the first thing that one can be about.
func (m *Margin) First(syms *expr.Symbols) *Clause {
	all := author.Subjects(m.Def, syms, "")
	return m.Clause(syms, syms.FirstClause(all[0]))
}

// RowsEditor is the number of rows of a repeating section, as it is written.
func (m *Margin) RowsEditor(s *form.Section) *Editor {
	e := &Editor{
		Owner: s.Key, Property: "repeat.rows", ID: "repeat-rows", Kind: "value", Title: "As many rows as",
		State: "when", Source: s.Repeat.Rows, Written: true,
	}
	if m.Fault != nil && m.Fault.Owner == s.Key && m.Fault.Property == "repeat.rows" {
		e.Source, e.Fault = m.Fault.Source, m.Fault.Text
		return e
	}
	if n, err := expr.Parse(s.Repeat.Rows); err == nil {
		e.Reads = expr.PiecesText(m.Syms.Phrase(n))
	}
	return e
}

// ListName is what people call a list of the form.
func (m *Margin) ListName(name string) string {
	for _, l := range m.Shared {
		if l.Key == m.Def.Lists[name].Shared {
			return l.Name
		}
	}
	return name
}
