package expr

import (
	"errors"
	"regexp"
	"slices"
	"strings"
)

// ErrSentence is what ReadSentence says of a text that is no sentence of a condition or
// value, or could be several.
var ErrSentence = errors.New("this is no sentence that can be read")

// maxSentence bounds what is read as a sentence, in bytes: its readings are tried out.
const maxSentence = 2000

// ReadSentence reads a condition as Sentence says it, or a value as Phrase does. What it
// returns reads the same; of what could be meant in several ways it returns none.
func (s *Symbols) ReadSentence(text string, condition bool) (Node, error) {
	text = strings.TrimSpace(text)
	if text == "" || len(text) > maxSentence {
		return nil, ErrSentence
	}
	r := &sentenceReader{text: text, known: map[readKey][]reading{}}
	all, said := r.or(0, s), s.Sentence
	if !condition { // which may be yes or no, and so a condition
		all, said = append(slices.Clone(all), r.operand(0, nil, s)...), s.Phrase
	}
	var found Node
	for _, one := range all {
		if one.end != len(text) || PiecesText(said(one.n)) != text {
			continue
		}
		if len(CheckBegun(one.n, s, condition)) > 0 {
			continue
		}
		if found != nil && !Equal(found, one.n) {
			return nil, ErrSentence
		}
		found = one.n
	}
	if found == nil {
		return nil, ErrSentence
	}
	return found, nil
}

// reading is one way to read a part of a text, and where it ends.
type reading struct {
	n   Node
	end int
}

type readKey struct {
	rule string
	at   int
	of   string
	syms *Symbols
}

// sentenceReader finds all ways to read each part of a text; what was found is known.
type sentenceReader struct {
	text  string
	known map[readKey][]reading
	rows  map[*GroupSymbol]*Symbols
	depth int
}

// maxDepth bounds how deep parts stand in each other.
const maxDepth = 60

func (r *sentenceReader) once(rule string, at int, of Node, s *Symbols, read func() []reading) []reading {
	key := readKey{rule, at, "", s}
	if of != nil {
		key.of = of.String()
	}
	if out, ok := r.known[key]; ok {
		return out
	}
	if r.depth >= maxDepth {
		return nil
	}
	r.depth++
	r.known[key] = nil // a part does not begin with itself
	out := read()
	r.depth--
	r.known[key] = distinct(out)
	return r.known[key]
}

// distinct leaves out what reads the same to the same place.
func distinct(all []reading) []reading {
	var out []reading
	for _, a := range all {
		if !slices.ContainsFunc(out, func(b reading) bool { return a.end == b.end && Equal(a.n, b.n) }) {
			out = append(out, a)
		}
	}
	return out
}

// says returns where words end that stand at a place, -1 if they do not.
func (r *sentenceReader) says(at int, words string) int {
	if at >= 0 && strings.HasPrefix(r.text[at:], words) {
		return at + len(words)
	}
	return -1
}

// then reads on from each reading where words follow.
func (r *sentenceReader) then(from []reading, words string, read func(n Node, at int) []reading) []reading {
	var out []reading
	for _, f := range from {
		if at := r.says(f.end, words); at >= 0 {
			out = append(out, read(f.n, at)...)
		}
	}
	return out
}

// after reads what stands behind words.
func (r *sentenceReader) after(at int, words string, read func(at int) []reading) []reading {
	if at = r.says(at, words); at < 0 {
		return nil
	}
	return read(at)
}

// as makes another node of each reading.
func as(from []reading, make func(Node) Node) []reading {
	var out []reading
	for _, f := range from {
		out = append(out, reading{make(f.n), f.end})
	}
	return out
}

// listed are several readings one after the other.
type listed struct {
	ns  []Node
	end int
}

