package prooftest

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof"
)

// Disputed looks for remarks of a report that inputs contradict.
type Disputed struct {
	program *engine.Program
	report  *proof.Report
	without map[int]*engine.Program // the form without the part of a remark that is to make no difference
}

// Dispute is about what is reported of a form.
func Dispute(p *engine.Program, r *proof.Report) *Disputed {
	d := &Disputed{program: p, report: r, without: map[int]*engine.Program{}}
	for i, m := range r.Remarks {
		if m.Kind == proof.NoDifference {
			f := p.Form.Clone()
			for _, tie := range f.AllTies() {
				if PlaceOf(f, tie) == m.At {
					tie.Set(m.Shorter)
				}
			}
			d.without[i], _ = engine.Compile(f)
		}
	}
	return d
}

// PlaceOf is where a tie stands, as remarks name it.
func PlaceOf(f *form.Form, tie form.Tie) string {
	for _, pg := range f.Pages {
		if pg.Key == tie.Owner {
			return "pages/" + pg.Key + "." + tie.Property
		}
		for _, s := range pg.Sections {
			if s.Key == tie.Owner {
				return "pages/" + pg.Key + "/" + s.Key + "." + tie.Property
			}
		}
	}
	if pl, ok := f.Find(tie.Owner); ok {
		return pl.RemarkPlace() + "." + tie.Property
	}
	return tie.Property
}

// Run is what a form makes of an input.
func Run(p *engine.Program, fl engine.Filling) *engine.Outcome {
	return p.Run(engine.Input{Answers: p.Answers(fl.Answers), Params: fl.Params, At: fl.At, Mode: engine.New})
}

// Outcome is all of what comes out, as text.
func Outcome(p *engine.Program, fl engine.Filling) string {
	o := Run(p, fl)
	slices.Sort(o.Unmatched) // they stand in the order in which they were met
	b, _ := json.Marshal(o)
	if o.Accepted { // else nobody reads how it ends
		b = append(b, o.End()...)
	}
	return string(b)
}

// DisputedBy tells which remark an input contradicts, "" if none.
func (d *Disputed) DisputedBy(fl engine.Filling) string {
	if against := d.ByOutcome(Run(d.program, fl)); against != "" {
		return fmt.Sprintf("%s with %v and %v at %s", against, fl.Answers, fl.Params, fl.At)
	}
	whole := ""
	for i, m := range d.report.Remarks {
		if m.Kind != proof.NoDifference {
			continue
		}
		if whole == "" {
			whole = Outcome(d.program, fl)
		}
		if d.without[i] == nil || Outcome(d.without[i], fl) != whole {
			return fmt.Sprintf("%s (%s) with %v and %v at %s", m, m.Shorter, fl.Answers, fl.Params, fl.At)
		}
	}
	return ""
}

// ByOutcome tells which remark what came out contradicts, "" if none; parts that are to make
// no difference are not looked at.
func (d *Disputed) ByOutcome(o *engine.Outcome) string {
	for _, m := range d.report.Remarks {
		if d.contradicts(m, o) {
			return m.String()
		}
	}
	return ""
}

func (d *Disputed) contradicts(m proof.Remark, o *engine.Outcome) bool {
	at, property := m.At, ""
	if slash := strings.LastIndexByte(at, '/'); slash >= 0 {
		if dot := strings.IndexByte(at[slash:], '.'); dot >= 0 {
			at, property = m.At[:slash+dot], m.At[slash+dot+1:]
		}
	}
	key := at[strings.LastIndexByte(at, '/')+1:]
	switch m.Kind {
	case proof.NeverAccepted:
		return o.Accepted
	case proof.NeverShown:
		return d.shown(key, property, o)
	case proof.OnlyRefused:
		return d.shown(key, property, o) && !Refused(o, d.program.Form)
	case proof.NeverOffered:
		return d.anyRow(key, o, func(st *engine.ItemState, _ int) bool { return slices.Contains(st.Choices(), m.Part) })
	case proof.NeverRequired, proof.NeverLocked:
		return d.truth(key, property, o, true)
	case proof.NeverFilled:
		if property == "value.when" {
			return d.truth(key, property, o, true)
		}
		return d.anyRow(key, o, func(st *engine.ItemState, row int) bool {
			v := o.Value(st, row)
			return st.Shown && st.Automatic() && !v.IsBlank() && (st.Item().Type != form.Tick || v.Yes())
		})
	case proof.NeverWorded:
		return d.worded(key, property, o)
	case proof.NeverSent:
		return o.Accepted && d.met(m.At, o)
	case proof.NeverRead:
		return o.Accepted && d.read(m.At, o)
	case proof.Always:
		if strings.HasPrefix(property, "choices") || property == "offered" || property == "withheld" {
			return false
		}
		return d.truth(key, property, o, false) && !d.passed(key, o)
	case proof.RouteShadowed:
		return d.leads(key, property, o)
	}
	return false
}

