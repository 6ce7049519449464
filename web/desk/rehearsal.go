package desk

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/fill"
)

// rehearsalPage is a draft being tried.
type rehearsalPage struct {
	Frame
	*fill.View
	Remarks []form.Remark // that stand in the way
	Params  []benchParam
	// ParamNotes say which parameters do nothing, and why.
	ParamNotes []engine.ParamNote
	At         string // the clock, local to the form's zone
	Zone       string
	Mode       string
	Next       string // the next moment of change, "" for none
	NextIn     string
	Back       string // the moments that the clock stood at before, the last first
	BackTo     string
	Priors     []option
	Prior      string
	Open       string
	Whys       []whyRow
	Always     int
	Accepted   bool
	Note       string // what was just done
	Kept       []keptRehearsal
	Name       string // of the kept one that is being shown
}

type benchParam struct{ Name, Label, Value string }

// whyRow explains one item.
type whyRow struct {
	Key, Label, State, Class string
	Because                  []engine.Because
	Ways                     []way
}

// way is a tie for which the form can be filled both ways.
type way struct{ Effect, Met, Not string }

// keptRehearsal is a rehearsal kept under a name and how it comes out now.
type keptRehearsal struct {
	ID      int64
	Name    string
	Differs []string
}

const (
	localMoment = "2006-01-02T15:04"
	plainMoment = "2 January 2006, 15:04"
	// priorsShown is how many responses can be picked as the one before.
	priorsShown = 30
)

// rehearsal shows the draft as the respondent gets it, with the bench and the
// reasons. No answer is stored, so it is the same whether it comes by GET or POST.
func (d *Desk) rehearsal(w http.ResponseWriter, r *http.Request) error {
	posted := url.Values{}
	if r.Method == http.MethodPost {
		var err error
		if posted, err = fill.Posted(w, r); err != nil {
			return err
		}
	} else if seek := r.URL.Query().Get("seek"); seek != "" {
		posted.Set("_do", "seek:"+seek)
	} else if kept := r.URL.Query().Get("kept"); kept != "" {
		posted.Set("_do", "load:"+kept)
	}
	f, def, fr, err := d.openTab(r, "rehearsal")
	if err != nil {
		return err
	}
	p, remarks := compiled(def)
	if p == nil {
		return d.pages.Page(w, http.StatusOK, templateFor(r, "rehearsal"), rehearsalPage{Frame: fr, Remarks: form.Errors(remarks)})
	}
	page, err := d.rehearse(r.Context(), f, fr, p, posted)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, templateFor(r, "rehearsal"), page)
}

// templateFor is the whole page, or its body when htmx asks.
func templateFor(r *http.Request, name string) string {
	if r.Header.Get("HX-Request") != "" {
		return name + "-body"
	}
	return name
}

// bench is what a rehearsal is filled with.
type bench struct {
	posted url.Values
	params map[string][]string
	at     time.Time
	mode   engine.Mode
	prior  string // the id of a response, or ""
}

func (d *Desk) benchOf(p *engine.Program, posted url.Values) bench {
	b := bench{posted: posted, params: map[string][]string{}, mode: engine.Mode(posted.Get("_mode")), prior: posted.Get("_prior")}
	var err error
	if b.at, err = time.ParseInLocation(localMoment, posted.Get("_at"), p.Location()); err != nil {
		b.at = d.now().In(p.Location())
	}
	// The clock's field shows minutes; where it was put by a button, to the second.
	if exact, err := time.Parse(time.RFC3339, posted.Get("_exact")); err == nil && exact.In(p.Location()).Format(localMoment) == posted.Get("_at") {
		b.at = exact.In(p.Location())
	}
	if !b.mode.Known() {
		b.mode = engine.New
	}
	for _, param := range p.Form.Parameters {
		if v := posted.Get("url." + param.Name); v != "" {
			b.params[param.Name] = []string{v}
		}
	}
	// An address that was pasted comes before what stands in the fields.
	if _, query, ok := strings.Cut(posted.Get("_address"), "?"); ok {
		if params, err := url.ParseQuery(query); err == nil {
			b.params = params
		}
	}
	return b
}

