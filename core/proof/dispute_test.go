package proof_test

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/proof"
	"lazo/core/proof/prooftest"
)

// disputed draws inputs near what a form decides on, and fails where one contradicts a remark
// by its own words.
func disputed(t *rapid.T, f *form.Form, inputs int) {
	p, _ := engine.Compile(f)
	if p == nil {
		t.Skip("a form with errors")
	}
	o := usual
	o.Left = timed(5 * time.Second)
	r := proof.Of(p, o)
	r2 := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 1))
	draw := func(n int) int { return r2.IntN(n) }
	pool, d := prooftest.Near(f), prooftest.Dispute(p, r)
	for range inputs {
		if against := d.DisputedBy(pool.Filling(draw)); against != "" {
			require.Fail(t, against, "of\n%s", f.JSON())
		}
	}
	for _, m := range r.Remarks {
		if wrong := d.Witness(m, pool, draw, inputs); wrong != "" {
			require.Fail(t, wrong, "of\n%s", f.JSON())
		}
	}
}

// No input near what is decided disputes what is said of a drawn form.
func TestNothingNearDisputesAClaim(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) { disputed(t, drawForm(t), 60) })
}

// Nor of one with answers of a form, in which not everything is followed.
func TestNothingNearDisputesAClaimOfAnyType(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v := &variety{t: t}
		p, _ := engine.Load([]byte(v.whole()))
		if p == nil {
			t.Skip("a form with errors")
		}
		disputed(t, p.Form, 60)
	})
}
