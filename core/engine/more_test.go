package engine_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// asked is a form with some items, in a section of its own or in rows.
func asked(t *testing.T, more, section, items string) *engine.Program {
	t.Helper()
	src := fmt.Sprintf(`{"lazo": 1, "key": "t", "title": "T", "timezone": "America/Montevideo", %s
		"pages": [{"key": "p", "sections": [{"key": "s", %s "items": [%s]}]}]}`, more, section, items)
	p, remarks := engine.Load([]byte(src))
	require.NotNil(t, p, "%s\n%v", src, remarks)
	return p
}

type try struct {
	answers string
	prior   string
	mode    engine.Mode
	at      string
	taken   engine.Taken
	want    map[string]any // dotted paths of the outcome
}

func (tr try) check(t *testing.T, p *engine.Program) {
	t.Helper()
	in := engine.Input{At: time.Date(2026, 5, 1, 15, 0, 0, 0, time.UTC), Mode: tr.mode, Taken: tr.taken}
	if tr.at != "" {
		var err error
		in.At, err = time.Parse(time.RFC3339, tr.at)
		require.NoError(t, err)
	}
	read := func(src string) *engine.Answers {
		raw, err := engine.ParseAnswers([]byte(src))
		require.NoError(t, err)
		return p.Answers(raw)
	}
	if tr.answers != "" {
		in.Answers = read(tr.answers)
	}
	if tr.prior != "" {
		in.Prior = read(tr.prior)
	}
	data, err := json.Marshal(p.Run(in))
	require.NoError(t, err)
	var out any
	require.NoError(t, json.Unmarshal(data, &out))
	for path, want := range tr.want {
		got := out
		for part := range strings.SplitSeq(path, ".") {
			switch v := got.(type) {
			case map[string]any:
				got = v[part]
			case []any:
				var n int
				_, err := fmt.Sscan(part, &n)
				require.NoError(t, err)
				got = v[n]
			default:
				got = nil
			}
		}
		if want == some {
			assert.NotEmpty(t, got, "%s of %+v", path, tr)
			continue
		}
		text, err := json.Marshal(got)
		require.NoError(t, err)
		expected, err := json.Marshal(want)
		require.NoError(t, err)
		assert.JSONEq(t, string(expected), string(text), "%s of %+v", path, tr)
	}
}

const some = "some problem" // a list that is not empty

func TestComputedBounds(t *testing.T) {
	p := asked(t, "", "", `{"key": "first", "type": "date", "label": "First", "max": "today"},
		{"key": "n", "type": "number", "label": "N", "min": "m", "max": "m * 2", "step": "if(m > 10, 5, 1)"}, {"key": "m", "type": "number", "label": "M"},
		{"key": "word", "type": "text", "label": "Word", "max_length": "m"},
		{"key": "some", "type": "choices", "label": "Some", "max_picked": "m", "choices": [{"value": "a"}, {"value": "b"}, {"value": "c"}]}`)
	for _, tr := range []try{
		{answers: `{"first": "2026-05-01"}`, want: map[string]any{"accepted": true}},
		{answers: `{"first": "2026-05-02"}`,
			want: map[string]any{"items.first.problems": []string{"Not after May 1, 2026, please."}}},
		{answers: `{"n": 7}`, want: map[string]any{"accepted": true}}, // a blank bound does not bound
		{answers: `{"n": 7, "m": 3}`, want: map[string]any{"items.n.problems": some}},
		{answers: `{"n": 6, "m": 3, "word": "abc", "some": ["a", "b", "c"]}`, want: map[string]any{"accepted": true}},
		{answers: `{"n": 22, "m": 20}`, want: map[string]any{"items.n.problems": some}},
		{answers: `{"n": 25, "m": 20}`, want: map[string]any{"accepted": true}},
		{answers: `{"m": 2, "word": "abc"}`,
			want: map[string]any{"items.word.problems": []string{"Please write at most 2 characters."}}},
		{answers: `{"m": 2, "some": ["a", "b", "c"]}`,
			want: map[string]any{"items.some.problems": []string{"Please pick at most 2."}}},
	} {
		tr.check(t, p)
	}
}

