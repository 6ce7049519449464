// Package list is what is right and wrong in a list of the workspace: it reads one from
// the cells of a sheet, holds it to its columns, and says in what two states differ.
package list

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/form"
)

// Bounds of a list; its entries are at most [form.MaxChoices].
const (
	MaxColumns = 30
	MaxText    = 1000 // characters in a cell
	MaxName    = 80   // characters in the name of a list or a column
)

// Started is the table of a new list: a code and a name.
func Started() form.Table {
	return form.Table{
		Columns: []form.Column{{Key: "code", Name: "Code", Type: form.TextColumn},
			{Key: "name", Name: "Name", Type: form.TextColumn}},
		Entries: []form.Entry{},
	}
}

// Value reads what is typed in a cell: a number with a point or a comma, yes or no, a
// date such as 2026-05-30, any text. Nothing for what is empty; ok is false for what the
// column does not take.
func Value(t form.ColumnType, cell string) (v any, ok bool) {
	cell = strings.TrimSpace(cell)
	if cell == "" {
		return nil, true
	}
	switch t {
	case form.NumberColumn:
		n, err := expr.ParseNumber(strings.Replace(cell, ",", ".", 1))
		if err != nil {
			return nil, false
		}
		return json.Number(n.String()), true
	case form.YesNoColumn:
		switch strings.ToLower(cell) {
		case "yes", "true", "1", "x":
			return true, true
		case "no", "false", "0":
			return false, true
		}
		return nil, false
	case form.DateColumn:
		_, ok := expr.ParseDay(cell)
		return cell, ok
	}
	return cell, utf8.RuneCountInString(cell) <= MaxText
}

// Wants says what a column takes.
func Wants(t form.ColumnType) string {
	switch t {
	case form.NumberColumn:
		return "a number"
	case form.YesNoColumn:
		return "yes or no"
	case form.DateColumn:
		return "a date such as 2026-05-30"
	}
	return fmt.Sprintf("a text of at most %d characters", MaxText)
}

// Read makes a table of the cells of a sheet. Its first row names the columns, by what
// they are called in the list or by their keys; others are new, of the type that fits
// all that they hold. The first column of the list has to be among them.
func Read(cells [][]string, was form.Table) (form.Table, []exchange.Fault) {
	r := reader{was: was}
	for len(cells) > 0 && blank(cells[len(cells)-1]) {
		cells = cells[:len(cells)-1]
	}
	if len(cells) == 0 {
		r.fault(0, 0, "there is nothing here; the first line names the columns")
		return form.Table{}, r.faults
	}
	r.head(cells[0], cells[1:])
	if len(r.faults) > 0 {
		return form.Table{}, r.faults
	}
	r.table.Entries = make([]form.Entry, 0, len(cells)-1)
	for i, row := range cells[1:] {
		if !blank(row) {
			r.entry(i+1, row)
		}
	}
	if n := len(r.table.Entries); n > form.MaxChoices {
		r.fault(form.MaxChoices+1, 0, "a list has at most %d entries; these are %d", form.MaxChoices, n)
	}
	return r.table, r.faults
}

// maxFaults bounds what is listed at once.
const maxFaults = 100

type reader struct {
	was    form.Table
	table  form.Table
	places []int          // of the columns in the sheet
	codes  map[string]int // the row of each code
	faults []exchange.Fault
}

func (r *reader) fault(row, column int, format string, args ...any) {
	if len(r.faults) < maxFaults {
		r.faults = append(r.faults, exchange.Fault{Cell: exchange.CellName(row, column), Text: fmt.Sprintf(format, args...)})
	}
}

func blank(row []string) bool {
	return !slices.ContainsFunc(row, func(cell string) bool { return strings.TrimSpace(cell) != "" })
}

