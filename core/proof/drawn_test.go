package proof_test

import (
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/form"
)

// drawer draws small forms in which everything is within the model of a proof, and the
// answers to them that can make a difference, so that all inputs can be tried.
type drawer struct {
	t      *rapid.T
	f      *form.Form
	before []*form.Item // those that a condition can name
	row    []*form.Item // and those of the row at hand
	group  string
	param  string // of the address, which conditions name
	clock  bool
	born   bool
}

func (d *drawer) n(low, high int) int { return rapid.IntRange(low, high).Draw(d.t, "n") }
func (d *drawer) chance(percent int) bool {
	return rapid.IntRange(0, 99).Draw(d.t, "chance") < percent
}
func (d *drawer) pick(from ...string) string { return rapid.SampledFrom(from).Draw(d.t, "pick") }

var types = []form.Type{
	form.ChoiceType, form.ChoiceType, form.YesNo, form.Tick, form.Number, form.Number, form.ChoicesType, form.Calculation,
	form.Text, form.Date, form.Scale, form.Grid, form.Note,
}

func drawForm(t *rapid.T) *form.Form {
	d := &drawer{t: t, f: &form.Form{Lazo: 1, Key: "t", Title: "T", Timezone: "America/Montevideo"}}
	d.f.Parameters = []form.Parameter{{Name: "club"}, {Name: "count", Type: "number"},
		{Name: "boat", Values: &form.ParameterValues{
			Written: []form.ParameterValue{{Value: "a", Label: "Alpha"}, {Value: "b", Label: "Beta"}}}}}
	d.clock, d.param = d.chance(30), d.pick("club", "club", "boat", "count")
	number := 0
	pages := d.n(1, 3)
	for p := range pages {
		page := &form.Page{Key: fmt.Sprintf("p%d", p), Title: fmt.Sprintf("Page %d", p)}
		if p > 0 && d.chance(30) {
			page.Shown = form.When(d.cond(1))
		}
		for s := range d.n(1, 2) {
			sec := &form.Section{Key: fmt.Sprintf("s%d_%d", p, s)}
			if p+s > 0 && d.chance(20) {
				sec.Shown = form.When(d.cond(1))
			}
			for range d.n(1, 2) {
				sec.Items = append(sec.Items, d.item(fmt.Sprintf("q%d", number)))
				number++
			}
			page.Sections = append(page.Sections, sec)
		}
		d.f.Pages = append(d.f.Pages, page)
	}
	if pages == 3 {
		for range d.n(0, 2) {
			d.f.Pages[0].Next = append(d.f.Pages[0].Next, form.Next{When: d.cond(1), Page: d.pick("p1", "p2")})
		}
	}
	if d.chance(30) {
		d.rows()
	}
	if d.chance(20) {
		d.f.Messages = []form.Message{{Key: "m", Name: "M", When: d.cond(1), To: []string{"a@b.example"}, Subject: "S",
			Body: "B"}}
	}
	if d.chance(20) {
		d.f.Ends = []form.End{{When: d.cond(1), Text: "One"}, {When: d.cond(1), Text: "Two"}}
	}
	return d.f
}

// rows adds a section of at most two rows, and something that looks across them.
func (d *drawer) rows() {
	sec := &form.Section{Key: "rowers", Title: "Rowers", Repeat: &form.Repeat{Min: d.n(0, 1), Max: 2}}
	if d.chance(30) {
		sec.Repeat.Rows = "1"
	}
	first := &form.Item{Key: "seat", Type: form.ChoiceType, Label: "Seat", Choices: letters("a", "b")}
	sec.Items = []*form.Item{first}
	d.row = sec.Items
	second := &form.Item{Key: "cox", Type: form.Tick, Label: "Cox"}
	if d.chance(60) {
		second.Shown = form.When(d.cond(1))
	}
	if d.chance(40) {
		second.Required = form.When(d.cond(1))
	}
	sec.Items = append(sec.Items, second)
	d.row = nil
	d.group = "rowers"
	page := d.f.Pages[len(d.f.Pages)-1]
	page.Sections = append(page.Sections, sec, &form.Section{Key: "after", Items: []*form.Item{
		{Key: "last", Type: form.Text, Label: "Last", Shown: form.When(d.cond(1)), Required: form.When(d.cond(0))},
	}})
}

func letters(values ...string) (out []form.Choice) {
	for _, v := range values {
		out = append(out, form.Choice{Value: v, Label: strings.ToUpper(v)})
	}
	return out
}

