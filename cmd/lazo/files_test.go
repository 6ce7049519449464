package main

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// A limit that is over when the form is read is no leave to go on without one.
func TestALimitThatIsOverStaysOne(t *testing.T) {
	left := (&proofCmd{Limit: time.Nanosecond}).left()
	time.Sleep(time.Millisecond)
	assert.Negative(t, left())
	assert.Positive(t, (&proofCmd{Limit: time.Minute}).left()())
	assert.Nil(t, (&proofCmd{}).left())
}
