package sheet_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/core/sheet"
	"lazo/demo"
)

var start = time.Date(2026, 2, 1, 12, 0, 0, 0, time.UTC)

func forms() []*form.Form {
	out := []*form.Form{demo.CrewEntry(start), demo.ShoreCrew(start), demo.LakeBulletin(), demo.MooringRequest(start)}
	for _, s := range demo.Samples(start) {
		out = append(out, s.Form)
	}
	return out
}

// sent are sheets as a spreadsheet program gives them back.
func sent(t *testing.T, sheets []exchange.Sheet) []exchange.Sheet {
	data, err := exchange.WriteXLSX(sheets)
	require.NoError(t, err)
	back, err := exchange.ReadSheets(data)
	require.NoError(t, err)
	return back
}

// What goes out comes back as no change at all, with ties in the language or as sentences.
func TestWhatGoesOutComesBack(t *testing.T) {
	for _, f := range forms() {
		for _, sentences := range []bool{false, true} {
			got := sheet.Read(sent(t, sheet.Write(f, sentences)), f, true)
			assert.Empty(t, got.Faults, f.Key)
			assert.Empty(t, got.Edit.Edits, f.Key)
			assert.Empty(t, got.Absent, f.Key)
		}
	}
}

// A form that is written anew from its sheets has all that their columns hold.
func TestAFormIsMadeOfItsSheets(t *testing.T) {
	for _, f := range forms() {
		fresh := &form.Form{Lazo: 1, Key: f.Key, Title: f.Title, Timezone: f.Timezone, Language: f.Language,
			Parameters: f.Parameters, Lists: f.Lists}
		for p := range f.Places() { // what no column holds
			if p.Item.ChoicesFrom != nil || p.Section.Repeat != nil {
				fresh = nil
				break
			}
		}
		if fresh == nil {
			continue
		}
		cells := sheet.Write(f, true)[:1]
		got := sheet.Read(cells, fresh, false)
		require.Empty(t, got.Faults, f.Key)
		again := sheet.Write(got.Form, true)[0].Cells
		for i, row := range cells[0].Cells {
			assert.Equal(t, row[3:], again[i][3:], "%s, line %d", f.Key, i+1)
		}
		p, remarks := engine.Compile(got.Form)
		require.NotNil(t, p, "%v", remarks)
	}
}

// change writes a text into a cell, found by the row's key and the column's title.
func change(cells [][]string, key, title, text string) {
	for c, name := range cells[0] {
		for r := range cells[1:] {
			if name == title && cells[r+1][0] == key {
				cells[r+1][c] = text
			}
		}
	}
}

func TestChangesInASheetBecomeEdits(t *testing.T) {
	f := demo.CrewEntry(start)
	sheets := sheet.Write(f, true)
	cells := sheets[0].Cells
	for i := range cells[1:] { // fifty labels or as many as there are
		cells[i+1][3] += ", please"
	}
	change(cells, "cox_name", "Shown when", "Boat class, please is Eight")
	change(cells, "escort", "Required", "trailer > 13")
	change(cells, "photos", "Type", "tick box")
	change(cells, "boat_class", "Choices", "single = One seat\ndouble = Double\nCoxed four\nA new one\neight = Eight")
	change(cells, "trailer", "Greatest", "30")
	change(cells, "swim", "Section", "A new section")
	sheets[0].Cells = append(cells, []string{"", "", "", "Anything else?", "", "Only if you like"})
	got := sheet.Read(sheets, f, false)
	require.Empty(t, got.Faults)
	after, back, err := form.Apply(f, got.Edit)
	require.NoError(t, err)
	assert.JSONEq(t, string(got.Form.JSON()), string(after.JSON()))
	undone, _, err := form.Apply(after, back)
	require.NoError(t, err)
	assert.JSONEq(t, string(f.JSON()), string(undone.JSON()), "it is undone as one")

	item := func(key string) *form.Item {
		p, ok := after.Find(key)
		require.True(t, ok, key)
		return p.Item
	}
	assert.Equal(t, `boat_class = "eight"`, item("cox_name").Shown.Expr)
	assert.Equal(t, "trailer > 13", item("escort").Required.Expr)
	assert.Equal(t, form.Tick, item("photos").Type)
	assert.Equal(t, "30", item("trailer").Max.String())
	choices := item("boat_class").Choices
	require.Len(t, choices, 5)
	assert.Equal(t, "One seat", choices[0].Label)
	assert.Equal(t, "a_new_one", choices[3].Value)
	assert.False(t, choices[4].Withheld.IsZero(), "what no column holds stays")
	fresh := item("anything_else")
	assert.Equal(t, form.Paragraph, fresh.Type, "its type is guessed from its words")
	_, sec := after.Section("a_new_section")
	require.NotNil(t, sec)
	assert.Equal(t, "swim", sec.Items[0].Key)
	assert.Equal(t, f.Opening, after.Opening)
}

func TestQuestionsThatAreNotInTheSheet(t *testing.T) {
	f := demo.CrewEntry(start)
	sheets := sheet.Write(f, false)
	sheets[0].Cells = append(sheets[0].Cells[:1:1], sheets[0].Cells[2:]...)
	got := sheet.Read(sheets, f, false)
	assert.Empty(t, got.Edit.Edits)
	assert.Equal(t, []string{"boat_class"}, got.Absent)
	got = sheet.Read(sheets, f, true)
	require.NotEmpty(t, got.Edit.Edits)
	assert.False(t, got.Form.Keys()["boat_class"])
	p, remarks := engine.Compile(got.Form)
	require.NotNil(t, p, "nothing is left that names it: %v", remarks)
}

