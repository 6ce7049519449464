package view_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/view"
)

const crew = `{"lazo": 1, "key": "crew", "title": "Crew", "timezone": "America/Montevideo", "parameters": [{"name": "club"}],
 "pages": [{"key": "p", "sections": [{"key": "s", "items": [
  {"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "four", "label": "Four"}, {"value": "eight", "label": "Eight"}]},
  {"key": "days", "type": "choices", "label": "Days", "choices": [{"value": "sat"}, {"value": "sun"}]},
  {"key": "length", "type": "number", "label": "Length"}, {"key": "born", "type": "date", "label": "Born"},
  {"key": "name", "type": "text", "label": "Name"}, {"key": "club", "type": "text", "label": "Club"},
  {"key": "meals", "type": "grid", "label": "Meals", "choices": [{"value": "veg", "label": "Vegetarian"}], "rows": [{"key": "fri", "label": "Friday"}]},
  {"key": "order", "type": "ranking", "label": "Order", "choices": [{"value": "x"}, {"value": "y"}]},
  {"key": "called", "type": "tick", "label": "Called", "staff": true}]},
  {"key": "rowers", "title": "Rowers", "repeat": {"max": 8}, "items": [{"key": "age", "type": "number", "label": "Age"}]}]}]}`

func lens(t *testing.T) *view.Lens {
	p, remarks := engine.Load([]byte(crew))
	require.NotNil(t, p, remarks)
	return view.NewLens(p, []view.Link{{ID: 7, Name: "Letter"}}, map[string][]string{"length": {"metres"}})
}

func record(t *testing.T, answers string) view.Record {
	raw, err := engine.ParseAnswers([]byte(answers))
	require.NoError(t, err)
	at := time.Date(2026, 5, 30, 12, 0, 0, 0, time.UTC)
	return view.Record{Answers: raw, Received: at, Edition: 2, Link: 7, By: view.ByRespondent,
		Parameters: map[string][]string{"club": {"Teal"}}}
}

func TestConditions(t *testing.T) {
	l := lens(t)
	now := time.Date(2026, 6, 10, 12, 0, 0, 0, time.UTC)
	r := record(t, `{"boat": "eight", "metres": 17, "days": ["sat"], "meals": {"fri": "veg"}, "rowers": [{"age": 15}, {"age": 40}], "name": 3}`)
	for src, want := range map[string]expr.Truth{
		`boat = "EIGHT"`: expr.Met, "length = 17": expr.Met, `days has "sun"`: expr.NotMet, `meals.fri = "veg"`: expr.Met,
		"any(rowers, age < 18)": expr.Met, "count(rowers) = 2": expr.Met, "not called": expr.Met,
		"born < today":  expr.Undecided,
		"name is blank": expr.Met, "response.received > now - 30 days": expr.Met, "response.changed is blank": expr.Met,
		"response.edition = 2": expr.Met, `response.link = "7"`: expr.Met, `response.state = "received"`: expr.Met,
		`response.by = "office"`: expr.NotMet, `url.club = "teal"`: expr.Met,
	} {
		c, err := l.Compile(src)
		require.NoError(t, err, src)
		assert.Equal(t, want, c.Truth(r, now), src)
	}
	for src, want := range map[string]string{
		"gone = 1": "there is no question “gone”", "length >": "the expression ends",
		"response.form = 1":       "a response has no “form”",
		"response.recieved = now": "did you mean received?", "length + 1": "a condition was expected",
	} {
		_, err := l.Compile(src)
		assert.ErrorContains(t, err, want, src)
	}
	c, err := l.Compile(`response.link = "7" and response.received > now - 30 days`)
	require.NoError(t, err)
	assert.Equal(t, "Link is Letter and Received is later than 30 days before now", expr.PiecesText(c.Words()))
	none, err := l.Compile(" ")
	assert.NoError(t, err)
	assert.Nil(t, none)
}

