package expr

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
)

// opcode names what an inst does.
type opcode uint8

const (
	opConst opcode = iota
	opSlot
	opCell
	opPart
	opParam
	opParamSet
	opEntry
	opCandidate
	opNow
	opToday
	opTime
	opWeekday
	opMode
	opRowNumber

	opAnd
	opOr
	opNot
	opTruth // a yes/no value as a condition
	opCompare
	opIn
	opBlank
	opAnswered
	opContains
	opStarts
	opEnds
	opMatches
	opHasAny // "has x" too
	opHasAll
	opHasNone
	opExact
	opAnyRow
	opEveryRow
	opUnique

	opNeg
	opAdd
	opSub
	opMul
	opDiv
	opShift // date or moment ± duration
	opDateDiff
	opAge
	opDays
	opMonths
	opYears
	opLength
	opCountPicks
	opCountRows
	opCountWhere
	opCount
	opCountCells // the rows of a grid that hold a value
	opRound
	opAbs
	opFloor
	opCeil
	opSum
	opAverage
	opMin
	opMax
	opIf
	opFirst
	opJoin
	opColumn
	opRows   // one value for each row
	opOthers // how many other rows meet a condition
	opSent   // inside others: the answer of that row as it was sent
	opAsker  // inside others: the answer of the row that asks; sub: as it was sent
	opChosen // a column of the entry that was chosen
	opDateOf
	opTimeOf
	opWeekdayOf
	opYear
	opMonth
	opDay
	opHours
	opMinutes
	opLabel
	opStored
	opOther    // what was written for the choice that brings a text
	opGridCell // what was picked in a row of a grid
	opRank     // the place of a choice in a ranking
	opLeft     // the places that a choice has left
	opNeverAsked
)

// decides reports whether an operation is met or not, rather than giving a value.
func (op opcode) decides() bool {
	switch op {
	case opAnd, opOr, opNot, opTruth, opCompare, opIn, opBlank, opAnswered, opContains, opStarts, opEnds, opMatches,
		opHasAny, opHasAll, opHasNone, opExact, opNeverAsked, opAnyRow, opEveryRow, opUnique:
		return true
	}
	return false
}

// inst is one checked operation of a Code. What evaluation reads stands in it
// directly and is small, since a large form's conditions should fit the cache.
type inst struct {
	op    opcode
	cmp   cmp
	sub   bool // opShift: subtract; opIn: not in; opAsker: as it was sent
	class class
	clock bool // depends on the clock
	slot  int32
	group int32
	kids  []*inst
	*about
}

// about is the rest of an inst.
type about struct {
	val   Value
	re    *regexp.Regexp
	typ   Type
	node  Node
	label string // of the question read, for reasons
	list  *List  // opChosen: where its entries stand
	key   string // opLeft, opNeverAsked: the question
}

// class is how values are compared.
type class uint8

const (
	byText class = iota
	byNumber
	byInt
)

// Code is a checked expression, ready to be evaluated against frames of the form
// that it was compiled for. It is immutable.
type Code struct {
	root   *inst
	Node   Node
	Type   Type
	Items  []*Symbol      // the questions that it reads
	Groups []*GroupSymbol // the repeating sections whose rows it counts
	Params []string       // the address parameters that it reads
	Clock  bool           // whether it depends on the clock
	Mode   bool           // whether it depends on the mode
	Over   []*Symbol      // of its own section, the questions that it reads in all rows
	Sent   []*Symbol      // and those that it reads there as they were sent
	Places bool           // whether it reads how many places are left
	Local  bool           // whether it reads entry, choice, row_number or cells of its row
	Notes  []*Fault       // senseless but sound places
}

// Constant reports whether the result can't depend on anything.
func (c *Code) Constant() bool {
	return len(c.Items) == 0 && len(c.Groups) == 0 && len(c.Params) == 0 && !c.Clock && !c.Mode && !c.Local && !c.Places
}

// Compile checks n against the symbols and returns its code, or every fault found.
func Compile(n Node, syms *Symbols) (*Code, []*Fault) {
	c := &checker{syms: syms, code: &Code{Node: n}}
	root := c.expr(n)
	if len(c.faults) > 0 {
		return nil, c.faults
	}
	c.code.root, c.code.Type, c.code.Clock = root, root.typ, root.clock
	if root.typ.Kind == Column || root.typ.Kind == Group {
		return nil, append(c.faults, c.columnFault(root))
	}
	return c.code, nil
}

