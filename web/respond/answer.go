package respond

import (
	"cmp"
	"net/http"
	"net/url"
	"time"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/fill"
	"lazo/web/fill/posted"
	"lazo/web/ui"
)

// kind is which page an answer is.
type kind int

const (
	onForm      kind = iota // a page of the form
	reviewed                // all answers once more
	sentBefore              // that it was sent already, with what can be done
	left                    // that it is kept, with the way back
	deleted                 // that the form was deleted meanwhile
	withdrawing             // whether what was sent is to be withdrawn
	withdrew                // that it is
	sent                    // the way to the end page
)

// answer is what comes of a posted page: what its respondent sees next. It is decided in
// one place, and told in another.
type answer struct {
	kind   kind
	at     string          // the page of the form, the first for ""
	status int             // where it is not that of its kind
	judged bool            // the problems of the page are said
	notice string          // and what else
	edit   *posted.RowEdit // what a button just did to rows

	before *store.Response // that was sent already
	twice  bool            // it came twice, and is stored once
	way    string          // back
	until  time.Time       // that it leads there
}

// tell prints an answer. Where the form takes no responses it is that.
func (s *Side) tell(w http.ResponseWriter, r *http.Request, j judgement, a answer) error {
	switch {
	case a.kind == sent:
		if err := s.knows(w, r, j); err != nil {
			return err
		}
		j.leadToEnd(w, r)
		return nil
	case a.kind == deleted:
		return s.gone(w, r, j)
	case a.kind == left:
		w.Header().Set("Cache-Control", "no-store")
		return s.page(w, r, j, http.StatusOK, "left", map[string]any{
			"Heading": j.out.Plain(j.program.Form.Title), "Address": a.way, "Until": a.until,
		})
	case a.kind == sentBefore:
		return s.printSentBefore(w, r, j, a.before)
	case a.kind == withdrawing:
		return s.printWithdrawing(w, r, j)
	case a.kind == withdrew:
		w.Header().Set("Cache-Control", "no-store")
		return s.page(w, r, j, http.StatusOK, "withdrew",
			reviewPage{View: j.carryAll(), Address: j.ticket.Address, Edition: j.ticket.Edition})
	case j.out.Open != engine.Open:
		return s.closed(w, r, j)
	case a.kind == reviewed:
		return s.printReview(w, r, j)
	}
	return s.printForm(w, r, j, a)
}

// printForm shows the form at a page.
func (s *Side) printForm(w http.ResponseWriter, r *http.Request, j judgement, a answer) error {
	token, err := s.token(r.Context(), j.ticket)
	if err != nil {
		return err
	}
	judgement := fill.Unjudged
	if a.judged {
		judgement = fill.Judged
	}
	data := page{
		View: fill.BuildAfter(j.program, j.out, j.fields, a.at, judgement, a.edit), Address: j.ticket.Address,
		Token: token, Notice: a.notice, Judged: a.judged, Clock: clock(j),
		Edition: j.ticket.Edition, Revisit: j.ticket.Response != "", SentBefore: j.fields.Get(sentField),
		Far: j.fields.Get(farField), Clashes: j.clashes,
	}
	if j.program.Form.Returning != nil && j.ticket.Response == "" {
		data.Save = j.program.Form.Returning.Save
	}
	if data.Kept, err = s.retention(r.Context(), j.filling); err != nil {
		return err
	}
	data.Origin = ui.Origin(r)
	if _, until := j.opening.program.Opening(); until != nil && until.After(s.now()) && !data.Revisit {
		data.Deadline = until
	}
	status := http.StatusOK
	if a.status != 0 {
		status = a.status
	} else if a.judged && len(data.Summary()) > 0 {
		status = http.StatusUnprocessableEntity
	}
	// Kept by this browser alone, so that its back button finds a page that came by a post.
	w.Header().Set("Cache-Control", "private, no-cache")
	return s.page(w, r, j, status, "form", data)
}

// page prints a page of a filling that asks or tells something. The live edition says
// which sites may frame it and whose pictures it shows; where it was not looked up, for
// the page came back at once, that is done now.
func (s *Side) page(w http.ResponseWriter, r *http.Request, j judgement, status int, name string, data any) error {
	by := j.opening
	if by.edition == 0 {
		if live, err := s.liveOpening(r.Context(), j.filling); err == nil {
			by = live // else the page's own edition says it
		}
	}
	s.others(w, r, by.program.Form, cmp.Or(by.edition, j.ticket.Edition), j.ticket)
	return s.pagesIn(j.filling).Page(w, status, name, data)
}