// list reads one or more parts, parted by a comma, the last by word if there is one.
func (r *sentenceReader) list(at int, word string, one func(at int) []reading) []listed {
	var out []listed
	type state struct {
		listed
		last bool
	}
	var open []state
	for _, f := range one(at) {
		open = append(open, state{listed{[]Node{f.n}, f.end}, false})
	}
	for len(open) > 0 && len(out) < 500 {
		s := open[0]
		open = open[1:]
		if s.last || len(s.ns) == 1 || word == "" {
			out = append(out, s.listed)
		}
		if s.last {
			continue
		}
		grow := func(sep string, last bool) {
			at := r.says(s.end, sep)
			if at < 0 {
				return
			}
			for _, f := range one(at) {
				open = append(open, state{listed{append(slices.Clone(s.ns), f.n), f.end}, last})
			}
		}
		grow(", ", false)
		if word != "" {
			grow(" "+word+" ", true)
		}
	}
	return out
}

// or and and read conditions that are joined.
func (r *sentenceReader) or(at int, s *Symbols) []reading {
	return r.once("or", at, nil, s, func() []reading {
		return r.joined(at, "or", func(at int) []reading { return r.and(at, s) })
	})
}

func (r *sentenceReader) and(at int, s *Symbols) []reading {
	return r.once("and", at, nil, s, func() []reading {
		return r.joined(at, "and", func(at int) []reading { return r.term(at, s) })
	})
}

func (r *sentenceReader) joined(at int, op string, one func(at int) []reading) []reading {
	open := one(at)
	out := slices.Clone(open)
	joined := map[Node]*Logic{} // those that were joined here, not a group of the author's
	for len(open) > 0 && len(out) < 500 {
		f := open[0]
		open = open[1:]
		next := r.says(f.end, " "+op+" ")
		if next < 0 {
			continue
		}
		for _, g := range append(one(next), r.readsOn(next, op, f.n)...) {
			l := &Logic{Op: op, Terms: []Node{f.n, g.n}}
			if before := joined[f.n]; before != nil {
				l.Terms = append(slices.Clone(before.Terms), g.n)
			}
			joined[l] = l
			open, out = append(open, reading{l, g.end}), append(out, reading{l, g.end})
		}
	}
	return out
}

// readsOn reads what is said of a question after "Terms is answered and": "ticked".
func (r *sentenceReader) readsOn(at int, op string, before Node) []reading {
	if l, ok := before.(*Logic); ok {
		before = l.Terms[len(l.Terms)-1]
	}
	answered, ok := before.(*IsBlank)
	if op != "and" || !ok || !answered.Not {
		return nil
	}
	var out []reading
	for words, n := range map[string]Node{"ticked": answered.X, "not ticked": not(answered.X)} {
		out = append(out, r.ends(reading{end: at}, words, n)...)
	}
	return out
}

// term reads one condition, or several in parentheses.
func (r *sentenceReader) term(at int, s *Symbols) []reading {
	return r.once("term", at, nil, s, func() []reading {
		out := r.after(at, "(", func(at int) []reading {
			return r.then(r.or(at, s), ")", func(n Node, end int) []reading { return []reading{{n, end}} })
		})
		out = append(out, r.ofRows(at, s)...)
		out = append(out, r.refused(at, s)...)
		out = append(out, r.clock(at, s)...)
		return append(out, r.tested(at, s)...)
	})
}

func not(n Node) Node { return &Not{X: n} }

// ofRows reads what holds of the rows of a section.
func (r *sentenceReader) ofRows(at int, s *Symbols) []reading {
	var out []reading
	for _, w := range []struct {
		words, name string
		not         bool
	}{
		{"in at least one row of ", "any", false}, {"in any row of ", "any", false}, {"in no row of ", "any", true},
		{"in every row of ", "every", false},
		{"not in every row of ", "every", true},
	} {
		out = append(out, r.groups(at, w.words, ", ", s, func(g *Name, in *Symbols, at int) []reading {
			return as(r.term(at, in), func(n Node) Node { return maybe(w.not, &Call{Name: w.name, Args: []Node{g, n}}) })
		})...)
	}
	for words, op := range map[string]string{"in no other row of ": "=", "in at least one other row of ": ">"} {
		out = append(out, r.others(at, words, ", ", s, func(n *Call) Node {
			return &Compare{Op: op, L: n, R: &Literal{Kind: Num}}
		})...)
	}
	for _, w := range []struct {
		words string
		not   bool
	}{{"no two rows of ", false}, {"two rows of ", true}} {
		for _, same := range []string{" have the same ", " agree in "} {
			out = append(out, r.groups(at, w.words, same, s, func(g *Name, in *Symbols, at int) []reading {
				return as(r.part(at, nil, in), func(n Node) Node { return maybe(w.not, &Call{Name: "unique", Args: []Node{g, n}}) })
			})...)
		}
	}
	return out
}

