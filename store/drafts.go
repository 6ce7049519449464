package store

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	"gorm.io/gorm"

	"lazo/core/form"
)

// Clash is an edit that meets one that someone else made meanwhile. Nothing was
// changed. It is an ErrConflict.
type Clash struct {
	By string // the name of the other member, or ""
}

func (c Clash) Error() string { return c.By + " has changed the same meanwhile" }

// Is makes a Clash an ErrConflict.
func (c Clash) Is(err error) bool { return err == ErrConflict }

// EditDraft applies an edit to the draft that was made on the draft as it was at
// version. If the draft has moved on, the edit is applied to the newest state,
// unless it touches what was changed since: that is a Clash. It returns the new
// state.
func (s *Store) EditDraft(ctx context.Context, workspace, id, version, member int64, e form.Edit) (Form, error) {
	var out Form
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		f, err := lockForm(tx, workspace, id)
		if err != nil {
			return err
		}
		if err := meets(tx, f, version, e.Touches()); err != nil {
			return err
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
		out, err = saveDraft(tx, f, changed, member, e)
		return err
	})
	return out, err
}

// meets reports a Clash if what is touched was touched by another since version.
func meets(tx *gorm.DB, f Form, version int64, touches []string) error {
	if version == f.DraftVersion {
		return nil
	}
	var steps []struct {
		Touches string // a JSON list
		Name    string
	}
	err := tx.Raw(`select to_json(s.touches)::text as touches, coalesce(m.name, '') as name from draft_steps s left join members m on m.id = s.member_id
		where s.form_id = ? and s.version > ? order by s.version desc`, f.ID, version).Scan(&steps).Error
	if err != nil {
		return err
	}
	if int64(len(steps)) < f.DraftVersion-version { // older than what is known
		return Clash{}
	}
	for _, step := range steps {
		var theirs []string
		if err := json.Unmarshal([]byte(step.Touches), &theirs); err != nil {
			return err
		}
		if form.Collide(theirs, touches) {
			return Clash{step.Name}
		}
	}
	return nil
}

// saveDraft stores the next version of a draft and what it changed.
func saveDraft(tx *gorm.DB, f Form, def *form.Form, member int64, e form.Edit) (Form, error) {
	f.Draft, f.Title, f.DraftVersion = def.JSON(), strings.TrimSpace(def.Title), f.DraftVersion+1
	f.UpdatedAt = time.Now()
	touches, err := json.Marshal(e.Touches())
	if err != nil {
		return f, err
	}
	err = tx.Exec(`insert into draft_steps (form_id, version, member_id, touches)
		select ?, ?, nullif(?, 0), array(select json_array_elements_text(?::json))`, f.ID, f.DraftVersion, member, string(touches)).Error
	if err != nil {
		return f, err
	}
	return f, tx.Model(&Form{}).Where("id = ?", f.ID).Updates(map[string]any{
		"draft": f.Draft, "title": f.Title, "draft_version": f.DraftVersion, "updated_at": f.UpdatedAt}).Error
}

// Undo takes the last edit back, Redo does it again; ErrNotFound if there is none.
func (s *Store) Undo(ctx context.Context, workspace, id, version, member int64) (Form, error) {
	return s.step(ctx, workspace, id, version, member, "select number, inverse as edit from edits where form_id = ? and not undone order by number desc limit 1", true)
}

// Redo does the edit again that was taken back last.
func (s *Store) Redo(ctx context.Context, workspace, id, version, member int64) (Form, error) {
	return s.step(ctx, workspace, id, version, member, "select number, edit from edits where form_id = ? and undone order by number limit 1", false)
}

func (s *Store) step(ctx context.Context, workspace, id, version, member int64, query string, undone bool) (Form, error) {
	var out Form
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		f, err := lockVersion(tx, workspace, id, version)
		if err != nil {
			return err
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
		out, err = saveDraft(tx, f, changed, member, e)
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

// Presence is someone who has a draft open.
type Presence struct {
	Name string
	At   string // the key of what they have selected, or ""
}

// presentFor is how long someone counts as present after a sign of life.
const presentFor = 40 * time.Second

// Meet notes that a member has a form's draft open, with what is selected, and
// returns who else has, and the draft's version.
func (s *Store) Meet(ctx context.Context, workspace, id, member int64, at string) (others []Presence, version int64, err error) {
	db := s.db.WithContext(ctx)
	if err := db.Raw("select draft_version from forms where workspace_id = ? and id = ?", workspace, id).Scan(&version).Error; err != nil {
		return nil, 0, err
	}
	if version == 0 {
		return nil, 0, ErrNotFound
	}
	err = db.Exec(`insert into presences (form_id, member_id, at) values (?, ?, ?)
		on conflict (form_id, member_id) do update set at = excluded.at, seen_at = now()`, id, member, at).Error
	if err != nil {
		return nil, 0, err
	}
	err = db.Raw(`select m.name, p.at from presences p join members m on m.id = p.member_id
		where p.form_id = ? and p.member_id <> ? and p.seen_at > now() - ?::interval order by m.name`, id, member, presentFor.String()).Scan(&others).Error
	return others, version, err
}
