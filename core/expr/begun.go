package expr

import "slices"

// Gap stands for a value that an author has still to give, and is written "…". A condition
// that is being made by pointing holds one until it is whole; what holds one takes no
// effect: see [Finished].
type Gap struct{ Place }

// GapSign is how a gap is written.
const GapSign = "…"

func (n *Gap) String() string { return GapSign }
func (n *Gap) level() int     { return levelAtom }

// HasGap reports whether a value is still to be given in n.
func HasGap(n Node) bool {
	_, gap := n.(*Gap)
	return gap || slices.ContainsFunc(Children(n), HasGap)
}

// Finished is n without the parts that wait for a value, nil if nothing is left of it. Of
// conditions that are joined those that are whole stay; of the cases of a value, too.
func Finished(n Node) Node {
	if !HasGap(n) {
		return n
	}
	switch n := n.(type) {
	case *Logic:
		var kept []Node
		for _, t := range n.Terms {
			if left := Finished(t); left != nil {
				kept = append(kept, left)
			}
		}
		return join(n.Op, kept)
	case *Not:
		if left := Finished(n.X); left != nil {
			return &Not{n.Place, left}
		}
	case *Call:
		return finishedCall(n)
	}
	return nil
}

// Unfinished are the parts of n that Finished leaves out, in the order of the text.
func Unfinished(n Node) []Node {
	if !HasGap(n) {
		return nil
	}
	var inner []Node
	switch n := n.(type) {
	case *Logic:
		inner = n.Terms
	case *Not:
		inner = []Node{n.X}
	case *Call:
		if rowTest(n) && !HasGap(n.Args[0]) {
			inner = n.Args[1:]
		}
	}
	if inner == nil {
		return []Node{n}
	}
	var out []Node
	for _, part := range inner {
		out = append(out, Unfinished(part)...)
	}
	return out
}

// Waiting are the parts of a condition that wait for a value, in words; none of one that is
// whole.
func (s *Symbols) Waiting(n Node) (out []string) {
	for _, part := range Unfinished(n) {
		out = append(out, PiecesText(s.Sentence(part)))
	}
	return out
}

// finishedCall leaves out what waits in a condition about rows, and cases that wait.
func finishedCall(n *Call) Node {
	switch {
	case rowTest(n) && !HasGap(n.Args[0]):
		if left := Finished(n.Args[1]); left != nil {
			return &Call{n.Place, n.Name, []Node{n.Args[0], left}}
		}
	case n.Name == "if" && len(n.Args) == 3:
		when, otherwise := Finished(n.Args[0]), Finished(n.Args[2])
		switch {
		case when == nil || HasGap(n.Args[1]):
			return otherwise
		case otherwise == nil: // blank, until it is given
			return &Call{n.Place, n.Name, []Node{when, n.Args[1]}}
		}
		return &Call{n.Place, n.Name, []Node{when, n.Args[1], otherwise}}
	}
	return nil
}

// begun is the kind of the fault that a gap is.
const begun = "begun"

// CheckBegun is what is wrong with an expression that may hold gaps, them apart.
func CheckBegun(n Node, syms *Symbols, condition bool) []*Fault {
	compile := Compile
	if condition {
		compile = CompileCondition
	}
	_, faults := compile(n, syms)
	return slices.DeleteFunc(faults, func(f *Fault) bool { return f.Kind == begun })
}
