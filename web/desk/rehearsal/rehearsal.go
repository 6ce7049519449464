// Package rehearsal is a draft being tried: the form beside a bench with its parameters, clock and mode, and
// the reasons for everything.
package rehearsal

import (
	"context"
	"embed"
	"encoding/json"
	"errors"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"lazo/cache"
	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/ribbon"
	"lazo/web/fill"
	"lazo/web/fill/posted"
	"lazo/web/ui"
	"lazo/web/wording"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages *ui.Renderer
	shown *cache.Cache[string, string] // what pages show, by a word of theirs
}

// shownHeld bounds what is remembered of what pages show, in bytes.
const shownHeld = 16 << 20

func New(d *layout.Desk) *Room {
	shown := cache.New(shownHeld, func(_, body string) int { return len(body) })
	return &Room{d, layout.Pages(nil, ribbon.Templates, templates), shown}
}

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	r.Get("/rehearsal", d.pages.Handle(d.rehearsal))
	r.Post("/rehearsal", d.pages.Handle(d.rehearsal))
	r.Get("/letters/{message}", d.pages.Handle(d.letter))
}

// rehearsalPage is a draft being tried.
type rehearsalPage struct {
	layout.Header
	*fill.View
	Remarks []form.Remark // that stand in the way
	Shown   string        // by what it is remembered
	Params  []benchParam
	// ParamNotes say which parameters do nothing, and why.
	ParamNotes []engine.ParamNote
	Places     []benchPlaces
	Ribbon     *ribbon.Ribbon
	At         string // the clock, local to the form's zone
	Mode       string
	Next       string // the next moment of change, "" for none
	NextIn     string
	Back       string // the moments that the clock stood at before, the last first
	BackTo     string
	Priors     []layout.Option
	Prior      string
	Open       string
	Closed     string // what people read instead, in Markdown, where it is not open
	Whys       []whyRow
	Letters    []engine.Letter // all messages, as they would arrive, and why they go or not
	Hooks      []string        // that would be told
	Always     int
	Stored     []engine.Answered // what would be, if it were sent
	Beside     []engine.Said     // what the live edition makes otherwise of the same
	Accepted   bool
	Note       string // what was just done
	Onward     onward // from what a proof put here
	Kept       []Saved
	Name       string // of the kept one that is being shown
}

type benchParam struct{ Name, Label, Value string }

// benchPlaces are the choices of a question that have places, with how many are taken.
type benchPlaces struct {
	Label   string
	Choices []benchParam
}

// whyRow explains one item.
type whyRow struct {
	Key, Label, State, Class string
	Because                  []engine.Because
	Ways                     []way
}

// way is a tie for which the form can be filled both ways.
type way struct{ Effect, Met, Not string }

// Saved is a rehearsal kept under a name and how it comes out now.
type Saved struct {
	ID      store.RehearsalID
	Name    string
	Differs []string
}

const (
	// priorsShown is how many responses can be picked as the one before.
	priorsShown = 30
)

// rehearsal shows the draft as the respondent gets it, with the bench and the
// reasons. No answer is stored, so it is the same whether it comes by GET or POST.
func (d *Room) rehearsal(w http.ResponseWriter, r *http.Request) error {
	fields := url.Values{}
	if r.Method == http.MethodPost {
		var err error
		if fields, err = posted.Posted(w, r); err != nil {
			return err
		}
	}
	f, _, fr, err := d.OpenTab(r, "rehearsal")
	if err != nil {
		return err
	}
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return err
	}
	p, remarks := draft.Program, draft.Remarks
	if p == nil {
		return d.pages.Page(w, http.StatusOK, layout.TemplateFor(r, "rehearsal"),
			rehearsalPage{Header: fr, Remarks: form.Errors(remarks)})
	}
	before := fields.Get(shownField)
	page, err := d.rehearse(r.Context(), f, fr, p, fields, askOf(r, fields))
	if err != nil {
		return err
	}
	return d.show(w, r, page, before)
}

// ask is what the bench is asked to do, and what it is about, such as a rehearsal that is loaded.
type ask struct{ verb, about string }

// askOf is what was pressed or, where one comes by a link, what its address asks for.
func askOf(r *http.Request, fields url.Values) ask {
	for _, way := range []struct{ parameter, verb string }{
		{"seek", "seek"}, {"kept", "load"}, {"try", "try"}, {"response", "response"},
	} {
		if about := r.URL.Query().Get(way.parameter); about != "" && r.Method != http.MethodPost {
			return ask{way.verb, about}
		}
	}
	verb, about, _ := strings.Cut(fields.Get(posted.DoField), ":")
	return ask{verb, about}
}

