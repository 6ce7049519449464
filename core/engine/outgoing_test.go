package engine_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
)

const outgoing = `{"lazo": 1, "key": "t", "title": "T", "timezone": "America/Montevideo", "language": "en", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
	{"key": "metres", "type": "number", "label": "Metres", "max": 30}, {"key": "email", "type": "email", "label": "Email"},
	{"key": "name", "type": "text", "label": "Name"}, {"key": "race", "type": "date", "label": "Race"},
	{"key": "shift", "type": "text", "label": "Shift", "staff": true}]}]}],
	"messages": [
		{"key": "long_boat", "when": "metres >= 12", "to": ["harbour@pedralta.example", "HARBOUR@pedralta.example"], "subject": "Mooring for {metres} metres", "body": "x"},
		{"key": "thanks", "to": ["{email}", "{name}"], "subject": "Thank you, {name}", "body": "x"},
		{"key": "each_time", "when": "metres > 20", "to": ["office@pedralta.example"], "subject": "Again", "body": "x", "again": true},
		{"key": "letter", "when": "shift is answered", "to": ["{email}"], "subject": "Your shift", "body": "x"},
		{"key": "reminder", "to": ["{email}"], "subject": "Soon", "body": "x", "at": "race - 3 days"}],
	"hooks": [{"key": "desk", "url": "https://desk.example/x", "when": "metres > 5", "events": ["received"]}, {"key": "each", "url": "https://desk.example/y"}]}`

// sending runs a form on answers, and on those before if there were some.
func sending(t *testing.T, p *engine.Program, mode engine.Mode, prior, answers string) *engine.Outcome {
	t.Helper()
	in := engine.Input{At: time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC), Mode: mode}
	read := func(src string) *engine.Answers {
		raw, err := engine.ParseAnswers([]byte(src))
		require.NoError(t, err)
		return p.Answers(raw)
	}
	if in.Answers = read(answers); prior != "" {
		in.Prior = read(prior)
	}
	return p.Run(in)
}

func TestWhatWouldGoOut(t *testing.T) {
	p, remarks := engine.Load([]byte(outgoing))
	require.NotNil(t, p, remarks)
	run := func(mode engine.Mode, prior, answers string) *engine.Outcome {
		return sending(t, p, mode, prior, answers)
	}
	keys := func(o *engine.Outcome) (out []string) {
		for _, m := range o.Messages() {
			out = append(out, m.Key)
		}
		return out
	}
	for name, try := range map[string]struct {
		out             *engine.Outcome
		messages, hooks []string
	}{
		"at receipt": {run(engine.New, "", `{"metres": 9}`), []string{"thanks"}, []string{"desk", "each"}},
		"a long boat": {
			run(engine.New, "", `{"metres": 14, "race": "2026-05-30"}`), []string{"long_boat", "thanks", "reminder"},
			[]string{"desk", "each"},
		},
		"becomes long":    {run(engine.Revisit, `{"metres": 9}`, `{"metres": 14}`), []string{"long_boat"}, []string{"each"}},
		"was long":        {run(engine.Revisit, `{"metres": 13}`, `{"metres": 14}`), nil, []string{"each"}},
		"again":           {run(engine.Revisit, `{"metres": 22}`, `{"metres": 23}`), []string{"each_time"}, []string{"each"}},
		"by the office":   {run(engine.Staff, `{"metres": 9}`, `{"shift": "Sunday"}`), []string{"letter"}, []string{"each"}},
		"not accepted":    {run(engine.New, "", `{"metres": 99}`), nil, nil},
		"a day is known":  {run(engine.Revisit, `{"metres": 9}`, `{"race": "2026-05-30"}`), nil, []string{"each"}},
		"undecided is no": {run(engine.New, "", `{}`), []string{"thanks"}, []string{"each"}},
	} {
		assert.Equal(t, try.messages, keys(try.out), name)
		assert.ElementsMatch(t, try.hooks, try.out.Hooks(), name)
	}
	out := run(engine.New, "",
		`{"metres": 14, "email": "ana@lake.example", "name": "Ana\nBcc: all@lake.example", "race": "2026-05-30"}`)
	data, err := json.Marshal(out.Messages())
	require.NoError(t, err)
	assert.JSONEq(t, `[{"key": "long_boat", "to": ["harbour@pedralta.example"], "subject": "Mooring for 14 metres", "at": null},
		{"key": "thanks", "to": ["ana@lake.example"], "subject": "Thank you, Ana Bcc: all@lake.example", "at": null},
		{"key": "reminder", "to": ["ana@lake.example"], "subject": "Soon", "at": "2026-05-27T09:00:00-03:00"}]`, string(data),
		"each address once, no header is begun, a date is its morning")
}