func maybe(no bool, n Node) Node {
	if no {
		return not(n)
	}
	return n
}

// groups reads words, the name of a section, and more words; then what is said of it.
func (r *sentenceReader) groups(
	at int, before, behind string, s *Symbols, read func(g *Name, in *Symbols, at int) []reading,
) []reading {
	if at = r.says(at, before); at < 0 {
		return nil
	}
	var out []reading
	for key, g := range s.Groups {
		if end := r.says(r.says(at, g.Label), behind); end >= 0 {
			out = append(out, read(&Name{Name: key}, r.inRow(s, g), end)...)
		}
	}
	return out
}

// inRow are the symbols in a row of a section, the same for each time that they are asked
// for.
func (r *sentenceReader) inRow(s *Symbols, g *GroupSymbol) *Symbols {
	if r.rows == nil {
		r.rows = map[*GroupSymbol]*Symbols{}
	}
	if r.rows[g] == nil {
		r.rows[g] = s.InRow(g)
	}
	return r.rows[g]
}

// refused reads what is said not to be so.
func (r *sentenceReader) refused(at int, s *Symbols) []reading {
	var out []reading
	for words, op := range map[string]string{"none of these: ": "or", "not all of these: ": "and"} {
		if from := r.says(at, words); from >= 0 {
			for _, l := range r.list(from, "", func(at int) []reading { return r.term(at, s) }) {
				if len(l.ns) > 1 {
					out = append(out, reading{not(&Logic{Op: op, Terms: l.ns}), l.end})
				}
			}
		}
	}
	return append(out, r.after(at, "it is not so that ", func(at int) []reading { return as(r.term(at, s), not) })...)
}

// clock reads what is said of the moment.
func (r *sentenceReader) clock(at int, s *Symbols) []reading {
	var out []reading
	for words, name := range map[string]string{"it is ": "now", "today is ": "today", "the time is ": "time",
		"the weekday is ": "weekday"} {
		from := r.says(at, words)
		if from < 0 {
			continue
		}
		of := &Name{Name: name}
		compare := func(op string, f reading, end int) {
			out = append(out, reading{&Compare{Op: op, L: of, R: f.n}, end})
		}
		for _, w := range []struct{ words, op string }{{"not ", "!="}, {"before ", "<"}, {"after ", ">"}} {
			if at := r.says(from, w.words); at >= 0 {
				for _, f := range r.operand(at, of, s) {
					compare(w.op, f, f.end)
				}
			}
		}
		for _, f := range r.operand(from, of, s) {
			compare("=", f, f.end)
			if end := r.says(f.end, " or later"); end >= 0 {
				compare(">=", f, end)
			}
			if end := r.says(f.end, " or earlier"); end >= 0 {
				compare("<=", f, end)
			}
		}
	}
	return out
}

// The words between a value and what it is compared with, and those with a list behind.
var (
	comparing = []struct{ words, op string }{
		{" is ", "="}, {" is not ", "!="}, {" is under ", "<"}, {" is before ", "<"}, {" is at most ", "<="},
		{" is earlier than ", "<"}, {" is later than ", ">"},
		{" is no later than ", "<="}, {" is over ", ">"}, {" is after ", ">"}, {" is at least ", ">="},
		{" is no earlier than ", ">="},
	}
	containing = []struct {
		words, op string
		not       bool
	}{
		{" contains ", "contains", false}, {" starts with ", "starts with", false}, {" ends with ", "ends with", false},
		{" has the form ", "matches", false}, {" does not contain ", "contains", true},
		{" does not start with ", "starts with", true},
		{" does not end with ", "ends with", true}, {" does not have the form ", "matches", true},
	}
	including = []struct {
		words, how string
		not        bool
	}{
		{" includes ", "", false}, {" includes any of ", "any", false}, {" includes all of ", "all", false},
		{" includes none of ", "none", false}, {" does not include ", "", true}, {" does not include all of ", "all", true},
	}
)

