package store

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"
)

// Account is somebody who can sign in, to the workspaces that they are a member of.
type Account struct {
	ID           AccountID
	Email        string
	Name         string
	PasswordHash string
	PasswordAt   time.Time  `gorm:"default:now()"` // when it was set
	TOTPSecret   []byte     `gorm:"column:totp_secret"`
	TOTPAsked    []byte     `gorm:"column:totp_asked"` // a secret that is being set up
	FactorOffAt  *time.Time // when the second factor goes, as was asked by mail
	Recovery     []string   `gorm:"type:jsonb;serializer:json"`
	MadeAt       time.Time  `gorm:"default:now()"`
}

// Second reports whether signing in asks for a second factor.
func (a Account) Second() bool { return len(a.TOTPSecret) > 0 }

// address is an e-mail address as accounts are found by it.
func address(email string) string { return strings.ToLower(strings.TrimSpace(email)) }

// AddAccount adds an account; [ErrConflict] if the e-mail address has one.
func (s *Store) AddAccount(ctx context.Context, a Account) (Account, error) {
	a.Email = address(a.Email)
	if a.Recovery == nil {
		a.Recovery = []string{}
	}
	return a, plain(s.db.WithContext(ctx).Create(&a).Error)
}

// AccountByEmail finds who signs in with an e-mail address.
func (s *Store) AccountByEmail(ctx context.Context, email string) (Account, error) {
	var a Account
	return a, plain(s.db.WithContext(ctx).Where("email = ?", address(email)).First(&a).Error)
}

// Account finds an account.
func (s *Store) Account(ctx context.Context, id AccountID) (Account, error) {
	var a Account
	return a, plain(s.db.WithContext(ctx).First(&a, id).Error)
}

// HasAccounts reports whether anybody can sign in.
func (s *Store) HasAccounts(ctx context.Context) (bool, error) {
	var n int64
	err := s.db.WithContext(ctx).Model(&Account{}).Limit(1).Count(&n).Error
	return n > 0, err
}

// DeleteAccount deletes an account with its memberships; what its owner made stays, without
// their name. [ErrLastOwner] keeps each workspace an owner.
func (s *Store) DeleteAccount(ctx context.Context, id AccountID) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		all, err := s.Memberships(ctx, id)
		if err != nil {
			return err
		}
		for _, m := range all {
			if err := s.InWorkspace(m.WorkspaceID).lockOwners(tx, m.ID, false); err != nil {
				return err
			}
		}
		done := tx.Delete(&Account{}, id)
		if done.Error == nil && done.RowsAffected == 0 {
			return ErrNotFound
		}
		return done.Error
	})
}

// Rename gives an account another name, which its memberships follow.
func (s *Store) Rename(ctx context.Context, id AccountID, name string) error {
	return s.db.WithContext(ctx).Model(&Account{ID: id}).Update("name", name).Error
}

// SetPassword gives an account another password, by its hash. It ends all of its sign-ins
// but one, "" for all, and what was sent to set another.
func (s *Store) SetPassword(ctx context.Context, id AccountID, hash string, but SignInID) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		done := tx.Model(&Account{ID: id}).Updates(map[string]any{"password_hash": hash, "password_at": gorm.Expr("now()")})
		if done.Error == nil && done.RowsAffected == 0 {
			return ErrNotFound
		}
		if done.Error != nil {
			return done.Error
		}
		if err := tx.Exec("delete from tokens where kind in ('reset', 'address') and account_id = ?", id).Error; err != nil {
			return err
		}
		return tx.Exec("delete from sign_ins where account_id = ? and id is distinct from ?", id, uuid(string(but))).Error
	})
}

// AskTOTP keeps the secret of a second factor that is being set up.
func (s *Store) AskTOTP(ctx context.Context, id AccountID, secret []byte) error {
	return s.db.WithContext(ctx).Model(&Account{ID: id}).Update("totp_asked", secret).Error
}

// SetTOTP gives an account a second factor, with the hashes of the codes that stand in
// for it; none takes it away. The code of a period was used to set it up.
func (s *Store) SetTOTP(ctx context.Context, id AccountID, secret []byte, recovery []string, used int64) error {
	return s.db.WithContext(ctx).Model(&Account{ID: id}).Select("totp_secret", "totp_asked", "recovery", "totp_step",
		"factor_off_at").
		Updates(map[string]any{
			"totp_secret": secret, "totp_asked": nil, "factor_off_at": nil, "recovery": gorm.Expr("?::jsonb", jsonOf(recovery)),
			"totp_step": used,
		}).Error
}

