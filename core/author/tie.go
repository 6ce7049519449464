package author

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// SetState makes a rule hold "always", "never", or "when" a condition is met, which
// begins with the question before.
type SetState struct {
	Key      string `form:"key"`
	Property string `form:"property"`
	State    string `form:"state"`
}

func (c SetState) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: c.Key}
	if c.Key == "" {
		return c.ofForm(f)
	}
	var rule any
	switch c.State {
	case "always":
		if c.Property != "shown" {
			rule = form.Always
		}
	case "never":
		if c.Property == "shown" {
			rule = form.Never
		}
	default:
		if f.Expr(c.Key, c.Property) != "" {
			return nothing(c.Key), nil
		}
		first, err := beginning{form: f, syms: f.Scope(c.Key, c.Property), owner: c.Key}.firstClause()
		if err != nil {
			return d, err
		}
		rule = form.When(first.String())
	}
	d.Edit = form.SetProperty(c.Key, c.Property, rule)
	return d, nil
}

// ofForm is SetState for the form's own: what goes out, and that it is open, always or when
// a condition is met.
func (c SetState) ofForm(f *form.Form) (d Doing, err error) {
	if (c.State == "when") == (f.Expr("", c.Property) != "") {
		return nothing(""), nil
	}
	if c.State != "when" {
		d.Edit, err = f.SetTie("", c.Property, "")
		return d, err
	}
	first, err := beginning{form: f, syms: f.Scope("", c.Property), property: c.Property}.firstClause()
	if err != nil {
		return d, err
	}
	d.Edit, err = f.SetTie("", c.Property, first.String())
	return d, err
}

// beginning is where a condition that is begun stands.
type beginning struct {
	form     *form.Form
	syms     *expr.Symbols
	owner    string          // the item, section or page; "" for what goes out
	property string          // that it is begun for
	named    map[string]bool // what the condition is about already
}

// ends reports whether it is about a section or page that has been answered, as a check and
// a route are.
func (b beginning) ends() bool {
	return strings.HasPrefix(b.property, "check") || strings.HasPrefix(b.property, "next")
}

// sent reports whether it is about what was just sent.
func (b beginning) sent() bool { return strings.HasPrefix(b.property, "ends.") }

// firstClause is a condition to begin with, about what is likeliest: the question before,
// the last one of what was answered, an address parameter, the clock.
func (b beginning) firstClause() (expr.Node, error) {
	clause := expr.Clause{Key: "today", Op: ">="}
	if subject, ok := b.subject(); ok {
		clause = b.syms.FirstClause(subject)
	}
	if b.syms.Candidate != nil {
		clause = expr.Clause{Key: "choice", Op: "!="}
	}
	n, err := b.syms.ClauseNode(clause)
	if err != nil {
		return nil, misfit("%s", err)
	}
	return n, nil
}

// subject is what the condition is likely about; ok is false where only the clock is left.
func (b beginning) subject() (last expr.Subject, ok bool) {
	inside := false
	for p := range b.form.Places() {
		if b.property == form.OpenWhen { // nothing is answered yet
			break
		}
		within := b.owner != "" && (p.Section.Key == b.owner || p.Page.Key == b.owner)
		if p.Item.Key == b.owner || within && !b.ends() || inside && !within {
			break
		}
		inside = within
		if b.sent() && p.IsStaff() {
			continue // nobody has answered that yet
		}
		if s, found := b.syms.Subject(p.Item.Key); found && p.Item.Asked() && b.likelier(p.Item, last, ok) {
			last, ok = s, true
		}
	}
	if !ok && len(b.form.Parameters) > 0 {
		return b.syms.Subject("url." + b.form.Parameters[0].Name)
	}
	return last, ok
}

// likelier reports whether a question is likelier than the one found so far: it comes
// later, nothing is said of it yet, and what goes out hangs on what was picked rather than on what was written.
func (b beginning) likelier(it *form.Item, before expr.Subject, any bool) bool {
	switch {
	case !any || b.named[before.Key] && !b.named[it.Key]:
		return true
	case b.named[it.Key] && !b.named[before.Key]:
		return false
	case b.owner != "":
		return true
	}
	picked := it.Type.Picks() || it.Type == form.YesNo || it.Type == form.Tick
	return picked || before.Type.Options == nil && before.Type.Kind != expr.YesNo
}

