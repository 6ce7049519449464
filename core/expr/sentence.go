package expr

import (
	"fmt"
	"slices"
	"strings"
)

// Role says what a piece of a sentence is, so that it can be set apart.
type Role string

// The roles.
const (
	Plain   Role = "word"
	ALabel  Role = "label"
	AValue  Role = "value"
	ASource Role = "source" // left as it is written, for want of plain words
	AGap    Role = "gap"    // a value that is still to be given
)

// Piece is a part of a sentence.
type Piece struct {
	Text string
	Role Role
	Key  string // of a label: the question's key, or url.NAME
}

// PiecesText joins the pieces of a sentence.
func PiecesText(pieces []Piece) string {
	var b strings.Builder
	for _, p := range pieces {
		b.WriteString(p.Text)
	}
	return b.String()
}

// Sentence says an expression in plain words, with the author's labels in place
// of keys and values: "Boat class is one of Coxed four, Eight".
func (s *Symbols) Sentence(n Node) []Piece {
	w := sentence{syms: s}
	w.cond(n, levelOr)
	return w.out
}

// Phrase says an expression as a value: "the number of Rowers × 12".
func (s *Symbols) Phrase(n Node) []Piece {
	w := sentence{syms: s}
	w.operand(n, nil)
	return w.out
}

// PhraseFor is Phrase for a value of a question, whose choices are called by their labels.
func (s *Symbols) PhraseFor(n Node, key string) []Piece {
	w := sentence{syms: s}
	w.operand(n, &Name{Name: key})
	return w.out
}

type sentence struct {
	syms *Symbols
	out  []Piece
}

func (w *sentence) say(format string, args ...any) {
	w.out = append(w.out, Piece{Text: fmt.Sprintf(format, args...), Role: Plain})
}

func (w *sentence) value(text string) {
	w.out = append(w.out, Piece{Text: text, Role: AValue})
}

// symbol returns the question that n names, or nil.
func (w *sentence) symbol(n Node) *Symbol {
	switch n := n.(type) {
	case *Name:
		return w.syms.Items[n.Name]
	case *Member:
		if g := w.syms.Groups[n.Of]; g != nil {
			return g.Items[n.Name]
		}
		if w.syms.Entry != nil && n.Of == "entry" {
			return w.syms.Entry[n.Name]
		}
		if n.Of == "response" && w.syms.response(n.Name) != nil {
			return w.syms.response(n.Name)
		}
		if sym := w.syms.Items[n.Of]; sym != nil && sym.List != nil {
			return sym.List.Columns[n.Name]
		}
	}
	return nil
}

// partWord is what a part of a question’s answer is called, if nothing else in it is called
// so; else its key.
func (s *Symbol) partWord(name string) string {
	word := s.partLabel(name)
	for _, other := range partsOf(s) {
		if other != name && (other == word || s.partLabel(other) == word) {
			return name
		}
	}
	return word
}

func (s *Symbol) partLabel(name string) string {
	if i := slices.Index(s.Rows, name); i >= 0 && i < len(s.RowLabels) && s.RowLabels[i] != "" {
		return s.RowLabels[i]
	}
	if s.List != nil && s.List.Columns[name] != nil && s.List.Columns[name].Label != "" {
		return s.List.Columns[name].Label
	}
	return name
}

func (w *sentence) options(n Node) *Options {
	if m, ok := n.(*Member); ok && w.syms.Items[m.Of] != nil && w.syms.Items[m.Of].Type.Kind == Grid {
		return w.syms.Items[m.Of].Type.Options
	}
	if sym := w.symbol(n); sym != nil {
		return sym.Type.Options
	}
	if call, ok := n.(*Call); ok && call.Name == "weekday" {
		return weekdayOptions
	}
	if m, ok := n.(*Member); ok && m.Of == "url" && w.syms.Params[m.Name].Type.Kind == Choice {
		return w.syms.Params[m.Name].Type.Options
	}
	if name, ok := n.(*Name); ok {
		switch name.Name {
		case "weekday":
			return weekdayOptions
		case "mode":
			return modeOptions
		case "choice":
			if w.syms.Candidate != nil {
				return w.syms.Candidate.Options
			}
		}
	}
	return nil
}

