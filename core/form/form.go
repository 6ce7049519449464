// Package form is the definition of a form: its types, the JSON form file, the
// edits that change a draft, and the difference between two editions in words.
//
// A [Form] is plain data. [Read] makes one from a form file and reports every
// fault of the file at once, each a [Remark] with its place. [Apply] changes a
// form by an [Edit] and returns the edit that takes the change back. Whether
// the expressions in a form make sense is decided by core/engine, which
// compiles them.
package form

import (
	"encoding/json"
	"fmt"
	"iter"
	"regexp"
	"slices"
	"strings"

	"lazo/core/expr"
)

// Bounds of a form file.
const (
	MaxBytes    = 2 << 20
	MaxItems    = 20_000
	MaxChoices  = 20_000
	MaxRows     = 500 // rows of a repeating section
	MaxGridRows = 100

	UsualFile = 10 << 20 // bytes of a file whose question sets no limit
	MaxFile   = 50 << 20 // bytes of any file
)

// Form is a whole form.
type Form struct {
	Lazo       int             `json:"lazo"`
	Key        string          `json:"key"`
	Title      string          `json:"title"`
	Intro      string          `json:"intro,omitempty"` // Markdown
	End        string          `json:"end,omitempty"`   // Markdown, shown after sending
	Timezone   string          `json:"timezone"`
	Language   string          `json:"language,omitempty"`
	Parameters []Parameter     `json:"parameters,omitempty"`
	Opening    *Opening        `json:"opening,omitempty"`
	Lists      map[string]List `json:"lists,omitempty"`
	Ends       []End           `json:"ends,omitempty"`
	Review     bool            `json:"review,omitempty"`   // the answers are shown once more before sending
	Remember   bool            `json:"remember,omitempty"` // what was typed survives a reload on the same device
	Returning  *Returning      `json:"returning,omitempty"`
	Framing    *Framing        `json:"framing,omitempty"`
	Guard      *Guard          `json:"guard,omitempty"`
	Theme      *Theme          `json:"theme,omitempty"`
	Messages   []Message       `json:"messages,omitempty"`
	Documents  []Document      `json:"documents,omitempty"`
	Hooks      []Hook          `json:"hooks,omitempty"`
	Confirm    *Confirm        `json:"confirm,omitempty"`
	Pages      []*Page         `json:"pages"`

	Translations map[string]Translation `json:"translations,omitempty"` // by language tag

	translation Translation // the one that the form is in
	languages   []string    // all of them, in a form that is in another than its own
}

// Entry is one row of a list: text, number or yes/no by column.
type Entry map[string]any

// UnmarshalJSON reads numbers exactly, as Read does.
func (e *Entry) UnmarshalJSON(data []byte) error {
	columns := map[string]any{}
	if err := decodeExact(data, &columns); err != nil {
		return err
	}
	*e = columns
	return nil
}

// Opening says when and for whom the form takes responses. From and Until are
// local to the form's zone ("2026-03-01T09:00") or RFC 3339.
type Opening struct {
	From         string `json:"from,omitempty"`
	Until        string `json:"until,omitempty"`
	Hours        *Hours `json:"hours,omitempty"`
	Shown        Rule   `json:"shown,omitzero"`
	Limit        int    `json:"limit,omitempty"`
	GraceMinutes int    `json:"grace_minutes,omitempty"`
	Before       string `json:"before,omitempty"`
	After        string `json:"after,omitempty"`
	Full         string `json:"full,omitempty"`
}

// Page is a step of the form.
type Page struct {
	Key      string     `json:"key"`
	Title    string     `json:"title"`
	Intro    string     `json:"intro,omitempty"`
	Shown    Rule       `json:"shown,omitzero"`
	Staff    bool       `json:"staff,omitempty"` // only the workspace sees it, with all that is in it
	Checks   []Check    `json:"checks,omitempty"`
	Next     []Next     `json:"next,omitempty"`
	Sections []*Section `json:"sections"`
}

