package fill

import (
	"slices"
	"strconv"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/web/fill/posted"
)

// Option is a choice on offer.
type Option struct {
	N                         int // its place among all choices of the question
	Value, Label, Help, Image string
	Picked                    bool
	Full                      bool   // no place is left
	Left                      string // how many are, where people are to read it
	Place                     int    // in a ranking, from 1; 0 for none
}

// GridLine is a row of a grid.
type GridLine struct {
	Name, ID, Label string
	Choices         []Option
}

// Picked are the labels of what was picked in the row.
func (l GridLine) Picked() []string { return picked(l.Choices) }

func picked(choices []Option) []string {
	var out []string
	for _, c := range choices {
		if c.Picked {
			out = append(out, c.Label)
		}
	}
	return out
}

// left says how many places a choice has left, where people are to read it.
func (b *builder) left(it *form.Item, value string) string {
	n, ok := b.out.Left(it.Key, value)
	if !ok || n == 0 || it.ShowLeft != "always" && (it.ShowLeft != "few" || n > fewPlaces) {
		return ""
	}
	return b.words.Say("%d left", n)
}

// fewPlaces is up to how many places are few.
const fewPlaces = 5

// rank gives the choices of a ranking their places: those that were posted, unless one that
// has come back has none yet, or there are fewer now.
func (b *builder) rank(f *Field, st *engine.ItemState, v *expr.Value) {
	fields := map[string]int{}
	for _, field := range b.placesOf(f.Name) {
		for _, at := range posted.ReadPlaces(b.fields[field]) {
			fields[at.Value] = at.Place
		}
	}
	renumber := !st.Touched() // the answer came by itself
	for i, c := range f.Choices {
		f.Places = append(f.Places, i+1)
		f.Choices[i].Place = slices.Index(v.Picks(), c.Value) + 1
		renumber = renumber || fields[c.Value] > len(f.Choices) || fields[c.Value] == 0 && f.Choices[i].Place > 0
	}
	if renumber {
		return
	}
	for i, c := range f.Choices {
		f.Choices[i].Place = fields[c.Value]
	}
}

// other is what was written for the choice that brings a text of its own.
func (b *builder) other(f *Field, it *form.Item, st *engine.ItemState, v *expr.Value) {
	if f.OtherValue = it.Other(); f.OtherValue == "" {
		return
	}
	f.OtherName, f.Other = f.Name+posted.OtherPart, v.Other()
	if st.Touched() && b.fields.Has(f.OtherName) {
		f.Other = b.fields.Get(f.OtherName)
	}
}

func (b *builder) scale(f *Field, st *engine.ItemState, row int, v *expr.Value) {
	f.Low, f.High = st.Ends()
	least, most := b.out.Scale(st, row)
	for n := least; n <= most; n++ {
		text := strconv.Itoa(n)
		f.Choices = append(f.Choices, Option{N: n - least, Value: text, Label: b.words.Number(text), Picked: f.Text == text})
	}
}

func (b *builder) grid(f *Field, it *form.Item, st *engine.ItemState, v *expr.Value) {
	f.Many = it.Many
	for i, row := range it.Rows {
		if !st.RowShown(i) {
			for _, value := range b.fields[f.Name+"."+row.Key] { // it comes back with the row
				f.Carried = append(f.Carried, Carried{f.Name + "." + row.Key, value, b.p.Sensitive(it.Key)})
			}
			continue
		}
		line := GridLine{Name: f.Name + "." + row.Key, ID: f.ID + "-" + row.Key, Label: st.RowLabel(i)}
		cell := v.Cell(row.Key)
		for n := range it.Choices {
			label, _ := st.Choice(n)
			line.Choices = append(line.Choices,
				Option{N: n, Value: it.Choices[n].Value, Label: label, Picked: cell.Holds(it.Choices[n].Value)})
		}
		f.Grid = append(f.Grid, line)
	}
}

