package form_test

import (
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
)

const crew = `{"lazo": 1, "key": "crew", "title": "Crew", "timezone": "UTC", "pages": [{"key": "p", "title": "P", "sections": [
 {"key": "s", "items": [
  {"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "four", "label": "Coxed four"}, {"value": "eight", "label": "Eight"}]},
  {"key": "cox", "type": "text", "label": "Cox’s name", "shown": "boat  is answered"}]},
 {"key": "rowers", "repeat": {"min": 1, "max": 8, "rows": "if(boat = \"eight\", 8, 4)"}, "items": [{"key": "born", "type": "date", "label": "Born", "checks": [{"ok": "age(born) > 12", "message": "Too young"}]}]},
 {"key": "t", "items": [{"key": "oldest", "type": "calculation", "label": "Oldest", "value": {"is": "min(rowers.born)"}}]}]}]}`

func read(t *testing.T, src string) *form.Form {
	f, remarks := form.Read([]byte(src))
	require.Empty(t, remarks)
	return f
}

func TestEveryEditHasItsInverse(t *testing.T) {
	f := read(t, crew)
	for name, e := range map[string]form.Edit{
		"set":             form.SetProperty("cox", "required", form.When(`boat = "eight"`)),
		"set away":        form.SetProperty("cox", "shown", nil),
		"set the form's":  form.SetProperty("", "title", "Crews"),
		"add item":        {Op: form.AddItem, Into: "s", Index: 1, Item: &form.Item{Key: "x", Type: form.Text, Label: "X"}},
		"remove item":     {Op: form.RemoveItem, Key: "boat"},
		"move item":       {Op: form.MoveItem, Key: "boat", Into: "rowers", Index: 1},
		"add section":     {Op: form.AddSection, Into: "p", Index: 0, Section: &form.Section{Key: "n"}},
		"remove section":  {Op: form.RemoveSection, Key: "rowers"},
		"move section":    {Op: form.MoveSection, Key: "t", Into: "p", Index: 0},
		"add page":        {Op: form.AddPage, Index: 0, Page: &form.Page{Key: "n"}},
		"remove page":     {Op: form.RemovePage, Key: "p"},
		"rename question": {Op: form.RenameKey, Key: "born", To: "birth"},
		"rename section":  {Op: form.RenameKey, Key: "rowers", To: "crew"},
		"several": {Op: form.Batch,
			Edits: []form.Edit{{Op: form.RenameKey, Key: "boat", To: "hull"}, {Op: form.RemoveItem, Key: "cox"},
				form.SetProperty("hull", "help", "h")}},
		"replace": {Op: form.Replace, Form: &form.Form{Lazo: 1, Key: "n", Timezone: "UTC"}},
	} {
		changed, inverse, err := form.Apply(f, e)
		require.NoError(t, err, name)
		assert.NotEqual(t, string(f.JSON()), string(changed.JSON()), name)
		back, again, err := form.Apply(changed, inverse)
		require.NoError(t, err, name)
		assert.Equal(t, string(f.JSON()), string(back.JSON()), name)
		redone, _, err := form.Apply(back, again)
		require.NoError(t, err, name)
		assert.Equal(t, string(changed.JSON()), string(redone.JSON()), name)
	}
}

func TestEditsThatDoNotFitChangeNothing(t *testing.T) {
	f := read(t, crew)
	before := string(f.JSON())
	for _, e := range []form.Edit{
		{Op: "nonsense"}, {Op: form.RemoveItem, Key: "nobody"}, {Op: form.AddItem, Into: "s", Item: &form.Item{Key: "boat"}},
		{Op: form.RenameKey, Key: "boat", To: "today"}, {Op: form.RenameKey, Key: "boat", To: "No"},
		{Op: form.RenameKey, Key: "boat", To: "cox"},
		form.SetProperty("boat", "colour", "red"), form.SetProperty("boat", "required", 3),
		form.SetProperty("boat", "key", "x"),
	} {
		_, _, err := form.Apply(f, e)
		assert.ErrorIs(t, err, form.ErrEdit, "%+v", e)
	}
	assert.Equal(t, before, string(f.JSON()))
}

func TestRenamingReachesEveryExpression(t *testing.T) {
	f, _, err := form.Apply(read(t, crew), form.Edit{Op: form.RenameKey, Key: "born", To: "birth"})
	require.NoError(t, err)
	var all []string
	for _, tie := range f.AllTies() {
		all = append(all, tie.Expr)
	}
	assert.Equal(t, []string{"boat  is answered", `if(boat = "eight", 8, 4)`, "age(birth) > 12", "min(rowers.birth)"}, all)
}

func TestDifferencesInWords(t *testing.T) {
	f := read(t, crew)
	changed, _, err := form.Apply(f, form.Edit{Op: form.Batch, Edits: []form.Edit{
		form.SetProperty("cox", "required", form.When(`boat = "eight"`)), form.SetProperty("boat", "label", "Class"),
		{Op: form.RemoveItem, Key: "oldest"},
		{Op: form.AddItem, Into: "t", Item: &form.Item{Key: "n", Type: form.Note, Label: "Mind"}}}})
	require.NoError(t, err)
	var texts []string
	for _, c := range form.Diff(f, changed) {
		texts = append(texts, c.Text)
	}
	assert.ElementsMatch(
		t,
		[]string{
			"Cox’s name: now required when Class is Eight", "Class: the label was “Boat class”, is now “Class”",
			"Oldest: taken out", "Mind: new",
		},
		texts,
	)
	assert.Empty(t, form.Diff(f, f.Clone()))
}

