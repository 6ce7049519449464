package desk

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
)

// tieScope finds the expression that a posted change is about, and its symbols.
func tieScope(def *form.Form, v url.Values) (owner, property, src string, syms *expr.Symbols) {
	owner, property = v.Get("key"), v.Get("property")
	return owner, property, def.Expr(owner, property), def.Scope(owner, property)
}

// setState makes a rule hold always, never, or when a condition is met.
func (d *Desk) setState(def *form.Form, v url.Values) (change, error) {
	owner, property, src, syms := tieScope(def, v)
	c := change{at: owner}
	var rule any
	switch v.Get("state") {
	case "always":
		if property != "shown" {
			rule = form.Always
		}
	case "never":
		if property == "shown" {
			rule = form.Never
		}
	default:
		if src != "" {
			c.edit = form.Edit{Op: form.Batch}
			return c, nil
		}
		first, err := d.firstClause(def, syms, owner)
		if err != nil {
			return c, err
		}
		rule = form.When(first.String())
	}
	c.edit = form.SetProperty(owner, property, rule)
	return c, nil
}

// firstClause is a condition to begin with: about the question before.
func (d *Desk) firstClause(def *form.Form, syms *expr.Symbols, owner string) (expr.Node, error) {
	key := "today"
	for p := range def.Places() {
		if p.Item.Key == owner {
			break
		}
		if _, ok := syms.Subject(p.Item.Key); ok && p.Item.Asked() && p.Item.Key != owner {
			key = p.Item.Key
		}
	}
	if syms.Candidate != nil && len(syms.Candidate.Options.Values) > 0 {
		return syms.ClauseNode(expr.Clause{Key: "choice", Op: "!=", Values: syms.Candidate.Options.Values[:1]})
	}
	return syms.ClauseNode(expr.Clause{Key: key, Op: "answered"})
}

// setPassage changes one place of a condition that is shown as a sentence: a
// clause, how a group is joined, or what it has.
func (d *Desk) setPassage(def *form.Form, v url.Values) (change, error) {
	owner, property, src, syms := tieScope(def, v)
	c := change{at: owner}
	n, err := expr.Parse(src)
	if err != nil {
		return c, wrong("the condition has to be written first")
	}
	root := syms.Outline(n)
	path := v.Get("path")
	part, scope := root.At(path, syms)
	if part == nil {
		return c, wrong("this part of the condition is no longer there")
	}
	act, of, _ := strings.Cut(v.Get("act"), ":")
	switch act {
	case "clause":
		if err := d.setClause(def, part, scope, v); err != nil {
			return c, err
		}
	case "join":
		part.Join = map[string]string{"any": expr.AnyOf, "none": expr.NoneOf, "any row": expr.AnyRow, "every row": expr.EveryRow}[v.Get("join")]
		if part.Join == "" {
			part.Join = expr.AllOf
		}
	case "source":
		c.fault = checkCondition(scope, owner, property, v.Get("source"))
		if c.fault != nil {
			c.fault.source = src
			return c, wrong("%s", c.fault.text)
		}
		part.Source, part.Clause = v.Get("source"), nil
	case "add", "group", "rows":
		if err := d.addPart(def, part, scope, owner, act, of); err != nil {
			return c, err
		}
	case "remove":
		root.Remove(path)
	default:
		return c, wrong("there is no change called “%s”", act)
	}
	cond, err := syms.Condition(root)
	if err != nil {
		return c, wrong("%s", err)
	}
	text := ""
	if cond != nil {
		text = cond.String()
		if _, faults := expr.CompileCondition(cond, syms); len(faults) > 0 {
			return c, wrong("%s", faults[0].Text)
		}
	}
	c.edit, err = def.SetTie(owner, property, text)
	return c, err
}

