package store

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/expr"
	"lazo/core/view"
)

// where is the condition of a view as PostgreSQL decides it: true, false or null as the
// condition is met, not met or undecided, since SQL's and, or and not follow the same
// tables. Exact tells that it is the whole condition; else it is a part of it which every
// response meets that meets the whole, and the core has to look at those.
type where struct {
	sql   string // "" for nothing to narrow by
	exact bool
}

// beyond is for what is left to the core.
type beyond struct{}

func (beyond) Error() string { return "beyond SQL" }

// translator writes one condition. Its arguments go behind those that there are.
type translator struct {
	lens  *view.Lens
	syms  *expr.Symbols    // as seen from where it writes
	frame *expr.Evaluation // of the clock, for what depends on nothing else
	args  []any
	row   string // where the answers of the row at hand stand, "" outside rows
	depth int
	met   bool // it matters only whether the condition at hand is met
}

// narrow translates a condition at a moment; args are those of the statement so far.
func narrow(c *view.Condition, lens *view.Lens, now time.Time, args []any) (where, []any) {
	if c == nil {
		return where{exact: true}, args
	}
	t := &translator{lens: lens, syms: lens.Syms, frame: &expr.Evaluation{Clock: lens.Clock(now)}, args: args}
	terms := []expr.Node{c.Node}
	if all, ok := c.Node.(*expr.Logic); ok && all.Op == "and" {
		terms = all.Terms
	}
	out := where{exact: true}
	var kept []string
	for _, n := range terms {
		before := len(t.args)
		t.met = true
		sql, err := t.cond(n)
		if key, ok := expr.NeverAsked(n); ok && !lens.Syms.Items[key].Type.Tick {
			// What was answered was asked; the core runs the editions of the rest.
			out.exact = false
			sql, err = t.cond(&expr.IsBlank{X: &expr.Name{Name: key}})
		}
		if err != nil {
			t.args = t.args[:before]
			out.exact = false
			continue
		}
		kept = append(kept, "("+sql+")")
	}
	out.sql = strings.Join(kept, " and ")
	return out, t.args
}

// arg puts a value among the arguments.
func (t *translator) arg(v any, as string) string {
	t.args = append(t.args, v)
	return "$" + strconv.Itoa(len(t.args)) + "::" + as
}

// cond writes a condition.
func (t *translator) cond(n expr.Node) (string, error) {
	switch n := n.(type) {
	case *expr.Logic:
		return t.logic(n)
	case *expr.Not:
		t.met = false
		x, err := t.cond(n.X)
		return "not (" + x + ")", err
	case *expr.Compare:
		return t.compare(n.Op, n.L, n.R)
	case *expr.Between:
		low, err := t.compare(">=", n.X, n.Low)
		if err != nil {
			return "", err
		}
		high, err := t.compare("<=", n.X, n.High)
		return "(" + low + " and " + high + ")", err
	case *expr.In:
		return t.oneOf(n)
	case *expr.IsBlank:
		x, err := t.scalar(n.X)
		return x.sql + map[bool]string{false: " is null", true: " is not null"}[n.Not], err
	case *expr.TextTest:
		return t.textTest(n)
	case *expr.Has:
		return t.has(n)
	case *expr.Call:
		if n.Name == "any" || n.Name == "every" {
			return t.rows(n)
		}
	}
	x, err := t.scalar(n)
	if err == nil && x.kind != expr.YesNo {
		err = beyond{}
	}
	return x.sql, err
}

func (t *translator) logic(n *expr.Logic) (string, error) {
	var terms []string
	met := t.met
	for _, x := range n.Terms {
		t.met = met
		sql, err := t.cond(x)
		if err != nil {
			return "", err
		}
		terms = append(terms, "("+sql+")")
	}
	return strings.Join(terms, " "+n.Op+" "), nil
}

// scalar is an expression that gives one value: null where it is blank. A text or choice
// is as it is compared, a date and a time of day as texts that are in their order, a
// moment in Unix seconds, and several choices an array.
type scalar struct {
	sql   string
	kind  expr.Kind
	raw   string // of a text or choice that is stored: as it stands there
	plain bool   // a text that is given, of letters of ASCII
}

