// Package prooftest tries to dispute what a proof says: with inputs that lie near what a form
// decides on, and by the words of each remark. It is for tests.
package prooftest

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"
	"unicode"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// Pool are answers, addresses and moments that lie near what a form compares with: the
// values themselves, one step and one last digit beside, texts that compare equal, the ends of
// the calendar, answers that are refused.
type Pool struct {
	form    *form.Form
	numbers []any
	texts   []any
	days    []any
	times   []any
	moments []time.Time
}

// Near gathers them for a form, or for editions that are compared; the questions are those of
// the first.
func Near(f *form.Form, editions ...*form.Form) *Pool {
	p := &Pool{form: f}
	seen := &literals{}
	for _, one := range append([]*form.Form{f}, editions...) {
		seen.read(one)
	}
	p.fill(seen)
	return p
}

// literals are what the expressions and limits of forms name.
type literals struct {
	numbers []expr.Number
	texts   []string
	days    []expr.Day
	secs    []int
	moments []time.Time
	spans   []*expr.Literal
}

func (l *literals) read(f *form.Form) {
	loc, err := time.LoadLocation(f.Timezone)
	if err != nil {
		loc = time.UTC
	}
	for _, tie := range f.AllTies() {
		if n, err := expr.Parse(tie.Expr); err == nil {
			expr.Walk(n, func(n expr.Node) {
				if lit, ok := n.(*expr.Literal); ok {
					l.literal(lit, loc)
				}
				if test, ok := n.(*expr.TextTest); ok && test.Op == "matches" {
					if lit, ok := test.Y.(*expr.Literal); ok {
						l.pattern(lit.Text)
					}
				}
			})
		}
	}
	for pl := range f.Places() {
		for _, b := range pl.Item.Bounds() {
			if n, err := expr.ParseNumber(b.String()); err == nil {
				l.numbers = append(l.numbers, n)
			}
			if d, ok := expr.ParseDay(b.String()); ok {
				l.days = append(l.days, d)
			}
			if s, ok := expr.ParseTime(b.String()); ok {
				l.secs = append(l.secs, s)
			}
		}
		for _, c := range pl.Item.Choices {
			l.texts = append(l.texts, c.Value, c.Name())
		}
		l.pattern(pl.Item.Pattern)
	}
	for _, param := range f.Parameters {
		if param.Values == nil {
			continue
		}
		for _, v := range param.Values.Written {
			l.texts = append(l.texts, v.Value, v.Label)
		}
	}
}

func (l *literals) literal(lit *expr.Literal, loc *time.Location) {
	switch lit.Kind {
	case expr.Num:
		l.numbers = append(l.numbers, lit.Num)
	case expr.Text:
		l.texts = append(l.texts, lit.Text)
	case expr.Date:
		l.days = append(l.days, lit.Day)
	case expr.Time:
		l.secs = append(l.secs, lit.Sec)
	case expr.Moment:
		l.days = append(l.days, lit.Day)
		l.moments = append(l.moments, time.Unix(expr.MomentIn(loc, lit.Day, lit.Sec), 0))
	case expr.Duration:
		l.spans = append(l.spans, lit)
	}
}

// pattern adds texts of a form, as far as they are found.
func (l *literals) pattern(p string) {
	if p == "" {
		return
	}
	if s, ok := expr.Sample(p); ok {
		l.texts = append(l.texts, s)
	}
	if sampler, ok := expr.NewSampler(p); ok {
		for n := sampler.Least; n < sampler.Least+4; n++ {
			if s, ok := sampler.Sample(n, n%3); ok {
				l.texts = append(l.texts, s)
			}
		}
	}
}

func (p *Pool) fill(l *literals) {
	p.fillNumbers(l)
	p.fillTexts(l)
	p.fillDays(l)
	for _, s := range append(l.secs, 0, 12*3600, 86399) {
		for _, d := range []int{-1, 0, 1, 60} {
			if s+d >= 0 && s+d < 86400 {
				p.times = append(p.times, expr.TimeValue(s+d))
			}
		}
	}
	for i, v := range p.times {
		t := v.(expr.Value)
		p.times[i] = t.Plain(time.UTC)
	}
}