// tested reads a value with what is said of it.
func (r *sentenceReader) tested(at int, s *Symbols) []reading {
	var out []reading
	for _, x := range r.part(at, nil, s) {
		if plainQuestion(x.n) {
			for _, w := range []string{" is yes", " is ticked"} {
				out = append(out, r.ends(x, w, x.n)...)
			}
			for _, w := range []string{" is no", " is not ticked"} {
				out = append(out, r.ends(x, w, not(x.n))...)
			}
		} else {
			out = append(out, x)
		}
		for _, word := range []string{"answered", "given"} {
			out = append(out, r.ends(x, " is "+word, &IsBlank{X: x.n, Not: true})...)
			out = append(out, r.ends(x, " is not "+word, &IsBlank{X: x.n})...)
		}
		out = append(out, r.compared(x, s)...)
		out = append(out, r.readWithin(x, s)...)
		out = append(out, r.lastDays(x, s)...)
		out = append(out, r.neverAsked(x, s)...)
	}
	return out
}

func plainQuestion(n Node) bool {
	switch n.(type) {
	case *Name, *Member:
		return true
	}
	return false
}

func (r *sentenceReader) ends(x reading, words string, n Node) []reading {
	if end := r.says(x.end, words); end >= 0 {
		return []reading{{n, end}}
	}
	return nil
}

func (r *sentenceReader) compared(x reading, s *Symbols) []reading {
	var out []reading
	for _, w := range comparing {
		out = append(out, r.after(x.end, w.words, func(at int) []reading {
			return as(decided(x.n, w.op, r.part(at, x.n, s)), func(y Node) Node { return &Compare{Op: w.op, L: x.n, R: y} })
		})...)
	}
	for _, w := range containing {
		out = append(out, r.after(x.end, w.words, func(at int) []reading {
			return as(r.part(at, nil, s), func(y Node) Node { return maybe(w.not, &TextTest{Op: w.op, X: x.n, Y: y}) })
		})...)
	}
	for words, no := range map[string]bool{" is written exactly ": false, " is not written exactly ": true} {
		out = append(out, r.after(x.end, words, func(at int) []reading {
			return as(r.part(at, nil, s), func(y Node) Node { return maybe(no, &Call{Name: "exact", Args: []Node{x.n, y}}) })
		})...)
	}
	return out
}

// decided leaves out yes and no behind a question: “Swim is yes” is the question itself.
func decided(x Node, op string, all []reading) []reading {
	if op != "=" || !plainQuestion(x) {
		return all
	}
	return slices.DeleteFunc(slices.Clone(all), func(y reading) bool {
		lit, ok := y.n.(*Literal)
		return ok && lit.Kind == YesNo
	})
}

// readWithin reads between what, or among what, a value is.
func (r *sentenceReader) readWithin(x reading, s *Symbols) []reading {
	var out []reading
	one := func(at int) []reading { return r.part(at, x.n, s) }
	for words, no := range map[string]bool{" is between ": false, " is not between ": true} {
		out = append(out, r.after(x.end, words, func(at int) []reading {
			return r.then(one(at), " and ", func(low Node, at int) []reading {
				return as(one(at), func(high Node) Node { return maybe(no, &Between{X: x.n, Low: low, High: high}) })
			})
		})...)
	}
	for words, no := range map[string]bool{" is one of ": false, " is none of ": true} {
		if at := r.says(x.end, words); at >= 0 {
			for _, l := range r.list(at, "", one) {
				out = append(out, reading{&In{X: x.n, List: l.ns, Not: no}, l.end})
			}
		}
	}
	for _, w := range including {
		if at := r.says(x.end, w.words); at >= 0 {
			for _, l := range r.list(at, "", one) {
				if w.how != "" || len(l.ns) == 1 {
					out = append(out, reading{maybe(w.not, &Has{X: x.n, How: w.how, List: l.ns}), l.end})
				}
			}
		}
	}
	return out
}

