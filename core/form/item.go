package form

import (
	"reflect"
	"slices"
)

// Item is anything in a section.
type Item struct {
	Key         string `json:"key"`
	Type        Type   `json:"type"`
	Label       string `json:"label"`
	Help        string `json:"help,omitempty"`
	Placeholder string `json:"placeholder,omitempty"`

	Shown    Rule      `json:"shown,omitzero"`
	Required Rule      `json:"required,omitzero"`
	Locked   Rule      `json:"locked,omitzero"`
	Offered  Rule      `json:"offered,omitzero"`
	Withheld Rule      `json:"withheld,omitzero"`
	Value    *Value    `json:"value,omitempty"`
	Checks   []Check   `json:"checks,omitempty"`
	Wording  []Wording `json:"wording,omitempty"`

	WhenHidden string `json:"when_hidden,omitempty"` // "forget", "keep" or "fill"
	Place      string `json:"place,omitempty"`       // "close" or "hold"
	Stored     *bool  `json:"stored,omitempty"`
	Staff      bool   `json:"staff,omitempty"`
	Parked     bool   `json:"parked,omitempty"`
	Sensitive  bool   `json:"sensitive,omitempty"` // never kept on the respondent's device

	Min            *Bound   `json:"min,omitempty"`
	Max            *Bound   `json:"max,omitempty"`
	Step           *Bound   `json:"step,omitempty"`
	MinLength      *Bound   `json:"min_length,omitempty"`
	MaxLength      *Bound   `json:"max_length,omitempty"`
	Pattern        string   `json:"pattern,omitempty"`
	PatternMessage string   `json:"pattern_message,omitempty"`
	MinPicked      *Bound   `json:"min_picked,omitempty"`
	MaxPicked      *Bound   `json:"max_picked,omitempty"`
	Accept         []string `json:"accept,omitempty"` // media types, such as image/*
	MaxBytes       int      `json:"max_bytes,omitempty"`
	Twice          bool     `json:"twice,omitempty"`
	Look           string   `json:"look,omitempty"`

	Choices     []Choice     `json:"choices,omitempty"`
	ChoicesFrom *ChoicesFrom `json:"choices_from,omitempty"`
	Places      *Bound       `json:"places,omitempty"` // of each choice: how many responses may hold it
	// "never", "few" or "always": whether people read how many are left
	ShowLeft string `json:"show_left,omitempty"`

	Low  string `json:"low,omitempty"` // the words at the ends of a scale
	High string `json:"high,omitempty"`

	Rows []GridRow `json:"rows,omitempty"` // of a grid
	Many bool      `json:"many,omitempty"` // several choices in each
}

// PropertyKind is what a property holds: how it is read, written and set.
type PropertyKind uint8

// The kinds of properties.
const (
	AText    PropertyKind = iota // a text, "" for none
	AWord                        // one of a few words, "" for the usual one
	AYes                         // true, or not there
	ANo                          // false, or not there
	ABound                       // a number, a day, a time, or an expression
	APlaces                      // a count or an expression that bounds what others may do
	ACount                       // a whole number, 0 for none
	AList                        // texts; in files, also one text with commas
	ATie                         // a rule
	AnObject                     // read by code of its own
)

// A Property is something that items can have beside their key and type. What reads, writes,
// compares, names and sets properties ranges over them; docs/adding.md says how one is added.
type Property struct {
	Key  string
	Kind PropertyKind
	// Needs is what the Has of a type says if it has the property: its key, or that of another
	// with which it is had; "" if all types have it.
	Needs string
	// Words are the property in a sentence: the placeholder.
	Words string
	// Goes is what is said to be dropped with it, where a type does not have it: its
	// placeholder. Those that follow each other and say the same are said once.
	Goes    string
	Counts  bool     // of a bound: it is a whole number
	Above0  bool     // of a bound: a number is above 0
	OneOf   []string // what a word can be; of the look, what any type says
	Prints  bool     // answers may stand in its text
	Effect  string   // what its condition or expression does: is bounded
	Lead    string   // what begins the line of its expression in the margin
	Setting Setting
	of      func(*Item) any // where it stands in the item: a pointer
	// stays tells whether what an item has is still right once it is of another type that has
	// the property; nil for always.
	stays func(it *Item, to Type) bool
}

