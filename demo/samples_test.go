package demo_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/demo"
)

func TestEverySampleIsSound(t *testing.T) {
	keys := map[string]bool{}
	for _, s := range demo.Samples(time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC)) {
		p, remarks := engine.Compile(s.Form)
		require.NotNil(t, p, "%s: %v", s.Form.Key, remarks)
		assert.Empty(t, remarks, s.Form.Key)
		assert.NotEmpty(t, s.About)
		assert.False(t, keys[s.Form.Key], "%s twice", s.Form.Key)
		keys[s.Form.Key] = true
		assert.True(t, s.Matches(""))
		assert.True(t, s.Matches(s.Form.Title))
		assert.False(t, s.Matches("submarine"))
	}
	assert.Greater(t, len(keys), 5)
}
