package posted_test

import (
	"encoding/json"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/web/fill/posted"
)

const everyType = `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [
 {"key": "s", "items": [{"key": "name", "type": "text", "label": "x"}, {"key": "n", "type": "number", "label": "x"}, {"key": "yn", "type": "yes_no", "label": "x"},
  {"key": "tk", "type": "tick", "label": "x"}, {"key": "c", "type": "choice", "label": "x", "choices": [{"value": "a"}]},
  {"key": "cs", "type": "choices", "label": "x", "choices": [{"value": "a"}, {"value": "b"}]}, {"key": "ad", "type": "address", "label": "x"},
  {"key": "md", "type": "month_day", "label": "x", "value": {"starts": "\"05-03\""}}, {"key": "k", "type": "calculation", "label": "x", "value": {"is": "n"}}]},
 {"key": "r", "repeat": {"max": 3}, "items": [{"key": "rn", "type": "text", "label": "x"}]}]}]}`

func definition(t *testing.T) *form.Form {
	f, remarks := form.Read([]byte(everyType))
	require.NotNil(t, f, remarks)
	return f
}

// What Seek found is posted as if it had been typed.
func TestFieldsAreReadAsTheAnswersTheyWereMadeOf(t *testing.T) {
	f := definition(t)
	for _, src := range []string{
		`{"name": "Ana", "n": "12.5", "yn": "no", "tk": "yes", "c": "a", "cs": ["a", "b"], "ad": {"city": "Pedralta"}, "md": "05-30", "r": [{"rn": "x"}, {}]}`,
		`{"name": "", "cs": ["b"], "r": []}`,
		`{}`,
	} {
		var answers map[string]any
		require.NoError(t, json.Unmarshal([]byte(src), &answers))
		got, err := json.Marshal(posted.Answers(f, posted.Fields(f, answers)))
		require.NoError(t, err)
		assert.JSONEq(t, src, string(got))
	}
}

func TestFieldsOfGridsRankingsAndOthers(t *testing.T) {
	f, remarks := form.Read([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "meals", "type": "grid", "label": "M", "rows": [{"key": "fri"}, {"key": "sat"}], "choices": [{"value": "any"}, {"value": "veg"}]},
		{"key": "tools", "type": "grid", "many": true, "label": "T", "rows": [{"key": "a"}], "choices": [{"value": "x"}, {"value": "y"}]},
		{"key": "order", "type": "ranking", "label": "O", "choices": [{"value": "x"}, {"value": "y"}, {"value": "z"}]},
		{"key": "how", "type": "choice", "label": "H", "choices": [{"value": "bus"}, {"value": "o", "other": true}]},
		{"key": "why", "type": "choices", "label": "W", "choices": [{"value": "a"}, {"value": "o", "other": true}]},
		{"key": "sc", "type": "scale", "label": "S"}]}]}]}`))
	require.NotNil(t, f, remarks)
	for _, src := range []string{
		`{"meals": {"fri": "veg"}, "tools": {"a": ["x", "y"]}, "order": ["y", "x", "z"], "how": {"value": "o", "text": "By swan"}, "sc": 4}`,
		`{"how": "bus", "why": ["a", {"value": "o", "text": "Because"}]}`,
	} {
		var answers map[string]any
		require.NoError(t, json.Unmarshal([]byte(src), &answers))
		p, faults := engine.Compile(f)
		require.NotNil(t, p, faults)
		want := p.Run(engine.Input{Answers: p.Answers(answers)}).Stored()
		got := p.Run(engine.Input{Answers: p.AnswersFrom(posted.Posting{Fields: posted.Fields(f, answers)})}).Stored()
		assert.Equal(t, want, got)
		assert.NotEmpty(t, got)
	}
}

func TestAMonthAndDayComesInTwoParts(t *testing.T) {
	f := definition(t)
	for _, c := range []struct{ month, day, want string }{{"05", "3", "05-03"}, {"12", "31", "12-31"}, {"", "", ""}, {"05",
		"", "05-"}, {"", "7", "-07"}} {
		got := posted.Answers(f, url.Values{"a.md.month": {c.month}, "a.md.day": {c.day}})
		assert.Equal(t, map[string]any{"md": c.want}, got)
	}
	assert.Empty(
		t, posted.Answers(f, url.Values{"auto.md": {"05-03"}, "a.md.month": {"05"}, "a.md.day": {"03"}}),
		"what came by itself is untouched",
	)
	assert.Empty(t, posted.Answers(f, url.Values{"a.k": {"3"}}), "a calculation takes nothing")
}

func TestOnlyFieldsOfTheFormAreKept(t *testing.T) {
	f := definition(t)
	of := func(names ...string) url.Values {
		v := url.Values{}
		for _, name := range names {
			v.Set(name, "x")
		}
		return v
	}
	page := f.Pages[0].Key
	kept := of(
		"a.name", "own.name", "auto.n", "aside.c", "a.ad.city", "a.md.month", "a.md.day", "r.r.0.rn", "own.r.3.rn",
		"r.r.gone.rn", "rows.r", "row.r.0", "row.r.gone", "gone.r", "_seen."+page,
	)
	assert.Equal(t, kept, posted.Belonging(f, kept))
	junk := of(
		"", "a", "a.", "a.nobody", "a.name.city", "a.ad.moon", "a.ad.city.city", "x.name", "r.name", "r.r.0", "r.r.x.rn",
		"r.r.-1.rn", "r.r.99999999.rn", "r.other.0.rn", "a.rn", "own.rn", "a.r.0.rn", "rows.name", "row.r", "row.r.x",
		"gone.", "_page", "_token", "_seen.", "_seen.nowhere", "r.r.0.name", strings.Repeat("a.", 5000),
	)
	assert.Empty(t, posted.Belonging(f, junk))
}