// input is the bench as the engine takes it.
func (d *Desk) input(ctx context.Context, f store.Form, p *engine.Program, b bench) (engine.Input, error) {
	in := engine.Input{Answers: p.Answers(fill.Answers(p.Form, b.posted)), Params: b.params, At: b.at, Mode: b.mode}
	if b.mode == engine.New || b.prior == "" {
		return in, nil
	}
	resp, err := d.store.ResponseByID(ctx, f.WorkspaceID, f.ID, b.prior)
	if errors.Is(err, store.ErrNotFound) {
		return in, nil
	}
	if err != nil {
		return in, err
	}
	raw, err := engine.ParseAnswers(resp.Answers)
	if err != nil {
		return in, err
	}
	in.Prior = p.Answers(raw)
	return in, nil
}

func (d *Desk) rehearse(ctx context.Context, f store.Form, fr Frame, p *engine.Program, posted url.Values) (rehearsalPage, error) {
	page := rehearsalPage{Frame: fr, Zone: p.Form.Timezone}
	verb, arg, _ := strings.Cut(posted.Get("_do"), ":")
	if verb == "load" {
		var err error
		if page.Name, posted, err = d.loadRehearsal(ctx, f, p, arg, posted); err != nil {
			return page, err
		}
	}
	b := d.benchOf(p, posted)
	back := strings.Fields(posted.Get("_back"))
	judgement := fill.JudgedOnly(posted)
	var edit *fill.RowEdit
	switch verb {
	case "clock":
		if next, err := time.Parse(time.RFC3339, arg); err == nil {
			back = append([]string{b.at.Format(time.RFC3339)}, back...)
			b.at = next.In(p.Location())
		}
	case "back":
		if len(back) > 0 {
			if before, err := time.Parse(time.RFC3339, back[0]); err == nil {
				b.at = before.In(p.Location())
			}
			back = back[1:]
		}
	case "seek":
		page.Note = seek(p, &b, arg)
	case "add", "remove", "restore":
		edit = fill.EditRows(p.Form, b.posted, posted.Get("_do"))
	case "judge":
		judgement = fill.Judged
	}
	in, err := d.input(ctx, f, p, b)
	if err != nil {
		return page, err
	}
	out := p.Run(in)
	switch verb {
	case "save":
		if page.Note, err = d.saveRehearsal(ctx, f, b, out, posted.Get("_name")); err != nil {
			return page, err
		}
	case "forget":
		if id, err := strconv.ParseInt(arg, 10, 64); err == nil {
			if err := d.store.DeleteRehearsal(ctx, f.WorkspaceID, f.ID, id); err != nil {
				return page, err
			}
		}
	}
	page.Back = strings.Join(back[:min(len(back), 20)], " ")
	if len(back) > 0 {
		if before, err := time.Parse(time.RFC3339, back[0]); err == nil {
			page.BackTo = before.In(p.Location()).Format(plainMoment)
		}
	}
	page.At, page.Mode, page.Prior = b.at.Format(localMoment), string(b.mode), b.prior
	b.posted.Set("_exact", b.at.Format(time.RFC3339))
	if next, ok := p.NextChange(in); ok {
		page.Next, page.NextIn = next.Format(time.RFC3339), next.Format(plainMoment)
	}
	for _, n := range p.ParamNotes(b.params) {
		if n.Wrong {
			page.ParamNotes = append(page.ParamNotes, n)
		}
	}
	for _, param := range p.Form.Parameters {
		value := ""
		if v := b.params[param.Name]; len(v) > 0 {
			value = v[0]
		}
		page.Params = append(page.Params, benchParam{param.Name, labelOr(param.Label, param.Name), value})
	}
	page.Open, page.Accepted = string(out.Open), out.Accepted
	page.View = fill.BuildAfter(p, out, b.posted, "", judgement, edit)
	page.Whys, page.Always = whys(p.Form, out)
	if page.Kept, err = d.keptRehearsals(ctx, f, p); err != nil {
		return page, err
	}
	page.Priors, err = d.priors(ctx, f, p, b)
	return page, err
}

