package expr

import (
	"fmt"
	"strings"
)

// Clause is one plain condition of the sentence editor: a subject, an operator
// and its operands as they are typed. An operand that is no plain value stands
// as it is written, such as "today + 14 days"; one that is still to be given is "".
type Clause struct {
	Key    string // a question, url.NAME, today, now, weekday, mode, or any value as it is written
	Op     string // the ID of an Operator
	Values []string
}

// Subject is something that a clause can be about.
type Subject struct {
	Key, Label string
	Type       Type
}

// Subject returns what a key names at this place; ok is false if it names nothing
// that a clause can be about.
func (s *Symbols) Subject(key string) (Subject, bool) {
	if sym := s.Items[key]; sym != nil && (sym.Group == nil || sym.Group == s.Row) {
		t := sym.Type
		t.Stored = s.Response != nil && sym.Group == nil
		return Subject{key, sym.Label, t}, true
	}
	if name, ok := strings.CutPrefix(key, "url."); ok {
		if p, ok := s.Params[name]; ok {
			t := p.Type
			if t.Kind == Blank {
				t = tText
			}
			return Subject{key, "Address: " + p.Label, t}, true
		}
	}
	if name, ok := strings.CutPrefix(key, "response."); ok {
		if sym := s.response(name); sym != nil {
			return Subject{key, sym.Label, sym.Type}, true
		}
	}
	switch key {
	case "today":
		return Subject{key, "Today", Type{Kind: Date}}, true
	case "now":
		return Subject{key, "The moment", Type{Kind: Moment}}, true
	case "time":
		return Subject{key, "The time of day", Type{Kind: Time}}, true
	case "weekday":
		return Subject{key, "The weekday", Type{Kind: Choice, Options: weekdayOptions}}, true
	case "mode":
		return Subject{key, "Who fills it in", Type{Kind: Choice, Options: modeOptions}}, true
	case "row_number":
		return Subject{key, "The row’s number", tNumber}, s.Row != nil
	case "choice":
		if s.Candidate != nil {
			return Subject{key, "The choice", *s.Candidate}, true
		}
	}
	return s.computedSubject(key)
}

// computedSubject is a subject that is itself an expression, such as
// count(rowers) or age(born).
func (s *Symbols) computedSubject(src string) (Subject, bool) {
	n, err := Parse(src)
	if err != nil || n.level() < levelSum {
		return Subject{}, false
	}
	if _, plain := n.(*Literal); plain {
		return Subject{}, false
	}
	code, faults := Compile(n, s)
	if faults != nil || code.Type.Kind == Duration || code.Type.Kind == Blank {
		return Subject{}, false
	}
	return Subject{n.String(), PiecesText(s.Phrase(n)), code.Type}, true
}

// ClauseSubjects are the subjects that are not questions or parameters.
var ClauseSubjects = []string{"today", "now", "time", "weekday", "mode"}

func (s *Symbols) clause(n Node) (Clause, bool) {
	var x Node
	c := Clause{}
	var operands []Node
	switch n := n.(type) {
	case *Name, *Member, *Call:
		x, c.Op = n, "yes"
	case *Compare:
		x, c.Op, operands = n.L, n.Op, []Node{n.R}
		if lit, ok := n.R.(*Literal); ok && lit.Kind == YesNo && n.Op == "=" {
			c.Op, operands = map[bool]string{true: "yes", false: "no"}[lit.Yes], nil
		}
	case *Between:
		x, c.Op, operands = n.X, "between", []Node{n.Low, n.High}
	case *In:
		x, c.Op, operands = n.X, map[bool]string{false: "in", true: "not in"}[n.Not], n.List
	case *IsBlank:
		x, c.Op = n.X, map[bool]string{false: "blank", true: "answered"}[n.Not]
	case *TextTest:
		x, c.Op, operands = n.X, n.Op, []Node{n.Y}
	case *Has:
		x, c.Op, operands = n.X, strings.TrimSpace("has "+n.How), n.List
	default:
		return c, false
	}
	if of, days, _, ok := inLastDays(n); ok {
		x, c.Op, operands = of, recent, []Node{daysOf(days)}
	}
	if of, ok := inNeverAsked(n); ok {
		x, c.Op = of, neverAsked
	}
	c.Key = x.String()
	subject, ok := s.Subject(c.Key)
	if !ok || subject.Type.Operator(c.Op).ID != c.Op {
		return c, false
	}
	for _, o := range operands {
		text := o.String()
		if _, gap := o.(*Gap); gap {
			text = ""
		}
		if lit, ok := o.(*Literal); ok && lit.Kind == Text {
			text = lit.Text
			if subject.Type.Options != nil { // as the options spell it
				if i, ok := subject.Type.Options.Find(text); ok && subject.Type.Options.Values[i] != text {
					return c, false
				}
			}
		}
		c.Values = append(c.Values, text)
	}
	// Only what comes back unchanged is shown as a clause.
	back, err := s.ClauseNode(c)
	return c, err == nil && Equal(back, n)
}

// daysOf is a number of days as it is typed.
func daysOf(n Node) Node {
	if lit, ok := n.(*Literal); ok {
		return &Literal{Kind: Num, Num: lit.Num}
	}
	return n
}

