package proof

import (
	"cmp"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"lazo/core/expr"
)

// variable is something of which there is no end of values: a number, a day, a time, a
// text, an address parameter, the clock. It is told apart only as far as the form does:
// its values fall into regions within which every condition comes out the same.
type variable struct {
	name string
	kind expr.Kind

	numbers []expr.Number // where conditions on a number change
	texts   []string      // what a text is compared with
	lengths []expr.Number // where conditions on its length change
	probes  []probe       // conditions on a day, a time or the clock alone
	pairs   []probe       // and those on a day and the clock
	sets    []string      // of a parameter: what its values are searched for
	edges   []int64       // of the clock: moments besides
	times   []int         // and times of day

	steps []steps // of a number: which are taken, in each edition

	values []expr.Value // the regions, each by one of its values
	inputs [][]string   // of a parameter: the same, as they arrive
}

// steps are numbers so far apart, from one of them on.
type steps struct {
	taken       bool // whether no others are taken
	width, base expr.Number
}

// probe is a condition on one variable, or on a day and the clock, to be tried out.
type probe struct {
	side  *side
	code  *expr.Code
	shape string // how it reads, whatever the variable is called
}

// truth tries the condition at a value of the variable and at a moment.
func (pr probe) truth(name string, v expr.Value, at int64) expr.Truth {
	f := pr.side.still
	f.Clock = expr.ClockAt(at, pr.side.program.Location())
	if name != clockName {
		pr.side.put(f, name, 0, v)
		defer pr.side.put(f, name, 0, expr.Value{})
	}
	return pr.code.Truth(f)
}

// put puts a value where expressions read the item of that key.
func (sd *side) put(f *expr.Frame, key string, row int, v expr.Value) {
	sym := sd.program.Symbols.Items[key]
	if sym.Group == nil {
		f.Slots[sym.Slot] = v
		return
	}
	g := &f.Groups[sym.Group.Index]
	g.Cells[row*g.Width+sym.Slot] = v
}

func (v *variable) addNumber(n expr.Number) {
	if !slices.ContainsFunc(v.numbers, func(m expr.Number) bool { return m.Cmp(n) == 0 }) {
		v.numbers = append(v.numbers, n)
	}
}

func (v *variable) addText(s string) {
	if f := expr.Fold(s); f != "" && !slices.ContainsFunc(v.texts, func(t string) bool { return expr.Fold(t) == f }) {
		v.texts = append(v.texts, s)
	}
}

// atom notes where a comparison changes: one between alternatives, in which nothing stands
// but fixed values and variables. It returns why that can't be told, or "".
func (pl place) atom(n expr.Node) (why string) {
	names := regional(n)
	switch {
	case len(names) == 0:
		return ""
	case len(names) == 2 && slices.Contains(names, clockName):
		other := names[0]
		if other == clockName {
			other = names[1]
		}
		if v := pl.side.variable(other); v != nil && v.kind == expr.Date && once(n, other) && once(n, clockName) {
			return pl.probe(n, v, true)
		}
		return "it compares an answer with the clock in a way that is not followed"
	case len(names) > 1:
		return "it compares two answers with each other"
	}
	v := pl.side.variable(names[0])
	if v == nil {
		return "it is about something that is not followed"
	}
	switch v.kind {
	case expr.Num:
		return pl.numeric(n, v)
	case expr.Text:
		return pl.textual(n, v)
	case expr.Date, expr.Time, expr.Moment:
		if !once(n, names[0]) {
			return "an answer stands in it more than once"
		}
		return pl.probe(n, v, false)
	}
	return "it is about something that is not followed"
}

// once reports whether no operation of n but the last has a variable on both sides.
func once(n expr.Node, name string) bool {
	count := 0
	expr.Walk(n, func(n expr.Node) {
		if kids := expr.Children(n); len(kids) == 0 && slices.Contains(regional(n), name) {
			count++
		}
		if c, ok := n.(*expr.Call); ok && c.Name == "age" && len(c.Args) == 1 && name == clockName {
			count++
		}
	})
	return count == 1
}