// Setting is how designers set a property: beside which others, under which label.
type Setting struct {
	Among  string // choices, rows, answer or more; "" if its setting is laid out by itself
	Label  string
	Paired bool                // it stands beside the one before it
	Fixed  bool                // in letters of one width
	Words  []Look              // of a word: what its words say, the usual first
	Fits   func(it *Item) bool // whether the item offers it; nil for all whose type has it
}

// looks are the ways in which items of any type can be laid out.
func looks() (out []string) {
	for _, row := range types {
		for _, look := range row.Looks {
			if !slices.Contains(out, look.Name) {
				out = append(out, look.Name)
			}
		}
	}
	return out
}

// ofOneType is for bounds of the answer itself: 5 is another thing for a number than for a time.
func ofOneType(it *Item, to Type) bool { return it.Type == to }

// looksSo reports whether a type can be laid out as the item is.
func looksSo(it *Item, to Type) bool {
	return slices.ContainsFunc(to.Looks(), func(l Look) bool { return l.Name == it.Look })
}

const bounded = "is bounded"

// properties are all properties, in the order in which designers meet them.
var properties = []Property{
	{Key: "label", Words: "the label", Prints: true, of: func(it *Item) any { return &it.Label }},
	{Key: "help", Words: "the help text", Prints: true, of: func(it *Item) any { return &it.Help }},
	{Key: "shown", Kind: ATie, Effect: "is shown", of: func(it *Item) any { return &it.Shown }},
	{Key: "choices", Kind: AnObject, Needs: "choices", Words: "the choices", Goes: "its choices",
		of: func(it *Item) any { return &it.Choices }},
	{Key: "choices_from", Kind: AnObject, Needs: "choices_from", Goes: "the list that its choices came from",
		of: func(it *Item) any { return &it.ChoicesFrom }},
	{Key: "offered", Kind: ATie, Needs: "offered", Goes: "which of its choices are offered",
		of: func(it *Item) any { return &it.Offered }},
	{Key: "withheld", Kind: ATie, Needs: "withheld", Goes: "which of its choices are offered",
		of: func(it *Item) any { return &it.Withheld }},
	{Key: "min_picked", Kind: ABound, Needs: "min_picked", Words: "the least number of picks", Counts: true,
		Goes: "how many can be picked", Effect: bounded, Lead: "As many picks, at least, as ",
		Setting: Setting{Among: "choices", Label: "Picks, at least"},
		of:      func(it *Item) any { return &it.MinPicked }},
	{Key: "max_picked", Kind: ABound, Needs: "max_picked", Words: "the greatest number of picks", Counts: true,
		Goes: "how many can be picked", Effect: bounded, Lead: "As many picks, at most, as ",
		Setting: Setting{Among: "choices", Label: "at most", Paired: true},
		of:      func(it *Item) any { return &it.MaxPicked }},
	{Key: "places", Kind: APlaces, Needs: "choices_from", Counts: true, Goes: "how many places its choices have",
		Effect: "has its places", Setting: Setting{Among: "choices", Label: "Places for each"},
		of: func(it *Item) any { return &it.Places }},
	{Key: "show_left", Kind: AWord, Needs: "choices_from", Words: "whether people read how many are left",
		Goes: "how many places its choices have", OneOf: []string{"never", "few", "always"},
		Setting: Setting{Among: "choices", Label: "How many are left", Fits: (*Item).HasPlaces, Words: []Look{
			{"", "is not shown"}, {"few", "is shown when only few are"}, {"always", "is always shown"}}},
		of: func(it *Item) any { return &it.ShowLeft }},
	{Key: "rows", Kind: AnObject, Needs: "rows", Words: "the rows", Goes: "its rows", Effect: "shows its rows",
		of: func(it *Item) any { return &it.Rows }},
	{Key: "many", Kind: AYes, Needs: "rows", Goes: "its rows",
		Setting: Setting{Among: "rows", Label: "takes several choices in each row"},
		of:      func(it *Item) any { return &it.Many }},
	{Key: "low", Needs: "low", Words: "the words at the least", Goes: "the words at its ends", Prints: true,
		Setting: Setting{Among: "answer", Label: "Word at its low end"},
		of:      func(it *Item) any { return &it.Low }},
	{Key: "high", Needs: "high", Words: "the words at the greatest", Goes: "the words at its ends", Prints: true,
		Setting: Setting{Among: "answer", Label: "Word at its high end"},
		of:      func(it *Item) any { return &it.High }},
	{Key: "min_length", Kind: ABound, Needs: "min_length", Words: "the least length", Counts: true,
		Goes: "its length", Effect: bounded, Lead: "As many characters, at least, as ",
		Setting: Setting{Among: "answer", Label: "Letters, at least"},
		of:      func(it *Item) any { return &it.MinLength }},
	{Key: "max_length", Kind: ABound, Needs: "max_length", Words: "the greatest length", Counts: true,
		Goes: "its length", Effect: bounded, Lead: "As many characters, at most, as ",
		Setting: Setting{Among: "answer", Label: "at most", Paired: true},
		of:      func(it *Item) any { return &it.MaxLength }},
	{Key: "min", Kind: ABound, Needs: "min", Words: "the least", Goes: "its least and greatest", Effect: bounded,
		Lead: "At least ", stays: ofOneType, Setting: Setting{Among: "answer", Label: "Least"},
		of: func(it *Item) any { return &it.Min }},
	{Key: "max", Kind: ABound, Needs: "max", Words: "the greatest", Goes: "its least and greatest", Effect: bounded,
		Lead: "At most ", stays: ofOneType, Setting: Setting{Among: "answer", Label: "Most", Paired: true},
		of: func(it *Item) any { return &it.Max }},
	{Key: "placeholder", Needs: "placeholder", Words: "the placeholder", Goes: "its placeholder", Prints: true,
		Setting: Setting{Among: "more", Label: "Placeholder"},
		of:      func(it *Item) any { return &it.Placeholder }},
	{Key: "step", Kind: ABound, Needs: "step", Words: "the step", Above0: true, Goes: "its step", Effect: bounded,
		Lead: "In steps of ", Setting: Setting{Among: "more", Label: "In steps of"},
		of: func(it *Item) any { return &it.Step }},
	{Key: "pattern", Needs: "pattern", Goes: "the form that it has to have",
		Setting: Setting{Among: "more", Label: "Has the form", Fixed: true},
		of:      func(it *Item) any { return &it.Pattern }},
	{Key: "pattern_message", Needs: "pattern_message", Goes: "the form that it has to have", Prints: true,
		Setting: Setting{Among: "more", Label: "else people read",
			Fits: func(it *Item) bool { return it.Pattern != "" }},
		of: func(it *Item) any { return &it.PatternMessage }},
	{Key: "accept", Kind: AList, Needs: "accept", Goes: "which files it takes",
		Setting: Setting{Among: "answer", Label: "Kinds taken"}, of: func(it *Item) any { return &it.Accept }},
	{Key: "max_bytes", Kind: ACount, Needs: "max_bytes", Goes: "which files it takes",
		Setting: Setting{Among: "answer", Label: "Bytes, at most"}, of: func(it *Item) any { return &it.MaxBytes }},
	{Key: "twice", Kind: AYes, Needs: "twice", Goes: "that it is typed twice",
		Setting: Setting{Among: "more", Label: "is typed a second time to confirm"},
		of:      func(it *Item) any { return &it.Twice }},
	{Key: "required", Kind: ATie, Needs: "required", Goes: "that it is required", Effect: "is required",
		of: func(it *Item) any { return &it.Required }},
	{Key: "locked", Kind: ATie, Needs: "locked", Goes: "that it is locked", Effect: "is locked",
		of: func(it *Item) any { return &it.Locked }},
	{Key: "checks", Kind: AnObject, Needs: "checks", Words: "the checks", Goes: "its checks", Effect: "is checked",
		of: func(it *Item) any { return &it.Checks }},
	{Key: "value", Kind: AnObject, Needs: "value", Words: "where its value comes from",
		Goes: "where its value comes from", Effect: "gets its value", of: func(it *Item) any { return &it.Value }},
	{Key: "wording", Kind: AnObject, Words: "the wordings", Effect: "is worded",
		of: func(it *Item) any { return &it.Wording }},
	{Key: "look", Kind: AWord, Words: "the look", Goes: "how it looks",
		OneOf: looks(), stays: looksSo, of: func(it *Item) any { return &it.Look }},
	{Key: "when_hidden", Kind: AWord, OneOf: []string{"forget", "keep", "fill"},
		Setting: Setting{Among: "more", Label: "When hidden", Words: []Look{
			{"", "its answer goes"}, {"keep", "its answer stays and counts"}, {"fill", "its automatic value counts"}},
			Fits: func(it *Item) bool { return it.Type != Note && !it.Type.Computed() }},
		of: func(it *Item) any { return &it.WhenHidden }},
	{Key: "place", Kind: AWord, OneOf: []string{"close", "hold"},
		Setting: Setting{Among: "more", Label: "When hidden, its place", Words: []Look{
			{"", "closes"}, {"hold", "stays empty"}}},
		of: func(it *Item) any { return &it.Place }},
	{Key: "stored", Kind: ANo, Setting: Setting{Among: "more", Label: "is used but not stored",
		Fits: func(it *Item) bool { return it.Type != Note }}, of: func(it *Item) any { return &it.Stored }},
	{Key: "sensitive", Kind: AYes,
		Setting: Setting{Among: "more", Label: "is sensitive: never kept on people’s devices"},
		of:      func(it *Item) any { return &it.Sensitive }},
	{Key: "staff", Kind: AYes, Setting: Setting{Among: "more", Label: "is for the workspace only"},
		of: func(it *Item) any { return &it.Staff }},
	{Key: "parked", Kind: AYes, Setting: Setting{Among: "more", Label: "is parked: it stays here but takes no part"},
		of: func(it *Item) any { return &it.Parked }},
}