func TestRowsAreMoved(t *testing.T) {
	f := demo.LakeBulletin()
	sheets := sheet.Write(f, false)
	c := sheets[0].Cells
	c[1], c[2], c[3] = c[3], c[1], c[2]
	got := sheet.Read(sheets, f, false)
	require.Empty(t, got.Faults)
	var keys []string
	for p := range got.Form.Places() {
		keys = append(keys, p.Item.Key)
	}
	assert.Equal(t, []string{"topics", "email", "first_name", "training_level", "source"}, keys)
}

func TestEachFaultIsAtItsCell(t *testing.T) {
	for name, c := range map[string]struct {
		cells [][]string
		says  string
	}{
		"nothing":           {nil, "A1: there is nothing here"},
		"no words":          {[][]string{{"Key", "Type"}}, "A1: the column “Question” is missing"},
		"an unknown column": {[][]string{{"Question", "Typ"}}, "B1: there is no column “Typ”; did you mean “Type”?"},
		"a column twice":    {[][]string{{"Question", "Help", "help"}}, "C1: two columns are called “help”"},
		"an unknown type": {[][]string{{"Question", "Type"}, {"A", "short txt"}},
			"B2: there is no type “short txt”; did you mean “short text”?"},
		"a key that is none": {[][]string{{"Question", "Key"}, {"A", "Big Key"}}, "B2: a key is made of"},
		"a key twice": {[][]string{{"Question", "Key"}, {"A", "a"}, {"B", "a"}},
			"B3: the key “a” stands in line 2 already"},
		"no question": {[][]string{{"Question", "Key"}, {"", "a"}}, "A2: a question needs its words"},
		"a tie to nothing": {[][]string{{"Question", "Shown when"}, {"A", `colour = "red"`}},
			"B2: neither the language nor a sentence"},
		"a tie that is no tie": {[][]string{{"Question", "Required"}, {"A", "perhaps"}},
			"B2: neither the language nor a sentence"},
		"a property it has not": {[][]string{{"Question", "Type", "Least"}, {"A", "tick box", "3"}},
			"C2: a question of the type “tick box” has no “Least”"},
		"a circle": {[][]string{{"Key", "Question", "Shown when"}, {"a", "A", "b is answered"}, {"b", "B", "a is answered"}},
			"C2: "},
		"a value that says not how": {[][]string{{"Question", "Value"}, {"A", "today"}}, "B2: a value begins with"},
		"a message first": {[][]string{{"Question", "Check"}, {"A", "– No!"}},
			"B2: a condition comes before its message"},
		"a choice twice": {[][]string{{"Question", "Type", "Choices"}, {"A", "one choice", "x\nx"}},
			"C2: the choice “x” stands there twice"},
	} {
		got := sheet.Read([]exchange.Sheet{{Name: sheet.Questions, Cells: c.cells}},
			&form.Form{Lazo: 1, Key: "t", Timezone: "UTC"}, false)
		require.NotEmpty(t, got.Faults, name)
		assert.Contains(t, got.Faults[0].String(), "Questions, "+c.says, name)
	}
}

func TestTranslationsComeBackFromTheirSheets(t *testing.T) {
	f := demo.LakeBulletin()
	sheets := sheet.Write(f, false)
	require.Equal(t, []string{"Questions", "Pages and sections", "ar", "es"}, names(sheets))
	es := sheets[3].Cells
	for i := range es {
		switch es[i][1] {
		case "First name":
			es[i][2] = "Nombre de pila"
		case "Results":
			es[i][2] = ""
		}
	}
	got := sheet.Read(sent(t, sheets), f, false)
	require.Empty(t, got.Faults)
	assert.Equal(t, "Nombre de pila", got.Form.Translations["es"]["First name"])
	assert.NotContains(t, got.Form.Translations["es"], "Results")
	assert.Equal(t, f.Translations["ar"], got.Form.Translations["ar"])
	sheets[3].Cells = append(es, []string{"", "What nobody says", "Lo que nadie dice"})
	got = sheet.Read(sheets, f, false)
	require.Len(t, got.Faults, 1)
	assert.Contains(t, got.Faults[0].String(), fmt.Sprintf("es, B%d: the form does not say this", len(es)+1))
}

func names(sheets []exchange.Sheet) []string {
	var out []string
	for _, s := range sheets {
		out = append(out, s.Name)
	}
	return out
}

// A form of a thousand rows is read at once.
func BenchmarkReadAThousandQuestions(b *testing.B) {
	cells := [][]string{{"Page", "Section", "Question", "Type", "Shown when"}}
	for i := range 1000 {
		shown := ""
		if i > 0 {
			shown = fmt.Sprintf("Question %d is answered", i-1)
		}
		cells = append(cells, []string{fmt.Sprint("Page ", i/100), fmt.Sprint("Section ", i/20),
			fmt.Sprintf("Question %d", i), "number", shown})
	}
	for b.Loop() {
		got := sheet.Read([]exchange.Sheet{{Cells: cells}}, &form.Form{Lazo: 1, Key: "t", Timezone: "UTC"}, false)
		if len(got.Faults) > 0 {
			b.Fatal(got.Faults[0])
		}
	}
}
