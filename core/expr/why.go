package expr

import "strings"

// Reason explains the result of a condition: what it says, whether it is met,
// and the values that made it so.
type Reason struct {
	Truth Truth
	Says  string // the condition in plain words
	Join  string // "and", "or" or "not" when the reason lies in Kids
	Facts []Fact // the values that a single condition looked at
	Kids  []Reason
}

// Fact is a value that a condition looked at; Value is "" if there is none.
type Fact struct {
	Label, Value string
}

// Why explains the result of the code on f, in the words of syms.
func (c *Code) Why(f *Frame, syms *Symbols) Reason { return c.root.why(f, syms) }

func (in *inst) why(f *Frame, syms *Symbols) Reason {
	r := Reason{Truth: in.truth(f), Says: PiecesText(syms.Sentence(in.node))}
	_, between := in.node.(*Between)
	switch {
	case (in.op == opAnd || in.op == opOr) && !between:
		r.Join = map[opcode]string{opAnd: "and", opOr: "or"}[in.op]
		for _, k := range in.kids {
			r.Kids = append(r.Kids, k.why(f, syms))
		}
		return r
	case in.op == opNot:
		r.Join = "not"
		r.Kids = []Reason{in.kids[0].why(f, syms)}
		return r
	}
	seen := map[string]bool{}
	in.facts(f, func(fact Fact) {
		if !seen[fact.Label] {
			seen[fact.Label] = true
			r.Facts = append(r.Facts, fact)
		}
	})
	return r
}

// facts visits the values that in reads, each with its label.
func (in *inst) facts(f *Frame, visit func(Fact)) {
	var tmp Value
	switch in.op {
	case opSlot, opCell, opParam, opParamSet, opEntry, opPart:
		fact := Fact{Label: in.label}
		if v := in.ref(f, &tmp); v.kind != Blank {
			fact.Value = in.typ.Say(v, f)
		}
		visit(fact)
		return
	case opNow, opToday, opTime, opWeekday:
		v := in.value(f)
		visit(Fact{map[opcode]string{opNow: "the moment", opToday: "the day", opTime: "the time", opWeekday: "the weekday"}[in.op], in.typ.Say(&v, f)})
		return
	case opMode:
		visit(Fact{"the mode", f.Mode.s})
		return
	case opCountRows:
		v := in.value(f)
		visit(Fact{"the number of rows", v.Plain(nil)})
		return
	case opColumn:
		g := &f.Groups[in.group]
		var all []string
		of := Type{Kind: in.typ.Of, Options: in.typ.Options}
		for r := 0; r < g.Count; r++ {
			if v := &g.Cells[r*g.Width+int(in.slot)]; v.kind != Blank {
				all = append(all, of.Say(v, f))
			}
		}
		visit(Fact{in.label, strings.Join(all, ", ")})
		return
	case opAnyRow, opEveryRow, opCountWhere:
		in.eachRow(f, func() bool { in.kids[0].facts(f, visit); return true })
		return
	}
	for _, k := range in.kids {
		k.facts(f, visit)
	}
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
		*out = append(*out, indent+r.Truth.String()+": "+map[string]string{"and": "all of", "or": "any of", "not": "the opposite of"}[r.Join])
		for _, k := range r.Kids {
			k.lines(indent+"  ", out)
		}
		return
	}
	line := indent + r.Truth.String() + ": " + r.Says
	if facts := r.FactsText(); facts != "" {
		line += " (" + facts + ")"
	}
	*out = append(*out, line)
}

// FactsText says the facts: "Trailer length is 11.5; Date of birth is not answered".
func (r Reason) FactsText() string {
	parts := make([]string, len(r.Facts))
	for i, f := range r.Facts {
		if f.Value == "" {
			parts[i] = f.Label + " is not answered"
		} else {
			parts[i] = f.Label + " is " + f.Value
		}
	}
	return strings.Join(parts, "; ")
}
