package engine_test

import (
	"encoding/json"
	"testing"
	"time"

	"lazo/core/engine"
)

// everyType is a form with a question of every type.
const everyType = `{"lazo": 1, "key": "t", "title": "T", "timezone": "America/Montevideo", "parameters": [{"name": "club"}], "pages": [{"key": "p", "sections": [
 {"key": "s", "items": [
  {"key": "t1", "type": "text", "label": "x", "max_length": 5, "pattern": "[a-z]+"}, {"key": "t2", "type": "paragraph", "label": "x"},
  {"key": "n", "type": "number", "label": "x", "min": 0, "max": 10, "step": 0.5}, {"key": "e", "type": "email", "label": "x", "twice": true},
  {"key": "ph", "type": "phone", "label": "x"}, {"key": "w", "type": "website", "label": "x"}, {"key": "d", "type": "date", "label": "x", "min": "2026-01-01"},
  {"key": "ti", "type": "time", "label": "x"}, {"key": "md", "type": "month_day", "label": "x"}, {"key": "yn", "type": "yes_no", "label": "x"},
  {"key": "tk", "type": "tick", "label": "x", "required": true}, {"key": "c", "type": "choice", "label": "x", "choices": [{"value": "a"}, {"value": "b"}]},
  {"key": "cs", "type": "choices", "label": "x", "max_picked": 1, "choices": [{"value": "a", "label": "A, or so"}, {"value": "b"}]},
  {"key": "ad", "type": "address", "label": "x"}, {"key": "f", "type": "file", "label": "x", "accept": ["image/*"], "max_bytes": 10},
  {"key": "sg", "type": "signature", "label": "x"}, {"key": "nt", "type": "note", "label": "x"},
  {"key": "h", "type": "hidden", "value": {"is": "url.club"}}, {"key": "k", "type": "calculation", "label": "x", "value": {"is": "n * 3 + count(cs)"}}]},
 {"key": "r", "repeat": {"min": 1, "max": 3}, "items": [{"key": "rn", "type": "text", "label": "x", "required": "n > 3"}]}]}]}`

// FuzzAnswers holds the answer reader to its word: no panic, and what would be
// stored can be read again and gives the same to store.
func FuzzAnswers(f *testing.F) {
	f.Add(
		[]byte(
			`{"t1": "abc", "n": "1,200", "e": "a@B.Example", "e#again": "x", "ph": "+598 94 123 456", "tk": true, "c": "A", "cs": ["a", "b"], "r": [{"rn": "x"}, 3]}`,
		),
	)
	f.Add(
		[]byte(
			`{"ad": {"city": "x", "country": 3}, "f": {"name": "a.png", "type": "image/png", "size": 4}, "d": "2026-02-30", "ti": "25:00", "md": "02-29"}`,
		),
	)
	f.Add([]byte(`{"n": 1e400, "cs": "a,b,A, or so", "r": {}, "k": 3, "yn": "yes", "w": "club.example"}`))
	p, remarks := engine.Load([]byte(everyType))
	if p == nil {
		f.Fatal(remarks)
	}
	at := time.Date(2026, 5, 10, 12, 0, 0, 0, time.UTC)
	f.Fuzz(func(t *testing.T, data []byte) {
		raw, err := engine.ParseAnswers(data)
		if err != nil {
			return
		}
		out := p.Run(engine.Input{Answers: p.Answers(raw), At: at})
		if !out.Accepted {
			return
		}
		stored, err := json.Marshal(out.Stored())
		if err != nil {
			t.Fatal(err)
		}
		back, err := engine.ParseAnswers(stored)
		if err != nil {
			t.Fatal(err)
		}
		again, _ := json.Marshal(p.Run(engine.Input{Answers: p.Answers(back), At: at}).Stored())
		if string(again) != string(stored) {
			t.Fatalf("stored %s, read again and stored %s", stored, again)
		}
	})
}