// join separates with a comma and the word before the last.
func (w *sentence) join(nodes []Node, word string, each func(Node)) {
	for i, n := range nodes {
		switch {
		case i == 0:
		case i == len(nodes)-1 && word != "":
			w.say(" %s ", word)
		default:
			w.say(", ")
		}
		each(n)
	}
}

// cond says a condition; it is put in parentheses where it binds weaker than least.
func (w *sentence) cond(n Node, least int) {
	if n.level() < least {
		w.say("(")
		defer w.say(")")
	}
	if x, days, _, ok := inLastDays(n); ok {
		w.lastDaysOf(x, days)
		return
	}
	if x, ok := inNeverAsked(n); ok {
		w.neverAsked(x, false)
		return
	}
	switch n := n.(type) {
	case *Logic:
		for i, t := range n.Terms {
			if i > 0 {
				w.say(" %s ", n.Op)
			}
			if i > 0 && n.Op == "and" && w.readsOn(n.Terms[i-1], t) {
				continue
			}
			w.term(t, n.level()+1)
		}
	case *Not:
		w.not(n.X)
	case *Compare:
		w.compare(n)
	case *Between:
		w.writeBetween(n, " is between ")
	case *In:
		w.writeIn(n, n.Not)
	case *IsBlank:
		w.blank(n, n.Not)
	case *TextTest:
		w.part(n.X, nil)
		w.say(" %s ", map[string]string{"contains": "contains", "starts with": "starts with", "ends with": "ends with",
			"matches": "has the form"}[n.Op])
		w.part(n.Y, nil)
	case *Has:
		w.has(n, map[string]string{"": " includes ", "any": " includes any of ", "all": " includes all of ",
			"none": " includes none of "}[n.How])
	case *Call:
		switch {
		case rowTest(n):
			w.rows(n, map[string]string{"any": "in at least one row of ", "every": "in every row of "}[n.Name])
		case n.Name == "unique" && len(n.Args) == 2:
			w.unique(n, "no two rows of ")
		case n.Name == "exact" && len(n.Args) == 2:
			w.exact(n, " is written exactly ")
		default:
			w.operand(n, nil)
		}
	case *Name, *Member:
		w.operand(n, nil)
		w.say("%s", w.yes(n))
	default:
		w.operand(n, nil)
	}
}

// yes and no are what is said of a question that is answered so, or is a box that is
// ticked or not.
func (w *sentence) yes(n Node) string {
	if sym := w.symbol(n); sym != nil && sym.Type.Tick {
		return " is ticked"
	}
	return " is yes"
}

func (w *sentence) no(n Node) string {
	if sym := w.symbol(n); sym != nil && sym.Type.Tick {
		return " is not ticked"
	}
	return " is no"
}

// readsOn says what a question is after "Terms is answered and": "ticked"; it reports whether
// that can be.
func (w *sentence) readsOn(before, n Node) bool {
	answered, ok := before.(*IsBlank)
	if !ok || !answered.Not {
		return false
	}
	words := w.yes
	if not, ok := n.(*Not); ok {
		n, words = not.X, w.no
	}
	if sym := w.symbol(n); sym == nil || !sym.Type.Tick || n.String() != answered.X.String() {
		return false // "answered and yes" would also say that yes is
	}
	w.say("%s", strings.TrimPrefix(words(n), " is "))
	return true
}