// Exact is the clock to the second.
func (p rehearsalPage) Exact() string { return p.Posted("_exact") }

// priors are the responses that can be the one before, for revisit and staff.
func (d *Desk) priors(ctx context.Context, f store.Form, p *engine.Program, b bench) ([]option, error) {
	if b.mode == engine.New {
		return nil, nil
	}
	list, err := d.store.Responses(ctx, f.WorkspaceID, f.ID, 0, priorsShown)
	if err != nil {
		return nil, err
	}
	var out []option
	for _, r := range list {
		out = append(out, option{r.ID, "received " + r.ReceivedAt.In(p.Location()).Format(plainMoment)})
	}
	return out, nil
}

// seek fills the bench so that a tie is met or not met, and says how it went.
func seek(p *engine.Program, b *bench, arg string) string {
	parts := strings.Split(arg, ":")
	if len(parts) != 3 {
		return ""
	}
	owner, property, want := parts[0], parts[1], map[string]expr.Truth{"met": expr.Met, "not": expr.NotMet}[parts[2]]
	word := map[expr.Truth]string{expr.Met: "met", expr.NotMet: "not met"}[want]
	if word == "" {
		return ""
	}
	name := nameOf(p.Form, owner) + " " + effectWords(property)
	found, ok := p.Seek(owner, property, want, engine.Filling{Answers: fill.Answers(p.Form, b.posted), Params: b.params, At: b.at, Mode: b.mode})
	if !ok {
		return "No answers were found with which the tie “" + name + "” is " + word + ". A small search looked at the questions it names; perhaps there are none."
	}
	kept := b.posted
	b.posted = fill.Fields(p.Form, found.Answers)
	for _, own := range []string{"_mode", "_prior", "_name"} {
		b.posted[own] = kept[own]
	}
	b.params, b.at = found.Params, found.At
	return "Filled so that the tie “" + name + "” is " + word + "."
}

// savedFilling is how a rehearsal's filling is kept.
type savedFilling struct {
	Fields url.Values          `json:"fields"`
	Params map[string][]string `json:"parameters"`
	At     time.Time           `json:"at"`
	Mode   engine.Mode         `json:"mode"`
	Prior  string              `json:"prior,omitempty"`
}

const maxRehearsalName = 120

// saveRehearsal keeps the bench with what comes of it now as the expectation.
func (d *Desk) saveRehearsal(ctx context.Context, f store.Form, b bench, out *engine.Outcome, name string) (note string, err error) {
	name = strings.TrimSpace(name)
	if name == "" || len(name) > maxRehearsalName {
		return "Give the rehearsal a name of at most 120 characters to keep it.", nil
	}
	own := url.Values{}
	for k, v := range b.posted {
		if !strings.HasPrefix(k, "_") && !strings.HasPrefix(k, "url.") {
			own[k] = v
		}
	}
	filling, err := json.Marshal(savedFilling{own, b.params, b.at, b.mode, b.prior})
	if err != nil {
		return "", err
	}
	expected, err := json.Marshal(out.Expect())
	if err != nil {
		return "", err
	}
	err = d.store.SaveRehearsal(ctx, store.Rehearsal{WorkspaceID: f.WorkspaceID, FormID: f.ID, Name: name, Filling: filling, Expected: expected})
	return "“" + name + "” is kept with what comes of it now. It runs again whenever the form is published.", err
}

// loadRehearsal finds the name of a kept rehearsal and the fields that put it on
// the bench; those that were posted if it is no longer kept.
func (d *Desk) loadRehearsal(ctx context.Context, f store.Form, p *engine.Program, id string, posted url.Values) (name string, fields url.Values, err error) {
	list, err := d.store.Rehearsals(ctx, f.WorkspaceID, f.ID)
	if err != nil {
		return "", posted, err
	}
	for _, r := range list {
		var saved savedFilling
		if strconv.FormatInt(r.ID, 10) != id || json.Unmarshal(r.Filling, &saved) != nil {
			continue // one that can't be read says so in the list
		}
		fields := saved.Fields
		if fields == nil {
			fields = url.Values{}
		}
		for name, v := range saved.Params {
			fields["url."+name] = v
		}
		fields.Set("_mode", string(saved.Mode))
		fields.Set("_prior", saved.Prior)
		fields.Set("_at", saved.At.In(p.Location()).Format(localMoment))
		fields.Set("_exact", saved.At.Format(time.RFC3339))
		return r.Name, fields, nil
	}
	return "", posted, nil
}

