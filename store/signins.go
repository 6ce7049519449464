package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"
)

// How long a sign-in lasts, and how long one that is not used does.
const (
	SignInLasts = 14 * 24 * time.Hour
	SignInIdles = 3 * 24 * time.Hour
)

// SignIn is one place where somebody is signed in.
type SignIn struct {
	ID        SignInID `gorm:"default:gen_random_uuid()"`
	AccountID AccountID
	MemberID  *MemberID // of the workspace at hand; nil where they are a member of none
	MadeAt    time.Time `gorm:"default:now()"`
	SeenAt    time.Time `gorm:"default:now()"`
	ProvenAt  time.Time `gorm:"default:now()"` // when the password was given last
	Visitor   string    // from where
	Agent     string    // by what program, as it says itself
}

// AddSignIn signs an account in: to the workspace where it was last, or joined first.
func (s *Store) AddSignIn(ctx context.Context, in SignIn) (SignIn, error) {
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if in.MemberID == nil {
			err := tx.Raw(`select m.id from members m left join sign_ins i on i.member_id = m.id
				where m.account_id = ? and m.left_at is null order by i.seen_at desc nulls last, m.id limit 1`, in.AccountID).Scan(&in.MemberID).Error
			if err != nil {
				return err
			}
		}
		return tx.Create(&in).Error
	})
	return in, err
}

// seenEvery is how exactly is kept when somebody was seen last.
const seenEvery = time.Minute

// SignedIn is who is signed in, with the workspace at hand. [ErrNotFound] if that was
// ended, or has run out; a member without a workspace, whose id is 0, is in none now.
func (s *Store) SignedIn(ctx context.Context, id SignInID) (Member, SignIn, error) {
	var m Member
	var in SignIn
	err := s.pool.QueryRow(ctx, `select i.id::text, i.account_id, i.made_at, i.seen_at, i.proven_at, i.visitor, i.agent, a.email, a.name,
			coalesce(m.id, 0), coalesce(m.workspace_id, 0), coalesce(m.role, ''), coalesce(m.may_export, false), coalesce(w.name, ''),
			coalesce(w.picture_sites, '[]'), (select count(*) from members o where o.account_id = a.id and o.left_at is null),
			coalesce(w.second_asked, false), a.totp_secret is not null
		from sign_ins i join accounts a on a.id = i.account_id
		left join members m on m.account_id = a.id and m.left_at is null and m.id = coalesce(
			(select id from members h where h.id = i.member_id and h.left_at is null),
			(select min(id) from members o where o.account_id = a.id and o.left_at is null))
		left join workspaces w on w.id = m.workspace_id
		where i.id = $1 and i.made_at > now() - $2::interval and i.seen_at > now() - $3::interval`,
		uuid(string(id)), SignInLasts, SignInIdles).Scan(&in.ID, &in.AccountID, &in.MadeAt, &in.SeenAt, &in.ProvenAt,
		&in.Visitor, &in.Agent,
		&m.Email, &m.Name, &m.ID, &m.WorkspaceID, &m.Role, &m.MayExport, &m.Workspace, &m.PictureSites, &m.Workspaces,
		&m.SecondAsked, &m.Second)
	if errors.Is(err, pgx.ErrNoRows) {
		return m, in, ErrNotFound
	}
	if err != nil {
		return m, in, err
	}
	m.AccountID = in.AccountID
	if time.Since(in.SeenAt) > seenEvery {
		_, err = s.pool.Exec(ctx, "update sign_ins set seen_at = now() where id = $1", uuid(string(id)))
	}
	return m, in, err
}

// Prove notes that the password was given again where somebody is signed in.
func (s *Store) Prove(ctx context.Context, id SignInID) error {
	_, err := s.pool.Exec(ctx, "update sign_ins set proven_at = now() where id = $1", uuid(string(id)))
	return err
}

// Switch goes on in another workspace of the account; [ErrNotFound] if it is no member there.
func (s *Store) Switch(ctx context.Context, id SignInID, to WorkspaceID) error {
	done, err := s.pool.Exec(ctx, `update sign_ins i set member_id = m.id from members m
		where i.id = $1 and m.account_id = i.account_id and m.workspace_id = $2 and m.left_at is null`, uuid(string(id)), to)
	if err == nil && done.RowsAffected() == 0 {
		return ErrNotFound
	}
	return err
}

// SignIns are the places where an account is signed in, the last one seen first.
func (s *Store) SignIns(ctx context.Context, of AccountID) ([]SignIn, error) {
	var out []SignIn
	return out, s.db.WithContext(ctx).Where("account_id = ? and made_at > ? and seen_at > ?", of,
		time.Now().Add(-SignInLasts),
		time.Now().Add(-SignInIdles)).Order("seen_at desc").Find(&out).Error
}

// EndSignIn ends one sign-in of an account.
func (s *Store) EndSignIn(ctx context.Context, of AccountID, id SignInID) error {
	return s.db.WithContext(ctx).Exec("delete from sign_ins where account_id = ? and id = ?", of, uuid(string(id))).Error
}

// EndOtherSignIns ends all sign-ins of an account but one, "" for all.
func (s *Store) EndOtherSignIns(ctx context.Context, of AccountID, but SignInID) error {
	return s.db.WithContext(ctx).Exec("delete from sign_ins where account_id = ? and id is distinct from ?", of,
		uuid(string(but))).Error
}

// EndAllSignIns ends the sign-ins of everybody.
func (s *Store) EndAllSignIns(ctx context.Context) error {
	_, err := s.pool.Exec(ctx, "delete from sign_ins")
	return err
}

// sweepSignIns deletes what has run out.
func (s *Store) sweepSignIns(ctx context.Context) error {
	if _, err := s.pool.Exec(ctx,
		"delete from sign_ins where made_at < now() - $1::interval or seen_at < now() - $2::interval",
		SignInLasts, SignInIdles); err != nil {
		return err
	}
	for _, q := range []string{
		"delete from tokens where expires_at < now()",
		"delete from invitations where expires_at < now() - interval '30 days'",
		"delete from outbox where workspace_id is null and made_at < now() - interval '30 days'",
	} {
		if _, err := s.pool.Exec(ctx, q); err != nil {
			return err
		}
	}
	return nil
}