// term says one of several conditions that are joined; those that read on to the
// end of the sentence are put in parentheses.
func (w *sentence) term(n Node, least int) {
	switch n := n.(type) {
	case *Call:
		if rowTest(n) {
			least = levelAtom + 1
		}
	case *Compare:
		if _, words := otherRows(n); words != "" {
			least = levelAtom + 1
		}
	case *Not:
		switch x := n.X.(type) {
		case *Logic:
			least = levelAtom + 1
		case *Call:
			if rowTest(x) {
				least = levelAtom + 1
			}
		case *Compare:
			if _, words := otherRows(opposite(x)); words != "" {
				least = levelAtom + 1
			}
		}
	}
	w.cond(n, least)
}

func rowTest(n *Call) bool { return (n.Name == "any" || n.Name == "every") && len(n.Args) == 2 }

// not says that a condition is not met, in words of its own.
func (w *sentence) not(n Node) {
	switch x := n.(type) {
	case *Not:
		w.cond(x.X, levelNot)
	case *Logic:
		if x.Op == "or" {
			w.say("none of these: ")
		} else {
			w.say("not all of these: ")
		}
		w.join(x.Terms, "", func(t Node) { w.term(t, levelNot) })
	case *Name, *Member:
		w.operand(n, nil)
		w.say("%s", w.no(n))
	case *Compare:
		w.compare(opposite(x))
	case *Between:
		w.writeBetween(x, " is not between ")
	case *In:
		w.writeIn(x, !x.Not)
	case *IsBlank:
		w.blank(x, !x.Not)
	case *TextTest:
		w.part(x.X, nil)
		w.say(" %s ", map[string]string{"contains": "does not contain", "starts with": "does not start with",
			"ends with": "does not end with", "matches": "does not have the form"}[x.Op])
		w.part(x.Y, nil)
	case *Has:
		w.has(x, map[string]string{"": " does not include ", "any": " includes none of ", "all": " does not include all of ",
			"none": " includes any of "}[x.How])
	case *Call:
		switch {
		case x.Name == neverAsked && len(x.Args) == 1:
			w.neverAsked(x.Args[0], true)
		case x.Name == "any" && rowTest(x):
			w.rows(x, "in no row of ")
		case rowTest(x):
			w.rows(x, "not in every row of ")
		case x.Name == "unique" && len(x.Args) == 2:
			w.unique(x, "two rows of ")
		case x.Name == "exact" && len(x.Args) == 2:
			w.exact(x, " is not written exactly ")
		default:
			w.say("it is not so that ")
			w.cond(n, levelNot)
		}
	default:
		w.say("it is not so that ")
		w.cond(n, levelNot)
	}
}

func (w *sentence) writeBetween(n *Between, words string) {
	w.part(n.X, nil)
	w.say("%s", words)
	w.part(n.Low, n.X)
	w.say(" and ")
	w.part(n.High, n.X)
}

func (w *sentence) writeIn(n *In, none bool) {
	w.part(n.X, nil)
	if none {
		w.say(" is none of ")
	} else {
		w.say(" is one of ")
	}
	w.join(n.List, "", func(e Node) { w.part(e, n.X) })
}

func (w *sentence) blank(n *IsBlank, answered bool) {
	w.part(n.X, nil)
	word := "answered"
	if m, ok := n.X.(*Member); ok && m.Of == "url" {
		word = "given"
	}
	if answered {
		w.say(" is %s", word)
	} else {
		w.say(" is not %s", word)
	}
}

func (w *sentence) has(n *Has, words string) {
	w.part(n.X, nil)
	w.say("%s", words)
	w.join(n.List, "", func(e Node) { w.part(e, n.X) })
}

func (w *sentence) rows(n *Call, words string) {
	w.say("%s", words)
	w.operand(n.Args[0], nil)
	w.say(", ")
	w.inRow(n.Args[0], func() { w.cond(n.Args[1], levelNot) })
}

func (w *sentence) unique(n *Call, words string) {
	w.say("%s", words)
	w.operand(n.Args[0], nil)
	if _, named := n.Args[1].(*Name); named {
		w.say(" have the same ")
	} else {
		w.say(" agree in ")
	}
	w.inRow(n.Args[0], func() { w.part(n.Args[1], nil) })
}

