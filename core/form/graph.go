package form

import (
	"slices"

	"lazo/core/expr"
)

// Tied is an item, section or page that another depends on or drives.
type Tied struct {
	Key     string
	Through string   // the neighbour by which it is reached; "" if it is one itself
	Effects []string // the properties of the ties between direct neighbours
}

// Graph has who names whom: from an owner to the keys in its ties, and back.
type Graph struct{ needs, drives map[string][]Tied }

// Graph reads every tie of the form.
func (f *Form) Graph() *Graph {
	g := &Graph{map[string][]Tied{}, map[string][]Tied{}}
	add := func(m map[string][]Tied, at, key, effect string) {
		i := slices.IndexFunc(m[at], func(t Tied) bool { return t.Key == key })
		if i < 0 {
			m[at] = append(m[at], Tied{Key: key, Effects: []string{effect}})
		} else if !slices.Contains(m[at][i].Effects, effect) {
			m[at][i].Effects = append(m[at][i].Effects, effect)
		}
	}
	known, repeats := f.Keys(), f.Repeats()
	for _, t := range f.AllTies() {
		n, err := expr.Parse(t.Expr)
		if err != nil || t.Owner == "" {
			continue
		}
		for _, key := range expr.Mentions(n, repeats) {
			if known[key] && key != t.Owner {
				add(g.needs, t.Owner, key, t.Property)
				add(g.drives, key, t.Owner, t.Property)
			}
		}
	}
	return g
}

// reach walks from key along edges, nearest first.
func reach(edges map[string][]Tied, key string) []Tied {
	seen := map[string]bool{key: true}
	var out []Tied
	for _, t := range edges[key] {
		if !seen[t.Key] {
			seen[t.Key] = true
			out = append(out, t)
		}
	}
	for i := 0; i < len(out); i++ {
		for _, t := range edges[out[i].Key] {
			if seen[t.Key] {
				continue
			}
			seen[t.Key] = true
			through := out[i].Through
			if through == "" {
				through = out[i].Key
			}
			out = append(out, Tied{Key: t.Key, Through: through})
		}
	}
	return out
}

// Needs lists all that the ties of key depend on, directly first.
func (g *Graph) Needs(key string) []Tied { return reach(g.needs, key) }

// Drives lists all that depends on key, directly first.
func (g *Graph) Drives(key string) []Tied { return reach(g.drives, key) }
