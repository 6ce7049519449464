package demo_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/proof"
	"lazo/demo"
)

// Nothing in the sample forms is impossible, and nobody is stopped.
func TestSamplesAreProvenClean(t *testing.T) {
	start := time.Date(2026, 2, 1, 12, 0, 0, 0, time.UTC)
	forms := []*form.Form{demo.CrewEntry(start), demo.ShoreCrew(start), demo.LakeBulletin()}
	for _, s := range demo.Samples(start) {
		forms = append(forms, s.Form)
	}
	for _, f := range forms {
		p, remarks := engine.Compile(f)
		require.NotNil(t, p, "%v", remarks)
		for _, r := range proof.Of(p, proof.Options{At: start}).Remarks {
			assert.Equal(t, form.Hint, r.Severity, "%s: %s", f.Key, r)
		}
	}
}

// One draft has faults on purpose, of each kind one.
func TestCanalDayIsNotInOrder(t *testing.T) {
	p, remarks := engine.Compile(demo.CanalDay())
	require.NotNil(t, p, "%v", remarks)
	r := proof.Of(p, proof.Options{At: time.Date(2026, 2, 1, 12, 0, 0, 0, time.UTC)})
	found := map[string]string{}
	for _, m := range r.Remarks {
		found[m.Kind] = m.At
	}
	assert.Equal(t, "pages/boat/hull/boat_class.required", found[proof.DeadEnd])
	assert.Equal(t, "pages/way/road/escort", found[proof.OnlyRefused])
	assert.Equal(t, "messages.0.when", found[proof.NeverSent])
	assert.Equal(t, "pages/way/road/cox_name.shown", found[proof.NoDifference])
	require.Len(t, r.Undecided, 1)
	assert.Equal(t, "pages/way/road/owed.shown", r.Undecided[0].At)
}
