// Package proofs is what is proven of a draft: what never happens and what would stop people, each with an input
// that shows it, the shapes that the form can take, and the walks that try everything.
package proofs

import (
	"context"
	"embed"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/proof"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/rehearsal"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages      *ui.Renderer
	rehearsals *rehearsal.Room
}

// New returns the room; what it finds is tried in the rehearsal.
func New(d *layout.Desk, rehearsals *rehearsal.Room) *Room {
	return &Room{d, layout.Pages(nil, templates), rehearsals}
}

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/proof", h(d.proof))
	r.Get("/proof/lines", h(d.lines))
	r.Get("/proof/publishing", h(d.publishing))
	r.Post("/proof/keep", h(d.keep))
}

// proofPage is what is proven of a draft.
type proofPage struct {
	layout.Header
	Hinders   []form.Remark // errors that stand in the way
	Heading   string
	Findings  []finding
	Undecided []undecided
	Says      string // how much is decided
	Errors    int
	Warnings  int
	Notes     int
	Took      string
	Shapes    []shape
	More      int // shapes that are not drawn
	Count     string
	Walks     []walk
	Fewer     string // whether fewer would do, and what was rehearsed
	Said      string
}

// finding is a remark as a card.
type finding struct {
	proof.Remark
	Head, Rest string
	Row        string // the row in the manuscript, "" for none
	Try        string // by what the rehearsal finds its witness
	Property   string // of the tie that can be shortened
	Within     int    // how much in it is never shown either
}

// Mark is the sign of how grave it is.
func (f finding) Mark() string {
	return map[form.Severity]string{form.Error: "✕", form.Warning: "○", form.Hint: "·"}[f.Severity]
}

// undecided is a condition about which nothing is claimed.
type undecided struct {
	proof.Undecided
	Row  string
	Seek string
}

// walk is a filling to try.
type walk struct {
	Number, At int // from 1, and from 0
	Says       string
	Tries      int
}

func (d *Room) proof(w http.ResponseWriter, r *http.Request) error {
	return d.show(w, r, http.StatusOK, "")
}

func (d *Room) show(w http.ResponseWriter, r *http.Request, status int, said string) error {
	f, def, fr, err := d.OpenTab(r, "proof")
	if err != nil {
		return err
	}
	page := proofPage{Header: fr, Said: said}
	draft, report, err := d.whole(r.Context(), f)
	if err != nil {
		return err
	}
	if report == nil {
		page.Hinders = form.Errors(draft.Remarks)
		return d.pages.Page(w, status, "proof", page)
	}
	page.fill(def, draft.Program, report)
	return d.pages.Page(w, status, "proof", page)
}

// whole is a form's draft with all that is proven of it; no report for one with errors.
func (d *Room) whole(ctx context.Context, f store.Form) (*layout.Draft, *layout.Proven, error) {
	draft, err := d.Draft(ctx, f)
	if err != nil || draft.Program == nil {
		return draft, nil, err
	}
	kept, err := d.rehearsals.Fillings(ctx, f, draft.Program)
	if err != nil {
		return nil, nil, err
	}
	report, err := d.ProvenWhole(ctx, draft, kept, rehearsal.Names(kept))
	return draft, report, err
}

func (p *proofPage) fill(def *form.Form, program *engine.Program, report *layout.Proven) {
	p.Took, p.Says = report.Long(), decided(report)
	p.Findings = findings(def, report.Remarks)
	for _, r := range report.Remarks {
		switch r.Severity {
		case form.Error:
			p.Errors++
		case form.Warning:
			p.Warnings++
		default:
			p.Notes++
		}
	}
	p.Heading = heading(p.Errors, p.Warnings, p.Notes, report.Cut)
	for _, u := range report.Undecided {
		one := undecided{Undecided: u, Row: layout.RowOf(def, form.Remark{Item: u.Item})}
		if owner, property := u.Item, propertyOf(u.At, u.Item); owner != "" && form.Seekable(property) {
			one.Seek = owner + ":" + property + ":met"
		}
		p.Undecided = append(p.Undecided, one)
	}
	p.shapes(def, program, report.Shapes)
	for i, w := range report.Walks {
		p.Walks = append(p.Walks, walk{i + 1, i, told(program, w.Witness, 3), len(w.Covers)})
	}
	p.Fewer = fewer(report)
}

// decided says how much is.
func decided(r *layout.Proven) string {
	beyond := len(r.Undecided)
	said := fmt.Sprintf("%d conditions and values of %d items decided for every possible answer",
		max(0, r.Conditions-beyond), r.Items)
	switch {
	case beyond == 1:
		said += "; 1 goes beyond that and is listed below"
	case beyond > 1:
		said += fmt.Sprintf("; %d go beyond that and are listed below", beyond)
	}
	if r.Cut {
		return said + ". There was not time for all of it."
	}
	return said + "."
}

