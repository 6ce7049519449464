package form

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"lazo/core/expr"
	"lazo/core/text"
)

// Op names what an Edit does.
type Op string

// The edits. Key names the item, section or page concerned; a Set without one
// concerns the form itself.
const (
	Set           Op = "set"            // Property becomes Value; null takes it away
	AddItem       Op = "add_item"       // Item into section Into at Index
	RemoveItem    Op = "remove_item"    //
	MoveItem      Op = "move_item"      // to section Into at Index
	AddSection    Op = "add_section"    // Section into page Into at Index
	RemoveSection Op = "remove_section" // with its items
	MoveSection   Op = "move_section"   // to page Into at Index
	AddPage       Op = "add_page"       // Page at Index
	RemovePage    Op = "remove_page"    // with its sections
	MovePage      Op = "move_page"      // to Index
	RenameKey     Op = "rename_key"     // Key becomes To, in every expression too
	Batch         Op = "batch"          // Edits, in order, as one
	Replace       Op = "replace"        // Form takes the place of everything
)

// Edit is a change of a form as a value. Which fields it uses depends on Op.
type Edit struct {
	Op       Op              `json:"op"`
	Key      string          `json:"key,omitempty"`
	Into     string          `json:"into,omitempty"`
	Index    int             `json:"index,omitempty"`
	To       string          `json:"to,omitempty"`
	Property string          `json:"property,omitempty"`
	Value    json.RawMessage `json:"value,omitempty"`
	Item     *Item           `json:"item,omitempty"`
	Section  *Section        `json:"section,omitempty"`
	Page     *Page           `json:"page,omitempty"`
	Form     *Form           `json:"form,omitempty"`
	Edits    []Edit          `json:"edits,omitempty"`
}

// ErrEdit is wrapped by every error of Apply: the edit does not fit the form.
var ErrEdit = errors.New("this change does not fit the form as it is now")

// SetProperty is a Set of one property of the item, section or page with that
// key, or of the form for "". A nil value takes the property away.
func SetProperty(key, property string, value any) Edit {
	raw, err := json.Marshal(value)
	if err != nil {
		panic("form: a property that can't be written: " + err.Error())
	}
	return Edit{Op: Set, Key: key, Property: property, Value: raw}
}

// Sets is the value that e gives a property of the item, section or page with that key; nil
// if it gives it none.
func (e Edit) Sets(key, property string) json.RawMessage {
	if e.Op == Set && e.Key == key && e.Property == property && string(e.Value) != "null" {
		return e.Value
	}
	for _, one := range e.Edits {
		if value := one.Sets(key, property); value != nil {
			return value
		}
	}
	return nil
}

// Apply returns f changed by e, and the edit that takes the change back; f
// itself stays as it is.
func Apply(f *Form, e Edit) (*Form, Edit, error) {
	out := f.Clone()
	inverse, err := out.apply(e)
	if err != nil {
		return nil, Edit{}, err
	}
	return out, inverse, nil
}

// Change makes an edit in f itself, for who owns it alone. After an error f is of no use.
func (f *Form) Change(e Edit) error {
	_, err := f.apply(e)
	return err
}

func misfit(format string, args ...any) error {
	return fmt.Errorf("%w: %s", ErrEdit, fmt.Sprintf(format, args...))
}

// apply changes f in place.
func (f *Form) apply(e Edit) (Edit, error) {
	switch e.Op {
	case Set:
		return f.set(e)
	case AddItem, RemoveItem, MoveItem:
		return f.editItems(e)
	case AddSection, RemoveSection, MoveSection:
		return f.editSections(e)
	case AddPage, RemovePage, MovePage:
		return f.editPages(e)
	case RenameKey:
		return f.rename(e)
	case Batch:
		inverse := Edit{Op: Batch}
		for _, one := range e.Edits {
			back, err := f.apply(one)
			if err != nil {
				return Edit{}, err
			}
			inverse.Edits = append(inverse.Edits, back)
		}
		slices.Reverse(inverse.Edits)
		return inverse, nil
	case Replace:
		if e.Form == nil {
			return Edit{}, misfit("there is no form to put in its place")
		}
		before := *f
		*f = *e.Form.Clone()
		return Edit{Op: Replace, Form: &before}, nil
	}
	return Edit{}, misfit("there is no change called %q", e.Op)
}