func TestOthers(t *testing.T) {
	p := asked(t, "", `"repeat": {"max": 4, "name": "Rower"}, "checks": [{"ok": "name is answered", "message": "Row {row_number} has no name"}],`,
		`{"key": "name", "type": "text", "label": "Name"},
		 {"key": "seat", "type": "choice", "label": "Seat", "withheld": "others(s, seat = choice) > 0", "choices": [{"value": "bow"}, {"value": "two"}]},
		 {"key": "twice", "type": "note", "label": "x", "shown": "others(s, name = row.name) > 0"}`)
	for _, tr := range []try{
		{answers: `{"s": [{"name": "A", "seat": "bow"}, {"name": "B", "seat": "two"}]}`, want: map[string]any{
			"accepted": true, "stored.s": []any{map[string]any{"name": "A", "seat": "bow"},
				map[string]any{"name": "B", "seat": "two"}},
			"items.s.rows.0.seat.choices": []string{"bow"}}},
		{answers: `{"s": [{"name": "A", "seat": "bow"}, {"name": "a", "seat": "bow"}]}`, want: map[string]any{
			"items.s.rows.0.seat.value": nil, "items.s.rows.1.seat.value": nil,
			"items.s.rows.0.twice.shown": true, "items.s.rows.1.seat.choices": []string{"two"}}},
		{answers: `{"s": [{"name": "A"}, {}]}`, want: map[string]any{
			"accepted": false, "items.s.problems": []string{"Row 2 has no name"},
			"sections.s.problems": []string{"Row 2 has no name"}}},
	} {
		tr.check(t, p)
	}
}

