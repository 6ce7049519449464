package proof

import (
	"fmt"
	"math/rand/v2"
	"runtime"
	"strings"
	"testing"
	"time"

	"lazo/core/engine"
	"lazo/core/form"
)

// benchForm has n questions of the usual types, ten to a page, most of them tied to some of
// those shortly before.
func benchForm(n int) *form.Form {
	r := rand.New(rand.NewPCG(1871, uint64(n)))
	f := &form.Form{Lazo: 1, Key: "large", Title: "Large", Timezone: "America/Montevideo"}
	var before []*form.Item
	atom := func() string {
		it := before[max(0, len(before)-1-r.IntN(25))]
		switch it.Type {
		case form.ChoiceType:
			return it.Key + []string{` = "a"`, ` != "b"`, ` in ("a", "c")`, " is answered"}[r.IntN(4)]
		case form.Number:
			return fmt.Sprintf("%s %s %d", it.Key, []string{"<", ">=", "<="}[r.IntN(3)], 1+r.IntN(20))
		case form.ChoicesType:
			return it.Key + []string{` has "a"`, ` has any ("a", "b")`}[r.IntN(2)]
		case form.Date:
			return fmt.Sprintf("age(%s) >= %d", it.Key, []int{16, 18, 65}[r.IntN(3)])
		case form.Text:
			return it.Key + " is answered"
		}
		return it.Key
	}
	for i := range n {
		if i%10 == 0 {
			sections := []*form.Section{{Key: fmt.Sprintf("s%d", i/10)}}
			f.Pages = append(f.Pages, &form.Page{Key: fmt.Sprintf("p%d", i/10), Title: "P", Sections: sections})
		}
		it := &form.Item{Key: fmt.Sprintf("q%d", i), Label: fmt.Sprintf("Question %d", i), Type: []form.Type{
			form.ChoiceType, form.ChoiceType, form.YesNo, form.Tick, form.Number, form.ChoicesType, form.Text, form.Date,
		}[r.IntN(8)]}
		if it.Type.Picks() {
			it.Choices = []form.Choice{{Value: "a"}, {Value: "b"}, {Value: "c"}, {Value: "d"}}
		}
		if i > 3 {
			it.Shown = form.When([]string{atom(), atom() + " or " + atom(), atom() + " and " + atom()}[r.IntN(3)])
		}
		before = append(before, it)
		s := f.Pages[len(f.Pages)-1].Sections[0]
		s.Items = append(s.Items, it)
	}
	return f
}

func benchProgram(b *testing.B, f *form.Form) *engine.Program {
	p, remarks := engine.Compile(f)
	if p == nil {
		b.Fatal(remarks)
	}
	return p
}

var noon = time.Date(2026, 5, 20, 15, 0, 0, 0, time.UTC)

// BenchmarkProof proves forms with as many conditions as questions.
func BenchmarkProof(b *testing.B) {
	for _, n := range []int{100, 300, 1000} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			p := benchProgram(b, benchForm(n))
			remarks, peak := 0, uint64(0)
			for b.Loop() {
				stop := make(chan struct{})
				highest := heapPeak(stop)
				r := Of(p, Options{At: noon})
				close(stop)
				remarks, peak = len(r.Remarks), max(peak, <-highest)
			}
			b.ReportMetric(float64(remarks), "remarks")
			b.ReportMetric(float64(peak)/(1<<20), "MB-peak")
		})
	}
}

// heapPeak finds the most memory that is taken until stop is closed.
func heapPeak(stop chan struct{}) chan uint64 {
	out := make(chan uint64)
	runtime.GC()
	go func() {
		highest := uint64(0)
		var m runtime.MemStats
		for {
			runtime.ReadMemStats(&m)
			highest = max(highest, m.HeapAlloc)
			select {
			case <-stop:
				out <- highest
				return
			case <-time.After(5 * time.Millisecond):
			}
		}
	}()
	return out
}

// BenchmarkWhole adds shapes and walks.
func BenchmarkWhole(b *testing.B) {
	p := benchProgram(b, benchForm(300))
	for b.Loop() {
		r := Of(p, Options{At: noon, Walks: true})
		b.ReportMetric(float64(len(r.Walks)), "walks")
		b.ReportMetric(float64(r.Least), "least")
	}
}

