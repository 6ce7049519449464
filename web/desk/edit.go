package desk

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"lazo/core/author"
	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
)

// change is what a request wants of a draft: an edit, and what is selected after.
type change struct {
	edit  form.Edit
	at    string
	said  string     // what it takes along
	fault *tieFault  // a tie that can't be kept as it was written
	ask   *askDelete // something to be decided first
}

// edit carries one change of the draft out and shows the manuscript again. Where
// the change meets what someone else changed meanwhile it is not made, so that
// nobody's work is overwritten unseen, and offered to be made all the same.
func (d *Desk) edit(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	v := r.PostForm
	show := view{at: v.Get("at"), write: v.Get("write"), tied: v.Get("tied")}
	version, err := strconv.ParseInt(v.Get("version"), 10, 64)
	if err == nil && version == f.DraftVersion {
		show.seen(def, v)
	}
	if err != nil {
		show.problem = "This page is not complete; here it is afresh."
		return d.showManuscript(w, r, f, def, show, http.StatusUnprocessableEntity)
	}
	ctx, workspace, who := r.Context(), f.WorkspaceID, member(r.Context()).ID
	after := f
	switch v.Get("do") {
	case "undo", "redo":
		after, err = d.stepBack(ctx, f, v, &show)
	default:
		var c change
		if c, err = d.changeOf(ctx, f, def, v); err != nil {
			break
		}
		show.at, show.fault, show.ask, show.said = c.at, c.fault, c.ask, c.said
		if c.fault != nil {
			return d.showManuscript(w, r, f, def, show, http.StatusUnprocessableEntity)
		}
		if c.ask != nil {
			return d.showManuscript(w, r, f, def, show, http.StatusConflict)
		}
		if c.edit.Op == form.Batch && len(c.edit.Edits) == 0 {
			break // nothing to do
		}
		after, err = d.store.EditDraft(ctx, workspace, f.ID, version, who, c.edit)
	}
	if status := refusal(err, v, &show, f.DraftVersion); status != 0 {
		return d.showManuscript(w, r, f, def, show, status)
	}
	if err != nil {
		return err
	}
	if r.Header.Get("HX-Request") == "" {
		http.Redirect(w, r, base(f.ID)+"?at="+url.QueryEscape(show.at)+"#row-"+url.QueryEscape(show.at), http.StatusSeeOther)
		return nil
	}
	if def, err = after.Definition(); err != nil {
		return err
	}
	return d.showManuscript(w, r, after, def, show, http.StatusOK)
}

// refusal puts into words why a change was not made, with what was written, and
// gives the answer's status; 0 if it was made or is no refusal.
func refusal(err error, v url.Values, show *view, version int64) int {
	var clash store.Clash
	step := v.Get("do") == "undo" || v.Get("do") == "redo"
	switch {
	case errors.As(err, &clash):
		by := clash.By
		if by == "" {
			by = "Someone else"
		}
		show.problem = by + " has changed the same meanwhile. What you see is the newest state; your last change was not made."
		show.mine = mineOf(v, version)
		if step {
			show.problem = by + " has since changed what this would change, too. Nothing was done."
			show.mine.Button = "Do it all the same"
			show.mine.Fields = append(show.mine.Fields, hiddenField{"sure", "yes"})
		}
		return http.StatusConflict
	case errors.Is(err, form.ErrEdit):
		show.problem = editProblem(err)
		if mine := mineOf(v, version); mine.Text != "" {
			show.mine, mine.Fields = mine, nil // to be read, not to be made again as it is
		}
		if v.Get("do") == "key" {
			show.at = v.Get("key") // the question stays open, under the key that it has
		}
		return http.StatusUnprocessableEntity
	case errors.Is(err, store.ErrNotFound) && step:
		return http.StatusOK
	}
	return 0
}

// editProblem is an ErrEdit in words.
func editProblem(err error) string {
	_, text, _ := strings.Cut(err.Error(), form.ErrEdit.Error()+": ")
	return capital(text) + "."
}

