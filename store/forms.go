package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"lazo/core/form"
)

// Form is a form with its draft.
type Form struct {
	ID           int64
	WorkspaceID  int64
	Address      string // its key in public addresses, unique among all workspaces
	Title        string
	Draft        []byte `gorm:"type:jsonb"`
	DraftVersion int64
	LiveEdition  *int
	CreatedAt    time.Time
	UpdatedAt    time.Time
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
	FormID       int64  `gorm:"primaryKey"`
	Number       int    `gorm:"primaryKey"`
	Definition   []byte `gorm:"type:jsonb"`
	DraftVersion int64
	PublishedBy  *int64
	PublishedAt  time.Time
}

// Form reads the edition's definition.
func (e *Edition) Form() (*form.Form, error) { return definition(e.Definition) }

// FormSummary is a line of the list of forms.
type FormSummary struct {
	ID           int64
	Address      string
	Title        string
	DraftVersion int64
	LiveEdition  *int
	LiveVersion  *int64 // the draft's version when the live edition was published
	Responses    int64
	LastResponse *time.Time
	UpdatedAt    time.Time
}

// Changed reports whether the draft differs from what is live, as far as edits tell.
func (f FormSummary) Changed() bool { return f.LiveVersion != nil && *f.LiveVersion != f.DraftVersion }

// Forms lists the forms of a workspace, those edited last first.
func (s *Store) Forms(ctx context.Context, workspace int64) ([]FormSummary, error) {
	var out []FormSummary
	err := s.db.WithContext(ctx).Raw(`select f.id, f.address, f.title, f.draft_version, f.live_edition, f.updated_at,
			e.draft_version as live_version, count(r.id) as responses, max(r.received_at) as last_response
		from forms f
		left join editions e on e.form_id = f.id and e.number = f.live_edition
		left join responses r on r.form_id = f.id
		where f.workspace_id = ?
		group by f.id, e.draft_version order by f.updated_at desc, f.id`, workspace).Scan(&out).Error
	return out, err
}

// FormByID finds a form of a workspace.
func (s *Store) FormByID(ctx context.Context, workspace, id int64) (Form, error) {
	var f Form
	return f, plain(s.db.WithContext(ctx).Where("workspace_id = ? and id = ?", workspace, id).First(&f).Error)
}

// FormByAddress finds a form by its public address.
func (s *Store) FormByAddress(ctx context.Context, address string) (Form, error) {
	var f Form
	return f, plain(s.db.WithContext(ctx).Omit("draft").Where("address = ?", address).First(&f).Error)
}

// LiveEdition is the number of the edition that is live; ErrNotFound if none is.
func (s *Store) LiveEdition(ctx context.Context, formID int64) (int, error) {
	var n *int
	err := s.pool.QueryRow(ctx, "select live_edition from forms where id = $1", formID).Scan(&n)
	if errors.Is(err, pgx.ErrNoRows) || err == nil && n == nil {
		return 0, ErrNotFound
	}
	if err != nil {
		return 0, err
	}
	return *n, nil
}

// CreateForm adds a form with def as its draft. Its address is def's key, with a
// number if that is taken.
func (s *Store) CreateForm(ctx context.Context, workspace int64, def *form.Form) (Form, error) {
	base := def.Key
	for range 10 { // others may take the same one at the same time
		var err error
		if def.Key, err = s.freeAddress(ctx, workspace, base); err != nil {
			return Form{}, err
		}
		f := Form{WorkspaceID: workspace, Address: def.Key, Title: def.Title, Draft: def.JSON(), DraftVersion: 1}
		err = plain(s.db.WithContext(ctx).Create(&f).Error)
		if !errors.Is(err, ErrConflict) {
			return f, err
		}
	}
	return Form{}, ErrConflict
}

// freeAddress is base, with the first number that makes it free for a workspace.
func (s *Store) freeAddress(ctx context.Context, workspace int64, base string) (string, error) {
	var taken []string
	err := s.db.WithContext(ctx).Raw(`select address from forms where address = @base or starts_with(address, @base || '-')
		union select address from retired_addresses where workspace_id <> @workspace and (address = @base or starts_with(address, @base || '-'))`,
		sql.Named("base", base), sql.Named("workspace", workspace)).Scan(&taken).Error
	if err != nil {
		return "", err
	}
	address := base
	for n := 2; slices.Contains(taken, address); n++ {
		address = fmt.Sprintf("%s-%d", base, n)
	}
	return address, nil
}

// DeleteForm deletes a form of a workspace with its editions, edits and responses. Its
// address is kept from other workspaces.
func (s *Store) DeleteForm(ctx context.Context, workspace, id int64) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		f, err := lockForm(tx, workspace, id)
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
		return tx.Exec("insert into retired_addresses (address, workspace_id) values (?, ?) on conflict do nothing", f.Address, workspace).Error
	})
}

func lockForm(tx *gorm.DB, workspace, id int64) (Form, error) {
	var f Form
	return f, plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("workspace_id = ? and id = ?", workspace, id).First(&f).Error)
}

// lockVersion is lockForm for a draft that must still be at a version, else it is
// ErrConflict.
func lockVersion(tx *gorm.DB, workspace, id, version int64) (Form, error) {
	f, err := lockForm(tx, workspace, id)
	if err == nil && f.DraftVersion != version {
		err = ErrConflict
	}
	return f, err
}

// Publish makes the draft at version the next edition and puts it live.
func (s *Store) Publish(ctx context.Context, workspace, id, version, member int64) (Edition, error) {
	var out Edition
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		f, err := lockVersion(tx, workspace, id, version)
		if err != nil {
			return err
		}
		var last int
		if err := tx.Raw("select coalesce(max(number), 0) from editions where form_id = ?", f.ID).Row().Scan(&last); err != nil {
			return err
		}
		out = Edition{FormID: f.ID, Number: last + 1, Definition: f.Draft, DraftVersion: f.DraftVersion, PublishedBy: &member, PublishedAt: time.Now()}
		if err := tx.Create(&out).Error; err != nil {
			return err
		}
		return tx.Exec("update forms set live_edition = ? where id = ?", out.Number, f.ID).Error
	})
	return out, err
}

// Editions lists a form's editions, the newest first, without their definitions.
func (s *Store) Editions(ctx context.Context, formID int64) ([]Edition, error) {
	var out []Edition
	return out, s.db.WithContext(ctx).Omit("definition").Where("form_id = ?", formID).Order("number desc").Find(&out).Error
}

// LastEdition is the number of a form's newest edition, 0 if it has none.
func (s *Store) LastEdition(ctx context.Context, formID int64) (n int, err error) {
	err = s.db.WithContext(ctx).Raw("select coalesce(max(number), 0) from editions where form_id = ?", formID).Scan(&n).Error
	return n, err
}

// PutLive makes an earlier edition the live one again.
func (s *Store) PutLive(ctx context.Context, workspace, id int64, number int) error {
	if _, err := s.EditionByNumber(ctx, id, number); err != nil {
		return err
	}
	done := s.db.WithContext(ctx).Exec("update forms set live_edition = ? where workspace_id = ? and id = ?", number, workspace, id)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}

// EditionByNumber finds an edition.
func (s *Store) EditionByNumber(ctx context.Context, formID int64, number int) (Edition, error) {
	var e Edition
	if number > math.MaxInt32 {
		return e, ErrNotFound // more than the column can hold
	}
	return e, plain(s.db.WithContext(ctx).Where("form_id = ? and number = ?", formID, number).First(&e).Error)
}
