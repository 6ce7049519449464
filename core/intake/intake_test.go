package intake_test

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/core/intake"
)

const crews = `{"lazo": 1, "key": "crews", "title": "Crews", "timezone": "Europe/Madrid",
	"parameters": [{"name": "club"}],
	"pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "name", "type": "text", "label": "Name of the crew", "required": true},
		{"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "x1", "label": "Single"}, {"value": "x8", "label": "Eight"}]},
		{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"x8\""},
		{"key": "days", "type": "choices", "label": "Days", "choices": [{"value": "sat", "label": "Saturday, early"}, {"value": "sun"},
			{"value": "else", "label": "Another day", "other": true}]},
		{"key": "length", "type": "number", "label": "Length", "max": 20},
		{"key": "first", "type": "date", "label": "First race"},
		{"key": "home", "type": "address", "label": "Home"},
		{"key": "own", "type": "yes_no", "label": "Own boat"},
		{"key": "meals", "type": "grid", "label": "Meals", "choices": [{"value": "any"}, {"value": "none"}], "rows": [{"key": "sat"}, {"key": "sun"}]},
		{"key": "slot", "type": "choice", "label": "Slot", "choices": [{"value": "am", "places": 2}, {"value": "pm"}]},
		{"key": "paid", "type": "tick", "label": "Paid", "staff": true},
		{"key": "photo", "type": "file", "label": "Photograph"},
		{"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "20"}}]},
	{"key": "rowers", "title": "Rowers", "repeat": {"max": 8}, "items": [{"key": "rower", "type": "text", "label": "Rower"}]}]}]}`

func program(t *testing.T, src string) *engine.Program {
	t.Helper()
	p, remarks := engine.Load([]byte(src))
	require.NotNil(t, p, remarks)
	return p
}

var now = time.Date(2026, 5, 30, 12, 0, 0, 0, time.UTC)

// read reads lines of cells in that are parted by bars.
func read(t *testing.T, p *engine.Program, lines ...string) (intake.Reading, []string) {
	t.Helper()
	var cells [][]string
	for _, l := range lines {
		cells = append(cells, strings.Split(l, "|"))
	}
	r, err := intake.NewReader(p, cells[0], intake.Guess(cells[0], intake.Targets(p.Form, cells[0])), now)
	require.NoError(t, err)
	var stored []string
	got, err := r.Read(cells, func(_ int, res intake.Response) error {
		stored = append(stored, string(res.Answers))
		return nil
	})
	require.NoError(t, err)
	return got, stored
}

func TestRowsBecomeResponses(t *testing.T) {
	p := program(t, crews)
	for _, c := range []struct{ head, row, want string }{
		{"Name of the crew|BOAT", "Teal|single", `{"name": "Teal", "boat": "x1", "fee": 20}`},
		{"name|boat|Cox", "Teal|Eight|Ana Ríos", `{"name": "Teal", "boat": "x8", "cox": "Ana Ríos", "fee": 20}`},
		{"name|days", "Teal|Saturday, early", `{"name": "Teal", "days": ["sat"], "fee": 20}`},
		{"name|days", "Teal|sun; Saturday, early", `{"name": "Teal", "days": ["sat", "sun"], "fee": 20}`},
		{"name|days|days.other", "Teal|sun, else|Friday",
			`{"name": "Teal", "days": ["sun", {"value": "else", "text": "Friday"}], "fee": 20}`},
		{"name|days.other", "Teal|Friday", `{"name": "Teal", "days": [{"value": "else", "text": "Friday"}], "fee": 20}`},
		{"name|length|first", "Teal|12.5|2026-06-01", `{"name": "Teal", "length": 12.5, "first": "2026-06-01", "fee": 20}`},
		{"name|home.city|Home, street", "Teal|Pedralta|Muelle 2",
			`{"name": "Teal", "home": {"city": "Pedralta", "street": "Muelle 2"}, "fee": 20}`},
		{"name|own|paid", "Teal|no|x", `{"name": "Teal", "own": false, "paid": true, "fee": 20}`},
		{"name|meals.sat|meals.sun", "Teal|any|", `{"name": "Teal", "meals": {"sat": "any"}, "fee": 20}`},
		{"name|rowers.2.rower|rowers.1.rower", "Teal|Bea|Ana",
			`{"name": "Teal", "rowers": [{"rower": "Ana"}, {"rower": "Bea"}], "fee": 20}`},
	} {
		got, stored := read(t, p, c.head, c.row)
		require.Empty(t, got.Faults, "%s\n%s", c.head, c.row)
		require.Len(t, stored, 1)
		var is map[string]any
		require.NoError(t, json.Unmarshal([]byte(stored[0]), &is))
		is = withoutRowIDs(is)
		data, err := json.Marshal(is)
		require.NoError(t, err)
		assert.JSONEq(t, c.want, string(data), "%s\n%s", c.head, c.row)
	}
}

