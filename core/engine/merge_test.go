package engine_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
)

const twoAtOnce = `{"lazo": 1, "key": "a", "title": "A", "timezone": "UTC", "pages": [{"key": "p", "sections": [
	{"key": "s", "items": [
		{"key": "name", "type": "text", "label": "Name"}, {"key": "phone", "type": "text", "label": "Phone"},
		{"key": "mail", "type": "email", "label": "Mail", "twice": true}, {"key": "swim", "type": "tick", "label": "Swims"},
		{"key": "cox", "type": "text", "label": "Cox", "shown": "swim"}, {"key": "paid", "type": "text", "label": "Paid", "staff": true}]},
	{"key": "crew", "repeat": {"max": 9}, "items": [{"key": "who", "type": "text", "label": "Who"}, {"key": "seat", "type": "text", "label": "Seat"}]}]}]}`

// What a page changed goes on what is stored now; what it did not change is nobody's loss.
func TestMerge(t *testing.T) {
	p, remarks := engine.Load([]byte(twoAtOnce))
	require.NotNil(t, p, remarks)
	for name, try := range map[string]struct {
		base, mine, theirs string
		decided            map[string]bool
		answers            string
		clashes            []string
	}{
		"different answers": {`{"name": "a", "phone": "1"}`, `{"name": "b", "phone": "1"}`,
			`{"name": "a", "phone": "2", "paid": "yes"}`,
			nil, `{"name": "b"}`, nil},
		"the same answer the same way": {`{"name": "a"}`, `{"name": "b"}`, `{"name": "b"}`, nil, `{"name": "b"}`, nil},
		"the same answer otherwise":    {`{"name": "a"}`, `{"name": "b"}`, `{"name": "c"}`, nil, `{}`, []string{"name"}},
		"decided for mine": {`{"name": "a"}`, `{"name": "b"}`, `{"name": "c"}`, map[string]bool{"name": true},
			`{"name": "b"}`, nil},
		"decided for theirs": {`{"name": "a"}`, `{"name": "b"}`, `{"name": "c"}`, map[string]bool{"name": false},
			`{}`, nil},
		"emptied": {
			`{"name": "a", "phone": "1"}`, `{"phone": "1"}`, `{"name": "a", "phone": "2"}`,
			nil, `{"name": null}`, nil,
		},
		"typed twice": {
			`{}`,
			`{"mail": "a@b.example"}`,
			`{"phone": "2"}`,
			nil, `{"mail": "a@b.example", "mail#again": "a@b.example"}`, nil,
		},
		"unticked is no answer": {`{"swim": false}`, `{}`, `{"swim": true}`, nil, `{}`, nil},
		"not asked is not changed": {`{"cox": "Ana", "swim": true}`, `{}`, `{"cox": "Bo", "swim": true}`, nil,
			`{"swim": null}`, nil},
		"rows of both": {
			`{"crew": [{"_row": "1", "who": "a"}, {"_row": "2", "who": "b"}]}`,
			`{"crew": [{"_row": "1", "who": "A"}, {"_row": "2", "who": "b"}, {"_row": "9", "who": "mine"}]}`,
			`{"crew": [{"_row": "2", "who": "b", "seat": "3"}, {"_row": "1", "who": "a"}, {"_row": "8", "who": "theirs"}]}`, nil,
			`{"crew": [{"_row": "2", "who": "b", "seat": "3"}, {"_row": "1", "who": "A"}, {"_row": "8", "who": "theirs"}, {"_row": "9", "who": "mine"}]}`, nil},
		"a row that they took out": {
			`{"crew": [{"_row": "1", "who": "a"}, {"_row": "2", "who": "b"}]}`,
			`{"crew": [{"_row": "1", "who": "a"}, {"_row": "2", "who": "b"}, {"_row": "3"}]}`,
			`{"crew": [{"_row": "1", "who": "a"}]}`,
			nil, `{"crew": [{"_row": "1", "who": "a"}, {"_row": "3"}]}`, nil,
		},
		"a row that I took out": {
			`{"crew": [{"_row": "1", "who": "a"}, {"_row": "2", "who": "b"}]}`,
			`{"crew": [{"_row": "1", "who": "a"}]}`,
			`{"crew": [{"_row": "1", "who": "x"}, {"_row": "2", "who": "b"}]}`,
			nil, `{"crew": [{"_row": "1", "who": "x"}]}`, nil,
		},
		"a row that I took out and they changed": {
			`{"crew": [{"_row": "1", "who": "a"}]}`,
			`{"crew": []}`,
			`{"crew": [{"_row": "1", "who": "x"}]}`,
			nil, `{"crew": [{"_row": "1", "who": "x"}]}`, []string{"crew.1"},
		},
		"a cell that both changed": {
			`{"crew": [{"_row": "1", "who": "a"}]}`,
			`{"crew": [{"_row": "1", "who": "b"}]}`,
			`{"crew": [{"_row": "1", "who": "c"}]}`,
			nil, `{"crew": [{"_row": "1", "who": "c"}]}`, []string{"crew.1.who"},
		},
	} {
		t.Run(name, func(t *testing.T) {
			read := func(s string) map[string]any {
				m, err := engine.ParseAnswers([]byte(s))
				require.NoError(t, err)
				return m
			}
			sent := read(try.mine)
			for key := range read(try.base) { // a page posts what it leaves empty, too
				if _, there := sent[key]; !there {
					sent[key] = nil
				}
			}
			out := p.Run(engine.Input{Answers: p.Answers(sent), Prior: p.Answers(read(try.base)), Mode: engine.Staff})
			got, err := p.Merge([]byte(try.base), []byte(try.mine), []byte(try.theirs), out, try.decided)
			require.NoError(t, err)
			data, err := json.Marshal(got.Changed)
			require.NoError(t, err)
			assert.JSONEq(t, try.answers, string(data))
			var clashes []string
			for _, c := range got.Clashes {
				clashes = append(clashes, c.Key)
			}
			assert.Equal(t, try.clashes, clashes)
		})
	}
}
