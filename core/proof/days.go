package proof

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/expr"
)

// flips finds between which neighbours of what is in an order a function changes, looking
// between samples; it returns the first one after each change. Between two samples the
// function is to change only in steps that lead from one value to another and never back.
func flips[T any](samples []T, order func(a, b T) int, middle func(a, b T) (T, bool), f func(T) expr.Truth) []T {
	slices.SortFunc(samples, order)
	samples = slices.CompactFunc(samples, func(a, b T) bool { return order(a, b) == 0 })
	var out []T
	var between func(a, b T, fa, fb expr.Truth)
	between = func(a, b T, fa, fb expr.Truth) {
		if fa == fb {
			return
		}
		mid, ok := middle(a, b)
		if !ok {
			out = append(out, b)
			return
		}
		fm := f(mid)
		between(a, mid, fa, fm)
		between(mid, b, fm, fb)
	}
	for i := 1; i < len(samples); i++ {
		between(samples[i-1], samples[i], f(samples[i-1]), f(samples[i]))
	}
	return out
}

// wholeFlips are those of days, seconds and moments.
func wholeFlips(samples []int64, f func(int64) expr.Truth) []int64 {
	return flips(samples, cmp.Compare[int64], func(a, b int64) (int64, bool) { return a + (b-a)/2, b-a > 1 }, f)
}

// The first and the last day of the calendar, and one that people may live to see.
var (
	firstDay, _ = expr.DayOf(1, 1, 1)
	lastDay, _  = expr.DayOf(9999, 12, 31)
	usualDay, _ = expr.DayOf(1990, 6, 15)
)

// literalsIn are the days, times of day and moments that a condition names.
func literalsIn(n expr.Node, loc *time.Location) (days []int64, secs []int, moments []int64) {
	expr.Walk(n, func(n expr.Node) {
		l, ok := n.(*expr.Literal)
		if !ok {
			return
		}
		switch l.Kind {
		case expr.Date:
			days = append(days, int64(l.Day))
		case expr.Time:
			secs = append(secs, l.Sec)
		case expr.Moment:
			days = append(days, int64(l.Day))
			moments = append(moments, expr.MomentIn(loc, l.Day, l.Sec))
		}
	})
	return days, secs, moments
}

// periodic reports whether a condition comes and goes with the week, or with the month.
func periodic(n expr.Node) (weekly, monthly bool) {
	expr.Walk(n, func(n expr.Node) {
		switch n := n.(type) {
		case *expr.Name:
			weekly = weekly || n.Name == "weekday" || n.Name == "time"
		case *expr.Call:
			if len(regional(n)) > 0 {
				weekly = weekly || n.Name == "weekday" || n.Name == "time"
				monthly = monthly || n.Name == "month" || n.Name == "day"
			}
		}
	})
	return weekly, monthly
}

// dayStarts are the moments at which a condition on a day and the clock changes, for one day.
func dayStarts(pr probe, name string, day int64) []int64 {
	loc := pr.side.program.Location()
	var samples []int64
	for d := int64(firstDay); d <= int64(lastDay); d += 20_000 {
		samples = append(samples, d)
	}
	samples = append(samples, day, int64(lastDay))
	var out []int64
	for _, t := range wholeFlips(samples, func(t int64) expr.Truth {
		return pr.truth(name, expr.DayValue(expr.Day(day)), expr.MomentIn(loc, expr.Day(t), 0))
	}) {
		out = append(out, expr.MomentIn(loc, expr.Day(t), 0))
	}
	return out
}

const daySeconds = 86400

func (v *variable) buildTimes() {
	var starts []int64
	for _, pr := range v.probes {
		_, secs, _ := literalsIn(pr.code.Node, pr.side.program.Location())
		samples := []int64{0, daySeconds - 1}
		for s := int64(0); s < daySeconds; s += 900 {
			samples = append(samples, s)
		}
		for _, s := range secs {
			samples = append(samples, int64(max(0, s-1)), int64(s), int64(min(daySeconds-1, s+1)))
		}
		starts = append(starts, wholeFlips(samples,
			func(s int64) expr.Truth { return pr.truth(v.name, expr.TimeValue(int(s)), 0) })...)
	}
	for _, s := range within(starts, 0, daySeconds) {
		// A whole minute, as people write it, if the region has one.
		t := s.from + (60-s.from%60)%60
		if t >= s.to {
			t = s.from
		}
		if noon := int64(12 * 3600); s.from <= noon && noon < s.to {
			t = noon
		}
		v.values = append(v.values, expr.TimeValue(int(t)))
	}
	if len(v.values) == 0 {
		v.values = []expr.Value{expr.TimeValue(12 * 3600)}
	}
}

// stretch is a range of days, moments or seconds, its end left out.
type stretch struct{ from, to int64 }

