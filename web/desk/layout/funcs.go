package layout

import (
	"html/template"
	"strconv"
	"strings"

	"lazo/core/form"
)

// nested is a row of a template together with the page it stands on.
type nested struct{ Top, Row any }

// Nested is a row together with the page that it stands on.
func Nested(top, row any) any { return nested{top, row} }

// Typed is a count as it is typed, nothing for 0.
func Typed(n int) string {
	if n == 0 {
		return ""
	}
	return strconv.Itoa(n)
}

// funcs are what the templates of all rooms can do.
var funcs = template.FuncMap{
	"place": func(zone string) string {
		_, city, ok := strings.Cut(zone, "/")
		if !ok {
			return zone
		}
		return strings.ReplaceAll(city[strings.LastIndex(city, "/")+1:], "_", " ")
	},
	"row": Nested,
	"options": func(pairs ...string) []Option {
		var out []Option
		for i := 0; i+1 < len(pairs); i += 2 {
			out = append(out, Option{Value: pairs[i], Label: pairs[i+1]})
		}
		return out
	},
	"str":     func(t form.Type) string { return string(t) },
	"number":  Typed,
	"carried": Carried,
	"comma":   func(list []string) string { return strings.Join(list, ", ") },
	"lines":   func(s string) int { return min(max(strings.Count(s, "\n")+2, 3), 14) },
}

var carried = map[string]string{
	"response": "the answers as a sheet", "calendar": "the days ahead, for a calendar", "files": "the files that came",
}

// Carried is what a letter carries, in words; a document by its key.
func Carried(attach []string) []string {
	out := make([]string, len(attach))
	for i, what := range attach {
		out[i] = LabelOr(carried[what], "the document "+what)
	}
	return out
}
