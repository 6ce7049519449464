package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Response is what one respondent sent.
type Response struct {
	ID          string `gorm:"default:gen_random_uuid()"`
	WorkspaceID WorkspaceID
	FormID      FormID
	Edition     int
	Answers     []byte `gorm:"type:jsonb"`
	Parameters  []byte `gorm:"type:jsonb"`
	ReceivedAt  time.Time
	ChangedAt   *time.Time
	LinkID      *LinkID  // the link by which the respondent came
	Filling     string   // one filling of the form; a second response of it is not stored
	Language    string   // that it was given in, "" for the form's own
	Uploads     []string `gorm:"-"` // the ids of its files, in AddResponse
	Takes       Takes    `gorm:"-"` // the places that it takes, in AddResponse
	// Labels is what its picks from lists of the workspace read when it was stored:
	// {"pier": {"h": "Heron pier"}}; nil for none.
	Labels []byte `gorm:"type:jsonb"`
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

// Kept is what its picks from lists of the workspace read when it was stored, by question
// and code.
func (r *Response) Kept() (out map[string]map[string]string, err error) {
	if len(r.Labels) == 0 {
		return nil, nil
	}
	return out, json.Unmarshal(r.Labels, &out)
}

// The response goes in and its files become its own in one statement, and so in one
// transaction. It goes in only while its judge's edition is live and in public, and its
// filling was not erased; if it does not, another statement says why.
const (
	insertColumns = `insert into responses (workspace_id, form_id, edition, answers, parameters, received_at, filling, link_id, language, takes, labels)
		select $1, $2, $3, $4::jsonb, $5::jsonb, $6, $7::uuid, (select id from links where id = $8), $9, $11::jsonb, $12::jsonb from forms`
	insertWhere = ` where forms.id = $2 and ($10 = 0 or live_edition = $10 and offline_since is null)
		and not exists (select 1 from erased_fillings where filling = $7::uuid)`
	insertOnce = ` on conflict (filling) do nothing`

	// With the count of its sender's minute, unless that is over the most.
	countSender = `with c as (insert into public_counts (key, minute, n) values ($13, $14, $15)
		on conflict (key, minute) do update set n = public_counts.n + $15 returning n) `

	insertResponse = insertColumns + insertWhere + insertOnce
	insertRated    = countSender + insertColumns + `, c` + insertWhere + ` and n <= $16` + insertOnce

	// whyNot tells why a response did not go in.
	whyNot = `select exists (select 1 from erased_fillings where filling = $1::uuid),
		exists (select 1 from forms where id = $2 and ($3 = 0 or live_edition = $3 and offline_since is null)),
		coalesce((select n from public_counts where key = $4 and minute = $5), 0)`
)

// withFiles is one of these statements that makes files of the filling, the ids of which
// are at a place among its arguments, the response's own.
func withFiles(counting, insert, files string) string {
	return counting + `r as (` + insert + ` returning id),
		u as (update uploads set response_id = r.id from r where uploads.id = any(` + files + `)
			and uploads.form_id = $2 and uploads.filling = $7 and response_id is null)
		select id from r`
}

var (
	insertWithFiles      = withFiles("with ", insertResponse, "$13")
	insertRatedWithFiles = withFiles(countSender+", ", strings.TrimPrefix(insertRated, countSender), "$17")
)

// Reception is what became of a response that was sent.
type Reception int

// The ends of a submission.
const (
	Received   Reception = iota
	SentBefore           // its filling was sent already; nothing was stored
	Full                 // the form has all the responses it can take
	TooOften             // its sender has sent too much within a minute
	Superseded           // another edition than its judge is live, or none is in public
	Erased               // what its filling became was erased since
	NoPlaces             // a choice has no place left
)

// values are the arguments $1 to $12.
func (r *Response) values() []any {
	return []any{
		r.WorkspaceID, r.FormID, r.Edition, r.Answers, r.Parameters, r.ReceivedAt, r.Filling, r.LinkID, r.Language, r.Judge,
		r.Takes.column(), r.Labels,
	}
}

// executor is a pool or a transaction.
type executor interface {
	QueryRow(ctx context.Context, sql string, args ...any) pgx.Row
	Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error)
}

// sender is who sends, for a limit of so much within a minute; none for a blank key.
type sender struct {
	key          string
	minute       time.Time
	weight, most int
}

// insert stores a response with its files, and counts its sender, in one statement.
func insert(ctx context.Context, db executor, r Response, by sender) (Reception, error) {
	query, files, args := insertResponse, insertWithFiles, r.values()
	if by.key != "" {
		query, files, args = insertRated, insertRatedWithFiles, append(args, by.key, by.minute, by.weight, by.most)
	}
	if len(r.Uploads) > 0 {
		query, args = files, append(args, uuids(r.Uploads))
	}
	done, err := db.Exec(ctx, query, args...)
	if isNoPlaces(err) {
		return NoPlaces, nil
	}
	if err != nil || done.RowsAffected() == 1 {
		return Received, err
	}
	return refusedBy(ctx, db, r, by)
}

// refusedBy says why a response did not go in.
func refusedBy(ctx context.Context, db executor, r Response, by sender) (Reception, error) {
	var erased, live bool
	var n int
	err := db.QueryRow(ctx, whyNot, r.Filling, r.FormID, r.Judge, by.key, by.minute).Scan(&erased, &live, &n)
	switch {
	case err != nil:
		return 0, err
	case by.key != "" && n > by.most:
		return TooOften, nil
	case erased:
		return Erased, nil
	case !live:
		return Superseded, nil
	}
	return SentBefore, nil
}

