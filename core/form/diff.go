package form

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"lazo/core/expr"
)

// Change is one difference between two states of a form.
type Change struct {
	Key  string // of the item, section or page; "" for the form itself
	Text string // in words: "Cox’s name: now required when Boat class is Eight"
}

// Diff says in words how after differs from before.
func Diff(before, after *Form) []Change {
	d := differ{before: before, after: after, words: after.Symbols()}
	was, is := *before, *after
	for _, f := range []*Form{&was, &is} { // what lies inside is compared by itself
		f.Pages, f.Messages, f.Documents, f.Hooks, f.Confirm = nil, nil, nil, nil, nil
	}
	if !reflect.DeepEqual(was, is) {
		d.properties("", after.Title, own(was), own(is))
	}
	d.pages()
	d.outgoing()
	return d.out
}

type differ struct {
	before, after *Form
	words         *expr.Symbols
	out           []Change
}

func (d *differ) say(key, format string, args ...any) {
	d.out = append(d.out, Change{key, fmt.Sprintf(format, args...)})
}

// own returns the properties of v without those of what lies inside it.
func own(v any) map[string]any {
	data, err := json.Marshal(v)
	props := map[string]any{}
	if err != nil || decodeExact(data, &props) != nil {
		return props
	}
	for _, inner := range []string{"pages", "sections", "items", "key", "lazo"} {
		delete(props, inner)
	}
	return props
}

// thing is a page, section or item with what the comparison needs of it.
type thing struct {
	key, name, parent string
	value             any
	rank              int
}

func (d *differ) pages() {
	list := func(f *Form) (pages, sections, items []thing) {
		for i, p := range f.Pages {
			page := *p
			page.Sections = nil // what lies inside is compared by itself
			pages = append(pages, thing{p.Key, pageWords(f, i), "", &page, len(pages)})
			for _, s := range p.Sections {
				section := *s
				section.Items = nil
				sections = append(sections, thing{s.Key, sectionWords(s), p.Key, &section, len(sections)})
				for i, it := range s.Items {
					items = append(items, thing{it.Key, it.Name(), s.Key, it, i})
				}
			}
		}
		return pages, sections, items
	}
	p1, s1, i1 := list(d.before)
	p2, s2, i2 := list(d.after)
	d.things(p1, p2)
	d.things(s1, s2)
	d.things(i1, i2)
}

func (d *differ) things(before, after []thing) {
	old, now := map[string]thing{}, map[string]bool{}
	for _, t := range before {
		old[t.key] = t
	}
	var kept []thing
	for _, t := range after {
		now[t.key] = true
		was, ok := old[t.key]
		if !ok {
			d.say(t.key, "%s: new", t.name)
			continue
		}
		kept = append(kept, was)
		if was.parent != t.parent {
			d.say(t.key, "%s: moved to %s", t.name, d.nameOf(t.parent))
		}
		if !reflect.DeepEqual(was.value, t.value) {
			d.properties(t.key, t.name, own(was.value), own(t.value))
		}
	}
	for _, t := range before {
		if !now[t.key] {
			d.say(t.key, "%s: taken out", t.name)
		}
	}
	// Among those that stayed with their parent, the ones out of order moved.
	last := map[string]int{}
	for i, t := range kept {
		if prev, ok := last[t.parent]; ok && t.rank < prev && sameParent(after, t) {
			d.say(t.key, "%s: moved up", t.name)
			continue
		}
		last[t.parent] = kept[i].rank
	}
}

func sameParent(after []thing, t thing) bool {
	i := slices.IndexFunc(after, func(a thing) bool { return a.key == t.key })
	return i >= 0 && after[i].parent == t.parent
}

// pageWords and sectionWords call a page and a section so that they read on in a sentence.
func pageWords(f *Form, i int) string {
	if f.Pages[i].Title == "" {
		return "page " + strconv.Itoa(i+1)
	}
	return "page " + f.Pages[i].Title
}

func sectionWords(s *Section) string {
	if s.Title == "" && s.Repeat == nil {
		return "a section without a title"
	}
	return "section " + s.Name()
}

func (d *differ) nameOf(key string) string {
	return d.after.NameOf(key)
}

var ruleWords = map[string][2]string{ // while the rule holds, while it does not
	"shown": {"shown", "hidden"}, "required": {"required", "optional"}, "locked": {"locked", "fillable"},
	"offered": {"choices offered", "choices not offered"}, "withheld": {"choices withheld", "no choices withheld"},
}

