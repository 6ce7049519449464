package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// Workspace is the people, forms and responses that belong together.
type Workspace struct {
	ID   WorkspaceID
	Name string
	// PictureSites are the sites, as https origins, whose pictures texts may show.
	PictureSites []string `gorm:"->;serializer:json"` // set by AllowPictures
	TrailDays    int      `gorm:"default:365"`        // how long its trail is kept
	EmailsDays   *int     // how long e-mails that have gone are kept, nil for as long as their responses
	Note         string   // what it says of itself above its forms, in Markdown
}

// Role is what a member may do in a workspace.
type Role string

// The roles.
const (
	Owner    Role = "owner"    // everything: also people, settings, deleting
	Designer Role = "designer" // forms, lists, messages and responses
	Reader   Role = "reader"   // the responses of chosen forms
)

// Roles are all of them, from the one that may most.
var Roles = []Role{Owner, Designer, Reader}

// Member is somebody who works in a workspace, by their account.
type Member struct {
	ID           MemberID
	WorkspaceID  WorkspaceID
	AccountID    AccountID
	Email        string // of the account, as its name and password are
	Name         string
	PasswordHash string
	Role         Role       `gorm:"default:owner"`
	MayExport    bool       // of a reader: to take responses out
	JoinedAt     time.Time  `gorm:"default:now()"`
	LeftAt       *time.Time // when they left, or were removed; what they made stays
	// Forms are those whose responses a reader reads, in Members.
	Forms []FormID `gorm:"-"`
	// Second, in Members and SignedIn, is whether signing in asks for a second factor.
	Second bool `gorm:"-"`
	// Workspace, Workspaces (how many the account is a member of), PictureSites and
	// SecondAsked (of everybody in the workspace) are those of SignedIn.
	Workspace    string   `gorm:"-"`
	Workspaces   int      `gorm:"-"`
	PictureSites []string `gorm:"-"`
	SecondAsked  bool     `gorm:"-"`
}

// SecondMissing reports whether the workspace at hand asks for a second factor that the
// member's account does not have.
func (m Member) SecondMissing() bool { return m.SecondAsked && !m.Second }

// ErrLastOwner is for what would leave a workspace without an owner.
var ErrLastOwner = errors.New("it is the last owner of the workspace")

// here narrows a query of members to those who have not left.
func here(db *gorm.DB) *gorm.DB { return db.Where("left_at is null") }

// MemberEmails are the addresses of the workspace's members.
func (in InWorkspace) MemberEmails(ctx context.Context) ([]string, error) {
	var out []string
	err := in.store.db.WithContext(ctx).Model(&Member{}).Scopes(in.ofWorkspace,
		here).Order("email").Limit(100).Pluck("email", &out).Error
	return out, err
}

// WorkspaceName is the name of a workspace.
func (s *Store) WorkspaceName(ctx context.Context, id WorkspaceID) (string, error) {
	var w Workspace
	err := plain(s.db.WithContext(ctx).Select("name").Where("id = ?", id).Take(&w).Error)
	return w.Name, err
}

// WorkspaceNamed finds the workspace of a name; an error in words if there is none, or
// there are several.
func (s *Store) WorkspaceNamed(ctx context.Context, name string) (Workspace, error) {
	var all []Workspace
	err := s.db.WithContext(ctx).Where("lower(name) = lower(?)", name).Limit(2).Find(&all).Error
	switch {
	case err != nil:
		return Workspace{}, err
	case len(all) == 0:
		return Workspace{}, fmt.Errorf("there is no workspace called %s", name)
	case len(all) > 1:
		return Workspace{}, fmt.Errorf("several workspaces are called %s", name)
	}
	return all[0], nil
}

// CreateWorkspace adds a workspace.
func (s *Store) CreateWorkspace(ctx context.Context, name string) (Workspace, error) {
	w := Workspace{Name: name}
	return w, plain(s.db.WithContext(ctx).Create(&w).Error)
}

// CreateMember adds a member, an owner unless another role is given, and an account for
// their address. Without a password the address has an account already. It is
// [ErrConflict] if the address has one all the same, or is a member.
func (s *Store) CreateMember(ctx context.Context, m Member) (Member, error) {
	m.Email = address(m.Email)
	return m, plain(s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		a := Account{Email: m.Email, Name: m.Name, PasswordHash: m.PasswordHash, Recovery: []string{}}
		var err error
		if m.PasswordHash != "" {
			err = tx.Create(&a).Error
		} else {
			err = tx.Where("email = ?", a.Email).First(&a).Error
		}
		if err != nil {
			return err
		}
		m.AccountID, m.Name, m.PasswordHash = a.ID, a.Name, a.PasswordHash
		return tx.Create(&m).Error
	}))
}

// MemberByEmail finds the first membership of an e-mail address.
func (s *Store) MemberByEmail(ctx context.Context, email string) (Member, error) {
	var m Member
	return m, plain(s.db.WithContext(ctx).Scopes(here).Where("email = ?", address(email)).Order("id").First(&m).Error)
}

// Memberships are those of an account, by the names of their workspaces.
func (s *Store) Memberships(ctx context.Context, of AccountID) ([]Member, error) {
	var out []Member
	rows, err := s.pool.Query(ctx, `select m.id, m.workspace_id, m.role, w.name from members m join workspaces w on w.id = m.workspace_id
		where m.account_id = $1 and m.left_at is null order by lower(w.name), w.id`, of)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		m := Member{AccountID: of}
		if err := rows.Scan(&m.ID, &m.WorkspaceID, &m.Role, &m.Workspace); err != nil {
			return nil, err
		}
		out = append(out, m)
	}
	return out, rows.Err()
}

// Get finds a workspace.
func (in InWorkspace) Get(ctx context.Context) (Workspace, error) {
	var w Workspace
	return w, plain(in.store.db.WithContext(ctx).First(&w, in.workspace).Error)
}

// SetNote sets what the workspace says of itself.
func (in InWorkspace) SetNote(ctx context.Context, note string) error {
	return in.store.db.WithContext(ctx).Exec("update workspaces set note = ? where id = ?", note, in.workspace).Error
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
