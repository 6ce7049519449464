package store

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"
)

// Members are those of the workspace, by their names.
func (in InWorkspace) Members(ctx context.Context) ([]Member, error) {
	var out []Member
	err := in.store.db.WithContext(ctx).Scopes(in.ofWorkspace, here).Order("lower(name), id").Find(&out).Error
	if err != nil {
		return nil, err
	}
	var chosen []struct {
		MemberID MemberID
		FormID   FormID
	}
	err = in.store.db.WithContext(ctx).Table("member_forms").
		Where("member_id in (select id from members where workspace_id = ?)",
			in.workspace).Order("form_id").Find(&chosen).Error
	if err != nil {
		return nil, err
	}
	for _, c := range chosen {
		for i := range out {
			if out[i].ID == c.MemberID {
				out[i].Forms = append(out[i].Forms, c.FormID)
			}
		}
	}
	var second []MemberID
	err = in.store.db.WithContext(ctx).Model(&Member{}).Scopes(in.ofWorkspace, here).
		Where("account_id in (select id from accounts where totp_secret is not null)").Pluck("id", &second).Error
	for i := range out {
		out[i].Second = slices.Contains(second, out[i].ID)
	}
	return out, err
}

// AskSecond sets whether the workspace asks a second factor of everybody in it.
func (in InWorkspace) AskSecond(ctx context.Context, asked bool) error {
	return in.store.db.WithContext(ctx).Exec("update workspaces set second_asked = ? where id = ?", asked,
		in.workspace).Error
}

// SecondAskedOf are the workspaces of an account that ask for a second factor, by name.
func (s *Store) SecondAskedOf(ctx context.Context, id AccountID) ([]string, error) {
	var out []string
	return out, s.db.WithContext(ctx).Table("members m").Joins("join workspaces w on w.id = m.workspace_id").
		Where("m.account_id = ? and m.left_at is null and w.second_asked", id).Order("w.name").Pluck("w.name", &out).Error
}

// SetRole gives a member another role; forms are those of a reader, and mayExport is for
// readers alone. [ErrLastOwner] keeps the workspace its owner.
func (in InWorkspace) SetRole(ctx context.Context, id MemberID, role Role, mayExport bool, forms []FormID) error {
	if role != Reader {
		mayExport, forms = false, nil
	}
	return in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := in.lockOwners(tx, id, role == Owner); err != nil {
			return err
		}
		if err := tx.Model(&Member{ID: id}).Updates(map[string]any{"role": role, "may_export": mayExport}).Error; err != nil {
			return err
		}
		if err := tx.Exec("delete from member_forms where member_id = ?", id).Error; err != nil || len(forms) == 0 {
			return err
		}
		return tx.Exec("insert into member_forms (member_id, form_id) select ?, id from forms where workspace_id = ? and id in ?", id,
			in.workspace, forms).Error
	})
}

// lockOwners holds the workspace's owners for a change of one member, who stays one or not.
func (in InWorkspace) lockOwners(tx *gorm.DB, id MemberID, stays bool) error {
	var owners []MemberID
	err := tx.Raw("select id from members where workspace_id = ? and role = 'owner' and left_at is null order by id for update", in.workspace).
		Scan(&owners).Error
	if err != nil {
		return err
	}
	var n int64
	if err := tx.Model(&Member{}).Scopes(in.ofWorkspace, here).Where("id = ?", id).Count(&n).Error; err != nil {
		return err
	}
	switch {
	case n == 0:
		return ErrNotFound
	case !stays && len(owners) == 1 && owners[0] == id:
		return ErrLastOwner
	}
	return nil
}

