package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

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

// CreateForm adds a form with def as its draft. Its address is def's key, with a
// number if that is taken.
func (s *Store) CreateForm(ctx context.Context, workspace int64, def *form.Form) (Form, error) {
	base := def.Key
	for n := 1; n < 1000; n++ {
		def.Key = base
		if n > 1 {
			def.Key = fmt.Sprintf("%s-%d", base, n)
		}
		f := Form{WorkspaceID: workspace, Address: def.Key, Title: def.Title, Draft: def.JSON(), DraftVersion: 1}
		err := plain(s.db.WithContext(ctx).Create(&f).Error)
		if !errors.Is(err, ErrConflict) {
			return f, err
		}
	}
	return Form{}, ErrConflict
}

// DeleteForm deletes a form of a workspace with its editions, edits and responses.
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
		return tx.Exec("delete from forms where id = ?", f.ID).Error
	})
}

func lockForm(tx *gorm.DB, workspace, id int64) (Form, error) {
	var f Form
	return f, plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("workspace_id = ? and id = ?", workspace, id).First(&f).Error)
}

// EditDraft applies an edit to the draft as it was at version. If the draft has
// moved on it is ErrConflict and nothing is changed. It returns the new state.
func (s *Store) EditDraft(ctx context.Context, workspace, id, version, member int64, e form.Edit) (Form, error) {
	var out Form
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		f, err := lockForm(tx, workspace, id)
		if err != nil {
			return err
		}
		if f.DraftVersion != version {
			return ErrConflict
		}
		def, err := f.Definition()
		if err != nil {
			return err
		}
		changed, inverse, err := form.Apply(def, e)
		if err != nil {
			return err
		}
		if err := tx.Exec("delete from edits where form_id = ? and undone", f.ID).Error; err != nil {
			return err
		}
		edit, err := json.Marshal(e)
		if err != nil {
			return err
		}
		back, err := json.Marshal(inverse)
		if err != nil {
			return err
		}
		err = tx.Exec(`insert into edits (form_id, number, member_id, edit, inverse)
			select ?, coalesce(max(number), 0) + 1, ?, ?, ? from edits where form_id = ?`, f.ID, member, edit, back, f.ID).Error
		if err != nil {
			return err
		}
		out, err = saveDraft(tx, f, changed)
		return err
	})
	return out, err
}

func saveDraft(tx *gorm.DB, f Form, def *form.Form) (Form, error) {
	f.Draft, f.Title, f.DraftVersion = def.JSON(), strings.TrimSpace(def.Title), f.DraftVersion+1
	f.UpdatedAt = time.Now()
	return f, tx.Model(&Form{}).Where("id = ?", f.ID).Updates(map[string]any{
		"draft": f.Draft, "title": f.Title, "draft_version": f.DraftVersion, "updated_at": f.UpdatedAt}).Error
}

// Undo takes the last edit back, Redo does it again; ErrNotFound if there is none.
func (s *Store) Undo(ctx context.Context, workspace, id, version int64) (Form, error) {
	return s.step(ctx, workspace, id, version, "select number, inverse as edit from edits where form_id = ? and not undone order by number desc limit 1", true)
}

// Redo does the edit again that was taken back last.
func (s *Store) Redo(ctx context.Context, workspace, id, version int64) (Form, error) {
	return s.step(ctx, workspace, id, version, "select number, edit from edits where form_id = ? and undone order by number limit 1", false)
}

func (s *Store) step(ctx context.Context, workspace, id, version int64, query string, undone bool) (Form, error) {
	var out Form
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		f, err := lockForm(tx, workspace, id)
		if err != nil {
			return err
		}
		if f.DraftVersion != version {
			return ErrConflict
		}
		var row struct {
			Number int64
			Edit   []byte
		}
		if err := tx.Raw(query, f.ID).Scan(&row).Error; err != nil {
			return err
		}
		if row.Number == 0 {
			return ErrNotFound
		}
		var e form.Edit
		if err := json.Unmarshal(row.Edit, &e); err != nil {
			return err
		}
		def, err := f.Definition()
		if err != nil {
			return err
		}
		changed, _, err := form.Apply(def, e)
		if err != nil {
			return err
		}
		if err := tx.Exec("update edits set undone = ? where form_id = ? and number = ?", undone, f.ID, row.Number).Error; err != nil {
			return err
		}
		out, err = saveDraft(tx, f, changed)
		return err
	})
	return out, err
}

// History counts the edits that can be undone and redone.
func (s *Store) History(ctx context.Context, id int64) (undo, redo int64, err error) {
	err = s.db.WithContext(ctx).Raw("select count(*) filter (where not undone), count(*) filter (where undone) from edits where form_id = ?", id).
		Row().Scan(&undo, &redo)
	return undo, redo, err
}

// Publish makes the draft at version the next edition and puts it live.
func (s *Store) Publish(ctx context.Context, workspace, id, version, member int64) (Edition, error) {
	var out Edition
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		f, err := lockForm(tx, workspace, id)
		if err != nil {
			return err
		}
		if f.DraftVersion != version {
			return ErrConflict
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

// EditionByNumber finds an edition.
func (s *Store) EditionByNumber(ctx context.Context, formID int64, number int) (Edition, error) {
	var e Edition
	return e, plain(s.db.WithContext(ctx).Where("form_id = ? and number = ?", formID, number).First(&e).Error)
}
