package form

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"lazo/core/expr"
)

// Read reads a form file. It reports every fault at once; the form is nil only
// if the file is no JSON object at all, otherwise it holds what could be read.
func Read(data []byte) (*Form, []Remark) {
	r := &reader{}
	if len(data) > MaxBytes {
		r.remark("syntax", "", "", "the form file is larger than %d MiB", MaxBytes>>20)
		return nil, r.remarks
	}
	if !utf8.Valid(data) {
		r.remark("syntax", "", "", "the form file is not valid UTF-8")
		return nil, r.remarks
	}
	root, err := decodeTree(data)
	if err != nil {
		r.remark("syntax", lineOf(data, err), "", "this is not JSON: %s", plainJSON(err))
		return nil, r.remarks
	}
	if _, ok := root.(map[string]any); !ok {
		r.remark("wrong-type", "", "", "a form file is a JSON object, %s was found", jsonKind(root))
		return nil, r.remarks
	}
	for _, at := range keysTwice(data) {
		r.remark("duplicate-key", at, "", "“%s” is given twice here", at[strings.LastIndexByte(at, '.')+1:])
	}
	return r.form(root), r.remarks
}

// decodeTree decodes JSON as a whole, with numbers as they are written.
func decodeTree(data []byte) (root any, err error) {
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	if err := dec.Decode(&root); err != nil {
		return nil, err
	}
	if _, more := dec.Token(); more != io.EOF {
		return nil, errors.New("something stands after the form's closing brace")
	}
	return root, nil
}

// keysTwice lists the places at which an object has the same key twice, which
// encoding/json settles silently by taking the last. The data is sound JSON.
func keysTwice(data []byte) []string {
	d := doubles{dec: json.NewDecoder(bytes.NewReader(data))}
	_ = d.visit("")
	return d.twice
}

// doubles finds keys that are given twice in one object.
type doubles struct {
	dec   *json.Decoder
	twice []string
}

func (d *doubles) visit(at string) error {
	tok, err := d.dec.Token()
	if err != nil {
		return err
	}
	switch tok {
	case json.Delim('{'):
		seen := map[string]bool{}
		for d.dec.More() {
			key, err := d.dec.Token()
			if err != nil {
				return err
			}
			name, _ := key.(string)
			here := strings.TrimPrefix(at+"."+name, ".")
			if seen[name] {
				d.twice = append(d.twice, here)
			}
			seen[name] = true
			if err := d.visit(here); err != nil {
				return err
			}
		}
	case json.Delim('['):
		for i := 0; d.dec.More(); i++ {
			if err := d.visit(at + "." + strconv.Itoa(i)); err != nil {
				return err
			}
		}
	default:
		return nil
	}
	_, err = d.dec.Token() // the closing one
	return err
}

// lineOf says at which line and column a JSON error was noticed.
func lineOf(data []byte, err error) string {
	offset := int64(len(data))
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		offset = min(syntax.Offset, offset)
	}
	before := data[:offset]
	return fmt.Sprintf("line %d, column %d", bytes.Count(before, []byte("\n"))+1,
		len(before)-1-bytes.LastIndexByte(before, '\n'))
}

func plainJSON(err error) string {
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		return "it ends too early"
	}
	return strings.TrimPrefix(err.Error(), "json: ")
}

func jsonKind(v any) string {
	switch v.(type) {
	case nil:
		return "null"
	case bool:
		return "true or false"
	case json.Number:
		return "a number"
	case string:
		return "a text"
	case []any:
		return "a list"
	}
	return "an object"
}

// reader walks decoded JSON and collects remarks.
type reader struct {
	remarks []Remark
	items   int
}

// MaxRemarks is the number of remarks after which reading and checking stop to add more.
const MaxRemarks = 1000

func (r *reader) remark(kind, at, item, format string, args ...any) {
	if len(r.remarks) < MaxRemarks {
		r.remarks = append(r.remarks, Remark{kind, Error, at, item, fmt.Sprintf(format, args...)})
	}
}

// object reads the properties of one JSON object at a place.
type object struct {
	*reader
	at, item string
	props    map[string]any
	known    []string
}

// object returns v's properties; ok is false, with a remark, if v is no object.
func (r *reader) object(v any, at, item string) (object, bool) {
	props, ok := v.(map[string]any)
	if !ok {
		r.remark("wrong-type", at, item, "an object was expected, %s was found", jsonKind(v))
	}
	return object{r, at, item, props, nil}, ok
}

// place is where a property stands: at.name, or just the name at the top.
func (o *object) place(name string) string {
	if o.at == "" {
		return name
	}
	return o.at + "." + name
}

