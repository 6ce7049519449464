// Package editions holds what has been published, compiled and remembered: programs with the
// lists of the workspace that they draw on.
package editions

import (
	"context"
	"errors"
	"fmt"
	"time"

	"lazo/cache"
	"lazo/core/engine"
	"lazo/core/form"
	"lazo/markdown"
	"lazo/store"
)

// Programs holds the compiled editions that are in use, within [maxHeld]. Editions
// never change, so a copy of the application needs no word from the others; a list of the
// workspace does, and an edition is compiled anew with each of its versions.
type Programs struct {
	store *store.Store
	held  *cache.Cache[programKey, sized]
	lists *lists
	uses  *cache.Cache[store.EditionID, []string] // the lists of the workspace that an edition draws on
	flows *cache.Cache[store.EditionID, form.Flow]
}

type programKey struct {
	store.EditionID
	in    string // a language; "" for the form's own
	lists string // the versions of the workspace's lists
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
	Edition store.EditionID
	Def     *form.Form
	Remarks []form.Remark
}

func (u Unsound) Error() string {
	return fmt.Sprintf("edition %d of form %d does not compile: %v", u.Edition.Number, u.Edition.Form, u.Remarks)
}

// Definition returns an edition as it was published, whether or not it can be run.
func (c *Programs) Definition(ctx context.Context, id store.EditionID) (*form.Form, error) {
	p, err := c.Get(ctx, id)
	var unsound Unsound
	if errors.As(err, &unsound) {
		return unsound.Def, nil
	}
	if err != nil {
		return nil, err
	}
	return p.Form, nil
}

// New returns an empty cache over a store.
func New(s *store.Store) *Programs {
	return &Programs{
		store: s, held: cache.New(maxHeld, func(_ programKey, p sized) int { return p.bytes }), lists: newLists(s),
		uses:  cache.New(maxUses, func(_ store.EditionID, lists []string) int { return 100 + 40*len(lists) }),
		flows: cache.New(maxFlows, func(_ store.EditionID, f form.Flow) int { return 200 + 100*f.Len() }),
	}
}

// Flow returns how answers flow in an edition.
func (c *Programs) Flow(ctx context.Context, id store.EditionID) (form.Flow, error) {
	return c.flows.GetOrMake(id, func() (form.Flow, error) {
		def, err := c.Definition(ctx, id)
		if err != nil {
			return form.Flow{}, err
		}
		return def.Flow(), nil
	})
}

// Get returns the program of an edition in its own language.
func (c *Programs) Get(ctx context.Context, id store.EditionID) (*engine.Program, error) {
	return c.ProgramIn(ctx, id, "")
}

// ProgramIn returns the program of an edition in one of its languages; in its own for ""
// and for a language that it is not in.
func (c *Programs) ProgramIn(ctx context.Context, id store.EditionID, language string) (*engine.Program, error) {
	p, err := c.program(ctx, programKey{EditionID: id, in: language})
	return p.Program, err
}

// Renew has what is asked for next know the newest versions of the lists that an edition
// draws from, and reports whether that is another program than p. In its absence they may
// be a moment old.
func (c *Programs) Renew(ctx context.Context, id store.EditionID, p *engine.Program) (changed bool, err error) {
	if len(p.Form.SharedLists()) == 0 {
		return false, nil
	}
	lists, err := c.use(ctx, id)
	if err != nil {
		return false, err
	}
	if _, err := c.lists.states(ctx, id.Workspace, lists, true); err != nil {
		return false, err
	}
	now, err := c.ProgramIn(ctx, id, p.Form.Language)
	return now != p, err
}

// PictureSites are the other sites whose pictures an edition shows in any language.
func (c *Programs) PictureSites(ctx context.Context, id store.EditionID) []string {
	p, _ := c.program(ctx, programKey{EditionID: id})
	return p.pictures
}

func (c *Programs) program(ctx context.Context, key programKey) (sized, error) {
	lists, err := c.use(ctx, key.EditionID)
	if err != nil {
		return sized{}, err
	}
	states, err := c.lists.states(ctx, key.Workspace, lists, false)
	if err != nil {
		return sized{}, err
	}
	key.lists = named(states)
	if p, ok := c.held.Get(key); ok {
		return p, nil
	}
	if key.in != "" { // nothing is held under a name that anyone can make up
		own, err := c.program(ctx, programKey{EditionID: key.EditionID})
		if err != nil || own.Form.Translated(key.in) == own.Form {
			return own, err
		}
	}
	return c.held.GetOrMake(key, func() (sized, error) {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), compileFor) // whoever asked first may leave
		defer cancel()
		return c.compile(ctx, key, states)
	})
}

// use finds out which lists of the workspace an edition draws on.
func (c *Programs) use(ctx context.Context, id store.EditionID) ([]string, error) {
	return c.uses.GetOrMake(id, func() ([]string, error) {
		e, err := c.store.Edition(ctx, id)
		if err != nil {
			return nil, err
		}
		return e.SharedLists()
	})
}

func (c *Programs) compile(ctx context.Context, key programKey, states []store.ListState) (sized, error) {
	e, err := c.store.Edition(ctx, key.EditionID)
	if err != nil {
		return sized{}, err
	}
	def, err := e.Form()
	if err != nil {
		return sized{}, err
	}
	if def, err = c.lists.withEntries(ctx, key.Workspace, def, states); err != nil {
		return sized{}, err
	}
	p, remarks := engine.Compile(def.Translated(key.in))
	if p == nil {
		return sized{}, Unsound{key.EditionID, def, remarks}
	}
	return sized{p, p.Bytes() + 2*len(e.Definition), markdown.PictureSites(def)}, nil
}
