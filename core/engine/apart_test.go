package engine_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/view"
)

// The law of what is sensitive: wherever such an answer flows, by values that come by
// themselves, texts and letters, who may not see it does not see it, nor does it leave.
func TestWhatIsSensitiveStaysApart(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := drawForm(t)
		answers := drawAnswers(t, f, "answers")
		secrets := secretly(t, f, answers)
		f.Messages = append(f.Messages,
			form.Message{Key: "tells", To: []string{"harbour@pedralta.example"}, ReplyTo: said(t, f),
				Subject: "About " + said(t, f), Body: said(t, f)})
		p, remarks := engine.Compile(f)
		if p == nil || len(form.Errors(remarks)) > 0 {
			t.Skip("a form with errors")
		}
		params := map[string][]string{}
		out := p.Run(engine.Input{Answers: p.Answers(answers), Params: params, At: drawMoment(t, f),
			Apart: map[string]bool{}})
		var open []string
		for pl := range f.Places() {
			st := out.State(pl.Item.Key, 0)
			if st == nil {
				continue
			}
			label, help := st.Markdown()
			open = append(open, label, help)
			if v := out.Value(st, 0); !p.Sensitive(pl.Item.Key) {
				open = append(open, v.Plain(nil))
			}
		}
		for _, page := range f.Pages {
			open = append(open, out.Plain(page.Title))
		}
		open = append(open, letters(p, answers)...)
		mask := view.Mask(f.Sensitive())
		raw, err := json.Marshal(answers)
		require.NoError(t, err)
		kept, err := mask.WithoutMasked(raw)
		require.NoError(t, err)
		open = append(open, string(kept))
		for _, text := range open {
			for _, secret := range secrets {
				if strings.Contains(strings.ToLower(text), secret) {
					t.Fatalf("%s is told in %q of\n%s", secret, text, f.JSON())
				}
			}
		}
	})
}

// secretly makes some of a form's texts sensitive, answers them, and has others tell them on.
func secretly(t *rapid.T, f *form.Form, answers map[string]any) (secrets []string) {
	for pl := range f.Places() {
		it := pl.Item
		if it.Type == form.Text && pl.Section.Repeat == nil && it.Value == nil && rapid.Bool().Draw(t, "sensitive") {
			it.Sensitive, it.Pattern, it.MaxLength, it.MinLength = true, "", nil, nil
			secret := fmt.Sprintf("zqx%d@secret.example", len(secrets))
			secrets = append(secrets, secret)
			answers[it.Key] = secret
		}
	}
	for pl := range f.Places() {
		if pl.Section.Repeat == nil && rapid.IntRange(0, 2).Draw(t, "tells") == 0 {
			pl.Item.Label = "Of " + said(t, f)
		}
	}
	return secrets
}

// said is a text in which the answer to some question stands.
func said(t *rapid.T, f *form.Form) string {
	var keys []string
	for pl := range f.Places() {
		if pl.Section.Repeat == nil && pl.Item.Asked() {
			keys = append(keys, pl.Item.Key)
		}
	}
	if len(keys) == 0 {
		return "nothing"
	}
	return "{" + rapid.SampledFrom(keys).Draw(t, "said") + "}"
}

// letters are all that would go out, but for whom to.
func letters(p *engine.Program, answers map[string]any) (out []string) {
	o := p.Run(engine.Input{Answers: p.Answers(answers)})
	o.Accepted = true
	for _, l := range o.Letters() {
		out = append(out, l.Subject, l.Body, l.ReplyTo)
	}
	return out
}