// fewer says whether fewer walks would do, and how much of them was rehearsed.
func fewer(r *layout.Proven) string {
	said := "Fewer can’t."
	if r.Least < len(r.Walks) {
		said = fmt.Sprintf("Fewer than %d can’t.", r.Least)
	}
	tried := "none of the"
	if len(r.Tried) > 0 {
		tried = strconv.Itoa(len(r.Tried)) + " of"
	}
	return fmt.Sprintf("%s Your kept rehearsals try %s %d so far.", said, tried, r.Goals)
}

func heading(errors, warnings, notes int, cut bool) string {
	switch {
	case errors == 1:
		return "One thing would stop people"
	case errors > 1:
		return strconv.Itoa(errors) + " things would stop people"
	case warnings == 1:
		return "Nobody is stopped, but one thing never happens"
	case warnings > 1:
		return "Nobody is stopped, but " + strconv.Itoa(warnings) + " things never happen"
	case cut:
		return "Nothing was found in the time there was"
	case notes > 0:
		return "Nobody is stopped, and everything can happen"
	}
	return "Everything can happen, and nobody is stopped"
}

// split parts a text at the first of a mark, in a heading and what explains it.
func split(text, mark string) (head, rest string) {
	head, rest, ok := strings.Cut(text, mark)
	if !ok {
		return text, ""
	}
	if first, size := utf8.DecodeRuneInString(rest); size > 0 {
		rest = string(unicode.ToUpper(first)) + rest[size:]
	}
	return strings.TrimSuffix(head, ".") + ".", rest
}

// propertyOf is the property at the place of a remark.
func propertyOf(at, owner string) string {
	last := at[strings.LastIndexByte(at, '/')+1:]
	return strings.TrimPrefix(last, owner+".")
}

var severities = []form.Severity{form.Error, form.Warning, form.Hint}

// findings are remarks as cards, the gravest first; what is never shown because all around
// it is not stands with that.
func findings(def *form.Form, remarks []proof.Remark) (out []finding) {
	at := map[string]int{} // the card of a page or section that is never shown
	within := map[string]string{}
	for i, r := range remarks {
		if r.Kind == proof.NeverShown && r.Other != "" {
			root := r.Other
			for within[root] != "" {
				root = within[root]
			}
			within[r.Item] = root
			if j, ok := at[root]; ok {
				out[j].Within++
				continue
			}
		}
		one := finding{Remark: r, Row: layout.RowOf(def, r.Remark)}
		one.Head, one.Rest = r.Text, ""
		switch {
		case r.Kind == proof.DeadEnd && r.With != "":
			one.Head = "With " + r.With + " nobody can send the form."
			one.Rest = def.NameOf(r.Item) + " is required there, and no answer to it is accepted."
		case r.Kind == proof.DeadEnd:
			one.Head = def.NameOf(r.Item) + " can stop everybody."
			one.Rest = "It is required, and no answer to it is accepted at that moment."
		case strings.HasPrefix(r.Kind, "never-") || r.Kind == proof.OnlyRefused:
			one.Head, one.Rest = split(r.Text, ": ")
		}
		if r.Witness != nil {
			one.Try = "remark:" + strconv.Itoa(i)
		}
		if r.Kind == proof.NoDifference && r.Item != "" {
			one.Property = propertyOf(r.At, r.Item)
		}
		if r.Kind == proof.NeverShown {
			at[r.Item] = len(out)
		}
		out = append(out, one)
	}
	slices.SortStableFunc(out, func(a, b finding) int {
		return slices.Index(severities, a.Severity) - slices.Index(severities, b.Severity)
	})
	return out
}

// told says a few answers of a witness.
func told(p *engine.Program, w proof.Witness, most int) string {
	var parts []string
	o := p.Run(engine.Input{Answers: p.Answers(w.Answers), Params: w.URL, At: w.At, Mode: engine.New})
	for _, a := range o.Answered() {
		if _, given := w.Answers[a.Key]; given && len(parts) < most && len(a.Text) < 40 {
			parts = append(parts, a.Label+" "+a.Text)
		}
	}
	for _, param := range p.Form.Parameters {
		if v := w.URL[param.Name]; len(v) > 0 && len(parts) < most {
			parts = append(parts, layout.LabelOr(param.Label, param.Name)+" "+v[0])
		}
	}
	if len(parts) == 0 {
		return "Nothing answered"
	}
	return strings.Join(parts, ", ")
}