// What changes in what goes out is said message by message.
func TestDifferencesOfWhatGoesOut(t *testing.T) {
	const base = `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "metres", "type": "number", "label": "Length"}, {"key": "email", "type": "email", "label": "Email"}, {"key": "race", "type": "date", "label": "First race"}]}]}]`
	before := read(t, base+`, "messages": [{"key": "long", "name": "Tell the harbour", "when": "metres >= 12", "to": ["harbour@pedralta.example"], "subject": "Long", "body": "x"},
		{"key": "gone", "to": ["{email}"], "subject": "Gone", "body": "x"}], "hooks": [{"key": "desk", "url": "https://desk.example/a"}]}`)
	after := read(t, base+`, "messages": [{"key": "long", "name": "Tell the harbour", "when": "metres >= 10", "to": ["harbour@pedralta.example", "{email}"],
			"subject": "Very long", "body": "y", "at": "race - 3 days", "again": true, "attach": ["response"]},
		{"key": "thanks", "to": ["{email}"], "subject": "Thank you", "body": "x"}],
		"hooks": [{"key": "desk", "url": "https://desk.example/b", "events": ["received"]}], "confirm": {"item": "email", "subject": "Is it you?", "body": "{confirm_link}"}}`)
	said := func(a, b *form.Form) (out []string) {
		for _, c := range form.Diff(a, b) {
			assert.Empty(t, c.Key, "it is of the form itself")
			out = append(out, c.Text)
		}
		return out
	}
	assert.Equal(t, []string{
		"“Tell the harbour”: now goes again after every change",
		"“Tell the harbour”: now goes at this time: 3 days before First race",
		"“Tell the harbour”: now goes with response", "“Tell the harbour”: its text changed",
		"“Tell the harbour”: the subject was “Long”, is now “Very long”",
		"“Tell the harbour”: now goes to harbour@pedralta.example, {email}",
		"“Tell the harbour”: now goes when Length is at least 10", "the message “thanks”: new",
		"the hook “desk”: now told of what is received",
		"the hook “desk”: the address was “https://desk.example/a”, is now “https://desk.example/b”",
		"confirming an address: new", "the message “gone”: taken out",
	}, said(before, after))
	assert.Contains(t, said(after, before), "“Tell the harbour”: now goes at once")
	assert.Empty(t, said(after, after.Clone()))
}

func TestEveryFaultOfAFileAtOnce(t *testing.T) {
	_, remarks := form.Read([]byte(`{"lazo": 2, "key": "Bad Key", "pages": [{"key": "no", "sections": [{"key": "s", "items": [
		{"key": "A", "type": "txt", "requierd": true, "shown": 3}, {"type": "text", "value": {"starts": "1", "is": "2"}}]}]}]}`))
	kinds := map[string]string{}
	for _, r := range remarks {
		kinds[r.At] = r.Kind
	}
	assert.Equal(
		t,
		map[string]string{
			"lazo": "wrong-type", "key": "syntax", "pages/no.key": "reserved-key",
			"pages/no/s/A.key": "syntax", "pages/no/s/A.type": "wrong-type",
			"pages/no/s/A.requierd": "unknown-property", "pages/no/s/A.shown": "wrong-type",
			"pages/no/s/#2.key": "missing", "pages/no/s/#2.value": "wrong-type",
		},
		kinds,
	)
	_, remarks = form.Read([]byte("{\n \"lazo\": 1,,}"))
	assert.Equal(t, "line 2, column 12", remarks[0].At)
}

// What an item holds beside its key and type is a property, and holds what its kind says.
func TestEveryFieldOfAnItemIsAProperty(t *testing.T) {
	var fields []string
	for i := range reflect.TypeFor[form.Item]().NumField() {
		key, _, _ := strings.Cut(reflect.TypeFor[form.Item]().Field(i).Tag.Get("json"), ",")
		fields = append(fields, key)
	}
	keys := []string{"key", "type"}
	for _, p := range form.Properties() {
		keys = append(keys, p.Key)
		value, has := p.ValueIn(&form.Item{Type: form.Text})
		assert.False(t, has, "%s of an item without any", p.Key)
		want := map[form.PropertyKind]any{form.AText: "", form.AWord: "", form.AYes: false, form.ANo: (*bool)(nil),
			form.ABound: (*form.Bound)(nil), form.APlaces: (*form.Bound)(nil), form.ACount: 0, form.AList: []string(nil),
			form.ATie: form.Rule{}}[p.Kind]
		if want != nil {
			assert.Equal(t, want, value, p.Key)
		}
		assert.False(t, p.Needs != "" && p.Goes == "", "%s: what not every type has is said to go", p.Key)
	}
	assert.ElementsMatch(t, fields, keys)
}
