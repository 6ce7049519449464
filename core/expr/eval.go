package expr

import (
	"math"
	"slices"
	"strings"
	"time"
)

// Evaluation holds what expressions read during one run. The engine fills the slots
// in the order of dependency; a Frame serves one goroutine at a time.
type Evaluation struct {
	Slots     []Value
	Groups    []Rows
	Params    []Param
	Clock     Clock
	Mode      Value
	Entry     []Value               // the list entry that where is tried on
	Candidate Value                 // the choice that offered and withheld are tried on
	Left      Places                // how many places are left; nil if that is not known
	Asked     func(key string) bool // whether a question was asked of a stored response; nil if that is not known
	Speech    Speech                // how values are read out; nil is in plain English
}

// Rows are the answers of a repeating section, row by row.
type Rows struct {
	Count, Width int
	Cells        []Value
	Sent         []Value // the answers as they were sent, where a condition on other rows asks
	Row          int     // the row at hand, from 0
	Asker        int     // inside others: the row that asks
}

// Clock is the moment of a run, to the second, in the form's zone.
type Clock struct {
	unix int64
	loc  *time.Location
	day  Day
	sec  int64
}

// ClockAt returns the clock at a moment in Unix seconds.
func ClockAt(unix int64, loc *time.Location) Clock {
	_, off := time.Unix(unix, 0).In(loc).Zone()
	wall := unix + int64(off)
	day := wall / 86400
	if wall%86400 < 0 {
		day--
	}
	return Clock{unix, loc, Day(day), wall - day*86400}
}

// Truth evaluates a condition.
func (c *Code) Truth(f *Evaluation) Truth { return c.root.truth(f) }

// Value evaluates the expression; an undecided condition is blank.
func (c *Code) Value(f *Evaluation) Value { return c.root.value(f) }

// leaf returns where the value already lies, or nil if it has to be computed.
// It keeps the usual conditions, a question against a value, off the heap.
func (in *inst) leaf(f *Evaluation) *Value {
	switch in.op {
	case opSlot:
		return &f.Slots[in.slot]
	case opConst:
		return &in.val
	case opCell:
		g := &f.Groups[in.group]
		return &g.Cells[g.Row*g.Width+int(in.slot)]
	case opParam:
		return &f.Params[in.slot].Text
	case opParamSet:
		return &f.Params[in.slot].Set
	case opEntry:
		return &f.Entry[in.slot]
	case opCandidate:
		return &f.Candidate
	case opMode:
		return &f.Mode
	case opSent:
		g := &f.Groups[in.group]
		return &g.Sent[g.Row*g.Width+int(in.slot)]
	case opAsker:
		g := &f.Groups[in.group]
		if in.sub {
			return &g.Sent[g.Asker*g.Width+int(in.slot)]
		}
		return &g.Cells[g.Asker*g.Width+int(in.slot)]
	}
	return nil
}

// ref is leaf, or else the value computed into tmp.
func (in *inst) ref(f *Evaluation, tmp *Value) *Value {
	if v := in.leaf(f); v != nil {
		return v
	}
	*tmp = in.value(f)
	return tmp
}

func (in *inst) truth(f *Evaluation) Truth {
	switch in.op {
	case opCompare:
		if a, b := in.kids[0].leaf(f), in.kids[1].leaf(f); a != nil && b != nil {
			return compare(a, b, in.cmp, in.class)
		}
	case opBlank:
		if v := in.kids[0].leaf(f); v != nil {
			return truthOf(v.IsBlank())
		}
	case opAnswered:
		if v := in.kids[0].leaf(f); v != nil {
			return truthOf(!v.IsBlank())
		}
	case opTruth:
		if v := in.kids[0].leaf(f); v != nil {
			return v.truth()
		}
	case opAnd:
		out := Met
		for _, k := range in.kids {
			switch k.truth(f) {
			case NotMet:
				return NotMet
			case Undecided:
				out = Undecided
			}
		}
		return out
	case opOr:
		out := NotMet
		for _, k := range in.kids {
			switch k.truth(f) {
			case Met:
				return Met
			case Undecided:
				out = Undecided
			}
		}
		return out
	case opNot:
		return in.kids[0].truth(f).not()
	}
	return in.computedTruth(f)
}

