package manuscript

import (
	"slices"
	"strconv"
	"strings"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/frame"
)

// tieLine is one tie in the margin: a knot, a sentence, and the questions that
// arcs run from.
type tieLine struct {
	Kind     string // shown, required, locked, value, choices, check, wording, route: the form of its knot
	Property string
	Lead     string // the words before the sentence
	Pieces   []expr.Piece
	Sources  string // keys, separated by blanks
	Faulty   string
}

// tieEditor is one tie unfolded: as a sentence, or as it is written.
type tieEditor struct {
	Owner, Property, ID string
	Kind                string
	Title               string
	Rule                bool   // it has the states always and never too
	State               string // always, never or when
	Root                *passageRow
	Source              string
	Written             bool // shown as it is written
	Fault               string
	Reads               string // a written one as a sentence
	Sources             string // the keys it names, if it is written
	Bothways            bool   // whether the rehearsal can fill the form for it
	Texts               []tieText
	Value               *valueEditor
}

// Example is an expression such as could be written here.
func (t tieEditor) Example() string {
	if t.Property == "repeat.rows" {
		return "left to the respondent; or such as count_of_rowers"
	}
	return `such as boat_class = "eight" and trailer >= 12`
}

// tieText is a text that belongs to a tie: the message of a check, the label of
// a wording, the page of a route.
type tieText struct {
	Field, Label, Value string
	Options             []frame.Option
}

// passageRow is a part of a condition: a group, a clause, or a piece left as it
// is written.
type passageRow struct {
	Path, ID string
	Join     string
	OfLabel  string // of a group by rows
	Parts    []*passageRow
	Clause   *clauseRow
	Source   string
	Words    string // it as a sentence
}

// Group reports whether the part is a group.
func (p *passageRow) Group() bool { return p.Join != "" }

// ByRows reports whether it is a group about the rows of a section.
func (p *passageRow) ByRows() bool { return p.OfLabel != "" }

type clauseRow struct {
	Key      string
	Label    string
	Op       string
	Ops      []expr.Operator
	Operands []operand
	Many     bool
	Picked   map[string]bool
	Options  []frame.Option
}

type operand struct {
	N       int
	Value   string
	Input   string // text, number, date, time, datetime-local or choice
	Written bool   // an expression rather than a plain value
}

// valueEditor is where a value comes from.
type valueEditor struct {
	How        string // "", starts, follows or is
	From       string // fixed, answer, parameter, today, now or written
	Fixed      string
	Input      string
	Options    []frame.Option // of a choice question
	Answer     string         // the label of the question it is taken from
	Parameter  string
	Parameters []frame.Option
	Source     string
	Computed   bool
	Type       string
}

// margin builds the margin's lines and editors for one draft.
// sharedList is a list of the workspace; Columns are its key and those that a response
// stores and people read.
type sharedList struct {
	ID        store.ListID
	Key, Name string
	Columns   []string
}

type margin struct {
	def    *form.Form
	shared []sharedList
	syms   *expr.Symbols
	today  expr.Day
	fault  *author.Fault
	write  string // the property that is shown as it is written
	ties   int
}

var effectTitles = map[string]string{
	"shown": "Shown", "required": "Required", "locked": "Locked", "offered": "Choices offered",
	"withheld": "Choices withheld",
}

// ties lists every tie of an item as a line.
func (m *margin) itemTies(it *form.Item) []tieLine {
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
			out = m.add(out, it.Key, "choices_from.where", "choices", "Choices from "+m.listName(from.List)+" where ", from.Where)
		}
	}
	out = m.add(out, it.Key, "places", "choices", "As many places for each choice as ", it.Places.Expr())
	for i, c := range it.Choices {
		out = m.add(out, it.Key, "choices."+strconv.Itoa(i)+".places", "choices", c.Name()+" has as many places as ", c.Places.Expr())
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
	return map[string]string{
		"min": "At least ", "max": "At most ", "step": "In steps of ", "min_length": "As many characters, at least, as ",
		"max_length": "As many characters, at most, as ", "min_picked": "As many picks, at least, as ",
		"max_picked": "As many picks, at most, as ",
	}[property]
}

func (m *margin) sectionTies(s *form.Section) []tieLine {
	out := m.rules(s.Key, []ruleOf{{"shown", s.Shown}})
	if s.Repeat != nil {
		out = m.add(out, s.Key, "repeat.rows", "value", "As many rows as ", s.Repeat.Rows)
	}
	for i, ch := range s.Checks {
		out = m.add(out, s.Key, "checks."+strconv.Itoa(i)+".ok", "check", "Accepted when ", ch.OK)
	}
	return out
}