// CompileCondition is Compile for a place where a condition must stand.
func CompileCondition(n Node, syms *Symbols) (*Code, []*Fault) {
	code, faults := Compile(n, syms)
	if faults == nil && code.Type.Kind != YesNo && code.Type.Kind != Blank {
		return nil, []*Fault{{Kind: "wrong-type", Pos: n.Pos(), End: n.Pos() + 1,
			Text: fmt.Sprintf("a condition was expected, %s is %s%s", n, code.Type.Kind, conditionHint(n, code.Type))}}
	}
	return code, faults
}

type checker struct {
	syms   *Symbols
	over   *GroupSymbol // the expression's own section, where all its rows are looked at
	code   *Code
	faults []*Fault
}

// bad stands for an expression that was reported already; it fits everywhere.
func bad(n Node) *inst { return &inst{op: opConst, about: &about{node: n}} }

func (c *checker) fault(n Node, kind, near, format string, args ...any) *inst {
	text := fmt.Sprintf(format, args...)
	if near != "" {
		text += fmt.Sprintf("; did you mean %s?", near)
	}
	c.faults = append(c.faults, &Fault{Kind: kind, Pos: n.Pos(), End: n.Pos() + len(n.String()), Text: text, Near: near})
	return bad(n)
}

func (c *checker) note(n Node, format string, args ...any) {
	c.code.Notes = append(c.code.Notes,
		&Fault{Pos: n.Pos(), End: n.Pos() + len(n.String()), Text: fmt.Sprintf(format, args...)})
}

func newInst(n Node, op opcode, t Type, kids ...*inst) *inst {
	both := &struct { // one piece of memory rather than two
		inst
		rest about
	}{inst{op: op, kids: kids}, about{node: n, typ: t}}
	in := &both.inst
	in.about = &both.rest
	for _, k := range kids {
		in.clock = in.clock || k.clock
	}
	return in
}

var (
	tYesNo  = Type{Kind: YesNo}
	tNumber = Type{Kind: Num}
	tText   = Type{Kind: Text}
	tDate   = Type{Kind: Date}
)

func (c *checker) expr(n Node) *inst {
	switch n := n.(type) {
	case *Literal:
		return c.literal(n)
	case *Name:
		return c.name(n)
	case *Member:
		return c.member(n)
	case *Not:
		return newInst(n, opNot, tYesNo, c.cond(n.X))
	case *Logic:
		op := opAnd
		if n.Op == "or" {
			op = opOr
		}
		kids := make([]*inst, len(n.Terms))
		for i, t := range n.Terms {
			if kids[i] = c.oneOf(n, i); kids[i] == nil {
				kids[i] = c.cond(t)
			}
		}
		return newInst(n, op, tYesNo, kids...)
	case *Neg:
		return c.fold(newInst(n, opNeg, tNumber, c.want(n.X, Num)))
	case *Arith:
		return c.arith(n)
	case *Compare:
		return c.compare(n, n.Op, n.L, n.R)
	case *Between:
		return newInst(n, opAnd, tYesNo, c.compare(n, ">=", n.X, n.Low), c.compare(n, "<=", n.X, n.High))
	case *In:
		return c.checkIn(n)
	case *IsBlank:
		x := c.single(n.X)
		if n.Not {
			return newInst(n, opAnswered, tYesNo, x)
		}
		return newInst(n, opBlank, tYesNo, x)
	case *TextTest:
		return c.textTest(n)
	case *Has:
		return c.has(n)
	case *Call:
		return c.call(n)
	case *Gap:
		return c.fault(n, begun, "", "“%s” stands for a value that is still to be given", GapSign)
	}
	panic(fmt.Sprintf("expr: unknown node %T", n))
}

// single checks a value that is neither a section nor a column.
func (c *checker) single(n Node) *inst {
	x := c.expr(n)
	if x.typ.Kind == Group || x.typ.Kind == Column {
		c.faults = append(c.faults, c.columnFault(x))
		return bad(n)
	}
	return x
}

