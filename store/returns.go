package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
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
	Filling    *string             // which filling it is
	Ticket     string              // what the page gave, kept as it is
	Page       string              // the page at hand when it was left
	Fields     map[string][]string `gorm:"type:jsonb;serializer:json"` // what was posted, by field
	ExpiresAt  time.Time
	MadeAt     time.Time `gorm:"default:now()"`
	ByLetter   bool      // a letter gave it, which can't be read again on a page
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
	if r.Filling != nil && *r.Filling == "" {
		r.Filling = nil
	}
	if r.Fields == nil {
		r.Fields = map[string][]string{}
	}
	return secret, s.db.WithContext(ctx).Create(&r).Error
}

// AddFirstReturn is AddReturn for a response that has no way back yet; secret is "" for
// one that has. Of several at once one makes it.
func (s *Store) AddFirstReturn(ctx context.Context, r Return) (secret string, err error) {
	err = s.withResponse(ctx, *r.ResponseID, func(tx *gorm.DB) error {
		var there bool
		if err := tx.Raw("select exists (select 1 from returns where response_id = ? and not by_letter)",
			r.ResponseID).Scan(&there).Error; err != nil || there {
			return err
		}
		secret, err = (&Store{db: tx}).AddReturn(ctx, r)
		return err
	})
	return secret, err
}

// RenewReturn makes a new way back to a response; those there were lead nowhere from
// then on, but for those that letters gave.
func (s *Store) RenewReturn(ctx context.Context, r Return) (secret string, err error) {
	err = s.withResponse(ctx, *r.ResponseID, func(tx *gorm.DB) error {
		if err := tx.Exec("delete from returns where response_id = ? and not by_letter", r.ResponseID).Error; err != nil {
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

// nameFillings notes which fillings ways back lead to that a copy of the version before made
// while this one was put in its place: it said so in the ticket alone.
func (s *Store) nameFillings(ctx context.Context) error {
	var ways []Return
	if err := s.db.WithContext(ctx).Select("id, ticket").Where("filling is null and made_at > now() - interval '7 days'").Limit(1000).Find(&ways).Error; err != nil {
		return err
	}
	for _, way := range ways {
		var of struct{ N string }
		if err := json.Unmarshal([]byte(way.Ticket), &of); err != nil || !uuid(of.N).Valid {
			continue
		}
		if err := s.db.WithContext(ctx).Exec("update returns set filling = ? where id = ?", of.N, way.ID).Error; err != nil {
			return err
		}
	}
	return nil
}
