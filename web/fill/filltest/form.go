// Package filltest fills random forms for tests: it draws a form, keeps what a
// respondent has done to it, and says what the screen must show.
package filltest

import (
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"

	"lazo/core/form"
)

// Form draws a form with questions of every type that is filled by hand, tied to
// each other in every way that changes a control. The same source draws the same.
func Form(rng *rand.Rand, key string) *form.Form {
	d := drawer{rng: rng, f: &form.Form{Lazo: 1, Key: key, Title: "Random", Timezone: "Europe/Madrid",
		End: "It has arrived.",
		Lists: map[string]form.List{"piers": {Entries: []form.Entry{
			{
				"code": "n1", "name": "Heron pier", "shore": "a",
			}, {"code": "n2", "name": "Coot pier", "shore": "a"}, {"code": "n3", "name": "Old pier", "shore": "a"},
			{
				"code": "s1", "name": "Teal pier", "shore": "b",
			}, {"code": "s2", "name": "Reed pier", "shore": "b"}, {"code": "s3", "name": "Far pier", "shore": "b"}}}}}}
	for p := range 1 + rng.IntN(2) {
		page := &form.Page{Key: fmt.Sprintf("p%d", p)}
		page.Sections = append(page.Sections, d.section(fmt.Sprintf("s%d", p), 3+rng.IntN(4)))
		if d.chance(60) {
			page.Sections = append(page.Sections, d.rows(fmt.Sprintf("rows%d", p)))
		}
		d.f.Pages = append(d.f.Pages, page)
	}
	return d.f
}

type drawer struct {
	rng   *rand.Rand
	f     *form.Form
	n     int
	drawn []*form.Item // those before, outside repeating sections
	row   []*form.Item // those before in the row at hand
}

func (d *drawer) chance(percent int) bool { return d.rng.IntN(100) < percent }

func pick[T any](d *drawer, of ...T) T { return of[d.rng.IntN(len(of))] }

func (d *drawer) section(key string, items int) *form.Section {
	s := &form.Section{Key: key}
	if len(d.f.Pages) > 0 && d.chance(25) {
		s.Shown = form.When(d.condition())
	}
	for range items {
		it := d.item()
		s.Items = append(s.Items, it)
		d.drawn = append(d.drawn, it)
	}
	return s
}

// rows draws a repeating section, of as many rows as a number says or as are added.
func (d *drawer) rows(key string) *form.Section {
	s := &form.Section{Key: key, Repeat: &form.Repeat{Min: d.rng.IntN(2), Max: 8, Name: "Rower"}}
	for _, it := range d.drawn {
		if it.Type == form.Number && d.chance(60) {
			s.Repeat.Rows = it.Key
		}
	}
	d.row = nil
	for range 1 + d.rng.IntN(3) {
		it := d.item()
		s.Items = append(s.Items, it)
		d.row = append(d.row, it)
	}
	d.row = nil
	return s
}

var types = []form.Type{
	form.Text, form.Number, form.Number, form.YesNo, form.Tick, form.ChoiceType, form.ChoiceType, form.ChoiceType,
	form.ChoicesType, form.ChoicesType, form.Ranking, form.Scale, form.Grid, form.Paragraph, form.Date, form.Address,
	form.MonthDay,
}

func (d *drawer) item() *form.Item {
	it := &form.Item{Key: fmt.Sprintf("q%d", d.n), Label: fmt.Sprintf("Question %d", d.n), Type: pick(d, types...)}
	d.n++
	if it.Type.Picks() {
		d.choices(it)
	}
	if it.Type == form.Scale && d.chance(40) {
		it.Look = "menu"
	}
	if it.Type == form.Grid {
		it.Choices = []form.Choice{{Value: "a", Label: "Alpha"}, {Value: "b", Label: "Beta"}}
		it.Rows = []form.GridRow{{Key: "x", Label: "First"}, {Key: "y", Label: "Second"}}
		if d.chance(50) {
			it.Rows[d.rng.IntN(2)].Shown = form.When(d.condition())
		}
	}
	if d.chance(30) {
		it.Shown = form.When(d.condition())
	}
	if d.chance(12) {
		it.Locked = form.When(d.condition())
	}
	if d.chance(10) {
		it.WhenHidden = "keep"
	}
	if it.Type != form.Grid && d.chance(35) {
		it.Value = d.value(it)
	}
	return it
}

