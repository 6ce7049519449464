package expr_test

import (
	"fmt"

	"lazo/core/expr"
	"lazo/core/form"
)

func rowing() *expr.Symbols {
	f, _ := form.Read([]byte(`{"lazo": 1, "key": "entry", "title": "Entry", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
		{"key": "length", "type": "number", "label": "Length"}]}]}]}`))
	return f.Symbols()
}

func ExampleParse() {
	n, err := expr.Parse(`boat="eight"   and length>=12.50`)
	fmt.Println(n, err)
	_, err = expr.Parse(`boat = "eight`)
	fmt.Println(err)
	// Output:
	// boat = "eight" and length >= 12.5 <nil>
	// this text has no closing quotation mark
}

func ExampleSymbols_Sentence() {
	n, _ := expr.Parse(`boat in ("single", "eight") and not length < 12`)
	fmt.Println(expr.PiecesText(rowing().Sentence(n)))
	// Output: Boat class is one of Single, Eight and Length is at least 12
}

func ExampleCompile() {
	n, _ := expr.Parse(`boat = "four"`)
	_, faults := expr.Compile(n, rowing())
	fmt.Println(faults[0].Text)
	// Output: "four" is none of the choices of boat
}

func ExampleSymbols_Complete() {
	_, list := rowing().Complete("len", 3)
	for _, c := range list {
		fmt.Println(c.Text, "–", c.Says)
	}
	// Output:
	// length – Length
	// length( – length(text), such as length(boat_name) > 12
}
