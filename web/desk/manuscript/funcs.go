package manuscript

import (
	"html/template"
	"strconv"
	"strings"

	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
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
	Options      []layout.Option
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

// settings are the properties of an item that are set beside each other, in groups that stand
// in one line.
func settings(p *manuscriptPage, it *form.Item, among string) (out [][]settable) {
	for _, property := range form.Properties() {
		if property.Setting.Among != among || !property.Offered(it) {
			continue
		}
		one := setting(p, it, property)
		if n := len(out) - 1; property.Setting.Paired && n >= 0 {
			out[n] = append(out[n], one)
		} else {
			out = append(out, []settable{one})
		}
	}
	return out
}

// setting is one property of an item as a labelled field.
func setting(p *manuscriptPage, it *form.Item, of form.Property) settable {
	one := settable{Hid: post(p, "set", it.Key, of.Key), Label: of.Setting.Label}
	switch v, has := of.ValueIn(it); v := v.(type) {
	case string:
		one.Value = v
	case bool:
		one.Kind, one.Value = "flag", flag(has)
	case *form.Bound:
		one.Kind, one.Value = "bound", bound(v)
	case int:
		one.Kind, one.Value = "number", layout.Typed(v)
	case []string:
		one.Value = strings.Join(v, ", ")
	}
	switch {
	case of.Kind == form.ANo:
		one.Kind = "flag"
	case of.Setting.Fixed:
		one.Kind = "mono"
	case of.Kind == form.AWord:
		one.Kind = "pick"
		for _, word := range of.Setting.Words {
			one.Options = append(one.Options, layout.Option{Value: word.Name, Label: word.Words})
		}
	}
	if p.Refused(it.Key, of.Key) {
		one.Value, one.Fault = p.refused.typed, p.refused.why
	}
	return one
}

func bound(b *form.Bound) string {
	if b == nil {
		return ""
	}
	return b.String()
}

// flag is the value of a box.
func flag(ticked bool) string {
	if ticked {
		return "1"
	}
	return ""
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
	"settings": settings,
	"pick": func(p *manuscriptPage, key, property, label, value string, options []layout.Option) settable {
		return settable{Hid: post(p, "set", key, property), Label: label, Value: value, Kind: "pick", Options: options}
	},
	"bound": bound,
	"flag":  flag,
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