// part reads a value within a sentence; one that reads on stands in parentheses.
func (r *sentenceReader) part(at int, of Node, s *Symbols) []reading {
	out := r.operand(at, of, s)
	return append(slices.Clone(out), r.bracketed(at, s)...)
}

func (r *sentenceReader) bracketed(at int, s *Symbols) []reading {
	return r.after(at, "(", func(at int) []reading {
		return r.then(r.operand(at, nil, s), ")", func(n Node, end int) []reading { return []reading{{n, end}} })
	})
}

// operand reads a value; of is what it is compared with, whose choices it can name.
func (r *sentenceReader) operand(at int, of Node, s *Symbols) []reading {
	return r.once("operand", at, of, s, func() []reading {
		out := r.sum(at, of, s)
		for _, x := range slices.Clone(out) { // “600 if …, otherwise 900”, “A and B joined by …”
			out = append(out, r.otherwise(x, s)...)
		}
		return append(out, r.joinedBy(at, s)...)
	})
}

func (r *sentenceReader) otherwise(x reading, s *Symbols) []reading {
	return r.after(x.end, " if ", func(at int) []reading {
		return r.then(r.term(at, s), ", otherwise ", func(cond Node, at int) []reading {
			var none []reading
			if end := r.says(at, "nothing"); end >= 0 {
				none = []reading{{&Call{Name: "if", Args: []Node{cond, x.n}}, end}}
			}
			return append(none, as(r.part(at, nil, s),
				func(y Node) Node { return &Call{Name: "if", Args: []Node{cond, x.n, y}} })...)
		})
	})
}

func (r *sentenceReader) joinedBy(at int, s *Symbols) []reading {
	if !strings.Contains(r.text[at:], " joined by ") {
		return nil
	}
	var out []reading
	for _, l := range r.list(at, "and",
		func(at int) []reading { return append(r.sum(at, nil, s), r.bracketed(at, s)...) }) {
		out = append(out, r.after(l.end, " joined by ", func(at int) []reading {
			return as(r.part(at, nil, s), func(sep Node) Node { return &Call{Name: "join", Args: append([]Node{sep}, l.ns...)} })
		})...)
	}
	return out
}

// sum and product read arithmetic, from left to right.
func (r *sentenceReader) sum(at int, of Node, s *Symbols) []reading {
	return r.once("sum", at, of, s, func() []reading {
		return r.chain(r.product(at, of, s), map[string]string{" + ": "+", " − ": "-"},
			func(at int) []reading { return r.product(at, nil, s) })
	})
}

func (r *sentenceReader) product(at int, of Node, s *Symbols) []reading {
	return r.once("product", at, of, s, func() []reading {
		return r.chain(r.unary(at, of, s), map[string]string{" × ": "*", " ÷ ": "/"},
			func(at int) []reading { return r.unary(at, nil, s) })
	})
}

func (r *sentenceReader) chain(open []reading, ops map[string]string, one func(at int) []reading) []reading {
	out := slices.Clone(open)
	for len(open) > 0 && len(out) < 500 {
		f := open[0]
		open = open[1:]
		for words, op := range ops {
			more := r.after(f.end, words, func(at int) []reading {
				return as(one(at), func(y Node) Node { return &Arith{Op: op, L: f.n, R: y} })
			})
			open, out = append(open, more...), append(out, more...)
		}
	}
	return out
}

func (r *sentenceReader) unary(at int, of Node, s *Symbols) []reading {
	out := append(r.rounded(r.atom(at, of, s), s), r.shifted(at, s)...)
	return append(out, r.after(at, "−", func(at int) []reading {
		return as(r.unary(at, nil, s), func(n Node) Node { return &Neg{X: n} })
	})...)
}