func TestPlaces(t *testing.T) {
	p := asked(t, "", "", `{"key": "slot", "type": "choice", "label": "Slot", "places": "if(today < 2026-05-10, 1, 2)",
		"choices": [{"value": "am", "label": "Morning"}, {"value": "pm", "label": "Afternoon", "places": 5}, {"value": "eve", "withheld": "left(slot, \"pm\") > 3"}]},
		{"key": "few", "type": "calculation", "label": "Few", "value": {"is": "left(slot, \"am\")"}}`)
	one := engine.Taken{"slot": {"am": 1}}
	for _, tr := range []try{
		{answers: `{"slot": "am"}`,
			want: map[string]any{"accepted": true, "items.few.value": 1, "items.slot.choices": []string{"am", "pm"}}},
		{answers: `{"slot": "am"}`, taken: one, want: map[string]any{
			"accepted": false, "items.slot.full": []string{"am"}, "items.slot.value": nil, "items.few.value": 0,
			"items.slot.problems": []string{"“Morning” is full by now. Please pick again."}}},
		{answers: `{"slot": "pm"}`, taken: one, want: map[string]any{"accepted": true, "items.slot.full": []string{"am"}}},
		{answers: `{"slot": "am"}`, taken: one, at: "2026-05-11T12:00:00Z", want: map[string]any{"accepted": true}},
		{answers: `{"slot": "am"}`, taken: one, mode: engine.Staff,
			want: map[string]any{"accepted": true, "items.slot.full": []string{"am"}}},
		{answers: `{}`, prior: `{"slot": "am"}`, taken: one, mode: engine.Revisit, want: map[string]any{"stored.slot": "am"}},
		{answers: `{"slot": "am"}`, prior: `{"slot": "pm"}`, taken: one, mode: engine.Revisit,
			want: map[string]any{"accepted": false}},
		{answers: `{"slot": "eve"}`, taken: engine.Taken{"slot": {"pm": 3}}, want: map[string]any{"accepted": true}},
	} {
		tr.check(t, p)
	}
	// A row takes one each.
	p = asked(t, "", `"repeat": {"max": 4},`,
		`{"key": "bus", "type": "choices", "label": "Bus", "choices": [{"value": "early", "places": 3}, {"value": "late"}]}`)
	two := engine.Taken{"bus": {"early": 2}}
	for _, tr := range []try{
		{answers: `{"s": [{"bus": ["early"]}, {"bus": ["late"]}]}`, taken: two, want: map[string]any{"accepted": true}},
		{answers: `{"s": [{"bus": ["early", "late"]}, {"bus": ["early"]}]}`, taken: two, want: map[string]any{
			"accepted": false, "items.s.rows.0.bus.problems": []string{}, "items.s.rows.1.bus.problems": some}},
		{mode: engine.Revisit, prior: `{"s": [{"_row": "a", "bus": ["early"]}, {"_row": "b"}]}`,
			taken:   engine.Taken{"bus": {"early": 3}},
			answers: `{"s": [{"_row": "a", "bus": []}, {"_row": "b", "bus": ["early"]}]}`,
			want:    map[string]any{"accepted": true}},
		{mode: engine.Revisit, prior: `{"s": [{"_row": "a", "bus": ["early"]}, {"_row": "b"}]}`,
			taken:   engine.Taken{"bus": {"early": 3}},
			answers: `{"s": [{"_row": "a", "bus": ["early"]}, {"_row": "b", "bus": ["early"]}]}`,
			want:    map[string]any{"accepted": false}},
	} {
		tr.check(t, p)
	}
	_, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "n", "type": "number", "label": "N"}, {"key": "a", "type": "choice", "label": "A", "places": "n", "choices": [{"value": "x", "places": 1.5}]}]}]}]}`))
	assert.Len(t, form.Errors(remarks), 2, "places do not depend on answers, and are whole")
}

func TestOtherScaleRankingAndGrid(t *testing.T) {
	p := asked(t, "", "", `
		{"key": "how", "type": "choice", "label": "How", "choices": [{"value": "bus", "label": "Bus"}, {"value": "other", "label": "Otherwise", "other": true}]},
		{"key": "why", "type": "choices", "label": "Why", "choices": [{"value": "a"}, {"value": "o", "other": true}]},
		{"key": "by", "type": "calculation", "label": "By", "value": {"is": "how.other"}},
		{"key": "said", "type": "calculation", "label": "Said", "value": {"is": "first(how, \"none\")"}},
		{"key": "also", "type": "calculation", "label": "Also", "value": {"is": "if(well > 0, \"well\", how)"}},
		{"key": "well", "type": "scale", "label": "Well", "max": 7, "low": "bad", "high": "good"},
		{"key": "order", "type": "ranking", "label": "Order", "choices": [{"value": "x"}, {"value": "y"}, {"value": "z", "withheld": "well = 1"}]},
		{"key": "place", "type": "calculation", "label": "Place", "value": {"is": "rank(order, \"y\")"}},
		{"key": "meals", "type": "grid", "label": "Meals", "required": "well = 2", "choices": [{"value": "veg"}, {"value": "fish"}],
		 "rows": [{"key": "friday", "label": "Friday"}, {"key": "sunday", "shown": "well > 3"}]},
		{"key": "fishy", "type": "note", "label": "x", "shown": "meals.friday = \"fish\" and meals.sunday is blank"},
		{"key": "tools", "type": "grid", "label": "Tools", "many": true, "choices": [{"value": "a"}, {"value": "b"}], "rows": [{"key": "one"}]},
		{"key": "both", "type": "note", "label": "x", "shown": "tools.one has all (\"a\", \"b\")"}`)
	for _, tr := range []try{
		{answers: `{"how": {"value": "other", "text": " By swan "}}`, want: map[string]any{
			"accepted": true, "stored.how": map[string]any{"value": "other", "text": "By swan"}, "items.by.value": "By swan",
			"items.said.value": "other", "items.also.value": nil}},
		{answers: `{"how": {"value": "other", "text": "By swan"}, "well": "0"}`,
			want: map[string]any{"items.also.value": "other"}},
		{answers: `{"how": "other"}`,
			want: map[string]any{"accepted": false, "items.how.problems": []string{"Please say what you mean by “Otherwise”."}}},
		{answers: `{"how": {"value": "bus", "text": "By swan"}}`,
			want: map[string]any{"stored.how": "bus", "items.by.value": nil}},
		{answers: `{"why": ["a", {"value": "o", "text": "x"}]}`,
			want: map[string]any{"stored.why": []any{"a", map[string]any{"value": "o", "text": "x"}}}},
		{answers: `{"well": "7"}`, want: map[string]any{"stored.well": 7}},
		{answers: `{"well": 8}`, want: map[string]any{"items.well.problems": some}},
		{answers: `{"well": 2.5}`, want: map[string]any{"items.well.problems": some}},
		{answers: `{"order": ["z", "y", "x"]}`,
			want: map[string]any{"stored.order": []string{"z", "y", "x"}, "items.place.value": 2}},
		{answers: `{"order": ["y", "x"]}`,
			want: map[string]any{"items.order.problems": []string{"Please give every choice a place of its own."}}},
		{answers: `{"order": ["z", "y", "x"], "well": 1}`,
			want: map[string]any{"stored.order": []string{"y", "x"}, "items.place.value": 1}},
		{answers: `{"meals": {"friday": "fish", "sunday": "veg", "monday": "x"}}`, want: map[string]any{
			"stored.meals": map[string]any{"friday": "fish"}, "items.fishy.shown": true,
			"items.meals.rows.sunday.shown": false}},
		{answers: `{"meals": {"friday": "fish", "sunday": "veg"}, "well": 4}`, want: map[string]any{
			"stored.meals": map[string]any{"friday": "fish", "sunday": "veg"}, "items.fishy.shown": false}},
		{answers: `{"meals": {"friday": "meat"}}`,
			want: map[string]any{"unmatched": []string{"meals"}, "items.meals.value": nil}},
		{answers: `{"well": 2}`, want: map[string]any{"items.meals.problems": some}},
		{answers: `{"well": 2, "meals": {"friday": "veg"}}`, want: map[string]any{"accepted": true}},
		{answers: `{"meals": "veg"}`, want: map[string]any{"items.meals.problems": some}},
		{answers: `{"tools": {"one": ["b", "a"]}}`, want: map[string]any{
			"stored.tools": map[string]any{"one": []string{"a", "b"}}, "items.both.shown": true}},
	} {
		tr.check(t, p)
	}
}

// What was decided once is read back as it was stored, whatever kind it is of.
func TestWhatWasDecidedOnceStays(t *testing.T) {
	p := asked(t, "", "", `
		{"key": "why", "type": "choices", "label": "Why", "choices": [{"value": "a"}, {"value": "o", "other": true}]},
		{"key": "how", "type": "choice", "label": "How", "choices": [{"value": "a"}, {"value": "o", "other": true}]},
		{"key": "home", "type": "address", "label": "Home"},
		{"key": "meals", "type": "grid", "label": "Meals", "choices": [{"value": "a"}, {"value": "b"}], "rows": [{"key": "x"}, {"key": "y"}]},
		{"key": "tools", "type": "grid", "label": "Tools", "many": true, "choices": [{"value": "a"}, {"value": "b"}], "rows": [{"key": "x"}]},
		{"key": "born", "type": "month_day", "label": "Born"},
		{"key": "from", "type": "time", "label": "From"},
		{"key": "crew", "type": "number", "label": "Crew"},
		{"key": "why_then", "type": "hidden", "value": {"is": "why", "once": true}},
		{"key": "how_then", "type": "hidden", "value": {"is": "how", "once": true}},
		{"key": "how_said", "type": "hidden", "value": {"is": "how.other", "once": true}},
		{"key": "home_then", "type": "hidden", "value": {"is": "home", "once": true}},
		{"key": "meals_then", "type": "hidden", "value": {"is": "meals", "once": true}},
		{"key": "tools_then", "type": "hidden", "value": {"is": "tools", "once": true}},
		{"key": "born_then", "type": "hidden", "value": {"is": "born", "once": true}},
		{"key": "from_then", "type": "hidden", "value": {"is": "from", "once": true}},
		{"key": "crew_then", "type": "hidden", "value": {"is": "crew", "once": true}},
		{"key": "when_then", "type": "hidden", "value": {"is": "now", "once": true}}`)
	raw := must(engine.ParseAnswers([]byte(`{"why": ["a", {"value": "o", "text": "Wind"}], "how": {"value": "o", "text": "By swan"},
		"home": {"street": "Quay 1", "place": "Teal"}, "meals": {"x": "b", "y": "a"}, "tools": {"x": ["a", "b"]},
		"born": "05-03", "from": "10:30", "crew": 4.5}`)))
	first := must(json.Marshal(p.Run(engine.Input{Answers: p.Answers(raw), At: time.Unix(0, 0)}).Stored()))
	prior := must(engine.ParseAnswers(first))
	for _, key := range []string{"why", "how", "home", "meals", "tools", "born", "from", "crew"} {
		require.Equal(t, prior[key], prior[key+"_then"], key)
	}
	changed := p.Run(engine.Input{
		Prior: p.Answers(prior), Answers: p.Answers(map[string]any{"crew": 5}), At: time.Unix(9, 0), Mode: engine.Revisit,
	})
	prior["crew"] = json.Number("5")
	assert.JSONEq(t, string(must(json.Marshal(prior))), string(must(json.Marshal(changed.Stored()))))
	shown := p.Run(engine.Input{Record: p.Record(must(engine.ParseAnswers(first))), At: time.Unix(9, 0),
		Mode: engine.Staff})
	assert.JSONEq(t, string(first), string(must(json.Marshal(shown.Stored()))), "and is shown as it stands")
}

// Answers stand in the words of a scale, in the rows of a grid and in the title of a
// section that repeats as they do in every other text.
func TestAnswersStandInEveryWord(t *testing.T) {
	p := asked(t, "", "", `
		{"key": "boat", "type": "text", "label": "Boat"},
		{"key": "well", "type": "scale", "label": "How well?", "low": "{boat} sank", "high": "{boat} flew"},
		{"key": "meals", "type": "grid", "label": "Meals", "choices": [{"value": "a"}], "rows": [{"key": "x", "label": "On {boat}"}]}`)
	try{answers: `{"boat": "Swan"}`, want: map[string]any{"items.meals.rows.x.label": "On Swan"}}.check(t, p)
	out := p.Run(engine.Input{Answers: p.Answers(map[string]any{"boat": "Swan"}), At: time.Unix(0, 0)})
	low, high := out.State("well", 0).Ends()
	assert.Equal(t, []string{"Swan sank", "Swan flew"}, []string{low, high})
	for _, s := range p.Form.Said() {
		if !strings.Contains(s.Property, ".") {
			assert.True(t, form.Sayable(s.Property), s.Property)
		}
	}
	renamed, _, err := form.Apply(p.Form, form.Edit{Op: form.RenameKey, Key: "boat", To: "hull"})
	require.NoError(t, err)
	meals, _ := renamed.Find("meals")
	assert.Equal(t, "On {hull}", meals.Item.Rows[0].Label)
}

func TestChecksOfSectionsAndPages(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [
		{"key": "p", "checks": [{"ok": "a + b <= 10", "message": "{a} and {b} are more than ten"}], "sections": [
		 {"key": "s", "shown": "a > 0", "checks": [{"ok": "b is answered", "message": "B is missing"}], "items": [{"key": "b", "type": "number", "label": "B"}]},
		 {"key": "r", "items": [{"key": "a", "type": "number", "label": "A"}]}]}]}`))
	require.NotNil(t, p, remarks)
	for _, tr := range []try{
		{answers: `{}`, want: map[string]any{"accepted": true}},
		{answers: `{"a": 1}`, want: map[string]any{"accepted": false, "sections.s.problems": []string{"B is missing"}}},
		{answers: `{"a": 6, "b": 5}`,
			want: map[string]any{"accepted": false, "pages.p.problems": []string{"6 and 5 are more than ten"}}},
		{answers: `{"a": 5, "b": 5}`, want: map[string]any{"accepted": true}},
	} {
		tr.check(t, p)
	}
}