// setClause changes a clause. Operands that do not fit a new question or
// operator are replaced by some that do.
func (d *Desk) setClause(def *form.Form, part *expr.Passage, syms *expr.Symbols, v url.Values) error {
	if part.Clause == nil {
		return wrong("this part of the condition is no longer a clause")
	}
	key, err := resolve(def, syms, v.Get("subject"), part.Clause.Key)
	if err != nil {
		return err
	}
	subject, ok := syms.Subject(key)
	if !ok {
		return wrong("there is no question “%s”", v.Get("subject"))
	}
	op := subject.Type.Operator(v.Get("op"))
	values := v["value"]
	if key != part.Clause.Key || op.ID != part.Clause.Op || op.Operands == expr.Many {
		today := expr.ClockAt(d.now().Unix(), syms.Zone).Day()
		values = syms.FirstOperands(subject.Type, op, values, today)
	}
	part.Clause = &expr.Clause{Key: subject.Key, Op: op.ID, Values: values}
	if _, err := syms.ClauseNode(*part.Clause); err != nil {
		return wrong("%s", err)
	}
	return nil
}

// resolve finds the key that an author meant by a label, a key, or a value as it
// is written.
func resolve(def *form.Form, syms *expr.Symbols, text, before string) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return before, nil
	}
	all := subjects(def, syms, "")
	if own, ok := syms.Subject(before); ok {
		own.Label = subjectLabel(def, own)
		all = append(all, own)
	}
	labels := make([]string, 0, len(all))
	for _, s := range all {
		if strings.EqualFold(s.Label, text) || s.Key == text {
			return s.Key, nil
		}
		labels = append(labels, s.Label)
	}
	if s, ok := syms.Subject(text); ok {
		return s.Key, nil
	}
	if near := expr.Nearest(text, labels); near != "" {
		return "", wrong("there is no question “%s”; did you mean “%s”?", text, near)
	}
	return "", wrong("there is no question “%s”", text)
}