// ClauseNode makes a clause's condition, with a [Gap] for each operand that is still to be
// given. The error says what is wrong with the others.
func (s *Symbols) ClauseNode(c Clause) (Node, error) {
	subject, ok := s.Subject(c.Key)
	if !ok {
		return nil, fmt.Errorf("there is no question “%s”", c.Key)
	}
	x, err := Parse(c.Key)
	if err != nil {
		return nil, err
	}
	op := subject.Type.Operator(c.Op)
	var list []Node
	for _, v := range c.Values {
		if op.Operands == 0 || (op.Operands > 0 && len(list) == op.Operands) {
			break
		}
		if strings.TrimSpace(v) == "" {
			if op.Operands != Many {
				list = append(list, &Gap{})
			}
			continue
		}
		operand, err := s.operand(subject.Type, op, v)
		if err != nil {
			return nil, fmt.Errorf("%s %s: %w", subject.Label, op.Words, err)
		}
		list = append(list, operand)
	}
	for len(list) < op.Operands || op.Operands == Many && len(list) == 0 {
		list = append(list, &Gap{})
	}
	switch op.ID {
	case recent:
		return lastDays(x, list[0], subject.Type.Kind), nil
	case neverAsked:
		return neverAskedOf(x), nil
	case "answered", "blank":
		return &IsBlank{X: x, Not: op.ID == "answered"}, nil
	case "yes":
		return x, nil
	case "no":
		return &Compare{Op: "=", L: x, R: &Literal{Kind: YesNo}}, nil
	case "between":
		return &Between{X: x, Low: list[0], High: list[1]}, nil
	case "in", "not in":
		return &In{X: x, List: list, Not: op.ID == "not in"}, nil
	case "contains", "starts with", "ends with", "matches":
		return &TextTest{Op: op.ID, X: x, Y: list[0]}, nil
	case "has", "has any", "has all", "has none":
		return &Has{X: x, How: strings.TrimPrefix(strings.TrimPrefix(op.ID, "has"), " "), List: list}, nil
	}
	return &Compare{Op: op.ID, L: x, R: list[0]}, nil
}

// operand reads an operand: a plain value of the type or, failing that, an
// expression that can be compared with it.
func (s *Symbols) operand(t Type, op Operator, text string) (Node, error) {
	if op.ID == recent {
		return daysTyped(text)
	}
	lit, plain := t.literal(text)
	if plain == nil && t.Options == nil && t.Kind != Text {
		return lit, nil
	}
	if plain == nil && t.Options != nil {
		if _, ok := t.Options.Find(text); ok {
			return lit, nil
		}
	}
	n, err := Parse(text)
	if err == nil {
		_, quoted := n.(*Literal)
		_, word := n.(*Name) // of a text, a word is rather a text than a question
		code, faults := Compile(n, s)
		if faults == nil && !quoted && !(word && plain == nil) &&
			(code.Type.Kind == t.Kind || textual(code.Type.Kind) && (textual(t.Kind) || t.Kind == Choices)) {
			return n, nil
		}
	}
	if plain == nil && op.ID == "matches" {
		if _, err := Pattern(text); err != nil {
			return nil, err
		}
	}
	if plain == nil {
		return lit, nil
	}
	return nil, plain
}

// literal reads an operand as it is typed.
func (t Type) literal(text string) (*Literal, error) {
	text = strings.TrimSpace(text)
	switch t.Kind {
	case Num:
		n, err := ParseNumber(text)
		if err != nil {
			return nil, fmt.Errorf("“%s” is not a number", text)
		}
		return &Literal{Kind: Num, Num: n}, nil
	case Date:
		d, ok := ParseDay(text)
		if !ok {
			return nil, fmt.Errorf("“%s” is not a date", text)
		}
		return &Literal{Kind: Date, Day: d}, nil
	case Time:
		sec, ok := ParseTime(text)
		if !ok {
			return nil, fmt.Errorf("“%s” is not a time", text)
		}
		return &Literal{Kind: Time, Sec: sec}, nil
	case Moment:
		day, clock, _ := strings.Cut(text, "T")
		d, ok1 := ParseDay(day)
		sec, ok2 := ParseTime(clock)
		if !ok1 || !ok2 {
			return nil, fmt.Errorf("“%s” is not a date and time", text)
		}
		return &Literal{Kind: Moment, Day: d, Sec: sec}, nil
	}
	if text == "" {
		return nil, fmt.Errorf("nothing was given to compare with")
	}
	return &Literal{Kind: Text, Text: text}, nil
}

// FirstClause is the clause that a condition about a subject begins with: what it is
// compared with is still to be given.
func (s *Symbols) FirstClause(subject Subject) Clause {
	op := subject.Type.Likely()
	if o := subject.Type.Options; o != nil && len(o.Values) == 0 {
		op = subject.Type.Operator("answered") // there is nothing yet that it could be
	}
	return Clause{Key: subject.Key, Op: op.ID, Values: s.KeptOperands(subject.Type, op, nil)}
}

// KeptOperands are the operands that stay when an operator was just chosen: those that fit
// it, each in its place, and "" for those that are still to be given.
func (s *Symbols) KeptOperands(t Type, op Operator, values []string) []string {
	kept := []string{}
	for _, v := range values {
		if op.Operands != Many && len(kept) == op.Operands {
			break
		}
		if fits := s.fitsOperand(t, op, v); fits {
			kept = append(kept, v)
		} else if op.Operands != Many {
			kept = append(kept, "")
		}
	}
	for len(kept) < op.Operands {
		kept = append(kept, "")
	}
	return kept
}

// fitsOperand reports whether a text is an operand, and one of the choices where there are
// some.
func (s *Symbols) fitsOperand(t Type, op Operator, text string) bool {
	if strings.TrimSpace(text) == "" {
		return false
	}
	n, err := s.operand(t, op, text)
	if err != nil {
		return false
	}
	if lit, plain := n.(*Literal); plain && t.Options != nil {
		_, known := t.Options.Find(lit.Text)
		return known
	}
	return true
}
