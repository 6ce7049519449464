package desk

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/demo"
	"lazo/store"
	"lazo/web/ui"
)

// keep stores a section of the draft for use in other forms of the workspace.
func (d *Desk) keep(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	key := r.PostForm.Get("key")
	_, s := def.Section(key)
	if s == nil {
		return store.ErrNotFound
	}
	err = d.store.KeepSection(r.Context(), store.KeptSection{WorkspaceID: f.WorkspaceID, Name: s.Name(), Definition: s.JSON()})
	if err != nil {
		return err
	}
	return d.showManuscript(w, r, f, def, view{at: key, problem: "“" + s.Name() + "” is kept: any form of the workspace can take it in, at the end of a page."}, http.StatusOK)
}

func (d *Desk) insertKept(ctx context.Context, f store.Form, def *form.Form, v url.Values) (change, error) {
	id, err := strconv.ParseInt(v.Get("kept"), 10, 64)
	if err != nil {
		return change{}, wrong("choose a section first")
	}
	k, err := d.store.KeptSection(ctx, f.WorkspaceID, id)
	if errors.Is(err, store.ErrNotFound) {
		return change{}, wrong("this section is no longer kept")
	}
	if err != nil {
		return change{}, err
	}
	s, err := form.ReadSection(k.Definition)
	if err != nil {
		return change{}, err
	}
	e, key, err := def.Insert(s, v.Get("into"))
	return change{edit: e, at: key}, err
}

// takeEdition makes an edition the draft again, as one change that can be undone.
func (d *Desk) takeEdition(ctx context.Context, f store.Form, v url.Values) (change, error) {
	number, err := strconv.Atoi(v.Get("number"))
	if err != nil {
		return change{}, wrong("which edition is not said")
	}
	e, err := d.store.EditionByNumber(ctx, f.ID, number)
	if errors.Is(err, store.ErrNotFound) {
		return change{}, wrong("there is no edition %d", number)
	}
	if err != nil {
		return change{}, err
	}
	def, err := e.Form()
	return change{edit: form.Edit{Op: form.Replace, Form: def}}, err
}

// importPage shows what is wrong with a form file that was sent in.
type importPage struct {
	Member, Workspace string
	Form              *Frame // the form whose draft it was for, or nil for a new one
	Name              string
	Remarks           []form.Remark
	More              int
}

const shownFaults = 100

// readImport reads a posted form file. If it has errors they are shown and ok is
// false: nothing of it is taken in.
func (d *Desk) readImport(w http.ResponseWriter, r *http.Request, fr *Frame) (def *form.Form, ok bool, err error) {
	r.Body = http.MaxBytesReader(w, r.Body, form.MaxBytes+1<<20)
	file, header, err := r.FormFile("file")
	if err != nil {
		if strings.Contains(err.Error(), "too large") {
			return nil, false, err
		}
		return nil, false, ui.Refusal{Status: http.StatusUnprocessableEntity, Title: "No file was sent", Text: "Please go back and choose a form file."}
	}
	defer file.Close()
	data, err := io.ReadAll(io.LimitReader(file, form.MaxBytes+1))
	if err != nil {
		return nil, false, err
	}
	p, remarks := engine.Load(data)
	if p != nil {
		return p.Form, true, nil
	}
	m := member(r.Context())
	ws, err := d.store.WorkspaceByID(r.Context(), m.WorkspaceID)
	if err != nil {
		return nil, false, err
	}
	page := importPage{Member: m.Name, Workspace: ws.Name, Form: fr, Name: header.Filename, Remarks: form.Errors(remarks)}
	if len(page.Remarks) > shownFaults {
		page.More = len(page.Remarks) - shownFaults
		page.Remarks = page.Remarks[:shownFaults]
	}
	return nil, false, d.pages.Page(w, http.StatusUnprocessableEntity, "import-faults", page)
}

// importNew makes a new form of a form file.
func (d *Desk) importNew(w http.ResponseWriter, r *http.Request) error {
	def, ok, err := d.readImport(w, r, nil)
	if err != nil || !ok {
		return err
	}
	return d.create(w, r, def)
}

