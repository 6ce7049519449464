package engine

import (
	"slices"

	"lazo/core/expr"
)

// narrow finds entries of a list by what stands in one of their columns, where the
// condition demands that it equals a question: “entry.shore = shore and …”. No other entry
// can be on offer, so that none other is looked at, however long the list is.
type narrow struct {
	by     *expr.Code
	rows   map[string][]int32  // the places of choices by the column's text
	values map[string][]string // and their values, if nothing else decides on any
}

// narrowed finds in a condition what narrows a list to entries with a certain text.
func (c *compiler) narrowed(it *item, columns map[string]*expr.Symbol, scope *expr.Symbols) *narrow {
	if it.where.code == nil {
		return nil
	}
	for _, part := range demanded(it.where.code.Node) {
		column, by := equals(part)
		if column == nil || columns[column.Name] == nil || columns[column.Name].Type.Kind != expr.Text {
			continue
		}
		code, faults := expr.Compile(by, scope)
		if len(faults) > 0 || code.Clock || code.Type.Kind != expr.Text && code.Type.Kind != expr.Choice {
			continue
		}
		out := &narrow{by: code, rows: map[string][]int32{}}
		written := len(it.all) - len(it.entries)
		for i, e := range it.entries {
			if v := e[columns[column.Name].Slot]; !v.IsBlank() {
				key := expr.Fold(v.Text())
				out.rows[key] = append(out.rows[key], int32(written+i))
			}
		}
		if part == it.where.code.Node && it.plainOffer() {
			out.values = map[string][]string{}
			for key, rows := range out.rows {
				for _, i := range rows {
					out.values[key] = append(out.values[key], it.all[i])
				}
			}
		}
		return out
	}
	return nil
}

// plainOffer reports whether nothing but its list's condition decides what is on offer.
func (it *item) plainOffer() bool {
	return len(it.all) == len(it.entries) &&
		it.offered.fixed && it.offered.yes && it.withheld.fixed && !it.withheld.yes
}

// demanded are the conditions that all have to be met for n to be.
func demanded(n expr.Node) []expr.Node {
	and, ok := n.(*expr.Logic)
	if !ok || and.Op != "and" {
		return []expr.Node{n}
	}
	var out []expr.Node
	for _, x := range and.Terms {
		out = append(out, demanded(x)...)
	}
	return out
}

// equals takes “entry.COLUMN = what does not depend on the entry” apart, whichever way
// round it is written.
func equals(n expr.Node) (column *expr.Member, by expr.Node) {
	eq, ok := n.(*expr.Compare)
	if !ok || eq.Op != "=" {
		return nil, nil
	}
	for _, sides := range [][2]expr.Node{{eq.L, eq.R}, {eq.R, eq.L}} {
		m, ok := sides[0].(*expr.Member)
		if !ok || m.Of != "entry" {
			continue
		}
		switch by := sides[1].(type) {
		case *expr.Name, *expr.Literal:
			return m, by
		case *expr.Member:
			if by.Of != "entry" {
				return m, by
			}
		}
	}
	return nil, nil
}

// candidates are the places of the choices that can be on offer: all of them, unless the
// list is narrowed to few. What the response has already is among them.
func (r *run) candidates(it *item, prior *answer) []int32 {
	if it.narrow == nil {
		return nil
	}
	written := len(it.all) - len(it.entries)
	out := make([]int32, written, written+16)
	for i := range out {
		out[i] = int32(i)
	}
	if v := r.value(it.narrow.by); !v.IsBlank() {
		out = append(out, it.narrow.rows[expr.Fold(v.Text())]...)
	}
	if prior.state != given || prior.value.IsBlank() {
		return out
	}
	picks := prior.value.Picks()
	if prior.value.Kind() == expr.Choice {
		picks = []string{prior.value.Text()}
	}
	for _, pick := range picks {
		if i, ok := it.options.Find(pick); ok {
			out = append(out, int32(i))
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
