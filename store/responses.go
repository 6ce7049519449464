package store

import (
	"context"
	"time"
)

// Response is what one respondent sent.
type Response struct {
	ID          string `gorm:"default:gen_random_uuid()"`
	WorkspaceID int64
	FormID      int64
	Edition     int
	Answers     []byte `gorm:"type:jsonb"`
	Parameters  []byte `gorm:"type:jsonb"`
	ReceivedAt  time.Time
	Filling     string // one filling of the form; a second response of it is not stored
}

// AddResponse stores a response, once for each filling; it reports whether it
// was new.
func (s *Store) AddResponse(ctx context.Context, r Response) (added bool, err error) {
	tag, err := s.pool.Exec(ctx, `insert into responses (workspace_id, form_id, edition, answers, parameters, received_at, filling)
		values ($1, $2, $3, $4, $5, $6, $7) on conflict (filling) do nothing`,
		r.WorkspaceID, r.FormID, r.Edition, r.Answers, r.Parameters, r.ReceivedAt, r.Filling)
	return err == nil && tag.RowsAffected() == 1, err
}

// AddResponseWithin is AddResponse for a form that takes at most limit responses.
// Full is true, and nothing stored, if the form has them all. The form's row is
// locked meanwhile, so that the limit holds under concurrent submissions.
func (s *Store) AddResponseWithin(ctx context.Context, r Response, limit int) (added, full bool, err error) {
	tx, err := s.pool.Begin(ctx)
	if err != nil {
		return false, false, err
	}
	defer tx.Rollback(context.WithoutCancel(ctx)) //nolint:errcheck // without effect after the commit
	if _, err := tx.Exec(ctx, "select 1 from forms where id = $1 for update", r.FormID); err != nil {
		return false, false, err
	}
	var n int
	var again bool
	err = tx.QueryRow(ctx, "select count(*), coalesce(bool_or(filling = $2), false) from responses where form_id = $1", r.FormID, r.Filling).Scan(&n, &again)
	switch {
	case err != nil:
		return false, false, err
	case again:
		return false, false, nil
	case n >= limit:
		return false, true, nil
	}
	_, err = tx.Exec(ctx, `insert into responses (workspace_id, form_id, edition, answers, parameters, received_at, filling)
		values ($1, $2, $3, $4, $5, $6, $7)`, r.WorkspaceID, r.FormID, r.Edition, r.Answers, r.Parameters, r.ReceivedAt, r.Filling)
	if err != nil {
		return false, false, err
	}
	return true, false, tx.Commit(ctx)
}

// CountResponses counts the responses of a form.
func (s *Store) CountResponses(ctx context.Context, formID int64) (int, error) {
	var n int64
	return int(n), s.db.WithContext(ctx).Model(&Response{}).Where("form_id = ?", formID).Count(&n).Error
}

// Responses lists a form's responses, the newest first, from an offset.
func (s *Store) Responses(ctx context.Context, workspace, formID int64, offset, limit int) ([]Response, error) {
	var out []Response
	return out, s.db.WithContext(ctx).Where("workspace_id = ? and form_id = ?", workspace, formID).
		Order("received_at desc, id").Offset(offset).Limit(limit).Find(&out).Error
}

// EachResponse visits a form's responses, the oldest first, without holding all
// of them in memory.
func (s *Store) EachResponse(ctx context.Context, workspace, formID int64, visit func(Response) error) error {
	rows, err := s.db.WithContext(ctx).Model(&Response{}).Where("workspace_id = ? and form_id = ?", workspace, formID).
		Order("received_at, id").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var r Response
		if err := s.db.ScanRows(rows, &r); err != nil {
			return err
		}
		if err := visit(r); err != nil {
			return err
		}
	}
	return rows.Err()
}

// ResponseByID finds a response of a form.
func (s *Store) ResponseByID(ctx context.Context, workspace, formID int64, id string) (Response, error) {
	var r Response
	return r, plain(s.db.WithContext(ctx).Where("workspace_id = ? and form_id = ? and id::text = ?", workspace, formID, id).First(&r).Error)
}

// ResponseEditions lists the numbers of the editions that a form's responses belong to.
func (s *Store) ResponseEditions(ctx context.Context, workspace, formID int64) ([]int, error) {
	var out []int
	return out, s.db.WithContext(ctx).Model(&Response{}).Where("workspace_id = ? and form_id = ?", workspace, formID).
		Distinct("edition").Order("edition").Pluck("edition", &out).Error
}