// hostileForm has 5,000 items, a condition nested 230 deep, and two parities of 60 ticks
// that are the same.
func hostileForm() *form.Form {
	var items []*form.Item
	add := func(key string, t form.Type, is, shown string) {
		it := &form.Item{Key: key, Type: t, Label: strings.ToUpper(key), Shown: form.Rule{Expr: shown}}
		if is != "" {
			it.Value = &form.Value{Is: is}
		}
		items = append(items, it)
	}
	for i := range 60 {
		add(fmt.Sprintf("t%d", i), form.Tick, "", "")
	}
	parity := func(name string, order func(i int) int) string {
		last := fmt.Sprintf("t%d", order(0))
		for i := 1; i < 60; i++ {
			tick, key := fmt.Sprintf("t%d", order(i)), fmt.Sprintf("%s%d", name, i)
			add(key, form.Calculation, fmt.Sprintf("%s and not %s or not %s and %s", last, tick, last, tick), "")
			last = key
		}
		return last
	}
	up, down := parity("up", func(i int) int { return i }), parity("down", func(i int) int { return 59 - i })
	add("odd", form.Note, "", up+" and not "+down)
	deep := "t1"
	for i := range 115 {
		if i%2 == 0 {
			deep = fmt.Sprintf("(t%d or %s)", i%60, deep)
		} else {
			deep = fmt.Sprintf("not (t%d and %s)", i%60, deep)
		}
	}
	add("deep", form.Note, "", deep)
	for i := len(items); i < 5000; i++ {
		before := "t1"
		if last := items[len(items)-1]; last.Type == form.Text {
			before = last.Key + " is answered"
		}
		add(fmt.Sprintf("r%d", i), form.Text, "", fmt.Sprintf("%s and t%d", before, i%60))
	}
	page := &form.Page{Key: "p", Sections: []*form.Section{{Key: "s", Items: items}}}
	return &form.Form{Lazo: 1, Key: "h", Title: "H", Timezone: "UTC", Pages: []*form.Page{page}}
}

// patternForm has 5,000 questions of which each is about the length of the one before, with
// a pattern that is slow to write a text for.
func patternForm() *form.Form {
	var items []*form.Item
	for i := range 5000 {
		it := &form.Item{Key: fmt.Sprintf("q%d", i), Type: form.Text, Label: fmt.Sprintf("Q%d", i), Required: form.Always,
			Pattern: "(?:[a-zA-Z0-9]{0,60}x{1,40}|y{50}|(ab){3,90}z*)[0-9]{0,50}"}
		if i > 0 {
			it.Shown = form.When(fmt.Sprintf(`length(q%d) > %d and q%d != "abc"`, i-1, i%60, i-1))
		}
		items = append(items, it)
	}
	page := &form.Page{Key: "p", Sections: []*form.Section{{Key: "s", Items: items}}}
	return &form.Form{Lazo: 1, Key: "h", Title: "H", Timezone: "UTC", Pages: []*form.Page{page}}
}

// timed is how much is left of a time that begins now.
func timed(limit time.Duration) func() time.Duration {
	end := time.Now().Add(limit)
	return func() time.Duration { return time.Until(end) }
}

// BenchmarkHostile proves forms that are made to be hard within a second and five.
func BenchmarkHostile(b *testing.B) {
	for name, f := range map[string]*form.Form{"deep": hostileForm(), "patterns": patternForm()} {
		p := benchProgram(b, f)
		for _, limit := range []time.Duration{time.Second, 5 * time.Second} {
			b.Run(name+"/"+limit.String(), func(b *testing.B) {
				for b.Loop() {
					begun := time.Now()
					r := Of(p, Options{At: noon, Left: timed(limit), Shapes: true, Walks: true})
					b.ReportMetric(float64(time.Since(begun))/float64(limit), "of-the-limit")
					b.ReportMetric(float64(len(r.Undecided)), "undecided")
				}
			})
		}
	}
}

// A form that is made to be hard ends, and what is not decided is said.
func TestAHostileFormEnds(t *testing.T) {
	p, _ := engine.Compile(hostileForm())
	r := Of(p, Options{At: noon, Left: timed(2 * time.Second), Shapes: true})
	if len(r.Undecided) == 0 {
		t.Error("that two parities differ can’t have been decided in this time")
	}
	for _, m := range r.Remarks {
		if m.Item == "odd" {
			t.Errorf("%s", m)
		}
	}
	p, _ = engine.Compile(patternForm())
	if r = Of(p, Options{At: noon, Left: timed(100 * time.Millisecond)}); !r.Cut || len(r.Undecided) == 0 {
		t.Error("5,000 patterns can’t have been looked at in this time")
	}
}