// mostNumbers bounds how many numbers are combined.
const mostNumbers = 12

func (p *Pool) fillNumbers(l *literals) {
	all := l.numbers[:min(len(l.numbers), mostNumbers)]
	seen := map[string]bool{}
	add := func(n expr.Number) {
		if s := n.String(); !seen[s] {
			seen[s] = true
			p.numbers = append(p.numbers, json.Number(s))
		}
	}
	beside := func(n expr.Number) {
		add(n)
		for _, way := range []int{-1, 1} {
			if m, ok := n.Beside(way); ok {
				add(m)
			}
		}
	}
	half, _ := expr.ParseNumber("0.5")
	for _, a := range all {
		beside(a)
		beside(a.Neg())
		add(a.Add(half))
		add(a.Sub(half))
		add(a.Add(expr.Int(1)))
		add(a.Sub(expr.Int(1)))
		for _, b := range all {
			beside(a.Add(b))
			beside(a.Sub(b))
			beside(a.Mul(b))
			if q, ok := a.Div(b); ok {
				beside(q)
			}
		}
	}
	for _, s := range []string{"0", "1", "-1", "2.5", "1e-40", "-1e-33", "1e-99", "7e60", "-7e60"} {
		n, _ := expr.ParseNumber(s)
		add(n)
	}
}

func (p *Pool) fillTexts(l *literals) {
	seen := map[string]bool{}
	add := func(s string) {
		if !seen[s] && len(s) < 400 {
			seen[s] = true
			p.texts = append(p.texts, s)
		}
	}
	folded := strings.NewReplacer("ss", "ß", "SS", "ß", "ß", "ss", "fi", "ﬁ", "k", "\u212a", "s", "ſ")
	for _, t := range append(l.texts, "Someone", "", "x", "ß", " a b ", "ﬁn") {
		for _, s := range []string{t, strings.ToUpper(t), strings.ToLower(t), folded.Replace(t), t + "x", "x" + t,
			" " + t + " "} {
			add(s)
		}
		if r := []rune(t); len(r) > 1 {
			add(string(r[:len(r)-1]))
			add(string(unicode.ToUpper(r[0])) + strings.ToLower(string(r[1:])))
		}
	}
	for _, n := range l.numbers[:min(len(l.numbers), mostNumbers)] {
		if length, ok := n.Whole(); ok && length >= 0 && length < 300 {
			for _, d := range []int{-1, 0, 1} {
				add(strings.Repeat("a", max(0, length+d)))
				add(strings.Repeat("ß", max(0, length+d)))
			}
		}
	}
}

func (p *Pool) fillDays(l *literals) {
	first, _ := expr.DayOf(1, 1, 1)
	last, _ := expr.DayOf(9999, 12, 31)
	usual, _ := expr.DayOf(2026, 5, 20)
	leap, _ := expr.DayOf(2008, 2, 29)
	seen := map[expr.Day]bool{}
	loc, err := time.LoadLocation(p.form.Timezone)
	if err != nil {
		loc = time.UTC
	}
	add := func(d expr.Day) {
		for _, day := range []expr.Day{d - 1, d, d + 1} {
			if day < first || day > last || seen[day] {
				continue
			}
			seen[day] = true
			v := expr.DayValue(day)
			p.days = append(p.days, v.Plain(time.UTC))
			for _, sec := range append(l.secs, 0, 43200, 86399) {
				p.moments = append(p.moments, time.Unix(expr.MomentIn(loc, day, sec), 0))
			}
		}
	}
	for _, d := range append(l.days, first, last, usual, leap) {
		add(d)
		for _, n := range l.numbers[:min(len(l.numbers), mostNumbers)] {
			if years, ok := n.Whole(); ok && years > 0 && years < 200 {
				y, m, of := d.Date()
				if born, ok := expr.DayOf(y-years, m, min(of, 28)); ok {
					add(born)
				}
				add(d + expr.Day(years))
				add(d - expr.Day(years))
			}
		}
		for _, span := range l.spans {
			add(shifted(d, span, 1))
			add(shifted(d, span, -1))
		}
	}
	for _, m := range l.moments {
		p.moments = append(p.moments, m.Add(-time.Second), m, m.Add(time.Second))
	}
}