func of(sql string, kind expr.Kind) scalar { return scalar{sql: sql, kind: kind} }

// constant is the value of what depends on nothing but the clock.
func (t *translator) constant(n expr.Node) (expr.Value, bool) {
	code, faults := expr.Compile(n, t.syms)
	if len(faults) > 0 || code.Mode {
		return expr.Value{}, false
	}
	clock := code.Clock
	if !code.Constant() && !(clock && len(code.Items) == 0 && len(code.Groups) == 0 && len(code.Params) == 0 &&
		!code.Local && !code.Places) {
		return expr.Value{}, false
	}
	return code.Value(t.frame), true
}

func (t *translator) scalar(n expr.Node) (scalar, error) {
	if v, ok := t.constant(n); ok {
		return t.literal(v)
	}
	switch n := n.(type) {
	case *expr.Name:
		if sym := t.syms.Items[n.Name]; sym != nil && (sym.Group == nil || sym.Group == t.syms.Row) {
			return t.question(sym), nil
		}
	case *expr.Member:
		return t.member(n)
	case *expr.Neg:
		x, err := t.scalar(n.X)
		return of("(- "+x.sql+")", expr.Num), err
	case *expr.Arith:
		return t.arith(n)
	case *expr.Call:
		return t.call(n)
	}
	return scalar{}, beyond{}
}

func (t *translator) literal(v expr.Value) (scalar, error) {
	zone := t.syms.Zone
	switch v.Kind() {
	case expr.Text, expr.Choice:
		fold := expr.Fold(v.Text())
		return scalar{sql: t.arg(fold, "text"), kind: v.Kind(), plain: isPlain(fold)}, nil
	case expr.Num:
		return of(t.arg(v.Number().String(), "numeric"), expr.Num), nil
	case expr.YesNo:
		return of(strconv.FormatBool(v.Yes()), expr.YesNo), nil
	case expr.Date, expr.Time:
		text, _ := v.JSON(zone).(string)
		return of(t.arg(text, "text"), v.Kind()), nil
	case expr.Moment:
		text, _ := v.JSON(zone).(string)
		at, err := time.Parse(time.RFC3339, text)
		return of(t.arg(at.Unix(), "bigint"), expr.Moment), err
	}
	return scalar{}, beyond{}
}

// stored is where the answer to a question stands, under its key or one that it had
// before.
func (t *translator) stored(key string) string {
	from := "answers"
	if sym := t.syms.Items[key]; t.row != "" && sym != nil && sym.Group != nil {
		from = t.row
	}
	at := from + "->" + t.arg(key, "text")
	earlier := t.lens.Earlier[key]
	if len(earlier) == 0 {
		return "(" + at + ")"
	}
	all := []string{"nullif(" + at + ", 'null')"}
	for _, was := range earlier {
		all = append(all, "nullif("+from+"->"+t.arg(was, "text")+", 'null')")
	}
	return "coalesce(" + strings.Join(all, ", ") + ")"
}

func (t *translator) question(sym *expr.Symbol) scalar {
	before := len(t.args)
	j := t.stored(sym.Key)
	if t.lens.Ticks(sym.Key) {
		return of(
			"(case when coalesce("+j+", 'null') = 'null' then false when "+j+" in ('true', 'false') then "+j+" = 'true' end)",
			expr.YesNo,
		)
	}
	out := typed(j, sym)
	if !strings.Contains(out.sql, j) { // what is always blank, such as a computed value without one, names no answer
		t.args = t.args[:before]
	}
	return out
}

