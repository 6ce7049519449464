package responses

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/core/view"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/ui"
)

// StaffField is a question that the workspace fills, where it is filled.
type StaffField struct {
	Form       store.FormID
	Response   string
	Key, Label string
	// tick, pick, picks, long, number, date, or text; "" for what is filled on the response's own page
	Kind          string
	Value, Text   string
	Options       []layout.Option // to pick
	Picked        map[string]bool
	Fault         string
	Over          []string // what the checks of other questions say
	Ticked, Small bool
}

// staffChoice is a question that can be filled for many responses at once.
type staffChoice struct {
	Key, Label string
	Field      *StaffField
}

// StaffFieldOf is a question of the workspace with the answer that is there, and that in words.
func StaffFieldOf(it *form.Item, v any, text string) *StaffField {
	f := &StaffField{Key: it.Key, Label: it.Name(), Text: text, Value: exchange.Plain(v)}
	switch it.Type {
	case form.Tick:
		f.Kind, f.Ticked = "tick", v == true
	case form.YesNo:
		f.Kind, f.Options = "pick", []layout.Option{{Value: "yes", Label: "Yes"}, {Value: "no", Label: "No"}}
	case form.ChoiceType, form.ChoicesType:
		if it.ChoicesFrom == nil && it.Other() == "" {
			f.Kind = "pick"
			if it.Type == form.ChoicesType {
				f.Kind, f.Picked = "picks", map[string]bool{}
				picks, _ := v.([]any)
				for _, pick := range picks {
					value, _ := pick.(string)
					f.Picked[value] = true
				}
			}
			for _, c := range it.Choices {
				f.Options = append(f.Options, layout.Option{Value: c.Value, Label: c.Name()})
			}
		}
	case form.Paragraph:
		f.Kind = "long"
	case form.Number, form.Date:
		f.Kind = string(it.Type)
	case form.Text, form.Email, form.Phone, form.Website, form.Time:
		f.Kind = "text"
	}
	return f
}

// putter puts an answer of the workspace into responses.
type putter struct {
	d     *Room
	ctx   context.Context //nolint:containedctx // it lives for one request
	l     *Looking
	by    store.MemberID
	key   string
	value any
}

// answered is what was posted for a question of the workspace, as an answer.
func answered(it *form.Item, posted []string) any {
	if it.Type == form.ChoicesType {
		picks := []any{}
		for _, v := range posted {
			if v != "" {
				picks = append(picks, v)
			}
		}
		return picks
	}
	return strings.Join(posted[:min(1, len(posted))], "")
}

// putInto puts it into one response; before and after are what its question held and holds.
func (p putter) putInto(id string) (before, after json.RawMessage, over []string, err error) {
	got, err := p.d.InForm(p.l.Form).Amend(p.ctx, id, &p.by, p.l.Now, func(r store.Response) (store.Response, error) {
		var next store.Response
		next, over, err = p.change(r)
		before, after = engine.AnswerIn(r.Answers, p.key), engine.AnswerIn(next.Answers, p.key)
		if err != nil {
			return next, err
		}
		err = p.l.Follow(p.ctx, p.d.Desk, r.Answers, &next)
		return next, err
	})
	switch {
	case err != nil:
		return before, after, over, err
	case got == store.ChangedTooOften:
		return before, after, over, engine.RefusedError{Text: "it was changed very often and can’t be changed again"}
	case got == store.NoPlaces:
		return before, after, over, engine.RefusedError{Text: "a place that it takes is gone"}
	case got == store.Withdrawn:
		return before, after, over, engine.RefusedError{Text: "it was withdrawn"}
	}
	return before, after, over, nil
}

// change is a response with the answer in it, and what the checks say against others.
func (p putter) change(r store.Response) (store.Response, []string, error) {
	return p.filled(r, func(own, newest *engine.Program, kept engine.Submitted) (engine.Filled, error) {
		return engine.Put(own, newest, kept, p.key, p.value)
	})
}

// filled has the engine put something into a response.
func (p putter) filled(
	r store.Response, put func(own, newest *engine.Program, kept engine.Submitted) (engine.Filled, error),
) (store.Response, []string, error) {
	own, err := p.d.Programs.Get(p.ctx, r.EditionID(r.Edition))
	if err != nil {
		return r, nil, err
	}
	got, err := put(own, p.l.Lens.Program,
		engine.Submitted{Answers: r.Answers, Parameters: r.Parameters, Received: r.ReceivedAt})
	if err != nil {
		return r, nil, err
	}
	next := r
	next.Answers, next.Alone = got.Answers, got.Alone
	if got.Alone {
		return next, nil, nil
	}
	next.Labels, next.Uploads, next.Takes, next.Overridden = got.Labels, got.Files, got.Takes, nil
	for _, f := range got.Over {
		next.Overridden = append(next.Overridden, f.Said())
	}
	return next, next.Overridden, nil
}

