package expr_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/expr"
)

// What count is given is what it means: several picks, rows, or a value in a grid. Else it
// is refused, with what to write instead.
func TestWhatIsCounted(t *testing.T) {
	meals := &expr.Symbol{Key: "meals", Label: "Meals", Type: expr.Type{Kind: expr.Grid,
		Options: expr.NewOptions([]string{"veg", "fish"}, []string{"Vegetarian", "Fish"})},
		Rows: []string{"fri", "sat", "sun"}}
	days := &expr.Symbol{Key: "days", Label: "Days", Slot: 1, Type: expr.Type{Kind: expr.Choices,
		Options: expr.NewOptions([]string{"sat", "sun"}, []string{"Saturday", "Sunday"})}}
	age := &expr.Symbol{Key: "age", Label: "Age", Slot: 2, Type: expr.Type{Kind: expr.Num}}
	syms := &expr.Symbols{Items: map[string]*expr.Symbol{"meals": meals, "days": days, "age": age},
		Groups: map[string]*expr.GroupSymbol{}}
	for src, says := range map[string]string{
		"count(meals)": `count(meals, "value")`, "count(meals, \"meat\") > 1": "meat", "count(age)": "age is answered",
		"count(days, age)": "a condition beside a section", "count(days, age, meals)": "count(a) + count(b)",
	} {
		n, err := expr.Parse(src)
		require.NoError(t, err)
		_, faults := expr.Compile(n, syms)
		require.NotEmpty(t, faults, src)
		assert.Contains(t, faults[0].Text, says, src)
	}
	n, err := expr.Parse(`count(meals, "veg") + 2 * count(meals, "fish") + count(days)`)
	require.NoError(t, err)
	code, faults := expr.Compile(n, syms)
	require.Empty(t, faults)
	one := func(v string) expr.Value { return expr.ChoiceValue(v) }
	grid := expr.GridValue([]expr.Cell{{Row: "fri", Value: one("veg")}, {Row: "sat", Value: one("fish")}, {Row: "sun",
		Value: expr.ChoicesValue([]string{"veg", "fish"})}})
	f := &expr.Evaluation{Slots: []expr.Value{grid, expr.ChoicesValue([]string{"sat"}), {}}}
	v := code.Value(f)
	assert.Equal(t, "7", v.Number().String())
	f.Slots[0] = expr.Value{}
	v = code.Value(f)
	assert.Equal(t, "1", v.Number().String())

	n, err = expr.Parse(`count(meals, "veg") >= 2`)
	require.NoError(t, err)
	said := expr.PiecesText(syms.Sentence(n))
	assert.Equal(t, "the number of rows with Vegetarian in Meals is at least 2", said)
	back, err := syms.ReadSentence(said, true)
	require.NoError(t, err)
	assert.True(t, expr.Equal(n, back), back.String())
}