// probe notes a condition on a day, a time or the clock to be tried out. One that asks
// whether two are equal is met in between only, where trying would miss it; so it is tried
// where the one passes the other.
func (pl place) probe(n expr.Node, v *variable, pair bool) string {
	if c, ok := n.(*expr.Compare); ok && (c.Op == "=" || c.Op == "!=") {
		up, down := &expr.Compare{Op: "<=", L: c.L, R: c.R}, &expr.Compare{Op: ">=", L: c.L, R: c.R}
		if _, faults := expr.CompileCondition(up, pl.scope); faults == nil {
			return cmp.Or(pl.probe(up, v, pair), pl.probe(down, v, pair))
		}
	}
	code, faults := expr.CompileCondition(n, pl.scope)
	if faults != nil {
		return "it can’t be looked at alone"
	}
	shape := n.String()
	if v.name != clockName {
		shape = strings.ReplaceAll(shape, v.name, "·")
	}
	pr := probe{pl.side, code, shape}
	list := &v.probes
	if pair {
		list = &v.pairs
	}
	if !slices.ContainsFunc(*list, func(p probe) bool { return p.shape == shape }) {
		*list = append(*list, pr)
	}
	return ""
}

// numeric notes where a comparison of a number with a fixed one changes.
func (pl place) numeric(n expr.Node, v *variable) string {
	return pl.inverted(n, func(x expr.Node, levels []expr.Number) bool {
		_, name := x.(*expr.Name)
		for _, l := range levels {
			if name {
				v.addNumber(l)
			}
		}
		return name
	})
}

// inverted finds the values of a comparison's variable at which it can change, and gives
// them to at with the variable.
func (pl place) inverted(n expr.Node, at func(x expr.Node, levels []expr.Number) bool) string {
	const beyond = "its arithmetic is not followed"
	var left, right expr.Node
	switch n := n.(type) {
	case *expr.Compare:
		left, right = n.L, n.R
	case *expr.IsBlank:
		if solid(n.X) {
			return ""
		}
		return beyond
	default:
		return beyond
	}
	if len(regional(left)) == 0 {
		left, right = right, left
	}
	if len(regional(right)) > 0 {
		return beyond
	}
	level, ok := pl.constant(right)
	if !ok {
		return "" // it is blank, and so nothing is ever decided
	}
	if !pl.invert(left, []expr.Number{level}, at) {
		return beyond
	}
	return ""
}

// solid reports whether it depends only on which of the names in an expression are blank
// whether it is.
func solid(n expr.Node) bool {
	ok := true
	expr.Walk(n, func(n expr.Node) {
		switch n := n.(type) {
		case *expr.Name, *expr.Member, *expr.Literal, *expr.Neg:
		case *expr.Arith:
			ok = ok && n.Op != "/"
		case *expr.Call:
			ok = ok && slices.Contains(solidFunctions, n.Name)
		default:
			ok = false
		}
	})
	return ok
}

var solidFunctions = []string{
	"abs", "floor", "ceil", "length", "sum", "min", "max", "average", "count", "days", "months", "years", "hours", "minutes", "year",
	"month", "day", "weekday", "label", "value", "join",
}

// constant is the number that an expression without variables gives.
func (pl place) constant(n expr.Node) (expr.Number, bool) {
	code, faults := expr.Compile(n, pl.scope)
	if faults != nil {
		return expr.Number{}, false
	}
	v := code.Value(pl.side.still)
	return v.Number(), v.Kind() == expr.Num
}

// invert goes from the values of an expression at which something changes to those of the
// variable in it. All steps are one of a few that can be taken back; at those that are not
// even the neighbours are noted, since a region too many does no harm.
func (pl place) invert(n expr.Node, levels []expr.Number, at func(expr.Node, []expr.Number) bool) bool {
	each := func(f func(expr.Number) []expr.Number) []expr.Number {
		var out []expr.Number
		for _, l := range levels {
			out = append(out, f(l)...)
		}
		return out
	}
	switch n := n.(type) {
	case *expr.Name, *expr.Member:
		return at(n, levels)
	case *expr.Neg:
		return pl.invert(n.X, each(func(l expr.Number) []expr.Number { return []expr.Number{l.Neg()} }), at)
	case *expr.Arith:
		return pl.invertArith(n, levels, at)
	case *expr.Call:
		switch n.Name {
		case "length":
			return at(n, levels)
		case "abs":
			return pl.invert(n.Args[0], each(func(l expr.Number) []expr.Number { return []expr.Number{l, l.Neg()} }), at)
		case "floor", "ceil":
			return pl.invert(n.Args[0], each(around), at)
		case "round":
			places := 0
			if len(n.Args) == 2 {
				p, ok := pl.constant(n.Args[1])
				if places, ok = wholeOf(p, ok); !ok || places < -9 || places > 9 {
					return false
				}
			}
			return pl.invert(n.Args[0], each(func(l expr.Number) []expr.Number { return halves(l, places) }), at)
		case "min", "max":
			return pl.invertAny(n.Args, levels, at)
		case "sum":
			return pl.invertSum(n.Args, levels, at)
		}
	}
	return false
}