func (m *margin) pageTies(p *form.Page) []tieLine {
	out := m.rules(p.Key, []ruleOf{{"shown", p.Shown}})
	for i, ch := range p.Checks {
		out = m.add(out, p.Key, "checks."+strconv.Itoa(i)+".ok", "check", "Accepted when ", ch.OK)
	}
	for i, n := range p.Next {
		out = m.add(out, p.Key, "next."+strconv.Itoa(i)+".when", "route", "Then "+author.NameOf(m.def, n.Page)+" when ", n.When)
	}
	return out
}

type ruleOf struct {
	property string
	rule     form.Rule
}

// rules are the lines of shown, required and locked.
func (m *margin) rules(owner string, rules []ruleOf) []tieLine {
	var out []tieLine
	for _, ru := range rules {
		word := effectTitles[ru.property]
		switch {
		case ru.rule.IsZero(), ru.rule.Fixed && ru.rule.Yes == (ru.property == "shown"):
		case ru.rule.Fixed && ru.property == "shown":
			out = append(out, tieLine{Kind: "shown", Property: "shown", Lead: "Never shown"})
		case ru.rule.Fixed && ru.property == "required": // its mark beside the question says so
		case ru.rule.Fixed:
			out = append(out, tieLine{Kind: ru.property, Property: ru.property, Lead: word + " always"})
		default:
			out = m.add(out, owner, ru.property, ru.property, word+" when ", ru.rule.Expr)
		}
	}
	return out
}

// add puts the line of a tie behind out, if there is one.
func (m *margin) add(out []tieLine, owner, property, kind, lead, src string) []tieLine {
	if src == "" {
		return out
	}
	m.ties++
	line := tieLine{Kind: kind, Property: property, Lead: lead}
	n, err := expr.Parse(src)
	if err != nil {
		line.Pieces, line.Faulty = []expr.Piece{{Text: src, Role: expr.ASource}}, err.Error()
		return append(out, line)
	}
	syms := m.scope(owner, property)
	if form.Wants(property) {
		line.Pieces = syms.Sentence(n)
	} else {
		line.Pieces = syms.Phrase(n)
	}
	line.Sources = strings.Join(expr.Mentions(n, m.syms.Repeats), " ")
	return append(out, line)
}

// scope is form.Scope on the symbols that were made once.
func (m *margin) scope(owner, property string) *expr.Symbols {
	return m.def.Narrow(m.syms, owner, property)
}

func domID(property string) string { return strings.ReplaceAll(property, ".", "-") }

// editor unfolds the condition at a property.
func (m *margin) editor(owner, property, kind, title, src string) *tieEditor {
	e := &tieEditor{Owner: owner, Property: property, ID: domID(property), Kind: kind, Title: title, State: "when", Source: src,
		Written: m.write == property}
	if m.fault != nil && m.fault.Owner == owner && m.fault.Property == property {
		e.Source, e.Fault, e.Written = m.fault.Source, m.fault.Text, true
		return e
	}
	if src == "" {
		return e
	}
	m.ties++
	syms := m.scope(owner, property)
	n, err := expr.Parse(src)
	if err != nil {
		e.Written, e.Fault = true, err.Error()
		return e
	}
	if _, faults := expr.CompileCondition(n, syms); len(faults) > 0 {
		e.Fault = faults[0].Text
	} else {
		e.Bothways = form.Seekable(property)
	}
	if e.Written {
		e.Sources = strings.Join(expr.Mentions(n, m.syms.Repeats), " ")
		e.Reads = expr.PiecesText(syms.Sentence(n))
		return e
	}
	e.Root = m.passage(syms, syms.Outline(n), "", e.ID)
	return e
}

