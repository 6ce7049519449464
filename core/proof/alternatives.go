package proof

import (
	"slices"

	"lazo/core/expr"
	"lazo/core/form"
)

// maxAlternatives bounds in how many ways one value can come about, and maxOptions how many
// choices are told apart there.
const (
	maxAlternatives = 64
	maxOptions      = 60
)

// place is where an expression stands, as far as it matters for what it means.
type place struct {
	side  *side
	scope *expr.Symbols
	group string       // the key of the repeating section in whose row it stands, or ""
	entry []expr.Value // of the list, where it narrows one
}

// alternatives are the ways in which a value can come about: expressions in which nothing
// stands but fixed values and what is told apart by regions (numbers, days, times, texts,
// parameters, the clock). A conditional is each of its branches, a calculation what it is
// made of, a choice each of its values. ok is false for what is beyond that.
func (pl place) alternatives(n expr.Node) (out []expr.Node, ok bool) {
	if pl.side.model.stop() {
		return nil, false
	}
	switch n := n.(type) {
	case *expr.Literal:
		return []expr.Node{n}, true
	case *expr.Name:
		return pl.ofName(n)
	case *expr.Member:
		return pl.ofMember(n)
	case *expr.Call:
		return pl.ofCall(n)
	case *expr.Arith, *expr.Neg:
		return pl.product(n)
	}
	return bothWays(), true // conditions; what they compare is looked at by itself
}

func bothWays() []expr.Node {
	return []expr.Node{&expr.Literal{Kind: expr.YesNo, Yes: true}, &expr.Literal{Kind: expr.YesNo}}
}

func text(s string) expr.Node { return &expr.Literal{Kind: expr.Text, Text: s} }

func number(n int) expr.Node { return &expr.Literal{Kind: expr.Num, Num: expr.Int(int64(n))} }

// product replaces each part of a node by its alternatives, in all ways.
func (pl place) product(n expr.Node) ([]expr.Node, bool) {
	sets := [][]expr.Node{{}}
	for _, kid := range expr.Children(n) {
		alts, ok := pl.alternatives(kid)
		if !ok {
			return nil, false
		}
		var next [][]expr.Node
		for _, set := range sets {
			for _, a := range alts {
				next = append(next, append(slices.Clip(set), a))
			}
		}
		if sets = next; len(sets) > maxAlternatives {
			return nil, false
		}
	}
	var out []expr.Node
	for _, set := range sets {
		out = append(out, expr.WithChildren(n, set))
	}
	return distinct(out)
}

func distinct(nodes []expr.Node) ([]expr.Node, bool) {
	seen := map[string]bool{}
	nodes = slices.DeleteFunc(nodes, func(n expr.Node) bool {
		s := n.String()
		defer func() { seen[s] = true }()
		return seen[s]
	})
	return nodes, len(nodes) <= maxAlternatives
}

func (pl place) ofName(n *expr.Name) ([]expr.Node, bool) {
	switch n.Name {
	case "now", "today", "time":
		return []expr.Node{n}, true
	case "weekday":
		return []expr.Node{n}, true
	case "mode":
		return []expr.Node{text("new")}, true
	case "row_number":
		return pl.counts(pl.group)
	case "choice":
		return options(pl.scope.Candidate.Options)
	}
	sym := pl.scope.Items[n.Name]
	if sym == nil {
		return nil, false
	}
	it := pl.side.items[n.Name]
	switch sym.Type.Kind {
	case expr.YesNo:
		return bothWays(), true
	case expr.Choice:
		return options(sym.Type.Options)
	case expr.Num, expr.Date, expr.Time, expr.Text, expr.Moment:
		return pl.ofItem(n, it)
	}
	return nil, false
}

// ofItem are the ways in which a question gets its value: by hand, and by its expression.
func (pl place) ofItem(n *expr.Name, it *item) ([]expr.Node, bool) {
	var out []expr.Node
	if it.answerable() {
		out = append(out, n)
	}
	if it.value != nil && !it.Parked {
		if !it.Type.Computed() && it.value.code.Type.Kind != it.kind() {
			return nil, false // a text that is read as a number or a day
		}
		alts, ok := it.valueAlternatives()
		if !ok {
			return nil, false
		}
		out = append(out, alts...)
	}
	return distinct(out)
}

// ways are the alternatives of a value, once they are found.
type ways struct {
	of []expr.Node
	ok bool
}

// valueAlternatives are the ways in which a question's expression gives a value, found once:
// calculations that name two before them would be gone through again and again.
func (it *item) valueAlternatives() ([]expr.Node, bool) {
	if it.ways == nil {
		own := it.place()
		of, ok := own.alternatives(it.value.node)
		it.ways = &ways{of, ok}
	}
	return it.ways.of, it.ways.ok
}

func options(o *expr.Options) ([]expr.Node, bool) {
	if o == nil || len(o.Values) > maxOptions {
		return nil, false
	}
	out := make([]expr.Node, len(o.Values))
	for i, v := range o.Values {
		out[i] = text(v)
	}
	return out, true
}

// counts are the numbers of rows that a section can have.
func (pl place) counts(group string) ([]expr.Node, bool) {
	g := pl.side.groups[group]
	if g == nil || g.limit > maxOptions {
		return nil, false
	}
	var out []expr.Node
	for n := range g.limit + 1 {
		out = append(out, number(n))
	}
	return out, true
}

