package engine_test

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/proof"
	"lazo/core/proof/prooftest"
)

// No input of a form in the whole language contradicts what is claimed of it.
func TestNoInputContradictsAProof(t *testing.T) {
	claims := map[string]int{}
	rapid.Check(t, func(t *rapid.T) { contradicted(t, claims) })
	t.Log(claims)
}

// The same, as long as one likes.
func FuzzProof(f *testing.F) {
	f.Fuzz(rapid.MakeFuzz(func(t *rapid.T) { contradicted(t, map[string]int{}) }))
}

func contradicted(t *rapid.T, claims map[string]int) {
	f := drawForm(t)
	p, _ := engine.Compile(f)
	if p == nil {
		t.Skip("a form with errors")
	}
	end := time.Now().Add(5 * time.Second)
	r := proof.Of(p, proof.Options{At: time.Date(2026, 5, 10, 12, 0, 0, 0, time.UTC),
		Left: func() time.Duration { return time.Until(end) }})
	for _, m := range r.Remarks {
		claims[m.Kind]++
	}
	d, pool := prooftest.Dispute(p, r), prooftest.Near(f)
	luck := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 1))
	for range 8 {
		in := drawInput(t, f)
		against := d.ByOutcome(p.Run(engine.Input{Answers: p.Answers(in.answers), Params: in.url, At: in.at,
			Taken: in.taken}))
		require.Empty(t, against, "of\n%s", f.JSON())
	}
	for range 30 {
		require.Empty(t, d.DisputedBy(pool.Filling(luck.IntN)), "of\n%s", f.JSON())
	}
	for _, m := range r.Remarks {
		require.Empty(t, d.Witness(m, pool, luck.IntN, 30), "of\n%s", f.JSON())
	}
}
