package engine_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/form"
)

// drawProgram draws a form and compiles it; forms with a circle are drawn again.
func drawProgram(t *rapid.T) (*form.Form, *engine.Program) {
	f := drawForm(t)
	p, remarks := engine.Compile(f)
	for _, r := range form.Errors(remarks) {
		if r.Kind != "cycle" {
			t.Fatalf("the drawn form is wrong: %s\n%s", r, f.JSON())
		}
	}
	if p == nil {
		t.Skip("a circle")
	}
	return f, p
}

type drawn struct {
	answers, prior map[string]any
	url            map[string][]string
	at             time.Time
	mode           string
	taken          map[string]map[string]int
}

func drawInput(t *rapid.T, f *form.Form) drawn {
	d := drawn{answers: drawAnswers(t, f, "answers"), url: map[string][]string{}, at: drawMoment(t, f),
		mode: rapid.SampledFrom([]string{"new", "new", "revisit", "staff"}).Draw(t, "mode")}
	if d.mode != "new" {
		d.prior = drawAnswers(t, f, "prior")
		defer func() { keepComputed(t, f, d) }()
	}
	d.taken = map[string]map[string]int{}
	for p := range f.Places() {
		if it := p.Item; it.HasPlaces() {
			d.taken[it.Key] = map[string]int{}
			for _, value := range f.Options(it).Values {
				d.taken[it.Key][value] = rapid.IntRange(0, 3).Draw(t, "taken")
			}
		}
	}
	given := map[string][]string{"club": {"north", "South ", "a", "2.5"}, "days": {"sat", "sat,sun", "b, c", "yes"},
		"crew": {"4", "8.0", "many", " "}, "on": {"2026-05-10", "2026-5-10", "2024-02-29"},
		"shore": {"n", " north", "S", "east", "east, S"}}
	// in one order, so that a failure can be drawn again
	for _, name := range []string{"club", "days", "crew", "on", "shore"} {
		values := given[name]
		if n := rapid.IntRange(0, 2).Draw(t, "values of "+name); n > 0 {
			for range n {
				d.url[name] = append(d.url[name], rapid.SampledFrom(values).Draw(t, name))
			}
		}
	}
	return d
}

// keepComputed puts what was computed on the prior answers among them, as it is
// stored, for values that are decided once.
func keepComputed(t *rapid.T, f *form.Form, d drawn) {
	p, _ := engine.Compile(f)
	if p == nil {
		return
	}
	items := plain(t, p.Run(engine.Input{Answers: p.Answers(d.prior), Params: d.url, At: d.at}))["items"].(map[string]any)
	for pl := range f.Places() {
		if !pl.Item.Type.Computed() {
			continue
		}
		into, from := []any{d.prior}, []any{items}
		if pl.Section.Repeat != nil {
			into, _ = d.prior[pl.Section.Key].([]any)
			from = items[pl.Section.Key].(map[string]any)["rows"].([]any)
		}
		for i := range into {
			row := into[i].(map[string]any)
			delete(row, pl.Item.Key)
			if i < len(from) && rapid.IntRange(0, 9).Draw(t, "kept "+pl.Item.Key) < 7 {
				if v := from[i].(map[string]any)[pl.Item.Key].(map[string]any)["value"]; v != nil {
					row[pl.Item.Key] = v
				}
			}
		}
	}
}

func (d drawn) input(p *engine.Program) engine.Input {
	in := engine.Input{Answers: p.Answers(d.answers), Params: d.url, At: d.at, Mode: engine.Mode(d.mode), Taken: d.taken}
	if d.prior != nil {
		in.Prior = p.Answers(d.prior)
	}
	return in
}

// plain turns an outcome into plain JSON values, problems into whether there are any.
func plain(t require.TestingT, v any) map[string]any {
	data, err := json.Marshal(v)
	require.NoError(t, err)
	dec := json.NewDecoder(strings.NewReader(string(data)))
	dec.UseNumber()
	var out map[string]any
	require.NoError(t, dec.Decode(&out))
	normalize(out)
	return out
}

func normalize(v any) {
	switch v := v.(type) {
	case map[string]any:
		delete(v, "help")
		if problems, ok := v["problems"].([]any); ok {
			v["problems"] = len(problems) > 0
		}
		if unmatched, ok := v["unmatched"].([]any); ok {
			slices.SortFunc(unmatched, func(a, b any) int { return strings.Compare(a.(string), b.(string)) })
		}
		for _, e := range v {
			normalize(e)
		}
	case []any:
		for _, e := range v {
			normalize(e)
		}
	}
}