// Properties are all properties of items, in the order in which designers meet them.
func Properties() []Property { return slices.Clone(properties) }

// PropertyNamed finds a property by its key.
func PropertyNamed(key string) (Property, bool) {
	for i := range properties {
		if properties[i].Key == key {
			return properties[i], true
		}
	}
	return Property{}, false
}

// isBound reports whether a property bounds the answer of an item.
func isBound(key string) bool {
	p, ok := PropertyNamed(key)
	return ok && p.Kind == ABound
}

// ValueIn is the property in an item, as edits and files have it, and whether the item has it: a
// text, true or false, a count, a list of texts, a *Bound, a Rule, or what is its own.
func (p Property) ValueIn(it *Item) (value any, has bool) {
	v := reflect.ValueOf(p.of(it)).Elem()
	if v.Kind() == reflect.Slice {
		return v.Interface(), v.Len() > 0
	}
	if v.Kind() == reflect.Pointer && v.Type() == reflect.TypeFor[*bool]() && !v.IsNil() {
		return v.Elem().Bool(), true
	}
	return v.Interface(), !v.IsZero()
}

// Fits reports whether items of a type have the property.
func (p Property) Fits(t Type) bool { return p.Needs == "" || t.Has(p.Needs) }

// Stays reports whether what an item has of the property is kept when the item becomes one of
// another type.
func (p Property) Stays(it *Item, to Type) bool {
	return p.Fits(to) && (p.stays == nil || p.stays(it, to))
}

// Offered reports whether designers are offered to set the property of an item.
func (p Property) Offered(it *Item) bool {
	return p.Fits(it.Type) && (p.Setting.Fits == nil || p.Setting.Fits(it))
}

// read reads the property of an item in a form file.
func (p Property) read(o *object, it *Item) {
	switch at := p.of(it).(type) {
	case *string:
		if p.Kind == AWord {
			*at = o.word(p.Key, p.OneOf...)
		} else {
			*at = o.text(p.Key)
		}
	case *bool:
		*at = o.yes(p.Key)
	case **bool:
		if _, ok := o.get(p.Key); ok {
			v := o.yes(p.Key)
			*at = &v
		}
	case *int:
		*at = o.count(p.Key)
	case *[]string:
		*at = o.texts(p.Key)
	case *Rule:
		*at = o.rule(p.Key)
	case **Bound:
		if p.Kind == ABound && p.Counts {
			*at = o.counted(p.Key)
		} else {
			*at = o.bound(p.Key)
		}
	}
}