// MarshalJSON writes a page without sections with an empty list of them.
func (p Page) MarshalJSON() ([]byte, error) {
	type plain Page
	if p.Sections == nil {
		p.Sections = []*Section{}
	}
	return json.Marshal(plain(p))
}

// Next sends the respondent to a later page when its condition is met.
type Next struct {
	When string `json:"when"`
	Page string `json:"page"`
}

// Section groups items; with Repeat it is asked in several rows.
type Section struct {
	Key     string  `json:"key"`
	Title   string  `json:"title"`
	Intro   string  `json:"intro,omitempty"`
	Columns int     `json:"columns,omitempty"` // 1 or 2; 0 is 1
	Shown   Rule    `json:"shown,omitzero"`
	Staff   bool    `json:"staff,omitempty"`  // only the workspace sees it, with all that is in it
	Checks  []Check `json:"checks,omitempty"` // of each row, if it repeats
	Repeat  *Repeat `json:"repeat,omitempty"`
	Items   []*Item `json:"items"`
}

// MarshalJSON writes a section without items with an empty list of them.
func (s Section) MarshalJSON() ([]byte, error) {
	type plain Section
	if s.Items == nil {
		s.Items = []*Item{}
	}
	return json.Marshal(plain(s))
}

// Repeat says how many rows a section has. Rows is an expression; without it
// the respondent adds and removes rows.
type Repeat struct {
	Min  int    `json:"min,omitempty"`
	Max  int    `json:"max,omitempty"` // 0 is MaxRows
	Rows string `json:"rows,omitempty"`
	Name string `json:"name,omitempty"` // what one row is called
}

// Limit is the greatest number of rows.
func (r *Repeat) Limit() int {
	if r.Max <= 0 || r.Max > MaxRows {
		return MaxRows
	}
	return r.Max
}

// Type is the type of an item.
type Type string

// The types of items.
const (
	Text        Type = "text"
	Paragraph   Type = "paragraph"
	Number      Type = "number"
	Email       Type = "email"
	Phone       Type = "phone"
	Website     Type = "website"
	Date        Type = "date"
	Time        Type = "time"
	MonthDay    Type = "month_day"
	YesNo       Type = "yes_no"
	Tick        Type = "tick"
	ChoiceType  Type = "choice"
	ChoicesType Type = "choices"
	Address     Type = "address"
	File        Type = "file"
	Signature   Type = "signature"
	Note        Type = "note"
	Hidden      Type = "hidden"
	Calculation Type = "calculation"
	Scale       Type = "scale"
	Ranking     Type = "ranking"
	Grid        Type = "grid"
)

// GridRow is one line of a grid.
type GridRow struct {
	Key   string `json:"key"`
	Label string `json:"label,omitempty"`
	Shown Rule   `json:"shown,omitzero"`
}

// Name is the label or, without one, the key.
func (r GridRow) Name() string {
	if r.Label == "" {
		return r.Key
	}
	return r.Label
}

// Other is the value of the choice that brings a text of its own, "" if none does.
func (it *Item) Other() string {
	for _, c := range it.Choices {
		if c.Other {
			return c.Value
		}
	}
	return ""
}

// HasPlaces reports whether any of its choices has places.
func (it *Item) HasPlaces() bool {
	return it.Places != nil || slices.ContainsFunc(it.Choices, func(c Choice) bool { return c.Places != nil })
}

// IsStored reports whether the answer is stored.
func (it *Item) IsStored() bool { return it.Stored == nil || *it.Stored }

// FileLimit is the greatest size of a file that the item takes, in bytes.
func (it *Item) FileLimit() int {
	if it.MaxBytes <= 0 {
		return UsualFile
	}
	return min(it.MaxBytes, MaxFile)
}

// Asked reports whether the item has an answer of some kind, so all but notes.
func (it *Item) Asked() bool { return it.Type != Note }

