package engine_test

import (
	"fmt"
	"runtime"
	"strconv"
	"strings"
	"testing"
	"time"

	"lazo/core/engine"
	"lazo/core/engine/enginetest"
	"lazo/core/form"
)

var benchMoment = time.Date(2026, 5, 10, 12, 0, 0, 0, time.UTC)

func ready(b testing.TB, s enginetest.Shape) (*engine.Program, engine.Input) {
	f, _, answers := enginetest.Made(s)
	p, remarks := engine.Compile(f)
	if p == nil {
		b.Fatal(form.Errors(remarks)[0])
	}
	return p, engine.Input{Answers: p.Answers(answers), At: benchMoment}
}

func BenchmarkRun(b *testing.B) {
	for _, n := range []int{100, 1000, 10_000} {
		p, in := ready(b, enginetest.Shape{Questions: n, Ties: 3})
		b.Run(fmt.Sprintf("questions=%d", n), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				p.Run(in)
			}
		})
	}
	p, in := ready(b, enginetest.Shape{Questions: 5000, Ties: 1, Chain: true})
	b.Run("chain=5000", func(b *testing.B) {
		for b.Loop() {
			p.Run(in)
		}
	})
	p, in = ready(b, enginetest.Shape{Questions: 1000, Ties: 3, Clock: 10})
	b.Run("clock=10%", func(b *testing.B) {
		for b.Loop() {
			p.Run(in)
		}
	})
}

func BenchmarkCompile(b *testing.B) {
	f, _, _ := enginetest.Made(enginetest.Shape{Questions: 1000, Ties: 3})
	for b.Loop() {
		engine.Compile(f)
	}
}

// What a program says that it takes in memory, beside what it takes.
func BenchmarkBytes(b *testing.B) {
	items := func(n int, one string) string {
		var out strings.Builder
		for i := range n {
			out.WriteString(strings.ReplaceAll(one, "N", strconv.Itoa(i)))
		}
		return `{"key":"length","type":"number"}` + out.String()
	}
	for _, made := range []struct{ name, items string }{
		{"questions", items(4_000, `,{"key":"aN","type":"text"}`)},
		{"conditions", items(5000,
			`,{"key":"aN","type":"text","shown":"length > N and length < 2N or length = 1 and length = N"}`)},
		{"choices", `{"key":"club","type":"choice","look":"search","choices":[{"value":"none"}` + items(19_000,
			`,{"value":"aN"}`)[len(items(0, "")):] + `]}`},
	} {
		b.Run(made.name, func(b *testing.B) {
			file := `{"lazo":1,"key":"entry","title":"Entry","pages":[{"key":"p","sections":[{"key":"s","items":[` + made.items +
				`]}]}]}`
			var p *engine.Program
			for b.Loop() {
				p = nil
				before := heap()
				var remarks []form.Remark
				if p, remarks = engine.Load([]byte(file)); p == nil {
					b.Fatal(remarks[0])
				}
				b.ReportMetric(float64(heap()-before)/1e6, "heap-MB")
				b.ReportMetric(float64(p.Bytes())/1e6, "said-MB")
			}
		})
	}
}

func heap() uint64 {
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return m.HeapAlloc
}

func BenchmarkAnswers(b *testing.B) {
	f, _, answers := enginetest.Made(enginetest.Shape{Questions: 1000, Ties: 3})
	p, _ := engine.Compile(f)
	for b.Loop() {
		p.Answers(answers)
	}
}

func BenchmarkNextChange(b *testing.B) {
	p, in := ready(b, enginetest.Shape{Questions: 1000, Ties: 3, Clock: 10})
	for b.Loop() {
		p.NextChange(in)
	}
}

// A chain of 5,000 questions, each shown by the one before, neither overflows
// nor is refused.
func TestALongChainRuns(t *testing.T) {
	p, in := ready(t, enginetest.Shape{Questions: 5000, Ties: 1, Chain: true})
	out := p.Run(in)
	if !out.Items[4999].Shown {
		t.Fatal("the last of the chain is not shown")
	}
}