func wholeOf(n expr.Number, ok bool) (int, bool) {
	if !ok {
		return 0, false
	}
	return n.Whole()
}

// around are the whole numbers near a number.
func around(l expr.Number) []expr.Number {
	floor, ok := l.Floor()
	if !ok {
		return []expr.Number{l}
	}
	var out []expr.Number
	for d := int64(-1); d <= 2; d++ {
		if n, ok := floor.Add(expr.Int(d)); ok {
			out = append(out, n)
		}
	}
	return out
}

// halves are the numbers near l at which rounding to some places goes over.
func halves(l expr.Number, places int) []expr.Number {
	unit := expr.Int(1)
	ten := expr.Int(10)
	for range max(places, -places) {
		if places > 0 {
			unit, _ = unit.Div(ten)
		} else {
			unit, _ = unit.Mul(ten)
		}
	}
	half, _ := unit.Div(expr.Int(2))
	q, ok := l.Div(unit)
	if !ok {
		return nil
	}
	q, _ = q.Floor()
	var out []expr.Number
	for d := int64(-1); d <= 2; d++ {
		k, _ := q.Add(expr.Int(d))
		if m, ok := k.Mul(unit); ok {
			up, _ := m.Add(half)
			down, _ := m.Sub(half)
			out = append(out, m, up, down)
		}
	}
	return out
}

func (pl place) invertArith(n *expr.Arith, levels []expr.Number, at func(expr.Node, []expr.Number) bool) bool {
	x, fixed, left := n.L, n.R, true
	if len(regional(x)) == 0 {
		x, fixed, left = n.R, n.L, false
	}
	if len(regional(fixed)) > 0 {
		return false
	}
	c, ok := pl.constant(fixed)
	if !ok {
		return true // always blank
	}
	var out []expr.Number
	for _, l := range levels {
		var m expr.Number
		ok := true
		switch {
		case n.Op == "+":
			m, ok = l.Sub(c)
		case n.Op == "-" && left:
			m, ok = l.Add(c)
		case n.Op == "-":
			m, ok = c.Sub(l)
		case n.Op == "*":
			if c.Sign() == 0 {
				continue
			}
			m, ok = l.Div(c)
		case left:
			m, ok = l.Mul(c)
		default: // c / x
			out = append(out, expr.Number{})
			m, ok = c.Div(l)
		}
		if ok {
			out = append(out, m)
		}
	}
	return pl.invert(x, out, at)
}

func (pl place) invertAny(args []expr.Node, levels []expr.Number, at func(expr.Node, []expr.Number) bool) bool {
	for _, a := range args {
		if len(regional(a)) > 0 && !pl.invert(a, levels, at) {
			return false
		}
	}
	return true
}

func (pl place) invertSum(args []expr.Node, levels []expr.Number, at func(expr.Node, []expr.Number) bool) bool {
	var x expr.Node
	sum := expr.Number{}
	for _, a := range args {
		if len(regional(a)) > 0 {
			if x != nil {
				return false
			}
			x = a
		} else if c, ok := pl.constant(a); ok {
			sum, _ = sum.Add(c)
		}
	}
	out := slices.Clone(levels)
	for i := range out {
		out[i], _ = out[i].Sub(sum)
	}
	return pl.invert(x, out, at)
}

