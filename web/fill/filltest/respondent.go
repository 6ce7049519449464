package filltest

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// Respondent is what somebody has done to a form, kept apart from any page: the
// model that screen and record are held against.
type Respondent struct {
	Program *engine.Program
	Given   map[string]any              // by key, of questions outside rows that were touched
	Rows    map[string][]map[string]any // of each repeating section, those set aside too
	Taken   engine.Taken                // what others hold
	gone    map[string]goneRow
}

type goneRow struct {
	at  int
	row map[string]any
}

// NewRespondent has done nothing yet; what others hold is taken.
func NewRespondent(p *engine.Program, taken engine.Taken) *Respondent {
	r := &Respondent{
		Program: p, Given: map[string]any{}, Rows: map[string][]map[string]any{}, Taken: taken, gone: map[string]goneRow{},
	}
	r.settle()
	return r
}

// Outcome is what the form is for all that was done.
func (r *Respondent) Outcome() *engine.Outcome {
	answers := maps.Clone(r.Given)
	for key, rows := range r.Rows {
		list := make([]any, len(rows))
		for i, row := range rows {
			list[i] = row
		}
		answers[key] = list
	}
	return r.Program.Run(engine.Input{Answers: r.Program.Answers(answers), At: time.Unix(1_780_000_000, 0),
		Taken: r.Taken})
}

// settle makes room for the rows that there are now; a row that goes is kept.
func (r *Respondent) settle() *engine.Outcome {
	out := r.Outcome()
	for _, sec := range r.repeating() {
		for len(r.Rows[sec.Key]) < out.Group(sec.Key).Count {
			r.Rows[sec.Key] = append(r.Rows[sec.Key], map[string]any{})
		}
	}
	return out
}

func (r *Respondent) repeating() []*form.Section {
	var out []*form.Section
	for _, p := range r.Program.Form.Pages {
		for _, s := range p.Sections {
			if s.Repeat != nil {
				out = append(out, s)
			}
		}
	}
	return out
}

// Act is something done to a control, or to the rows of a section.
type Act struct {
	Name   string // of the field; of a button, its value
	Type   form.Type
	Values []string // what the control says after it; of an address and a month and day, by part
	Other  string   // what is written for the choice that brings a text of its own
	Press  bool     // a button
}

// Held is what the response takes for those who come after it.
func (r *Respondent) Held() engine.Taken {
	held := engine.Taken{}
	for key, takes := range r.settle().Takes() {
		held[key] = map[string]int{}
		for value, take := range takes {
			held[key][value] = take.N + r.Taken[key][value]
		}
	}
	return held
}

// control is where a question is answered, in a row if it is of one.
type control struct {
	it   *form.Item
	st   *engine.ItemState
	row  map[string]any // nil outside rows
	name string
	cell string // of a grid: the key of its row
}

// Draw draws something that can be done on the page at hand and does it; ok is
// false if nothing can be.
func (r *Respondent) Draw(rng *rand.Rand, page string) (a Act, ok bool) {
	out := r.settle()
	var controls []control
	add := func(it *form.Item, st *engine.ItemState, row map[string]any, name string) {
		if it.Type != form.Grid {
			controls = append(controls, control{it, st, row, name, ""})
			return
		}
		for i, line := range it.Rows {
			if st.RowShown(i) {
				controls = append(controls, control{it, st, row, name, line.Key})
			}
		}
	}
	var buttons []string
	for _, sec := range r.Program.Form.Page(page).Sections {
		if !out.SectionShown(sec.Key) {
			continue
		}
		if sec.Repeat == nil {
			for _, it := range sec.Items {
				if st := out.State(it.Key, 0); st.Fillable() {
					add(it, st, nil, "a."+it.Key)
				}
			}
			continue
		}
		state := out.Group(sec.Key)
		for n := range state.Count {
			for i, it := range sec.Items {
				if st := &state.Row(n)[i]; st.Fillable() {
					add(it, st, r.Rows[sec.Key][n], fmt.Sprintf("r.%s.%d.%s", sec.Key, n, it.Key))
				}
			}
			if sec.Repeat.Rows == "" && state.Count > sec.Repeat.Min {
				buttons = append(buttons, fmt.Sprintf("remove:%s:%d", sec.Key, n))
			}
		}
		if sec.Repeat.Rows == "" && state.Count < sec.Repeat.Limit() {
			buttons = append(buttons, "add:"+sec.Key)
		}
		if _, is := r.gone[sec.Key]; is {
			buttons = append(buttons, "restore:"+sec.Key)
		}
	}
	if len(buttons) > 0 && (len(controls) == 0 || rng.IntN(5) == 0) {
		do := buttons[rng.IntN(len(buttons))]
		r.press(do)
		return Act{Name: do, Press: true}, true
	}
	if len(controls) == 0 {
		return Act{}, false
	}
	return r.set(rng, out, controls[rng.IntN(len(controls))])
}

