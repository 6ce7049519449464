package fill

import (
	"context"
	"fmt"
	"sync"

	"lazo/core/engine"
	"lazo/store"
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
}

const maxHeld = 500

// NewPrograms returns an empty cache over a store.
func NewPrograms(s *store.Store) *Programs {
	return &Programs{store: s, held: map[editionKey]*engine.Program{}}
}

// Get returns the program of an edition.
func (c *Programs) Get(ctx context.Context, formID int64, edition int) (*engine.Program, error) {
	key := editionKey{formID, edition}
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
	p, remarks := engine.Compile(def)
	if p == nil {
		return nil, fmt.Errorf("edition %d of form %d does not compile: %v", edition, formID, remarks)
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if len(c.held) >= maxHeld {
		clear(c.held)
	}
	c.held[key] = p
	return p, nil
}
