package wording

import (
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/language"

	"lazo/core/engine"
	"lazo/core/form"
)

// spokenPhrases finds what the public side says: in its templates, in calls of
// Say, in refusals and in tables of phrases.
func spokenPhrases(t *testing.T) map[string]bool {
	out := map[string]bool{}
	pattern := regexp.MustCompile(`(?:\bsay |\b[Ss]ay\(|Title: |Text: |[a-z]Notice = )("(?:[^"\\]|\\.)*")`)
	tables := regexp.MustCompile(`(?s)var (?:partLabels|closedTexts) = .*?\n\n`)
	quoted := regexp.MustCompile(`"([A-Z][^"]*)"`)
	found := 0
	for _, dir := range []string{"../fill", "../printable", "../respond", "../ui"} {
		require.NoError(t, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.Name() == "assets" || d.Name() == "static" || d.Name() == "filltest" {
				return fs.SkipDir
			}
			if d.IsDir() || strings.HasSuffix(path, "_test.go") {
				return nil
			}
			data, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			text := string(data)
			for _, m := range pattern.FindAllStringSubmatch(text, -1) {
				phrase, err := strconv.Unquote(m[1])
				if err != nil {
					return fmt.Errorf("%s: %s: %w", path, m[1], err)
				}
				out[phrase] = true
				found++
			}
			for _, table := range tables.FindAllString(text, -1) {
				for _, m := range quoted.FindAllStringSubmatch(table, -1) {
					out[m[1]] = true
				}
			}
			return nil
		}))
	}
	require.Greater(t, found, 60, "the search has gone blind")
	for _, p := range engine.ProblemPhrases() {
		out[p] = true
	}
	for _, ty := range form.Types() {
		if ty.Type != form.Note && !ty.Type.Computed() {
			out[ty.Words] = true
		}
	}
	return out
}

func TestEveryPhraseIsSaidInEveryLanguage(t *testing.T) {
	phrases := spokenPhrases(t)
	verbs := regexp.MustCompile(`%(?:\[\d\])?[sd]`)
	for _, k := range known {
		for p := range phrases {
			if k.tag == language.English {
				continue // it says what the code says, but for the plural forms
			}
			said := k.phrases[p].inLanguage(k.tag, []any{100})
			if assert.NotEmpty(t, said, "%s lacks %q", k.file, p) {
				assert.Len(t, verbs.FindAllString(said, -1), len(verbs.FindAllString(p, -1)), "%s: %q", k.file, p)
			}
		}
		for p := range k.phrases {
			assert.True(t, phrases[p], "%s has %q, which nothing says", k.file, p)
		}
	}
}

func TestWordsDatesAndNumbers(t *testing.T) {
	at := time.Date(2026, 5, 3, 18, 5, 0, 0, time.UTC)
	for _, c := range []struct{ tag, next, day, moment, number, page, direction string }{
		{"en", "Next", "May 3, 2026", "May 3, 2026, 6:05\u202fPM", "-1,234,567.50", "Page 2 of 3", "ltr"},
		{"en-GB", "Next", "3 May 2026", "3 May 2026, 18:05", "-1,234,567.50", "Page 2 of 3", "ltr"},
		{"es-UY", "Siguiente", "3 de mayo de 2026", "3 de mayo de 2026, 6:05\u202fp.\u202fm.", "-1.234.567,50",
			"Página 2 de 3", "ltr"},
		{"ar", "التالي", "٣ مايو ٢٠٢٦", "٣ مايو ٢٠٢٦، ٦:٠٥ م", "-١٬٢٣٤٬٥٦٧٫٥٠", "الصفحة ٢ من ٣", "rtl"},
		{"de", "Next", "3. Mai 2026", "3. Mai 2026, 18:05", "-1,234,567.50", "Page 2 of 3", "ltr"},
		{"no such tag", "Next", "May 3, 2026", "May 3, 2026, 6:05\u202fPM", "-1,234,567.50", "Page 2 of 3", "ltr"},
	} {
		w := For(c.tag)
		assert.Equal(t, c.next, w.Say("Next"), c.tag)
		assert.Equal(t, c.day, w.Day(at), c.tag)
		assert.Equal(t, c.moment, w.Moment(at), c.tag)
		assert.Equal(t, c.number, w.Number("-1234567.50"), c.tag)
		assert.Equal(t, c.page, w.Say("Page %d of %d", 2, 3), c.tag)
		assert.Equal(t, c.direction, Direction(c.tag), c.tag)
	}
	assert.Equal(t, "12", For("en").Number("12"))
	assert.Equal(t, "a phrase of nobody’s", For("es").Say("a phrase of nobody’s"))
}

func TestPluralForms(t *testing.T) {
	for _, c := range []struct {
		tag  string
		n    int
		want string
	}{
		{"en", 1, "Please check one answer"}, {"en", 2, "Please check 2 answers"}, {"de", 1, "Please check one answer"},
		{"es", 1, "Revise una respuesta, por favor"}, {"es-UY", 3, "Revise 3 respuestas, por favor"},
		{"ar", 1, "يرجى مراجعة إجابة واحدة"}, {"ar", 2, "يرجى مراجعة إجابتين"}, {"ar", 5, "يرجى مراجعة ٥ إجابات"},
		{"ar", 11, "يرجى مراجعة ١١ إجابة"}, {"ar", 100, "يرجى مراجعة ١٠٠ إجابة"},
	} {
		assert.Equal(t, c.want, For(c.tag).Say("Please check %d answers", c.n), "%s %d", c.tag, c.n)
	}
	for _, k := range known {
		for p, said := range k.phrases {
			if said.forms != nil {
				assert.NotEmpty(t, said.forms["other"], "%s: %q", k.file, p)
			}
		}
	}
}

func TestTheBestLanguageOfAForm(t *testing.T) {
	for _, c := range []struct{ accept, want string }{
		{"", "en"}, {"es-UY,es;q=0.9,en;q=0.5", "es"}, {"fr, ar;q=0.5", "ar"}, {"fr", "en"}, {"en-GB", "en"},
		{"broken;;q=x", "en"}} {
		assert.Equal(t, c.want, Best([]string{"en", "es", "ar"}, c.accept), c.accept)
	}
	assert.Equal(t, "de", Best([]string{"de"}, "es"), "a form of one language")
	assert.Equal(t, "español", OwnName("es"))
}
