package summary

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/core/exchange"
	"lazo/core/text"
	"lazo/core/view"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/responses"
)

// mostSummed is of how many responses a summary is made; of more it is of the first ones
// in the view's order, and says so.
const mostSummed = 100_000

// summaryPage sums the responses of a view up.
type summaryPage struct {
	layout.Header
	Name      string
	Beside    bool
	N, All    int
	Cut       bool
	Uncounted int    // responses that are still to be counted
	Again     string // the address that goes on counting
	Far       *far   // how far people come; nil where that is not of the view
	Fault     string
	Days      picture
	Pictures  []picture
	Left      int // questions that are shown on the page of its own only
	Of, By    string
	Crossable []view.Column
	Cross     *view.Cross
	Shades    [][]string
	Whole     string // the address of the page
	Back      string
	Hidden    []layout.Option
	Form      string
}

// picture is a sum with the places of what is drawn.
type picture struct {
	*view.Sum
	Rows    []barRow
	Columns []barColumn
	Shades  [][]string
	Drawing string // the address of it as a picture
	Width   int
}

type barRow struct {
	Label, Share string
	N, Width     int
	Top, Base    int // where it stands in a drawing, and its words
}

// Tall is the height of a drawing.
func (p picture) Tall() int {
	if p.Rows != nil {
		return drawnHead + drawnRow*len(p.Rows)
	}
	return drawnHead + int(chartHeight) + drawnRow
}

// LastLabel is what the last column is called.
func (p picture) LastLabel() string { return p.Columns[len(p.Columns)-1].Label }

type barColumn struct {
	Label               string
	N                   int
	X, Y, Width, Height float64
}

// How column charts are drawn, in units of their view box.
const (
	chartWidth  = 320.0
	chartHeight = 64.0
	rowWidth    = 120
	drawnHead   = 36 // of a picture by itself
	drawnRow    = 18
)

func pictureOf(s *view.Sum) picture {
	p := picture{Sum: s, Width: rowWidth}
	most := 0
	for _, b := range s.Bars {
		most = max(most, b.N)
	}
	if s.Picture == view.Bars {
		for i, b := range s.Bars {
			top := drawnHead + drawnRow*i
			p.Rows = append(p.Rows, barRow{
				text.Name(b.Label), view.Share(b.N, s.Answered), b.N, scaled(b.N, most, rowWidth), top, top + 10,
			})
		}
		return p
	}
	step := chartWidth / float64(max(len(s.Bars), 8))
	for i, b := range s.Bars {
		h := 0.0
		if most > 0 {
			h = float64(b.N) / float64(most) * chartHeight
		}
		p.Columns = append(p.Columns, barColumn{b.Label, b.N, float64(i)*step + 1, chartHeight - h, step - 2, h})
	}
	p.Shades = shades(s.Heat)
	return p
}

func scaled(n, most, width int) int {
	if most == 0 {
		return 0
	}
	return n * width / most
}

// shades are how dark the cells of a heat table are, as the opacity of its colour.
func shades(rows []view.HeatRow) [][]string {
	most := 1
	for _, r := range rows {
		most = max(most, slices.Max(append([]int{0}, r.N...)))
	}
	var out [][]string
	for _, r := range rows {
		var line []string
		for _, n := range r.N {
			line = append(line, fmt.Sprintf("%.2f", 0.85*float64(n)/float64(most)))
		}
		out = append(out, line)
	}
	return out
}

// besideShown is how many questions the summary beside the table has.
const besideShown = 4

func (d *Room) summary(w http.ResponseWriter, r *http.Request) error {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	asked := r.Header.Get("HX-Request") != "" // by a page that stands already
	p, err := d.summaryOf(r, l, asked && !r.URL.Query().Has("whole"))
	if err != nil {
		return err
	}
	if asked {
		return d.pages.Page(w, http.StatusOK, "summary-body", p)
	}
	return d.pages.Page(w, http.StatusOK, "summary", p)
}

