package form

import (
	"maps"
	"strings"

	"lazo/core/expr"
)

// Sensitive are the keys of the questions whose answers are sensitive: those that are said to
// be so, and all that such an answer flows into, by what is filled in by itself, whichever way
// it is given on. A parameter that fills a sensitive question is sensitive itself; its key is
// url.NAME. Conditions give nothing on: that a question is shown is no answer.
func (f *Form) Sensitive() map[string]bool {
	flow := f.Flow()
	return flow.Sensitive()
}

// Flow is how answers flow in a form, or in several editions of one.
type Flow struct {
	said  map[string]bool     // questions that are said to be sensitive
	reads map[string][]string // by question: what its value is made of
}

// Flow is how answers flow in the form.
func (f *Form) Flow() Flow {
	out := Flow{map[string]bool{}, map[string][]string{}}
	for pl := range f.Places() {
		it := pl.Item
		if it.Sensitive {
			out.said[it.Key] = true
		}
		if it.Value != nil {
			out.reads[it.Key] = append(f.readsOf(it.Value.Expr()), f.readsOf(it.Value.When)...)
		}
	}
	return out
}

// Len is of how many questions it says something.
func (f Flow) Len() int { return len(f.said) + len(f.reads) }

// Join is how answers flow in several editions together: what is sensitive in one of them
// flows on as it did in any. Is says which keys a question had before, by the one of now.
func Join(is map[string][]string, flows ...Flow) Flow {
	out := Flow{map[string]bool{}, map[string][]string{}}
	for _, f := range flows {
		maps.Copy(out.said, f.said)
		for key, reads := range f.reads {
			out.reads[key] = append(out.reads[key], reads...)
		}
	}
	for now, before := range is {
		for _, was := range before {
			out.reads[now], out.reads[was] = append(out.reads[now], was), append(out.reads[was], now)
		}
	}
	return out
}

// Sensitive are the keys of what is sensitive; see [Form.Sensitive].
func (f Flow) Sensitive() map[string]bool {
	out := maps.Clone(f.said)
	if len(out) == 0 {
		return out
	}
	for more := true; more; {
		more = false
		mark := func(key string) { more = more || !out[key]; out[key] = true }
		for key, of := range f.reads {
			for _, read := range of {
				switch {
				case out[read] && !out[key]:
					mark(key)
				case out[key] && !out[read] && f.said[key] && isParameter(read):
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