func (d *drawer) item(key string) *form.Item {
	it := &form.Item{Key: key, Type: rapid.SampledFrom(types).Draw(d.t, "type"), Label: strings.ToUpper(key)}
	switch it.Type {
	case form.ChoiceType:
		it.Choices = letters("a", "b", "c")
		for i := range it.Choices {
			if d.chance(20) {
				it.Choices[i].Offered = form.When(d.cond(1))
			} else if d.chance(15) {
				it.Choices[i].Withheld = form.When(d.cond(1))
			}
		}
		switch d.n(0, 11) {
		case 0, 1:
			it.Withheld = form.When(`choice = "a" and ` + d.cond(0))
		case 2: // nothing is on offer before something else is answered
			it.Required = form.Always
			it.Offered = form.When(d.cond(1))
		case 3:
			it.Withheld = form.When(d.cond(1))
		}
	case form.ChoicesType:
		it.Choices = letters("x", "y")
		if d.chance(20) {
			it.Choices[0].Offered = form.When(d.cond(0))
		}
		if d.chance(20) {
			it.MinPicked = form.BoundOf(d.n(1, 2))
		}
	case form.Grid:
		it.Choices = letters("a", "b")
		it.Rows = []form.GridRow{{Key: "fri"}, {Key: "sat", Shown: form.When(d.cond(0))}}
		if d.chance(25) {
			it.Choices[0].Offered = form.When(d.cond(0))
		}
	case form.Number:
		if d.chance(25) {
			it.Max = form.BoundOf(d.n(1, 3))
		}
		if d.chance(15) {
			it.Min = &form.Bound{Text: "if(" + d.cond(0) + ", 1, 3)"}
		}
	case form.Scale:
		it.Max = form.BoundOf(3)
	case form.Text:
		it.Pattern = d.pick("", "", "[A-Z][a-z]*", "[a-z]{2,4}", "(ana|eva|bruno|bo)+")
	case form.Calculation:
		it.Value = &form.Value{Is: d.calculation()}
	}
	d.tie(it)
	if it.Type != form.Note {
		d.before = append(d.before, it)
	}
	return it
}

func (d *drawer) tie(it *form.Item) {
	if d.chance(50) {
		it.Shown = form.When(d.cond(2))
	}
	if it.Type == form.Note {
		return
	}
	if it.Type != form.Calculation {
		switch d.n(0, 5) {
		case 0:
			it.Required = form.Always
		case 3:
		case 1, 2:
			it.Required = form.When(d.cond(1))
		}
		if d.chance(12) {
			it.Locked = form.When(d.cond(1))
		}
	}
	if d.chance(15) {
		it.Wording = []form.Wording{{When: d.cond(1), Label: "One"}, {When: d.cond(1), Label: "Two"}}
	}
	if d.chance(12) {
		it.Checks = []form.Check{{OK: d.cond(1), Message: "No"}}
	}
	switch d.n(0, 24) {
	case 0, 1:
		it.WhenHidden = "keep"
	case 2:
		it.WhenHidden = "fill"
	}
	if (it.Type == form.Number || it.Type == form.ChoiceType) && d.chance(20) {
		value := map[form.Type]string{form.Number: "2", form.ChoiceType: `"b"`}[it.Type]
		if d.chance(50) {
			it.Value = &form.Value{Starts: value}
		} else {
			it.Value = &form.Value{Follows: value, When: d.cond(1)}
		}
	}
}

func (d *drawer) calculation() string {
	var numbers []string
	for _, it := range d.before {
		if it.Type == form.Number || it.Type == form.Scale {
			numbers = append(numbers, it.Key)
		}
	}
	switch {
	case len(numbers) > 0 && d.chance(60):
		return d.pick(numbers...) + d.pick(" * 2", " + 1", " - 1")
	case d.chance(50):
		return "if(" + d.cond(0) + ", 2, 5)"
	}
	return fmt.Sprintf("%d", d.n(1, 3))
}

func (d *drawer) cond(depth int) string {
	if depth > 0 && d.chance(45) {
		parts := []string{d.cond(depth - 1), d.cond(depth - 1)}
		if d.chance(25) {
			parts = append(parts, d.cond(0))
		}
		return "(" + strings.Join(parts, d.pick(" and ", " or ")) + ")"
	}
	if depth > 0 && d.chance(12) {
		return "not " + d.cond(0)
	}
	return d.atom()
}