func TestAListOfTheWorkspace(t *testing.T) {
	const src = `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "lists": {"piers": {"shared": "all_piers"}}, "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "shore", "type": "choice", "label": "Shore", "choices": [{"value": "north"}, {"value": "south"}]},
		{"key": "pier", "type": "choice", "label": "Pier", "choices_from": {"list": "piers", "value": "code", "label": "name", "where": "entry.shore = shore"}},
		{"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "pier.fee"}}]}]}]}`
	p, remarks := engine.Load([]byte(src))
	require.NotNil(t, p, "a list that is not at hand is no error: %v", remarks)
	p, _ = engine.LoadWith([]byte(src), map[string]form.Table{"all_piers": {Entries: []form.Entry{
		{"code": "h", "name": "Heron", "shore": "north", "fee": json.Number("40")},
		{"code": "t", "name": "Teal", "shore": "south", "fee": json.Number("10")}}}})
	require.NotNil(t, p)
	narrowed := map[string]any{"items.fee.value": 40, "items.pier.choices": []string{"h"}}
	try{answers: `{"shore": "north", "pier": "h"}`, want: narrowed}.check(t, p)
	assert.JSONEq(t, `{"shared": "all_piers"}`, string(must(json.Marshal(p.Form.Lists["piers"]))),
		"its entries stay with the workspace")
	assert.Len(t, p.Form.Clone().Lists["piers"].Entries, 2)
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// A scale is of whole numbers, wherever it begins.
func TestAScaleBeginsAnywhere(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "least", "type": "number", "label": "Least"}, {"key": "n", "type": "scale", "label": "N", "min": "least", "max": "least + 2"}]}]}]}`))
	require.NotNil(t, p, remarks)
	try{answers: `{"least": 1.5, "n": 1.5}`, want: map[string]any{"items.n.problems": some, "accepted": false}}.check(t, p)
	try{answers: `{"least": 1.5, "n": 2}`, want: map[string]any{"items.n.problems": []string{}, "accepted": true}}.check(t,
		p)
	least := json.Number("1.5")
	out := p.Run(engine.Input{Answers: p.Answers(map[string]any{"least": least})})
	from, to := out.Scale(out.State("n", 0), 0)
	assert.Equal(t, []int{2, 3}, []int{from, to})
}

// What a page's check says changes with the clock as anything else does.
func TestAPageCheckHasANextChange(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p",
		"checks": [{"ok": "today < 2026-05-10 or a is answered", "message": "Too late"}], "sections": [{"key": "s",
		"checks": [{"ok": "today < 2026-05-12 or a is answered", "message": "Much too late"}], "items": [{"key": "a", "type": "text", "label": "A"},
		{"key": "slot", "type": "choice", "label": "S", "places": "if(today < 2026-05-14, 1, 2)", "choices": [{"value": "am"}]}]}]}]}`))
	require.NotNil(t, p, remarks)
	in := engine.Input{At: time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC), Taken: engine.Taken{"slot": {"am": 1}}}
	for _, day := range []int{10, 12, 14} {
		next, ok := p.NextChange(in)
		require.True(t, ok)
		assert.Equal(t, time.Date(2026, 5, day, 0, 0, 0, 0, time.UTC), next)
		in.At = next
	}
}