// importInto makes a form file the draft of a form, as one change.
func (d *Desk) importInto(w http.ResponseWriter, r *http.Request) error {
	f, old, err := d.open(r)
	if err != nil {
		return err
	}
	fr, err := d.frame(r, f, old, "manuscript")
	if err != nil {
		return err
	}
	def, ok, err := d.readImport(w, r, &fr)
	if err != nil || !ok {
		return err
	}
	def.Key = old.Key
	if _, err := d.store.EditDraft(r.Context(), f.WorkspaceID, f.ID, f.DraftVersion, member(r.Context()).ID, form.Edit{Op: form.Replace, Form: def}); err != nil {
		return err
	}
	http.Redirect(w, r, base(f.ID), http.StatusSeeOther)
	return nil
}

func (d *Desk) create(w http.ResponseWriter, r *http.Request, def *form.Form) error {
	f, err := d.store.CreateForm(r.Context(), member(r.Context()).WorkspaceID, def)
	if err != nil {
		return err
	}
	http.Redirect(w, r, base(f.ID), http.StatusSeeOther)
	return nil
}

// samplesPage offers samples to start from.
type samplesPage struct {
	Member, Workspace, Search string
	Samples                   []sampleRow
}

type sampleRow struct {
	Key, Title, About string
	Items, Ties       int
}

// samples lists the samples that have every word of the search in what they say.
func (d *Desk) samples(w http.ResponseWriter, r *http.Request) error {
	m := member(r.Context())
	ws, err := d.store.WorkspaceByID(r.Context(), m.WorkspaceID)
	if err != nil {
		return err
	}
	page := samplesPage{Member: m.Name, Workspace: ws.Name, Search: strings.TrimSpace(r.URL.Query().Get("search"))}
	for _, s := range demo.Samples(d.now()) {
		if s.Matches(page.Search) {
			row := sampleRow{Key: s.Form.Key, Title: s.Form.Title, About: s.About, Ties: len(s.Form.AllTies())}
			for range s.Form.Places() {
				row.Items++
			}
			page.Samples = append(page.Samples, row)
		}
	}
	return d.pages.Page(w, http.StatusOK, templateFor(r, "samples"), page)
}

// startFrom makes a new form of a sample.
func (d *Desk) startFrom(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	for _, s := range demo.Samples(d.now()) {
		if s.Form.Key == r.PostForm.Get("sample") {
			return d.create(w, r, s.Form)
		}
	}
	return store.ErrNotFound
}

// seasonPage asks by how much the dates of a new season's form move.
type seasonPage struct {
	Frame
	Dates   []string
	First   string
	NewDate string
	NewName string
	Problem string
}

func (d *Desk) askSeason(w http.ResponseWriter, r *http.Request) error {
	return d.seasonPage(w, r, http.StatusOK, "")
}

func (d *Desk) seasonPage(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	_, def, fr, err := d.openTab(r, "season")
	if err != nil {
		return err
	}
	page := seasonPage{Frame: fr, Problem: problem, NewName: nextYear(def.Title)}
	for _, day := range def.Dates() {
		page.Dates = append(page.Dates, day.String())
	}
	if len(page.Dates) > 0 {
		page.First = page.Dates[0]
		page.NewDate = (def.Dates()[0] + 364).String() // the same weekday
	}
	if status != http.StatusOK {
		page.NewDate, page.NewName = r.PostForm.Get("date"), r.PostForm.Get("title")
	}
	return d.pages.Page(w, status, "season", page)
}

// nextYear raises the first year in a title by one.
func nextYear(title string) string {
	words := strings.Fields(title)
	for i, word := range words {
		if n, err := strconv.Atoi(word); err == nil && n >= 1900 && n < 2200 {
			words[i] = strconv.Itoa(n + 1)
			return strings.Join(words, " ")
		}
	}
	return title + ", new season"
}

// season makes next season's form of this one: its dates moved, no edition yet
// and no responses.
func (d *Desk) season(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	_, def, err := d.open(r)
	if err != nil {
		return err
	}
	title := strings.TrimSpace(r.PostForm.Get("title"))
	if title == "" || len(title) > maxTitle {
		return d.seasonPage(w, r, http.StatusUnprocessableEntity, fmt.Sprintf("A form needs a title of at most %d characters.", maxTitle))
	}
	by := expr.Day(0)
	if dates := def.Dates(); len(dates) > 0 {
		to, ok := expr.ParseDay(r.PostForm.Get("date"))
		if !ok {
			return d.seasonPage(w, r, http.StatusUnprocessableEntity, "Please write the new first date as year-month-day.")
		}
		by = to - dates[0]
	}
	next := form.NewSeason(def, func(day expr.Day) expr.Day { return day + by })
	next.Title, next.Key = title, addressOf(title)
	return d.create(w, r, next)
}

