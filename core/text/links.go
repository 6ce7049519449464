package text

import (
	"regexp"
	"strings"
)

// Part is a part of a text that people read: plain, or a link with somewhere to go.
type Part struct{ Text, URL string }

// link is a link as Markdown writes it (CommonMark 6.3, without titles), to a page, a mail
// address, or a place of this site.
var link = regexp.MustCompile(`\[([^\[\]\n]+)\]\(((?:https?://|mailto:|/)[^\s()<>"\\]+)\)`)

// Links takes the links out of a label or a help text, which are no Markdown otherwise;
// nil if there are none. Escaped is for a text in which answers stand as Markdown escapes
// them: what they hold never becomes a link.
func Links(src string, escaped bool) []Part {
	if !strings.Contains(src, "](") {
		return nil
	}
	var out []Part
	rest := 0
	plain := func(s string) {
		if s != "" {
			out = append(out, Part{Text: unescaped(s, escaped)})
		}
	}
	for _, m := range link.FindAllStringSubmatchIndex(src, -1) {
		if m[0] > 0 && src[m[0]-1] == '\\' {
			continue
		}
		plain(src[rest:m[0]])
		out = append(out, Part{unescaped(src[m[2]:m[3]], escaped), src[m[4]:m[5]]})
		rest = m[1]
	}
	if rest == 0 {
		return nil
	}
	plain(src[rest:])
	return out
}

// answer is what stands for an answer in a text.
var answer = regexp.MustCompile(`\{[^{}]*\}`)

// Name is a label as one calls it: without where its links go, and with … for answers.
func Name(src string) string {
	if src = Bare(src); !Holds(src) {
		return src
	}
	return strings.ReplaceAll(answer.ReplaceAllString(strings.ReplaceAll(src, "{{", "\x00"), "…"), "\x00", "{")
}

// Bare is a label or help text without where its links go.
func Bare(src string) string {
	parts := Links(src, false)
	if parts == nil {
		return src
	}
	var b strings.Builder
	for _, p := range parts {
		b.WriteString(p.Text)
	}
	return b.String()
}

var escape = regexp.MustCompile(`\\([!-/:-@\[-` + "`" + `{-~])`)

// unescaped takes the backslashes of Markdown out again (CommonMark 2.4).
func unescaped(s string, escaped bool) string {
	if !escaped {
		return s
	}
	return escape.ReplaceAllString(strings.ReplaceAll(s, "\\\n", " "), "$1")
}
