package store_test

import (
	"context"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/store"
)

// letter is one that goes at once.
func letter(message, to string) store.Letter {
	now := time.Now().Add(-time.Second)
	return store.Letter{Edition: 1, Message: message, Recipient: to, Subject: "S", Body: "B", Reason: "Sent always.",
		State: store.Waiting,
		DueAt: now, MadeAt: now, Became: true}
}

// at is a letter with a moment of its own.
func at(l store.Letter, when time.Time, became bool) store.Letter {
	l.Timed, l.DueAt, l.Became = true, when, became
	return l
}

// outbox is what stands in a form's outbox, the oldest first, as "message to state".
func outbox(t *testing.T, f store.Form) (says []string, letters []store.LetterOf) {
	t.Helper()
	letters, err := db.InWorkspace(f.WorkspaceID).Letters(context.Background(), store.Outbox{Form: f.ID})
	require.NoError(t, err)
	for i := len(letters) - 1; i >= 0; i-- {
		says = append(says, letters[i].Message+" "+letters[i].Recipient+" "+string(letters[i].State))
	}
	return says, letters
}

func TestLettersAreWrittenWithTheResponse(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "letters")
	r := response(f, 1)
	r.Goes = []store.Letter{letter("thanks", "ana@lake.example"), letter("office", "office@pedralta.example")}
	for _, bounds := range []store.Bounds{{}, {Sender: "x", Weight: 1, Most: 9}, {Responses: 9}} {
		got, err := db.AddBounded(ctx, r, bounds)
		require.NoError(t, err)
		assert.Contains(t, []store.Reception{store.Received, store.SentBefore}, got)
	}
	says, _ := outbox(t, f)
	assert.Equal(t, []string{"thanks ana@lake.example waiting", "office office@pedralta.example waiting"}, says,
		"once, however often it is sent")
	select {
	case <-db.Outgoing():
	default:
		t.Error("nobody was told")
	}

	stored, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).ResponseOf(ctx, r.Filling)
	require.NoError(t, err)
	require.NoError(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).DeleteResponse(ctx, stored.ID))
	says, _ = outbox(t, f)
	assert.Empty(t, says, "what is erased sends nothing")

	full := response(f, 2)
	full.Goes, full.Judge = r.Goes, 9
	got, err := db.AddResponse(ctx, full)
	require.NoError(t, err)
	assert.Equal(t, store.Superseded, got)
	says, _ = outbox(t, f)
	assert.Empty(t, says, "what is not stored sends nothing")
}

func TestALetterWithAMomentMovesWithIt(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "moments")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	day := time.Now().Truncate(time.Second).AddDate(0, 0, 10)
	r := response(f, 1)
	r.Goes = []store.Letter{at(letter("reminder", "ana@lake.example"), day, true)}
	_, err := db.AddResponse(ctx, r)
	require.NoError(t, err)
	r, err = in.ResponseOf(ctx, r.Filling)
	require.NoError(t, err)
	n := 0
	change := func(goes ...store.Letter) []string {
		n++
		_, err := in.ChangeResponse(ctx, r.ID, store.Response{Edition: 1, Answers: numbered(n), Goes: goes}, time.Now())
		require.NoError(t, err)
		says, _ := outbox(t, f)
		return says
	}
	assert.Equal(t, []string{"reminder ana@lake.example waiting"},
		change(at(letter("reminder", "ana@lake.example"), day.AddDate(0, 0, 5), false)))
	_, letters := outbox(t, f)
	assert.True(t, letters[0].DueAt.Equal(day.AddDate(0, 0, 5)), "it has moved")
	assert.Equal(t, []string{"reminder ana@lake.example dropped", "reminder bo@lake.example waiting"},
		change(at(letter("reminder", "bo@lake.example"), day, false)), "it goes to another address")
	assert.Equal(t, []string{"reminder ana@lake.example dropped", "reminder bo@lake.example dropped"}, change(),
		"it is not called for")
	assert.Len(t, change(at(letter("reminder", "bo@lake.example"), day, false)), 2, "it did not become called for")
	assert.Len(t, change(at(letter("reminder", "bo@lake.example"), day, true)), 3, "it did")

	assert.Len(t, change(at(letter("follow", "bo@lake.example"), time.Now().Add(-time.Hour), false)), 3,
		"what is past already does not begin")
	assert.Len(t, change(at(letter("follow", "bo@lake.example"), day, false)), 4, "its moment became known")
}