// textual notes what a text, or its length, is compared with.
func (pl place) textual(n expr.Node, v *variable) string {
	switch n := n.(type) {
	case *expr.Compare:
		left, right := n.L, n.R
		if len(regional(left)) == 0 {
			left, right = right, left
		}
		if len(regional(right)) > 0 {
			return "it compares a text with itself"
		}
		if isName(left) {
			lit, ok := right.(*expr.Literal)
			if !ok || n.Op != "=" && n.Op != "!=" {
				return "texts are not put in order"
			}
			v.addText(lit.Text)
			return ""
		}
		return pl.inverted(n, func(x expr.Node, levels []expr.Number) bool {
			call, ok := x.(*expr.Call)
			if !ok || call.Name != "length" || !isName(call.Args[0]) {
				return false
			}
			for _, l := range levels {
				if n, ok := l.Floor(); ok && n.Cmp(expr.Int(longest)) > 0 {
					return false
				}
				v.lengths = append(v.lengths, around(l)...)
			}
			return len(v.lengths) < mostLengths
		})
	case *expr.IsBlank:
		if solid(n.X) {
			return ""
		}
	}
	return "what is in a text is not followed"
}

func isName(n expr.Node) bool {
	switch n.(type) {
	case *expr.Name, *expr.Member:
		return true
	}
	return false
}

// flips finds between which neighbouring whole numbers from low to high a function changes,
// looking between samples; it returns the first number after each change. Between two
// samples the function is to change only in steps that lead from one value to another and
// never back.
func flips(samples []int64, f func(int64) expr.Truth) []int64 {
	slices.Sort(samples)
	samples = slices.Compact(samples)
	var out []int64
	var between func(a, b int64, fa, fb expr.Truth)
	between = func(a, b int64, fa, fb expr.Truth) {
		if fa == fb {
			return
		}
		if b-a <= 1 {
			out = append(out, b)
			return
		}
		mid := a + (b-a)/2
		fm := f(mid)
		between(a, mid, fa, fm)
		between(mid, b, fm, fb)
	}
	for i := 1; i < len(samples); i++ {
		between(samples[i-1], samples[i], f(samples[i-1]), f(samples[i]))
	}
	return out
}

// The days and moments between which proofs look: beyond them nothing is different.
var (
	firstDay, _ = expr.DayOf(1, 1, 1)
	lastDay, _  = expr.DayOf(9999, 12, 31)
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
			weekly = weekly || n.Name == "weekday" || n.Name == "time"
			monthly = monthly || n.Name == "month" || n.Name == "day"
		}
	})
	return weekly, monthly
}

// build finds the regions of every variable: the clock between, since the days that are
// compared with it depend on its regions.
func (m *model) build() {
	clock := m.variables[clockName]
	var days []*variable
	for _, v := range m.ordered() {
		switch v.kind {
		case expr.Num:
			v.buildNumbers()
		case expr.Text:
			v.buildTexts()
		case expr.Time:
			v.buildTimes()
		case expr.Date:
			days = append(days, v)
		}
	}
	for _, v := range days {
		bounds := v.dayFlips()
		for _, pr := range v.pairs {
			for _, b := range bounds {
				for _, d := range []int64{b - 1, b, b + 1} {
					clock.edges = append(clock.edges, dayStarts(pr, v.name, d)...)
				}
			}
		}
	}
	m.buildClock(clock, days)
	for _, v := range days {
		v.buildDays(clock)
	}
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
	for _, t := range flips(samples, func(t int64) expr.Truth {
		return pr.truth(name, expr.DayValue(expr.Day(day)), expr.MomentIn(loc, expr.Day(t), 0))
	}) {
		out = append(out, expr.MomentIn(loc, expr.Day(t), 0))
	}
	return out
}

func (m *model) ordered() []*variable {
	var names []string
	for name := range m.variables {
		names = append(names, name)
	}
	sort.Strings(names)
	out := make([]*variable, len(names))
	for i, name := range names {
		out[i] = m.variables[name]
	}
	return out
}

// buildNumbers takes every number at which something changes, and one within each gap: one
// on a step if there is one, and where editions have different steps, one between them, too.
func (v *variable) buildNumbers() {
	slices.SortFunc(v.numbers, expr.Number.Cmp)
	add := func(n expr.Number, ok bool) {
		if ok && !slices.ContainsFunc(v.values, func(o expr.Value) bool { return o.Number().Cmp(n) == 0 }) {
			v.values = append(v.values, expr.NumberValue(n))
		}
	}
	if len(v.steps) == 0 {
		v.steps = []steps{{width: expr.Int(1)}}
	}
	for _, st := range v.steps {
		if len(v.numbers) == 0 {
			add(st.base.Add(st.width))
		}
		for i, n := range v.numbers {
			if i == 0 {
				add(st.beside(n, -1))
			}
			add(n, true)
			if i+1 == len(v.numbers) {
				add(st.beside(n, 1))
				continue
			}
			m, ok := st.beside(n, 1)
			inside := ok && m.Cmp(v.numbers[i+1]) < 0
			if inside {
				add(m, true)
			}
			if !inside || len(v.steps) > 1 {
				add(between(n, v.numbers[i+1]))
			}
		}
	}
}

