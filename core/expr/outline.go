package expr

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Passage is a condition as the sentence editor shows it: a group of parts, one
// clause, or, for what is neither, a condition as it is written. It is a view of
// the tree and holds all of it: Condition(Outline(n)) equals n.
type Passage struct {
	Join   string // of a group: AllOf, AnyOf, NoneOf, AnyRow or EveryRow; "" otherwise
	Of     string // the repeating section of AnyRow and EveryRow
	Parts  []*Passage
	Clause *Clause
	Source string // a condition as it is written
}

// The ways in which a group joins its parts. A group by rows has one part, which
// is about each row.
const (
	AllOf    = "all"
	AnyOf    = "any"
	NoneOf   = "none"
	AnyRow   = "any row"
	EveryRow = "every row"
)

// Outline shows a condition as parts; the outermost part is always a group.
func (s *Symbols) Outline(n Node) *Passage {
	if p := s.part(n); p.Join != "" {
		return p
	}
	return &Passage{Join: AllOf, Parts: []*Passage{s.part(n)}}
}

func (s *Symbols) part(n Node) *Passage {
	switch n := n.(type) {
	case *Logic:
		p := &Passage{Join: AllOf}
		if n.Op == "or" {
			p.Join = AnyOf
		}
		for _, t := range n.Terms {
			p.Parts = append(p.Parts, s.part(t))
		}
		return p
	case *Not:
		if l, ok := n.X.(*Logic); ok && l.Op == "or" {
			p := s.part(l)
			p.Join = NoneOf
			return p
		}
		return &Passage{Join: NoneOf, Parts: []*Passage{s.part(n.X)}}
	case *Call:
		if n.Name != "any" && n.Name != "every" || len(n.Args) != 2 {
			break
		}
		if name, ok := n.Args[0].(*Name); ok && s.Groups[name.Name] != nil {
			return &Passage{Join: n.Name + " row", Of: name.Name,
				Parts: []*Passage{s.InRow(s.Groups[name.Name]).part(n.Args[1])}}
		}
	}
	if c, ok := s.clause(n); ok {
		return &Passage{Clause: &c}
	}
	return &Passage{Source: n.String()}
}

// Condition puts an outline together again; nil if nothing is left of it. The
// error says what a clause lacks.
func (s *Symbols) Condition(p *Passage) (Node, error) {
	switch {
	case p.Clause != nil:
		return s.ClauseNode(*p.Clause)
	case p.Join == "":
		return Parse(p.Source)
	}
	scope := s
	if p.Of != "" {
		g := s.Groups[p.Of]
		if g == nil {
			return nil, fmt.Errorf("there is no repeating section “%s”", p.Of)
		}
		scope = s.InRow(g)
	}
	var kids []Node
	for _, kid := range p.Parts {
		n, err := scope.Condition(kid)
		if err != nil {
			return nil, err
		}
		if n != nil {
			kids = append(kids, n)
		}
	}
	switch {
	case len(kids) == 0:
		return nil, nil
	case p.Join == AnyOf:
		return join("or", kids), nil
	case p.Join == NoneOf:
		return &Not{X: join("or", kids)}, nil
	case p.Of != "":
		return &Call{Name: strings.TrimSuffix(p.Join, " row"), Args: []Node{&Name{Name: p.Of}, join("and", kids)}}, nil
	}
	return join("and", kids), nil
}

// PassageAt returns the part at a path such as "0.2", the whole for "", with the
// symbols as they are seen from there; nil if there is none.
func (p *Passage) PassageAt(path string, syms *Symbols) (*Passage, *Symbols) {
	if path == "" {
		return p, syms
	}
	head, rest, _ := strings.Cut(path, ".")
	n, err := strconv.Atoi(head)
	if err != nil || n < 0 || n >= len(p.Parts) {
		return nil, nil
	}
	if g := syms.Groups[p.Of]; p.Of != "" && g != nil {
		syms = syms.InRow(g)
	}
	return p.Parts[n].PassageAt(rest, syms)
}

// Remove takes the part at a path out, and groups that are left empty with it.
func (p *Passage) Remove(path string) {
	above, last := "", path
	if i := strings.LastIndexByte(path, '.'); i >= 0 {
		above, last = path[:i], path[i+1:]
	}
	n, err := strconv.Atoi(last)
	parent := p
	for _, step := range strings.FieldsFunc(above, func(r rune) bool { return r == '.' }) {
		i, err := strconv.Atoi(step)
		if err != nil || i < 0 || i >= len(parent.Parts) {
			return
		}
		parent = parent.Parts[i]
	}
	if err != nil || n < 0 || n >= len(parent.Parts) {
		return
	}
	parent.Parts = slices.Delete(parent.Parts, n, n+1)
	if len(parent.Parts) == 0 && above != "" {
		p.Remove(above)
	}
}

// Add puts a part behind the others of a group. What a group by rows is about
// becomes a group itself once it has two parts.
func (p *Passage) Add(part *Passage) {
	if p.Of == "" {
		p.Parts = append(p.Parts, part)
		return
	}
	if len(p.Parts) == 1 && p.Parts[0].Join != "" && p.Parts[0].Of == "" {
		p.Parts[0].Parts = append(p.Parts[0].Parts, part)
		return
	}
	p.Parts = []*Passage{{Join: AllOf, Parts: append(p.Parts, part)}}
}

// Without returns n without the conditions that name the key: clauses of groups
// are taken out one by one; nil if nothing is left. It is what becomes of a tie
// when a question that it names is deleted; repeats is as in Mentions.
func Without(n Node, key string, repeats func(key string) bool) Node {
	if !slices.Contains(Mentions(n, repeats), key) {
		return n
	}
	switch n := n.(type) {
	case *Logic:
		var kept []Node
		for _, t := range n.Terms {
			if left := Without(t, key, repeats); left != nil {
				kept = append(kept, left)
			}
		}
		return join(n.Op, kept)
	case *Not:
		if left := Without(n.X, key, repeats); left != nil {
			return &Not{X: left}
		}
	}
	return nil
}
