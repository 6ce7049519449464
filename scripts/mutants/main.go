// Command mutants changes conditions of the sources at random, one at a time, and runs the
// tests that should notice. What nobody noticed is printed: a test is missing there, or the
// condition is.
//
//	mutants -n 40 -seed 7 core store web/respond
//
// A condition is changed as mistakes are made: it is turned over, taken as always met or never,
// a comparison moves by one, "and" becomes "or". The sources themselves are not touched.
package main

import (
	"encoding/json"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"log"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"
)

// mutant is one change of one file.
type mutant struct {
	file     string
	from, to int // bytes
	was, is  string
	line     int
}

// swaps are comparisons and connectives, and what a mistake makes of them.
var swaps = map[token.Token]string{
	token.LSS: "<=", token.LEQ: "<", token.GTR: ">=", token.GEQ: ">", token.EQL: "!=", token.NEQ: "==",
	token.LAND: "||", token.LOR: "&&",
}

func main() {
	log.SetFlags(0)
	n := flag.Int("n", 40, "how many conditions are changed")
	seed := flag.Uint64("seed", uint64(time.Now().UnixNano()), "draws the same ones again")
	flag.Parse()
	var all []mutant
	for _, root := range flag.Args() {
		found, err := conditions(root)
		if err != nil {
			log.Fatal(err)
		}
		all = append(all, found...)
	}
	draw := rand.New(rand.NewPCG(*seed, 1))
	draw.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
	all = all[:min(*n, len(all))]
	fmt.Printf("%d changes, drawn by -seed %d\n", len(all), *seed)
	survived, unbuilt := 0, 0
	for _, m := range all {
		switch said, err := m.try(); {
		case err != nil:
			log.Fatal(err)
		case said == "":
			survived++
			fmt.Printf("survived  %s:%d: %s → %s\n", m.file, m.line, m.was, m.is)
		case strings.Contains(said, "[build failed]"):
			unbuilt++
		}
	}
	fmt.Printf("%d of %d survived\n", survived, len(all)-unbuilt)
}

// conditions finds what can be changed below a directory.
func conditions(root string) (out []mutant, err error) {
	err = filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") ||
			strings.HasSuffix(filepath.Dir(path), "test") {
			return err
		}
		files := token.NewFileSet()
		src, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		file, err := parser.ParseFile(files, path, src, parser.SkipObjectResolution)
		if err != nil {
			return err
		}
		put := func(from, to token.Pos, is string) {
			a, b := files.Position(from), files.Position(to)
			out = append(out, mutant{path, a.Offset, b.Offset, string(src[a.Offset:b.Offset]), is, a.Line})
		}
		ast.Inspect(file, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.IfStmt:
				src := string(src[files.Position(n.Cond.Pos()).Offset:files.Position(n.Cond.End()).Offset])
				put(n.Cond.Pos(), n.Cond.End(), "("+src+") == false")
				put(n.Cond.Pos(), n.Cond.End(), "("+src+") || true")
				put(n.Cond.Pos(), n.Cond.End(), "("+src+") && false")
			case *ast.BinaryExpr:
				if is := swaps[n.Op]; is != "" {
					put(n.OpPos, n.OpPos+token.Pos(len(n.Op.String())), is)
				}
			}
			return true
		})
		return nil
	})
	return out, err
}

// tests are the packages whose tests should notice a change in a directory: its own, and those
// that are for it.
func tests(dir string) []string {
	out := []string{"./" + dir}
	switch {
	case dir == "core/expr":
		out = append(out, "./core/form", "./core/engine")
	case dir == "core/form":
		out = append(out, "./core/author", "./core/engine", "./core/sheet")
	case dir == "store":
		out = append(out, "./web/respond", "./web/desk/...", "./notify", "./web")
	case dir == "web/respond":
		out = append(out, "./web")
	}
	return out
}

// try runs the tests with the change; what they say is "" if none failed.
func (m mutant) try() (said string, err error) {
	src, err := os.ReadFile(m.file)
	if err != nil {
		return "", err
	}
	dir, err := os.MkdirTemp("", "mutant")
	if err != nil {
		return "", err
	}
	defer os.RemoveAll(dir)
	changed, overlay := filepath.Join(dir, "changed.go"), filepath.Join(dir, "overlay.json")
	text := string(src[:m.from]) + m.is + string(src[m.to:])
	if err := os.WriteFile(changed, []byte(text), 0o600); err != nil {
		return "", err
	}
	whole, err := filepath.Abs(m.file)
	if err != nil {
		return "", err
	}
	list, err := json.Marshal(map[string]any{"Replace": map[string]string{whole: changed}})
	if err != nil {
		return "", err
	}
	if err := os.WriteFile(overlay, list, 0o600); err != nil {
		return "", err
	}
	for _, pkg := range tests(filepath.Dir(m.file)) {
		out, err := exec.Command("go", "test", "-overlay", overlay, "-vet", "off", "-failfast", "-timeout", "5m",
			"-skip", "TestTheRecipesOfTheDocs", pkg).CombinedOutput()
		if err != nil {
			return string(out) + " ", nil
		}
	}
	return "", nil
}
