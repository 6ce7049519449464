package engine_test

import (
	"encoding/json"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/expr"
)

const seekable = `{"lazo": 1, "key": "t", "title": "T", "timezone": "America/Montevideo", "parameters": [{"name": "club"}], "pages": [
 {"key": "p", "next": [{"when": "boat = \"none\"", "page": "end"}], "sections": [{"key": "s", "items": [
  {"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "none"}, {"value": "single"}, {"value": "eight", "withheld": "lane = \"canal\""}]},
  {"key": "lane", "type": "choice", "label": "Lane", "choices": [{"value": "pier"}, {"value": "canal"}]},
  {"key": "trailer", "type": "number", "label": "Trailer", "shown": "boat = \"eight\"", "max": 20},
  {"key": "escort", "type": "text", "label": "Escort", "shown": "trailer >= 12.5", "required": "trailer > 15"},
  {"key": "deep", "type": "text", "label": "Deep", "shown": "escort contains \"Zulma\" and url.club = \"North Pier\"", "locked": "mode = \"staff\""},
  {"key": "late", "type": "note", "label": "Late", "shown": "now >= 2026-05-10T18:00 and weekday = \"mon\""},
  {"key": "never", "type": "note", "label": "Never", "shown": "trailer > 5 and trailer < 4"}]}]},
 {"key": "crew", "shown": "boat is answered", "sections": [{"key": "rowers", "repeat": {"min": 0, "max": 8}, "items": [
  {"key": "born", "type": "date", "label": "Born", "checks": [{"ok": "age(born, 2026-05-30) >= 12", "message": "m"}]},
  {"key": "guardian", "type": "text", "label": "Guardian", "shown": "age(born, 2026-05-30) < 18"}]}]},
 {"key": "end", "sections": [{"key": "r", "items": [
  {"key": "consent", "type": "tick", "label": "C", "shown": "any(rowers, age(born, 2026-05-30) < 18)"},
  {"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "count(rowers) * if(boat = \"eight\", 100, 10)"}},
  {"key": "bank", "type": "text", "label": "Bank", "shown": "fee > 250"}]}]}]}`

func TestBothWaysOfTiesAreFound(t *testing.T) {
	p, remarks := engine.Load([]byte(seekable))
	require.NotNil(t, p, remarks)
	from := engine.Filling{At: time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)}
	for _, tie := range [][2]string{{"trailer", "shown"}, {"escort", "shown"}, {"escort", "required"}, {"deep", "shown"},
		{"late", "shown"}, {"guardian", "shown"},
		{"born", "checks.0.ok"}, {"consent", "shown"}, {"bank", "shown"}, {"crew", "shown"}, {"p", "next.0.when"}, {"boat",
			"choices.2.withheld"}} {
		for _, want := range []expr.Truth{expr.Met, expr.NotMet} {
			if tie[0] == "crew" && want == expr.NotMet {
				continue
			}
			found, ok := p.Seek(tie[0], tie[1], want, from)
			require.True(t, ok, "%s %s %s", tie[0], tie[1], want)
			out := p.Run(engine.Input{Answers: p.Answers(found.Answers), Params: found.Params, At: found.At})
			switch tie[1] {
			case "shown":
				if tie[0] != "crew" {
					assert.Equal(t, want == expr.Met, out.State(tie[0], 0).Shown, "%s with %v", tie[0], found)
				}
			case "required":
				assert.Equal(t, want == expr.Met, out.State(tie[0], 0).Required)
			}
		}
	}
	_, ok := p.Seek("never", "shown", expr.Met, from)
	assert.False(t, ok, "what can't be met is not found")
	_, ok = p.Seek("boat", "colour", expr.Met, from)
	assert.False(t, ok)
}

