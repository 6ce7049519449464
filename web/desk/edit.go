package desk

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
)

// change is what a request wants of a draft: an edit, and what is selected after.
type change struct {
	edit  form.Edit
	at    string
	fault *tieFault // a tie that can't be kept as it was written
	ask   string    // something to be confirmed first
}

// edit carries one change of the draft out and shows the manuscript again. The
// change is refused if the draft has moved on since the page was made, so that
// nobody's work is overwritten unseen.
func (d *Desk) edit(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	v := r.PostForm
	at := v.Get("at")
	version, err := strconv.ParseInt(v.Get("version"), 10, 64)
	if err != nil {
		return d.showManuscript(w, r, f, def, at, http.StatusUnprocessableEntity, "This page is not complete; here it is afresh.", nil)
	}
	ctx, workspace := r.Context(), f.WorkspaceID
	var after store.Form
	switch v.Get("do") {
	case "undo":
		after, err = d.store.Undo(ctx, workspace, f.ID, version)
	case "redo":
		after, err = d.store.Redo(ctx, workspace, f.ID, version)
	default:
		var c change
		if c, err = d.changeOf(def, v); err != nil {
			break
		}
		if c.fault != nil {
			return d.showManuscript(w, r, f, def, c.at, http.StatusUnprocessableEntity, "", c.fault)
		}
		if c.ask != "" {
			return d.showManuscript(w, r, f, def, c.at, http.StatusConflict, c.ask, nil)
		}
		at = c.at
		after, err = d.store.EditDraft(ctx, workspace, f.ID, version, member(ctx).ID, c.edit)
	}
	switch {
	case errors.Is(err, store.ErrConflict):
		return d.showManuscript(w, r, f, def, at, http.StatusConflict,
			"Someone else has changed this form meanwhile. What you see now is the newest state; your last change was not made.", nil)
	case errors.Is(err, form.ErrEdit):
		return d.showManuscript(w, r, f, def, at, http.StatusUnprocessableEntity, capital(strings.TrimPrefix(err.Error(), form.ErrEdit.Error()+": "))+".", nil)
	case errors.Is(err, store.ErrNotFound) && (v.Get("do") == "undo" || v.Get("do") == "redo"):
		return d.showManuscript(w, r, f, def, at, http.StatusOK, "", nil)
	case err != nil:
		return err
	}
	if r.Header.Get("HX-Request") == "" {
		http.Redirect(w, r, base(f.ID)+"?at="+url.QueryEscape(at)+"#row-"+url.QueryEscape(at), http.StatusSeeOther)
		return nil
	}
	if def, err = after.Definition(); err != nil {
		return err
	}
	return d.showManuscript(w, r, after, def, at, http.StatusOK, "", nil)
}

func capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

func wrong(format string, args ...any) error {
	return fmt.Errorf("%w: %s", form.ErrEdit, fmt.Sprintf(format, args...))
}

// changeOf reads which change the posted fields ask for.
func (d *Desk) changeOf(def *form.Form, v url.Values) (change, error) {
	key := v.Get("key")
	switch v.Get("do") {
	case "add":
		return addItem(def, v)
	case "add-section":
		return addSection(def, v)
	case "add-page":
		return addPage(def, v)
	case "set":
		return setProperty(def, v)
	case "choices":
		return setChoices(def, v)
	case "value":
		return setValue(v), nil
	case "key":
		to := strings.TrimSpace(v.Get("value"))
		if to == key {
			return change{edit: form.Edit{Op: form.Batch}, at: key}, nil
		}
		return change{edit: form.Edit{Op: form.RenameKey, Key: key, To: to}, at: to}, nil
	case "tie":
		return d.setTie(def, v)
	case "move":
		return moveItem(def, key, v.Get("into"), v.Get("index"))
	case "up", "down":
		return stepItem(def, key, v.Get("do") == "up")
	case "duplicate":
		return duplicateItem(def, key)
	case "delete":
		return deleteThing(def, key, v.Get("sure") != "")
	}
	return change{}, wrong("there is no change called “%s”", v.Get("do"))
}

