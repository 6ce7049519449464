package respond

import (
	"context"
	"maps"
	"net/url"
	"time"

	"lazo/core/engine"
	"lazo/store"
	"lazo/web/fill/posted"
	"lazo/web/ui"
	"lazo/web/wording"
)

// request is what came of a form being filled: the ticket that it is bound to and the fields
// of its page. It is read once and never changed; what a page asks for makes another one.
type request struct {
	ticket ticket
	posted url.Values
	at     time.Time // when it came
}

// do is what the page asks for: the button that was pressed.
func (q request) do() string { return q.posted.Get(posted.DoField) }

// page is the key of the page at hand.
func (q request) page() string { return q.posted.Get(posted.PageField) }

// filling is a request as it is read: with the program that its ticket names and the input for
// it. None of it is changed; a change makes another one.
type filling struct {
	request
	fields  url.Values // of the page that comes back: those posted, but for what was asked for
	program *engine.Program
	words   *wording.Words // of its language
	input   engine.Input
	change  *change // of the response that this changes; nil for a new one
}

// change is the response that a filling changes, as its page found it.
type change struct {
	answers   []byte
	since     []store.ResponseVersion // how it was changed after that, the newest first
	withdrawn bool                    // it counts for nothing
}

// read reads a request by the edition that its ticket names.
func (s *Side) read(ctx context.Context, q request) (filling, error) {
	t := q.ticket
	p, err := s.programs.ProgramIn(ctx, t.EditionID(t.Edition), t.Language)
	if err != nil {
		return filling{}, err
	}
	f := filling{request: q, fields: q.posted, program: p, words: wording.For(p.Form.Language),
		input: engine.Input{Params: t.Params, At: q.at, Mode: engine.New, Begun: time.Unix(t.Begun, 0)}}
	if f.input.Answers, err = s.answers(ctx, t, p, f.fields); err != nil {
		return f, err
	}
	if f.input.Taken, err = s.places(ctx, f, q.do() == "send"); err != nil {
		return f, err
	}
	if t.Response != "" {
		return s.asChange(ctx, f)
	}
	return f, nil
}

func (s *Side) answers(ctx context.Context, t ticket, p *engine.Program, fields url.Values) (*engine.Answers, error) {
	files := files{s: s, ctx: ctx, ticket: t}
	answers := p.AnswersFrom(posted.Posting{Fields: fields, Files: files.complete})
	return answers, files.err
}

// asChange is a filling as the change of the response that its ticket names: the answers that
// it has stand until others are sent.
func (s *Side) asChange(ctx context.Context, f filling) (filling, error) {
	resp, err := s.inForm(f.ticket).ResponseWithVersions(ctx, f.ticket.Response)
	if err != nil {
		return f, err
	}
	if f.ticket.Since == "" {
		f.ticket.Since = resp.Stamp()
	}
	before, since := resp.AsStamped(f.ticket.Since) // as the page found it
	raw, err := engine.ParseAnswers(before)
	if err != nil {
		return f, err
	}
	f.change = &change{before, since, resp.WithdrawnAt != nil}
	f.input.Mode, f.input.Prior = engine.Revisit, f.program.Answers(raw)
	return f, nil
}

// fillingWith is a filling with other fields, which are read.
func (s *Side) fillingWith(ctx context.Context, f filling, fields url.Values) (filling, error) {
	answers, err := s.answers(ctx, f.ticket, f.program, fields)
	f.fields, f.input.Answers = fields, answers
	return f, err
}

// set is a filling in which a field of the page that comes back says something else; "" takes
// it away. No answer is one.
func (f filling) set(field, value string) filling {
	f.fields = maps.Clone(f.fields)
	if f.fields == nil {
		f.fields = url.Values{}
	}
	if f.fields.Del(field); value != "" {
		f.fields.Set(field, value)
	}
	return f
}

// pagesIn prints pages in the filling's language.
func (s *Side) pagesIn(f filling) *ui.Renderer { return s.pages.InLanguage(f.program.Form.Language) }

// inForm is what belongs to a ticket's form.
func (s *Side) inForm(t ticket) store.InForm { return s.store.InWorkspace(t.Workspace).Form(t.Form) }