func (c *checker) columnFault(x *inst) *Fault {
	f := &Fault{Kind: "wrong-type", Pos: x.node.Pos(), End: x.node.Pos() + len(x.node.String())}
	if x.typ.Kind == Group {
		f.Text = fmt.Sprintf("%s is a repeating section; write for example count(%s) or any(%s, …)", x.node, x.node, x.node)
	} else {
		f.Text = fmt.Sprintf("%s is %s; write for example sum(%s) or count(%s)", x.node, Column, x.node, x.node)
	}
	return f
}

// want checks a single value of one of the kinds.
func (c *checker) want(n Node, kinds ...Kind) *inst {
	x := c.single(n)
	if x.typ.Kind == Blank || slices.Contains(kinds, x.typ.Kind) {
		return x
	}
	names := make([]string, len(kinds))
	for i, k := range kinds {
		names[i] = k.String()
	}
	return c.fault(n, "wrong-type", "", "%s was expected, %s is %s", strings.Join(names, " or "), n, x.typ.Kind)
}

// cond checks a condition.
func (c *checker) cond(n Node) *inst {
	x := c.single(n)
	switch x.typ.Kind {
	case YesNo:
		if !x.op.decides() {
			return newInst(n, opTruth, tYesNo, x)
		}
		return x
	case Blank:
		return x
	}
	return c.fault(n, "wrong-type", "", "a condition was expected, %s is %s%s", n, x.typ.Kind, conditionHint(n, x.typ))
}

func (c *checker) literal(n *Literal) *inst {
	in := newInst(n, opConst, Type{Kind: n.Kind})
	switch n.Kind {
	case Text:
		in.val = textOf(Text, n.Text)
	case Num:
		in.val = NumberValue(n.Num)
	case YesNo:
		in.val = YesNoValue(n.Yes)
	case Date:
		in.val = DayValue(n.Day)
	case Time:
		in.val = TimeValue(n.Sec)
	case Moment:
		in.val = MomentValue(MomentIn(c.syms.Zone, n.Day, n.Sec))
	case Duration:
		in.val = durationOf(n)
	}
	return in
}

func durationOf(n *Literal) Value {
	count, _ := n.Num.Whole()
	v := Value{kind: Duration, more: &more{}}
	switch n.Unit {
	case "minutes":
		v.i = int64(count) * 60
	case "hours":
		v.i = int64(count) * 3600
	case "days":
		v.more.span.days = int32(count)
	case "weeks":
		v.more.span.days = int32(min(int64(count)*7, 1<<30))
	case "months":
		v.more.span.months = int32(count)
	case "years":
		v.more.span.months = int32(min(int64(count)*12, 1<<30))
	}
	return v
}

func (c *checker) name(n *Name) *inst {
	clock := func(op opcode, t Type) *inst {
		in := newInst(n, op, t)
		in.clock = true
		return in
	}
	switch n.Name {
	case "now":
		return clock(opNow, Type{Kind: Moment})
	case "today":
		return clock(opToday, tDate)
	case "time":
		return clock(opTime, Type{Kind: Time})
	case "weekday":
		return clock(opWeekday, Type{Kind: Choice, Options: weekdayOptions})
	case "mode":
		c.code.Mode = true
		return newInst(n, opMode, Type{Kind: Choice, Options: modeOptions})
	case "row_number":
		if c.syms.Row == nil {
			return c.fault(n, "wrong-type", "", "row_number has a meaning only inside a repeating section")
		}
		c.code.Local = true
		in := newInst(n, opRowNumber, tNumber)
		in.group = int32(c.syms.Row.Index)
		return in
	case "choice":
		if c.syms.Candidate == nil {
			return c.fault(n, "wrong-type", "", "“choice” has a meaning only in offered and withheld")
		}
		c.code.Local = true
		return newInst(n, opCandidate, *c.syms.Candidate)
	}
	if sym := c.syms.Items[n.Name]; sym != nil {
		return c.question(n, sym)
	}
	if g := c.syms.Groups[n.Name]; g != nil {
		in := newInst(n, opConst, Type{Kind: Group})
		in.group = int32(g.Index)
		return in
	}
	if isFunction(n.Name) {
		return c.fault(n, "unknown-name", "", "there is no question “%s”; as a function it is written %s", n.Name,
			functions[n.Name].Usage)
	}
	return c.fault(n, "unknown-name", c.syms.meant(n.Name, nameWords...), "there is no question “%s”", n.Name)
}

