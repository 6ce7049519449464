package list

import (
	"fmt"
	"slices"

	"lazo/core/expr"
	"lazo/core/form"
)

// Difference is in what one state of a list differs from another.
type Difference struct {
	Columns []string // in words
	Added   []form.Entry
	Gone    []form.Entry
	Changed []Change
	Moved   bool // nothing else differs than the order
}

// Change is a cell that says something else.
type Change struct{ Code, Column, Was, Is string }

// None reports whether both states are the same.
func (d Difference) None() bool {
	return len(d.Columns)+len(d.Added)+len(d.Gone)+len(d.Changed) == 0 && !d.Moved
}

// Compare says what is different in after. Entries are told apart by their codes.
func Compare(before, after form.Table) Difference {
	var d Difference
	d.columns(before, after)
	was := byCode(before)
	is := byCode(after)
	for _, e := range after.Entries {
		old, ok := was[code(after, e)]
		if !ok {
			d.Added = append(d.Added, e)
			continue
		}
		for _, c := range after.Columns {
			if from, to := old.Text(c.Key), e.Text(c.Key); from != to {
				if _, both := before.Column(c.Key); both {
					d.Changed = append(d.Changed, Change{e.Text(after.Code()), c.Name, from, to})
				}
			}
		}
	}
	for _, e := range before.Entries {
		if _, ok := is[code(before, e)]; !ok {
			d.Gone = append(d.Gone, e)
		}
	}
	if d.None() {
		d.Moved = !slices.EqualFunc(before.Entries, after.Entries, func(a, b form.Entry) bool {
			return code(before, a) == code(after, b)
		})
	}
	return d
}

func (d *Difference) columns(before, after form.Table) {
	say := func(format string, args ...any) { d.Columns = append(d.Columns, fmt.Sprintf(format, args...)) }
	for _, c := range after.Columns {
		switch old, ok := before.Column(c.Key); {
		case !ok:
			say("a new column “%s” (%s)", c.Name, c.Type.Words())
		case old.Name != c.Name:
			say("the column “%s” is called “%s”", old.Name, c.Name)
		case old.Type != c.Type:
			say("the column “%s” holds %s instead of %s", c.Name, c.Type.Words(), old.Type.Words())
		}
	}
	for _, c := range before.Columns {
		if _, ok := after.Column(c.Key); !ok {
			say("the column “%s” goes away", c.Name)
		}
	}
}

func code(t form.Table, e form.Entry) string { return expr.Fold(e.Text(t.Code())) }

func byCode(t form.Table) map[string]form.Entry {
	out := make(map[string]form.Entry, len(t.Entries))
	for _, e := range t.Entries {
		out[code(t, e)] = e
	}
	return out
}

// Codes are the codes of entries.
func Codes(t form.Table, entries []form.Entry) []string {
	var out []string
	for _, e := range entries {
		out = append(out, e.Text(t.Code()))
	}
	return out
}

// Merge puts the entries of more into t: those with a code that t has take its place,
// others are added. Columns that only one of them has are kept.
func Merge(t, more form.Table) form.Table {
	out := form.Table{Columns: slices.Clone(t.Columns), Entries: make([]form.Entry, 0, len(t.Entries)+len(more.Entries))}
	for _, c := range more.Columns {
		if _, ok := t.Column(c.Key); !ok {
			out.Columns = append(out.Columns, c)
		}
	}
	fresh := byCode(more)
	known := byCode(t)
	for _, e := range t.Entries {
		next := form.Entry{}
		for k, v := range e {
			next[k] = v
		}
		if is, ok := fresh[code(t, e)]; ok {
			for _, c := range more.Columns {
				delete(next, c.Key)
				if v, ok := is[c.Key]; ok {
					next[c.Key] = v
				}
			}
		}
		out.Entries = append(out.Entries, next)
	}
	for _, e := range more.Entries {
		if _, ok := known[code(more, e)]; !ok {
			out.Entries = append(out.Entries, e)
		}
	}
	return out
}