// truth is a yes or no as the value of a condition.
func (v *Value) truth() Truth {
	if v.kind != YesNo {
		return Undecided
	}
	return truthOf(v.i == 1)
}

// computedTruth decides conditions on values that have to be computed first.
func (in *inst) computedTruth(f *Evaluation) Truth {
	var t1, t2 Value
	switch in.op {
	case opCompare:
		return compare(in.kids[0].ref(f, &t1), in.kids[1].ref(f, &t2), in.cmp, in.class)
	case opTruth:
		return in.kids[0].ref(f, &t1).truth()
	case opBlank:
		return truthOf(in.kids[0].ref(f, &t1).IsBlank())
	case opAnswered:
		return truthOf(!in.kids[0].ref(f, &t1).IsBlank())
	case opIn:
		out := NotMet
		x := in.kids[0].ref(f, &t1)
		for _, k := range in.kids[1:] {
			switch compare(x, k.ref(f, &t2), cmpEq, in.class) {
			case Met:
				if in.sub {
					return NotMet
				}
				return Met
			case Undecided:
				out = Undecided
			}
		}
		if in.sub {
			return out.not()
		}
		return out
	case opContains, opStarts, opEnds:
		x, y := in.kids[0].ref(f, &t1), in.kids[1].ref(f, &t2)
		if x.kind == Blank || y.kind == Blank {
			return Undecided
		}
		switch in.op {
		case opContains:
			return truthOf(strings.Contains(x.folded(), y.folded()))
		case opStarts:
			return truthOf(strings.HasPrefix(x.folded(), y.folded()))
		}
		return truthOf(strings.HasSuffix(x.folded(), y.folded()))
	case opMatches:
		x := in.kids[0].ref(f, &t1)
		if x.kind == Blank {
			return Undecided
		}
		return truthOf(in.re.MatchString(x.s))
	case opHasAny, opHasAll, opHasNone:
		return in.hasTruth(f)
	case opNeverAsked:
		return in.neverAsked(f)
	case opExact:
		x, y := in.kids[0].ref(f, &t1), in.kids[1].ref(f, &t2)
		if x.kind == Blank || y.kind == Blank {
			return Undecided
		}
		return truthOf(x.s == y.s)
	case opUnique:
		return in.unique(f)
	case opAnyRow, opEveryRow:
		return in.rowsTruth(f)
	}
	return in.ref(f, &t1).truth()
}

// rowsTruth decides any and every.
func (in *inst) rowsTruth(f *Evaluation) Truth {
	stop := Met
	if in.op == opEveryRow {
		stop = NotMet
	}
	out := stop.not()
	in.eachRow(f, func() bool {
		switch in.kids[0].truth(f) {
		case stop:
			out = stop
			return false
		case Undecided:
			out = Undecided
		}
		return true
	})
	return out
}

// hasTruth decides has on a set; an entry of the list that is blank is undecided.
func (in *inst) hasTruth(f *Evaluation) Truth {
	var t1, t2 Value
	set := in.kids[0].ref(f, &t1)
	if set.kind != Choices {
		return Undecided
	}
	anyMet, allMet := NotMet, Met
	for _, k := range in.kids[1:] {
		v := k.ref(f, &t2)
		t := Undecided
		if v.kind != Blank {
			t = NotMet
			for _, fold := range set.more.folds {
				if fold == v.folded() {
					t = Met
					break
				}
			}
		}
		switch t {
		case Met:
			anyMet = Met
		case NotMet:
			allMet = NotMet
		default:
			if anyMet == NotMet {
				anyMet = Undecided
			}
			if allMet == Met {
				allMet = Undecided
			}
		}
	}
	switch in.op {
	case opHasAll:
		return allMet
	case opHasNone:
		return anyMet.not()
	}
	return anyMet
}

// eachRow visits the rows of in's section and puts the row at hand back after.
func (in *inst) eachRow(f *Evaluation, visit func() bool) {
	g := &f.Groups[in.group]
	before := g.Row
	for g.Row = 0; g.Row < g.Count; g.Row++ {
		if !visit() {
			break
		}
	}
	g.Row = before
}

