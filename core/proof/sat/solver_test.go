package sat

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The solver agrees with trying everything about clauses drawn by luck, under assumptions,
// one question after the other.
func TestSolverAgreesWithTryingEverything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(3, 12).Draw(t, "variables")
		literal := func() int {
			v := rapid.IntRange(1, n).Draw(t, "variable")
			if rapid.Bool().Draw(t, "negated") {
				return -v
			}
			return v
		}
		s := newSolver()
		s.grow(n + 1)
		var clauses [][]int
		var decide []int
		for v := 1; v <= n; v++ {
			decide = append(decide, v)
		}
		for range rapid.IntRange(1, 5*n).Draw(t, "clauses") {
			var c []int
			for range rapid.IntRange(1, 3).Draw(t, "length") {
				c = append(c, literal())
			}
			clauses = append(clauses, c)
			s.add(litsOf(c)...)
		}
		for range rapid.IntRange(1, 5).Draw(t, "questions") {
			var assumed []int
			for range rapid.IntRange(0, 4).Draw(t, "assumed") {
				assumed = append(assumed, literal())
			}
			all := clauses
			for _, l := range assumed {
				all = append(all[:len(all):len(all)], []int{l})
			}
			want := possible(all, n)
			got := s.solve(litsOf(assumed), decide, 0)
			require.Equal(t, want, got == Satisfiable, "%v under %v", clauses, assumed)
			if !want {
				continue
			}
			for _, c := range all {
				holds := false
				for _, l := range litsOf(c) {
					holds = holds || s.value(l) == isTrue
				}
				require.True(t, holds, "%v is broken", c)
			}
		}
	})
}

// possible tries all values of n variables.
func possible(clauses [][]int, n int) bool {
	for values := range 1 << n {
		if !slices.ContainsFunc(clauses, func(c []int) bool {
			return !slices.ContainsFunc(c, func(l int) bool { return values>>(max(l, -l)-1)&1 == 1 == (l > 0) })
		}) {
			return true
		}
	}
	return false
}

func litsOf(c []int) (out []Lit) {
	for _, l := range c {
		if l < 0 {
			out = append(out, Lit(-l<<1).Not())
		} else {
			out = append(out, Lit(l<<1))
		}
	}
	return out
}

// Exactly one of a group holds in whatever is found, however large it is.
func TestOneOfAGroupHolds(t *testing.T) {
	for _, n := range []int{2, 3, 6, 7, 13, 40, 100} {
		c := New()
		group := c.OneOf(n)
		for _, l := range group {
			require.Equal(t, Satisfiable, c.Ask(0, l))
			f := c.Found()
			count := 0
			for _, g := range group {
				if f.Holds(g) {
					count++
				}
			}
			require.Equal(t, 1, count)
		}
		require.Equal(t, Impossible, c.Ask(0, c.Or(group...).Not()))
		require.Equal(t, Impossible, c.Ask(0, group[0], group[n-1]))
	}
}
