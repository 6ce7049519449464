package store

import (
	"context"
	"strings"

	"golang.org/x/crypto/bcrypt"
)

// Workspace is the people, forms and responses that belong together.
type Workspace struct {
	ID   int64
	Name string
}

// Member is someone who can sign in to a workspace.
type Member struct {
	ID           int64
	WorkspaceID  int64
	Email        string
	Name         string
	PasswordHash string
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
func (s *Store) MemberByID(ctx context.Context, id int64) (Member, error) {
	var m Member
	return m, plain(s.db.WithContext(ctx).First(&m, id).Error)
}

// WorkspaceByID finds a workspace.
func (s *Store) WorkspaceByID(ctx context.Context, id int64) (Workspace, error) {
	var w Workspace
	return w, plain(s.db.WithContext(ctx).First(&w, id).Error)
}

// HashPassword makes the hash that a member's password is checked against.
func HashPassword(password string) (string, error) {
	h, err := bcrypt.GenerateFromPassword([]byte(password), 12)
	return string(h), err
}