func (c *checker) question(n Node, sym *Symbol) *inst {
	in := newInst(n, opSlot, sym.Type)
	in.slot, in.label = int32(sym.Slot), sym.Label
	if sym.Group != nil {
		if sym.Group != c.syms.Row {
			return c.fault(n, "wrong-type", "",
				"%s is asked once per row of %s; write for example any(%s, %s …) or %s.%s in sum or count",
				sym.Key, sym.Group.Label, sym.Group.Key, sym.Key, sym.Group.Key, sym.Key)
		}
		in.op, in.group = opCell, int32(sym.Group.Index)
		c.code.Local = true
		if c.own(sym) {
			in.op = opSent
			return in
		}
	}
	if sym.Group != nil && sym.Group == c.over && !slices.Contains(c.code.Over, sym) {
		c.code.Over = append(c.code.Over, sym)
	}
	c.reads(sym)
	return in
}

func (c *checker) reads(sym *Symbol) {
	if !slices.Contains(c.code.Items, sym) {
		c.code.Items = append(c.code.Items, sym)
	}
}

func (c *checker) counts(g *GroupSymbol) {
	if !slices.Contains(c.code.Groups, g) {
		c.code.Groups = append(c.code.Groups, g)
	}
}

// member checks NAME.PART: an address parameter, a column of the entry at hand, of the
// rows of a section, or of the one who asks, or a part of an answer.
func (c *checker) member(n *Member) *inst {
	switch {
	case n.Of == "url":
		return c.param(n)
	case n.Of == "entry":
		return c.entry(n)
	case n.Of == "row" && c.syms.Asker != nil:
		return c.asker(n)
	case n.Of == "response" && c.syms.Response != nil:
		return c.response(n)
	case c.syms.Groups[n.Of] != nil:
		return c.column(n, c.syms.Groups[n.Of])
	case c.syms.Items[n.Of] != nil:
		return c.partOf(n, c.syms.Items[n.Of])
	case n.Of == "row":
		return c.fault(n, "wrong-type", "", "“row” has a meaning only inside others")
	}
	return c.fault(n, "unknown-name", c.syms.meant(n.Of), "there is no question “%s”", n.Of)
}

// param checks url.NAME.
func (c *checker) param(n *Member) *inst {
	param, ok := c.syms.Params[n.Name]
	if !ok {
		near := Nearest(n.Name, slices.Collect(maps.Keys(c.syms.Params)))
		if near != "" {
			near = "url." + near
		}
		return c.fault(n, "unknown-name", near, "the form has no address parameter “%s”", n.Name)
	}
	typ := param.Type
	if typ.Kind == Blank {
		typ = tText
	}
	in := newInst(n, opParam, typ)
	in.slot, in.label = int32(param.Slot), param.Label
	if !slices.Contains(c.code.Params, n.Name) {
		c.code.Params = append(c.code.Params, n.Name)
	}
	return in
}

// response checks response.NAME, in the condition of a view.
func (c *checker) response(n *Member) *inst {
	sym := c.syms.response(n.Name)
	if sym == nil {
		var names []string
		for _, s := range c.syms.Response {
			names = append(names, s.Key)
		}
		return c.fault(n, "unknown-name", Nearest(n.Name, names), "a response has no “%s”", n.Name)
	}
	c.code.Local = true
	in := newInst(n, opSlot, sym.Type)
	in.slot, in.label = int32(sym.Slot), sym.Label
	return in
}

// entry checks entry.COLUMN, in the condition that narrows a list.
func (c *checker) entry(n *Member) *inst {
	if c.syms.Entry == nil {
		return c.fault(n, "wrong-type", "", "“entry” has a meaning only in the where of choices from a list")
	}
	c.code.Local = true
	if c.syms.EntryUnknown {
		return bad(n)
	}
	sym := c.syms.Entry[n.Name]
	if sym == nil {
		return c.fault(
			n, "unknown-name", Nearest(n.Name, slices.Collect(maps.Keys(c.syms.Entry))), "the list has no column “%s”", n.Name,
		)
	}
	in := newInst(n, opEntry, sym.Type)
	in.slot, in.label = int32(sym.Slot), sym.Label
	return in
}