func (b *builder) choices(f *Field, it *form.Item, st *engine.ItemState, row int, v *expr.Value) {
	switch {
	case it.Type == form.YesNo:
		yes, no := v.Yes(), v.Kind() == expr.YesNo && !v.Yes()
		f.Choices = []Option{
			{N: 0, Value: "yes", Label: b.words.Say("Yes"), Picked: yes},
			{N: 1, Value: "no", Label: b.words.Say("No"), Picked: no},
		}
	case it.Type == form.Scale:
		b.scale(f, st, row, v)
	case it.Type == form.Grid:
		b.grid(f, it, st, v)
	case it.Type.Picks():
		b.other(f, it, st, v)
		options := b.p.Symbols.Items[it.Key].Type.Options
		written := map[string]int{}
		for n, c := range it.Choices {
			written[c.Value] = n
		}
		for _, i := range b.optionsOf(f, it, st, v) {
			value := options.Values[i]
			picked, full := v.Holds(value), slices.Contains(st.Full(), value)
			o := Option{N: i, Value: value, Label: options.Labels[i], Picked: picked, Full: full && !picked,
				Left: b.left(it, value)}
			if n, ok := written[value]; ok {
				o.Label, o.Help = st.Choice(n)
				o.Image = it.Choices[n].Image
			}
			f.Choices = append(f.Choices, o)
		}
		if it.Type == form.Ranking {
			b.rank(f, st, v)
		}
	}
}

// shownAtOnce are the choices of a question with a search that are shown at once; of more
// it shows as many of those that are looked for.
const shownAtOnce = 20

// manyChoices are so many that they are searched rather than read through, where their author
// says nothing else.
const manyChoices = 50

// look is how an item is laid out.
func (b *builder) look(it *form.Item) string {
	if it.Look == "" && (it.Type == form.ChoiceType || it.Type == form.ChoicesType) &&
		len(b.p.Form.Options(it).Values) >= manyChoices {
		return "search"
	}
	return it.Look
}

// optionsOf are the places of the choices that are printed: those on offer, full, or picked.
func (b *builder) optionsOf(f *Field, it *form.Item, st *engine.ItemState, v *expr.Value) []int {
	options := b.p.Symbols.Items[it.Key].Type.Options
	if f.Look != "search" || len(st.Choices()) <= shownAtOnce {
		return listed(options, st, v)
	}
	f.Finds, f.FindName, f.FoundName = true, posted.Headed(posted.FindHead, f.Name),
		posted.Headed(posted.FoundHead, f.Name)
	f.Find = b.fields.Get(f.FindName)
	shown, found := search(options, st, f.Find)
	f.Found = found
	picks := v.Picks()
	if v.Kind() == expr.Choice {
		picks = []string{v.Text()}
	}
	for _, pick := range picks {
		if i, ok := options.Find(pick); ok {
			shown = append(shown, i)
		}
	}
	slices.Sort(shown)
	return slices.Compact(shown)
}

// listed are the places of all choices on offer, full, or picked.
func listed(options *expr.Options, st *engine.ItemState, v *expr.Value) []int {
	var out []int
	offered := st.Choices() // in the order of the options
	for i, value := range options.Values {
		on := len(offered) > 0 && offered[0] == value
		if on {
			offered = offered[1:]
		}
		if on || v.Holds(value) || slices.Contains(st.Full(), value) {
			out = append(out, i)
		}
	}
	return out
}

// search finds the choices on offer or full that hold all words of a text: the places of
// the first, and how many there are.
func search(options *expr.Options, st *engine.ItemState, text string) (first []int, found int) {
	words := strings.Fields(expr.Fold(text))
	for _, list := range [][]string{st.Choices(), st.Full()} {
		for _, value := range list {
			i, ok := options.Find(value)
			if !ok || !options.Says(i, words) {
				continue
			}
			if found++; len(first) < shownAtOnce {
				first = append(first, i)
			}
			if len(words) == 0 && len(first) == shownAtOnce {
				return first, len(st.Choices())
			}
		}
	}
	return first, found
}
