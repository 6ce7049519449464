package expr

import "strings"

// Levels of binding, weakest first.
const (
	levelOr = iota + 1
	levelAnd
	levelNot
	levelCompare
	levelSum
	levelProduct
	levelUnary
	levelAtom
)

func (n *Literal) level() int {
	if n.Kind == Num && n.Num.Sign() < 0 {
		return levelUnary
	}
	return levelAtom
}
func (n *Name) level() int   { return levelAtom }
func (n *Member) level() int { return levelAtom }
func (n *Call) level() int   { return levelAtom }
func (n *Not) level() int    { return levelNot }
func (n *Neg) level() int    { return levelUnary }
func (n *Logic) level() int {
	if n.Op == "or" {
		return levelOr
	}
	return levelAnd
}
func (n *Arith) level() int {
	if n.Op == "*" || n.Op == "/" {
		return levelProduct
	}
	return levelSum
}
func (n *Compare) level() int  { return levelCompare }
func (n *Between) level() int  { return levelCompare }
func (n *In) level() int       { return levelCompare }
func (n *IsBlank) level() int  { return levelCompare }
func (n *TextTest) level() int { return levelCompare }
func (n *Has) level() int      { return levelCompare }

// at prints n, in parentheses if it binds weaker than least.
func at(n Node, least int) string {
	if n.level() < least {
		return "(" + n.String() + ")"
	}
	return n.String()
}

func list(nodes []Node) string {
	var b strings.Builder
	b.WriteByte('(')
	for i, n := range nodes {
		if i > 0 {
			b.WriteString(", ")
		}
		b.WriteString(n.String())
	}
	b.WriteByte(')')
	return b.String()
}

func (n *Literal) String() string {
	switch n.Kind {
	case Text:
		return Quote(n.Text)
	case Num:
		return n.Num.String()
	case YesNo:
		if n.Yes {
			return "yes"
		}
		return "no"
	case Date:
		return n.Day.String()
	case Time:
		return timeText(int64(n.Sec))
	case Moment:
		return n.Day.String() + "T" + timeText(int64(n.Sec))
	case Duration:
		return n.Num.String() + " " + n.unit()
	}
	return "?"
}

// unit is the unit's word, in the singular after 1.
func (n *Literal) unit() string {
	if n.Num.Cmp(Int(1)) == 0 {
		return strings.TrimSuffix(n.Unit, "s")
	}
	return n.Unit
}

// Quote prints s as a text literal. A backslash stands for itself unless a
// quotation mark or another backslash follows, so that patterns stay legible.
func Quote(s string) string {
	var b strings.Builder
	b.WriteByte('"')
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case c == '"', c == '\\' && (i+1 == len(s) || s[i+1] == '\\' || s[i+1] == '"'):
			b.WriteByte('\\')
			b.WriteByte(c)
		default:
			b.WriteByte(c)
		}
	}
	b.WriteByte('"')
	return b.String()
}

func (n *Name) String() string   { return n.Name }
func (n *Member) String() string { return n.Of + "." + n.Name }
func (n *Call) String() string   { return n.Name + list(n.Args) }
func (n *Not) String() string    { return "not " + at(n.X, levelNot) }

func (n *Neg) String() string {
	if lit, ok := n.X.(*Literal); ok && lit.Kind == Num {
		return "-(" + lit.String() + ")" // "-5" is one literal
	}
	return "-" + at(n.X, levelUnary)
}

func (n *Logic) String() string {
	parts := make([]string, len(n.Terms))
	for i, t := range n.Terms {
		parts[i] = at(t, n.level()+1)
	}
	return strings.Join(parts, " "+n.Op+" ")
}

func (n *Arith) String() string {
	return at(n.L, n.level()) + " " + n.Op + " " + at(n.R, n.level()+1)
}

func (n *Compare) String() string {
	return at(n.L, levelSum) + " " + n.Op + " " + at(n.R, levelSum)
}

func (n *Between) String() string {
	return at(n.X, levelSum) + " between " + at(n.Low, levelSum) + " and " + at(n.High, levelSum)
}

func (n *In) String() string {
	word := " in "
	if n.Not {
		word = " not in "
	}
	return at(n.X, levelSum) + word + list(n.List)
}

func (n *IsBlank) String() string {
	word := " is blank"
	if n.Not {
		word = " is answered"
	}
	return at(n.X, levelSum) + word
}

func (n *TextTest) String() string {
	return at(n.X, levelSum) + " " + n.Op + " " + at(n.Y, levelSum)
}

func (n *Has) String() string {
	if n.How == "" {
		return at(n.X, levelSum) + " has " + at(n.List[0], levelSum)
	}
	return at(n.X, levelSum) + " has " + n.How + " " + list(n.List)
}
