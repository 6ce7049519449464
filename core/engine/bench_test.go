package engine_test

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/expr-lang/expr"
	"github.com/expr-lang/expr/vm"

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

// BenchmarkBesideOtherLibrary runs a form of 1,000 questions and 3,000 ties and,
// turn by turn so that whatever else the machine does meets both, evaluates the
// same 3,000 conditions, compiled, with a general-purpose expression library:
// its usual call, and with its virtual machine kept between calls. It reports
// the medians and their ratios; ns/op is of all three together.
func BenchmarkBesideOtherLibrary(b *testing.B) {
	p, in := ready(b, shape{questions: 1000, ties: 3})
	f, conditions, answers := made(shape{questions: 1000, ties: 3})
	env := map[string]any{"mode": "new"}
	for place := range f.Places() {
		it := place.Item
		env[it.Key] = answers[it.Key]
		if it.Type == form.Number {
			n, err := strconv.ParseFloat(answers[it.Key].(string), 64)
			if err != nil {
				b.Fatal(err)
			}
			env[it.Key] = n
		}
	}
	var programs []*vm.Program
	for _, cond := range conditions {
		code, err := expr.Compile(strings.ReplaceAll(cond, ` = "`, ` == "`), expr.Env(env), expr.AsBool())
		if err != nil {
			b.Fatal(err)
		}
		programs = append(programs, code)
	}
	met := 0
	count := func(out any, err error) {
		if err != nil {
			b.Fatal(err)
		}
		if out.(bool) {
			met++
		}
	}
	kept := vm.VM{}
	sides := []struct {
		name string
		run  func()
		took []float64
	}{
		{name: "lazo", run: func() { p.Run(in) }},
		{name: "other", run: func() {
			for _, code := range programs {
				count(expr.Run(code, env))
			}
		}},
		{name: "other-kept", run: func() {
			for _, code := range programs {
				count(kept.Run(code, env))
			}
		}},
	}
	for b.Loop() {
		for i := range sides {
			begun := time.Now()
			sides[i].run()
			sides[i].took = append(sides[i].took, float64(time.Since(begun).Nanoseconds()))
		}
	}
	medians := make([]float64, len(sides))
	for i, s := range sides {
		slices.Sort(s.took)
		medians[i] = s.took[len(s.took)/2]
		b.ReportMetric(medians[i]/1e3, s.name+"-µs")
	}
	b.ReportMetric(medians[0]/medians[1], "ratio")
	b.ReportMetric(medians[0]/medians[2], "ratio-kept")
	if met == 0 {
		b.Fatal("no condition was met: this compares nothing")
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
