package form_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/expr"
	"lazo/core/form"
)

const season = `{"lazo": 1, "key": "t", "title": "T", "timezone": "America/Montevideo", "opening": {"from": "2026-03-01T09:00", "until": "2026-05-30T18:00", "shown": "today >= 2026-01-10"},
 "returning": {"change": true, "until": "2026-05-01T12:00"}, "ends": [{"when": "length_m > 9", "text": "long"}, {"when": "boat = \"y\"", "text": "y"}], "pages": [
 {"key": "p", "title": "P", "next": [{"when": "boat = \"x\"", "page": "q"}], "sections": [
  {"key": "s", "title": "S", "items": [
   {"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "x"}, {"value": "y", "withheld": "length_m > 2"}]},
   {"key": "length_m", "type": "number", "label": "Length", "shown": "boat = \"x\"", "required": true},
   {"key": "escort", "type": "text", "label": "Escort", "shown": "length_m >= 12 and boat is answered", "checks": [{"ok": "length(escort) > 2 or length_m < 20", "message": "m"}]}]},
  {"key": "rowers", "title": "Rowers", "repeat": {"max": 4, "rows": "length_m"}, "items": [
   {"key": "born", "type": "date", "label": "Born", "max": "2026-05-01", "checks": [{"ok": "age(born, 2026-05-30) >= 12", "message": "m"}]},
   {"key": "guardian", "type": "text", "label": "Guardian", "shown": "age(born, 2026-05-30) < 18"}]}]},
 {"key": "q", "title": "Q", "sections": [{"key": "r", "items": [
   {"key": "minors", "type": "note", "label": "M", "shown": "any(rowers, age(born) < 18) or now >= 2026-05-10T18:00"},
   {"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "count(rowers) * length_m"}}]}]}]}`

func apply(t *testing.T, f *form.Form, e form.Edit, err error) *form.Form {
	t.Helper()
	require.NoError(t, err)
	out, back, err := form.Apply(f, e)
	require.NoError(t, err)
	again, _, err := form.Apply(out, back)
	require.NoError(t, err)
	require.Equal(t, string(f.JSON()), string(again.JSON()), "the inverse takes it back")
	return out
}

func TestTiesInsideACopyPointInsideIt(t *testing.T) {
	f := read(t, season)
	e, key, err := f.CopyOf("s")
	out := apply(t, f, e, err)
	assert.Equal(t, "s_2", key)
	_, s := out.Section("s_2")
	require.NotNil(t, s)
	assert.Equal(t, `boat_2 = "x"`, s.Items[1].Shown.Expr)
	assert.Equal(t, `length_m_2 >= 12 and boat_2 is answered`, s.Items[2].Shown.Expr)
	assert.Equal(t, `length_m_2 > 2`, s.Items[0].Choices[1].Withheld.Expr)
	assert.Equal(t, `length_m >= 12 and boat is answered`, f.Expr("escort", "shown"), "the original stays")

	e, key, err = f.CopyOf("rowers")
	out = apply(t, f, e, err)
	assert.Equal(t, "rowers_2", key)
	assert.Equal(t, `age(born_2, 2026-05-30) < 18`, out.Expr("guardian_2", "shown"))
	assert.Equal(t, `length_m`, out.Expr("rowers_2", "repeat.rows"), "what points outside goes on pointing there")

	e, key, err = f.CopyOf("escort")
	out = apply(t, f, e, err)
	assert.Equal(t, "escort_2", key)
	assert.Equal(t, `length(escort_2) > 2 or length_m < 20`, out.Expr("escort_2", "checks.0.ok"))

	e, key, err = f.CopyOf("p")
	out = apply(t, f, e, err)
	assert.Equal(t, "p_2", key)
	assert.Equal(t, `boat_2 = "x"`, out.Expr("p_2", "next.0.when"))
	assert.Equal(t, []string{"p", "p_2", "q"}, []string{out.Pages[0].Key, out.Pages[1].Key, out.Pages[2].Key})
}

func TestAKeptSectionIsFitted(t *testing.T) {
	f := read(t, season)
	_, s := f.Section("s")
	kept, err := form.ReadSection(s.JSON())
	require.NoError(t, err)
	e, key, err := f.Insert(kept, "q")
	out := apply(t, f, e, err)
	assert.Equal(t, "s_2", key)
	assert.Equal(t, `boat_2 = "x"`, out.Expr("length_m_2", "shown"))
	empty, _ := form.Read(
		[]byte(`{"lazo": 1, "key": "e", "title": "E", "timezone": "UTC", "pages": [{"key": "one", "title": "One", "sections": []}]}`),
	)
	e, key, err = empty.Insert(kept, "one")
	out = apply(t, empty, e, err)
	assert.Equal(t, "s", key)
	assert.Equal(t, `boat = "x"`, out.Expr("length_m", "shown"), "a free key stays")
	_, _, err = empty.Insert(kept, "none")
	assert.ErrorIs(t, err, form.ErrEdit)
}

