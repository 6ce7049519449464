package store

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
)

// DaySums is what the responses that were received on one day (UTC) say all together.
type DaySums struct {
	Day       time.Time
	Responses int
	Changes   int64  // tells one state of the day from another
	Sums      []byte // JSON, as it was kept; nil if there is none, or it is of another state
}

// Days are the days on which responses came, the newest first, with what was kept of them
// that was counted in the way of a fingerprint.
func (s Snapshot) Days(fingerprint string) ([]DaySums, error) {
	rows, err := s.tx.Query(s.ctx, `select t.day, t.responses, t.changes, d.sums from
		(select day, sum(responses)::bigint as responses, sum(changes)::bigint as changes from response_tallies
			where form_id = (select id from forms where workspace_id = $1 and id = $2) group by day) t
		left join day_sums d on d.form_id = $2 and d.day = t.day and d.fingerprint = $3 and d.changes = t.changes
		where t.responses > 0 order by t.day desc`, s.in.workspace, s.in.form, fingerprint)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(row pgx.CollectableRow) (d DaySums, err error) {
		return d, row.Scan(&d.Day, &d.Responses, &d.Changes, &d.Sums)
	})
}

// EachOfDay visits pieces of the answers that came on a day; see [Snapshot.EachOfPieces].
func (s Snapshot) EachOfDay(l Look, day time.Time, pieces [][]any, visit func(r Response, parts [][]byte) error) error {
	l.day = &day
	return s.in.eachOfPieces(s.ctx, s.tx, l, pieces, visit)
}

// KeepDays keeps what was counted of days. Of a day that was changed meanwhile nothing is
// kept: whoever looks next counts it again.
func (in InForm) KeepDays(ctx context.Context, fingerprint string, days []DaySums) error {
	batch := &pgx.Batch{}
	for _, d := range days {
		batch.Queue(`insert into day_sums (form_id, day, fingerprint, changes, sums)
			select $2, $3, $4, $5, $6 from
				(select sum(changes)::bigint as changes from response_tallies
					where form_id = (select id from forms where workspace_id = $1 and id = $2) and day = $3) t
			where t.changes = $5
			on conflict (form_id, day) do update set fingerprint = excluded.fingerprint, changes = excluded.changes, sums = excluded.sums`,
			in.workspace, in.form, d.Day, fingerprint, d.Changes, JSON(d.Sums))
	}
	return in.store.pool.SendBatch(ctx, batch).Close()
}

// staleDays drops what was kept of days that were changed while it was counted.
const staleDays = `delete from day_sums d where changes <> (select coalesce(sum(t.changes), 0) from response_tallies t
	where t.form_id = d.form_id and t.day = d.day)`