func TestAnAddressIsConfirmedFirst(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "email", "type": "email", "label": "Email"}]}]}], "messages": [{"key": "m", "to": ["x@lake.example"], "subject": "S", "body": "B"}],
		"hooks": [{"key": "h", "url": "https://desk.example"}], "confirm": {"item": "email", "within": "3 days", "subject": "Is it you?", "body": "{confirm_link}"}}`))
	require.NotNil(t, p, remarks)
	out := p.Run(engine.Input{Answers: p.Answers(map[string]any{"email": "ana@lake.example"}), At: time.Unix(0, 0)})
	require.Len(t, out.Messages(), 1)
	assert.Equal(t, engine.Outgoing{Key: engine.ConfirmKey, To: []string{"ana@lake.example"}, Subject: "Is it you?"},
		out.Messages()[0])
	assert.Empty(t, out.Hooks())
	out = p.Run(engine.Input{At: time.Unix(0, 0)})
	assert.Len(t, out.Messages(), 1, "without an address nothing is waited for")
	assert.Equal(t, "m", out.Messages()[0].Key)
}

func TestFaultsOfWhatGoesOut(t *testing.T) {
	for add, want := range map[string]string{
		`"messages": [{"key": "m", "when": "gone = 1", "to": [], "subject": "", "body": ""}]`: "messages.0.when: unknown-name",
		`"messages": [{"key": "m", "to": ["{gone}"], "subject": "", "body": ""}]`:             "messages.0.to.0: unknown-name",
		`"messages": [{"key": "m", "to": [], "subject": "{", "body": ""}]`:                    "messages.0.subject: syntax",
		`"messages": [{"key": "m", "to": [], "subject": "", "body": "", "at": "n + 1"}]`:      "messages.0.at: wrong-type",
		`"messages": [{"key": "m", "to": []}, {"key": "m", "to": []}]`:                        "messages/m: duplicate-key",
		`"messages": [{"key": "m", "to": [], "attach": ["card"]}]`:                            "messages/m.attach.0: unknown-name",
		`"hooks": [{"key": "h", "url": "javascript:x"}]`:                                      "hooks/h.url: wrong-type",
		`"hooks": [{"key": "h", "url": "https://a.example", "when": "n"}]`:                    "hooks.0.when: wrong-type",
		`"hooks": [{"key": "h", "url": "https://a.example", "events": ["sent"]}]`:             "hooks/h.events.0: wrong-type",
		`"confirm": {"item": "n"}`: "confirm.item: wrong-type", `"confirm": {"item": "gone"}`: "confirm.item: unknown-name",
		`"messages": [{"key": "m", "to": [], "wen": "n > 1"}]`: "messages/m.wen: unknown-property",
	} {
		_, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s",
			"items": [{"key": "n", "type": "number", "label": "N"}]}]}], ` + add + `}`))
		found := ""
		for _, r := range remarks {
			found += r.At + ": " + string(r.Kind) + "\n"
		}
		assert.Contains(t, found, want, add)
	}
}

