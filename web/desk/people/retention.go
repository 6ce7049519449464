package people

import (
	"net/http"
	"slices"
	"strconv"
	"strings"

	"lazo/core/form"
	"lazo/privacy"
	"lazo/store"
	"lazo/web/desk/layout"
)

type keepingPage struct {
	layout.Header
	Days    string // as typed
	From    string
	Told    bool
	Dates   []layout.Option // that the time can be counted from
	Gone    bool            // the date that it is counted from is there no longer
	Problem string
	Done    bool
	Goes    int    // responses that would be deleted, to be confirmed
	All     int    // of so many
	When    string // they are deleted from then on
}

func (d *Room) keeping(w http.ResponseWriter, r *http.Request) error {
	f, def, fr, err := d.OpenTab(r, "responses")
	if err != nil {
		return err
	}
	k, err := d.InForm(f).Retention(r.Context())
	if err != nil {
		return err
	}
	p := keepingPage{Header: fr, From: k.From, Told: k.Told, Dates: dates(def), Done: r.URL.Query().Get("done") != ""}
	if k.Days > 0 {
		p.Days = strconv.Itoa(k.Days)
	}
	p.Gone = k.From != "" && !isDate(p.Dates, k.From)
	return d.pages.Page(w, http.StatusOK, "keeping", p)
}

// dates are the questions that the time can be counted from.
func dates(def *form.Form) (out []layout.Option) {
	for _, it := range privacy.Dates(def) {
		out = append(out, layout.Option{Value: it.Key, Label: it.Name()})
	}
	return out
}

func isDate(all []layout.Option, key string) bool {
	return slices.ContainsFunc(all, func(o layout.Option) bool { return o.Value == key })
}

// keep sets how long the responses of a form are kept.
func (d *Room) keep(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	f, def, fr, err := d.OpenTab(r, "responses")
	if err != nil {
		return err
	}
	p := keepingPage{Header: fr, Days: strings.TrimSpace(r.PostForm.Get("days")), From: r.PostForm.Get("from"),
		Told: r.PostForm.Get("told") != "", Dates: dates(def)}
	k := store.Retention{From: p.From, Told: p.Told}
	if p.Days != "" {
		k.Days, err = strconv.Atoi(p.Days)
		if err != nil || k.Days < 1 || k.Days > store.LongestRetention {
			p.Problem = "Give a number of days, up to 36,500; or none, for as long as nobody deletes them."
		}
	}
	if p.From != "" && !isDate(p.Dates, p.From) {
		p.Problem = "There is no such date in the form."
	}
	if p.Problem != "" {
		return d.pages.Page(w, http.StatusUnprocessableEntity, "keeping", p)
	}
	if asks, err := d.asks(r, f, k, &p); err != nil {
		return err
	} else if asks {
		return d.pages.Page(w, http.StatusConflict, "keeping", p)
	}
	if err := d.InForm(f).SetRetention(r.Context(), k, d.Now()); err != nil {
		return err
	}
	layout.Note(r.Context(), "%s", retained(k))
	http.Redirect(w, r, layout.Base(f.ID)+"/kept?done=1", http.StatusSeeOther)
	return nil
}

// asks reports whether a time is to be confirmed first: responses would go by it that do not
// go by the one that is set, and it was not said to be right for as many.
func (d *Room) asks(r *http.Request, f store.Form, k store.Retention, p *keepingPage) (bool, error) {
	before, err := d.InForm(f).Retention(r.Context())
	if err != nil || before.Days == k.Days && before.From == k.From {
		return false, err
	}
	if p.Goes, err = privacy.WouldErase(r.Context(), d.InForm(f), f, k, d.Now()); err != nil || p.Goes == 0 {
		return false, err
	}
	if p.All, err = d.InForm(f).CountResponses(r.Context()); err != nil {
		return false, err
	}
	def, err := f.Definition()
	if err != nil {
		return false, err
	}
	p.When = d.Now().Add(store.KeepGrace).In(def.Symbols().Zone).Format(layout.PlainMoment)
	return r.PostForm.Get("sure") != strconv.Itoa(p.Goes), nil
}

// retained says how long responses are kept.
func retained(k store.Retention) string {
	switch {
	case k.Days == 0:
		return "set that responses are kept until somebody deletes them"
	case k.From == "":
		return "set that responses are deleted " + strconv.Itoa(k.Days) + " days after they are received"
	}
	return "set that responses are deleted " + strconv.Itoa(k.Days) + " days after " + k.From
}
