package engine_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
)

const revisited = `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [
 {"key": "crew", "repeat": {"max": 6}, "items": [{"key": "name", "type": "text", "label": "N"}, {"key": "paid", "type": "text", "label": "P", "staff": true},
   {"key": "seat", "type": "text", "label": "S", "locked": "mode = \"revisit\""}]},
 {"key": "s", "items": [
  {"key": "shore", "type": "choice", "label": "S", "choices": [{"value": "n"}, {"value": "s"}]},
  {"key": "pier", "type": "choice", "label": "P", "choices": [{"value": "n1", "offered": "shore = \"n\""}, {"value": "s1", "offered": "shore = \"s\""}]},
  {"key": "slot", "type": "choices", "label": "L", "choices": [{"value": "early", "withheld": "today > 2026-05-01"}, {"value": "late"}, {"value": "none", "offered": false}]},
  {"key": "n", "type": "number", "label": "N"}, {"key": "d", "type": "number", "label": "D", "value": {"follows": "n"}}, {"key": "w", "type": "number", "label": "W", "value": {"follows": "n", "when": "shore = \"n\""}},
  {"key": "t", "type": "text", "label": "T", "value": {"starts": "\"Harbor\""}},
  {"key": "stamp", "type": "hidden", "label": "St", "value": {"is": "now", "once": true}}, {"key": "fee", "type": "calculation", "label": "F", "value": {"is": "n * 10", "once": true}},
  {"key": "shown_later", "type": "calculation", "label": "L", "shown": "n > 5", "value": {"is": "n", "once": true}},
  {"key": "captcha", "type": "text", "label": "C", "required": true, "stored": false}]}]}]}`

