package proof

import (
	"cmp"
	"slices"
	"sort"
	"strings"

	"lazo/core/expr"
)

// variable is something of which there is no end of values: a number, a day, a time, a
// text, an address parameter, the clock. It is told apart only as far as the form does:
// its values fall into regions within which every condition comes out the same.
type variable struct {
	name string
	kind expr.Kind

	numbers []expr.Number // where conditions on a number change
	texts   []string      // what a text is compared with
	lengths []expr.Number // where conditions on its length change
	probes  []probe       // conditions on a computed number, a day, a time or the clock alone
	pairs   []probe       // and those on a day and the clock
	sets    []string      // of a parameter: what its values are searched for
	edges   []int64       // of the clock: moments besides
	times   []int         // and times of day

	steps []steps // of a number: which are taken, in each edition

	values []expr.Value // the regions, each by one of its values
	inputs [][]string   // of a parameter: the same, as they arrive
}

// probe is a condition on one variable, or on a day and the clock, to be tried out.
type probe struct {
	side  *side
	code  *expr.Code
	shape string        // how it reads, whatever the variable is called
	near  []expr.Number // of a number: the values around which it is tried
}

// truth tries the condition at a value of the variable and at a moment.
func (pr probe) truth(name string, v expr.Value, at int64) expr.Truth {
	f := pr.side.still
	f.Clock = expr.ClockAt(at, pr.side.program.Location())
	if name != clockName {
		pr.side.put(f, name, 0, v)
		defer pr.side.put(f, name, 0, expr.Value{})
	}
	return pr.code.Truth(f)
}

// put puts a value where expressions read the item of that key.
func (sd *side) put(f *expr.Evaluation, key string, row int, v expr.Value) {
	if name, ok := strings.CutPrefix(key, "url."); ok {
		f.Params[sd.program.Symbols.Params[name].Slot].Text = v
		return
	}
	sym := sd.program.Symbols.Items[key]
	if sym.Group == nil {
		f.Slots[sym.Slot] = v
		return
	}
	g := &f.Groups[sym.Group.Index]
	g.Cells[row*g.Width+sym.Slot] = v
}

func (v *variable) addNumber(n expr.Number) {
	if !slices.ContainsFunc(v.numbers, func(m expr.Number) bool { return m.Cmp(n) == 0 }) {
		v.numbers = append(v.numbers, n)
	}
}

func (v *variable) addText(s string) {
	if f := expr.Fold(s); f != "" && !slices.ContainsFunc(v.texts, func(t string) bool { return expr.Fold(t) == f }) {
		v.texts = append(v.texts, s)
	}
}

// atom notes where a comparison changes: one between alternatives, in which nothing stands
// but fixed values and variables. It returns why that can't be told, or "".
func (pl place) atom(n expr.Node) (why string) {
	names := regional(n)
	switch {
	case len(names) == 0:
		return ""
	case len(names) == 2 && slices.Contains(names, clockName):
		other := names[0]
		if other == clockName {
			other = names[1]
		}
		brought := strings.HasPrefix(other, "url.")
		if v := pl.side.variable(other); v != nil && v.kind == expr.Date && !brought && once(n, other) && once(n, clockName) {
			return pl.probe(n, v, true)
		}
		return "it compares an answer with the clock in a way that is not followed"
	case len(names) > 1:
		return "it compares two answers with each other"
	}
	v := pl.side.variable(names[0])
	if name, ok := strings.CutPrefix(names[0], "url."); ok && pl.side.model.mixed(name) {
		return "the address brings something of another type to the other edition"
	}
	if v == nil {
		return "it is about something that is not followed"
	}
	switch v.kind {
	case expr.Num:
		return pl.numeric(n, v)
	case expr.Text:
		return pl.textual(n, v)
	case expr.Date, expr.Time, expr.Moment:
		if !once(n, names[0]) {
			return "an answer stands in it more than once"
		}
		return pl.probe(n, v, false)
	}
	return "it is about something that is not followed"
}