// Left empty is not the same as never asked: the edition that was filled in knows.
func TestWhatWasNeverAsked(t *testing.T) {
	l := lens(t)
	first, remarks := engine.Load([]byte(`{"lazo": 1, "key": "first", "title": "First", "timezone": "UTC",
		"pages": [{"key": "p", "title": "P", "sections": [{"key": "s", "title": "S", "items": [
			{"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "eight"}, {"value": "single"}]},
			{"key": "metres", "type": "number", "label": "Metres", "shown": "boat = \"eight\""},
			{"key": "called", "type": "tick", "label": "Called", "staff": true}]}]}]}`))
	require.NotNil(t, first, remarks)
	never := func(src, answers string) expr.Truth {
		c, err := l.Compile(src)
		require.NoError(t, err, src)
		return c.Truth(record(t, answers), time.Now())
	}
	assert.Equal(t, expr.Undecided, never("never_asked(name)", `{}`), "nobody knows")
	l.Edition = func(n int) *engine.Program { return map[int]*engine.Program{2: first}[n] }
	assert.Equal(t, expr.Met, never("never_asked(name)", `{}`), "it came with a later edition")
	assert.Equal(t, expr.NotMet, never("never_asked(boat)", `{}`), "it was left empty")
	assert.Equal(t, expr.NotMet, never("never_asked(called)", `{}`), "the office is asked")
	assert.Equal(t, expr.Met, never("never_asked(length)", `{"boat": "single"}`), "under the key it had before")
	assert.Equal(t, expr.NotMet, never("never_asked(length)", `{"boat": "eight"}`))
	assert.Equal(t, expr.NotMet, never("never_asked(length)", `{"boat": "single", "metres": 12}`), "it is answered")
	assert.Equal(t, expr.Met, never("not never_asked(boat)", `{}`))

	c, err := l.Compile("never_asked(length) and not never_asked(boat)")
	require.NoError(t, err)
	said := expr.PiecesText(c.Words())
	assert.Equal(t, "Length was never asked and Boat class was asked", said)
	back, err := l.Syms.ReadSentence(said, true)
	require.NoError(t, err)
	assert.True(t, expr.Equal(back, c.Node), back.String())
	clauses := l.Syms.Outline(c.Node)
	assert.Equal(t, "never_asked", clauses.Parts[0].Clause.Op)
	_, err = l.Compile("any(rowers, never_asked(age))")
	assert.ErrorContains(t, err, "outside of them")
	_, faults := expr.Compile(c.Node, first.Symbols)
	assert.NotEmpty(t, faults, "a form knows of no responses")
}

func TestColumns(t *testing.T) {
	l := lens(t)
	keys := func(list []view.Column) (out []string) {
		for _, c := range list {
			out = append(out, c.Key)
		}
		return out
	}
	assert.Equal(t, []string{"boat", "days", "length", "born", "name", "called"}, keys(l.Shown(view.View{})),
		"the first, and the workspace's own")
	assert.Equal(t, []string{"rowers", "url.club", "response.state"},
		keys(l.Shown(view.View{Columns: []string{"rowers", "gone", "url.club", "response.state"}})))
}

func TestSums(t *testing.T) {
	l := lens(t)
	s := l.NewSums([]string{"boat", "days", "length", "born", "name", "club", "meals", "order"})
	cross, ok := l.NewCross("boat", "called")
	require.True(t, ok)
	for _, answers := range []string{
		`{"boat": "eight", "length": 10, "days": ["sat", "sun"], "born": "2000-01-01", "name": "Ana", "club": "Teal", "meals": {"fri": "veg"}, "called": true, "order": ["y", "x"]}`,
		`{"boat": "eight", "length": 12, "days": ["sun"], "born": "2000-01-03", "name": "Bo", "club": "Teal"}`,
		`{"boat": "gone", "metres": 20, "club": "teal", "name": "A longer name"}`, `{"club": "Old Mill"}`,
	} {
		s.Add(record(t, answers))
		cross.Add(l, record(t, answers))
	}
	s.Done()
	cross.Done(l)
	sum := map[string]*view.Sum{}
	for _, one := range s.Sums {
		sum[one.Key] = one
	}
	assert.Equal(t, 4, s.N)
	assert.Equal(t, []view.Bar{{Label: "Four"}, {Label: "Eight", N: 2}, {Label: "no longer a choice", N: 1}},
		sum["boat"].Bars)
	assert.Equal(t, []view.Bar{{Label: "sat", N: 1}, {Label: "sun", N: 2}}, sum["days"].Bars)
	assert.Equal(t, "14", sum["length"].Mean)
	assert.Len(t, sum["length"].Bars, 11)
	assert.Equal(t, []view.Bar{{Label: "1 Jan 2000", N: 1}, {Label: "2 Jan 2000"}, {Label: "3 Jan 2000", N: 1}},
		sum["born"].Bars)
	assert.Equal(t, []string{"A longer name", "Ana", "Bo"}, sum["name"].Texts, "the longest first")
	assert.Equal(t, []view.Bar{{Label: "Teal", N: 3}, {Label: "Old Mill", N: 1}}, sum["club"].Bars,
		"few texts are counted")
	assert.Equal(t, []view.Bar{{Label: "Letter", N: 4}}, sum["response.link"].Bars, "by which link they came")
	assert.Equal(t, []view.Bar{{Label: "Teal", N: 4}}, sum["url.club"].Bars, "and with which parameters")
	assert.Equal(t, []view.Bar{{Label: "x"}, {Label: "y", N: 1}}, sum["order"].Bars, "what was put first")
	assert.Equal(t, []view.HeatRow{{Label: "Friday", N: []int{1}}}, sum["meals"].Heat)
	assert.Equal(t, []string{"Yes", "No", "–"}, cross.Columns)
	assert.Equal(t, []view.HeatRow{
		{Label: "Four", N: []int{0, 0, 0}}, {Label: "Eight", N: []int{1, 1, 0}}, {Label: "–", N: []int{0, 1, 0}},
	}, cross.Rows)
	_, ok = l.NewCross("boat", "name")
	assert.False(t, ok)
}

