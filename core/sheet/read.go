package sheet

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/form"
)

// Reading is what sheets would make of a form.
type Reading struct {
	Form   *form.Form // as it would be
	Edit   form.Edit  // that makes it so, a batch; empty if nothing differs
	Faults []exchange.Fault
	// Absent are the keys of questions of the form that are not in the sheet. They stay
	// unless they were asked to go.
	Absent []string
}

// maxFaults bounds what is listed at once.
const maxFaults = 200

// Read finds what sheets would make of a form: an empty one for a new form. Questions are
// told by their keys; drop takes those out that are not in the sheet.
func Read(sheets []exchange.Sheet, f *form.Form, drop bool) Reading {
	r := &reader{form: f.Clone(), old: f, rows: map[string]int{}, cells: map[string]map[string]int{}}
	for _, s := range sheets {
		r.faults = append(r.faults, s.Faults...)
	}
	for i, s := range sheets {
		r.name = s.Name
		switch {
		case s.Name == Questions, len(sheets) == 1, i == 0 && !slices.ContainsFunc(sheets, called(Questions)):
			r.questions(s.Cells, drop)
		}
	}
	for _, s := range sheets {
		r.name = s.Name
		switch {
		case s.Name == Parts:
			r.parts(s.Cells)
		case s.Name != Questions && len(sheets) > 1 && form.IsLanguage(s.Name):
			r.language(s.Name, s.Cells)
		}
	}
	out := Reading{Form: r.form, Faults: r.faults, Absent: r.absent}
	if len(r.edits) > 0 {
		out.Edit = form.Edit{Op: form.Batch, Edits: r.edits}
	}
	if len(out.Faults) == 0 {
		r.name = Questions
		out.Faults = r.compiled(f)
	}
	if len(out.Faults) > maxFaults {
		out.Faults = out.Faults[:maxFaults]
	}
	return out
}

func called(name string) func(exchange.Sheet) bool {
	return func(s exchange.Sheet) bool { return s.Name == name }
}

type reader struct {
	name   string     // of the sheet at hand
	form   *form.Form // as it is by now
	old    *form.Form // as it was
	syms   *expr.Symbols
	was    *expr.Symbols
	edits  []form.Edit
	faults []exchange.Fault
	absent []string
	rows   map[string]int            // the row of each key
	cells  map[string]map[string]int // of a key and property: the column
	places map[string]int            // the place of each column by its title
}

func (r *reader) fault(row, column int, format string, args ...any) {
	r.faults = append(r.faults, exchange.Fault{
		Sheet: r.name, Cell: exchange.CellName(row, column), Text: fmt.Sprintf(format, args...),
	})
}

func (r *reader) do(e form.Edit) error {
	return r.doAll([]form.Edit{e})
}

// head finds the columns of a sheet by their titles.
func (r *reader) head(titles, known []string, needed ...string) bool {
	r.places = map[string]int{}
	for i, title := range titles {
		title = strings.TrimSpace(title)
		at := slices.IndexFunc(known, func(k string) bool { return expr.Fold(k) == expr.Fold(title) })
		switch {
		case title == "":
		case at < 0 && expr.Nearest(title, known) != "":
			r.fault(0, i, "there is no column “%s”; did you mean “%s”?", title, expr.Nearest(title, known))
		case at < 0:
			r.fault(0, i, "there is no column “%s”; there are %s", title, strings.Join(known, ", "))
		default:
			if _, twice := r.places[known[at]]; twice {
				r.fault(0, i, "two columns are called “%s”", title)
			}
			r.places[known[at]] = i
		}
	}
	for _, name := range needed {
		if _, ok := r.places[name]; !ok {
			r.fault(0, 0, "the column “%s” is missing", name)
			return false
		}
	}
	return true
}

// cell is what stands in a column of a row; ok is false where there is no such column.
func (r *reader) cell(row []string, title string) (text string, ok bool) {
	i, ok := r.places[title]
	if !ok {
		return "", false
	}
	if i < len(row) {
		text = strings.TrimSpace(strings.ReplaceAll(row[i], "\r\n", "\n"))
	}
	return text, true
}

