package public

import (
	"errors"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/core/author"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/wording"
)

// languageRow is one of the languages of a form.
type languageRow struct {
	Tag, Name string
	Missing   int // texts that are not translated
}

// tongues are the languages of a form, and those that can be added.
type tongues struct {
	Own  string
	Rows []languageRow
	More []layout.Option
}

func tonguesOf(def *form.Form) *tongues {
	t := &tongues{Rows: languageRows(def)}
	t.Own, t.More = layout.Languages(def.Languages()[0])
	t.More = slices.DeleteFunc(t.More, func(o layout.Option) bool { return slices.Contains(def.Languages(), o.Value) })
	return t
}

func languageRows(def *form.Form) []languageRow {
	var out []languageRow
	texts := def.Texts()
	for _, tag := range def.Languages()[1:] {
		row := languageRow{Tag: tag, Name: form.LanguageName(tag)}
		for _, t := range texts {
			if def.Translations[tag][t.Text] == "" {
				row.Missing++
			}
		}
		out = append(out, row)
	}
	return out
}

// languagePage is the translation of a form's texts into one language.
type languagePage struct {
	layout.Header
	Tag, Name, Own, Direction string
	Texts                     []translatedRow
	Missing                   int
	OwnWords                  bool // the application has words of its own in the language
	Problem                   string
}

type translatedRow struct {
	N              int
	At, Text, Said string
	Long           bool
}

func (d *Room) language(w http.ResponseWriter, r *http.Request) error {
	return d.languagePage(w, r, http.StatusOK, "")
}

func (d *Room) languagePage(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	tag := chi.URLParam(r, "language")
	t, ok := def.Translations[tag]
	if !ok {
		return store.ErrNotFound
	}
	fr, err := d.Frame(r, f, def, "public")
	if err != nil {
		return err
	}
	page := languagePage{
		Header: fr, Tag: tag, Name: form.LanguageName(tag), Own: form.LanguageName(def.Languages()[0]),
		Direction: wording.Direction(tag), Problem: problem, OwnWords: wording.Speaks(tag),
	}
	for i, text := range def.Texts() {
		row := translatedRow{
			N: i, At: text.At, Text: text.Text, Said: t[text.Text],
			Long: len(text.Text) > 80 || strings.Contains(text.Text, "\n"),
		}
		if row.Said == "" {
			page.Missing++
		}
		page.Texts = append(page.Texts, row)
	}
	return d.pages.Page(w, status, "language", page)
}

// setLanguage stores the translations of one language.
func (d *Room) setLanguage(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	tag := chi.URLParam(r, "language")
	if _, ok := def.Translations[tag]; !ok {
		return store.ErrNotFound
	}
	said := map[string]string{}
	plain := strings.NewReplacer("\r\n", "\n")
	for i, text := range r.PostForm["text"] {
		said[plain.Replace(text)] = strings.TrimSpace(plain.Replace(r.PostForm.Get("said-" + strconv.Itoa(i))))
	}
	err = d.SetWhole(r, f, def, author.Translate{Language: tag, Said: said})
	switch {
	case errors.Is(err, store.ErrConflict):
		return d.languagePage(
			w, r, http.StatusConflict,
			"The translations were changed meanwhile, here or by someone else; nothing of this was set."+
				layout.Written(r.PostForm),
		)
	case errors.Is(err, form.ErrEdit):
		return d.languagePage(w, r, http.StatusUnprocessableEntity, layout.Problem(err)+layout.Written(r.PostForm))
	case err != nil:
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/languages/"+tag, http.StatusSeeOther)
	return nil
}
