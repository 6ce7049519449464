package privacy_test

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/editions"
	"lazo/privacy"
	"lazo/store"
	"lazo/store/storetest"
)

var db *store.Store

func TestMain(m *testing.M) {
	os.Exit(storetest.Main(m, func(s *store.Store) func() { db = s; return func() {} }))
}

// entry is a form with a date, that is live in a workspace of its own.
func entry(t *testing.T, key string) (store.Form, store.MemberID) {
	t.Helper()
	ctx := context.Background()
	w, err := db.CreateWorkspace(ctx, "Harbour "+key)
	require.NoError(t, err)
	m, err := db.CreateMember(ctx,
		store.Member{WorkspaceID: w.ID, Email: key + "@pedralta.example", Name: "Ana", PasswordHash: "x"})
	require.NoError(t, err)
	def, _ := form.Read([]byte(`{"lazo": 1, "key": "` + key + `", "title": "Entry", "timezone": "America/Montevideo", "pages": [{"key": "p", "sections": [
		{"key": "s", "items": [{"key": "name", "type": "text", "label": "Name"}, {"key": "race", "type": "date", "label": "Race"}]}]}]}`))
	f, err := db.InWorkspace(w.ID).CreateForm(ctx, def)
	require.NoError(t, err)
	_, err = db.InWorkspace(w.ID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	f, err = db.InWorkspace(w.ID).Form(f.ID).Get(ctx)
	require.NoError(t, err)
	return f, m.ID
}

var fillings int

func receive(t *testing.T, f store.Form, answers string, at time.Time) {
	t.Helper()
	fillings++
	_, err := db.AddResponse(context.Background(), store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1,
		Answers: []byte(answers), ReceivedAt: at, Filling: fmt.Sprintf("00000000-0000-4000-8000-%012d", fillings)})
	require.NoError(t, err)
}

// names are those of the responses that are left, the newest first.
func names(t *testing.T, f store.Form) (out []string) {
	t.Helper()
	list, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(context.Background(), 0, 100)
	require.NoError(t, err)
	for _, r := range list {
		out = append(out, string(r.Answers))
	}
	return out
}

func TestResponsesGoWhenTheirTimeIsOver(t *testing.T) {
	ctx := context.Background()
	programs := editions.New(db)
	now := time.Date(2030, 6, 30, 2, 0, 0, 0, time.UTC) // in Montevideo it is still the 29th
	day := func(n int) time.Time { return now.AddDate(0, 0, n) }
	byReceipt, _ := entry(t, "by-receipt")
	receive(t, byReceipt, `{"name": "old"}`, day(-31))
	receive(t, byReceipt, `{"name": "new"}`, day(-29))
	forever, _ := entry(t, "forever")
	receive(t, forever, `{"name": "old"}`, day(-4000))
	byDate, member := entry(t, "by-date")
	receive(t, byDate, `{"name": "raced long ago", "race": "2030-05-29"}`, day(-200))
	receive(t, byDate, `{"name": "raced thirty days ago", "race": "2030-05-30"}`, day(-201))
	receive(t, byDate, `{"name": "raced by its old name", "start": "2030-05-01"}`, day(-202))
	receive(t, byDate, `{"name": "no date, old"}`, day(-203))
	receive(t, byDate, `{"name": "no date, new"}`, day(-20))
	receive(t, byDate, `{"name": "no date that is one", "race": 5}`, day(-2))
	in := db.InWorkspace(byDate.WorkspaceID).Form(byDate.ID)
	require.NoError(t, db.InWorkspace(byReceipt.WorkspaceID).Form(byReceipt.ID).SetRetention(ctx,
		store.Retention{Days: 30}, day(-1)))
	require.NoError(t, in.SetRetention(ctx, store.Retention{Days: 30, From: "race"}, day(-1)))
	// The question is called otherwise by now: what came before is under the key of then.
	for from, to := range map[string]string{"race": "start"} {
		changed, err := in.Edit(ctx, byDate.DraftVersion, member, form.Edit{Op: form.RenameKey, Key: from, To: to})
		require.NoError(t, err)
		byDate = changed
	}
	require.NoError(t, privacy.EraseOverdue(ctx, db, programs, now.Add(-time.Minute)))
	assert.Len(t, names(t, byReceipt), 2, "nothing goes in the first 24 hours")
	n, err := privacy.WouldErase(ctx, db.InWorkspace(byReceipt.WorkspaceID).Form(byReceipt.ID), byReceipt,
		store.Retention{Days: 30},
		now)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	n, err = privacy.WouldErase(ctx, in, byDate, store.Retention{Days: 30, From: "start"}, now)
	require.NoError(t, err)
	assert.Equal(t, 3, n, "as many as go")
	require.NoError(t, privacy.EraseOverdue(ctx, db, programs, now))
	assert.Equal(t, []string{`{"name": "new"}`}, names(t, byReceipt))
	assert.Len(t, names(t, forever), 1)
	assert.Equal(t, []string{`{"name": "no date that is one", "race": 5}`, `{"name": "no date, new"}`,
		`{"name": "raced thirty days ago", "race": "2030-05-30"}`}, names(t, byDate))
	steps, err := db.InWorkspace(byDate.WorkspaceID).Trail(ctx, store.Trail{Limit: 5})
	require.NoError(t, err)
	require.Len(t, steps, 1)
	assert.Equal(t, "erased 3 responses, since their time was over", steps[0].Detail)
	require.NoError(t, privacy.EraseOverdue(ctx, db, programs, now))
	steps, err = db.InWorkspace(byDate.WorkspaceID).Trail(ctx, store.Trail{Limit: 5})
	require.NoError(t, err)
	assert.Len(t, steps, 1, "nothing was erased, and nothing is told")
}

