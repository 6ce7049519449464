// Package layout is the frame that the screens of the desk stand in: the member who is signed in, the form
// at hand with its header, what is posted read within bounds, and the one way in which a
// draft is changed.
package layout

import (
	"context"
	"embed"
	"html/template"
	"io/fs"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"

	"lazo/cache"
	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/form"
	"lazo/editions"
	"lazo/markdown"
	"lazo/notify"
	"lazo/store"
	"lazo/turns"
	"lazo/web/fill"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Desk is what the rooms of the desk share.
type Desk struct {
	Store    *store.Store
	Programs *editions.Programs
	Now      func() time.Time
	Office   *notify.Outgoing
	Sessions *scs.SessionManager
	drafts   *cache.Cache[draftKey, *Draft]
	proven   *cache.Cache[provenKey, *Proven]
	compared *cache.Cache[comparedKey, *Comparison]
	proving  *turns.Queue // of proofs
}

// New is a desk over a store.
func New(
	s *store.Store, programs *editions.Programs, sessions *scs.SessionManager, now func() time.Time,
	office *notify.Outgoing,
) *Desk {
	return &Desk{
		s, programs, now, office, sessions, cache.New(maxDrafts, func(_ draftKey, d *Draft) int { return d.bytes }),
		cache.New(provenHeld, weight), cache.New(provenHeld, compared), turns.New(provenAtOnce(), provenWaited),
	}
}

// Draft is a draft as one of its versions, with what follows from it. It is shared, and
// to be read only.
type Draft struct {
	Def     *form.Form
	Program *engine.Program // nil while the draft has errors
	Remarks []form.Remark
	Graph   *form.Graph
	bytes   int
}

type draftKey struct {
	form    store.FormID
	version int64
	lists   string // the versions of the workspace's lists
}

// maxDrafts bounds what drafts that are being worked on take in memory, in bytes.
const maxDrafts = 64 << 20

// Draft reads a form's draft, once for each of its versions and of its lists'.
func (d *Desk) Draft(ctx context.Context, f store.Form) (*Draft, error) {
	def, err := d.Store.Draft(f)
	if err != nil {
		return nil, err
	}
	whole, lists, err := d.Programs.WithLists(ctx, f.WorkspaceID, def)
	if err != nil {
		return nil, err
	}
	return d.drafts.GetOrMake(draftKey{f.ID, f.DraftVersion, lists}, func() (*Draft, error) {
		p, remarks := engine.Compile(whole)
		draft := &Draft{Def: whole, Program: p, Remarks: remarks, Graph: whole.Graph(), bytes: 4 * len(f.Draft)}
		if p != nil {
			draft.bytes += p.Bytes()
		}
		return draft, nil
	})
}

// Pages prints the templates of a room, with those that all rooms share; more are
// functions of its own.
func Pages(more template.FuncMap, own ...fs.FS) *ui.Renderer {
	all := maps.Clone(funcs)
	maps.Copy(all, more)
	return ui.NewRenderer(all, append([]fs.FS{fill.Templates, templates}, own...)...)
}

// Header is what the pages of one form share: the header with what is live.
type Header struct {
	ID      store.FormID
	Title   string
	Address string
	Tab     string
	Last    int // the newest edition, 0 for none
	Live    int // the live edition, 0 for none
	Offline bool
	Changes []form.Change
	Version int64
	Zone    string // in which its moments are read
	Member  string
	Role    store.Role // of the member
	// MayExport tells that the member may take responses out.
	MayExport bool
}

// Designs reports whether the member may work on the form, and not only read its responses.
func (f Header) Designs() bool { return f.Role != store.Reader }

// Owns reports whether the member may delete.
func (f Header) Owns() bool { return f.Role == store.Owner }

// Open finds the form of a request in the member's workspace, with its draft, which is to
// be read only.
func (d *Desk) Open(r *http.Request) (store.Form, *form.Form, error) {
	id, err := Number(chi.URLParam(r, "form"))
	if err != nil {
		return store.Form{}, nil, err
	}
	f, err := d.There(r.Context()).Form(store.FormID(id)).Get(r.Context())
	if err != nil {
		return f, nil, err
	}
	noteForm(r.Context(), f)
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return f, nil, err
	}
	return f, draft.Def, nil
}

// Number reads an id; what is none is [store.ErrNotFound].
func Number(text string) (int64, error) {
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil {
		return 0, store.ErrNotFound
	}
	return n, nil
}

// InForm is what belongs to a form.
func (d *Desk) InForm(f store.Form) store.InForm {
	return d.Store.InWorkspace(f.WorkspaceID).Form(f.ID)
}

