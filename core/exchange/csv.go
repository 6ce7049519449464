// Package exchange writes responses in formats that other programs read.
package exchange

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"lazo/core/expr"
	"lazo/core/form"
)

// Response is one response to be written.
type Response struct {
	ID         string
	Edition    int
	Received   time.Time
	Answers    map[string]any
	Parameters map[string][]string
}

// Table is the layout of responses as columns: one for each question that any of
// the editions stores, those of the newest edition first; one for each row of a
// repeating section.
type Table struct {
	columns []column
	zone    *time.Location
}

type column struct {
	title   string
	section string // of a repeating section, or ""
	row     int
	key     string
	part    string // of a grid its row; "other" for the text that a choice brings
	param   bool
}

// NewTable lays out the columns for editions, the newest first. Rows says how
// many rows of a repeating section there are at most.
func NewTable(editions []*form.Form, rows map[string]int) *Table {
	t := &Table{zone: time.UTC}
	if len(editions) > 0 {
		t.zone = editions[0].Symbols().Zone
	}
	seen := map[string]bool{}
	for _, f := range editions {
		for p := range f.Places() {
			it, sec := p.Item, p.Section
			if !it.Asked() || !it.IsStored() || seen[it.Key] {
				continue
			}
			seen[it.Key] = true
			if sec.Repeat == nil {
				t.add(it, column{title: it.Key, key: it.Key})
				continue
			}
			for r := range rows[sec.Key] {
				t.add(it, column{title: fmt.Sprintf("%s.%d.%s", sec.Key, r+1, it.Key), section: sec.Key, row: r, key: it.Key})
			}
		}
		for _, p := range f.Parameters {
			if name := "url." + p.Name; !seen[name] {
				seen[name] = true
				t.columns = append(t.columns, column{title: name, key: p.Name, param: true})
			}
		}
	}
	return t
}

// add puts the columns of an item: of a grid one for each row, and one more for the text
// that a choice brings.
func (t *Table) add(it *form.Item, c column) {
	part := func(name string) {
		of := c
		of.part, of.title = name, c.title+"."+name
		t.columns = append(t.columns, of)
	}
	if it.Type == form.Grid {
		for _, row := range it.Rows {
			part(row.Key)
		}
		return
	}
	t.columns = append(t.columns, c)
	if it.Other() != "" {
		part(otherPart)
	}
}

const otherPart = "other"

// Pieces are where what the columns hold stands in a response's answers, in their order:
// paths of keys, and of the numbers of rows from 0; nil for an address parameter.
func (t *Table) Pieces() [][]any {
	out := make([][]any, len(t.columns))
	for i, c := range t.columns {
		switch {
		case c.param:
			continue
		case c.section != "":
			out[i] = []any{c.section, c.row, c.key}
		default:
			out[i] = []any{c.key}
		}
		if c.part != "" && c.part != otherPart {
			out[i] = append(out[i], c.part)
		}
	}
	return out
}

// CSV writes a heading and then each response that each hands to write, with the pieces
// of its answers that [Table.Pieces] asks for, as JSON. The format is RFC 4180 with a byte
// order mark, so that spreadsheets read it as UTF-8; cells that a spreadsheet would take
// for a formula begin with an apostrophe.
func (t *Table) CSV(w io.Writer, each func(write func(Response, [][]byte) error) error) error {
	if _, err := io.WriteString(w, "\ufeff"); err != nil {
		return err
	}
	out := csv.NewWriter(w)
	out.UseCRLF = true
	head := []string{"response", "received", "edition"}
	for _, c := range t.columns {
		head = append(head, c.title)
	}
	if err := out.Write(head); err != nil {
		return err
	}
	line := make([]string, 0, len(head))
	err := each(func(r Response, pieces [][]byte) error {
		line = append(line[:0], r.ID, r.Received.In(t.zone).Format("2006-01-02 15:04:05"), strconv.Itoa(r.Edition))
		for i := range t.columns {
			line = append(line, t.columns[i].text(r, pieces[i]))
		}
		return out.Write(line)
	})
	if err != nil {
		return err
	}
	out.Flush()
	return out.Error()
}