// set fills a question of the workspace for one response, in the table or beside it.
func (d *Room) set(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	l, err := Read(d.Desk, r)
	if err != nil {
		return err
	}
	id, key := chi.URLParam(r, "response"), r.PostForm.Get("key")
	at := slices.IndexFunc(l.Lens.Columns(), func(c view.Column) bool { return c.Key == key && c.Staff })
	if at < 0 {
		return store.ErrNotFound
	}
	it := l.Lens.Columns()[at].Item
	_, _, over, err := putter{d, r.Context(), l, layout.Member(r.Context()).ID, key,
		answered(it, r.PostForm["value"])}.putInto(id)
	var refused engine.RefusedError
	if errors.As(err, &refused) {
		err = nil
	}
	if err != nil {
		return err
	}
	res, err := d.InForm(l.Form).Response(r.Context(), id)
	if err != nil {
		return err
	}
	answers, err := engine.ParseAnswers(res.Answers)
	if err != nil {
		return err
	}
	program, err := d.Programs.Get(r.Context(), l.Form.EditionID(res.Edition))
	if err != nil {
		return err
	}
	field := StaffFieldOf(it, answers[key], view.InWords(program, key, answers[key], nil))
	field.Form, field.Response, field.Fault, field.Over = l.Form.ID, id, refused.Text, over
	if r.Header.Get("HX-Request") == "" {
		http.Redirect(w, r, layout.Base(l.Form.ID)+"/responses/"+id, http.StatusSeeOther)
		return nil
	}
	status := http.StatusOK
	if refused.Text != "" {
		status = http.StatusUnprocessableEntity
		field.Value = r.PostForm.Get("value")
	}
	return d.pages.Page(w, status, "staff-field", field)
}

// mostAtOnce is for how many responses one change is made at once.
const mostAtOnce = 2000

var tooManyAtOnce = ui.Refusal{Status: http.StatusUnprocessableEntity, Title: "These are too many at once",
	Text: fmt.Sprintf("A change is made for at most %d responses at once. Please narrow the view.", mostAtOnce)}

// bulk fills a question of the workspace for all responses that are marked, or that the
// view shows.
func (d *Room) bulk(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	l, err := Read(d.Desk, r)
	if err != nil {
		return err
	}
	v := r.PostForm
	key := v.Get("set")
	at := slices.IndexFunc(l.Lens.Columns(), func(c view.Column) bool { return c.Key == key && c.Staff })
	if at < 0 {
		return store.ErrNotFound
	}
	values := v["value."+key]
	ids, err := d.marked(r.Context(), l, v)
	if err != nil {
		return err
	}
	member := layout.Member(r.Context()).ID
	put := putter{d, r.Context(), l, member, key, answered(l.Lens.Columns()[at].Item, values)}
	if v.Get("sure") == "" {
		would, err := put.would(ids)
		if err != nil {
			return err
		}
		if would.Goes() {
			return d.askBulk(w, r, l,
				bulkAsk{Set: key, Label: l.Lens.Columns()[at].Label, Values: values, IDs: ids, Would: would})
		}
	}
	done := store.Changed{Key: key, Responses: map[string][2]json.RawMessage{}}
	refusals := map[string]int{}
	for _, id := range ids {
		before, after, _, err := put.putInto(id)
		var refused engine.RefusedError
		switch {
		case errors.As(err, &refused):
			refusals[refused.Text]++
		case errors.Is(err, store.ErrNotFound): // deleted meanwhile
		case err != nil:
			return err
		default:
			done.Responses[id] = [2]json.RawMessage{before, after}
		}
	}
	label := l.Lens.Columns()[at].Label
	if len(done.Responses) > 0 {
		err = d.InForm(l.Form).KeepBulk(r.Context(),
			store.BulkChange{MemberID: member, Changed: done, Says: bulkSays(label, len(done.Responses))})
		if err != nil {
			return err
		}
	}
	http.Redirect(w, r, l.Address("", "said", outcomeSaid(len(done.Responses), refusals)), http.StatusSeeOther)
	return nil
}

// would is what a change of many would bring about.
type would struct{ Changes, Emails, Hooks int }

// Goes reports whether anything would go out.
func (w would) Goes() bool { return w.Emails+w.Hooks > 0 }

// Says is that in words, for a button: "10 · 10 e-mails will be sent".
func (w would) Says() string {
	out := strconv.Itoa(w.Changes)
	if w.Emails > 0 {
		out += " · " + counted(w.Emails, "e-mail") + " will be sent"
	}
	if w.Hooks > 0 {
		out += " · " + counted(w.Hooks, "call") + " to other programs"
	}
	return out
}

func counted(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return strconv.Itoa(n) + " " + noun + "s"
}

// would tries a change on responses without making it.
func (p putter) would(ids []string) (out would, err error) {
	for _, id := range ids {
		r, err := p.d.InForm(p.l.Form).Response(p.ctx, id)
		if errors.Is(err, store.ErrNotFound) || err == nil && r.WithdrawnAt != nil {
			continue
		}
		if err != nil {
			return out, err
		}
		next, _, err := p.change(r)
		var refused engine.RefusedError
		if errors.As(err, &refused) {
			continue
		}
		if err != nil {
			return out, err
		}
		if engine.SameAnswers(engine.AnswerIn(r.Answers, p.key), engine.AnswerIn(next.Answers, p.key)) {
			continue
		}
		out.Changes++
		if err := p.l.Follow(p.ctx, p.d.Desk, r.Answers, &next); err != nil {
			return out, err
		}
		for _, l := range next.Goes {
			switch {
			case l.Kind == store.Hook:
				out.Hooks++
			case l.Recipient != "":
				out.Emails++
			}
		}
	}
	return out, nil
}