func withoutRowIDs(answers map[string]any) map[string]any {
	for _, v := range answers {
		rows, _ := v.([]any)
		for _, row := range rows {
			if m, ok := row.(map[string]any); ok {
				delete(m, engine.RowID)
			}
		}
	}
	for key, v := range answers { // sets that nothing was picked in
		if list, is := v.([]any); is && len(list) == 0 {
			delete(answers, key)
		}
		if v == false && key != "own" {
			delete(answers, key)
		}
		if rows, is := v.([]any); is && key == "rowers" && len(rows) == 0 {
			delete(answers, key)
		}
	}
	return answers
}

func TestWhatIsNotTaken(t *testing.T) {
	p := program(t, crews)
	for _, c := range []struct{ head, row, want string }{
		{"name|boat", "|x1", "A2: Name of the crew: "},
		{"name|boat", "Teal|x9", "B2: “x9” is none of the choices of Boat"},
		{"name|length", "Teal|long", "B2: Length: "},
		{"name|length", "Teal|21", "B2: Length: "},
		{"name|first", "Teal|soon", "B2: First race: "},
		{"name|days", "Teal|sat; mon", "B2: “sat; mon” is none of the choices of Days"},
		{"name|days", "Teal|else", "B2: Days: "}, // it has to say which
		{"name|received", "Teal|yesterday", "B2: this is no date and time"},
		{"name|received", "Teal|2031-01-01", "B2: this has not been yet"},
		{"name|own", "Teal|perhaps", "B2: Own boat: "},
	} {
		got, stored := read(t, p, c.head, c.row)
		assert.Empty(t, stored, "%s\n%s", c.head, c.row)
		require.NotEmpty(t, got.Faults, "%s\n%s", c.head, c.row)
		assert.Contains(t, got.Faults[0].String(), c.want)
		assert.Equal(t, len(got.Faults), got.Faulty)
	}
}

// One bad cell among many is told by itself, and more faults than are told are counted.
func TestManyRows(t *testing.T) {
	p := program(t, crews)
	lines := []string{"name|boat"}
	for range 500 {
		lines = append(lines, "Teal|x1", "|")
	}
	lines[301] = "Teal|x9"
	got, stored := read(t, p, lines...)
	assert.Equal(t, 499, got.Responses)
	assert.Len(t, stored, 499)
	assert.Equal(t, "B302: “x9” is none of the choices of Boat", got.Faults[0].String())
	assert.Equal(t, 1, got.Faulty)
	for i := 1; i < len(lines); i += 2 {
		lines[i] = "Teal|x9"
	}
	got, _ = read(t, p, lines...)
	assert.Equal(t, 500, got.Faulty)
	assert.Len(t, got.Faults, intake.MostFaults)
}

// What is not asked with the other answers counts for nothing, and that is told.
func TestWhatIsLeftOut(t *testing.T) {
	got, stored := read(t, program(t, crews), "name|boat|cox", "Teal|x1|Ana", "Coot|x8|Bea")
	assert.Len(t, stored, 2)
	assert.Equal(t, []intake.Count{{Label: "Cox", N: 1}}, got.Left)
}

func TestWhatCanNotBeMatched(t *testing.T) {
	p := program(t, crews)
	for _, match := range [][]string{{"", ""}, {"name", "name"}, {"photo", ""}, {"fee", ""}, {"nothing", ""}} {
		_, err := intake.NewReader(p, []string{"A", "B"}, match, now)
		assert.Error(t, err, match)
	}
}

// Places hold for what is read in, and what was received is as it says.
func TestPlacesAndReceipt(t *testing.T) {
	p := program(t, crews)
	head := []string{"name", "slot", "received", "url.club"}
	r, err := intake.NewReader(p, head, intake.Guess(head, intake.Targets(p.Form, head)), now)
	require.NoError(t, err)
	_, err = r.Read([][]string{head, {"Teal", "am", "2026-05-01 09:30", "reed"}}, func(_ int, res intake.Response) error {
		assert.Equal(t, 2, *res.Takes["slot"]["am"].Of)
		assert.Equal(t, "2026-05-01T07:30:00Z", res.Received.UTC().Format(time.RFC3339))
		assert.Equal(t, map[string][]string{"club": {"reed"}}, res.Parameters)
		return nil
	})
	require.NoError(t, err)
}

