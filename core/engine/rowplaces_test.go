package engine_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
)

// A pick with places in one row takes it from the other rows, so that it has to be asked
// about when it changes.
func TestPlacesInRowsDriveEachOther(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "a", "title": "A", "timezone": "UTC", "pages": [{"key": "p", "sections": [
		{"key": "crew", "repeat": {"max": 9}, "items": [
			{"key": "seat", "type": "choice", "label": "Seat", "choices": [{"value": "bow", "places": 1}, {"value": "stern"}]},
			{"key": "free", "type": "choice", "label": "Free", "choices": [{"value": "x"}]}]}]}]}`))
	require.NotNil(t, p, remarks)
	assert.True(t, p.Drives("seat"))
	assert.False(t, p.Drives("free"))
}
