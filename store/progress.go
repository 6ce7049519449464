package store

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
)

// Step is a step of a filling: it came to a page for the first time, from another, or it
// was begun there if that is ""; or it was sent, if it came to "".
type Step struct {
	Form     FormID
	From, To string // keys of pages
	Day      time.Time
}

// AdvanceAll counts steps of fillings. They are statistics: the last ones may be lost
// where the database fails.
func (s *Store) AdvanceAll(ctx context.Context, steps []Step) error {
	type at struct {
		form FormID
		day  time.Time
		page string
	}
	counts, order := map[at]*PageProgress{}, []at(nil)
	of := func(st Step, page string) *PageProgress {
		key := at{st.Form, st.Day, page}
		if counts[key] == nil {
			counts[key] = &PageProgress{}
			order = append(order, key)
		}
		return counts[key]
	}
	for _, st := range steps { // under "": that fillings were begun, and sent
		if st.From == "" {
			of(st, "").Came++
		} else {
			of(st, st.From).Went++
		}
		if st.To == "" {
			of(st, "").Went++
		} else {
			of(st, st.To).Came++
		}
	}
	batch := &pgx.Batch{}
	for _, key := range order { // of a form that was deleted there is nothing to count
		batch.Queue(`insert into progress as p (form_id, day, page, came, went) select id, $2, $3, $4, $5 from forms where id = $1
			on conflict (form_id, day, page) do update set came = p.came + excluded.came, went = p.went + excluded.went`,
			key.form, key.day, key.page, counts[key].Came, counts[key].Went)
	}
	return pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		// A count that a crash takes along is missed by nobody.
		if _, err := tx.Exec(ctx, "set local synchronous_commit = off"); err != nil {
			return err
		}
		return tx.SendBatch(ctx, batch).Close()
	})
}

// PageProgress is how many fillings came to a page, and how many went on from there or
// were sent; for the page "" how many were begun and sent.
type PageProgress struct {
	Page       string
	Came, Went int
}

// Progress is how far people came in the form, by page, and since when that is counted;
// zero for never.
func (in InForm) Progress(ctx context.Context) (pages []PageProgress, since time.Time, err error) {
	rows, err := in.store.pool.Query(ctx, `select page, sum(came)::int, sum(went)::int, min(day) from progress
		where form_id = (select id from forms where workspace_id = $1 and id = $2) group by page`, in.workspace, in.form)
	if err != nil {
		return nil, since, err
	}
	pages, err = pgx.CollectRows(rows, func(row pgx.CollectableRow) (p PageProgress, err error) {
		var day time.Time
		err = row.Scan(&p.Page, &p.Came, &p.Went, &day)
		if since.IsZero() || day.Before(since) {
			since = day
		}
		return p, err
	})
	return pages, since, err
}
