// Package ribbon draws a form's time as a line: when it opens and closes, the hours within
// which it is open, and every moment at which something of it changes by itself.
package ribbon

import (
	"embed"
	"slices"
	"time"

	"lazo/core/engine"
)

// Templates show a ribbon.
//
//go:embed templates/*.html
var Templates embed.FS

// The ribbon's measures, in the units of its drawing.
const (
	Width  = 600
	margin = 8   // at both ends
	apart  = 104 // of two words on one line
	flag   = 230 // the width of the moment's
)

// Ribbon is a form's time as it is drawn.
type Ribbon struct {
	From, Until int64 // Unix seconds, its ends
	Step        int64 // of seconds by which it is dragged
	At          int64 // the moment that is looked at
	AtX         int
	Flag        int // where its flag begins
	Says        string
	Spans       []span // open
	Grace       *span  // for those who had begun
	Marks       []mark // opens, closes
	Turns       []mark // that change something by themselves
	NowX        int
}

type span struct{ X, W int }

type mark struct {
	X          int
	Text, When string
	Side       string // how its words stand: start, middle or end
	Tells      bool   // whether there is room for its words
	Exact      string // the moment, RFC 3339
	Says       []string
	More       int // of what is said
}

// How moments are read on a ribbon.
const (
	short = "2 Jan, 15:04"
	long  = "Monday 2 January 2006, 15:04"
)

const (
	day       = 24 * time.Hour
	turnsTold = 6
	saysTold  = 2
	spansMost = 120
	again     = 4 // changes of one thing that are moments of the form
	ahead     = 400 * day
	behind    = 400 * day
)

// Of is the ribbon of a form that is tried with an input, about a moment; now is the clock
// of the people who look at it.
func Of(p *engine.Program, in engine.Input, now time.Time) *Ribbon {
	loc := p.Location()
	at := in.At.In(loc)
	from, until := p.Opening()
	in.At = now.Add(-7 * day)
	if from != nil && from.Before(in.At) && now.Sub(*from) < behind {
		in.At = *from
	}
	turns := seldom(p.Turns(in, now.Add(ahead)))
	begin, end := extent(now, at, from, until, turns)
	rb := &Ribbon{
		From: begin.Unix(), Until: end.Unix(), At: at.Unix(), Says: at.Format(long),
	}
	rb.Step = 3600
	if end.Sub(begin) < 4*day {
		rb.Step = 300
	}
	rb.AtX, rb.NowX = rb.x(at), rb.x(now)
	rb.Flag = min(max(rb.AtX-flag/2, 0), Width-flag)
	for _, s := range p.OpenTimes(begin, end, spansMost) {
		x := rb.x(s.From)
		rb.Spans = append(rb.Spans, span{x, max(2, rb.x(s.Until)-x)})
	}
	if o := p.Form.Opening; o != nil && o.GraceMinutes > 0 && until != nil {
		x := rb.x(*until)
		rb.Grace = &span{x, max(4, rb.x(until.Add(time.Duration(o.GraceMinutes)*time.Minute))-x)}
	}
	if from != nil {
		rb.Marks = append(rb.Marks, rb.mark(*from, "opens"))
	}
	if until != nil {
		rb.Marks = append(rb.Marks, rb.mark(*until, "closes"))
	}
	told(rb.Marks)
	for _, t := range turns {
		if t.At.Before(begin) || t.At.After(end) {
			continue
		}
		m := rb.mark(t.At, "")
		for _, said := range t.Says[:min(len(t.Says), saysTold)] {
			m.Says = append(m.Says, said.Text)
		}
		m.More = max(0, len(t.Says)-saysTold)
		rb.Turns = append(rb.Turns, m)
	}
	told(rb.Turns)
	return rb
}

// seldom leaves out what changes again and again, such as the day of an entry: it is no
// moment of the form's.
func seldom(turns []engine.Turn) []engine.Turn {
	times := map[string]int{}
	for _, t := range turns {
		for _, said := range t.Says {
			times[said.Key]++
		}
	}
	var out []engine.Turn
	for _, t := range turns {
		t.Says = slices.DeleteFunc(slices.Clone(t.Says), func(said engine.Said) bool { return times[said.Key] > again })
		if len(t.Says) > 0 {
			out = append(out, t)
		}
	}
	return out
}

// Field is the moment that is looked at as the field along the ribbon has it: on a step.
func (rb *Ribbon) Field() int64 {
	return rb.From + (rb.At-rb.From+rb.Step/2)/rb.Step*rb.Step
}

// Told are the turns that are told in words below the ribbon.
func (rb *Ribbon) Told() []mark { return rb.Turns[:min(len(rb.Turns), turnsTold)] }

// Untold is how many are not.
func (rb *Ribbon) Untold() int { return max(0, len(rb.Turns)-turnsTold) }

// extent is from when until when a ribbon goes: about all that happens, on whole hours.
func extent(now, at time.Time, from, until *time.Time, turns []engine.Turn) (begin, end time.Time) {
	begin, end = now.Add(-3*day), now.Add(30*day)
	reach := func(t time.Time) {
		if t.Before(begin) {
			begin = t
		}
		if t.After(end) {
			end = t
		}
	}
	for _, t := range []*time.Time{from, until} {
		if t != nil && t.After(now.Add(-behind)) && t.Before(now.Add(ahead)) {
			reach(*t)
		}
	}
	for _, t := range turns[:min(len(turns), 12)] {
		reach(t.At)
	}
	if at.After(now.Add(-behind)) && at.Before(now.Add(ahead)) {
		reach(at)
	}
	room := end.Sub(begin) / 12
	return begin.Add(-room).Truncate(time.Hour), end.Add(room).Truncate(time.Hour)
}

// x is where a moment stands, within the ribbon's ends.
func (rb *Ribbon) x(t time.Time) int {
	share := float64(t.Unix()-rb.From) / float64(rb.Until-rb.From)
	return margin + int(min(max(share, 0), 1)*(Width-2*margin))
}

func (rb *Ribbon) mark(t time.Time, text string) mark {
	m := mark{X: rb.x(t), Text: text, When: t.Format(short), Side: "middle", Exact: t.Format(time.RFC3339)}
	switch {
	case m.X < apart/2:
		m.Side = "start"
	case m.X > Width-apart/2:
		m.Side = "end"
	}
	return m
}

// told finds out which marks have room for their words.
func told(marks []mark) {
	last := -apart
	for i := range marks {
		if marks[i].X-last >= apart {
			marks[i].Tells, last = true, marks[i].X
		}
	}
}
