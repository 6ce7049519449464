package responses

import (
	"mime"
	"net/http"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/web/desk/frame"
	"lazo/web/fill"
)

type responsePage struct {
	frame.Frame
	*fill.View
	Response string
	Received string
	Changed  string
	Language string // that it was given in, if not the form's own
	Edition  int
	Version  int // of an earlier state, 0 for what it is now
	Versions []frame.Option
	Params   []parameter
}

// parameter is an address parameter that the response came with.
type parameter struct{ Name, Label, Value string }

// response shows one response as it was asked: by its edition, at its moment, in
// its mode; with ?version=N as it was before a change.
func (d *Room) response(w http.ResponseWriter, r *http.Request) error {
	f, def, fr, err := d.OpenTab(r, "responses")
	if err != nil {
		return err
	}
	res, err := d.Of(f).ResponseWithVersions(r.Context(), chi.URLParam(r, "response"))
	if err != nil {
		return err
	}
	page := responsePage{Frame: fr, Response: res.ID}
	for _, v := range res.Versions {
		number := strconv.Itoa(v.Number)
		page.Versions = append(page.Versions, frame.Option{Value: number, Label: v.KeptAt.In(def.Symbols().Zone).Format(frame.PlainMoment)})
		if r.URL.Query().Get("version") == number {
			page.Version, res.Answers, res.Edition = v.Number, v.Answers, v.Edition
		}
	}
	p, err := d.Programs.Get(r.Context(), f.ID, res.Edition)
	if err != nil {
		return err
	}
	answers, err := engine.ParseAnswers(res.Answers)
	if err != nil {
		return err
	}
	out := p.Run(engine.Input{Record: p.Record(answers), Params: res.Parameters, At: res.ReceivedAt, Mode: engine.Staff})
	page.View, page.Edition = fill.Build(p, out, nil, "", fill.Unjudged), res.Edition
	asTheyRead(page.View, answers, res.Labels)
	if res.Language != "" {
		page.Language = form.LanguageName(res.Language)
	}
	page.Received = res.ReceivedAt.In(p.Location()).Format(frame.PlainMoment)
	if res.ChangedAt != nil {
		page.Changed = res.ChangedAt.In(p.Location()).Format(frame.PlainMoment)
	}
	for _, param := range p.Form.Parameters {
		if v := res.Parameters[param.Name]; len(v) > 0 {
			page.Params = append(page.Params, parameter{param.Name, frame.LabelOr(param.Label, param.Name), exchange.Plain(toAny(v))})
		}
	}
	return d.pages.Page(w, http.StatusOK, "response", page)
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
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	res, err := d.Of(f).Response(r.Context(), chi.URLParam(r, "response"))
	if err != nil {
		return err
	}
	u, err := d.Of(f).UploadOfResponse(r.Context(), res.ID, chi.URLParam(r, "upload"))
	if err != nil {
		return err
	}
	h := w.Header()
	h.Set("Content-Type", "application/octet-stream")
	h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": u.Name}))
	h.Set("Content-Length", strconv.FormatInt(u.Size, 10))
	return d.Store.ReadUpload(r.Context(), u.ID, w)
}

// deleteResponse deletes a response with its files, once that was confirmed.
func (d *Room) deleteResponse(w http.ResponseWriter, r *http.Request) error {
	if err := frame.Parse(w, r); err != nil {
		return err
	}
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	res, err := d.Of(f).Response(r.Context(), chi.URLParam(r, "response"))
	if err != nil {
		return err
	}
	if r.PostForm.Get("sure") == "" {
		http.Redirect(w, r, frame.Base(f.ID)+"/responses/"+res.ID, http.StatusSeeOther)
		return nil
	}
	if err := d.Of(f).DeleteResponse(r.Context(), res.ID); err != nil {
		return err
	}
	http.Redirect(w, r, frame.Base(f.ID)+"/responses", http.StatusSeeOther)
	return nil
}
