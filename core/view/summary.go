package view

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
)

// A summary is what responses say, question by question: counts of choices, the spread of
// numbers, days and texts. It is added up response by response, so that it takes no more
// memory for many.

// Kinds of pictures that fit a question's answers.
const (
	Bars      = "bars"      // choices, ticks, yes and no
	Histogram = "histogram" // numbers and scales
	Days      = "days"      // dates
	Heat      = "heat"      // grids
	Texts     = "texts"     // texts, the longest to be read
)

// Sum is what the responses say to one question.
type Sum struct {
	Key, Label string
	Picture    string
	Bars       []Bar // choices in the form's order; the bins of numbers and days
	Mean       string
	Columns    []string // of a heat table: its choices
	Heat       []HeatRow
	More       int // texts beyond those

	tally
	options *expr.Options
	ranked  bool // only what was put first counts
	rows    []form.GridRow
}

// Bar is one of several counts.
type Bar struct {
	Label string
	N     int
}

// HeatRow is a row of a grid with how often each choice was picked in it.
type HeatRow struct {
	Label string
	N     []int
}

// Bounds of what a summary keeps of each question.
const (
	sumBins    = 12
	sumTexts   = 5
	sumNumbers = 20_000 // different ones
	sumBars    = 24
)

// Sums adds responses up.
type Sums struct {
	lens *Lens
	Sums []*Sum
	N    int
	Days *Sum // when they were received
}

// NewSums begins a summary of the questions with those keys, or of those that a view can
// show for none; texts are left out unless they are asked for.
func (l *Lens) NewSums(keys []string) *Sums {
	s := &Sums{lens: l, Days: &Sum{Key: Received, Label: "Received, by day", Picture: Days, tally: newTally()}}
	for _, c := range l.Columns() {
		if c.Item == nil || len(keys) > 0 && !slices.Contains(keys, c.Key) {
			continue
		}
		sum := l.newSum(c)
		if sum.Picture == "" || len(keys) == 0 && sum.Picture == Texts {
			continue
		}
		s.Sums = append(s.Sums, sum)
	}
	if len(keys) > 0 {
		s.Sums = append(s.Sums, l.arrivals()...)
	}
	return s
}

// Keys are those of the columns that a view can show.
func (l *Lens) Keys() (keys []string) {
	for _, c := range l.Columns() {
		keys = append(keys, c.Key)
	}
	return keys
}

// Only leaves the first questions that another summary has, as many as most, and gives how
// many more it has.
func (s *Sums) Only(of *Sums, most int) (left int) {
	keep := map[string]bool{}
	for _, sum := range of.Sums[:min(most, len(of.Sums))] {
		keep[sum.Key] = true
	}
	s.Sums = slices.DeleteFunc(s.Sums, func(sum *Sum) bool { return !keep[sum.Key] })
	return len(of.Sums) - len(keep)
}

// arrivals are by which links and parameters of the address responses came.
func (l *Lens) arrivals() (out []*Sum) {
	if sym := l.Syms.Response[linkFact]; len(sym.Type.Options.Values) > 0 {
		out = append(out, &Sum{
			Key: "response.link", Label: "Came by the link", Picture: Bars, tally: newTally(), options: sym.Type.Options,
		})
	}
	for _, c := range l.Columns() {
		if strings.HasPrefix(c.Key, "url.") {
			out = append(out, &Sum{
				Key: c.Key, Label: c.Label + ", by the address", Picture: Texts, tally: newTally(),
			})
		}
	}
	return out
}

// arrived is what a response has of a sum of arrivals; ok is false for a sum of answers.
func (r Record) arrived(key string) (v expr.Value, ok bool) {
	if key == "response.link" {
		return r.fact("link"), true
	}
	if name, ok := strings.CutPrefix(key, "url."); ok {
		return expr.NewParam(r.Parameters[name]).Text, true
	}
	return v, false
}

func (l *Lens) newSum(c Column) *Sum {
	sym := l.Syms.Items[c.Key]
	sum := &Sum{Key: c.Key, Label: c.Label, tally: newTally(), options: sym.Type.Options}
	switch sym.Type.Kind {
	case expr.Choice, expr.Choices, expr.YesNo:
		if sum.Picture = Bars; c.Item.Type == form.Ranking {
			sum.ranked, sum.Label = true, sum.Label+", put first"
		}
	case expr.Num:
		sum.Picture = Histogram
	case expr.Date:
		sum.Picture = Days
	case expr.Grid:
		sum.Picture, sum.rows = Heat, c.Item.Rows
	case expr.Text:
		if c.Item.Type == form.Text || c.Item.Type == form.Paragraph { // not addresses and numbers of people
			sum.Picture = Texts
		}
	}
	return sum
}

// Keys are the answers that the summary looks at, under their earlier keys, too.
func (s *Sums) Keys(crossed ...string) []string {
	keys := crossed
	for _, sum := range s.Sums {
		if _, arrival := (Record{}).arrived(sum.Key); !arrival && !slices.Contains(keys, sum.Key) {
			keys = append(keys, sum.Key)
		}
	}
	for _, key := range slices.Clone(keys) {
		keys = append(keys, s.lens.Earlier[key]...)
	}
	return keys
}

