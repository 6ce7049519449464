package response_test

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"net/url"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

func TestAResponseIsCorrected(t *testing.T) {
	v, ids := desktest.Entries(t)
	one := "responses/" + ids["Ana"]
	_, page := v.Get(v.Base + "/" + one + "/change")
	fields := desktest.Hidden(page)
	fields.Set("a.name", "Ana Ríos")
	fields.Set("a.boat", "eight")
	fields.Set("a.length", "18")
	fields.Set("_do", "save")
	late := url.Values{}
	for k, values := range fields {
		late[k] = values
	}
	v.Try([]desktest.Case{
		{Name: "saved", Path: one + "/change", Post: fields, Says: []string{"Ana Ríos", "Changed by", "17"}},
		{Name: "as it was", Path: one + "?version=1", Says: []string{"as it was before a change"}},
		{Name: "the same by one who began before", Path: one + "/change", Post: late, Says: []string{"Ana Ríos"}},
	})
	// Who began before and changed something else takes nothing back.
	late.Set("a.name", "Ana")
	late.Set("a.length", "17")
	late.Set("a.boat", "single")
	v.Try([]desktest.Case{{Name: "something else", Path: one + "/change", Post: late,
		Says: []string{"Ana Ríos", "18", "Single"}}})
	assert.Equal(t, "Ana Ríos", v.Answers(ids["Ana"])["name"])
	// Who changed the same is shown both, and decides.
	late.Set("a.name", "Anita")
	v.Try([]desktest.Case{{Name: "the same otherwise", Path: one + "/change", Post: late, Status: 422,
		Says: []string{"Somebody else has changed", "Anita", "Ana Ríos", "changed by Ana Prado", `name="_whose.name"`}}})
	assert.Equal(t, "Ana Ríos", v.Answers(ids["Ana"])["name"], "nothing was stored")
	late.Set("_whose.name", "mine")
	v.Try([]desktest.Case{{Name: "decided", Path: one + "/change", Post: late, Says: []string{"Anita"}}})
	assert.Equal(t, "Anita", v.Answers(ids["Ana"])["name"])
	assert.Equal(t, "18", fmt.Sprint(v.Answers(ids["Ana"])["length"]), "what the page did not change stays")
	_, page = v.Get(v.Base + "/" + one + "/change")
	fields = desktest.Hidden(page)
	fields.Set("a.name", "Ana Ríos")
	fields.Set("a.length", "25")
	fields.Set("_do", "save")
	v.Try([]desktest.Case{{Name: "beyond a bound", Path: one + "/change", Post: fields, Status: 422,
		Says: []string{"not stored yet", "Length in metres"}}})
	fields.Set("_anyway", "1")
	v.Try([]desktest.Case{{Name: "all the same", Path: one + "/change", Post: fields,
		Says: []string{"The office stored it although", "25"}}})
	_, page = v.Get(v.Base + "/responses/new")
	fields = desktest.Hidden(page)
	fields.Set("a.name", "Dora")
	fields.Set("_do", "save")
	again := url.Values{}
	for k, values := range fields {
		again[k] = values
	}
	v.Try([]desktest.Case{
		{Name: "by telephone", Path: "responses/new", Post: fields, Says: []string{"Taken down by the office", "Dora"}},
		{Name: "sent twice", Path: "responses/new", Post: again, Says: []string{"Dora"}},
		{Name: "by the office", Path: "responses?when=" + url.QueryEscape(`response.by = "office"`), Says: []string{"Dora"},
			SaysNot: []string{"Ciro"}},
	})
	n, err := v.InForm().CountResponses(context.Background())
	require.NoError(t, err)
	assert.Equal(t, 4, n)
}