// set draws what a control is made to say.
func (r *Respondent) set(rng *rand.Rand, out *engine.Outcome, c control) (a Act, ok bool) {
	into := c.row
	if into == nil {
		into = r.Given
	}
	row := rowOf(c.name)
	if c.cell != "" {
		return drawCell(rng, c.it, c.name, c.cell, into)
	}
	values, answer := drawValue(rng, c.it, c.st, out, row, into[c.it.Key])
	// What a control says already is no act that a browser would tell.
	now := r.shown(out, c.it, c.st, row, into)
	if c.it.Type == form.Ranking {
		now.Values = ordered(now.Values)
	}
	if values == nil || slices.Equal(values, now.Values) ||
		len(now.Values) == 0 && slices.Equal(values, []string{""}) {
		return Act{}, false
	}
	act := Act{Name: c.name, Type: c.it.Type, Values: values}
	switch other := c.it.Other(); {
	case other == "":
	case slices.Contains(values, other):
		act.Other = pickText(rng, "something else", "another thing")
		answer = saying(answer, other, act.Other)
	case slices.Contains(c.st.Aside(), other): // which keeps what was written
		answer = saying(answer, other, written(into[c.it.Key]))
	}
	into[c.it.Key] = answer
	return act, true
}

// written is what an answer says for the choice that brings a text of its own.
func written(answer any) string {
	picks, _ := answer.([]any)
	for _, pick := range append(picks, answer) {
		if said, is := pick.(map[string]any); is {
			return said["text"].(string)
		}
	}
	return ""
}

// saying adds what is written for a choice to an answer, if it picks that one.
func saying(answer any, other, text string) any {
	said := map[string]any{"value": other, "text": text}
	list, several := answer.([]any)
	if !several {
		if answer == other {
			return said
		}
		return answer
	}
	for i, v := range list {
		if v == other {
			list[i] = said
		}
	}
	return list
}

func rowOf(name string) int {
	n := 0
	if parts := strings.Split(name, "."); parts[0] == "r" {
		fmt.Sscan(parts[2], &n)
	}
	return n
}

func (r *Respondent) press(do string) {
	parts := strings.Split(do, ":")
	key := parts[1]
	rows := r.Rows[key]
	switch parts[0] {
	case "add":
		r.Rows[key] = append(rows, map[string]any{})
	case "remove":
		n := 0
		fmt.Sscan(parts[2], &n)
		r.gone[key] = goneRow{n, rows[n]}
		r.Rows[key] = slices.Delete(slices.Clone(rows), n, n+1)
	case "restore":
		g := r.gone[key]
		r.Rows[key] = slices.Insert(slices.Clone(rows), min(g.at, len(rows)), g.row)
		delete(r.gone, key)
	}
}

// drawCell picks in one row of a grid.
func drawCell(rng *rand.Rand, it *form.Item, name, row string, into map[string]any) (Act, bool) {
	before, _ := into[it.Key].(map[string]any)
	v := it.Choices[rng.IntN(len(it.Choices))].Value
	if before[row] == v {
		return Act{}, false
	}
	cells := map[string]any{row: v}
	for k, was := range before {
		if k != row {
			cells[k] = was
		}
	}
	into[it.Key] = cells
	return Act{Name: name + "." + row, Type: form.ChoiceType, Values: []string{v}}, true
}