// shifted reads what is so much later or earlier: "18 years after Born".
func (r *sentenceReader) shifted(at int, s *Symbols) []reading {
	var out []reading
	for _, span := range r.literals(at, nil, s) {
		if lit, ok := span.n.(*Literal); !ok || lit.Kind != Duration {
			continue
		}
		for words, op := range map[string]string{" after ": "+", " before ": "-"} {
			out = append(out, r.after(span.end, words, func(at int) []reading {
				return as(r.unary(at, nil, s), func(n Node) Node { return &Arith{Op: op, L: n, R: span.n} })
			})...)
		}
	}
	return out
}

// atom reads what stands for itself.
func (r *sentenceReader) atom(at int, of Node, s *Symbols) []reading {
	return r.once("atom", at, of, s, func() []reading {
		out := r.bracketed(at, s)
		out = append(out, r.literals(at, of, s)...)
		out = append(out, r.names(at, s)...)
		out = append(out, r.members(at, s)...)
		return append(out, r.calls(at, s)...)
	})
}

// rounded reads on where a number is rounded.
func (r *sentenceReader) rounded(from []reading, s *Symbols) []reading {
	out := slices.Clone(from)
	for words, name := range map[string]string{" rounded": "round", " rounded down": "floor", " rounded up": "ceil"} {
		for _, x := range from {
			end := r.says(x.end, words)
			if end < 0 {
				continue
			}
			out = append(out, reading{&Call{Name: name, Args: []Node{x.n}}, end})
			for _, places := range r.after(end, " to ", func(at int) []reading { return r.unary(at, nil, s) }) {
				for _, behind := range []string{" decimal places", " decimal place"} {
					out = append(out, r.ends(places, behind, &Call{Name: name, Args: []Node{x.n, places.n}})...)
				}
			}
		}
	}
	return out
}

var (
	aDay     = regexp.MustCompile(`^(\d{1,2}) ([A-Z][a-z]+) (-?\d{1,4})`)
	aTime    = regexp.MustCompile(`^, (\d\d:\d\d(:\d\d)?)`)
	aLiteral = regexp.MustCompile(`^(\d\d:\d\d(:\d\d)?|-?\d+(\.\d+)?( (minutes?|hours?|days?|weeks?|months?|years?))?|yes|no)`)
	monthsOf = map[string]int64{}
	theNames = map[string]string{
		"now": "now", "today": "today", "the time": "time", "the weekday": "weekday", "who fills it in": "mode",
		"the row’s number": "row_number", "this choice": "choice",
	}
	aFunction = regexp.MustCompile(`^([a-z_]+)\(`)
)

func init() {
	for m := 1; m <= 12; m++ {
		d, _ := DayOf(2000, m, 1)
		monthsOf[strings.Fields(dayWords(d))[1]] = int64(m)
	}
}

// literals reads what is written out: a choice by its label, a text, a date, a number.
func (r *sentenceReader) literals(at int, of Node, s *Symbols) []reading {
	var out []reading
	rest := r.text[at:]
	if of != nil {
		w := sentence{syms: s}
		if o := w.options(of); o != nil {
			for i, label := range o.Labels {
				if label != "" && strings.HasPrefix(rest, label) {
					out = append(out, reading{&Literal{Kind: Text, Text: o.Values[i]}, at + len(label)})
				}
			}
		}
	}
	if inside, ok := strings.CutPrefix(rest, "“"); ok {
		if n := strings.Index(inside, "”"); n >= 0 { // a text with such a mark in it is left to the language
			out = append(out, reading{&Literal{Kind: Text, Text: inside[:n]}, at + len("“") + n + len("”")})
		}
	}
	if end := r.says(at, GapSign); end >= 0 {
		out = append(out, reading{&Gap{}, end})
	}
	if m := aDay.FindStringSubmatch(rest); m != nil && monthsOf[m[2]] > 0 {
		out = append(out, dated(rest, at, m)...)
	}
	for _, m := range prefixes(aLiteral, rest) {
		if n, err := Parse(m); err == nil {
			switch n.(type) {
			case *Literal, *Neg:
				out = append(out, reading{n, at + len(m)})
			}
		}
	}
	return out
}

