package response

import (
	"context"
	"mime"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/text"
	"lazo/core/view"
	"lazo/privacy"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/outbox"
	"lazo/web/desk/responses"
	"lazo/web/fill"
	"lazo/web/ui"
)

// Sheet is a response as it was asked.
type Sheet struct {
	layout.Header
	*fill.View
	Response   string
	Received   string
	Language   string // that it was given in, if not the form's own
	Taken      bool   // by the office
	Edition    int
	Version    int // of an earlier state, 0 for what it is now
	History    []state
	Params     []parameter
	Link       string
	Staff      []*responses.StaffField
	Mask       view.Mask // of a reader: the questions whose answers are not shown
	Overridden []string
	Withdrawn  bool
	Anew       bool            // an address that it had before was confirmed
	ConfirmBy  string          // until when its address is to be confirmed, "" if it is not
	Letters    []engine.Letter // as the form as it is now would send them at receipt
	Outbox     []outbox.Line   // what went out of it, or is to
	Documents  []layout.Option // of the form, by their keys
	Now        []string        // what the form as it is now would ask besides
	Before     string          // the address of the response before it in the view
	After      string
	Back       string
	Beside     bool // it stands beside the table
}

// Reference is by what a receipt names the response.
func (s Sheet) Reference() string { return store.Reference(s.Response) }

// state is a state that the response was in, with what then became of it.
type state struct {
	Version int // 0 for what it is now
	Before  int // the version that the change ended, 0 where there was none
	When    string
	Words   string // what made it
	Changes []view.Difference
	Shown   bool
	Still   bool // the answers stayed as they were
}

// parameter is an address parameter that the response came with.
type parameter struct{ Name, Label, Value string }

// response shows one response as it was asked: by its edition, at its moment, in
// its mode; with ?version=N as it was before a change, with ?beside=1 for a place beside
// the table.
func (d *Room) response(w http.ResponseWriter, r *http.Request) error {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	page, err := d.page(r, l, chi.URLParam(r, "response"))
	if err != nil {
		return err
	}
	if page.Beside = r.URL.Query().Get("beside") != ""; page.Beside {
		return d.pages.Page(w, http.StatusOK, "response-sheet", page)
	}
	return d.pages.Page(w, http.StatusOK, "response", page)
}

func (d *Room) page(r *http.Request, l *responses.Looking, id string) (*Sheet, error) {
	res, err := d.InForm(l.Form).ResponseWithVersions(r.Context(), id)
	if err != nil {
		return nil, err
	}
	page := &Sheet{Header: l.Frame, Response: res.ID, Taken: res.TakenBy != nil, Overridden: res.Overridden,
		Back:      l.Address(""),
		Withdrawn: res.WithdrawnAt != nil, Mask: l.Mask}
	zone := l.Lens.Syms.Zone
	if res.ConfirmBy != nil {
		page.Anew = res.ConfirmedAt != nil
		page.ConfirmBy = res.ConfirmBy.In(zone).Format(layout.PlainMoment)
	}
	page.Received = res.ReceivedAt.In(zone).Format(layout.PlainMoment)
	if err := d.history(r, l, page, res); err != nil {
		return nil, err
	}
	now := res.Answers
	for _, v := range res.Versions {
		if r.URL.Query().Get("version") == strconv.Itoa(v.Number) {
			page.Version, res.Answers, res.Edition = v.Number, v.Answers, v.Edition
		}
	}
	p, err := d.Programs.Get(r.Context(), l.Form.EditionID(res.Edition))
	if err != nil {
		return nil, err
	}
	answers, err := engine.ParseAnswers(res.Answers)
	if err != nil {
		return nil, err
	}
	out := stands(l, p, res, answers)
	page.View, page.Edition = fill.Build(p, out, nil, "", fill.Unjudged), res.Edition
	asTheyRead(page.View, answers, readable(l, p, res.Labels))
	if res.Language != "" {
		page.Language = form.LanguageName(res.Language)
	}
	for _, param := range p.Form.Parameters {
		if v := l.Mask.Parameters(res.Parameters)[param.Name]; len(v) > 0 {
			page.Params = append(page.Params,
				parameter{param.Name, layout.LabelOr(param.Label, param.Name), strings.Join(v, ", ")})
		}
	}
	page.Link = l.Fact(res, "link")
	if page.Version == 0 {
		page.Now = askedNow(l, p, out, res, answers)
	}
	if !page.Withdrawn && len(l.Def.Messages) > 0 {
		page.Letters = lettersOf(l, res, answers)
	}
	if page.Version == 0 && !page.Withdrawn {
		d.staffFields(page, l, p, now)
	}
	for _, doc := range l.Def.Documents {
		page.Documents = append(page.Documents, layout.Option{Value: doc.Key, Label: text.Name(doc.Name)})
	}
	if page.Outbox, err = d.outbox(r.Context(), l, res.ID); err != nil {
		return nil, err
	}
	page.Before, page.After, err = d.InForm(l.Form).Neighbours(r.Context(), l.Look(), res.ID)
	if page.Before != "" {
		page.Before = l.Address("/" + page.Before)
	}
	if page.After != "" {
		page.After = l.Address("/" + page.After)
	}
	return page, err
}