func TestOfManyCopiesOneHandsALetterOn(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "handing-on")
	for i := range 3 {
		r := response(f, i)
		r.Goes = []store.Letter{letter("thanks", "ana@lake.example"), letter("office", "office@pedralta.example")}
		r.Goes[0].Answered = true
		_, err := db.AddResponse(ctx, r)
		require.NoError(t, err)
	}
	ours := map[store.LetterID]bool{}
	_, letters := outbox(t, f)
	for _, l := range letters {
		ours[l.ID] = true
	}
	handed := map[store.LetterID]int{}
	var due []store.Due
	hand := func(_ context.Context, _ pgx.Tx, d []store.Due) error {
		for _, one := range d {
			if ours[one.ID] {
				handed[one.ID]++
				due = append(due, one)
			}
		}
		return nil
	}
	limits := store.Limits{Form: 5, Address: 2}
	for range 3 {
		_, err := db.HandOn(ctx, time.Now(), limits, true, hand)
		require.NoError(t, err)
	}
	assert.Len(t, handed, 5, "one waits, since an address that was answered gets two an hour")
	for _, n := range handed {
		assert.Equal(t, 1, n)
	}
	_, letters = outbox(t, f)
	waits := letters[1] // the third to the address
	assert.Equal(t, "It waits for an hour: 2 letters an hour are sent to one address that was answered, at most.",
		waits.Answer)
	assert.Greater(t, time.Until(waits.DueAt), 50*time.Minute)

	l, of, err := db.Claim(ctx, due[0])
	require.NoError(t, err)
	assert.Equal(t, *l.ResponseID, of.ID)
	assert.Equal(t, 1, l.Attempts)
	l, _, err = db.Claim(ctx, due[0])
	require.NoError(t, err, "an attempt that was broken off is made again")
	assert.Equal(t, 2, l.Attempts)
	require.NoError(t, db.Became(ctx, due[0], store.Sent, "", time.Now()))
	_, _, err = db.Claim(ctx, due[0])
	require.ErrorIs(t, err, store.ErrNotFound, "what has gone does not go again")
	_, _, err = db.Claim(ctx, store.Due{ID: due[1].ID, Round: due[1].Round - 1})
	require.ErrorIs(t, err, store.ErrNotFound, "who was handed it before has no claim")
}

func TestLettersAreHeldLetGoAndCancelled(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "holding")
	other, _ := publish(t, "holding-other")
	r := response(f, 1)
	r.Goes = []store.Letter{letter("thanks", "ana@lake.example")}
	_, err := db.AddResponse(ctx, r)
	require.NoError(t, err)
	_, letters := outbox(t, f)
	id, in := letters[0].ID, db.InWorkspace(f.WorkspaceID)
	state := func() store.LetterState {
		l, err := in.Letter(ctx, id)
		require.NoError(t, err)
		return l.State
	}
	require.ErrorIs(t, db.InWorkspace(other.WorkspaceID).Hold(ctx, id), store.ErrNotFound,
		"another workspace’s is not there")
	require.NoError(t, in.Hold(ctx, id))
	require.ErrorIs(t, in.Hold(ctx, id), store.ErrConflict)
	n, err := db.HandOn(ctx, time.Now(), store.Limits{Form: 9, Address: 9}, true,
		func(_ context.Context, _ pgx.Tx, d []store.Due) error {
			for _, one := range d {
				assert.NotEqual(t, id, one.ID)
			}
			return nil
		})
	require.NoError(t, err)
	assert.Zero(t, n)
	require.NoError(t, in.LetGo(ctx, id, time.Now()))
	assert.Equal(t, store.Waiting, state())
	counts, err := in.CountLetters(ctx, store.Outbox{})
	require.NoError(t, err)
	assert.Equal(t, map[store.LetterState]int{store.Waiting: 1}, counts)
	require.NoError(t, in.Cancel(ctx, id, time.Now()))
	assert.Equal(t, store.Cancelled, state())
	require.ErrorIs(t, in.SendAgain(ctx, id, "Sent again.", time.Now()), store.ErrConflict, "only what has gone")
	counts, err = in.CountLetters(ctx, store.Outbox{})
	require.NoError(t, err)
	assert.Empty(t, counts, "nothing is to become of it")
}

// numbered are answers that differ.
func numbered(n int) []byte { return fmt.Appendf(nil, `{"n": %d}`, n) }

// An address is the same in capitals, also within one batch; what is beyond a day's is not
// sent later either, and says so.
func TestAnAddressIsWrittenToSoOftenADay(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "so-often-a-day")
	for i, to := range []string{"eva@lake.example", "EVA@lake.example", "Eva@Lake.example", "eva@LAKE.example",
		"bo@lake.example"} {
		r := response(f, i)
		r.Goes = []store.Letter{letter("thanks", to)}
		r.Goes[0].Answered = true
		_, err := db.AddResponse(ctx, r)
		require.NoError(t, err)
	}
	hand := func(context.Context, pgx.Tx, []store.Due) error { return nil }
	hand2 := func(at time.Time) (states []string) {
		_, err := db.HandOn(ctx, at, store.Limits{Form: 50, Address: 2, Day: 3}, true, hand)
		require.NoError(t, err)
		_, letters := outbox(t, f)
		for _, l := range letters {
			switch {
			case l.State == store.Dropped:
				assert.Equal(t, "It was not sent: 3 letters a day are sent to one address that was answered, at most.", l.Answer)
				states = append(states, "dropped")
			case l.Answer != "":
				states = append(states, "waits")
			default:
				states = append(states, "goes")
			}
		}
		slices.Sort(states)
		return states
	}
	assert.Equal(t, []string{"goes", "goes", "goes", "waits", "waits"}, hand2(time.Now()))
	assert.Equal(t, []string{"dropped", "goes", "goes", "goes", "waits"}, hand2(time.Now().Add(61*time.Minute)))
}