// ChangePassage changes one place of a condition that is shown as a sentence. Act is
// "clause" (its subject, operator and values), "join" (how a group is joined), "source"
// (what it says as it is written), "add", "group" or "rows:SECTION" (what it has), or
// "remove".
type ChangePassage struct {
	Key      string `form:"key"`
	Property string `form:"property"`
	Path     string `form:"path"`
	Act      string `form:"act"`
	Join     string `form:"join"`
	Source   string `form:"source"`
	Subject  string `form:"subject"`
	// the key of what the page shows the operator and the values of; "" where it doesn't say
	About  string   `form:"about"`
	Op     string   `form:"op"`
	Values []string `form:"value"`
}

// joins are how a group can be joined, by what is posted; else all of it has to hold.
var joins = map[string]string{"any": expr.AnyOf, "none": expr.NoneOf, "any row": expr.AnyRow,
	"every row": expr.EveryRow}

func (c ChangePassage) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: c.Key}
	src, syms := f.Expr(c.Key, c.Property), f.Scope(c.Key, c.Property)
	n, err := expr.Parse(src)
	if err != nil {
		return d, misfit("the condition has to be written first")
	}
	root := syms.Outline(n)
	part, scope := root.PassageAt(c.Path, syms)
	if part == nil {
		return d, misfit("this part of the condition is no longer there")
	}
	act, of, _ := strings.Cut(c.Act, ":")
	switch act {
	case "clause":
		err = c.setClause(f, part, scope)
	case "join":
		if part.Join = joins[c.Join]; part.Join == "" {
			part.Join = expr.AllOf
		}
	case "source":
		n, err := scope.ReadWritten(c.Source, true)
		if err != nil {
			return d, misfit("%s", err)
		}
		if faults := expr.CheckBegun(n, scope, true); len(faults) > 0 {
			return d, misfit("%s", faults[0].Text)
		}
		part.Source, part.Clause = n.String(), nil
	case "add", "group":
		named := map[string]bool{}
		expr.Walk(n, func(n expr.Node) {
			if name, ok := n.(*expr.Name); ok {
				named[name.Name] = true
			}
		})
		err = addClause(part, beginning{form: f, syms: scope, owner: c.Key, property: c.Property, named: named},
			act == "group")
	case "rows":
		err = addRows(f, part, scope, of)
	case "remove":
		root.Remove(c.Path)
	default:
		err = misfit("there is no change called “%s”", act)
	}
	if err != nil {
		return d, err
	}
	text, err := conditionOf(root, syms)
	if err != nil {
		return d, err
	}
	d.Edit, err = f.SetTie(c.Key, c.Property, text)
	return d, err
}

// conditionOf writes an outline as a condition, "" for an empty one.
func conditionOf(root *expr.Passage, syms *expr.Symbols) (string, error) {
	n, err := syms.Condition(root)
	switch {
	case err != nil:
		return "", misfit("%s", err)
	case n == nil:
		return "", nil
	}
	if faults := expr.CheckBegun(n, syms, true); len(faults) > 0 {
		return "", misfit("%s", faults[0].Text)
	}
	return n.String(), nil
}

func (c ChangePassage) setClause(f *form.Form, part *expr.Passage, syms *expr.Symbols) error {
	if part.Clause == nil {
		return misfit("this part of the condition is no longer a clause")
	}
	key, err := Resolve(f, syms, c.Subject, part.Clause.Key)
	if err != nil {
		return err
	}
	after, ok := ClauseAfter(f, syms, *part.Clause, key, c.Op, c.Values)
	if !ok {
		return misfit("there is no question “%s”", c.Subject)
	}
	if c.About != "" && c.About != key {
		after.Values = nil
	}
	part.Clause = &after
	if _, err := syms.ClauseNode(after); err != nil {
		return misfit("%s", err)
	}
	return nil
}