func (d *drawer) atom() string {
	names := slices.Concat(d.before, d.row)
	if d.group != "" && d.chance(50) {
		return d.pick(`any(rowers, seat = "a")`, `every(rowers, seat = "b")`, "count(rowers) = 2", "any(rowers, cox)",
			`count(rowers, seat = "a") >= 2`)
	}
	if len(names) == 0 || d.chance(12) {
		switch d.param {
		case "boat":
			return d.pick(`url.boat = "a"`, `url.boat has "b"`, "url.boat is answered")
		case "count":
			return d.pick("url.count > 2", "url.count = 3", "url.count is blank")
		}
		return d.pick(`url.club = "harbor"`, `url.club has "north"`, "url.club is answered")
	}
	if d.clock && d.chance(25) {
		return d.pick("today < 2026-05-30", "now >= 2026-05-30T18:00", `weekday = "sat"`, "time < 12:00")
	}
	it := rapid.SampledFrom(names).Draw(d.t, "of")
	k := it.Key
	if d.chance(15) {
		return k + d.pick(" is blank", " is answered")
	}
	switch it.Type {
	case form.ChoiceType:
		return k + d.pick(` = "a"`, ` = "b"`, ` != "a"`, ` in ("a", "b")`, ` not in ("a", "b")`)
	case form.YesNo, form.Tick:
		return d.pick(k, "not "+k, k+" = no")
	case form.Number, form.Scale, form.Calculation:
		return k + d.pick(" = ", " != ", " < ", " <= ", " > ", " >= ") + fmt.Sprint(d.n(1, 3))
	case form.ChoicesType:
		has := k + d.pick(` has "x"`, ` has any ("x", "y")`, ` has all ("x", "y")`, ` has none ("x", "y")`)
		return has + d.pick("", "", " and count("+k+") < 2")
	case form.Text:
		return d.pick(k+` = "Ana"`, "length("+k+") > 3", k+` != "ana"`)
	case form.Date:
		if d.clock {
			d.born = true
			return d.pick("age("+k+") < 18", k+" > today", k+" <= 2008-05-30", "age("+k+") >= 18")
		}
		return d.pick(k+" < 2026-05-30", k+" + 1 month > 2026-05-30", "age("+k+", 2026-05-30) >= 18",
			`weekday(`+k+`) = "sat"`)
	case form.Grid:
		return k + d.pick(`.fri = "a"`, `.sat = "b"`, `.sat is answered`)
	}
	return k + " is answered"
}

// answers are those to an item that can make a difference, nothing first.
func answers(it *form.Item) []any {
	out := []any{untouched{}}
	add := func(values ...any) { out = append(out, values...) }
	switch it.Type {
	case form.ChoiceType:
		for _, c := range it.Choices {
			add(c.Value)
		}
	case form.YesNo:
		add(true, false)
	case form.Tick:
		add(true)
		if it.WhenHidden == "keep" {
			add(false) // which stays while it is hidden, unlike what was never ticked
		}
	case form.Number, form.Scale:
		for _, n := range []string{"-1", "0", "0.2", "0.5", "0.7", "1", "1.2", "1.5", "1.7", "2", "2.2", "2.5", "2.7", "3",
			"3.5", "4", "5"} {
			add(n)
		}
	case form.ChoicesType:
		add([]any{"x"}, []any{"y"}, []any{"x", "y"})
		if it.WhenHidden == "keep" {
			add([]any{})
		}
	case form.Text:
		add("Ana", "ana", "eva", "Bo", "bo", "Bruno", "bruno", "abcd")
	case form.Date:
		for _, day := range []string{
			"1990-01-01", "2008-05-28", "2008-05-29", "2008-05-30", "2008-05-31", "2008-06-01", "2026-04-29", "2026-04-30",
			"2026-05-01",
			"2026-05-23", "2026-05-28", "2026-05-29", "2026-05-30", "2026-05-31", "2026-06-01", "2030-01-05", "2012-02-29",
			"9999-12-31",
		} {
			add(day)
		}
	case form.Grid:
		add(map[string]any{"fri": "a"}, map[string]any{"fri": "b"}, map[string]any{"sat": "a"}, map[string]any{"sat": "b"},
			map[string]any{"fri": "a", "sat": "a"}, map[string]any{"fri": "a", "sat": "b"},
			map[string]any{"fri": "b", "sat": "b"},
			map[string]any{"fri": "b", "sat": "a"})
	}
	if it.Value != nil && it.Type != form.Calculation {
		add(nil)
	}
	return out
}

type untouched struct{}

// arriving are values of parameters that can make a difference.
var arriving = map[string][][]string{
	"club":  {nil, {"harbor"}, {"north"}, {"else"}, {"harbor", "north"}, {"else", "north"}},
	"boat":  {nil, {"a"}, {"Beta"}, {"Alpha", "b"}, {"c"}, {"b", "a"}},
	"count": {nil, {"2"}, {"3"}, {"3.5", "9"}, {"many"}},
}

