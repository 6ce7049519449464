package paper_test

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/notify/paper"
)

var noon = time.Date(2026, 5, 30, 12, 0, 0, 0, time.UTC)

const confirmation = `Dear **Ana Prado**, your *Halcyon* lies at [Long pier](https://lake.example).

1. Come by the slipway
2. Bring
   - lines
   - fenders

> The wind may turn.

---

Año nuevo, Ελλάδα, Привет. 5 \* 3 &amp; 2.`

func TestADocumentIsPutOnPaper(t *testing.T) {
	data, err := paper.PDF("a4", noon, paper.Document{Title: "Confirmation", Body: confirmation})
	require.NoError(t, err)
	require.True(t, bytes.HasPrefix(data, []byte("%PDF-")))
	again, err := paper.PDF("a4", noon, paper.Document{Title: "Confirmation", Body: confirmation})
	require.NoError(t, err)
	assert.Len(t, again, len(data), "the same text makes the same paper")
	for size, width := range map[string]string{"a4": "595.28", "a5": "420.94", "letter": "612.00", "": "595.28"} {
		data, err := paper.PDF(size, noon, paper.Document{Title: "T", Body: "x"})
		require.NoError(t, err)
		assert.Contains(t, string(data), "/MediaBox [0 0 "+width, size)
	}
}

// What stands on paper is read by a program that is not ours, where there is one.
func TestWhatStandsOnPaper(t *testing.T) {
	reader, err := exec.LookPath("pdftotext")
	if err != nil {
		t.Skip("pdftotext is not installed")
	}
	data, err := paper.PDF("a4", noon, paper.Document{Title: "Confirmation", Body: confirmation},
		paper.Document{Title: "The second", Body: "x"})
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "a.pdf")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	out, err := exec.Command(reader, "-layout", file, "-").Output() //nolint:gosec // a program that was looked up
	require.NoError(t, err)
	for _, want := range []string{"Dear Ana Prado, your Halcyon lies at Long pier (https://lake.example).", "1. ", "• ",
		"lines",
		"The wind may turn.", "Año nuevo, Ελλάδα, Привет. 5 * 3 & 2.", "\fThe second"} {
		assert.Contains(t, string(out), want)
	}
}

func TestWhatCannotBeShownIsSaid(t *testing.T) {
	_, err := paper.PDF("a4", noon, paper.Document{Title: "نشرة", Body: "日本 and Latin"})
	var unshown *paper.UnshownError
	require.ErrorAs(t, err, &unshown)
	assert.Equal(t, []string{"Arabic", "Han"}, unshown.Scripts)
}

func BenchmarkThreePages(b *testing.B) {
	body := strings.Repeat(confirmation+"\n\n", 9)
	for b.Loop() {
		data, err := paper.PDF("a4", noon, paper.Document{Title: "Confirmation", Body: body})
		require.NoError(b, err)
		require.Contains(b, string(data), "/Count 3")
	}
}
