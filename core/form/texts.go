package form

import (
	"slices"
	"strconv"

	"lazo/core/text"
)

// Said is one text that people read, in which answers may stand.
type Said struct {
	Owner    string // the key of the page, section or item; "" for the form
	Property string // title, label, choices.0.label, checks.0.message, end …
	Text     string
	Blocks   bool // it may hold blocks that are printed by condition
	set      func(string)
}

// Set replaces the text in the form.
func (s Said) Set(text string) { s.set(text) }

// Said are the texts of the form that hold answers, in its order.
func (f *Form) Said() []Said {
	var out []Said
	add := func(owner, property string, at *string, blocks bool) {
		if text.Holds(*at) {
			out = append(out, Said{owner, property, *at, blocks, func(s string) { *at = s }})
		}
	}
	add("", "title", &f.Title, false)
	add("", "intro", &f.Intro, false)
	if o := f.Opening; o != nil {
		add("", "opening.before", &o.Before, true)
		add("", "opening.after", &o.After, true)
		add("", "opening.full", &o.Full, true)
	}
	for _, p := range f.Pages {
		add(p.Key, "title", &p.Title, false)
		add(p.Key, "intro", &p.Intro, false)
		for i := range p.Checks {
			add(p.Key, "checks."+strconv.Itoa(i)+".message", &p.Checks[i].Message, false)
		}
		for _, s := range p.Sections {
			add(s.Key, "title", &s.Title, false)
			add(s.Key, "intro", &s.Intro, false)
			for i := range s.Checks {
				add(s.Key, "checks."+strconv.Itoa(i)+".message", &s.Checks[i].Message, false)
			}
			for _, it := range s.Items {
				out = append(out, it.Said()...)
			}
		}
	}
	for i := range f.Ends {
		add("", "ends."+strconv.Itoa(i)+".text", &f.Ends[i].Text, true)
	}
	add("", "end", &f.End, true)
	f.outgoingTexts(func(property string, at *string, blocks bool) { add("", property, at, blocks) })
	return out
}

// Sayable reports whether answers may stand in the property of that name, of a form, page,
// section, item or choice.
func Sayable(property string) bool {
	p, ok := PropertyNamed(property)
	return ok && p.Prints || property == "title" || property == "intro" || property == "end"
}

// Said are the texts of the item that hold answers.
func (it *Item) Said() []Said {
	var out []Said
	add := func(property string, at *string) {
		if text.Holds(*at) {
			out = append(out, Said{it.Key, property, *at, false, func(s string) { *at = s }})
		}
	}
	for i := range properties {
		if properties[i].Prints {
			add(properties[i].Key, properties[i].of(it).(*string))
		}
	}
	for i := range it.Wording {
		add("wording."+strconv.Itoa(i)+".label", &it.Wording[i].Label)
		add("wording."+strconv.Itoa(i)+".help", &it.Wording[i].Help)
	}
	for i := range it.Rows {
		add("rows."+strconv.Itoa(i)+".label", &it.Rows[i].Label)
	}
	for i := range it.Choices {
		add("choices."+strconv.Itoa(i)+".label", &it.Choices[i].Label)
		add("choices."+strconv.Itoa(i)+".help", &it.Choices[i].Help)
	}
	for i := range it.Checks {
		add("checks."+strconv.Itoa(i)+".message", &it.Checks[i].Message)
	}
	return out
}

// SaidOf lists the texts of others that name the item, section or page with the key, or
// what is inside it.
func (f *Form) SaidOf(key string) []Said {
	inside, _ := f.inside(key)
	repeats := f.Repeats()
	var out []Said
	for _, s := range f.Said() {
		if !inside[s.Owner] && slices.ContainsFunc(text.Mentions(s.Text, repeats), func(m string) bool { return inside[m] }) {
			out = append(out, s)
		}
	}
	return out
}

// SaidBy lists the texts that name a key.
func (f *Form) SaidBy(key string) []Said {
	repeats := f.Repeats()
	var out []Said
	for _, s := range f.Said() {
		if slices.Contains(text.Mentions(s.Text, repeats), key) {
			out = append(out, s)
		}
	}
	return out
}