func empty(row []string) bool {
	return !slices.ContainsFunc(row, func(cell string) bool { return strings.TrimSpace(cell) != "" })
}

// questions reads the sheet of questions: first which rows there are and where they stand,
// then what they say, since a condition may name any of them.
func (r *reader) questions(cells [][]string, drop bool) {
	if len(cells) == 0 {
		r.fault(0, 0, "there is nothing here; the first line names the columns")
		return
	}
	known := []string{keyColumn, pageColumn, sectionColumn}
	for _, c := range columns {
		known = append(known, c.title)
	}
	if !r.head(cells[0], known, "Question") {
		return
	}
	l := &layout{reader: r}
	var keys []string
	for i, row := range cells[1:] {
		key := ""
		if !empty(row) {
			key = l.place(i+1, row)
		}
		keys = append(keys, key)
	}
	before := r.form
	for i, row := range cells[1:] {
		if keys[i] != "" {
			r.texts(i+1, row, keys[i])
		}
	}
	for i, row := range cells[1:] {
		if keys[i] != "" {
			r.ties(i+1, row, keys[i])
		}
	}
	for p := range before.Places() {
		if _, there := r.rows[p.Item.Key]; !there {
			r.absent = append(r.absent, p.Item.Key)
		}
	}
	if drop {
		for _, key := range r.absent {
			if err := r.remove(key); err != nil {
				r.fault(0, 0, "“%s” can’t be taken out: %s", key, err)
			}
		}
	}
}

// remove takes a question out, with what names it.
func (r *reader) remove(key string) error {
	e, err := r.form.Delete(key, true)
	if err != nil {
		return err
	}
	return r.do(e)
}

// written are the columns that hold expressions; they are read when all labels are known.
var written = []string{"required", "shown", "locked", "value", "checks"}

// texts reads what does not depend on other questions.
func (r *reader) texts(at int, row []string, key string) {
	r.each(at, row, key, func(c column) bool { return !slices.Contains(written, c.prop) })
}

func (r *reader) ties(at int, row []string, key string) {
	r.each(at, row, key, func(c column) bool { return slices.Contains(written, c.prop) })
}

// each takes the cells of a row over into its question, where they say something new.
func (r *reader) each(at int, row []string, key string, of func(column) bool) {
	p, ok := r.form.Find(key)
	if !ok {
		return
	}
	it := p.Item
	var edits []form.Edit
	for _, c := range columns {
		text, there := r.cell(row, c.title)
		if !there || !of(c) || c.prop == "type" && text == "" {
			continue
		}
		if r.cells[key] == nil {
			r.cells[key] = map[string]int{}
		}
		r.cells[key][c.prop] = r.places[c.title]
		if c.has != nil && !c.has(it) {
			if text != "" {
				r.fault(at, r.places[c.title], "a question of the type “%s” has no “%s”", it.Type.Words(), c.title)
			}
			continue
		}
		if r.unchanged(key, func(w *writer, it *form.Item) bool { return text == c.show(w, it) }) {
			continue
		}
		v, err := c.read(r, it, text)
		if err != nil {
			r.fault(at, r.places[c.title], "%s", err)
			continue
		}
		if !same(v, c, it) {
			edits = append(edits, form.SetProperty(key, c.prop, v))
		}
		if c.prop == "type" { // what follows is read by the new type
			it.Type = v.(form.Type)
		}
	}
	if err := r.doAll(edits); err != nil {
		r.fault(at, 0, "%s", strings.TrimPrefix(err.Error(), form.ErrEdit.Error()+": "))
	}
}

// unchanged reports whether a cell says what went out of the form as it was, in the
// language or as a sentence, whatever became of the labels in it.
func (r *reader) unchanged(key string, says func(*writer, *form.Item) bool) bool {
	p, ok := r.old.Find(key)
	if !ok {
		return false
	}
	return says(r.before(false), p.Item) || says(r.before(true), p.Item)
}

