package engine_test

import (
	"fmt"
	"time"

	"lazo/core/engine"
	"lazo/core/form"
)

const exampleForm = `{"lazo": 1, "key": "entry", "title": "Entry", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
	{"key": "boat", "type": "choice", "label": "Boat class", "required": true, "choices": [{"value": "single"}, {"value": "eight"}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\"", "required": true},
	{"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "if(now >= 2026-06-01T00:00, 900, 600)"}}]}]}]}`

func ExampleProgram_Run() {
	p, _ := engine.Load([]byte(exampleForm))
	out := p.Run(engine.Input{
		Answers: p.Answers(map[string]any{"boat": "eight"}),
		At:      time.Date(2026, 5, 30, 12, 0, 0, 0, time.UTC),
	})
	fmt.Println(out.Accepted)
	for _, f := range out.Findings("p") {
		fmt.Println(f.Item.Key, f.Problem.Code)
	}
	// Output:
	// false
	// cox missing
}

func ExampleProgram_NextChange() {
	p, _ := engine.Load([]byte(exampleForm))
	next, ok := p.NextChange(engine.Input{At: time.Date(2026, 5, 30, 12, 0, 0, 0, time.UTC)})
	fmt.Println(next.Format(time.RFC3339), ok)
	// Output: 2026-06-01T00:00:00Z true
}

func ExampleCompile() {
	f, _ := form.Read([]byte(exampleForm))
	f.Pages[0].Sections[0].Items[1].Shown = form.When(`boat = "four"`)
	_, remarks := engine.Compile(f)
	fmt.Println(remarks[0].Text)
	// Output: at character 8: "four" is none of the choices of boat
}
