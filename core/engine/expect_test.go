package engine_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
)

func TestWhatBecomesOfARehearsal(t *testing.T) {
	load := func(src string) *engine.Program {
		p, remarks := engine.Load([]byte(src))
		require.NotNil(t, p, remarks)
		return p
	}
	p := load(seekable)
	raw := map[string]any{
		"boat": "eight", "trailer": "16",
		"rowers": []any{map[string]any{"born": "2012-01-01"}, map[string]any{"born": "1990-01-01"}},
	}
	run := func(p *engine.Program) *engine.Outcome {
		return p.Run(engine.Input{Answers: p.Answers(raw), At: time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)})
	}
	data, err := json.Marshal(run(p).Expect())
	require.NoError(t, err)
	var e engine.Expectation
	require.NoError(t, json.Unmarshal(data, &e))
	assert.Empty(t, e.Differences(run(p)))
	changed := load(strings.NewReplacer(
		`"shown": "trailer >= 12.5", "required": "trailer > 15"`, `"shown": "trailer >= 12.5"`,
		`"shown": "age(born, 2026-05-30) < 18"`, `"shown": "age(born, 2026-05-30) >= 18"`, `if(boat = \"eight\", 100, 10)`,
		`if(boat = \"eight\", 200, 10)`,
	).Replace(seekable))
	assert.Equal(t, []string{
		"Escort: was required, is now optional", "Fee: was “200”, is now “400”", "Bank: was not shown, is now shown",
		"Guardian in row 2: was not shown, is now shown", "Guardian in row 1: was shown, is now not shown",
		"it was not accepted, is now accepted",
	}, e.Differences(run(changed)))
}

func TestAnOutcomeMeetsItsOwnExpectation(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p := drawProgram(t)
		d := drawInput(t, f)
		assert.Empty(t, p.Run(d.input(p)).Expect().Differences(p.Run(d.input(p))))
	})
}

func TestARehearsalHoldsWhatGoesOut(t *testing.T) {
	load := func(src string) *engine.Program {
		p, remarks := engine.Load([]byte(src))
		require.NotNil(t, p, remarks)
		return p
	}
	run := func(p *engine.Program) *engine.Outcome {
		return sending(t, p, engine.New, "", `{"metres": 11, "email": "ana@lake.example"}`)
	}
	p := load(outgoing)
	data, err := json.Marshal(run(p).Expect())
	require.NoError(t, err)
	var e engine.Expectation
	require.NoError(t, json.Unmarshal(data, &e))
	assert.Empty(t, e.Differences(run(p)))
	changed := load(strings.NewReplacer(`metres >= 12`, `metres >= 10`, `"to": ["{email}", "{name}"]`,
		`"to": ["office@pedralta.example"]`,
		`"metres > 5"`, `"metres > 15"`).Replace(outgoing))
	assert.Equal(t, []string{
		"the letter “thanks” to ana@lake.example went out, and does not now", "the program “desk” was told, and is not now",
		"the letter “long_boat” to harbour@pedralta.example did not go out, and does now",
		"the letter “thanks” to office@pedralta.example did not go out, and does now",
	}, e.Differences(run(changed)))
	e.Goes = nil
	assert.Empty(t, e.Differences(run(changed)), "one that was kept before remembers nothing of it")
}
