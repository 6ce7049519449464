package store

import (
	"context"
	"encoding/json"
	"errors"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// The statements that every page and every submission of a public form wait for go to the
// driver as they stand here; all others go through gorm.

// Live is what a form is to the public now; ErrNotFound if no edition is live.
func (in InForm) Live(ctx context.Context) (Live, error) {
	var l Live
	err := in.store.pool.QueryRow(ctx, `select live_edition, offline_since is not null, offline_message from forms
		where workspace_id = $1 and id = $2 and live_edition is not null`, in.workspace, in.form).
		Scan(&l.Edition, &l.Offline, &l.Message)
	if errors.Is(err, pgx.ErrNoRows) {
		return l, ErrNotFound
	}
	return l, err
}

// Taken is how many responses hold each choice that has places, by question and choice.
func (in InForm) Taken(ctx context.Context) (map[string]map[string]int, error) {
	rows, err := in.store.pool.Query(ctx, `select item, choice, taken from places_taken p join forms f on f.id = p.form_id
		where f.id = $1 and f.workspace_id = $2`, in.form, in.workspace)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]map[string]int{}
	for rows.Next() {
		var item, choice string
		var n int
		if err := rows.Scan(&item, &choice, &n); err != nil {
			return nil, err
		}
		if out[item] == nil {
			out[item] = map[string]int{}
		}
		out[item][choice] = n
	}
	return out, rows.Err()
}

// ListStates are the newest versions of lists by their keys; of those that there are.
func (in InWorkspace) ListStates(ctx context.Context, keys []string) ([]ListState, error) {
	rows, err := in.store.pool.Query(ctx,
		"select id, key, version from lists where workspace_id = $1 and key = any($2) order by key", in.workspace, keys)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []ListState
	for rows.Next() {
		var s ListState
		if err := rows.Scan(&s.ID, &s.Key, &s.Version); err != nil {
			return nil, err
		}
		out = append(out, s)
	}
	return out, rows.Err()
}

// Uncount takes back what Count added.
func (s *Store) Uncount(ctx context.Context, key string, at time.Time) error {
	_, err := s.pool.Exec(ctx, "update public_counts set n = n - 1 where key = $1 and minute = $2", key,
		at.Truncate(time.Minute))
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

// CountWithin adds one to what a key did within a window and returns how much that is, of
// the whole window before at: of the part that ended last, as much counts as still lies
// within, rounded up. So nobody does twice as much around the end of a part.
// Of a window of more than an hour the key begins with "long ", so that it is kept as long.
func (s *Store) CountWithin(ctx context.Context, key string, window time.Duration, at time.Time) (n int, err error) {
	part := at.Truncate(window)
	within := 1 - float64(at.Sub(part))/float64(window)
	err = s.pool.QueryRow(ctx, `insert into public_counts (key, minute, n) values ($1, $2, 1)
		on conflict (key, minute) do update set n = public_counts.n + 1
		returning n + ceil($4::float8 * coalesce((select n from public_counts where key = $1 and minute = $3), 0))::int`,
		key, part, part.Add(-window), within).Scan(&n)
	return n, err
}

// The response goes in and its files become its own in one statement, and so in one
// transaction. It goes in only while its judge's edition is live and in public, and its
// filling was not erased; if it does not, another statement says why.
const (
	insertColumns = `insert into responses (workspace_id, form_id, edition, answers, parameters, received_at, filling, link_id, language, takes, labels,
			taken_by, overridden, confirm_by)
		select $1, $2, $3, $4::jsonb, coalesce($5::jsonb, '{}'), $6, $7::uuid, (select id from links where id = $8), $9, $11::jsonb, $12::jsonb,
			$13::bigint, $14::jsonb, $15::timestamptz from forms`
	insertWhere = ` where forms.id = $2 and ($10 = 0 or live_edition = $10 and offline_since is null)
		and not exists (select 1 from erased_fillings where filling = $7::uuid)`
	insertOnce = ` on conflict (filling) do nothing`

	// With the count of its sender's minute, unless that is over the most.
	countSender = `c as (insert into public_counts (key, minute, n) values ($16, $17, $18)
		on conflict (key, minute) do update set n = public_counts.n + $18 returning n)`

	// whyNot tells why a response did not go in.
	whyNot = `select exists (select 1 from erased_fillings where filling = $1::uuid),
		exists (select 1 from forms where id = $2 and ($3 = 0 or live_edition = $3 and offline_since is null)),
		coalesce((select n from public_counts where key = $4 and minute = $5), 0)`
)

// insertion is the statement that stores a response, whose sender is counted, with its
// files and with what goes out of it, as the case may be. The ids of the files and the
// letters as JSON come last among its arguments.
func insertion(rated, files, goes bool) string {
	sql, last := insertColumns+insertWhere, 15
	if rated {
		sql, last = insertColumns+", c"+insertWhere+" and n <= $19", 19
	}
	sql += insertOnce
	var with []string
	if rated {
		with = append(with, countSender)
	}
	if files || goes {
		with = append(with, "r as ("+sql+" returning id)")
		sql = "select id from r"
	}
	if files {
		last++
		with = append(with, `u as (update uploads set response_id = r.id from r where uploads.id = any($`+strconv.Itoa(last)+`)
			and uploads.form_id = $2 and uploads.filling = $7 and response_id is null)`)
	}
	if goes {
		last++
		with = append(with, "o as (insert into outbox ("+letterColumns+") select $1, $2, r.id, "+letterValues(last)+")")
	}
	if len(with) == 0 {
		return sql
	}
	return "with " + strings.Join(with, ", ") + " " + sql
}

// insertions are all these statements.
var insertions = func() map[[3]bool]string {
	out := map[[3]bool]string{}
	for _, rated := range []bool{false, true} {
		for _, files := range []bool{false, true} {
			for _, goes := range []bool{false, true} {
				out[[3]bool{rated, files, goes}] = insertion(rated, files, goes)
			}
		}
	}
	return out
}()

// Reception is what became of a response that was sent.
type Reception int

// The ends of a submission, or of a change of what was sent.
const (
	Received        Reception = iota
	SentBefore                // its filling was sent already; nothing was stored
	Full                      // the form has all the responses it can take
	TooOften                  // its sender has sent too much within a minute
	Superseded                // another edition than its judge is live, or none is in public
	Erased                    // what its filling became was erased since
	NoPlaces                  // a choice has no place left
	ChangedTooOften           // a response was changed [MostVersions] times
	Withdrawn                 // a response was withdrawn, and can't be changed
)

func (r *Response) values() []any {
	return []any{
		r.WorkspaceID, r.FormID, r.Edition, r.Answers, orNull(r.Parameters), r.ReceivedAt, r.Filling, r.LinkID, r.Language,
		r.Judge,
		orNull(r.Takes), orNull(r.Labels), r.TakenBy, orNullList(r.Overridden), r.ConfirmBy,
	}
}

// executor is a pool or a transaction.
type executor interface {
	QueryRow(ctx context.Context, sql string, args ...any) pgx.Row
	Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error)
}