// shifted is a day about as much later, or earlier, as a span of time is long.
func shifted(d expr.Day, span *expr.Literal, way int) expr.Day {
	n, ok := span.Num.Whole()
	if !ok || n > 10_000 {
		return d
	}
	days := map[string]float64{"day": 1, "week": 7, "month": 30.44, "year": 365.2425}
	return d + expr.Day(float64(way*n)*days[strings.TrimSuffix(span.Unit, "s")])
}

// Draw gives a whole number from 0 up to n, n left out.
type Draw func(n int) int

func one[T any](draw Draw, from []T) T { return from[draw(len(from))] }

// Filling draws an input.
func (p *Pool) Filling(draw Draw) engine.Filling {
	fl := engine.Filling{Answers: map[string]any{}, At: one(draw, p.moments), Mode: engine.New}
	for _, pg := range p.form.Pages {
		for _, sec := range pg.Sections {
			if sec.Repeat == nil {
				p.answer(draw, sec, fl.Answers)
				continue
			}
			var rows []any
			for range draw(min(sec.Repeat.Limit(), 5) + 2) {
				row := map[string]any{}
				p.answer(draw, sec, row)
				rows = append(rows, row)
			}
			if rows != nil {
				fl.Answers[sec.Key] = rows
			}
		}
	}
	for _, param := range p.form.Parameters {
		var of []string
		for range draw(4) {
			from := p.texts
			if draw(4) == 0 {
				from = append(append(append([]any{}, p.numbers...), p.days...), "yes", "no")
			}
			of = append(of, fmt.Sprint(one(draw, from)))
		}
		if of != nil {
			if fl.Params == nil {
				fl.Params = map[string][]string{}
			}
			fl.Params[param.Name] = of
		}
	}
	return fl
}

func (p *Pool) answer(draw Draw, sec *form.Section, to map[string]any) {
	for _, it := range sec.Items {
		if draw(4) > 0 {
			to[it.Key] = p.Answer(draw, it)
		}
	}
}

// Answer draws one to an item: now and then a blank one, and one that can't be read.
func (p *Pool) Answer(draw Draw, it *form.Item) any {
	switch draw(16) {
	case 0:
		return nil
	case 1:
		return one(draw, p.texts)
	}
	switch it.Type {
	case form.Number, form.Scale:
		return one(draw, p.numbers)
	case form.Date:
		return one(draw, p.days)
	case form.Time:
		return one(draw, p.times)
	case form.YesNo, form.Tick:
		return draw(2) == 0
	case form.ChoiceType:
		return p.pick(draw, it)
	case form.ChoicesType, form.Ranking:
		picks := []any{}
		for range draw(len(it.Choices) + 2) {
			picks = append(picks, p.pick(draw, it))
		}
		return picks
	case form.Grid:
		cells := map[string]any{}
		for _, row := range it.Rows {
			switch {
			case draw(3) == 0:
			case it.Many:
				cells[row.Key] = []any{p.pick(draw, it), p.pick(draw, it)}
			default:
				cells[row.Key] = p.pick(draw, it)
			}
		}
		return cells
	case form.Address:
		return map[string]any{"street": one(draw, p.texts), "city": one(draw, p.texts), "country": "UY"}
	}
	return one(draw, p.texts)
}

func (p *Pool) pick(draw Draw, it *form.Item) any {
	var values []any
	for _, c := range it.Choices {
		values = append(values, c.Value)
		if c.Other {
			values = append(values, map[string]any{"value": c.Value, "text": one(draw, p.texts)})
		}
	}
	if from := it.ChoicesFrom; from != nil {
		for _, entry := range p.form.Lists[from.List].Entries {
			values = append(values, entry[from.Value])
		}
	}
	if len(values) == 0 {
		return "none"
	}
	return one(draw, values)
}
