package store

import "gorm.io/gorm"

// The ids of what the database keeps, each of its own type, so that none is taken for
// another.
type (
	WorkspaceID    int64
	MemberID       int64
	FormID         int64
	LinkID         int64
	RehearsalID    int64
	SavedSectionID int64 // of a kept section
	ListID         int64
	ViewID         int64
	IntakeID       int64
	LetterID       int64 // of what goes out
	AccountID      int64
	InvitationID   int64
	SignInID       string // a UUID
)

// InWorkspace is what belongs to a workspace. A query that is not bound to one can't be
// written by accident.
type InWorkspace struct {
	store     *Store
	workspace WorkspaceID
	reader    MemberID // a reader, to whom only chosen forms are there; 0 for all of it
}

// InWorkspace is what belongs to a workspace.
func (s *Store) InWorkspace(id WorkspaceID) InWorkspace { return InWorkspace{s, id, 0} }

// ForMember is what is there for a member: of their workspace what their role lets them see.
func (s *Store) ForMember(m Member) InWorkspace {
	in := s.InWorkspace(m.WorkspaceID)
	if m.Role == Reader {
		in.reader = m.ID
	}
	return in
}

// readable narrows a query of forms to those that are there.
func (in InWorkspace) readable(db *gorm.DB) *gorm.DB {
	db = in.ofWorkspace(db)
	if in.reader != 0 {
		db = db.Where("exists (select 1 from member_forms r where r.form_id = forms.id and r.member_id = ?)", in.reader)
	}
	return db
}

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
	if in.reader != 0 {
		return db.Where(`form_id = (select id from forms where id = ? and workspace_id = ?
			and exists (select 1 from member_forms r where r.form_id = forms.id and r.member_id = ?))`, in.form, in.workspace, in.reader)
	}
	return db.Where("form_id = (select id from forms where id = ? and workspace_id = ?)", in.form, in.workspace)
}

// EditionID is which edition of which form of which workspace.
type EditionID struct {
	Workspace WorkspaceID
	Form      FormID
	Number    int
}

// EditionID is one of the form's editions.
func (f *Form) EditionID(number int) EditionID { return EditionID{f.WorkspaceID, f.ID, number} }

// EditionID is one of the editions of the response's form.
func (r *Response) EditionID(number int) EditionID {
	return EditionID{r.WorkspaceID, r.FormID, number}
}

// EditionID is one of the editions of the letter's form.
func (l *Letter) EditionID(number int) EditionID {
	return EditionID{l.WorkspaceID, l.FormID, number}
}
