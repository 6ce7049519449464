// Package intake is where responses are read in that were written elsewhere: a spreadsheet
// is handed over, its columns are matched to questions by pointing, the engine judges each
// row, and all are taken or none; what was taken is taken out again as one.
package intake

import (
	"embed"
	"errors"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/intake"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages *ui.Renderer
}

func New(d *layout.Desk) *Room { return &Room{d, layout.Pages(nil, templates)} }

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/responses/in", h(d.start))
	r.Post("/responses/in", h(d.read))
	r.Get("/responses/in/{intake}", h(d.match))
	r.Post("/responses/in/{intake}", h(d.match))
	r.Post("/responses/in/{intake}/take", h(d.take))
	r.Post("/responses/in/{intake}/drop", h(d.drop))
	r.Post("/responses/in/{intake}/take-out", h(d.takeOut))
}

// startPage asks for a file, and lists what was read in before.
type startPage struct {
	layout.Header
	Live    bool // the form has an edition by which rows can be judged
	Problem string
	Said    string
	Before  []before
}

type before struct {
	ID             store.IntakeID
	Name, By, When string
	N, Left        int
}

// beforeShown is how many of them are listed.
const beforeShown = 20

func (d *Room) start(w http.ResponseWriter, r *http.Request) error {
	return d.startPage(w, r, http.StatusOK, "")
}

func (d *Room) startPage(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	f, def, fr, err := d.OpenTab(r, "responses")
	if err != nil {
		return err
	}
	p := startPage{Header: fr, Live: f.LiveEdition != nil, Problem: problem, Said: outcomes[r.URL.Query().Get("said")]}
	list, err := d.InForm(f).Intakes(r.Context(), beforeShown)
	zone := def.Symbols().Zone
	for _, i := range list {
		p.Before = append(p.Before, before{
			i.ID, i.Name, layout.LabelOr(i.Member, "someone who has left"), i.TakenAt.In(zone).Format(layout.PlainMoment),
			i.Responses, i.Left,
		})
	}
	if err != nil {
		return err
	}
	return d.pages.Page(w, status, "intake", p)
}

// outcomes are what can be said of what was just done.
var outcomes = map[string]string{
	"taken": "They are among the responses now.",
	"out":   "They were taken out again.",
	"some":  "They were taken out again, but for those that were changed or withdrawn since.",
}

// read keeps the file that was handed over.
func (d *Room) read(w http.ResponseWriter, r *http.Request) error {
	data, name, err := layout.ReadFile(w, r, exchange.MaxManyBytes, "cells")
	if err != nil {
		return err
	}
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	if f.LiveEdition == nil {
		return store.ErrNotFound
	}
	if len(data) == 0 {
		return d.startPage(w, r, http.StatusUnprocessableEntity, "Choose a file, or paste some cells, first.")
	}
	cells, err := intake.Cells(data)
	if err != nil {
		return d.startPage(w, r, http.StatusUnprocessableEntity, layout.Sentence(err))
	}
	p, err := d.Programs.Get(r.Context(), f.EditionID(*f.LiveEdition))
	if err != nil {
		return err
	}
	member := layout.Member(r.Context()).ID
	i, err := d.InForm(f).BeginIntake(r.Context(), store.Intake{
		MemberID: &member, Name: named(name), Data: data, Edition: *f.LiveEdition,
		Matching: intake.Guess(cells[0], intake.Targets(p.Form, cells[0])),
	})
	if err != nil {
		return err
	}
	http.Redirect(w, r, address(f.ID, i.ID), http.StatusSeeOther)
	return nil
}

// named is the name of a file as it is shown.
func named(name string) string {
	if name = strings.TrimSpace(name); name == "" {
		return "pasted cells"
	}
	runes := []rune(name)
	return string(runes[:min(len(runes), 120)])
}

func address(f store.FormID, i store.IntakeID) string {
	return layout.Base(f) + "/responses/in/" + strconv.FormatInt(int64(i), 10)
}

// matchPage matches columns, and shows what the engine says to the rows.
type matchPage struct {
	layout.Header
	Intake  store.IntakeID
	Name    string
	Rows    int
	Columns []column
	Targets []intake.Target
	Problem string
	Judged  bool
	Anyway  bool // what lacks something is taken
	intake.Reading
	More int // faults that are not told
}

// beyond is how many faults are not told by themselves.
func (p *matchPage) beyond() int {
	if len(p.Faults) < intake.MostFaults {
		return 0
	}
	return p.Faulty - len(p.Faults)
}