// What goes out as CSV comes back as it was, but for addresses, which stand in one cell.
func TestWhatGoesOutAsCSVComesBack(t *testing.T) {
	p := program(t, crews)
	raw := map[string]any{"name": "=Teal", "boat": "x8", "cox": "Ana, the cox",
		"length": json.Number("12.125"), "first": "2026-06-01", "own": true,
		"days":  []any{"sat", map[string]any{"value": "else", "text": "-Friday"}},
		"meals": map[string]any{"sat": "any", "sun": "none"},
		"slot":  "pm", "paid": true, "rowers": []any{map[string]any{"rower": "Ana"}, map[string]any{"rower": "Bea"}}}
	out := p.Run(engine.Input{Answers: p.Answers(raw), At: now, Mode: engine.Staff})
	require.True(t, out.Accepted, out.Findings(""))
	stored, err := out.ToStore()
	require.NoError(t, err)
	answers, err := engine.ParseAnswers(stored.Answers)
	require.NoError(t, err)
	table := exchange.NewTable([]*form.Form{p.Form}, map[string]int{"rowers": 2})
	var csv bytes.Buffer
	require.NoError(t, table.CSV(&csv, func(write func(exchange.Response, [][]byte) error) error {
		pieces, err := exchange.Cut(answers, table.Pieces())
		require.NoError(t, err)
		return write(exchange.Response{ID: "r", Received: now, Answers: answers,
			Parameters: map[string][]string{"club": {"teal"}}}, pieces)
	}))
	sheets, err := exchange.ReadSheets(csv.Bytes())
	require.NoError(t, err)
	cells := sheets[0].Cells
	r, err := intake.NewReader(p, cells[0], intake.Guess(cells[0], intake.Targets(p.Form, cells[0])), now.Add(time.Hour))
	require.NoError(t, err)
	got, err := r.Read(cells, func(_ int, res intake.Response) error {
		var was, is map[string]any
		require.NoError(t, json.Unmarshal(stored.Answers, &was))
		require.NoError(t, json.Unmarshal(res.Answers, &is))
		assert.Equal(t, withoutRowIDs(was), withoutRowIDs(is))
		assert.True(t, res.Received.Equal(now))
		return nil
	})
	require.NoError(t, err)
	assert.Empty(t, got.Faults)
	assert.Equal(t, 1, got.Responses)
}

// What no column holds is told once for each question, not in each row.
func TestWhatNoColumnHolds(t *testing.T) {
	got, stored := read(t, program(t, crews), "boat", "x1", "x8", "x9")
	assert.Empty(t, stored)
	assert.Equal(t, []intake.Count{{Label: "Name of the crew", N: 3}}, got.Lacking)
	assert.Len(t, got.Faults, 1)
	assert.Equal(t, 4, got.Faulty)

	p := program(t, crews)
	r, err := intake.NewReader(p, []string{"boat"}, []string{"boat"}, now)
	require.NoError(t, err)
	got, err = r.Anyway().Read([][]string{{"boat"}, {"x1"}, {"x9"}}, func(_ int, res intake.Response) error {
		assert.Contains(t, string(res.Answers), `"boat":"x1"`)
		assert.Equal(t, []string{"Name of the crew: Please answer this question."}, res.Overridden)
		return nil
	})
	require.NoError(t, err)
	assert.Equal(t, 1, got.Responses)
	assert.Len(t, got.Faults, 1, "what stands in a cell is not passed over")
}

// A row of the same cells in the same place is the same filling; any other is another.
func TestTheFillingOfARow(t *testing.T) {
	one := intake.Filling(7, 1, []string{"Teal", "x1"})
	assert.Equal(t, one, intake.Filling(7, 1, []string{"Teal", "x1"}))
	for _, other := range []string{
		intake.Filling(8, 1, []string{"Teal", "x1"}), intake.Filling(7, 2, []string{"Teal", "x1"}),
		intake.Filling(7, 1, []string{"Tealx", "1"}),
	} {
		assert.NotEqual(t, one, other)
	}
}

func TestCellsOfAFile(t *testing.T) {
	cells, err := intake.Cells([]byte("name;boat\nTeal;x1\n"))
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"name", "boat"}, {"Teal", "x1"}}, cells)
	for _, data := range []string{"name;boat\n", ""} {
		_, err = intake.Cells([]byte(data))
		assert.ErrorIs(t, err, intake.ErrNothing)
	}
	_, err = intake.Cells([]byte("PK\x03\x04"))
	assert.ErrorIs(t, err, exchange.ErrSheet)
}