// stepBack takes the member's last edit back, or does it again, and says what that
// was and where.
func (d *Desk) stepBack(ctx context.Context, f store.Form, v url.Values, show *view) (store.Form, error) {
	do, word := d.store.Undo, "Undone"
	if v.Get("do") == "redo" {
		do, word = d.store.Redo, "Done again"
	}
	before, after, err := do(ctx, f.WorkspaceID, f.ID, member(ctx).ID, v.Get("sure") != "")
	if err != nil {
		return f, err
	}
	was, err := before.Definition()
	if err != nil {
		return after, err
	}
	is, err := after.Definition()
	if err != nil {
		return after, err
	}
	show.before = nil // what the page shows may be older than what was stepped from
	from, to := is, was
	if word != "Undone" {
		from, to = was, is
	}
	changes := form.Diff(from, to)
	if len(changes) == 0 {
		return after, nil
	}
	show.said = word + ": " + changes[0].Text
	if more := len(changes) - 1; more == 1 {
		show.said += ", and one more change"
	} else if more > 1 {
		show.said += fmt.Sprintf(", and %d more changes", more)
	}
	show.said += "."
	for _, c := range form.Diff(was, is) {
		if is.Keys()[c.Key] {
			show.at, show.jump = c.Key, c.Key
			break
		}
	}
	return after, nil
}

