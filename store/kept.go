package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// Rehearsal is a filling of a form kept under a name, with the outcome that is
// expected of it. Both are JSON; the desk knows what is in them.
type Rehearsal struct {
	ID          int64
	WorkspaceID int64
	FormID      int64
	Name        string
	Filling     []byte `gorm:"type:jsonb"`
	Expected    []byte `gorm:"type:jsonb"`
	MadeAt      time.Time
}

// SaveRehearsal keeps a rehearsal; one of the same name is replaced.
func (s *Store) SaveRehearsal(ctx context.Context, r Rehearsal) error {
	if _, err := s.FormByID(ctx, r.WorkspaceID, r.FormID); err != nil {
		return err
	}
	r.MadeAt = time.Now()
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "form_id"}, {Name: "name"}},
		DoUpdates: clause.AssignmentColumns([]string{"filling", "expected", "made_at"})}).Create(&r).Error
}

// Rehearsals lists a form's rehearsals by name.
func (s *Store) Rehearsals(ctx context.Context, workspace, formID int64) ([]Rehearsal, error) {
	var out []Rehearsal
	return out, s.db.WithContext(ctx).Where("workspace_id = ? and form_id = ?", workspace, formID).Order("name").Find(&out).Error
}

// DeleteRehearsal forgets a rehearsal.
func (s *Store) DeleteRehearsal(ctx context.Context, workspace, formID, id int64) error {
	return s.db.WithContext(ctx).Exec("delete from rehearsals where workspace_id = ? and form_id = ? and id = ?", workspace, formID, id).Error
}

// KeptSection is a section kept for use in other forms of the workspace.
type KeptSection struct {
	ID          int64
	WorkspaceID int64
	Name        string
	Definition  []byte `gorm:"type:jsonb"`
	MadeAt      time.Time
}

// KeepSection keeps a section under a name; one of the same name is replaced.
func (s *Store) KeepSection(ctx context.Context, k KeptSection) error {
	k.MadeAt = time.Now()
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "workspace_id"}, {Name: "name"}},
		DoUpdates: clause.AssignmentColumns([]string{"definition", "made_at"})}).Create(&k).Error
}

// KeptSections lists the sections that a workspace keeps, by name.
func (s *Store) KeptSections(ctx context.Context, workspace int64) ([]KeptSection, error) {
	var out []KeptSection
	return out, s.db.WithContext(ctx).Where("workspace_id = ?", workspace).Order("name").Find(&out).Error
}

// KeptSection finds a section that a workspace keeps.
func (s *Store) KeptSection(ctx context.Context, workspace, id int64) (KeptSection, error) {
	var k KeptSection
	return k, plain(s.db.WithContext(ctx).Where("workspace_id = ? and id = ?", workspace, id).First(&k).Error)
}

// Picture is a picture of a note or a choice.
type Picture struct {
	ID          string `gorm:"default:gen_random_uuid()"`
	WorkspaceID int64
	MediaType   string
	Data        []byte
}

// AddPicture stores a picture and returns its id.
func (s *Store) AddPicture(ctx context.Context, p Picture) (string, error) {
	err := s.db.WithContext(ctx).Create(&p).Error
	return p.ID, err
}

// PictureByID finds a picture; whoever knows its random id may see it.
func (s *Store) PictureByID(ctx context.Context, id string) (Picture, error) {
	var p Picture
	return p, plain(s.db.WithContext(ctx).Where("id = ?", uuid(id)).First(&p).Error)
}
