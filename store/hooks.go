package store

import (
	"context"
	"crypto/rand"
	"time"
)

// HookSecret is by what a program knows that it is Lazo who tells it something.
type HookSecret struct {
	FormID FormID `gorm:"primaryKey"`
	Hook   string `gorm:"primaryKey"` // its key
	Secret []byte
	Before []byte // the one before it, nil for none; it counts for [SecretsOverlap] longer
	MadeAt time.Time
}

// SecretsOverlap is for how long the secret before counts, so that a program can change
// to a new one.
const SecretsOverlap = 24 * time.Hour

// secretBytes is how long a secret is; Standard Webhooks ask for 24 to 64 bytes.
const secretBytes = 32

// HookSecret is the secret of a hook of the form; it is made if there is none yet.
func (in InForm) HookSecret(ctx context.Context, hook string) (HookSecret, error) {
	s := HookSecret{FormID: in.form, Hook: hook, Secret: newSecret(), MadeAt: time.Now()}
	err := in.store.db.WithContext(ctx).Exec(`insert into hook_secrets (form_id, hook, secret, made_at)
		select id, ?, ?, ? from forms where id = ? and workspace_id = ? on conflict do nothing`, hook, s.Secret, s.MadeAt, in.form, in.workspace).Error
	if err != nil {
		return s, err
	}
	var out HookSecret
	err = plain(in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("hook = ?", hook).Take(&out).Error)
	return out, err
}

// NewHookSecret makes a new secret of a hook; the one before counts for a while longer.
func (in InForm) NewHookSecret(ctx context.Context, hook string, secret []byte) (HookSecret, error) {
	if secret == nil {
		secret = newSecret()
	}
	s := HookSecret{FormID: in.form, Hook: hook, Secret: secret, MadeAt: time.Now()}
	done := in.store.db.WithContext(ctx).Exec(`insert into hook_secrets (form_id, hook, secret, made_at)
		select id, ?, ?, ? from forms where id = ? and workspace_id = ?
		on conflict (form_id, hook) do update set before = hook_secrets.secret, secret = excluded.secret, made_at = excluded.made_at`,
		hook, secret, s.MadeAt, in.form, in.workspace)
	if done.Error == nil && done.RowsAffected == 0 {
		return s, ErrNotFound
	}
	return s, done.Error
}

func newSecret() []byte {
	secret := make([]byte, secretBytes)
	rand.Read(secret)
	return secret
}

// Tell writes to the outbox what follows from no change of a response, such as a trial.
func (in InForm) Tell(ctx context.Context, l Letter) error {
	l.WorkspaceID, l.FormID = in.workspace, in.form
	err := in.store.db.WithContext(ctx).Create(&l).Error
	if err == nil {
		in.store.wake()
	}
	return err
}
