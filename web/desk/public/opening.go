package public

import (
	"strconv"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/web/desk/layout"
	"lazo/web/desk/margin"
	"lazo/web/desk/ribbon"
	"lazo/web/fill"
	"lazo/web/wording"
)

// opening is when a form is open, as a sentence whose pieces can be pressed.
type opening struct {
	form.Opening
	FromWords, UntilWords string // moments as they are read, "" for none
	Days, Hours           string // in words
	Most, More            string // how many responses, and what time who had begun has, in words
	Recurs                form.Recurrence
	Editor                *margin.Editor // for whom
	Who                   string         // in words
	Kinds, Nths, Weekdays []layout.Option
	Weeks                 []layout.Option
	On                    map[string]bool   // days of the week
	Ribbon                *ribbon.Ribbon    // nil while the draft can't be run
	Status                string            // how it is now
	AtBefore, AtAfter     string            // moments at which those texts are read
	AtFull                string            // and one at which it is open, but for that
	Someone               bool              // it is for some alone
	Nobody                bool              // and none was found for whom it is
	Usual                 map[string]string // what is read where the author says nothing
}

var kindWords = map[form.Kind]string{
	form.EveryDay: "every day", form.EveryWeek: "days of the week", form.EveryMonth: "a day of the week, once a month",
	form.OnDate: "a day of the month", form.ByRule: "as a rule of RFC 5545 says",
}

func openingOf(m *margin.Margin, l look, s *sight) *opening {
	o := &opening{On: map[string]bool{}, Editor: m.OpenEditor(), Who: "everyone"}
	if m.Def.Opening != nil {
		o.Opening = *m.Def.Opening
	}
	zone := m.Syms.Zone
	o.FromWords, o.UntilWords = form.MomentWords(o.From, zone), form.MomentWords(o.Until, zone)
	o.hours(l)
	o.Most, o.More = "any number of responses", "no time"
	if o.Limit > 0 {
		o.Most = "at most " + strconv.Itoa(o.Limit) + " responses"
	}
	if o.GraceMinutes > 0 {
		o.More = strconv.Itoa(o.GraceMinutes) + " minutes"
	}
	if n, err := expr.Parse(o.Shown.Expr); o.Shown.Expr != "" && err == nil {
		o.Who = "those for whom " + expr.PiecesText(m.Syms.Sentence(n))
		o.Someone = true
	}
	words := wording.For(m.Def.Language)
	o.Usual = map[string]string{}
	for _, open := range []engine.Opening{engine.Before, engine.After, engine.Full} {
		o.Usual[string(open)] = fill.Closed("", open, words)
	}
	if s == nil {
		return o
	}
	o.Nobody = o.Someone && !s.met && l.As != "other"
	o.Ribbon = ribbon.Of(s.program, s.input, s.now)
	o.Status = s.status(o.Limit)
	o.moments(s)
	return o
}

// moments finds when each of the texts is read that say why the form is not open.
func (o *opening) moments(s *sight) {
	at := func(t time.Time) string { return t.Format(time.RFC3339) }
	from, until := s.program.Opening()
	if open := s.program.OpenTimes(s.now, s.now.AddDate(1, 0, 0), 1); len(open) > 0 {
		o.AtFull = at(open[0].From.Add(time.Minute))
		if o.Opening.Hours != nil {
			o.AtBefore = at(open[0].Until.Add(time.Minute))
		}
	}
	if from != nil {
		o.AtBefore = at(from.Add(-time.Hour))
	}
	if until != nil {
		o.AtAfter = at(until.Add(time.Duration(o.GraceMinutes)*time.Minute + time.Hour))
	}
}

// hours puts the recurring hours into words and into what can be picked.
func (o *opening) hours(l look) {
	o.Recurs = form.Recurrence{Kind: form.EveryDay}
	h := o.Opening.Hours
	o.Days, o.Hours = h.DaysWords(), h.TimesWords()
	if h != nil {
		o.Recurs = form.RecurrenceOf(h.Rule)
		if l.Pressed == "rule" {
			o.Recurs = form.Recurrence{Kind: form.ByRule, Rule: h.Rule}
		}
	}
	for _, code := range o.Recurs.Days {
		o.On[code] = true
	}
	for _, k := range form.Kinds {
		o.Kinds = append(o.Kinds, layout.Option{Value: string(k), Label: kindWords[k]})
	}
	for _, d := range form.Weekdays {
		o.Weekdays = append(o.Weekdays, layout.Option{Value: d.Code, Label: d.Name})
	}
	for _, n := range []int{1, 2, 3, 4, -1} {
		o.Nths = append(o.Nths, layout.Option{Value: strconv.Itoa(n), Label: form.Nths[n]})
	}
	o.Weeks = []layout.Option{{Value: "1", Label: "every week"}}
	for n := 2; n <= form.MostWeeks; n++ {
		o.Weeks = append(o.Weeks, layout.Option{Value: strconv.Itoa(n), Label: "every " + form.Nths[n] + " week"})
	}
}

// HourFrom is from when the hours last, for a field; "" for any time.
func (o *opening) HourFrom() string { return o.hour(func(h *form.Hours) string { return h.From }) }

// HourUntil is until when.
func (o *opening) HourUntil() string { return o.hour(func(h *form.Hours) string { return h.Until }) }

func (o *opening) hour(of func(*form.Hours) string) string {
	if h := o.Opening.Hours; h != nil && !h.AllDay() {
		return of(h)
	}
	return ""
}

// status says how it is at this moment, for whom it is.
func (s *sight) status(limit int) string {
	in := s.input
	in.At, in.Responses = s.now, s.taken
	words := map[engine.Opening]string{
		engine.Open: "it is open", engine.Before: "it is not open", engine.After: "it is closed", engine.Full: "it is full",
	}[s.program.Run(in).Open]
	if words == "" {
		return ""
	}
	switch left := limit - s.taken; {
	case limit == 0 || left <= 0:
	case left == 1:
		words += ", and takes one more response"
	default:
		words += ", and takes " + strconv.Itoa(left) + " more responses"
	}
	return "At this moment " + words + "."
}
