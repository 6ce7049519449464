package responses_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/desktest"
)

// What is sensitive reaches a reader by no page and no file: not as an answer, nor in the
// history, nor by what is found, sorted, counted or crossed by it.
func TestAReaderIsNotShownWhatIsSensitive(t *testing.T) {
	owner := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Your name"},
		{"key": "allergy", "type": "choice", "label": "Allergy", "sensitive": true,
			"choices": [{"value": "pollen", "label": "Pollenosis"}, {"value": "nuts", "label": "Walnuts"}]},
		{"key": "memo", "type": "text", "label": "Remarks", "sensitive": true}, {"key": "paid", "type": "text", "label": "Paid", "staff": true}`)
	owner.Receive(`{"name": "Ana", "allergy": "pollen", "memo": "sunburnt"}`)
	list, err := owner.InForm().Responses(context.Background(), 0, 1)
	require.NoError(t, err)
	one := owner.Base + "/responses/" + list[0].ID
	_, page := owner.Get(one)
	for _, said := range []string{"Pollenosis", "sunburnt"} {
		require.Contains(t, page, said, "owners are shown it")
	}
	by := owner.Member()
	_, err = owner.InForm().Amend(context.Background(), list[0].ID, &by, time.Now(),
		func(r store.Response) (store.Response, error) {
			r.Answers = []byte(`{"name": "Ana P", "allergy": "nuts", "memo": "freckled"}`)
			return r, nil
		})
	require.NoError(t, err)
	reader := owner.Reader(true)
	in := owner.Base + "/responses"
	for _, path := range []string{
		in, in + "?cols=name,allergy,memo", in + "?find=freckled", in + "?sort=allergy", in + "?when=allergy+%3D+%22nuts%22",
		one, one + "?version=1", in + "/summary", in + "/summary?of=allergy&by=allergy", in + "/summary/allergy/picture.svg",
		in + "/as.csv",
		in + "/as.ndjson", in + "/sheets", in + "/condition?do=add", in + ".csv", in + "/out",
	} {
		_, page := reader.Get(path)
		for _, said := range []string{"Pollenosis", "Walnuts", "sunburnt", "freckled", `"nuts"`, "pollen"} {
			assert.NotContains(t, page, said, path)
		}
	}
	_, page = reader.Get(one)
	assert.Contains(t, page, "not shown to readers")
	assert.Contains(t, page, "Ana P")
	_, page = reader.Get(in + "?when=allergy+%3D+%22nuts%22")
	assert.Contains(t, page, "This condition can’t be read")
	_, page = reader.Get(in + "/as.ndjson")
	assert.Contains(t, page, `"answers":{"name":"Ana P"}`)
	_, page = owner.Get(in + "/as.ndjson")
	assert.Contains(t, page, "freckled")
	book, page := reader.Get(in + "/as.xlsx")
	assert.Equal(t, 200, book)
	workbook, err := excelize.OpenReader(strings.NewReader(page))
	require.NoError(t, err)
	rows, err := workbook.GetRows(workbook.GetSheetName(0))
	require.NoError(t, err)
	assert.Contains(t, fmt.Sprint(rows), "Ana P")
	assert.NotContains(t, fmt.Sprint(rows), "freckled")
}

// What was sensitive when it was given stays so, whatever a newer edition makes of its
// question; so does what it flowed into, and the labels that tell it.
func TestWhatWasSensitiveStaysSo(t *testing.T) {
	ctx := context.Background()
	owner := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Your name"},
		{"key": "memo", "type": "text", "label": "Remarks", "sensitive": true},
		{"key": "copy", "type": "hidden", "label": "Copy", "value": {"is": "memo"}},
		{"key": "first", "type": "text", "label": "First", "value": {"starts": "join(\": \", name, memo)"}},
		{"key": "since", "type": "text", "label": "Since when, {memo}?"}`)
	owner.Receive(`{"name": "Ana", "memo": "sunburnt", "copy": "sunburnt", "first": "Ana: sunburnt", "since": "May"}`)
	list, err := owner.InForm().Responses(ctx, 0, 1)
	require.NoError(t, err)
	one := owner.Base + "/responses/" + list[0].ID
	publish := func(items string) {
		f, err := owner.InForm().Get(ctx)
		require.NoError(t, err)
		def, remarks := form.Read([]byte(`{"lazo": 1, "key": "entry", "title": "Entry", "timezone": "UTC", "pages": [{"key": "p", "title": "Boat",
			"sections": [{"key": "s", "title": "Hull", "items": [` + items + `]}]}]}`))
		require.NotNil(t, def, remarks)
		f, err = owner.InForm().Edit(ctx, f.DraftVersion, owner.Member(), form.Edit{Op: form.Replace, Form: def})
		require.NoError(t, err)
		_, err = owner.InForm().Publish(ctx, f.DraftVersion, owner.Member())
		require.NoError(t, err)
	}
	reader := owner.Reader(true)
	in := owner.Base + "/responses"
	tries := func(when string) {
		for _, path := range []string{
			in, in + "?cols=name,memo,copy,first", in + "?find=sunburnt", in + "?sort=copy",
			in + "?when=copy+%3D+%22sunburnt%22", one,
			in + "/summary", in + "/as.csv", in + "/as.ndjson", in + "/sheets", in + ".csv", in + "/as.xlsx",
		} {
			_, page := reader.Get(path)
			if strings.HasSuffix(path, ".xlsx") {
				book, err := excelize.OpenReader(strings.NewReader(page))
				require.NoError(t, err)
				rows, err := book.GetRows(book.GetSheetName(0))
				require.NoError(t, err)
				page = fmt.Sprint(rows)
			}
			if !strings.Contains(path, "sunburnt") { // an address says what it asked for
				assert.NotContains(t, page, "sunburnt", "%s: %s", when, path)
			}
		}
		_, page := reader.Get(in + "?when=copy+%3D+%22sunburnt%22")
		assert.Contains(t, page, "This condition can’t be read", when)
	}
	tries("as it was given")
	publish(`{"key": "name", "type": "text", "label": "Your name"}`)
	tries("the question is gone")
	publish(`{"key": "name", "type": "text", "label": "Your name"}, {"key": "memo", "type": "text", "label": "Remarks"},
		{"key": "copy", "type": "text", "label": "Copy"}`)
	tries("it is asked openly now")
	_, page := owner.Get(one)
	assert.Contains(t, page, "sunburnt", "owners are shown it")
}