// keptRehearsals runs every rehearsal that is kept of a form.
func (d *Desk) keptRehearsals(ctx context.Context, f store.Form, p *engine.Program) ([]keptRehearsal, error) {
	list, err := d.store.Rehearsals(ctx, f.WorkspaceID, f.ID)
	if err != nil {
		return nil, err
	}
	var out []keptRehearsal
	for _, r := range list {
		k := keptRehearsal{ID: r.ID, Name: r.Name}
		var saved savedFilling
		var expected engine.Expectation
		if json.Unmarshal(r.Filling, &saved) != nil || json.Unmarshal(r.Expected, &expected) != nil {
			k.Differs = []string{"it can no longer be read"}
		} else {
			in, err := d.input(ctx, f, p, bench{saved.Fields, saved.Params, saved.At, saved.Mode, saved.Prior})
			if err != nil {
				return nil, err
			}
			k.Differs = expected.Differences(p.Run(in))
		}
		out = append(out, k)
	}
	return out, nil
}

// whys explains every item, section and page that can be otherwise.
func whys(def *form.Form, out *engine.Outcome) (rows []whyRow, always int) {
	ways := map[string][]way{}
	for _, t := range def.AllTies() {
		if t.Owner != "" && form.Seekable(t.Property) {
			at := "seek:" + t.Owner + ":" + t.Property + ":"
			ways[t.Owner] = append(ways[t.Owner], way{wayWords(def, t), at + "met", at + "not"})
		}
	}
	add := func(key, label string) {
		because := out.Why(key, 0)
		told := because[:0:0]
		for _, b := range because {
			// That there is no tie is the usual case and says nothing.
			if b.Reason != nil || b.Effect != "shown" && b.Effect != "required" || b.Effect == "shown" && !b.Holds {
				told = append(told, b)
			}
		}
		if len(told) == 0 && len(ways[key]) == 0 {
			always++
			return
		}
		row := whyRow{Key: key, Label: label, State: "shown", Class: "met", Because: told, Ways: ways[key]}
		if first := because[0]; !first.Holds {
			row.State, row.Class = "not shown", "not"
			if first.Truth == expr.Undecided && first.Reason != nil {
				row.State, row.Class = "undecided", "open"
			}
		}
		rows = append(rows, row)
	}
	for _, p := range def.Pages {
		if len(ways[p.Key]) > 0 || len(out.Why(p.Key, 0)) > 0 && !out.Why(p.Key, 0)[0].Holds {
			add(p.Key, "Page: "+p.Name())
		}
		for _, s := range p.Sections {
			if !s.Shown.IsZero() || s.Repeat != nil {
				add(s.Key, "Section: "+s.Name())
			}
			for _, it := range s.Items {
				add(it.Key, it.Name())
			}
		}
	}
	return rows, always
}

// wayWords names a tie among those of its owner.
func wayWords(def *form.Form, t form.Tie) string {
	head, rest, _ := strings.Cut(t.Property, ".")
	index, last, _ := strings.Cut(rest, ".")
	n, _ := strconv.Atoi(index)
	if p, ok := def.Find(t.Owner); ok && head == "choices" && n < len(p.Item.Choices) {
		return p.Item.Choices[n].Name() + " " + last
	}
	if page := def.Page(t.Owner); page != nil && head == "next" && n < len(page.Next) {
		return "then " + nameOf(def, page.Next[n].Page)
	}
	return map[string]string{"shown": "shown", "required": "required", "locked": "locked", "value": "filled", "checks": "accepted", "wording": "reworded"}[head]
}