// ClauseAfter is a clause once its question, its operator or its values were set by pointing.
// What it was compared with goes with the question that it was about, and so does an operator
// that was merely the likely one; values that do not fit a new operator are still to be given.
// The values are as people of the form's language type them. It is false where there is no
// such question.
func ClauseAfter(
	f *form.Form, syms *expr.Symbols, before expr.Clause, key, op string, typed []string,
) (expr.Clause, bool) {
	subject, ok := syms.Subject(key)
	if !ok {
		return before, false
	}
	chosen, values := subject.Type.Operator(op), readOperands(f, subject.Type, typed)
	if key != before.Key {
		values = nil
		if was, known := syms.Subject(before.Key); known && op == before.Op {
			chosen = subject.Type.Instead(was.Type, op)
		}
	}
	if key != before.Key || chosen.ID != before.Op {
		values = syms.KeptOperands(subject.Type, chosen, values)
	}
	return expr.Clause{Key: subject.Key, Op: chosen.ID, Values: values}, true
}

// readOperands are operands as expressions write them, from such as are typed by people of the
// form's language: numbers with its decimal sign.
func readOperands(f *form.Form, t expr.Type, values []string) []string {
	if t.Kind != expr.Num {
		return values
	}
	numbers, out := engine.NumbersOf(f.Language), make([]string, len(values))
	for i, v := range values {
		out[i] = numbers.Plain(v)
	}
	return out
}

// addClause adds a clause to a group, or another group of two, joined the other way.
func addClause(part *expr.Passage, b beginning, group bool) error {
	if part.Of != "" {
		b.syms = b.syms.InRow(b.syms.Groups[part.Of])
	}
	n, err := b.firstClause()
	if err != nil {
		return err
	}
	one := b.syms.Outline(n).Parts[0]
	if !group {
		part.Add(one)
		return nil
	}
	other := expr.AnyOf
	if part.Join == expr.AnyOf {
		other = expr.AllOf
	}
	two := *one
	part.Add(&expr.Passage{Join: other, Parts: []*expr.Passage{one, &two}})
	return nil
}

// addRows adds a group about the rows of a section.
func addRows(f *form.Form, part *expr.Passage, scope *expr.Symbols, of string) error {
	if part.Of != "" {
		scope = scope.InRow(scope.Groups[part.Of])
	}
	_, s := f.Section(of)
	if scope.Groups[of] == nil || s == nil {
		return misfit("there is no repeating section “%s”", of)
	}
	at := slices.IndexFunc(s.Items, (*form.Item).Asked)
	if at < 0 {
		return misfit("the section “%s” has no questions", s.Name())
	}
	inRow := scope.InRow(scope.Groups[of])
	subject, _ := inRow.Subject(s.Items[at].Key)
	first := inRow.FirstClause(subject)
	part.Add(&expr.Passage{Join: expr.AnyRow, Of: of, Parts: []*expr.Passage{{Clause: &first}}})
	return nil
}

// WriteTie sets a tie as it is written, or takes it away for a blank; one that can't be
// kept is a [Fault].
type WriteTie struct {
	Key      string `form:"key"`
	Property string `form:"property"`
	Source   string `form:"source"`
}

func (c WriteTie) Do(f *form.Form, now time.Time) (Doing, error) {
	src := strings.TrimSpace(c.Source)
	if src == "" {
		return RemoveTie{c.Key, c.Property}.Do(f, now)
	}
	d := Doing{At: c.Key}
	n, err := written(f, c.Key, c.Property, src)
	if err != nil {
		return d, err
	}
	d.Edit, err = f.SetTie(c.Key, c.Property, n.String())
	return d, err
}

// written reads an expression as a property wants it; a [Fault] says what is wrong.
func written(f *form.Form, owner, property, src string) (expr.Node, error) {
	condition, syms := form.Wants(property) && property != "value", f.Scope(owner, property)
	n, err := syms.ReadWritten(src, condition)
	if err != nil {
		return nil, &Fault{owner, property, src, err.Error()}
	}
	if faults := expr.CheckBegun(n, syms, condition); len(faults) > 0 {
		return nil, &Fault{owner, property, src, faults[0].Text}
	}
	return n, nil
}