func (d *Disputed) anyRow(key string, o *engine.Outcome, test func(*engine.ItemState, int) bool) bool {
	pl, ok := d.program.Form.Find(key)
	if !ok {
		return false
	}
	rows := 1
	if pl.Section.Repeat != nil {
		rows = o.Group(pl.Section.Key).Count
	}
	for row := range rows {
		if st := o.State(key, row); st != nil && st.Item() != nil && test(st, row) {
			return true
		}
	}
	return false
}

func (d *Disputed) shown(key, property string, o *engine.Outcome) bool {
	if n := 0; strings.HasPrefix(property, "rows.") {
		_, _ = fmt.Sscanf(property, "rows.%d", &n)
		return d.anyRow(key, o, func(st *engine.ItemState, _ int) bool { return st.RowShown(n) })
	}
	if _, is := d.program.Form.Find(key); is {
		return d.anyRow(key, o, func(st *engine.ItemState, _ int) bool { return st.Shown })
	}
	if _, section := d.program.Form.Section(key); section != nil {
		return o.SectionShown(key)
	}
	return o.OnRoute(key)
}

// truth reports whether a condition comes out met, or not, where it matters.
func (d *Disputed) truth(key, property string, o *engine.Outcome, met bool) bool {
	rows := 1
	if pl, ok := d.program.Form.Find(key); ok && pl.Section.Repeat != nil {
		rows = o.Group(pl.Section.Key).Count
	}
	for row := range rows {
		if t, there, ok := o.Truth(key, property, row); ok && there && (t == expr.Met) == met {
			return true
		}
	}
	return false
}

func (d *Disputed) worded(key, property string, o *engine.Outcome) bool {
	n := 0
	_, _ = fmt.Sscanf(property, "wording.%d", &n)
	return d.anyRow(key, o, func(st *engine.ItemState, row int) bool {
		for i := range n + 1 {
			t, there, _ := o.Truth(key, fmt.Sprintf("wording.%d.when", i), row)
			if !there || (t == expr.Met) != (i == n) {
				return false
			}
		}
		return st.Shown
	})
}

// met reports whether the condition of a message, a hook or a closing text is.
func (d *Disputed) met(at string, o *engine.Outcome) bool {
	t, _, ok := o.Truth("", at, 0)
	return ok && t == expr.Met
}

func (d *Disputed) read(at string, o *engine.Outcome) bool {
	n := 0
	_, _ = fmt.Sscanf(at, "ends.%d", &n)
	for i := range n {
		if d.met(fmt.Sprintf("ends.%d.when", i), o) {
			return false
		}
	}
	return d.met(at, o)
}

func (d *Disputed) leads(key, property string, o *engine.Outcome) bool {
	n := 0
	_, _ = fmt.Sscanf(property, "next.%d", &n)
	for i := range n {
		if t, _, ok := o.Truth(key, fmt.Sprintf("next.%d.when", i), 0); ok && t == expr.Met {
			return false
		}
	}
	t, _, ok := o.Truth(key, property, 0)
	return ok && t == expr.Met && o.OnRoute(key)
}

// passed reports whether a page before leads past the one of that key.
func (d *Disputed) passed(key string, o *engine.Outcome) bool {
	pages := d.program.Form.Pages
	at := slices.IndexFunc(pages, func(pg *form.Page) bool { return pg.Key == key })
	for i := range max(0, at) {
		for j, next := range pages[i].Next {
			if !d.leads(pages[i].Key, fmt.Sprintf("next.%d.when", j), o) {
				continue
			}
			if slices.IndexFunc(pages, func(pg *form.Page) bool { return pg.Key == next.Page }) > at {
				return true
			}
		}
	}
	return false
}

// Refused reports whether an answer stands that is not accepted. A box that is not ticked is
// no answer.
func Refused(o *engine.Outcome, f *form.Form) bool {
	for pl := range f.Places() {
		rows := 1
		if pl.Section.Repeat != nil {
			rows = o.Group(pl.Section.Key).Count
		}
		for row := range rows {
			st := o.State(pl.Item.Key, row)
			if st == nil || st.Item() == nil {
				continue
			}
			if v := o.Value(st, row); len(st.Problems()) > 0 && !v.IsBlank() && (pl.Item.Type != form.Tick || v.Yes()) {
				return true
			}
		}
	}
	return false
}

// Stuck reports whether an item is shown and required and has a problem, while nothing is
// wrong with any other.
func Stuck(p *engine.Program, key string, row int, fl engine.Filling) bool {
	o := Run(p, fl)
	st := o.State(key, row)
	if st == nil || !st.Shown || !st.Required || len(st.Problems()) == 0 {
		return false
	}
	for pl := range p.Form.Places() {
		rows := 1
		if pl.Section.Repeat != nil {
			rows = o.Group(pl.Section.Key).Count
		}
		for r := range rows {
			other := o.State(pl.Item.Key, r)
			if other != nil && !(pl.Item.Key == key && r == row) && len(other.Problems()) > 0 {
				return false
			}
		}
	}
	return true
}
