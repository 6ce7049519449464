package author

import (
	"cmp"
	"iter"
	"maps"
	"slices"
	"strconv"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
)

// TieName is what a tie is called: what it is of, and what it makes of that.
func TieName(f *form.Form, owner, property string) string {
	head, n := indexed(property)
	name := f.NameOf(owner)
	switch {
	case property == form.OpenWhen:
		name = "the form"
	case owner == "" && head == "ends":
		name = "closing text " + strconv.Itoa(n+1)
	case owner != "" || n < 0:
	case head == "messages" && n < len(f.Messages):
		name = cmp.Or(f.Messages[n].Name, f.Messages[n].Key)
	case head == "hooks" && n < len(f.Hooks):
		name = f.Hooks[n].URL
	}
	return name + " " + EffectWords(property)
}

// EffectWords says what a tie changes, by its property.
func EffectWords(property string) string {
	head, _, _ := strings.Cut(property, ".")
	if p, ok := form.PropertyNamed(head); ok && p.Effect != "" {
		return p.Effect
	}
	if w := map[string]string{"messages": "is sent", "hooks": "is told", "ends": "is read", "opening": "is open",
		"next": "comes next", "repeat": "repeats"}[head]; w != "" {
		return w
	}
	return "offers its choices"
}

// Labels tells questions apart: by their labels; those that read alike by the section
// that they stand in, or its page; and those that do even so by their keys.
type Labels map[string]string // by key, of those alone that need more than their label

// LabelsOf are the labels of a form's items.
func LabelsOf(f *form.Form) Labels {
	named := map[string][]form.Place{} // by what they are called, in small letters
	for p := range f.Places() {
		name := strings.ToLower(p.Item.Name())
		named[name] = append(named[name], p)
	}
	out := Labels{}
	for _, places := range named {
		if len(places) > 1 {
			out.tell(f, places, named)
		}
	}
	return out
}

// tell tells places apart that read alike.
func (l Labels) tell(f *form.Form, places []form.Place, named map[string][]form.Place) {
	ways := []func(form.Place) string{
		func(p form.Place) string { return p.Section.Name() },
		func(p form.Place) string { return f.NameOf(p.Page.Key) },
		func(p form.Place) string { return p.Item.Key },
	}
	for _, p := range places {
		for _, way := range ways {
			own := p.Item.Name() + " (" + way(p) + ")"
			alike := slices.ContainsFunc(places,
				func(o form.Place) bool { return o.Item != p.Item && strings.EqualFold(way(o), way(p)) })
			l[p.Item.Key] = own
			if !alike && len(named[strings.ToLower(own)]) == 0 {
				break // else the next way, of which the last tells all apart
			}
		}
	}
}

// Name is the label under which an item can be named.
func (l Labels) Name(key, label string) string {
	if apart := l[key]; apart != "" {
		return apart
	}
	return label
}

// Subjects are all that a clause can be about where syms hold, the owner last, under
// labels that tell them apart.
func Subjects(f *form.Form, syms *expr.Symbols, owner string) []expr.Subject {
	var out []expr.Subject
	labels := LabelsOf(f)
	add := func(key string) {
		if s, ok := syms.Subject(key); ok {
			s.Label = labels.Name(s.Key, s.Label)
			out = append(out, s)
		}
	}
	for _, sym := range syms.Response {
		add("response." + sym.Key)
		if sym.Type.Kind == expr.Moment { // people think of the day
			add("date(response." + sym.Key + ")")
			out[len(out)-1].Label = sym.Label + " (the day)"
		}
	}
	for _, column := range slices.Sorted(maps.Keys(syms.Entry)) {
		add("entry." + column)
	}
	for p := range f.Places() {
		if p.Item.Key == owner || !p.Item.Asked() {
			continue
		}
		if p.Section.Repeat != nil && (syms.Row == nil || syms.Row.Key != p.Section.Key) {
			continue
		}
		if p.Item.Type == form.Address {
			for _, part := range expr.AddressParts {
				add(p.Item.Key + "." + part)
			}
		}
		add(p.Item.Key)
	}
	for _, p := range f.Parameters {
		add("url." + p.Name)
	}
	for s := range Repeating(f) {
		add("count(" + s.Key + ")")
	}
	for _, key := range expr.ClauseSubjects {
		add(key)
	}
	if syms.Row != nil {
		add("row_number")
	}
	if syms.Candidate != nil {
		add("choice")
	}
	if owner != "" {
		add(owner)
	}
	return out
}

// Repeating visits the repeating sections in the order of the form.
func Repeating(f *form.Form) iter.Seq[*form.Section] {
	return func(yield func(*form.Section) bool) {
		for _, p := range f.Pages {
			for _, s := range p.Sections {
				if s.Repeat != nil && !yield(s) {
					return
				}
			}
		}
	}
}

// Resolve finds the key of what a designer meant by a label, a key, or a value as it is
// written; before if nothing was said.
func Resolve(f *form.Form, syms *expr.Symbols, text, before string) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return before, nil
	}
	all := Subjects(f, syms, "")
	if own, ok := syms.Subject(before); ok {
		own.Label = LabelsOf(f).Name(own.Key, own.Label)
		all = append(all, own)
	}
	labels := make([]string, 0, len(all))
	for _, s := range all {
		if strings.EqualFold(s.Label, text) || s.Key == text {
			return s.Key, nil
		}
		labels = append(labels, s.Label)
	}
	for _, p := range f.Parameters { // whose subjects say that they are of the address
		if strings.EqualFold(p.Label, text) || p.Name == text {
			return "url." + p.Name, nil
		}
	}
	if s, ok := syms.Subject(text); ok {
		return s.Key, nil
	}
	return "", noQuestion(text, labels)
}

// itemNamed finds an item by its label or key.
func itemNamed(f *form.Form, name string) (string, error) {
	var names []string
	labels := LabelsOf(f)
	for p := range f.Places() {
		own := labels.Name(p.Item.Key, p.Item.Name())
		if strings.EqualFold(own, name) || p.Item.Key == name || strings.EqualFold(p.Item.Name()+" ("+p.Item.Key+")", name) {
			return p.Item.Key, nil
		}
		names = append(names, own)
	}
	return "", noQuestion(name, names)
}

func noQuestion(name string, names []string) error {
	if near := expr.Nearest(name, names); near != "" {
		return misfit("there is no question “%s”; did you mean “%s”?", name, near)
	}
	return misfit("there is no question “%s”", name)
}

// Arriving are the subjects of a condition for which a form is open: what is known before
// anything is answered, which are the address and the clock.
func Arriving(f *form.Form, syms *expr.Symbols) (out []expr.Subject) {
	for _, s := range Subjects(f, syms, "") {
		if strings.HasPrefix(s.Key, "url.") || slices.Contains(expr.ClauseSubjects, s.Key) {
			out = append(out, s)
		}
	}
	return out
}
