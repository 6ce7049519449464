package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
)

// TokenKind is what an address is for that is good once.
type TokenKind string

// The kinds of addresses.
const (
	First      TokenKind = "first"      // to make the first workspace and its owner
	Invitation TokenKind = "invitation" // to become a member
	Reset      TokenKind = "reset"      // to set another password
	NewAddress TokenKind = "address"    // to sign in with another e-mail address
	KeepFactor TokenKind = "factor"     // to keep a second factor that is to go
)

// How long addresses are good.
const (
	ResetLasts      = time.Hour
	NewAddressLasts = time.Hour
	InvitationLasts = 7 * 24 * time.Hour
	FirstLasts      = 24 * time.Hour
)

// FactorWaits is how long a second factor stays after its owner asked by mail to be rid of
// it: so long can they notice that it was not them.
const FactorWaits = 72 * time.Hour

// Token is what an address leads to.
type Token struct {
	Kind       TokenKind
	Account    AccountID    // of one to set another password, or to change the address
	Email      string       // the address that is to be the account's
	Invitation InvitationID // of one to become a member
}

func tokenHash(secret string) []byte {
	sum := sha256.Sum256([]byte(secret))
	return sum[:]
}

// AddToken makes the secret of an address that is good for so long. It is known to whom
// it is handed alone: what is kept is a hash.
func (s *Store) AddToken(ctx context.Context, t Token, lasts time.Duration) (secret string, err error) {
	random := make([]byte, 24)
	rand.Read(random)
	secret = base64.RawURLEncoding.EncodeToString(random)
	_, err = s.pool.Exec(ctx, `insert into tokens (hash, kind, account_id, invitation_id, email, expires_at)
		values ($1, $2, nullif($3, 0), nullif($4, 0), $5, now() + $6::interval)`, tokenHash(secret), string(t.Kind), int64(t.Account),
		int64(t.Invitation), t.Email, lasts)
	return secret, err
}

// Token is what a secret is for; [ErrNotFound] for one that was used, or has run out.
func (s *Store) Token(ctx context.Context, kind TokenKind, secret string) (Token, error) {
	return scanToken(s.pool.QueryRow(ctx, `select kind, coalesce(account_id, 0), coalesce(invitation_id, 0), email from tokens
		where hash = $1 and kind = $2 and expires_at > now()`, tokenHash(secret), string(kind)))
}

// useToken takes a secret out of use; [ErrNotFound] for one that is not good, so that of
// two who use one at once a single one does.
func useToken(ctx context.Context, tx pgx.Tx, kind TokenKind, secret string) (Token, error) {
	return scanToken(tx.QueryRow(ctx, `delete from tokens where hash = $1 and kind = $2 and expires_at > now()
		returning kind, coalesce(account_id, 0), coalesce(invitation_id, 0), email`, tokenHash(secret), string(kind)))
}

func scanToken(row pgx.Row) (t Token, err error) {
	err = row.Scan(&t.Kind, &t.Account, &t.Invitation, &t.Email)
	if errors.Is(err, pgx.ErrNoRows) {
		err = ErrNotFound
	}
	return t, err
}

// ResetPassword sets another password by the secret of an address, once, and ends all
// sign-ins of its account. Of who has lost the second factor as well, that goes after
// [FactorWaits]; asking again does not put it off.
func (s *Store) ResetPassword(ctx context.Context, secret, hash string, lost bool) (AccountID, error) {
	var of AccountID
	return of, pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		t, err := useToken(ctx, tx, Reset, secret)
		if err != nil {
			return err
		}
		of = t.Account
		if lost {
			_, err := tx.Exec(ctx, `update accounts set factor_off_at = coalesce(factor_off_at, now() + $2::interval)
				where id = $1 and totp_secret is not null`, int64(t.Account), FactorWaits)
			if err != nil {
				return err
			}
		}
		const changed = "update accounts set password_hash = $2, password_at = now() where id = $1"
		if _, err := tx.Exec(ctx, changed, t.Account, hash); err != nil {
			return err
		}
		for _, q := range []string{
			"delete from sign_ins where account_id = $1",
			"delete from tokens where account_id = $1 and kind in ('reset', 'address')",
		} {
			if _, err := tx.Exec(ctx, q, t.Account); err != nil {
				return err
			}
		}
		return nil
	})
}

// ChangeAddress gives an account the e-mail address that a secret proves, once, and takes
// back what was sent to the one before. [ErrConflict] if another account has it by now.
func (s *Store) ChangeAddress(ctx context.Context, secret string) (before Account, err error) {
	return before, pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		t, err := useToken(ctx, tx, NewAddress, secret)
		if err != nil {
			return err
		}
		err = tx.QueryRow(ctx, "select id, email, name from accounts where id = $1 for update", t.Account).
			Scan(&before.ID, &before.Email, &before.Name)
		if err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, "update accounts set email = $2 where id = $1", t.Account, t.Email); err != nil {
			return plain(err)
		}
		_, err = tx.Exec(ctx, "delete from tokens where account_id = $1", t.Account)
		return err
	})
}

// Founding is the first workspace and its owner.
type Founding struct{ Workspace, Email, Name, PasswordHash string }

// Found makes the first workspace and its owner by the secret of an address, once.
func (s *Store) Found(ctx context.Context, secret string, f Founding) (Member, error) {
	m := Member{Email: address(f.Email), Name: f.Name, Role: Owner, Workspace: f.Workspace}
	return m, pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		if _, err := useToken(ctx, tx, First, secret); err != nil {
			return err
		}
		if err := tx.QueryRow(ctx, "insert into workspaces (name) values ($1) returning id",
			f.Workspace).Scan(&m.WorkspaceID); err != nil {
			return err
		}
		err := tx.QueryRow(ctx, "insert into accounts (email, name, password_hash) values ($1, $2, $3) returning id", m.Email,
			m.Name,
			f.PasswordHash).Scan(&m.AccountID)
		if err != nil {
			return err
		}
		_, err = tx.Exec(ctx, "delete from tokens where kind = 'first'")
		if err != nil {
			return err
		}
		return tx.QueryRow(ctx, `insert into members (workspace_id, account_id, email, name, password_hash, role)
			values ($1, $2, $3, $4, $5, 'owner') returning id`, m.WorkspaceID, m.AccountID, m.Email, m.Name, f.PasswordHash).Scan(&m.ID)
	})
}
