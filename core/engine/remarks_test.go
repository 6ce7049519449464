package engine_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
)

// withItems is a form of one section with these items, and what else is given.
func withItems(items string, more ...string) string {
	return fmt.Sprintf(
		`{"lazo": 1, "key": "t", "title": "T", "timezone": "Europe/Madrid"%s, "pages": [{"key": "p", "sections": [{"key": "s", "items": [%s]}]}]}`,
		strings.Join(append([]string{""}, more...), ", "), items,
	)
}

const rowsOf = `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [
 {"key": "crew", "repeat": {"max": %d}, "items": [{"key": "age", "type": "number", "label": "Age"}]},
 {"key": "s", "items": [{"key": "n", "type": "note", "label": "N", "shown": %q}]}]}]}`

func TestWhatIsWrongWithAFormIsRemarkedOn(t *testing.T) {
	for name, c := range map[string]struct {
		form, kind, at string
		severity       form.Severity
	}{
		"an empty key": {withItems(`{"key": "", "type": "text", "label": "x"}`), "syntax", "pages/p/s/#1.key",
			form.Error},
		"an empty form key": {`{"lazo": 1, "key": "", "title": "T", "pages": []}`, "syntax", "key", form.Error},
		"a key given twice": {withItems(`{"key": "a", "type": "text", "label": "x", "label": "y"}`), "duplicate-key",
			"pages.0.sections.0.items.0.label", form.Error},
		"a misspelt function": {withItems(`{"key": "a", "type": "text", "label": "x", "shown": "lenght(a) > 1"}`),
			"unknown-name", "pages/p/s/a.shown", form.Error},
		"a tie to a parked item":  {withItems(`{"key": "a", "type": "text", "label": "x", "parked": true}, {"key": "b", "type": "text", "label": "x", "shown": "a is answered"}`), "parked", "pages/p/s/b.shown", form.Warning},
		"choices that read alike": {withItems(`{"key": "a", "type": "choice", "label": "x", "choices": [{"value": "n", "label": "North"}, {"value": "s", "label": "north "}]}`), "duplicate-label", "pages/p/s/a.choices.1.label", form.Warning},
		"entries that read alike": {withItems(`{"key": "a", "type": "choice", "label": "x", "choices_from": {"list": "l", "value": "c", "label": "n"}}`, `"lists": {"l": [{"c": "a", "n": "Pier"}, {"c": "b", "n": "Pier"}]}`), "duplicate-label", "pages/p/s/a.choices_from.label", form.Warning},
		"a code that stands twice": {withItems(``, `"lists": {"l": [{"code": "a"}, {"code": "A"}]}`), "duplicate-code",
			"lists.l.1.code", form.Warning},
		"once without is": {withItems(`{"key": "a", "type": "text", "label": "x", "value": {"starts": "\"x\"", "once": true}}`), "wrong-type", "pages/p/s/a.value.once", form.Error},
		"four rows deep": {fmt.Sprintf(rowsOf, 50, "any(crew, any(crew, any(crew, any(crew, age > 1))))"),
			"too-costly", "pages/p/s/n.shown", form.Error},
		"three deep of 126": {fmt.Sprintf(rowsOf, 126, "any(crew, every(crew, count(crew, age > 1) > 1))"),
			"too-costly", "pages/p/s/n.shown", form.Error},
	} {
		_, remarks := engine.Load([]byte(c.form))
		found := false
		for _, r := range remarks {
			found = found || r.Kind == c.kind && r.At == c.at && r.Severity == c.severity
		}
		assert.True(t, found, "%s: %v", name, remarks)
	}
	for name, src := range map[string]string{
		"functions as keys":         withItems(`{"key": "days", "type": "number", "label": "x"}, {"key": "first", "type": "number", "label": "x", "shown": "days > 3 and age(min) > first(days, 14)"}, {"key": "min", "type": "date", "label": "x"}`),
		"three deep of 125":         fmt.Sprintf(rowsOf, 125, "any(crew, every(crew, any(crew, age > 1)))"),
		"a parked item to a parked": withItems(`{"key": "a", "type": "text", "label": "x", "parked": true}, {"key": "b", "type": "text", "label": "x", "shown": "a is answered", "parked": true}`),
	} {
		_, remarks := engine.Load([]byte(src))
		assert.Empty(t, remarks, name)
	}
}

// The dearest form that is let through is run in bounded time, whatever is sent.
func TestARunIsBounded(t *testing.T) {
	p, remarks := engine.Load([]byte(fmt.Sprintf(rowsOf, 125, "any(crew, any(crew, any(crew, age > 1)))")))
	require.NotNil(t, p, remarks)
	rows := make([]any, 500)
	for i := range rows {
		rows[i] = map[string]any{"age": json.Number("1")}
	}
	out := p.Run(engine.Input{Answers: p.Answers(map[string]any{"crew": rows}), At: time.Unix(0, 0)})
	assert.Equal(t, 125, out.Group("crew").Count, "rows over the most take no part")
	assert.NotEmpty(t, out.Group("crew").Problems, "and are said to be too many")
	assert.False(t, out.Accepted)
}
