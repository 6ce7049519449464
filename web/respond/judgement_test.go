package respond

import (
	"net/url"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/web/fill"
	"lazo/web/fill/posted"
	"lazo/web/wording"
)

// crew is a filling of a form that asks for a name, and for a cox of an eight.
func crew(t *testing.T, opening string, fields url.Values) filling {
	t.Helper()
	f, faults := form.Read([]byte(`{"lazo": 1, "key": "crew", "title": "Crew", "timezone": "UTC", ` + opening + ` "pages": [
		{"key": "boat", "sections": [{"key": "s", "items": [{"key": "name", "type": "text", "label": "Name", "required": true},
			{"key": "eight", "type": "tick", "label": "Eight"},
			{"key": "cox", "type": "text", "label": "Cox", "shown": "eight", "required": true}]}]}]}`))
	require.Empty(t, faults)
	p, remarks := engine.Compile(f)
	require.NotNil(t, p, remarks)
	at := time.Date(2026, 5, 20, 12, 0, 0, 0, time.UTC)
	return filling{request: request{ticket: ticket{Edition: 1, Form: 7}, posted: fields, at: at}, fields: fields,
		program: p,
		words:   wording.For(""), input: engine.Input{Answers: p.AnswersFrom(posted.Posting{Fields: fields}), At: at,
			Mode: engine.New}}
}

// A filling is judged without a page, a store or a network; the form is run once, and once more
// where another edition says whether it is open.
func TestJudgingNeedsNoPage(t *testing.T) {
	runs := 0
	s := &Side{counts: func(time.Duration) { runs++ }}
	f := crew(t, "", url.Values{"a.name": {"Ana"}, "a.eight": {"yes"}, "a.cox": {"Bea"}})
	j := s.judge(f, opening{program: f.program})
	assert.True(t, j.out.Accepted)
	assert.Equal(t, 1, runs)
	response, err := j.response()
	require.NoError(t, err)
	assert.JSONEq(t, `{"name": "Ana", "eight": true, "cox": "Bea"}`, string(response.Answers))
	assert.Equal(t, 1, response.Judge)

	over := crew(t, `"opening": {"until": "2026-05-01T00:00"},`, nil)
	j = s.judge(f, opening{program: over.program, edition: 2})
	assert.Equal(t, engine.After, j.out.Open, "the live edition says that it is over")
	assert.False(t, j.out.Accepted)

	full := crew(t, `"opening": {"limit": 3},`, f.fields)
	by := opening{program: full.program, edition: 1, limit: 3, responses: 2}
	assert.Equal(t, engine.Open, s.judge(full, by).out.Open)
	by.responses = 3
	assert.Equal(t, engine.Full, s.judge(full, by).out.Open)
	by.offline = true
	assert.Equal(t, engine.Offline, s.judge(full, by).out.Open)
}

// What is noted on the page that comes back changes neither the filling nor what was judged.
func TestNothingThatWasReadIsChanged(t *testing.T) {
	f := crew(t, "", url.Values{"a.name": {"Ana"}})
	j := (&Side{}).judge(f, opening{program: f.program})
	next := j.leaving("boat").set(farField, "boat").set("a.cox", "")
	assert.Equal(t, url.Values{"a.name": {"Ana"}}, f.fields)
	assert.Equal(t, url.Values{"a.name": {"Ana"}}, j.fields)
	assert.Equal(t, f.posted, next.posted)
	assert.Equal(t, "boat", next.fields.Get(farField))
	assert.True(t, fill.Seen(next.fields, "boat"))
	assert.False(t, fill.Seen(j.fields, "boat"))
}

// What is wrong on a page is said on it, and nothing is left of what was not seen.
func TestNextStaysWhereSomethingIsWrong(t *testing.T) {
	f := crew(t, "", url.Values{"a.eight": {"yes"}, posted.DigestField: {"another page"}})
	s := &Side{}
	j := s.judge(f, opening{program: f.program})
	_, a, err := j.goOn(j.out.Route(), "boat")
	require.NoError(t, err)
	assert.Equal(t, answer{at: "boat", judged: true}, a)
	f = crew(t, "", url.Values{"a.name": {"Ana"}, posted.DigestField: {"another page"}})
	_, a, err = s.judge(f, opening{program: f.program}).goOn(j.out.Route(), "boat")
	require.NoError(t, err)
	assert.Equal(t, answer{at: "boat", notice: unseenNotice}, a, "it does not stand as it was seen")
}
