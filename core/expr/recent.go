package expr

import "fmt"

// recent is the ID of the operator that a day or moment is one of the last so many days: a
// date from so many days ago to today, a moment since so many days ago.
const recent = "last"

// lastDays is that x is in the last days, which are a duration or a gap.
func lastDays(x, days Node, k Kind) Node {
	if k == Moment {
		return &Compare{Op: ">=", L: x, R: &Arith{Op: "-", L: &Name{Name: "now"}, R: days}}
	}
	today := &Name{Name: "today"}
	return &Between{X: x, Low: &Arith{Op: "-", L: today, R: days}, High: today}
}

// inLastDays reports whether n is what lastDays makes, of what and of how many days.
func inLastDays(n Node) (x, days Node, k Kind, ok bool) {
	switch n := n.(type) {
	case *Compare:
		if back, is := n.R.(*Arith); is {
			x, days, k = n.L, back.R, Moment
		}
	case *Between:
		if back, is := n.Low.(*Arith); is {
			x, days, k = n.X, back.R, Date
		}
	}
	if lit, is := days.(*Literal); is && (lit.Kind != Duration || lit.Unit != "days") {
		return nil, nil, 0, false
	}
	return x, days, k, x != nil && Equal(lastDays(x, days, k), n)
}

// daysTyped is a number of days from how it is typed.
func daysTyped(text string) (Node, error) {
	n, err := ParseNumber(text)
	if err == nil {
		if whole, ok := n.Whole(); ok && whole >= 0 {
			return &Literal{Kind: Duration, Num: n, Unit: "days"}, nil
		}
	}
	return nil, fmt.Errorf("“%s” is no number of days", text)
}

// lastDaysOf says that something is in the last days.
func (w *sentence) lastDaysOf(x, days Node) {
	w.part(x, nil)
	w.say(" is in the last ")
	if lit, ok := days.(*Literal); ok {
		w.value(lit.Num.String())
	} else {
		w.operand(days, nil)
	}
	w.say(" days")
}

// lastDays reads that a value is in the last days.
func (r *sentenceReader) lastDays(x reading, s *Symbols) []reading {
	return r.after(x.end, " is in the last ", func(at int) []reading {
		code, faults := Compile(x.n, s)
		if faults != nil {
			return nil
		}
		return r.then(r.literals(at, nil, s), " days", func(n Node, end int) []reading {
			if lit, ok := n.(*Literal); ok && lit.Kind == Num {
				n = &Literal{Kind: Duration, Num: lit.Num, Unit: "days"}
			}
			return []reading{{lastDays(x.n, n, code.Type.Kind), end}}
		})
	})
}