// KeepFactor lets the second factor of an account stay, whose owner had asked to be rid of
// it; it reports whether they had.
func (s *Store) KeepFactor(ctx context.Context, id AccountID) (bool, error) {
	done := s.db.WithContext(ctx).Exec("update accounts set factor_off_at = null where id = ? and factor_off_at is not null", id)
	return done.RowsAffected == 1, done.Error
}

// KeepFactorBy is KeepFactor by the secret of an address, which is then used.
func (s *Store) KeepFactorBy(ctx context.Context, secret string) (AccountID, error) {
	var of AccountID
	return of, pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		t, err := useToken(ctx, tx, KeepFactor, secret)
		if err != nil {
			return err
		}
		of = t.Account
		_, err = tx.Exec(ctx, "update accounts set factor_off_at = null where id = $1", int64(t.Account))
		return err
	})
}

// LetFactorGo takes off a second factor whose time is over; it reports whether it was.
func (s *Store) LetFactorGo(ctx context.Context, id AccountID, now time.Time) (bool, error) {
	done := s.db.WithContext(ctx).Exec(`update accounts set totp_secret = null, totp_asked = null, recovery = '[]', totp_step = 0, factor_off_at = null
		where id = ? and factor_off_at <= ?`, id, now)
	return done.RowsAffected == 1, done.Error
}

// UseStep notes that the code of a period was used; false if it, or a later one, was.
func (s *Store) UseStep(ctx context.Context, id AccountID, step int64) (bool, error) {
	done := s.db.WithContext(ctx).Exec("update accounts set totp_step = ? where id = ? and totp_step < ?", step, id, step)
	return done.RowsAffected == 1, done.Error
}

// UseRecovery takes out a code that stands in for the second factor; false if it is none.
func (s *Store) UseRecovery(ctx context.Context, id AccountID, hash string) (bool, error) {
	done := s.db.WithContext(ctx).
		Exec("update accounts set recovery = recovery - ?::text where id = ? and jsonb_exists(recovery, ?)", hash, id, hash)
	return done.RowsAffected == 1, done.Error
}

// WriteToAccount puts a letter into the outbox that is of no workspace, and shown in none.
func (s *Store) WriteToAccount(ctx context.Context, l Letter, now time.Time) error {
	l.State, l.DueAt, l.MadeAt = Waiting, now, now
	err := s.db.WithContext(ctx).Omit("workspace_id", "form_id").Create(&l).Error
	if err == nil {
		s.wake()
	}
	return err
}

// WriteInvitation puts the letter of an invitation into the outbox of its workspace.
func (in InWorkspace) WriteInvitation(ctx context.Context, l Letter, now time.Time) error {
	l.WorkspaceID, l.State, l.DueAt, l.MadeAt = in.workspace, Waiting, now, now
	err := in.store.db.WithContext(ctx).Omit("form_id").Create(&l).Error
	if err == nil {
		in.store.wake()
	}
	return err
}

// What the private address of a letter is for: followed by an id, and the e-mail address
// that is to be the account's.
const (
	AboutReset      = "reset "
	AboutInvitation = "invitation "
	AboutAddress    = "address "
	AboutFactor     = "factor "
)

// AddressFor makes the address that a letter gives to its recipient: its path, "" where
// what it is for is there no more.
func (s *Store) AddressFor(ctx context.Context, about string) (string, error) {
	var t Token
	var path string
	var lasts time.Duration
	kind, number, _ := strings.Cut(about, " ")
	number, email, _ := strings.Cut(number, " ")
	id, err := strconv.ParseInt(number, 10, 64)
	if err != nil {
		return "", err
	}
	switch kind + " " {
	case AboutReset:
		t, path, lasts = Token{Kind: Reset, Account: AccountID(id)}, "/reset/", ResetLasts
	case AboutInvitation:
		t, path, lasts = Token{Kind: Invitation, Invitation: InvitationID(id)}, "/join/", InvitationLasts
	case AboutFactor:
		t, path, lasts = Token{Kind: KeepFactor, Account: AccountID(id)}, "/factor/", FactorWaits
	case AboutAddress:
		t, path, lasts = Token{Kind: NewAddress, Account: AccountID(id), Email: address(email)}, "/address/", NewAddressLasts
	default:
		return "", fmt.Errorf("a letter is about %q, which is nothing to make an address for", about)
	}
	secret, err := s.AddToken(ctx, t, lasts)
	if says(err, foreignKeyViolation) {
		return "", nil
	}
	return path + secret, err
}