// once reports whether no operation of n but the last has a variable on both sides.
func once(n expr.Node, name string) bool {
	count := 0
	expr.Walk(n, func(n expr.Node) {
		if kids := expr.Children(n); len(kids) == 0 && slices.Contains(regional(n), name) {
			count++
		}
		if c, ok := n.(*expr.Call); ok && c.Name == "age" && len(c.Args) == 1 && name == clockName {
			count++
		}
	})
	return count == 1
}

// probe notes a condition on a computed number, a day, a time or the clock to be tried out. One that asks
// whether two are equal is met in between only, where trying would miss it; so it is tried
// where the one passes the other.
func (pl place) probe(n expr.Node, v *variable, pair bool, near ...expr.Number) string {
	if c, ok := n.(*expr.Compare); ok && (c.Op == "=" || c.Op == "!=") {
		up, down := &expr.Compare{Op: "<=", L: c.L, R: c.R}, &expr.Compare{Op: ">=", L: c.L, R: c.R}
		if _, faults := expr.CompileCondition(up, pl.scope); faults == nil {
			return cmp.Or(pl.probe(up, v, pair, near...), pl.probe(down, v, pair, near...))
		}
	}
	code, faults := expr.CompileCondition(n, pl.scope)
	if faults != nil {
		return "it can’t be looked at alone"
	}
	shape := n.String()
	if v.name != clockName {
		shape = strings.ReplaceAll(shape, v.name, "·")
	}
	pr := probe{pl.side, code, shape, near}
	list := &v.probes
	if pair {
		list = &v.pairs
	}
	if !slices.ContainsFunc(*list, func(p probe) bool { return p.shape == shape }) {
		*list = append(*list, pr)
	}
	return ""
}

// textual notes what a text, or its length, is compared with.
func (pl place) textual(n expr.Node, v *variable) string {
	switch n := n.(type) {
	case *expr.Compare:
		left, right := n.L, n.R
		if len(regional(left)) == 0 {
			left, right = right, left
		}
		if len(regional(right)) > 0 {
			return "it compares a text with itself"
		}
		if isName(left) {
			lit, ok := right.(*expr.Literal)
			if !ok || n.Op != "=" && n.Op != "!=" {
				return "texts are not put in order"
			}
			v.addText(lit.Text)
			return ""
		}
		return pl.inverted(n, func(x expr.Node, levels []expr.Number) bool {
			call, ok := x.(*expr.Call)
			if !ok || call.Name != "length" || !isName(call.Args[0]) {
				return false
			}
			for _, l := range levels {
				if l.Floor().Cmp(expr.Int(longest)) > 0 {
					return false
				}
				v.lengths = append(v.lengths, around(l)...)
			}
			return len(v.lengths) < mostLengths
		})
	case *expr.IsBlank:
		if pl.solid(n.X) {
			return ""
		}
	}
	return "what is in a text is not followed"
}

func isName(n expr.Node) bool {
	switch n.(type) {
	case *expr.Name, *expr.Member:
		return true
	}
	return false
}

// build finds the regions of every variable: the clock between, since the days that are
// compared with it depend on its regions.
func (m *model) build() {
	clock := m.variables[clockName]
	var days []*variable
	for _, v := range m.ordered() {
		if m.stop() {
			break
		}
		switch v.kind {
		case expr.Num:
			v.buildNumbers()
		case expr.Text:
			v.buildTexts()
		case expr.Time:
			v.buildTimes()
		case expr.Date:
			days = append(days, v)
		}
	}
	for _, v := range days {
		bounds := v.dayFlips()
		for _, pr := range v.pairs {
			for _, b := range bounds {
				if m.stop() {
					break
				}
				for _, d := range []int64{b - 1, b, b + 1} {
					clock.edges = append(clock.edges, dayStarts(pr, v.name, d)...)
				}
			}
		}
	}
	m.buildClock(clock, days)
	for _, v := range days {
		v.buildDays(m, clock)
	}
}

func (m *model) ordered() []*variable {
	var names []string
	for name := range m.variables {
		names = append(names, name)
	}
	sort.Strings(names)
	out := make([]*variable, len(names))
	for i, name := range names {
		out[i] = m.variables[name]
	}
	return out
}