func (o *object) get(name string) (any, bool) {
	o.known = append(o.known, name)
	v, ok := o.props[name]
	return v, ok && v != nil
}

func (o *object) wrong(name, expected string, v any) {
	o.remark("wrong-type", o.place(name), o.item, "%s was expected, %s was found", expected, jsonKind(v))
}

func (o *object) text(name string) string {
	v, ok := o.get(name)
	if !ok {
		return ""
	}
	s, ok := v.(string)
	if !ok {
		o.wrong(name, "a text", v)
	}
	return s
}

func (o *object) needed(name string) string {
	s := o.text(name)
	if _, ok := o.props[name]; !ok {
		o.remark("missing", o.place(name), o.item, "“%s” is missing", name)
	}
	return s
}

func (o *object) word(name string, allowed ...string) string {
	s := o.text(name)
	if s != "" && !slices.Contains(allowed, s) {
		near := ""
		if n := expr.Nearest(s, allowed); n != "" {
			near = "; did you mean " + n + "?"
		}
		o.remark("wrong-type", o.place(name), o.item, "“%s” is none of %s%s", s, strings.Join(allowed, ", "), near)
		return ""
	}
	return s
}

func (o *object) yes(name string) bool {
	v, ok := o.get(name)
	if !ok {
		return false
	}
	b, ok := v.(bool)
	if !ok {
		o.wrong(name, "true or false", v)
	}
	return b
}

func (o *object) count(name string) int {
	v, ok := o.get(name)
	if !ok {
		return 0
	}
	n, ok := v.(json.Number)
	if !ok {
		o.wrong(name, "a whole number", v)
		return 0
	}
	i, err := strconv.Atoi(n.String())
	if err != nil || i < 0 {
		o.remark("out-of-range", o.place(name), o.item, "a whole number from 0 was expected, %s was found", n)
		return 0
	}
	return i
}

func (o *object) number(name string) *expr.Number {
	v, ok := o.get(name)
	if !ok {
		return nil
	}
	n, ok := v.(json.Number)
	if !ok {
		o.wrong(name, "a number", v)
		return nil
	}
	d, err := expr.ParseNumber(n.String())
	if err != nil {
		o.remark("out-of-range", o.place(name), o.item, "%s has more than %d digits", n, expr.MaxDigits)
		return nil
	}
	return &d
}

func (o *object) bound(name string) *Bound {
	v, ok := o.get(name)
	if !ok {
		return nil
	}
	if s, ok := v.(string); ok {
		return &Bound{Text: s}
	}
	if n := o.number(name); n != nil {
		return &Bound{Number: n}
	}
	return nil
}

// counted is a bound of how many there are: a whole number or an expression; none for 0.
func (o *object) counted(name string) *Bound {
	if v, _ := o.get(name); v != nil {
		if s, ok := v.(string); ok {
			return &Bound{Text: s}
		}
	}
	if n := o.count(name); n > 0 {
		return BoundOf(n)
	}
	return nil
}

// texts are a list of texts, or one text with commas.
func (o *object) texts(name string) (out []string) {
	v, _ := o.get(name)
	if s, ok := v.(string); ok {
		for part := range strings.SplitSeq(s, ",") {
			out = append(out, strings.TrimSpace(part))
		}
		return out
	}
	o.each(name, func(v any, at string) {
		if s, ok := v.(string); ok {
			out = append(out, s)
		} else {
			o.remark("wrong-type", at, o.item, "a text was expected, %s was found", jsonKind(v))
		}
	})
	return out
}

func (o *object) rule(name string) Rule {
	v, ok := o.get(name)
	if !ok {
		return Rule{}
	}
	switch v := v.(type) {
	case bool:
		return Rule{Fixed: true, Yes: v}
	case string:
		if strings.TrimSpace(v) == "" {
			o.remark("syntax", o.place(name), o.item, "an expression was expected, an empty text was found")
			return Rule{}
		}
		return Rule{Expr: v}
	}
	o.wrong(name, "true, false or an expression", v)
	return Rule{}
}

// each visits the entries of a list property.
func (o *object) each(name string, visit func(v any, at string)) {
	v, ok := o.get(name)
	if !ok {
		return
	}
	list, ok := v.([]any)
	if !ok {
		o.wrong(name, "a list", v)
		return
	}
	for i, entry := range list {
		visit(entry, o.place(name)+"."+strconv.Itoa(i))
	}
}

