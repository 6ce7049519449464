package form

import (
	"maps"
	"slices"
	"strings"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"lazo/core/text"
)

// Translation is a form's texts in another language: the text as the form has it,
// and what stands in its place. A text that is not in it is shown as the form has
// it; so is one that was changed since it was translated.
type Translation map[string]string

// Languages are the languages that people can fill the form in: its own first.
func (f *Form) Languages() []string {
	if f.languages != nil {
		return f.languages
	}
	own := f.Language
	if own == "" {
		own = "en"
	}
	out := []string{own}
	for _, tag := range slices.Sorted(maps.Keys(f.Translations)) {
		if tag != own {
			out = append(out, tag)
		}
	}
	return out
}

// Translated returns the form as people read it in one of its languages. Keys, values and
// rules are the same, so that an answer means the same in every language. For
// another language, and for its own, it is the form itself.
func (f *Form) Translated(tag string) *Form {
	t, ok := f.Translations[tag]
	if !ok || tag == f.Language {
		return f
	}
	out := f.Clone()
	out.Language, out.translation, out.languages = tag, t, f.Languages()
	for _, p := range out.Pages {
		for _, s := range p.Sections {
			for _, it := range s.Items {
				for i := range it.Choices {
					it.Choices[i].own = it.Choices[i].Name()
				}
			}
		}
	}
	out.texts(func(_ string, text *string, name string) {
		if said := t[name]; said != "" {
			*text = said
		}
	})
	return out
}

// TranslatedText is one of a form's texts with the place of its first use.
type TranslatedText struct{ At, Text string }

// Texts lists what can be translated, each text once, in the order of the form.
func (f *Form) Texts() []TranslatedText {
	var out []TranslatedText
	seen := map[string]bool{"": true}
	add := func(at, text string) {
		if !seen[text] {
			seen[text] = true
			out = append(out, TranslatedText{at, text})
		}
	}
	f.texts(func(at string, _ *string, text string) { add(at, text) })
	for _, p := range f.Pages {
		for _, s := range p.Sections {
			for _, it := range s.Items {
				if from := it.ChoicesFrom; from != nil {
					for _, e := range f.Lists[from.List].Entries {
						add("lists."+from.List, e.name(from))
					}
				}
			}
		}
	}
	return out
}

// texts visits every text that respondents read: where it is, where it can be
// set, and what it says, which for a choice without a label is its value.
func (f *Form) texts(visit func(at string, text *string, says string)) {
	v := func(at string, text *string) { visit(at, text, *text) }
	v("title", &f.Title)
	v("intro", &f.Intro)
	if o := f.Opening; o != nil {
		v("opening.before", &o.Before)
		v("opening.after", &o.After)
		v("opening.full", &o.Full)
	}
	for _, p := range f.Pages {
		if p.Staff {
			continue // respondents never read it
		}
		v(p.Key, &p.Title)
		v(p.Key, &p.Intro)
		for i := range p.Checks {
			v(p.Key, &p.Checks[i].Message)
		}
		for _, s := range p.Sections {
			if s.Staff {
				continue
			}
			v(s.Key, &s.Title)
			v(s.Key, &s.Intro)
			for i := range s.Checks {
				v(s.Key, &s.Checks[i].Message)
			}
			if s.Repeat != nil {
				v(s.Key, &s.Repeat.Name)
			}
			for _, it := range s.Items {
				it.texts(visit)
			}
		}
	}
	if f.Guard != nil {
		v("guard", &f.Guard.Question)
	}
	if t := f.Theme; t != nil {
		v("theme.next", &t.Next)
		v("theme.back", &t.Back)
		v("theme.send", &t.Send)
	}
	for i := range f.Ends {
		v("ends", &f.Ends[i].Text)
	}
	v("end", &f.End)
	f.outgoingTexts(func(property string, at *string, _ bool) {
		if !strings.Contains(property, ".to.") && !strings.HasSuffix(property, ".reply_to") {
			v(property, at)
		}
	})
}

func (it *Item) texts(visit func(at string, text *string, says string)) {
	if it.Type == Hidden || it.Staff {
		return // respondents never read it
	}
	v := func(text *string) { visit(it.Key, text, *text) }
	v(&it.Label)
	v(&it.Help)
	v(&it.Placeholder)
	for i := range it.Wording {
		v(&it.Wording[i].Label)
		v(&it.Wording[i].Help)
	}
	for i := range it.Choices {
		c := &it.Choices[i]
		visit(it.Key, &c.Label, c.Name())
		v(&c.Help)
	}
	v(&it.Low)
	v(&it.High)
	for i := range it.Rows {
		visit(it.Key, &it.Rows[i].Label, it.Rows[i].Name())
	}
	for i := range it.Checks {
		v(&it.Checks[i].Message)
	}
	v(&it.PatternMessage)
}

// rename gives a key another name in texts and in what stands in their place.
func (t Translation) rename(from, to string, inGroup func(string) bool) {
	for _, src := range slices.Collect(maps.Keys(t)) {
		if said := t[src]; text.Holds(src) || text.Holds(said) {
			delete(t, src)
			t[text.Rename(src, from, to, inGroup)] = text.Rename(said, from, to, inGroup)
		}
	}
}

// translations reads them; texts that stand in none of the form's places are kept,
// since what was changed may be changed back.
func (r *reader) translations(v any) map[string]Translation {
	tags, ok := v.(map[string]any)
	if !ok {
		r.remark("wrong-type", "translations", "", "an object of languages was expected, %s was found", jsonKind(v))
		return nil
	}
	out := map[string]Translation{}
	for _, tag := range slices.Sorted(maps.Keys(tags)) {
		at := "translations." + tag
		if !IsLanguage(tag) {
			r.remark("syntax", at, "", "“%s” is no language tag; one is written like es or pt-BR", tag)
			continue
		}
		texts, ok := tags[tag].(map[string]any)
		if !ok {
			r.remark("wrong-type", at, "", "an object of texts was expected, %s was found", jsonKind(tags[tag]))
			continue
		}
		t := Translation{}
		for _, text := range slices.Sorted(maps.Keys(texts)) {
			said, ok := texts[text].(string)
			if !ok {
				r.remark("wrong-type", at, "", "a text was expected for “%s”, %s was found", text, jsonKind(texts[text]))
				continue
			}
			t[text] = said
		}
		out[tag] = t
	}
	return out
}

// LanguageName is what a language is called in English; its tag for one that has no name.
func LanguageName(tag string) string {
	if name := display.English.Languages().Name(language.Make(tag)); name != "" {
		return name
	}
	return tag
}

// IsLanguage reports whether s is a language tag (BCP 47), such as es or pt-BR.
func IsLanguage(s string) bool {
	_, err := language.Parse(s)
	return err == nil && len(s) <= 20
}
