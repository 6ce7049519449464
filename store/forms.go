package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"lazo/core/expr"
	"lazo/core/form"
)

// Form is a form with its draft.
type Form struct {
	ID           FormID
	WorkspaceID  WorkspaceID
	Address      string // its key in public addresses, unique among all workspaces
	Title        string
	Draft        JSON `gorm:"type:jsonb"`
	DraftVersion int64
	LiveEdition  *int
	CreatedAt    time.Time
	UpdatedAt    time.Time
	// OfflineSince is when the form was taken out of public, nil while it is there;
	// OfflineMessage is read meanwhile, "" for the usual one.
	OfflineSince   *time.Time
	OfflineMessage string
	Shelf          string     `gorm:"->"` // that it stands on, "" for none; set by Shelve
	AsideSince     *time.Time `gorm:"->"` // when it was set aside; set by SetAside
}

// Live is what the form is to the public.
func (f *Form) Live() (Live, error) {
	if f.LiveEdition == nil {
		return Live{}, ErrNotFound
	}
	return Live{*f.LiveEdition, f.OfflineSince != nil, f.OfflineMessage}, nil
}

// Live is what a form is to the public now.
type Live struct {
	Edition int
	Offline bool
	Message string // while it is offline, "" for the usual one
}

// Definition reads the draft.
func (f *Form) Definition() (*form.Form, error) { return definition(f.Draft) }

func definition(data []byte) (*form.Form, error) {
	out, remarks := form.Read(data)
	if out == nil {
		return nil, fmt.Errorf("a stored form can't be read: %s", remarks[0])
	}
	return out, nil
}

// Edition is a published state of a form.
type Edition struct {
	FormID       FormID `gorm:"primaryKey"`
	Number       int    `gorm:"primaryKey"`
	Definition   JSON   `gorm:"type:jsonb"`
	DraftVersion int64
	PublishedBy  *MemberID
	PublishedAt  time.Time
}

// Form reads the edition's definition.
func (e *Edition) Form() (*form.Form, error) { return definition(e.Definition) }

// SharedLists are the keys of the workspace's lists that the edition draws from.
func (e *Edition) SharedLists() ([]string, error) {
	var has struct{ Lists map[string]form.List }
	err := json.Unmarshal(e.Definition, &has)
	return (&form.Form{Lists: has.Lists}).SharedLists(), err
}

// FormSummary is a line of the list of forms.
type FormSummary struct {
	ID           FormID
	Address      string
	Title        string
	DraftVersion int64
	LiveEdition  *int
	Offline      bool
	LiveVersion  *int64 // the draft's version when the live edition was published
	Responses    int64
	LastResponse *time.Time
	UpdatedAt    time.Time
	Shelf        string // that it stands on, "" for none
	Aside        bool   // it was set aside
}

// Changed reports whether the draft differs from what is live, as far as edits tell.
func (f FormSummary) Changed() bool { return f.LiveVersion != nil && *f.LiveVersion != f.DraftVersion }

// The orders of the list of forms.
const (
	ByEdit     = ""         // those edited last first
	ByTitle    = "title"    // by their titles
	ByResponse = "response" // those that were answered last first
)

var formOrders = map[string]string{
	ByEdit: "f.updated_at desc", ByTitle: "lower(f.title)", ByResponse: "r.received_at desc nulls last, f.updated_at desc",
}

// Forms lists the forms of a workspace that were not set aside, or those that were, in an
// order. Find are words that their titles or shelves hold.
func (in InWorkspace) Forms(ctx context.Context, find, by string, aside bool) ([]FormSummary, error) {
	var out []FormSummary
	order, ok := formOrders[by]
	if !ok {
		order = formOrders[ByEdit]
	}
	where, args := "f.workspace_id = ? and (f.aside_since is not null) = ?", []any{in.workspace, in.workspace, aside}
	if in.reader != 0 {
		where += " and exists (select 1 from member_forms m where m.form_id = f.id and m.member_id = ?)"
		args = append(args, in.reader)
	}
	for _, word := range strings.Fields(expr.Searched(find)) {
		where += " and strpos(lazo_find(f.title || ' ' || f.shelf), ?) > 0"
		args = append(args, word)
	}
	err := in.store.late(ctx, func(db *gorm.DB) error {
		return db.Raw(`select f.id, f.address, f.title, f.shelf, f.aside_since is not null as aside, f.draft_version, f.live_edition, f.updated_at, f.offline_since is not null as offline,
			e.draft_version as live_version, coalesce(t.responses, 0) as responses, r.received_at as last_response
		from forms f
		left join editions e on e.form_id = f.id and e.number = f.live_edition
		left join (select form_id, sum(responses) as responses from response_tallies
			where form_id in (select id from forms where workspace_id = ?) group by form_id) t on t.form_id = f.id
		left join lateral (select received_at from responses where form_id = f.id order by received_at desc, id desc limit 1) r on true
		where `+where+` order by `+order+`, f.id`, args...).Scan(&out).Error
	})
	return out, err
}

