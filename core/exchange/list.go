package exchange

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
)

// ErrList is wrapped by what is wrong with a list's CSV.
var ErrList = errors.New("this is no list")

// ReadList reads a list from CSV (RFC 4180) whose first line names the columns.
// A column of nothing but numbers becomes numbers, of nothing but true and false
// truth values; the others stay texts, so that a code such as 007 keeps its zeros.
func ReadList(in io.Reader) ([]form.Entry, error) {
	r := csv.NewReader(in)
	r.FieldsPerRecord, r.TrimLeadingSpace = -1, true
	rows, err := r.ReadAll()
	if err != nil {
		return nil, fmt.Errorf("%w: %s", ErrList, err)
	}
	if len(rows) == 0 {
		return nil, nil
	}
	if len(rows)-1 > form.MaxChoices {
		return nil, fmt.Errorf("%w: it has more than %d lines", ErrList, form.MaxChoices)
	}
	columns := make([]string, len(rows[0]))
	for i, name := range rows[0] {
		columns[i] = strings.TrimPrefix(strings.TrimSpace(name), "\ufeff")
		if !expr.IsKey(columns[i]) {
			return nil, fmt.Errorf("%w: the first line names the columns, each made of a to z, 0 to 9 and _; “%s” is not",
				ErrList, columns[i])
		}
		if slices.Contains(columns[:i], columns[i]) {
			return nil, fmt.Errorf("%w: two columns are called “%s”", ErrList, columns[i])
		}
	}
	kinds := make([]expr.Kind, len(columns))
	for i := range columns {
		kinds[i] = columnKind(rows[1:], i)
	}
	var out []form.Entry
	for n, row := range rows[1:] {
		if len(row) > len(columns) {
			return nil, fmt.Errorf("%w: line %d has more fields than there are columns", ErrList, n+2)
		}
		e := form.Entry{}
		for i, cell := range row {
			cell = strings.TrimSpace(cell)
			switch {
			case cell == "":
			case kinds[i] == expr.Num:
				e[columns[i]] = json.Number(cell)
			case kinds[i] == expr.YesNo:
				e[columns[i]] = cell == "true"
			default:
				e[columns[i]] = cell
			}
		}
		out = append(out, e)
	}
	return out, nil
}

func columnKind(rows [][]string, column int) expr.Kind {
	kind := expr.Blank
	for _, row := range rows {
		if column >= len(row) || strings.TrimSpace(row[column]) == "" {
			continue
		}
		cell, this := strings.TrimSpace(row[column]), expr.Text
		if n, err := expr.ParseNumber(cell); err == nil && n.String() == cell {
			this = expr.Num
		} else if cell == "true" || cell == "false" {
			this = expr.YesNo
		}
		if kind != expr.Blank && kind != this {
			return expr.Text
		}
		kind = this
	}
	return kind
}

// WriteList writes a list as ReadList reads it.
func WriteList(out io.Writer, list []form.Entry) error {
	names := map[string]bool{}
	for _, e := range list {
		for name := range e {
			names[name] = true
		}
	}
	columns := slices.Sorted(maps.Keys(names))
	w := csv.NewWriter(out)
	if err := w.Write(columns); err != nil {
		return err
	}
	for _, e := range list {
		row := make([]string, len(columns))
		for i, name := range columns {
			row[i] = e.Text(name)
			if b, ok := e[name].(bool); ok {
				row[i] = fmt.Sprint(b)
			}
		}
		if err := w.Write(row); err != nil {
			return err
		}
	}
	w.Flush()
	return w.Error()
}