// column checks SECTION.QUESTION: one answer of every row.
func (c *checker) column(n *Member, g *GroupSymbol) *inst {
	sym := g.Items[n.Name]
	if sym == nil {
		near := Nearest(n.Name, slices.Collect(maps.Keys(g.Items)))
		return c.fault(n, "unknown-name", near, "%s has no question “%s”", g.Label, n.Name)
	}
	in := newInst(n, opColumn, Type{Kind: Column, Of: sym.Type.Kind, Options: sym.Type.Options})
	in.slot, in.group, in.label = int32(sym.Slot), int32(g.Index), sym.Label
	c.reads(sym)
	c.counts(g)
	return in
}

// partOf checks QUESTION.PART: the text beside “other”, a row of a grid, a column of the
// chosen entry, a part of an address.
func (c *checker) partOf(n *Member, sym *Symbol) *inst {
	switch {
	case sym.Type.Options != nil && sym.Type.Options.Other != "" && n.Name == "other":
		in := newInst(n, opOther, tText, c.question(n, sym))
		in.label = sym.Label + ", other"
		return in
	case sym.Type.Kind == Grid:
		return c.cell(n, sym)
	case sym.List != nil && sym.List.Unknown:
		c.reads(sym)
		return bad(n)
	case sym.List != nil:
		return c.chosen(n, sym)
	case sym.Type.Kind != Address:
		if n.Name == "label" || n.Name == "value" {
			return c.fault(n, "wrong-type", "", "the %s of a choice is written %s(%s)", n.Name, n.Name, n.Of)
		}
		return c.fault(n, "wrong-type", "", "%s is %s and has no parts", n.Of, sym.Type.Kind)
	}
	part := slices.Index(AddressParts, n.Name)
	if part < 0 {
		return c.fault(
			n, "unknown-name", Nearest(n.Name, AddressParts), "an address has no part “%s”, but %s", n.Name,
			strings.Join(AddressParts, ", "),
		)
	}
	t := tText
	if n.Name == "country" {
		t.Reads = AsCountry
	}
	in := newInst(n, opPart, t, c.question(n, sym))
	in.val = Value{s: n.Name}
	in.label = sym.Label + ", " + sym.partWord(n.Name)
	return in
}

// cell checks GRID.ROW: what was picked in one row of a grid.
func (c *checker) cell(n *Member, sym *Symbol) *inst {
	if !slices.Contains(sym.Rows, n.Name) {
		near := Nearest(n.Name, sym.Rows)
		if near != "" {
			near = n.Of + "." + near
		}
		return c.fault(n, "unknown-name", near, "%s has no row “%s”", n.Of, n.Name)
	}
	t := Type{Kind: Choice, Options: sym.Type.Options}
	if sym.Many {
		t.Kind = Choices
	}
	in := newInst(n, opGridCell, t, c.question(n, sym))
	in.val = Value{s: n.Name}
	in.label = sym.Label + ", " + sym.partWord(n.Name)
	return in
}

// chosen checks QUESTION.COLUMN: a column of the entry that was chosen.
func (c *checker) chosen(n *Member, sym *Symbol) *inst {
	if sym.Type.Kind != Choice {
		return c.fault(n, "wrong-type", "", "in %s several can be chosen, so that it has no one “%s”", n.Of, n.Name)
	}
	column := sym.List.Columns[n.Name]
	if column == nil {
		near := Nearest(n.Name, slices.Collect(maps.Keys(sym.List.Columns)))
		if near != "" {
			near = n.Of + "." + near
		}
		return c.fault(n, "unknown-name", near, "the list that %s is chosen from has no column “%s”", n.Of, n.Name)
	}
	in := newInst(n, opChosen, column.Type, c.question(n, sym))
	in.slot, in.list = int32(column.Slot), sym.List
	in.label = sym.Label + ", " + sym.partWord(n.Name)
	return in
}

func textual(k Kind) bool { return k == Text || k == Choice }

// alike reports whether two kinds can be compared, and how.
func alike(a, b Kind) (class, bool) {
	switch {
	case textual(a) && textual(b):
		return byText, true
	case a != b:
		return 0, false
	case a == Num:
		return byNumber, true
	case a == YesNo, a == Date, a == Time, a == Moment:
		return byInt, true
	}
	return 0, false
}