// drawValue draws what a control is made to say, and the answer that this is; nil
// values if there is nothing to pick.
func drawValue(
	rng *rand.Rand, it *form.Item, st *engine.ItemState, out *engine.Outcome, row int, given any,
) (values []string, answer any) {
	one := func(of ...string) ([]string, any) {
		v := of[rng.IntN(len(of))]
		return []string{v}, v
	}
	switch it.Type {
	case form.Number:
		return one("1", "2", "3", "3", "4", "5", "7", "")
	case form.Scale:
		return one("1", "2", "3", "4", "5")
	case form.Date:
		return one("2026-05-30", "2026-06-01", "")
	case form.YesNo:
		return one("yes", "no")
	case form.Tick:
		v := out.Value(st, row)
		if v.Yes() {
			return []string{}, ""
		}
		return []string{"yes"}, "yes"
	case form.ChoiceType:
		offered := slices.Clone(st.Choices())
		if it.Look == "menu" {
			offered = append(offered, "")
		}
		if len(offered) == 0 {
			return nil, nil
		}
		return one(offered...)
	case form.ChoicesType:
		return drawPicks(rng, st, out, row)
	case form.Ranking:
		return drawRanking(rng, st, given)
	case form.Address:
		street, city := pickText(rng, "Calle 1", "Muelle 2", ""), pickText(rng, "Pedralta", "Garzas", "")
		return []string{street, "", city, "", "", ""}, map[string]any{"street": street, "city": city}
	case form.MonthDay:
		month, day := pickText(rng, "05", "12"), pickText(rng, "03", "30")
		return []string{month, day}, month + "-" + day
	}
	if it.Type == form.Paragraph {
		return one("x", "two\nlines", "")
	}
	return one("x", "Ana Ríos", "")
}

func pickText(rng *rand.Rand, of ...string) string { return of[rng.IntN(len(of))] }

// drawRanking puts some of the choices in an order; what is set aside stays where it stood.
func drawRanking(rng *rand.Rand, st *engine.ItemState, before any) ([]string, any) {
	ranked := slices.Clone(st.Choices())
	rng.Shuffle(len(ranked), func(i, j int) { ranked[i], ranked[j] = ranked[j], ranked[i] })
	if len(ranked) > 1 && rng.IntN(8) == 0 { // which is not taken so
		ranked = ranked[:1]
	}
	if len(ranked) == 0 {
		return nil, nil
	}
	answer := make([]any, 0, len(ranked))
	for _, v := range ranked {
		answer = append(answer, v)
	}
	given, _ := before.([]any)
	for at, v := range given {
		if aside, _ := v.(string); st.Touched() && slices.Contains(st.Aside(), aside) {
			answer = slices.Insert(answer, min(at, len(answer)), v)
		}
	}
	return ranked, answer
}

// drawPicks turns one pick on or off; what is set aside stays so.
func drawPicks(rng *rand.Rand, st *engine.ItemState, out *engine.Outcome, row int) ([]string, any) {
	offered := st.Choices()
	if len(offered) == 0 {
		return nil, nil
	}
	v := out.Value(st, row)
	picked := slices.Clone(v.Picks())
	toggled := offered[rng.IntN(len(offered))]
	if i := slices.Index(picked, toggled); i >= 0 {
		picked = slices.Delete(picked, i, i+1)
	} else {
		picked = append(picked, toggled)
	}
	answer := []any{}
	if st.Touched() {
		for _, aside := range st.Aside() {
			answer = append(answer, aside)
		}
	}
	for _, p := range picked {
		answer = append(answer, p)
	}
	slices.Sort(picked)
	return picked, answer
}

// Refusal is something that is said if the answers are not taken as they are, "" if they are.
func (r *Respondent) Refusal() string {
	if out := r.settle(); !out.Accepted {
		return r.problem(out, out.FirstFaultyPage())
	}
	return ""
}

// Next reports whether one may go on from a page.
func (r *Respondent) Next(page string) bool { return r.problem(r.settle(), page) == "" }

// problem is the first problem of a page, "" if there is none.
func (r *Respondent) problem(out *engine.Outcome, page string) string {
	for _, sec := range r.Program.Form.Page(page).Sections {
		var states []engine.ItemState
		if sec.Repeat == nil {
			for _, it := range sec.Items {
				states = append(states, *out.State(it.Key, 0))
			}
		} else {
			for n := range out.Group(sec.Key).Count {
				states = append(states, out.Group(sec.Key).Row(n)...)
			}
		}
		for i := range states {
			if problems := states[i].Problems(); len(problems) > 0 {
				return problems[0].String()
			}
		}
	}
	return ""
}

