package engine

import (
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/teambition/rrule-go"

	"lazo/cache"
	"lazo/core/expr"
	"lazo/core/form"
)

// moment reads a local date and time of the form's zone, or an RFC 3339 moment;
// nil for an empty text.
func (c *compiler) moment(at, text string) *int64 {
	if text == "" {
		return nil
	}
	if t, err := time.Parse(time.RFC3339, text); err == nil {
		unix := t.Unix()
		return &unix
	}
	day, clock, hasTime := strings.Cut(text, "T")
	d, ok := expr.ParseDay(day)
	sec := 0
	if ok && hasTime {
		sec, ok = expr.ParseTime(clock)
	}
	if !ok {
		c.remark("wrong-type", form.Error, at, "", "a moment was expected, such as 2026-05-30T18:00; “%s” was found", text)
		return nil
	}
	unix := expr.MomentIn(c.p.loc, d, sec)
	return &unix
}

// opening compiles when the form takes responses, how long they can be changed,
// and the closing texts.
func (c *compiler) opening() {
	c.p.openIf = rule{fixed: true, yes: true}
	if o := c.form.Opening; o != nil {
		c.p.openings = o
		c.p.from, c.p.until = c.moment("opening.from", o.From), c.moment("opening.until", o.Until)
		if c.p.from != nil && c.p.until != nil && *c.p.until <= *c.p.from {
			c.remark("senseless", form.Warning, "opening.until", "", "the form closes before it opens")
		}
		c.p.hours = c.hours(o.Hours)
		c.p.openIf = c.rule(o.Shown, true, place{at: form.OpenWhen}, c.p.Symbols)
	}
	if t := c.form.Theme; t != nil {
		c.remarks = append(c.remarks, t.Faults()...)
	}
	if r := c.form.Returning; r != nil {
		c.p.changeUntil = c.moment("returning.until", r.Until)
	}
	if c.p.from != nil || c.p.until != nil || c.p.hours != nil || c.p.changeUntil != nil {
		c.p.clocked = true
	}
	for i, e := range c.form.Ends {
		at := "ends." + strconv.Itoa(i) + ".when"
		c.p.ends = append(c.p.ends, conditionOf(c.compile(e.When, place{at: at}, c.p.Symbols, true)))
	}
	c.outgoing()
}

// hours are recurring hours, compiled.
type hours struct {
	rule        rrule.ROption // its Dtstart is set for each look
	anchored    bool          // whether the first occurrence matters
	anchor      expr.Day
	from, until int // seconds after midnight; until may be on the next day
	loc         *time.Location

	mu   sync.Mutex
	seen expr.Day   // the day whose days are at hand, see around
	days []expr.Day // since finding those of a rule can take a second
}

func (c *compiler) hours(h *form.Hours) *hours {
	if h == nil {
		return nil
	}
	out := &hours{loc: c.p.loc}
	wrong := func(property, text string) {
		c.remark("syntax", form.Error, "opening.hours."+property, "", "%s", text)
	}
	rule, err := rrule.StrToROption(strings.TrimPrefix(h.Rule, "RRULE:"))
	if err != nil {
		wrong("rule", "this is no recurrence rule; one is written like FREQ=WEEKLY;BYDAY=MO,TU")
		return nil
	}
	if rule.Freq > rrule.DAILY {
		wrong("rule", "opening hours recur by the day, week, month or year")
		return nil
	}
	rule.Byhour, rule.Byminute, rule.Bysecond = nil, nil, nil
	out.rule, out.anchored = *rule, rule.Interval > 1 || rule.Count > 0 || rule.Freq != rrule.WEEKLY ||
		len(rule.Byweekday) == 0
	var ok bool
	if out.from, ok = expr.ParseTime(h.From); !ok {
		wrong("from", "a time of day was expected, such as 09:00; “"+h.From+"” was found")
	}
	if out.until, ok = expr.ParseTime(h.Until); !ok {
		wrong("until", "a time of day was expected, such as 17:00; “"+h.Until+"” was found")
	}
	if out.until <= out.from {
		out.until += 86400
	}
	out.anchor, _ = expr.DayOf(2024, 1, 1) // a Monday
	if c.p.from != nil {
		out.anchor = expr.ClockAt(*c.p.from, c.p.loc).Day()
	}
	if !out.comes() {
		wrong("rule", "no day is like that")
	}
	return out
}

// come remembers whether rules ever come, by rule and first day.
var come = cache.New(4000, func(string, bool) int { return 1 })

// comes reports whether there is any day of the rule. Of one that has none the whole calendar
// is gone through, so that it is asked once.
func (h *hours) comes() bool {
	comes, err := come.GetOrMake(h.rule.String()+h.anchor.String(), func() (bool, error) {
		rule, err := h.starting(h.anchor)
		if err != nil {
			return false, err
		}
		_, ok := rule.Iterator()()
		return ok, nil
	})
	return comes && err == nil
}

// starting is the rule from a day on.
func (h *hours) starting(begin expr.Day) (*rrule.RRule, error) {
	y, m, n := begin.Date()
	o := h.rule
	o.Dtstart = time.Date(y, time.Month(m), n, 0, 0, 0, 0, time.UTC)
	return rrule.NewRRule(o)
}

// horizon is how many days ahead the next hours are looked for.
const horizon = 400

