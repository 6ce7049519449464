package text_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
)

// What stands in a text reads as people of its language read it: days of the week, days
// without a year, grids, countries and who fills it in.
func TestWhatPeopleRead(t *testing.T) {
	for language, want := range map[string]string{
		"en": "Saturday · May 30 · Friday: Up, Saturday: Up and Veg · Uruguay · someone coming back · 0.3333333333",
		"es": "sábado · 30 de mayo · Friday: Up, Saturday: Up y Veg · Uruguay · alguien que vuelve · 0,3333333333",
		"de": "Samstag · 30. Mai · Friday: Up, Saturday: Up und Veg · Uruguay · jemand, der zurückkommt · 0,3333333333",
		"fr": "samedi · 30 mai · Friday: Up, Saturday: Up et Veg · Uruguay · quelqu’un qui revient · 0,3333333333",
		"ar": "السبت · ٣٠ مايو · Friday: Up, Saturday: Up وVeg · أورغواي · شخص عاد إلى رده · ٠٫٣٣٣٣٣٣٣٣٣٣",
	} {
		p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "America/Montevideo", "language": "` + language + `",
			"pages": [{"key": "p", "title": "P", "sections": [{"key": "s", "title": "S", "items": [
			{"key": "d", "type": "date", "label": "D"}, {"key": "m", "type": "month_day", "label": "M"}, {"key": "home", "type": "address", "label": "Home"},
			{"key": "g", "type": "grid", "many": true, "label": "G", "rows": [{"key": "fri", "label": "Friday"}, {"key": "sat", "label": "Saturday"}],
				"choices": [{"value": "u", "label": "Up"}, {"value": "v", "label": "Veg"}]},
			{"key": "n", "type": "note", "label": "{weekday(d)} · {m} · {g} · {home.country} · {mode} · {1 / 3}"}]}]}]}`))
		require.NotNil(t, p, remarks)
		out := p.Run(engine.Input{Mode: engine.Revisit, Answers: p.Answers(map[string]any{"d": "2026-05-30", "m": "05-30",
			"home": map[string]any{"country": "UY"}, "g": map[string]any{"fri": []any{"u"}, "sat": []any{"u", "v"}}})})
		assert.Equal(t, want, out.State("n", 0).Label(), language)
	}
}