// Value is where an answer comes from when the respondent has not typed it:
// exactly one of Starts, Follows and Is.
type Value struct {
	Starts  string `json:"starts,omitempty"`
	Follows string `json:"follows,omitempty"`
	When    string `json:"when,omitempty"` // with Follows
	Is      string `json:"is,omitempty"`
	Once    bool   `json:"once,omitempty"` // with Is: decided at the first receipt, kept in later changes
}

// Expr returns the expression, whichever it is.
func (v *Value) Expr() string { return v.Starts + v.Follows + v.Is }

// Property names the one that is set: starts, follows or is.
func (v *Value) Property() string {
	switch {
	case v.Starts != "":
		return "starts"
	case v.Follows != "":
		return "follows"
	}
	return "is"
}

// Check is a condition on answers with the message for when it is not met.
type Check struct {
	OK      string `json:"ok"`
	Message string `json:"message"`
}

// Wording is another label or help text; the first whose condition is met wins.
type Wording struct {
	When  string `json:"when"`
	Label string `json:"label,omitempty"`
	Help  string `json:"help,omitempty"`
}

// Choice is one of the answers that can be picked.
type Choice struct {
	Value    string `json:"value"`
	Label    string `json:"label,omitempty"`
	Help     string `json:"help,omitempty"`
	Image    string `json:"image,omitempty"`
	Offered  Rule   `json:"offered,omitzero"`
	Withheld Rule   `json:"withheld,omitzero"`
	Places   *Bound `json:"places,omitempty"` // how many responses may hold it
	Other    bool   `json:"other,omitempty"`  // it brings a short text of its own

	own string // its name in the form's own language, in a form that is in another
}

// Name is the label or, without one, the value.
func (c Choice) Name() string {
	if c.Label == "" {
		return c.Value
	}
	return c.Label
}

// ChoicesFrom draws choices from a list of the form.
type ChoicesFrom struct {
	List  string `json:"list"`
	Value string `json:"value"`
	Label string `json:"label,omitempty"`
	Where string `json:"where,omitempty"`
}

// Rule is true, false or an expression; the zero Rule is absent from the file.
type Rule struct {
	Fixed bool   // whether it is true or false rather than an expression
	Yes   bool   // the value of a fixed rule
	Expr  string // else the expression
}

// Always and Never are the fixed rules.
var (
	Always = Rule{Fixed: true, Yes: true}
	Never  = Rule{Fixed: true}
)

// When is a rule with an expression.
func When(expr string) Rule { return Rule{Expr: expr} }

// IsZero reports whether the rule is absent.
func (r Rule) IsZero() bool { return r == Rule{} }

// MarshalJSON writes true, false or the expression.
func (r Rule) MarshalJSON() ([]byte, error) {
	if r.Expr != "" {
		return json.Marshal(r.Expr)
	}
	return json.Marshal(r.Yes)
}

// UnmarshalJSON reads what MarshalJSON writes. Edits are stored as JSON, so all
// that an edit can hold has to come back as it was.
func (r *Rule) UnmarshalJSON(data []byte) error {
	var v any
	if err := json.Unmarshal(data, &v); err != nil {
		return err
	}
	switch v := v.(type) {
	case nil:
		*r = Rule{}
	case bool:
		*r = Rule{Fixed: true, Yes: v}
	case string:
		*r = Rule{Expr: v}
	default:
		return fmt.Errorf("form: true, false or an expression was expected, %s was found", jsonKind(v))
	}
	return nil
}

// Bound is a least or greatest value: a number, or a text, which is a date, a time, a
// month and day or else an expression.
type Bound struct {
	Number *expr.Number
	Text   string
}

// BoundOf is a bound that is a whole number.
func BoundOf(n int) *Bound {
	v := expr.Int(int64(n))
	return &Bound{Number: &v}
}

// monthDay is how a bound of a month and day is written.
var monthDay = regexp.MustCompile(`^\d\d-\d\d$`)