// done remarks on properties that no one asked for.
func (o *object) done() {
	for _, name := range slices.Sorted(maps.Keys(o.props)) {
		if !slices.Contains(o.known, name) {
			near := ""
			if n := expr.Nearest(name, o.known); n != "" {
				near = "; did you mean “" + n + "”?"
			}
			o.remark("unknown-property", o.place(name), o.item, "there is no property “%s” here%s", name, near)
		}
	}
}

func (r *reader) form(root any) *Form {
	o, _ := r.object(root, "", "")
	f := &Form{Lazo: o.count("lazo"), Key: o.needed("key"), Title: o.text("title"), Intro: o.text("intro"),
		End:      o.text("end"),
		Timezone: o.text("timezone"), Language: o.text("language")}
	if f.Lazo != 1 {
		r.remark("wrong-type", "lazo", "", "“lazo”: 1 was expected: the version of the form file")
		f.Lazo = 1
	}
	if _, given := o.props["key"]; given && !IsFormKey(f.Key) {
		r.remark("syntax", "key", "", "a form’s key is made of a to z, 0 to 9, - and _, at most 64 of them")
	}
	if f.Timezone == "" {
		f.Timezone = "UTC"
	}
	o.each("parameters", func(v any, at string) {
		if p, ok := r.parameter(v, at); ok {
			f.Parameters = append(f.Parameters, p)
		}
	})
	if v, ok := o.get("opening"); ok {
		if p, ok := r.object(v, "opening", ""); ok {
			f.Opening = &Opening{From: p.text("from"), Until: p.text("until"), Shown: p.rule("shown"), Limit: p.count("limit"),
				GraceMinutes: p.count("grace_minutes"), Before: p.text("before"), After: p.text("after"), Full: p.text("full")}
			if v, ok := p.get("hours"); ok {
				if h, ok := r.object(v, "opening.hours", ""); ok {
					f.Opening.Hours = &Hours{h.needed("rule"), h.needed("from"), h.needed("until")}
					h.done()
				}
			}
			p.done()
		}
	}
	if v, ok := o.get("lists"); ok {
		f.Lists = r.lists(v)
	}
	r.public(&o, f)
	r.outgoing(&o, f)
	if v, ok := o.get("translations"); ok {
		f.Translations = r.translations(v)
	}
	f.Pages = []*Page{}
	o.each("pages", func(v any, _ string) {
		at := "pages/#" + strconv.Itoa(len(f.Pages)+1)
		if p, ok := r.object(v, at, ""); ok {
			f.Pages = append(f.Pages, r.page(p))
		}
	})
	if _, ok := o.props["pages"]; !ok {
		r.remark("missing", "pages", "", "“pages” is missing")
	}
	o.done()
	return f
}

// IsFormKey reports whether s can be a form's key, which is a part of its address.
func IsFormKey(s string) bool {
	for i, c := range s {
		if (c < 'a' || c > 'z') && (c < '0' || c > '9') && (i == 0 || (c != '-' && c != '_')) {
			return false
		}
	}
	return s != "" && len(s) <= expr.MaxKey
}

// carried reads what a list of the workspace has, where the file holds it.
func (r *reader) carried(o *object, shared, at string) List {
	l := List{Shared: shared}
	rows, _ := o.get("entries")
	head, _ := o.get("columns")
	list, ok := rows.([]any)
	if !ok {
		return l
	}
	l.Carried, l.Entries = true, r.entries(list, at)
	columns, _ := head.([]any)
	for _, v := range columns {
		props, _ := v.(map[string]any)
		c := Column{Type: TextColumn}
		c.Key, _ = props["key"].(string)
		c.Name, _ = props["name"].(string)
		if t, _ := props["type"].(string); ColumnType(t).Known() {
			c.Type = ColumnType(t)
		}
		if !expr.IsKey(c.Key) {
			r.remark("wrong-key", at+".columns", "", "a column’s key is made of a to z, 0 to 9 and _; “%s” is not", c.Key)
			continue
		}
		l.Columns = append(l.Columns, c)
	}
	return l
}

// entries reads the rows of a list.
func (r *reader) entries(rows []any, at string) []Entry {
	entries := []Entry{}
	for i, row := range rows {
		at := at + "." + strconv.Itoa(i)
		columns, ok := row.(map[string]any)
		if !ok {
			r.remark("wrong-type", at, "", "an object was expected, %s was found", jsonKind(row))
			continue
		}
		for _, column := range slices.Sorted(maps.Keys(columns)) {
			switch columns[column].(type) {
			case map[string]any, []any:
				r.remark("wrong-type", at+"."+column, "", "a text, a number or true or false was expected, %s was found",
					jsonKind(columns[column]))
				delete(columns, column)
			}
		}
		entries = append(entries, Entry(columns))
	}
	return entries
}