// The fields of the bench, beside those of the form.
const (
	modeField    = "_mode"
	atField      = "_at"    // the clock, to the minute
	exactField   = "_exact" // the same to the second, where a button has put it
	priorField   = "_prior" // the response that somebody comes back to
	nameField    = "_name"  // under which it is saved
	addressField = "_address"
	backField    = "_back" // where the clock stood before
)

// shownField is the word by which what a page shows is remembered.
const shownField = "_shown"

// rehearsalParts are the parts of a rehearsal that differ from what the page shows.
type rehearsalParts struct{ Parts []ui.Part }

// show sends the rehearsal, or of it what differs from what the page shows, if that is
// still remembered here.
func (d *Room) show(w http.ResponseWriter, r *http.Request, page rehearsalPage, before string) error {
	page.Shown = uuid.NewString()
	body, err := d.pages.Text("rehearsal-body", page)
	if err != nil {
		return err
	}
	was, known := d.shown.Get(before)
	d.shown.Add(page.Shown, body)
	if r.Header.Get("HX-Request") == "" || !known {
		return d.pages.Page(w, http.StatusOK, layout.TemplateFor(r, "rehearsal"), page)
	}
	parts, err := ui.Patch(was, body)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "rehearsal-parts", rehearsalParts{parts})
}

// bench is what a rehearsal is filled with.
type bench struct {
	posted url.Values
	params map[string][]string
	at     time.Time
	mode   engine.Mode
	prior  string // the id of a response, or ""
}

func (d *Room) benchOf(p *engine.Program, fields url.Values) bench {
	b := bench{posted: fields, params: map[string][]string{}, mode: engine.Mode(fields.Get(modeField)),
		prior: fields.Get(priorField)}
	var err error
	if b.at, err = time.ParseInLocation(layout.LocalMoment, fields.Get(atField), p.Location()); err != nil {
		b.at = d.Now().In(p.Location())
	}
	// The clock's field shows minutes; where it was put by a button, to the second.
	if exact, err := time.Parse(time.RFC3339, fields.Get(exactField)); err == nil &&
		exact.In(p.Location()).Format(layout.LocalMoment) == fields.Get(atField) {
		b.at = exact.In(p.Location())
	}
	if at, ok := ribbon.Dragged(fields); ok {
		b.at = at.In(p.Location())
	}
	if !b.mode.Known() {
		b.mode = engine.New
	}
	for _, param := range p.Form.Parameters {
		if v := fields.Get("url." + param.Name); v != "" {
			b.params[param.Name] = []string{v}
		}
	}
	// An address that was pasted comes before what stands in the fields.
	if _, query, ok := strings.Cut(fields.Get(addressField), "?"); ok {
		if params, err := url.ParseQuery(query); err == nil {
			b.params = params
		}
	}
	return b
}

// takenHead begins the names of the fields that say how many places are taken.
const takenHead = "taken."

// placesShown bounds the choices of a question of which the bench sets what is taken.
const placesShown = 30

// places are the choices that have places, with what the bench says of them.
func places(p *engine.Program, fields url.Values) []benchPlaces {
	var out []benchPlaces
	for pl := range p.Form.Places() {
		it := pl.Item
		if !it.HasPlaces() {
			continue
		}
		row := benchPlaces{Label: layout.LabelOr(it.Label, it.Key)}
		options := p.Form.Options(it)
		for i, value := range options.Values {
			limited := it.Places != nil || i < len(it.Choices) && it.Choices[i].Places != nil
			if limited && len(row.Choices) < placesShown {
				name := takenHead + it.Key + "." + value
				row.Choices = append(row.Choices, benchParam{name, options.Labels[i], fields.Get(name)})
			}
		}
		out = append(out, row)
	}
	return out
}

// taken is how many places the bench says are taken.
func taken(p *engine.Program, fields url.Values) engine.Taken {
	out := engine.Taken{}
	for _, row := range places(p, fields) {
		for _, c := range row.Choices {
			key, value, _ := strings.Cut(strings.TrimPrefix(c.Name, takenHead), ".")
			if n, err := strconv.Atoi(c.Value); err == nil && n > 0 {
				if out[key] == nil {
					out[key] = map[string]int{}
				}
				out[key][value] = n
			}
		}
	}
	return out
}