// column is one of the file, with the first of what stands in it.
type column struct {
	N       int
	Heading string
	Cells   []string
	Target  string
	Dated   bool          // it holds dates in figures
	Orders  []datesReadAs // in which order they can be read
}

// datesReadAs is an order of dates, with what the first of a column are by it.
type datesReadAs struct {
	Order  intake.Order
	Label  string
	Days   string // in words
	Chosen bool
}

// orderWords are the orders of dates in words.
var orderWords = map[intake.Order]string{intake.DayFirst: "day first", intake.MonthFirst: "month first"}

// examples is how many cells of a column are shown.
const examples = 3

// opened is an intake of a request, with its cells and the program that judges them.
type opened struct {
	form    store.Form
	frame   layout.Header
	intake  store.Intake
	cells   [][]string
	program *engine.Program
}

// intakeID is the intake that an address names.
func intakeID(r *http.Request) (store.IntakeID, error) {
	id, err := strconv.ParseInt(chi.URLParam(r, "intake"), 10, 64)
	if err != nil {
		return 0, store.ErrNotFound
	}
	return store.IntakeID(id), nil
}

func (d *Room) opened(r *http.Request) (o opened, err error) {
	if o.form, _, o.frame, err = d.OpenTab(r, "responses"); err != nil {
		return o, err
	}
	id, err := intakeID(r)
	if err != nil {
		return o, err
	}
	if o.intake, err = d.InForm(o.form).Intake(r.Context(), layout.Member(r.Context()).ID, id); err != nil {
		return o, err
	}
	if o.form.LiveEdition == nil {
		return o, store.ErrNotFound
	}
	o.intake.Edition = *o.form.LiveEdition // which may be another by now
	if o.cells, err = intake.Cells(o.intake.Data); err != nil {
		return o, err
	}
	o.program, err = d.Programs.Get(r.Context(), o.form.EditionID(o.intake.Edition))
	return o, err
}

// match shows the columns, and takes what they are matched to; once all are the rows are
// judged.
func (d *Room) match(w http.ResponseWriter, r *http.Request) error {
	posted := r.Method == http.MethodPost
	if posted {
		if err := layout.Parse(w, r); err != nil {
			return err
		}
	}
	o, err := d.opened(r)
	if err != nil {
		return err
	}
	if posted {
		o.intake.Matching = nil
		for n := range o.cells[0] {
			at := strconv.Itoa(n)
			o.intake.Matching = append(o.intake.Matching,
				intake.Order(r.PostForm.Get("order."+at)).Dated(r.PostForm.Get("column."+at)))
		}
		if err := d.InForm(o.form).MatchIntake(r.Context(), o.intake); err != nil {
			return err
		}
	}
	p := o.page()
	if !posted {
		return d.pages.Page(w, http.StatusOK, "intake-match", p)
	}
	reader, err := intake.NewReader(o.program, o.cells[0], o.intake.Matching, d.Now())
	if err != nil {
		p.Problem = layout.Sentence(err)
		return d.pages.Page(w, http.StatusUnprocessableEntity, "intake-match", p)
	}
	if p.Anyway = r.PostForm.Get("anyway") != ""; p.Anyway {
		reader.Anyway()
	}
	p.Judged = true
	if p.Reading, err = reader.Read(o.cells, func(int, intake.Response) error { return r.Context().Err() }); err != nil {
		return err
	}
	p.More = p.beyond()
	status := http.StatusOK
	if p.Faulty > 0 || p.Responses == 0 {
		status = http.StatusUnprocessableEntity
	}
	return d.pages.Page(w, status, "intake-match", p)
}

func (o opened) page() *matchPage {
	p := &matchPage{Header: o.frame, Intake: o.intake.ID, Name: o.intake.Name, Rows: len(o.cells) - 1,
		Targets: intake.Targets(o.program.Form, o.cells[0])}
	for n, heading := range o.cells[0] {
		c := column{N: n, Heading: layout.LabelOr(strings.TrimSpace(heading), exchange.CellName(0, n))}
		if n < len(o.intake.Matching) {
			c.Target, _ = intake.Matched(o.intake.Matching[n])
			c.dates(o, n)
		}
		for _, row := range o.cells[1:] {
			if len(c.Cells) == examples {
				break
			}
			if n < len(row) && strings.TrimSpace(row[n]) != "" {
				c.Cells = append(c.Cells, row[n])
			}
		}
		p.Columns = append(p.Columns, c)
	}
	return p
}

