package expr_test

import (
	"bufio"
	"flag"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/expr"
)

var update = flag.Bool("update", false, "write what comes of the expressions now into testdata, to be read")

// TestExpressions reads testdata/expressions.txt: an expression, and below it, after
//
//	=  how it is written canonically, if otherwise
//	~  how it reads as a condition, or as a value
//	!  what is wrong with it
//	?  what is senseless about it
//
// Expressions that begin with “in rowers:” stand in a row of that section.
func TestExpressions(t *testing.T) {
	file, err := os.Open("testdata/expressions.txt")
	require.NoError(t, err)
	defer file.Close()
	syms := deskSymbols(t)
	var out strings.Builder
	var want []string
	src := ""
	check := func() {
		if src == "" {
			return
		}
		got := annotate(syms, src)
		if !*update {
			assert.Equal(t, want, got, src)
		}
		out.WriteString(src + "\n" + strings.Join(got, "\n") + "\n\n")
		src, want = "", nil
	}
	lines := bufio.NewScanner(file)
	for lines.Scan() {
		line := lines.Text()
		switch {
		case strings.HasPrefix(line, "#"):
			check()
			out.WriteString(line + "\n\n")
		case line == "":
			check()
		case src == "":
			src = line
		default:
			want = append(want, line)
		}
	}
	check()
	if *update {
		require.NoError(t, os.WriteFile("testdata/expressions.txt", []byte(out.String()), 0o600))
	}
}

func annotate(syms *expr.Symbols, src string) (out []string) {
	text, inRow := strings.CutPrefix(src, "in rowers: ")
	if inRow {
		syms = syms.InRow(syms.Groups["rowers"])
	}
	n, err := expr.Parse(text)
	if err != nil {
		return []string{"! " + err.Error()}
	}
	if canonical := n.String(); canonical != text {
		out = append(out, "= "+canonical)
	}
	code, faults := expr.Compile(n, syms)
	for _, f := range faults {
		out = append(out, "! "+f.Text)
	}
	if code == nil {
		return out
	}
	for _, f := range code.Notes {
		out = append(out, "? "+f.Text)
	}
	read := syms.Phrase
	if code.Type.Kind == expr.YesNo {
		read = syms.Sentence
	}
	return append(out, "~ "+expr.PiecesText(read(n)))
}

// Every sentence of the corpus reads back as what it says.
func TestSentencesAreReadAsTheyAreWritten(t *testing.T) {
	data, err := os.ReadFile("testdata/expressions.txt")
	require.NoError(t, err)
	all, read := 0, 0
	for _, block := range strings.Split(string(data), "\n\n") {
		src, _, _ := strings.Cut(block, "\n")
		text, inRow := strings.CutPrefix(src, "in rowers: ")
		syms := deskSymbols(t)
		if inRow {
			syms = syms.InRow(syms.Groups["rowers"])
		}
		n, err := expr.Parse(text)
		if err != nil || strings.HasPrefix(src, "#") {
			continue
		}
		code, _ := expr.Compile(n, syms)
		if code == nil {
			continue
		}
		condition := code.Type.Kind == expr.YesNo
		said := syms.Phrase
		if condition {
			said = syms.Sentence
		}
		sentence := expr.PiecesText(said(n))
		all++
		back, err := syms.ReadSentence(sentence, condition)
		if !assert.NoError(t, err, "%s, from %s", sentence, text) {
			continue
		}
		read++
		assert.Equal(t, sentence, expr.PiecesText(said(back)))
	}
	assert.Equal(t, all, read)
	assert.Greater(t, all, 100)
}
