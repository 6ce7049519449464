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

func TestSamplesOfALength(t *testing.T) {
	for pattern, lengths := range map[string][2]int{
		`[A-Z]{2}\d{4}`:        {6, 6},
		`[a-z]*`:               {0, -1},
		`(north|south east)`:   {5, 10},
		`[a-z]+@lake\.example`: {14, -1},
		`B-?\d+(, \d+)*`:       {2, -1},
		`(AB){2,5}`:            {4, 10},
		`^x?y?$`:               {0, 2},
		`.{2,5}z`:              {3, 6},
	} {
		sampler, ok := expr.NewSampler(pattern)
		assert.True(t, ok, pattern)
		least, most := sampler.Least, sampler.Most
		assert.Equal(t, lengths, [2]int{least, most}, pattern)
		if most < 0 {
			most = least + 9
		}
		found := 0
		for n := range most + 4 {
			text, ok := sampler.Sample(n, 0)
			if ok {
				found++
				assert.Len(t, text, n, pattern)
			}
			assert.False(t, ok && (n < least || n > most && lengths[1] >= 0), "%s with %d", pattern, n)
		}
		assert.Greater(t, found, 0, pattern)
	}
	sampler, _ := expr.NewSampler(`(ana|eva|bo)+`)
	text, ok := sampler.Sample(3, 1)
	assert.True(t, ok)
	assert.Equal(t, "eva", text)
	assert.True(t, sampler.Plain)
	for _, pattern := range []string{`.{6}`, `(?i)kiel`, `[a-zß]{4}`, `a\s?b`} {
		sampler, _ = expr.NewSampler(pattern)
		assert.False(t, sampler.Plain, pattern)
	}
	_, ok = expr.NewSampler("[")
	assert.False(t, ok)
}