// addItem writes a new question: its type is proposed from its words, choices
// may follow its label after a colon or on lines of their own.
func addItem(def *form.Form, v url.Values) (change, error) {
	label := strings.TrimSpace(v.Get("label"))
	if label == "" || len(label) > 2000 {
		return change{}, wrong("write the question first")
	}
	it := &form.Item{Label: label, Type: form.Type(v.Get("type"))}
	if !it.Type.Known() {
		it.Type = form.ProposeType(label)
		if !slices.Contains(offered, it.Type) {
			it.Type = form.Text
		}
	}
	if strings.HasSuffix(label, "*") {
		it.Label, it.Required = strings.TrimSpace(strings.TrimRight(label, "*")), form.Always
	}
	it.Key = form.FreeKey(form.ProposeKey(it.Label), "question", def.Keys())
	if it.Type.Picks() {
		it.Choices = []form.Choice{{Value: "first", Label: "First choice"}, {Value: "second", Label: "Second choice"}}
	}
	index, err := strconv.Atoi(v.Get("index"))
	if err != nil {
		index = 1 << 20
	}
	return change{edit: form.Edit{Op: form.AddItem, Into: v.Get("into"), Index: index, Item: it}, at: it.Key}, nil
}

func addSection(def *form.Form, v url.Values) (change, error) {
	title := strings.TrimSpace(v.Get("label"))
	if title == "" {
		return change{}, wrong("write the section’s title first")
	}
	key := form.FreeKey(form.ProposeKey(title), "section", def.Keys())
	return change{edit: form.Edit{Op: form.AddSection, Into: v.Get("into"), Index: 1 << 20, Section: &form.Section{Key: key, Title: title}}, at: key}, nil
}

func addPage(def *form.Form, v url.Values) (change, error) {
	title := strings.TrimSpace(v.Get("label"))
	if title == "" {
		return change{}, wrong("write the page’s title first")
	}
	taken := def.Keys()
	key := form.FreeKey(form.ProposeKey(title), "page", taken)
	taken[key] = true
	sec := form.FreeKey("section_1", "section", taken)
	return change{edit: form.Edit{Op: form.AddPage, Index: 1 << 20, Page: &form.Page{Key: key, Title: title, Sections: []*form.Section{{Key: sec}}}}, at: key}, nil
}

// texts are the properties that are set from a text field, numbers those from a
// number.
var (
	texts   = []string{"label", "help", "placeholder", "title", "intro", "end", "type", "pattern", "pattern_message", "look", "when_hidden", "place", "timezone", "language"}
	numbers = []string{"min_length", "max_length", "min_picked", "max_picked", "columns"}
	flags   = []string{"parked", "staff", "twice"}
)

func setProperty(def *form.Form, v url.Values) (change, error) {
	key, property, value := v.Get("key"), v.Get("property"), strings.TrimSpace(v.Get("value"))
	c := change{at: key}
	var set any
	switch {
	case slices.Contains(texts, property):
		if value != "" {
			set = value
		}
		if property == "type" {
			return changeType(def, key, form.Type(value))
		}
		if property == "title" && key == "" && (value == "" || len(value) > maxTitle) {
			return c, wrong("a form needs a title of at most %d characters", maxTitle)
		}
		if property == "label" || property == "title" {
			set = value // an empty one is remarked on, not refused
		}
	case slices.Contains(flags, property):
		if value != "" {
			set = true
		}
	case slices.Contains(numbers, property):
		if value != "" {
			n, err := strconv.Atoi(value)
			if err != nil || n < 0 {
				return c, wrong("a whole number was expected, “%s” was found", value)
			}
			set = n
		}
	case property == "min" || property == "max":
		if value != "" {
			set = value
			if n, err := expr.ParseNumber(value); err == nil {
				set = n
			}
		}
	default:
		return c, wrong("“%s” can’t be set here", property)
	}
	c.edit = form.SetProperty(key, property, set)
	return c, nil
}

// changeType changes a question's type, giving it choices to begin with if it
// has none.
func changeType(def *form.Form, key string, t form.Type) (change, error) {
	p, ok := def.Find(key)
	if !ok || !t.Known() {
		return change{}, wrong("there is no type “%s”", t)
	}
	c := change{at: key, edit: form.SetProperty(key, "type", string(t))}
	if t.Picks() && len(p.Item.Choices) == 0 && p.Item.ChoicesFrom == nil {
		c.edit = form.Edit{Op: form.Batch, Edits: []form.Edit{c.edit,
			form.SetProperty(key, "choices", []form.Choice{{Value: "first", Label: "First choice"}, {Value: "second", Label: "Second choice"}})}}
	}
	return c, nil
}