func insert[T any](list []T, at int, v T) []T {
	return slices.Insert(list, min(max(at, 0), len(list)), v)
}

func (f *Form) free(keys ...string) error {
	taken := f.Keys()
	for _, k := range keys {
		switch {
		case taken[k]:
			return misfit("the key “%s” is taken already", k)
		case !expr.IsKey(k):
			return misfit("“%s” can’t be a key; one begins with a to z and goes on with a to z, 0 to 9 and _", k)
		case expr.Reserved(k):
			return misfit("“%s” is a word of the expression language and can’t be a key", k)
		}
		taken[k] = true
	}
	return nil
}

func (f *Form) editItems(e Edit) (Edit, error) {
	if e.Op == AddItem {
		_, s := f.Section(e.Into)
		if s == nil || e.Item == nil {
			return Edit{}, misfit("there is no section “%s”", e.Into)
		}
		if err := f.free(e.Item.Key); err != nil {
			return Edit{}, err
		}
		s.Items = insert(s.Items, e.Index, e.Item)
		return Edit{Op: RemoveItem, Key: e.Item.Key}, nil
	}
	p, ok := f.Find(e.Key)
	if !ok {
		return Edit{}, misfit("there is no item “%s”", e.Key)
	}
	into := p.Section
	if e.Op == MoveItem {
		if _, into = f.Section(e.Into); into == nil {
			return Edit{}, misfit("there is no section “%s”", e.Into)
		}
	}
	p.Section.Items = slices.Delete(p.Section.Items, p.Index, p.Index+1)
	if e.Op == RemoveItem {
		return Edit{Op: AddItem, Into: p.Section.Key, Index: p.Index, Item: p.Item}, nil
	}
	into.Items = insert(into.Items, e.Index, p.Item)
	return Edit{Op: MoveItem, Key: e.Key, Into: p.Section.Key, Index: p.Index}, nil
}

func (f *Form) editSections(e Edit) (Edit, error) {
	if e.Op == AddSection {
		p := f.Page(e.Into)
		if p == nil || e.Section == nil {
			return Edit{}, misfit("there is no page “%s”", e.Into)
		}
		keys := []string{e.Section.Key}
		for _, it := range e.Section.Items {
			keys = append(keys, it.Key)
		}
		if err := f.free(keys...); err != nil {
			return Edit{}, err
		}
		p.Sections = insert(p.Sections, e.Index, e.Section)
		return Edit{Op: RemoveSection, Key: e.Section.Key}, nil
	}
	p, s := f.Section(e.Key)
	if s == nil {
		return Edit{}, misfit("there is no section “%s”", e.Key)
	}
	into := p
	if e.Op == MoveSection {
		if into = f.Page(e.Into); into == nil {
			return Edit{}, misfit("there is no page “%s”", e.Into)
		}
	}
	at := slices.Index(p.Sections, s)
	p.Sections = slices.Delete(p.Sections, at, at+1)
	if e.Op == RemoveSection {
		return Edit{Op: AddSection, Into: p.Key, Index: at, Section: s}, nil
	}
	into.Sections = insert(into.Sections, e.Index, s)
	return Edit{Op: MoveSection, Key: e.Key, Into: p.Key, Index: at}, nil
}

func (f *Form) editPages(e Edit) (Edit, error) {
	if e.Op == AddPage {
		if e.Page == nil {
			return Edit{}, misfit("there is no page to add")
		}
		keys := []string{e.Page.Key}
		for _, s := range e.Page.Sections {
			keys = append(keys, s.Key)
			for _, it := range s.Items {
				keys = append(keys, it.Key)
			}
		}
		if err := f.free(keys...); err != nil {
			return Edit{}, err
		}
		f.Pages = insert(f.Pages, e.Index, e.Page)
		return Edit{Op: RemovePage, Key: e.Page.Key}, nil
	}
	p := f.Page(e.Key)
	if p == nil {
		return Edit{}, misfit("there is no page “%s”", e.Key)
	}
	at := slices.Index(f.Pages, p)
	f.Pages = slices.Delete(f.Pages, at, at+1)
	if e.Op == RemovePage {
		return Edit{Op: AddPage, Index: at, Page: p}, nil
	}
	f.Pages = insert(f.Pages, e.Index, p)
	return Edit{Op: MovePage, Key: e.Key, Index: at}, nil
}

