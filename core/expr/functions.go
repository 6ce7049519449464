package expr

import (
	"maps"
	"slices"
)

// A Function is a row of the table of functions: the parser knows its name by it, the
// checker its arguments, messages and the editor how it is written. What it does is the
// meaning of its opcode in eval.go.
type Function struct {
	Least, Most int    // number of arguments
	Usage       string // as shown in messages and offered by the editor
	Example     string // an expression with it, about a regatta
	check       func(*checker, *Call) *inst
}

const many = 1000

// functions are all functions by name. They are laid out once the program runs, since
// checking a function may lead to checking another.
var functions map[string]Function

func init() {
	dates := func(op opcode) func(*checker, *Call) *inst { return takes(op, tNumber, []Kind{Date}, []Kind{Date}) }
	rounded := func(op opcode) func(*checker, *Call) *inst { return takes(op, tNumber, []Kind{Num}) }
	total := func(op opcode) func(*checker, *Call) *inst {
		return func(c *checker, n *Call) *inst { return c.aggregate(n, op) }
	}
	overRows := func(op opcode) func(*checker, *Call) *inst {
		return func(c *checker, n *Call) *inst { return c.rows(n, op) }
	}
	ofDay := func(op opcode, gives Type) func(*checker, *Call) *inst { return takes(op, gives, []Kind{Date, Moment}) }
	apart := func(op opcode) func(*checker, *Call) *inst {
		return func(c *checker, n *Call) *inst { return c.apart(n, op) }
	}
	words := []Kind{Text, Choice}
	functions = map[string]Function{
		"age":    {1, 2, "age(born) or age(born, on)", "age(born) >= 18", (*checker).age},
		"days":   {2, 2, "days(from, to)", "days(arrival, departure) > 3", dates(opDays)},
		"months": {2, 2, "months(from, to)", "months(joined, today) >= 6", dates(opMonths)},
		"years":  {2, 2, "years(from, to)", "years(launched, today) < 20", dates(opYears)},
		"length": {1, 1, "length(text)", "length(boat_name) > 12", takes(opLength, tNumber, words)},
		"count": {1, many, "count(choices), count(section), count(section, condition) or count(grid, \"value\")",
			"count(rowers, age < 18) > 0", (*checker).count},
		"round": {1, 2, "round(number) or round(number, places)", "round(metres * 1.5, 2)",
			takes(opRound, tNumber, []Kind{Num}, []Kind{Num})},
		"abs":   {1, 1, "abs(number)", "abs(metres - 12) <= 2", rounded(opAbs)},
		"floor": {1, 1, "floor(number)", "floor(metres / 2)", rounded(opFloor)},
		"ceil":  {1, 1, "ceil(number)", "ceil(count(rowers) / 4)", rounded(opCeil)},
		"sum": {1, many, "sum(section.question), sum(section, value) or sum(a, b, …)", "sum(rowers.weight) > 400",
			total(opSum)},
		"average": {1, many, "average(section.question), average(section, value) or average(a, b, …)",
			"average(rowers.weight) >= 70", total(opAverage)},
		"min": {1, many, "min(section.question), min(section, value) or min(a, b, …)", "min(rowers.weight) < 50",
			total(opMin)},
		"max": {1, many, "max(section.question), max(section, value) or max(a, b, …)", "max(rowers.weight) > 100",
			total(opMax)},
		"if":     {2, 3, "if(condition, value, otherwise)", "if(metres > 12, 80, 50)", (*checker).branch},
		"first":  {1, many, "first(a, b, …)", "first(nickname, name)", (*checker).first},
		"join":   {2, many, "join(separator, a, b, …)", "join(\" \", first_name, last_name)", (*checker).join},
		"exact":  {2, 2, "exact(a, b)", "exact(code, \"Heron-7\")", takes(opExact, tYesNo, words, words)},
		"any":    {2, 2, "any(section, condition)", "any(rowers, born > 2010-01-01)", overRows(opAnyRow)},
		"every":  {2, 2, "every(section, condition)", "every(rowers, swims)", overRows(opEveryRow)},
		"unique": {2, 2, "unique(section, value)", "unique(rowers, seat)", (*checker).unique},
		"others": {2, 2, "others(section, condition)", "others(rowers, seat = row.seat) = 0", (*checker).others},
		"date":   {1, 1, "date(moment)", "date(now) = first_race", takes(opDateOf, tDate, []Kind{Moment})},
		"time":   {1, 1, "time(moment)", "time(now) < 12:00", takes(opTimeOf, Type{Kind: Time}, []Kind{Moment})},
		"weekday": {
			1, 1, "weekday(date)", "weekday(arrival) in (\"sat\", \"sun\")",
			ofDay(opWeekdayOf, Type{Kind: Choice, Options: weekdayOptions}),
		},
		"year":    {1, 1, "year(date)", "year(launched) >= 2000", ofDay(opYear, tNumber)},
		"month":   {1, 1, "month(date)", "month(arrival) = 7", ofDay(opMonth, tNumber)},
		"day":     {1, 1, "day(date)", "day(arrival) <= 15", ofDay(opDay, tNumber)},
		"hours":   {2, 2, "hours(from, to)", "hours(now, first_race_at) < 48", apart(opHours)},
		"minutes": {2, 2, "minutes(from, to)", "minutes(start, finish) > 90", apart(opMinutes)},
		"rank":    {2, 2, "rank(question, choice)", "rank(piers, \"north\") = 1", (*checker).rank},
		"left":    {2, 2, "left(question, choice)", "left(shift, \"sat_am\") > 0", (*checker).left},
		neverAsked: {
			1, 1, "never_asked(question)", "never_asked(cox_name)", (*checker).neverAsked,
		},
		"label": {1, 1, "label(question)", "label(boat_class)", (*checker).label},
		"value": {1, 1, "value(question)", "value(boat_class) = \"eight\"",
			takes(opStored, tText, []Kind{Choice, Choices, Text})},
	}
}