// each visits the answered values of the arguments, columns row by row.
func (in *inst) each(f *Evaluation, from int, visit func(v *Value)) {
	var tmp Value
	for _, k := range in.kids[from:] {
		if k.op == opColumn {
			g := &f.Groups[k.group]
			for r := 0; r < g.Count; r++ {
				if v := &g.Cells[r*g.Width+int(k.slot)]; !v.IsBlank() {
					visit(v)
				}
			}
			continue
		}
		if k.op == opRows {
			k.eachRow(f, func() bool {
				if v := k.kids[0].ref(f, &tmp); !v.IsBlank() {
					visit(v)
				}
				return true
			})
			continue
		}
		if v := k.ref(f, &tmp); !v.IsBlank() {
			visit(v)
		}
	}
}

func numberOr(n Number, ok bool) Value {
	if !ok {
		return Value{}
	}
	return NumberValue(n)
}

func (in *inst) value(f *Evaluation) Value {
	if v := in.leaf(f); v != nil {
		return *v
	}
	return in.computed(f)
}

// computed is the value of what is not a leaf.
func (in *inst) computed(f *Evaluation) Value {
	var t1, t2 Value
	switch in.op {
	case opNow:
		return MomentValue(f.Clock.unix)
	case opToday:
		return DayValue(f.Clock.day)
	case opTime:
		return TimeValue(int(f.Clock.sec))
	case opWeekday:
		return Value{kind: Choice, s: f.Clock.day.weekday()}
	case opRowNumber:
		return NumberValue(Int(int64(f.Groups[in.group].Row + 1)))
	case opPart:
		return TextValue(in.kids[0].ref(f, &t1).Parts().Get(in.val.s))
	case opAdd, opSub, opMul, opDiv:
		return in.arithmetic(in.kids[0].ref(f, &t1), in.kids[1].ref(f, &t2))
	case opShift:
		return shift(*in.kids[0].ref(f, &t1), *in.kids[1].ref(f, &t2), in.sub, f.Clock.loc)
	case opDateDiff, opAge, opDays, opMonths, opYears, opHours, opMinutes:
		return in.evalBetween(in.kids[0].ref(f, &t1), in.kids[1].ref(f, &t2))
	case opNeg, opAbs, opFloor, opCeil, opRound, opLength:
		return in.unary(f)
	case opCountPicks:
		return NumberValue(Int(int64(len(in.kids[0].ref(f, &t1).Picks()))))
	case opCountRows:
		return NumberValue(Int(int64(f.Groups[in.group].Count)))
	case opCountWhere, opCount, opOthers:
		return in.counted(f)
	case opCountCells:
		return in.cellsThatHold(in.kids[0].ref(f, &t1), in.kids[1].ref(f, &t2))
	case opChosen:
		return in.chosen(in.kids[0].ref(f, &t1))
	case opDateOf, opTimeOf, opWeekdayOf, opYear, opMonth, opDay:
		return in.calendar(in.kids[0].ref(f, &t1), f.Clock.loc)
	case opOther:
		return TextValue(in.kids[0].ref(f, &t1).Other())
	case opGridCell:
		return in.kids[0].ref(f, &t1).Cell(in.val.s)
	case opRank:
		return in.rank(f)
	case opLeft:
		if v := in.kids[0].ref(f, &t1); f.Left != nil && v.kind != Blank {
			if n, ok := f.Left(in.key, v.folded()); ok {
				return NumberValue(Int(int64(n)))
			}
		}
		return Value{}
	case opLabel:
		return TextValue(in.kids[0].typ.label(in.kids[0].ref(f, &t1), f.Speech))
	case opStored:
		return TextValue(in.kids[0].ref(f, &t1).stored())
	case opSum, opAverage:
		return in.total(f)
	case opMin, opMax:
		return in.extreme(f)
	case opIf:
		return in.common(in.branch(f))
	case opFirst:
		for _, k := range in.kids {
			if v := k.ref(f, &t1); !v.IsBlank() {
				return in.common(*v)
			}
		}
		return Value{}
	case opJoin:
		return in.joined(f)
	}
	return in.truth(f).value()
}