func (d *Room) summaryOf(r *http.Request, l *responses.Looking, beside bool) (*summaryPage, error) {
	q := r.URL.Query()
	p := &summaryPage{Header: l.Frame, Beside: beside, Fault: l.Fault, Name: "All responses", Of: q.Get("of"),
		By:        q.Get("by"),
		Crossable: l.Lens.Crossable(), Whole: l.Address("/summary"), Back: l.Address(""),
		Form: layout.Base(l.Form.ID) + "/responses/summary"}
	if l.Saved != nil {
		p.Name = l.Saved.Name
	}
	for name, values := range l.Query() {
		p.Hidden = append(p.Hidden, layout.Option{Value: name, Label: values[0]})
	}
	var err error
	if p.All, err = d.InForm(l.Form).CountResponses(r.Context()); err != nil || l.Fault != "" {
		return p, err
	}
	keys := l.Lens.Keys()
	cross, crossed := l.Lens.NewCross(p.Of, p.By)
	sums := l.Lens.NewSums(keys)
	if l.When == nil && l.Find == "" && !crossed && len(l.Mask) == 0 { // what is kept of days is of all questions
		err = d.addDays(r.Context(), l, p, sums)
	} else {
		err = d.addAll(r.Context(), l, p, sums, cross)
	}
	if err != nil {
		return p, err
	}
	if !beside && l.When == nil && l.Find == "" {
		if p.Far, err = d.farOf(r.Context(), l); err != nil {
			return p, err
		}
	}
	if beside {
		p.Left = sums.Only(l.Lens.NewSums(nil), besideShown)
	}
	sums.Done()
	if p.N = sums.N; crossed {
		cross.Done(l.Lens)
		p.Cross, p.Shades = cross, shades(cross.Rows)
	}
	p.Days = pictureOf(sums.Days)
	for _, s := range sums.Sums {
		one := pictureOf(s)
		one.Drawing = l.Address("/summary/" + url.PathEscape(s.Key) + "/picture.svg")
		p.Pictures = append(p.Pictures, one)
	}
	return p, nil
}

// addAll adds what the view shows, response by response.
func (d *Room) addAll(
	ctx context.Context, l *responses.Looking, p *summaryPage, sums *view.Sums, cross *view.Cross,
) error {
	asked := sums.Keys()
	if cross != nil {
		asked = sums.Keys(p.Of, p.By)
	}
	enough := errors.New("enough")
	err := d.InForm(l.Form).AtOnce(ctx, func(all store.Snapshot) error {
		look := l.Look()
		look.Most = mostSummed + 1
		return all.EachOfPieces(look, piecesOf(asked), func(res store.Response, parts [][]byte) error {
			if sums.N == mostSummed {
				p.Cut = true
				return enough
			}
			record := recordOf(res, asked, parts)
			if sums.Add(record); cross != nil {
				cross.Add(l.Lens, record)
			}
			return nil
		})
	})
	if errors.Is(err, enough) {
		return nil
	}
	return err
}

// countingFor is for how long days are counted that nothing is kept of; whoever looks again
// goes on.
const countingFor = 3 * time.Second

// addDays adds all of a form's responses day by day: what was kept of a day is not counted
// again until something of it changes.
func (d *Room) addDays(ctx context.Context, l *responses.Looking, p *summaryPage, sums *view.Sums) error {
	asked, fingerprint := sums.Keys(), sums.Fingerprint()
	var fresh []store.DaySums
	err := d.InForm(l.Form).AtOnce(ctx, func(all store.Snapshot) error {
		days, err := all.Days(fingerprint)
		if err != nil {
			return err
		}
		began := time.Now()
		for _, day := range days {
			switch {
			case day.Sums != nil:
			case time.Since(began) > countingFor:
				p.Uncounted += day.Responses
				continue
			default:
				if day.Sums, err = d.countDay(l, all, day.Day, asked); err != nil {
					return err
				}
				fresh = append(fresh, day)
			}
			if err := sums.Merge(day.Sums); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	if p.Again = p.Whole; !p.Beside {
		p.Again = l.Address("/summary", "whole", "1")
	}
	return d.InForm(l.Form).KeepDays(ctx, fingerprint, fresh)
}

func (d *Room) countDay(l *responses.Looking, all store.Snapshot, day time.Time, asked []string) ([]byte, error) {
	sums := l.Lens.NewSums(l.Lens.Keys())
	err := all.EachOfDay(l.Look(), day, piecesOf(asked), func(res store.Response, parts [][]byte) error {
		sums.Add(recordOf(res, asked, parts))
		return nil
	})
	if err != nil {
		return nil, err
	}
	return sums.Tally()
}

// piecesOf are the answers to questions outside rows.
func piecesOf(keys []string) (pieces [][]any) {
	for _, key := range keys {
		pieces = append(pieces, []any{key})
	}
	return pieces
}

// recordOf is a response with only the answers that were asked for.
func recordOf(res store.Response, asked []string, parts [][]byte) view.Record {
	record := view.Record{Answers: map[string]any{}, Received: res.ReceivedAt, Parameters: res.Parameters}
	if res.LinkID != nil {
		record.Link = int64(*res.LinkID)
	}
	for i, part := range parts {
		if part != nil {
			record.Answers[asked[i]] = exchange.Value(part)
		}
	}
	return record
}

// drawing hands out the picture of one question by itself.
func (d *Room) drawing(w http.ResponseWriter, r *http.Request) error {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	p, err := d.summaryOf(r, l, false)
	if err != nil {
		return err
	}
	for _, one := range p.Pictures {
		if one.Key == chi.URLParam(r, "question") && (one.Columns != nil || one.Rows != nil) {
			w.Header().Set("Content-Type", "image/svg+xml")
			w.Header().Set("Content-Disposition", `attachment; filename="`+one.Key+`.svg"`)
			return d.pages.Page(w, http.StatusOK, "drawing", one)
		}
	}
	return store.ErrNotFound
}
