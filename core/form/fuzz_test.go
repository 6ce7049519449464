package form_test

import (
	"testing"

	"lazo/core/form"
)

// FuzzRead holds the form reader to its word: no panic, and what it read is
// written and read again without a change.
func FuzzRead(f *testing.F) {
	f.Add([]byte(`{"lazo": 1, "key": "t", "title": "T", "pages": [{"key": "p", "sections": [{"key": "s", "repeat": {"rows": 3},
		"items": [{"key": "a", "type": "choice", "shown": "b = 1", "required": true, "choices": [{"value": "x", "withheld": false}], "min": 1, "max": "2026-01-01"}]}]}]}`))
	f.Add([]byte(`{"lazo": 2, "pages": 3, "lists": {"a": [{"b": []}]}}`))
	f.Add([]byte(`[`))
	f.Fuzz(func(t *testing.T, data []byte) {
		got, _ := form.Read(data)
		if got == nil {
			return
		}
		again, _ := form.Read(got.JSON())
		if again == nil || string(again.JSON()) != string(got.JSON()) {
			t.Fatalf("written and read again the form differs:\n%s\n%s", got.JSON(), again.JSON())
		}
	})
}