func (c *checker) compare(n Node, op string, left, right Node) *inst {
	l := c.single(left)
	for _, fault := range []*inst{c.noValue(right, op, left), c.unquoted(right, l)} {
		if fault != nil {
			return fault
		}
	}
	r := c.single(right)
	if l.typ.Kind == Blank || r.typ.Kind == Blank {
		return bad(n)
	}
	cl, ok := alike(l.typ.Kind, r.typ.Kind)
	if !ok {
		return c.fault(n, "wrong-type", "", "%s is %s and %s is %s; they can't be compared%s",
			left, l.typ.Kind, right, r.typ.Kind, compareHint(l, r))
	}
	if op != "=" && op != "!=" && (l.typ.Kind == YesNo || l.typ.Kind == Choice || r.typ.Kind == Choice) {
		k := l.typ.Kind
		if r.typ.Kind == Choice {
			k = Choice
		}
		return c.fault(n, "wrong-type", "", "“%s” orders numbers, dates, times and texts, but %s has no order; use = or in",
			op, k)
	}
	if !c.fits(l, r) || !c.fits(r, l) {
		return bad(n)
	}
	if (op == "=" || op == "!=") && (!c.brought(l, r) || !c.brought(r, l)) {
		return bad(n)
	}
	for _, side := range []*inst{l, r} {
		if side.op == opConst && side.typ.Kind == Text && side.val.folded() == "" {
			c.note(n, "nothing equals an empty text; write is blank or is answered")
		}
	}
	in := newInst(n, opCompare, tYesNo, l, r)
	in.cmp, in.class = cmps[op], cl
	return in
}

// brought checks that a number, a day or a yes or no written out is one of the values that the
// other side takes from the address.
func (c *checker) brought(lit, other *inst) bool {
	l, ok := lit.node.(*Literal)
	if !ok || other.op != opParam || other.typ.Options == nil || other.typ.Kind == Choice || lit.op != opConst {
		return true
	}
	sym := ParamSymbol{Type: other.typ}
	if _, known := sym.value(lit.val.Plain(nil)); known {
		return true
	}
	c.fault(l, "unknown-choice", "", "%s is none of the values of %s", l, other.node)
	return false
}

// fits checks that a text written out is one of the other side's choices.
func (c *checker) fits(lit, other *inst) bool {
	l, ok := lit.node.(*Literal)
	if !ok || l.Kind != Text || other.typ.Options == nil ||
		(other.typ.Kind != Choice && other.typ.Kind != Choices && other.typ.Kind != Column) {
		return true
	}
	o := other.typ.Options
	if _, ok := o.Find(l.Text); ok {
		return true
	}
	near := ""
	if i, ok := o.Match(l.Text); ok {
		near = o.Values[i]
	} else if near = Nearest(l.Text, o.Values); near == "" {
		if i, ok := o.Match(Nearest(l.Text, o.Labels)); ok {
			near = o.Values[i]
		}
	}
	if near != "" {
		near = Quote(near)
	}
	if o == modeOptions {
		c.fault(l, "unknown-choice", near, "%s is none of the modes, which are “new”, “revisit” and “staff”", l)
		return false
	}
	c.fault(l, "unknown-choice", near, "%s is none of the choices of %s", l, other.node)
	return false
}

func (c *checker) checkIn(n *In) *inst {
	x := c.single(n.X)
	in := newInst(n, opIn, tYesNo, x)
	in.sub = n.Not
	for _, entry := range n.List {
		e := c.single(entry)
		if x.typ.Kind == Blank || e.typ.Kind == Blank {
			continue
		}
		cl, ok := alike(x.typ.Kind, e.typ.Kind)
		if !ok {
			c.fault(
				entry, "wrong-type", "", "%s is %s and %s is %s; they can't be compared%s", n.X, x.typ.Kind, entry, e.typ.Kind,
				compareHint(x, e),
			)
			continue
		}
		c.fits(e, x)
		in.class = cl
		in.kids = append(in.kids, e)
		in.clock = in.clock || e.clock
	}
	return in
}

