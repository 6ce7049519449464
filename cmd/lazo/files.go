package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/core/proof"
)

// opened opens a file, or standard input for "-".
func opened(path string) (io.ReadCloser, error) {
	if path == "-" {
		return io.NopCloser(os.Stdin), nil
	}
	return os.Open(path)
}

// readFile reads a file, or standard input for "-", up to a limit.
func readFile(path string, limit int64) ([]byte, error) {
	in, err := opened(path)
	if err != nil {
		return nil, err
	}
	defer in.Close()
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
func loadProgram(path string, lists map[string]string) (*engine.Program, error) {
	data, err := readFile(path, form.MaxBytes)
	if err != nil {
		return nil, err
	}
	shared, err := readLists(lists)
	if err != nil {
		return nil, err
	}
	p, remarks := engine.LoadWith(data, shared)
	if p == nil {
		for _, r := range form.Errors(remarks) {
			fmt.Fprintln(os.Stderr, r)
		}
		return nil, status(1)
	}
	return p, nil
}

// readLists reads lists of the workspace, each from a CSV file.
func readLists(files map[string]string) (map[string]form.Table, error) {
	out := map[string]form.Table{}
	for key, path := range files {
		data, err := readFile(path, form.MaxBytes)
		if err != nil {
			return nil, fmt.Errorf("--list %s: %w", key, err)
		}
		entries, err := exchange.ReadList(bytes.NewReader(data))
		out[key] = form.Table{Entries: entries}
		if err != nil {
			return nil, fmt.Errorf("--list %s: %w", key, err)
		}
	}
	return out, nil
}

type rehearseCmd struct {
	Form    string            `arg:"" help:"The form file, or - for standard input."`
	Answers string            `help:"A JSON file of answers by key." placeholder:"FILE"`
	URL     string            `name:"url" help:"Address parameters as they stand after the question mark." placeholder:"club=Harbor&x=1"`
	At      string            `help:"The moment, in RFC 3339; now if left out." placeholder:"2026-05-30T12:00:00-03:00"`
	Mode    string            `help:"new, revisit or staff." default:"new" enum:"new,revisit,staff"`
	Prior   string            `help:"A JSON file of the answers before, for revisit and staff." placeholder:"FILE"`
	Taken   string            `help:"A JSON file of the places that are taken, by question and choice." placeholder:"FILE"`
	List    map[string]string `help:"The entries of a list of the workspace, as CSV." placeholder:"KEY=FILE.csv"`
	Begun   string            `help:"When the filling was begun, in RFC 3339, for the grace after closing; the moment if left out." placeholder:"TIME"`
	Many    string            `help:"A file of inputs, a JSON object a line: answers, url, at, mode, prior, begun, taken. Prints an outcome a line." placeholder:"FILE.ndjson"`
	Why     string            `help:"Explain the item, section or page with this key in plain sentences; KEY:2 is its second row." placeholder:"KEY"`
}

func (c *rehearseCmd) Run() error {
	p, err := loadProgram(c.Form, c.List)
	if err != nil {
		return err
	}
	if c.Many != "" {
		return rehearseMany(p, c.Many, os.Stdout)
	}
	asked := rehearsal{URL: c.URL, At: c.At, Mode: c.Mode, Begun: c.Begun}
	if asked.Answers, err = readFileOf(c.Answers); err != nil {
		return fmt.Errorf("--answers: %w", err)
	}
	if asked.Prior, err = readFileOf(c.Prior); err != nil {
		return fmt.Errorf("--prior: %w", err)
	}
	if asked.Taken, err = readFileOf(c.Taken); err != nil {
		return fmt.Errorf("--taken: %w", err)
	}
	in, err := asked.input(p)
	if err != nil {
		return fmt.Errorf("--%w", err)
	}
	if c.Why != "" {
		return explain(p.Run(in), c.Why)
	}
	return printJSON(report(p, in))
}

// rehearsal is one input as it is written in JSON.
type rehearsal struct {
	Answers json.RawMessage `json:"answers"`
	URL     string          `json:"url"`
	At      string          `json:"at"`
	Mode    string          `json:"mode"`
	Prior   json.RawMessage `json:"prior"`
	Begun   string          `json:"begun"`
	Taken   json.RawMessage `json:"taken"`
}

// input reads it for a form; an error begins with the name of what is wrong.
func (r rehearsal) input(p *engine.Program) (engine.Input, error) {
	in := engine.Input{Mode: engine.Mode(r.Mode), At: time.Now()}
	if r.Mode != "" && !in.Mode.Known() {
		return in, fmt.Errorf("mode: new, revisit or staff was expected; %q was found", r.Mode)
	}
	var err error
	for _, m := range []struct {
		name, text string
		into       *time.Time
	}{{"at", r.At, &in.At}, {"begun", r.Begun, &in.Begun}} {
		if m.text == "" {
			continue
		}
		if *m.into, err = time.Parse(time.RFC3339, m.text); err != nil {
			return in, fmt.Errorf("%s: a moment in RFC 3339 was expected, such as 2026-05-30T12:00:00-03:00; %q was found",
				m.name, m.text)
		}
	}
	if in.Params, err = url.ParseQuery(strings.TrimPrefix(r.URL, "?")); err != nil {
		return in, fmt.Errorf("url: %w", err)
	}
	if in.Answers, err = readAnswers(p, r.Answers); err != nil {
		return in, fmt.Errorf("answers: %w", err)
	}
	if in.Prior, err = readAnswers(p, r.Prior); err != nil {
		return in, fmt.Errorf("prior: %w", err)
	}
	if len(r.Taken) > 0 {
		if err = json.Unmarshal(r.Taken, &in.Taken); err != nil {
			return in, fmt.Errorf("taken: %w", err)
		}
	}
	return in, nil
}

func report(p *engine.Program, in engine.Input) map[string]any {
	next, changes := p.NextChange(in)
	return p.Run(in).Report(next, changes)
}

// rehearseMany prints the outcome of each line of a file, in order.
func rehearseMany(p *engine.Program, path string, to io.Writer) error {
	in, err := opened(path)
	if err != nil {
		return fmt.Errorf("--many: %w", err)
	}
	defer in.Close()
	out := bufio.NewWriter(to)
	defer out.Flush()
	enc := json.NewEncoder(out)
	enc.SetEscapeHTML(false)
	lines := bufio.NewScanner(in)
	lines.Buffer(nil, 2*engine.MaxAnswers)
	for n := 1; lines.Scan(); n++ {
		if len(bytes.TrimSpace(lines.Bytes())) == 0 {
			continue
		}
		var r rehearsal
		if err := json.Unmarshal(lines.Bytes(), &r); err != nil {
			return fmt.Errorf("--many: line %d: %w", n, err)
		}
		one, err := r.input(p)
		if err != nil {
			return fmt.Errorf("--many: line %d: %w", n, err)
		}
		if err := enc.Encode(report(p, one)); err != nil {
			return err
		}
	}
	if err := lines.Err(); err != nil {
		return fmt.Errorf("--many: %w", err)
	}
	return nil
}

// readFileOf reads a file of answers; nil for no path.
func readFileOf(path string) (json.RawMessage, error) {
	if path == "" {
		return nil, nil
	}
	return readFile(path, engine.MaxAnswers)
}

// readAnswers reads answers by key; nil for none.
func readAnswers(p *engine.Program, data json.RawMessage) (*engine.Answers, error) {
	if len(data) == 0 || string(data) == "null" {
		return nil, nil
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
	Form    string            `arg:"" help:"The form file, or - for standard input."`
	Shapes  bool              `help:"Add the ways in which the form can look."`
	Walks   bool              `help:"Add few fillings that try everything both ways."`
	Against string            `help:"Add what another edition makes otherwise." placeholder:"OLD.json"`
	Limit   time.Duration     `help:"Stop after a time, and say what is not decided." default:"60s"`
	At      string            `help:"The moment that witnesses have where none matters, RFC 3339; now unless given."`
	List    map[string]string `help:"The entries of a list of the workspace, as CSV." placeholder:"KEY=FILE.csv"`
}

// left tells how much is left of the time that begins now; nil is no end.
func (c *proofCmd) left() func() time.Duration {
	if c.Limit <= 0 {
		return nil
	}
	end := time.Now().Add(c.Limit)
	return func() time.Duration { return time.Until(end) }
}

// Run prints what can be proven of a form; the exit status is 1 if any remark is an error.
func (c *proofCmd) Run() error {
	left := c.left()
	p, remarks, err := c.load(c.Form)
	if err != nil {
		return err
	}
	out := map[string]any{}
	all := []proof.Remark{}
	for _, r := range remarks {
		all = append(all, proof.Remark{Remark: r})
	}
	if p != nil {
		at, err := c.moment()
		if err != nil {
			return err
		}
		report := proof.Of(p, proof.Options{At: at, Left: left, Shapes: c.Shapes, Walks: c.Walks})
		all = append(all, report.Remarks...)
		out["undecided"], out["conditions"] = report.Undecided, report.Conditions
		if c.Shapes {
			out["shapes"] = report.Shapes
		}
		if c.Walks {
			out["walks"], out["least"] = report.Walks, report.Least
		}
		if report.Cut {
			out["cut"] = true
		}
		if c.Against != "" {
			old, _, err := c.load(c.Against)
			if err != nil {
				return err
			}
			if old == nil {
				return fmt.Errorf("--against: %s has errors and can't be compared with", c.Against)
			}
			out["differences"], out["undecided_differences"] = proof.Between(old, p, proof.Options{At: at, Left: left})
		}
	}
	out["remarks"] = all
	if err := printJSON(out); err != nil {
		return err
	}
	if slices.ContainsFunc(all, func(r proof.Remark) bool { return r.Severity == form.Error }) {
		return status(1)
	}
	return nil
}

func (c *proofCmd) load(name string) (*engine.Program, []form.Remark, error) {
	data, err := readFile(name, form.MaxBytes)
	if err != nil {
		return nil, nil, err
	}
	shared, err := readLists(c.List)
	if err != nil {
		return nil, nil, err
	}
	p, remarks := engine.LoadWith(data, shared)
	return p, remarks, nil
}

func (c *proofCmd) moment() (time.Time, error) {
	if c.At == "" {
		return time.Now(), nil
	}
	return time.Parse(time.RFC3339, c.At)
}