func (r *reader) lists(v any) map[string]List {
	lists, ok := v.(map[string]any)
	if !ok {
		r.remark("wrong-type", "lists", "", "an object of lists was expected, %s was found", jsonKind(v))
		return nil
	}
	out := map[string]List{}
	for _, name := range slices.Sorted(maps.Keys(lists)) {
		at := "lists." + name
		if props, ok := lists[name].(map[string]any); ok {
			o := object{r, at, "", props, nil}
			if shared := o.needed("shared"); expr.IsKey(shared) {
				out[name] = r.carried(&o, shared, at)
			} else if _, there := props["shared"].(string); there {
				r.remark("wrong-key", at+".shared", "", "the key of a list is made of a to z, 0 to 9 and _; “%s” is not", shared)
			}
			o.done()
			continue
		}
		rows, ok := lists[name].([]any)
		if !ok {
			r.remark("wrong-type", at, "", "a list was expected, %s was found", jsonKind(lists[name]))
			continue
		}
		out[name] = List{Entries: r.entries(rows, at)}
	}
	return out
}

// keyed moves the object's place from its number to its key.
func (o *object) keyed(parent string) string {
	key := o.needed("key")
	switch _, given := o.props["key"].(string); {
	case key != "":
		o.at, o.item = parent+"/"+key, key
		checkKey(o.reader, key, o.at)
	case given:
		o.remark("syntax", o.place("key"), "", "the key is empty; it names the answer in conditions and exports")
	}
	return key
}

func checkKey(r *reader, key, at string) {
	switch {
	case !expr.IsKey(key):
		near := ""
		if k := ProposeKey(key); k != "" && k != key {
			near = "; “" + k + "” would do"
		}
		r.remark(
			"syntax", at+".key", key, "a key begins with a to z and goes on with a to z, 0 to 9 and _, at most %d of them%s",
			expr.MaxKey, near,
		)
	case expr.Reserved(key):
		r.remark("reserved-key", at+".key", key, "“%s” is a word of the expression language and can’t be a key", key)
	}
}

func (r *reader) page(o object) *Page {
	p := &Page{Key: o.keyed("pages"), Title: o.text("title"), Intro: o.text("intro"), Shown: o.rule("shown"),
		Staff: o.yes("staff")}
	p.Checks = r.checks(&o, p.Key)
	o.each("next", func(v any, at string) {
		if n, ok := r.object(v, at, p.Key); ok {
			p.Next = append(p.Next, Next{n.needed("when"), n.needed("page")})
			n.done()
		}
	})
	o.each("sections", func(v any, _ string) {
		if s, ok := r.object(v, o.at+"/#"+strconv.Itoa(len(p.Sections)+1), ""); ok {
			p.Sections = append(p.Sections, r.section(s, o.at))
		}
	})
	o.done()
	return p
}

func (r *reader) section(o object, page string) *Section {
	s := &Section{Key: o.keyed(page), Title: o.text("title"), Intro: o.text("intro"), Columns: o.count("columns"),
		Shown: o.rule("shown"),
		Staff: o.yes("staff")}
	s.Checks = r.checks(&o, s.Key)
	if s.Columns > 2 {
		r.remark("out-of-range", o.place("columns"), s.Key, "a section has 1 or 2 columns")
		s.Columns = 2
	}
	if v, ok := o.get("repeat"); ok {
		if p, ok := r.object(v, o.place("repeat"), s.Key); ok {
			s.Repeat = &Repeat{Min: p.count("min"), Max: p.count("max"), Name: p.text("name")}
			// A fixed number of rows may be written as a number.
			if n, isNumber := p.props["rows"].(json.Number); isNumber {
				p.known = append(p.known, "rows")
				s.Repeat.Rows = n.String()
			} else {
				s.Repeat.Rows = p.text("rows")
			}
			p.done()
			switch rep := s.Repeat; {
			case rep.Max > MaxRows:
				r.remark("out-of-range", o.place("repeat.max"), s.Key, "a section has at most %d rows", MaxRows)
			case rep.Max > 0 && rep.Min > rep.Max, rep.Min > MaxRows:
				r.remark("out-of-range", o.place("repeat.min"), s.Key, "the least number of rows, %d, is over the greatest, %d",
					rep.Min, rep.Limit())
				rep.Min = rep.Limit()
			}
		}
	}
	o.each("items", func(v any, _ string) {
		if r.items++; r.items > MaxItems {
			if r.items == MaxItems+1 {
				r.remark("out-of-range", "pages", "", "the form has more than %d items", MaxItems)
			}
			return
		}
		if it, ok := r.object(v, o.at+"/#"+strconv.Itoa(len(s.Items)+1), ""); ok {
			s.Items = append(s.Items, r.item(it, o.at))
		}
	})
	o.done()
	return s
}

