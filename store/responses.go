package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
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
	ChangedAt   *time.Time
	LinkID      *int64   // the link by which the respondent came
	Filling     string   // one filling of the form; a second response of it is not stored
	Language    string   // that it was given in, "" for the form's own
	Uploads     []string `gorm:"-"` // the ids of its files, in AddResponse
}

// Params are the address parameters that it came with.
func (r *Response) Params() (map[string][]string, error) {
	out := map[string][]string{}
	if len(r.Parameters) == 0 {
		return out, nil
	}
	return out, json.Unmarshal(r.Parameters, &out)
}

// The response goes in and its files become its own in one statement, and so in
// one transaction.
const (
	responseColumns = ` (workspace_id, form_id, edition, answers, parameters, received_at, filling, link_id, language)
		select $1, $2, $3, $4::jsonb, $5::jsonb, $6, $7::uuid, (select id from links where id = $8), $9 `
	takeFiles      = ` update uploads set response_id = r.id from r where uploads.id::text = any($10) and uploads.form_id = $2 and uploads.filling = $7 and response_id is null`
	insertResponse = `with r as (insert into responses` + responseColumns + `on conflict (filling) do nothing returning id),
		u as (` + takeFiles + `) select exists (select 1 from r)`

	// With the count of its sender's minute, unless that is over the most.
	insertRated = `with c as (insert into public_counts (key, minute, n) values ($11, $12, 1)
		on conflict (key, minute) do update set n = public_counts.n + 1 returning n),
		r as (insert into responses` + responseColumns + `from c where n <= $13 on conflict (filling) do nothing returning id),
		u as (` + takeFiles + `) select n, exists (select 1 from r) from c`
)

// Reception is what became of a response that was sent.
type Reception int

// The ends of a submission.
const (
	Received   Reception = iota
	SentBefore           // its filling was sent already; nothing was stored
	Full                 // the form has all the responses it can take
	TooOften             // its sender has sent too much within a minute
)

// values are the arguments $1 to $10.
func (r *Response) values() []any {
	uploads := r.Uploads
	if uploads == nil {
		uploads = []string{} // null would match nothing and name no type
	}
	return []any{r.WorkspaceID, r.FormID, r.Edition, r.Answers, r.Parameters, r.ReceivedAt, r.Filling, r.LinkID, r.Language, uploads}
}

// executor is a pool or a transaction.
type executor interface {
	QueryRow(ctx context.Context, sql string, args ...any) pgx.Row
}

func insert(ctx context.Context, db executor, r Response) (Reception, error) {
	var stored bool
	err := db.QueryRow(ctx, insertResponse, r.values()...).Scan(&stored)
	return received(stored), err
}

func received(stored bool) Reception {
	if stored {
		return Received
	}
	return SentBefore
}

// AddResponse stores a response, once for each filling.
func (s *Store) AddResponse(ctx context.Context, r Response) (Reception, error) {
	return insert(ctx, s.pool, r)
}

// AddRatedResponse is AddResponse for a sender who may send so often within a
// minute. It is one statement, so that a limit costs no second way to the server.
func (s *Store) AddRatedResponse(ctx context.Context, r Response, sender string, most int) (Reception, error) {
	var n int
	var stored bool
	err := s.pool.QueryRow(ctx, insertRated, append(r.values(), sender, r.ReceivedAt.Truncate(time.Minute), most)...).Scan(&n, &stored)
	if n > most {
		return TooOften, err
	}
	return received(stored), err
}

// AddResponseWithin is AddResponse for a form that takes at most limit responses.
// The form's row is locked meanwhile, so that the limit holds under concurrent
// submissions.
func (s *Store) AddResponseWithin(ctx context.Context, r Response, limit int) (Reception, error) {
	tx, err := s.pool.Begin(ctx)
	if err != nil {
		return 0, err
	}
	defer tx.Rollback(context.WithoutCancel(ctx)) //nolint:errcheck // without effect after the commit
	if _, err := tx.Exec(ctx, "select 1 from forms where id = $1 for update", r.FormID); err != nil {
		return 0, err
	}
	var n int
	var again bool
	err = tx.QueryRow(ctx, "select count(*), coalesce(bool_or(filling = $2), false) from responses where form_id = $1", r.FormID, r.Filling).Scan(&n, &again)
	switch {
	case err != nil:
		return 0, err
	case again:
		return SentBefore, nil
	case n >= limit:
		return Full, nil
	}
	got, err := insert(ctx, tx, r)
	if err != nil {
		return 0, err
	}
	return got, tx.Commit(ctx)
}

// ResponseOfFilling finds the response that a filling became.
func (s *Store) ResponseOfFilling(ctx context.Context, formID int64, filling string) (Response, error) {
	var r Response
	return r, plain(s.db.WithContext(ctx).Where("form_id = ? and filling::text = ?", formID, filling).First(&r).Error)
}

// ChangeResponse puts new answers in the place of a response's, keeping what it
// was as a version. uploads are files of its filling that become its own; those it
// had before stay with its versions.
func (s *Store) ChangeResponse(ctx context.Context, workspace, formID int64, id string, edition int, answers []byte, uploads []string, at time.Time) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var r Response
		err := plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("workspace_id = ? and form_id = ? and id::text = ?", workspace, formID, id).First(&r).Error)
		if err != nil {
			return err
		}
		err = tx.Exec(`insert into response_versions (response_id, number, edition, answers, kept_at)
			select ?, coalesce(max(number), 0) + 1, ?, ?, ? from response_versions where response_id = ?`, id, r.Edition, r.Answers, at, id).Error
		if err != nil {
			return err
		}
		if uploads == nil {
			uploads = []string{}
		}
		list, err := json.Marshal(uploads)
		if err != nil {
			return err
		}
		const named = "id::text in (select json_array_elements_text(?::json))"
		if err := tx.Exec("update uploads set response_id = ? where form_id = ? and filling = ? and "+named, id, formID, r.Filling, string(list)).Error; err != nil {
			return err
		}
		return tx.Exec("update responses set answers = ?, edition = ?, changed_at = ? where id = ?", answers, edition, at, id).Error
	})
}

// ResponseVersion is a state that a response was in before it was changed.
type ResponseVersion struct {
	ResponseID string `gorm:"primaryKey"`
	Number     int    `gorm:"primaryKey"`
	Edition    int
	Answers    []byte `gorm:"type:jsonb"`
	KeptAt     time.Time
}

// ResponseVersions lists the earlier states of a response, the newest first.
func (s *Store) ResponseVersions(ctx context.Context, id string) ([]ResponseVersion, error) {
	var out []ResponseVersion
	return out, s.db.WithContext(ctx).Where("response_id::text = ?", id).Order("number desc").Find(&out).Error
}

// DeleteResponse deletes a response with its versions and files.
func (s *Store) DeleteResponse(ctx context.Context, workspace, formID int64, id string) error {
	return s.db.WithContext(ctx).Exec("delete from responses where workspace_id = ? and form_id = ? and id::text = ?", workspace, formID, id).Error
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