// RemoveTie takes a tie away.
type RemoveTie struct {
	Key      string `form:"key"`
	Property string `form:"property"`
}

func (c RemoveTie) Do(f *form.Form, _ time.Time) (Doing, error) {
	e, err := f.SetTie(c.Key, c.Property, "")
	return Doing{Edit: e, At: c.Key}, err
}

// SetTieTexts sets what belongs to a check, a wording or a route besides its condition.
type SetTieTexts struct {
	Key      string `form:"key"`
	Property string `form:"property"` // of its condition, such as checks.0.ok
	Message  string `form:"message"`
	Label    string `form:"label"`
	Help     string `form:"help"`
	Page     string `form:"page"`
	Value    string `form:"value"` // of a case of a value, or what it is otherwise
}

func (c SetTieTexts) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: c.Key}
	p, isItem := f.Find(c.Key)
	if isItem && strings.HasPrefix(c.Property, "value.") {
		return c.ofCase(f, p.Item)
	}
	head, n := indexed(c.Property)
	page := f.Page(c.Key)
	all := f.ChecksOf(c.Key)
	switch {
	case n < 0:
	case head == "checks" && all != nil && n < len(*all):
		checks := slices.Clone(*all)
		checks[n].Message = c.Message
		d.Edit = form.SetProperty(c.Key, head, checks)
		return d, nil
	case isItem && head == "wording" && n < len(p.Item.Wording):
		wording := slices.Clone(p.Item.Wording)
		wording[n].Label, wording[n].Help = c.Label, c.Help
		d.Edit = form.SetProperty(c.Key, head, wording)
		return d, nil
	case page != nil && head == "next" && n < len(page.Next):
		next := slices.Clone(page.Next)
		next[n].Page = c.Page
		d.Edit = form.SetProperty(c.Key, head, next)
		return d, nil
	}
	return d, misfit("there is no tie “%s”", c.Property)
}

// otherwise is the property of what a value is in no case.
const otherwise = "value.otherwise"

// ofCase sets what a value is in a case, or in none.
func (c SetTieTexts) ofCase(f *form.Form, it *form.Item) (Doing, error) {
	d := Doing{At: c.Key}
	if it.Value == nil {
		return d, misfit("%s has no value", it.Name())
	}
	cases, rest, ok := form.Cases(it.Value.Expr())
	if !ok {
		return d, misfit("the value does not go by cases any more")
	}
	_, at := indexed(strings.TrimPrefix(c.Property, "value."))
	is, err := typedValue(f, it, c.Value)
	if c.Property == otherwise && is == expr.GapSign {
		is = "" // in none of the cases it may well be nothing
	}
	switch {
	case err != nil:
		return d, err
	case c.Property == otherwise:
		rest = is
	case at < 0 || at >= len(cases):
		return d, misfit("there is no such case")
	default:
		cases[at].Value = is
	}
	n, err := written(f, c.Key, "value", form.ByCases(cases, rest))
	if err != nil {
		return d, err
	}
	d.Edit = form.SetProperty(c.Key, "value", it.Value.WithExpr(n.String()))
	return d, nil
}

// AddCase adds a case to a value, behind those that it has.
type AddCase struct {
	Key string `form:"key"`
}

func (c AddCase) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: c.Key}
	it, err := item(f, c.Key)
	if err != nil {
		return d, err
	}
	if it.Value == nil {
		return d, misfit("%s has no value", it.Name())
	}
	src, err := oneMoreCase(f, it, it.Value.Expr())
	d.Edit = form.SetProperty(c.Key, "value", it.Value.WithExpr(src))
	return d, err
}

