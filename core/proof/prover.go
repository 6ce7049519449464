package proof

import (
	"fmt"
	"slices"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// prover asks a model about one form.
type prover struct {
	m      *model
	w      *world
	side   *side
	report *Report

	never  map[string]bool // the keys of what is never shown
	listed map[string]bool // the places that stand among the undecided
	runs   int             // that are left for searches by trial
	hard   bool            // the last question took too long
}

// questionEffort bounds the conflicts that one question may take.
const questionEffort = 20_000

// Searches by trial, where the model is not exact, are bounded: all together by how many
// items they may visit, and one of them by how many times it runs the form.
const (
	trialVisits = 600_000
	mostRuns    = 3000
)

func newProver(p *engine.Program, o Options) *prover {
	m := newModel(o, p)
	pr := &prover{
		m: m, side: m.sides[0], w: m.sides[0].world(), never: map[string]bool{}, listed: map[string]bool{},
		report: &Report{Remarks: []Remark{}, Undecided: []Undecided{}, Items: len(m.sides[0].list)},
	}
	pr.runs = trialVisits / (len(pr.side.list) + 20)
	return pr
}

func (p *prover) up() bool { return p.m.Late() }

func (p *prover) say(kind string, severity form.Severity, at, item, format string, args ...any) *Remark {
	p.report.Remarks = append(p.report.Remarks, Remark{Remark: form.Remark{
		Kind: kind, Severity: severity, At: at, Item: item, Text: fmt.Sprintf(format, args...),
	}})
	return &p.report.Remarks[len(p.report.Remarks)-1]
}

func (p *prover) leave(at, item, text, why string) {
	if p.listed[at] {
		return
	}
	p.listed[at] = true
	p.report.Undecided = append(p.report.Undecided, Undecided{At: at, Item: item, Text: text, Why: why})
}

// verdict is what is known of whether something can be.
type verdict int

const (
	open verdict = iota
	can
	cannot
)

// possible decides whether literals can hold together, without looking whether the engine
// agrees.
func (p *prover) possible(lits ...sat.Lit) (verdict, sat.Filling) {
	if p.m.cut {
		return open, nil
	}
	for _, l := range lits {
		if l == sat.No {
			return cannot, nil
		}
	}
	p.m.Sample()
	if p.m.Sampled(lits...) {
		return can, nil
	}
	p.hard = false
	switch p.m.Ask(questionEffort, lits...) {
	case sat.Impossible:
		return cannot, nil
	case sat.Satisfiable:
		f := p.m.Found()
		p.m.Near(f)
		return can, f
	}
	p.hard = true
	return open, nil
}

// find is a filling in which literals hold together.
func (p *prover) find(lits ...sat.Lit) (sat.Filling, bool) {
	switch v, f := p.possible(lits...); {
	case v != can:
		return nil, false
	case f != nil:
		return f, true
	}
	if p.m.Ask(questionEffort, lits...) != sat.Satisfiable {
		return nil, false
	}
	return p.m.Found(), true
}

// found is what the solver found as answers to the form.
func (p *prover) found() engine.Filling { return p.m.read(p.side, p.m.Found()) }

// seek finds an input for which a literal and a test hold, as small as can be. settled is
// false if there may be one that was not found.
func (p *prover) seek(
	l sat.Lit, read func() engine.Filling, test func(engine.Filling) bool,
) (fl engine.Filling, found, settled bool) {
	if p.impossible(l) {
		return fl, false, true
	}
	for range 4 {
		if p.m.Ask(questionEffort, l) != sat.Satisfiable {
			return fl, false, false
		}
		if fl = read(); test(fl) {
			return p.shrink(fl, test), true, true
		}
		p.m.Shake()
	}
	return fl, false, false
}

// decide settles whether something can be: where the formulas are exact by themselves, and
// else by an input for which the engine agrees. test may be nil where nothing can be run.
func (p *prover) decide(c *condition, test func(o *engine.Outcome) bool, want expr.Truth, lits ...sat.Lit) verdict {
	v, f := p.possible(lits...)
	if v != can || !slices.ContainsFunc(lits, p.m.Shaky) {
		return v
	}
	if test == nil {
		return open
	}
	if f == nil {
		if f, _ = p.find(lits...); f == nil {
			return open
		}
	}
	fl := p.m.read(p.side, f)
	if test(run(p.side.program, fl)) {
		return can
	}
	if len(p.m.plain) > 0 && p.m.Ask(questionEffort, slices.Concat(lits, p.m.plain)...) == sat.Satisfiable {
		if test(run(p.side.program, p.m.read(p.side, p.m.Found()))) {
			return can
		}
	}
	runs := min(p.runs/4, mostRuns)
	if c == nil || runs < 10 || p.up() {
		return open
	}
	p.runs -= runs
	if found, ok := p.side.program.SeekWithin(runs, c.owner, c.property(), want, fl); ok &&
		test(run(p.side.program, found)) {
		return can
	}
	return open
}

// property is what the condition is of its owner, such as shown or checks.0.ok.
func (c *condition) property() string {
	if c.owner == "" {
		return c.at
	}
	last := c.at[strings.LastIndexByte(c.at, '/')+1:]
	return strings.TrimPrefix(last, c.owner+".")
}

// why says what is not followed in a condition, or in what it depends on.
func (p *prover) why(c *condition) string {
	if p.up() {
		return "there was no time to decide it"
	}
	if p.hard {
		return "there are too many ways to go through"
	}
	seen := map[*condition]bool{}
	for queue := []*condition{c}; len(queue) > 0; queue = queue[1:] {
		at := queue[0]
		if at == nil || seen[at] {
			continue
		}
		seen[at] = true
		found, part := "", ""
		expr.Walk(at.node, func(n expr.Node) {
			if why := p.side.beyond[n]; why != "" && found == "" {
				found, part = why, expr.PiecesText(at.place.scope.Phrase(n))
			}
		})
		if found != "" {
			if at == c {
				return "“" + part + "”: " + found
			}
			return "it depends on “" + part + "”: " + found
		}
		queue = append(queue, p.conditionsBehind(at)...)
	}
	return "it depends on what is not followed"
}

// whyBound says what is not followed in the limits of an item, or in its checks.
func (p *prover) whyBound(it *item) string {
	if it.vague {
		return "its limits are too far to be followed"
	}
	for _, b := range it.bounds {
		if why := p.side.beyond[b.node]; why != "" {
			return "“" + expr.PiecesText(b.place.scope.Phrase(b.node)) + "”: " + why
		}
	}
	for _, c := range it.checks {
		return p.why(c)
	}
	return p.why(it.required.condition)
}

// conditionsBehind are the conditions on which the items depend that a condition names.
func (p *prover) conditionsBehind(c *condition) (out []*condition) {
	for _, sym := range c.code.Items {
		it := p.side.items[sym.Key]
		if it == nil {
			continue
		}
		out = append(out, it.value, it.when, it.shown.condition, it.locked.condition, it.offered.condition,
			it.withheld.condition, it.where)
		out = append(out, it.section.shown.condition, it.section.page.shown.condition)
		for _, b := range it.bounds {
			out = append(out, b.condition)
		}
	}
	for _, g := range c.code.Groups {
		out = append(out, p.side.groups[g.Key].rows)
	}
	return out
}
