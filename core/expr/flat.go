package expr

import (
	"slices"
	"strings"
)

// Test is a condition laid flat: its operations stand one after the other in
// memory, each followed by those below it, with what they compare inside them.
// A large form spends its time waiting for memory, and nearly all conditions are
// questions compared with fixed values joined by and, or and not; so laid, they
// are decided several times faster than by walking the tree of instructions,
// which the reasons and the clock go on using. An operation that has no flat
// form keeps its instruction.
//
// The zero Test is undecided.
type Test []flat

type flat struct {
	op    flatOp
	of    opcode // what is compared: opSlot, opCell, opParam, opMode, opNow, opToday or opTime
	cmp   cmp
	scale uint8 // of a number
	slot  int32 // of the question or parameter
	size  int32 // operations in this one, itself included
	n     int64 // the fixed number, date, time or moment
	s     string
	in    *inst // what is not laid flat, or the cell
}

type flatOp uint8

const (
	flatTree flatOp = iota
	flatAnd
	flatOr
	flatNot
	flatTruth // a yes or no as a condition
	flatBlank
	flatAnswered
	flatNumber // a number compared with a fixed one
	flatInt    // a date, time, moment or yes/no compared with a fixed one
	flatEqual  // a text or choice with a fixed one
	flatDiffers
)

// Test returns the condition laid flat.
func (c *Code) Test() Test {
	return slices.Clip(appendFlat(make(Test, 0, 3), c.root)) // two comparisons joined are usual
}

// Pack moves tests into one piece of memory, in their order.
func Pack(tests []*Test) {
	n := 0
	for _, t := range tests {
		n += len(*t)
	}
	slab := make(Test, 0, n)
	for _, t := range tests {
		at := len(slab)
		slab = append(slab, *t...)
		*t = slab[at:len(slab):len(slab)]
	}
}

func appendFlat(t Test, in *inst) Test {
	at := len(t)
	t = append(t, flat{op: flatTree, in: in})
	switch in.op {
	case opAnd, opOr, opNot:
		t[at] = flat{op: map[opcode]flatOp{opAnd: flatAnd, opOr: flatOr, opNot: flatNot}[in.op]}
		for _, k := range in.kids {
			t = appendFlat(t, k)
		}
	case opIn:
		t = appendIn(t[:at], in)
	case opTruth, opBlank, opAnswered:
		if k := in.kids[0]; k.readsFlat() && !k.clock {
			t[at] = flat{
				op: map[opcode]flatOp{opTruth: flatTruth, opBlank: flatBlank, opAnswered: flatAnswered}[in.op], of: k.op,
				slot: k.slot, in: k,
			}
		}
	case opCompare:
		if f, ok := flatCompare(in.kids[0], in.kids[1], in.cmp, in.class); ok {
			t[at] = f
		}
	}
	t[at].size = int32(len(t) - at)
	return t
}

// appendIn lays "x in (a, b)" as what it means: x = a or x = b.
func appendIn(t Test, in *inst) Test {
	at := len(t)
	if in.sub {
		t = append(t, flat{op: flatNot})
	}
	or := len(t)
	t = append(t, flat{op: flatOr})
	for _, k := range in.kids[1:] {
		f, ok := flatCompare(in.kids[0], k, cmpEq, in.class)
		if !ok {
			return append(t[:at], flat{op: flatTree, in: in})
		}
		f.size = 1
		t = append(t, f)
	}
	t[or].size = int32(len(t) - or)
	return t
}

// readsFlat reports whether a flat operation can read the value by itself.
func (in *inst) readsFlat() bool {
	switch in.op {
	case opSlot, opCell, opParam, opMode, opNow, opToday, opTime:
		return true
	}
	return false
}

// flatCompare is the comparison of a question with a fixed value.
func flatCompare(l, r *inst, op cmp, cl class) (flat, bool) {
	if l.op == opConst && r.readsFlat() {
		l, r, op = r, l, op.mirror()
	}
	if !l.readsFlat() || r.op != opConst || r.val.kind == Blank {
		return flat{}, false
	}
	f := flat{of: l.op, slot: l.slot, cmp: op, n: r.val.i, in: l}
	switch {
	case cl == byText && op == cmpEq:
		f.op, f.s = flatEqual, r.val.folded()
	case cl == byText && op == cmpNe:
		f.op, f.s = flatDiffers, r.val.folded()
	case cl == byNumber && r.val.more == nil:
		f.op, f.scale = flatNumber, r.val.scale
	case cl == byInt:
		f.op = flatInt
	default:
		return flat{}, false
	}
	return f, true
}

// Truth decides the condition; it agrees with Code.Truth.
func (t Test) Truth(f *Evaluation) Truth {
	if len(t) == 0 {
		return Undecided
	}
	op := &t[0]
	switch op.op {
	case flatAnd:
		out := Met
		for i := int32(1); i < op.size; i += t[i].size {
			switch t[i:].Truth(f) {
			case NotMet:
				return NotMet
			case Undecided:
				out = Undecided
			}
		}
		return out
	case flatOr:
		out := NotMet
		for i := int32(1); i < op.size; i += t[i].size {
			switch t[i:].Truth(f) {
			case Met:
				return Met
			case Undecided:
				out = Undecided
			}
		}
		return out
	case flatNot:
		return t[1:].Truth(f).not()
	case flatTree:
		return op.in.truth(f)
	}
	var v *Value
	switch op.of {
	case opSlot:
		v = &f.Slots[op.slot]
	case opNow:
		return op.cmp.truth(order(f.Clock.unix, op.n))
	case opToday:
		return op.cmp.truth(order(int64(f.Clock.day), op.n))
	case opTime:
		return op.cmp.truth(order(f.Clock.sec, op.n))
	default:
		v = op.in.leaf(f)
	}
	switch op.op {
	case flatBlank:
		return truthOf(v.IsBlank())
	case flatAnswered:
		return truthOf(!v.IsBlank())
	case flatTruth:
		return v.truth()
	}
	if v.kind == Blank {
		return Undecided
	}
	switch op.op {
	case flatEqual:
		return truthOf(v.folded() == op.s)
	case flatDiffers:
		return truthOf(v.folded() != op.s)
	case flatNumber:
		if v.scale != op.scale || v.more != nil {
			return op.cmp.truth(v.num().Cmp(Number{coef: op.n, scale: op.scale}))
		}
	}
	return op.cmp.truth(order(v.i, op.n))
}

func order(a, b int64) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// truth is the comparison's result for values in that order.
func (c cmp) truth(order int) Truth {
	switch c {
	case cmpEq:
		return truthOf(order == 0)
	case cmpNe:
		return truthOf(order != 0)
	case cmpLt:
		return truthOf(order < 0)
	case cmpLe:
		return truthOf(order <= 0)
	case cmpGt:
		return truthOf(order > 0)
	}
	return truthOf(order >= 0)
}

func compare(a, b *Value, op cmp, cl class) Truth {
	if a.kind == Blank || b.kind == Blank {
		return Undecided
	}
	switch cl {
	case byText:
		switch op {
		case cmpEq:
			return truthOf(a.folded() == b.folded())
		case cmpNe:
			return truthOf(a.folded() != b.folded())
		}
		return op.truth(strings.Compare(a.folded(), b.folded()))
	case byNumber:
		return op.truth(a.num().Cmp(b.num()))
	}
	return op.truth(order(a.i, b.i))
}