func (c *checker) textTest(n *TextTest) *inst {
	if set := c.single(n.X); set.typ.Kind == Choices && n.Op == "contains" {
		return c.fault(n, "wrong-type", "", "%s is %s; what is among them is tested with has: %s has %s", n.X, set.typ.Kind,
			n.X, n.Y)
	}
	x := c.want(n.X, Text, Choice)
	if n.Op != "matches" {
		return newInst(
			n, textTests[n.Op], tYesNo, x,
			c.want(n.Y, Text, Choice),
		)
	}
	if _, gap := n.Y.(*Gap); gap {
		return c.expr(n.Y)
	}
	lit, ok := n.Y.(*Literal)
	if !ok || lit.Kind != Text {
		return c.fault(n.Y, "wrong-type", "", "after matches stands a pattern between quotation marks")
	}
	re, err := Pattern(lit.Text)
	if err != nil {
		return c.fault(n.Y, "syntax", "", "%s", err)
	}
	in := newInst(n, opMatches, tYesNo, x)
	in.re = re
	return in
}

// MaxPattern is the greatest length of a pattern in bytes.
const MaxPattern = 1000

// Pattern compiles a pattern in the RE2 syntax, within bounds.
func Pattern(src string) (*regexp.Regexp, error) {
	if len(src) > MaxPattern {
		return nil, fmt.Errorf("this pattern is longer than %d characters", MaxPattern)
	}
	re, err := regexp.Compile(src)
	if err != nil {
		return nil, fmt.Errorf("this pattern can't be used: %s", strings.TrimPrefix(err.Error(), "error parsing regexp: "))
	}
	return re, nil
}

func (c *checker) has(n *Has) *inst {
	x := c.single(n.X)
	switch {
	case x.op == opParam && (x.typ.Kind == Text || x.typ.Kind == Choice):
		x = newInst(n.X, opParamSet, Type{Kind: Choices, Options: x.typ.Options}, x)
		x.slot, x.label = x.kids[0].slot, x.kids[0].label
	case x.typ.Kind != Choices && x.typ.Kind != Blank:
		hint := "use contains for texts"
		if x.typ.Kind == Choice {
			hint = "use = or in"
		}
		x = c.fault(n.X, "wrong-type", "", "“has” tests a set of choices, but %s is %s; %s", n.X, x.typ.Kind, hint)
	}
	in := newInst(n, pickTests[n.How], tYesNo, x)
	for _, entry := range n.List {
		e := c.want(entry, Text, Choice)
		c.fits(e, x)
		in.kids = append(in.kids, e)
		in.clock = in.clock || e.clock
	}
	return in
}

func (c *checker) arith(n *Arith) *inst {
	l, r := c.single(n.L), c.single(n.R)
	a, b := l.typ.Kind, r.typ.Kind
	switch {
	case a == Blank || b == Blank:
		return bad(n)
	case a == Num && b == Num:
		return c.fold(newInst(n, arithmetic[n.Op], tNumber, l, r))
	case n.Op == "-" && a == Date && b == Date:
		return newInst(n, opDateDiff, tNumber, l, r)
	case (n.Op == "+" || n.Op == "-") && (a == Date || a == Moment || a == Time) && b == Duration:
		if a == Date && r.val.i != 0 {
			return c.fault(n, "wrong-type", "", "%s is a date and has no hours; add days, weeks, months or years, or use now",
				n.L)
		}
		if a == Time && r.val.span() != (span{}) {
			return c.fault(n, "wrong-type", "", "%s is a time of day; add hours or minutes", n.L)
		}
		in := newInst(n, opShift, Type{Kind: a}, l, r)
		in.sub = n.Op == "-"
		return in
	case (a == Date || b == Date) && (a == Num || b == Num):
		return c.fault(n, "wrong-type", "",
			"a date can't be joined with a number by “%s”; write a length of time, such as 14 days", n.Op)
	case textual(a) && textual(b) && n.Op == "+":
		return c.fault(n, "wrong-type", "", "texts are put together with join(\" \", %s, %s)", n.L, n.R)
	}
	return c.fault(n, "wrong-type", "", "“%s” can't be used between %s (%s) and %s (%s)", n.Op, n.L, a, n.R, b)
}

// fold notes a constant sum that has no result: it would be blank for everyone.
func (c *checker) fold(in *inst) *inst {
	for _, k := range in.kids {
		if k.op != opConst || k.typ.Kind != Num {
			return in
		}
	}
	v := in.value(&Evaluation{})
	if v.kind == Blank {
		c.note(in.node, "%s has no result: it divides by zero or is too large", in.node)
	}
	folded := newInst(in.node, opConst, in.typ)
	folded.val = v
	return folded
}