// A grid asks for its rows that are shown, and for nothing where none is.
func TestARequiredGridWithoutRows(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "days", "type": "choices", "label": "Days", "choices": [{"value": "sat"}, {"value": "sun"}]},
		{"key": "meals", "type": "grid", "label": "Meals", "required": true, "choices": [{"value": "any"}],
		 "rows": [{"key": "sat", "shown": "days has \"sat\""}, {"key": "sun", "shown": "days has \"sun\""}]}]}]}]}`))
	require.NotNil(t, p, remarks)
	try{answers: `{}`, want: map[string]any{"items.meals.problems": []string{}, "accepted": true}}.check(t, p)
	try{answers: `{"days": ["sat"]}`, want: map[string]any{"items.meals.problems": some, "accepted": false}}.check(t, p)
	try{answers: `{"days": ["sat"], "meals": {"sat": "any"}}`, want: map[string]any{"accepted": true}}.check(t, p)
}

// What comes by itself takes no place that is not there, seen or not, or the response could
// never be taken; the workspace goes beyond, and who has a place keeps it.
func TestWhatComesByItselfTakesNoPlaceThatIsNotThere(t *testing.T) {
	const choices = `"choices": [{"value": "am", "places": 1}, {"value": "pm"}]}`
	full := engine.Taken{"hidden": {"am": 1}, "fixed": {"am": 1}, "office": {"am": 1}}
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "hidden", "type": "choices", "label": "H", "shown": false, "when_hidden": "keep", "value": {"follows": "\"am\""}, ` + choices + `,
		{"key": "fixed", "type": "choice", "label": "F", "locked": true, "value": {"follows": "\"am\""}, ` + choices + `,
		{"key": "office", "type": "choice", "label": "O", "staff": true, "value": {"follows": "\"am\""}, ` + choices + `]}]}]}`))
	require.NotNil(t, p, remarks)
	all := map[string]any{"hidden": []string{"am"}, "fixed": "am", "office": "am"}
	try{answers: `{}`, want: map[string]any{"stored": all, "accepted": true}}.check(t, p)
	try{answers: `{}`, taken: full, want: map[string]any{"stored": map[string]any{}, "accepted": true}}.check(t, p)
	try{answers: `{}`, taken: full, mode: engine.Staff, want: map[string]any{"stored": all}}.check(t, p)
	prior := `{"hidden": ["am"], "fixed": "am", "office": "am"}`
	try{answers: `{}`, prior: prior, taken: full, mode: engine.Revisit, want: map[string]any{"stored": all}}.check(t, p)
}