// typed reads JSON by the type of a question; another type is blank.
func typed(j string, sym *expr.Symbol) scalar {
	kind := sym.Type.Kind
	text := "case when jsonb_typeof(" + j + ") = 'string' then nullif(" + j + "#>>'{}', '') end"
	shaped := func(digits string) string { // as translate leaves it
		return "case when jsonb_typeof(" + j + ") = 'string' and translate(" + j + "#>>'{}', '123456789', '000000000') in (" +
			digits +
			") then " + j + "#>>'{}' end"
	}
	switch kind {
	case expr.Text:
		return folded(text, kind)
	case expr.Choice:
		return folded("case jsonb_typeof("+j+") when 'string' then nullif("+j+"#>>'{}', '') when 'object' then nullif("+
			j+"->>'value', '') end", kind)
	case expr.Num:
		return of("(case when jsonb_typeof("+j+") = 'number' then ("+j+"#>>'{}')::numeric end)", kind)
	case expr.YesNo:
		return of("(case when "+j+" in ('true', 'false') then "+j+" = 'true' end)", kind)
	case expr.Date:
		return of("("+shaped("'0000-00-00'")+`) collate "C"`, kind)
	case expr.Time:
		return of("("+shaped("'00:00', '00:00:00'")+`) collate "C"`, kind)
	case expr.Moment:
		return of("floor(extract(epoch from ("+
			shaped("'0000-00-00T00:00:00Z', '0000-00-00T00:00:00+00:00', '0000-00-00T00:00:00-00:00'")+
			")::timestamptz))::bigint", kind)
	case expr.Choices:
		return of(picks(j), kind)
	case expr.Grid:
		var cells []string
		for _, row := range sym.Rows {
			cells = append(cells, "coalesce("+j+"->"+literal(row)+", 'null') <> 'null'")
		}
		some := strings.Join(append(cells, "false"), " or ")
		return of("(case when jsonb_typeof("+j+") = 'object' and ("+some+") then 1 end)", kind)
	case expr.Address, expr.File:
		return of("(case when jsonb_typeof("+j+") = 'object' and "+j+" <> '{}' then 1 end)", kind)
	}
	return of("null::text", kind)
}

// folded is a stored text as it is compared.
func folded(raw string, kind expr.Kind) scalar {
	return scalar{sql: "lazo_fold(" + raw + ")", kind: kind, raw: "(" + raw + ")"}
}

// toPlain are the letters outside ASCII that are compared as letters of it.
const toPlain = "ßẞŉẚſKİﬀ-ﬆ"

// sameText compares a stored text with one of plain letters, without folding it where it
// is of plain letters itself, as nearly all are.
func (t *translator) sameText(stored, given scalar) string {
	return "(lower(" + stored.raw + ` collate "C") = ` + given.sql + " or " + stored.raw + " ~ " + t.arg("["+toPlain+"]",
		"text") +
		" and " + stored.sql + " = " + given.sql + ")"
}

// literal is a text as SQL writes it.
func literal(text string) string { return "'" + strings.ReplaceAll(text, "'", "''") + "'" }

// picks are the values of several choices as they are compared; null for none.
func picks(j string) string {
	return "(select array_agg(lazo_fold(p)) from (select case jsonb_typeof(e) when 'string' then nullif(e#>>'{}', '') " +
		"when 'object' then nullif(e->>'value', '') end as p from jsonb_array_elements(case when jsonb_typeof(" + j +
		") = 'array' then " + j +
		" else '[]' end) e) picked where p is not null)"
}

// member writes response.NAME, the part of an address, or a row of a grid.
func (t *translator) member(n *expr.Member) (scalar, error) {
	if n.Of == "response" {
		return responseFact(n.Name)
	}
	sym := t.syms.Items[n.Of]
	if sym == nil || t.syms.Groups[n.Of] != nil || sym.Group != nil && sym.Group != t.syms.Row {
		return scalar{}, beyond{}
	}
	j := t.stored(n.Of)
	switch {
	case sym.Type.Kind == expr.Address && slices.Contains(expr.AddressParts, n.Name):
		return of("lazo_fold(case when jsonb_typeof("+j+") = 'object' then nullif("+j+"->>'"+n.Name+"', '') end)", expr.Text),
			nil
	case sym.Type.Kind == expr.Grid && slices.Contains(sym.Rows, n.Name):
		cell := expr.Symbol{Type: expr.Type{Kind: expr.Choice}}
		if sym.Many {
			cell.Type.Kind = expr.Choices
		}
		return typed("(case when jsonb_typeof("+j+") = 'object' then "+j+"->"+literal(n.Name)+" end)", &cell), nil
	}
	return scalar{}, beyond{}
}

