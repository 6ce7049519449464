package respond

import (
	"encoding/json"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/store"
	"lazo/web/fill"
	"lazo/web/ui"
)

const (
	staleNotice = "This page had been open for long. Your answers are still here; please check them and go on."
	// sendsAMinute is how often one address can send one form within a minute.
	sendsAMinute = 30
	// trap is a field that people do not see and programs fill.
	trap = "_subject_line"
)

// step is a posted page: on, back, to another page, rows added, left, or sent.
func (s *Side) step(w http.ResponseWriter, r *http.Request) error {
	f, fresh, err := s.reopen(w, r)
	if err != nil {
		return err
	}
	do, at := f.posted.Get("_do"), f.posted.Get("_page")
	if fill.EditRows(f.program.Form, f.posted, do) {
		if err := s.read(r.Context(), f); err != nil {
			return err
		}
		do = "update"
	}
	out := f.program.Run(f.input)
	notice := ""
	if fresh {
		notice, do = f.words().Say(staleNotice), "update"
	}
	view := fill.Build(f.program, out, f.posted, at, true)
	if len(view.Pages) == 0 {
		return s.print(w, r, f, out, at, false, notice)
	}
	verb, key, _ := strings.Cut(do, ":")
	switch verb {
	case "back":
		return s.print(w, r, f, out, view.Pages[max(0, view.At-1)].Key, false, notice)
	case "next":
		if len(view.Summary()) > 0 {
			return s.print(w, r, f, out, at, true, notice)
		}
		return s.print(w, r, f, out, view.Pages[min(len(view.Pages)-1, view.At+1)].Key, false, notice)
	case "page":
		return s.print(w, r, f, out, key, false, notice)
	case "language":
		return s.switchLanguage(w, r, f, at, key)
	case "save":
		return s.leave(w, r, f, out, at)
	case "review", "send":
		if faulty := view.FirstFaulty(); faulty >= 0 {
			return s.print(w, r, f, out, view.Pages[faulty].Key, true, "")
		}
		if verb == "review" {
			return s.review(w, r, f, out)
		}
		return s.send(w, r, f, out, view)
	}
	return s.print(w, r, f, out, at, false, notice)
}

// switchLanguage shows the page in another of the form's languages, with what was
// typed; numbers are read by it from now on.
func (s *Side) switchLanguage(w http.ResponseWriter, r *http.Request, f *filling, at, language string) error {
	languages := f.program.Form.Languages()
	if f.ticket.Language = ""; slices.Contains(languages[1:], language) {
		f.ticket.Language = language
	}
	var err error
	if f.program, err = s.programs.In(r.Context(), f.ticket.Form, f.ticket.Edition, f.ticket.Language); err != nil {
		return err
	}
	if err := s.read(r.Context(), f); err != nil {
		return err
	}
	return s.print(w, r, f, f.program.Run(f.input), at, false, "")
}

// reviewPage shows all answers once more, with a way to each of them.
type reviewPage struct {
	*fill.View
	Address, Token string
	Edition        int
	Revisit        bool
}

func (s *Side) review(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome) error {
	if out.Open != engine.Open {
		return s.closed(w, f, out.Open)
	}
	token, err := s.token(r.Context(), f.ticket)
	if err != nil {
		return err
	}
	frame(w, f.program.Form)
	w.Header().Set("Cache-Control", "private, no-cache")
	view := fill.Build(f.program, out, f.posted, "", false)
	view.CarryAll()
	return s.in(f).Page(w, http.StatusOK, "review", reviewPage{view, f.address, token, f.ticket.Edition, f.ticket.Response != ""})
}

// send stores the response, or the change of one, and leads to its end page.
func (s *Side) send(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome, view *fill.View) error {
	last := ""
	if len(view.Pages) > 0 {
		last = view.Pages[len(view.Pages)-1].Key
	}
	if !out.Accepted {
		return s.print(w, r, f, out, last, true, f.words().Say("This can’t be sent yet."))
	}
	limited := f.program.Form.Opening != nil && f.program.Form.Opening.Limit > 0
	notice := s.doubt(f)
	if notice != "" || limited || f.ticket.Response != "" { // else it is counted as it is stored
		if within, err := s.within(r, f); err != nil {
			return err
		} else if !within {
			return s.tooMany(w, r, f, out, last)
		}
	}
	if notice != "" {
		f.posted.Del(trap)
		return s.print(w, r, f, out, last, false, notice)
	}
	stored := out.Stored()
	answers, err := json.Marshal(stored)
	if err != nil {
		return err
	}
	uploads := uploadsIn(f.program.Form, stored)
	if f.ticket.Response != "" {
		err := s.store.ChangeResponse(r.Context(), f.ticket.Workspace, f.ticket.Form, f.ticket.Response, f.ticket.Edition, answers, uploads, f.input.At)
		if err != nil {
			return err
		}
		f.leadToEnd(w, r)
		return nil
	}
	params, err := json.Marshal(f.ticket.Params)
	if err != nil {
		return err
	}
	response := store.Response{WorkspaceID: f.ticket.Workspace, FormID: f.ticket.Form, Edition: f.ticket.Edition, Answers: answers, Parameters: params,
		ReceivedAt: f.input.At, Filling: f.ticket.Filling, Uploads: uploads, Language: f.ticket.Language}
	if f.ticket.Link > 0 {
		response.LinkID = &f.ticket.Link
	}
	if limited {
		full, err := s.store.AddResponseWithin(r.Context(), response, f.program.Form.Opening.Limit)
		if err != nil {
			return err
		}
		if full {
			return s.closed(w, f, engine.Full)
		}
	} else if within, err := s.store.AddRatedResponse(r.Context(), response, f.sender(r), sendsAMinute); err != nil {
		return err
	} else if !within {
		return s.tooMany(w, r, f, out, last)
	}
	f.leadToEnd(w, r)
	return nil
}

// leadToEnd leads to the end page, in the language of the filling.
func (f *filling) leadToEnd(w http.ResponseWriter, r *http.Request) {
	to := "/f/" + f.address + "/received/" + f.ticket.Filling
	if f.ticket.Language != "" {
		to += "?" + languageParam + "=" + url.QueryEscape(f.ticket.Language)
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
}

// sender is what a limit of sending counts by: the form and the visitor's address.
func (f *filling) sender(r *http.Request) string { return "send:" + f.address + ":" + ui.Visitor(r) }

// within counts one more sending, and reports whether it is within bounds.
func (s *Side) within(r *http.Request, f *filling) (bool, error) {
	n, err := s.store.Count(r.Context(), f.sender(r), s.now())
	return n <= sendsAMinute, err
}

func (s *Side) tooMany(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome, at string) error {
	f.tooMany = true
	return s.print(w, r, f, out, at, false, f.words().Say("Too much was sent from here within a minute. Your answers are still here; please wait a little and send again."))
}

// doubt asks once more where a program rather than a person may be at work; a
// person sends again and is through, except where the form's own question is
// answered wrong.
func (s *Side) doubt(f *filling) (notice string) {
	say := f.words().Say
	if g := f.program.Form.Guard; g != nil && !g.Right(f.posted.Get("_guard")) {
		return say("The answer to “%s” is not right yet. Your answers are still here.", g.Question)
	}
	switch {
	case f.posted.Get(trap) != "":
		return say("Something filled in a field that people don’t see. It is empty again; please send once more.")
	case f.ticket.Response == "" && s.now().Sub(time.Unix(f.ticket.Begun, 0)) < s.least:
		return say("That was very quick. Please send once more.")
	}
	return ""
}
