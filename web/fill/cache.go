package fill

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/held"
	"lazo/store"
	"lazo/web/ui"
)

// Programs holds the compiled editions that are in use, within [maxHeld]. Editions
// never change, so a copy of the application needs no word from the others; a list of the
// workspace does, and an edition is compiled anew with each of its versions.
type Programs struct {
	store *store.Store
	held  *held.Cache[editionKey, sized]
	lists *lists
	uses  *held.Cache[editionKey, use]
	flows *held.Cache[editionKey, form.Flow]
}

type editionKey struct {
	form    store.FormID
	edition int
	in      string
	lists   string // the versions of the workspace's lists
}

// use is which lists of the workspace an edition draws from.
type use struct {
	workspace store.WorkspaceID
	lists     []string
}

// Bounds of what is remembered of the lists that editions draw from, and of how answers flow
// in them, in bytes.
const (
	maxUses  = 1 << 20
	maxFlows = 4 << 20
)

// sized is a program with its size in bytes, and the other sites whose pictures its
// form shows.
type sized struct {
	*engine.Program
	bytes    int
	pictures []string
}

// maxHeld bounds what all programs take in memory, in bytes, but for one that is
// larger by itself: the largest form that can be written takes some 180 MB.
const maxHeld = 96 << 20

// compileFor is the most that reading an edition may take; all who wait for it wait
// for the same.
const compileFor = 20 * time.Second

// Unsound is an edition that can't be run, such as one that was published before the
// language became stricter.
type Unsound struct {
	Form    store.FormID
	Edition int
	Def     *form.Form
	Remarks []form.Remark
}

func (u Unsound) Error() string {
	return fmt.Sprintf("edition %d of form %d does not compile: %v", u.Edition, u.Form, u.Remarks)
}

// Unwrap is what a visitor reads.
func (u Unsound) Unwrap() error {
	return ui.Refusal{Status: http.StatusServiceUnavailable, Title: "This form can’t be filled in now",
		Text: "Something in it has to be mended first. Please tell whoever gave you its address."}
}

// Definition returns an edition as it was published, whether or not it can be run.
func (c *Programs) Definition(ctx context.Context, formID store.FormID, edition int) (*form.Form, error) {
	p, err := c.Get(ctx, formID, edition)
	var unsound Unsound
	if errors.As(err, &unsound) {
		return unsound.Def, nil
	}
	if err != nil {
		return nil, err
	}
	return p.Form, nil
}

// NewPrograms returns an empty cache over a store.
func NewPrograms(s *store.Store) *Programs {
	return &Programs{
		store: s, held: held.New(maxHeld, func(_ editionKey, p sized) int { return p.bytes }), lists: newLists(s),
		uses:  held.New(maxUses, func(_ editionKey, u use) int { return 100 + 40*len(u.lists) }),
		flows: held.New(maxFlows, func(_ editionKey, f form.Flow) int { return 200 + 100*f.Len() }),
	}
}

// Flow returns how answers flow in an edition.
func (c *Programs) Flow(ctx context.Context, formID store.FormID, edition int) (form.Flow, error) {
	return c.flows.Of(editionKey{form: formID, edition: edition}, func() (form.Flow, error) {
		def, err := c.Definition(ctx, formID, edition)
		if err != nil {
			return form.Flow{}, err
		}
		return def.Flow(), nil
	})
}

// Get returns the program of an edition in its own language.
func (c *Programs) Get(ctx context.Context, formID store.FormID, edition int) (*engine.Program, error) {
	return c.In(ctx, formID, edition, "")
}

// In returns the program of an edition in one of its languages; in its own for ""
// and for a language that it is not in.
func (c *Programs) In(ctx context.Context, formID store.FormID, edition int, language string) (*engine.Program, error) {
	p, err := c.program(ctx, editionKey{form: formID, edition: edition, in: language})
	return p.Program, err
}

// Renew has what is asked for next know the newest versions of the lists that an edition
// draws from, and reports whether that is another program than p. In its absence they may
// be a moment old.
func (c *Programs) Renew(ctx context.Context, formID store.FormID, edition int, p *engine.Program) (changed bool, err error) {
	if len(p.Form.SharedLists()) == 0 {
		return false, nil
	}
	u, err := c.use(ctx, editionKey{form: formID, edition: edition})
	if err != nil {
		return false, err
	}
	if _, err := c.lists.states(ctx, u.workspace, u.lists, true); err != nil {
		return false, err
	}
	now, err := c.In(ctx, formID, edition, p.Form.Language)
	return now != p, err
}

// PictureSites are the other sites whose pictures an edition shows in any language.
func (c *Programs) PictureSites(ctx context.Context, formID store.FormID, edition int) []string {
	p, _ := c.program(ctx, editionKey{form: formID, edition: edition})
	return p.pictures
}

func (c *Programs) program(ctx context.Context, key editionKey) (sized, error) {
	u, err := c.use(ctx, editionKey{form: key.form, edition: key.edition})
	if err != nil {
		return sized{}, err
	}
	states, err := c.lists.states(ctx, u.workspace, u.lists, false)
	if err != nil {
		return sized{}, err
	}
	key.lists = named(states)
	if p, ok := c.held.Get(key); ok {
		return p, nil
	}
	if key.in != "" { // nothing is held under a name that anyone can make up
		own, err := c.program(ctx, editionKey{form: key.form, edition: key.edition})
		if err != nil || own.Form.In(key.in) == own.Form {
			return own, err
		}
	}
	return c.held.Of(key, func() (sized, error) {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), compileFor) // whoever asked first may leave
		defer cancel()
		return c.compile(ctx, key, u.workspace, states)
	})
}

// use finds out which lists of the workspace an edition draws from.
func (c *Programs) use(ctx context.Context, key editionKey) (use, error) {
	return c.uses.Of(key, func() (use, error) {
		e, err := c.store.EditionByNumber(ctx, key.form, key.edition)
		if err != nil {
			return use{}, err
		}
		lists, err := e.SharedLists()
		if err != nil || len(lists) == 0 {
			return use{}, err
		}
		ws, err := c.store.WorkspaceOf(ctx, key.form)
		return use{ws, lists}, err
	})
}

func (c *Programs) compile(ctx context.Context, key editionKey, ws store.WorkspaceID, states []store.ListState) (sized, error) {
	e, err := c.store.EditionByNumber(ctx, key.form, key.edition)
	if err != nil {
		return sized{}, err
	}
	def, err := e.Form()
	if err != nil {
		return sized{}, err
	}
	if def, err = c.lists.with(ctx, ws, def, states); err != nil {
		return sized{}, err
	}
	p, remarks := engine.Compile(def.In(key.in))
	if p == nil {
		return sized{}, Unsound{key.form, key.edition, def, remarks}
	}
	return sized{p, p.Bytes() + 2*len(e.Definition), ui.PictureSites(def)}, nil
}
