package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// Rehearsal is a filling of a form kept under a name, with the outcome that is
// expected of it. Both are JSON; the desk knows what is in them.
type Rehearsal struct {
	ID          RehearsalID
	WorkspaceID WorkspaceID
	FormID      FormID
	Name        string
	Filling     JSON `gorm:"type:jsonb"`
	Expected    JSON `gorm:"type:jsonb"`
	MadeAt      time.Time
}

// SaveRehearsal keeps a rehearsal; one of the same name is replaced.
func (in InForm) SaveRehearsal(ctx context.Context, r Rehearsal) error {
	r.WorkspaceID, r.FormID = in.workspace, in.form
	if _, err := in.Get(ctx); err != nil {
		return err
	}
	r.MadeAt = time.Now()
	return in.store.db.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "form_id"},
		{Name: "name"}},
		DoUpdates: clause.AssignmentColumns([]string{"filling", "expected", "made_at"})}).Create(&r).Error
}

// Rehearsals lists a form's rehearsals by name.
func (in InForm) Rehearsals(ctx context.Context) ([]Rehearsal, error) {
	var out []Rehearsal
	return out, in.store.db.WithContext(ctx).Scopes(in.ofForm).Order("name").Find(&out).Error
}

// DeleteRehearsal forgets a rehearsal.
func (in InForm) DeleteRehearsal(ctx context.Context, id RehearsalID) error {
	return in.store.db.WithContext(ctx).
		Exec("delete from rehearsals where workspace_id = ? and form_id = ? and id = ?", in.workspace, in.form, id).
		Error
}

// SavedSection is a section kept for use in other forms of the workspace.
type SavedSection struct {
	ID          SavedSectionID
	WorkspaceID WorkspaceID
	Name        string
	Definition  JSON `gorm:"type:jsonb"`
	MadeAt      time.Time
}

// TableName is the table that saved sections stand in.
func (SavedSection) TableName() string { return "kept_sections" }

// SaveSection keeps a section under a name; one of the same name is replaced.
func (in InWorkspace) SaveSection(ctx context.Context, k SavedSection) error {
	k.WorkspaceID = in.workspace
	k.MadeAt = time.Now()
	return in.store.db.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "workspace_id"},
		{Name: "name"}},
		DoUpdates: clause.AssignmentColumns([]string{"definition", "made_at"})}).Create(&k).Error
}

// SavedSections lists the sections that a workspace keeps, by name.
func (in InWorkspace) SavedSections(ctx context.Context) ([]SavedSection, error) {
	var out []SavedSection
	return out, in.store.db.WithContext(ctx).Scopes(in.ofWorkspace).Order("name").Find(&out).Error
}

// SavedSection finds a section that a workspace keeps.
func (in InWorkspace) SavedSection(ctx context.Context, id SavedSectionID) (SavedSection, error) {
	var k SavedSection
	return k, plain(in.store.db.WithContext(ctx).Scopes(in.ofWorkspace).Where("id = ?", id).First(&k).Error)
}

// Picture is a picture of a note or a choice.
type Picture struct {
	ID          string `gorm:"default:gen_random_uuid()"`
	WorkspaceID WorkspaceID
	MediaType   string
	Data        []byte
}

// AddPicture stores a picture and returns its id.
func (in InWorkspace) AddPicture(ctx context.Context, p Picture) (string, error) {
	p.WorkspaceID = in.workspace
	err := in.store.db.WithContext(ctx).Create(&p).Error
	return p.ID, err
}

// PictureByID finds a picture; whoever knows its random id may see it.
func (s *Store) PictureByID(ctx context.Context, id string) (Picture, error) {
	var p Picture
	return p, plain(s.db.WithContext(ctx).Where("id = ?", uuid(id)).First(&p).Error)
}

// Pictures that have been there for a month are looked for in what names them in their
// workspace: drafts, editions, kept sections, and edits that could be undone. Each is
// looked for once a day at most, and so many at a time. Those that nothing names go.
const (
	lookForPictures = `update pictures set looked_for_at = now() where id in (
		select id from pictures where made_at < now() - interval '30 days' and (looked_for_at is null or looked_for_at < now() - interval '1 day')
		order by looked_for_at nulls first limit 50)`
	unshownPictures = `delete from pictures p where looked_for_at > now() - interval '10 minutes'
		and not exists (select 1 from forms f where f.workspace_id = p.workspace_id and strpos(f.draft::text, p.id::text) > 0)
		and not exists (select 1 from editions e join forms f on f.id = e.form_id
			where f.workspace_id = p.workspace_id and strpos(e.definition::text, p.id::text) > 0)
		and not exists (select 1 from edits e join forms f on f.id = e.form_id
			where f.workspace_id = p.workspace_id and strpos(e.edit::text || e.inverse::text, p.id::text) > 0)
		and not exists (select 1 from kept_sections k where k.workspace_id = p.workspace_id and strpos(k.definition::text, p.id::text) > 0)`
)