// mostLetters is how many letters of a response its page lists; the outbox lists all.
const mostLetters = 30

// outbox is what went out of a response, or is to, the newest first.
func (d *Room) outbox(ctx context.Context, l *responses.Looking, id string) (lines []outbox.Line, err error) {
	letters, err := d.Store.InWorkspace(l.Form.WorkspaceID).Letters(ctx,
		store.Outbox{Form: l.Form.ID, Response: id, Limit: mostLetters})
	for _, one := range letters {
		lines = append(lines, outbox.LineOf(one, d.Office.Sends(), l.Now, layout.Base(l.Form.ID)+"/responses/"+id))
	}
	return lines, err
}

// askedNow are the questions that the live edition would ask with these answers today, and
// that were not asked then.
func askedNow(
	l *responses.Looking, p *engine.Program, then *engine.Outcome, res store.Response, answers map[string]any,
) (labels []string) {
	now := l.Lens.Program.Run(engine.Input{
		Prior: l.Lens.Program.Answers(answers), Params: res.Parameters, At: l.Now, Mode: engine.Revisit,
	})
	for _, c := range l.Lens.Columns() {
		if c.Item == nil || c.Staff || l.Lens.Answer(answers, c.Key) != nil {
			continue
		}
		if p.Item(c.Key) != nil && then.State(c.Key, 0).Shown {
			continue
		}
		if st := now.State(c.Key, 0); st.Fillable() {
			labels = append(labels, c.Label)
		}
	}
	return labels
}

// lettersOf are the letters of the live edition for a response, as at its receipt.
func lettersOf(l *responses.Looking, res store.Response, answers map[string]any) []engine.Letter {
	p := l.Lens.Program
	out := p.Run(engine.Input{Record: p.Record(answers), Params: res.Parameters, At: res.ReceivedAt, Mode: engine.New})
	out.Accepted = true // it was, whatever the form demands by now
	return out.Letters()
}

// staffFields are the questions of the workspace, to be filled beside the response; those
// that came with later editions too.
func (d *Room) staffFields(page *Sheet, l *responses.Looking, p *engine.Program, stored []byte) {
	answers, err := engine.ParseAnswers(stored)
	if err != nil {
		return
	}
	for _, c := range l.Lens.Columns() {
		if !c.Staff {
			continue
		}
		v := l.Lens.Answer(answers, c.Key)
		f := responses.StaffFieldOf(c.Item, v, view.InWords(p, c.Key, v, nil))
		f.Form, f.Response = l.Form.ID, page.Response
		page.Staff = append(page.Staff, f)
	}
}

