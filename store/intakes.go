package store

import (
	"context"
	"errors"
	"time"

	googleuuid "github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"
)

// Intake is responses that are read in from elsewhere.
type Intake struct {
	ID          IntakeID
	WorkspaceID WorkspaceID
	FormID      FormID
	MemberID    *MemberID // who reads them in; nil for one who has left
	Member      string    `gorm:"->"` // that member's name, in Intakes
	Name        string    // of the file
	Data        []byte    // the file; nil once it is taken
	Edition     int       // that judges them
	Matching    []string  `gorm:"type:jsonb;serializer:json"` // the target of each column, "" for none
	MadeAt      time.Time
	TakenAt     *time.Time
	Responses   int // that were taken
	Left        int `gorm:"->"` // of those that are still there, in Intakes
}

// intakesKept is for how long what was read and not taken is kept.
const intakesKept = 24 * time.Hour

// BeginIntake keeps what is to be read in; what others left lying for a day goes.
func (in InForm) BeginIntake(ctx context.Context, i Intake) (Intake, error) {
	i.WorkspaceID, i.FormID, i.MadeAt = in.workspace, in.form, time.Now()
	db := in.store.db.WithContext(ctx)
	err := db.Where("taken_at is null and made_at < ?", time.Now().Add(-intakesKept)).Delete(&Intake{}).Error
	if err == nil {
		err = db.Omit("Member", "Left").Create(&i).Error
	}
	return i, err
}

// Intake finds what a member is reading in; ErrNotFound for what was taken.
func (in InForm) Intake(ctx context.Context, member MemberID, id IntakeID) (Intake, error) {
	var i Intake
	return i, plain(in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("id = ? and member_id = ? and taken_at is null",
		id, member).
		First(&i).Error)
}

// MatchIntake keeps what the columns are matched to.
func (in InForm) MatchIntake(ctx context.Context, i Intake) error {
	return in.store.db.WithContext(ctx).Model(&Intake{}).Scopes(in.ofForm).Where("id = ? and taken_at is null", i.ID).
		Select("matching", "edition").Updates(&i).Error
}

// Intakes are the newest that were taken, with how many of their responses are still there.
func (in InForm) Intakes(ctx context.Context, limit int) ([]Intake, error) {
	var out []Intake
	taken := in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("taken_at is not null")
	return out, taken.Order("taken_at desc").Limit(limit).
		Select(`id, name, member_id, taken_at, responses, (select name from members m where m.id = member_id) as member,
			(select count(*) from responses r where r.intake_id = intakes.id) as "left"`).Find(&out).Error
}

// DropIntake forgets what was not taken.
func (in InForm) DropIntake(ctx context.Context, member MemberID, id IntakeID) error {
	return in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("id = ? and member_id = ? and taken_at is null", id,
		member).
		Delete(&Intake{}).Error
}

// ErrReadBefore is for rows that were read in before.
var ErrReadBefore = errors.New("these were read in before")

// intakeColumns are those that are copied in.
var intakeColumns = []string{
	"workspace_id", "form_id", "edition", "answers", "parameters", "received_at", "filling", "takes", "labels",
	"overridden", "taken_by",
	"intake_id",
}

// TakeIntake stores responses that are read in, all or none. Each has a filling of its
// own: where one is there already the error is [ErrReadBefore]; NoPlaces is for a choice
// that has no place left. Next gives one after the other and then false; a connection is
// held meanwhile, so that it must not wait for anybody.
func (in InForm) TakeIntake(ctx context.Context, i Intake, next func() (Response, bool, error)) (Reception, error) {
	tx, err := in.store.pool.Begin(ctx)
	if err != nil {
		return 0, err
	}
	defer tx.Rollback(context.WithoutCancel(ctx)) //nolint:errcheck // without effect after the commit
	done, err := tx.Exec(ctx, `update intakes set taken_at = now(), data = null where id = $1 and taken_at is null
		and form_id = (select id from forms where workspace_id = $2 and id = $3)`, i.ID, in.workspace, in.form)
	if err == nil && done.RowsAffected() == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return 0, err
	}
	var failed error // which a copy that is broken off does not hand on
	n, err := tx.CopyFrom(ctx, pgx.Identifier{"responses"}, intakeColumns, pgx.CopyFromFunc(func() ([]any, error) {
		r, more, err := next()
		if err != nil || !more {
			failed = err
			return nil, err
		}
		filling, err := googleuuid.Parse(r.Filling)
		if err != nil {
			return nil, err
		}
		if r.Parameters == nil {
			r.Parameters = map[string][]string{}
		}
		return []any{
			in.workspace, in.form, i.Edition, r.Answers, r.Parameters, r.ReceivedAt, filling, orNull(r.Takes), orNull(r.Labels),
			orNullList(r.Overridden),
			i.MemberID, i.ID,
		}, nil
	}))
	switch {
	case failed != nil:
		return 0, failed
	case isNoPlaces(err):
		return NoPlaces, nil
	case says(err, uniqueViolation):
		return 0, ErrReadBefore
	case err != nil:
		return 0, err
	}
	if _, err := tx.Exec(ctx, "update intakes set responses = $2 where id = $1", i.ID, n); err != nil {
		return 0, err
	}
	return Received, tx.Commit(ctx)
}

// TakeOutIntake erases what was read in at once, but for responses that were changed or
// withdrawn since, and gives how many went.
func (in InForm) TakeOutIntake(ctx context.Context, id IntakeID) (gone int, err error) {
	return gone, in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		done := tx.Exec(`delete from responses where intake_id = ? and form_id = (select id from forms where id = ? and workspace_id = ?)
			and changed_at is null and withdrawn_at is null`, id, in.form, in.workspace)
		if gone = int(done.RowsAffected); done.Error != nil || gone == 0 {
			return done.Error
		}
		return tx.Exec("delete from exports where form_id = ?", in.form).Error // which may hold them
	})
}
