package layout

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
	Role              store.Role
	Tab               string         // which page it is
	Others            []store.Member // memberships of the same account
}

// Designs reports whether the member may work on forms.
func (t Top) Designs() bool { return t.Role == store.Owner || t.Role == store.Designer }

// Owns reports whether the member is an owner of the workspace.
func (t Top) Owns() bool { return t.Role == store.Owner }

// Top is the header for the member of a request.
func (d *Desk) Top(r *http.Request, tab string) (Top, error) {
	m := Member(r.Context())
	top := Top{Member: m.Name, Workspace: m.Workspace, Role: m.Role, Tab: tab}
	if m.Workspaces < 2 {
		return top, nil
	}
	all, err := d.Store.Memberships(r.Context(), m.AccountID)
	for _, other := range all {
		if other.WorkspaceID != m.WorkspaceID {
			top.Others = append(top.Others, other)
		}
	}
	return top, err
}

// AddList makes a list of the member's workspace under a key that is free.
func (d *Desk) AddList(ctx context.Context, name string, t form.Table, says string) (store.List, error) {
	m := Member(ctx)
	in := d.Store.InWorkspace(m.WorkspaceID)
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