func (r *reader) item(o object, section string) *Item {
	it := &Item{Key: o.keyed(section), Type: Type(o.needed("type"))}
	for i := range properties {
		properties[i].read(&o, it)
	}
	if it.Type != "" && !it.Type.Known() {
		names := make([]string, len(types))
		for i := range types {
			names[i] = string(types[i].Type)
		}
		near := ""
		if n := expr.Nearest(string(it.Type), names); n != "" {
			near = "; did you mean " + n + "?"
		}
		r.remark("wrong-type", o.place("type"), it.Key, "there is no type “%s”%s", it.Type, near)
		it.Type = Text
	}
	r.itemTies(&o, it)
	r.itemChoices(&o, it)
	o.done()
	return it
}

func (r *reader) itemTies(o *object, it *Item) {
	if v, ok := o.get("value"); ok {
		if p, ok := r.object(v, o.place("value"), it.Key); ok {
			it.Value = &Value{Starts: p.text("starts"), Follows: p.text("follows"), When: p.text("when"), Is: p.text("is"),
				Once: p.yes("once")}
			set := 0
			for _, name := range []string{"starts", "follows", "is"} {
				if s, _ := p.props[name].(string); s != "" {
					set++
				}
			}
			p.done()
			if set != 1 {
				r.remark("wrong-type", o.place("value"), it.Key, "a value has exactly one of starts, follows and is")
				it.Value = nil
			} else if it.Value.When != "" && it.Value.Follows == "" {
				r.remark("wrong-type", o.place("value.when"), it.Key, "“when” goes with follows only")
				it.Value.When = ""
			} else if it.Value.Once && it.Value.Is == "" {
				r.remark("wrong-type", o.place("value.once"), it.Key, "“once” goes with is only")
				it.Value.Once = false
			}
		}
	}
	it.Checks = r.checks(o, it.Key)
	o.each("wording", func(v any, at string) {
		if p, ok := r.object(v, at, it.Key); ok {
			it.Wording = append(it.Wording, Wording{p.needed("when"), p.text("label"), p.text("help")})
			p.done()
		}
	})
}

func (r *reader) checks(o *object, key string) (out []Check) {
	o.each("checks", func(v any, at string) {
		if p, ok := r.object(v, at, key); ok {
			out = append(out, Check{p.needed("ok"), p.text("message")})
			p.done()
		}
	})
	return out
}

// gridRows reads the lines of a grid.
func (r *reader) gridRows(o *object, it *Item) {
	seen := map[string]bool{}
	o.each("rows", func(v any, at string) {
		p, ok := r.object(v, at, it.Key)
		if !ok {
			return
		}
		row := GridRow{Key: p.needed("key"), Label: p.text("label"), Shown: p.rule("shown")}
		switch {
		case len(it.Rows) == MaxGridRows:
			r.remark("out-of-range", at, it.Key, "a grid has at most %d rows", MaxGridRows)
			return
		case row.Key != "" && !expr.IsKey(row.Key):
			r.remark("syntax", at+".key", it.Key, "the key of a row is made of a to z, 0 to 9 and _; “%s” is not", row.Key)
		case seen[row.Key]:
			r.remark("duplicate-key", at+".key", it.Key, "two rows have the key “%s”", row.Key)
			return
		}
		seen[row.Key] = true
		it.Rows = append(it.Rows, row)
		p.done()
	})
}

func (r *reader) itemChoices(o *object, it *Item) {
	r.gridRows(o, it)
	o.each("choices", func(v any, at string) {
		if len(it.Choices) == MaxChoices {
			return
		}
		if p, ok := r.object(v, at, it.Key); ok {
			it.Choices = append(
				it.Choices,
				Choice{
					Value: p.needed("value"), Label: p.text("label"), Help: p.text("help"), Image: p.text("image"),
					Offered: p.rule("offered"), Withheld: p.rule("withheld"), Places: p.bound("places"), Other: p.yes("other"),
				},
			)
			p.done()
		}
	})
	if list, _ := o.props["choices"].([]any); len(list) > MaxChoices {
		r.remark("out-of-range", o.place("choices"), it.Key, "a question has at most %d choices", MaxChoices)
	}
	if v, ok := o.get("choices_from"); ok {
		if p, ok := r.object(v, o.place("choices_from"), it.Key); ok {
			it.ChoicesFrom = &ChoicesFrom{p.needed("list"), p.needed("value"), p.text("label"), p.text("where")}
			p.done()
		}
	}
}
