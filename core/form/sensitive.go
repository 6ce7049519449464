package form

import (
	"strings"

	"lazo/core/expr"
)

// Sensitive are the keys of the questions whose answers are sensitive: those that are said to
// be so, and all that such an answer flows into, by what is filled in by itself, whichever way
// it is given on. A parameter that fills a sensitive question is sensitive itself; its key is
// url.NAME. Conditions give nothing on: that a question is shown is no answer.
func (f *Form) Sensitive() map[string]bool {
	out := map[string]bool{}
	reads, said := map[string][]string{}, map[string]bool{} // by question: what its value is made of, and that it is said to be
	for pl := range f.Places() {
		it := pl.Item
		if it.Sensitive {
			out[it.Key], said[it.Key] = true, true
		}
		if it.Value != nil {
			reads[it.Key] = append(f.readsOf(it.Value.Expr()), f.readsOf(it.Value.When)...)
		}
	}
	if len(out) == 0 {
		return out
	}
	for more := true; more; {
		more = false
		mark := func(key string) { more = more || !out[key]; out[key] = true }
		for key, of := range reads {
			for _, read := range of {
				switch {
				case out[read] && !out[key]:
					mark(key)
				case out[key] && !out[read] && said[key] && isParameter(read):
					mark(read)
				}
			}
		}
	}
	return out
}

func isParameter(key string) bool { return strings.HasPrefix(key, "url.") }

// readsOf are the questions and parameters that an expression reads.
func (f *Form) readsOf(src string) (out []string) {
	n, err := expr.Parse(src)
	if src == "" || err != nil {
		return nil
	}
	expr.Walk(n, func(n expr.Node) {
		switch n := n.(type) {
		case *expr.Name:
			out = append(out, n.Name)
		case *expr.Member:
			out = append(out, n.Of, n.Name) // of an address, or of a section's rows
			if n.Of == "url" {
				out = append(out, "url."+n.Name)
			}
		}
	})
	return out
}
