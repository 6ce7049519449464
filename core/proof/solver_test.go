package proof

import (
	"testing"

	other "github.com/crillab/gophersat/solver"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The solver agrees with another one about clauses drawn by luck, under assumptions, one
// question after the other.
func TestSolverAgreesWithAnother(t *testing.T) {
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
			want := other.New(other.ParseSlice(all)).Solve() == other.Sat
			got := s.solve(litsOf(assumed), decide, 0)
			require.Equal(t, want, got == satisfiable, "%v under %v", clauses, assumed)
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

func litsOf(c []int) (out []lit) {
	for _, l := range c {
		if l < 0 {
			out = append(out, lit(-l<<1).not())
		} else {
			out = append(out, lit(l<<1))
		}
	}
	return out
}

// Exactly one of a group holds in whatever is found, however large it is.
func TestOneOfAGroupHolds(t *testing.T) {
	for _, n := range []int{2, 3, 6, 7, 13, 40, 100} {
		c := newCircuit()
		group := c.oneOf(n)
		for _, l := range group {
			require.Equal(t, satisfiable, c.ask(0, l))
			f := c.found()
			count := 0
			for _, g := range group {
				if f.holds(g) {
					count++
				}
			}
			require.Equal(t, 1, count)
		}
		require.Equal(t, impossible, c.ask(0, c.or(group...).not()))
		require.Equal(t, impossible, c.ask(0, group[0], group[n-1]))
	}
}
