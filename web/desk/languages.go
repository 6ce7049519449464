package desk

import (
	"errors"
	"maps"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/core/form"
	"lazo/store"
	"lazo/web/wording"
)

// languageRow is one of the languages of a form.
type languageRow struct {
	Tag, Name string
	Missing   int // texts that are not translated
}

func languageRows(def *form.Form) []languageRow {
	var out []languageRow
	texts := def.Texts()
	for _, tag := range def.Languages()[1:] {
		row := languageRow{Tag: tag, Name: wording.EnglishName(tag)}
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
	Frame
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

func (d *Desk) language(w http.ResponseWriter, r *http.Request) error {
	return d.languagePage(w, r, http.StatusOK, "")
}

func (d *Desk) languagePage(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	tag := chi.URLParam(r, "language")
	t, ok := def.Translations[tag]
	if !ok {
		return store.ErrNotFound
	}
	fr, err := d.frame(r, f, def, "public")
	if err != nil {
		return err
	}
	page := languagePage{Frame: fr, Tag: tag, Name: wording.EnglishName(tag), Own: wording.EnglishName(def.Languages()[0]), Direction: wording.Direction(tag), Problem: problem,
		OwnWords: wording.Speaks(tag)}
	for i, text := range def.Texts() {
		row := translatedRow{N: i, At: text.At, Text: text.Text, Said: t[text.Text], Long: len(text.Text) > 80 || strings.Contains(text.Text, "\n")}
		if row.Said == "" {
			page.Missing++
		}
		page.Texts = append(page.Texts, row)
	}
	return d.pages.Page(w, status, "language", page)
}

// setLanguage stores the translations of one language. Those of texts that the
// form has no more are kept: what was changed may be changed back.
func (d *Desk) setLanguage(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	tag := chi.URLParam(r, "language")
	old, ok := def.Translations[tag]
	if !ok {
		return store.ErrNotFound
	}
	t := maps.Clone(old)
	for i := range r.PostForm["text"] {
		text := strings.ReplaceAll(r.PostForm["text"][i], "\r\n", "\n")
		said := strings.TrimSpace(strings.ReplaceAll(r.PostForm.Get("said-"+strconv.Itoa(i)), "\r\n", "\n"))
		if said == "" {
			delete(t, text)
		} else {
			t[text] = said
		}
	}
	all := maps.Clone(def.Translations)
	all[tag] = t
	_, err = d.editWhole(r, f, form.SetProperty("", "translations", all))
	switch {
	case errors.Is(err, store.ErrConflict):
		return d.languagePage(w, r, http.StatusConflict, "The translations were changed meanwhile, here or by someone else; nothing of this was set."+written(r.PostForm))
	case errors.Is(err, form.ErrEdit):
		return d.languagePage(w, r, http.StatusUnprocessableEntity, editProblem(err)+written(r.PostForm))
	case err != nil:
		return err
	}
	http.Redirect(w, r, base(f.ID)+"/languages/"+tag, http.StatusSeeOther)
	return nil
}

// languagesEdit adds a language, or takes one away.
func languagesEdit(def *form.Form, add, remove string) (form.Edit, error) {
	all := maps.Clone(def.Translations)
	if remove != "" {
		delete(all, remove)
		if len(all) == 0 {
			return form.SetProperty("", "translations", nil), nil
		}
		return form.SetProperty("", "translations", all), nil
	}
	switch {
	case !form.IsLanguage(add):
		return form.Edit{}, wrong("“%s” is no language; one is written like es for Spanish, ar for Arabic or pt-BR", add)
	case add == def.Languages()[0]:
		return form.Edit{}, wrong("the form is in %s already", wording.EnglishName(add))
	case all[add] != nil:
		return form.Edit{}, wrong("%s is there already", wording.EnglishName(add))
	case all == nil:
		all = map[string]form.Translation{}
	}
	all[add] = form.Translation{}
	return form.SetProperty("", "translations", all), nil
}