// What Seek claims to have found is so.
func TestWhatSeekFindsHolds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p := drawProgram(t)
		d := drawInput(t, f)
		for pl := range f.Office().Places() {
			if pl.Item.Shown.Expr == "" || pl.Item.Parked || pl.Item.Staff || pl.Section.Repeat != nil {
				continue
			}
			for _, want := range []expr.Truth{expr.Met, expr.NotMet} {
				found, ok := p.Seek(pl.Item.Key, "shown", want,
					engine.Filling{Answers: d.answers, Params: d.url, At: d.at, Mode: "new"})
				if !ok {
					continue
				}
				out := p.Run(engine.Input{Answers: p.Answers(found.Answers), Params: found.Params, At: found.At})
				require.Equal(t, want == expr.Met, out.State(pl.Item.Key, 0).Shown)
			}
			return
		}
	})
}

// A form is filled so that conditions on grids, rankings, scales, “other” and columns of
// lists are met, and are not.
func TestSeekKnowsEveryType(t *testing.T) {
	for _, cond := range []string{
		`meals.fri = "veg"`, `meals is answered`, `tools.a has "x"`, `rank(order, "x") = 1`, `rank(order, "y") > 1`, `sc > 3`,
		`how.other contains "boat"`, `how.other is answered`, `pier.fee > 30`, `label(pier) = "Heron"`, `weekday(d) = "sat"`,
		`unique(crew, n)`, `sum(crew, n + 1) > 5`,
	} {
		written, err := json.Marshal(cond)
		require.NoError(t, err)
		p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC",
			"lists": {"piers": [{"code": "h", "name": "Heron", "fee": 40}, {"code": "t", "name": "Teal", "fee": 10}]},
			"pages": [{"key": "p", "sections": [{"key": "s", "items": [
			{"key": "meals", "type": "grid", "rows": [{"key": "fri"}, {"key": "sat"}], "choices": [{"value": "any"}, {"value": "veg"}]},
			{"key": "tools", "type": "grid", "many": true, "rows": [{"key": "a"}], "choices": [{"value": "x"}, {"value": "y"}]},
			{"key": "order", "type": "ranking", "choices": [{"value": "x"}, {"value": "y"}, {"value": "z"}]}, {"key": "sc", "type": "scale"},
			{"key": "how", "type": "choice", "choices": [{"value": "bus"}, {"value": "other", "other": true}]}, {"key": "d", "type": "date"},
			{"key": "pier", "type": "choice", "choices_from": {"list": "piers", "value": "code", "label": "name"}}]},
			{"key": "crew", "repeat": {"max": 3}, "items": [{"key": "n", "type": "number"}]},
			{"key": "s2", "items": [{"key": "out", "type": "text", "shown": ` + string(written) + `}]}]}]}`))
		require.NotNil(t, p, remarks)
		for _, want := range []expr.Truth{expr.Met, expr.NotMet} {
			from := engine.Filling{Answers: map[string]any{}, At: time.Date(2026, 5, 6, 12, 0, 0, 0, time.UTC), Mode: engine.New}
			_, ok := p.Seek("out", "shown", want, from)
			assert.True(t, ok, "%s %s", cond, want)
		}
	}
}

func TestAnswersAreSoughtForALetter(t *testing.T) {
	p, remarks := engine.Load([]byte(outgoing))
	require.NotNil(t, p, remarks)
	from := engine.Filling{Answers: map[string]any{}, At: time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC), Mode: engine.New}
	for property, goes := range map[string]func(*engine.Outcome) bool{
		"messages.0.when": func(o *engine.Outcome) bool { return o.Letters()[0].Goes },
		"hooks.0.when":    func(o *engine.Outcome) bool { return slices.Contains(o.Hooks(), "desk") },
	} {
		for _, want := range []expr.Truth{expr.Met, expr.NotMet} {
			found, ok := p.Seek("", property, want, from)
			require.True(t, ok, property)
			out := p.Run(engine.Input{Answers: p.Answers(found.Answers), At: found.At})
			assert.Equal(t, want == expr.Met, goes(out), property)
		}
	}
	_, ok := p.Seek("", "messages.99.when", expr.Met, from)
	assert.False(t, ok)
}
