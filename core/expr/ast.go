package expr

// Node is a node of an expression's tree. String prints it canonically.
type Node interface {
	// Pos is the byte offset in the text that the node was parsed from.
	Pos() int
	String() string
	level() int
}

// Place is where a node begins in its text, in bytes.
type Place int

// Pos returns the place itself, so that embedding it makes a Node know its own.
func (p Place) Pos() int { return int(p) }

// The nodes.
type (
	// Literal is a value written out. A moment is kept as the date and time in
	// the form's zone that the author wrote.
	Literal struct {
		Place
		Kind Kind   // Text, Num, YesNo, Date, Time, Moment or Duration
		Text string // Text
		Num  Number // Num; the count of a Duration
		Yes  bool   // YesNo
		Day  Day    // Date, Moment
		Sec  int    // Time, Moment: seconds after midnight
		Unit string // Duration: minutes, hours, days, weeks, months or years
	}

	// Name is a key or one of the words now, today, time, weekday, mode,
	// row_number and choice.
	Name struct {
		Place
		Name string
	}

	// Member is url.NAME, entry.COLUMN, a part of an address, or a question of
	// a repeating section over all its rows.
	Member struct {
		Place
		Of, Name string
	}

	// Not is the negation of a condition.
	Not struct {
		Place
		X Node
	}

	// Neg is an arithmetic negation.
	Neg struct {
		Place
		X Node
	}

	// Logic joins two or more conditions by "and" or "or". A group that an
	// author put in parentheses stays a Logic of its own.
	Logic struct {
		Place
		Op    string
		Terms []Node
	}

	// Arith is one of + - * /.
	Arith struct {
		Place
		Op   string
		L, R Node
	}

	// Compare is one of = != < <= > >=.
	Compare struct {
		Place
		Op   string
		L, R Node
	}

	// Between holds when Low <= X and X <= High.
	Between struct {
		Place
		X, Low, High Node
	}

	// In holds when X equals one of List, or none of it if Not is set.
	In struct {
		Place
		X    Node
		List []Node
		Not  bool
	}

	// IsBlank is "is blank", or "is answered" if Not is set.
	IsBlank struct {
		Place
		X   Node
		Not bool
	}

	// TextTest is one of contains, starts with, ends with, matches.
	TextTest struct {
		Place
		Op   string
		X, Y Node
	}

	// Has tests a set of choices; How is "" for one value, or any, all, none.
	Has struct {
		Place
		X    Node
		How  string
		List []Node
	}

	// Call is a function's application.
	Call struct {
		Place
		Name string
		Args []Node
	}
)

// Children returns the nodes directly below n, in the order of the text.
func Children(n Node) []Node {
	switch n := n.(type) {
	case *Not:
		return []Node{n.X}
	case *Neg:
		return []Node{n.X}
	case *Logic:
		return n.Terms
	case *Arith:
		return []Node{n.L, n.R}
	case *Compare:
		return []Node{n.L, n.R}
	case *Between:
		return []Node{n.X, n.Low, n.High}
	case *In:
		return append([]Node{n.X}, n.List...)
	case *IsBlank:
		return []Node{n.X}
	case *TextTest:
		return []Node{n.X, n.Y}
	case *Has:
		return append([]Node{n.X}, n.List...)
	case *Call:
		return n.Args
	}
	return nil
}

// WithChildren is a copy of n with other nodes directly below it, as many as it has.
func WithChildren(n Node, kids []Node) Node {
	switch n := n.(type) {
	case *Not:
		return &Not{n.Place, kids[0]}
	case *Neg:
		return &Neg{n.Place, kids[0]}
	case *Logic:
		return &Logic{n.Place, n.Op, kids}
	case *Arith:
		return &Arith{n.Place, n.Op, kids[0], kids[1]}
	case *Compare:
		return &Compare{n.Place, n.Op, kids[0], kids[1]}
	case *Between:
		return &Between{n.Place, kids[0], kids[1], kids[2]}
	case *In:
		return &In{n.Place, kids[0], kids[1:], n.Not}
	case *IsBlank:
		return &IsBlank{n.Place, kids[0], n.Not}
	case *TextTest:
		return &TextTest{n.Place, n.Op, kids[0], kids[1]}
	case *Has:
		return &Has{n.Place, kids[0], n.How, kids[1:]}
	case *Call:
		return &Call{n.Place, n.Name, kids}
	}
	return n
}

// Walk calls visit for n and all nodes below it, parents first.
func Walk(n Node, visit func(Node)) {
	visit(n)
	for _, kid := range Children(n) {
		Walk(kid, visit)
	}
}

// Equal reports whether two trees are the same but for their places.
func Equal(a, b Node) bool {
	ka, kb := Children(a), Children(b)
	if len(ka) != len(kb) || head(a) != head(b) {
		return false
	}
	for i := range ka {
		if !Equal(ka[i], kb[i]) {
			return false
		}
	}
	return true
}

// head describes a node without its children.
func head(n Node) string {
	switch n := n.(type) {
	case *Literal:
		return "literal " + kindNames[n.Kind] + n.String()
	case *Name:
		return "name " + n.Name
	case *Member:
		return "member " + n.Of + "." + n.Name
	case *Not:
		return "not"
	case *Neg:
		return "neg"
	case *Logic:
		return n.Op
	case *Arith:
		return n.Op
	case *Compare:
		return n.Op
	case *Between:
		return "between"
	case *In:
		return map[bool]string{false: "in", true: "not in"}[n.Not]
	case *IsBlank:
		return map[bool]string{false: "blank", true: "answered"}[n.Not]
	case *TextTest:
		return n.Op
	case *Has:
		return "has " + n.How
	case *Call:
		return n.Name + "()"
	case *Gap:
		return GapSign
	}
	return ""
}

// All joins conditions by "and", leaving out nil ones; nil if none is left.
func All(terms ...Node) Node { return join("and", terms) }

// Any joins conditions by "or", leaving out nil ones; nil if none is left.
func Any(terms ...Node) Node { return join("or", terms) }

func join(op string, terms []Node) Node {
	var kept []Node
	for _, t := range terms {
		if t != nil {
			kept = append(kept, t)
		}
	}
	switch len(kept) {
	case 0:
		return nil
	case 1:
		return kept[0]
	}
	return &Logic{Op: op, Terms: kept}
}