// Expr is the expression that the bound is, "" if it is a fixed value.
func (b *Bound) Expr() string {
	if b == nil || b.Number != nil || monthDay.MatchString(b.Text) {
		return ""
	}
	if _, ok := expr.ParseDay(b.Text); ok {
		return ""
	}
	if _, ok := expr.ParseTime(b.Text); ok {
		return ""
	}
	if _, err := expr.ParseNumber(b.Text); err == nil {
		return ""
	}
	return b.Text
}

// A NamedBound is one of the bounds of an item.
type NamedBound struct {
	Property string
	*Bound
}

// Bounds are the bounds that the item has, by property.
func (it *Item) Bounds() []NamedBound {
	var out []NamedBound
	for i := range properties {
		if b, ok := properties[i].of(it).(**Bound); ok && *b != nil && properties[i].Kind == ABound {
			out = append(out, NamedBound{properties[i].Key, *b})
		}
	}
	return out
}

// MarshalJSON writes the number or the text.
func (b Bound) MarshalJSON() ([]byte, error) {
	if b.Number != nil {
		return json.Marshal(b.Number)
	}
	return json.Marshal(b.Text)
}

// UnmarshalJSON reads what MarshalJSON writes.
func (b *Bound) UnmarshalJSON(data []byte) error {
	*b = Bound{}
	if len(data) > 0 && data[0] == '"' {
		return json.Unmarshal(data, &b.Text)
	}
	return json.Unmarshal(data, &b.Number)
}

func (b Bound) String() string {
	if b.Number != nil {
		return b.Number.String()
	}
	return b.Text
}

// Place is where an item stands.
type Place struct {
	Page    *Page
	Section *Section
	Item    *Item
	Index   int // within the section
}

// RemarkPlace is the place in the words of remarks: pages/PAGE/SECTION/ITEM.
func (p Place) RemarkPlace() string {
	return "pages/" + p.Page.Key + "/" + p.Section.Key + "/" + p.Item.Key
}

// Places visits every item in the order of the form.
func (f *Form) Places() iter.Seq[Place] {
	return func(yield func(Place) bool) {
		for _, p := range f.Pages {
			for _, s := range p.Sections {
				for i, it := range s.Items {
					if !yield(Place{p, s, it, i}) {
						return
					}
				}
			}
		}
	}
}

// Find returns the place of the item with that key; ok is false if there is none.
func (f *Form) Find(key string) (Place, bool) {
	for p := range f.Places() {
		if p.Item.Key == key {
			return p, true
		}
	}
	return Place{}, false
}

// Section returns the section with that key and its page, or nil.
func (f *Form) Section(key string) (*Page, *Section) {
	for _, p := range f.Pages {
		for _, s := range p.Sections {
			if s.Key == key {
				return p, s
			}
		}
	}
	return nil, nil
}

// Page returns the page with that key, or nil.
func (f *Form) Page(key string) *Page {
	for _, p := range f.Pages {
		if p.Key == key {
			return p
		}
	}
	return nil
}

// Keys returns every key of pages, sections and items.
func (f *Form) Keys() map[string]bool {
	out := map[string]bool{}
	for _, p := range f.Pages {
		out[p.Key] = true
		for _, s := range p.Sections {
			out[s.Key] = true
			for _, it := range s.Items {
				out[it.Key] = true
			}
		}
	}
	return out
}

// Asks reports whether any item is of a type.
func (f *Form) Asks(t Type) bool {
	for p := range f.Places() {
		if p.Item.Type == t {
			return true
		}
	}
	return false
}

// JSON writes the form as an indented form file.
func (f *Form) JSON() []byte {
	if f.Pages == nil {
		whole := *f
		whole.Pages = []*Page{}
		f = &whole
	}
	var b strings.Builder
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	if err := enc.Encode(f); err != nil {
		panic("form: a form that can't be written: " + err.Error())
	}
	return []byte(b.String())
}
