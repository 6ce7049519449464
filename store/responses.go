package store

import (
	"context"
	"database/sql"
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
	// Judge is the edition that said that the form takes responses, in AddResponse:
	// nothing is stored if another is live by then. 0 is none.
	Judge int `gorm:"-"`
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
		select $1, $2, $3, $4::jsonb, $5::jsonb, $6, $7::uuid, (select id from links where id = $8), $9 from live, fresh `
	// erased is the filling, if its response was erased, and fresh if it was not.
	erased = ` erased as (select 1 from erased_fillings where filling = $7::uuid), fresh as (select 1 where not exists (select 1 from erased)), `
	// live is the form, if the judge's edition is still the live one.
	live           = ` live as (select id from forms where id = $2 and ($11 = 0 or live_edition = $11)), `
	takeFiles      = ` update uploads set response_id = r.id from r where uploads.id = any($10) and uploads.form_id = $2 and uploads.filling = $7 and response_id is null`
	insertResponse = `with` + live + erased + `r as (insert into responses` + responseColumns + `on conflict (filling) do nothing returning id),
		u as (` + takeFiles + `) select exists (select 1 from r), exists (select 1 from live), exists (select 1 from erased)`

	// With the count of its sender's minute, unless that is over the most.
	insertRated = `with` + live + erased + `c as (insert into public_counts (key, minute, n) values ($12, $13, 1)
		on conflict (key, minute) do update set n = public_counts.n + 1 returning n),
		r as (insert into responses` + responseColumns + `, c where n <= $14 on conflict (filling) do nothing returning id),
		u as (` + takeFiles + `) select n, exists (select 1 from r), exists (select 1 from live), exists (select 1 from erased) from c`
)

// Reception is what became of a response that was sent.
type Reception int

// The ends of a submission.
const (
	Received   Reception = iota
	SentBefore           // its filling was sent already; nothing was stored
	Full                 // the form has all the responses it can take
	TooOften             // its sender has sent too much within a minute
	Superseded           // another edition than its judge is live
	Erased               // what its filling became was erased since
)

// values are the arguments $1 to $11.
func (r *Response) values() []any {
	return []any{r.WorkspaceID, r.FormID, r.Edition, r.Answers, r.Parameters, r.ReceivedAt, r.Filling, r.LinkID, r.Language, uuids(r.Uploads), r.Judge}
}

// executor is a pool or a transaction.
type executor interface {
	QueryRow(ctx context.Context, sql string, args ...any) pgx.Row
}

func insert(ctx context.Context, db executor, r Response) (Reception, error) {
	var stored, live, erased bool
	err := db.QueryRow(ctx, insertResponse, r.values()...).Scan(&stored, &live, &erased)
	return received(stored, live, erased), err
}

func received(stored, live, erased bool) Reception {
	switch {
	case stored:
		return Received
	case erased:
		return Erased
	case !live:
		return Superseded
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
	var stored, live, erased bool
	err := s.pool.QueryRow(ctx, insertRated, append(r.values(), sender, r.ReceivedAt.Truncate(time.Minute), most)...).Scan(&n, &stored, &live, &erased)
	if n > most {
		return TooOften, err
	}
	return received(stored, live, erased), err
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
	return r, plain(s.db.WithContext(ctx).Where("form_id = ? and filling = ?", formID, uuid(filling)).First(&r).Error)
}

// ChangeResponse puts new answers in the place of a response's, keeping what it
// was as a version. uploads are files of its filling that become its own; those it
// had before stay with its versions.
func (s *Store) ChangeResponse(ctx context.Context, workspace, formID int64, id string, edition int, answers []byte, uploads []string, at time.Time) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var r Response
		err := plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("workspace_id = ? and form_id = ? and id = ?", workspace, formID, uuid(id)).First(&r).Error)
		if err != nil {
			return err
		}
		err = tx.Exec(`insert into response_versions (response_id, number, edition, answers, kept_at)
			select ?, coalesce(max(number), 0) + 1, ?, ?, ? from response_versions where response_id = ?`, id, r.Edition, r.Answers, at, id).Error
		if err != nil {
			return err
		}
		if err := tx.Exec("update uploads set response_id = ? where form_id = ? and filling = ? and id in ?", id, formID, r.Filling, uuids(uploads)).Error; err != nil {
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
	return out, s.db.WithContext(ctx).Where("response_id = ?", uuid(id)).Order("number desc").Find(&out).Error
}

// DeleteResponse erases a response, with its versions and files, and with what was
// left of its filling to be gone on with. That it was is remembered by the filling
// alone, so that a page that is still open does not bring it back.
func (s *Store) DeleteResponse(ctx context.Context, workspace, formID int64, id string) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var r Response
		err := plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("workspace_id = ? and form_id = ? and id = ?", workspace, formID, uuid(id)).First(&r).Error)
		if err != nil {
			return err
		}
		for _, q := range []string{
			"insert into erased_fillings (filling) values (@filling) on conflict do nothing",
			"delete from returns where form_id = @form and ticket::json->>'n' = @filling",
			"delete from uploads where form_id = @form and filling = cast(@filling as uuid)",
			"delete from responses where form_id = @form and filling = cast(@filling as uuid)",
		} {
			if err := tx.Exec(q, sql.Named("filling", r.Filling), sql.Named("form", formID)).Error; err != nil {
				return err
			}
		}
		return nil
	})
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

// ResponseByID finds a response of a form.
func (s *Store) ResponseByID(ctx context.Context, workspace, formID int64, id string) (Response, error) {
	var r Response
	return r, plain(s.db.WithContext(ctx).Where("workspace_id = ? and form_id = ? and id = ?", workspace, formID, uuid(id)).First(&r).Error)
}

// Snapshot is all responses of a form as they are at one moment.
type Snapshot struct {
	db              *gorm.DB
	workspace, form int64
}

// AtOnce calls read with a form's responses as they are now; what arrives or is
// deleted meanwhile changes nothing in it. A connection is held until read returns,
// so it must not wait for anybody.
func (s *Store) AtOnce(ctx context.Context, workspace, formID int64, read func(Snapshot) error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		return read(Snapshot{tx, workspace, formID})
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
}

func (s Snapshot) query() *gorm.DB {
	return s.db.Model(&Response{}).Where("workspace_id = ? and form_id = ?", s.workspace, s.form)
}

// Editions lists the editions that the responses belong to, the newest first.
func (s Snapshot) Editions() ([]Edition, error) {
	var out []Edition
	return out, s.db.Where("form_id = ? and number in (?)", s.form, s.query().Select("edition")).Order("number desc").Find(&out).Error
}

// Each visits the responses, the oldest first, without holding all of them in memory.
func (s Snapshot) Each(visit func(Response) error) error {
	rows, err := s.query().Order("received_at, id").Rows()
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
