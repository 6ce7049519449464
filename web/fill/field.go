package fill

import (
	"encoding/base64"
	"fmt"
	"html/template"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/text"
	"lazo/web/fill/posted"
)

// Field is one item as it is printed.
type Field struct {
	Item                     *form.Item // the question itself
	Key, ID, Name            string
	Type                     form.Type
	Look                     string
	Label, Help, Placeholder string
	Hint                     string      // what an answer is held to, said before it is given
	LabelParts, HelpParts    []text.Part // of those in which links stand
	Shown, Required, Locked  bool
	Fillable, Hold, Twice    bool
	Text, Again              string // the value as an input takes it
	AgainWrong               bool   // what is wrong is its second typing, not the first
	Said                     string // and as people read it
	Choices                  []Option
	Finds                    bool       // they are too many to be shown at once, and are looked for
	Find, FindName           string     // what is looked for, and its field
	FoundName                string     // the field that says by what those shown were found
	Found                    int        // how many there are of it
	Grid                     []GridLine // the rows of a grid that are shown
	Many                     bool       // several choices in each
	Low, High                string     // the words at the ends of a scale
	Other, OtherName         string     // what was written for the choice that brings a text, and its field
	OtherValue               string     // and that choice
	Places                   []int      // of a ranking: what can be given to each choice
	Parts                    []Part
	Problems                 []string
	Drives                   bool
	HasAuto                  bool      // its value can come by itself
	Auto, AutoName           string    // what its control says, if nobody has touched it
	Own, OwnName             string    // "yes" if the respondent has
	Aside                    []Carried // picks that are set aside because they are not on offer
	SetAside                 string    // that they are, as people read it
	Carried                  []Carried // what is set aside while it is not shown
	Computed, Sensitive      bool
	Veiled                   bool     // its answer is not shown any more
	Month, Day               string   // of a month and day
	Months                   []Option // to pick from
	File                     FileView
}

// FileView is a file that was sent; Typed and Drawn are a signature that is not
// stored yet.
type FileView struct{ ID, Name, Size, Accept, Typed, Drawn string }

// Picture is a signature that was drawn, to be looked at before it is sent; "" if it is none
// that can be shown.
func (f FileView) Picture() template.URL {
	data, ok := strings.CutPrefix(f.Drawn, "data:image/png;base64,")
	if _, err := base64.StdEncoding.DecodeString(data); !ok || err != nil {
		return ""
	}
	return template.URL(f.Drawn) //nolint:gosec // it is a picture
}

// Picked are the labels of what was picked, those of a ranking in their order.
func (f Field) Picked() []string {
	choices := slices.Clone(f.Choices)
	if f.Type == form.Ranking {
		slices.SortStableFunc(choices, func(a, b Option) int { return a.Place - b.Place })
	}
	for i := range choices {
		if choices[i].Value == f.OtherValue && f.Other != "" {
			choices[i].Label += ": " + f.Other
		}
	}
	return picked(choices)
}

// AsPicks reports whether the question is a group of boxes or buttons, rather than one
// control.
func (f Field) AsPicks() bool {
	switch f.Type {
	case form.YesNo:
		return true
	case form.ChoiceType, form.ChoicesType:
		return f.Look != "menu"
	case form.Scale:
		return f.Look != "menu" && len(f.Choices) <= 11
	}
	return false
}

// Single reports whether the question is a group of buttons of which one is picked.
func (f Field) Single() bool { return f.AsPicks() && f.Type != form.ChoicesType }

// Masked reports whether what is typed is hidden from who looks over one's shoulder.
func (f Field) Masked() bool {
	return f.Sensitive && slices.Contains([]form.Type{form.Text, form.Number, form.Email, form.Phone, form.Website},
		f.Type)
}

// Part is a part of an address.
type Part struct{ Name, ID, Label, Text, Autocomplete string }

// DrivesAs says how changes of the field ask the server: at once for picks,
// after a pause for typing, "" not at all. One with a problem asks, too, so that
// the problem goes when it is mended.
func (f Field) DrivesAs() string {
	switch {
	case !f.Drives && len(f.Problems) == 0:
		return ""
	case f.Type.Picks() && f.Look != "menu",
		f.Type == form.Scale,
		f.Type == form.Grid,
		f.Type == form.Ranking,
		f.Type == form.YesNo,
		f.Type == form.Tick,
		f.Look == "menu",
		f.Type == form.Date,
		f.Type == form.Time:
		return "pick"
	}
	return "text"
}