func (pl place) ofMember(n *expr.Member) ([]expr.Node, bool) {
	switch {
	case n.Of == "url":
		sym := pl.side.program.Symbols.Params[n.Name]
		if inputs := sym.Inputs(); inputs != nil {
			var values []expr.Value
			for _, text := range inputs {
				read, _ := sym.Read([]string{text})
				values = append(values, read.Text)
			}
			return literals(values)
		}
		return []expr.Node{n}, true
	case n.Of == "entry" && pl.scope.Entry != nil && pl.entry != nil:
		sym := pl.scope.Entry[n.Name]
		if sym == nil {
			return nil, false
		}
		return literals([]expr.Value{pl.entry[sym.Slot]})
	}
	sym := pl.scope.Items[n.Of]
	switch {
	case sym == nil || n.Of == "row" && pl.scope.Asker != nil:
		return nil, false
	case sym.Type.Options != nil && sym.Type.Options.Other != "" && n.Name == "other":
		return []expr.Node{n}, true
	case sym.Type.Kind == expr.Grid:
		it := pl.side.items[n.Of]
		if it.Many {
			return nil, false
		}
		return options(pl.side.program.Form.Options(it.Item))
	case sym.Type.Kind == expr.Address:
		return []expr.Node{n}, true
	case sym.List != nil && sym.List.Columns[n.Name] != nil:
		var values []expr.Value
		for _, row := range sym.List.Entries {
			values = append(values, row[sym.List.Columns[n.Name].Slot])
		}
		return literals(values)
	}
	return nil, false
}

// literals writes values out; what can't be written is beyond.
func literals(values []expr.Value) ([]expr.Node, bool) {
	var out []expr.Node
	seen := map[string]bool{}
	for i := range values {
		v := &values[i]
		if v.Kind() == expr.Blank {
			continue
		}
		n := literalOf(v)
		if n == nil {
			return nil, false
		}
		if s := n.String(); !seen[s] {
			seen[s] = true
			out = append(out, n)
		}
		if len(out) > maxAlternatives {
			return nil, false
		}
	}
	return out, true
}

func (pl place) ofCall(n *expr.Call) ([]expr.Node, bool) {
	switch n.Name {
	case "if":
		return pl.union(n.Args[1:])
	case "first":
		return pl.union(n.Args)
	case "count":
		return pl.ofCount(n)
	case "any", "every", "exact", "unique":
		return bothWays(), true
	case "label", "value":
		if name, ok := n.Args[0].(*expr.Name); ok && pl.scope.Items[name.Name] != nil {
			return ofLabel(n.Name, pl.scope.Items[name.Name].Type)
		}
		return nil, false
	case "others", "left", "rank", "join", "average":
		return nil, false
	}
	return pl.product(n)
}

// ofLabel are the labels, or the values, that a choice can have.
func ofLabel(function string, t expr.Type) ([]expr.Node, bool) {
	if t.Kind != expr.Choice || t.Options == nil || len(t.Options.Values) > maxOptions {
		return nil, false
	}
	if function == "value" {
		return options(t.Options)
	}
	var out []expr.Node
	for _, l := range t.Options.Labels {
		out = append(out, text(l))
	}
	return out, true
}

func (pl place) union(nodes []expr.Node) ([]expr.Node, bool) {
	var out []expr.Node
	for _, n := range nodes {
		alts, ok := pl.alternatives(n)
		if !ok {
			return nil, false
		}
		out = append(out, alts...)
	}
	return distinct(out)
}

// ofCount are the numbers that count(…) can give.
func (pl place) ofCount(n *expr.Call) ([]expr.Node, bool) {
	name, ok := n.Args[0].(*expr.Name)
	if !ok {
		return nil, false
	}
	if pl.scope.Groups[name.Name] != nil {
		return pl.counts(name.Name)
	}
	if sym := pl.scope.Items[name.Name]; len(n.Args) == 1 && sym != nil && sym.Type.Kind == expr.Choices &&
		sym.Type.Options != nil &&
		len(sym.Type.Options.Values) < maxAlternatives {
		var out []expr.Node
		for i := range len(sym.Type.Options.Values) + 1 {
			out = append(out, number(i))
		}
		return out, true
	}
	return nil, false
}

// regional are the names in an alternative of what is told apart by regions: a key, a part
// as home.country, url.club, or now for the clock.
func regional(n expr.Node) []string {
	var out []string
	add := func(name string) {
		if !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	expr.Walk(n, func(n expr.Node) {
		switch n := n.(type) {
		case *expr.Name:
			if isClock(n.Name) {
				add(clockName)
			} else {
				add(n.Name)
			}
		case *expr.Member:
			add(n.Of + "." + n.Name)
		case *expr.Call:
			if n.Name == "age" && len(n.Args) == 1 {
				add(clockName)
			}
		}
	})
	return out
}

// clockName stands for the moment among the names of variables.
const clockName = "now"

func isClock(name string) bool {
	return name == "now" || name == "today" || name == "time" || name == "weekday"
}

// answerable reports whether a respondent can ever give the item's value.
func (it *item) answerable() bool {
	return !it.Type.Computed() && it.Type != form.Note && it.property != "is" && !it.Staff && !it.Parked
}
