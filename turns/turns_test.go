package turns_test

import (
	"context"
	"fmt"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/turns"
)

// One member asks for twenty things of a minute each; somebody of another workspace who
// comes then is next, and a colleague comes before the rest.
func TestWhoAsksForMuchWaitsForThemselves(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q := turns.New(1, 100)
		begun := time.Now()
		done := map[string]time.Duration{}
		ask := func(name string, who turns.Who) {
			go func() {
				leave, err := q.Take(context.Background(), who)
				assert.NoError(t, err)
				time.Sleep(time.Minute)
				done[name] = time.Since(begun)
				leave()
			}()
			synctest.Wait()
		}
		for i := range 20 {
			ask(fmt.Sprint("much ", i), turns.Who{Workspace: 1, Member: 1})
		}
		ask("colleague", turns.Who{Workspace: 1, Member: 2})
		ask("other", turns.Who{Workspace: 2, Member: 3})
		time.Sleep(time.Hour)
		synctest.Wait()
		assert.Len(t, done, 22)
		assert.Equal(t, 2*time.Minute, done["other"])
		assert.Equal(t, 3*time.Minute, done["colleague"])
		assert.Equal(t, 22*time.Minute, done["much 19"])
	})
}

// Of several places somebody else finds one at once, whatever one workspace asks for.
func TestAPlaceIsLeftForOthers(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q := turns.New(3, 100)
		for member := range int64(5) {
			for range 4 {
				go func() {
					if leave, err := q.Take(t.Context(), turns.Who{Workspace: 1, Member: member}); err == nil {
						defer leave()
						<-t.Context().Done()
					}
				}()
			}
		}
		synctest.Wait()
		leave, err := q.Take(t.Context(), turns.Who{Workspace: 2, Member: 9})
		require.NoError(t, err)
		leave()
		ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
		defer cancel()
		_, err = q.Take(ctx, turns.Who{Workspace: 1, Member: 1})
		require.ErrorIs(t, err, context.DeadlineExceeded, "they hold what they may")
	})
}

func TestNobodyWaitsForVeryMuch(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q := turns.New(1, 3)
		who := turns.Who{Workspace: 1, Member: 1}
		ctx, cancel := context.WithCancel(t.Context())
		for range 4 {
			go func() {
				if leave, err := q.Take(ctx, who); err == nil {
					<-ctx.Done()
					leave()
				}
			}()
		}
		synctest.Wait()
		_, err := q.Take(ctx, who)
		require.ErrorIs(t, err, turns.ErrMany)
		require.Equal(t, 3, q.Waiting())
		cancel()
		synctest.Wait()
		require.Zero(t, q.Waiting(), "who has left is forgotten")
		leave, err := q.Take(t.Context(), who)
		require.NoError(t, err)
		leave()
		leave() // twice is once
		_, err = q.Take(t.Context(), who)
		require.NoError(t, err)
	})
}

// However people come, wait and leave: never are more places held than there are, by
// anybody more than they may, and in the end everybody who stayed has had theirs.
func TestPlacesAreBounded(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		synctest.Test(t, func(t *testing.T) {
			places := rapid.IntRange(1, 5).Draw(rt, "places")
			q := turns.New(places, 1000)
			var held, of [3]atomic.Int32 // by workspace
			var all, served atomic.Int32
			stay := 0
			for range rapid.IntRange(1, 60).Draw(rt, "people") {
				workspace := rapid.IntRange(0, 2).Draw(rt, "workspace")
				who := turns.Who{Workspace: int64(workspace), Member: int64(rapid.IntRange(0, 2).Draw(rt, "member"))}
				takes := time.Duration(rapid.IntRange(0, 5).Draw(rt, "takes")) * time.Second
				patience := 1000 * time.Hour
				if rapid.Bool().Draw(rt, "leaves") {
					patience = time.Duration(rapid.IntRange(0, 9).Draw(rt, "patience")) * time.Second
				} else {
					stay++
				}
				go func() {
					ctx, cancel := context.WithTimeout(context.Background(), patience)
					defer cancel()
					leave, err := q.Take(ctx, who)
					if err != nil {
						return
					}
					defer leave()
					served.Add(1)
					of[workspace].Add(1)
					assert.LessOrEqual(t, int(all.Add(1)), places)
					assert.LessOrEqual(t, int(held[workspace].Add(1)), max(1, places-1))
					time.Sleep(takes)
					held[workspace].Add(-1)
					all.Add(-1)
				}()
				if rapid.Bool().Draw(rt, "pause") {
					time.Sleep(time.Second)
				}
			}
			time.Sleep(2000 * time.Hour)
			synctest.Wait()
			assert.GreaterOrEqual(t, int(served.Load()), stay)
			assert.Zero(t, all.Load())
			assert.Zero(t, q.Waiting())
		})
	})
}
