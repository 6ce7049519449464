package expr

import (
	"strconv"
	"strings"
)

// Reason explains the result of a condition: what it says, whether it is met,
// and the values that made it so.
type Reason struct {
	Truth Truth
	Says  string // the condition in plain words
	Join  string // "and" or "or" when the reason lies in Kids
	Facts []Fact // the values that a single condition looked at
	Kids  []Reason
}

// Fact is a value that a condition looked at; Value is "" if there is none.
type Fact struct {
	Label, Value string

	ofRow   bool // it is of the row at hand
	brought bool // an address parameter
}

// Why explains the result of the code on f, in the words of syms.
func (c *Code) Why(f *Evaluation, syms *Symbols) Reason { return c.root.why(f, syms, false) }

// Facts are the values that the code looks at on f, each once.
func (c *Code) Facts(f *Evaluation) []Fact { return c.root.factsOnce(f) }

// why explains a condition, or its opposite; "not" is carried down to the single
// conditions, where it is said in their own words.
func (in *inst) why(f *Evaluation, syms *Symbols, opposite bool) Reason {
	_, between := in.node.(*Between)
	switch {
	case in.op == opNot:
		return in.kids[0].why(f, syms, !opposite)
	case (in.op == opAnd || in.op == opOr) && !between:
		r := Reason{Truth: in.truth(f), Join: "and"}
		if opposite {
			r.Truth = r.Truth.not()
		}
		if (in.op == opOr) != opposite {
			r.Join = "or"
		}
		r.Says = PiecesText(syms.Sentence(in.said(opposite)))
		for _, k := range in.kids {
			if kid := k.why(f, syms, opposite); kid.Join == r.Join {
				r.Kids = append(r.Kids, kid.Kids...) // as one list
			} else {
				r.Kids = append(r.Kids, kid)
			}
		}
		return r
	}
	r := Reason{Truth: in.truth(f), Says: PiecesText(syms.Sentence(in.said(opposite))), Facts: in.factsOnce(f)}
	if opposite {
		r.Truth = r.Truth.not()
	}
	return r
}

func (in *inst) said(opposite bool) Node {
	if opposite {
		return &Not{X: in.node}
	}
	return in.node
}

func (in *inst) factsOnce(f *Evaluation) []Fact {
	var out []Fact
	seen := map[string]bool{}
	in.facts(f, func(fact Fact) {
		if !seen[fact.Label] {
			seen[fact.Label] = true
			out = append(out, fact)
		}
	})
	return out
}

// facts visits the values that in reads, each with its label.
func (in *inst) facts(f *Evaluation, visit func(Fact)) {
	var tmp Value
	switch in.op {
	case opSlot, opCell, opParam, opParamSet, opEntry, opPart, opChosen, opSent, opAsker, opOther, opGridCell:
		fact := Fact{Label: in.label, ofRow: in.ofRow(), brought: in.op == opParam || in.op == opParamSet}
		if fact.brought {
			fact.Label = "the address’s " + fact.Label
		}
		if in.op == opAsker {
			fact.Label += " here"
		}
		if v := in.ref(f, &tmp); v.kind != Blank {
			fact.Value = in.saidAs(v, f)
		}
		visit(fact)
		return
	case opLeft:
		v := in.value(f)
		visit(Fact{Label: "the number of places left", Value: v.Plain(nil)})
		return
	case opNow, opToday, opTime, opWeekday:
		v := in.value(f)
		visit(
			Fact{
				Label: map[opcode]string{opNow: "now", opToday: "today", opTime: "the time", opWeekday: "the weekday"}[in.op],
				Value: in.typ.Say(&v, f),
			},
		)
		return
	case opMode:
		i, _ := modeOptions.Find(f.Mode.s)
		visit(Fact{Label: "it", Value: modeOptions.Labels[i]})
		return
	case opRowNumber:
		v := in.value(f)
		visit(Fact{Label: "the row’s number", Value: v.Plain(nil), ofRow: true})
		return
	case opCandidate:
		visit(Fact{Label: "this choice", Value: in.typ.Say(&f.Candidate, f)})
		return
	case opCountRows:
		v := in.value(f)
		visit(Fact{Label: "the number of rows", Value: v.Plain(nil)})
		return
	case opColumn:
		in.columnFacts(f, visit)
		return
	case opAnyRow, opEveryRow, opCountWhere, opUnique, opRows:
		in.rowFacts(f, visit)
		return
	case opOthers:
		in.otherFacts(f, visit)
		return
	}
	for _, k := range in.kids {
		k.facts(f, visit)
	}
}

// ofRow reports whether a value is one of the row at hand.
func (in *inst) ofRow() bool {
	switch in.op {
	case opCell, opSent:
		return true
	case opPart, opChosen, opOther, opGridCell:
		return in.kids[0].op == opCell
	}
	return false
}

