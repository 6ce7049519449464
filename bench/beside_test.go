// Package bench compares with libraries that the program does not carry; it is a module
// of its own, so that they are none of its requirements.
package bench

import (
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/expr-lang/expr"
	"github.com/expr-lang/expr/vm"

	"lazo/core/engine"
	"lazo/core/engine/enginetest"
	"lazo/core/form"
)

// BenchmarkBesideOtherLibrary runs a form of 1,000 questions and 3,000 ties and,
// turn by turn so that whatever else the machine does meets both, evaluates the
// same 3,000 conditions, compiled, with a general-purpose expression library:
// its usual call, and with its virtual machine kept between calls. It reports
// the medians and their ratios; ns/op is of all three together.
func BenchmarkBesideOtherLibrary(b *testing.B) {
	f, conditions, answers := enginetest.Made(enginetest.Shape{Questions: 1000, Ties: 3})
	p, remarks := engine.Compile(f)
	if p == nil {
		b.Fatal(form.Errors(remarks)[0])
	}
	in := engine.Input{Answers: p.Answers(answers), At: time.Date(2026, 5, 10, 12, 0, 0, 0, time.UTC)}
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
