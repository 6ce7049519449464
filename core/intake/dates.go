package intake

import (
	"slices"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// Order is in which order the dates of a column have day and month. It is found from the
// whole column, or said by whoever reads it in; it is never guessed.
type Order string

// The orders of dates in figures, such as 30/05/2026 and 05/30/2026.
const (
	DayFirst   Order = "day"
	MonthFirst Order = "month"
)

// day reads a date in figures in an order; figures is false for what is none, such as
// 2026-05-30.
func (o Order) day(text string) (d expr.Day, ok, figures bool) {
	date, figures := engine.DateInFigures(text)
	if figures {
		d, ok = date.Day(o == MonthFirst)
	}
	return d, ok, figures
}

// Orders are the orders in which all dates of a column can be read: one where the column
// tells, both where it does not, none where nothing is in figures or no order fits.
func Orders(column []string) (out []Order) {
	for _, o := range []Order{DayFirst, MonthFirst} {
		some, all := false, true
		for _, text := range column {
			_, ok, figures := o.day(text)
			some, all = some || figures, all && (ok || !figures)
		}
		if some && all {
			out = append(out, o)
		}
	}
	if len(out) == 2 && !slices.ContainsFunc(column, func(text string) bool { // such as 05/05/2026 alone
		a, _, _ := DayFirst.day(text)
		b, _, _ := MonthFirst.day(text)
		return a != b
	}) {
		return out[:1]
	}
	return out
}

// columnOf are the cells of a column below the heading.
func columnOf(cells [][]string, n int) (out []string) {
	for _, row := range cells[min(1, len(cells)):] {
		if n < len(row) && strings.TrimSpace(row[n]) != "" {
			out = append(out, row[n])
		}
	}
	return out
}

// Dated is how the dates of a column are read.
type Dated struct {
	Orders  []Order              // those that fit all of the column
	Order   Order                // the one that counts, "" where it has to be said
	Samples map[Order][]expr.Day // the first three as each of Orders reads them
}

// DatesOf tells how the dates of a column are read that is matched so; ok is false if the
// column holds no dates, or none in figures.
func DatesOf(f *form.Form, cells [][]string, n int, match string) (out Dated, ok bool) {
	targets := Targets(f, cells[0])
	name, said := Matched(match)
	at := slices.IndexFunc(targets, func(t Target) bool { return t.Name == name })
	if at < 0 || !targets[at].isDate(f) {
		return out, false
	}
	column := columnOf(cells, n)
	out.Orders = Orders(column)
	out.Samples = map[Order][]expr.Day{}
	for _, o := range out.Orders {
		for _, text := range column {
			if d, ok, _ := o.day(text); ok && len(out.Samples[o]) < 3 {
				out.Samples[o] = append(out.Samples[o], d)
			}
		}
	}
	switch {
	case len(out.Orders) == 1:
		out.Order = out.Orders[0]
	case slices.Contains(out.Orders, said):
		out.Order = said
	}
	return out, len(out.Orders) > 0
}

// Matched takes apart what a column is matched to: the target, and the order of its dates
// if that was said.
func Matched(match string) (target string, order Order) {
	target, said, _ := strings.Cut(match, "~")
	return target, Order(said)
}

// Dated is a target together with the order of its dates.
func (o Order) Dated(target string) string {
	if o == "" || target == "" {
		return target
	}
	return target + "~" + string(o)
}

// Read is a date in figures as it is stored; any other text, and a date where no order is
// said, stays as it is.
func (o Order) Read(text string) string {
	if d, ok, _ := o.day(text); ok && o != "" {
		return d.String()
	}
	return text
}

// isDate reports whether the target is answered by a date.
func (t Target) isDate(f *form.Form) bool {
	p, found := f.Find(t.key)
	return found && p.Item.Type == form.Date && t.kind != partTarget && t.kind != otherTarget
}
