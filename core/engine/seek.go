package engine

import (
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
)

// seekRuns bounds how many runs one Seek makes, and seekValues how many answers
// it tries for one question.
const (
	seekRuns   = 6000
	seekValues = 14
	seekDepth  = 40
)

// Filling is what a rehearsal fills a form with.
type Filling struct {
	Answers map[string]any
	Params  map[string][]string
	At      time.Time
	Mode    Mode
}

func (fl Filling) clone() Filling {
	out := Filling{Answers: map[string]any{}, Params: maps.Clone(fl.Params), At: fl.At, Mode: fl.Mode}
	for k, v := range fl.Answers {
		if rows, ok := v.([]any); ok {
			copied := make([]any, len(rows))
			for i, row := range rows {
				copied[i] = row
				if m, ok := row.(map[string]any); ok {
					copied[i] = maps.Clone(m)
				}
			}
			v = copied
		}
		out.Answers[k] = v
	}
	if out.Params == nil {
		out.Params = map[string][]string{}
	}
	return out
}

// Seek looks for a filling, near the one given, with which the condition at a
// property of an item, section or page comes out as wanted, while the item takes
// part otherwise. In a repeating section the first row counts. The search is
// small: it varies the questions that the condition names, and those that they
// depend on, over their choices and the edges of the values that the form
// compares them with. ok is false if it finds none, which does not prove that
// there is none.
func (p *Program) Seek(owner, property string, want expr.Truth, from Filling) (found Filling, ok bool) {
	return p.SeekWithin(seekRuns, owner, property, want, from)
}

// SeekWithin is Seek with a bound on how many times it runs the form.
func (p *Program) SeekWithin(runs int, owner, property string, want expr.Truth, from Filling) (found Filling, ok bool) {
	cond := p.conditionAt(owner, property)
	if cond == nil || cond.code == nil {
		return from, false
	}
	s := &seeker{p: p, fl: from.clone(), left: runs}
	goal := func(o *Outcome) bool { return s.takesPart(o, owner, property) && s.truth(o, owner, cond) == want }
	keys := append(s.around(owner, property), s.p.names(cond.code.Node)...)
	return s.fl, s.reach(goal, keys, 0)
}

// conditionAt finds a compiled condition by its place.
func (p *Program) conditionAt(owner, property string) *condition {
	head, rest, _ := strings.Cut(property, ".")
	index, last, _ := strings.Cut(rest, ".")
	n, _ := strconv.Atoi(index)
	if n < 0 {
		return nil
	}
	if it := p.lookup[owner]; it != nil {
		switch {
		case head == "shown":
			return &it.shown.condition
		case head == "required":
			return &it.required.condition
		case head == "locked":
			return &it.locked.condition
		case head == "value" && rest == "when":
			return it.when
		case head == "checks" && n < len(it.checks):
			return &it.checks[n].condition
		case head == "wording" && n < len(it.wording):
			return &it.wording[n]
		case head == "choices" && n < len(it.choices) && last == "offered":
			return &it.choices[n].offered.condition
		case head == "choices" && n < len(it.choices):
			return &it.choices[n].withheld.condition
		}
		return nil
	}
	switch {
	case owner == "" && head == "messages" && last == "when" && n < len(p.messages):
		return &p.messages[n].when
	case owner == "" && head == "hooks" && n < len(p.hooks):
		return &p.hooks[n]
	case owner == "" && property == form.OpenWhen:
		return &p.openIf.condition
	case owner == "" && head == "ends" && n < len(p.ends):
		return &p.ends[n]
	}
	for i := range p.sections {
		if p.sections[i].Key == owner && head == "shown" {
			return &p.sections[i].shown.condition
		}
	}
	for i := range p.pages {
		if p.pages[i].Key != owner {
			continue
		}
		if head == "next" && n < len(p.pages[i].next) {
			return &p.pages[i].next[n].condition
		}
		return &p.pages[i].shown.condition
	}
	return nil
}

type seeker struct {
	p    *Program
	fl   Filling
	left int // runs
}