// CountAside counts the forms that were set aside.
func (in InWorkspace) CountAside(ctx context.Context) (int, error) {
	var n int64
	err := in.store.db.WithContext(ctx).Model(&Form{}).Scopes(in.readable).Where("aside_since is not null").Count(&n).Error
	return int(n), err
}

// Shelves are the names of the workspace's shelves.
func (in InWorkspace) Shelves(ctx context.Context) ([]string, error) {
	var out []string
	return out, in.store.db.WithContext(ctx).Model(&Form{}).Scopes(in.readable).Where("shelf <> ''").
		Distinct("shelf").Order("shelf").Pluck("shelf", &out).Error
}

// Shelve puts the form on a shelf; "" is none. Nothing else of it changes.
func (in InForm) Shelve(ctx context.Context, shelf string) error {
	return in.store.db.WithContext(ctx).Exec("update forms set shelf = ? where id = ? and workspace_id = ?", shelf,
		in.form, in.workspace).Error
}

// SetAside takes the form out of the list, or puts it back; what it is to the public stays.
func (in InForm) SetAside(ctx context.Context, aside bool) error {
	since := "null"
	if aside {
		since = "coalesce(aside_since, now())"
	}
	return in.store.db.WithContext(ctx).Exec("update forms set aside_since = "+since+" where id = ? and workspace_id = ?",
		in.form,
		in.workspace).Error
}

// Get finds a form of a workspace.
func (in InForm) Get(ctx context.Context) (Form, error) {
	var f Form
	return f, plain(in.store.db.WithContext(ctx).Scopes(in.readable).Where("id = ?", in.form).First(&f).Error)
}

// FormByAddress finds a form by its public address.
func (s *Store) FormByAddress(ctx context.Context, address string) (Form, error) {
	var f Form
	return f, plain(s.db.WithContext(ctx).Omit("draft").Where("address = ?", address).First(&f).Error)
}

// TakeOffline takes a form out of public, with what is read meanwhile. What is sent
// from then on is not stored, by whatever way it comes.
func (in InForm) TakeOffline(ctx context.Context, message string) error {
	return in.setOffline(ctx, "offline_since = coalesce(offline_since, now()), offline_message = ?", message)
}

// PutOnline undoes TakeOffline.
func (in InForm) PutOnline(ctx context.Context) error {
	return in.setOffline(ctx, "offline_since = null")
}

func (in InForm) setOffline(ctx context.Context, set string, args ...any) error {
	res := in.store.db.WithContext(ctx).Exec("update forms set "+set+" where workspace_id = ? and id = ?", append(args,
		in.workspace, in.form)...)
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrNotFound
	}
	return res.Error
}

// CreateForm adds a form with def as its draft. Its address is def's key, with a
// number if that is taken.
func (in InWorkspace) CreateForm(ctx context.Context, def *form.Form) (Form, error) {
	base := def.Key
	for range 10 { // others may take the same one at the same time
		var err error
		if def.Key, err = in.freeAddress(ctx, base); err != nil {
			return Form{}, err
		}
		f := Form{WorkspaceID: in.workspace, Address: def.Key, Title: def.Title, Draft: def.JSON(), DraftVersion: 1}
		err = plain(in.store.db.WithContext(ctx).Create(&f).Error)
		if !errors.Is(err, ErrConflict) {
			return f, err
		}
	}
	return Form{}, ErrConflict
}