// keep keeps all walks as rehearsals.
func (d *Room) keep(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	draft, report, err := d.whole(r.Context(), f)
	if err != nil {
		return err
	}
	if report == nil {
		return d.show(w, r, http.StatusUnprocessableEntity, "")
	}
	only, _ := strconv.Atoi(r.PostForm.Get("walk"))
	kept := 0
	for i, walk := range report.Walks {
		if only != 0 && only != i+1 {
			continue
		}
		name := fmt.Sprintf("Walk %d: %s", i+1, told(draft.Program, walk.Witness, 3))
		if err := d.rehearsals.KeepFilling(r.Context(), f, draft.Program, name, walk.Filling()); err != nil {
			return err
		}
		kept++
	}
	said := strconv.Itoa(kept) + " walks are kept as rehearsals. They run again at each publishing."
	if kept == 1 {
		said = "The walk is kept as a rehearsal. It runs again at each publishing."
	}
	return d.show(w, r, http.StatusOK, said)
}

// linesPart is what is proven, at the lines of the manuscript.
type linesPart struct {
	ID      store.FormID
	Version int64
	Rows    []lineRow
	Gone    []string // rows that had something and have nothing any more
	Had     string
	Errors  int
	Others  int
	Took    string
	Stale   bool
}

// lineRow is what stands at one line.
type lineRow struct {
	Key      string
	Findings []finding
}

// lines gives the manuscript what is proven of its newest draft; nothing for one that has
// been changed meanwhile, since that asks again.
func (d *Room) lines(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	q := r.URL.Query()
	part := linesPart{ID: f.ID, Version: f.DraftVersion, Stale: q.Get("version") != strconv.FormatInt(f.DraftVersion, 10)}
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return err
	}
	if draft.Program != nil && !part.Stale {
		report, err := d.Proven(r.Context(), draft)
		if err != nil {
			return err
		}
		part.fill(def, report)
	}
	for _, key := range strings.Fields(q.Get("had")) {
		if def.Keys()[key] && !slices.ContainsFunc(part.Rows, func(row lineRow) bool { return row.Key == key }) {
			part.Gone = append(part.Gone, key)
		}
	}
	return d.pages.Page(w, http.StatusOK, "proof-lines", part)
}

func (part *linesPart) fill(def *form.Form, report *layout.Proven) {
	part.Took = report.Long()
	at := map[string]int{}
	var had []string
	for _, one := range findings(def, report.Remarks) {
		if one.Severity == form.Error {
			part.Errors++
		} else {
			part.Others++
		}
		if one.Row == "" {
			continue
		}
		i, ok := at[one.Row]
		if !ok {
			i = len(part.Rows)
			at[one.Row] = i
			part.Rows = append(part.Rows, lineRow{Key: one.Row})
			had = append(had, one.Row)
		}
		part.Rows[i].Findings = append(part.Rows[i].Findings, one)
	}
	part.Had = strings.Join(had, " ")
}

// publishingPart is what publishing a draft would newly make impossible, and what it makes
// otherwise, with somebody for whom it does.
type publishingPart struct {
	ID          store.FormID
	New         []finding
	Differences []proof.Difference
	Undecided   int
	More        int
}

// Says sums up what was found.
func (p publishingPart) Says() string {
	switch {
	case len(p.New)+len(p.Differences) > 0:
		return "Each was tried in both editions."
	case p.Undecided > 0:
		return "No difference was found, and nothing becomes impossible."
	}
	return "Proven: nothing becomes impossible, and nobody is treated otherwise."
}

// maxDifferences is how many differences stand in one list.
const maxDifferences = 12

func (d *Room) publishing(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return err
	}
	part := publishingPart{ID: f.ID}
	if draft.Program == nil {
		return d.pages.Page(w, http.StatusOK, "proof-publishing", part)
	}
	report, err := d.Proven(r.Context(), draft)
	if err != nil {
		return err
	}
	c, err := d.Compared(r.Context(), f, draft)
	if err != nil {
		return err
	}
	if c == nil {
		c = &layout.Comparison{}
	}
	part.Differences = c.Differences[:min(len(c.Differences), maxDifferences)]
	part.More, part.Undecided = len(c.Differences)-len(part.Differences), len(c.Undecided)
	for _, one := range findings(def, report.Remarks) {
		if one.Severity != form.Hint && !c.Claimed[layout.ClaimOf(one.Remark)] {
			part.New = append(part.New, one)
		}
	}
	return d.pages.Page(w, http.StatusOK, "proof-publishing", part)
}