// inputs are all inputs of a form, or of several editions of it, as far as they can make
// a difference; ok is false if they are more than max.
func inputs(max int, clock bool, editions ...*form.Form) (out []engine.Filling, ok bool) {
	out = []engine.Filling{{Answers: map[string]any{}, At: time.Date(2026, 5, 20, 15, 0, 0, 0, time.UTC)}}
	multiply := func(n int, change func(fl *engine.Filling, i int)) {
		if ok = len(out)*n <= max; !ok {
			out = nil
			return
		}
		var next []engine.Filling
		for _, fl := range out {
			for i := range n {
				one := fl
				one.Answers = map[string]any{}
				for k, v := range fl.Answers {
					one.Answers[k] = v
				}
				change(&one, i)
				next = append(next, one)
			}
		}
		out = next
	}
	for _, one := range asked(editions) {
		multiply(len(one.answers), func(fl *engine.Filling, i int) {
			if one.answers[i] != any(untouched{}) {
				fl.Answers[one.key] = one.answers[i]
			}
		})
	}
	both := string(editions[0].JSON()) + string(editions[len(editions)-1].JSON())
	for name, of := range arriving {
		if strings.Contains(both, "url."+name) {
			multiply(len(of), func(fl *engine.Filling, i int) {
				if fl.Params = maps.Clone(fl.Params); fl.Params == nil {
					fl.Params = map[string][]string{}
				}
				fl.Params[name] = of[i]
			})
		}
	}
	if clock {
		at := []time.Time{}
		for _, day := range []int{29, 30, 31} { // Friday to Sunday
			for _, hour := range []int{3 + 3, 14 + 3, 19 + 3} {
				at = append(at, time.Date(2026, 5, day, hour, 0, 0, 0, time.UTC))
			}
		}
		at = append(at, time.Date(2026, 5, 23, 12, 0, 0, 0, time.UTC), time.Date(2026, 5, 23, 18, 0, 0, 0, time.UTC),
			time.Date(2026, 6, 6, 12, 0, 0, 0, time.UTC), time.Date(2026, 6, 6, 18, 0, 0, 0, time.UTC))
		for _, day := range []int{1, 3} { // a Saturday and a Monday, so that days of 2008 are yet to come
			at = append(at, time.Date(2000, 1, day, 12, 0, 0, 0, time.UTC), time.Date(2000, 1, day, 18, 0, 0, 0, time.UTC))
		}
		multiply(len(at), func(fl *engine.Filling, i int) { fl.At = at[i] })
	}
	return out, len(out) > 0
}

// question is one of a form, or a section of rows, with the answers that are tried.
type question struct {
	key     string
	answers []any
}

// asked are the questions of all editions.
func asked(editions []*form.Form) (out []question) {
	at := map[string]int{}
	add := func(key string, of []any) {
		if i, ok := at[key]; ok {
			out[i].answers = union(out[i].answers, of)
			return
		}
		at[key] = len(out)
		out = append(out, question{key, of})
	}
	rows := map[string][]*form.Section{}
	for _, f := range editions {
		for _, p := range f.Pages {
			for _, s := range p.Sections {
				if s.Repeat != nil {
					rows[s.Key] = append(rows[s.Key], s)
					continue
				}
				for _, it := range s.Items {
					add(it.Key, answers(it))
				}
			}
		}
	}
	for _, key := range slices.Sorted(maps.Keys(rows)) {
		add(key, rowsOf(rows[key]))
	}
	return out
}

func union(a, b []any) []any {
	out := slices.Clone(a)
	for _, v := range b {
		if !slices.ContainsFunc(out, func(o any) bool { return reflect.DeepEqual(o, v) }) {
			out = append(out, v)
		}
	}
	return out
}

// rowsOf are the fillings of a section of at most two rows.
func rowsOf(editions []*form.Section) (out []any) {
	var one []any
	of := [2][]any{}
	for _, s := range editions {
		for i := range of {
			of[i] = union(of[i], answers(s.Items[i]))
		}
	}
	items := editions[0].Items
	for _, seat := range of[0] {
		for _, cox := range of[1] {
			row := map[string]any{}
			if seat != any(untouched{}) {
				row[items[0].Key] = seat
			}
			if cox != any(untouched{}) {
				row[items[1].Key] = cox
			}
			one = append(one, row)
		}
	}
	out = append(out, []any{})
	for _, a := range one {
		out = append(out, []any{a})
		for _, b := range one {
			out = append(out, []any{a, b})
		}
	}
	return out
}

func usesClock(f *form.Form) bool {
	for _, tie := range f.AllTies() {
		for _, word := range []string{"today", "now ", "weekday =", "time ", "age("} {
			if strings.Contains(tie.Expr, word) {
				return true
			}
		}
	}
	return false
}

func TestDrawnFormsAreSound(t *testing.T) {
	sound, drawn := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		drawn++
		if p, _ := engine.Compile(drawForm(t)); p != nil {
			sound++
		}
	})
	if sound < drawn/2 {
		t.Errorf("only %d of %d forms could be compiled", sound, drawn)
	}
}