func TestDifferences(t *testing.T) {
	l := lens(t)
	got, err := view.Differences(l.Program,
		[]byte(`{"boat": "four", "length": 12, "rowers": [{"_row": "a", "age": 15}, {"_row": "b", "age": 40}]}`),
		[]byte(`{"boat": "eight", "called": false, "rowers": [{"_row": "b", "age": 41}], "meals": {"fri": "veg"}}`),
		engine.Input{})
	require.NoError(t, err)
	assert.Equal(t, []view.Difference{
		{Label: "Boat class", Before: "Four", After: "Eight"}, {Label: "Length", Before: "12"},
		{Label: "Meals", After: "Friday: Vegetarian"}, {Label: "Rowers 1, Age", Before: "40", After: "41"},
		{Label: "Rowers 1", Before: "15", After: "taken out"},
	}, got, "a tick that is not stored is not ticked, and a row is itself wherever it stands")
}

// Counted in heaps, kept and put together, responses come to what they come to at once.
func TestHeapsAddUp(t *testing.T) {
	l := lens(t)
	rng := rand.New(rand.NewPCG(4, 2))
	sums := func() *view.Sums {
		return l.NewSums([]string{"boat", "days", "length", "born", "name", "club", "meals", "order"})
	}
	for range 50 {
		whole, together, heap := sums(), sums(), sums()
		put := func() {
			data, err := heap.Tally()
			require.NoError(t, err)
			require.NoError(t, together.Merge(data))
			heap = sums()
		}
		for range rng.IntN(60) {
			r := record(t, fmt.Sprintf(`{"boat": %q, "length": %d.5, "days": [%q], "born": "200%d-01-0%d", "name": %q, "club": %q, "order": ["y", "x"],
				"meals": {"fri": "veg"}}`, []string{"four", "eight", "gone"}[rng.IntN(3)], rng.IntN(30), []string{"sat", "sun"}[rng.IntN(2)], rng.IntN(9),
				1+rng.IntN(9), strings.Repeat("a", rng.IntN(9)), fmt.Sprint("Club ", rng.IntN(16))))
			whole.Add(r)
			if heap.Add(r); rng.IntN(8) == 0 {
				put()
			}
		}
		put()
		require.Equal(t, whole.Fingerprint(), together.Fingerprint())
		whole.Done()
		together.Done()
		require.Equal(t, shownOf(whole), shownOf(together))
	}
	assert.Error(t, sums().Merge([]byte("{")))
	assert.NotEqual(t, sums().Fingerprint(), l.NewSums([]string{"boat"}).Fingerprint())
}

// shownOf is what a summary shows.
func shownOf(s *view.Sums) (out []string) {
	for _, one := range append(s.Sums, s.Days) {
		out = append(out, fmt.Sprint(one.Key, one.Picture, one.Answered, one.Bars, one.Mean, one.Heat, one.Texts, one.More))
	}
	return append(out, fmt.Sprint(s.N))
}

// The mean is of all numbers, also where there are more different ones than are counted.
func TestTheMeanOfVeryManyNumbers(t *testing.T) {
	l := lens(t)
	heap, together := l.NewSums([]string{"length"}), l.NewSums([]string{"length"})
	for n := range 30_000 {
		heap.Add(record(t, fmt.Sprintf(`{"length": %d}`, n)))
	}
	data, err := heap.Tally()
	require.NoError(t, err)
	require.NoError(t, together.Merge(data))
	together.Done()
	assert.Equal(t, "14999.5", together.Sums[0].Mean)
}
