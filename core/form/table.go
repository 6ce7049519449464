package form

import (
	"encoding/json"
	"maps"
	"slices"

	"lazo/core/expr"
)

// Table is a list of the workspace as it stands: its columns and its entries.
type Table struct {
	Columns []Column `json:"columns"` // the first two name an entry: its code and what people read
	Entries []Entry  `json:"entries"`
}

// Column is a column of a list of the workspace. Its key stays where its name changes.
type Column struct {
	Key  string     `json:"key"`
	Name string     `json:"name"`
	Type ColumnType `json:"type"`
}

// ColumnType is what a column holds.
type ColumnType string

// The types of columns.
const (
	TextColumn   ColumnType = "text"
	NumberColumn ColumnType = "number"
	YesNoColumn  ColumnType = "yesno"
	DateColumn   ColumnType = "date"
)

// ColumnTypes are all types of columns with their words.
var ColumnTypes = []struct {
	Type  ColumnType
	Words string
	kind  expr.Kind
}{
	{TextColumn, "text", expr.Text}, {NumberColumn, "number", expr.Num},
	{YesNoColumn, "yes or no", expr.YesNo}, {DateColumn, "date", expr.Date},
}

// Known reports whether there is such a type.
func (t ColumnType) Known() bool { return t.kind() != expr.Blank }

// Words says the type in plain words.
func (t ColumnType) Words() string {
	for _, c := range ColumnTypes {
		if c.Type == t {
			return c.Words
		}
	}
	return ""
}

func (t ColumnType) kind() expr.Kind {
	for _, c := range ColumnTypes {
		if c.Type == t {
			return c.kind
		}
	}
	return expr.Blank
}

// ColumnTypeOf is the type of a column that holds values of a kind.
func ColumnTypeOf(k expr.Kind) ColumnType {
	for _, c := range ColumnTypes {
		if c.kind == k {
			return c.Type
		}
	}
	return TextColumn
}

// Code is the key of the column that a response stores, "" if there are no columns.
func (t Table) Code() string {
	if len(t.Columns) == 0 {
		return ""
	}
	return t.Columns[0].Key
}

// Label is the key of the column that people read, "" if there is but the code.
func (t Table) Label() string {
	if len(t.Columns) < 2 {
		return ""
	}
	return t.Columns[1].Key
}

// Column finds a column by its key.
func (t Table) Column(key string) (Column, bool) {
	for _, c := range t.Columns {
		if c.Key == key {
			return c, true
		}
	}
	return Column{}, false
}

// List is a table that choices are drawn from: the form's own, or one of the workspace,
// which is not in the form file.
type List struct {
	Shared  string // the key of the workspace's list, "" for one of the form
	Entries []Entry
	Columns []Column // of a list of the workspace; nil where its entries alone tell them
	Carried bool     // it is written with what it has, for a workspace that may not have it
}

// carried is a list of the workspace with what it has.
type carried struct {
	Shared  string   `json:"shared"`
	Columns []Column `json:"columns,omitempty"`
	Entries []Entry  `json:"entries,omitempty"`
}

// Carrying returns the form with its lists of the workspace written into its file.
func (f *Form) Carrying() *Form {
	out := *f
	out.Lists = maps.Clone(f.Lists)
	for name, l := range f.Lists {
		l.Carried = l.Shared != "" && l.Entries != nil
		out.Lists[name] = l
	}
	return &out
}

// MarshalJSON writes the entries, or what the list is in the workspace.
func (l List) MarshalJSON() ([]byte, error) {
	switch {
	case l.Carried:
		return json.Marshal(carried{l.Shared, l.Columns, l.Entries})
	case l.Shared != "":
		return json.Marshal(map[string]string{"shared": l.Shared})
	}
	if l.Entries == nil {
		l.Entries = []Entry{}
	}
	return json.Marshal(l.Entries)
}

// UnmarshalJSON reads what MarshalJSON writes.
func (l *List) UnmarshalJSON(data []byte) error {
	*l = List{}
	if len(data) > 0 && data[0] == '{' {
		var of carried
		err := json.Unmarshal(data, &of)
		*l = List{of.Shared, of.Entries, of.Columns, of.Entries != nil}
		return err
	}
	return json.Unmarshal(data, &l.Entries)
}

// Unknown reports whether the entries are those of a list of the workspace that is not at
// hand.
func (l List) Unknown() bool { return l.Shared != "" && l.Entries == nil }

// WithLists returns the form with the workspace's lists as they stand, by their keys.
func (f *Form) WithLists(shared map[string]Table) *Form {
	out := *f
	out.Lists = maps.Clone(f.Lists)
	for name, l := range f.Lists {
		if t, ok := shared[l.Shared]; ok && l.Shared != "" {
			if t.Entries == nil {
				t.Entries = []Entry{}
			}
			out.Lists[name] = List{Shared: l.Shared, Entries: t.Entries, Columns: t.Columns}
		}
	}
	return &out
}

// SharedLists are the keys of the workspace's lists that the form uses.
func (f *Form) SharedLists() []string {
	var out []string
	for _, name := range slices.Sorted(maps.Keys(f.Lists)) {
		if shared := f.Lists[name].Shared; shared != "" && !slices.Contains(out, shared) {
			out = append(out, shared)
		}
	}
	return out
}

// Columns returns the columns of a list, as entry.NAME sees them, numbered in the order
// of their keys: of a list of the workspace as it has them. Of another, a column of
// nothing but numbers is a number, of nothing but true and false a yes or no, of nothing
// but dates such as 2026-05-30 a date, any other a text.
func (f *Form) Columns(list string) map[string]*expr.Symbol {
	l, out := f.Lists[list], map[string]*expr.Symbol{}
	for _, c := range l.Columns {
		out[c.Key] = &expr.Symbol{Key: c.Key, Label: c.Name, Type: expr.Type{Kind: c.Type.kind()}}
	}
	if l.Columns == nil {
		for _, e := range l.Entries {
			e.tell(out)
		}
	}
	for i, name := range slices.Sorted(maps.Keys(out)) {
		out[name].Slot = i
	}
	return out
}

// tell adds to columns what one entry says about them.
func (e Entry) tell(columns map[string]*expr.Symbol) {
	for name, v := range e {
		k := expr.Text
		switch v := v.(type) {
		case nil:
			continue
		case json.Number:
			k = expr.Num
		case bool:
			k = expr.YesNo
		case string:
			if _, ok := expr.ParseDay(v); ok {
				k = expr.Date
			}
		}
		sym := columns[name]
		if sym == nil {
			sym = &expr.Symbol{Key: name, Label: name, Type: expr.Type{Kind: k}}
			columns[name] = sym
		} else if sym.Type.Kind != k {
			sym.Type.Kind = expr.Text
		}
	}
}