// input is the bench as the engine takes it.
func (d *Room) input(ctx context.Context, f store.Form, p *engine.Program, b bench) (engine.Input, error) {
	in := engine.Input{
		Answers: p.Answers(posted.Answers(p.Form, b.posted)), Params: b.params, At: b.at, Mode: b.mode,
		Taken: taken(p, b.posted),
	}
	if b.mode == engine.New || b.prior == "" {
		return in, nil
	}
	resp, err := d.InForm(f).Response(ctx, b.prior)
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

// rehearse runs the draft on what the bench says, after what was asked for was done.
func (d *Room) rehearse(
	ctx context.Context, f store.Form, fr layout.Header, p *engine.Program, fields url.Values, asked ask,
) (rehearsalPage, error) {
	page := rehearsalPage{Header: fr}
	var err error
	switch asked.verb {
	case "load":
		page.Name, fields, err = d.loadRehearsal(ctx, f, p, asked.about, fields)
	case "response":
		page.Note, fields, err = d.fromResponse(ctx, f, p, asked.about)
	case "try":
		var s shown
		s, fields, err = d.fromProof(ctx, f, p, asked.about)
		page.Note, page.Onward = s.note, s.onward
	}
	if err != nil {
		return page, err
	}
	b := d.benchOf(p, fields)
	back := strings.Fields(fields.Get(backField))
	judgement := fill.JudgedOnly(fields)
	var edit *posted.RowEdit
	switch asked.verb {
	case "clock", "back":
		b.at, back = turnClock(b.at, asked.verb, asked.about, back)
	case "seek":
		page.Note = seek(p, &b, asked.about)
	case "add", "remove", "restore":
		b.posted, edit = posted.EditRows(p.Form, b.posted, fields.Get(posted.DoField))
	case "judge":
		judgement = fill.Judged
	}
	in, err := d.input(ctx, f, p, b)
	if err != nil {
		return page, err
	}
	out := p.Run(in)
	switch asked.verb {
	case "save":
		page.Note, err = d.saveRehearsal(ctx, f, b, out, fields.Get(nameField))
	case "forget":
		err = d.forgetRehearsal(ctx, f, asked.about)
	}
	if err != nil {
		return page, err
	}
	page.show(p, in, b, back)
	page.Ribbon = ribbon.Of(p, in, d.Now())
	page.Open, page.Accepted = string(out.Open), out.Accepted
	if out.Open != engine.Open {
		page.Closed = fill.Closed(out.Closed(), out.Open, wording.For(p.Form.Language))
	}
	page.View = fill.BuildAfter(p, out, b.posted, "", judgement, edit)
	page.Whys, page.Always = whys(p.Form, out)
	page.Letters, page.Hooks = out.Letters(), out.Hooks()
	page.Stored = out.Told()
	if page.Beside, err = d.beside(ctx, f, fr, in, b.posted, out); err != nil {
		return page, err
	}
	if page.Kept, err = d.RunSaved(ctx, f, p); err != nil {
		return page, err
	}
	page.Priors, err = d.priors(ctx, f, p, b)
	return page, err
}

// turnClock goes on to a moment, or back to the last of those before.
func turnClock(at time.Time, verb, to string, back []string) (time.Time, []string) {
	if verb == "clock" {
		if next, err := time.Parse(time.RFC3339, to); err == nil {
			return next.In(at.Location()), append([]string{at.Format(time.RFC3339)}, back...)
		}
		return at, back
	}
	if len(back) == 0 {
		return at, back
	}
	if before, err := time.Parse(time.RFC3339, back[0]); err == nil {
		at = before.In(at.Location())
	}
	return at, back[1:]
}

func (d *Room) forgetRehearsal(ctx context.Context, f store.Form, id string) error {
	n, err := strconv.ParseInt(id, 10, 64)
	if err != nil {
		return nil // it is no rehearsal's
	}
	return d.InForm(f).DeleteRehearsal(ctx, store.RehearsalID(n))
}

// show puts the bench on the page: clock, mode and parameters.
func (p *rehearsalPage) show(program *engine.Program, in engine.Input, b bench, back []string) {
	p.Back = strings.Join(back[:min(len(back), 20)], " ")
	if len(back) > 0 {
		if before, err := time.Parse(time.RFC3339, back[0]); err == nil {
			p.BackTo = before.In(program.Location()).Format(layout.PlainMoment)
		}
	}
	p.At, p.Mode, p.Prior = b.at.Format(layout.LocalMoment), string(b.mode), b.prior
	b.posted.Set(exactField, b.at.Format(time.RFC3339))
	if next, ok := program.NextChange(in); ok {
		p.Next, p.NextIn = next.Format(time.RFC3339), next.Format(layout.PlainMoment)
	}
	p.Places = places(program, b.posted)
	for _, n := range program.ParamNotes(b.params) {
		if n.Wrong {
			p.ParamNotes = append(p.ParamNotes, n)
		}
	}
	for _, param := range program.Form.Parameters {
		value := ""
		if v := b.params[param.Name]; len(v) > 0 {
			value = v[0]
		}
		p.Params = append(p.Params, benchParam{param.Name, layout.LabelOr(param.Label, param.Name), value})
	}
}

// Exact is the clock to the second.
func (p rehearsalPage) Exact() string { return p.Posted(exactField) }

// priors are the responses that can be the one before, for revisit and staff.
func (d *Room) priors(ctx context.Context, f store.Form, p *engine.Program, b bench) ([]layout.Option, error) {
	if b.mode == engine.New {
		return nil, nil
	}
	list, err := d.InForm(f).Responses(ctx, 0, priorsShown)
	if err != nil {
		return nil, err
	}
	var out []layout.Option
	for _, r := range list {
		out = append(out, layout.Option{Value: r.ID,
			Label: "received " + r.ReceivedAt.In(p.Location()).Format(layout.PlainMoment)})
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
	name := author.TieName(p.Form, owner, property)
	found, ok := p.Seek(
		owner, property, want,
		engine.Filling{Answers: posted.Answers(p.Form, b.posted), Params: b.params, At: b.at, Mode: b.mode},
	)
	if !ok {
		return "No answers were found with which the tie “" + name + "” is " + word +
			". A small search looked at the questions it names; perhaps there are none."
	}
	kept := b.posted
	b.posted = posted.Fields(p.Form, found.Answers)
	for _, own := range []string{modeField, priorField, nameField} {
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
func (d *Room) saveRehearsal(
	ctx context.Context, f store.Form, b bench, out *engine.Outcome, name string,
) (note string, err error) {
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
	err = d.InForm(f).SaveRehearsal(
		ctx, store.Rehearsal{Name: name, Filling: filling, Expected: expected},
	)
	return "“" + name + "” is kept with what comes of it now. It runs again whenever the form is published.", err
}

// loadRehearsal finds the name of a kept rehearsal and the fields that put it on
// the bench; those that were posted if it is no longer kept.
func (d *Room) loadRehearsal(
	ctx context.Context, f store.Form, p *engine.Program, id string, sent url.Values,
) (name string, fields url.Values, err error) {
	list, err := d.InForm(f).Rehearsals(ctx)
	if err != nil {
		return "", sent, err
	}
	for _, r := range list {
		var saved savedFilling
		if strconv.FormatInt(int64(r.ID), 10) != id || json.Unmarshal(r.Filling, &saved) != nil {
			continue // one that can't be read says so in the list
		}
		fields := saved.Fields
		if fields == nil {
			fields = url.Values{}
		}
		for name, v := range saved.Params {
			fields["url."+name] = v
		}
		fields.Set(modeField, string(saved.Mode))
		fields.Set(priorField, saved.Prior)
		fields.Set(atField, saved.At.In(p.Location()).Format(layout.LocalMoment))
		fields.Set(exactField, saved.At.Format(time.RFC3339))
		return r.Name, fields, nil
	}
	return "", sent, nil
}

// RunSaved runs every rehearsal that is kept of a form.
func (d *Room) RunSaved(ctx context.Context, f store.Form, p *engine.Program) ([]Saved, error) {
	list, err := d.InForm(f).Rehearsals(ctx)
	if err != nil {
		return nil, err
	}
	var out []Saved
	for _, r := range list {
		k := Saved{ID: r.ID, Name: r.Name}
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
	for i, p := range def.Pages {
		if len(ways[p.Key]) > 0 || len(out.Why(p.Key, 0)) > 0 && !out.Why(p.Key, 0)[0].Holds {
			add(p.Key, "Page: "+def.PageName(i))
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
		return "then " + def.NameOf(page.Next[n].Page)
	}
	return map[string]string{"shown": "shown", "required": "required", "locked": "locked", "value": "filled",
		"checks": "accepted", "wording": "reworded"}[head]
}