// within are the stretches between some starts.
func within(starts []int64, low, high int64) []stretch {
	starts = append(slices.Clone(starts), low)
	slices.Sort(starts)
	starts = slices.DeleteFunc(slices.Compact(starts), func(s int64) bool { return s < low || s >= high })
	out := make([]stretch, len(starts))
	for i, s := range starts {
		out[i] = stretch{s, high}
		if i+1 < len(starts) {
			out[i].to = starts[i+1]
		}
	}
	return out
}

// decided tells where a condition is not undecided. One that comes and goes is undecided only
// where what is computed leaves the calendar.
func decided(f func(int64) expr.Truth) func(int64) expr.Truth {
	return func(at int64) expr.Truth {
		if f(at) == expr.Undecided {
			return expr.Undecided
		}
		return expr.Met
	}
}

// dayFlips are the days at which conditions on a day alone change, and between which those that
// come and go are decided.
func (v *variable) dayFlips() []int64 {
	var out []int64
	for _, pr := range v.probes {
		if w, mo := periodic(pr.code.Node); w || mo {
			out = append(out, wholeFlips([]int64{int64(firstDay), int64(usualDay), int64(lastDay)},
				decided(func(d int64) expr.Truth {
					return pr.truth(v.name, expr.DayValue(expr.Day(d)), 0)
				}))...)
			continue
		}
		out = append(out, flipsOverDays(pr, v.name, 0, nil)...)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// flipsOverDays are the days at which a condition changes, at a moment.
func flipsOverDays(pr probe, name string, at int64, near []int64) []int64 {
	days, _, _ := literalsIn(pr.code.Node, pr.side.program.Location())
	samples := append([]int64{int64(firstDay), int64(usualDay), int64(lastDay)}, near...)
	for _, d := range days {
		samples = append(samples, d-1, d, d+1)
	}
	return wholeFlips(samples, func(d int64) expr.Truth { return pr.truth(name, expr.DayValue(expr.Day(d)), at) })
}

// buildDays takes one day of every region; where the clock matters too, of the regions at
// each of its moments.
func (v *variable) buildDays(m *model, clock *variable) {
	starts := v.dayFlips()
	for _, c := range clock.values {
		if m.stop() {
			break
		}
		for _, pr := range v.pairs {
			today := int64(expr.ClockAt(c.Unix(), pr.side.program.Location()).Day())
			starts = append(starts, flipsOverDays(pr, v.name, c.Unix(), []int64{today - 1, today, today + 1})...)
		}
	}
	var rhythms []probe
	span := int64(1)
	for _, pr := range v.probes {
		switch w, mo := periodic(pr.code.Node); {
		case mo:
			span = 1461
			rhythms = append(rhythms, pr)
		case w:
			span = max(span, 8)
			rhythms = append(rhythms, pr)
		}
	}
	for _, s := range within(starts, int64(firstDay), int64(lastDay)+1) {
		from := s.from
		if s.from == int64(firstDay) { // a day that people may live to see
			from = max(s.from, s.to-max(span, 30))
			if s.to > int64(usualDay)+span {
				from = int64(usualDay)
			}
		}
		seen := map[string]bool{}
		for d := from; d < min(s.to, from+span); d++ {
			var key strings.Builder
			for _, pr := range rhythms {
				key.WriteByte('0' + byte(pr.truth(v.name, expr.DayValue(expr.Day(d)), 0)))
			}
			if !seen[key.String()] {
				seen[key.String()] = true
				v.values = append(v.values, expr.DayValue(expr.Day(d)))
			}
		}
	}
}

// buildClock takes one moment of every region of the clock.
func (m *model) buildClock(clock *variable, days []*variable) {
	loc := m.sides[0].program.Location()
	starts := slices.Clone(clock.edges)
	var secs []int
	secs = append(secs, clock.times...)
	var rhythms []probe
	weekly, monthly := len(clock.times) > 0, false
	low, high := expr.MomentIn(loc, firstDay, 0), expr.MomentIn(loc, lastDay, daySeconds-1)+1
	for _, pr := range clock.probes {
		if m.stop() {
			break
		}
		d, s, ms := literalsIn(pr.code.Node, loc)
		secs = append(secs, s...)
		truth := func(t int64) expr.Truth { return pr.truth(clockName, expr.Value{}, t) }
		if w, mo := periodic(pr.code.Node); w || mo {
			weekly, monthly = weekly || w, monthly || mo
			rhythms = append(rhythms, pr)
			starts = append(starts, wholeFlips([]int64{low, m.at.Unix(), high - 1}, decided(truth))...)
			continue
		}
		samples := []int64{low, m.at.Unix(), high - 1}
		for _, day := range d {
			at := expr.MomentIn(loc, expr.Day(day), 0)
			samples = append(samples, at-1, at, at+1, at+daySeconds-1, at+daySeconds)
		}
		for _, at := range ms {
			samples = append(samples, at-1, at, at+1)
		}
		starts = append(starts, wholeFlips(samples, truth)...)
	}
	crossing := curvesOf(days)
	recurs := slices.ContainsFunc(m.sides, func(sd *side) bool { return sd.program.Recurs() })
	for _, s := range within(starts, low, high) {
		seen := map[string]bool{}
		for _, t := range m.moments(s, secs, weekly || recurs, monthly || recurs, len(crossing.probes) > 0) {
			if len(clock.values) > 0 && m.stop() {
				break
			}
			var key strings.Builder
			for _, pr := range rhythms {
				key.WriteByte('0' + byte(pr.truth(clockName, expr.Value{}, t)))
			}
			for _, sd := range m.sides {
				if recurs && sd.program.WithinDates(time.Unix(t, 0)) {
					key.WriteByte('+')
				} else {
					key.WriteByte('-')
				}
			}
			key.WriteString(crossing.order(t))
			if !seen[key.String()] {
				seen[key.String()] = true
				clock.values = append(clock.values, expr.MomentValue(t))
			}
		}
	}
}

// moments are those within a stretch at which what comes and goes may differ: the first and
// last days of it, at the times of day that matter; else one.
func (m *model) moments(s stretch, secs []int, weekly, monthly, curved bool) []int64 {
	loc := m.sides[0].program.Location()
	usual := m.at.Unix()
	inside := s.from <= usual && usual < s.to
	if !weekly && !monthly && !curved {
		switch {
		case inside:
			return []int64{usual}
		case s.from > usual:
			return []int64{s.from}
		}
		return []int64{s.to - 1}
	}
	var out []int64
	if inside {
		out = append(out, usual)
	}
	clock := func(t int64) int64 { return int64(expr.ClockAt(t, loc).Day()) }
	first, last := clock(s.from), clock(s.to-1)
	around := int64(9)
	if monthly || curved {
		around = 1470
	}
	begin := first
	if s.from == expr.MomentIn(loc, firstDay, 0) {
		begin = max(first, min(last-around, clock(usual)-around/2))
	}
	times := []int{0, 12 * 3600, daySeconds - 1}
	if weekly {
		for _, sec := range secs {
			times = append(times, max(0, sec-1), sec, min(daySeconds-1, sec+1))
		}
	}
	add := func(day int64) {
		for _, sec := range times {
			if t := expr.MomentIn(loc, expr.Day(day), sec); s.from <= t && t < s.to {
				out = append(out, t)
			}
		}
		if begin == first {
			out = append(out, s.from)
		}
	}
	for d := begin; d <= min(last, begin+around); d++ {
		_, _, of := expr.Day(d).Date()
		if monthly || d < begin+9 || curved && (of == 1 || of == 15 || of >= 27) {
			add(d)
		}
	}
	if begin+around < last {
		for d := last - 8; d <= last; d++ {
			add(d)
		}
	}
	return out
}

// curves are the conditions on a day and the clock, each kind once, and the order in which
// they stand on the days that were asked about.
type curves struct {
	names  []string
	probes []probe
	orders map[expr.Day]string
}

// curvesOf gathers them where several are about one day, since one can cross no other.
func curvesOf(days []*variable) *curves {
	out := &curves{orders: map[expr.Day]string{}}
	seen := map[string]bool{}
	for _, v := range days {
		if len(v.pairs) < 2 {
			continue
		}
		for _, pr := range v.pairs {
			if !seen[pr.shape] {
				seen[pr.shape] = true
				out.names, out.probes = append(out.names, v.name), append(out.probes, pr)
			}
		}
	}
	return out
}

// order tells in which order the days stand, on a day of the clock, at which the conditions
// change, and which of them stand on the same day or on neighbouring ones.
func (c *curves) order(at int64) string {
	if len(c.probes) == 0 {
		return ""
	}
	day := expr.ClockAt(at, c.probes[0].side.program.Location()).Day()
	if s, ok := c.orders[day]; ok {
		return s
	}
	var all []int64
	n := int64(len(c.probes))
	today := int64(day)
	for i, pr := range c.probes {
		for _, d := range flipsOverDays(pr, c.names[i], at, []int64{today - 1, today, today + 1}) {
			all = append(all, d*n+int64(i))
		}
	}
	slices.Sort(all)
	var b strings.Builder
	for i, d := range all {
		if i > 0 && d/n == all[i-1]/n {
			b.WriteByte('=')
		} else if i > 0 && d/n == all[i-1]/n+1 {
			b.WriteByte('-')
		}
		b.WriteString(strconv.FormatInt(d%n, 36))
		b.WriteByte(' ')
	}
	c.orders[day] = b.String()
	return c.orders[day]
}
