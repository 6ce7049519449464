package desk

import (
	"html/template"
	"strconv"
	"strings"

	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/form"
)

// nested is a row of a template together with the page it stands on.
type nested struct{ Top, Row any }

// within is a part of a tie's condition, together with the tie and the page.
type within struct {
	Top    *manuscriptPage
	Editor *tieEditor
	Row    *passageRow
}

// posting is what every form of the manuscript sends along unseen.
type posting struct {
	ID                                 int64
	At, Write, Tied, Do, Key, Property string
}

// settable is one property as a labelled field that saves itself.
type settable struct {
	Hid          posting
	Label, Value string
	Kind         string // "", long, mono, number, flag or pick
	Options      []option
}

func post(p *manuscriptPage, do, key, property string) posting {
	at := key
	if at == "" || do == "add" || do == "add-section" || do == "add-page" {
		at = p.Selected
	}
	return posting{p.ID, at, p.Write, p.TiedKey, do, key, property}
}

var funcs = template.FuncMap{
	"row":    func(top, row any) nested { return nested{top, row} },
	"within": func(top *manuscriptPage, e *tieEditor, row *passageRow) within { return within{top, e, row} },
	"post":   post,
	"set": func(p *manuscriptPage, key, property, label, value, kind string) settable {
		do := "set"
		if property == "key" {
			do = "key"
		}
		return settable{Hid: post(p, do, key, property), Label: label, Value: value, Kind: kind}
	},
	"pick": func(p *manuscriptPage, key, property, label, value string, options []option) settable {
		return settable{Hid: post(p, "set", key, property), Label: label, Value: value, Kind: "pick", Options: options}
	},
	"options": func(pairs ...string) []option {
		var out []option
		for i := 0; i+1 < len(pairs); i += 2 {
			out = append(out, option{pairs[i], pairs[i+1]})
		}
		return out
	},
	"str": func(t form.Type) string { return string(t) },
	"one": func(t form.Type, of ...string) bool {
		for _, o := range of {
			if string(t) == o {
				return true
			}
		}
		return false
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
	"digits": func(n *expr.Number) string {
		if n == nil {
			return ""
		}
		return n.String()
	},
	"flag": func(b bool) string {
		if b {
			return "1"
		}
		return ""
	},
	"comma": func(list []string) string { return strings.Join(list, ", ") },
	"lines": func(s string) int { return min(max(strings.Count(s, "\n")+2, 3), 14) },
	"parameters": func(list []form.Parameter) string {
		var lines []string
		for _, p := range list {
			line := p.Name
			if p.Label != "" {
				line += " = " + p.Label
			}
			lines = append(lines, line)
		}
		return strings.Join(lines, "\n")
	},
	"csv": func(list []form.Entry) (string, error) {
		var b strings.Builder
		err := exchange.WriteList(&b, list)
		return b.String(), err
	},
	"groups": func(def *form.Form) []option {
		var out []option
		for key, s := range sortedGroups(def) {
			out = append(out, option{key, s.Name()})
		}
		return out
	},
	"choiceTie": func(n int, property string) string { return "choices." + strconv.Itoa(n) + "." + property },
}