// setChoices reads choices one a line, "value = Label" or just the label. A
// choice that keeps its value keeps its ties, help and picture.
func setChoices(def *form.Form, v url.Values) (change, error) {
	key := v.Get("key")
	p, ok := def.Find(key)
	if !ok {
		return change{}, wrong("there is no item “%s”", key)
	}
	old := map[string]form.Choice{}
	byLabel := map[string]form.Choice{}
	for _, c := range p.Item.Choices {
		old[c.Value] = c
		byLabel[c.Name()] = c
	}
	taken := map[string]bool{}
	var out []form.Choice
	for line := range strings.Lines(v.Get("value")) {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		value, label, written := strings.Cut(line, "=")
		value, label = strings.TrimSpace(value), strings.TrimSpace(label)
		if !written {
			label = value
			if c, ok := byLabel[label]; ok {
				value = c.Value
			} else if _, ok := old[value]; !ok {
				value = form.ProposeKey(label)
			}
		}
		value = form.FreeKey(value, "choice", taken)
		taken[value] = true
		c := old[value]
		c.Value, c.Label = value, label
		out = append(out, c)
	}
	return change{at: key, edit: form.SetProperty(key, "choices", out)}, nil
}

// setValue sets where a value comes from.
func setValue(v url.Values) change {
	key, how, src := v.Get("key"), v.Get("how"), strings.TrimSpace(v.Get("source"))
	c := change{at: key, edit: form.SetProperty(key, "value", nil)}
	if src == "" || how == "" {
		return c
	}
	val := form.Value{}
	switch how {
	case "starts":
		val.Starts = src
	case "follows":
		val.Follows, val.When = src, strings.TrimSpace(v.Get("when"))
	default:
		val.Is = src
	}
	c.edit = form.SetProperty(key, "value", val)
	return c
}

// setTie sets shown, required or locked: always, never, or when some clauses or
// a written condition are met.
func (d *Desk) setTie(def *form.Form, v url.Values) (change, error) {
	owner, property := v.Get("key"), v.Get("property")
	if property != "shown" && property != "required" && property != "locked" {
		return change{}, wrong("there is no tie “%s”", property)
	}
	c := change{at: owner}
	switch v.Get("state") {
	case "always":
		c.edit = form.SetProperty(owner, property, form.Always)
		if property == "shown" {
			c.edit = form.SetProperty(owner, property, nil)
		}
		return c, nil
	case "never":
		c.edit = form.SetProperty(owner, property, form.Never)
		if property != "shown" {
			c.edit = form.SetProperty(owner, property, nil)
		}
		return c, nil
	}
	syms := def.Symbols()
	if _, s := sectionOf(def, owner); s != nil && syms.Groups[s.Key] != nil {
		syms = syms.InRow(syms.Groups[s.Key])
	}
	if v.Has("source") {
		src := strings.TrimSpace(v.Get("source"))
		n, err := expr.Parse(src)
		if err != nil {
			c.fault = &tieFault{owner, property, src, err.Error()}
			return c, nil
		}
		if _, faults := expr.CompileCondition(n, syms); len(faults) > 0 {
			c.fault = &tieFault{owner, property, src, faults[0].Text}
			return c, nil
		}
		c.edit = form.SetProperty(owner, property, n.String())
		return c, nil
	}
	return c, d.setClauses(&c, def, syms, owner, property, v)
}

// sectionOf finds the section that an item is in.
func sectionOf(def *form.Form, key string) (*form.Item, *form.Section) {
	if p, ok := def.Find(key); ok {
		return p.Item, p.Section
	}
	return nil, nil
}

// setClauses puts the clauses of the sentence editor together. A clause whose
// question or operator was just changed gets operands that fit.
func (d *Desk) setClauses(c *change, def *form.Form, syms *expr.Symbols, owner, property string, v url.Values) error {
	count, _ := strconv.Atoi(v.Get("clauses"))
	today := expr.ClockAt(d.now().Unix(), syms.Zone).Day()
	var nodes []expr.Node
	for i := range min(count, 200) {
		at := "c" + strconv.Itoa(i) + "."
		if v.Get("remove") == strconv.Itoa(i) {
			continue
		}
		cl := expr.Clause{Key: v.Get(at + "key"), Op: v.Get(at + "op"), Values: v[at+"value"]}
		subject, ok := syms.Subject(cl.Key)
		if !ok {
			continue
		}
		op := subject.Type.Operator(cl.Op)
		cl.Op = op.ID
		cl.Values = subject.Type.FirstOperands(op, cl.Values, today)
		n, err := syms.ClauseNode(cl)
		if err != nil {
			return wrong("%s", err)
		}
		nodes = append(nodes, n)
	}
	if v.Get("add") != "" || len(nodes) == 0 && v.Get("remove") == "" {
		if key := firstSubject(def, syms, owner); key != "" {
			n, err := syms.ClauseNode(expr.Clause{Key: key, Op: "answered"})
			if err != nil {
				return wrong("%s", err)
			}
			nodes = append(nodes, n)
		}
	}
	join := expr.JoinClauses(v.Get("join"), nodes)
	if join == nil {
		c.edit = form.SetProperty(owner, property, nil)
		return nil
	}
	c.edit = form.SetProperty(owner, property, join.String())
	return nil
}