// oneMoreCase adds a case to an expression: about what is likely, with the value that
// there is in no case.
func oneMoreCase(f *form.Form, it *form.Item, src string) (string, error) {
	cases, rest, ok := form.Cases(src)
	if !ok {
		rest = src
	}
	named := map[string]bool{}
	for _, one := range cases {
		if n, err := expr.Parse(one.When); err == nil {
			expr.Walk(n, func(n expr.Node) {
				if name, ok := n.(*expr.Name); ok {
					named[name.Name] = true
				}
			})
		}
	}
	first, err := beginning{form: f, syms: f.Scope(it.Key, "value"), owner: it.Key, named: named}.firstClause()
	if err != nil {
		return "", err
	}
	return form.ByCases(append(cases, form.Case{When: first.String(), Value: expr.GapSign}), rest), nil
}

// indexed splits "checks.0.ok"; n is below 0 if there is no number in it.
func indexed(property string) (head string, n int) {
	head, rest, _ := strings.Cut(property, ".")
	index, _, _ := strings.Cut(rest, ".")
	n, err := strconv.Atoi(index)
	if err != nil {
		n = -1
	}
	return head, n
}

// AddTie begins a tie that the item or page does not have yet, with a condition about
// the question before.
type AddTie struct {
	Key      string `form:"key"`
	Property string `form:"property"`
}

func (c AddTie) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: c.Key}
	scope := c.Property
	switch {
	case strings.HasPrefix(c.Property, "choices."):
		scope = "shown"
	case c.Property == "check":
		scope = "checks.0.ok"
	}
	first, err := beginning{form: f, syms: f.Scope(c.Key, scope), owner: c.Key, property: c.Property}.firstClause()
	if err != nil {
		return d, err
	}
	if page := f.Page(c.Key); page != nil && c.Property == "next" {
		return addRoute(f, page, first)
	}
	checks := f.ChecksOf(c.Key)
	if _, isItem := f.Find(c.Key); !isItem && checks != nil && c.Property == "check" {
		d.Edit = form.SetProperty(c.Key, "checks",
			append(slices.Clone(*checks), form.Check{OK: first.String(), Message: "Please check this."}))
		return d, nil
	}
	it, err := item(f, c.Key)
	if err != nil {
		return d, err
	}
	switch head, _, _ := strings.Cut(c.Property, "."); {
	case c.Property == "value":
		d.Edit = form.SetProperty(c.Key, "value", form.Value{Starts: expr.GapSign})
	case c.Property == "check":
		d.Edit = form.SetProperty(
			c.Key, "checks",
			append(slices.Clone(*checks), form.Check{OK: firstCheck(f, it), Message: "Please check this answer."}),
		)
	case c.Property == "wording":
		d.Edit = form.SetProperty(c.Key, "wording",
			append(slices.Clone(it.Wording), form.Wording{When: first.String(), Label: it.Label}))
	case slices.Contains([]string{"locked", "offered", "withheld", "choices_from", "value", "choices", "rows"}, head):
		d.Edit, err = f.SetTie(c.Key, c.Property, first.String())
	default:
		err = misfit("there is no tie “%s”", c.Property)
	}
	return d, err
}

func addRoute(f *form.Form, page *form.Page, first expr.Node) (Doing, error) {
	d := Doing{At: page.Key}
	last := f.Pages[len(f.Pages)-1]
	if page == last {
		return d, misfit("no page comes after this one")
	}
	d.Edit = form.SetProperty(page.Key, "next",
		append(slices.Clone(page.Next), form.Next{When: first.String(), Page: last.Key}))
	return d, nil
}

// firstCheck is a check to begin with: about the answer itself.
func firstCheck(f *form.Form, it *form.Item) string {
	syms := f.Scope(it.Key, "shown")
	subject, ok := syms.Subject(it.Key)
	if !ok {
		return expr.GapSign
	}
	c := syms.FirstClause(subject)
	if subject.Type.Kind == expr.Text {
		c.Op = "contains" // that it is answered is what required is for
	}
	n, err := syms.ClauseNode(c)
	if err != nil {
		return expr.GapSign
	}
	return n.String()
}