// Add adds a response.
func (s *Sums) Add(r Record) {
	s.N++
	s.Days.Answered++
	s.Days.ByDay[expr.ClockAt(r.Received.Unix(), s.lens.Syms.Zone).Day()]++
	for _, sum := range s.Sums {
		if v, ok := r.arrived(sum.Key); ok {
			sum.add(v)
			continue
		}
		sum.add(s.lens.value(s.lens.Syms.Items[sum.Key], s.lens.answer(r.Answers, sum.Key)))
	}
}

func (s *Sum) add(v expr.Value) {
	if v.IsBlank() {
		return
	}
	s.Answered++
	switch v.Kind() {
	case expr.Choice:
		s.Counts[expr.Fold(v.Text())]++
	case expr.Choices:
		picks := v.Picks()
		if s.ranked {
			picks = picks[:min(len(picks), 1)]
		}
		for _, pick := range picks {
			s.Counts[expr.Fold(pick)]++
		}
	case expr.YesNo:
		s.Counts[strconv.FormatBool(v.Yes())]++
	case expr.Num:
		s.addNumber(v.Number().String())
	case expr.Date:
		s.ByDay[v.Day()]++
	case expr.Grid:
		for _, cell := range v.Cells() {
			for _, pick := range append(cell.Value.Picks(), textOf(cell.Value)...) {
				s.Counts[cellOf(cell.Row, pick)]++
			}
		}
	case expr.Text:
		s.keepText(v.Text())
		s.addText(expr.Fold(v.Text()), v.Text(), 1)
	}
}

func textOf(v expr.Value) []string {
	if v.Kind() == expr.Choice {
		return []string{v.Text()}
	}
	return nil
}

// Done lays the sums out to be shown.
func (s *Sums) Done() {
	s.Days.done()
	for _, sum := range s.Sums {
		sum.done()
	}
}

func (s *Sum) done() {
	switch s.Picture {
	case Bars:
		s.bars()
	case Histogram:
		s.histogram()
	case Days:
		s.byDay()
	case Heat:
		s.heat()
	case Texts:
		s.texts()
	}
}

// texts shows texts that are few, such as the names of clubs, by how often they stand
// there, else the longest.
func (s *Sum) texts() {
	if s.More = s.Answered - len(s.Texts); len(s.Counts) == 0 || len(s.Counts) > sumBins || s.Answered < 2*len(s.Counts) {
		return
	}
	s.Picture = Bars
	for f, n := range s.Counts {
		s.Bars = append(s.Bars, Bar{s.Said[f], n})
	}
	slices.SortFunc(s.Bars, func(a, b Bar) int {
		if a.N != b.N {
			return b.N - a.N
		}
		return strings.Compare(a.Label, b.Label)
	})
}

func (s *Sum) bars() {
	if s.options == nil {
		s.Bars = []Bar{{"Yes", s.Counts["true"]}, {"No", s.Counts["false"]}}
		return
	}
	known := map[string]bool{}
	for i, value := range s.options.Values {
		f := expr.Fold(value)
		known[f] = true
		s.Bars = append(s.Bars, Bar{s.options.Labels[i], s.Counts[f]})
	}
	gone := 0
	for f, n := range s.Counts {
		if !known[f] {
			gone += n
		}
	}
	if len(s.Bars) > sumBars { // the greatest of a long list
		slices.SortStableFunc(s.Bars, func(a, b Bar) int { return b.N - a.N })
		rest := 0
		for _, b := range s.Bars[sumBars:] {
			rest += b.N
		}
		s.Bars = append(s.Bars[:sumBars], Bar{"all others", rest})
	}
	if gone > 0 {
		s.Bars = append(s.Bars, Bar{"no longer a choice", gone})
	}
}

// number prints a figure of a summary, to two places at the most.
func number(n float64) string { return strconv.FormatFloat(math.Round(n*100)/100, 'f', -1, 64) }

func (s *Sum) histogram() {
	all, times := s.numbers()
	if len(all) == 0 {
		return
	}
	s.Mean = number(s.Total / float64(s.Answered))
	low, high := all[0], all[len(all)-1]
	whole := !slices.ContainsFunc(all, func(n float64) bool { return n != math.Trunc(n) })
	if whole && high-low < sumBins { // each number by itself
		for n := low; n <= high; n++ {
			s.Bars = append(s.Bars, Bar{number(n), times[n]})
		}
		return
	}
	width := niceWidth((high - low) / sumBins)
	begin := math.Floor(low/width) * width
	for at := begin; at <= high; at += width {
		s.Bars = append(s.Bars, Bar{Label: number(at) + " to " + number(at+width)})
	}
	for _, n := range all {
		i := min(int((n-begin)/width), len(s.Bars)-1)
		s.Bars[i].N += times[n]
	}
}

