package intake_test

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/exchange"
	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const crews = `{"key": "name", "type": "text", "label": "Name of the crew", "required": true},
	{"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "x1", "label": "Single"}, {"value": "x8", "label": "Eight"}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"x8\""},
	{"key": "slot", "type": "choice", "label": "Slot", "choices": [{"value": "am", "label": "Morning", "places": 2}, {"value": "pm"}]}`

func count(t *testing.T, v *desktest.Visitor) int {
	t.Helper()
	n, err := v.InForm().CountResponses(context.Background())
	require.NoError(t, err)
	list, err := v.InForm().Responses(context.Background(), 0, 1000)
	require.NoError(t, err)
	require.Len(t, list, n, "the tally is what is there")
	return n
}

func TestResponsesAreReadIn(t *testing.T) {
	v := desktest.Visit(t, crews)
	in := v.Base + "/responses/in"
	_, page := v.Get(in)
	assert.Contains(t, page, "Look at its columns")
	_, page = v.Upload(in, "crews.csv", []byte("Crew;Boat;Cox\nTeal;Single;\nCoot;eight;Ana\nReed;x8;Bea\n"))
	matching := v.At
	assert.Contains(t, page, "Read crews.csv in")
	assert.Contains(t, page, `<option value="boat" selected>Boat</option>`, "what a heading says is matched")
	_, page = v.Post(matching, desktest.Fields("column.1", "boat", "column.2", "cox"))
	assert.Contains(t, page, "No line can be taken yet")
	assert.Contains(t, page, "<b>Name of the crew</b>, in 3 lines")
	_, page = v.Post(matching, desktest.Fields("column.1", "boat", "column.2", "cox", "anyway", "1"))
	assert.Contains(t, page, "All 3 responses can be taken")
	assert.Contains(t, page, "<b>Name of the crew</b>, in 3 lines")
	_, page = v.Post(matching, desktest.Fields("column.0", "boat", "column.1", "boat"))
	assert.Contains(t, page, "can’t both be Boat")
	_, page = v.Post(matching, desktest.Fields("column.0", "name", "column.1", "boat", "column.2", "cox"))
	assert.Contains(t, page, "All 3 responses can be taken")
	assert.Equal(t, 0, count(t, v))
	_, page = v.Post(matching+"/take", nil)
	assert.Contains(t, page, "They are among the responses now.")
	assert.Contains(t, page, "<b>crews.csv</b>: 3 responses")
	assert.Equal(t, 3, count(t, v))
	status, _ := v.Get(matching)
	assert.Equal(t, http.StatusNotFound, status, "it is taken once")

	list, err := v.InForm().Responses(context.Background(), 0, 10)
	require.NoError(t, err)
	_, page = v.Get(v.Base + "/responses/" + list[0].ID)
	assert.Contains(t, page, "Read in by the office")

	// The same rows are not taken twice.
	_, _ = v.Upload(in, "crews.csv", []byte("name;boat;cox\nTeal;Single;\n"))
	again := v.At
	status, page = v.Post(again+"/take", nil)
	assert.Equal(t, http.StatusConflict, status)
	assert.Contains(t, page, "were read in before")
	_, _ = v.Post(again+"/drop", nil)

	// One is changed; the others are taken out again as one.
	member := v.Member()
	_, _ = v.Post(v.Base+"/responses/"+list[0].ID+"/withdraw", nil)
	intakes, err := v.InForm().Intakes(context.Background(), 9)
	require.NoError(t, err)
	require.Len(t, intakes, 1)
	assert.Equal(t, &member, intakes[0].MemberID)
	out := fmt.Sprintf("%s/%d/take-out", in, intakes[0].ID)
	_, _ = v.Post(out, nil)
	assert.Len(t, all(t, v), 3, "not without being sure")
	_, page = v.Post(out, desktest.Fields("sure", "1"))
	assert.Contains(t, page, "but for those that were changed or withdrawn since")
	assert.Len(t, all(t, v), 1)
}