// FunctionNamed is a row of the table.
func FunctionNamed(name string) (Function, bool) { f, ok := functions[name]; return f, ok }

// Functions are the names of the functions that forms can use, in the order of the alphabet.
func Functions() []string {
	return slices.DeleteFunc(functionNames(), func(name string) bool { return name == neverAsked })
}

func isFunction(name string) bool { _, ok := functions[name]; return ok }

func functionNames() []string { return slices.Sorted(maps.Keys(functions)) }

// takes checks a function whose arguments are of certain kinds, as many as are given.
func takes(op opcode, gives Type, kinds ...[]Kind) func(*checker, *Call) *inst {
	return func(c *checker, n *Call) *inst {
		kids := make([]*inst, len(n.Args))
		for i, arg := range n.Args {
			kids[i] = c.want(arg, kinds[i]...)
		}
		return newInst(n, op, gives, kids...)
	}
}

// age is until a day, or until today.
func (c *checker) age(n *Call) *inst {
	born := c.want(n.Args[0], Date)
	if len(n.Args) == 2 {
		return newInst(n, opAge, tNumber, born, c.want(n.Args[1], Date))
	}
	today := newInst(n, opToday, tDate)
	today.clock = true
	return newInst(n, opAge, tNumber, born, today)
}

// apart is how long it is from one moment, or time of day, to another.
func (c *checker) apart(n *Call, op opcode) *inst {
	a, b := c.want(n.Args[0], Moment, Time), c.want(n.Args[1], Moment, Time)
	if a.typ.Kind != b.typ.Kind && a.typ.Kind != Blank && b.typ.Kind != Blank {
		return c.fault(n, "wrong-type", "", "%s is %s and %s is %s; both must be alike", n.Args[0], a.typ.Kind, n.Args[1],
			b.typ.Kind)
	}
	return newInst(n, op, tNumber, a, b)
}

// rank is the place of a choice in a ranking.
func (c *checker) rank(n *Call) *inst {
	x := c.want(n.Args[0], Choices)
	v := c.want(n.Args[1], Text, Choice)
	c.fits(v, x)
	return newInst(n, opRank, tNumber, x, v)
}

// left is how many places a choice has left. It reads the question's places, not its
// answer.
func (c *checker) left(n *Call) *inst {
	name, ok := n.Args[0].(*Name)
	if !ok || c.syms.Items[name.Name] == nil {
		return c.fault(n.Args[0], "unknown-name", c.syms.meant(n.Args[0].String()), "left takes a question first: %s",
			functions[n.Name].Usage)
	}
	sym := c.syms.Items[name.Name]
	if k := sym.Type.Kind; k != Choice && k != Choices {
		return c.fault(n.Args[0], "wrong-type", "", "only choices have places, %s is %s", name, k)
	}
	v := c.want(n.Args[1], Text, Choice)
	of := newInst(name, opConst, sym.Type)
	c.fits(v, of)
	c.code.Places = true
	in := newInst(n, opLeft, tNumber, v)
	in.key, in.label = sym.Key, sym.Label
	return in
}

// label is the label of a choice, or of several, as people read it.
func (c *checker) label(n *Call) *inst {
	x := c.single(n.Args[0])
	if x.typ.Kind != Blank && x.typ.Options == nil {
		return c.fault(n.Args[0], "wrong-type", "", "only choices have labels, %s is %s", n.Args[0], x.typ.Kind)
	}
	return newInst(n, opLabel, tText, x)
}

func (c *checker) branch(n *Call) *inst {
	kids := []*inst{c.cond(n.Args[0]), c.single(n.Args[1]), bad(n)} // blank otherwise
	if len(n.Args) == 3 {
		kids[2] = c.single(n.Args[2])
	}
	return newInst(n, opIf, c.unify(n, kids[1:]), kids...)
}

func (c *checker) first(n *Call) *inst {
	kids := c.all(n.Args)
	return newInst(n, opFirst, c.unify(n, kids), kids...)
}

func (c *checker) join(n *Call) *inst {
	kids := []*inst{c.want(n.Args[0], Text)}
	for _, arg := range n.Args[1:] {
		x := c.expr(arg)
		if x.typ.Kind == Group {
			x = c.fault(arg, "wrong-type", "", "%s is a repeating section; join one of its questions, such as %s.…", arg, arg)
		}
		kids = append(kids, x)
	}
	return newInst(n, opJoin, tText, kids...)
}