// epoch is a moment in whole Unix seconds.
func epoch(column string) string { return "floor(extract(epoch from " + column + "))::bigint" }

func responseFact(name string) (scalar, error) {
	switch name {
	case "received":
		return of(epoch("received_at"), expr.Moment), nil
	case "changed":
		return of(epoch("changed_at"), expr.Moment), nil
	case "edition":
		return of("edition::numeric", expr.Num), nil
	case "link":
		return of("link_id::text", expr.Choice), nil
	case "language":
		return of("lazo_fold(nullif(language, ''))", expr.Choice), nil
	case "state":
		return of("case when withdrawn_at is not null then '"+view.StateWithdrawn+"' when changed_at is null then '"+
			view.StateReceived+
			"' else '"+view.StateChanged+"' end", expr.Choice), nil
	case "by":
		return of("case when taken_by is null then '"+view.ByRespondent+"' else '"+view.ByOffice+"' end", expr.Choice), nil
	}
	return scalar{}, beyond{}
}

func (t *translator) arith(n *expr.Arith) (scalar, error) {
	l, err := t.scalar(n.L)
	if err != nil {
		return l, err
	}
	r, err := t.scalar(n.R)
	if err != nil || l.kind != expr.Num || r.kind != expr.Num || n.Op == "/" {
		return scalar{}, beyond{}
	}
	return of("("+l.sql+" "+n.Op+" "+r.sql+")", expr.Num), nil
}

// alike are kinds that are compared as they stand here.
func alike(a, b expr.Kind) bool {
	textual := func(k expr.Kind) bool { return k == expr.Text || k == expr.Choice }
	return a == b && a != expr.Choices && a != expr.Grid && a != expr.Address && a != expr.File || textual(a) && textual(b)
}

var comparing = map[string]string{"=": "=", "!=": "<>", "<": "<", "<=": "<=", ">": ">", ">=": ">="}

func (t *translator) compare(op string, left, right expr.Node) (string, error) {
	if sql, ok := t.byIndex(op, left, right); ok {
		return sql, nil
	}
	if sql, ok := t.byAge(op, left, right); ok {
		return sql, nil
	}
	l, err := t.scalar(left)
	if err != nil {
		return "", err
	}
	r, err := t.scalar(right)
	if err != nil {
		return "", err
	}
	if !alike(l.kind, r.kind) {
		return "", beyond{}
	}
	if op == "=" && l.raw != "" && r.plain {
		return t.sameText(l, r), nil
	}
	if op == "!=" && l.raw != "" && r.plain {
		return "not " + t.sameText(l, r), nil
	}
	if l.kind == expr.Text || l.kind == expr.Choice || l.kind == expr.Date || l.kind == expr.Time {
		return "(" + l.sql + `) collate "C" ` + comparing[op] + " (" + r.sql + ")", nil
	}
	return "(" + l.sql + ") " + comparing[op] + " (" + r.sql + ")", nil
}

// byIndex compares when a response was received so that the index of that is of use.
func (t *translator) byIndex(op string, left, right expr.Node) (string, bool) {
	m, ok := left.(*expr.Member)
	if !ok || m.Of != "response" || m.Name != "received" {
		return "", false
	}
	v, ok := t.constant(right)
	if !ok || v.Kind() != expr.Moment {
		return "", false
	}
	text, _ := v.JSON(t.syms.Zone).(string)
	at, err := time.Parse(time.RFC3339, text)
	if err != nil {
		return "", false
	}
	from := func() string { return t.arg(at, "timestamptz") }
	after := func() string { return t.arg(at.Add(time.Second), "timestamptz") } // of the whole second
	switch op {
	case "=":
		return "(received_at >= " + from() + " and received_at < " + after() + ")", true
	case "!=":
		return "(received_at < " + from() + " or received_at >= " + after() + ")", true
	case "<":
		return "received_at < " + from(), true
	case "<=":
		return "received_at < " + after(), true
	case ">":
		return "received_at >= " + after(), true
	}
	return "received_at >= " + from(), true
}