// Every letter says why it goes, or why it does not.
func TestWhyALetterGoes(t *testing.T) {
	p, remarks := engine.Load([]byte(outgoing))
	require.NotNil(t, p, remarks)
	run := func(mode engine.Mode, prior, answers string) map[string]engine.Letter {
		out := map[string]engine.Letter{}
		for _, l := range sending(t, p, mode, prior, answers).Letters() {
			out[l.Key] = l
		}
		require.Len(t, out, 5)
		return out
	}
	says := func(l engine.Letter) string {
		if l.Why.Reason == nil {
			return l.Why.Says
		}
		return l.Why.Says + ": " + l.Why.Reason.FactsText()
	}
	got := run(engine.New, "", `{"metres": 14}`)
	assert.Equal(t, "it goes: Metres is 14", says(got["long_boat"]))
	assert.Equal(t, "it always goes", says(got["thanks"]))
	assert.Equal(t, "it does not go: Metres is 14", says(got["each_time"]))
	assert.Equal(t, "it goes once its moment is known", says(got["reminder"]))
	got = run(engine.Revisit, `{"metres": 13}`, `{"metres": 14}`)
	assert.Equal(t, "it does not go again: its condition was met before this change: Metres is 14", says(got["long_boat"]))
	assert.False(t, got["long_boat"].Goes)
	got = run(engine.New, "", `{"metres": 99}`)
	assert.Equal(t, "it goes once the form can be sent", says(got["thanks"]))
	assert.True(t, got["thanks"].Why.Holds)
	assert.Equal(t, "it does not go: Shift is not answered", says(got["letter"]))
}

func TestGoesOutOfWhatIsStored(t *testing.T) {
	p, remarks := engine.Load([]byte(outgoing))
	require.NotNil(t, p, remarks)
	going := func(before, now string) engine.Going {
		var was []byte
		if before != "" {
			was = []byte(before)
		}
		g, err := p.GoesOut(was, engine.Submitted{Answers: []byte(now)}, time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC),
			engine.Staff)
		require.NoError(t, err)
		return g
	}
	says := func(g engine.Going) (out []string) {
		for _, l := range g.Letters {
			told := l.Key
			if l.Goes {
				told += " goes"
			}
			if l.Timed {
				told += " timed"
			}
			out = append(out, told)
		}
		return out
	}
	assert.Equal(t, []string{"long_boat goes", "thanks goes", "reminder goes timed"},
		says(going("", `{"metres": 14, "race": "2026-05-30"}`)))
	assert.Equal(t, []string{"long_boat goes"}, says(going(`{"metres": 9}`, `{"metres": 14}`)))
	assert.Equal(t, []string{"reminder timed"}, says(going(`{"race": "2026-05-30"}`, `{"race": "2026-06-30"}`)),
		"it stands, with another moment")
	assert.Equal(t, []string{"letter goes"}, says(going(`{"metres": 99}`, `{"metres": 99, "shift": "Sunday"}`))[1:],
		"whatever checks say of what is stored")
	told := func(g engine.Going) (out []string) {
		for _, t := range g.Hooks {
			out = append(out, t.Hook.Key+" "+t.Event)
		}
		return out
	}
	assert.Equal(t, []string{"desk received", "each received"}, told(going("", `{"metres": 14}`)))
	assert.Equal(t, []string{"each changed"}, told(going(`{"metres": 9}`, `{"metres": 14}`)))
	gone, err := p.ToldOfDeletion(engine.Submitted{Answers: []byte(`{"metres": 9}`)}, time.Now())
	require.NoError(t, err)
	assert.Len(t, gone, 1, "that which is told of all")
	assert.Equal(t, "Metres is 14", going("", `{"metres": 14}`).Letters[0].Why.Told())
}

func TestTheAddressToChangeAtStandsInALetter(t *testing.T) {
	load := func(key string) string {
		p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC",
			"pages": [{"key": "p", "sections": [{"key": "s", "items": [
			{"key": "` + key + `", "type": "text", "label": "Name"}]}]}],
			"messages": [{"key": "m", "to": ["office@pedralta.example"], "subject": "S", "body": "Change it: {change_link}"}]}`))
		require.NotNil(t, p, remarks)
		return sending(t, p, engine.New, "", `{"`+key+`": "Ana"}`).Letters()[0].Body
	}
	assert.Equal(t, "Change it: "+engine.ChangeLink, load("name"))
	assert.Equal(t, "Change it: Ana", load("change_link"), "unless a question has that key")
}