// around are the days of the rule from two days before a day to the horizon.
func (h *hours) around(today expr.Day) []expr.Day {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.days != nil && h.seen == today {
		return h.days
	}
	h.seen, h.days = today, []expr.Day{}
	begin := today - 2
	if h.anchored {
		begin = h.anchor
	} else {
		begin -= (begin + 3) % 7 // a Monday, so that whole weeks are seen
	}
	rule, err := h.starting(begin)
	if err != nil || !h.comes() {
		return h.days
	}
	next := rule.Iterator()
	for t, ok := next(); ok; t, ok = next() {
		d, _ := expr.DayOf(t.Year(), int(t.Month()), t.Day())
		if d > today+horizon {
			break
		}
		if d >= today-2 {
			h.days = append(h.days, d)
		}
	}
	return h.days
}

// windows visits the hours that end after the moment, in their order, until visit
// returns false.
func (h *hours) windows(at int64, visit func(from, until int64) bool) {
	for _, d := range h.around(expr.ClockAt(at, h.loc).Day()) {
		from := expr.MomentIn(h.loc, d, h.from)
		until := expr.MomentIn(h.loc, d+expr.Day(h.until/86400), h.until%86400)
		if until > at && !visit(from, until) {
			return
		}
	}
}

// openAt reports whether a moment lies within the hours, and when that changes next.
func (h *hours) openAt(at int64) (open bool, edge int64) {
	edge = expr.Never
	h.windows(at, func(from, until int64) bool {
		switch {
		case from <= at:
			open, edge = true, until
		case open && from <= edge:
			edge = max(edge, until) // it goes on where the one before ends
		case !open:
			edge = from
			return false
		default:
			return false
		}
		return true
	})
	return open, edge
}

// open decides whether the form takes responses at this moment.
func (r *run) open() {
	p, out := r.p, r.out
	at := r.in.At.Unix()
	out.Open = Open
	if r.in.Mode == Staff {
		return // the workspace can always edit
	}
	if r.in.Offline {
		out.Open = Offline
		return
	}
	edge := func(moment int64) {
		if moment > at {
			r.until = min(r.until, moment)
		}
	}
	if r.in.Mode == Revisit && p.changeUntil != nil {
		edge(*p.changeUntil)
		if at >= *p.changeUntil {
			out.Open = After
		}
		return
	}
	begun, grace := at, int64(0)
	if p.openings != nil && !r.in.Begun.IsZero() {
		begun, grace = r.in.Begun.Unix(), int64(p.openings.GraceMinutes)*60
	}
	if p.from != nil {
		edge(*p.from)
	}
	if p.until != nil {
		late := int64(0)
		if begun < *p.until {
			late = grace
		}
		edge(*p.until + late)
		if at >= *p.until+late {
			out.Open = After
			return
		}
	}
	within := true
	if p.hours != nil {
		var change int64
		within, change = p.hours.openAt(at)
		edge(change)
		if !within && grace > 0 {
			// Who began within the hours may end a little later.
			if was, closing := p.hours.openAt(begun); was && at < closing+grace {
				within = true
				edge(closing + grace)
			}
		}
	}
	switch {
	case p.from != nil && at < *p.from, !r.met(&p.openIf), !within:
		out.Open = Before
	case p.openings != nil && p.openings.Limit > 0 && r.in.Mode == New && r.in.Responses >= p.openings.Limit:
		out.Open = Full
	}
}

// End is the closing text that applies, in Markdown: the first whose condition is met,
// else the form's own; answers stand in it as plain text.
func (o *Outcome) End() string {
	for i := range o.p.ends {
		if o.p.ends[i].test.Truth(&o.frame) == expr.Met {
			return o.Markdown(o.p.Form.Ends[i].Text)
		}
	}
	return o.Markdown(o.p.Form.End)
}

// Closed is what the form says while it takes no responses, in Markdown: of the edition
// that judges it; "" if its author wrote nothing.
func (o *Outcome) Closed() string {
	judge := o
	if o.judge != nil {
		judge = o.judge
	}
	says := judge.p.Form.Opening
	if says == nil {
		return ""
	}
	return judge.Markdown(map[Opening]string{Before: says.Before, After: says.After, Full: says.Full}[o.Open])
}

// Opening tells when a form opens and closes, for its messages and its calendar:
// nil where there is no such moment.
func (p *Program) Opening() (from, until *time.Time) {
	local := func(unix *int64) *time.Time {
		if unix == nil {
			return nil
		}
		t := time.Unix(*unix, 0).In(p.loc)
		return &t
	}
	return local(p.from), local(p.until)
}

// NextHours are the next hours in which the form is open, after a moment; ok is
// false if it has no recurring hours or none come.
func (p *Program) NextHours(at time.Time) (from, until time.Time, ok bool) {
	if p.hours == nil {
		return from, until, false
	}
	p.hours.windows(at.Unix(), func(f, u int64) bool {
		from, until, ok = time.Unix(f, 0).In(p.loc), time.Unix(u, 0).In(p.loc), true
		return false
	})
	return from, until, ok
}

// MayChange reports whether a respondent can still change what was sent.
func (p *Program) MayChange(at time.Time) bool {
	if p.Form.Returning == nil || !p.Form.Returning.Change {
		return false
	}
	switch {
	case p.changeUntil != nil:
		return at.Unix() < *p.changeUntil
	case p.until != nil:
		return at.Unix() < *p.until
	}
	return true
}
