package layout

import (
	"cmp"
	"slices"
	"strings"

	"lazo/core/form"
)

// offered are languages that a form can be pointed to be written in, besides the one that
// it is written in; any other comes with a form file.
var offered = []string{"ar", "bg", "ca", "cs", "da", "de", "el", "en", "en-US", "es", "et", "eu", "fa", "fi", "fr",
	"ga", "gl", "he", "hi",
	"hr", "hu", "id", "is", "it", "ja", "ko", "lt", "lv", "mt", "nb", "nl", "pl", "pt", "pt-BR", "ro", "ru", "sk", "sl",
	"sr", "sv", "sw",
	"th", "tr", "uk", "ur", "vi", "zh"}

// Languages are a form's language in words, and those that can be picked, by their names.
func Languages(own string) (name string, all []Option) {
	for _, tag := range offered {
		all = append(all, Option{Value: tag, Label: form.LanguageName(tag)})
	}
	own = cmp.Or(own, "en")
	if !slices.Contains(offered, own) {
		all = append(all, Option{Value: own, Label: form.LanguageName(own)})
	}
	slices.SortFunc(all, func(a, b Option) int { return strings.Compare(a.Label, b.Label) })
	return form.LanguageName(own), all
}
