package proof_test

import (
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/proof"
)

// kindsIn are the kinds of what is remarked of a form that is written as an example.
func kindsIn(example string) (out []string) {
	src := formOf([]string{example})
	if strings.HasPrefix(example, `{"pages"`) || strings.HasPrefix(example, `{"lists"`) {
		src = `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", ` + example[1:]
		if !strings.Contains(example, `"pages"`) {
			src = strings.TrimSuffix(src,
				"}") + `, "pages": [{"key": "p", "sections": [{"key": "s", "items": [{"key": "x", "type": "text", "label": "X"}]}]}]}`
		}
	}
	p, remarks := engine.Load([]byte(src))
	for _, m := range remarks {
		out = append(out, m.Kind)
	}
	if p != nil {
		for _, m := range proof.Of(p, usual).Remarks {
			out = append(out, m.Kind)
		}
	}
	return out
}

// What is wrong in each example is remarked on, and what is right is not.
func TestEveryKindHasAMeaning(t *testing.T) {
	for _, m := range proof.Meanings {
		assert.Contains(t, kindsIn(m.Wrong), m.ID, m.Wrong)
		assert.NotContains(t, kindsIn(m.Right), m.ID, m.Right)
	}
	called := regexp.MustCompile(`(?:remark|fault)\([^"\n]*"([a-z]+(?:-[a-z]+)*)"`)
	var all []string
	for _, pattern := range []string{"../form/*.go", "../engine/compile.go", "../expr/check.go"} {
		files, err := filepath.Glob(pattern)
		require.NoError(t, err)
		for _, name := range files {
			src, err := os.ReadFile(name)
			require.NoError(t, err)
			for _, m := range called.FindAllStringSubmatch(string(src), -1) {
				all = append(all, m[1])
			}
		}
	}
	src, err := os.ReadFile("proof.go")
	require.NoError(t, err)
	for _, m := range regexp.MustCompile(`= "([a-z]+-?[a-z-]*)"`).FindAllStringSubmatch(string(src), -1) {
		all = append(all, m[1])
	}
	slices.Sort(all)
	for _, kind := range slices.Compact(all) {
		if _, ok := proof.MeaningOf(kind); !ok && kind != "begun" { // which says what is still to be written
			t.Errorf("what %s means is not written", kind)
		}
	}
}

// The meanings stand in docs/remarks.md.
func TestMeaningsStandInTheDocs(t *testing.T) {
	var b strings.Builder
	for _, m := range proof.Meanings {
		b.WriteString("## " + m.ID + "\n\n" + m.Says + " " + m.Why + "\n\n```json\n" + m.Wrong + "\n```\n\n" +
			"instead, " + strings.ToLower(m.Correction[:1]) + strings.TrimSuffix(m.Correction[1:],
			".") + ":\n\n```json\n" + m.Right + "\n```\n\n")
	}
	docsHave(t, "remarks.md", "meanings", b.String())
}