func all(t *testing.T, v *desktest.Visitor) []string {
	list, err := v.InForm().Responses(context.Background(), 0, 1000)
	require.NoError(t, err)
	var ids []string
	for _, r := range list {
		ids = append(ids, r.ID)
	}
	return ids
}

// All are taken or none, also where places run out midway.
func TestNoneIsTakenWhereOneIsNot(t *testing.T) {
	v := desktest.Visit(t, crews)
	in := v.Base + "/responses/in"
	lines := []string{"name,boat,slot"}
	for i := range 1200 {
		lines = append(lines, fmt.Sprintf("Crew %d,x1,", i))
	}
	lines[1100] = "Crew,x9,"
	_, _ = v.Upload(in, "crews.csv", []byte(strings.Join(lines, "\n")))
	status, page := v.Post(v.At+"/take", nil)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, page, "B1101</code>: “x9” is none of the choices of Boat")
	assert.Empty(t, all(t, v))

	lines[1100] = "Crew,x1,am"
	lines[1] = "Crew,x1,am"
	lines[2] = "Crew,x1,Morning"
	_, _ = v.Upload(in, "crews.csv", []byte(strings.Join(lines, "\n")))
	status, page = v.Post(v.At+"/take", nil)
	assert.Equal(t, http.StatusConflict, status)
	assert.Contains(t, page, "than it has places left")
	assert.Empty(t, all(t, v))
	lines[2] = "Crew,x1,pm"
	_, _ = v.Upload(in, "crews.csv", []byte(strings.Join(lines, "\n")))
	_, _ = v.Post(v.At+"/take", nil)
	assert.Equal(t, 1200, len(lines)-1)
	n, err := v.InForm().CountResponses(context.Background())
	require.NoError(t, err)
	assert.Equal(t, 1200, n)
	taken, err := v.InForm().Taken(context.Background())
	require.NoError(t, err)
	assert.Equal(t, 2, taken["slot"]["am"])
}

func TestWhatCanNotBeReadIn(t *testing.T) {
	v := desktest.Visit(t, crews)
	in := v.Base + "/responses/in"
	for _, c := range []struct {
		name string
		data string
		says string
	}{
		{"", "", "Choose a file"},
		{"crews.csv", "name;boat\n", "nothing in it below a heading"},
		{"crews.xlsx", "PK\x03\x04 and then nothing", "no whole XLSX file"},
		{"crews.xls", "\xd0\xcf\x11\xe0", "locked with a password"},
	} {
		status, page := v.Upload(in, c.name, []byte(c.data))
		assert.Equal(t, http.StatusUnprocessableEntity, status, c.name)
		assert.Contains(t, page, c.says)
	}
	book, err := exchange.WriteXLSX([]exchange.Sheet{{Name: "Crews",
		Cells: [][]string{{"Name of the crew", "Boat"}, {"Teal", "Eight"}}}})
	require.NoError(t, err)
	_, page := v.Upload(in, "crews.xlsx", book)
	assert.Contains(t, page, `<option value="name" selected>`)
	// Taken although something is missing, each says so.
	_, _ = v.Post(v.At, desktest.Fields("column.1", "boat", "anyway", "1"))
	_, _ = v.Post(v.At+"/take", desktest.Fields("anyway", "1"))
	ids := all(t, v)
	require.Len(t, ids, 1)
	_, page = v.Get(v.Base + "/responses/" + ids[0])
	assert.Contains(t, page, "The office stored it although:")
	// It is nobody else's.
	_, _ = v.Upload(in, "crews.xlsx", book)
	other := desktest.Visit(t, crews)
	status, _ := other.Get(v.At)
	assert.Equal(t, http.StatusNotFound, status)
	status, _ = v.Get(v.Base + "/responses/in/123456")
	assert.Equal(t, http.StatusNotFound, status)
}
