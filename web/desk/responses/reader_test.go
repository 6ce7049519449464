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
	list, err := owner.In().Responses(context.Background(), 0, 1)
	require.NoError(t, err)
	one := owner.Base + "/responses/" + list[0].ID
	_, page := owner.Get(one)
	for _, said := range []string{"Pollenosis", "sunburnt"} {
		require.Contains(t, page, said, "owners are shown it")
	}
	by := owner.Member()
	_, err = owner.In().Amend(context.Background(), list[0].ID, &by, time.Now(), func(r store.Response) (store.Response, error) {
		r.Answers = []byte(`{"name": "Ana P", "allergy": "nuts", "memo": "freckled"}`)
		return r, nil
	})
	require.NoError(t, err)
	reader := owner.Reader(true)
	in := owner.Base + "/responses"
	for _, path := range []string{
		in, in + "?cols=name,allergy,memo", in + "?find=freckled", in + "?sort=allergy", in + "?when=allergy+%3D+%22nuts%22",
		one, one + "?version=1", in + "/summary", in + "/summary?of=allergy&by=allergy", in + "/summary/allergy/picture.svg", in + "/as.csv",
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
