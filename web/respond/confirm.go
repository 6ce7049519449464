package respond

import (
	"context"
	"errors"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/notify"
	"lazo/store"
	"lazo/web/ui"
)

// ConfirmAddress gives where, at a site, the addresses of responses are confirmed. It is
// the same whenever it is asked for.
func (s *Side) ConfirmAddress(
	site string,
) func(ctx context.Context, resp store.Response, email string) (string, error) {
	return func(ctx context.Context, resp store.Response, email string) (string, error) {
		keys, err := s.keys(ctx)
		if err != nil {
			return "", err
		}
		return site + "/c/" + resp.ID + "." + keys.sign(toBeConfirmed(resp.ID, email), confirmSize), nil
	}
}

// toBeConfirmed is what the place signs where an e-mail address of a response is confirmed,
// by so many bytes: who has it confirms the one that it came to, and no other.
func toBeConfirmed(id, email string) string { return "confirm " + id + " " + email }

const confirmSize = 16

var notConfirmed = ui.Refusal{Status: http.StatusNotFound, Title: "There is nothing to confirm by this address",
	Text: "It may be mistyped, or its time is over; what is not confirmed in time is deleted. You can fill in the form anew."}

// confirmPage asks for a click, since programs open links too.
type confirmPage struct {
	Form      *form.Form
	Heading   string
	Address   string // of the form
	Edition   int
	Token     string
	Recipient string
}

// toConfirm finds the response that an address of a letter leads to.
func (s *Side) toConfirm(r *http.Request) (store.Response, store.Form, error) {
	id, _, _ := strings.Cut(chi.URLParam(r, "token"), ".")
	resp, err := s.store.ResponseTold(r.Context(), id)
	if errors.Is(err, store.ErrNotFound) {
		return resp, store.Form{}, notConfirmed
	}
	if err != nil {
		return resp, store.Form{}, err
	}
	fits, err := s.confirms(r)
	if err == nil && !fits(resp) {
		err = notConfirmed
	}
	if err != nil {
		return store.Response{}, store.Form{}, err
	}
	f, err := s.store.InWorkspace(resp.WorkspaceID).Form(resp.FormID).Get(r.Context())
	if errors.Is(err, store.ErrNotFound) {
		err = notConfirmed
	}
	return resp, f, err
}

// confirms tells whether the address of a letter confirms the one that a response has.
func (s *Side) confirms(r *http.Request) (func(store.Response) bool, error) {
	ctx := r.Context()
	id, sum, _ := strings.Cut(chi.URLParam(r, "token"), ".")
	keys, err := s.keys(ctx)
	return func(resp store.Response) bool {
		p, err := s.programs.ProgramIn(ctx, resp.EditionID(resp.Edition), resp.Language)
		if err != nil {
			return false
		}
		email := p.ConfirmsAt(resp.Answers)
		// Letters of before named no address; they are good for one that nobody has changed.
		if resp.ChangedAt == nil && keys.signed("confirm "+resp.ID, sum, confirmSize) {
			return true
		}
		return email != "" && resp.ID == id && keys.signed(toBeConfirmed(id, email), sum, confirmSize)
	}, err
}

// confirming is the page with the button.
func (s *Side) confirming(w http.ResponseWriter, r *http.Request) error {
	w.Header().Set("Referrer-Policy", "no-referrer")
	resp, f, err := s.toConfirm(r)
	if err != nil {
		return err
	}
	if resp.ConfirmBy == nil && resp.ConfirmedAt != nil {
		http.Redirect(w, r, "/f/"+f.Address+"/received/"+resp.Filling, http.StatusSeeOther)
		return nil
	}
	if resp.ConfirmBy == nil || resp.ConfirmBy.Before(s.now()) && resp.ConfirmedAt == nil {
		return notConfirmed
	}
	p, err := s.programs.ProgramIn(r.Context(), f.EditionID(resp.Edition), resp.Language)
	if err != nil {
		return err
	}
	page := confirmPage{Heading: p.Form.Title, Address: f.Address, Edition: resp.Edition, Token: chi.URLParam(r, "token"),
		Form: p.Form}
	if raw, err := engine.ParseAnswers(resp.Answers); err == nil && p.Form.Confirm != nil {
		page.Recipient, _ = raw[p.Form.Confirm.Item].(string)
	}
	w.Header().Set("Cache-Control", "no-store")
	return s.pages.InLanguage(p.Form.Language).Page(w, http.StatusOK, "confirming", page)
}

// confirm notes that the address is confirmed; what waited for that goes out.
func (s *Side) confirm(w http.ResponseWriter, r *http.Request) error {
	resp, f, err := s.toConfirm(r)
	if err != nil {
		return err
	}
	at := s.now()
	edition := resp.Edition
	if f.LiveEdition != nil {
		edition = *f.LiveEdition
	}
	fits, err := s.confirms(r)
	if err != nil {
		return err
	}
	mode := engine.New
	if resp.ConfirmFrom != nil {
		mode = engine.Revisit
	}
	goes := func(before []byte, now store.Response) ([]store.Letter, error) {
		return notify.Confirmed(r.Context(), s.programs, edition, before, now, at, mode)
	}
	done, err := s.store.InWorkspace(resp.WorkspaceID).Form(f.ID).Confirm(r.Context(), resp.ID, at, fits, goes)
	if err != nil {
		return err
	}
	if !done {
		return notConfirmed
	}
	http.Redirect(w, r, "/f/"+f.Address+"/received/"+resp.Filling, http.StatusSeeOther)
	return nil
}

// mostAsked is how often the letter that asks for an address to be confirmed is sent of a
// response.
const mostAsked = 4

var askedOften = ui.Refusal{Status: http.StatusTooManyRequests, Title: "It was sent again already",
	Text: "The letter was sent just now, or several times. Please look where your mail program keeps what it takes for junk."}

// askAgain sends the letter once more.
func (s *Side) askAgain(w http.ResponseWriter, r *http.Request) error {
	f, err := s.store.FormByAddress(r.Context(), chi.URLParam(r, "address"))
	if err != nil {
		return err
	}
	in := s.store.InWorkspace(f.WorkspaceID).Form(f.ID)
	resp, err := in.ResponseOf(r.Context(), chi.URLParam(r, "filling"))
	if err != nil {
		return err
	}
	err = in.AskAgain(r.Context(), resp.ID, engine.ConfirmKey, s.now(), mostAsked)
	if errors.Is(err, store.ErrTooOften) {
		return askedOften
	}
	if err != nil {
		return err
	}
	http.Redirect(w, r, "/f/"+f.Address+"/received/"+resp.Filling+"?asked=again", http.StatusSeeOther)
	return nil
}