// before writes the form as it was.
func (r *reader) before(sentences bool) *writer {
	if r.was == nil {
		r.was = r.old.Symbols()
	}
	return &writer{form: r.old, syms: r.was, sentences: sentences}
}

// doAll makes edits at once and keeps them one by one.
func (r *reader) doAll(edits []form.Edit) error {
	for _, e := range edits {
		r.edits = append(r.edits, asMade(e))
		if err := r.form.Change(e); err != nil {
			return err
		}
		if !slices.Contains(written, e.Property) { // else all is called as it was
			r.syms = nil
		}
	}
	return nil
}

// asMade is an edit with what it adds as it is now, before more is put into that.
func asMade(e form.Edit) form.Edit {
	if e.Page != nil {
		p := *e.Page
		e.Page = &p
	}
	if e.Section != nil {
		s := *e.Section
		e.Section = &s
	}
	if e.Item != nil {
		it := *e.Item
		e.Item = &it
	}
	return e
}

// same reports whether a question has a value already.
func same(v any, c column, it *form.Item) bool {
	data, err := json.Marshal(it)
	if err != nil {
		return false
	}
	var props map[string]json.RawMessage
	if json.Unmarshal(data, &props) != nil {
		return false
	}
	is, err := json.Marshal(v)
	if err != nil {
		return false
	}
	was, ok := props[c.prop]
	if !ok {
		was = []byte("null")
	}
	var a, b any
	return json.Unmarshal(is, &a) == nil && json.Unmarshal(was, &b) == nil && reflect.DeepEqual(a, b)
}

func (r *reader) symbols() *expr.Symbols {
	if r.syms == nil {
		r.syms = r.form.Symbols()
	}
	return r.syms
}

// rule reads a rule; usual is what holds where there is none.
func (r *reader) rule(it *form.Item, property, text string, was form.Rule, usual bool) (any, error) {
	return r.ruleOf(it.Key, property, text, was, usual)
}

func (r *reader) ruleOf(owner, property, text string, was form.Rule, usual bool) (any, error) {
	switch expr.Fold(text) {
	case "":
		return nil, nil
	case yes, always:
		if usual && was.IsZero() {
			return nil, nil
		}
		return true, nil
	case no, never:
		if !usual && was.IsZero() {
			return nil, nil
		}
		return false, nil
	}
	src, err := r.expressionOf(owner, property, text, true)
	if err != nil {
		return nil, err
	}
	return src, nil
}

func (r *reader) expression(it *form.Item, property, text string, condition bool) (string, error) {
	return r.expressionOf(it.Key, property, text, condition)
}

// expressionOf reads an expression in the language, or as the sentence that it reads as.
func (r *reader) expressionOf(owner, property, text string, condition bool) (string, error) {
	syms := r.form.Narrow(r.symbols(), owner, property)
	compile := expr.Compile
	if condition {
		compile = expr.CompileCondition
	}
	n, parseErr := expr.Parse(text)
	if parseErr == nil {
		_, faults := compile(n, syms)
		if len(faults) == 0 {
			return text, nil
		}
		parseErr = faults[0]
	}
	// labels of now, or of then
	for _, by := range []*expr.Symbols{syms, r.old.Narrow(r.before(true).syms, owner, property)} {
		if n, err := by.ReadSentence(text, condition); err == nil {
			if _, faults := compile(n, syms); len(faults) == 0 {
				return n.String(), nil
			}
		}
	}
	return "", fmt.Errorf("neither the language nor a sentence of the margin: %w", parseErr)
}

