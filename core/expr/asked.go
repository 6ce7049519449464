package expr

// neverAsked is the name of the function, and the ID of the operator, that a question was
// not asked of a response, as against asked and left empty. Only views know what was asked.
const neverAsked = "never_asked"

// neverAskedOf is that a question was never asked.
func neverAskedOf(x Node) Node { return &Call{Name: neverAsked, Args: []Node{x}} }

// inNeverAsked reports whether n is what neverAskedOf makes, and of what.
func inNeverAsked(n Node) (x Node, ok bool) {
	if call, is := n.(*Call); is && call.Name == neverAsked && len(call.Args) == 1 {
		return call.Args[0], true
	}
	return nil, false
}

// NeverAsked is the key of the question of which a condition says that it was never asked.
func NeverAsked(n Node) (key string, ok bool) {
	if x, is := inNeverAsked(n); is {
		return x.String(), true
	}
	return "", false
}

// neverAsked checks never_asked(question).
func (c *checker) neverAsked(n *Call) *inst {
	name, ok := n.Args[0].(*Name)
	switch {
	case c.syms.Response == nil:
		return c.fault(n, "unknown-name", "", "%s is for views of responses", n.Name)
	case !ok || c.syms.Items[name.Name] == nil:
		return c.fault(n.Args[0], "unknown-name", c.syms.meant(n.Args[0].String()), "%s takes a question: %s", n.Name,
			functions[n.Name].Usage)
	case c.syms.Items[name.Name].Group != nil:
		return c.fault(n.Args[0], "wrong-type", "",
			"%s stands in rows; whether one was asked is known of questions outside of them", name)
	}
	in := newInst(n, opNeverAsked, tYesNo)
	in.key = name.Name
	return in
}

// neverAsked decides it on a stored response; undecided where nobody knows.
func (in *inst) neverAsked(f *Evaluation) Truth {
	if f.Asked == nil {
		return Undecided
	}
	return truthOf(!f.Asked(in.key))
}

// neverAsked says that a question was never asked, or that it was.
func (w *sentence) neverAsked(x Node, asked bool) {
	w.part(x, nil)
	if asked {
		w.say(" was asked")
	} else {
		w.say(" was never asked")
	}
}

// neverAsked reads that a question was never asked, or that it was.
func (r *sentenceReader) neverAsked(x reading, s *Symbols) []reading {
	if s.Response == nil || !plainQuestion(x.n) {
		return nil
	}
	never := neverAskedOf(x.n)
	return append(r.ends(x, " was never asked", never), r.ends(x, " was asked", not(never))...)
}
