package web_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A recipe is a piece of source, and the line of a file behind which it stands.
var recipe = regexp.MustCompile("(?s)ehind `([^`\n]+)` in `([^`\n]+)`:\n\n```[a-z]+\n(.*?)```")

// What docs/adding.md adds as an example is added to a copy of the sources, built and tried.
func TestTheRecipesOfTheDocs(t *testing.T) {
	atLength(t)
	text, err := os.ReadFile("../docs/adding.md")
	require.NoError(t, err)
	sources := map[string]string{}
	for _, m := range recipe.FindAllStringSubmatch(string(text), -1) {
		behind, file, piece := m[1], m[2], m[3]
		if sources[file] == "" {
			source, err := os.ReadFile("../" + file)
			require.NoError(t, err)
			sources[file] = string(source)
		}
		require.Equal(t, 1, strings.Count(sources[file], behind+"\n"), "%s in %s", behind, file)
		sources[file] = strings.Replace(sources[file], behind+"\n", behind+"\n"+piece, 1)
	}
	require.Len(t, sources, 4, "the recipes are no longer found")
	dir, err := filepath.Abs("..")
	require.NoError(t, err)
	replace := map[string]string{}
	for file, source := range sources {
		copied := filepath.Join(t.TempDir(), filepath.Base(file))
		require.NoError(t, os.WriteFile(copied, []byte(source), 0o600))
		replace[filepath.Join(dir, file)] = copied
	}
	overlay := filepath.Join(t.TempDir(), "overlay.json")
	list, err := json.Marshal(map[string]any{"Replace": replace})
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(overlay, list, 0o600))
	out, err := exec.Command("go", "test", "-overlay", overlay, "-tags", "recipe", "-vet", "off", "-v",
		"-run", "IsAddedByItsRow$", ".").CombinedOutput()
	require.NoError(t, err, "%s", out)
	assert.Equal(t, 3, strings.Count(string(out), "--- PASS"), "%s", out)
}

// docs/adding.md names the files in which something grows; all of them are there.
func TestTheFilesInWhichSomethingGrowsAreThere(t *testing.T) {
	text, err := os.ReadFile("../docs/adding.md")
	require.NoError(t, err)
	names := regexp.MustCompile("`([a-z_0-9/]+\\.(?:go|html|json|sql|md))`").FindAllStringSubmatch(string(text), -1)
	require.Greater(t, len(names), 15)
	for _, name := range names {
		assert.FileExists(t, "../"+name[1])
	}
}
