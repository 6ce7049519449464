package summary_test

import (
	"archive/zip"
	"context"
	"io"
	"maps"
	"net/url"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/exchange"
	"lazo/store"
	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

func TestWhatResponsesSayAllTogether(t *testing.T) {
	v := desktest.Visit(t, `{"key": "boat", "type": "choice", "label": "Boat class",
		"choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
		{"key": "name", "type": "text", "label": "Your name"}, {"key": "length", "type": "number", "label": "Length in metres"},
		{"key": "called", "type": "tick", "label": "Called", "staff": true}`)
	v.Try([]desktest.Case{
		{Name: "of none", Path: "responses/summary", Says: []string{"No response to sum up"}},
		{Name: "no sheet", Path: "responses/sheets", Says: []string{"There is no response to print"}},
	})
	v.Receive(`{"boat": "eight", "name": "Ana", "length": 17}`)
	v.Receive(`{"boat": "single", "name": "=Bo()", "length": 8}`)
	v.Receive(`{"boat": "single", "name": "Ciro", "length": 9}`)
	long := url.QueryEscape("length > 16")
	v.Try([]desktest.Case{
		{Name: "summed up", Path: "responses/summary", Says: []string{"Boat class", "Single", "67 %", "on average 11.33"}},
		{Name: "crossed", Path: "responses/summary?of=boat&by=called", Says: []string{"Yes", "<td"}},
		{Name: "as a picture", Path: "responses/summary/boat/picture.svg", Says: []string{"<svg", "Single"}},
		{Name: "by no link", Path: "responses/summary/response.link/picture.svg", Status: 404},
		{Name: "of no question", Path: "responses/summary/gone/picture.svg", Status: 404},
		{Name: "out", Path: "responses/out", Says: []string{"NDJSON"}},
		{Name: "CSV of the view", Path: "responses/as.csv?when=" + long, Says: []string{"Ana"}, SaysNot: []string{"Ciro"}},
		{Name: "NDJSON", Path: "responses/as.ndjson", Says: []string{`"name":"=Bo()"`}},
		{Name: "in no such format", Path: "responses/as.doc", Status: 404},
		{Name: "JSON Schema", Path: "responses/schema.json", Says: []string{"json-schema.org", `"length"`}},
		{Name: "sheets", Path: "responses/sheets?when=" + long, Says: []string{"Ana"}, SaysNot: []string{"Ciro"}},
		{Name: "of a condition that can't be read", Path: "responses/summary?when=length+%3E",
			Says: []string{"can’t be read"}},
		{Name: "out by such a one", Path: "responses/as.csv?when=length+%3E", Status: 404},
	})
	_, body := v.Get(v.Base + "/responses/as.xlsx")
	sheets, err := exchange.ReadSheets([]byte(body))
	require.NoError(t, err)
	assert.Equal(t, "Responses", sheets[0].Name)
	assert.Len(t, sheets[0].Cells, 4)
}

// A file that takes long is made beside what people do, kept for who asked for it, and goes
// with the first response that is erased.
func TestAFileThatTakesLonger(t *testing.T) {
	v := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Your name"}`)
	v.Receive(`{"name": "Ana"}`)
	out := v.Base + "/responses/out"
	status, _ := v.Post(out, desktest.Fields("format", "doc"))
	assert.Equal(t, 404, status)
	for _, format := range []string{"csv", "xlsx", "ndjson"} {
		_, page := v.Post(out, desktest.Fields("format", format))
		assert.Contains(t, page, "-"+time.Now().UTC().Format(time.DateOnly)+"."+format)
	}
	link := regexp.MustCompile(`href="(/forms/[0-9]+/responses/out/[0-9a-f-]+)">([^<]+)<`)
	var made [][]string
	require.Eventually(t, func() bool {
		_, page := v.Get(out)
		made = link.FindAllStringSubmatch(page, -1)
		return len(made) == 3
	}, 10*time.Second, 50*time.Millisecond)
	other := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Your name"}`)
	for _, m := range made {
		status, body := v.Get(m[1])
		assert.Equal(t, 200, status)
		assert.NotEmpty(t, body)
		if strings.HasSuffix(m[2], ".csv") {
			assert.Contains(t, body, "Ana")
		}
		status, _ = other.Get(m[1])
		assert.Equal(t, 404, status)
	}
	_, page := v.Post(made[0][1]+"/drop", nil)
	assert.NotContains(t, page, made[0][1])
	for range 3 {
		_, _ = v.Post(out, desktest.Fields("format", "csv"))
	}
	status, page = v.Post(out, desktest.Fields("format", "csv"))
	assert.Equal(t, 409, status)
	assert.Contains(t, page, "Take one away first")
	list, err := v.InForm().Responses(context.Background(), 0, 1)
	require.NoError(t, err)
	require.NoError(t, v.InForm().DeleteResponse(context.Background(), list[0].ID))
	status, _ = v.Get(made[1][1])
	assert.Equal(t, 404, status, "it may hold what was erased")
}

// Files go out in an archive, in a folder for each response and under no name that leads
// out of it.
func TestFilesAsAnArchive(t *testing.T) {
	v := desktest.Visit(t, `{"key": "photo", "type": "file", "label": "Photograph"}, {"key": "paper", "type": "file", "label": "Paper"}`)
	ctx := context.Background()
	filling := uuid.NewString()
	// two of one name
	for _, f := range [][2]string{{"photo", "../../hull.png"}, {"paper", "a:b.txt"}, {"paper ", "a:b.txt"}} {
		_, err := v.Store().AddUpload(ctx,
			store.Upload{FormID: v.Form.ID, Filling: filling, Item: f[0], Name: f[1], MediaType: "text/plain"},
			strings.NewReader("what is in "+f[0]), 1000)
		require.NoError(t, err)
	}
	uploads, err := v.InForm().UploadsOf(ctx, filling)
	require.NoError(t, err)
	_, err = v.Store().AddResponse(ctx,
		store.Response{WorkspaceID: v.Form.WorkspaceID, FormID: v.Form.ID, Edition: 1, Answers: []byte(`{}`),
			ReceivedAt: time.Date(2026, 5, 30, 14, 5, 0, 0, time.UTC), Filling: filling,
			Uploads: slices.Collect(maps.Keys(uploads))})
	require.NoError(t, err)
	_, body := v.Get(v.Base + "/responses/files.zip")
	archive, err := zip.NewReader(strings.NewReader(body), int64(len(body)))
	require.NoError(t, err)
	var names []string
	for _, f := range archive.File {
		_, name, _ := strings.Cut(f.Name, "/")
		names = append(names, name)
		in, err := f.Open()
		require.NoError(t, err)
		data, err := io.ReadAll(in)
		require.NoError(t, err)
		assert.Contains(t, string(data), "what is in ")
	}
	assert.Equal(t, []string{"paper a_b.txt", "paper a_b (2).txt", "photo _.._hull.png"}, names)
	assert.True(t, strings.HasPrefix(archive.File[0].Name, "2026-05-30 14.05 "))
}

// Days with a grid among their answers are counted and kept like all others.
func TestAGridIsSummedUp(t *testing.T) {
	v := desktest.Visit(t, `{"key": "meals", "type": "grid", "label": "Meals", "rows": [{"key": "friday", "label": "Friday"}, {"key": "sunday", "label": "Sunday"}],
		"choices": [{"value": "veg", "label": "No meat"}, {"value": "any", "label": "Anything"}]}`)
	for day := range 3 {
		_, err := v.Store().AddResponse(context.Background(), store.Response{
			WorkspaceID: v.Form.WorkspaceID, FormID: v.Form.ID, Edition: 1,
			Answers:    []byte(`{"meals": {"friday": "veg", "sunday": "any"}}`),
			ReceivedAt: time.Now().AddDate(0, 0, -5-day), Filling: uuid.NewString(),
		})
		require.NoError(t, err)
	}
	for range 2 { // counted, and then as it was kept
		v.Try([]desktest.Case{{Name: "the summary", Path: "responses/summary", Says: []string{"Friday", "No meat"}}})
	}
}
