package form_test

import (
	"fmt"

	"lazo/core/form"
)

func ExampleRead() {
	_, remarks := form.Read([]byte(`{"lazo": 1, "key": "entry", "title": "Entry", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "length", "type": "numbr", "label": "Length"}]}]}]}`))
	fmt.Println(remarks[0].Text)
	// Output: there is no type “numbr”; did you mean number?
}

// Every edit comes with the edit that takes it back.
func ExampleApply() {
	f, _ := form.Read([]byte(`{"lazo": 1, "key": "entry", "title": "Entry", "pages": [{"key": "p", "sections": [{"key": "s", "items": []}]}]}`))
	after, inverse, _ := form.Apply(f, form.SetProperty("", "title", "Crew entry"))
	back, _, _ := form.Apply(after, inverse)
	fmt.Println(after.Title, "·", back.Title)
	for _, c := range form.Diff(f, after) {
		fmt.Println(c.Text)
	}
	// Output:
	// Crew entry · Entry
	// Crew entry: the title was “Entry”, is now “Crew entry”
}
