package public

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"lazo/core/form"
)

// What is offered ready can be read.
func TestReadyColoursCanBeRead(t *testing.T) {
	for _, c := range readyAccents {
		assert.Equal(t, c.Value, form.Passing(c.Value), c.Name)
	}
	for _, c := range readyPapers {
		assert.Equal(t, c.Value, form.PassingPaper(c.Value), c.Name)
	}
}