// head reads the first row. Columns of the list keep their order; new ones follow.
func (r *reader) head(titles []string, rows [][]string) {
	place := map[string]int{}
	taken := map[string]bool{}
	for _, c := range r.was.Columns {
		taken[c.Key] = true
	}
	var fresh []form.Column
	for i, title := range titles {
		title = strings.TrimSpace(title)
		if title == "" {
			if column(rows, i) {
				r.fault(0, i, "this column has no title")
			}
			continue
		}
		c, known := titled(r.was, title)
		if !known {
			c = form.Column{Key: form.FreeKey(form.ProposeKey(title), "column", taken), Name: title, Type: fits(rows, i)}
		}
		_, twice := place[c.Key]
		switch {
		case twice || slices.ContainsFunc(fresh, func(f form.Column) bool { return expr.Fold(f.Name) == expr.Fold(title) }):
			r.fault(0, i, "two columns are called “%s”", title)
		case utf8.RuneCountInString(title) > MaxName:
			r.fault(0, i, "a title has at most %d characters", MaxName)
		case !known:
			fresh = append(fresh, c)
		}
		place[c.Key], taken[c.Key] = i, true
	}
	for _, c := range append(slices.Clone(r.was.Columns), fresh...) {
		if i, ok := place[c.Key]; ok {
			r.table.Columns, r.places = append(r.table.Columns, c), append(r.places, i)
		}
	}
	switch {
	case len(r.table.Columns) > MaxColumns:
		r.fault(0, MaxColumns, "a list has at most %d columns", MaxColumns)
	case len(r.table.Columns) == 0:
		r.fault(0, 0, "the first line names the columns; here it is empty")
	case len(r.was.Columns) > 0 && r.table.Columns[0].Key != r.was.Code():
		r.fault(0, 0, "the column “%s” is missing; it tells which entry is which", r.was.Columns[0].Name)
	case len(r.was.Columns) == 0:
		r.table.Columns[0].Type = form.TextColumn
	}
}

// titled is the column that a title names: by its name or, where none has it, by its key.
func titled(t form.Table, title string) (form.Column, bool) {
	for _, is := range []func(form.Column) bool{
		func(c form.Column) bool { return expr.Fold(c.Name) == expr.Fold(title) },
		func(c form.Column) bool { return c.Key == title },
	} {
		if i := slices.IndexFunc(t.Columns, is); i >= 0 {
			return t.Columns[i], true
		}
	}
	return form.Column{}, false
}

// column reports whether anything stands in a column.
func column(rows [][]string, i int) bool {
	return slices.ContainsFunc(rows, func(row []string) bool { return i < len(row) && strings.TrimSpace(row[i]) != "" })
}

// fits is the type that takes all that a column holds. A number with zeros before it is
// a code, and stays a text.
func fits(rows [][]string, i int) form.ColumnType {
	if !column(rows, i) {
		return form.TextColumn
	}
	for _, t := range []form.ColumnType{form.DateColumn, form.NumberColumn, form.YesNoColumn} {
		all := true
		for _, row := range rows {
			if i >= len(row) || strings.TrimSpace(row[i]) == "" {
				continue
			}
			cell := strings.TrimSpace(row[i])
			v, ok := Value(t, cell)
			if n, number := v.(json.Number); number && n.String() != cell {
				ok = false
			}
			if t == form.YesNoColumn && len(cell) == 1 {
				ok = false
			}
			all = all && ok
		}
		if all {
			return t
		}
	}
	return form.TextColumn
}

func (r *reader) entry(row int, cells []string) {
	e := form.Entry{}
	for n, c := range r.table.Columns {
		i := r.places[n]
		if i >= len(cells) {
			continue
		}
		v, ok := Value(c.Type, cells[i])
		if !ok {
			r.fault(row, i, "the column “%s” takes %s, not “%s”", c.Name, Wants(c.Type), short(cells[i]))
			continue
		}
		if v != nil {
			e[c.Key] = v
		}
	}
	code := e.Text(r.table.Code())
	if r.codes == nil {
		r.codes = map[string]int{}
	}
	switch at, twice := r.codes[expr.Fold(code)]; {
	case code == "":
		r.fault(row, r.places[0], "an entry needs a %s", r.table.Columns[0].Name)
	case twice:
		r.fault(row, r.places[0], "“%s” stands in line %d already; each entry has a %s of its own", code, at+1,
			r.table.Columns[0].Name)
	default:
		r.codes[expr.Fold(code)] = row
		r.table.Entries = append(r.table.Entries, e)
	}
}

func short(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// Cells writes a table as Read reads it.
func Cells(t form.Table) [][]string {
	head := make([]string, len(t.Columns))
	for i, c := range t.Columns {
		head[i] = c.Name
	}
	out := [][]string{head}
	for _, e := range t.Entries {
		row := make([]string, len(t.Columns))
		for i, c := range t.Columns {
			row[i] = e.Text(c.Key)
		}
		out = append(out, row)
	}
	return out
}

// Check holds a table to its columns, whatever it was made by.
func Check(t form.Table) []exchange.Fault {
	_, faults := Read(Cells(t), t)
	return faults
}