// AddResponse stores a response, once for each filling.
func (s *Store) AddResponse(ctx context.Context, r Response) (Reception, error) {
	return insert(ctx, s.pool, r, sender{})
}

// AddRatedResponse is AddResponse for a sender who may send so much within a minute;
// weight is how much this one counts. It is one statement, so that a limit costs no
// second way to the server.
func (s *Store) AddRatedResponse(ctx context.Context, r Response, from string, weight, most int) (Reception, error) {
	return insert(ctx, s.pool, r, sender{from, r.ReceivedAt.Truncate(time.Minute), weight, most})
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
	err = tx.QueryRow(ctx, "select count(*), coalesce(bool_or(filling = $2), false) from responses where form_id = $1", r.FormID, r.Filling).
		Scan(&n, &again)
	switch {
	case err != nil:
		return 0, err
	case again:
		return SentBefore, nil
	case n >= limit:
		return Full, nil
	}
	got, err := insert(ctx, tx, r, sender{})
	if err != nil || got == NoPlaces {
		return got, err
	}
	return got, tx.Commit(ctx)
}

// ResponseOf finds the response that a filling became.
func (in InForm) ResponseOf(ctx context.Context, filling string) (Response, error) {
	var r Response
	return r, plain(in.store.db.WithContext(ctx).Where("workspace_id = ? and form_id = ? and filling = ?", in.workspace, in.form, uuid(filling)).First(&r).Error)
}

// MostVersions is how often a response can be changed.
const MostVersions = 200

// ChangeResponse puts the answers, edition, places and labels of next in the place of
// a response's, keeping what it was as a version. The files of next become its own;
// those it had before stay with its versions. It is ErrTooOften beyond [MostVersions],
// and ErrNoPlaces if a choice has no place left.
func (in InForm) ChangeResponse(
	ctx context.Context, id string, next Response, at time.Time,
) error {
	err := in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var r Response
		err := plain(
			tx.Clauses(clause.Locking{Strength: "UPDATE"}).
				Where("workspace_id = ? and form_id = ? and id = ?", in.workspace, in.form, uuid(id)).
				First(&r).
				Error,
		)
		if err != nil {
			return err
		}
		kept := tx.Exec(`insert into response_versions (response_id, number, edition, answers, kept_at)
			select ?, coalesce(max(number), 0) + 1, ?, ?, ? from response_versions where response_id = ? having count(*) < ?`, id, r.Edition, r.Answers, at, id, MostVersions)
		switch {
		case kept.Error != nil:
			return kept.Error
		case kept.RowsAffected == 0:
			return ErrTooOften
		}
		if err := tx.Exec("update uploads set response_id = ? where form_id = ? and filling = ? and id in ?", id, in.form, r.Filling, uuids(next.Uploads)).Error; err != nil {
			return err
		}
		return tx.Exec("update responses set answers = ?, edition = ?, changed_at = ?, takes = ?::jsonb, labels = ?::jsonb where id = ?",
			next.Answers, next.Edition, at, next.Takes.column(), next.Labels, id).Error
	})
	if isNoPlaces(err) {
		return ErrNoPlaces
	}
	return err
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
func (in InForm) DeleteResponse(ctx context.Context, id string) error {
	return in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var r Response
		err := plain(
			tx.Clauses(clause.Locking{Strength: "UPDATE"}).
				Where("workspace_id = ? and form_id = ? and id = ?", in.workspace, in.form, uuid(id)).
				First(&r).
				Error,
		)
		if err != nil {
			return err
		}
		for _, q := range []string{
			"insert into erased_fillings (filling) values (@filling) on conflict do nothing",
			"delete from returns where form_id = @form and ticket::json->>'n' = @filling",
			"delete from uploads where form_id = @form and filling = cast(@filling as uuid)",
			"delete from responses where form_id = @form and filling = cast(@filling as uuid)",
		} {
			if err := tx.Exec(q, sql.Named("filling", r.Filling), sql.Named("form", in.form)).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// CountResponses counts the responses of a form.
func (in InForm) CountResponses(ctx context.Context) (int, error) {
	var n int64
	return int(n), in.store.db.WithContext(ctx).Model(&Response{}).Where("workspace_id = ? and form_id = ?", in.workspace,
		in.form).Count(&n).Error
}

// Responses lists a form's responses, the newest first, from an offset.
func (in InForm) Responses(ctx context.Context, offset, limit int) ([]Response, error) {
	var out []Response
	return out, in.store.db.WithContext(ctx).Where("workspace_id = ? and form_id = ?", in.workspace, in.form).
		Order("received_at desc, id").Offset(offset).Limit(limit).Find(&out).Error
}

// Response finds a response of a form.
func (in InForm) Response(ctx context.Context, id string) (Response, error) {
	var r Response
	return r, plain(in.store.db.WithContext(ctx).Where("workspace_id = ? and form_id = ? and id = ?", in.workspace, in.form, uuid(id)).First(&r).Error)
}

// Snapshot is all responses of a form as they are at one moment.
type Snapshot struct {
	db        *gorm.DB
	workspace WorkspaceID
	form      FormID
}

// AtOnce calls read with a form's responses as they are now; what arrives or is
// deleted meanwhile changes nothing in it. A connection is held until read returns,
// so it must not wait for anybody.
func (in InForm) AtOnce(ctx context.Context, read func(Snapshot) error) error {
	return in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		return read(Snapshot{tx, in.workspace, in.form})
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