func (s *seeker) run() *Outcome {
	s.left--
	return s.p.Run(Input{Answers: s.p.Answers(s.fl.Answers), Params: s.fl.Params, At: s.fl.At, Mode: s.fl.Mode})
}

// truth decides the condition as the owner sees it.
func (s *seeker) truth(o *Outcome, owner string, c *condition) expr.Truth {
	if it := s.p.lookup[owner]; it != nil && it.group >= 0 {
		o.frame.Groups[it.group].Row = 0
	}
	return c.code.Truth(&o.frame)
}

// takesPart reports whether nothing but the tie itself keeps it from having effect.
func (s *seeker) takesPart(o *Outcome, owner, property string) bool {
	if it := s.p.lookup[owner]; it != nil {
		if it.group >= 0 && o.Rows[it.group].Count == 0 {
			return false
		}
		if property == "shown" {
			return o.Sections[it.section]
		}
		st := o.State(owner, 0)
		return st != nil && st.part
	}
	for i := range s.p.sections {
		if s.p.sections[i].Key == owner {
			return o.onRoute[s.p.sections[i].page]
		}
	}
	for i := range s.p.pages {
		if s.p.pages[i].Key == owner {
			return property == "shown" || o.onRoute[i]
		}
	}
	if n, ok := endAt(property); ok { // the first that is met is read
		return !slices.ContainsFunc(s.p.ends[:min(n, len(s.p.ends))],
			func(e condition) bool { return e.test.Truth(&o.frame) == expr.Met })
	}
	return owner == "" // what goes out, and opening, is judged whatever else is asked
}

// endAt is the number of the closing text whose condition stands at a property.
func endAt(property string) (n int, ok bool) {
	rest, ok := strings.CutPrefix(property, "ends.")
	if !ok {
		return 0, false
	}
	n, err := strconv.Atoi(strings.TrimSuffix(rest, ".when"))
	return n, err == nil
}

// around names what decides whether the owner is reached at all.
func (s *seeker) around(owner, property string) []string {
	var out []string
	add := func(r *rule) {
		if r.code != nil {
			out = append(out, s.p.names(r.code.Node)...)
		}
	}
	page := -1
	if it := s.p.lookup[owner]; it != nil {
		if property != "shown" {
			add(&it.shown)
		}
		sec := &s.p.sections[it.section]
		page = sec.page
		add(&sec.shown)
		if it.group >= 0 {
			if rows := s.p.groups[it.group].rows; rows != nil {
				out = append(out, s.p.names(rows.Node)...)
			}
			out = append(out, sec.Key)
		}
	}
	for i := range s.p.sections {
		if s.p.sections[i].Key == owner {
			page = s.p.sections[i].page
		}
	}
	for i := range s.p.pages {
		if s.p.pages[i].Key == owner {
			page = i
		}
	}
	for i := 0; i <= page; i++ {
		if i < page || s.p.pages[i].Key != owner {
			add(&s.p.pages[i].shown)
		}
		for j := range s.p.pages[i].next {
			if i < page && s.p.pages[i].next[j].code != nil {
				out = append(out, s.p.names(s.p.pages[i].next[j].code.Node)...)
			}
		}
	}
	return out
}

// names lists what an expression reads: keys, url.NAME and, for the clock, "now".
func (p *Program) names(n expr.Node) []string {
	out := expr.Mentions(n, p.Symbols.Repeats)
	expr.Walk(n, func(n expr.Node) {
		switch n := n.(type) {
		case *expr.Member:
			if n.Of == "url" {
				out = append(out, "url."+n.Name)
			}
		case *expr.Name:
			if slices.Contains([]string{"now", "today", "time", "weekday"}, n.Name) {
				out = append(out, "now")
			}
		case *expr.Call:
			if n.Name == "age" && len(n.Args) == 1 {
				out = append(out, "now")
			}
		}
	})
	return out
}

