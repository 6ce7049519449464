package author_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
)

const pointed = `{"lazo": 1, "key": "a", "title": "A", "timezone": "UTC", "language": "de", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
	{"key": "metres", "type": "number", "label": "Metres"}, {"key": "crew", "type": "number", "label": "Crew"},
	{"key": "name", "type": "text", "label": "Name"}, {"key": "swims", "type": "yes_no", "label": "Swims"},
	{"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "single"}, {"value": "eight"}]}]}]}]}`

// What stays of a clause when a part of it is set otherwise, by the margin, the bar for marked
// questions and views alike.
func TestClauseAfter(t *testing.T) {
	f, remarks := form.Read([]byte(pointed))
	require.Empty(t, form.Errors(remarks))
	for name, try := range map[string]struct {
		before  expr.Clause
		key, op string
		typed   []string
		after   expr.Clause
	}{
		"a value, as German writes it": {
			expr.Clause{Key: "metres", Op: ">"}, "metres", ">", []string{"2,5"},
			expr.Clause{Key: "metres", Op: ">", Values: []string{"2.5"}},
		},
		"a value that can’t be read stays, to be told of": {
			expr.Clause{Key: "metres", Op: ">"}, "metres", ">", []string{"long"},
			expr.Clause{Key: "metres", Op: ">", Values: []string{"long"}},
		},
		"another operator keeps what fits": {
			expr.Clause{Key: "metres", Op: ">"}, "metres", "between", []string{"2,5"},
			expr.Clause{Key: "metres", Op: "between", Values: []string{"2.5", ""}},
		},
		"one without values drops them": {
			expr.Clause{Key: "metres", Op: ">"}, "metres", "answered", []string{"2,5"},
			expr.Clause{Key: "metres", Op: "answered", Values: []string{}},
		},
		"a choice that there is not is to be given": {
			expr.Clause{Key: "boat", Op: "in"}, "boat", "=", []string{"raft", "eight"},
			expr.Clause{Key: "boat", Op: "=", Values: []string{""}},
		},
		"another question drops the value": {
			expr.Clause{Key: "metres", Op: ">"}, "crew", ">", []string{"12"},
			expr.Clause{Key: "crew", Op: ">", Values: []string{""}},
		},
		"and an operator that was merely the likely one": {
			expr.Clause{Key: "metres", Op: ">="}, "boat", ">=", []string{"12"},
			expr.Clause{Key: "boat", Op: "=", Values: []string{""}},
		},
		"an operator of one’s own choice stays": {
			expr.Clause{Key: "metres", Op: "blank"}, "name", "blank", nil,
			expr.Clause{Key: "name", Op: "blank", Values: []string{}},
		},
	} {
		t.Run(name, func(t *testing.T) {
			after, ok := author.ClauseAfter(f, f.Symbols(), try.before, try.key, try.op, try.typed)
			require.True(t, ok)
			assert.Equal(t, try.after, after)
		})
	}
	_, ok := author.ClauseAfter(f, f.Symbols(), expr.Clause{Key: "metres"}, "nobody", "=", nil)
	assert.False(t, ok, "there is no such question")
}
