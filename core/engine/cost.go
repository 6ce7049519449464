package engine

import (
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
)

// MaxEvaluations is the most conditions that one run of a form may have to decide,
// whatever is answered; a form that could need more is refused.
const MaxEvaluations = 2_000_000

// cost adds up what a run can need.
type cost struct {
	all     int64
	dearest int64 // of one expression
	at      place
}

// charge adds the cost of one expression, as often as a run can evaluate it.
func (c *compiler) charge(code *expr.Code, pl place, syms *expr.Symbols) {
	n := code.Evaluations(c.mostRows, MaxEvaluations) * c.times(pl, syms)
	if n > c.cost.dearest {
		c.cost.dearest, c.cost.at = n, pl
	}
	c.cost.all = min(c.cost.all+n, 1<<50)
}

func (c *compiler) mostRows(group int) int {
	return c.p.sections[c.p.groups[group].section].Repeat.Limit()
}

// times is how often a run can evaluate what stands at a place: for every row, and
// for every choice that it is asked of.
func (c *compiler) times(pl place, syms *expr.Symbols) int64 {
	n := int64(1)
	if syms.Row != nil {
		n *= int64(c.mostRows(syms.Row.Index))
	}
	if it := c.p.lookup[pl.key]; it != nil {
		switch {
		case syms.Entry != nil:
			n *= int64(len(c.form.Lists[it.ChoicesFrom.List].Entries))
		case syms.Candidate != nil && !strings.Contains(pl.at, ".choices."):
			n *= int64(len(it.options.Values))
		}
	}
	return n
}

// afford refuses a form that could need too much.
func (c *compiler) afford() {
	if c.cost.all <= MaxEvaluations {
		return
	}
	at := c.cost.at
	c.remark(
		"too-costly", form.Error, at.at, at.key,
		"with all rows filled this could take more than %d million evaluations; lower the most rows of the sections that it looks at, or look at fewer of them inside each other",
		MaxEvaluations/1_000_000,
	)
}