func (d *differ) properties(key, name string, before, after map[string]any) {
	all := maps.Clone(before)
	maps.Copy(all, after)
	for _, prop := range slices.Sorted(maps.Keys(all)) {
		was, is := before[prop], after[prop]
		if same(was, is) {
			continue
		}
		if goes(key) {
			if says, ok := d.going(prop, is); ok {
				d.say(key, "%s: %s", name, says)
				continue
			}
		}
		if words, ok := ruleWords[prop]; ok {
			d.say(key, "%s: now %s", name, d.rule(words, prop, is))
			continue
		}
		switch prop {
		case "opening":
			d.opening()
		case "ends":
			d.list(key, name, was, is, "when", "a closing text of its own when ", "no closing text of its own any more when ")
		case "choices":
			d.choices(key, name, was, is)
		case "rows":
			d.rows(key, name, was, is)
		case "checks":
			d.list(key, name, was, is, "ok", "accepted only when ", "no longer checked whether ")
		case "wording":
			d.list(key, name, was, is, "when", "worded otherwise when ", "no longer worded otherwise when ")
		case "next":
			d.list(key, name, was, is, "when", "goes on elsewhere when ", "no longer goes on elsewhere when ")
		default:
			d.say(key, "%s: %s", name, d.property(prop, was, is))
		}
	}
}

// goes reports whether a key is of what goes out.
func goes(key string) bool { return key == "confirm" || strings.Contains(key, "/") }

// list compares lists of conditions with what belongs to them.
func (d *differ) list(key, name string, was, is any, condition, came, went string) {
	read := func(v any) (order []string, whole map[string]any) {
		whole = map[string]any{}
		list, _ := v.([]any)
		for _, e := range list {
			m, _ := e.(map[string]any)
			src, _ := m[condition].(string)
			order, whole[src] = append(order, src), m
		}
		return order, whole
	}
	before, old := read(was)
	after, now := read(is)
	said := len(d.out)
	for _, src := range after {
		if _, known := old[src]; !known {
			d.say(key, "%s: now %s%s", name, came, d.sentence(src))
		} else if !same(old[src], now[src]) {
			d.say(key, "%s: other words for when it is %s%s", name, came, d.sentence(src))
		}
	}
	for _, src := range before {
		if _, kept := now[src]; !kept {
			d.say(key, "%s: %s%s", name, went, d.sentence(src))
		}
	}
	if len(d.out) == said {
		d.say(key, "%s: its conditions stand in another order", name)
	}
}

// told is a list of objects by what tells one from another, and in their order.
func told(v any, by string) (order []string, whole map[string]map[string]any) {
	whole = map[string]map[string]any{}
	list, _ := v.([]any)
	for _, e := range list {
		m, _ := e.(map[string]any)
		name, _ := m[by].(string)
		order, whole[name] = append(order, name), m
	}
	return order, whole
}

// labelled is the label of an object or, without one, what tells it from others.
func labelled(m map[string]any, by string) string {
	if l, ok := m["label"].(string); ok && l != "" {
		return l
	}
	name, _ := m[by].(string)
	return name
}

// choices compares the choices of a question, each by its value.
func (d *differ) choices(key, name string, was, is any) {
	before, old := told(was, "value")
	after, now := told(is, "value")
	label := func(m map[string]any) string { return labelled(m, "value") }
	said := len(d.out)
	for _, value := range after {
		a, known := old[value]
		b := now[value]
		if !known {
			d.say(key, "%s: the choice “%s” added", name, label(b))
			continue
		}
		if label(a) != label(b) {
			d.say(key, "%s: the choice “%s” is now called “%s”", name, label(a), label(b))
		}
		for _, prop := range []string{"offered", "withheld"} {
			if !same(a[prop], b[prop]) {
				d.say(key, "%s: the choice “%s” is now %s", name, label(b), d.rule([2]string{prop, "not " + prop}, prop, b[prop]))
			}
		}
		if !same(a["places"], b["places"]) {
			d.say(key, "%s: the choice “%s” now has %s", name, label(b), d.places(b["places"]))
		}
		if !same(a["other"], b["other"]) {
			brings := map[bool]string{true: "a text of its own", false: "no text"}[b["other"] == true]
			d.say(key, "%s: the choice “%s” now brings %s", name, label(b), brings)
		}
		if !same(a["image"], b["image"]) || !same(a["help"], b["help"]) {
			d.say(key, "%s: another picture or help for the choice “%s”", name, label(b))
		}
	}
	for _, value := range before {
		if _, kept := now[value]; !kept {
			d.say(key, "%s: the choice “%s” taken out", name, label(old[value]))
		}
	}
	if len(d.out) == said {
		d.say(key, "%s: its choices stand in another order", name)
	}
}

// places says how many places there are.
func (d *differ) places(v any) string {
	switch v := v.(type) {
	case nil:
		return "any number of places"
	case string:
		return "as many places as " + d.phrase(v)
	}
	return fmt.Sprintf("%v places", v)
}

