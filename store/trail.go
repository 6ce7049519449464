package store

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"
)

// TrailStep is one line of the trail: who did what, and from where. It is added to, and not
// changed; no answer stands in it.
type TrailStep struct {
	ID          int64        `json:"id"`
	WorkspaceID *WorkspaceID `json:"-"`
	AccountID   *AccountID   `json:"-"` // nil for what nobody who is signed in did
	Who         string       `json:"who,omitempty"`
	Act         string       `json:"act"`
	FormID      *FormID      `json:"form_id,omitempty"`
	Form        string       `json:"form,omitempty"`
	Response    string       `json:"response,omitempty"`
	Detail      string       `json:"detail,omitempty"`
	Visitor     string       `json:"visitor"` // the address that it was asked from
	Request     string       `json:"request,omitempty"`
	At          time.Time    `json:"at" gorm:"default:now()"`
}

// TableName is the table that the trail stands in.
func (TrailStep) TableName() string { return "trail" }

// AddStep puts a line on the trail.
func (s *Store) AddStep(ctx context.Context, step TrailStep) error {
	return s.db.WithContext(ctx).Create(&step).Error
}

// TryStep reports why a line could not be put on the trail, which stays as it is.
func (s *Store) TryStep(ctx context.Context, step TrailStep) error {
	tx := s.db.WithContext(ctx).Begin()
	if tx.Error != nil {
		return tx.Error
	}
	defer tx.Rollback()
	return tx.Create(&step).Error
}

// oneLook is for how long looks of one person at one form are one line.
const oneLook = 10 * time.Minute

// AddLook puts a line on the trail, unless the same person did the same with the same form
// shortly before, from the same address: a table and its summary are one look.
func (s *Store) AddLook(ctx context.Context, step TrailStep) error {
	var n int64
	err := s.db.WithContext(ctx).Model(&TrailStep{}).Where("account_id = ? and act = ? and form_id = ? and visitor = ? and at > ?",
		step.AccountID, step.Act, step.FormID, step.Visitor, time.Now().Add(-oneLook)).Limit(1).Count(&n).Error
	if err != nil || n > 0 {
		return err
	}
	return s.AddStep(ctx, step)
}

// Trail is which lines are looked at.
type Trail struct {
	Act    string // "" for all
	Who    string // part of a name or address, "" for all
	Form   FormID // 0 for all
	Before int64  // those older than this one, 0 for the newest
	Limit  int
}

func (in InWorkspace) trail(db *gorm.DB, t Trail) *gorm.DB {
	q := db.Model(&TrailStep{}).Scopes(in.ofWorkspace)
	if t.Act != "" {
		q = q.Where("act = ?", t.Act)
	}
	if t.Who != "" {
		q = q.Where("strpos(lower(who), lower(?)) > 0", t.Who)
	}
	if t.Form != 0 {
		q = q.Where("form_id = ?", t.Form)
	}
	if t.Before != 0 {
		q = q.Where("id < ?", t.Before)
	}
	return q.Order("id desc")
}

// Trail are lines of the workspace's trail, the newest first.
func (in InWorkspace) Trail(ctx context.Context, t Trail) ([]TrailStep, error) {
	var out []TrailStep
	return out, in.store.late(ctx, func(db *gorm.DB) error { return in.trail(db, t).Limit(t.Limit).Find(&out).Error })
}

// AccountTrail are the newest lines of what was done with an account itself.
func (s *Store) AccountTrail(ctx context.Context, of AccountID, limit int) ([]TrailStep, error) {
	var out []TrailStep
	return out, s.db.WithContext(ctx).Where("account_id = ? and act in ('account', 'sign-in', 'sign-in-refused')",
		of).Order("id desc").Limit(limit).Find(&out).Error
}

// FewestDays and MostDays bound for how long the trail, and e-mails, are kept.
const (
	FewestDays = 30
	MostDays   = 3650
)

// KeepTrail sets how many days the workspace's trail is kept, from 30 to 3,650.
func (in InWorkspace) KeepTrail(ctx context.Context, days int) error {
	return in.store.db.WithContext(ctx).Exec("update workspaces set trail_days = ? where id = ?", days, in.workspace).Error
}

// KeepEmails sets how many days e-mails of the workspace, and what hooks were told, are kept
// after they have gone or were given up, from 30 to 3,650; nil for as long as their responses.
func (in InWorkspace) KeepEmails(ctx context.Context, days *int) error {
	return in.store.db.WithContext(ctx).Exec("update workspaces set emails_days = ? where id = ?", days,
		in.workspace).Error
}

// sweepTrail deletes what is older than is kept: a year where no workspace says otherwise.
func (s *Store) sweepTrail(ctx context.Context) error {
	return pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		for _, q := range []string{
			"delete from trail t using workspaces w where w.id = t.workspace_id and t.at < now() - make_interval(days => w.trail_days)",
			`delete from trail t where t.at < now() - interval '365 days'
				and not exists (select 1 from workspaces w where w.id = t.workspace_id)`,
		} {
			if _, err := tx.Exec(ctx, q); err != nil {
				return err
			}
		}
		return nil
	})
}