// presencePage says who else has the draft open, and whether it has moved on.
type presencePage struct {
	ID     int64
	Others []string
	Moved  bool
	At     string
}

func (d *Desk) presence(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	q := r.URL.Query()
	at := q.Get("at")
	if len(at) > expr.MaxKey {
		at = ""
	}
	others, version, err := d.store.Meet(r.Context(), f.WorkspaceID, f.ID, member(r.Context()).ID, at)
	if err != nil {
		return err
	}
	page := presencePage{ID: f.ID, At: at, Moved: q.Get("version") != strconv.FormatInt(version, 10)}
	for _, o := range others {
		name := o.Name
		if o.At != "" && def.Keys()[o.At] {
			name += ", at " + nameOf(def, o.At)
		}
		page.Others = append(page.Others, name)
	}
	return d.pages.Page(w, http.StatusOK, "presence", page)
}

// Pictures are taken up to this size, and of these kinds.
const maxPicture = 3 << 20

var pictureTypes = []string{"image/png", "image/jpeg", "image/gif", "image/webp"}

// addPicture stores a picture for a choice, a note or the greeting and puts it
// in its place.
func (d *Desk) addPicture(w http.ResponseWriter, r *http.Request) error {
	r.Body = http.MaxBytesReader(w, r.Body, maxPicture+1<<20)
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	show := view{at: r.URL.Query().Get("at")}
	refuse := func(text string) error {
		show.problem = text
		return d.showManuscript(w, r, f, def, show, http.StatusUnprocessableEntity)
	}
	file, header, err := r.FormFile("file")
	if err != nil {
		return refuse("No picture was sent; it may be larger than 3 MB.")
	}
	defer file.Close()
	data, err := io.ReadAll(io.LimitReader(file, maxPicture+1))
	if err != nil {
		return err
	}
	kind := http.DetectContentType(data)
	if len(data) > maxPicture || !slices.Contains(pictureTypes, kind) {
		return refuse("“" + header.Filename + "” can’t be used: pictures are PNG, JPEG, GIF or WebP, of at most 3 MB.")
	}
	id, err := d.store.AddPicture(r.Context(), store.Picture{WorkspaceID: f.WorkspaceID, MediaType: kind, Data: data})
	if err != nil {
		return err
	}
	if !ui.ReadableFields(r.PostForm) {
		return ui.Unreadable
	}
	e, err := pictureEdit(def, r.FormValue("key"), r.FormValue("n"), "/p/"+id)
	if err != nil {
		return refuse(editProblem(err))
	}
	after, err := d.store.EditDraft(r.Context(), f.WorkspaceID, f.ID, f.DraftVersion, member(r.Context()).ID, e)
	if err != nil {
		return err
	}
	if def, err = after.Definition(); err != nil {
		return err
	}
	return d.showManuscript(w, r, after, def, show, http.StatusOK)
}

// pictureEdit puts a picture's address where it belongs: at choice n of a
// question, behind the text of a note, or behind the greeting.
func pictureEdit(def *form.Form, key, n, address string) (form.Edit, error) {
	markdown := "\n\n![](" + address + ")"
	if key == "" {
		return form.SetProperty("", "intro", strings.TrimSpace(def.Intro+markdown)), nil
	}
	p, ok := def.Find(key)
	if !ok {
		return form.Edit{}, wrong("there is no item “%s”", key)
	}
	if p.Item.Type == form.Note {
		return form.SetProperty(key, "help", strings.TrimSpace(p.Item.Help+markdown)), nil
	}
	i, err := strconv.Atoi(n)
	if err != nil || i < 0 || i >= len(p.Item.Choices) {
		return form.Edit{}, wrong("this choice is no longer there")
	}
	choices := slices.Clone(p.Item.Choices)
	choices[i].Image = address
	e := form.Edit{Op: form.Batch, Edits: []form.Edit{form.SetProperty(key, "choices", choices)}}
	if p.Item.Look == "" {
		e.Edits = append(e.Edits, form.SetProperty(key, "look", "pictures"))
	}
	return e, nil
}
