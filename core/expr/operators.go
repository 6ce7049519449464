package expr

import "slices"

type cmp uint8

const (
	cmpEq cmp = iota
	cmpNe
	cmpLt
	cmpLe
	cmpGt
	cmpGe
)

var cmps = map[string]cmp{"=": cmpEq, "!=": cmpNe, "<": cmpLt, "<=": cmpLe, ">": cmpGt, ">=": cmpGe}

// textTests, pickTests and arithmetic are what the operators of the language do, by how
// they are written.
var (
	textTests  = map[string]opcode{"contains": opContains, "starts with": opStarts, "ends with": opEnds}
	pickTests  = map[string]opcode{"": opHasAny, "any": opHasAny, "all": opHasAll, "none": opHasNone}
	arithmetic = map[string]opcode{"+": opAdd, "-": opSub, "*": opMul, "/": opDiv}
)

// Operator is a way to test a question.
type Operator struct {
	ID       string
	Words    string
	Operands int    // 0, 1, 2, or Many
	Of       Kind   // what it is compared with, if that is not of the subject's kind
	Unit     string // words behind its operands
}

// Many is the number of operands of operators that take a list.
const Many = -1

var (
	answeredOps = []Operator{
		{ID: "answered", Words: "is answered"},
		{ID: "blank", Words: "is not answered"},
	}
	textOps = []Operator{
		{ID: "=", Words: "is", Operands: 1},
		{ID: "!=", Words: "is not", Operands: 1},
		{ID: "contains", Words: "contains", Operands: 1},
		{ID: "starts with", Words: "starts with", Operands: 1},
		{ID: "ends with", Words: "ends with", Operands: 1},
		{ID: "matches", Words: "has the form", Operands: 1},
	}
	numberOps = []Operator{
		{ID: "=", Words: "is", Operands: 1},
		{ID: "!=", Words: "is not", Operands: 1},
		{ID: "<", Words: "is under", Operands: 1},
		{ID: "<=", Words: "is at most", Operands: 1},
		{ID: ">", Words: "is over", Operands: 1},
		{ID: ">=", Words: "is at least", Operands: 1},
		{ID: "between", Words: "is between", Operands: 2},
	}
	dateOps = []Operator{
		{ID: "=", Words: "is", Operands: 1},
		{ID: "!=", Words: "is not", Operands: 1},
		{ID: "<", Words: "is before", Operands: 1},
		{ID: "<=", Words: "is no later than", Operands: 1},
		{ID: ">", Words: "is after", Operands: 1},
		{ID: ">=", Words: "is no earlier than", Operands: 1},
		{ID: "between", Words: "is between", Operands: 2},
	}
	recentOps = []Operator{
		{ID: recent, Words: "is in the last", Operands: 1, Of: Num, Unit: "days"},
	}
	tickOps = []Operator{
		{ID: "yes", Words: "is ticked"},
		{ID: "no", Words: "is not ticked"},
	}
	yesOps = []Operator{
		{ID: "yes", Words: "is yes"},
		{ID: "no", Words: "is no"},
	}
	choiceOps = []Operator{
		{ID: "=", Words: "is", Operands: 1},
		{ID: "!=", Words: "is not", Operands: 1},
		{ID: "in", Words: "is one of", Operands: Many},
		{ID: "not in", Words: "is none of", Operands: Many},
	}
	choicesOps = []Operator{
		{ID: "has", Words: "includes", Operands: 1},
		{ID: "has any", Words: "includes any of", Operands: Many},
		{ID: "has all", Words: "includes all of", Operands: Many},
		{ID: "has none", Words: "includes none of", Operands: Many},
	}
)

// Operators lists the operators that a type allows, the likeliest first.
func (t Type) Operators() []Operator {
	var out []Operator
	switch t.Kind {
	case Text:
		out = slices.Concat(answeredOps, textOps)
	case Num:
		out = slices.Concat(numberOps, answeredOps)
	case Time:
		out = slices.Concat(dateOps, answeredOps)
	case Date, Moment:
		out = slices.Concat(dateOps, recentOps, answeredOps)
	case YesNo:
		if t.Tick {
			out = slices.Concat(tickOps, answeredOps)
		} else {
			out = slices.Concat(yesOps, answeredOps)
		}
	case Choice:
		out = slices.Concat(choiceOps, answeredOps)
	case Choices:
		out = slices.Concat(choicesOps, answeredOps)
	default:
		out = slices.Clone(answeredOps)
	}
	if t.Stored {
		out = append(out, Operator{ID: neverAsked, Words: "was never asked"})
	}
	return out
}

// Likely is the operator that a condition about something of the type begins with: one
// that tells more than a single number or day from all others.
func (t Type) Likely() Operator {
	switch t.Kind {
	case Num, Date, Time, Moment:
		return t.Operator(">=")
	}
	return t.Operators()[0]
}

// Instead is the operator of a clause that was about something of another type with an
// operator, which stays if it was not merely the likely one and is there.
func (t Type) Instead(before Type, id string) Operator {
	if id == before.Likely().ID {
		return t.Likely()
	}
	return t.Operator(id)
}

// Operator returns the operator with that ID that the type allows, or its first.
func (t Type) Operator(id string) Operator {
	ops := t.Operators()
	for _, op := range ops {
		if op.ID == id {
			return op
		}
	}
	return ops[0]
}
