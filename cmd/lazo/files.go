package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/form"
)

// readFile reads a file, or standard input for "-", up to a limit.
func readFile(path string, limit int64) ([]byte, error) {
	in := io.Reader(os.Stdin)
	if path != "-" {
		f, err := os.Open(path)
		if err != nil {
			return nil, err
		}
		defer f.Close()
		in = f
	}
	return io.ReadAll(io.LimitReader(in, limit+1))
}

func printJSON(v any) error {
	enc := json.NewEncoder(os.Stdout)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(v)
}

// loadProgram compiles a form file; if it has errors they are printed and the
// status is 1.
func loadProgram(path string) (*engine.Program, error) {
	data, err := readFile(path, form.MaxBytes)
	if err != nil {
		return nil, err
	}
	p, remarks := engine.Load(data)
	if p == nil {
		for _, r := range form.Errors(remarks) {
			fmt.Fprintln(os.Stderr, r)
		}
		return nil, status(1)
	}
	return p, nil
}

type rehearseCmd struct {
	Form    string `arg:"" help:"The form file, or - for standard input."`
	Answers string `help:"A JSON file of answers by key." placeholder:"FILE"`
	URL     string `name:"url" help:"Address parameters as they stand after the question mark." placeholder:"club=Harbor&x=1"`
	At      string `help:"The moment, in RFC 3339; now if left out." placeholder:"2026-05-30T12:00:00-03:00"`
	Mode    string `help:"new, revisit or staff." default:"new" enum:"new,revisit,staff"`
	Prior   string `help:"A JSON file of the answers before, for revisit and staff." placeholder:"FILE"`
	Why     string `help:"Explain the item, section or page with this key in plain sentences; KEY:2 is its second row." placeholder:"KEY"`
}

func (c *rehearseCmd) Run() error {
	p, err := loadProgram(c.Form)
	if err != nil {
		return err
	}
	in := engine.Input{Mode: engine.Mode(c.Mode), At: time.Now()}
	if c.At != "" {
		if in.At, err = time.Parse(time.RFC3339, c.At); err != nil {
			return fmt.Errorf("--at: a moment in RFC 3339 was expected, such as 2026-05-30T12:00:00-03:00; %q was found", c.At)
		}
	}
	if in.Params, err = url.ParseQuery(strings.TrimPrefix(c.URL, "?")); err != nil {
		return fmt.Errorf("--url: %w", err)
	}
	if in.Answers, err = readAnswers(p, c.Answers); err != nil {
		return fmt.Errorf("--answers: %w", err)
	}
	if in.Prior, err = readAnswers(p, c.Prior); err != nil {
		return fmt.Errorf("--prior: %w", err)
	}
	out := p.Run(in)
	if c.Why != "" {
		return explain(out, c.Why)
	}
	next, changes := p.NextChange(in)
	return printJSON(out.Report(next, changes))
}

func readAnswers(p *engine.Program, path string) (*engine.Answers, error) {
	if path == "" {
		return nil, nil
	}
	data, err := readFile(path, engine.MaxAnswers)
	if err != nil {
		return nil, err
	}
	raw, err := engine.ParseAnswers(data)
	if err != nil {
		return nil, err
	}
	return p.Answers(raw), nil
}

func explain(out *engine.Outcome, key string) error {
	row := 0
	if name, n, ok := strings.Cut(key, ":"); ok {
		i, err := strconv.Atoi(n)
		if err != nil || i < 1 {
			return errors.New("--why: after the colon the number of a row was expected, from 1")
		}
		key, row = name, i-1
	}
	because := out.Why(key, row)
	if because == nil {
		return fmt.Errorf("--why: the form has no item, section or page %q", key)
	}
	for _, b := range because {
		for _, line := range b.Lines() {
			fmt.Println(line)
		}
	}
	return nil
}

type proofCmd struct {
	Form string `arg:"" help:"The form file, or - for standard input."`
}

func (c *proofCmd) Run() error {
	data, err := readFile(c.Form, form.MaxBytes)
	if err != nil {
		return err
	}
	_, remarks := engine.Load(data)
	if remarks == nil {
		remarks = []form.Remark{}
	}
	if err := printJSON(map[string]any{"remarks": remarks}); err != nil {
		return err
	}
	if len(form.Errors(remarks)) > 0 {
		return status(1)
	}
	return nil
}