// otherFacts visits what others looked at: the values of the other rows, and those of
// the row that asks.
func (in *inst) otherFacts(f *Evaluation, visit func(Fact)) {
	if f.Groups[in.group].Count < 2 {
		visit(Fact{Label: "the number of other rows", Value: "0"})
		return
	}
	var labels []string
	values := map[string][]string{}
	in.eachOther(f, func() {
		for _, fact := range in.kids[0].factsOnce(f) {
			switch {
			case !fact.ofRow:
				visit(fact)
				continue
			case values[fact.Label] == nil:
				labels = append(labels, fact.Label)
			}
			if fact.Value == "" {
				fact.Value = "not answered"
			}
			values[fact.Label] = append(values[fact.Label], fact.Value)
		}
	})
	for _, label := range labels {
		visit(Fact{Label: label + " in the other rows", Value: strings.Join(values[label], ", ")})
	}
}

func (in *inst) columnFacts(f *Evaluation, visit func(Fact)) {
	g := &f.Groups[in.group]
	var all []string
	of := Type{Kind: in.typ.Of, Options: in.typ.Options}
	for r := 0; r < g.Count; r++ {
		if v := &g.Cells[r*g.Width+int(in.slot)]; v.kind != Blank {
			all = append(all, of.Say(v, f))
		}
	}
	visit(Fact{Label: in.label, Value: strings.Join(all, ", ")})
}

// rowFacts visits what a test of rows looked at: the values of the row that decides,
// or of all where they do together.
func (in *inst) rowFacts(f *Evaluation, visit func(Fact)) {
	count := f.Groups[in.group].Count
	if count == 0 {
		visit(Fact{Label: "the number of rows", Value: "0"})
		return
	}
	if row := in.decidingRow(f); row >= 0 {
		g := &f.Groups[in.group]
		before := g.Row
		g.Row = row
		in.kids[0].facts(f, func(fact Fact) {
			if fact.ofRow {
				fact = Fact{Label: fact.Label + " in row " + strconv.Itoa(row+1), Value: fact.Value}
			}
			visit(fact)
		})
		g.Row = before
		return
	}
	var labels []string
	values := map[string][]string{}
	in.eachRow(f, func() bool {
		for _, fact := range in.kids[0].factsOnce(f) {
			if !fact.ofRow {
				visit(fact)
				continue
			}
			if values[fact.Label] == nil {
				labels = append(labels, fact.Label)
			}
			if fact.Value == "" {
				fact.Value = "not answered"
			}
			values[fact.Label] = append(values[fact.Label], fact.Value)
		}
		return true
	})
	for _, label := range labels {
		said := label + " in each row"
		if count == 1 {
			said = label + " in row 1"
		}
		visit(Fact{Label: said, Value: strings.Join(values[label], ", ")})
	}
}

// decidingRow is the first row that decides any or every by itself, or leaves it
// undecided; -1 if all rows do together.
func (in *inst) decidingRow(f *Evaluation) int {
	if in.op != opAnyRow && in.op != opEveryRow {
		return -1
	}
	result, at := in.truth(f), -1
	if in.op == opAnyRow && result == NotMet || in.op == opEveryRow && result == Met {
		return -1
	}
	in.eachRow(f, func() bool {
		if in.kids[0].truth(f) == result {
			at = f.Groups[in.group].Row
		}
		return at < 0
	})
	return at
}

// Lines renders a reason as indented lines of plain text:
//
//	met: all of
//	  met: Boat class is one of Coxed four, Eight (Boat class is Eight)
//	  met: Own or hired boat is answered (Own or hired boat is Own)
func (r Reason) Lines() []string {
	var out []string
	r.lines("", &out)
	return out
}

func (r Reason) lines(indent string, out *[]string) {
	if r.Join != "" {
		*out = append(*out, indent+r.Truth.String()+": "+map[string]string{"and": "all of", "or": "any of"}[r.Join])
		for _, k := range r.Kids {
			k.lines(indent+"  ", out)
		}
		return
	}
	line := indent + r.Truth.String() + ": " + r.Says
	if facts := r.FactsText(); facts != "" && facts != r.Says { // which would say the same twice
		line += " (" + facts + ")"
	}
	*out = append(*out, line)
}

// FactsText says the facts: "Trailer length is 11.5; Date of birth is not answered".
func (r Reason) FactsText() string { return FactsText(r.Facts) }

// FactsText says facts in one line.
func FactsText(facts []Fact) string {
	parts := make([]string, len(facts))
	for i, f := range facts {
		switch {
		case f.Value == "" && f.brought:
			parts[i] = f.Label + " is not given"
		case f.Value == "":
			parts[i] = f.Label + " is not answered"
		case f.Value == nonePicked:
			parts[i] = "nothing is picked in " + f.Label
		default:
			parts[i] = f.Label + " is " + f.Value
		}
	}
	return strings.Join(parts, "; ")
}

// saidAs is a value as a fact gives it.
func (in *inst) saidAs(v *Value, f *Evaluation) string {
	if in.op == opParamSet { // as it arrived, not with its parts between commas
		return "“" + strings.Join(f.Params[in.slot].Texts, "”, “") + "”"
	}
	return in.typ.SayFact(v, f)
}

// SayFact says a value as what follows "is" in a fact: of a box, whether it is ticked; a
// text in quotation marks, so that it is seen where it ends.
func (t Type) SayFact(v *Value, f *Evaluation) string {
	switch {
	case t.Tick && v.Kind() == YesNo:
		return map[bool]string{true: "ticked", false: "not ticked"}[v.Yes()]
	case v.Kind() == Text:
		return "“" + v.Text() + "”"
	}
	return t.Say(v, f)
}
