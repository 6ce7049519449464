package respond

import (
	"net/http"
	"net/url"
	"time"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/fill"
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
	at     string        // the page of the form, the first for ""
	status int           // where it is not that of its kind
	judged bool          // the problems of the page are said
	notice string        // and what else
	edit   *fill.RowEdit // what a button just did to rows

	before *store.Response // that was sent already
	twice  bool            // it came twice, and is stored once
	way    string          // back
	until  time.Time       // that it leads there
}

// tell prints an answer. Where the form takes no responses it is that.
func (s *Side) tell(w http.ResponseWriter, r *http.Request, f *filling, a answer) error {
	switch {
	case a.kind == sent:
		if err := s.knows(w, r, f); err != nil {
			return err
		}
		f.leadToEnd(w, r)
		return nil
	case a.kind == deleted:
		return s.gone(w, r, f)
	case a.kind == left:
		w.Header().Set("Cache-Control", "no-store")
		return s.page(w, r, f, http.StatusOK, "left", map[string]any{
			"Heading": f.out.Plain(f.program.Form.Title), "Address": a.way, "Until": a.until,
		})
	case a.kind == sentBefore:
		return s.printSentBefore(w, r, f, a.before)
	case a.kind == withdrawing:
		return s.printWithdrawing(w, r, f)
	case a.kind == withdrew:
		w.Header().Set("Cache-Control", "no-store")
		return s.page(w, r, f, http.StatusOK, "withdrew", reviewPage{View: f.carryAll(), Address: f.address, Edition: f.ticket.Edition})
	case f.out.Open != engine.Open:
		return s.closed(w, r, f)
	case a.kind == reviewed:
		return s.printReview(w, r, f)
	}
	return s.printForm(w, r, f, a)
}

// printForm shows the form at a page.
func (s *Side) printForm(w http.ResponseWriter, r *http.Request, f *filling, a answer) error {
	token, err := s.token(r.Context(), f.ticket)
	if err != nil {
		return err
	}
	judgement := fill.Unjudged
	if a.judged {
		judgement = fill.Judged
	}
	data := page{
		View: fill.BuildAfter(f.program, f.out, f.posted, a.at, judgement, a.edit), Address: f.address,
		Token: token, Notice: a.notice, Judged: a.judged, Clock: s.clock(f),
		Edition: f.ticket.Edition, Revisit: f.ticket.Response != "", SentBefore: f.posted.Get(sentField),
		Far: f.posted.Get(farField), Clashes: f.clashes,
	}
	if f.program.Form.Returning != nil && f.ticket.Response == "" {
		data.Save = f.program.Form.Returning.Save
	}
	if data.Kept, err = s.kept(r.Context(), f); err != nil {
		return err
	}
	data.Origin = ui.Origin(r)
	if _, until := f.opening().Opening(); until != nil && until.After(s.now()) && !data.Revisit {
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
	return s.page(w, r, f, status, "form", data)
}

// page prints a page of a filling that asks or tells something. The live edition says
// which sites may frame it and whose pictures it shows; where it was not looked up, for
// the page came back at once, that is done now.
func (s *Side) page(w http.ResponseWriter, r *http.Request, f *filling, status int, name string, data any) error {
	if f.liveEdition == 0 {
		_ = s.lookUpLive(r.Context(), f) // else the page's own edition says it
	}
	edition := f.ticket.Edition
	if f.live != nil {
		edition = f.liveEdition
	}
	s.others(w, r, f.opening().Form, edition, f.ticket)
	return s.in(f).Page(w, status, name, data)
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

func (s *Side) printReview(w http.ResponseWriter, r *http.Request, f *filling) error {
	token, err := s.token(r.Context(), f.ticket)
	if err != nil {
		return err
	}
	w.Header().Set("Cache-Control", "private, no-cache")
	return s.page(
		w, r, f, http.StatusOK, "review",
		reviewPage{f.carryAll(), f.address, token, f.ticket.Edition, f.ticket.Response != "", f.posted.Get(sentField),
			f.posted.Get(farField)},
	)
}

// carryAll is a view for a page that asks nothing, on which all answers travel along.
func (f *filling) carryAll() *fill.View {
	view := fill.Build(f.program, f.out, f.posted, "", fill.Unjudged)
	view.CarryAll()
	return view
}

// printSentBefore says that this was sent already and offers to change that, where the
// form allows it, or to send one more.
func (s *Side) printSentBefore(w http.ResponseWriter, r *http.Request, f *filling, before *store.Response) error {
	token, err := s.token(r.Context(), f.ticket)
	if err != nil {
		return err
	}
	proof, err := s.proofOf(r.Context(), before.Filling)
	if err != nil {
		return err
	}
	w.Header().Set("Cache-Control", "private, no-cache")
	return s.page(w, r, f, http.StatusOK, "sent-before", sentBeforePage{f.carryAll(), f.address, token, f.ticket.Edition,
		before.ReceivedAt.In(f.program.Location()), f.opening().MayChange(s.now()), proof, f.posted.Get(farField)})
}

// closed says why a form takes no responses now, with what was typed.
func (s *Side) closed(w http.ResponseWriter, r *http.Request, f *filling) error {
	page := s.closedAt(f, s.now())
	if fill.Answered(f.posted) {
		page.Typed = &typedAnswers{View: fill.Build(f.program, f.out, f.posted, "", fill.Unjudged)}
	}
	return s.page(w, r, f, http.StatusOK, "closed", page)
}

// closedAt is why a form takes no responses at a moment.
func (s *Side) closedAt(f *filling, at time.Time) closedPage {
	judge, open := f.opening(), f.out.Open
	page := closedPage{
		Title: f.out.Plain(f.program.Form.Title), Text: f.out.Closed(), Address: f.address, Zone: f.program.Form.Timezone,
	}
	if open == engine.Offline {
		page.Text = f.offline
	}
	page.Text = fill.Closed(page.Text, open, f.words)
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
func (s *Side) gone(w http.ResponseWriter, r *http.Request, f *filling) error {
	page := closedPage{
		Title: f.program.Form.Title, Text: f.words.Say("This form is no longer here; what you typed was not sent."),
		Address: f.address, Zone: f.program.Form.Timezone,
	}
	if fill.Answered(f.posted) {
		page.Typed = &typedAnswers{View: fill.Build(f.program, f.program.Run(f.input), f.posted, "", fill.Unjudged)}
	}
	return s.page(w, r, f, http.StatusGone, "closed", page)
}

// leadToEnd leads to the end page, in the language of the filling.
func (f *filling) leadToEnd(w http.ResponseWriter, r *http.Request) {
	to := "/f/" + f.address + "/received/" + f.ticket.Filling
	if f.ticket.Language != "" {
		to += "?" + languageParam + "=" + url.QueryEscape(f.ticket.Language)
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
}