// arithmetic is blank where a side is.
func (in *inst) arithmetic(x, y *Value) Value {
	if x.kind == Blank || y.kind == Blank {
		return Value{}
	}
	switch in.op {
	case opAdd:
		return NumberValue(x.num().Add(y.num()))
	case opSub:
		return NumberValue(x.num().Sub(y.num()))
	case opMul:
		return NumberValue(x.num().Mul(y.num()))
	}
	return numberOr(x.num().Div(y.num()))
}

// evalBetween is how much time there is from one day to another, in the unit of the
// function; blank where a day is.
func (in *inst) evalBetween(x, y *Value) Value {
	if x.kind == Blank || y.kind == Blank {
		return Value{}
	}
	a, b := Day(x.i), Day(y.i)
	n := 0
	switch in.op {
	case opAge:
		if b < a {
			return Value{} // not born yet
		}
		n = monthsBetween(a, b) / 12
	case opDateDiff:
		n = int(a) - int(b)
	case opDays:
		n = int(b) - int(a)
	case opMonths:
		n = monthsBetween(a, b)
	case opHours:
		n = int((y.i - x.i) / 3600)
	case opMinutes:
		n = int((y.i - x.i) / 60)
	default:
		n = monthsBetween(a, b) / 12
	}
	return NumberValue(Int(int64(n)))
}

// cellsThatHold is in how many rows of a grid a value was picked.
func (in *inst) cellsThatHold(grid, v *Value) Value {
	if v.kind == Blank {
		return Value{}
	}
	n := int64(0)
	for _, cell := range grid.Cells() {
		if holdsFolded(&cell.Value, v.folded()) {
			n++
		}
	}
	return NumberValue(Int(n))
}

// holdsFolded reports whether a pick, or one of several, is a value.
func holdsFolded(v *Value, fold string) bool {
	return v.kind == Choice && v.folded() == fold || v.kind == Choices && slices.Contains(v.more.folds, fold)
}

// counted is how many of its arguments are answered, or how many rows meet a condition.
func (in *inst) counted(f *Evaluation) Value {
	n := int64(0)
	if in.op == opCount {
		in.each(f, 0, func(*Value) { n++ })
		return NumberValue(Int(n))
	}
	if in.op == opOthers {
		in.eachOther(f, func() {
			if in.kids[0].truth(f) == Met {
				n++
			}
		})
		return NumberValue(Int(n))
	}
	in.eachRow(f, func() bool {
		if in.kids[0].truth(f) == Met {
			n++
		}
		return true
	})
	return NumberValue(Int(n))
}

// branch is blank where the condition is neither met nor not.
// common is a value as what all the possible ones have in common: a choice beside a text is
// a text, without what was written for it.
func (in *inst) common(v Value) Value {
	if v.kind == Choice && in.typ.Kind == Text {
		return TextValue(v.s)
	}
	return v
}

func (in *inst) branch(f *Evaluation) Value {
	switch in.kids[0].truth(f) {
	case Met:
		return in.kids[1].value(f)
	case NotMet:
		return in.kids[2].value(f)
	}
	return Value{}
}

// rank is the place of a choice in a ranking, from 1.
func (in *inst) rank(f *Evaluation) Value {
	var t1, t2 Value
	of, v := in.kids[0].ref(f, &t1), in.kids[1].ref(f, &t2)
	if of.kind != Choices || v.kind == Blank {
		return Value{}
	}
	for i, fold := range of.more.folds {
		if fold == v.folded() {
			return NumberValue(Int(int64(i + 1)))
		}
	}
	return Value{}
}

// Places tells how many places a choice of a question has left, by the folded value; ok is
// false if it has no number of places.
type Places func(key, choice string) (left int, ok bool)

// chosen is the column of the entry that was chosen.
func (in *inst) chosen(v *Value) Value {
	if row := in.list.Entries[v.folded()]; v.kind == Choice && row != nil {
		return row[in.slot]
	}
	return Value{}
}