// TieThese puts one condition on several items at once. What stands there already is
// replaced, or joined to for Join "also" (both) and "or" (either).
type TieThese struct {
	At      string   `form:"at"`
	Effect  string   `form:"effect"` // shown, required or locked
	Keys    []string `form:"mark"`
	Subject string   `form:"subject"`
	Op      string   `form:"op"`
	Values  []string `form:"value"`
	Join    string   `form:"and"`
}

func (c TieThese) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := nothing(c.At)
	switch {
	case !slices.Contains(effects, c.Effect):
		return d, misfit("there is no tie “%s”", c.Effect)
	case len(c.Keys) == 0:
		return d, misfit("mark the questions first")
	}
	for _, key := range c.Keys {
		it, err := item(f, key)
		if err != nil {
			return d, err
		}
		cond, err := c.condition(f, it)
		if err != nil {
			return d, err
		}
		d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, c.Effect, form.When(cond.String())))
	}
	return d, nil
}

func (c TieThese) condition(f *form.Form, it *form.Item) (expr.Node, error) {
	syms := f.Scope(it.Key, c.Effect)
	subject, err := Resolve(f, syms, c.Subject, "")
	if err != nil {
		return nil, err
	}
	if subject == it.Key {
		return nil, misfit("%s can’t depend on itself", it.Name())
	}
	about, _ := syms.Subject(subject)
	cond, err := syms.ClauseNode(expr.Clause{Key: subject, Op: c.Op, Values: readOperands(f, about.Type, c.Values)})
	if err != nil {
		return nil, misfit("%s", err)
	}
	if before := f.Expr(it.Key, c.Effect); before != "" {
		n, err := expr.Parse(before)
		if err != nil {
			return nil, misfit("the tie of %s has to be mended first", it.Name())
		}
		switch c.Join {
		case "also":
			cond = expr.All(terms(n, "and", cond)...)
		case "or":
			cond = expr.Any(terms(n, "or", cond)...)
		}
	}
	if _, faults := expr.CompileCondition(cond, syms); len(faults) > 0 {
		return nil, misfit("%s: %s", it.Name(), faults[0].Text)
	}
	return cond, nil
}

// terms are those of n, if it is joined by op, and one more, unless it is among them.
func terms(n expr.Node, op string, more expr.Node) []expr.Node {
	out := []expr.Node{n}
	if l, ok := n.(*expr.Logic); ok && l.Op == op {
		out = slices.Clone(l.Terms)
	}
	if slices.ContainsFunc(out, func(t expr.Node) bool { return expr.Equal(t, more) }) {
		return out
	}
	return append(out, more)
}

// CopyTie puts the condition of one tie on other items too; a check with its message.
type CopyTie struct {
	Key      string   `form:"key"`
	Property string   `form:"property"`
	To       string   `form:"to"`   // an item, by its label or key
	Keys     []string `form:"mark"` // and others
}

func (c CopyTie) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := nothing(c.Key)
	src := f.Expr(c.Key, c.Property)
	head, number := indexed(c.Property)
	if src == "" || head != "checks" && !slices.Contains(effects, head) {
		return d, misfit("this tie can’t be copied")
	}
	to := c.Keys
	if name := strings.TrimSpace(c.To); name != "" {
		key, err := itemNamed(f, name)
		if err != nil {
			return d, err
		}
		to = append(slices.Clone(to), key)
	}
	if len(to) == 0 {
		return d, misfit("say to which question the tie is copied")
	}
	n, err := expr.Parse(src)
	if err != nil {
		return d, misfit("the tie has to be mended first")
	}
	for _, key := range to {
		it, err := item(f, key)
		if err != nil {
			return d, err
		}
		if _, faults := expr.CompileCondition(n, f.Scope(key, head)); len(faults) > 0 {
			return d, misfit("it can’t stand at %s: %s", it.Name(), faults[0].Text)
		}
		e := form.SetProperty(key, head, form.When(src))
		if head == "checks" {
			from, _ := f.Find(c.Key)
			e = form.SetProperty(key, head, append(slices.Clone(it.Checks), from.Item.Checks[number]))
		}
		d.Edit.Edits = append(d.Edit.Edits, e)
	}
	return d, nil
}