// reach changes the filling until the goal is met. Questions among keys that are
// not shown are brought to be shown first, each by a search of its own.
func (s *seeker) reach(goal func(*Outcome) bool, keys []string, depth int) bool {
	out := s.run()
	if goal(out) {
		return true
	}
	if depth > seekDepth {
		return false
	}
	keys = s.expand(keys)
	for _, key := range keys {
		it := s.p.lookup[key]
		if it == nil || it.shown.fixed && out.Sections[it.section] && it.group < 0 || s.left <= 0 {
			continue
		}
		if st := out.State(key, 0); st != nil && st.part {
			continue
		}
		need := s.around(key, "")
		if s.reach(func(o *Outcome) bool { st := o.State(key, 0); return st != nil && st.part }, need, depth+1) {
			out = s.run()
		}
	}
	if goal(out) {
		return true
	}
	vars := make([][]func(), 0, len(keys))
	for _, key := range keys {
		if tries := s.tries(key); len(tries) > 0 {
			vars = append(vars, tries)
		}
	}
	base := s.fl.clone()
	for width := 1; width <= min(3, len(vars)); width++ {
		if s.vary(goal, vars, width, &base) {
			return true
		}
	}
	s.fl = base
	return false
}

// vary tries all ways of changing width of the variables at once.
func (s *seeker) vary(goal func(*Outcome) bool, vars [][]func(), width int, base *Filling) bool {
	if width == 0 {
		return s.left > 0 && goal(s.run())
	}
	for i := range vars {
		for _, try := range vars[i] {
			if s.left <= 0 {
				return false
			}
			s.fl = base.clone()
			try()
			next := s.fl.clone()
			if s.vary(goal, vars[i+1:], width-1, &next) {
				return true
			}
		}
	}
	return false
}

// expand replaces calculations and hidden values by what they are made of, and
// leaves each name once.
func (s *seeker) expand(keys []string) []string {
	var out []string
	seen := map[string]bool{}
	for queue := slices.Clone(keys); len(queue) > 0; queue = queue[1:] {
		key := queue[0]
		if seen[key] {
			continue
		}
		seen[key] = true
		if it := s.p.lookup[key]; it != nil && it.property == "is" && it.value != nil {
			queue = append(queue, s.p.names(it.value.Node)...)
			continue
		}
		out = append(out, key)
	}
	return out
}

// tries are the changes worth trying for one name.
func (s *seeker) tries(key string) []func() {
	if name, ok := strings.CutPrefix(key, "url."); ok {
		var out []func()
		for _, text := range append(s.texts(key), "x", "") {
			out = append(out, func() {
				s.fl.Params[name] = []string{text}
				if text == "" {
					delete(s.fl.Params, name)
				}
			})
		}
		return out
	}
	if key == "now" {
		return s.moments()
	}
	if g := s.p.Symbols.Groups[key]; g != nil {
		return s.rowCounts(g)
	}
	it := s.p.lookup[key]
	if it == nil || it.slot < 0 || it.Type.Computed() {
		return nil
	}
	var out []func()
	for _, v := range s.values(it) {
		if it.group < 0 {
			out = append(out, func() { s.fl.Answers[key] = v })
			continue
		}
		section := s.p.groups[it.group].symbol.Key
		out = append(out, func() { s.eachRow(section, func(row map[string]any) { row[key] = v }) })
	}
	return out
}

// eachRow changes the rows of a section, of which there is at least one.
func (s *seeker) eachRow(section string, change func(map[string]any)) {
	rows, _ := s.fl.Answers[section].([]any)
	if len(rows) == 0 {
		rows = []any{map[string]any{}}
	}
	for i, row := range rows {
		m, ok := row.(map[string]any)
		if !ok {
			m = map[string]any{}
			rows[i] = m
		}
		change(m)
	}
	s.fl.Answers[section] = rows
}

func (s *seeker) rowCounts(g *expr.GroupSymbol) []func() {
	rep := s.p.sections[s.p.groups[g.Index].section].Repeat
	counts := []int{1, 2, 0, 3}
	for n := range s.numbers(g.Key) {
		counts = append(counts, n-1, n, n+1)
	}
	var out []func()
	for _, n := range counts {
		if n >= rep.Min && n <= rep.Limit() && n <= 60 {
			out = append(out, func() {
				rows, _ := s.fl.Answers[g.Key].([]any)
				for len(rows) < n {
					rows = append(rows, map[string]any{})
				}
				s.fl.Answers[g.Key] = rows[:n]
			})
		}
	}
	return out
}

