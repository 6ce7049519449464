package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"time"

	"gorm.io/gorm"
)

// Return is a private address by which a respondent comes back to a filling that
// was left or, with a ResponseID, to a response to change it.
type Return struct {
	ID         string `gorm:"default:gen_random_uuid()"`
	SecretHash []byte
	FormID     FormID
	ResponseID *string
	Ticket     string // the filling's ticket, as JSON
	Page       string // the page at hand when it was left
	Fields     []byte `gorm:"type:jsonb"` // what was posted, by field
	ExpiresAt  time.Time
	MadeAt     time.Time `gorm:"default:now()"`
}

// TableName keeps gorm from guessing.
func (Return) TableName() string { return "returns" }

func hashOf(secret string) []byte {
	sum := sha256.Sum256([]byte(secret))
	return sum[:]
}

// AddReturn stores a way back and gives the secret of its address, which is kept
// nowhere else.
func (s *Store) AddReturn(ctx context.Context, r Return) (secret string, err error) {
	var b [20]byte
	rand.Read(b[:])
	secret = base64.RawURLEncoding.EncodeToString(b[:])
	r.SecretHash = hashOf(secret)
	if len(r.Fields) == 0 {
		r.Fields = []byte("{}")
	}
	return secret, s.db.WithContext(ctx).Create(&r).Error
}

// AddFirstReturn is AddReturn for a response that has no way back yet; secret is "" for
// one that has. Of several at once one makes it.
func (s *Store) AddFirstReturn(ctx context.Context, r Return) (secret string, err error) {
	err = s.withResponse(ctx, *r.ResponseID, func(tx *gorm.DB) error {
		var there bool
		if err := tx.Raw("select exists (select 1 from returns where response_id = ?)", r.ResponseID).Scan(&there).Error; err != nil || there {
			return err
		}
		secret, err = (&Store{db: tx}).AddReturn(ctx, r)
		return err
	})
	return secret, err
}

// RenewReturn makes a new way back to a response; those there were lead nowhere from
// then on.
func (s *Store) RenewReturn(ctx context.Context, r Return) (secret string, err error) {
	err = s.withResponse(ctx, *r.ResponseID, func(tx *gorm.DB) error {
		if err := tx.Exec("delete from returns where response_id = ?", r.ResponseID).Error; err != nil {
			return err
		}
		secret, err = (&Store{db: tx}).AddReturn(ctx, r)
		return err
	})
	return secret, err
}

// withResponse holds a response while its ways back are looked at.
func (s *Store) withResponse(ctx context.Context, id string, do func(tx *gorm.DB) error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("select 1 from responses where id = ? for update", id).Error; err != nil {
			return err
		}
		return do(tx)
	})
}

// ReturnBySecret finds a way back that has not expired.
func (s *Store) ReturnBySecret(ctx context.Context, secret string) (Return, error) {
	var r Return
	return r, plain(s.db.WithContext(ctx).Where("secret_hash = ? and expires_at > now()", hashOf(secret)).First(&r).Error)
}

// Uncount takes back what Count added.
func (s *Store) Uncount(ctx context.Context, key string, at time.Time) error {
	_, err := s.pool.Exec(ctx, "update public_counts set n = n - 1 where key = $1 and minute = $2", key, at.Truncate(time.Minute))
	return err
}

// Count adds one to what a key did in this minute and returns how much that is.
func (s *Store) Count(ctx context.Context, key string, at time.Time) (n int, err error) {
	return s.CountBy(ctx, key, at, 1)
}

// CountBy is Count for more than one, or for none, to look.
func (s *Store) CountBy(ctx context.Context, key string, at time.Time, by int) (n int, err error) {
	err = s.pool.QueryRow(ctx, `insert into public_counts (key, minute, n) values ($1, $2, $3)
		on conflict (key, minute) do update set n = public_counts.n + $3 returning n`, key, at.Truncate(time.Minute), by).Scan(&n)
	return n, err
}