func TestEngineAgreesWithTheReference(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p := drawProgram(t)
		d := drawInput(t, f)
		got := plain(t, p.Run(d.input(p)))
		want := plain(t, newReference(f, d.answers, d.prior, d.url, d.at, d.mode).with(d.taken).run())
		if !assert.Equal(t, want, got) {
			t.Fatalf("form:\n%s\ninput: %+v", f.JSON(), d)
		}
	})
}

func TestRunningTwiceGivesTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p := drawProgram(t)
		d := drawInput(t, f)
		first, second := plain(t, p.Run(d.input(p))), plain(t, p.Run(d.input(p)))
		assert.Equal(t, first, second)
	})
}

// An answer to a question that nothing depends on changes that question's own
// state and, with it, what is accepted and stored; nothing else.
func TestAnAnswerThatNothingReadsChangesItselfOnly(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p := drawProgram(t)
		var free []*form.Item
		for pl := range f.Places() {
			if pl.Section.Repeat == nil && !p.Drives(pl.Item.Key) {
				free = append(free, pl.Item)
			}
		}
		if len(free) == 0 {
			t.Skip("everything drives something")
		}
		it := rapid.SampledFrom(free).Draw(t, "free")
		d := drawInput(t, f)
		before := plain(t, p.Run(d.input(p)))
		if v, ok := drawAnswer(t, it, "other"); ok {
			d.answers[it.Key] = v
		} else {
			delete(d.answers, it.Key)
		}
		after := plain(t, p.Run(d.input(p)))
		for _, o := range []map[string]any{before, after} {
			delete(o["items"].(map[string]any), it.Key)
			delete(o, "accepted")
			delete(o, "stored")
			delete(o, "unmatched")
		}
		assert.Equal(t, before, after)
	})
}

func TestWhatIsNotShownDoesNotCount(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p := drawProgram(t)
		d := drawInput(t, f)
		out := p.Run(d.input(p))
		var hidden []*form.Item
		for pl := range f.Places() {
			if pl.Section.Repeat == nil && pl.Item.WhenHidden != "keep" && !out.State(pl.Item.Key, 0).Shown {
				hidden = append(hidden, pl.Item)
			}
		}
		if len(hidden) == 0 {
			t.Skip("everything is shown")
		}
		before := plain(t, out)
		it := rapid.SampledFrom(hidden).Draw(t, "hidden")
		if v, ok := drawAnswer(t, it, "typed"); ok {
			d.answers[it.Key] = v
		}
		assert.Equal(t, before, plain(t, p.Run(d.input(p))))
	})
}

// Between now and the next change nothing changes, and a form without a clock
// has no next change.
func TestNextChangeIsNeverLate(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p := drawProgram(t)
		d := drawInput(t, f)
		next, ok := p.NextChange(d.input(p))
		if !p.Clocked() {
			require.False(t, ok)
		}
		horizon := 400 * 24 * time.Hour
		if ok {
			require.True(t, next.After(d.at))
			horizon = min(horizon, next.Sub(d.at))
		}
		now := plain(t, p.Run(d.input(p)))
		later := d
		for range 8 {
			sec := rapid.Int64Range(0, int64(horizon/time.Second)-1).Draw(t, "seconds")
			later.at = d.at.Add(time.Duration(sec) * time.Second)
			require.Equal(t, now, plain(t, p.Run(later.input(p))), "at %s, before the next change at %s\n%s", later.at, next,
				f.JSON())
		}
		if ok {
			later.at = next.Add(-time.Second)
			require.Equal(t, now, plain(t, p.Run(later.input(p))), "one second before %s\n%s", next, f.JSON())
		}
	})
}

// What decides a condition and what explains it agree.
func TestTheReasonIsTheDecision(t *testing.T) {
	all := 0
	rapid.Check(t, func(t *rapid.T) {
		f, p := drawProgram(t)
		d := drawInput(t, f)
		differ, compared := p.Run(d.input(p)).Disagreements()
		all += compared
		require.Zero(t, differ, "%s", f.JSON())
	})
	require.Positive(t, all)
}
