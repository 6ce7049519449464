package engine

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/language"

	"lazo/core/expr"
	"lazo/core/text"
)

// Numbers and dates as the form's language writes them.
func TestWhatPeopleTypeIsReadInTheirLanguage(t *testing.T) {
	for _, c := range []struct{ tag, text, want string }{
		{"en", "1,200", "1200"}, {"en", " 12 ", "12"}, {"en", "1,5", ""}, {"en", "1,200.50", "1200.5"}, {"en", "1,2000", ""},
		{"en", "12,00", ""},
		{"en-IN", "1,00,000", "100000"}, {"en-IN", "12,34,567.5", "1234567.5"}, {"en-IN", "1,000,000", "1000000"}, {"en-IN",
			"1,0,000", ""}, {"en", "1,00,000", ""},
		{"hi", "1,00,000", "100000"}, {"hi", "१,००,०००", "100000"},
		{"de", "1.200,50", "1200.5"}, {"de", "1.200.000", "1200000"}, {"de", "1.5", ""}, {"es", "1.200", "1200"},
		{"fr", "1 200,5", "1200.5"},
		{"ar", "١٢٣", "123"}, {"ar-EG", "١٬٢٠٠٫٥", "1200.5"},
	} {
		n, err := newReading(language.Make(c.tag), "UTC").parse(c.text)
		if c.want == "" {
			assert.Error(t, err, "%s: %s", c.tag, c.text)
			continue
		}
		assert.NoError(t, err, "%s: %s", c.tag, c.text)
		assert.Equal(t, c.want, n.String(), "%s: %s", c.tag, c.text)
	}
	for _, c := range []struct{ tag, text, want string }{
		{"en", "2026-05-30", "2026-05-30"}, {"en", "5/30/2026", "2026-05-30"}, {"en", "30/5/2026", ""},
		{"en-GB", "30/05/2026", "2026-05-30"},
		{"es", "30/05/2026", "2026-05-30"}, {"es", "30/5/26", ""}, {"es-PA", "05/30/2026", "2026-05-30"}, {"de", "30.05.2026",
			"2026-05-30"}, {"de", "30. 5. 2026", "2026-05-30"},
		{"de", "31.02.2026", ""}, {"sv", "30/5/2026", ""}, {"sv", "2026/5/30", "2026-05-30"}, {"hu", "2026. 05. 30.",
			"2026-05-30"}, {"fr-CA", "2026-05-30", "2026-05-30"},
		{"fr", "30/05/2026", "2026-05-30"}, {"ar", "٣٠/٠٥/٢٠٢٦", "2026-05-30"}, {"en", "tomorrow", ""}, {"en", "1/2", ""},
		{"en",
			"1/2/3/2026", ""}, {"de", "30.05-2026", ""},
		{"en", "99999999999999999999/1/2026", ""},
	} {
		d, ok := newReading(language.Make(c.tag), "UTC").day(c.text)
		assert.Equal(t, c.want != "", ok, "%s: %s", c.tag, c.text)
		if ok {
			assert.Equal(t, c.want, d.String(), "%s: %s", c.tag, c.text)
		}
	}
}

// What Lazo prints in a language can be typed in it.
func TestNumbersAreReadAsTheyArePrinted(t *testing.T) {
	for _, tag := range []string{
		"en", "en-IN", "en-ZA", "en-CH", "es", "es-UY", "es-MX", "de", "de-AT", "de-CH", "fr", "fr-TN", "pl", "no", "sv",
		"pt", "hi", "ne", "te", "ar", "ar-LB", "ar-IQ", "ms-ID", "jv", "km", "fa-AF", "und",
	} {
		said := language.Make(tag)
		for _, plain := range []string{"0", "12", "1234", "12345.5", "1234567.25", "0.125", "123456789"} {
			n, err := expr.ParseNumber(plain)
			require.NoError(t, err)
			back, err := newReading(said, "UTC").parse(text.Of(said).Number(n))
			require.NoError(t, err, "%s: %s", tag, text.Of(said).Number(n))
			assert.Equal(t, plain, back.String(), tag)
		}
	}
}
