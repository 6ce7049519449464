package author_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/form"
)

const fees = `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
 {"key": "class", "type": "choice", "label": "Class", "choices": [{"value": "single"}, {"value": "eight"}]},
 {"key": "hires", "type": "yes_no", "label": "Hires"},
 {"key": "fee", "type": "calculation", "label": "Fee"}]}]}]}`

// A fee is made by pointing alone: cases, what it is in each, and in none.
func TestAFeeByCases(t *testing.T) {
	f, remarks := form.Read([]byte(fees))
	require.Empty(t, remarks)
	do := func(c author.Command) {
		t.Helper()
		d, err := c.Do(f, noon)
		require.NoError(t, err)
		after, back, err := form.Apply(f, d.Edit)
		require.NoError(t, err)
		before, _, err := form.Apply(after, back)
		require.NoError(t, err)
		require.Equal(t, string(f.JSON()), string(before.JSON()))
		f = after
	}
	is := func() string { p, _ := f.Find("fee"); return p.Item.Value.Is }
	do(author.SetValueSource{Key: "fee", How: "is", From: "cases"})
	assert.Equal(t, "if(hires, …)", is())
	do(author.SetTieTexts{Key: "fee", Property: "value.cases.0.when", Value: "60"})
	do(author.SetTieTexts{Key: "fee", Property: "value.otherwise", Value: "48.5"})
	assert.Equal(t, "if(hires, 60, 48.5)", is())
	do(author.AddCase{Key: "fee"})
	assert.Equal(t, `if(hires, 60, if(class = …, …, 48.5))`, is(), "the next one is about what none is about yet")
	do(author.ChangePassage{Key: "fee", Property: "value.cases.1.when", Path: "0", Act: "clause", Op: "=",
		Values: []string{"eight"}})
	do(author.SetTieTexts{Key: "fee", Property: "value.cases.1.when", Value: "48.5 * 2"})
	assert.Equal(t, `if(hires, 60, if(class = "eight", 48.5 * 2, 48.5))`, is())
	_, remarks = engine.Compile(f)
	assert.Empty(t, remarks)
	do(author.RemoveTie{Key: "fee", Property: "value.cases.0.when"})
	assert.Equal(t, `if(class = "eight", 48.5 * 2, 48.5)`, is())
	do(author.WriteTie{Key: "fee", Property: "value.cases.0.when", Source: "class is answered and hires"})
	assert.Equal(t, `if(class is answered and hires, 48.5 * 2, 48.5)`, is())
	var fault *author.Fault
	_, err := author.SetTieTexts{Key: "fee", Property: "value.otherwise", Value: "free of charge"}.Do(f, noon)
	require.ErrorAs(t, err, &fault)
	assert.Contains(t, fault.Text, "both must be alike")
	for _, wrong := range []author.Command{
		author.SetTieTexts{Key: "fee", Property: "value.cases.7.when", Value: "1"}, author.AddCase{Key: "class"},
		author.AddCase{Key: "nobody"},
		author.SetTieTexts{Key: "class", Property: "value.otherwise", Value: "1"},
		author.RemoveTie{Key: "fee", Property: "value.cases.7.when"},
	} {
		_, err := wrong.Do(f, noon)
		assert.ErrorIs(t, err, form.ErrEdit, "%#v", wrong)
	}
	do(author.RemoveTie{Key: "fee", Property: "value.cases.0.when"})
	assert.Equal(t, "48.5", is(), "without a case, what it is otherwise stays")
}