// between is the number in the middle of two.
func between(a, b expr.Number) (expr.Number, bool) {
	sum, ok := a.Add(b)
	mid, ok2 := sum.Div(expr.Int(2))
	return mid, ok && ok2 && mid.Cmp(a) > 0 && mid.Cmp(b) < 0
}

// beside is the next number on a step above n, or below it.
func (st steps) beside(n expr.Number, way int64) (expr.Number, bool) {
	d, ok1 := n.Sub(st.base)
	q, ok2 := d.Div(st.width)
	floor, ok3 := q.Floor()
	if way < 0 {
		floor, ok3 = q.Ceil()
	}
	k, ok4 := floor.Add(expr.Int(way))
	whole, ok5 := k.Mul(st.width)
	out, ok6 := st.base.Add(whole)
	return out, ok1 && ok2 && ok3 && ok4 && ok5 && ok6
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
		starts = append(starts, flips(samples, func(s int64) expr.Truth { return pr.truth(v.name, expr.TimeValue(int(s)), 0) })...)
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

// dayFlips are the days at which conditions on a day alone change.
func (v *variable) dayFlips() []int64 {
	var out []int64
	for _, pr := range v.probes {
		if w, mo := periodic(pr.code.Node); w || mo {
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
	samples := append([]int64{int64(firstDay), int64(lastDay)}, near...)
	for _, d := range days {
		samples = append(samples, d-1, d, d+1)
	}
	return flips(samples, func(d int64) expr.Truth { return pr.truth(name, expr.DayValue(expr.Day(d)), at) })
}

// buildDays takes one day of every region; where the clock matters too, of the regions at
// each of its moments.
func (v *variable) buildDays(clock *variable) {
	starts := v.dayFlips()
	for _, c := range clock.values {
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
	for _, s := range within(starts, int64(firstDay), int64(lastDay)) {
		from := s.from
		if s.from == int64(firstDay) { // a day that people may live to see
			from = max(s.from, s.to-max(span, 30))
			if usual, _ := expr.DayOf(1990, 6, 15); s.to > int64(usual)+span {
				from = int64(usual)
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
	low, high := expr.MomentIn(loc, firstDay, 0), expr.MomentIn(loc, lastDay, 0)
	for _, pr := range clock.probes {
		d, s, ms := literalsIn(pr.code.Node, loc)
		secs = append(secs, s...)
		if w, mo := periodic(pr.code.Node); w || mo {
			weekly, monthly = weekly || w, monthly || mo
			rhythms = append(rhythms, pr)
			continue
		}
		samples := []int64{low, high}
		for _, day := range d {
			at := expr.MomentIn(loc, expr.Day(day), 0)
			samples = append(samples, at-1, at, at+1, at+daySeconds-1, at+daySeconds)
		}
		for _, at := range ms {
			samples = append(samples, at-1, at, at+1)
		}
		starts = append(starts, flips(samples, func(t int64) expr.Truth { return pr.truth(clockName, expr.Value{}, t) })...)
	}
	crossing := curvesOf(days)
	recurs := slices.ContainsFunc(m.sides, func(sd *side) bool { return sd.program.Recurs() })
	for _, s := range within(starts, low, high) {
		seen := map[string]bool{}
		for _, t := range m.moments(s, secs, weekly || recurs, monthly || recurs, len(crossing.probes) > 0) {
			var key strings.Builder
			for _, pr := range rhythms {
				key.WriteByte('0' + byte(pr.truth(clockName, expr.Value{}, t)))
			}
			for _, sd := range m.sides {
				if recurs && sd.program.Within(time.Unix(t, 0)) {
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
		begin = max(first, min(last, clock(usual))-around/2)
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
		out = append(out, s.from)
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