func (d *drawer) choices(it *form.Item) {
	if it.Type != form.Ranking {
		it.Look = pick(d, "", "list", "menu", "menu", "search")
	}
	if from := d.before(form.ChoiceType); from != nil && from.ChoicesFrom == nil && d.chance(40) {
		it.ChoicesFrom = &form.ChoicesFrom{List: "piers", Value: "code", Label: "name", Where: "entry.shore = " + from.Key}
		return
	}
	it.Choices = []form.Choice{{Value: "a", Label: "Alpha"}, {Value: "b", Label: "Beta"}, {Value: "c", Label: "Gamma"}}
	if d.chance(25) {
		it.Choices[d.rng.IntN(3)].Withheld = form.When(d.condition())
	}
	if d.chance(15) {
		it.Withheld = form.When(`choice = "b" and ` + d.condition())
	}
	if it.Type == form.Ranking {
		return
	}
	it.Choices[2].Other = d.chance(25)
	if d.chance(20) {
		it.Choices[d.rng.IntN(2)].Places = form.BoundOf(pick(d, 0, 1, 1, 7))
		it.ShowLeft = pick(d, "", "few", "always")
	}
}

// before is a question of a type before the one at hand, nil if there is none.
func (d *drawer) before(types ...form.Type) *form.Item {
	var fit []*form.Item
	for _, it := range append(append([]*form.Item(nil), d.drawn...), d.row...) {
		for _, t := range types {
			if it.Type == t {
				fit = append(fit, it)
			}
		}
	}
	if len(fit) == 0 {
		return nil
	}
	return fit[d.rng.IntN(len(fit))]
}

func (d *drawer) condition() string {
	it := d.before(
		form.Text, form.Number, form.Scale, form.Grid, form.YesNo, form.Tick, form.ChoiceType, form.ChoicesType, form.Ranking,
		form.Date,
	)
	if it == nil {
		return `mode = "new"`
	}
	switch it.Type {
	case form.Number, form.Scale:
		return pick(d, it.Key+" > 2", it.Key+" <= 3", it.Key+" is blank")
	case form.YesNo:
		return pick(d, it.Key, it.Key+" = no", "not "+it.Key)
	case form.Grid:
		return pick(d, it.Key+`.x = "a"`, it.Key+".y is answered", it.Key+" is blank")
	case form.Tick:
		return pick(d, it.Key, "not "+it.Key)
	case form.Ranking:
		if it.ChoicesFrom != nil {
			return it.Key + " is answered"
		}
		return pick(d, "rank("+it.Key+`, "a") = 1`, "rank("+it.Key+`, "c") > 1`, it.Key+" is blank")
	case form.ChoiceType:
		if it.ChoicesFrom != nil {
			return it.Key + " is answered"
		}
		if it.Other() != "" && d.chance(30) {
			return it.Key + ".other is answered"
		}
		if it.HasPlaces() && d.chance(50) {
			return "left(" + it.Key + `, "` + limited(it) + `") > 0`
		}
		return pick(d, it.Key+` = "a"`, it.Key+` in ("b", "c")`, it.Key+" is answered")
	case form.ChoicesType:
		if it.ChoicesFrom != nil {
			return it.Key + " is answered"
		}
		return pick(d, it.Key+` has "a"`, it.Key+" is blank")
	}
	return pick(d, it.Key+" is answered", it.Key+" is blank")
}

// limited is the choice of a question that has places.
func limited(it *form.Item) string {
	return it.Choices[slices.IndexFunc(it.Choices, func(c form.Choice) bool { return c.Places != nil })].Value
}

// value draws a value that comes by itself, or nil.
func (d *drawer) value(it *form.Item) *form.Value {
	src := ""
	switch from := d.before(it.Type); {
	case from != nil && (from.ChoicesFrom == nil) == (it.ChoicesFrom == nil) && from.Other() == it.Other() && d.chance(70):
		src = from.Key
	case it.Type == form.Number || it.Type == form.Scale:
		src = pick(d, "2", "5")
	case it.Type == form.Text || it.Type == form.Paragraph:
		src = `"by itself"`
	case it.Type == form.YesNo || it.Type == form.Tick:
		src = d.condition()
	case it.Type == form.Date:
		src = "2026-05-30"
	case it.Type.Picks() && it.Type != form.Ranking && it.ChoicesFrom == nil:
		src = pick(d, `"a"`, `"b"`)
	case it.Type == form.MonthDay:
		src = `"05-30"`
	default:
		return nil
	}
	switch d.rng.IntN(3) {
	case 0:
		return &form.Value{Starts: src}
	case 1:
		return &form.Value{Follows: src}
	}
	return &form.Value{Follows: src, When: d.condition()}
}

// Seeds is how many random forms a test tries: few usually, more in a soak, whose
// factor stands in the environment as LAZO_SOAK.
func Seeds(usual uint64) uint64 {
	if factor, err := strconv.ParseUint(os.Getenv("LAZO_SOAK"), 10, 16); err == nil && factor > 0 {
		return usual * factor
	}
	return usual
}
