package expr

import "strings"

// Rename returns src with the key from replaced by to wherever it names a
// question or section, all else as it was written. inGroup reports whether a
// name is that of a repeating section in which from is asked. A text that does
// not parse comes back unchanged.
func Rename(src, from, to string, inGroup func(group string) bool) string {
	n, err := Parse(src)
	if err != nil {
		return src
	}
	places := map[int]bool{}
	Walk(n, func(n Node) {
		switch n := n.(type) {
		case *Name:
			if n.Name == from {
				places[n.Pos()] = true
			}
		case *Member:
			if n.Of == from {
				places[n.Pos()] = true
			}
			if n.Name == from && (n.Of == "row" || inGroup(n.Of)) {
				dot := n.Pos() + strings.IndexByte(src[n.Pos():], '.')
				places[dot+1+len(src[dot+1:])-len(strings.TrimLeft(src[dot+1:], " \t\r\n"))] = true
			}
		}
	})
	var b strings.Builder
	for i := 0; i < len(src); {
		if places[i] {
			b.WriteString(to)
			i += len(from)
			continue
		}
		b.WriteByte(src[i])
		i++
	}
	return b.String()
}

// Mentions lists the keys that an expression names, each once, in order. What stands
// behind a dot is a key only after one for which repeats is true, a repeating section.
func Mentions(n Node, repeats func(key string) bool) []string {
	var out []string
	seen := map[string]bool{}
	add := func(key string) {
		if !seen[key] {
			seen[key] = true
			out = append(out, key)
		}
	}
	Walk(n, func(n Node) {
		switch n := n.(type) {
		case *Name:
			if !Reserved(n.Name) {
				add(n.Name)
			}
		case *Member:
			switch n.Of {
			case "url", "entry":
			case "row": // inside others; a question may have that key too
				add(n.Of)
				add(n.Name)
			default:
				add(n.Of)
				if repeats(n.Of) {
					add(n.Name)
				}
			}
		}
	})
	return out
}