// unify finds the common type of several values.
func (c *checker) unify(n Node, kids []*inst) Type {
	t := kids[0].typ
	for _, k := range kids[1:] {
		switch {
		case k.typ.Kind == Blank:
		case t.Kind == Blank:
			t = k.typ
		case t.Kind != k.typ.Kind && textual(t.Kind) && textual(k.typ.Kind):
			t = tText
		case t.Kind != k.typ.Kind:
			c.fault(n, "wrong-type", "", "%s is %s and %s is %s; both must be alike", kids[0].node, t.Kind, k.node, k.typ.Kind)
			return Type{}
		case t.Options != k.typ.Options:
			t.Options = nil
		}
	}
	return t
}

func (c *checker) call(n *Call) *inst {
	fn := functions[n.Name]
	if len(n.Args) < fn.Least || len(n.Args) > fn.Most {
		return c.fault(n, "syntax", "", "%s is written %s", n.Name, fn.Usage)
	}
	if fault := c.compareOutside(n); fault != nil {
		return fault
	}
	return fn.check(c, n)
}

func (c *checker) all(nodes []Node) []*inst {
	out := make([]*inst, len(nodes))
	for i, n := range nodes {
		out[i] = c.single(n)
	}
	return out
}

func (c *checker) aggregate(n *Call, op opcode) *inst {
	if name, ok := n.Args[0].(*Name); ok && len(n.Args) == 2 && c.syms.Groups[name.Name] != nil {
		return c.aggregateRows(n, c.syms.Groups[name.Name], op)
	}
	kids := make([]*inst, len(n.Args))
	t := Type{}
	for i, arg := range n.Args {
		x := c.expr(arg)
		kids[i] = x
		k := x.typ.Kind
		if k == Column {
			k = x.typ.Of
		}
		if k = c.summed(n, arg, k, op); k == Blank {
			continue
		}
		if t.Kind != Blank && t.Kind != k {
			kids[i] = c.fault(arg, "wrong-type", "", "%s is %s, the values before it are not", arg, k)
		}
		t.Kind = k
	}
	if op == opSum || op == opAverage { // a number, whatever is not known yet of what they are of
		t = tNumber
	}
	return newInst(n, op, t, kids...)
}

func (c *checker) count(n *Call) *inst {
	switch name, isName := n.Args[0].(*Name); {
	case len(n.Args) > 2:
		return c.fault(n, "wrong-type", "",
			"count takes one question that has several picks, or a section; add what is counted one by one: count(a) + count(b)")
	case len(n.Args) == 1:
		return c.countOne(n)
	case isName && (c.syms.Groups[name.Name] != nil || c.syms.Items[name.Name] == nil):
		return c.rows(n, opCountWhere)
	}
	x := c.expr(n.Args[0])
	if x.typ.Kind != Grid && x.typ.Kind != Blank {
		return c.fault(n, "wrong-type", "", "count takes a condition beside a section, or a value beside a grid; %s is %s",
			n.Args[0], x.typ.Kind)
	}
	v := c.want(n.Args[1], Text, Choice)
	c.fits(v, newInst(n.Args[0], opConst, Type{Kind: Choice, Options: x.typ.Options}))
	return newInst(n, opCountCells, tNumber, x, v)
}

// countOne checks count of one thing.
func (c *checker) countOne(n *Call) *inst {
	x := c.expr(n.Args[0])
	switch {
	case x.typ.Kind == Choices:
		return newInst(n, opCountPicks, tNumber, x)
	case x.typ.Kind == Group:
		in := newInst(n, opCountRows, tNumber)
		in.group = x.group
		c.counts(c.syms.Groups[n.Args[0].(*Name).Name])
		return in
	case x.op == opParam:
		set := newInst(x.node, opParamSet, Type{Kind: Choices, Options: x.typ.Options}, x)
		set.slot = x.slot
		return newInst(n, opCountPicks, tNumber, set)
	case x.typ.Kind == Column || x.typ.Kind == Blank:
		return newInst(n, opCount, tNumber, x)
	case x.typ.Kind == Grid:
		return c.fault(n, "wrong-type", "",
			"of a grid, one value is counted: count(%s, \"value\") is in how many rows it was picked", n.Args[0])
	}
	return c.fault(
		n, "wrong-type", "", "count takes a question that has several picks, or a section; %s is %s: write “%s is answered”",
		n.Args[0], x.typ.Kind, n.Args[0],
	)
}
