package desk

import (
	"net/http"
	"net/url"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/web/fill"
)

// rehearsalPage is a draft being tried.
type rehearsalPage struct {
	Frame
	*fill.View
	Remarks  []form.Remark // that stand in the way
	Params   []benchParam
	At       string // the clock, local to the form's zone
	Zone     string
	Mode     string
	Next     string // the next moment of change, "" for none
	NextIn   string
	Open     string
	Whys     []whyRow
	Always   int
	Accepted bool
}

type benchParam struct{ Name, Label, Value string }

// whyRow explains one item.
type whyRow struct {
	Key, Label, State, Class string
	Because                  []engine.Because
}

const localMoment = "2006-01-02T15:04"

// rehearsal shows the draft as the respondent gets it, with the bench and the
// reasons. Nothing is stored, so it is the same whether it comes by GET or POST.
func (d *Desk) rehearsal(w http.ResponseWriter, r *http.Request) error {
	posted := url.Values{}
	if r.Method == http.MethodPost {
		var err error
		if posted, err = fill.Posted(w, r); err != nil {
			return err
		}
	}
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	fr, err := d.frame(r, f, def, "rehearsal")
	if err != nil {
		return err
	}
	p, remarks := compiled(def)
	if p == nil {
		return d.pages.Page(w, http.StatusOK, "rehearsal", rehearsalPage{Frame: fr, Remarks: form.Errors(remarks)})
	}
	return d.pages.Page(w, http.StatusOK, templateFor(r, "rehearsal"), d.rehearse(fr, p, def, posted))
}

// templateFor is the whole page, or its body when htmx asks.
func templateFor(r *http.Request, name string) string {
	if r.Header.Get("HX-Request") != "" {
		return name + "-body"
	}
	return name
}

func (d *Desk) rehearse(fr Frame, p *engine.Program, def *form.Form, posted url.Values) rehearsalPage {
	at, err := time.ParseInLocation(localMoment, posted.Get("_at"), p.Location())
	if err != nil {
		at = d.now().In(p.Location())
	}
	do := posted.Get("_do")
	if next, err := time.Parse(time.RFC3339, strings.TrimPrefix(do, "clock:")); err == nil {
		at = next.In(p.Location())
	}
	fill.EditRows(def, posted, do)
	mode := engine.Mode(posted.Get("_mode"))
	if !mode.Known() {
		mode = engine.New
	}
	page := rehearsalPage{Frame: fr, Mode: string(mode), Zone: def.Timezone}
	params := map[string][]string{}
	for _, param := range def.Parameters {
		value := posted.Get("url." + param.Name)
		label := param.Label
		if label == "" {
			label = param.Name
		}
		page.Params = append(page.Params, benchParam{param.Name, label, value})
		if value != "" {
			params[param.Name] = []string{value}
		}
	}
	in := engine.Input{Answers: p.Answers(fill.Answers(def, posted)), Params: params, At: at, Mode: mode}
	out := p.Run(in)
	page.At = at.Format(localMoment)
	if next, ok := p.NextChange(in); ok {
		page.Next = next.Format(time.RFC3339)
		page.NextIn = next.Format("2 January 2006, 15:04")
	}
	page.Open, page.Accepted = string(out.Open), out.Accepted
	page.View = fill.Build(p, out, posted, "", do == "judge")
	page.Whys, page.Always = whys(def, out)
	return page
}

// whys explains every item, section and page that can be otherwise.
func whys(def *form.Form, out *engine.Outcome) (rows []whyRow, always int) {
	add := func(key, label string) {
		because := out.Why(key, 0)
		told := because[:0:0]
		for _, b := range because {
			if b.Reason != nil || b.Effect == "value" || b.Effect == "shown" && !b.Holds {
				told = append(told, b)
			}
		}
		if len(told) == 0 {
			always++
			return
		}
		row := whyRow{Key: key, Label: label, State: "shown", Class: "met", Because: told}
		if first := because[0]; !first.Holds {
			row.State, row.Class = "not shown", "not"
			if first.Truth == expr.Undecided && first.Reason != nil {
				row.State, row.Class = "undecided", "open"
			}
		}
		rows = append(rows, row)
	}
	for _, p := range def.Pages {
		if !p.Shown.IsZero() || len(out.Why(p.Key, 0)) > 0 && !out.Why(p.Key, 0)[0].Holds {
			add(p.Key, "Page: "+p.Name())
		}
		for _, s := range p.Sections {
			if !s.Shown.IsZero() {
				add(s.Key, "Section: "+s.Name())
			}
			for _, it := range s.Items {
				add(it.Key, it.Name())
			}
		}
	}
	return rows, always
}