// calendar is a part of a date or, in the form's zone, of a moment.
func (in *inst) calendar(v *Value, loc *time.Location) Value {
	day, sec := Day(v.i), int64(0)
	switch v.kind {
	case Blank:
		return Value{}
	case Moment:
		c := ClockAt(v.i, loc)
		day, sec = c.day, c.sec
	}
	year, month, of := day.Date()
	n := of
	switch in.op {
	case opDateOf:
		return DayValue(day)
	case opTimeOf:
		return TimeValue(int(sec))
	case opWeekdayOf:
		return Value{kind: Choice, s: day.weekday()}
	case opYear:
		n = year
	case opMonth:
		n = month
	}
	return NumberValue(Int(int64(n)))
}

func (in *inst) unary(f *Evaluation) Value {
	var t1, t2 Value
	x := in.kids[0].ref(f, &t1)
	if x.kind == Blank {
		return Value{}
	}
	switch in.op {
	case opNeg:
		return NumberValue(x.num().Neg())
	case opAbs:
		return NumberValue(x.num().Abs())
	case opFloor:
		return NumberValue(x.num().Floor())
	case opCeil:
		return NumberValue(x.num().Ceil())
	case opLength:
		return NumberValue(Int(int64(Length(x.s))))
	}
	places := 0
	if len(in.kids) == 2 {
		y := in.kids[1].ref(f, &t2)
		whole, ok := y.num().Whole()
		if y.kind == Blank || !ok {
			return Value{}
		}
		places = whole
	}
	return NumberValue(x.num().Round(places))
}

func (in *inst) total(f *Evaluation) Value {
	sum, n := Number{}, int64(0)
	in.each(f, 0, func(v *Value) {
		sum = sum.Add(v.num())
		n++
	})
	if in.op == opAverage {
		return numberOr(sum.Div(Int(n)))
	}
	return NumberValue(sum)
}

func (in *inst) extreme(f *Evaluation) Value {
	op, cl := cmpLt, byInt
	if in.op == opMax {
		op = cmpGt
	}
	if in.typ.Kind == Num {
		cl = byNumber
	}
	var best Value
	in.each(f, 0, func(v *Value) {
		if best.kind == Blank || compare(v, &best, op, cl) == Met {
			best = *v
		}
	})
	return best
}

func (in *inst) joined(f *Evaluation) Value {
	var tmp Value
	sep := in.kids[0].ref(f, &tmp).s
	var b strings.Builder
	first := true
	for _, k := range in.kids[1:] {
		of := k.typ
		if of.Kind == Column {
			of.Kind = of.Of
		}
		one := inst{kids: []*inst{k}}
		one.each(f, 0, func(v *Value) {
			if b.Len() > MaxLength {
				return
			}
			if !first {
				b.WriteString(sep)
			}
			first = false
			b.WriteString(of.joined(v, f))
		})
	}
	if b.Len() > MaxLength {
		return Value{}
	}
	return TextValue(b.String())
}

// shift moves a date or moment by a duration. A moment's days, weeks, months and
// years move its local date and keep its local time.
func shift(at, by Value, sub bool, loc *time.Location) Value {
	if at.kind == Blank || by.kind == Blank {
		return Value{}
	}
	sign := 1
	if sub {
		sign = -1
	}
	day, sec := Day(at.i), int64(0)
	if at.kind == Time {
		return TimeValue(int(((at.i+int64(sign)*by.i)%86400 + 86400) % 86400)) // round midnight
	}
	if at.kind == Moment {
		if by.span() == (span{}) {
			return MomentValue(at.i + int64(sign)*by.i)
		}
		c := ClockAt(at.i, loc)
		day, sec = c.day, c.sec
	}
	if int64(by.span().months) > math.MaxInt32/2 || day < firstDay || day > lastDay {
		return Value{}
	}
	day, ok := addMonths(day, sign*int(by.span().months))
	if !ok {
		return Value{}
	}
	if day, ok = addDays(day, sign*int(by.span().days)); !ok {
		return Value{}
	}
	if at.kind == Date {
		return DayValue(day)
	}
	return MomentValue(MomentIn(loc, day, int(sec)) + int64(sign)*by.i)
}

// Day is the date on the clock.
func (c Clock) Day() Day { return c.day }