func TestHowAPersonIsFound(t *testing.T) {
	ctx := context.Background()
	f, _ := entry(t, "persons")
	other, _ := entry(t, "elsewhere")
	receive(t, f, `{"name": "Ana", "email": "Ana.Rios@lake.example"}`, time.Now())
	receive(t, f, `{"name": "Juana", "email": "juana.rios@lake.example"}`, time.Now())
	receive(t, f, `{"name": "Bo", "remark": "ask\nana.rios@lake.example."}`, time.Now())
	receive(t, f, `{"name": "Ciro", "email": "ana.rios@lake.example.org"}`, time.Now())
	receive(t, f, `{"name": "Dora", "phone": "+59894123456", "rows": [{"call": "094 (123) 456"}]}`, time.Now())
	receive(t, f, `{"name": "Eva", "phone": "+598941234567"}`, time.Now())
	receive(t, other, `{"name": "Ana elsewhere", "email": "ana.rios@lake.example"}`, time.Now())
	for typed, want := range map[string]int{
		"ana.rios@lake.example": 2, " ANA.RIOS@lake.example ": 2, "+598 94 123 456": 1, "+59894123456": 1, "094123456": 1,
		"94123":             0,
		"rios@lake.example": 0, ".*@lake.example": 0,
	} {
		pattern := privacy.Pattern(typed)
		if pattern == "" {
			assert.Zero(t, want, typed)
			continue
		}
		found, err := db.InWorkspace(f.WorkspaceID).Person(ctx, pattern)
		require.NoError(t, err, typed)
		assert.Len(t, found.Responses, want, typed)
	}
	for _, typed := range []string{"", "Ana", "@", "12345", "a@b@c", "ana rios@lake.example", "\"@x.yz", "++++++",
		"(((((("} {
		assert.Empty(t, privacy.Pattern(typed), typed)
	}
	found, err := db.InWorkspace(f.WorkspaceID).Person(ctx, privacy.Pattern("ana.rios@lake.example"))
	require.NoError(t, err)
	var out bytes.Buffer
	require.NoError(t, privacy.HandOut(ctx, db, found, &out))
	archive, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
	require.NoError(t, err)
	data, err := archive.Open("data.json")
	require.NoError(t, err)
	text, err := io.ReadAll(data)
	require.NoError(t, err)
	assert.Contains(t, string(text), "Ana.Rios@lake.example")
	assert.NotContains(t, string(text), "Juana")
}

// A letter to somebody else is theirs, though it says to whom its answer goes.
func TestLettersOfOthersAreNotAPersons(t *testing.T) {
	ctx := context.Background()
	f, _ := entry(t, "letters-of-others")
	in := db.InWorkspace(f.WorkspaceID)
	for _, l := range []store.Letter{
		{Message: "berth", Recipient: "ana@lake.example", ReplyTo: "harbour@lake.example", Subject: "Your berth", Body: "x"},
		{Message: "berth", Recipient: "harbour@lake.example", Subject: "A long boat", Body: "x"},
	} {
		require.NoError(t, in.WriteInvitation(ctx, l, time.Now()))
	}
	found, err := in.Person(ctx, privacy.Pattern("harbour@lake.example"))
	require.NoError(t, err)
	require.Len(t, found.Letters, 1)
	assert.Equal(t, "A long boat", found.Letters[0].Subject)
	require.NoError(t, in.Forget(ctx, found))
	left, err := in.Letters(ctx, store.Outbox{})
	require.NoError(t, err)
	require.Len(t, left, 1)
	assert.Equal(t, "ana@lake.example", left[0].Recipient)
}
