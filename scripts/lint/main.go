// Lint holds source files to what every reader of them counts on: no function over 80
// lines, and no line over 120 characters but for one that a string makes so long.
//
//	go run ./scripts/lint FILE...
package main

import (
	"bytes"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"strings"
	"unicode/utf8"
)

const (
	longestLine     = 120
	longestFunction = 80
)

func main() {
	status := 0
	for _, name := range os.Args[1:] {
		faults, err := check(name)
		if err != nil {
			faults = []string{err.Error()}
		}
		for _, f := range faults {
			fmt.Fprintln(os.Stderr, f)
			status = 1
		}
	}
	os.Exit(status)
}

func check(name string) ([]string, error) {
	src, err := os.ReadFile(name)
	if err != nil {
		return nil, err
	}
	files := token.NewFileSet()
	f, err := parser.ParseFile(files, name, src, parser.ParseComments)
	if err != nil {
		return nil, err
	}
	var faults []string
	for n, line := range bytes.Split(src, []byte("\n")) {
		if size := utf8.RuneCount(line); size > longestLine && size-inStrings(files, f, n+1) > longestLine {
			faults = append(faults, fmt.Sprintf("%s:%d: the line has %d characters", name, n+1, size))
		}
	}
	for _, d := range f.Decls {
		fn, ok := d.(*ast.FuncDecl)
		if !ok || strings.HasSuffix(name, "_test.go") { // a story in a test may be long
			continue
		}
		from, to := files.Position(fn.Pos()).Line, files.Position(fn.End()).Line
		if to-from >= longestFunction {
			faults = append(faults, fmt.Sprintf("%s:%d: %s has %d lines", name, from, fn.Name.Name, to-from+1))
		}
	}
	return faults, nil
}

// inStrings is how much of a line is in strings of more than 40 characters.
func inStrings(files *token.FileSet, f *ast.File, line int) (size int) {
	ast.Inspect(f, func(n ast.Node) bool {
		lit, ok := n.(*ast.BasicLit)
		if !ok || lit.Kind != token.STRING || len(lit.Value) <= 40 {
			return true
		}
		from, to := files.Position(lit.Pos()).Line, files.Position(lit.End()).Line
		if from <= line && line <= to {
			size += utf8.RuneCountInString(lit.Value)
		}
		return true
	})
	return size
}