// rows compares the rows of a grid, each by its key.
func (d *differ) rows(key, name string, was, is any) {
	before, old := told(was, "key")
	after, now := told(is, "key")
	label := func(m map[string]any) string { return labelled(m, "key") }
	said := len(d.out)
	for _, k := range after {
		a, known := old[k]
		switch b := now[k]; {
		case !known:
			d.say(key, "%s: the row “%s” added", name, label(b))
		case label(a) != label(b):
			d.say(key, "%s: the row “%s” is now called “%s”", name, label(a), label(b))
		case !same(a["shown"], b["shown"]):
			d.say(key, "%s: the row “%s” is now %s", name, label(b), d.rule(ruleWords["shown"], "shown", b["shown"]))
		}
	}
	for _, k := range before {
		if _, kept := now[k]; !kept {
			d.say(key, "%s: the row “%s” taken out", name, label(old[k]))
		}
	}
	if len(d.out) == said {
		d.say(key, "%s: its rows stand in another order", name)
	}
}

func same(a, b any) bool {
	x, err1 := json.Marshal(a)
	y, err2 := json.Marshal(b)
	return err1 == nil && err2 == nil && string(x) == string(y)
}

func (d *differ) rule(words [2]string, prop string, is any) string {
	switch v := is.(type) {
	case string:
		return words[0] + " when " + d.sentence(v)
	case bool:
		if v {
			return "always " + words[0]
		}
		return "always " + words[1]
	}
	if prop == "shown" || prop == "offered" {
		return "always " + words[0]
	}
	return words[1]
}

func (d *differ) sentence(src string) string {
	n, err := expr.Parse(src)
	if err != nil {
		return src
	}
	return expr.PiecesText(d.words.Sentence(n))
}

func (d *differ) phrase(src string) string {
	n, err := expr.Parse(src)
	if err != nil {
		return src
	}
	return expr.PiecesText(d.words.Phrase(n))
}

// otherWords are what is no property of an item alone in sentences.
var otherWords = map[string]string{
	"type": "the type", "title": "the title", "intro": "the introduction", "end": "the closing text",
	"repeat": "how often it repeats", "next": "which page follows", "columns": "the number of columns",
	"review": "the review before sending", "remember": "the memory of the device", "returning": "coming back",
	"framing": "the other pages that may show it", "guard": "the question against programs",
	"subject": "the subject", "reply_to": "where answers go", "name": "the name", "url": "the address",
	"paper": "the paper", "within": "the time for it", "item": "the question that it is asked of",
	"theme": "the theme", "parameters": "the address parameters", "lists": "the lists", "timezone": "the time zone",
	"language": "the language", "translations": "the translations",
}

// wordsOf are a property in a sentence.
func wordsOf(prop string) string {
	if p, ok := PropertyNamed(prop); ok && p.Words != "" {
		return p.Words
	}
	if words := otherWords[prop]; words != "" {
		return words
	}
	return strings.ReplaceAll(prop, "_", " ")
}

func (d *differ) property(prop string, was, is any) string {
	word := wordsOf(prop)
	if v, ok := is.(map[string]any); ok && prop == "value" {
		for _, how := range []string{"starts", "follows", "is"} {
			if src, ok := v[how].(string); ok {
				return "now " + map[string]string{"starts": "starts as ", "follows": "follows ",
					"is": "always is "}[how] + d.phrase(src)
			}
		}
	}
	a, aText := was.(string)
	b, bText := is.(string)
	switch {
	case prop == "places":
		return "now " + d.places(is) + " for each choice"
	case prop == "many":
		return map[bool]string{true: "now several choices in each row", false: "now one choice in each row"}[is == true]
	case prop == "choices_from" && is != nil:
		return "choices now " + d.drawn(is)
	case isBound(prop) && is != nil:
		return word + " is now " + d.bound(is)
	case is == nil:
		return word + " taken out"
	case was == nil && bText:
		return fmt.Sprintf("%s is now “%s”", word, short(b))
	case was == nil:
		return word + " added"
	case aText && bText && prop != "intro" && prop != "end":
		return fmt.Sprintf("%s was “%s”, is now “%s”", word, short(a), short(b))
	}
	return word + " changed"
}

// drawn says which list choices come from.
func (d *differ) drawn(v any) string {
	m, _ := v.(map[string]any)
	name, _ := m["list"].(string)
	where, _ := m["where"].(string)
	if where == "" {
		return "from the list " + name
	}
	n, err := expr.Parse(where)
	if err != nil {
		return "from the list " + name
	}
	syms := d.words.WithEntry(d.after.Columns(name), d.after.Lists[name].Unknown())
	return "from the list " + name + ", those where " + expr.PiecesText(syms.Sentence(n))
}

// bound says a number, a date, or an expression in words.
func (d *differ) bound(v any) string {
	text, ok := v.(string)
	if !ok {
		return fmt.Sprint(v)
	}
	return d.phrase(text)
}

func short(s string) string {
	if r := []rune(s); len(r) > 60 {
		return string(r[:59]) + "…"
	}
	return s
}
