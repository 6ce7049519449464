package demo

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
)

// The survey is as long as it says, can be published, and takes what is made up for it.
func TestTheBoatSurveyIsLongAndFilledIn(t *testing.T) {
	f := BoatSurvey(surveyed)
	p, remarks := engine.Compile(f)
	require.NotNil(t, p, remarks)
	assert.Empty(t, remarks)
	items := 0
	for range f.Places() {
		items++
	}
	assert.Equal(t, surveyed, items)
	assert.Len(t, f.Pages, 6)
	d := &layout{start: time.Date(2026, 6, 1, 12, 0, 0, 0, time.UTC), random: rand.New(rand.NewPCG(1, 2))}
	for i := range 20 {
		answers, params := d.survey(i)
		out := p.Run(engine.Input{Answers: p.Answers(answers), Params: params, At: d.start})
		assert.True(t, out.Accepted)
		assert.Greater(t, len(out.Stored()), surveyed/2)
	}
}