func (w *sentence) exact(n *Call, words string) {
	w.part(n.Args[0], nil)
	w.say("%s", words)
	w.part(n.Args[1], nil)
}

// part says a value within a sentence: one that reads on, such as "600 if …,
// otherwise 900", is put in parentheses.
func (w *sentence) part(n Node, of Node) {
	call, ok := n.(*Call)
	if ok && (call.Name == "if" || call.Name == "others" ||
		len(call.Args) == 2 && overRows[call.Name] && w.groupNamed(call.Args[0])) {
		w.say("(")
		defer w.say(")")
	}
	w.operand(n, of)
}

// overRows are the functions that can take a section and something of each of its rows.
var overRows = map[string]bool{"count": true, "sum": true, "average": true, "min": true, "max": true}

func (w *sentence) inRow(group Node, say func()) {
	outer := w.syms
	if name, ok := group.(*Name); ok && outer.Groups[name.Name] != nil {
		w.syms = outer.InRow(outer.Groups[name.Name])
	}
	say()
	w.syms = outer
}

// opposite is met where a comparison is not, but for what is blank.
func opposite(n *Compare) *Compare {
	out := *n
	out.Op = map[string]string{"=": "!=", "!=": "=", "<": ">=", "<=": ">", ">": "<=", ">=": "<"}[n.Op]
	return &out
}

// otherRows is the function of a test whether another row meets a condition, and its words;
// none of any other.
func otherRows(n *Compare) (others *Call, words string) {
	call, ok := n.L.(*Call)
	lit, zero := n.R.(*Literal)
	if !ok || !zero || call.Name != "others" || len(call.Args) != 2 || lit.Kind != Num || lit.Num.Cmp(Int(0)) != 0 {
		return nil, ""
	}
	return call, map[string]string{"=": "in no other row of ", ">": "in at least one other row of "}[n.Op]
}

func (w *sentence) compare(n *Compare) {
	if others, words := otherRows(n); words != "" && w.groupNamed(others.Args[0]) {
		w.say("%s", words)
		w.operand(others.Args[0], nil)
		w.say(", ")
		w.inOthers(others)
		return
	}
	if name, ok := n.L.(*Name); ok &&
		(name.Name == "now" || name.Name == "today" || name.Name == "time" || name.Name == "weekday") {
		w.clock(n, name.Name)
		return
	}
	if lit, ok := n.R.(*Literal); ok && lit.Kind == YesNo && n.Op == "=" && plainQuestion(n.L) {
		w.operand(n.L, nil)
		w.say("%s", map[bool]string{true: w.yes(n.L), false: w.no(n.L)}[lit.Yes])
		return
	}
	w.part(n.L, nil)
	dates := shifts(n.R)
	if sym := w.symbol(n.L); sym != nil {
		k := sym.Type.Kind
		dates = k == Date || k == Time || k == Moment
	}
	if lit, ok := n.R.(*Literal); ok {
		dates = dates || lit.Kind == Date || lit.Kind == Time || lit.Kind == Moment
	}
	words := map[string]string{"=": "is", "!=": "is not", "<": "is under", "<=": "is at most", ">": "is over",
		">=": "is at least"}
	if dates {
		words = map[string]string{
			"=": "is", "!=": "is not", "<": "is before", "<=": "is no later than", ">": "is after",
			">=": "is no earlier than",
		}
	}
	if shifts(n.R) { // not "after 2 months after"
		words["<"], words[">"] = "is earlier than", "is later than"
	}
	w.say(" %s ", words[n.Op])
	w.part(n.R, n.L)
}

