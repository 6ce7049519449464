package public

import (
	"context"
	"net/http"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/respond"
)

// sight is what is looked at: a form that is tried, as someone, at a moment.
type sight struct {
	program *engine.Program
	input   engine.Input
	now     time.Time
	taken   int  // responses that count towards the limit
	met     bool // someone it is for was found, or it is for everyone
}

// sight finds out who meets the form at which moment; nil while the draft can't be run.
func (d *Room) sight(ctx context.Context, f store.Form, p *engine.Program, l look) (*sight, error) {
	if p == nil {
		return nil, nil
	}
	s := &sight{program: p, now: d.Now(), met: true}
	s.input = engine.Input{At: s.now, Mode: engine.New}
	if at, err := time.Parse(time.RFC3339, l.At); err == nil {
		s.input.At = at
	}
	o := p.Form.Opening
	if o != nil && o.Limit > 0 {
		n, err := d.InForm(f).CountResponses(ctx)
		if err != nil {
			return nil, err
		}
		if s.taken, s.input.Responses = n, n; l.As == "full" {
			s.input.Responses = o.Limit
		}
	}
	if o != nil && o.Shown.Expr != "" {
		want := expr.Met
		if l.As == "other" {
			want = expr.NotMet
		}
		found, ok := p.Seek("", form.OpenWhen, want, engine.Filling{At: s.input.At, Mode: engine.New})
		s.met, s.input.Params = ok, found.Params
	}
	return s, nil
}

// caption says who meets the form and when.
func (s *sight) caption(l look) string {
	who := "A stranger"
	var came []string
	for _, param := range s.program.Form.Parameters {
		if v := s.input.Params[param.Name]; len(v) > 0 {
			came = append(came, layout.LabelOr(param.Label, param.Name)+" “"+v[0]+"”")
		}
	}
	switch {
	case len(came) > 0:
		who = "Someone who comes with " + strings.Join(came, " and ")
	case l.As == "other":
		who = "Anybody else"
	}
	if l.As == "full" {
		who += ", once it is full,"
	}
	return who + " on " + s.input.At.In(s.program.Location()).Format("Monday 2 January, 15:04")
}

// seen is a page as it would be met, within a page of the desk.
func (d *Room) seen(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return err
	}
	if draft.Program == nil {
		return store.ErrNotFound
	}
	l := lookOf(r.URL.Query())
	p := draft.Program
	if l.Tongue != "" && draft.Def.Translations[l.Tongue] != nil {
		var remarks []form.Remark
		if p, remarks = engine.Compile(draft.Def.Translated(l.Tongue)); p == nil {
			return layout.Wrong("%s", remarks[0].Text)
		}
	}
	s, err := d.sight(r.Context(), f, p, l)
	if err != nil {
		return err
	}
	if l.Seen == respond.AtEnd && l.End >= 0 {
		s.input = ending(p, s.input, l.End)
	}
	return d.preview(w, r, respond.Preview{
		Form: f, Program: p, Input: s.input, Moment: l.Seen, Always: r.URL.Query().Get("part") != "opening",
		Styled: layout.Base(f.ID) + "/public/seen/theme.css?version=" + strconv.FormatInt(f.DraftVersion, 10),
	})
}

// ending is an input at the end of which a closing text is read, if one was found.
func ending(p *engine.Program, in engine.Input, n int) engine.Input {
	found, ok := p.Seek("", "ends."+strconv.Itoa(n)+".when", expr.Met,
		engine.Filling{Params: in.Params, At: in.At, Mode: in.Mode})
	if ok {
		in.Answers, in.Params, in.At = p.Answers(found.Answers), found.Params, found.At
	}
	return in
}

// style serves the style rules of the draft's theme.
func (d *Room) style(w http.ResponseWriter, r *http.Request) error {
	_, def, err := d.Open(r)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "text/css; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	if def.Theme != nil {
		_, _ = w.Write([]byte(def.Theme.CSS()))
	}
	return nil
}