// addPart adds a clause, a group, or a group about the rows of a section.
func (d *Desk) addPart(def *form.Form, part *expr.Passage, scope *expr.Symbols, owner, act, of string) error {
	if part.Of != "" {
		scope = scope.InRow(scope.Groups[part.Of])
	}
	if act == "rows" {
		g := scope.Groups[of]
		if g == nil || len(g.Items) == 0 {
			return wrong("there is no repeating section “%s” with questions", of)
		}
		_, s := def.Section(of)
		key := ""
		for _, it := range s.Items {
			if it.Asked() {
				key = it.Key
				break
			}
		}
		part.Add(&expr.Passage{Join: expr.AnyRow, Of: of, Parts: []*expr.Passage{{Clause: &expr.Clause{Key: key, Op: "answered"}}}})
		return nil
	}
	n, err := d.firstClause(def, scope, owner)
	if err != nil {
		return wrong("%s", err)
	}
	one := scope.Outline(n).Parts[0]
	if act == "add" {
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

// checkCondition reports what is wrong with a condition as it is written.
func checkCondition(syms *expr.Symbols, owner, property, src string) *tieFault {
	n, err := expr.Parse(src)
	if err != nil {
		return &tieFault{owner, property, src, err.Error()}
	}
	if _, faults := expr.CompileCondition(n, syms); len(faults) > 0 {
		return &tieFault{owner, property, src, faults[0].Text}
	}
	return nil
}

// setSource sets a tie as it is written; a faulty one is shown with its fault and
// not kept.
func setSource(def *form.Form, v url.Values) (change, error) {
	owner, property, _, syms := tieScope(def, v)
	c := change{at: owner}
	src := strings.TrimSpace(v.Get("source"))
	if src == "" {
		var err error
		c.edit, err = def.SetTie(owner, property, "")
		return c, err
	}
	n, err := expr.Parse(src)
	if err != nil {
		c.fault = &tieFault{owner, property, src, err.Error()}
		return c, nil
	}
	compile := expr.Compile
	if form.Wants(property) {
		compile = expr.CompileCondition
	}
	if _, faults := compile(n, syms); len(faults) > 0 {
		c.fault = &tieFault{owner, property, src, faults[0].Text}
		return c, nil
	}
	c.edit, err = def.SetTie(owner, property, n.String())
	return c, err
}

// setTexts sets what belongs to a check, a wording or a route besides its condition.
func setTexts(def *form.Form, v url.Values) (change, error) {
	owner, property := v.Get("key"), v.Get("property")
	c := change{at: owner}
	head, rest, _ := strings.Cut(property, ".")
	index, _, _ := strings.Cut(rest, ".")
	n, err := strconv.Atoi(index)
	p, isItem := def.Find(owner)
	page := def.Page(owner)
	switch {
	case err != nil, n < 0:
	case isItem && head == "checks" && n < len(p.Item.Checks):
		checks := slices.Clone(p.Item.Checks)
		checks[n].Message = v.Get("message")
		c.edit = form.SetProperty(owner, head, checks)
		return c, nil
	case isItem && head == "wording" && n < len(p.Item.Wording):
		wording := slices.Clone(p.Item.Wording)
		wording[n].Label, wording[n].Help = v.Get("label"), v.Get("help")
		c.edit = form.SetProperty(owner, head, wording)
		return c, nil
	case page != nil && head == "next" && n < len(page.Next):
		next := slices.Clone(page.Next)
		next[n].Page = v.Get("page")
		c.edit = form.SetProperty(owner, head, next)
		return c, nil
	}
	return c, wrong("there is no tie “%s”", property)
}

// addTie begins a tie that the item or page does not have yet.
func (d *Desk) addTie(def *form.Form, v url.Values) (change, error) {
	owner, property := v.Get("key"), v.Get("property")
	c := change{at: owner}
	first, err := d.firstClause(def, def.Scope(owner, property), owner)
	if err != nil {
		return c, wrong("%s", err)
	}
	if page := def.Page(owner); page != nil && property == "next" {
		i := slices.Index(def.Pages, page)
		if i == len(def.Pages)-1 {
			return c, wrong("no page comes after this one")
		}
		c.edit = form.SetProperty(owner, "next", append(slices.Clone(page.Next), form.Next{When: first.String(), Page: def.Pages[len(def.Pages)-1].Key}))
		return c, nil
	}
	p, ok := def.Find(owner)
	if !ok {
		return c, wrong("there is no item “%s”", owner)
	}
	it := p.Item
	switch property {
	case "locked", "offered", "withheld", "choices_from.where":
		c.edit, err = def.SetTie(owner, property, first.String())
	case "value":
		c.edit = form.SetProperty(owner, "value", form.Value{Starts: starting(it)})
	case "value.when":
		c.edit, err = def.SetTie(owner, property, first.String())
	case "check":
		own := owner + " is answered"
		if n, err := def.Scope(owner, "shown").ClauseNode(firstCheck(def, it)); err == nil {
			own = n.String()
		}
		c.edit = form.SetProperty(owner, "checks", append(slices.Clone(it.Checks), form.Check{OK: own, Message: "Please check this answer."}))
	case "wording":
		c.edit = form.SetProperty(owner, "wording", append(slices.Clone(it.Wording), form.Wording{When: first.String(), Label: it.Label}))
	default:
		head, _, _ := strings.Cut(property, ".")
		if head != "choices" {
			return c, wrong("there is no tie “%s”", property)
		}
		first, err = d.firstClause(def, def.Scope(owner, "shown"), owner)
		if err == nil {
			c.edit, err = def.SetTie(owner, property, first.String())
		}
	}
	return c, err
}

// firstCheck is a check to begin with: about the answer itself.
func firstCheck(def *form.Form, it *form.Item) expr.Clause {
	c := expr.Clause{Key: it.Key, Op: "answered"}
	switch it.Type {
	case form.Number:
		c.Op, c.Values = ">=", []string{"0"}
	case form.Date:
		c.Op, c.Values = "<=", []string{"today"}
	}
	return c
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

// setValue sets where a value comes from.
func setValue(def *form.Form, v url.Values) (change, error) {
	key, how := v.Get("key"), v.Get("how")
	c := change{at: key}
	p, ok := def.Find(key)
	if !ok {
		return c, wrong("there is no item “%s”", key)
	}
	if how == "" {
		return did(key)(author.SetValueSource(def, key, "", ""))
	}
	syms := def.Scope(key, "value")
	src, err := valueSource(def, syms, p.Item, v)
	if err != nil {
		return c, err
	}
	n, perr := expr.Parse(src)
	if perr != nil {
		c.fault = &tieFault{key, "value", src, perr.Error()}
		return c, nil
	}
	if _, faults := expr.Compile(n, syms); len(faults) > 0 {
		c.fault = &tieFault{key, "value", src, faults[0].Text}
		return c, nil
	}
	return did(key)(author.SetValueSource(def, key, how, n.String()))
}

// valueSource writes the expression for what was picked as the value's source.
func valueSource(def *form.Form, syms *expr.Symbols, it *form.Item, v url.Values) (string, error) {
	switch from := v.Get("from"); from {
	case "today", "now":
		return from, nil
	case "parameter":
		name := v.Get("parameter")
		if name == "" && len(def.Parameters) > 0 {
			name = def.Parameters[0].Name
		}
		if name == "" {
			return "", wrong("the form has no address parameters yet; add one under “Title, greeting and more”")
		}
		return "url." + name, nil
	case "answer":
		key, err := resolve(def, syms, v.Get("answer"), "")
		if err != nil {
			return "", err
		}
		if key != "" {
			return key, nil
		}
		for _, s := range subjects(def, syms, "") { // the first that fits
			if p, ok := def.Find(s.Key); ok && p.Item.Type == it.Type && s.Key != it.Key {
				return s.Key, nil
			}
		}
		return "", wrong("there is no other question of this type to take it from")
	case "fixed":
		return fixedValue(it, v.Get("fixed")), nil
	}
	if src := strings.TrimSpace(v.Get("source")); src != "" {
		return src, nil
	}
	return starting(it), nil
}

// fixedValue writes a plain value as an expression of the item's type.
func fixedValue(it *form.Item, text string) string {
	text = strings.TrimSpace(text)
	switch it.Type {
	case form.Number:
		if n, err := expr.ParseNumber(text); err == nil {
			return n.String()
		}
	case form.Date:
		if d, ok := expr.ParseDay(text); ok {
			return d.String()
		}
	case form.Time:
		if _, ok := expr.ParseTime(text); ok {
			return text
		}
	case form.YesNo, form.Tick:
		if text == "no" {
			return "no"
		}
		return "yes"
	default:
		if text != "" {
			return expr.Quote(text)
		}
	}
	return starting(it)
}

// tieMany puts one condition on several items at once: those marked, or those
// named from the question that the condition is about.
func tieMany(def *form.Form, v url.Values) (change, error) {
	c := change{at: v.Get("at")}
	effect := v.Get("effect")
	if !slices.Contains([]string{"shown", "required", "locked"}, effect) {
		return c, wrong("there is no tie “%s”", effect)
	}
	targets := v["mark"]
	if len(targets) == 0 {
		return c, wrong("mark the questions first")
	}
	c.edit = form.Edit{Op: form.Batch}
	for _, key := range targets {
		p, ok := def.Find(key)
		if !ok {
			return c, wrong("there is no item “%s”", key)
		}
		syms := def.Scope(key, effect)
		subject, err := resolve(def, syms, v.Get("subject"), "")
		if err != nil {
			return c, err
		}
		if subject == key {
			return c, wrong("%s can’t depend on itself", p.Item.Name())
		}
		cond, err := syms.ClauseNode(expr.Clause{Key: subject, Op: v.Get("op"), Values: v["value"]})
		if err != nil {
			return c, wrong("%s", err)
		}
		if before := def.Expr(key, effect); before != "" {
			n, err := expr.Parse(before)
			if err != nil {
				return c, wrong("the tie of %s has to be mended first", p.Item.Name())
			}
			switch v.Get("and") {
			case "also":
				cond = expr.All(parts(n, "and", cond)...)
			case "or":
				cond = expr.Any(parts(n, "or", cond)...)
			}
		}
		if _, faults := expr.CompileCondition(cond, syms); len(faults) > 0 {
			return c, wrong("%s: %s", p.Item.Name(), faults[0].Text)
		}
		c.edit.Edits = append(c.edit.Edits, form.SetProperty(key, effect, form.When(cond.String())))
	}
	return c, nil
}

// parts are the terms of n, if it is joined by op, and one more.
func parts(n expr.Node, op string, more expr.Node) []expr.Node {
	terms := []expr.Node{n}
	if l, ok := n.(*expr.Logic); ok && l.Op == op {
		terms = slices.Clone(l.Terms)
	}
	if slices.ContainsFunc(terms, func(t expr.Node) bool { return expr.Equal(t, more) }) {
		return terms // it says so already
	}
	return append(terms, more)
}

// copyTie puts the condition of one tie on other items too.
func copyTie(def *form.Form, v url.Values) (change, error) {
	owner, property, src, _ := tieScope(def, v)
	c := change{at: owner, edit: form.Edit{Op: form.Batch}}
	head, _, _ := strings.Cut(property, ".")
	if src == "" || !slices.Contains([]string{"shown", "required", "locked", "checks"}, head) {
		return c, wrong("this tie can’t be copied")
	}
	to := v["mark"]
	if name := strings.TrimSpace(v.Get("to")); name != "" {
		key, err := itemNamed(def, name)
		if err != nil {
			return c, err
		}
		to = append(to, key)
	}
	if len(to) == 0 {
		return c, wrong("say to which question the tie is copied")
	}
	n, err := expr.Parse(src)
	if err != nil {
		return c, wrong("the tie has to be mended first")
	}
	for _, key := range to {
		p, ok := def.Find(key)
		if !ok {
			return c, wrong("there is no item “%s”", key)
		}
		if _, faults := expr.CompileCondition(n, def.Scope(key, head)); len(faults) > 0 {
			return c, wrong("it can’t stand at %s: %s", p.Item.Name(), faults[0].Text)
		}
		if head == "checks" {
			from, _ := def.Find(owner)
			i, _ := strconv.Atoi(strings.Split(property, ".")[1])
			c.edit.Edits = append(c.edit.Edits, form.SetProperty(key, head, append(slices.Clone(p.Item.Checks), from.Item.Checks[i])))
			continue
		}
		c.edit.Edits = append(c.edit.Edits, form.SetProperty(key, head, form.When(src)))
	}
	return c, nil
}

// itemNamed finds an item by its label or key.
func itemNamed(def *form.Form, name string) (string, error) {
	var labels []string
	for p := range def.Places() {
		if strings.EqualFold(p.Item.Name(), name) || p.Item.Key == name || strings.EqualFold(p.Item.Name()+" ("+p.Item.Key+")", name) {
			return p.Item.Key, nil
		}
		labels = append(labels, p.Item.Name())
	}
	if near := expr.Nearest(name, labels); near != "" {
		return "", wrong("there is no question “%s”; did you mean “%s”?", name, near)
	}
	return "", wrong("there is no question “%s”", name)
}

// checkPage is an expression while it is being written.
type checkPage struct {
	Empty       bool
	Reads       string
	Fault       string
	Place       int
	Completions []completion
	ID          string
}

type completion struct {
	Text, Says string
	From, To   int // the place in the text, in characters
	Caret      int // where the caret goes after
}

// check says how an expression reads so far, what is wrong with it, and what can
// stand at the caret. Nothing is changed.
func (d *Desk) check(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	_, def, err := d.open(r)
	if err != nil {
		return err
	}
	v := r.PostForm
	owner, property, _, syms := tieScope(def, v)
	if property == "value" {
		syms = def.Scope(owner, "value.is")
	}
	src := v.Get("source")
	page := checkPage{Empty: strings.TrimSpace(src) == "", ID: domID(property)}
	if caret, err := strconv.Atoi(v.Get("caret")); err == nil {
		at := byteAt(src, caret)
		from, list := syms.Complete(src, at)
		for _, c := range list {
			page.Completions = append(page.Completions, completion{c.Text, c.Says, len([]rune(src[:from])), caret, len([]rune(src[:from])) + len([]rune(c.Text))})
		}
	}
	if !page.Empty {
		page.judge(syms, property, src)
	}
	return d.pages.Page(w, http.StatusOK, "check", page)
}

func (p *checkPage) judge(syms *expr.Symbols, property, src string) {
	say := func(f *expr.Fault) {
		p.Fault = f.Text
		if f.Pos > 0 && f.Pos <= len(src) {
			p.Fault = fmt.Sprintf("At character %d: %s", len([]rune(src[:f.Pos]))+1, f.Text)
		}
	}
	n, err := expr.Parse(src)
	if err != nil {
		say(err.(*expr.Fault))
		return
	}
	condition := form.Wants(property) && property != "value"
	compile, read := expr.Compile, syms.Phrase
	if condition {
		compile, read = expr.CompileCondition, syms.Sentence
	}
	if _, faults := compile(n, syms); len(faults) > 0 {
		say(faults[0])
		return
	}
	p.Reads = expr.PiecesText(read(n))
}

// byteAt is the place in bytes of a place in characters.
func byteAt(s string, characters int) int {
	for i := range s {
		if characters == 0 {
			return i
		}
		characters--
	}
	return len(s)
}

// clausePage is a clause that is not part of the draft yet.
type clausePage struct {
	ID       string
	Form     int64
	Fixed    bool // the subject can't be changed
	Clause   *clauseRow
	Subjects []expr.Subject
}

// clause prints the fields of a clause for a question and an operator, for the
// forms that put one tie on several items.
func (d *Desk) clause(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	q := r.URL.Query()
	page := clausePage{ID: q.Get("clause"), Form: f.ID, Fixed: q.Get("fixed") != ""}
	if !slices.Contains([]string{"many", "then"}, page.ID) {
		page.ID = "many"
	}
	syms := def.Symbols()
	key, err := resolve(def, def.Scope(q.Get("subject"), ""), q.Get("subject"), "today")
	if err != nil {
		key = "today"
	}
	if p, ok := def.Find(key); ok && p.Section.Repeat != nil {
		syms = def.Scope(key, "")
	}
	m := margin{def: def, syms: syms, today: expr.ClockAt(d.now().Unix(), syms.Zone).Day()}
	subject, ok := syms.Subject(key)
	if !ok {
		return store.ErrNotFound
	}
	op := subject.Type.Operator(q.Get("op"))
	page.Clause = m.clause(syms, expr.Clause{Key: key, Op: op.ID, Values: syms.FirstOperands(subject.Type, op, q["value"], m.today)})
	page.Subjects = subjects(def, syms, "")
	return d.pages.Page(w, http.StatusOK, "loose-clause", page)
}

// targets lists the items that can be tied from the other end, but the one itself.
func (d *Desk) targets(w http.ResponseWriter, r *http.Request) error {
	_, def, err := d.open(r)
	if err != nil {
		return err
	}
	but := r.URL.Query().Get("but")
	list := slices.DeleteFunc(targets(def), func(o option) bool { return o.Value == but })
	return d.pages.Page(w, http.StatusOK, "target-list", list)
}
