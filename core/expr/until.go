package expr

import (
	"math"
	"slices"
	"time"
)

// Never is the moment that does not come.
const Never int64 = math.MaxInt64

// Until returns the first moment after the frame's clock, in Unix seconds, at
// which the result may differ although everything else stays as it is, or
// Never. It is never late; it can be early where the expression is neither a
// monotone nor a daily function of the clock.
//
// Between two changes of the zone's offset local time goes evenly; what is said
// below holds within such a stretch, and an expression that reads local time is
// looked at again where it ends.
func (c *Code) Until(f *Evaluation) int64 {
	if !c.Clock {
		return Never
	}
	at := c.root.until(f)
	if c.root.readsLocalTime() {
		at = min(at, f.Clock.offsetEnds())
	}
	return at
}

// readsLocalTime reports whether a value that moves with the clock depends on the
// zone: the day, the time of day, and a moment that is moved by calendar days.
func (in *inst) readsLocalTime() bool {
	if !in.clock {
		return false
	}
	switch in.op {
	case opToday, opTime, opWeekday, opDateOf, opTimeOf, opWeekdayOf, opYear, opMonth, opDay:
		return true
	case opShift:
		if in.typ.Kind == Moment && in.kids[1].val.span() != (span{}) {
			return true
		}
	}
	return slices.ContainsFunc(in.kids, (*inst).readsLocalTime)
}

// offsetEnds is the next moment at which the zone's offset changes, or Never. It
// can be early: Time.ZoneBounds gives ends that lie in the past on the last day of
// some leap years; then it is a day later.
func (c Clock) offsetEnds() int64 {
	_, end := time.Unix(c.unix, 0).In(c.loc).ZoneBounds()
	switch {
	case end.IsZero():
		return Never
	case end.Unix() <= c.unix:
		return c.unix + 86400
	}
	return end.Unix()
}

// instant is the moment of a local date and time while the offset stays as it is.
func (c Clock) instant(d Day, sec int64) int64 {
	return int64(d)*86400 + sec - (int64(c.day)*86400 + c.sec - c.unix)
}

// direction tells how a value moves with the clock.
type direction int8

const (
	falling direction = -1
	fixed   direction = 0
	rising  direction = 1
	erratic direction = 2
)

func (d direction) and(e direction) direction {
	switch {
	case d == fixed:
		return e
	case e == fixed, d == e:
		return d
	}
	return erratic
}

func (d direction) flip() direction {
	if d == erratic {
		return erratic
	}
	return -d
}

func (in *inst) direction(f *Evaluation) direction {
	if !in.clock {
		return fixed
	}
	switch in.op {
	case opNow, opToday:
		return rising
	case opShift:
		if in.typ.Kind == Time { // round midnight
			return erratic
		}
		return in.kids[0].direction(f)
	case opRound, opFloor, opCeil, opDateOf, opYear:
		return in.kids[0].direction(f)
	case opNeg:
		return in.kids[0].direction(f).flip()
	case opAdd, opSum, opMin, opMax:
		d := fixed
		for _, k := range in.kids {
			if k.op == opColumn && in.op != opAdd {
				continue
			}
			d = d.and(k.direction(f))
		}
		return d
	case opSub, opDateDiff:
		return in.kids[0].direction(f).and(in.kids[1].direction(f).flip())
	case opDays, opMonths, opYears, opAge, opHours, opMinutes:
		return in.kids[1].direction(f).and(in.kids[0].direction(f).flip())
	case opMul, opDiv:
		moving, by := in.kids[0], in.kids[1]
		if in.op == opMul && by.clock {
			moving, by = by, moving
		}
		if by.clock {
			return erratic
		}
		var tmp Value
		if by.ref(f, &tmp).num().Sign() < 0 {
			return moving.direction(f).flip()
		}
		return moving.direction(f)
	}
	return erratic
}

func (f *Evaluation) nextMidnight() int64 {
	day, ok := addDays(f.Clock.day, 1)
	if !ok {
		return Never
	}
	return f.Clock.instant(day, 0)
}

func (in *inst) until(f *Evaluation) int64 {
	if !in.clock {
		return Never
	}
	switch in.op {
	case opNow, opTime:
		return f.Clock.unix + 1
	case opToday, opWeekday:
		return f.nextMidnight()
	case opCompare:
		return in.untilCompare(f)
	case opAnd, opOr:
		return in.untilLogic(f)
	case opIf:
		at := in.kids[0].until(f)
		switch in.kids[0].truth(f) {
		case Met:
			at = min(at, in.kids[1].until(f))
		case NotMet:
			at = min(at, in.kids[2].until(f))
		}
		return at
	case opFirst:
		at := Never
		var tmp Value
		for _, k := range in.kids {
			at = min(at, k.until(f))
			if !k.ref(f, &tmp).IsBlank() {
				break
			}
		}
		return at
	case opAnyRow, opEveryRow, opCountWhere, opUnique, opRows:
		at := Never
		in.eachRow(f, func() bool { at = min(at, in.kids[0].until(f)); return true })
		return at
	case opOthers:
		at := Never
		in.eachOther(f, func() { at = min(at, in.kids[0].until(f)) })
		return at
	case opNeg, opAdd, opSub, opMul, opDiv, opShift, opDateDiff, opAge, opDays, opMonths, opYears, opAbs, opFloor, opCeil,
		opRound:
		// Arithmetic with a blank stays blank whatever the clock says.
		var tmp Value
		for _, k := range in.kids {
			if !k.clock && k.ref(f, &tmp).kind == Blank {
				return Never
			}
		}
	}
	return in.soonest(f)
}