// mineOf keeps what was typed into one field, to be put in all the same.
func mineOf(v url.Values, version int64) *mine {
	m := &mine{Button: "Make my change all the same"}
	for _, name := range []string{"value", "source", "label", "message", "subject"} { // what one writes
		if m.Text == "" {
			m.Text = strings.TrimSpace(v.Get(name))
		}
	}
	for name, values := range v {
		for _, value := range values {
			if name == "version" {
				value = strconv.FormatInt(version, 10)
			}
			m.Fields = append(m.Fields, hiddenField{name, value})
		}
	}
	slices.SortFunc(m.Fields, func(a, b hiddenField) int { return strings.Compare(a.Name, b.Name) })
	return m
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
func (d *Desk) changeOf(ctx context.Context, f store.Form, def *form.Form, v url.Values) (change, error) {
	key := v.Get("key")
	do, with, _ := strings.Cut(v.Get("do"), ":")
	switch do {
	case "add":
		return addItem(def, v)
	case "add-section":
		return addSection(def, v)
	case "add-page":
		return addPage(def, v)
	case "insert-kept":
		return d.insertKept(ctx, f, def, v)
	case "take-edition":
		return d.takeEdition(ctx, f, v)
	case "set":
		return setProperty(def, v)
	case "choices":
		return setChoices(def, v)
	case "choice":
		return setChoice(def, v)
	case "choices-from":
		return setChoicesFrom(def, v)
	case "repeat":
		return setRepeat(def, v)
	case "list":
		return setList(def, v)
	case "parameters":
		return setParameters(v)
	case "key":
		to := strings.TrimSpace(v.Get("value"))
		if to == "" {
			return change{at: key}, wrong("a key can’t be empty; it names the answer in conditions and exports")
		}
		if to == key {
			return change{edit: form.Edit{Op: form.Batch}, at: key}, nil
		}
		return change{edit: form.Edit{Op: form.RenameKey, Key: key, To: to}, at: to}, nil
	case "state":
		return d.setState(def, v)
	case "passage":
		return d.setPassage(def, v)
	case "source":
		return setSource(def, v)
	case "tie-texts":
		return setTexts(def, v)
	case "add-tie":
		return d.addTie(def, v)
	case "remove-tie":
		e, err := def.SetTie(key, v.Get("property"), "")
		return change{edit: e, at: key}, err
	case "value":
		return setValue(def, v)
	case "tie-many":
		return tieMany(def, v)
	case "copy-tie":
		return copyTie(def, v)
	case "many":
		return changeMany(def, v, with)
	case "move":
		return moveItem(def, key, v.Get("into"), v.Get("index"))
	case "up", "down":
		return step(def, key, do == "up")
	case "duplicate":
		e, copied, err := def.CopyOf(key)
		return change{edit: e, at: copied}, err
	case "delete":
		return deleteThing(def, key, v.Get("how"))
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
	}
	if strings.HasSuffix(label, "*") {
		it.Label, it.Required = strings.TrimSpace(strings.TrimRight(label, "*")), form.Always
	}
	it.Key = form.FreeKey(form.ProposeKey(it.Label), "question", def.Keys())
	if it.Type.Picks() {
		it.Choices = author.FirstChoices()
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
	numbers = []string{"min_length", "max_length", "min_picked", "max_picked", "columns", "max_bytes"}
	flags   = []string{"parked", "staff", "twice", "sensitive"}
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
			return did(key)(author.ChangeType(def, key, form.Type(value)))
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
	case property == "stored":
		if value != "" {
			set = false
		}
	case property == "accept":
		if kinds := strings.FieldsFunc(value, func(r rune) bool { return r == ',' || r == ' ' }); len(kinds) > 0 {
			set = kinds
		}
	case property == "step":
		if value != "" {
			n, err := expr.ParseNumber(value)
			if err != nil || n.Sign() <= 0 {
				return c, wrong("a number above 0 was expected, “%s” was found", value)
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

// setChoice sets what one choice has besides its value and label.
func setChoice(def *form.Form, v url.Values) (change, error) {
	key := v.Get("key")
	c := change{at: key}
	p, ok := def.Find(key)
	n, err := strconv.Atoi(v.Get("n"))
	if !ok || err != nil || n < 0 || n >= len(p.Item.Choices) {
		return c, wrong("this choice is no longer there")
	}
	choices := slices.Clone(p.Item.Choices)
	value := strings.TrimSpace(v.Get("value"))
	switch v.Get("property") {
	case "help":
		choices[n].Help = value
	case "image":
		choices[n].Image = value
	case "label":
		choices[n].Label = value
	default:
		return c, wrong("“%s” can’t be set here", v.Get("property"))
	}
	c.edit = form.SetProperty(key, "choices", choices)
	return c, nil
}

// setChoicesFrom draws a question's choices from a list, or from none.
func setChoicesFrom(def *form.Form, v url.Values) (change, error) {
	key, list := v.Get("key"), v.Get("list")
	if list == "" {
		return did(key)(author.DrawChoices(def, key, nil))
	}
	from := form.ChoicesFrom{List: list}
	if columns := slices.Sorted(maps.Keys(def.Columns(list))); len(columns) > 0 {
		from.Value = columns[0]
	}
	if p, ok := def.Find(key); ok && p.Item.ChoicesFrom != nil && p.Item.ChoicesFrom.List == list {
		from = *p.Item.ChoicesFrom
		from.Value, from.Label = v.Get("column"), v.Get("label")
	}
	return did(key)(author.DrawChoices(def, key, &from))
}

// did is a change from what the author package does to an item.
func did(key string) func(author.Doing, error) (change, error) {
	return func(d author.Doing, err error) (change, error) {
		return change{at: key, edit: d.Edit, said: d.Says()}, err
	}
}

// setRepeat makes a section be asked once, or in rows within bounds.
func setRepeat(def *form.Form, v url.Values) (change, error) {
	key := v.Get("key")
	c := change{at: key}
	_, s := def.Section(key)
	if s == nil {
		return c, wrong("there is no section “%s”", key)
	}
	if v.Get("repeats") == "" {
		c.edit = form.SetProperty(key, "repeat", nil)
		return c, nil
	}
	r := form.Repeat{Min: 1, Max: 8}
	if s.Repeat != nil {
		r = *s.Repeat
		for _, b := range []struct {
			field string
			into  *int
		}{{"min", &r.Min}, {"max", &r.Max}} {
			*b.into = 0
			if text := strings.TrimSpace(v.Get(b.field)); text != "" {
				n, err := strconv.Atoi(text)
				if err != nil || n < 0 || n > form.MaxRows {
					return c, wrong("a whole number of rows up to %d was expected, “%s” was found", form.MaxRows, text)
				}
				*b.into = n
			}
		}
		r.Name = strings.TrimSpace(v.Get("name"))
	}
	c.edit = form.SetProperty(key, "repeat", r)
	return c, nil
}

// setList sets a list of the form from CSV; an empty one is taken out.
func setList(def *form.Form, v url.Values) (change, error) {
	name := strings.TrimSpace(v.Get("name"))
	if !expr.IsKey(name) {
		return change{}, wrong("the name of a list is made of a to z, 0 to 9 and _; “%s” is not", name)
	}
	list, err := exchange.ReadList(strings.NewReader(v.Get("value")))
	if err != nil {
		return change{}, wrong("%s", err)
	}
	lists := maps.Clone(def.Lists)
	if lists == nil {
		lists = map[string][]form.Entry{}
	}
	lists[name] = list
	if len(list) == 0 {
		delete(lists, name)
	}
	if len(lists) == 0 {
		return change{edit: form.SetProperty("", "lists", nil)}, nil
	}
	return change{edit: form.SetProperty("", "lists", lists)}, nil
}

// setParameters reads address parameters one a line, "name = Label" or the name.
func setParameters(v url.Values) (change, error) {
	var out []form.Parameter
	for line := range strings.Lines(v.Get("value")) {
		name, label, _ := strings.Cut(line, "=")
		name, label = strings.TrimSpace(name), strings.TrimSpace(label)
		if name == "" {
			continue
		}
		if !expr.IsKey(name) {
			label = labelOr(label, name)
			name = form.ProposeKey(name)
		}
		out = append(out, form.Parameter{Name: name, Label: label})
	}
	if len(out) == 0 {
		return change{edit: form.SetProperty("", "parameters", nil)}, nil
	}
	return change{edit: form.SetProperty("", "parameters", out)}, nil
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

// step moves an item by one line, over the borders of sections and pages, or a
// section or page among its neighbours.
func step(def *form.Form, key string, up bool) (change, error) {
	if p, ok := def.Find(key); ok {
		return stepItem(def, p, up)
	}
	by := map[bool]int{true: -1, false: 1}[up]
	if page, s := def.Section(key); s != nil {
		at, on := slices.Index(page.Sections, s), slices.Index(def.Pages, page)
		to := at + by
		switch {
		case to >= 0 && to < len(page.Sections):
		case on+by >= 0 && on+by < len(def.Pages):
			page = def.Pages[on+by]
			to = map[bool]int{true: len(page.Sections), false: 0}[up]
		default:
			return change{}, wrong("it stands at the end already")
		}
		return change{edit: form.Edit{Op: form.MoveSection, Key: key, Into: page.Key, Index: to}, at: key}, nil
	}
	at := slices.IndexFunc(def.Pages, func(p *form.Page) bool { return p.Key == key })
	if at < 0 || at+by < 0 || at+by >= len(def.Pages) {
		return change{}, wrong("it stands at the end already")
	}
	return change{edit: form.Edit{Op: form.MovePage, Key: key, Index: at + by}, at: key}, nil
}

func stepItem(def *form.Form, p form.Place, up bool) (change, error) {
	var sections []*form.Section
	for _, page := range def.Pages {
		sections = append(sections, page.Sections...)
	}
	at := slices.Index(sections, p.Section)
	c := change{at: p.Item.Key, edit: form.Edit{Op: form.MoveItem, Key: p.Item.Key, Into: p.Section.Key}}
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

// deleteThing deletes an item, section or page. If ties of others name it, how
// says what becomes of them: "ties" takes them out, "only" leaves them to be
// mended; without it the author is asked.
func deleteThing(def *form.Form, key, how string) (change, error) {
	broken := breaks(def, key)
	if how == "" && len(broken) > 0 {
		return change{at: key, ask: &askDelete{key, nameOf(def, key), broken}}, nil
	}
	e, err := def.Delete(key, how == "ties")
	c := change{edit: e}
	if p, ok := def.Find(key); ok && p.Index > 0 {
		c.at = p.Section.Items[p.Index-1].Key
	}
	return c, err
}

// breaks says which ties of others name what would be deleted with key.
func breaks(def *form.Form, key string) []string {
	var broken []string
	for _, t := range def.Dependents(key) {
		line := nameOf(def, t.Owner) + " " + effectWords(t.Property)
		if t.Owner == "" {
			line = map[bool]string{true: "a closing text is read", false: "the form is open"}[strings.HasPrefix(t.Property, "ends.")]
		}
		if !slices.Contains(broken, line) {
			broken = append(broken, line)
		}
	}
	return broken
}

// changeMany does one thing with every item that is marked.
func changeMany(def *form.Form, v url.Values, with string) (change, error) {
	c := change{at: v.Get("at"), edit: form.Edit{Op: form.Batch}}
	marks := v["mark"]
	if len(marks) == 0 {
		return c, wrong("mark the questions first")
	}
	work := def
	for _, key := range marks {
		p, ok := work.Find(key)
		if !ok {
			return c, wrong("there is no item “%s”", key)
		}
		var e form.Edit
		var err error
		switch with {
		case "park":
			e = form.SetProperty(key, "parked", true)
		case "bring back":
			e = form.SetProperty(key, "parked", nil)
		case "require":
			e = form.SetProperty(key, "required", form.Always)
		case "duplicate":
			e, _, err = work.CopyOf(key)
		case "delete":
			e, err = work.Delete(key, true)
		case "untie":
			for _, property := range []string{"shown", "required", "locked"} {
				if work.Expr(key, property) != "" {
					e.Op = form.Batch
					e.Edits = append(e.Edits, form.SetProperty(key, property, nil))
				}
			}
			if e.Op == "" {
				continue
			}
		default:
			return c, wrong("there is no change called “%s”", with)
		}
		if err == nil {
			work, _, err = form.Apply(work, e)
		}
		if err != nil {
			return c, wrong("%s: %s", p.Item.Name(), err)
		}
		c.edit.Edits = append(c.edit.Edits, e)
	}
	return c, nil
}