// bulkAsk is a change of many of which something would go out, to be made sure of.
type bulkAsk struct {
	Set, Label   string
	Values, IDs  []string
	Would        would
	Action, Here string
}

// askBulk shows the view with what a change would bring about, before it is made.
func (d *Room) askBulk(w http.ResponseWriter, r *http.Request, l *Looking, ask bulkAsk) error {
	p, err := d.page(r, l)
	if err != nil {
		return err
	}
	ask.Action, ask.Here = l.Address("/set"), l.Address("")
	p.Asks = &ask
	return d.pages.Page(w, http.StatusConflict, "responses", p)
}

// marked are the responses that were marked, or all that the view shows.
func (d *Room) marked(ctx context.Context, l *Looking, v url.Values) ([]string, error) {
	if v.Get("whom") != "all" {
		ids := v["marked"]
		if len(ids) > mostAtOnce {
			return nil, tooManyAtOnce
		}
		return ids, nil
	}
	if l.Fault != "" {
		return nil, nil
	}
	var ids []string
	stop := errors.New("enough")
	err := d.InForm(l.Form).EachOf(ctx, l.Look(), func(r store.Response) error {
		if ids = append(ids, r.ID); len(ids) > mostAtOnce {
			return stop
		}
		return nil
	})
	if errors.Is(err, stop) {
		return nil, tooManyAtOnce
	}
	return ids, err
}

func bulkSays(label string, n int) string { return fmt.Sprintf("%s was set for %d", label, n) }

// outcomeSaid is what came of a change of many, for an address.
func outcomeSaid(done int, refusals map[string]int) string {
	parts := []string{strconv.Itoa(done)}
	for text, n := range refusals {
		parts = append(parts, fmt.Sprintf("%d:%s", n, text))
	}
	slices.Sort(parts[1:])
	return strings.Join(parts, "|")
}

// said puts that into words.
func said(code string) string {
	if code == "" || len(code) > 2000 {
		return ""
	}
	parts := strings.Split(code, "|")
	n, err := strconv.Atoi(parts[0])
	if err != nil || n < 0 {
		return ""
	}
	out := fmt.Sprintf("Done for %d responses.", n)
	if n == 1 {
		out = "Done for one response."
	}
	if n == 0 {
		out = "Nothing was changed: mark some responses first."
		if len(parts) > 1 {
			out = "Nothing was changed."
		}
	}
	for _, p := range parts[1:] {
		n, text, ok := strings.Cut(p, ":")
		if k, err := strconv.Atoi(n); ok && err == nil {
			out += fmt.Sprintf(" Not for %d: %s.", k, text)
		}
	}
	return out
}

// bulkSaid is the member's last change of many, to be taken back.
type bulkSaid struct{ Says, When string }

func (d *Room) bulkOf(ctx context.Context, p *responsesPage, l *Looking) error {
	last, err := d.InForm(l.Form).LastBulk(ctx, layout.Member(ctx).ID)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	p.Bulk = &bulkSaid{last.Says, last.MadeAt.In(l.Lens.Syms.Zone).Format("2 Jan, 15:04")}
	return err
}

// takeBack undoes the member's last change of many: each response gets its answer back,
// unless it was changed since.
func (d *Room) takeBack(w http.ResponseWriter, r *http.Request) error {
	l, err := Read(d.Desk, r)
	if err != nil {
		return err
	}
	member := layout.Member(r.Context()).ID
	last, err := d.InForm(l.Form).LastBulk(r.Context(), member)
	if err != nil {
		return err
	}
	refusals := map[string]int{}
	done := 0
	for id, was := range last.Changed.Responses {
		got, err := d.InForm(l.Form).Amend(r.Context(), id, &member, l.Now, func(res store.Response) (store.Response, error) {
			put := putter{d: d, ctx: r.Context(), l: l}
			next, _, err := put.filled(res, func(own, newest *engine.Program, kept engine.Submitted) (engine.Filled, error) {
				return engine.PutBack(own, newest, kept, last.Changed.Key, was[0], was[1])
			})
			if err != nil {
				return next, err
			}
			err = l.Follow(r.Context(), d.Desk, res.Answers, &next)
			return next, err
		})
		var refused engine.RefusedError
		switch {
		case errors.As(err, &refused):
			refusals[refused.Text]++
		case errors.Is(err, store.ErrNotFound):
			refusals["it was deleted since"]++
		case err != nil:
			return err
		case got == store.Withdrawn:
			refusals["it was withdrawn since"]++
		default:
			done++
		}
	}
	if err := d.InForm(l.Form).DropBulk(r.Context(), member); err != nil {
		return err
	}
	http.Redirect(w, r, l.Address("", "said", outcomeSaid(done, refusals)), http.StatusSeeOther)
	return nil
}
