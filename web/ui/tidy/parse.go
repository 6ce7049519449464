package main

// node is an element with what is in it, an action with what depends on it, or a token
// alone. Tags that are not closed beside where they are opened, as in a template that
// begins a page for others, are tokens alone.
type node struct {
	token
	parts []part // of an element one; of an action one for each of its branches
	close token  // its end; no text for a token alone
}

// part is what stands after a head: none for the first, an {{else}} for the others.
type part struct {
	head  token
	nodes []*node
}

type parser struct {
	tokens []token
	at     int
}

// sequence reads nodes up to what ends the action that they are in.
func (p *parser) sequence(within *token) []*node {
	var out []*node
	for p.at < len(p.tokens) {
		t := p.tokens[p.at]
		switch t.kind {
		case middle, end:
			return pair(out)
		case begin:
			out = append(out, p.block())
		default:
			out = append(out, &node{token: t})
			p.at++
		}
	}
	return pair(out)
}

// block reads an action up to its end.
func (p *parser) block() *node {
	n := &node{token: p.tokens[p.at]}
	p.at++
	pt := part{nodes: p.sequence(&n.token)}
	for p.at < len(p.tokens) && p.tokens[p.at].kind == middle {
		n.parts = append(n.parts, pt)
		pt = part{head: p.tokens[p.at]}
		p.at++
		pt.nodes = p.sequence(&n.token)
	}
	n.parts = append(n.parts, pt)
	if p.at < len(p.tokens) {
		n.close = p.tokens[p.at]
		p.at++
	}
	return n
}

// pair puts what stands between a tag and its end into one node.
func pair(nodes []*node) []*node {
	var out []*node
	for _, n := range nodes {
		if n.kind == closing {
			if at := opened(out, n.name); at >= 0 {
				e := out[at]
				e.parts, e.close = []part{{nodes: append([]*node(nil), out[at+1:]...)}}, n.token
				out = out[:at+1]
				continue
			}
		}
		out = append(out, n)
	}
	return out
}

// opened finds the last tag of a name that waits for its end.
func opened(nodes []*node, name string) int {
	for i := len(nodes) - 1; i >= 0; i-- {
		if n := nodes[i]; n.kind == open && n.name == name && n.close.text == "" {
			return i
		}
	}
	return -1
}