func (w *sentence) clock(n *Compare, of string) {
	word := map[string]string{"now": "it is ", "today": "today is ", "time": "the time is ",
		"weekday": "the weekday is "}[of]
	switch n.Op {
	case "=":
		w.say("%s", word)
	case "!=":
		w.say("%snot ", word)
	case "<":
		w.say("%sbefore ", word)
	case ">":
		w.say("%safter ", word)
	default:
		w.say("%s", word)
	}
	w.operand(n.R, n.L)
	switch n.Op {
	case ">=":
		w.say(" or later")
	case "<=":
		w.say(" or earlier")
	}
}

// operand says a value; of is the node it is compared with, whose choices it names.
func (w *sentence) operand(n Node, of Node) {
	switch n := n.(type) {
	case *Literal:
		w.value(w.literal(n, of))
	case *Name:
		if sym := w.syms.Items[n.Name]; sym != nil {
			w.out = append(w.out, Piece{sym.Label, ALabel, sym.Key})
			return
		}
		if g := w.syms.Groups[n.Name]; g != nil {
			w.out = append(w.out, Piece{g.Label, ALabel, g.Key})
			return
		}
		text := map[string]string{"now": "now", "today": "today", "time": "the time", "weekday": "the weekday",
			"mode": "who fills it in", "row_number": "the row’s number", "choice": "this choice"}[n.Name]
		if text == "" {
			w.out = append(w.out, Piece{n.Name, ASource, n.Name})
			return
		}
		w.say("%s", text)
	case *Member:
		w.member(n)
	case *Arith:
		if shifts(n) {
			w.shift(n)
			return
		}
		w.operandIn(n.L, n.level())
		w.say(" %s ", map[string]string{"+": "+", "-": "−", "*": "×", "/": "÷"}[n.Op])
		w.operandIn(n.R, n.level()+1)
	case *Neg:
		w.say("−")
		w.operandIn(n.X, levelUnary)
	case *Call:
		w.call(n)
	case *Gap:
		w.out = append(w.out, Piece{Text: GapSign, Role: AGap})
	default:
		w.cond(n, levelOr)
	}
}

// shifts reports whether n is a day or a moment so much later or earlier, such as
// born + 18 years.
func shifts(n Node) bool {
	sum, ok := n.(*Arith)
	if !ok || sum.Op != "+" && sum.Op != "-" {
		return false
	}
	lit, ok := sum.R.(*Literal)
	return ok && lit.Kind == Duration
}

// shift says what is later or earlier: "18 years after Born".
func (w *sentence) shift(n *Arith) {
	w.operand(n.R, nil)
	w.say("%s", map[string]string{"+": " after ", "-": " before "}[n.Op])
	w.shifted(n.L)
}

// shifted says what a duration stands before, which may be shifted itself.
func (w *sentence) shifted(n Node) {
	if shifts(n) {
		w.shift(n.(*Arith))
		return
	}
	w.operandIn(n, levelUnary)
}

func (w *sentence) operandIn(n Node, least int) {
	if n.level() < least {
		w.say("(")
		defer w.say(")")
		w.operand(n, nil)
		return
	}
	w.part(n, nil)
}

func (w *sentence) member(n *Member) {
	switch {
	case n.Of == "url":
		label := n.Name
		if p, ok := w.syms.Params[n.Name]; ok {
			label = p.Label
		}
		w.say("the address’s ")
		w.out = append(w.out, Piece{label, ALabel, "url." + n.Name})
	case n.Of == "row" && w.syms.Asker != nil && w.syms.Asker.Items[n.Name] != nil:
		w.say("this row’s ")
		w.out = append(w.out, Piece{w.syms.Asker.Items[n.Name].Label, ALabel, n.Name})
	case n.Of == "response" && w.syms.response(n.Name) != nil:
		w.out = append(w.out, Piece{w.syms.response(n.Name).Label, ALabel, "response." + n.Name})
	case n.Of == "entry":
		w.say("the entry’s ")
		label := n.Name
		if sym := w.syms.Entry[n.Name]; sym != nil {
			label = sym.Label
		}
		w.out = append(w.out, Piece{label, ALabel, ""})
	case w.syms.Groups[n.Of] != nil && w.symbol(n) != nil:
		w.out = append(w.out, Piece{w.symbol(n).Label, ALabel, n.Name})
		w.say(" in ")
		w.out = append(w.out, Piece{w.syms.Groups[n.Of].Label, ALabel, n.Of})
	case w.syms.Items[n.Of] != nil:
		w.out = append(w.out, Piece{w.syms.Items[n.Of].Label, ALabel, n.Of})
		w.say(", %s", w.syms.Items[n.Of].partWord(n.Name))
	default:
		w.out = append(w.out, Piece{n.String(), ASource, ""})
	}
}