// Bounds are what a response must keep to.
type Bounds struct {
	Responses    int    // that the form takes, 0 for any number
	Sender       string // who sends, "" for nobody who is counted
	Weight, Most int    // how much this one counts, and how much may be sent within a minute
}

// insert stores a response with its files, and counts its sender, in one statement.
func insert(ctx context.Context, db executor, r Response, by Bounds) (Reception, error) {
	args := r.values()
	if by.Sender != "" {
		args = append(args, by.Sender, r.ReceivedAt.Truncate(time.Minute), by.Weight, by.Most)
	}
	if len(r.Uploads) > 0 {
		args = append(args, uuids(r.Uploads))
	}
	if len(r.Goes) > 0 {
		letters, err := json.Marshal(r.Goes)
		if err != nil {
			return 0, err
		}
		args = append(args, JSON(letters))
	}
	done, err := db.Exec(ctx, insertions[[3]bool{by.Sender != "", len(r.Uploads) > 0, len(r.Goes) > 0}], args...)
	if isNoPlaces(err) {
		return NoPlaces, nil
	}
	if err != nil || done.RowsAffected() == 1 {
		return Received, err
	}
	return refusedBy(ctx, db, r, by)
}

// refusedBy says why a response did not go in.
func refusedBy(ctx context.Context, db executor, r Response, by Bounds) (Reception, error) {
	var erased, live bool
	var n int
	err := db.QueryRow(ctx, whyNot, r.Filling, r.FormID, r.Judge, by.Sender,
		r.ReceivedAt.Truncate(time.Minute)).Scan(&erased, &live, &n)
	switch {
	case err != nil:
		return 0, err
	case by.Sender != "" && n > by.Most:
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
	got, err := insert(ctx, s.pool, r, Bounds{})
	return s.woken(r, got, err)
}

// AddBounded is AddResponse within bounds. What a sender sent is counted in the same
// statement, so that it costs no second way to the server. Where the form takes so many
// responses only, its row is locked meanwhile: the limit holds however many are sent at
// once.
func (s *Store) AddBounded(ctx context.Context, r Response, b Bounds) (Reception, error) {
	if b.Responses == 0 {
		got, err := insert(ctx, s.pool, r, b)
		return s.woken(r, got, err)
	}
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
	err = tx.QueryRow(ctx, `select count(*) filter (where withdrawn_at is null), coalesce(bool_or(filling = $2), false)
		from responses where form_id = $1`, r.FormID, r.Filling).Scan(&n, &again)
	switch {
	case err != nil:
		return 0, err
	case again:
		return SentBefore, nil
	case n >= b.Responses:
		return Full, nil
	}
	got, err := insert(ctx, tx, r, b)
	if err != nil || got == NoPlaces {
		return got, err
	}
	return s.woken(r, got, tx.Commit(ctx))
}

// woken wakes who delivers what goes out of a response that was stored.
func (s *Store) woken(r Response, got Reception, err error) (Reception, error) {
	if err == nil && got == Received && len(r.Goes) > 0 {
		s.wake()
	}
	return got, err
}