// Answered reports whether there is an answer to be seen.
func (f Field) Answered() bool {
	return f.Text != "" || f.File.ID != "" || slices.ContainsFunc(f.Choices, func(o Option) bool { return o.Picked })
}

// DescribedBy lists the ids that explain the field.
func (f Field) DescribedBy() string {
	var ids []string
	if f.Help != "" {
		ids = append(ids, f.ID+"-help")
	}
	if f.Hint != "" {
		ids = append(ids, f.ID+"-hint")
	}
	if len(f.Problems) > 0 {
		ids = append(ids, f.ID+"-problem")
	}
	return strings.Join(ids, " ")
}

var domID = strings.NewReplacer(".", "-", "#", "-")

func (b *builder) field(it *form.Item, st *engine.ItemState, row int, name string) Field {
	f := Field{
		Item:        it,
		Key:         it.Key,
		ID:          domID.Replace(name),
		Name:        name,
		Type:        it.Type,
		Look:        b.look(it),
		Label:       st.Label(),
		Help:        st.Help(),
		Placeholder: st.Placeholder(),
		Shown:       st.Shown && it.Type != form.Hidden,
		Required:    st.Required,
		Locked:      st.Locked,
		Fillable:    st.Fillable(),
		Hold:        it.Place == "hold",
		Twice:       it.Twice,
		Drives:      b.p.Drives(it.Key),
		AutoName:    posted.Headed(posted.AutoHead, name),
		OwnName:     posted.Headed(posted.OwnHead, name),
		Computed:    it.Type.Computed(),
		Sensitive:   b.p.Sensitive(it.Key),
	}
	if f.Fillable {
		f.Hint = b.hint(it)
	}
	if it.Type == form.Note {
		f.Label, f.Help = st.Markdown()
	} else {
		label, help := st.Markdown()
		f.LabelParts, f.HelpParts = text.Links(label, st.Worded()), text.Links(help, st.Worded())
		f.Label, f.Help = st.Bare()
	}
	if !f.Shown || !f.Fillable {
		f.Carried = b.carried(it, name)
	}
	if !f.Shown {
		return f
	}
	v := b.out.Value(st, row)
	f.Text = inputText(&v, b.p.Location())
	f.Said = b.said(&v, f.Text)
	for _, p := range st.Problems() {
		if p.Code == engine.NotOffered || b.judged(name) { // what was lost is said at once
			f.Problems = append(f.Problems, b.problem(p, it))
			f.AgainWrong = p.Code == engine.Differs
		}
	}
	if row == 0 && b.judged(name) {
		for _, p := range b.toldHere(it.Key) {
			f.Problems = append(f.Problems, b.problem(p, nil))
		}
	}
	b.file(&f, it, name, &v)
	b.choices(&f, it, st, row, &v)
	b.parts(&f, it, name, st.Touched(), &v)
	if it.Type == form.MonthDay {
		b.monthDay(&f, name, st.Touched())
	}
	if f.Fillable {
		b.typed(&f, it, st, name, &v)
	}
	return f
}

// typed puts into a control what the respondent typed as they typed it, above all
// if it is wrong, and tells whether it is theirs.
func (b *builder) typed(f *Field, it *form.Item, st *engine.ItemState, name string, v *expr.Value) {
	f.Again = b.fields.Get(name + engine.Again)
	if st.Touched() {
		if typed, ok := b.fields[name]; ok && len(typed) == 1 && !it.Type.Picks() && it.Type != form.Tick &&
			it.Type != form.YesNo {
			f.Text = typed[0]
		}
		var labels []string
		for _, value := range st.Aside() {
			f.Aside = append(f.Aside, Carried{Name: posted.Headed(posted.AsideHead, name), Value: b.asideText(it, name, value)})
			labels = append(labels, b.labelOf(it, value))
		}
		if len(labels) > 0 && !slices.ContainsFunc(st.Problems(),
			func(p engine.Problem) bool { return p.Code == engine.NoPlaces }) {
			f.SetAside = b.words.Say("Set aside, since it is not on offer with these answers: %s", strings.Join(labels, ", "))
		}
	}
	if f.HasAuto = it.Value != nil; !f.HasAuto {
		return
	}
	if st.Touched() {
		f.Own = "yes"
		return
	}
	f.Auto = autoText(it, v, b.p.Location())
}