// niceWidth is the next of 1, 2 and 5 times a power of ten.
func niceWidth(w float64) float64 {
	if w <= 0 {
		return 1
	}
	power := math.Pow(10, math.Floor(math.Log10(w)))
	for _, m := range []float64{1, 2, 5, 10} {
		if m*power >= w {
			return m * power
		}
	}
	return 10 * power
}

// maxDayBars is for how many days each has a bar of its own; else there is one a month, or
// a year.
const maxDayBars = 45

func (s *Sum) byDay() {
	if len(s.ByDay) == 0 {
		return
	}
	var all []expr.Day
	for d := range s.ByDay {
		all = append(all, d)
	}
	low, high := slices.Min(all), slices.Max(all)
	if int(high-low) < maxDayBars {
		for d := low; d <= high; d++ {
			s.Bars = append(s.Bars, Bar{time.Unix(int64(d)*86400, 0).UTC().Format("2 Jan 2006"), s.ByDay[d]})
		}
		return
	}
	length := len("2026-05")
	if int(high-low) > 31*maxDayBars {
		length = len("2026")
	}
	slices.Sort(all)
	for _, d := range all {
		name := d.String()[:length]
		if n := len(s.Bars); n == 0 || s.Bars[n-1].Label != name {
			s.Bars = append(s.Bars, Bar{Label: name})
		}
		s.Bars[len(s.Bars)-1].N += s.ByDay[d]
	}
}

func (s *Sum) heat() {
	s.Columns = s.options.Labels
	for _, row := range s.rows {
		line := HeatRow{Label: row.Name()}
		for _, value := range s.options.Values {
			line.N = append(line.N, s.Counts[cellOf(row.Key, value)])
		}
		s.Heat = append(s.Heat, line)
	}
}

// Cross is how often the choices of one question come with those of another.
type Cross struct {
	Of, By  string
	Columns []string
	Rows    []HeatRow

	of, by Column
	counts map[[2]string]int
}

// Crossable are the questions that can be crossed with each other.
func (l *Lens) Crossable() []Column {
	var out []Column
	for _, c := range l.Columns() {
		if c.Item == nil {
			continue
		}
		if sym := l.Syms.Items[c.Key]; sym.Type.Kind == expr.Choice || sym.Type.Kind == expr.Choices ||
			sym.Type.Kind == expr.YesNo {
			out = append(out, c)
		}
	}
	return out
}

// NewCross begins to cross two questions; ok is false if one can't be.
func (l *Lens) NewCross(of, by string) (*Cross, bool) {
	all := l.Crossable()
	a := slices.IndexFunc(all, func(c Column) bool { return c.Key == of })
	b := slices.IndexFunc(all, func(c Column) bool { return c.Key == by })
	if a < 0 || b < 0 || a == b {
		return nil, false
	}
	return &Cross{Of: all[a].Label, By: all[b].Label, of: all[a], by: all[b], counts: map[[2]string]int{}}, true
}

// Add adds a response.
func (c *Cross) Add(l *Lens, r Record) {
	for _, x := range l.names(c.of.Key, r) {
		for _, y := range l.names(c.by.Key, r) {
			c.counts[[2]string{x, y}]++
		}
	}
}

// names are what a response picked, as it is compared; "" where it picked nothing.
func (l *Lens) names(key string, r Record) []string {
	v := l.value(l.Syms.Items[key], l.answer(r.Answers, key))
	switch v.Kind() {
	case expr.Choice:
		return []string{expr.Fold(v.Text())}
	case expr.YesNo:
		return []string{strconv.FormatBool(v.Yes())}
	case expr.Choices:
		var out []string
		for _, p := range v.Picks() {
			out = append(out, expr.Fold(p))
		}
		return out
	}
	return []string{""}
}

// Done lays the table out.
func (c *Cross) Done(l *Lens) {
	rows, columns := l.pickable(c.of.Key), l.pickable(c.by.Key)
	for _, col := range columns {
		c.Columns = append(c.Columns, col.Label)
	}
	for _, row := range rows {
		line := HeatRow{Label: row.Label}
		for _, col := range columns {
			line.N = append(line.N, c.counts[[2]string{row.key, col.key}])
		}
		c.Rows = append(c.Rows, line)
	}
}

type pickable struct{ key, Label string }

// pickable are the picks of a question, and none.
func (l *Lens) pickable(key string) []pickable {
	out := []pickable{{"true", "Yes"}, {"false", "No"}}
	if o := l.Syms.Items[key].Type.Options; o != nil {
		out = nil
		for i := range o.Values[:min(len(o.Values), sumBars)] {
			out = append(out, pickable{expr.Fold(o.Values[i]), o.Labels[i]})
		}
	}
	return append(out, pickable{"", "–"})
}

// Share is a count as a part of the whole, in words.
func Share(n, of int) string {
	if of == 0 {
		return ""
	}
	return fmt.Sprintf("%d %%", int(math.Round(100*float64(n)/float64(of))))
}

// cellOf names a cell of a grid with a pick, among what is counted; keys of rows hold no
// slash, and what is counted is stored as JSON, which takes no NUL in PostgreSQL.
func cellOf(row, pick string) string { return row + "/" + expr.Fold(pick) }