// callLeads open the sentence of a function whose arguments follow it.
var callLeads = map[string]string{
	"sum": "the sum of ", "average": "the average of ", "min": "the least of ", "max": "the greatest of ",
	"first": "the first answered of ", "length": "the length of ", "abs": "the size of ", "date": "the date of ",
	"time": "the time of ", "weekday": "the weekday of ", "year": "the year of ", "month": "the month of ",
	"day": "the day of the month of ", "label": "the words of ", "value": "the stored value of ",
}

// call writes a function as it is said: "the age today counted from Born".
func (w *sentence) call(n *Call) {
	switch lead := callLeads[n.Name]; {
	case n.Name == "exact" || n.Name == neverAsked || rowTest(n):
		w.cond(n, levelAtom)
	case w.overRows(n, lead):
	case n.Name == "age":
		w.age(n)
	case n.Name == "if" && len(n.Args) > 1:
		w.part(n.Args[1], nil)
		w.say(" if ")
		w.cond(n.Args[0], levelNot)
		w.say(", otherwise ")
		if len(n.Args) == 2 {
			w.say("nothing")
		} else {
			w.part(n.Args[2], nil)
		}
	case n.Name == "rank" && len(n.Args) == 2:
		w.choiceIn("the place of ", n)
	case n.Name == "left" && len(n.Args) == 2:
		w.choiceIn("the places left of ", n)
	case n.Name == "days" || n.Name == "months" || n.Name == "years" || n.Name == "hours" || n.Name == "minutes":
		w.say("the %s from ", n.Name)
		w.join(n.Args, "to", w.argument)
	case n.Name == "round" || n.Name == "floor" || n.Name == "ceil":
		w.rounded(n)
	case n.Name == "join" && len(n.Args) > 1:
		w.join(n.Args[1:], "and", func(a Node) { w.part(a, nil) })
		w.say(" joined by ")
		w.part(n.Args[0], nil)
	case lead != "":
		w.say("%s", lead)
		w.join(n.Args, "and", w.argument)
	default:
		w.say("%s(", n.Name)
		w.join(n.Args, "", func(a Node) { w.part(a, nil) })
		w.say(")")
	}
}

// overRows writes a function that looks at every row of a section, and reports whether n
// is one.
func (w *sentence) overRows(n *Call, lead string) bool {
	switch {
	case n.Name == "count" && len(n.Args) == 2 && !w.groupNamed(n.Args[0]):
		w.choiceIn("the number of rows with ", n)
	case n.Name == "count" && len(n.Args) == 1:
		w.say("the number of ")
		w.argument(n.Args[0])
	case n.Name == "count" && w.groupNamed(n.Args[0]):
		w.say("the number of ")
		w.operand(n.Args[0], nil)
		w.say(" where ")
		w.inRow(n.Args[0], func() { w.cond(n.Args[1], levelNot) })
	case n.Name == "others" && len(n.Args) == 2 && w.groupNamed(n.Args[0]):
		w.say("the number of other rows of ")
		w.operand(n.Args[0], nil)
		w.say(" where ")
		w.inOthers(n)
	case overRows[n.Name] && len(n.Args) == 2 && w.groupNamed(n.Args[0]):
		w.say("%sover the rows of ", strings.TrimSuffix(lead, "of "))
		w.operand(n.Args[0], nil)
		w.say(" of ")
		w.inRow(n.Args[0], func() { w.part(n.Args[1], nil) })
	default:
		return false
	}
	return true
}

