package fill

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"sync"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/ui"
)

// Programs holds the compiled editions that are in use. Editions never change,
// so a copy of the application needs no word from the others.
type Programs struct {
	store *store.Store
	mu    sync.RWMutex
	held  map[editionKey]*engine.Program
}

type editionKey struct {
	form    int64
	edition int
	in      string
}

const maxHeld = 500

// Unsound is an edition that can't be run, such as one that was published before the
// language became stricter.
type Unsound struct {
	Form    int64
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
func (c *Programs) Definition(ctx context.Context, formID int64, edition int) (*form.Form, error) {
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
	return &Programs{store: s, held: map[editionKey]*engine.Program{}}
}

// Get returns the program of an edition in its own language.
func (c *Programs) Get(ctx context.Context, formID int64, edition int) (*engine.Program, error) {
	return c.In(ctx, formID, edition, "")
}

// In returns the program of an edition in one of its languages; in its own for ""
// and for a language that it is not in.
func (c *Programs) In(ctx context.Context, formID int64, edition int, language string) (*engine.Program, error) {
	key := editionKey{formID, edition, language}
	c.mu.RLock()
	p := c.held[key]
	c.mu.RUnlock()
	if p != nil {
		return p, nil
	}
	e, err := c.store.EditionByNumber(ctx, formID, edition)
	if err != nil {
		return nil, err
	}
	def, err := e.Form()
	if err != nil {
		return nil, err
	}
	if def.In(language) == def && language != "" {
		return c.In(ctx, formID, edition, "") // nothing is held under a name that anyone can make up
	}
	p, remarks := engine.Compile(def.In(language))
	if p == nil {
		return nil, Unsound{formID, edition, def, remarks}
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if len(c.held) >= maxHeld {
		clear(c.held)
	}
	c.held[key] = p
	return p, nil
}
