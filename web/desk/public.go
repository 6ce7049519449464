package desk

import (
	"errors"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/ui"
	"lazo/web/wording"
)

// publicPage is how a form is met in public: when it is open, how it looks, what
// happens before and after sending, and where else it is shown.
type publicPage struct {
	Frame
	Def       *form.Form
	Opening   form.Opening
	Hours     hoursFields
	Theme     form.Theme
	Returning form.Returning
	Guard     form.Guard
	Framing   form.Framing
	Ends      []endRow
	Languages []languageRow
	Own       string // the form's own language
	Problem   string
	Part      string // that the problem is in
	Base      string
	Meant     string // a colour that passes
}

// hoursFields are opening hours in plain words.
type hoursFields struct {
	Days        []dayField
	From, Until string
	Rule        string // as it is written, if it is more than days of the week
}

type dayField struct {
	Value, Label string
	On           bool
}

type endRow struct {
	N              int
	Sentence, When string
	Text           string
}

var weekdays = []dayField{{"MO", "Monday", false}, {"TU", "Tuesday", false}, {"WE", "Wednesday", false}, {"TH", "Thursday", false}, {"FR", "Friday", false}, {"SA", "Saturday", false}, {"SU", "Sunday", false}}

// hoursOf reads opening hours as days of the week, or else as they are written.
func hoursOf(h *form.Hours) hoursFields {
	out := hoursFields{Days: append([]dayField(nil), weekdays...)}
	if h == nil {
		return out
	}
	out.From, out.Until = h.From, h.Until
	days, plain := h.Weekdays()
	if !plain {
		out.Rule = h.Rule
	}
	for i := range out.Days {
		out.Days[i].On = slices.Contains(days, out.Days[i].Value)
	}
	return out
}

func (d *Desk) public(w http.ResponseWriter, r *http.Request) error {
	return d.publicPage(w, r, http.StatusOK, "", "", "")
}

func (d *Desk) publicPage(w http.ResponseWriter, r *http.Request, status int, part, problem, meant string) error {
	_, def, fr, err := d.openTab(r, "public")
	if err != nil {
		return err
	}
	page := publicPage{Frame: fr, Def: def, Problem: problem, Part: part, Base: ui.Origin(r), Meant: meant,
		Languages: languageRows(def), Own: wording.EnglishName(def.Languages()[0])}
	if def.Opening != nil {
		page.Opening = *def.Opening
	}
	page.Hours = hoursOf(page.Opening.Hours)
	if def.Theme != nil {
		page.Theme = *def.Theme
	}
	if def.Returning != nil {
		page.Returning = *def.Returning
	}
	if def.Guard != nil {
		page.Guard = *def.Guard
	}
	if def.Framing != nil {
		page.Framing = *def.Framing
	}
	syms := def.Symbols()
	for i, e := range def.Ends {
		row := endRow{N: i, When: e.When, Text: e.Text, Sentence: e.When}
		if n, err := expr.Parse(e.When); err == nil {
			row.Sentence = expr.PiecesText(syms.Sentence(n))
		}
		page.Ends = append(page.Ends, row)
	}
	return d.pages.Page(w, status, "in-public", page)
}

// setPublic changes one part of how the form is met in public.
func (d *Desk) setPublic(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	v := r.PostForm
	part := v.Get("part")
	e, meant, err := publicEdit(def, part, v)
	if err == nil {
		_, err = d.editWhole(r, f, e)
	}
	switch {
	case errors.Is(err, form.ErrEdit):
		return d.publicPage(w, r, http.StatusUnprocessableEntity, part, editProblem(err)+written(v), meant)
	case errors.Is(err, store.ErrConflict):
		return d.publicPage(w, r, http.StatusConflict, part, "This was changed meanwhile, here or by someone else. What you see is the newest state; your change was not made."+written(v), "")
	case err != nil:
		return err
	}
	http.Redirect(w, r, base(f.ID)+"/public#"+url.QueryEscape(part), http.StatusSeeOther)
	return nil
}

// editWhole makes an edit that was made of all the fields of a page, on the version
// of the draft that the page showed.
func (d *Desk) editWhole(r *http.Request, f store.Form, e form.Edit) (store.Form, error) {
	version, err := strconv.ParseInt(r.PostForm.Get("version"), 10, 64)
	if err != nil {
		return f, wrong("this page is not complete; here it is afresh")
	}
	return d.store.EditWhole(r.Context(), f.WorkspaceID, f.ID, version, member(r.Context()).ID, e)
}

// written repeats the texts of a post that was refused, so that they are not lost.
func written(v url.Values) string {
	var texts []string
	for _, name := range slices.Sorted(maps.Keys(v)) {
		for _, text := range v[name] {
			if text = strings.TrimSpace(text); len(text) > 12 && name != "version" && name != "part" {
				texts = append(texts, "“"+text+"”")
			}
		}
	}
	if len(texts) == 0 {
		return ""
	}
	return " You had written: " + strings.Join(texts, ", ")
}

