package store

import "gorm.io/gorm"

// The ids of what the database keeps, each of its own type, so that none is taken for
// another.
type (
	WorkspaceID int64
	MemberID    int64
	FormID      int64
	LinkID      int64
	RehearsalID int64
	KeptID      int64 // of a kept section
	ListID      int64
	ViewID      int64
	IntakeID    int64
	LetterID    int64 // of what goes out
)

// InWorkspace is what belongs to a workspace. A query that is not bound to one can't be
// written by accident.
type InWorkspace struct {
	store     *Store
	workspace WorkspaceID
}

// In is what belongs to a workspace.
func (s *Store) In(id WorkspaceID) InWorkspace { return InWorkspace{s, id} }

// InForm is what belongs to a form of a workspace.
type InForm struct {
	InWorkspace
	form FormID
}

// Form is what belongs to a form of the workspace; whether there is such a form shows
// when it is asked for.
func (in InWorkspace) Form(id FormID) InForm { return InForm{in, id} }

// ofWorkspace binds a query of a table that has a workspace_id to the workspace.
func (in InWorkspace) ofWorkspace(db *gorm.DB) *gorm.DB {
	return db.Where("workspace_id = ?", in.workspace)
}

// ofForm binds a query of a table that has a form_id to the form, if it is the
// workspace's.
func (in InForm) ofForm(db *gorm.DB) *gorm.DB {
	return db.Where("form_id = (select id from forms where id = ? and workspace_id = ?)", in.form, in.workspace)
}
