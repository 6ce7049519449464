package forms

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/demo"
	"lazo/store"
	"lazo/web/desk/layout"
)

// samplesPage offers samples to start from.
type samplesPage struct {
	layout.Top
	Search  string
	Samples []sampleRow
}

type sampleRow struct {
	Key, Title, About string
	Items, Ties       int
}

// samples lists the samples that have every word of the search in what they say.
func (d *Room) samples(w http.ResponseWriter, r *http.Request) error {
	top, err := d.Top(r, "forms")
	if err != nil {
		return err
	}
	page := samplesPage{Top: top, Search: strings.TrimSpace(r.URL.Query().Get("search"))}
	for _, s := range demo.Samples(d.Now()) {
		if s.Matches(page.Search) {
			row := sampleRow{Key: s.Form.Key, Title: s.Form.Title, About: s.About, Ties: len(s.Form.AllTies())}
			for range s.Form.Places() {
				row.Items++
			}
			page.Samples = append(page.Samples, row)
		}
	}
	return d.pages.Page(w, http.StatusOK, layout.TemplateFor(r, "samples"), page)
}

// startFrom makes a new form of a sample.
func (d *Room) startFrom(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	for _, s := range demo.Samples(d.Now()) {
		if s.Form.Key == r.PostForm.Get("sample") {
			return d.create(w, r, s.Form)
		}
	}
	return store.ErrNotFound
}

// seasonPage asks by how much the dates of a new season's form move.
type seasonPage struct {
	layout.Header
	Dates   []string
	First   string
	NewDate string
	NewName string
	Problem string
}

func (d *Room) askSeason(w http.ResponseWriter, r *http.Request) error {
	return d.seasonPage(w, r, http.StatusOK, "")
}

func (d *Room) seasonPage(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	_, def, fr, err := d.OpenTab(r, "season")
	if err != nil {
		return err
	}
	page := seasonPage{Header: fr, Problem: problem, NewName: nextYear(def.Title)}
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
func (d *Room) season(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	_, def, err := d.Open(r)
	if err != nil {
		return err
	}
	title := strings.TrimSpace(r.PostForm.Get("title"))
	if title == "" || len(title) > author.MaxTitle {
		return d.seasonPage(
			w, r, http.StatusUnprocessableEntity, fmt.Sprintf("A form needs a title of at most %d characters.", author.MaxTitle),
		)
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