// A total is a number, also of rows whose values are not known to be numbers yet; so of its
// sentence there is one reading only.
func TestATotalIsANumber(t *testing.T) {
	f, remarks := form.Read([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [
		{"key": "s", "items": [{"key": "n", "type": "number", "label": "N"},
			{"key": "days", "type": "choices", "label": "Days", "choices": [{"value": "sat"}]}]},
		{"key": "r", "repeat": {"max": 3}, "items": [{"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "1"}}]}]}]}`))
	require.Empty(t, remarks)
	syms := f.Symbols()
	n, err := expr.Parse("if(n != 1, count(days), sum(r.fee))")
	require.NoError(t, err)
	back, err := syms.ReadSentence(expr.PiecesText(syms.Phrase(n)), false)
	require.NoError(t, err)
	assert.Equal(t, n.String(), back.String())
}

// What a check finds is told on the page where the last of what it names is asked: on its own
// page nobody could go on, and on that of the other question nobody would learn why.
func TestACheckIsToldWhereItCanBeMended(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "later", "title": "Later", "timezone": "UTC", "pages": [
		{"key": "one", "title": "One", "sections": [{"key": "s", "items": [
			{"key": "first", "type": "number", "label": "First", "checks": [{"ok": "last is answered and first < last", "message": "Last is after first."}]},
			{"key": "plain", "type": "number", "label": "Plain", "checks": [{"ok": "plain < 5", "message": "Less than five."}]}]}]},
		{"key": "two", "title": "Two", "sections": [{"key": "t", "items": [
			{"key": "skip", "type": "yes_no", "label": "Skip"},
			{"key": "last", "type": "number", "label": "Last", "shown": "skip is blank"}]}]}]}`))
	require.NotNil(t, p, remarks)
	told := func(answers string) (out []string) {
		raw, err := engine.ParseAnswers([]byte(answers))
		require.NoError(t, err)
		o := p.Run(engine.Input{Answers: p.Answers(raw), Mode: engine.New})
		for _, page := range []string{"one", "two"} {
			for _, f := range o.Findings(page) {
				out = append(out, page+" "+f.Item.Key+" "+f.Problem.Arg)
			}
		}
		assert.Len(t, o.Findings(""), len(out))
		assert.Equal(t, len(out) == 0, o.Accepted)
		return out
	}
	assert.Equal(t, []string{"two last Last is after first."}, told(`{"first": 3}`))
	assert.Equal(t, []string{"one plain Less than five.", "two last Last is after first."},
		told(`{"first": 3, "plain": 7, "last": 2}`))
	assert.Empty(t, told(`{"first": 3, "last": 4}`))
	assert.Equal(t, []string{"one first Last is after first."}, told(`{"first": 3, "last": 2, "skip": true}`),
		"there is no other place left")
}

// Hours of which no day ever comes are refused as they are written, and so is what was
// written before: it is found once.
func TestHoursThatNeverComeAreRefused(t *testing.T) {
	for rule, comes := range map[string]bool{
		"FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30": false, "FREQ=YEARLY;BYMONTH=4;BYMONTHDAY=31": false,
		"FREQ=DAILY;BYMONTH=2;BYMONTHDAY=29": true,
		"FREQ=WEEKLY;BYDAY=MO,TU":            true, "FREQ=MONTHLY;BYDAY=-1FR": true, "FREQ=DAILY;COUNT=3": true,
	} {
		p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "hours", "title": "Hours", "timezone": "UTC",
			"opening": {"from": "2026-05-01T00:00", "hours": {"rule": "` + rule + `", "from": "09:00", "until": "17:00"}},
			"pages": [{"key": "p", "sections": [{"key": "s", "items": [{"key": "a", "type": "text", "label": "A"}]}]}]}`))
		errs := form.Errors(remarks)
		if !comes {
			require.Len(t, errs, 1, rule)
			assert.Equal(t, "no day is like that", errs[0].Text)
			continue
		}
		require.Empty(t, errs, rule)
		_, _, ok := p.NextHours(time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC))
		assert.Equal(t, rule != "FREQ=DAILY;BYMONTH=2;BYMONTHDAY=29", ok, rule) // 2028 is beyond what is looked ahead
	}
}

// What is not an object of answers, and a number that is too long, are told as what they are.
func TestWhatIsNoAnswersIsToldApart(t *testing.T) {
	for src, want := range map[string]string{
		`true`:       `a JSON object of answers by key was expected, such as {"boat": "eight"}, not true or false`,
		`["a"]`:      `a JSON object of answers by key was expected, such as {"boat": "eight"}, not a list`,
		`"a"`:        `a JSON object of answers by key was expected, such as {"boat": "eight"}, not a text`,
		`7`:          `a JSON object of answers by key was expected, such as {"boat": "eight"}, not a number`,
		`{"boat":`:   `the answers are no JSON: unexpected EOF`,
		`{} {"a":1}`: `something stands after the answers' closing brace`,
	} {
		_, err := engine.ParseAnswers([]byte(src))
		require.EqualError(t, err, want, src)
	}
	p := asked(t, "", "", `{"key": "n", "type": "number", "label": "N"}`)
	for digits, want := range map[string]int{strings.Repeat("9", 34): 0, strings.Repeat("9", 35): 1} {
		for _, answer := range []string{digits, `"` + digits + `"`} {
			out := p.Run(engine.Input{Answers: p.Answers(must(engine.ParseAnswers([]byte(`{"n": ` + answer + `}`)))),
				At: time.Unix(9, 0)})
			problems := out.State("n", 0).Problems()
			require.Len(t, problems, want, answer)
			for _, problem := range problems {
				require.Equal(t, engine.TooManyDigits, problem.Code)
			}
		}
	}
}

// A lock and a duty are about what is shown: what is hidden and kept comes along even so.
func TestNoLockTakesWhatIsKeptWhileHidden(t *testing.T) {
	p := asked(t, "", "", `
		{"key": "own", "type": "yes_no", "label": "Own boat?"},
		{"key": "sail", "type": "text", "label": "Sail number", "shown": "own", "locked": "not own", "required": true, "when_hidden": "keep"}`)
	try{answers: `{"own": false, "sail": "URU 7"}`, want: map[string]any{
		"items.sail.shown": false, "items.sail.locked": false, "items.sail.required": false, "items.sail.value": "URU 7",
		"stored.sail": "URU 7",
	}}.check(t, p)
	try{answers: `{"own": true, "sail": "URU 7"}`,
		want: map[string]any{"items.sail.locked": false, "stored.sail": "URU 7"}}.check(t, p)
}
