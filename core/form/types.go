package form

import (
	"regexp"
	"slices"
	"strings"

	"lazo/core/expr"
)

// A TypeRow is all that a type of item is to the form, the designer and the checker.
// Adding a type is adding a row; docs/adding.md says what else it may want.
type TypeRow struct {
	Type  Type
	Words string    // it in plain words
	Kind  expr.Kind // of its value; Blank where that is its expression's, or there is none
	Has   []string  // properties that not every item has
	Looks []Look    // how it can be laid out, the usual way first; none if there is but one
}

// Look is a way in which a type can be laid out.
type Look struct{ Name, Words string }

// The looks of types to pick from.
var (
	list     = Look{"list", "a list"}
	menu     = Look{"menu", "a menu"}
	pictures = Look{"pictures", "pictures"}
	search   = Look{"search", "a list with a search"}
)

// What groups of types have.
var (
	answerable = []string{"required", "locked", "checks", "value"}
	pickable   = append([]string{"choices", "choices_from", "offered", "withheld"}, answerable...)
	computable = []string{"checks", "value"}
)

func has(group []string, more ...string) []string { return append(more, group...) }

// types are all types, in the order in which they are offered.
var types = []TypeRow{
	{Text, "short text", expr.Text,
		has(answerable, "min_length", "max_length", "pattern", "pattern_message", "twice", "placeholder"), nil},
	{Paragraph, "long text", expr.Text, has(answerable, "min_length", "max_length", "placeholder"), nil},
	{Number, "number", expr.Num, has(answerable, "min", "max", "step", "placeholder"), nil},
	{Email, "e-mail address", expr.Text, has(answerable, "pattern", "pattern_message", "twice", "placeholder"), nil},
	{Phone, "phone number", expr.Text, has(answerable, "twice", "placeholder"), nil},
	{Website, "web address", expr.Text, has(answerable, "pattern", "pattern_message", "placeholder"), nil},
	{Date, "date", expr.Date, has(answerable, "min", "max"), nil},
	{Time, "time of day", expr.Time, has(answerable, "min", "max"), nil},
	{MonthDay, "month and day", expr.Text, has(answerable, "min", "max"), nil},
	{YesNo, "yes or no", expr.YesNo, answerable, []Look{{"list", "two buttons"}, {"switch", "a switch"}}},
	{Tick, "tick box", expr.YesNo, answerable, nil},
	{ChoiceType, "one choice", expr.Choice, pickable, []Look{list, menu, pictures, search}},
	{ChoicesType, "several choices", expr.Choices, has(pickable, "min_picked", "max_picked"),
		[]Look{list, menu, pictures, search}},
	{Scale, "scale", expr.Num, has(answerable, "min", "max", "low", "high"),
		[]Look{{"numbers", "numbers in a row"}, menu}},
	{Ranking, "ranking", expr.Choices, pickable, nil},
	{Grid, "grid", expr.Grid, has(answerable, "choices", "rows", "many"), nil},
	{Address, "postal address", expr.Address, answerable, nil},
	{File, "file", expr.File, has(answerable, "accept", "max_bytes"), nil},
	{Signature, "signature", expr.File, answerable, nil},
	{Note, "note", expr.Blank, nil, []Look{{"plain", "plain"}, {"important", "important"}, {"warning", "a warning"}}},
	{Hidden, "hidden value", expr.Blank, computable, nil},
	{Calculation, "calculation", expr.Blank, computable, nil},
}

// Types are all types, in the order in which they are offered.
func Types() []TypeRow { return slices.Clone(types) }

func (t Type) row() *TypeRow {
	for i := range types {
		if types[i].Type == t {
			return &types[i]
		}
	}
	return &TypeRow{}
}

// Words says the type in plain words, "" if there is none such.
func (t Type) Words() string { return t.row().Words }

// Known reports whether there is such a type.
func (t Type) Known() bool { return t.row().Type != "" }

// Has reports whether items of the type have a property that not every item has.
func (t Type) Has(property string) bool { return slices.Contains(t.row().Has, property) }

// Looks are the ways in which the type can be laid out, the usual one first.
func (t Type) Looks() []Look { return t.row().Looks }

// Picks reports whether the respondent picks from choices.
func (t Type) Picks() bool { return t == ChoiceType || t == ChoicesType || t == Ranking }

// Computed reports whether the value is never the respondent's own.
func (t Type) Computed() bool { return t == Hidden || t == Calculation }

// exprType is what an item's value is to expressions.
func (f *Form) exprType(it *Item) expr.Type {
	t := expr.Type{Kind: it.Type.row().Kind, Tick: it.Type == Tick}
	if it.Type.Picks() || it.Type == Grid {
		t.Options = f.Options(it)
	}
	if it.Type == MonthDay {
		t.Reads = expr.AsMonthDay
	}
	if it.Type == Grid {
		t.Options.Lines = map[string]string{}
		for _, row := range it.Rows {
			t.Options.Lines[row.Key] = row.Name()
		}
	}
	return t
}

// proposals are tried in order on the words of a question.
var proposals = []struct {
	words *regexp.Regexp
	typ   Type
}{
	{regexp.MustCompile(`\b(e-?mail)\b`), Email},
	{regexp.MustCompile(`\b(phone|telephone|mobile|call you)\b`), Phone},
	{regexp.MustCompile(`\b(website|web address|homepage|url)\b`), Website},
	{regexp.MustCompile(`\b(date|day of birth|born|birthday|when were)\b`), Date},
	{regexp.MustCompile(`\b(what time|at what hour|time of day|launch time|arrival time)\b`), Time},
	{regexp.MustCompile(`\b(address|where do you live)\b`), Address},
	{regexp.MustCompile(`\b(upload|attach|photo of|certificate file)\b`), File},
	{regexp.MustCompile(`\b(sign here|signature)\b`), Signature},
	{regexp.MustCompile(`^(i agree|i accept|i confirm|i have read|please send me)\b`), Tick},
	{regexp.MustCompile(`^(do|does|did|are|is|have|has|will|would|can) `), YesNo},
	{regexp.MustCompile(`\b(how many|number of|how much|weight|length|height|age in|fee|metres|kilos)\b`), Number},
	{regexp.MustCompile(`\b(which days|which of|tick all|all that apply)\b`), ChoicesType},
	{regexp.MustCompile(`^which [a-z]*[^s]s\b`), Text},
	{regexp.MustCompile(`\b(which|choose|class|kind of|category|size)\b`), ChoiceType},
	{regexp.MustCompile(`\b(describe|tell us|comments?|remarks?|anything else|why)\b`), Paragraph},
}

// ProposeType guesses the type of a question from its words; text if nothing fits.
func ProposeType(label string) Type {
	low := strings.ToLower(strings.TrimSpace(label))
	for _, p := range proposals {
		if p.words.MatchString(low) {
			return p.typ
		}
	}
	return Text
}