// A version is restored as it was, and one change is undone without those that came after it.
func TestVersionsAreRestoredAndChangesUndone(t *testing.T) {
	v, ids := desktest.Entries(t)
	one := v.Base + "/responses/" + ids["Ana"]
	change := func(pairs ...string) {
		_, page := v.Get(one + "/change")
		fields := desktest.Hidden(page)
		for key, now := range map[string]string{"a.name": "name", "a.boat": "boat", "a.length": "length"} {
			fields.Set(key, fmt.Sprint(v.Answers(ids["Ana"])[now]))
		}
		for i := 0; i < len(pairs); i += 2 {
			fields.Set(pairs[i], pairs[i+1])
		}
		fields.Set("_do", "save")
		status, page := v.Post(one+"/change", fields)
		require.Equal(t, 200, status, page)
	}
	change("a.name", "Ana Ríos") // version 1 is before it
	change("a.length", "18")     // version 2
	change("a.boat", "single")   // version 3
	_, page := v.Get(one)
	assert.Contains(t, page, "Restore this version")
	assert.Contains(t, page, "Undo this change")
	// The second change is undone; the first and the third stay.
	status, page := v.Post(one+"/undo", desktest.Fields("version", "2"))
	require.Equal(t, 200, status, page)
	answers := v.Answers(ids["Ana"])
	assert.Equal(t, []string{"Ana Ríos", "17", "single"},
		[]string{fmt.Sprint(answers["name"]), fmt.Sprint(answers["length"]), fmt.Sprint(answers["boat"])})
	// What was changed again since is not undone.
	change("a.name", "Anita")
	status, page = v.Post(one+"/undo", desktest.Fields("version", "1"))
	assert.Equal(t, 409, status)
	assert.Contains(t, page, "Your name")
	assert.Equal(t, "Anita", v.Answers(ids["Ana"])["name"])
	status, _ = v.Post(one+"/restore", desktest.Fields("version", "1"))
	require.Equal(t, 200, status)
	answers = v.Answers(ids["Ana"])
	assert.Equal(t, []string{"Ana", "17", "eight"},
		[]string{fmt.Sprint(answers["name"]), fmt.Sprint(answers["length"]), fmt.Sprint(answers["boat"])})
	status, _ = v.Post(one+"/restore", desktest.Fields("version", "99"))
	assert.Equal(t, 404, status)
	status, page = v.Reader(false).Post(one+"/restore", desktest.Fields("version", "1"))
	assert.GreaterOrEqual(t, status, 400, page)
}

// A picture that came with a response is drawn anew; what is none is shown as none.
func TestPicturesAreDrawnAnew(t *testing.T) {
	v := desktest.Visit(t, `{"key": "hull", "type": "file", "label": "The hull"}`)
	ctx := context.Background()
	filling := "00000000-0000-4000-8000-00000000cafe"
	var wide bytes.Buffer
	require.NoError(t, png.Encode(&wide, image.NewRGBA(image.Rect(0, 0, 2000, 500))))
	add := func(item, name string, data []byte) string {
		u, err := v.Store().AddUpload(ctx,
			store.Upload{FormID: v.Form.ID, Filling: filling, Item: item, Name: name, MediaType: "image/png"},
			bytes.NewReader(data), 1<<20)
		require.NoError(t, err)
		return u.ID
	}
	good := add("hull", "hull.png", append(wide.Bytes(), []byte("<script>")...))
	bad := add("bow", "bow.svg", []byte(`<svg onload="alert(1)"/>`))
	_, err := v.Store().AddResponse(ctx,
		store.Response{WorkspaceID: v.Form.WorkspaceID, FormID: v.Form.ID, Edition: 1, Filling: filling,
			Answers: []byte(`{"hull": {"id": "` + good + `", "name": "hull.png"}}`), ReceivedAt: time.Now(),
			Uploads: []string{good, bad}})
	require.NoError(t, err)
	res, err := v.InForm().ResponseOf(ctx, filling)
	require.NoError(t, err)
	one := "responses/" + res.ID
	v.Try([]desktest.Case{
		{Name: "with its picture", Path: one, Says: []string{`/files/` + good + `/picture"`}},
		{Name: "what is none", Path: one + "/files/" + bad + "/picture", Status: 404},
	})
	_, drawn := v.Get(v.Base + "/" + one + "/files/" + good + "/picture")
	size, err := png.DecodeConfig(strings.NewReader(drawn))
	require.NoError(t, err)
	assert.Equal(t, []int{640, 160}, []int{size.Width, size.Height})
	assert.NotContains(t, drawn, "<script>")
}

// What a later edition asks is said beside the answers of then.
func TestWhatWouldBeAskedNow(t *testing.T) {
	v, ids := desktest.Entries(t)
	_, page := v.Get(v.Base + "/responses/" + ids["Ana"])
	assert.NotContains(t, page, "would also be asked")
	f, err := v.InForm().Get(context.Background())
	require.NoError(t, err)
	f, err = v.InForm().Edit(context.Background(), f.DraftVersion, v.Member(),
		form.Edit{Op: form.AddItem, Into: "s", Item: &form.Item{
			Key: "cox", Type: form.Text, Label: "Who steers?", Shown: form.When(`boat = "eight"`)}})
	require.NoError(t, err)
	_, err = v.InForm().Publish(context.Background(), f.DraftVersion, v.Member())
	require.NoError(t, err)
	_, page = v.Get(v.Base + "/responses/" + ids["Ana"])
	assert.Contains(t, page, "would also be asked")
	assert.Contains(t, page, "Who steers?")
	_, page = v.Get(v.Base + "/responses/" + ids["Ciro"])
	assert.NotContains(t, page, "would also be asked", "of a single it would not")
	// Of an answer that is put in by the later edition nothing else is touched.
	v.Post(v.Base+"/responses/"+ids["Ana"]+"/set", desktest.Fields("key", "called", "value", "yes"))
	assert.Equal(t, "Ana", v.Answers(ids["Ana"])["name"])
}