// freeAddress is base, with the first number that makes it free for a workspace.
func (in InWorkspace) freeAddress(ctx context.Context, base string) (string, error) {
	var taken []string
	err := in.store.db.WithContext(ctx).Raw(`select address from forms where address = @base or starts_with(address, @base || '-')
		union select address from retired_addresses where workspace_id <> @workspace and (address = @base or starts_with(address, @base || '-'))`,
		sql.Named("base", base), sql.Named("workspace", in.workspace)).Scan(&taken).Error
	if err != nil {
		return "", err
	}
	address := base
	for n := 2; slices.Contains(taken, address); n++ {
		address = fmt.Sprintf("%s-%d", base, n)
	}
	return address, nil
}

// Delete deletes a form of a workspace with its editions, edits and responses. Its
// address is kept from other workspaces.
func (in InForm) Delete(ctx context.Context) error {
	return in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		f, err := in.lock(tx)
		if err != nil {
			return err
		}
		// Responses name their edition, so they go first.
		if err := tx.Exec("delete from responses where form_id = ?", f.ID).Error; err != nil {
			return err
		}
		if err := tx.Exec("delete from forms where id = ?", f.ID).Error; err != nil {
			return err
		}
		return tx.Exec("insert into retired_addresses (address, workspace_id) values (?, ?) on conflict do nothing",
			f.Address, in.workspace).Error
	})
}

func (in InForm) lock(tx *gorm.DB) (Form, error) {
	var f Form
	return f, plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Scopes(in.ofWorkspace).Where("id = ?",
		in.form).First(&f).Error)
}

// lockVersion is lock for a draft that must still be at a version, else it is
// ErrConflict.
func (in InForm) lockVersion(tx *gorm.DB, version int64) (Form, error) {
	f, err := in.lock(tx)
	if err == nil && f.DraftVersion != version {
		err = ErrConflict
	}
	return f, err
}

// Publish makes the draft at version the next edition and puts it live.
func (in InForm) Publish(ctx context.Context, version int64, member MemberID) (Edition, error) {
	var out Edition
	err := in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		f, err := in.lockVersion(tx, version)
		if err != nil {
			return err
		}
		var last int
		if err := tx.Raw("select coalesce(max(number), 0) from editions where form_id = ?",
			f.ID).Row().Scan(&last); err != nil {
			return err
		}
		def, err := f.Definition()
		if err != nil {
			return err
		}
		out = Edition{
			FormID: f.ID, Number: last + 1, Definition: f.Draft, DraftVersion: f.DraftVersion,
			PublishedBy: &member, PublishedAt: time.Now(),
		}
		if whole := def.Publishable(); whole != def {
			out.Definition = whole.JSON()
		}
		if err := tx.Create(&out).Error; err != nil {
			return err
		}
		return tx.Exec("update forms set live_edition = ? where id = ?", out.Number, f.ID).Error
	})
	return out, err
}

// Editions lists a form's editions, the newest first, without their definitions.
func (in InForm) Editions(ctx context.Context) ([]Edition, error) {
	var out []Edition
	return out, in.store.db.WithContext(ctx).Scopes(in.ofForm).Omit("definition").Order("number desc").Find(&out).Error
}

// LastEdition is the number of a form's newest edition, 0 if it has none.
func (in InForm) LastEdition(ctx context.Context) (n int, err error) {
	editions := in.store.db.WithContext(ctx).Model(&Edition{}).Scopes(in.ofForm)
	err = editions.Select("coalesce(max(number), 0)").Scan(&n).Error
	return n, err
}

// PutLive makes an earlier edition the live one again.
func (in InForm) PutLive(ctx context.Context, number int) error {
	if _, err := in.Edition(ctx, number); err != nil {
		return err
	}
	done := in.store.db.WithContext(ctx).Exec("update forms set live_edition = ? where workspace_id = ? and id = ?",
		number, in.workspace, in.form)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}

// Edition finds an edition of a form of the workspace.
func (s *Store) Edition(ctx context.Context, id EditionID) (Edition, error) {
	return s.InWorkspace(id.Workspace).Form(id.Form).Edition(ctx, id.Number)
}

// Edition finds an edition of the form.
func (in InForm) Edition(ctx context.Context, number int) (Edition, error) {
	var e Edition
	if number > math.MaxInt32 {
		return e, ErrNotFound // more than the column can hold
	}
	return e, plain(in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("number = ?", number).First(&e).Error)
}
