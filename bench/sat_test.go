package bench

import (
	"math/rand/v2"
	"testing"

	"github.com/crillab/gophersat/solver"

	"lazo/core/proof/sat"
)

// network is a circuit as forms have them, groups of choices and conditions on each other,
// with the questions that are asked of it; and the clauses that say the same.
type network struct {
	circuit   *sat.Circuit
	questions []sat.Lit
	clauses   [][]int
}

func number(l sat.Lit) int {
	if l.Negated() {
		return -(l.Variable() + 1)
	}
	return l.Variable() + 1
}

func (n *network) clause(lits ...sat.Lit) {
	var one []int
	for _, l := range lits {
		one = append(one, number(l))
	}
	n.clauses = append(n.clauses, one)
}

// makeNetwork has 300 choices of five and 300 conditions of three parts each.
func makeNetwork() *network {
	luck := rand.New(rand.NewPCG(1, 2))
	n := &network{circuit: sat.New()}
	n.clause(sat.Yes)
	var all []sat.Lit
	for range 300 {
		group := n.circuit.OneOf(5)
		all = append(all, group...)
		n.clause(group...)
		for i, a := range group {
			for _, b := range group[:i] {
				n.clause(a.Not(), b.Not())
			}
		}
	}
	for range 300 {
		var parts []sat.Lit
		for range 3 {
			l := all[luck.IntN(len(all))]
			if luck.IntN(2) == 0 {
				l = l.Not()
			}
			parts = append(parts, l)
		}
		gate := n.circuit.And(parts...)
		if gate == sat.No || gate == sat.Yes {
			continue
		}
		if gate.Negated() {
			panic("a conjunction is a variable")
		}
		n.clause(append([]sat.Lit{gate}, not(parts)...)...)
		for _, p := range parts {
			n.clause(gate.Not(), p)
		}
		all = append(all, gate)
		n.questions = append(n.questions, gate, gate.Not())
	}
	return n
}

func not(lits []sat.Lit) (out []sat.Lit) {
	for _, l := range lits {
		out = append(out, l.Not())
	}
	return out
}

// BenchmarkQuestions asks whether each of 300 conditions can be met, and can be not met: of a
// model that is kept, and of a general solver, each time from scratch.
func BenchmarkQuestions(b *testing.B) {
	b.Run("kept", func(b *testing.B) {
		for b.Loop() {
			n := makeNetwork()
			for _, q := range n.questions {
				n.circuit.Ask(0, q)
			}
		}
	})
	b.Run("scratch", func(b *testing.B) {
		for b.Loop() {
			n := makeNetwork()
			for _, q := range n.questions {
				solver.New(solver.ParseSlice(append(n.clauses[:len(n.clauses):len(n.clauses)], []int{number(q)}))).Solve()
			}
		}
	})
}

// Both say the same.
func TestBothSayTheSame(t *testing.T) {
	n := makeNetwork()
	for _, q := range n.questions {
		want := solver.New(solver.ParseSlice(append(n.clauses[:len(n.clauses):len(n.clauses)],
			[]int{number(q)}))).Solve() == solver.Sat
		if got := n.circuit.Ask(0, q) == sat.Satisfiable; got != want {
			t.Errorf("%d: %t, another says %t", q, got, want)
		}
	}
}