// byAge compares an age today with a number as the day of birth with the last one on which
// who is so old was born.
func (t *translator) byAge(op string, left, right expr.Node) (string, bool) {
	call, ok := left.(*expr.Call)
	if !ok || call.Name != "age" || len(call.Args) != 1 || op == "=" || op == "!=" {
		return "", false
	}
	v, ok := t.constant(right)
	if !ok || v.Kind() != expr.Num {
		return "", false
	}
	years, whole := v.Number().Whole()
	if op == "<=" || op == ">" { // at most 17 is under 18
		years++
	}
	today := t.frame.Clock.Day()
	if !whole || years < 0 || years > 500 {
		return "", false
	}
	before := len(t.args)
	born, err := t.scalar(call.Args[0])
	if err != nil || born.kind != expr.Date {
		t.args = t.args[:before]
		return "", false
	}
	last := t.arg(lastBorn(today, years).String(), "text")
	than := map[string]string{"<": ">", "<=": ">", ">": "<=", ">=": "<="}[op]
	return fmt.Sprintf(`case when (%s) <= %s then (%s) %s %s end`, born.sql, t.arg(today.String(), "text"), born.sql, than,
		last), true
}

// lastBorn is the last day of birth of who is so many years old on a day.
func lastBorn(on expr.Day, years int) expr.Day {
	at := time.Unix(int64(on)*86400, 0).UTC()
	day := expr.Day(time.Date(at.Year()-years, at.Month(), at.Day(), 0, 0, 0, 0, time.UTC).Unix() / 86400)
	if at.Month() == time.February && at.Day() == 29 &&
		time.Date(at.Year()-years, 3, 0, 0, 0, 0, 0, time.UTC).Day() == 28 {
		day = expr.Day(time.Date(at.Year()-years, 2, 28, 0, 0, 0, 0, time.UTC).Unix() / 86400)
	}
	return day
}

// folds are a list of constants as they are compared.
func (t *translator) folds(list []expr.Node) (out []string, kind expr.Kind, err error) {
	for _, n := range list {
		v, ok := t.constant(n)
		if !ok || v.IsBlank() || v.Kind() != expr.Text && v.Kind() != expr.Choice {
			return nil, kind, beyond{}
		}
		out = append(out, expr.Fold(v.Text()))
	}
	return out, expr.Text, nil
}

func (t *translator) oneOf(n *expr.In) (string, error) {
	x, err := t.scalar(n.X)
	if err != nil {
		return "", err
	}
	var terms []string
	for _, item := range n.List {
		v, ok := t.constant(item)
		if !ok || v.IsBlank() {
			return "", beyond{}
		}
		r, err := t.literal(v)
		if err != nil || !alike(x.kind, r.kind) {
			return "", beyond{}
		}
		if x.raw != "" && r.plain {
			terms = append(terms, t.sameText(x, r))
		} else {
			terms = append(terms, x.sql+" = "+r.sql)
		}
	}
	sql := strings.Join(terms, " or ")
	if n.Not {
		return "not (" + sql + ")", nil
	}
	return sql, nil
}

func (t *translator) textTest(n *expr.TextTest) (string, error) {
	x, err := t.scalar(n.X)
	if err != nil {
		return "", err
	}
	y, err := t.scalar(n.Y)
	if err != nil || !alike(x.kind, expr.Text) || !alike(y.kind, expr.Text) {
		return "", beyond{}
	}
	switch n.Op {
	case "contains":
		return fmt.Sprintf("strpos(%s, %s) > 0", x.sql, y.sql), nil
	case "starts with":
		return fmt.Sprintf("starts_with(%s, %s)", x.sql, y.sql), nil
	case "ends with":
		return fmt.Sprintf("right(%s, length(%s)) = %s", x.sql, y.sql, y.sql), nil
	}
	return "", beyond{} // the forms of the two are not the same
}