// rule unfolds shown, required or locked, which can also hold always or never.
func (m *margin) rule(owner, property string, ru form.Rule) *tieEditor {
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

func (m *margin) passage(syms *expr.Symbols, p *expr.Passage, path, id string) *passageRow {
	row := &passageRow{Path: path, ID: id, Join: p.Join, Source: p.Source}
	if path != "" {
		row.ID = id + "-" + domID(path)
	}
	if n, err := expr.Parse(p.Source); p.Source != "" && err == nil {
		row.Words = expr.PiecesText(syms.Sentence(n))
	}
	if p.Clause != nil {
		row.Clause = m.clause(syms, *p.Clause)
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

func (m *margin) clause(syms *expr.Symbols, c expr.Clause) *clauseRow {
	subject, _ := syms.Subject(c.Key)
	row := &clauseRow{
		Key: c.Key, Label: author.LabelsOf(m.def).Of(subject.Key, subject.Label), Op: c.Op,
		Ops: subject.Type.Operators(), Picked: map[string]bool{},
	}
	op := subject.Type.Operator(c.Op)
	if o := subject.Type.Options; o != nil {
		for i := range o.Values {
			row.Options = append(row.Options, frame.Option{Value: o.Values[i], Label: o.Labels[i]})
		}
	}
	if op.Operands == expr.Many && len(row.Options) > 0 {
		row.Many = true
		for _, v := range c.Values {
			row.Picked[v] = true
		}
		return row
	}
	for i, v := range c.Values {
		o := operand{N: i, Value: v, Input: inputFor(subject.Type.Kind)}
		o.Written = !plainOperand(subject.Type, v)
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
	if in := map[expr.Kind]string{expr.Num: "number", expr.Date: "date", expr.Time: "time", expr.Moment: "datetime-local"}[k]; in != "" {
		return in
	}
	return "text"
}

// plainOperand reports whether an operand is a value rather than an expression.
func plainOperand(t expr.Type, text string) bool {
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
func (m *margin) value(it *form.Item) *tieEditor {
	e := &tieEditor{Owner: it.Key, Property: "value", ID: "value", Kind: "value", Title: "Value"}
	v := &valueEditor{Computed: it.Type.Computed(), Type: string(it.Type)}
	e.Value = v
	for _, p := range m.def.Parameters {
		v.Parameters = append(v.Parameters, frame.Option{Value: p.Name, Label: frame.LabelOr(p.Label, p.Name)})
	}
	if it.Type.Picks() {
		o := m.def.Options(it)
		for i := range o.Values {
			v.Options = append(v.Options, frame.Option{Value: o.Values[i], Label: o.Labels[i]})
		}
	}
	syms := m.scope(it.Key, "value")
	v.Input = "text"
	if sym := syms.Items[it.Key]; sym != nil {
		v.Input = inputFor(sym.Type.Kind)
	}
	if it.Type == form.YesNo || it.Type == form.Tick {
		v.Options = []frame.Option{{Value: "yes", Label: "Yes"}, {Value: "no", Label: "No"}}
	}
	if it.Value == nil {
		if v.Computed {
			v.How, v.From = "is", "written"
		}
		return e
	}
	v.How, v.Source = it.Value.Property(), it.Value.Expr()
	v.From = "written"
	if m.fault != nil && m.fault.Owner == it.Key && m.fault.Property == "value" {
		v.Source, e.Fault = m.fault.Source, m.fault.Text
		return e
	}
	n, err := expr.Parse(v.Source)
	if err != nil {
		e.Fault = err.Error()
		return e
	}
	if m.write != "value" {
		m.valueFrom(v, syms, n)
	}
	e.Reads = expr.PiecesText(syms.Phrase(n))
	if _, faults := expr.Compile(n, syms); len(faults) > 0 {
		e.Fault = faults[0].Text
	}
	return e
}

// valueFrom recognizes the simple sources of a value.
func (m *margin) valueFrom(v *valueEditor, syms *expr.Symbols, n expr.Node) {
	switch n := n.(type) {
	case *expr.Literal:
		v.From, v.Fixed = "fixed", n.String()
		if n.Kind == expr.Text {
			v.Fixed = n.Text
		}
	case *expr.Name:
		switch {
		case n.Name == "today" || n.Name == "now":
			v.From = n.Name
		case syms.Items[n.Name] != nil:
			s, _ := syms.Subject(n.Name)
			v.From, v.Answer = "answer", author.LabelsOf(m.def).Of(s.Key, s.Label)
		}
	case *expr.Member:
		if n.Of == "url" {
			v.From, v.Parameter = "parameter", n.Name
		}
	}
}

// editors unfolds every tie that an item has, shown and required in any case.
func (m *margin) editors(it *form.Item) []*tieEditor {
	out := []*tieEditor{m.rule(it.Key, "shown", it.Shown)}
	if it.Asked() && !it.Type.Computed() {
		out = append(out, m.rule(it.Key, "required", it.Required))
		if !it.Locked.IsZero() || m.write == "locked" {
			out = append(out, m.rule(it.Key, "locked", it.Locked))
		}
	}
	if it.Asked() && (it.Value != nil || it.Type.Computed()) {
		out = append(out, m.value(it))
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
				it.Key, "choices_from.where", "choices", "From "+m.listName(it.ChoicesFrom.List)+", those where", it.ChoicesFrom.Where,
			))
		}
	}
	for i, row := range it.Rows {
		if row.Shown.Expr != "" {
			out = append(out, m.editor(it.Key, "rows."+strconv.Itoa(i)+".shown", "shown", row.Name()+" shown when", row.Shown.Expr))
		}
	}
	out = append(out, m.checkEditors(it.Key, it.Checks)...)
	for i, wd := range it.Wording {
		e := m.editor(it.Key, "wording."+strconv.Itoa(i)+".when", "wording", "Worded otherwise when", wd.When)
		e.Texts = []tieText{{Field: "label", Label: "question", Value: wd.Label}, {Field: "help", Label: "help", Value: wd.Help}}
		out = append(out, e)
	}
	return out
}

// checkEditors unfolds the checks of an item, a section or a page.
func (m *margin) checkEditors(owner string, checks []form.Check) []*tieEditor {
	var out []*tieEditor
	for i, ch := range checks {
		e := m.editor(owner, "checks."+strconv.Itoa(i)+".ok", "check", "Accepted when", ch.OK)
		e.Texts = []tieText{{Field: "message", Label: "else the respondent reads", Value: ch.Message}}
		out = append(out, e)
	}
	return out
}

func (m *margin) sectionEditors(s *form.Section) []*tieEditor {
	return append([]*tieEditor{m.rule(s.Key, "shown", s.Shown)}, m.checkEditors(s.Key, s.Checks)...)
}

func (m *margin) pageEditors(p *form.Page, number int) []*tieEditor {
	out := append([]*tieEditor{m.rule(p.Key, "shown", p.Shown)}, m.checkEditors(p.Key, p.Checks)...)
	for i, n := range p.Next {
		e := m.editor(p.Key, "next."+strconv.Itoa(i)+".when", "route", "Goes on elsewhere when", n.When)
		var pages []frame.Option
		for _, later := range m.def.Pages[min(number, len(m.def.Pages)):] {
			pages = append(pages, frame.Option{Value: later.Key, Label: later.Name()})
		}
		e.Texts = []tieText{{Field: "page", Label: "then to", Value: n.Page, Options: pages}}
		out = append(out, e)
	}
	return out
}

// addable are the kinds of tie that an item does not have yet, or can have more of.
func addable(it *form.Item) []frame.Option {
	var out []frame.Option
	if it.Asked() && !it.Type.Computed() {
		if it.Locked.IsZero() {
			out = append(out, frame.Option{Value: "locked", Label: "Locked"})
		}
		if it.Value == nil {
			out = append(out, frame.Option{Value: "value", Label: "Filled"})
		} else if it.Value.Follows != "" && it.Value.When == "" {
			out = append(out, frame.Option{Value: "value.when", Label: "Only while"})
		}
		if it.Type.Picks() {
			if it.Offered.Expr == "" {
				out = append(out, frame.Option{Value: "offered", Label: "Choices offered"})
			}
			if it.Withheld.Expr == "" {
				out = append(out, frame.Option{Value: "withheld", Label: "Choices withheld"})
			}
			if it.ChoicesFrom != nil && it.ChoicesFrom.Where == "" {
				out = append(out, frame.Option{Value: "choices_from.where", Label: "List narrowed"})
			}
		}
		out = append(out, frame.Option{Value: "check", Label: "Checked"})
	}
	return append(out, frame.Option{Value: "wording", Label: "Reworded"})
}

// tiedRow is a question that the selected one depends on or drives.
type tiedRow struct{ Key, Label, Effect, Through string }

// tiedShown is how many of them are named; the rest are counted.
const tiedShown = 8

func (m *margin) tied(all []form.Tied) (out []tiedRow, more int) {
	more = max(0, len(all)-tiedShown)
	for _, t := range all[:len(all)-more] {
		row := tiedRow{Key: t.Key, Label: author.NameOf(m.def, t.Key)}
		if t.Through != "" {
			row.Through = author.NameOf(m.def, t.Through)
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