// set changes one property by way of the form file, so that what can be set is
// exactly what a file can hold and is checked alike.
func (f *Form) set(e Edit) (Edit, error) {
	switch e.Property {
	case "key", "lazo", "pages", "sections", "items":
		return Edit{}, misfit("“%s” is not set as a property", e.Property)
	}
	if e.Key == "" {
		return change(f, e, func(r *reader, props map[string]any) Form { return *r.form(props) })
	}
	if p, ok := f.Find(e.Key); ok {
		return change(p.Item, e, func(r *reader, props map[string]any) Item {
			o, _ := r.object(props, "", "")
			return *r.item(o, "")
		})
	}
	if _, s := f.Section(e.Key); s != nil {
		return change(s, e, func(r *reader, props map[string]any) Section {
			o, _ := r.object(props, "", "")
			return *r.section(o, "")
		})
	}
	if p := f.Page(e.Key); p != nil {
		return change(p, e, func(r *reader, props map[string]any) Page {
			o, _ := r.object(props, "", "")
			return *r.page(o)
		})
	}
	return Edit{}, misfit("there is nothing with the key “%s”", e.Key)
}

// change sets a property of v, reading the whole of it again.
func change[T any](v *T, e Edit, read func(*reader, map[string]any) T) (Edit, error) {
	props, before := map[string]any{}, map[string]json.RawMessage{}
	data, err := json.Marshal(v)
	if err == nil {
		err = json.Unmarshal(data, &before)
	}
	if err == nil {
		err = decodeExact(data, &props)
	}
	if err != nil {
		return Edit{}, misfit("%s", err)
	}
	var value any
	if len(e.Value) > 0 {
		if err := decodeExact(e.Value, &value); err != nil {
			return Edit{}, misfit("the value of “%s” can’t be read: %s", e.Property, err)
		}
	}
	if value == nil {
		delete(props, e.Property)
	} else {
		props[e.Property] = value
	}
	r := &reader{}
	out := read(r, props)
	for _, remark := range r.remarks {
		// Faults that were there before stay for the author to mend; this edit
		// may not add one.
		if strings.Contains(remark.At, e.Property) || remark.Kind == "unknown-property" {
			return Edit{}, misfit("%s", remark.Text)
		}
	}
	*v = out
	return Edit{Op: Set, Key: e.Key, Property: e.Property, Value: before[e.Property]}, nil
}

func decodeExact(data []byte, into any) error {
	dec := json.NewDecoder(strings.NewReader(string(data)))
	dec.UseNumber()
	return dec.Decode(into)
}

// rename gives an item, section or page another key, and every expression and
// page order that names it too.
func (f *Form) rename(e Edit) (Edit, error) {
	if err := f.free(e.To); err != nil {
		return Edit{}, err
	}
	loose := f.looseMentions(e.To)
	group := ""
	switch p, ok := f.Find(e.Key); {
	case ok:
		if f.Confirm != nil && f.Confirm.Item == e.Key {
			f.Confirm.Item = e.To
		}
		p.Item.Key = e.To
		if p.Section.Repeat != nil {
			group = p.Section.Key
		}
	default:
		if _, s := f.Section(e.Key); s != nil {
			s.Key = e.To
		} else if p := f.Page(e.Key); p != nil {
			p.Key = e.To
			for _, other := range f.Pages {
				for i := range other.Next {
					if other.Next[i].Page == e.Key {
						other.Next[i].Page = e.To
					}
				}
			}
		} else {
			return Edit{}, misfit("there is nothing with the key “%s”", e.Key)
		}
	}
	for _, t := range f.AllTies() {
		t.Set(expr.Rename(t.Expr, e.Key, e.To, func(g string) bool { return group != "" && g == group }))
	}
	inGroup := func(g string) bool { return group != "" && g == group }
	for _, s := range f.Said() {
		s.Set(text.Rename(s.Text, e.Key, e.To, inGroup))
	}
	for _, t := range f.Translations {
		t.rename(e.Key, e.To, inGroup)
	}
	back := Edit{Op: RenameKey, Key: e.To, To: e.Key}
	if len(loose) == 0 {
		return back, nil
	}
	return Edit{Op: Batch, Edits: append([]Edit{back}, loose...)}, nil
}