// labelOf is what a choice reads.
func (b *builder) labelOf(it *form.Item, value string) string {
	options := b.p.Symbols.Items[it.Key].Type.Options
	if i, ok := options.Find(value); ok {
		return options.Labels[i]
	}
	return value
}

// file shows what is known of a file, or of a signature that is not stored yet.
func (b *builder) file(f *Field, it *form.Item, name string, v *expr.Value) {
	f.File.Accept = strings.Join(it.Accept, ",")
	if v.Kind() != expr.File {
		return
	}
	if v.Parts().Get("id") == posted.Pending {
		f.File.Typed, f.File.Drawn = b.fields.Get(name+posted.Typed), b.fields.Get(name+posted.Drawn)
		f.Text, f.Said = f.File.Typed, f.File.Typed
		if f.Text == "" {
			f.Text, f.Said = posted.Pending, b.words.Say("drawn")
		}
		return
	}
	f.File.ID, f.File.Name, f.File.Size = v.Parts().Get("id"), v.Parts().Get("name"), sizeText(v.Parts().Get("size"))
	f.Text, f.Said = f.File.Name, f.File.Name
}

// sizeText says a size in bytes as people do.
func sizeText(bytes string) string {
	n, err := strconv.ParseFloat(bytes, 64)
	switch {
	case err != nil:
		return ""
	case n < 1000:
		return bytes + " B"
	case n < 1e6:
		return strconv.FormatFloat(n/1e3, 'f', 0, 64) + " kB"
	}
	return strconv.FormatFloat(n/1e6, 'f', 1, 64) + " MB"
}

// problem says a problem, with the limit in it as people write it.
func (b *builder) problem(p engine.Problem, of *form.Item) string {
	if p.Code == engine.NoMatch && p.Arg == "" && of != nil {
		if like, ok := expr.Sample(of.Pattern); ok {
			return b.words.Say("This is not written as it should be; write it like %s.", like)
		}
	}
	if _, err := expr.ParseNumber(p.Arg); err == nil {
		p.Arg = b.words.Number(p.Arg)
	} else if t, err := time.Parse(time.DateOnly, p.Arg); err == nil {
		p.Arg = b.words.Day(t)
	}
	return p.Sentence(b.words.Say)
}

// said is a value as people of the form's language read it.
func (b *builder) said(v *expr.Value, plain string) string {
	switch v.Kind() {
	case expr.Num:
		return b.words.Number(plain)
	case expr.Date:
		if t, err := time.Parse(time.DateOnly, plain); err == nil {
			return b.words.Day(t)
		}
	case expr.YesNo:
		if v.Yes() {
			return b.words.Say("Yes")
		}
		return b.words.Say("No")
	}
	return plain
}

func (b *builder) monthDay(f *Field, name string, touched bool) {
	f.Month, f.Day, _ = strings.Cut(f.Text, "-")
	if touched && b.fields.Has(name+posted.MonthPart) {
		f.Month, f.Day = b.fields.Get(name+posted.MonthPart), b.fields.Get(name+posted.DayPart)
	}
	for m := time.January; m <= time.December; m++ {
		value := fmt.Sprintf("%02d", int(m))
		f.Months = append(f.Months, Option{Value: value, Label: b.words.Month(m), Picked: value == f.Month})
	}
}

var partLabels = map[string][2]string{
	"street": {"Street and number", "address-line1"}, "extra": {"Further line", "address-line2"},
	"city": {"Town", "address-level2"}, "region": {"Region", "address-level1"},
	"postcode": {"Postcode", "postal-code"}, "country": {"Country", "country-name"},
}

// PartName is what a part of an address is called.
func PartName(part string) string { return partLabels[part][0] }

func (b *builder) parts(f *Field, it *form.Item, name string, touched bool, v *expr.Value) {
	if it.Type != form.Address {
		return
	}
	for _, part := range expr.AddressParts {
		text := v.Parts().Get(part)
		if touched && b.fields.Has(name+"."+part) {
			text = b.fields.Get(name + "." + part)
		}
		f.Parts = append(f.Parts,
			Part{f.Name + "." + part, f.ID + "-" + part, b.words.Say(partLabels[part][0]), text, partLabels[part][1]})
	}
}

// inputText is a value as an input takes it.
func inputText(v *expr.Value, loc *time.Location) string {
	text := v.Plain(loc)
	if v.Kind() == expr.Choices {
		text = strings.Join(v.Picks(), "\n")
	}
	if v.Other() != "" {
		text += "\n" + v.Other()
	}
	return text
}
