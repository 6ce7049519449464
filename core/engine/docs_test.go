package engine_test

import (
	"net/url"
	"os"
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

var (
	documentedForm = regexp.MustCompile("(?s)```json\n(.*?)```")
	documentedCase = regexp.MustCompile("(?m)^\\| `(\\{.*\\})` \\| `(.+)` \\| (.+) \\|$")
)

// The worked examples in the authors' manual come out as it says.
func TestTheManualsExamplesHold(t *testing.T) {
	manual, err := os.ReadFile("../../docs/language.md")
	require.NoError(t, err)
	file := documentedForm.FindSubmatch(manual)
	require.NotNil(t, file)
	params, err := url.ParseQuery("club=North+Pier&days=sat,sun")
	require.NoError(t, err)
	cases := documentedCase.FindAllSubmatch(manual, -1)
	require.Greater(t, len(cases), 35)
	for _, c := range cases {
		f, remarks := form.Read(file[1])
		require.NotNil(t, f, remarks)
		sec := f.Pages[0].Sections[0]
		sec.Items = append(sec.Items,
			&form.Item{Key: "result", Type: form.Calculation, Label: "Result", Value: &form.Value{Is: string(c[2])}})
		p, remarks := engine.Compile(f)
		require.NotNil(t, p, "%s: %v", c[2], remarks)
		answers, err := engine.ParseAnswers(c[1])
		require.NoError(t, err, "%s", c[1])
		out := p.Run(engine.Input{Answers: p.Answers(answers), Params: params,
			At: time.Date(2026, 5, 10, 15, 0, 0, 0, time.UTC)})
		v := out.Value(out.State("result", 0), 0)
		got := v.Plain(p.Location())
		switch condition := p.Symbols.Items["result"].Type.Kind == expr.YesNo; {
		case condition && got == "yes":
			got = "met"
		case condition && got == "no":
			got = "not met"
		case condition:
			got = "undecided"
		case got == "":
			got = "blank"
		}
		require.Equal(t, string(c[3]), got, "%s with %s", c[2], c[1])
	}
}
