package store_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/form"
	"lazo/store"
	"lazo/store/storetest"
)

// lettersOf are all letters of a form.
func lettersOf(t *rapid.T, db *store.Store, f store.Form) []store.Letter {
	rows, err := db.Pool().Query(context.Background(),
		"select id, recipient, state, answer from outbox where form_id = $1", f.ID)
	require.NoError(t, err)
	out, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (l store.Letter, err error) {
		return l, row.Scan(&l.ID, &l.Recipient, &l.State, &l.Answer)
	})
	require.NoError(t, err)
	return out
}

// However batches of letters come, to addresses in whatever spelling, and whenever they are
// handed on: within no hour and no day of twenty-four hours does more go to an address, or
// out of a form, than the limits say; nothing is lost without a word.
func TestLimitsHoldForAnyBatches(t *testing.T) {
	ctx := context.Background()
	db, done := storetest.Open()
	defer done()
	forms := 0
	rapid.Check(t, func(rt *rapid.T) {
		forms++
		w, err := db.CreateWorkspace(ctx, "Batches")
		require.NoError(rt, err)
		m, err := db.CreateMember(ctx,
			store.Member{WorkspaceID: w.ID, Email: fmt.Sprintf("b%d@lakeside.example", forms), Name: "B",
				PasswordHash: "x"})
		require.NoError(rt, err)
		f, err := db.InWorkspace(w.ID).CreateForm(ctx,
			&form.Form{Lazo: 1, Key: fmt.Sprintf("batches-%d", forms), Title: "Batches", Timezone: "UTC",
				Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s"}}}}})
		require.NoError(rt, err)
		_, err = db.InWorkspace(w.ID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
		require.NoError(rt, err)
		limits := store.Limits{Form: rapid.IntRange(3, 12).Draw(rt, "form"), Address: rapid.IntRange(1, 4).Draw(rt, "hour"),
			Day: rapid.IntRange(4, 8).Draw(rt, "day")}
		now := time.Now()
		type sent struct {
			to string
			at time.Time
		}
		var went []sent
		address := map[store.LetterID]string{}
		written := 0
		for step := range rapid.IntRange(3, 12).Draw(rt, "steps") {
			for range rapid.IntRange(0, 8).Draw(rt, "batch") {
				to := rapid.SampledFrom([]string{"eva@lake.example", "EVA@lake.example", "Eva@Lake.Example",
					"bo@lake.example"}).Draw(rt, "to")
				r := response(f, step*100+written)
				r.ReceivedAt = now
				r.Goes = []store.Letter{letter("thanks", to)}
				r.Goes[0].Answered, r.Goes[0].DueAt, r.Goes[0].MadeAt = true, now, now
				_, err := db.AddResponse(ctx, r)
				require.NoError(rt, err)
				written++
			}
			for _, l := range lettersOf(rt, db, f) {
				address[l.ID] = strings.ToLower(l.Recipient)
			}
			for {
				n, err := db.HandOn(ctx, now, limits, true, func(_ context.Context, _ pgx.Tx, due []store.Due) error {
					for _, d := range due {
						if to, own := address[d.ID]; own { // not of the forms before
							went = append(went, sent{to, now})
						}
					}
					return nil
				})
				require.NoError(rt, err)
				if n == 0 {
					break
				}
			}
			now = now.Add(time.Duration(rapid.IntRange(1, 400).Draw(rt, "minutes")) * time.Minute)
		}
		for i, one := range went {
			hour, day, all := 0, 0, 0
			for _, other := range went[:i+1] {
				if one.at.Sub(other.at) < time.Hour {
					all++
				}
				if other.to != one.to {
					continue
				}
				if one.at.Sub(other.at) < time.Hour {
					hour++
				}
				if one.at.Sub(other.at) < 24*time.Hour {
					day++
				}
			}
			if hour > limits.Address || day > limits.Day || all > limits.Form {
				rt.Fatalf("%d within an hour, %d within a day to %s, %d of the form, where %+v holds", hour, day, one.to, all,
					limits)
			}
		}
		list := lettersOf(rt, db, f)
		require.Len(rt, list, written)
		for _, l := range list {
			if l.State == store.Dropped {
				require.Contains(rt, l.Answer, "letters a day")
			}
		}
	})
}
