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
)

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

// inst is one checked operation of a Code. What evaluation reads stands in it
// directly and is small, since a large form's conditions should fit the cache.
type inst struct {
	op    opcode
	cmp   cmp
	sub   bool // opShift: subtract; opIn: not in
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
	Local  bool           // whether it reads entry, choice, row_number or cells of its row
	Notes  []*Fault       // senseless but sound places
}

// Constant reports whether the result can't depend on anything.
func (c *Code) Constant() bool {
	return len(c.Items) == 0 && len(c.Groups) == 0 && len(c.Params) == 0 && !c.Clock && !c.Mode && !c.Local
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

func conditionHint(n Node, t Type) string {
	switch {
	case t.Kind == Choices:
		return fmt.Sprintf("; did you mean “%s has …”?", n)
	case t.Kind == Choice && t.Options != nil && len(t.Options.Values) > 0:
		return fmt.Sprintf("; did you mean “%s = %s”?", n, Quote(t.Options.Values[0]))
	}
	return fmt.Sprintf("; did you mean “%s is answered”?", n)
}

type checker struct {
	syms   *Symbols
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
	c.code.Notes = append(c.code.Notes, &Fault{Pos: n.Pos(), End: n.Pos() + len(n.String()), Text: fmt.Sprintf(format, args...)})
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
			kids[i] = c.cond(t)
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
		return c.in(n)
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
		if x.op < opAnd || x.op > opEveryRow {
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
		return c.fault(n, "unknown-name", "", "there is no question “%s”; as a function it is written %s", n.Name, functions[n.Name].usage)
	}
	return c.fault(n, "unknown-name", c.syms.meant(n.Name, nameWords...), "there is no question “%s”", n.Name)
}

func (c *checker) question(n Node, sym *Symbol) *inst {
	in := newInst(n, opSlot, sym.Type)
	in.slot, in.label = int32(sym.Slot), sym.Label
	if sym.Group != nil {
		if sym.Group != c.syms.Row {
			return c.fault(n, "wrong-type", "", "%s is asked once per row of %s; write for example any(%s, %s …) or %s.%s in sum or count",
				sym.Key, sym.Group.Label, sym.Group.Key, sym.Key, sym.Group.Key, sym.Key)
		}
		in.op, in.group = opCell, int32(sym.Group.Index)
		c.code.Local = true
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

func (c *checker) member(n *Member) *inst {
	switch n.Of {
	case "url":
		param, ok := c.syms.Params[n.Name]
		if !ok {
			near := Nearest(n.Name, slices.Collect(maps.Keys(c.syms.Params)))
			if near != "" {
				near = "url." + near
			}
			return c.fault(n, "unknown-name", near, "the form has no address parameter “%s”", n.Name)
		}
		in := newInst(n, opParam, tText)
		in.slot, in.label = int32(param.Slot), param.Label
		if !slices.Contains(c.code.Params, n.Name) {
			c.code.Params = append(c.code.Params, n.Name)
		}
		return in
	case "entry":
		if c.syms.Entry == nil {
			return c.fault(n, "wrong-type", "", "“entry” has a meaning only in the where of choices from a list")
		}
		c.code.Local = true
		sym := c.syms.Entry[n.Name]
		if sym == nil {
			return c.fault(n, "unknown-name", Nearest(n.Name, slices.Collect(maps.Keys(c.syms.Entry))), "the list has no column “%s”", n.Name)
		}
		in := newInst(n, opEntry, sym.Type)
		in.slot, in.label = int32(sym.Slot), sym.Label
		return in
	}
	if g := c.syms.Groups[n.Of]; g != nil {
		sym := g.Items[n.Name]
		if sym == nil {
			return c.fault(n, "unknown-name", Nearest(n.Name, slices.Collect(maps.Keys(g.Items))), "%s has no question “%s”", g.Label, n.Name)
		}
		in := newInst(n, opColumn, Type{Kind: Column, Of: sym.Type.Kind, Options: sym.Type.Options})
		in.slot, in.group, in.label = int32(sym.Slot), int32(g.Index), sym.Label
		c.reads(sym)
		c.counts(g)
		return in
	}
	sym := c.syms.Items[n.Of]
	if sym == nil {
		return c.fault(n, "unknown-name", c.syms.meant(n.Of), "there is no question “%s”", n.Of)
	}
	if sym.Type.Kind != Address {
		return c.fault(n, "wrong-type", "", "%s is %s and has no parts", n.Of, sym.Type.Kind)
	}
	part := slices.Index(AddressParts, n.Name)
	if part < 0 {
		return c.fault(n, "unknown-name", Nearest(n.Name, AddressParts), "an address has no part “%s”, but %s", n.Name, strings.Join(AddressParts, ", "))
	}
	in := newInst(n, opPart, tText, c.question(n, sym))
	in.val = Value{s: n.Name}
	in.label = sym.Label + ", " + n.Name
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
	l, r := c.single(left), c.single(right)
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
		return c.fault(n, "wrong-type", "", "“%s” orders numbers, dates, times and texts, but %s has no order; use = or in", op, k)
	}
	if !c.fits(l, r) || !c.fits(r, l) {
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

func compareHint(l, r *inst) string {
	a, b := l.typ.Kind, r.typ.Kind
	switch {
	case a == Choices || b == Choices:
		return "; a set of choices is tested with has"
	case a == Moment && b == Date:
		return "; compare a date with today, or write the moment with its time, such as 2026-05-30T18:00"
	case a == Date && b == Moment:
		return "; compare a moment with now"
	case (a == Date || b == Date) && (a == Text || b == Text):
		return "; a date is written without quotation marks"
	case (a == Num || b == Num) && (a == Text || b == Text):
		return "; a number is written without quotation marks"
	case (a == YesNo || b == YesNo) && textual(a) != textual(b):
		return "; write yes or no without quotation marks"
	}
	return ""
}

// fits checks that a text written out is one of the other side's choices.
func (c *checker) fits(lit, other *inst) bool {
	l, ok := lit.node.(*Literal)
	if !ok || l.Kind != Text || other.typ.Options == nil || (other.typ.Kind != Choice && other.typ.Kind != Choices && other.typ.Kind != Column) {
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
	c.fault(l, "unknown-choice", near, "%s is none of the choices of %s", l, other.node)
	return false
}

func (c *checker) in(n *In) *inst {
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
			c.fault(entry, "wrong-type", "", "%s is %s and %s is %s; they can't be compared%s", n.X, x.typ.Kind, entry, e.typ.Kind, compareHint(x, e))
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
	x := c.want(n.X, Text, Choice)
	if n.Op != "matches" {
		return newInst(n, map[string]opcode{"contains": opContains, "starts with": opStarts, "ends with": opEnds}[n.Op], tYesNo, x, c.want(n.Y, Text, Choice))
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
	case x.op == opParam:
		x = newInst(n.X, opParamSet, Type{Kind: Choices}, x)
		x.slot, x.label = x.kids[0].slot, x.kids[0].label
	case x.typ.Kind != Choices && x.typ.Kind != Blank:
		hint := "use contains for texts"
		if x.typ.Kind == Choice {
			hint = "use = or in"
		}
		x = c.fault(n.X, "wrong-type", "", "“has” tests a set of choices, but %s is %s; %s", n.X, x.typ.Kind, hint)
	}
	in := newInst(n, map[string]opcode{"": opHasAny, "any": opHasAny, "all": opHasAll, "none": opHasNone}[n.How], tYesNo, x)
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
		return c.fold(newInst(n, map[string]opcode{"+": opAdd, "-": opSub, "*": opMul, "/": opDiv}[n.Op], tNumber, l, r))
	case n.Op == "-" && a == Date && b == Date:
		return newInst(n, opDateDiff, tNumber, l, r)
	case (n.Op == "+" || n.Op == "-") && (a == Date || a == Moment) && b == Duration:
		if a == Date && r.val.i != 0 {
			return c.fault(n, "wrong-type", "", "%s is a date and has no hours; add days, weeks, months or years, or use now", n.L)
		}
		in := newInst(n, opShift, Type{Kind: a}, l, r)
		in.sub = n.Op == "-"
		return in
	case (a == Date || b == Date) && (a == Num || b == Num):
		return c.fault(n, "wrong-type", "", "a date can't be joined with a number by “%s”; write a length of time, such as 14 days", n.Op)
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
	v := in.value(&Frame{})
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
	if len(n.Args) < fn.least || len(n.Args) > fn.most {
		return c.fault(n, "syntax", "", "%s is written %s", n.Name, fn.usage)
	}
	switch n.Name {
	case "age":
		in := newInst(n, opAge, tNumber, c.want(n.Args[0], Date))
		if len(n.Args) == 2 {
			in = newInst(n, opAge, tNumber, in.kids[0], c.want(n.Args[1], Date))
		} else {
			today := newInst(n, opToday, tDate)
			today.clock = true
			in = newInst(n, opAge, tNumber, in.kids[0], today)
		}
		return in
	case "days", "months", "years":
		op := map[string]opcode{"days": opDays, "months": opMonths, "years": opYears}[n.Name]
		return newInst(n, op, tNumber, c.want(n.Args[0], Date), c.want(n.Args[1], Date))
	case "length":
		return newInst(n, opLength, tNumber, c.want(n.Args[0], Text, Choice))
	case "abs", "floor", "ceil":
		op := map[string]opcode{"abs": opAbs, "floor": opFloor, "ceil": opCeil}[n.Name]
		return newInst(n, op, tNumber, c.want(n.Args[0], Num))
	case "round":
		kids := []*inst{c.want(n.Args[0], Num)}
		if len(n.Args) == 2 {
			kids = append(kids, c.want(n.Args[1], Num))
		}
		return newInst(n, opRound, tNumber, kids...)
	case "exact":
		return newInst(n, opExact, tYesNo, c.want(n.Args[0], Text, Choice), c.want(n.Args[1], Text, Choice))
	case "if":
		kids := []*inst{c.cond(n.Args[0]), c.single(n.Args[1]), c.single(n.Args[2])}
		return newInst(n, opIf, c.unify(n, kids[1:]), kids...)
	case "first":
		kids := c.all(n.Args)
		return newInst(n, opFirst, c.unify(n, kids), kids...)
	case "join":
		kids := []*inst{c.want(n.Args[0], Text)}
		for _, arg := range n.Args[1:] {
			x := c.expr(arg)
			if x.typ.Kind == Group {
				x = c.fault(arg, "wrong-type", "", "%s is a repeating section; join one of its questions, such as %s.…", arg, arg)
			}
			kids = append(kids, x)
		}
		return newInst(n, opJoin, tText, kids...)
	case "sum", "average", "min", "max":
		return c.aggregate(n)
	case "any", "every":
		in, _ := c.rows(n, map[string]opcode{"any": opAnyRow, "every": opEveryRow}[n.Name])
		return in
	case "count":
		return c.count(n)
	}
	panic("expr: function without a checker: " + n.Name)
}

func (c *checker) all(nodes []Node) []*inst {
	out := make([]*inst, len(nodes))
	for i, n := range nodes {
		out[i] = c.single(n)
	}
	return out
}

func (c *checker) aggregate(n *Call) *inst {
	op := map[string]opcode{"sum": opSum, "average": opAverage, "min": opMin, "max": opMax}[n.Name]
	ordered := op == opMin || op == opMax
	kids := make([]*inst, len(n.Args))
	t := Type{}
	for i, arg := range n.Args {
		x := c.expr(arg)
		kids[i] = x
		k := x.typ.Kind
		if k == Column {
			k = x.typ.Of
		}
		switch {
		case k == Blank:
		case k == Num, ordered && (k == Date || k == Time || k == Moment):
			if t.Kind != Blank && t.Kind != k {
				kids[i] = c.fault(arg, "wrong-type", "", "%s is %s, the values before it are not", arg, k)
			}
			t.Kind = k
		case k == Group:
			kids[i] = c.fault(arg, "wrong-type", "", "%s is a repeating section; name one of its questions, such as %s(%s.…)", arg, n.Name, arg)
		default:
			kids[i] = c.fault(arg, "wrong-type", "", "%s takes numbers, %s is %s", n.Name, arg, k)
		}
	}
	return newInst(n, op, t, kids...)
}

// rows checks f(section, condition).
func (c *checker) rows(n *Call, op opcode) (*inst, *GroupSymbol) {
	name, ok := n.Args[0].(*Name)
	var g *GroupSymbol
	if ok {
		g = c.syms.Groups[name.Name]
	}
	if g == nil {
		if ok && c.syms.Items[name.Name] == nil {
			keys := slices.Collect(maps.Keys(c.syms.Groups))
			return c.fault(n.Args[0], "unknown-name", Nearest(name.Name, keys), "there is no repeating section “%s”", name.Name), nil
		}
		return c.fault(n.Args[0], "wrong-type", "", "%s takes a repeating section first: %s", n.Name, functions[n.Name].usage), nil
	}
	outer := c.syms
	c.syms = outer.InRow(g)
	cond := c.cond(n.Args[1])
	c.syms = outer
	c.counts(g)
	t := tYesNo
	if op == opCountWhere {
		t = tNumber
	}
	in := newInst(n, op, t, cond)
	in.group = int32(g.Index)
	return in, g
}

func (c *checker) count(n *Call) *inst {
	if len(n.Args) == 2 {
		if name, ok := n.Args[0].(*Name); ok && (c.syms.Groups[name.Name] != nil || c.syms.Items[name.Name] == nil) {
			in, _ := c.rows(n, opCountWhere)
			return in
		}
	}
	if len(n.Args) == 1 {
		x := c.expr(n.Args[0])
		switch x.typ.Kind {
		case Choices:
			return newInst(n, opCountPicks, tNumber, x)
		case Group:
			in := newInst(n, opCountRows, tNumber)
			in.group = x.group
			c.counts(c.syms.Groups[n.Args[0].(*Name).Name])
			return in
		}
		if x.op == opParam {
			set := newInst(x.node, opParamSet, Type{Kind: Choices}, x)
			set.slot = x.slot
			return newInst(n, opCountPicks, tNumber, set)
		}
		return newInst(n, opCount, tNumber, x)
	}
	kids := make([]*inst, len(n.Args))
	for i, arg := range n.Args {
		kids[i] = c.expr(arg)
		if kids[i].typ.Kind == Group {
			kids[i] = c.fault(arg, "wrong-type", "", "%s is a repeating section; it is counted alone: count(%s)", arg, arg)
		}
	}
	return newInst(n, opCount, tNumber, kids...)
}