func TestWhatDependsOnWhatWouldBeDeleted(t *testing.T) {
	f := read(t, season)
	for key, want := range map[string][]string{
		"length_m": {".ends.0.when", "boat.choices.1.withheld", "escort.shown", "escort.checks.0.ok", "rowers.repeat.rows",
			"fee.value.is"},
		"s":       {".ends.0.when", ".ends.1.when", "p.next.0.when", "rowers.repeat.rows", "fee.value.is"},
		"rowers":  {"minors.shown", "fee.value.is"},
		"q":       {"p.next.0.when"},
		"fee":     nil,
		"nothing": nil,
	} {
		var got []string
		for _, tie := range f.Dependents(key) {
			got = append(got, tie.Owner+"."+tie.Property)
		}
		assert.Equal(t, want, got, key)
	}
}

func TestDeletingWithItsTies(t *testing.T) {
	f := read(t, season)
	e, err := f.Delete("length_m", true)
	out := apply(t, f, e, err)
	assert.Equal(t, `boat is answered`, out.Expr("escort", "shown"))
	assert.Equal(t, `length(escort) > 2`, out.Expr("escort", "checks.0.ok"))
	assert.Empty(t, out.Expr("fee", "value.is"), "a value that names it goes whole")
	assert.Empty(t, out.Expr("rowers", "repeat.rows"))
	assert.Empty(t, out.Expr("boat", "choices.1.withheld"))
	require.Len(t, out.Ends, 1, "a closing text for the answer goes")
	assert.Equal(t, "y", out.Ends[0].Text)
	e, err = f.Delete("length_m", false)
	out = apply(t, f, e, err)
	assert.Equal(t, `length_m >= 12 and boat is answered`, out.Expr("escort", "shown"))
	e, err = f.Delete("rowers", true)
	out = apply(t, f, e, err)
	assert.Equal(t, `now >= 2026-05-10T18:00`, out.Expr("minors", "shown"))
	e, err = f.Delete("q", true)
	out = apply(t, f, e, err)
	assert.Empty(t, out.Pages[0].Next, "no route leads to a page that is gone")
	_, err = f.Delete("nothing", true)
	assert.ErrorIs(t, err, form.ErrEdit)
}

func TestEveryTieCanBeSetAndTakenAway(t *testing.T) {
	f := read(t, season)
	for _, tie := range f.AllTies() {
		e, err := f.SetTie(tie.Owner, tie.Property, "1 = 1")
		out := apply(t, f, e, err)
		assert.Equal(t, "1 = 1", out.Expr(tie.Owner, tie.Property), "%s.%s", tie.Owner, tie.Property)
		e, err = f.SetTie(tie.Owner, tie.Property, "")
		out = apply(t, f, e, err)
		assert.NotEqual(t, tie.Expr, out.Expr(tie.Owner, tie.Property), "%s.%s", tie.Owner, tie.Property)
		assert.Len(t, out.AllTies(), len(f.AllTies())-1, "%s.%s and no other", tie.Owner, tie.Property)
	}
	_, err := f.SetTie("boat", "colour", "yes")
	assert.ErrorIs(t, err, form.ErrEdit)
	_, err = f.SetTie("boat", "checks.3.ok", "yes")
	assert.ErrorIs(t, err, form.ErrEdit)
}

func TestANewSeasonMovesEveryDate(t *testing.T) {
	f := read(t, season)
	assert.Len(t, f.Dates(), 5)
	next := form.NewSeason(f, func(d expr.Day) expr.Day { return d + 364 })
	assert.Equal(t, "2027-04-30T12:00", next.Returning.Until)
	assert.Equal(t, "today >= 2027-01-09", next.Opening.Shown.Expr)
	assert.Equal(t, "2027-02-28T09:00", next.Opening.From)
	assert.Equal(t, "2027-05-29T18:00", next.Opening.Until)
	assert.Equal(t, `age(born, 2027-05-29) < 18`, next.Expr("guardian", "shown"))
	assert.Equal(t, `any(rowers, age(born) < 18) or now >= 2027-05-09T18:00`, next.Expr("minors", "shown"))
	p, _ := next.Find("born")
	assert.Equal(t, "2027-04-30", p.Item.Max.Text)
	assert.Equal(t, "2026-03-01T09:00", f.Opening.From, "last season's form stays")
}