func (in *inst) soonest(f *Evaluation) int64 {
	at := Never
	for _, k := range in.kids {
		at = min(at, k.until(f))
	}
	return at
}

// untilLogic uses that one decided term can hold the whole: a disjunction with a
// met term stays met as long as that term does.
func (in *inst) untilLogic(f *Evaluation) int64 {
	holding := NotMet
	if in.op == opOr {
		holding = Met
	}
	held := int64(math.MinInt64)
	for _, k := range in.kids {
		if k.truth(f) == holding {
			held = max(held, k.until(f))
		}
	}
	if held != math.MinInt64 {
		return held
	}
	return in.soonest(f)
}

func (in *inst) untilCompare(f *Evaluation) int64 {
	l, r := in.kids[0], in.kids[1]
	var t1, t2 Value
	for _, side := range in.kids {
		if !side.clock && side.ref(f, &t1).kind == Blank {
			return Never
		}
	}
	if l.op == opTime && !r.clock {
		return f.nextTimeOfDay(r.ref(f, &t2).i)
	}
	if r.op == opTime && !l.clock {
		return f.nextTimeOfDay(l.ref(f, &t1).i)
	}
	switch {
	case (l.op == opNow || l.op == opToday) && !r.clock:
		return f.nextEdge(in.cmp, l.op, r.ref(f, &t2).i)
	case (r.op == opNow || r.op == opToday) && !l.clock:
		return f.nextEdge(in.cmp.mirror(), r.op, l.ref(f, &t1).i)
	}
	if d := l.direction(f).and(r.direction(f).flip()); d == erratic {
		return in.soonest(f)
	}
	// The difference of the sides moves one way only, so its sign changes at one
	// moment at most before it changes again; that moment is found by halving.
	sign := func() int {
		a, b := l.value(f), r.value(f)
		if a.kind == Blank || b.kind == Blank {
			return 2
		}
		switch {
		case compare(&a, &b, cmpLt, in.class) == Met:
			return -1
		case compare(&a, &b, cmpEq, in.class) == Met:
			return 0
		}
		return 1
	}
	now := f.Clock
	defer func() { f.Clock = now }()
	before := sign()
	if before == 2 {
		f.Clock = now
		return in.soonest(f)
	}
	same := func(at int64) bool {
		f.Clock = ClockAt(at, now.loc)
		s := sign()
		switch in.cmp {
		case cmpLt, cmpGe:
			return (s < 0) == (before < 0) && s != 2
		case cmpLe, cmpGt:
			return (s <= 0) == (before <= 0) && s != 2
		}
		return s == before
	}
	const farthest = 253402214400 // 9999-12-31
	low, high := now.unix, min(now.unix+400*366*86400, farthest)
	if in.readsLocalTime() {
		high = min(high, now.offsetEnds()-1)
	}
	if high <= low || same(high) {
		return Never
	}
	for low+1 < high {
		if mid := low + (high-low)/2; same(mid) {
			low = mid
		} else {
			high = mid
		}
	}
	return high
}

// mirror is the comparison with its sides exchanged.
func (c cmp) mirror() cmp {
	return [...]cmp{cmpEq: cmpEq, cmpNe: cmpNe, cmpLt: cmpGt, cmpLe: cmpGe, cmpGt: cmpLt, cmpGe: cmpLe}[c]
}

// nextEdge returns the next moment at which a comparison of now or today with x
// changes: where x begins, where it is over, or both.
func (f *Evaluation) nextEdge(op cmp, of opcode, x int64) int64 {
	begin, over := x, x+1
	if of == opToday {
		begin, over = f.Clock.instant(Day(x), 0), Never
		if next, ok := addDays(Day(x), 1); ok {
			over = f.Clock.instant(next, 0)
		}
	}
	at := Never
	if op != cmpLe && op != cmpGt && begin > f.Clock.unix {
		at = begin
	}
	if op != cmpLt && op != cmpGe && over > f.Clock.unix {
		at = min(at, over)
	}
	return at
}

// nextTimeOfDay returns the next moment at which a comparison of the time of day
// with sec can change: sec itself, the second after it, or midnight.
func (f *Evaluation) nextTimeOfDay(sec int64) int64 {
	at := f.nextMidnight()
	for _, s := range []int64{sec, sec + 1} {
		if m := f.Clock.instant(f.Clock.day, s); m > f.Clock.unix {
			at = min(at, m)
		}
	}
	return at
}
