package frame

import (
	"context"
	"errors"
	"net/http"
	"strings"

	"lazo/core/form"
	"lazo/store"
)

// Top is the header of the pages that belong to no form.
type Top struct {
	Member, Workspace string
	Tab               string // which page it is
}

// Top is the header for the member of a request.
func (d *Desk) Top(r *http.Request, tab string) (Top, error) {
	m := Member(r.Context())
	ws, err := d.Store.In(m.WorkspaceID).Get(r.Context())
	return Top{m.Name, ws.Name, tab}, err
}

// AddList makes a list of the member's workspace under a key that is free.
func (d *Desk) AddList(ctx context.Context, name string, t form.Table, says string) (store.List, error) {
	m := Member(ctx)
	in := d.Store.In(m.WorkspaceID)
	lists, err := in.Lists(ctx)
	if err != nil {
		return store.List{}, err
	}
	taken := map[string]bool{}
	for _, l := range lists {
		taken[l.Key] = true
	}
	for {
		key := form.FreeKey(form.ProposeKey(name), "list", taken)
		l, err := in.AddList(ctx, key, strings.TrimSpace(name), t, m.ID, says)
		if !errors.Is(err, store.ErrTaken) {
			return l, err
		}
		taken[key] = true // by someone else just now
	}
}
