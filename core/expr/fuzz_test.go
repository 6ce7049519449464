package expr_test

import (
	"testing"

	"lazo/core/expr"
)

// FuzzParse holds the parser to its word: no panic, and what it prints parses
// to the same tree and prints the same again.
func FuzzParse(f *testing.F) {
	for _, src := range canonical {
		f.Add(src)
	}
	for _, c := range wrong {
		f.Add(c.src)
	}
	f.Fuzz(func(t *testing.T, src string) {
		n, err := expr.Parse(src)
		if err != nil {
			return
		}
		printed := n.String()
		again, err := expr.Parse(printed)
		if err != nil {
			t.Fatalf("%q was printed as %q, which does not parse: %s", src, printed, err)
		}
		if !expr.Equal(n, again) || again.String() != printed {
			t.Fatalf("%q was printed as %q, which parses to another tree: %q", src, printed, again)
		}
	})
}