// firstSubject is the question that a new clause begins with: the one before.
func firstSubject(def *form.Form, syms *expr.Symbols, owner string) string {
	before := ""
	for p := range def.Places() {
		if p.Item.Key == owner && before != "" {
			return before
		}
		if _, ok := syms.Subject(p.Item.Key); ok && p.Item.Key != owner {
			before = p.Item.Key
		}
	}
	if before == "" {
		return "today"
	}
	return before
}

func moveItem(def *form.Form, key, into, index string) (change, error) {
	n, err := strconv.Atoi(index)
	if err != nil {
		return change{}, wrong("the new place is not known")
	}
	if p, ok := def.Find(key); ok && p.Section.Key == into && n > p.Index {
		n-- // it leaves a gap above
	}
	return change{edit: form.Edit{Op: form.MoveItem, Key: key, Into: into, Index: n}, at: key}, nil
}

// stepItem moves an item by one line, over the borders of sections and pages.
func stepItem(def *form.Form, key string, up bool) (change, error) {
	p, ok := def.Find(key)
	if !ok {
		return change{}, wrong("there is no item “%s”", key)
	}
	var sections []*form.Section
	for _, page := range def.Pages {
		sections = append(sections, page.Sections...)
	}
	at := slices.Index(sections, p.Section)
	c := change{at: key, edit: form.Edit{Op: form.MoveItem, Key: key, Into: p.Section.Key}}
	switch {
	case up && p.Index > 0:
		c.edit.Index = p.Index - 1
	case up && at > 0:
		c.edit.Into, c.edit.Index = sections[at-1].Key, len(sections[at-1].Items)
	case !up && p.Index < len(p.Section.Items)-1:
		c.edit.Index = p.Index + 1
	case !up && at < len(sections)-1:
		c.edit.Into = sections[at+1].Key
	default:
		return change{}, wrong("it stands at the end already")
	}
	return c, nil
}

func duplicateItem(def *form.Form, key string) (change, error) {
	p, ok := def.Find(key)
	if !ok {
		return change{}, wrong("there is no item “%s”", key)
	}
	copied := *p.Item
	copied.Key = form.FreeKey(p.Item.Key, "item", def.Keys())
	return change{edit: form.Edit{Op: form.AddItem, Into: p.Section.Key, Index: p.Index + 1, Item: &copied}, at: copied.Key}, nil
}

// deleteThing deletes an item, section or page; if ties of others would break
// it asks first, naming them.
func deleteThing(def *form.Form, key string, sure bool) (change, error) {
	inside := map[string]bool{key: true}
	c := change{}
	if p, ok := def.Find(key); ok {
		c.edit = form.Edit{Op: form.RemoveItem, Key: key}
		if p.Index > 0 {
			c.at = p.Section.Items[p.Index-1].Key
		}
	} else if _, s := def.Section(key); s != nil {
		c.edit = form.Edit{Op: form.RemoveSection, Key: key}
		for _, it := range s.Items {
			inside[it.Key] = true
		}
	} else if p := def.Page(key); p != nil {
		c.edit = form.Edit{Op: form.RemovePage, Key: key}
		for _, s := range p.Sections {
			inside[s.Key] = true
			for _, it := range s.Items {
				inside[it.Key] = true
			}
		}
	} else {
		return c, wrong("there is nothing with the key “%s”", key)
	}
	if sure {
		return c, nil
	}
	var broken []string
	for k := range inside {
		for _, t := range def.Dependents(k) {
			if !inside[t.Owner] {
				line := nameOf(def, t.Owner) + " " + effectWords(t.Property)
				if !slices.Contains(broken, line) {
					broken = append(broken, line)
				}
			}
		}
	}
	if len(broken) > 0 {
		slices.Sort(broken)
		return change{at: key, ask: "These depend on it and would break: " + strings.Join(broken, "; ") + ". Change them first, or delete it all the same."}, nil
	}
	return c, nil
}

func nameOf(def *form.Form, key string) string {
	if p, ok := def.Find(key); ok {
		return p.Item.Name()
	}
	if _, s := def.Section(key); s != nil {
		return s.Name()
	}
	return key
}