// publicEdit reads the edit of one part; meant is a colour that would do.
func publicEdit(def *form.Form, part string, v url.Values) (e form.Edit, meant string, err error) {
	text := func(name string) string { return strings.TrimSpace(v.Get(name)) }
	switch part {
	case "opening":
		e, err = openingEdit(def, v)
		return e, "", err
	case "sending":
		g := form.Guard{Question: text("question"), Answers: lines(v.Get("answers"))}
		edits := []form.Edit{form.SetProperty("", "review", orNil(v.Get("review") != "")), form.SetProperty("", "remember", orNil(v.Get("remember") != "")), form.SetProperty("", "guard", nil)}
		if g.Question != "" {
			edits[2] = form.SetProperty("", "guard", g)
		}
		return form.Edit{Op: form.Batch, Edits: edits}, "", nil
	case "returning":
		ret := form.Returning{Save: v.Get("save") != "", Change: v.Get("change") != "", Until: text("until")}
		if ret == (form.Returning{}) {
			return form.SetProperty("", "returning", nil), "", nil
		}
		return form.SetProperty("", "returning", ret), "", nil
	case "languages":
		e, err = languagesEdit(def, text("language"), text("remove"))
		return e, "", err
	case "ends":
		e, err = endsEdit(def, v)
		return e, "", err
	case "framing":
		fr := form.Framing{Origins: lines(v.Get("origins")), Pass: v["pass"]}
		if len(fr.Origins) == 0 {
			return form.SetProperty("", "framing", nil), "", nil
		}
		return form.SetProperty("", "framing", fr), "", nil
	case "theme":
		if v.Get("reset") != "" {
			return form.SetProperty("", "theme", nil), "", nil
		}
		t := form.Theme{Accent: strings.ToLower(text("accent")), Paper: strings.ToLower(text("paper")), Logo: text("logo"), Font: text("font"), Width: text("width"),
			Send: text("send"), Next: text("next"), Back: text("back")}
		if text("columns") == "2" {
			t.Columns = 2
		}
		if faults := t.Faults(); len(faults) > 0 {
			if form.Passing(t.Accent) != t.Accent {
				meant = form.Passing(t.Accent)
			}
			return e, meant, wrong("%s", faults[0].Text)
		}
		if t == (form.Theme{}) {
			return form.SetProperty("", "theme", nil), "", nil
		}
		return form.SetProperty("", "theme", t), "", nil
	}
	return e, "", wrong("there is no part “%s”", part)
}

func orNil(b bool) any {
	if b {
		return true
	}
	return nil
}

// lines are the lines of a text that hold anything.
func lines(text string) []string {
	var out []string
	for line := range strings.Lines(text) {
		if line = strings.TrimSpace(line); line != "" {
			out = append(out, line)
		}
	}
	return out
}

func openingEdit(def *form.Form, v url.Values) (form.Edit, error) {
	o := form.Opening{}
	if def.Opening != nil {
		o = *def.Opening
	}
	text := func(name string) string { return strings.TrimSpace(v.Get(name)) }
	o.From, o.Until, o.Before, o.After, o.Full = text("from"), text("until"), text("before"), text("after"), text("full")
	for _, n := range []struct {
		field string
		into  *int
	}{{"limit", &o.Limit}, {"grace", &o.GraceMinutes}} {
		*n.into = 0
		if t := text(n.field); t != "" {
			number, err := strconv.Atoi(t)
			if err != nil || number < 0 {
				return form.Edit{}, wrong("a whole number was expected, “%s” was found", t)
			}
			*n.into = number
		}
	}
	o.Hours = nil
	rule := text("rule")
	if days := v["day"]; rule == "" && len(days) > 0 {
		rule = form.OnWeekdays(days)
	}
	if rule != "" {
		if text("hours-from") == "" || text("hours-until") == "" {
			return form.Edit{}, wrong("opening hours need a time from which and until which they last")
		}
		o.Hours = &form.Hours{Rule: rule, From: text("hours-from"), Until: text("hours-until")}
	}
	o.Shown = form.Rule{}
	if cond := text("condition"); cond != "" {
		canonical, err := condition(def, cond)
		if err != nil {
			return form.Edit{}, err
		}
		o.Shown = form.When(canonical)
	}
	if o == (form.Opening{}) {
		return form.SetProperty("", "opening", nil), nil
	}
	return form.SetProperty("", "opening", o), nil
}

// condition checks a condition of the form's own and writes it canonically.
func condition(def *form.Form, src string) (string, error) {
	if fault := checkCondition(def.Symbols(), "", "", src); fault != nil {
		return "", wrong("%s: %s", src, fault.text)
	}
	n, err := expr.Parse(src)
	if err != nil {
		return "", err // it was parsed just before
	}
	return n.String(), nil
}

// endsEdit sets the closing text and those for some answers; an empty condition
// takes one away.
func endsEdit(def *form.Form, v url.Values) (form.Edit, error) {
	var ends []form.End
	whens, texts := v["when"], v["text"]
	for i := range min(len(whens), len(texts), 50) {
		cond := strings.TrimSpace(whens[i])
		if cond == "" {
			continue
		}
		canonical, err := condition(def, cond)
		if err != nil {
			return form.Edit{}, err
		}
		ends = append(ends, form.End{When: canonical, Text: strings.TrimSpace(texts[i])})
	}
	edits := []form.Edit{form.SetProperty("", "end", strings.TrimSpace(v.Get("end"))), form.SetProperty("", "ends", nil)}
	if len(ends) > 0 {
		edits[1] = form.SetProperty("", "ends", ends)
	}
	return form.Edit{Op: form.Batch, Edits: edits}, nil
}
