// Tidy lays templates out as they are read: one element a line, indented by two spaces,
// no line longer than 120 characters. Laying a template out does not change what it
// prints: a line is broken only where white space means nothing, or stands already.
// What the renderer takes out, the line ends beside what only says what comes next,
// means nothing either.
//
//	go run ./web/ui/tidy [-w] FILE...
//
// Without -w it names the files that are not laid out so, or hold a line that is still
// too long, and ends with status 1.
package main

import (
	"fmt"
	"os"
	"strings"
	"unicode/utf8"
)

// width is the longest line, in characters.
const width = 120

func main() {
	files, write := os.Args[1:], false
	if len(files) > 0 && files[0] == "-w" {
		files, write = files[1:], true
	}
	status := 0
	for _, name := range files {
		if err := visit(name, write); err != nil {
			fmt.Fprintf(os.Stderr, "%s: %v\n", name, err)
			status = 1
		}
	}
	os.Exit(status)
}

func visit(name string, write bool) error {
	src, err := os.ReadFile(name)
	if err != nil {
		return err
	}
	out, err := format(string(src))
	if err != nil {
		return err
	}
	if write && out != string(src) {
		return os.WriteFile(name, []byte(out), 0o644) //nolint:gosec // a source file
	}
	if out != string(src) {
		return fmt.Errorf("it is not laid out; run go run ./web/ui/tidy -w %s", name)
	}
	for n, line := range strings.Split(out, "\n") {
		if utf8.RuneCountInString(line) > width {
			return fmt.Errorf("line %d is longer than %d characters and can't be broken", n+1, width)
		}
	}
	return nil
}

// format lays one template out.
func format(src string) (string, error) {
	tokens, err := scan(src)
	if err != nil {
		return "", err
	}
	p := &parser{tokens: tokens}
	nodes := p.sequence(nil)
	if p.at < len(p.tokens) {
		return "", fmt.Errorf("%s belongs to nothing", p.tokens[p.at].text)
	}
	w := &writer{}
	w.sequence(nodes, true)
	return strings.TrimRight(w.out.String(), "\n") + "\n", nil
}