// inOthers says what is asked of each other row.
func (w *sentence) inOthers(n *Call) {
	w.inRow(n.Args[0], func() {
		w.syms.Asker = w.syms.Row
		w.cond(n.Args[1], levelNot)
	})
}

func (w *sentence) age(n *Call) {
	switch {
	case len(n.Args) == 2 && shifts(n.Args[1]):
		w.say("the age ")
		w.shifted(n.Args[1])
		w.say(",")
	case len(n.Args) == 2:
		w.say("the age on ")
		w.argument(n.Args[1])
	default:
		w.say("the age today")
	}
	w.say(" counted from ")
	w.argument(n.Args[0])
}

// choiceIn writes a function of a question and one of its choices.
func (w *sentence) choiceIn(lead string, n *Call) {
	w.say("%s", lead)
	w.operand(n.Args[1], n.Args[0])
	w.say(" in ")
	w.operand(n.Args[0], nil)
}

func (w *sentence) rounded(n *Call) {
	if _, ok := n.Args[0].(*Call); ok { // which would be taken for what is rounded within it
		w.say("(")
		w.operand(n.Args[0], nil)
		w.say(")")
	} else {
		w.operandIn(n.Args[0], levelAtom)
	}
	w.say("%s", map[string]string{"round": " rounded", "floor": " rounded down", "ceil": " rounded up"}[n.Name])
	if len(n.Args) != 2 {
		return
	}
	w.say(" to ")
	w.argument(n.Args[1])
	if lit, ok := n.Args[1].(*Literal); ok && lit.Kind == Num && lit.Num.Cmp(Int(1)) == 0 {
		w.say(" decimal place")
	} else {
		w.say(" decimal places")
	}
}

// argument says what a function is given; arithmetic stands in parentheses, so that what
// stands behind the function is not taken for a part of it.
func (w *sentence) argument(n Node) { w.operandIn(n, levelUnary) }

func (w *sentence) groupNamed(n Node) bool {
	name, ok := n.(*Name)
	return ok && w.syms.Groups[name.Name] != nil
}

func (w *sentence) literal(n *Literal, of Node) string {
	switch n.Kind {
	case Text:
		if of != nil {
			if o := w.options(of); o != nil {
				if i, ok := o.Find(n.Text); ok {
					return o.Labels[i]
				}
			}
		}
		return "“" + n.Text + "”"
	case Date:
		return dayWords(n.Day)
	case Moment:
		return dayWords(n.Day) + ", " + timeText(int64(n.Sec))
	}
	return n.String()
}

func dayWords(d Day) string {
	y, m, day := d.Date()
	return fmt.Sprintf("%d %s %d", day, [...]string{"January", "February", "March", "April", "May", "June",
		"July", "August", "September", "October", "November", "December"}[m-1], y)
}

const nonePicked = "none picked"

// Say prints a value in plain words; the values of choices by their labels.
func (t Type) Say(v *Value, f *Evaluation) string {
	label := func(s string) string {
		if t.Options != nil {
			if i, ok := t.Options.Find(s); ok {
				return t.Options.Labels[i]
			}
		}
		return s
	}
	switch v.kind {
	case Choice:
		return label(v.s)
	case Choices:
		out := make([]string, len(v.Picks()))
		for i, p := range v.Picks() {
			out[i] = label(p)
		}
		if len(out) == 0 {
			return nonePicked
		}
		return strings.Join(out, ", ")
	case Date:
		return dayWords(Day(v.i))
	case Moment:
		c := ClockAt(v.i, f.Clock.loc)
		return dayWords(c.day) + ", " + timeText(c.sec)
	}
	return v.Plain(f.Clock.loc)
}