// Frame is the header of a form's pages.
func (d *Desk) Frame(r *http.Request, f store.Form, def *form.Form, tab string) (Header, error) {
	fr := Header{ID: f.ID, Title: def.Title, Address: f.Address, Tab: tab, Version: f.DraftVersion, Zone: def.Timezone}
	m := Member(r.Context())
	fr.Member, fr.Role, fr.MayExport = m.Name, m.Role, m.Role != store.Reader || m.MayExport
	if f.LiveEdition == nil {
		return fr, nil
	}
	fr.Live, fr.Offline = *f.LiveEdition, f.OfflineSince != nil
	var err error
	if fr.Last, err = d.Store.InWorkspace(f.WorkspaceID).Form(f.ID).LastEdition(r.Context()); err != nil {
		return fr, err
	}
	live, err := d.Programs.Definition(r.Context(), f.EditionID(fr.Live))
	if err != nil {
		return fr, err
	}
	fr.Changes = form.Diff(live, def.Publishable())
	return fr, nil
}

// OpenTab opens the form of a request with the header of one of its tabs.
func (d *Desk) OpenTab(r *http.Request, tab string) (f store.Form, def *form.Form, fr Header, err error) {
	if f, def, err = d.Open(r); err == nil {
		fr, err = d.Frame(r, f, def, tab)
	}
	return f, def, fr, err
}

// NextEdition is the number that publishing would give.
func (f Header) NextEdition() int { return f.Last + 1 }

// Base is the form's address on the desk.
func Base(id store.FormID) string { return "/forms/" + strconv.FormatInt(int64(id), 10) }

// Parse reads a posted form of the desk within bounds.
func Parse(w http.ResponseWriter, r *http.Request) error { return ParseWithin(w, r, form.MaxBytes) }

// ParseWithin is Parse for other bounds, in bytes.
func ParseWithin(w http.ResponseWriter, r *http.Request, most int64) error {
	r.Body = http.MaxBytesReader(w, r.Body, most)
	if err := r.ParseForm(); err != nil {
		if strings.Contains(err.Error(), "too large") {
			return err
		}
		return ui.Unreadable
	}
	if !ui.ReadableFields(r.PostForm) {
		return ui.Unreadable
	}
	return nil
}

// TemplateFor is the whole page, or its body when htmx asks.
func TemplateFor(r *http.Request, name string) string {
	if r.Header.Get("HX-Request") != "" {
		return name + "-body"
	}
	return name
}

// How moments are written: for a field, and to be read.
const (
	LocalMoment = "2006-01-02T15:04"
	PlainMoment = "2 January 2006, 15:04"
)

// Option is one of several to pick.
type Option struct{ Value, Label string }

// Targets are all items of a form by their keys and labels.
func Targets(def *form.Form) []Option {
	var out []Option
	labels := author.LabelsOf(def)
	for pl := range def.Places() {
		out = append(out, Option{Value: pl.Item.Key, Label: labels.Name(pl.Item.Key, pl.Item.Name())})
	}
	return out
}

// LabelOr is a label, or what stands for one that is empty.
func LabelOr(label, otherwise string) string {
	if label == "" {
		return otherwise
	}
	return label
}

// RemarkRow is a remark with the place to jump to.
type RemarkRow struct {
	form.Remark
	Row   string
	Label string // of the question, where the remark does not name it
}

// RemarkRows are remarks with what they are about.
func RemarkRows(def *form.Form, remarks []form.Remark) []RemarkRow {
	var out []RemarkRow
	for _, rm := range remarks {
		row := RemarkRow{Remark: rm, Row: RowOf(def, rm)}
		if name := def.NameOf(row.Row); row.Row != "" && !strings.Contains(rm.Text, name) {
			row.Label = name
		}
		out = append(out, row)
	}
	return out
}

// RowOf is the key of the row that a remark stands at.
func RowOf(def *form.Form, rm form.Remark) string {
	if def.Keys()[rm.Item] {
		return rm.Item
	}
	return ""
}

// Hinders reports whether the draft can't be published.
func Hinders(remarks []form.Remark) bool { return len(form.Errors(remarks)) > 0 }

// NotAllowed are the sites whose pictures a form names without being shown them.
func (d *Desk) NotAllowed(ctx context.Context, workspace store.WorkspaceID, def *form.Form) ([]string, error) {
	sites := markdown.PictureSites(def)
	if len(sites) == 0 {
		return nil, nil
	}
	allowed, err := d.Store.InWorkspace(workspace).PictureSites(ctx)
	return slices.DeleteFunc(sites, func(site string) bool { return slices.Contains(allowed, site) }), err
}

// WayOn is where one wanted to go before signing in: a path of this site.
func WayOn(to string) string {
	if u, err := url.Parse(to); err == nil && u.Host == "" && u.Scheme == "" && strings.HasPrefix(u.Path, "/") &&
		!strings.HasPrefix(to, "//") &&
		!strings.ContainsAny(to, "\\\r\n") {
		return to
	}
	return "/forms"
}