// What was withdrawn stays, counts for nothing, gives its places back, and can count again
// while there are some.
func TestAResponseIsWithdrawn(t *testing.T) {
	v := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Your name"}, {"key": "called", "type": "tick", "label": "Called", "staff": true},
		{"key": "slot", "type": "choice", "label": "Slot", "choices": [{"value": "am", "places": 1}]}`)
	ctx := context.Background()
	one := 1
	take := func(name string) store.Reception {
		got, err := v.Store().AddResponse(ctx, store.Response{
			WorkspaceID: v.Form.WorkspaceID, FormID: v.Form.ID, Edition: 1,
			Answers:    []byte(`{"name": "` + name + `", "slot": "am"}`),
			ReceivedAt: time.Now(), Filling: uuid.NewString(), Takes: engine.Takes{"slot": {"am": {N: 1, Of: &one}}},
		})
		require.NoError(t, err)
		return got
	}
	require.Equal(t, store.Received, take("Ana"))
	require.Equal(t, store.NoPlaces, take("Bo"))
	list, err := v.InForm().Responses(ctx, 0, 9)
	require.NoError(t, err)
	id := list[0].ID
	to := v.Base + "/responses/" + id
	_, page := v.Post(to+"/withdraw", nil)
	assert.Contains(t, page, "This response was withdrawn")
	assert.Contains(t, page, "Withdrawn by the office")
	assert.NotContains(t, page, "Change the answers")
	n, err := v.InForm().CountResponses(ctx)
	require.NoError(t, err)
	assert.Zero(t, n)
	_, page = v.Get(v.Base + "/responses")
	assert.NotContains(t, page, "Ana</")
	assert.Contains(t, page, `>Withdrawn</a>`)
	_, page = v.Get(v.Base + "/responses?when=" + url.QueryEscape(`response.state = "withdrawn"`))
	assert.Contains(t, page, "Ana")
	assert.Contains(t, page, "· withdrawn")
	_, csv := v.Get(v.Base + "/responses.csv")
	assert.NotContains(t, csv, "Ana")
	status, page := v.Post(to+"/change", desktest.Fields("_do", "save", "_since", "received", "a.name", "Bea"))
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "Let it count again before you change it")
	_, page = v.Post(to+"/set", desktest.Fields("key", "called", "value", "yes"))
	assert.NotContains(t, v.Answers(id), "called")
	assert.NotEmpty(t, page)

	require.Equal(t, store.Received, take("Bo"), "its place is free")
	status, page = v.Post(to+"/reinstate", nil)
	assert.Equal(t, 409, status)
	assert.Contains(t, page, "Its places are taken by now")
	newest, err := v.InForm().Responses(ctx, 0, 1)
	require.NoError(t, err)
	require.NoError(t, v.InForm().DeleteResponse(ctx, newest[0].ID))
	_, page = v.Post(to+"/reinstate", nil)
	assert.Contains(t, page, "Change the answers")
	require.Equal(t, store.NoPlaces, take("Ciro"), "it has its place again")
}

// A response shows the letters that the form would send for it, and why each goes or not.
func TestTheLettersOfAResponse(t *testing.T) {
	v, ids := desktest.Entries(t)
	ctx := context.Background()
	one := v.Base + "/responses/" + ids["Ana"]
	_, page := v.Get(one)
	assert.NotContains(t, page, "What the form as it is now would send")
	draft, err := v.InForm().Edit(ctx, v.Form.DraftVersion, v.Member(), form.SetProperty("", "messages", []form.Message{
		{
			Key: "long", Name: "Tell the harbour", When: "length >= 12", To: []string{"harbour@pedralta.example"},
			Subject: "{length} metres",
			Body:    "By **{name}**",
		},
		{
			Key: "short", Name: "Tell the slipway", When: "length < 12", To: []string{"slipway@pedralta.example"}, Subject: "x",
			Body: "y",
		}}))
	require.NoError(t, err)
	_, err = v.InForm().Publish(ctx, draft.DraftVersion, v.Member())
	require.NoError(t, err)
	_, page = v.Get(one)
	assert.Contains(t, page, "What the form as it is now would send")
	assert.Contains(t, page, "17 metres")
	assert.Contains(t, page, "By <strong>Ana</strong>")
	assert.Contains(t, page, "Tell the slipway")
	assert.Contains(t, page, "Length in metres is 17")
	_, page = v.Post(one+"/withdraw", nil)
	assert.NotContains(t, page, "Its letters")
}
