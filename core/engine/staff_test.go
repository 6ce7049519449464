package engine_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
)

func TestPut(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "name", "type": "text", "label": "Name", "required": true, "shown": "now < 2026-06-01T00:00"},
		{"key": "length", "type": "number", "label": "Length", "max": 20},
		{"key": "called", "type": "tick", "label": "Called", "staff": true},
		{"key": "paid", "type": "choice", "label": "Paid", "staff": true, "choices": [{"value": "cash"}]},
		{"key": "sum", "type": "number", "label": "Sum", "staff": true, "max": 9, "shown": "paid is answered"},
		{"key": "open", "type": "calculation", "label": "Open", "value": {"is": "if(paid is answered, 0, 5)"}}]}]}]}`))
	require.NotNil(t, p, remarks)
	kept := engine.Submitted{Answers: []byte(`{"name": "Ana", "length": 30, "open": 5, "later": "x"}`),
		Received: time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC)}
	out, err := engine.Put(p, p, kept, "called", "yes")
	require.NoError(t, err)
	assert.JSONEq(t, `{"name": "Ana", "length": 30, "open": 5, "later": "x", "called": true}`, string(out.Answers),
		"nothing is lost, of then or of later")
	require.Len(t, out.Over, 1)
	assert.Equal(t, "Length: Please enter 20 or less.", out.Over[0].Said())
	out, err = engine.Put(p, p, kept, "paid", "cash")
	require.NoError(t, err)
	assert.JSONEq(t, `{"name": "Ana", "length": 30, "open": 0, "later": "x", "paid": "cash", "called": false}`,
		string(out.Answers), "what depends on it follows")
	kept.Answers = out.Answers
	out, err = engine.Put(p, p, kept, "paid", "")
	require.NoError(t, err)
	assert.JSONEq(t, `{"name": "Ana", "length": 30, "open": 5, "later": "x", "called": false}`, string(out.Answers))
	for _, try := range []struct{ key, value, says string }{
		{"length", "3", "no such question"}, {"gone", "3", "no such question"}, {"paid", "gold", "has no choice “gold”"},
		{"sum", "99", "enter 9 or less"}, {"sum", "many", "a number"},
	} {
		_, err := engine.Put(p, p, kept, try.key, try.value)
		var refused engine.RefusedError
		require.ErrorAs(t, err, &refused, try.key)
		assert.Contains(t, refused.Text, try.says)
	}
	kept.Answers = []byte(`{"name": "Ana"}`)
	_, err = engine.Put(p, p, kept, "sum", "3")
	assert.ErrorContains(t, err, "locked or not asked")
}

func TestPutByALaterEdition(t *testing.T) {
	load := func(items string) *engine.Program {
		p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s",
			"items": [` + items + `]}]}]}`))
		require.NotNil(t, p, remarks)
		return p
	}
	own := load(`{"key": "name", "type": "text", "label": "Name"}, {"key": "old", "type": "text", "label": "Old"}`)
	newest := load(`{"key": "name", "type": "text", "label": "Name", "max_length": 1}, {"key": "sure", "type": "yes_no", "label": "Sure", "staff": true}`)
	kept := engine.Submitted{Answers: []byte(`{"name": "Ana", "old": "x"}`)}
	out, err := engine.Put(own, newest, kept, "sure", "no")
	require.NoError(t, err)
	assert.True(t, out.Alone)
	assert.JSONEq(t, `{"name": "Ana", "old": "x", "sure": false}`, string(out.Answers), "nothing else is touched")
	kept.Answers = out.Answers
	out, err = engine.Put(own, newest, kept, "sure", "yes")
	require.NoError(t, err)
	before, after := engine.AnswerIn(kept.Answers, "sure"), engine.AnswerIn(out.Answers, "sure")
	kept.Answers = out.Answers
	back, err := engine.PutBack(own, newest, kept, "sure", before, after)
	require.NoError(t, err)
	assert.JSONEq(t, `{"name": "Ana", "old": "x", "sure": false}`, string(back.Answers), "no is not nothing")
	_, err = engine.PutBack(own, newest, kept, "sure", before, before)
	assert.ErrorContains(t, err, "changed since")
	back, err = engine.PutBack(own, newest, kept, "sure", nil, after)
	require.NoError(t, err)
	assert.JSONEq(t, `{"name": "Ana", "old": "x"}`, string(back.Answers))
	// What a later edition put there stays when the respondent changes the rest.
	changed, err := own.Beside([]byte(`{"name": "Bo"}`), []byte(`{"name": "Ana", "old": "x", "sure": true}`))
	require.NoError(t, err)
	assert.JSONEq(t, `{"name": "Bo", "sure": true}`, string(changed))
}

// An answer that has left the list meanwhile is refused to respondents, and stays for the office.
func TestTheOfficeKeepsWhatHasLeftTheList(t *testing.T) {
	f, remarks := form.Read([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC",
		"lists": {"piers": {"shared": "piers"}}, "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "pier", "type": "choice", "label": "Pier", "choices_from": {"list": "piers", "value": "code"}}]}]}]}`))
	require.Empty(t, remarks)
	p, remarks := engine.Compile(f.WithLists(map[string]form.Table{"piers": {
		Columns: []form.Column{{Key: "code", Name: "Code", Type: form.TextColumn}},
		Entries: []form.Entry{{"code": "north"}}}}))
	require.NotNil(t, p, remarks)
	gone := p.Answers(map[string]any{"pier": "south"})
	for mode, accepted := range map[engine.Mode]bool{engine.New: false, engine.Revisit: false, engine.Staff: true} {
		out := p.Run(engine.Input{Mode: mode, Answers: gone, Prior: p.Answers(map[string]any{"pier": "north"})})
		assert.Equal(t, accepted, len(out.Findings("p")) == 0, "%s: %v", mode, out.Findings("p"))
	}
}
