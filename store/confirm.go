package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// asksAnew notes that a change came with another address, which is to be confirmed.
func (in InForm) asksAnew(tx *gorm.DB, was, is Response) error {
	if is.ConfirmBy == nil || was.ConfirmBy != nil && was.ConfirmBy.Equal(*is.ConfirmBy) {
		return nil
	}
	return tx.Exec(`update responses set confirm_by = @by, confirm_from = case when confirm_by is null
			then (select max(number) from response_versions where response_id = @id) else confirm_from end where id = @id`,
		map[string]any{"by": is.ConfirmBy, "id": uuid(was.ID)}).Error
}

// Confirm notes that the address of a response is confirmed, if fits says that it is the one
// that it has now, and writes what goes out of it then: of its receipt, or of its change from
// the answers before. It reports whether it is so now, or was before: not for a response that
// is not there, or no longer to be confirmed in time.
func (in InForm) Confirm(
	ctx context.Context, id string, at time.Time, fits func(Response) bool,
	goes func(before []byte, now Response) ([]Letter, error),
) (confirmed bool, err error) {
	err = in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var r Response
		err := plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Scopes(in.ofForm).Where("id = ?",
			uuid(id)).First(&r).Error)
		switch {
		case errors.Is(err, ErrNotFound), err == nil && r.WithdrawnAt != nil:
			return nil
		case err != nil:
			return err
		case !fits(r):
			return nil
		case r.ConfirmBy == nil:
			confirmed = r.ConfirmedAt != nil
			return nil
		case r.ConfirmBy.Before(at) && r.ConfirmedAt == nil:
			return nil
		}
		var before []byte
		if r.ConfirmFrom != nil {
			err := tx.Raw("select answers from response_versions where response_id = ? and number = ?", uuid(id),
				*r.ConfirmFrom).Row().Scan(&before)
			if err != nil {
				return err
			}
		}
		letters, err := goes(before, r)
		if err != nil {
			return err
		}
		if err := tx.Exec("update responses set confirm_by = null, confirm_from = null, confirmed_at = ? where id = ?", at,
			id).Error; err != nil {
			return err
		}
		confirmed = true
		return in.follows(tx, id, letters, at)
	})
	if err == nil && confirmed {
		in.store.wake()
	}
	return confirmed, err
}

// AskAgain sends the letter that asks for an address to be confirmed once more, unless
// that was done so often already, or just now.
func (in InForm) AskAgain(ctx context.Context, id, message string, at time.Time, most int) error {
	done := in.store.db.WithContext(ctx).Exec(`insert into outbox (`+letterColumns+`)
		select o.workspace_id, o.form_id, response_id, o.edition, message, name, recipient, answered, reply_to, subject, body, attach,
			o.language, 'Sent again, since its recipient asked for it.', false, 'waiting', @at, @at, '', null, kind
		from outbox o join responses r on r.id = o.response_id
		where o.response_id = @id and o.form_id = @form and o.workspace_id = @workspace and message = @message and r.confirm_by > @at
			and (select count(*) from outbox p where p.response_id = @id and p.message = @message) < @most
			and not exists (select 1 from outbox p where p.response_id = @id and p.message = @message and p.made_at > @just)
		order by o.id desc limit 1`,
		map[string]any{"id": uuid(id), "form": in.form, "workspace": in.workspace, "message": message, "at": at, "most": most,
			"just": at.Add(-time.Minute)})
	switch {
	case done.Error != nil:
		return done.Error
	case done.RowsAffected == 0:
		return ErrTooOften
	}
	in.store.wake()
	return nil
}

// sweepUnconfirmed deletes responses whose address was not confirmed in time, with what is
// theirs, so many at a time. One that was confirmed once stays: a new address that is
// mistyped must not cost it.
func (s *Store) sweepUnconfirmed(ctx context.Context) error {
	var late []Response
	err := s.db.WithContext(ctx).Select("id, workspace_id, form_id").
		Where("confirm_by < now() and confirmed_at is null").
		Order("confirm_by").Limit(500).Find(&late).Error
	for _, r := range late {
		if err == nil {
			err = s.InWorkspace(r.WorkspaceID).Form(r.FormID).DeleteResponse(ctx, r.ID)
		}
		if errors.Is(err, ErrNotFound) { // its respondent, or another copy, was quicker
			err = nil
		}
	}
	return err
}