func (t *translator) has(n *expr.Has) (string, error) {
	x, err := t.scalar(n.X)
	if err != nil || x.kind != expr.Choices {
		return "", beyond{}
	}
	list, _, err := t.folds(n.List)
	if err != nil {
		return "", err
	}
	values := t.arg(list, "text[]")
	switch n.How {
	case "all":
		return x.sql + " @> " + values, nil
	case "none":
		return "not (" + x.sql + " && " + values + ")", nil
	}
	return x.sql + " && " + values, nil
}

// inRows writes something for each row of a section; its values are called x.
func (t *translator) inRows(section expr.Node, write func() (string, error)) (from string, err error) {
	name, ok := section.(*expr.Name)
	if !ok || t.syms.Groups[name.Name] == nil {
		return "", beyond{}
	}
	rows := t.stored(name.Name)
	outer := *t
	t.depth++
	t.met = false
	t.row, t.syms = "r"+strconv.Itoa(t.depth), t.syms.InRow(t.syms.Groups[name.Name])
	each, err := write()
	row := t.row
	t.row, t.syms, t.depth = outer.row, outer.syms, outer.depth
	return "(select " + each + " as x from jsonb_array_elements(case when jsonb_typeof(" + rows + ") = 'array' then " +
		rows +
		" else '[]' end) " + row + ") each_row", err
}

func (t *translator) rows(n *expr.Call) (string, error) {
	met := t.met
	from, err := t.inRows(n.Args[0], func() (string, error) { return t.cond(n.Args[1]) })
	if n.Name == "any" && met { // the first row that meets it is enough
		return "exists (select from " + from + " where x)", err
	}
	if n.Name == "any" {
		return "(select case when bool_or(x) then true when bool_or(x is null) then null else false end from " + from + ")",
			err
	}
	return "(select case when bool_or(not x) then false when bool_or(x is null) then null else true end from " + from +
		")", err
}

func (t *translator) call(n *expr.Call) (scalar, error) {
	switch n.Name {
	case "age":
		return t.age(n)
	case "count":
		return t.count(n)
	case "abs", "floor", "ceil":
		x, err := t.scalar(n.Args[0])
		if err != nil || x.kind != expr.Num {
			return x, beyond{}
		}
		return of(n.Name+"("+x.sql+")", expr.Num), nil
	}
	return scalar{}, beyond{}
}

// age is in whole years; who was born on 29 February is a year older on 1 March of common
// years, which the order of month and day says by itself.
func (t *translator) age(n *expr.Call) (scalar, error) {
	born, err := t.scalar(n.Args[0])
	if err != nil {
		return born, err
	}
	on := scalar{kind: expr.Date}
	if len(n.Args) == 2 {
		on, err = t.scalar(n.Args[1])
	} else {
		on.sql = t.arg(t.frame.Clock.Day().String(), "text")
	}
	if err != nil || born.kind != expr.Date || on.kind != expr.Date {
		return on, beyond{}
	}
	return of(fmt.Sprintf(
		`(select case when b <= o then left(o, 4)::int - left(b, 4)::int - case when substr(o, 6) < substr(b, 6) then 1 else 0 end end::numeric
		from (select (%s) collate "C" as b, (%s) collate "C" as o) days)`, born.sql, on.sql), expr.Num), nil
}

func (t *translator) count(n *expr.Call) (scalar, error) {
	if name, ok := n.Args[0].(*expr.Name); ok && t.syms.Groups[name.Name] != nil {
		write := func() (string, error) { return "true", nil }
		if len(n.Args) == 2 {
			write = func() (string, error) { return t.cond(n.Args[1]) }
		}
		from, err := t.inRows(n.Args[0], write)
		return of("(select count(*) filter (where x)::numeric from "+from+")", expr.Num), err
	}
	if len(n.Args) != 1 {
		return scalar{}, beyond{}
	}
	x, err := t.scalar(n.Args[0])
	if err != nil || x.kind != expr.Choices {
		return x, beyond{}
	}
	return of("coalesce(cardinality("+x.sql+"), 0)::numeric", expr.Num), nil
}
