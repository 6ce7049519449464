package engine_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/expr-lang/expr"

	"lazo/core/engine"
	"lazo/core/form"
)

// shape is the size of a form to be made for a benchmark.
type shape struct {
	questions, ties int  // ties per question
	chain           bool // each question is shown by the one before
	clock           int  // one tie in so many reads the clock; 0 for none
}

// made is a form of that shape, its conditions, and full answers to it.
func made(s shape) (f *form.Form, conditions []string, answers map[string]any) {
	f = &form.Form{Lazo: 1, Key: "bench", Title: "Bench", Timezone: "America/Montevideo"}
	answers = map[string]any{}
	sec := &form.Section{Key: "s"}
	for i := range s.questions {
		it := &form.Item{Key: fmt.Sprintf("q%d", i), Label: "Question", Type: form.Number}
		answers[it.Key] = fmt.Sprint(i % 10)
		if i%2 == 1 {
			it.Type = form.ChoiceType
			it.Choices = []form.Choice{{Value: "a"}, {Value: "b"}, {Value: "c"}}
			answers[it.Key] = "b"
		}
		for n := range s.ties {
			num, pick := (i*7+n*13)%max(i, 1)&^1, (i*5+n*11)%max(i, 1)|1
			cond := fmt.Sprintf(`q%d >= %d or q%d = "b"`, num, n, pick)
			if i < 2 {
				cond = `mode = "new"`
			}
			if s.chain && i > 0 {
				cond = fmt.Sprintf("q%d is answered", i-1)
			}
			if s.clock > 0 && (i*s.ties+n)%s.clock == 0 {
				cond = "now >= 2026-01-01T00:00"
			}
			conditions = append(conditions, cond)
			switch n {
			case 0:
				it.Shown = form.When(cond)
			case 1:
				it.Required = form.When(cond)
			default:
				it.Checks = append(it.Checks, form.Check{OK: cond, Message: "no"})
			}
		}
		sec.Items = append(sec.Items, it)
	}
	f.Pages = []*form.Page{{Key: "p", Sections: []*form.Section{sec}}}
	return f, conditions, answers
}

var benchMoment = time.Date(2026, 5, 10, 12, 0, 0, 0, time.UTC)

func ready(b testing.TB, s shape) (*engine.Program, engine.Input) {
	f, _, answers := made(s)
	p, remarks := engine.Compile(f)
	if p == nil {
		b.Fatal(form.Errors(remarks)[0])
	}
	return p, engine.Input{Answers: p.Answers(answers), At: benchMoment}
}

func BenchmarkRun(b *testing.B) {
	for _, n := range []int{100, 1000, 10_000} {
		p, in := ready(b, shape{questions: n, ties: 3})
		b.Run(fmt.Sprintf("questions=%d", n), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				p.Run(in)
			}
		})
	}
	p, in := ready(b, shape{questions: 5000, ties: 1, chain: true})
	b.Run("chain=5000", func(b *testing.B) {
		for b.Loop() {
			p.Run(in)
		}
	})
	p, in = ready(b, shape{questions: 1000, ties: 3, clock: 10})
	b.Run("clock=10%", func(b *testing.B) {
		for b.Loop() {
			p.Run(in)
		}
	})
}

// BenchmarkOtherLibrary evaluates the same 3,000 conditions, compiled, with a
// general-purpose expression library, and nothing else of what a run does.
func BenchmarkOtherLibrary(b *testing.B) {
	type program = func() bool
	env := map[string]any{"mode": "new"}
	var runs []program
	for i := range 1000 {
		env[fmt.Sprintf("q%d", i)] = float64(i % 10)
		if i%2 == 1 {
			env[fmt.Sprintf("q%d", i)] = "b"
		}
	}
	for i := range 1000 {
		for n := range 3 {
			num, pick := (i*7+n*13)%max(i, 1)&^1, (i*5+n*11)%max(i, 1)|1
			src := fmt.Sprintf(`q%d >= %d or q%d == "b"`, num, n, pick)
			if i < 2 {
				src = `mode == "new"`
			}
			code, err := expr.Compile(src, expr.Env(env), expr.AsBool())
			if err != nil {
				b.Fatal(err)
			}
			runs = append(runs, func() bool {
				out, err := expr.Run(code, env)
				return err == nil && out.(bool)
			})
		}
	}
	b.ReportAllocs()
	for b.Loop() {
		for _, run := range runs {
			run()
		}
	}
}

func BenchmarkCompile(b *testing.B) {
	f, _, _ := made(shape{questions: 1000, ties: 3})
	for b.Loop() {
		engine.Compile(f)
	}
}

func BenchmarkAnswers(b *testing.B) {
	f, _, answers := made(shape{questions: 1000, ties: 3})
	p, _ := engine.Compile(f)
	for b.Loop() {
		p.Answers(answers)
	}
}

func BenchmarkNextChange(b *testing.B) {
	p, in := ready(b, shape{questions: 1000, ties: 3, clock: 10})
	for b.Loop() {
		p.NextChange(in)
	}
}

// A chain of 5,000 questions, each shown by the one before, neither overflows
// nor is refused.
func TestALongChainRuns(t *testing.T) {
	p, in := ready(t, shape{questions: 5000, ties: 1, chain: true})
	out := p.Run(in)
	if !out.Items[4999].Shown {
		t.Fatal("the last of the chain is not shown")
	}
}
