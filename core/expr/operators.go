package expr

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
	Operands int // 0, 1, 2, or Many
}

// Many is the number of operands of operators that take a list.
const Many = -1

var (
	answeredOps = []Operator{{"answered", "is answered", 0}, {"blank", "is not answered", 0}}
	textOps     = []Operator{
		{"=", "is", 1}, {"!=", "is not", 1}, {"contains", "contains", 1}, {"starts with", "starts with", 1},
		{"ends with", "ends with", 1}, {"matches", "has the form", 1},
	}
	numberOps = []Operator{
		{"=", "is", 1}, {"!=", "is not", 1}, {"<", "is under", 1}, {"<=", "is at most", 1}, {">", "is over", 1},
		{">=", "is at least", 1}, {"between", "is between", 2},
	}
	dateOps = []Operator{
		{"=", "is", 1}, {"!=", "is not", 1}, {"<", "is before", 1}, {"<=", "is no later than", 1}, {">", "is after", 1},
		{">=", "is no earlier than", 1}, {"between", "is between", 2},
	}
	tickOps    = []Operator{{"yes", "is ticked", 0}, {"no", "is not ticked", 0}}
	yesOps     = []Operator{{"yes", "is yes", 0}, {"no", "is no", 0}}
	choiceOps  = []Operator{{"=", "is", 1}, {"!=", "is not", 1}, {"in", "is one of", Many}, {"not in", "is none of", Many}}
	choicesOps = []Operator{
		{"has", "includes", 1}, {"has any", "includes any of", Many}, {"has all", "includes all of", Many},
		{"has none", "includes none of", Many},
	}
)

// Operators lists the operators that a type allows, the likeliest first.
func (t Type) Operators() []Operator {
	switch t.Kind {
	case Text:
		return append(append([]Operator(nil), answeredOps...), textOps...)
	case Num:
		return append(append([]Operator(nil), numberOps...), answeredOps...)
	case Date, Time, Moment:
		return append(append([]Operator(nil), dateOps...), answeredOps...)
	case YesNo:
		if t.Tick {
			return append(append([]Operator(nil), tickOps...), answeredOps...)
		}
		return append(append([]Operator(nil), yesOps...), answeredOps...)
	case Choice:
		return append(append([]Operator(nil), choiceOps...), answeredOps...)
	case Choices:
		return append(append([]Operator(nil), choicesOps...), answeredOps...)
	}
	return answeredOps
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
