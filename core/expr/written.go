package expr

// ReadWritten reads an expression as an author writes it: as the language has it, in the
// words of the sentence editor with keys (“metres is at least 12”, “class is one of ("four",
// "eight")”), or as a whole sentence with labels. The error is a *Fault of the way that is
// nearest.
func (s *Symbols) ReadWritten(src string, condition bool) (Node, error) {
	n, err := Parse(src)
	if err == nil {
		return n, nil
	}
	if len(src) > MaxLength {
		return nil, err
	}
	p := parser{lex: lexer{src: src}, words: true}
	n, fault := p.whole()
	if fault == nil {
		return n, nil
	}
	if n, bad := s.ReadSentence(src, condition); bad == nil {
		return n, nil
	}
	return nil, fault
}

// isWords reads what stands behind “is” in the words of sentences.
func (p *parser) isWords(at Place, x Node) Node {
	not := p.accept("not")
	denied := func(n Node) Node {
		if not {
			return &Not{at, n}
		}
		return n
	}
	switch {
	case p.accept("blank"), p.accept("empty"):
		return &IsBlank{at, x, not}
	case p.accept("answered"):
		return &IsBlank{at, x, !not}
	case p.accept("yes"), p.accept("ticked"):
		if not {
			return &Compare{at, "=", x, &Literal{Kind: YesNo}}
		}
		return x
	case p.accept("between"):
		low := p.sum()
		p.expect("and", "between the two ends")
		return denied(&Between{at, x, low, p.sum()})
	case p.accept("in"):
		return &In{at, x, p.list("in"), not}
	case p.accept("one"):
		p.expect("of", "after “one”")
		return &In{at, x, p.list("one of"), not}
	case p.accept("none"):
		p.expect("of", "after “none”")
		return &In{at, x, p.list("none of"), true}
	}
	op := p.isCompared()
	switch op {
	case "no":
		if not {
			return x
		}
		return &Compare{at, "=", x, &Literal{Kind: YesNo}}
	case "":
		op = "="
		if not {
			op = "!="
		}
		return &Compare{at, op, x, p.sum()}
	}
	return denied(&Compare{at, op, x, p.sum()})
}

// isCompared reads how a value is compared in words, “at least” or “over or equal”; "no" for
// the answer no, "" where nothing of the kind stands there.
func (p *parser) isCompared() string {
	switch {
	case p.accept("at"):
		if p.accept("most") {
			return "<="
		}
		p.expect("least", "after “at”")
		return ">="
	case p.accept("no"):
		switch {
		case p.accept("earlier"):
			p.expect("than", "after “earlier”")
			return ">="
		case p.accept("later"):
			p.expect("than", "after “later”")
			return "<="
		}
		return "no"
	case p.accept("over"), p.accept("after"):
		return p.orEqual(">")
	case p.accept("under"), p.accept("before"):
		return p.orEqual("<")
	case p.accept("more"), p.accept("greater"), p.accept("later"):
		p.expect("than", "after “more”")
		return p.orEqual(">")
	case p.accept("less"), p.accept("smaller"), p.accept("earlier"):
		p.expect("than", "after “less”")
		return p.orEqual("<")
	}
	return ""
}

func (p *parser) orEqual(op string) string {
	if !p.accept("or") {
		return op
	}
	p.expect("equal", "after “or”")
	p.accept("to")
	return op + "="
}

// includesWords reads what stands behind “includes”.
func (p *parser) includesWords(at Place, x Node) Node {
	how := p.tok
	if how.is("any") || how.is("all") || how.is("none") {
		p.advance()
		p.expect("of", "after “"+how.text+"”")
		return &Has{at, x, how.text, p.list("includes " + how.text + " of")}
	}
	return &Has{at, x, "", []Node{p.sum()}}
}