// history are the states of a response, the newest first, each with what its change did.
func (d *Room) history(r *http.Request, l *responses.Looking, page *Sheet, res store.Response) error {
	zone := l.Lens.Syms.Zone
	shown := r.URL.Query().Get("version")
	after, edition := res.Answers, res.Edition
	version := 0
	if res.WithdrawnAt != nil {
		by := "by its respondent"
		if res.WithdrawnBy != nil {
			by = "by the office"
		}
		when := res.WithdrawnAt.In(zone).Format(layout.PlainMoment)
		page.History = append(page.History, state{When: when, Words: "Withdrawn " + by, Still: true})
	}
	for _, v := range res.Versions { // the newest first; each says what ended it
		p, err := d.Programs.Get(r.Context(), res.EditionID(edition))
		if err != nil {
			return err
		}
		was, err := l.Mask.WithoutMasked(v.Answers)
		if err != nil {
			return err
		}
		is, err := l.Mask.WithoutMasked(after)
		if err != nil {
			return err
		}
		changes, err := view.Differences(p, was, is, engine.Input{Params: res.Parameters, At: res.ReceivedAt})
		if err != nil {
			return err
		}
		by := "its respondent"
		if v.ByOffice {
			by = layout.LabelOr(v.Member, "someone of the office who has left")
		}
		page.History = append(page.History, state{
			Version: version, Before: v.Number, When: v.KeptAt.In(zone).Format(layout.PlainMoment), Words: "Changed by " + by,
			Changes: changes,
			Shown:   shown == strconv.Itoa(version) || shown == "" && version == 0,
		})
		after, edition, version = v.Answers, v.Edition, v.Number
	}
	words := "Received"
	switch {
	case res.IntakeID != nil:
		words = "Read in by the office"
	case res.TakenBy != nil:
		words = "Taken down by the office"
	}
	page.History = append(page.History, state{
		Version: version, When: res.ReceivedAt.In(zone).Format(layout.PlainMoment), Words: words,
		Shown: shown == strconv.Itoa(version) || shown == "" && version == 0,
	})
	return nil
}

// stands is a response as it stands, in words that whoever looks may see.
func stands(l *responses.Looking, p *engine.Program, res store.Response, answers map[string]any) *engine.Outcome {
	return p.Run(engine.Input{
		Record: p.Record(answers), Params: res.Parameters, At: res.ReceivedAt, Mode: engine.Staff, Apart: l.Mask,
	})
}

// readable are the labels that picks had, but for those in which answers stand where a
// reader may not see all of them.
func readable(
	l *responses.Looking, p *engine.Program, labels map[string]map[string]string,
) map[string]map[string]string {
	if len(l.Mask) == 0 {
		return labels
	}
	out := map[string]map[string]string{}
	for key, kept := range labels {
		it := p.Item(key)
		if it != nil && !slices.ContainsFunc(it.Choices, func(c form.Choice) bool { return text.Holds(c.Label) }) {
			out[key] = kept
		}
	}
	return out
}

// asTheyRead puts what picks from lists of the workspace read when they were stored in
// the place of what they read now, if they are still there.
func asTheyRead(view *fill.View, answers map[string]any, kept map[string]map[string]string) {
	if len(kept) == 0 {
		return
	}
	for i := range view.Pages {
		for j := range view.Pages[i].Sections {
			sec := &view.Pages[i].Sections[j]
			for k := range sec.Fields {
				f := &sec.Fields[k]
				pickedThen(f, answers[f.Key], kept[f.Key])
			}
			rows, _ := answers[sec.Key].([]any)
			for n := range sec.Rows {
				row := map[string]any{}
				if n < len(rows) {
					row, _ = rows[n].(map[string]any)
				}
				for k := range sec.Rows[n] {
					f := &sec.Rows[n][k]
					pickedThen(f, row[f.Key], kept[f.Key])
				}
			}
		}
	}
}

// pickedThen marks the picks of a stored answer in a field, with what they read then.
func pickedThen(f *fill.Field, answer any, labels map[string]string) {
	picks, several := answer.([]any)
	if !several {
		picks = []any{answer}
	}
	for _, pick := range picks {
		code, _ := pick.(string)
		label := labels[code]
		if label == "" {
			continue
		}
		at := slices.IndexFunc(f.Choices, func(o fill.Option) bool { return o.Value == code })
		if at < 0 {
			at = len(f.Choices)
			f.Choices = append(f.Choices, fill.Option{N: at, Value: code, Picked: true})
		}
		f.Choices[at].Label = label
	}
}