// What becomes of a response that is changed, case by case.
func TestAResponseIsChanged(t *testing.T) {
	p, remarks := engine.Load([]byte(revisited))
	require.NotNil(t, p, remarks)
	read := func(src string) *engine.Answers {
		raw, err := engine.ParseAnswers([]byte(src))
		require.NoError(t, err)
		return p.Answers(raw)
	}
	const late = "2026-05-20T12:00:00Z"
	for name, c := range map[string]struct{ at, prior, answers, stored string }{
		"a pick that the clock took from others stays": {late, `{"slot": ["early"]}`, `{"slot": ["early", "late"]}`,
			`{"slot": ["early", "late"]}`},
		"it is not offered to who has it not": {late, `{"slot": ["late"]}`, `{"slot": ["early", "late"]}`,
			`{"slot": ["late"]}`},
		"what an edition took away stays": {late, `{"slot": ["none"]}`, `{}`, `{"slot": ["none"]}`},
		"what the own new answer rules out goes": {late, `{"shore": "n", "pier": "n1"}`, `{"shore": "s"}`,
			`{"shore": "s"}`},
		"a copied value goes on following": {late, `{"n": 5, "d": 5}`, `{"n": 7}`,
			`{"n": 7, "d": 7, "shown_later": 7}`},
		"one's own stays": {late, `{"n": 5, "d": 6, "fee": 50}`, `{"n": 4}`,
			`{"n": 4, "d": 6, "fee": 50}`},
		"what follows only while goes when it is over": {late, `{"shore": "n", "n": 5, "d": 5, "w": 5, "fee": 50}`,
			`{"shore": "s"}`, `{"shore": "s", "n": 5, "d": 5, "fee": 50}`},
		"emptied by hand stays empty": {late, `{"t": null}`, `{}`, `{"t": null}`},
		"emptied now":                 {late, `{"t": "Harbor"}`, `{"t": ""}`, `{"t": null}`},
		"a stamp does not move": {late, `{"stamp": "2026-05-01T08:00:00Z", "t": "x"}`, `{}`,
			`{"stamp": "2026-05-01T08:00:00Z", "t": "x"}`},
		"a fee decided blank stays blank": {late, `{"t": "x"}`, `{"n": 3}`, `{"n": 3, "d": 3, "t": "x"}`},
		"what was not asked before is decided when it is": {late, `{"n": 3, "d": 3, "fee": 30}`, `{"n": 8}`,
			`{"n": 8, "d": 8, "fee": 30, "shown_later": 8}`},
		"rows by their identity": {late,
			`{"crew": [{"_row": "a", "name": "Ana", "paid": "yes", "seat": "1"}, {"_row": "b", "name": "Bo", "paid": "no", "seat": "2"}]}`,
			`{"crew": [{"_row": "b", "name": "Bo"}, {"name": "Cy", "seat": "9"}, {"_row": "a", "name": "Ana M"}]}`,
			`{"crew": [{"_row": "b", "name": "Bo", "paid": "no", "seat": "2"}, {"name": "Cy"}, {"_row": "a", "name": "Ana M", "paid": "yes", "seat": "1"}]}`},
		"rows by their place": {late, `{"crew": [{"_row": "a", "name": "Ana", "paid": "yes"}]}`,
			`{"crew": [{"name": "Ana M"}]}`, `{"crew": [{"_row": "a", "name": "Ana M", "paid": "yes"}]}`},
		"a row that is not sent is gone": {late,
			`{"crew": [{"_row": "a", "name": "Ana"}, {"_row": "b", "name": "Bo", "paid": "x"}]}`,
			`{"crew": [{"_row": "b", "name": "Bo"}]}`,
			`{"crew": [{"_row": "b", "name": "Bo", "paid": "x"}]}`},
		"of two rows with one identity the second is new": {late, `{"crew": [{"_row": "a", "name": "Ana", "paid": "yes"}]}`,
			`{"crew": [{"_row": "a", "name": "x"}, {"_row": "a", "name": "y"}]}`,
			`{"crew": [{"_row": "a", "name": "x", "paid": "yes"}, {"name": "y"}]}`},
	} {
		at, err := time.Parse(time.RFC3339, c.at)
		require.NoError(t, err)
		out := p.Run(engine.Input{Answers: read(c.answers), Prior: read(c.prior), At: at, Mode: engine.Revisit})
		require.True(t, out.Accepted, "%s: what is required and never stored is not demanded again", name)
		got, err := json.Marshal(out.Stored())
		require.NoError(t, err)
		// The default that nobody touched is the same everywhere.
		var want map[string]any
		require.NoError(t, json.Unmarshal([]byte(c.stored), &want))
		if _, said := want["t"]; !said {
			want["t"] = "Harbor"
		}
		wanted, err := json.Marshal(want)
		require.NoError(t, err)
		assert.JSONEq(t, string(wanted), string(got), name)
	}
}

// Who comes back is not asked to type an unchanged address twice.
func TestTwiceIsAskedOfWhatChanged(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "a", "title": "A", "timezone": "UTC", "pages": [{"key": "p", "sections": [
		{"key": "s", "items": [{"key": "mail", "type": "email", "label": "Mail", "twice": true}]}]}]}`))
	require.NotNil(t, p, remarks)
	prior := map[string]any{"mail": "ana@lake.example"}
	for name, try := range map[string]struct {
		mail, again string
		accepted    bool
	}{
		"unchanged": {"ana@lake.example", "", true}, "unchanged, and another": {"ana@lake.example", "bo@lake.example", false},
		"changed": {"bo@lake.example", "", false}, "changed, twice": {"bo@lake.example", "bo@lake.example", true},
	} {
		answers := p.Answers(map[string]any{"mail": try.mail, "mail#again": try.again})
		out := p.Run(engine.Input{Answers: answers, Prior: p.Answers(prior), Mode: engine.Revisit})
		assert.Equal(t, try.accepted, out.Accepted, name)
	}
	out := p.Run(engine.Input{Answers: p.Answers(map[string]any{"mail": "ana@lake.example", "mail#again": ""})})
	assert.False(t, out.Accepted, "for the first time it is")
}