// Remove ends a membership, of who leaves or is removed. What they made stays.
func (in InWorkspace) Remove(ctx context.Context, id MemberID) error {
	return in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := in.lockOwners(tx, id, false); err != nil {
			return err
		}
		for _, q := range []string{
			"update members set left_at = now(), digest = false, told_failures = false where id = ?",
			"delete from member_forms where member_id = ?", "delete from exports where member_id = ?",
			"delete from presences where member_id = ?",
			"delete from bulk_changes where member_id = ?", "update sign_ins set member_id = null where member_id = ?",
		} {
			if err := tx.Exec(q, id).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// Invited is somebody who was asked to become a member.
type Invited struct {
	ID          InvitationID
	WorkspaceID WorkspaceID
	Email       string
	Role        Role
	MayExport   bool
	Forms       []FormID `gorm:"type:jsonb;serializer:json"`
	MadeBy      *MemberID
	MadeAt      time.Time `gorm:"default:now()"`
	ExpiresAt   time.Time
}

// TableName is the table that invitations stand in.
func (Invited) TableName() string { return "invitations" }

// MostInvited bounds how many invitations of a workspace are open.
const MostInvited = 200

// Invite asks somebody to become a member; an invitation that they had is taken back.
// [ErrConflict] if they are one, [ErrTooOften] beyond [MostInvited].
func (in InWorkspace) Invite(ctx context.Context, i Invited) (Invited, error) {
	i.WorkspaceID, i.Email, i.ExpiresAt = in.workspace, address(i.Email), time.Now().Add(InvitationLasts)
	if i.Role != Reader {
		i.Forms, i.MayExport = nil, false
	}
	if i.Forms == nil {
		i.Forms = []FormID{}
	}
	return i, in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var n int64
		if err := tx.Model(&Member{}).Scopes(in.ofWorkspace, here).Where("email = ?", i.Email).Count(&n).Error; err != nil {
			return err
		}
		if n > 0 {
			return ErrConflict
		}
		if err := tx.Scopes(in.ofWorkspace).Where("email = ?", i.Email).Delete(&Invited{}).Error; err != nil {
			return err
		}
		if err := tx.Model(&Invited{}).Scopes(in.ofWorkspace).Count(&n).Error; err != nil {
			return err
		}
		if n >= MostInvited {
			return ErrTooOften
		}
		return tx.Create(&i).Error
	})
}

// Invitations are those that are open, or ran out lately.
func (in InWorkspace) Invitations(ctx context.Context) ([]Invited, error) {
	var out []Invited
	return out, in.store.db.WithContext(ctx).Scopes(in.ofWorkspace).Order("made_at desc").Find(&out).Error
}

// TakeBackInvitation takes back an invitation, with the addresses that lead to it.
func (in InWorkspace) TakeBackInvitation(ctx context.Context, id InvitationID) error {
	done := in.store.db.WithContext(ctx).Scopes(in.ofWorkspace).Delete(&Invited{}, "id = ?", id)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}

// InvitationOf is what the secret of an address invites to, with the workspace's name.
func (s *Store) InvitationOf(ctx context.Context, secret string) (Invited, string, error) {
	t, err := s.Token(ctx, Invitation, secret)
	if err != nil {
		return Invited{}, "", err
	}
	var i Invited
	if err := plain(s.db.WithContext(ctx).First(&i, t.Invitation).Error); err != nil {
		return i, "", err
	}
	name, err := s.WorkspaceName(ctx, i.WorkspaceID)
	return i, name, err
}

// Join makes a member of who was invited, by the secret of an address, once: with an
// account that they have, or one that is made. [ErrConflict] if an account for the address
// exists and it is another.
func (s *Store) Join(ctx context.Context, secret string, with AccountID, made Account) (Member, error) {
	var m Member
	err := pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		t, err := useToken(ctx, tx, Invitation, secret)
		if err != nil {
			return err
		}
		var forms []byte
		err = tx.QueryRow(ctx, "delete from invitations where id = $1 and expires_at > now() returning workspace_id, email, role, may_export, forms", t.Invitation).
			Scan(&m.WorkspaceID, &made.Email, &m.Role, &m.MayExport, &forms)
		if errors.Is(err, pgx.ErrNoRows) {
			return ErrNotFound
		}
		if err != nil {
			return err
		}
		if with == 0 {
			err = tx.QueryRow(ctx, "insert into accounts (email, name, password_hash) values ($1, $2, $3) returning id",
				made.Email, made.Name,
				made.PasswordHash).Scan(&with)
			if err != nil {
				return plain(err)
			}
		}
		err = tx.QueryRow(ctx, `insert into members (workspace_id, account_id, email, name, password_hash, role, may_export)
			select $1, id, email, name, password_hash, $3, $4 from accounts where id = $2 returning id, email, name`,
			m.WorkspaceID, with, string(m.Role), m.MayExport).Scan(&m.ID, &m.Email, &m.Name)
		if err != nil {
			return plain(err)
		}
		m.AccountID = with
		if err := json.Unmarshal(forms, &m.Forms); err != nil {
			return err
		}
		chosen := make([]int64, len(m.Forms))
		for i, id := range m.Forms {
			chosen[i] = int64(id)
		}
		_, err = tx.Exec(ctx, "insert into member_forms (member_id, form_id) select $1, id from forms where workspace_id = $2 and id = any($3)",
			m.ID, m.WorkspaceID, chosen)
		return err
	})
	return m, err
}
