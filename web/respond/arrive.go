package respond

import (
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/core/form"
	"lazo/store"
	"lazo/web/wording"
)

// languageParam is the address parameter that asks for a language; no form can have
// a parameter of that name.
const languageParam = "_language"

// newTicket begins a filling of the live edition. It is in the language that the
// address asks for, or else in the one that the browser prefers.
func (s *Side) newTicket(r *http.Request, address string, params url.Values) (ticket, store.Live, error) {
	ctx := r.Context()
	f, err := s.store.FormByAddress(ctx, address)
	if err != nil {
		return ticket{}, store.Live{}, err
	}
	live, err := f.Live()
	if err != nil {
		return ticket{}, live, err
	}
	t := ticket{
		Form: f.ID, Address: f.Address, Workspace: f.WorkspaceID, Edition: live.Edition, Begun: s.now().Unix(),
		Filling: newFilling(),
	}
	p, err := s.programs.Get(ctx, f.EditionID(t.Edition))
	if err != nil {
		return ticket{}, live, err
	}
	t.Language = languageFor(r, p.Form)
	// Only the parameters that the form knows travel on, within bounds.
	for _, param := range p.Form.Parameters {
		for name, values := range params {
			if strings.EqualFold(strings.TrimSpace(name), param.Name) {
				if t.Params == nil {
					t.Params = map[string][]string{}
				}
				for _, v := range values[:min(len(values), 20)] {
					if len(v) <= 1000 {
						t.Params[param.Name] = append(t.Params[param.Name], strings.ToValidUTF8(v, "�"))
					}
				}
			}
		}
	}
	return t, live, nil
}

// languageFor is the language of a form that a visitor is to read, "" for its own.
func languageFor(r *http.Request, f *form.Form) string {
	languages := f.Languages()
	asked := r.URL.Query().Get(languageParam)
	if !slices.Contains(languages, asked) {
		asked = wording.Best(languages, r.Header.Get("Accept-Language"))
	}
	if asked == languages[0] {
		return ""
	}
	return asked
}

// enter begins a filling, with nothing in it yet, for one who arrives; link is the
// one that was followed, or 0.
func (s *Side) enter(r *http.Request, address string, params url.Values, link store.LinkID) (judgement, error) {
	t, live, err := s.newTicket(r, address, params)
	if err != nil {
		return judgement{}, err
	}
	t.Link = link
	f, err := s.read(r.Context(), request{ticket: t, posted: url.Values{}, at: s.now()})
	if err != nil {
		return judgement{}, err
	}
	by, err := s.openingBy(r.Context(), f, live)
	if err != nil {
		return judgement{}, err
	}
	return s.judge(f, by), nil
}

func (s *Side) arrive(w http.ResponseWriter, r *http.Request) error {
	j, err := s.enter(r, chi.URLParam(r, "address"), r.URL.Query(), 0)
	if err != nil {
		return err
	}
	return s.tell(w, r, j, answer{})
}

// follow is an arrival by the short address of a link; parameters that stand in
// the address besides those of the link count too.
func (s *Side) follow(w http.ResponseWriter, r *http.Request) error {
	l, err := s.store.VisitLink(r.Context(), chi.URLParam(r, "code"))
	if err != nil {
		return err
	}
	address, err := s.store.InWorkspace(l.WorkspaceID).Form(l.FormID).Address(r.Context())
	if err != nil {
		return err
	}
	params := r.URL.Query()
	for name, values := range l.Parameters {
		params[name] = values
	}
	j, err := s.enter(r, address, params, l.ID)
	if err != nil {
		return err
	}
	return s.tell(w, r, j, answer{})
}
