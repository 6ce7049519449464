package manuscript

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/form"
)

// What comes and goes, done to the rows of before, gives those of after; what stays is
// never sent.
func TestRowsThatComeAndGo(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		keys := []string{"a", "b", "c", "d", "e", "f", "g"}
		some := func(name string) sectionRow {
			all := rapid.Permutation(keys).Draw(t, name)
			var out sectionRow
			out.Section = &form.Section{Key: "s"}
			for _, key := range all[:rapid.IntRange(0, len(all)).Draw(t, "so many")] {
				out.Items = append(out.Items, itemRow{Item: &form.Item{Key: key}})
			}
			return out
		}
		before, after := some("before"), some("after")
		var c manuscriptChanges
		stay := c.moved(before, after)
		var rows []string
		for _, row := range before.Items {
			if !slices.Contains(c.Gone, row.Key) {
				rows = append(rows, row.Key)
				require.True(t, stay[row.Key])
			}
		}
		for _, come := range c.Come {
			at := slices.Index(rows, come.Behind) + 1
			for i, row := range come.Rows {
				require.False(t, stay[row.Key])
				rows = slices.Insert(rows, at+i, row.Key)
			}
		}
		var want []string
		for _, row := range after.Items {
			want = append(want, row.Key)
		}
		require.Equal(t, want, rows)
	})
}