// dates tells how the dates of a column are read.
func (c *column) dates(o opened, n int) {
	dated, ok := intake.DatesOf(o.program.Form, o.cells, n, o.intake.Matching[n])
	if !ok {
		return
	}
	c.Dated = true
	for _, order := range dated.Orders {
		var days []string
		for _, d := range dated.Samples[order] {
			days = append(days, inWords(d))
		}
		c.Orders = append(c.Orders, datesReadAs{order, orderWords[order], strings.Join(days, " · "), order == dated.Order})
	}
}

// inWords is a day that can't be mistaken for another.
func inWords(d expr.Day) string {
	year, month, day := d.Date()
	return time.Date(year, time.Month(month), day, 0, 0, 0, 0, time.UTC).Format("2 January 2006")
}

// Unsaid reports whether the order of the dates has to be said.
func (c column) Unsaid() bool {
	return len(c.Orders) > 1 && !slices.ContainsFunc(c.Orders, func(o datesReadAs) bool { return o.Chosen })
}

// take stores all rows, or none.
func (d *Room) take(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	o, err := d.opened(r)
	if err != nil {
		return err
	}
	p := o.page()
	refuse := func(problem string) error {
		p.Problem = problem
		return d.pages.Page(w, http.StatusConflict, "intake-match", p)
	}
	reader, err := intake.NewReader(o.program, o.cells[0], o.intake.Matching, d.Now())
	if err != nil {
		return refuse(layout.Sentence(err))
	}
	if p.Anyway = r.PostForm.Get("anyway") != ""; p.Anyway {
		reader.Anyway()
	}
	rows, faulty := d.rows(o, reader)
	got, err := d.InForm(o.form).TakeIntake(r.Context(), o.intake, rows)
	switch {
	case errors.Is(err, errFaulty):
		p.Judged, p.Reading = true, *faulty
		p.More = p.beyond()
		return d.pages.Page(w, http.StatusUnprocessableEntity, "intake-match", p)
	case errors.Is(err, store.ErrReadBefore):
		return refuse("These rows were read in before. Take them out first if they are to be read in again.")
	case err != nil:
		return err
	case got == store.NoPlaces:
		return refuse("More of them pick a choice than it has places left. Nothing was taken.")
	}
	http.Redirect(w, r, layout.Base(o.form.ID)+"/responses/in?said=taken", http.StatusSeeOther)
	return nil
}

// errFaulty is for rows of which one is not taken.
var errFaulty = errors.New("a row is not taken")

// atATime is how many rows are judged before they are handed on.
const atATime = 500

// rows judges the rows some at a time, as the store asks for them; it ends with errFaulty
// at the first ones of which one is not taken, which are told then.
func (d *Room) rows(
	o opened, reader *intake.Reader,
) (next func() (store.Response, bool, error), faulty *intake.Reading) {
	at, ready := 1, []store.Response(nil)
	faulty = &intake.Reading{}
	return func() (store.Response, bool, error) {
		for len(ready) == 0 && at < len(o.cells) {
			some := o.cells[:min(at+atATime, len(o.cells))]
			got, err := reader.ReadFrom(some, at, func(row int, res intake.Response) error {
				ready = append(ready, store.Response{
					Answers: res.Answers, Parameters: res.Parameters, ReceivedAt: res.Received,
					Filling: intake.Filling(int64(o.form.ID), row, o.cells[row]), Takes: res.Takes,
					Labels: res.Labels, Overridden: res.Overridden,
				})
				return nil
			})
			if err != nil {
				return store.Response{}, false, err
			}
			if at = len(some); got.Faulty > 0 {
				*faulty = got
				return store.Response{}, false, errFaulty
			}
		}
		if len(ready) == 0 {
			return store.Response{}, false, nil
		}
		first := ready[0]
		ready = ready[1:]
		return first, true, nil
	}, faulty
}

// drop forgets a file that was not taken.
func (d *Room) drop(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	id, err := intakeID(r)
	if err != nil {
		return err
	}
	if err := d.InForm(f).DropIntake(r.Context(), layout.Member(r.Context()).ID, id); err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/responses/in", http.StatusSeeOther)
	return nil
}

// takeOut erases what was read in at once, once that was confirmed.
func (d *Room) takeOut(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	id, err := intakeID(r)
	if err != nil {
		return err
	}
	to := layout.Base(f.ID) + "/responses/in"
	if r.PostForm.Get("sure") != "" {
		there := 0
		list, err := d.InForm(f).Intakes(r.Context(), beforeShown)
		if err != nil {
			return err
		}
		for _, i := range list {
			if i.ID == id {
				there = i.Left
			}
		}
		gone, err := d.InForm(f).TakeOutIntake(r.Context(), id)
		if err != nil {
			return err
		}
		if to += "?said=out"; gone < there {
			to = strings.TrimSuffix(to, "out") + "some"
		}
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}
