package manuscript

import (
	"cmp"
	"html/template"
	"slices"
	"strconv"
	"strings"

	"lazo/core/author"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/frame"
	"lazo/web/desk/margin"
)

// within is a part of a tie's condition, together with the tie and the page.
type within struct {
	Top    *manuscriptPage
	Editor *margin.Editor
	Row    *margin.Passage
}

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
	"within": func(top *manuscriptPage, e *margin.Editor, row *margin.Passage) within { return within{top, e, row} },
	"post":   post,
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
	"groups": func(def *form.Form) []frame.Option {
		var out []frame.Option
		for s := range author.Repeating(def) {
			out = append(out, frame.Option{Value: s.Key, Label: s.Name()})
		}
		return out
	},
	"place": func(zone string) string {
		_, city, ok := strings.Cut(zone, "/")
		if !ok {
			return zone
		}
		return strings.ReplaceAll(city[strings.LastIndex(city, "/")+1:], "_", " ")
	},
	"choiceTie": func(n int, property string) string { return "choices." + strconv.Itoa(n) + "." + property },
	"rowTie":    func(n int) string { return "rows." + strconv.Itoa(n) + ".shown" },
}

// offered are languages that a form can be pointed to be written in, besides the one that
// it is written in; any other comes with a form file.
var offered = []string{"ar", "bg", "ca", "cs", "da", "de", "el", "en", "en-US", "es", "et", "eu", "fa", "fi", "fr", "ga", "gl", "he", "hi",
	"hr", "hu", "id", "is", "it", "ja", "ko", "lt", "lv", "mt", "nb", "nl", "pl", "pt", "pt-BR", "ro", "ru", "sk", "sl", "sr", "sv", "sw",
	"th", "tr", "uk", "ur", "vi", "zh"}

// languages are a form's language in words, and those that can be picked, by their names.
func languages(own string) (name string, all []frame.Option) {
	for _, tag := range offered {
		all = append(all, frame.Option{Value: tag, Label: form.LanguageName(tag)})
	}
	own = cmp.Or(own, "en")
	if !slices.Contains(offered, own) {
		all = append(all, frame.Option{Value: own, Label: form.LanguageName(own)})
	}
	slices.SortFunc(all, func(a, b frame.Option) int { return strings.Compare(a.Label, b.Label) })
	return form.LanguageName(own), all
}
