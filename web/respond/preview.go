package respond

import (
	"cmp"
	"net/http"
	"net/url"
	"slices"
	"time"

	"lazo/core/engine"
	"lazo/markdown"
	"lazo/store"
	"lazo/web/ui"
	"lazo/web/wording"
)

// Moment is which of the pages that a respondent meets is looked at.
type Moment string

// The pages that a respondent meets, in their order.
const (
	Arriving  Moment = ""       // the first page, or why the form is closed
	AtLast    Moment = "last"   // the last page, with what sends
	Reviewing Moment = "review" // all answers once more
	Leaving   Moment = "left"   // the way back to what was kept
	AtEnd     Moment = "end"    // after sending
)

// Preview is a form as it would be met, which need not be published.
type Preview struct {
	Form    store.Form
	Program *engine.Program
	Input   engine.Input
	Moment  Moment
	Always  bool   // it is looked at as if it were open
	Styled  string // the address of its style
}

// madeUp stands for a secret address where none is made.
const madeUp = "/r/…"

// Preview prints a page as a respondent would meet it, to be shown within a page of the
// desk. Nothing is counted, kept or sent, and it can't be filled in.
func (s *Side) Preview(w http.ResponseWriter, r *http.Request, v Preview) error {
	j := judgement{
		filling: filling{
			request: request{ticket: ticket{Form: v.Form.ID, Workspace: v.Form.WorkspaceID, Address: v.Form.Address}},
			fields:  url.Values{}, program: v.Program, words: wording.For(v.Program.Form.Language), input: v.Input,
		},
		opening: opening{program: v.Program}, out: v.Program.Run(v.Input),
	}
	ui.Allow(w, "frame-ancestors", []string{"'self'"})
	if err := s.allowPictures(w, r, j); err != nil {
		return err
	}
	w.Header().Set("Cache-Control", "no-store")
	name, data := s.previewed(r, j, v)
	return s.pagesIn(j.filling).Page(w, http.StatusOK, name, data)
}

func (s *Side) allowPictures(w http.ResponseWriter, r *http.Request, j judgement) error {
	allowed, err := s.store.InWorkspace(j.ticket.Workspace).PictureSites(r.Context())
	sites := slices.DeleteFunc(markdown.PictureSites(j.program.Form),
		func(site string) bool { return !slices.Contains(allowed, site) })
	ui.Allow(w, "img-src", sites)
	return err
}

// previewed is the template that shows a moment, with what it takes.
func (s *Side) previewed(r *http.Request, j judgement, v Preview) (name string, data any) {
	at := v.Input.At.In(v.Program.Location())
	if v.Moment == Arriving && !v.Always && j.out.Open != engine.Open {
		return "closed", s.closedAt(j, at)
	}
	page := page{View: j.carryAll(), Address: j.ticket.Address, Origin: ui.Origin(r)}
	page.Styled = cmp.Or(v.Styled, "none")
	switch v.Moment {
	case Reviewing:
		review := reviewPage{View: page.View, Address: j.ticket.Address}
		return "review", review
	case Leaving:
		return "left", map[string]any{
			"Heading": page.Heading(), "Address": ui.Origin(r) + madeUp, "Until": at.Add(keptFor),
		}
	case AtEnd:
		return "received", s.previewedEnd(r, j, page, at)
	case AtLast:
		page.At = max(0, len(page.Pages)-1)
	}
	if _, until := v.Program.Opening(); until != nil && until.After(at) {
		page.Deadline = until
	}
	return "form", page
}

// previewedEnd is the page after sending, as it is at first.
func (s *Side) previewedEnd(r *http.Request, j judgement, p page, at time.Time) endPage {
	end := endPage{View: p.View, Address: j.ticket.Address, Filling: "preview", Text: j.out.End(), Sent: true, When: at}
	if j.program.MayChange(at) {
		end.Change = ui.Origin(r) + madeUp
	}
	if until := j.out.ConfirmBy(); until != nil {
		local := until.In(j.program.Location())
		end.Confirm, end.Recipient = &local, "…"
	}
	return end
}
