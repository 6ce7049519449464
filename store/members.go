package store

import (
	"context"
	"database/sql"
	"strings"

	"golang.org/x/crypto/bcrypt"
)

// Workspace is the people, forms and responses that belong together.
type Workspace struct {
	ID   WorkspaceID
	Name string
	// PictureSites are the sites, as https origins, whose pictures texts may show.
	PictureSites []string `gorm:"->;serializer:json"` // set by AllowPictures
}

// Member is someone who can sign in to a workspace.
type Member struct {
	ID           MemberID
	WorkspaceID  WorkspaceID
	Email        string
	Name         string
	PasswordHash string
	// PictureSites are those of the workspace, in MemberByID.
	PictureSites []string `gorm:"->;serializer:json"`
}

// MemberEmails are the addresses of the workspace's members.
func (in InWorkspace) MemberEmails(ctx context.Context) ([]string, error) {
	var out []string
	err := in.store.db.WithContext(ctx).Model(&Member{}).Scopes(in.ofWorkspace).Order("email").Limit(100).Pluck("email", &out).Error
	return out, err
}

// WorkspaceName is the name of a workspace.
func (s *Store) WorkspaceName(ctx context.Context, id WorkspaceID) (string, error) {
	var w Workspace
	err := plain(s.db.WithContext(ctx).Select("name").Where("id = ?", id).Take(&w).Error)
	return w.Name, err
}

// CreateWorkspace adds a workspace.
func (s *Store) CreateWorkspace(ctx context.Context, name string) (Workspace, error) {
	w := Workspace{Name: name}
	return w, plain(s.db.WithContext(ctx).Create(&w).Error)
}

// CreateMember adds a member; ErrConflict if the e-mail address is taken.
func (s *Store) CreateMember(ctx context.Context, m Member) (Member, error) {
	m.Email = strings.ToLower(strings.TrimSpace(m.Email))
	return m, plain(s.db.WithContext(ctx).Create(&m).Error)
}

// MemberByEmail finds who signs in with an e-mail address.
func (s *Store) MemberByEmail(ctx context.Context, email string) (Member, error) {
	var m Member
	return m, plain(s.db.WithContext(ctx).Where("email = ?", strings.ToLower(strings.TrimSpace(email))).First(&m).Error)
}

// MemberByID finds a member.
func (s *Store) MemberByID(ctx context.Context, id MemberID) (Member, error) {
	var m Member
	return m, plain(
		s.db.WithContext(ctx).
			Select("members.*, w.picture_sites").
			Joins("join workspaces w on w.id = members.workspace_id").
			First(&m, "members.id = ?", id).
			Error,
	)
}

// Get finds a workspace.
func (in InWorkspace) Get(ctx context.Context) (Workspace, error) {
	var w Workspace
	return w, plain(in.store.db.WithContext(ctx).First(&w, in.workspace).Error)
}

// PictureSites are the sites whose pictures a workspace's texts may show.
func (in InWorkspace) PictureSites(ctx context.Context) ([]string, error) {
	w, err := in.Get(ctx)
	return w.PictureSites, err
}

// MostPictureSites is how many sites a workspace can allow.
const MostPictureSites = 50

// AllowPictures lets a workspace's texts show pictures of a site, an https origin.
// It is ErrTooOften beyond [MostPictureSites].
func (in InWorkspace) AllowPictures(ctx context.Context, site string) error {
	res := in.store.db.WithContext(ctx).
		Exec(`update workspaces set picture_sites = (picture_sites - cast(@site as text)) || to_jsonb(cast(@site as text))
		where id = @workspace and jsonb_array_length(picture_sites - cast(@site as text)) < @most`,
			sql.Named("site", site), sql.Named("workspace", in.workspace), sql.Named("most", MostPictureSites))
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrTooOften
	}
	return res.Error
}

// ForbidPictures takes back AllowPictures.
func (in InWorkspace) ForbidPictures(ctx context.Context, site string) error {
	return in.store.db.WithContext(ctx).
		Exec("update workspaces set picture_sites = picture_sites - cast(? as text) where id = ?", site, in.workspace).
		Error
}

// HashPassword makes the hash that a member's password is checked against.
func HashPassword(password string) (string, error) {
	h, err := bcrypt.GenerateFromPassword([]byte(password), 12)
	return string(h), err
}