// reviewPage shows all answers once more, with a way to each of them.
type reviewPage struct {
	*fill.View
	Address, Token string
	Edition        int
	Revisit        bool
	SentBefore     string
	Far            string
}

// Words are what the buttons say, in the author's words; "" for the usual ones.
func (p reviewPage) Words() form.Theme { return wordsOf(p.Form) }

func (s *Side) printReview(w http.ResponseWriter, r *http.Request, j judgement) error {
	token, err := s.token(r.Context(), j.ticket)
	if err != nil {
		return err
	}
	w.Header().Set("Cache-Control", "private, no-cache")
	return s.page(
		w, r, j, http.StatusOK, "review",
		reviewPage{j.carryAll(), j.ticket.Address, token, j.ticket.Edition, j.ticket.Response != "", j.fields.Get(sentField),
			j.fields.Get(farField)},
	)
}

// carryAll is a view for a page that asks nothing, on which all answers travel along.
func (j judgement) carryAll() *fill.View {
	view := fill.Build(j.program, j.out, j.fields, "", fill.Unjudged)
	view.CarryAll()
	return view
}

// printSentBefore says that this was sent already and offers to change that, where the
// form allows it, or to send one more.
func (s *Side) printSentBefore(w http.ResponseWriter, r *http.Request, j judgement, before *store.Response) error {
	token, err := s.token(r.Context(), j.ticket)
	if err != nil {
		return err
	}
	proof, err := s.proofOf(r.Context(), before.Filling)
	if err != nil {
		return err
	}
	w.Header().Set("Cache-Control", "private, no-cache")
	return s.page(w, r, j, http.StatusOK, "sent-before",
		sentBeforePage{j.carryAll(), j.ticket.Address, token, j.ticket.Edition,
			before.ReceivedAt.In(j.program.Location()), j.opening.program.MayChange(s.now()), proof, j.fields.Get(farField)})
}

// closed says why a form takes no responses now, with what was typed.
func (s *Side) closed(w http.ResponseWriter, r *http.Request, j judgement) error {
	page := s.closedAt(j, s.now())
	if posted.Answered(j.fields) {
		page.Typed = &typedAnswers{View: fill.Build(j.program, j.out, j.fields, "", fill.Unjudged)}
	}
	return s.page(w, r, j, http.StatusOK, "closed", page)
}

// closedAt is why a form takes no responses at a moment.
func (s *Side) closedAt(j judgement, at time.Time) closedPage {
	judge, open := j.opening.program, j.out.Open
	page := closedPage{
		Title: j.out.Plain(j.program.Form.Title), Text: j.out.Closed(), Address: j.ticket.Address,
		Zone: j.program.Form.Timezone,
	}
	if open == engine.Offline {
		page.Text = j.opening.message
	}
	page.Text = fill.Closed(page.Text, open, j.words)
	from, until := judge.Opening()
	switch open {
	case engine.Before:
		if from != nil && from.After(at) {
			page.Opens = from
		} else if next, _, ok := judge.NextHours(at); ok {
			page.Opens = &next
		}
		page.Calendar = page.Opens != nil
	case engine.After:
		page.Closed = until
	}
	return page
}

// gone says that a form was deleted while it was being filled, with what was typed.
func (s *Side) gone(w http.ResponseWriter, r *http.Request, j judgement) error {
	page := closedPage{
		Title: j.program.Form.Title, Text: j.words.Say("This form is no longer here; what you typed was not sent."),
		Address: j.ticket.Address, Zone: j.program.Form.Timezone,
	}
	if posted.Answered(j.fields) {
		page.Typed = &typedAnswers{View: fill.Build(j.program, j.out, j.fields, "", fill.Unjudged)}
	}
	return s.page(w, r, j, http.StatusGone, "closed", page)
}

// leadToEnd leads to the end page, in the language of the filling.
func (j judgement) leadToEnd(w http.ResponseWriter, r *http.Request) {
	to := "/f/" + j.ticket.Address + "/received/" + j.ticket.Filling
	if j.ticket.Language != "" {
		to += "?" + languageParam + "=" + url.QueryEscape(j.ticket.Language)
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
}
