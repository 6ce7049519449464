package form_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
)

const twoLanguages = `{"lazo": 1, "key": "t", "title": "Crew entry", "timezone": "UTC", "language": "en", "end": "Thank you",
 "lists": {"clubs": [{"id": "np", "name": "North pier"}, {"id": "lg"}]},
 "translations": {"es": {"Crew entry": "Inscripción", "Boat": "Bote", "eight": "ocho", "Four": "Cuatro", "North pier": "Muelle norte", "gone": "x", "Thank you": ""}},
 "pages": [{"key": "p", "title": "Boat", "sections": [{"key": "s", "title": "Boat", "items": [
  {"key": "class", "type": "choice", "label": "Class", "choices": [{"value": "eight"}, {"value": "four", "label": "Four"}]},
  {"key": "club", "type": "choice", "label": "Club", "choices_from": {"list": "clubs", "value": "id", "label": "name"}}]}]}]}`

func TestAFormIsReadInEachOfItsLanguages(t *testing.T) {
	f, remarks := form.Read([]byte(twoLanguages))
	require.Empty(t, remarks)
	assert.Equal(t, []string{"en", "es"}, f.Languages())
	assert.Same(t, f, f.Translated("en"))
	assert.Same(t, f, f.Translated("de"), "a language that it is not in")

	es := f.Translated("es")
	assert.Equal(t, "es", es.Language)
	assert.Equal(t, []string{"Inscripción", "Bote", "Bote"},
		[]string{es.Title, es.Pages[0].Title, es.Pages[0].Sections[0].Title})
	items := es.Pages[0].Sections[0].Items
	assert.Equal(t, "Class", items[0].Label, "what is not translated stays")
	assert.Equal(t, "Thank you", es.End, "an empty translation is none")
	assert.Equal(t, "Crew entry", f.Title, "the form itself is untouched")

	for _, c := range []struct {
		item        *form.Item
		text, value string
	}{{items[0], "ocho", "eight"}, {items[0], "Cuatro", "four"}, {items[0], "four", "four"}, {items[0], "FOUR", "four"},
		{items[1], "Muelle norte", "np"}, {items[1], "North Pier", "np"}, {items[1], "lg", "lg"}} {
		o := es.Options(c.item)
		i, ok := o.Match(c.text)
		require.True(t, ok, c.text)
		assert.Equal(t, c.value, o.Values[i], c.text)
	}
	assert.Equal(
		t,
		[]form.TranslatedText{
			{At: "title", Text: "Crew entry"},
			{At: "p", Text: "Boat"},
			{At: "class", Text: "Class"},
			{At: "class", Text: "eight"},
			{At: "class", Text: "Four"},
			{
				At: "club", Text: "Club",
			},
			{At: "end", Text: "Thank you"},
			{At: "lists.clubs", Text: "North pier"},
			{At: "lists.clubs", Text: "lg"},
		},
		f.Texts(),
	)
	assert.Equal(t, f.Translations, f.Clone().Translations)
}

func TestTranslationsAreChecked(t *testing.T) {
	for _, c := range []struct{ translations, at string }{
		{`[]`, "translations"}, {`{"not a tag": {}}`, "translations.not a tag"}, {`{"es": "x"}`, "translations.es"},
		{`{"es": {"a": 1}}`, "translations.es"}} {
		_, remarks := form.Read(
			[]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [], "translations": ` + c.translations +
				`}`),
		)
		require.Len(t, remarks, 1, c.translations)
		assert.Equal(t, c.at, remarks[0].At)
	}
}
