// Package markdown bounds an author's Markdown, so that no text takes long to be read:
// whatever makes a page, a mail or a paper of one goes through its parts.
package markdown

import (
	"regexp"
	"strings"
)

// Bounds: the bytes that are parsed at a time and of the whole, the blocks that begin on one
// line, its indentation, and the links of a part.
const (
	mostOfPart = 20_000
	most       = 200_000
	mostNested = 20
	mostIndent = 100
	mostLinks  = 500
)

// Part is a piece of a text, cut where a paragraph ends.
type Part struct {
	Text string
	// AsWritten tells that it is beyond what people write, and is shown as it stands instead
	// of being parsed.
	AsWritten bool
}

// Parts are the pieces of a text, each of which is quickly parsed.
func Parts(src string) (out []Part) {
	if len(src) > most {
		return []Part{{src, true}}
	}
	for _, text := range cut(src) {
		out = append(out, Part{text, excessive(text)})
	}
	return out
}

// cut cuts a long text where a paragraph ends.
func cut(src string) (out []string) {
	for len(src) > mostOfPart {
		at := strings.LastIndex(src[:mostOfPart], "\n\n")
		if at <= 0 {
			break
		}
		out, src = append(out, src[:at]), src[at:]
	}
	return append(out, src)
}

// nesting are the marks that begin quotations and lists on one line.
var nesting = regexp.MustCompile(`^(?:[ \t]*(?:>|[-+*]|\d{1,9}[.)])(?:[ \t]|$|>)?)+`)

// excessive reports whether a part would take longer to parse than any that is
// written for people.
func excessive(part string) bool {
	if len(part) > mostOfPart || strings.Count(part, "](")+strings.Count(part, "[") > mostLinks {
		return true
	}
	for line := range strings.Lines(part) {
		if indent := len(line) - len(strings.TrimLeft(line, " \t")); indent > mostIndent || nested(line) > mostNested {
			return true
		}
	}
	return false
}

// nested counts the quotations and list entries that begin on a line, but for one
// that draws a rule.
func nested(line string) (n int) {
	if strings.Trim(line, "- \t\r\n") == "" || strings.Trim(line, "* \t\r\n") == "" {
		return 0
	}
	for _, r := range nesting.FindString(line) {
		if strings.ContainsRune(">-+*.)", r) {
			n++
		}
	}
	return n
}