// prefixes are the longest match of a literal, and without its unit.
func prefixes(of *regexp.Regexp, text string) []string {
	m := of.FindString(text)
	if m == "" {
		return nil
	}
	if bare, _, cut := strings.Cut(m, " "); cut {
		return []string{m, bare}
	}
	return []string{m}
}

// dated is a date in words, and the moment that it is with a time behind.
func dated(rest string, at int, m []string) []reading {
	pad := func(s string, n int) string { return strings.Repeat("0", max(0, n-len(s))) + s }
	iso := pad(m[3], 4) + "-" + pad(itoa(monthsOf[m[2]]), 2) + "-" + pad(m[1], 2)
	var out []reading
	add := func(src string, size int) {
		if n, err := Parse(src); err == nil {
			if _, ok := n.(*Literal); ok {
				out = append(out, reading{n, at + size})
			}
		}
	}
	add(iso, len(m[0]))
	if t := aTime.FindStringSubmatch(rest[len(m[0]):]); t != nil {
		add(iso+"T"+t[1], len(m[0])+len(t[0]))
	}
	return out
}

// names reads questions and sections by their labels, and the words that are names.
func (r *sentenceReader) names(at int, s *Symbols) []reading {
	var out []reading
	for words, name := range theNames {
		if end := r.says(at, words); end >= 0 {
			out = append(out, reading{&Name{Name: name}, end})
		}
	}
	for key, sym := range s.Items {
		if end := r.says(at, sym.Label); end >= 0 && sym.Label != "" {
			out = append(out, reading{&Name{Name: key}, end})
		}
	}
	for key, g := range s.Groups {
		if end := r.says(at, g.Label); end >= 0 && g.Label != "" {
			out = append(out, reading{&Name{Name: key}, end})
		}
	}
	return out
}

// members reads parameters, columns, and parts of answers.
func (r *sentenceReader) members(at int, s *Symbols) []reading {
	var out []reading
	member := func(from int, label, of, name string) {
		if end := r.says(from, label); end >= 0 && label != "" {
			out = append(out, reading{&Member{Of: of, Name: name}, end})
		}
	}
	if from := r.says(at, "the address’s "); from >= 0 {
		for name, p := range s.Params {
			member(from, p.Label, "url", name)
		}
	}
	for _, sym := range s.Response {
		member(at, sym.Label, "response", sym.Key)
	}
	if from := r.says(at, "this row’s "); from >= 0 && s.Asker != nil {
		for name, sym := range s.Asker.Items {
			member(from, sym.Label, "row", name)
		}
	}
	if from := r.says(at, "the entry’s "); from >= 0 {
		for name, sym := range s.Entry {
			member(from, sym.Label, "entry", name)
		}
	}
	for key, g := range s.Groups {
		for name, sym := range g.Items {
			member(at, sym.Label+" in "+g.Label, key, name)
		}
	}
	for key, sym := range s.Items {
		from := r.says(at, sym.Label+", ")
		for _, name := range partsOf(sym) {
			member(from, sym.partWord(name), key, name)
		}
	}
	return out
}

// partsOf are the parts of a question's answer.
func partsOf(sym *Symbol) []string {
	var out []string
	switch {
	case sym.Type.Kind == Address:
		out = append(out, AddressParts...)
	case sym.List != nil:
		for name := range sym.List.Columns {
			out = append(out, name)
		}
	}
	out = append(out, sym.Rows...)
	if sym.Type.Options != nil && sym.Type.Options.Other != "" {
		out = append(out, "other")
	}
	return out
}

