package proof_test

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/proof"
)

// The worked examples of docs/proof.md come out as they say there.
func TestTheExamplesOfTheDocs(t *testing.T) {
	data, err := os.ReadFile("../../docs/proof.md")
	require.NoError(t, err)
	_, rest, ok := strings.Cut(string(data), "<!-- examples -->")
	require.True(t, ok)
	rest, _, ok = strings.Cut(rest, "<!-- end of examples -->")
	require.True(t, ok)
	examples := 0
	for _, one := range strings.Split(rest, "```json\n")[1:] {
		items, after, ok := strings.Cut(one, "```")
		require.True(t, ok)
		p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "America/Montevideo",
			"pages": [{"key": "p", "title": "P", "sections": [{"key": "s", "title": "S", "items": ` + items + `}]}]}`))
		require.NotNil(t, p, "%v", remarks)
		r := proof.Of(p, usual)
		var got []string
		for _, m := range r.Remarks {
			line := m.Kind + " " + m.Item
			if m.Part != "" {
				line += " " + m.Part
			}
			if m.Witness != nil {
				answers, err := json.Marshal(m.Witness.Answers)
				require.NoError(t, err)
				line += " " + strings.ReplaceAll(string(answers), `":`, `": `)
			}
			got = append(got, line)
		}
		for _, u := range r.Undecided {
			got = append(got, "undecided "+u.Item)
		}
		var want []string
		for line := range strings.Lines(after) {
			if strings.HasPrefix(line, "    ") {
				want = append(want, strings.TrimSpace(line))
			}
		}
		assert.ElementsMatch(t, want, got, "of\n%s", items)
		examples++
	}
	assert.GreaterOrEqual(t, examples, 4)
}