// Cut finds pieces of answers, as JSON; nil for none.
func Cut(answers map[string]any, pieces [][]any) ([][]byte, error) {
	out := make([][]byte, len(pieces))
	for i, piece := range pieces {
		var v any
		if piece != nil {
			v = any(answers)
		}
		for _, step := range piece {
			switch step := step.(type) {
			case int:
				list, _ := v.([]any)
				if v = nil; step < len(list) {
					v = list[step]
				}
			case string:
				m, _ := v.(map[string]any)
				v = m[step]
			}
		}
		if v == nil {
			continue
		}
		var err error
		if out[i], err = json.Marshal(v); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// text is what a cell says of a piece of the answers.
func (c *column) text(r Response, piece []byte) string {
	switch {
	case c.param:
		return safe(strings.Join(r.Parameters[c.key], ", "))
	case len(piece) == 0:
		return ""
	}
	v := Value(piece)
	if c.part == otherPart {
		v, _ = otherText(v)
	}
	return safe(v)
}

// Value reads an answer as JSON; the usual answers, plain texts and numbers, without more ado.
func Value(data []byte) any {
	switch c := data[0]; {
	case c == '"' && bytes.IndexByte(data, '\\') < 0:
		return string(data[1 : len(data)-1])
	case c == '-' || c >= '0' && c <= '9':
		return json.Number(data)
	}
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	var v any
	if dec.Decode(&v) != nil {
		return nil
	}
	return v
}

func (c column) cell(r Response) any {
	if c.param {
		return strings.Join(r.Parameters[c.key], ", ")
	}
	answers := r.Answers
	if c.section != "" {
		rows, _ := answers[c.section].([]any)
		if c.row >= len(rows) {
			return nil
		}
		answers, _ = rows[c.row].(map[string]any)
	}
	v := answers[c.key]
	if c.part == "" {
		return v
	}
	if text, ok := otherText(v); c.part == otherPart && ok {
		return text
	}
	cells, _ := v.(map[string]any)
	return cells[c.part]
}

// otherText is what was written for the choice that brings a text of its own.
func otherText(v any) (string, bool) {
	switch v := v.(type) {
	case map[string]any:
		text, ok := v["text"].(string)
		return text, ok && v["value"] != nil
	case []any:
		for _, e := range v {
			if text, ok := otherText(e); ok {
				return text, true
			}
		}
	}
	return "", false
}

// safe prints a value; what could run as a formula is made harmless.
func safe(v any) string {
	if n, ok := v.(json.Number); ok {
		return n.String()
	}
	s := Plain(v)
	if s == "" || s[0] >= '0' && s[0] <= '9' || s[0] >= 'A' && s[0] <= 'Z' || s[0] >= 'a' && s[0] <= 'z' {
		return s // as nearly all do
	}
	// Spreadsheets look past blanks and line breaks, and read wide letters as narrow ones.
	bare := strings.TrimLeftFunc(s,
		func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) || unicode.Is(unicode.Cf, r) })
	if first, _ := utf8.DecodeRuneInString(bare); strings.ContainsRune("=+-@＝＋－＠", first) && bare != "" ||
		strings.HasPrefix(s, "\t") ||
		strings.HasPrefix(s, "\r") {
		return "'" + s
	}
	return s
}

// asMeant takes back what safe has done.
func asMeant(cell string) string {
	if bare, ok := strings.CutPrefix(cell, "'"); ok && safe(bare) == cell {
		return bare
	}
	return cell
}

// Plain prints a stored answer as text.
func Plain(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return v
	case bool:
		if v {
			return "yes"
		}
		return "no"
	case []any:
		parts := make([]string, len(v))
		for i, e := range v {
			parts[i] = Plain(e)
		}
		return strings.Join(parts, ", ")
	case map[string]any:
		if value, ok := v["value"].(string); ok {
			return value
		}
		var parts []string
		for _, name := range expr.AddressParts {
			if s := Plain(v[name]); s != "" {
				parts = append(parts, s)
			}
		}
		if len(parts) == 0 {
			return Plain(v["name"])
		}
		return strings.Join(parts, ", ")
	}
	return fmt.Sprint(v)
}
