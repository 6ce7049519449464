package engine

import (
	"lazo/core/expr"
	"lazo/core/form"
)

// gridRows compiles when the rows of a grid are shown.
func (c *compiler) gridRows(it *item, pl func(string, bool) place, scope *expr.Symbols) {
	if it.Type != form.Grid {
		if len(it.Rows) > 0 {
			c.remark("senseless", form.Warning, it.at+".rows", it.Key, "only a grid has rows")
		}
		return
	}
	it.all = it.options.Values
	if len(it.Rows) == 0 || len(it.all) == 0 {
		c.remark("senseless", form.Warning, it.at, it.Key, "%s has no rows or no choices", it.Name())
	}
	for i, row := range it.Rows {
		it.rows = append(it.rows, c.rule(row.Shown, true, pl("rows."+itoa(i)+".shown", true), scope))
	}
}

// readGrid reads an object of picks by the key of the row.
func (p *Program) readGrid(it *item, cells map[string]any, a *answer) {
	var out []expr.Cell
	one := item{Item: it.Item, kind: expr.Choice, options: it.options}
	if it.Many {
		one.kind = expr.Choices
	}
	for _, row := range it.Rows {
		raw, ok := cells[row.Key]
		if !ok {
			continue
		}
		var cell answer
		switch v := raw.(type) {
		case nil:
		case string:
			cell.readText(p, &one, v)
		case []any:
			p.readList(&one, v, &cell)
		case []string:
			list := make([]any, len(v))
			for i := range v {
				list[i] = v[i]
			}
			p.readList(&one, list, &cell)
		default:
			cell.unmatched = true
		}
		a.unmatched = a.unmatched || cell.unmatched || cell.problem != nil
		if !cell.value.IsBlank() {
			out = append(out, expr.Cell{Row: row.Key, Value: cell.value})
		}
	}
	a.value = expr.GridValue(out)
}

// grid finds which rows of a grid are shown, and drops what was picked in others. One that
// would be shown if only the mode were another keeps what the response has.
func (r *run) grid(it *item, st *ItemState, v *expr.Value, prior *answer) {
	shown := make([]bool, len(it.rows))
	for i := range it.rows {
		shown[i] = r.met(&it.rows[i])
	}
	st.own().rows = shown
	var kept []expr.Cell
	for i, row := range it.Rows {
		cell := v.Cell(row.Key)
		if !shown[i] {
			cell = expr.Value{}
			if prior.state == given && r.keepsLineInMode(it, i) {
				cell = prior.value.Cell(row.Key)
			}
		}
		if !cell.IsBlank() {
			kept = append(kept, expr.Cell{Row: row.Key, Value: cell})
		}
	}
	*v = expr.GridValue(kept)
}

// complete reports whether every row of a grid that is shown is answered.
func (s *ItemState) complete(v *expr.Value) bool {
	for i, row := range s.item.Rows {
		if cell := v.Cell(row.Key); s.RowShown(i) && cell.IsBlank() {
			return false
		}
	}
	return true
}

// RowShown reports whether a row of a grid is shown, from 0.
func (s *ItemState) RowShown(i int) bool {
	rows := s.more().rows
	return s.Shown && i < len(rows) && rows[i]
}
