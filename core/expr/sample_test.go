package expr_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"lazo/core/expr"
)

func TestSamplesHaveTheForm(t *testing.T) {
	for pattern, want := range map[string]string{
		`[A-Z]{2}\d{4}`:           "AB3456",
		`\d{4}-\d{2}`:             "1234-67",
		`(north|south) pier`:      "north pier",
		`[a-z]+@lake\.example`:    "a@lake.example",
		`B-?\d+`:                  "B2",
		`(?i)pl\d{3}`:             "PL345",
		`[^\n]{3}`:                "ABC",
		`.{2,5}`:                  "xx",
		`\d{50}`:                  "", // too long to help
		`[`:                       "",
		`x*`:                      "", // the empty text shows nothing
		`(?:[A-Z]\d){2}( [a-z])?`: "A2C4",
	} {
		got, ok := expr.Sample(pattern)
		assert.Equal(t, want != "", ok, pattern)
		if ok {
			assert.Equal(t, want, got, pattern)
		}
	}
}