// parts reads the sheet of pages and sections. Those of it that the form does not have
// are left to the sheet of questions, which makes them.
func (r *reader) parts(cells [][]string) {
	if len(cells) == 0 || !r.head(cells[0], partColumns, keyColumn) {
		return
	}
	for i, row := range cells[1:] {
		key, _ := r.cell(row, keyColumn)
		page, _ := r.form.Section(key)
		_, sec := r.form.Section(key)
		if sec == nil {
			page = r.form.Page(key)
		}
		var title, intro string
		var shown form.Rule
		switch {
		case empty(row):
			continue
		case sec != nil:
			title, intro, shown = sec.Title, sec.Intro, sec.Shown
		case page != nil:
			title, intro, shown = page.Title, page.Intro, page.Shown
		default:
			r.fault(i+1, r.places[keyColumn], "there is no page or section with the key “%s”", key)
			continue
		}
		var edits []form.Edit
		for _, c := range []struct{ title, prop, was string }{{"Title", "title", title}, {"Introduction", "intro", intro}} {
			if text, there := r.cell(row, c.title); there && text != strings.TrimSpace(c.was) {
				v, _ := readText(r, nil, text)
				edits = append(edits, form.SetProperty(key, c.prop, v))
			}
		}
		text, there := r.cell(row, "Shown when")
		if there && text != r.before(false).ruleOf(key, "shown", shown, true) &&
			text != r.before(true).ruleOf(key, "shown", shown, true) {
			switch v, err := r.ruleOf(key, "shown", text, shown, true); {
			case err != nil:
				r.fault(i+1, r.places["Shown when"], "%s", err)
			case v != nil || !shown.IsZero():
				if src, ok := v.(string); !ok || src != shown.Expr {
					edits = append(edits, form.SetProperty(key, "shown", v))
				}
			}
		}
		if err := r.doAll(edits); err != nil {
			r.fault(i+1, 0, "%s", err)
		}
	}
}

// language reads the sheet of a language. A text that the form does not have is passed
// over if its translation is empty, and a fault otherwise.
func (r *reader) language(tag string, cells [][]string) {
	if len(cells) == 0 || !r.head(cells[0], languageColumns, "Text", "Translation") {
		return
	}
	texts := map[string]bool{}
	for _, t := range r.form.Texts() {
		texts[t.Text] = true
	}
	all := map[string]form.Translation{}
	maps.Copy(all, r.form.Translations)
	is := form.Translation{}
	maps.Copy(is, all[tag])
	for i, row := range cells[1:] {
		text, _ := r.exact(row, "Text")
		said, _ := r.cell(row, "Translation")
		switch {
		case empty(row):
		case !texts[text] && said != "":
			r.fault(i+1, r.places["Text"], "the form does not say this; its text was changed, or this one was")
		case said == "":
			delete(is, text)
		default:
			is[text] = said
		}
	}
	if maps.Equal(is, all[tag]) {
		return
	}
	all[tag] = is
	if err := r.do(form.SetProperty("", "translations", all)); err != nil {
		r.fault(0, 0, "%s", err)
	}
}

// exact is a cell with the blanks around it.
func (r *reader) exact(row []string, title string) (string, bool) {
	if i, ok := r.places[title]; ok && i < len(row) {
		return strings.ReplaceAll(row[i], "\r\n", "\n"), true
	}
	return "", false
}

// compiled are the errors of the form that was not faulty before, each at its cell.
func (r *reader) compiled(before *form.Form) []exchange.Fault {
	if len(before.Pages) > 0 {
		if _, was := engine.Compile(before); len(form.Errors(was)) > 0 {
			return nil
		}
	}
	_, remarks := engine.Compile(r.form)
	var out []exchange.Fault
	for _, rm := range form.Errors(remarks) {
		row, column := r.rows[rm.Item], 0
		if row == 0 { // of what the sheet does not hold
			rm.Text = rm.At + ": " + rm.Text
		}
		for prop, at := range r.cells[rm.Item] {
			if strings.Contains(rm.At, rm.Item+"."+prop) {
				column = at
			}
		}
		out = append(out, exchange.Fault{Sheet: r.name, Cell: exchange.CellName(row, column), Text: rm.Text})
	}
	return out
}
