package expr

import (
	"slices"
	"strings"
)

// Completion is a word that can stand where an author is writing.
type Completion struct {
	Text string // what is put in
	Says string // what it is: a question's label, a function's use
}

// MaxCompletions is how many words Complete proposes at the most.
const MaxCompletions = 8

// Complete proposes what can stand at the caret, a byte offset in src: names and
// functions that begin with the word before it or whose label does, or, between
// quotation marks after a question, its choices. from is where that word begins.
func (s *Symbols) Complete(src string, caret int) (from int, out []Completion) {
	caret = min(max(caret, 0), len(src))
	before := src[:caret]
	if strings.Count(before, `"`)%2 == 1 {
		from = strings.LastIndexByte(before, '"') + 1
		return from, s.completeChoice(before[:from-1], before[from:])
	}
	from = caret
	for from > 0 && (isLetter(src[from-1]) || isDigit(src[from-1]) || src[from-1] == '.') {
		from--
	}
	word := before[from:]
	if word == "" {
		return from, nil
	}
	return from, s.completeWord(word)
}

func (s *Symbols) completeWord(word string) []Completion {
	var names, others []Completion
	low := Fold(word)
	offer := func(key, label string) {
		switch {
		case strings.HasPrefix(key, low):
			names = append(names, Completion{key, label})
		case strings.Contains(Fold(label), low):
			others = append(others, Completion{key, label})
		}
	}
	for _, key := range s.Names() {
		offer(key, s.Items[key].Label)
	}
	for key, g := range s.Groups {
		offer(key, g.Label)
		if strings.HasPrefix(word, key+".") {
			for name, sym := range g.Items {
				offer(key+"."+name, sym.Label)
			}
		}
	}
	for name, p := range s.Params {
		offer("url."+name, p.Label)
	}
	if of, _, dotted := strings.Cut(word, "."); dotted && s.Items[of] != nil && s.Items[of].Type.Kind == Address {
		for _, part := range AddressParts {
			offer(of+"."+part, s.Items[of].Label+", "+part)
		}
	}
	if of, _, dotted := strings.Cut(word, "."); dotted && s.Items[of] != nil && s.Items[of].List != nil {
		for name := range s.Items[of].List.Columns {
			offer(of+"."+name, s.Items[of].Label+", "+name)
		}
	}
	for _, sym := range s.Response {
		offer("response."+sym.Key, sym.Label)
	}
	for name := range s.Entry {
		offer("entry."+name, "column of the list")
	}
	for _, name := range functionNames() {
		if strings.HasPrefix(name, low) && (name != neverAsked || s.Response != nil) {
			others = append(others, Completion{name + "(", functions[name].Usage + ", such as " + functions[name].Example})
		}
	}
	for _, w := range []string{"and", "or", "not", "between", "in", "is blank", "is answered", "contains", "starts with",
		"ends with", "matches", "has any", "has all", "has none",
		"yes", "no", "now", "today", "time", "weekday", "mode", "row_number"} {
		if strings.HasPrefix(w, low) && w != low {
			others = append(others, Completion{w, ""})
		}
	}
	byText := func(a, b Completion) int { return strings.Compare(a.Text, b.Text) }
	slices.SortFunc(names, byText)
	slices.SortStableFunc(others, byText)
	out := append(names, others...)
	return out[:min(len(out), MaxCompletions)]
}

// completeChoice proposes the choices of the question named last in before.
func (s *Symbols) completeChoice(before, begun string) []Completion {
	lex := lexer{src: before}
	var options *Options
	for {
		tok, fault := lex.next()
		if fault != nil || tok.kind == tokEnd {
			break
		}
		if tok.kind != tokWord {
			continue
		}
		if sym := s.Items[tok.text]; sym != nil {
			options = sym.Type.Options
		} else if subject, ok := s.Subject(tok.text); ok {
			options = subject.Type.Options
		}
	}
	if options == nil {
		return nil
	}
	var out []Completion
	low := Fold(begun)
	for i, v := range options.Values {
		if strings.HasPrefix(Fold(v), low) || strings.HasPrefix(Fold(options.Labels[i]), low) {
			out = append(out, Completion{v, options.Labels[i]})
		}
		if len(out) == MaxCompletions {
			break
		}
	}
	return out
}
