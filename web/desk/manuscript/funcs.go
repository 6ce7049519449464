package manuscript

import (
	"html/template"
	"strconv"
	"strings"

	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/frame"
)

// posting is what every form of the manuscript sends along unseen.
type posting struct {
	ID                                 store.FormID
	At, Write, Tied, Do, Key, Property string
}

// Sayable reports whether what is posted is a text in which answers may stand.
func (p posting) Sayable() bool { return form.Sayable(p.Property) }

// settable is one property as a labelled field that saves itself.
type settable struct {
	Hid          posting
	Label, Value string
	Fault        string // why what was typed can't be kept
	Kind         string // "", long, mono, number, flag or pick
	Options      []frame.Option
}

// letterField is one property of a letter as a labelled field that saves itself.
type letterField struct {
	Page                         *manuscriptPage
	Letter                       letterRow
	Property, Label, Value, Hint string
}

// Faulty reports whether the page shows what could not be kept, which is gone from the
// next one.
func (p *manuscriptPage) Faulty() bool { return p.refused.why != "" || p.builder.Fault != nil }

// Refused reports whether something was typed for a property that can't be kept.
func (p *manuscriptPage) Refused(key, property string) bool {
	return p.refused.why != "" && p.refused.key == key && p.refused.property == property
}

func post(p *manuscriptPage, do, key, property string) posting {
	at := key
	if at == "" || do == "add" || do == "add-section" || do == "add-page" {
		at = p.Selected
	}
	return posting{p.ID, at, p.Write, p.TiedKey, do, key, property}
}

var funcs = template.FuncMap{
	"post": post,
	"letterField": func(p *manuscriptPage, l letterRow, property, label, value, hint string) letterField {
		return letterField{p, l, property, label, value, hint}
	},
	"set": func(p *manuscriptPage, key, property, label, value, kind string) settable {
		do := "set"
		if property == "key" {
			do = "key"
		}
		one := settable{Hid: post(p, do, key, property), Label: label, Value: value, Kind: kind}
		if p.Refused(key, property) {
			one.Value, one.Fault = p.refused.typed, p.refused.why
		}
		return one
	},
	"pick": func(p *manuscriptPage, key, property, label, value string, options []frame.Option) settable {
		return settable{Hid: post(p, "set", key, property), Label: label, Value: value, Kind: "pick", Options: options}
	},
	"bound": func(b *form.Bound) string {
		if b == nil {
			return ""
		}
		return b.String()
	},
	"flag": func(b bool) string {
		if b {
			return "1"
		}
		return ""
	},
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
	"choiceTie": func(n int, property string) string { return "choices." + strconv.Itoa(n) + "." + property },
	"rowTie":    func(n int) string { return "rows." + strconv.Itoa(n) + ".shown" },
}