func TestWhatIsTiedToAQuestion(t *testing.T) {
	f := read(t, season)
	keys := func(all []form.Tied) (out []string) {
		for _, t := range all {
			out = append(out, t.Key+"<"+t.Through)
		}
		return out
	}
	assert.Equal(t, []string{"length_m<", "boat<"}, keys(f.Graph().Needs("escort")))
	assert.ElementsMatch(t, []string{"boat<", "escort<", "rowers<", "fee<", "p<boat", "minors<rowers"},
		keys(f.Graph().Drives("length_m")))
	assert.Empty(t, f.Graph().Drives("fee"))
}

func TestEditsThatCollide(t *testing.T) {
	label, help := form.SetProperty("boat", "label", "x"), form.SetProperty("boat", "help", "x")
	remove, other := form.Edit{Op: form.RemoveItem, Key: "boat"}, form.SetProperty("boats", "label", "x")
	assert.True(t, form.Collide(label.Touches(), label.Touches()))
	assert.False(t, form.Collide(label.Touches(), help.Touches()))
	assert.True(t, form.Collide(label.Touches(), remove.Touches()))
	assert.False(t, form.Collide(other.Touches(), remove.Touches()))
	assert.True(t, form.Collide(form.Edit{Op: form.Replace}.Touches(), label.Touches()))
	assert.True(t, form.Collide(form.Edit{Op: form.Batch, Edits: []form.Edit{help, remove}}.Touches(), label.Touches()))
	assert.False(t, form.Collide(form.SetProperty("", "title", "x").Touches(), label.Touches()))
}

func TestDifferencesOfChoicesAndConditions(t *testing.T) {
	f := read(t, season)
	changed := f.Clone()
	p, _ := changed.Find("boat")
	p.Item.Choices = []form.Choice{{Value: "x", Label: "Ex", Offered: form.When("length_m > 1")}, {Value: "z"}}
	escort, _ := changed.Find("escort")
	escort.Item.Checks = []form.Check{{OK: "length_m < 30", Message: "m"}}
	born, _ := changed.Find("born")
	born.Item.Checks[0].Message = "Too young"
	born.Item.Wording = []form.Wording{{When: "row_number = 1", Label: "Your own date of birth"}}
	changed.Pages[0].Next = nil
	var got []string
	for _, c := range form.Diff(f, changed) {
		got = append(got, c.Text)
	}
	assert.Equal(t, []string{
		"page P: no longer goes on elsewhere when Boat is Ex", "Boat: the choice “x” is now called “Ex”",
		"Boat: the choice “Ex” is now offered when Length is over 1", "Boat: the choice “z” added",
		"Boat: the choice “y” taken out", "Escort: now accepted only when Length is under 30",
		"Escort: no longer checked whether the length of Escort is over 2 or Length is under 20",
		"Born: other words for when it is accepted only when the age on 30 May 2026 counted from Born is at least 12",
		"Born: now worded otherwise when the row’s number is 1",
	}, got)
}

func TestDifferencesOfListsPlacesAndGrids(t *testing.T) {
	f := read(t, `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "lists": {"p": [{"code": "a"}]}, "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "g", "type": "grid", "label": "Grid", "rows": [{"key": "a", "label": "A"}], "choices": [{"value": "x"}]},
		{"key": "c", "type": "choice", "label": "Pier", "choices": [{"value": "x"}, {"value": "y"}]},
		{"key": "sc", "type": "scale", "label": "Scale"}, {"key": "n", "type": "number", "label": "Length"}]}]}]}`)
	for _, c := range []struct {
		key, property string
		value         any
		says          []string
	}{
		{"g", "rows", []form.GridRow{{Key: "a", Label: "A"}, {Key: "b", Label: "B"}}, []string{"Grid: the row “B” added"}},
		{"g", "rows", []form.GridRow{{Key: "a", Label: "A", Shown: form.When("n > 3")}},
			[]string{"Grid: the row “A” is now shown when Length is over 3"}},
		{"g", "many", true, []string{"Grid: now several choices in each row"}},
		{"c", "places", 3, []string{"Pier: now 3 places for each choice"}},
		{"c", "choices", []form.Choice{{Value: "x", Other: true}, {Value: "y", Places: form.BoundOf(3)}},
			[]string{"Pier: the choice “x” now brings a text of its own", "Pier: the choice “y” now has 3 places"}},
		{"sc", "low", "bad", []string{"Scale: the words at the least is now “bad”"}},
		{"n", "min", "sc + 1", []string{"Length: the least is now Scale + 1"}},
		{"c", "choices_from", form.ChoicesFrom{List: "p", Value: "code", Where: "entry.code = n"},
			[]string{"Pier: choices now from the list p, those where the entry’s code is Length"}},
	} {
		after, _, err := form.Apply(f, form.SetProperty(c.key, c.property, c.value))
		require.NoError(t, err, c.property)
		var says []string
		for _, change := range form.Diff(f, after) {
			says = append(says, change.Text)
		}
		assert.Equal(t, c.says, says, c.property)
	}
}