// responseFile hands out a file of a response, as a download and nothing else.
func (d *Room) responseFile(w http.ResponseWriter, r *http.Request) error {
	u, err := d.upload(r)
	if err != nil {
		return err
	}
	h := w.Header()
	h.Set("Content-Type", "application/octet-stream")
	h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": u.Name}))
	h.Set("Content-Length", strconv.FormatInt(u.Size, 10))
	return d.Store.ReadUpload(r.Context(), u.ID, w)
}

// upload finds the file of a request; one that is not shown to the member is not there.
func (d *Room) upload(r *http.Request) (store.Upload, error) {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return store.Upload{}, err
	}
	u, err := d.InForm(l.Form).UploadOfResponse(r.Context(), chi.URLParam(r, "response"), chi.URLParam(r, "upload"))
	if err == nil && l.Mask[u.Item] {
		err = store.ErrNotFound
	}
	return u, err
}

// deleteResponse deletes a response with its files, once that was confirmed.
func (d *Room) deleteResponse(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	res, err := d.InForm(f).Response(r.Context(), chi.URLParam(r, "response"))
	if err != nil {
		return err
	}
	if r.PostForm.Get("sure") == "" {
		http.Redirect(w, r, layout.Base(f.ID)+"/responses/"+res.ID, http.StatusSeeOther)
		return nil
	}
	if err := privacy.Erase(r.Context(), d.Store, d.Programs, f, res, d.Now()); err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/responses", http.StatusSeeOther)
	return nil
}

// withdraw sets a response aside, so that it counts for nothing and its places are free.
func (d *Room) withdraw(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	id, by := chi.URLParam(r, "response"), layout.Member(r.Context()).ID
	if err := d.InForm(f).Withdraw(r.Context(), id, &by, d.Now()); err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/responses/"+id, http.StatusSeeOther)
	return nil
}

// confirm takes the address of a response for confirmed, since the office knows it.
func (d *Room) confirm(w http.ResponseWriter, r *http.Request) error {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	id := chi.URLParam(r, "response")
	whichever := func(store.Response) bool { return true }
	done, err := d.InForm(l.Form).Confirm(r.Context(), id, l.Now, whichever,
		func(before []byte, now store.Response) ([]store.Letter, error) {
			return l.Confirmed(r.Context(), d.Desk, before, now)
		})
	if err == nil && !done {
		err = store.ErrNotFound
	}
	if err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(l.Form.ID)+"/responses/"+id, http.StatusSeeOther)
	return nil
}

var placesTaken = ui.Refusal{Status: http.StatusConflict, Title: "Its places are taken by now",
	Text: "A choice of this response has no place left, so that it can’t count again as it is. Give the choice another place first."}

// reinstate lets a response that was withdrawn count again.
func (d *Room) reinstate(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	id := chi.URLParam(r, "response")
	got, err := d.InForm(f).Reinstate(r.Context(), id)
	switch {
	case err != nil:
		return err
	case got == store.NoPlaces:
		return placesTaken
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/responses/"+id, http.StatusSeeOther)
	return nil
}

// Printed is a response as a sheet to print.
func Printed(ctx context.Context, d *layout.Desk, l *responses.Looking, res store.Response) (*Sheet, error) {
	p, err := d.Programs.Get(ctx, l.Form.EditionID(res.Edition))
	if err != nil {
		return nil, err
	}
	answers, err := engine.ParseAnswers(res.Answers)
	if err != nil {
		return nil, err
	}
	out := stands(l, p, res, answers)
	sheet := &Sheet{Header: l.Frame, Mask: l.Mask, Response: res.ID, Edition: res.Edition,
		View:     fill.Build(p, out, nil, "", fill.Unjudged),
		Received: res.ReceivedAt.In(l.Lens.Syms.Zone).Format(layout.PlainMoment)}
	asTheyRead(sheet.View, answers, readable(l, p, res.Labels))
	return sheet, nil
}