// looseMentions are the edits that put back, as it is now, each property with an
// expression that names key although nothing has it yet. What is renamed to that
// key takes such mentions over, which renaming it back would not undo.
func (f *Form) looseMentions(key string) []Edit {
	var out []Edit
	repeats := f.Repeats()
	if f.Confirm != nil && f.Confirm.Item == key {
		out = append(out, Edit{Op: Set, Property: "confirm", Value: f.property("", "confirm")})
	}
	for _, t := range f.AllTies() {
		if n, err := expr.Parse(t.Expr); err != nil || !slices.Contains(expr.Mentions(n, repeats), key) {
			continue
		}
		head, _, _ := strings.Cut(t.Property, ".")
		e := Edit{Op: Set, Key: t.Owner, Property: head, Value: f.property(t.Owner, head)}
		if !slices.ContainsFunc(out, func(o Edit) bool { return o.Key == e.Key && o.Property == e.Property }) {
			out = append(out, e)
		}
	}
	for _, s := range f.SaidBy(key) {
		head, _, _ := strings.Cut(s.Property, ".")
		e := Edit{Op: Set, Key: s.Owner, Property: head, Value: f.property(s.Owner, head)}
		if !slices.ContainsFunc(out, func(o Edit) bool { return o.Key == e.Key && o.Property == e.Property }) {
			out = append(out, e)
		}
	}
	return out
}

// property is a property of an item, section or page, or of the form for "", as it
// is written in a form file.
func (f *Form) property(key, name string) json.RawMessage {
	var owner any = f
	if p, ok := f.Find(key); ok {
		owner = p.Item
	} else if _, s := f.Section(key); s != nil {
		owner = s
	} else if p := f.Page(key); p != nil {
		owner = p
	}
	data, err := json.Marshal(owner)
	if err != nil {
		return nil // only plain data is in it
	}
	props := map[string]json.RawMessage{}
	_ = json.Unmarshal(data, &props)
	return props[name]
}

// Touches names what an edit changes: KEY.PROPERTY, a whole KEY, or * for all. What
// comes into a section or page touches it as KEY.has.INNER, so that two can add to
// it, but none can take it out meanwhile. An edit and its inverse together name all
// that either needs to be as it is.
func (e Edit) Touches() []string {
	switch e.Op {
	case Set:
		return []string{e.Key + "." + e.Property}
	case AddItem:
		if e.Item != nil {
			return []string{e.Item.Key, e.Into + ".has." + e.Item.Key}
		}
	case AddSection:
		if e.Section != nil {
			return append(keysIn(e.Section), e.Into+".has."+e.Section.Key)
		}
	case AddPage:
		if e.Page != nil {
			out := []string{e.Page.Key}
			for _, s := range e.Page.Sections {
				out = append(out, keysIn(s)...)
			}
			return out
		}
	case MovePage:
		return []string{e.Key + ".place"}
	case MoveItem, MoveSection:
		return []string{e.Key + ".place", e.Into + ".has." + e.Key}
	case RenameKey:
		return []string{e.Key, e.To}
	case Replace:
		return []string{"*"}
	case Batch:
		var out []string
		for _, one := range e.Edits {
			out = append(out, one.Touches()...)
		}
		return out
	}
	return []string{e.Key}
}

// keysIn are the keys of a section and its items.
func keysIn(s *Section) []string {
	out := []string{s.Key}
	for _, it := range s.Items {
		out = append(out, it.Key)
	}
	return out
}

// Collide reports whether two edits, by what they touch, can't both be made in
// either order without one undoing the other.
func Collide(a, b []string) bool {
	within := func(x, y string) bool { return x == y || x == "*" || strings.HasPrefix(y, x+".") && x != "" }
	for _, x := range a {
		for _, y := range b {
			if within(x, y) || within(y, x) {
				return true
			}
		}
	}
	return false
}