func (r *sentenceReader) calls(at int, s *Symbols) []reading {
	out := r.counts(at, s)
	out = append(out, r.ages(at, s)...)
	out = append(out, r.choicesIn(at, s)...)
	one := func(at int) []reading { return r.unary(at, nil, s) }
	for _, name := range []string{"days", "months", "years", "hours", "minutes"} {
		out = append(out, r.after(at, "the "+name+" from ", func(at int) []reading {
			return r.then(one(at), " to ", func(from Node, at int) []reading {
				return as(one(at), func(to Node) Node { return &Call{Name: name, Args: []Node{from, to}} })
			})
		})...)
	}
	for name, lead := range callLeads {
		if from := r.says(at, lead); from >= 0 {
			for _, l := range r.list(from, "and", one) {
				out = append(out, reading{&Call{Name: name, Args: l.ns}, l.end})
			}
		}
		if overRows[name] {
			out = append(out, r.groups(at, strings.TrimSuffix(lead, "of ")+"over the rows of ", " of ", s,
				func(g *Name, in *Symbols, at int) []reading {
					return as(r.part(at, nil, in), func(n Node) Node { return &Call{Name: name, Args: []Node{g, n}} })
				})...)
		}
	}
	if m := aFunction.FindStringSubmatch(r.text[at:]); m != nil {
		for _, l := range r.list(at+len(m[0]), "", one) {
			if end := r.says(l.end, ")"); end >= 0 {
				out = append(out, reading{&Call{Name: m[1], Args: l.ns}, end})
			}
		}
	}
	return out
}

// counts reads how many rows or picks there are.
func (r *sentenceReader) counts(at int, s *Symbols) []reading {
	out := r.after(at, "the number of ", func(at int) []reading {
		return as(r.unary(at, nil, s), func(n Node) Node { return &Call{Name: "count", Args: []Node{n}} })
	})
	out = append(out, r.groups(at, "the number of ", " where ", s, func(g *Name, in *Symbols, at int) []reading {
		return as(r.term(at, in), func(n Node) Node { return &Call{Name: "count", Args: []Node{g, n}} })
	})...)
	return append(out, r.others(at, "the number of other rows of ", " where ", s, func(n *Call) Node { return n })...)
}

// others reads words, a section's name, and more words; then what is asked of its other rows.
func (r *sentenceReader) others(at int, lead, then string, s *Symbols, of func(*Call) Node) []reading {
	return r.groups(at, lead, then, s, func(g *Name, in *Symbols, at int) []reading {
		asker := *in
		asker.Asker = in.Row
		return as(r.term(at, &asker), func(n Node) Node { return of(&Call{Name: "others", Args: []Node{g, n}}) })
	})
}

func (r *sentenceReader) ages(at int, s *Symbols) []reading {
	one := func(at int) []reading { return r.unary(at, nil, s) }
	out := r.after(at, "the age today counted from ", func(at int) []reading {
		return as(one(at), func(n Node) Node { return &Call{Name: "age", Args: []Node{n}} })
	})
	from := func(on Node, at int) []reading {
		return as(one(at), func(n Node) Node { return &Call{Name: "age", Args: []Node{n, on}} })
	}
	out = append(out, r.after(at, "the age ", func(at int) []reading {
		return r.then(r.shifted(at, s), ", counted from ", from)
	})...)
	return append(out, r.after(at, "the age on ", func(at int) []reading {
		return r.then(one(at), " counted from ", from)
	})...)
}

// choicesIn reads functions of a question and one of its choices, which comes first.
func (r *sentenceReader) choicesIn(at int, s *Symbols) []reading {
	var out []reading
	for words, name := range map[string]string{"the place of ": "rank", "the places left of ": "left",
		"the number of rows with ": "count"} {
		from := r.says(at, words)
		if from < 0 {
			continue
		}
		for key, sym := range s.Items {
			if sym.Type.Options == nil || (name == "count") != (sym.Type.Kind == Grid) {
				continue
			}
			q := &Name{Name: key}
			for _, x := range r.operand(from, q, s) {
				out = append(out, r.ends(x, " in "+sym.Label, &Call{Name: name, Args: []Node{q, x.n}})...)
			}
		}
	}
	return out
}
