package store_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/exchange"
	"lazo/core/view"
	"lazo/store"
)

// What was kept of days comes to what is counted at once, whatever came, changed, was
// withdrawn, let count again or went in between.
func TestDaysAddUpToAll(t *testing.T) {
	ctx := context.Background()
	f, m, lens := lensOf(t, "days-add-up")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	seed := uint64(time.Now().UnixNano())
	t.Log("seed", seed)
	rng := rand.New(rand.NewPCG(5, seed))
	receive := func(n int) {
		for range n {
			_, err := db.AddResponse(ctx,
				store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Filling: uuid.NewString(),
					Answers: fmt.Appendf(nil, `{"n": %d, "nm": "Crew %d", "c": %q, "d": "2026-05-%02d"}`, rng.IntN(40), rng.IntN(30),
						[]string{"one", "two"}[rng.IntN(2)], 1+rng.IntN(30)),
					ReceivedAt: time.Date(2026, 5, 1+rng.IntN(6), 23, 59, rng.IntN(120)-60, 0, time.UTC)})
			require.NoError(t, err)
		}
	}
	some := func() string {
		list, err := in.Responses(ctx, rng.IntN(20), 1)
		require.NoError(t, err)
		if len(list) == 0 {
			return uuid.NewString()
		}
		return list[0].ID
	}
	receive(15)
	kept := 0
	for range 25 {
		switch rng.IntN(5) {
		case 0:
			receive(1 + rng.IntN(9))
		case 1:
			_, _ = in.Amend(ctx, some(), &m.ID, time.Now(), func(r store.Response) (store.Response, error) {
				r.Answers, r.Alone = []byte(`{"n": 99}`), rng.IntN(2) == 0
				return r, nil
			})
		case 2:
			_ = in.DeleteResponse(ctx, some())
		case 3:
			_ = in.Withdraw(ctx, some(), nil, time.Now())
		case 4:
			_, _ = in.Reinstate(ctx, some())
		}
		days, reused := summedByDay(t, in, lens)
		kept += reused
		require.Equal(t, summedAtOnce(t, in, lens), days)
		n, err := in.CountResponses(ctx)
		require.NoError(t, err)
		require.Equal(t, n, days.N)
	}
	assert.Greater(t, kept, 20, "most days are not counted again")
	// Nothing is left of an answer that went.
	for range 60 {
		_ = in.DeleteResponse(ctx, some())
	}
	var n int
	require.NoError(t, db.Pool().QueryRow(ctx, `select count(*) from day_sums d where form_id = $1 and sums::text like '%crew%'
		and not exists (select from responses r where r.form_id = d.form_id and (r.received_at at time zone 'UTC')::date = d.day)`, f.ID).Scan(&n))
	assert.Zero(t, n)
	require.NoError(t, db.Sweep(ctx, time.Hour))
}

// shown is what a summary shows.
type shown struct {
	N    int
	Sums []string
}

func shownOf(s *view.Sums) shown {
	out := shown{N: s.N}
	s.Done()
	for _, one := range append(s.Sums, s.Days) {
		out.Sums = append(out.Sums, fmt.Sprint(one.Key, one.Picture, one.Answered, one.Bars, one.Mean, one.Texts, one.More))
	}
	return out
}

func recordOf(r store.Response, asked []string, parts [][]byte) view.Record {
	record := view.Record{Answers: map[string]any{}, Received: r.ReceivedAt}
	for i, part := range parts {
		if part != nil {
			record.Answers[asked[i]] = exchange.Value(part)
		}
	}
	return record
}

func piecesOf(asked []string) (out [][]any) {
	for _, key := range asked {
		out = append(out, []any{key})
	}
	return out
}

func summedAtOnce(t *testing.T, in store.InForm, lens *view.Lens) shown {
	sums := lens.NewSums(lens.Keys())
	asked := sums.Keys()
	require.NoError(t, in.AtOnce(context.Background(), func(all store.Snapshot) error {
		return all.EachOfPieces(store.Look{Lens: lens}, piecesOf(asked), func(r store.Response, parts [][]byte) error {
			sums.Add(recordOf(r, asked, parts))
			return nil
		})
	}))
	return shownOf(sums)
}

// summedByDay sums up by what was kept, keeps what was not, and tells of how many days
// something was kept.
func summedByDay(t *testing.T, in store.InForm, lens *view.Lens) (out shown, reused int) {
	ctx := context.Background()
	sums := lens.NewSums(lens.Keys())
	asked := sums.Keys()
	var fresh []store.DaySums
	require.NoError(t, in.AtOnce(ctx, func(all store.Snapshot) error {
		days, err := all.Days(sums.Fingerprint())
		require.NoError(t, err)
		for _, d := range days {
			if d.Sums == nil {
				one := lens.NewSums(lens.Keys())
				require.NoError(t, all.EachOfDay(store.Look{Lens: lens}, d.Day, piecesOf(asked),
					func(r store.Response, parts [][]byte) error {
						one.Add(recordOf(r, asked, parts))
						return nil
					}))
				require.Equal(t, d.Responses, one.N)
				d.Sums, err = one.Tally()
				require.NoError(t, err)
				fresh = append(fresh, d)
			} else {
				reused++
			}
			require.NoError(t, sums.Merge(d.Sums))
		}
		return nil
	}))
	require.NoError(t, in.KeepDays(ctx, sums.Fingerprint(), fresh))
	return shownOf(sums), reused
}