// literals visits what the form's ties that name key compare with.
func (s *seeker) literals(key string, visit func(*expr.Literal)) {
	for _, t := range s.p.Form.AllTies() {
		n, err := expr.Parse(t.Expr)
		if err != nil || !slices.Contains(s.p.names(n), key) {
			continue
		}
		expr.Walk(n, func(n expr.Node) {
			if lit, ok := n.(*expr.Literal); ok {
				visit(lit)
			}
		})
	}
}

func (s *seeker) texts(key string) []string {
	var out []string
	s.literals(key, func(l *expr.Literal) {
		if l.Kind == expr.Text && l.Text != "" && !slices.Contains(out, l.Text) && len(out) < seekValues {
			out = append(out, l.Text)
		}
	})
	return out
}

func (s *seeker) numbers(key string) map[int]bool {
	out := map[int]bool{}
	s.literals(key, func(l *expr.Literal) {
		if n, ok := l.Num.Whole(); ok && (l.Kind == expr.Num || l.Kind == expr.Duration) && len(out) < seekValues {
			out[n] = true
		}
	})
	return out
}

// values are the answers worth trying for a question, the likeliest first.
func (s *seeker) values(it *item) []any {
	var out []any
	add := func(v any) { out = append(out, v) }
	switch it.kind {
	case expr.YesNo:
		return []any{true, false}
	case expr.Choice:
		if other := it.otherChoice(); other != "" {
			for _, text := range append(s.texts(it.Key), "something else") {
				add(map[string]any{"value": other, "text": text})
			}
		}
		for _, v := range it.all[:min(len(it.all), 40)] {
			add(v)
		}
		return append(out, nil)
	case expr.Grid:
		return s.gridValues(it)
	case expr.Choices:
		if it.Type == form.Ranking {
			return rankings(it)
		}
		for _, v := range it.all[:min(len(it.all), seekValues)] {
			add([]any{v})
		}
		both := []any{}
		for _, v := range s.texts(it.Key) {
			both = append(both, v)
		}
		return append(out, both, []any{})
	case expr.Num:
		return s.numberValues(it)
	case expr.Date:
		return s.dateValues(it)
	case expr.Time:
		s.literals(it.Key, func(l *expr.Literal) {
			if l.Kind == expr.Time {
				for _, sec := range []int{l.Sec, l.Sec - 60, l.Sec + 60} {
					if sec >= 0 && sec < 86400 {
						v := expr.TimeValue(sec)
						add(v.Plain(s.p.loc))
					}
				}
			}
		})
		return append(out, "12:00")
	case expr.Address:
		for _, text := range append(s.texts(it.Key), "x") {
			parts := map[string]any{}
			for _, part := range expr.AddressParts {
				parts[part] = text
			}
			add(parts)
		}
		return out
	case expr.File:
		return []any{map[string]any{"id": "rehearsal", "name": "rehearsal.png", "type": "image/png", "size": "1000"}}
	}
	for _, text := range s.texts(it.Key) {
		add(text)
		add(text + " x")
	}
	switch it.Type {
	case form.Email:
		add("someone@club.example")
	case form.Phone:
		add("+598 94 123 456")
	case form.Website:
		add("https://club.example")
	case form.MonthDay:
		add("05-30")
	default:
		add("Someone")
	}
	return append(out, "")
}

// gridValues are fillings of a grid: the same in all rows, in one alone, and none.
func (s *seeker) gridValues(it *item) []any {
	pick := func(v string) any {
		if it.Many {
			return []any{v}
		}
		return v
	}
	out := []any{nil}
	for _, v := range it.all[:min(len(it.all), seekValues)] {
		all := map[string]any{}
		for _, row := range it.Rows {
			all[row.Key] = pick(v)
			out = append(out, map[string]any{row.Key: pick(v)})
		}
		out = append(out, all)
	}
	return out[:min(len(out), 6*seekValues)]
}

