package main

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// A limit that is over when the form is read is no leave to go on without one.
func TestALimitThatIsOverStaysOne(t *testing.T) {
	c := proofCmd{Limit: time.Second}
	assert.Greater(t, c.left(time.Now()), 900*time.Millisecond)
	assert.Equal(t, time.Nanosecond, c.left(time.Now().Add(-time.Minute)))
	c.Limit = 0
	assert.Zero(t, c.left(time.Now()))
}
