package author_test

import (
	"fmt"
	"time"

	"lazo/core/author"
	"lazo/core/form"
)

func ExampleTieThese() {
	f, _ := form.Read([]byte(`{"lazo": 1, "key": "entry", "title": "Entry", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "trailer", "type": "number", "label": "Trailer"}, {"key": "escort", "type": "text", "label": "Escort"}]}]}]}`))
	d, err := author.TieThese{Effect: "shown", Keys: []string{"escort"}, Subject: "Trailer", Op: ">=",
		Values: []string{"12"}}.Do(f, time.Now())
	after, _, _ := form.Apply(f, d.Edit)
	fmt.Println(after.Expr("escort", "shown"), err)
	// Output: trailer >= 12 <nil>
}
