package engine_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/expr"
)

const turning = `{"lazo": 1, "key": "entry", "title": "Entry", "timezone": "America/Montevideo",
	"opening": {"from": "2026-03-01T09:00", "until": "2026-05-30T18:00",
		"hours": {"rule": "FREQ=WEEKLY;BYDAY=SA", "from": "09:00", "until": "17:00"}},
	"pages": [{"key": "p", "sections": [{"key": "s", "items": [
	{"key": "late", "type": "note", "label": "Late entries pay more.", "shown": "now >= 2026-05-01T00:00"},
	{"key": "boat", "type": "choice", "label": "Boat", "required": "today >= 2026-04-01",
		"choices": [{"value": "single", "offered": "today < 2026-05-10"}, {"value": "eight"}]},
	{"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "if(now >= 2026-05-01T00:00, 900, 600)"}}]}]}]}`

func moment(t require.TestingT, text string) time.Time {
	at, err := time.Parse(time.RFC3339, text)
	require.NoError(t, err)
	return at
}

// What changes by itself is told with its moment, in words; that the form opens and closes
// is not among it.
func TestTurns(t *testing.T) {
	p, remarks := engine.Load([]byte(turning))
	require.NotNil(t, p, remarks)
	var got []string
	for _, turn := range p.Turns(engine.Input{At: moment(t, "2026-03-10T12:00:00Z")}, moment(t, "2026-12-01T00:00:00Z")) {
		for _, said := range turn.Says {
			got = append(got, turn.At.Format("2 Jan 15:04 ")+said.Key+": "+said.Text)
		}
	}
	assert.Equal(t, []string{
		"1 Apr 00:00 boat: Boat is required",
		"1 May 00:00 late: “Late entries pay more.” is shown", "1 May 00:00 fee: Fee is 900",
		"10 May 00:00 boat: Boat offers other choices",
	}, got)
	assert.Empty(t, p.Turns(engine.Input{At: moment(t, "2026-06-01T00:00:00Z")}, moment(t, "2027-06-01T00:00:00Z")))
}

// The times in which a form is open are those in which it says so.
func TestOpenTimesAgreeWithOpening(t *testing.T) {
	p, remarks := engine.Load([]byte(turning))
	require.NotNil(t, p, remarks)
	from, until := moment(t, "2026-02-01T00:00:00Z"), moment(t, "2026-08-01T00:00:00Z")
	spans := p.OpenTimes(from, until, 100)
	require.NotEmpty(t, spans)
	assert.Equal(t, "7 Mar 09:00", spans[0].From.Format("2 Jan 15:04"))
	rapid.Check(t, func(t *rapid.T) {
		at := from.Add(time.Duration(rapid.Int64Range(0, int64(until.Sub(from)/time.Minute)).Draw(t, "minute")) * time.Minute)
		within := false
		for _, s := range spans {
			within = within || !at.Before(s.From) && at.Before(s.Until)
		}
		open := p.Run(engine.Input{At: at, Mode: engine.New}).Open == engine.Open
		require.Equal(t, open, within, fmt.Sprint(at))
	})
}

// A closing text is sought with answers at which it is the one that is read.
func TestAnEndIsSoughtThatIsRead(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "entry", "title": "Entry", "timezone": "UTC", "end": "Thank you.",
		"parameters": [{"name": "club"}], "opening": {"shown": "url.club is answered"},
		"ends": [{"when": "boat = \"eight\"", "text": "Bring a cox."}, {"when": "boat is answered", "text": "Bring oars."}],
		"pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "eight"}, {"value": "single"}]}]}]}]}`))
	require.NotNil(t, p, remarks)
	at := moment(t, "2026-03-10T12:00:00Z")
	for n, text := range []string{"Bring a cox.", "Bring oars."} {
		found, ok := p.Seek("", fmt.Sprintf("ends.%d.when", n), expr.Met, engine.Filling{At: at})
		require.True(t, ok)
		out := p.Run(engine.Input{Answers: p.Answers(found.Answers), Params: found.Params, At: found.At})
		assert.Equal(t, text, out.End())
	}
	found, ok := p.Seek("", "opening.shown", expr.Met, engine.Filling{At: at})
	require.True(t, ok)
	assert.NotEmpty(t, found.Params["club"])
}

// What is told of an outcome is what would be stored, item by item.
func TestWhatIsToldIsWhatIsStored(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		f := drawForm(rt)
		p, remarks := engine.Compile(f)
		if p == nil {
			rt.Skip(remarks)
		}
		out := p.Run(engine.Input{Answers: p.Answers(drawAnswers(rt, f, "answers")), At: moment(rt, "2026-05-30T12:00:00Z"),
			Mode: engine.New})
		out.Accepted = true // whatever the form demands
		stored := out.Stored()
		told := map[string]bool{}
		for _, a := range out.Told() {
			told[a.Key] = true
		}
		for pl := range f.Places() {
			if pl.Section.Repeat == nil {
				v, has := stored[pl.Item.Key]
				assert.Equal(rt, has && v != nil, told[pl.Item.Key], pl.Item.Key)
			}
		}
		assert.Empty(rt, out.Beside(out), "an edition is not otherwise than itself")
	})
}
