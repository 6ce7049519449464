package desk

import (
	"html/template"
	"strconv"
	"strings"

	"lazo/core/form"
)

// nested is a row of a template together with the page it stands on.
type nested struct{ Top, Row any }

// settable is one property as a labelled input that saves itself.
type settable struct {
	ID, Version                     int64
	Key, Do, Property, Label, Value string
}

// formText is one of the form's own texts.
type formText struct {
	ID, Version            int64
	Property, Label, Value string
	Long                   bool
}

var funcs = template.FuncMap{
	"row": func(top, row any) nested { return nested{top, row} },
	"field": func(p manuscriptPage, key, do, property, label, value string) settable {
		return settable{p.ID, p.Version, key, do, property, label, value}
	},
	"text": func(p manuscriptPage, property, label, value string, long bool) formText {
		return formText{p.ID, p.Version, property, label, value, long}
	},
	"str": func(t form.Type) string { return string(t) },
	"ifnote": func(t form.Type, note, question string) string {
		if t == form.Note {
			return note
		}
		return question
	},
	"number": func(n int) string {
		if n == 0 {
			return ""
		}
		return strconv.Itoa(n)
	},
	"bound": func(b *form.Bound) string {
		if b == nil {
			return ""
		}
		return b.String()
	},
	"lines": func(s string) int { return min(max(strings.Count(s, "\n")+2, 3), 14) },
}
