package summary

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"

	"github.com/go-chi/chi/v5"

	"lazo/core/exchange"
	"lazo/core/text"
	"lazo/core/view"
	"lazo/store"
	"lazo/web/desk/frame"
	"lazo/web/desk/responses"
)

// mostSummed is of how many responses a summary is made; of more it is of the first ones
// in the view's order, and says so.
const mostSummed = 100_000

// summaryPage sums the responses of a view up.
type summaryPage struct {
	frame.Frame
	Name      string
	Beside    bool
	N, All    int
	Cut       bool
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
	Hidden    []frame.Option
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
	beside := r.Header.Get("HX-Request") != ""
	p, err := d.summaryOf(r, l, beside)
	if err != nil {
		return err
	}
	if beside {
		return d.pages.Page(w, http.StatusOK, "summary-body", p)
	}
	return d.pages.Page(w, http.StatusOK, "summary", p)
}

func (d *Room) summaryOf(r *http.Request, l *responses.Looking, beside bool) (*summaryPage, error) {
	q := r.URL.Query()
	p := &summaryPage{Frame: l.Frame, Beside: beside, Fault: l.Fault, Name: "All responses", Of: q.Get("of"), By: q.Get("by"),
		Crossable: l.Lens.Crossable(), Whole: l.Address("/summary"), Back: l.Address(""), Form: frame.Base(l.Form.ID) + "/responses/summary"}
	if l.Saved != nil {
		p.Name = l.Saved.Name
	}
	for name, values := range l.Query() {
		p.Hidden = append(p.Hidden, frame.Option{Value: name, Label: values[0]})
	}
	var err error
	if p.All, err = d.Of(l.Form).CountResponses(r.Context()); err != nil || l.Fault != "" {
		return p, err
	}
	var keys []string
	if !beside {
		for _, c := range l.Lens.Columns() {
			keys = append(keys, c.Key)
		}
	}
	sums := l.Lens.NewSums(keys)
	if beside && len(sums.Sums) > besideShown {
		p.Left = len(sums.Sums) - besideShown
		sums.Sums = sums.Sums[:besideShown]
	}
	cross, crossed := l.Lens.NewCross(p.Of, p.By)
	enough := errors.New("enough")
	asked := sums.Keys()
	if crossed {
		asked = sums.Keys(p.Of, p.By)
	}
	var pieces [][]any
	for _, key := range asked {
		pieces = append(pieces, []any{key})
	}
	err = d.Of(l.Form).AtOnce(r.Context(), func(all store.Snapshot) error {
		look := l.Look()
		look.Most = mostSummed + 1
		return all.EachOfPieces(look, pieces, func(res store.Response, parts [][]byte) error {
			if sums.N == mostSummed {
				p.Cut = true
				return enough
			}
			record := view.Record{Answers: map[string]any{}, Received: res.ReceivedAt, Parameters: res.Parameters}
			if res.LinkID != nil {
				record.Link = int64(*res.LinkID)
			}
			for i, part := range parts {
				if part != nil {
					record.Answers[asked[i]] = exchange.Value(part)
				}
			}
			if sums.Add(record); crossed {
				cross.Add(l.Lens, record)
			}
			return nil
		})
	})
	if err != nil && !errors.Is(err, enough) {
		return p, err
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