// rankings put each choice first once and last once.
func rankings(it *item) []any {
	out := []any{[]any{}}
	for i, v := range it.all[:min(len(it.all), seekValues)] {
		rest := []any{}
		for j, w := range it.all {
			if j != i {
				rest = append(rest, w)
			}
		}
		out = append(out, append([]any{v}, rest...), append(slices.Clone(rest), v))
	}
	return out
}

func (s *seeker) numberValues(it *item) []any {
	var tried []expr.Number
	add := func(n expr.Number) {
		if !slices.ContainsFunc(tried, func(m expr.Number) bool { return m.Cmp(n) == 0 }) && len(tried) < 3*seekValues {
			tried = append(tried, n)
		}
	}
	step := expr.Int(1)
	b := &it.bounds
	if fixed := b.step.fixed.Number(); fixed.Sign() > 0 {
		step = fixed
	}
	s.literals(it.Key, func(l *expr.Literal) {
		if l.Kind != expr.Num {
			return
		}
		add(l.Num)
		add(l.Num.Add(step))
		add(l.Num.Sub(step))
	})
	for _, n := range []int64{1, 0, 2, 10, 100} {
		add(expr.Int(n))
	}
	for _, bound := range []*bound{&b.min, &b.max} {
		if bound.fixed.Kind() == expr.Num {
			add(bound.fixed.Number())
		}
	}
	var fit, unfit []any
	for _, n := range tried {
		v := expr.NumberValue(n)
		if below(&v, &b.min.fixed) || below(&b.max.fixed, &v) {
			unfit = append(unfit, n.String())
		} else {
			fit = append(fit, n.String())
		}
	}
	return append(fit, unfit...)
}

// dateValues are dates at the edges of those compared with, and of ages.
func (s *seeker) dateValues(it *item) []any {
	today := expr.ClockAt(s.fl.At.Unix(), s.p.loc).Day()
	bases := []expr.Day{today}
	s.literals(it.Key, func(l *expr.Literal) {
		if l.Kind == expr.Date && !slices.Contains(bases, l.Day) && len(bases) < 6 {
			bases = append(bases, l.Day)
		}
	})
	var out []any
	seen := map[expr.Day]bool{}
	add := func(d expr.Day, ok bool) {
		if ok && !seen[d] && len(out) < 6*seekValues {
			seen[d] = true
			out = append(out, d.String())
		}
	}
	for _, base := range bases {
		for _, off := range []expr.Day{0, -1, 1} {
			add(base+off, true)
		}
		for n := range s.numbers(it.Key) {
			year, month, day := base.Date()
			for _, off := range []expr.Day{0, 1, -1} {
				for _, sign := range []int{-1, 1} {
					if d, ok := expr.DayOf(year+sign*n, month, min(day, 28)); ok {
						add(d+off, true)
					}
				}
				add(base+expr.Day(n)+off, true)
				add(base-expr.Day(n)+off, true)
			}
		}
	}
	for off := range expr.Day(7) { // for the weekday's sake
		add(today+off, true)
	}
	add(expr.DayOf(1990, 1, 1))
	return out
}

// moments are those of the form's clock conditions, before and after.
func (s *seeker) moments() []func() {
	var at []int64
	s.literals("now", func(l *expr.Literal) {
		switch l.Kind {
		case expr.Moment:
			m := expr.MomentIn(s.p.loc, l.Day, l.Sec)
			at = append(at, m, m-1, m+1)
		case expr.Date:
			noon := expr.MomentIn(s.p.loc, l.Day, 12*3600)
			at = append(at, noon, noon-86400, noon+86400)
		case expr.Time:
			today := expr.ClockAt(s.fl.At.Unix(), s.p.loc).Day()
			m := expr.MomentIn(s.p.loc, today, l.Sec)
			at = append(at, m, m-60, m+60)
		}
	})
	for _, m := range append(slices.Clone(at), s.fl.At.Unix()) { // for the weekday's sake
		for d := range int64(7) {
			at = append(at, m+d*86400)
		}
	}
	var out []func()
	for _, m := range at[:min(len(at), 12*seekValues)] {
		out = append(out, func() { s.fl.At = time.Unix(m, 0).In(s.p.loc) })
	}
	return out
}
