package main

import (
	"fmt"
	"regexp"
	"strings"
)

type kind int

const (
	text    kind = iota // a word between blanks
	open                // <p>
	void                // <br>, and what is never closed
	closing             // </p>
	raw                 // <!doctype>, comments, and the whole of what keeps its blanks
	action              // {{.Title}}
	begin               // {{if}}, {{range}}, {{with}}, {{define}}
	middle              // {{else}}
	end                 // {{end}}
	control             // {{template}}, a comment, an assignment
)

// gap is what stands between two tokens.
type gap int

const (
	none gap = iota
	blank
	newline
)

// token is a piece of a template with the gap before it.
type token struct {
	kind
	text string
	name string // of an element
	gap  gap
}

// keeping are the elements whose blanks are kept as they are.
var keeping = map[string]bool{"pre": true, "textarea": true, "script": true, "style": true}

var voids = set("area base br col embed hr img input link meta source track wbr path circle rect line")

// blocks are the elements around which, and at whose edges, blanks mean nothing.
var blocks = set(`html head body main section header footer nav aside div p ul ol li dl dt dd table thead tbody tr th td form fieldset
	legend details summary h1 h2 h3 h4 dialog title meta link script option optgroup select blockquote article path circle rect line svg g`)

func set(names string) map[string]bool {
	out := map[string]bool{}
	for _, name := range strings.Fields(names) {
		out[name] = true
	}
	return out
}

var (
	actionHead = regexp.MustCompile(`^\{\{-?\s*(if|range|with|define|block|else|end|template|/\*|\$\w+\s*:?=)?`)
	tagHead    = regexp.MustCompile(`^</?([a-zA-Z][a-zA-Z0-9]*)`)
)

// scan cuts a template into tokens.
func scan(src string) ([]token, error) {
	var out []token
	for {
		rest := strings.TrimLeft(src, " \t\r\n")
		g := gapOf(src[:len(src)-len(rest)])
		if rest == "" {
			return out, nil
		}
		t, n, err := next(rest)
		if err != nil {
			return nil, err
		}
		t.gap = g
		if t.text = rest[:n]; t.kind == open && keeping[t.name] {
			n = strings.Index(rest, "</"+t.name+">")
			if n < 0 {
				return nil, fmt.Errorf("%s is not closed", t.text)
			}
			n += len("</" + t.name + ">")
			t.kind, t.text = raw, rest[:n]
		}
		out = append(out, t)
		src = rest[n:]
	}
}

func gapOf(blanks string) gap {
	switch {
	case blanks == "":
		return none
	case strings.Contains(blanks, "\n"):
		return newline
	}
	return blank
}

// next is the token at the beginning of a text, and its length.
func next(src string) (t token, n int, err error) {
	switch {
	case strings.HasPrefix(src, "{{"):
		n, err = actionEnd(src)
		return token{kind: kindOf(actionHead.FindStringSubmatch(src)[1])}, n, err
	case strings.HasPrefix(src, "<!"):
		n = strings.IndexByte(src, '>') + 1
		return token{kind: raw, name: "html"}, n, nil
	}
	if m := tagHead.FindStringSubmatch(src); m != nil {
		n, err = tagEnd(src)
		t = token{kind: open, name: strings.ToLower(m[1])}
		switch {
		case src[1] == '/':
			t.kind = closing
		case voids[t.name] || err == nil && strings.HasSuffix(src[:n], "/>"):
			t.kind = void
		}
		return t, n, err
	}
	n = len(src)
	for _, stop := range []string{" ", "\t", "\n", "{{", "<"} {
		if at := strings.Index(src[1:], stop); at >= 0 {
			n = min(n, at+1)
		}
	}
	return token{kind: text}, n, nil
}

func kindOf(word string) kind {
	switch {
	case word == "":
		return action
	case word == "else":
		return middle
	case word == "end":
		return end
	case word == "template", word == "/*", strings.HasPrefix(word, "$"):
		return control
	}
	return begin
}

// actionEnd is the length of the action that a text begins with.
func actionEnd(src string) (int, error) {
	if strings.HasPrefix(strings.TrimLeft(src[2:], "- "), "/*") {
		if at := strings.Index(src, "*/"); at >= 0 {
			if end := strings.Index(src[at:], "}}"); end >= 0 {
				return at + end + 2, nil
			}
		}
		return 0, fmt.Errorf("a comment is not closed")
	}
	quote := byte(0)
	for i := 2; i < len(src); i++ {
		switch c := src[i]; {
		case quote != 0 && c == '\\' && quote == '"':
			i++
		case quote != 0:
			if c == quote {
				quote = 0
			}
		case c == '"' || c == '`':
			quote = c
		case strings.HasPrefix(src[i:], "}}"):
			return i + 2, nil
		}
	}
	return 0, fmt.Errorf("an action is not closed: %.40s", src)
}

// tagEnd is the length of the tag that a text begins with.
func tagEnd(src string) (int, error) {
	quoted := false
	for i := 1; i < len(src); i++ {
		switch {
		case strings.HasPrefix(src[i:], "{{"):
			n, err := actionEnd(src[i:])
			if err != nil {
				return 0, err
			}
			i += n - 1
		case src[i] == '"':
			quoted = !quoted
		case src[i] == '>' && !quoted:
			return i + 1, nil
		}
	}
	return 0, fmt.Errorf("a tag is not closed: %.40s", src)
}