// Shown is what a screen shows of one question.
type Shown struct {
	Shown    bool     `json:"shown"`
	Fillable bool     `json:"fillable"`
	Values   []string `json:"values"`  // what its control says; of an address and a month and day, by part
	Offered  []string `json:"offered"` // the choices that can be picked
	Other    string   `json:"other"`   // what stands in the field of the choice that brings a text
}

// Screen is what a page shows, by the id of each question's unit.
type Screen map[string]Shown

// Expect is what the page at hand must show.
func (r *Respondent) Expect(page string) Screen {
	out := r.settle()
	screen := Screen{}
	for _, sec := range r.Program.Form.Page(page).Sections {
		if sec.Repeat == nil {
			for _, it := range sec.Items {
				screen["u-a-"+it.Key] = r.shown(out, it, out.State(it.Key, 0), 0, r.Given)
			}
			continue
		}
		state := out.Group(sec.Key)
		for n := range state.Count {
			for i, it := range sec.Items {
				screen[fmt.Sprintf("u-r-%s-%d-%s", sec.Key, n, it.Key)] = r.shown(out, it, &state.Row(n)[i], n, r.Rows[sec.Key][n])
			}
		}
	}
	return screen
}

func (r *Respondent) shown(
	out *engine.Outcome, it *form.Item, st *engine.ItemState, row int, given map[string]any,
) Shown {
	s := Shown{Shown: st.Shown, Fillable: st.Fillable(), Values: []string{}, Offered: []string{}}
	if !s.Fillable {
		return s
	}
	v := out.Value(st, row)
	switch {
	case it.Type.Picks():
		s.Offered = append(s.Offered, st.Choices()...)
		if v.Kind() == expr.Choice {
			s.Values = []string{v.Text()}
		} else {
			s.Values = append(s.Values, v.Picks()...)
		}
		s.Other = v.Other()
		if it.Type == form.Ranking {
			for i, pick := range s.Values {
				s.Values[i] = fmt.Sprintf("%d:%s", i+1, pick)
			}
		}
		slices.Sort(s.Values)
		slices.Sort(s.Offered)
	case it.Type == form.Grid:
		for i, row := range it.Rows {
			if cell := v.Cell(row.Key); st.RowShown(i) && !cell.IsBlank() {
				s.Values = append(s.Values, cell.Text())
			}
		}
	case it.Type == form.YesNo:
		if v.Kind() == expr.YesNo {
			s.Values = []string{v.Plain(r.Program.Location())}
		}
	case it.Type == form.Tick:
		if v.Yes() {
			s.Values = []string{"yes"}
		}
	case it.Type == form.Address:
		for _, part := range expr.AddressParts {
			s.Values = append(s.Values, v.Parts().Get(part))
		}
	case it.Type == form.MonthDay:
		month, day, _ := strings.Cut(v.Text(), "-")
		s.Values = []string{month, day}
	default:
		s.Values = []string{v.Plain(r.Program.Location())}
		if typed, ok := given[it.Key].(string); ok && st.Touched() {
			if it.Type != form.Paragraph {
				typed = strings.ReplaceAll(typed, "\n", "")
			}
			s.Values = []string{typed}
		}
	}
	return s
}

// Stored is what must be stored, without the identities of rows.
func (r *Respondent) Stored() map[string]any { return WithoutRowIDs(r.settle().Stored()) }

// WithoutRowIDs is a stored response as plain JSON values, without the identities of
// its rows.
func WithoutRowIDs(stored any) map[string]any {
	data, err := json.Marshal(stored)
	if err != nil {
		panic(err)
	}
	var out map[string]any
	if err := json.Unmarshal(data, &out); err != nil {
		panic(err)
	}
	for _, v := range out {
		rows, _ := v.([]any)
		for _, row := range rows {
			if m, ok := row.(map[string]any); ok {
				delete(m, engine.RowID)
			}
		}
	}
	return out
}
