package intake

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/form"
)

// ErrNothing is for a file in which nothing stands below a heading.
var ErrNothing = errors.New("there is nothing in it below a heading: the first line names the columns, each line below is a response")

// Cells are the cells of a spreadsheet's first sheet that has some, the heading first. The
// error says what hinders it; it may be [ErrNothing] or an [exchange.ErrSheet].
func Cells(data []byte) ([][]string, error) {
	sheets, err := exchange.ReadMany(data)
	if err != nil {
		return nil, err
	}
	for _, s := range sheets {
		switch {
		case len(s.Cells) == 0:
			continue
		case len(s.Faults) > 0:
			return nil, fmt.Errorf("this can’t be read yet: %s", s.Faults[0])
		case len(s.Cells) < 2:
			return nil, ErrNothing
		}
		return s.Cells, nil
	}
	return nil, ErrNothing
}

// fillings is the name space of the fillings of rows that are read in (RFC 9562, 5.5).
var fillings = uuid.MustParse("3c8f1d0a-6b60-4f0e-9a3e-5f1f0c6e2b7d")

// Filling is the filling of a row: the same for the same row of the same cells in a form, so
// that it is not taken twice.
func Filling(form int64, row int, cells []string) string {
	of := fmt.Sprintf("%d\x01%d\x01%s", form, row, strings.Join(cells, "\x00"))
	return uuid.NewSHA1(fillings, []byte(of)).String()
}

// Response is a row that the engine takes, as it is to be stored.
type Response struct {
	engine.Stored
	Parameters map[string][]string
	Received   time.Time
	Overridden []string // what has to be answered and was not, if it is taken anyway
}

// MostFaults is how many faults are told; what is beyond is only counted.
const MostFaults = 100

// Reading is what reading rows in came to.
type Reading struct {
	Responses int
	Faults    []exchange.Fault // at most [MostFaults]
	Faulty    int              // all of them, and the rows that lack something
	Lacking   []Count          // questions that have to be answered and that no column holds
	Left      []Count          // cells that count for nothing: their question is not asked
}

// Count is in how many rows something is so of a question.
type Count struct {
	Label string
	N     int
}

// Reader reads rows in.
type Reader struct {
	program *engine.Program
	columns []*Target // of each column, nil for one that is left out
	orders  []Order   // of the dates in each column, as far as it was said
	dated   bool      // what was not said was looked for in the columns
	unclear []bool    // columns of dates whose order has to be said
	at      map[string]int
	plain   bool // numbers and dates are written as Lazo writes them, not as people do
	now     time.Time
	anyway  bool
	left    map[string]int
	lacking map[string]int // by the label of a question
}

// NewReader reads rows in whose columns hold the targets of those names, as of now unless
// a column says when they were received. An error is for a name that is none, or one that
// two columns have.
func NewReader(p *engine.Program, head, match []string, now time.Time) (*Reader, error) {
	r := &Reader{program: p, columns: make([]*Target, len(head)), orders: make([]Order, len(head)),
		unclear: make([]bool, len(head)),
		at:      map[string]int{}, now: now,
		left: map[string]int{}, lacking: map[string]int{},
		plain: len(head) > 2 && head[0] == "response" && head[1] == "received"}
	targets := Targets(p.Form, head)
	for i := range head {
		if i >= len(match) || match[i] == "" {
			continue
		}
		name, order := Matched(match[i])
		at := slices.IndexFunc(targets, func(t Target) bool { return t.Name == name })
		if at < 0 {
			return nil, fmt.Errorf("there is nothing to match called “%s”", name)
		}
		if before, twice := r.at[name]; twice {
			return nil, fmt.Errorf("“%s” and “%s” can’t both be %s", head[before], head[i], targets[at].Label)
		}
		r.columns[i], r.at[name], r.orders[i] = &targets[at], i, order
	}
	if len(r.at) == 0 {
		return nil, fmt.Errorf("no column is matched to a question yet")
	}
	return r, nil
}

// Anyway has rows taken that lack something which no column holds; each says what.
func (r *Reader) Anyway() *Reader {
	r.anyway = true
	return r
}

// Read judges all rows below the heading, which is the first of cells, and hands those
// that the engine takes to visit, with the number of their row; rows without any answer
// are passed over.
func (r *Reader) Read(cells [][]string, visit func(row int, res Response) error) (Reading, error) {
	return r.ReadFrom(cells, 1, visit)
}

// ReadFrom is Read from a row on.
func (r *Reader) ReadFrom(cells [][]string, from int, visit func(row int, res Response) error) (Reading, error) {
	var out Reading
	r.date(cells)
	for n := from; n < len(cells); n++ {
		if !slices.ContainsFunc(cells[n], func(c string) bool { return strings.TrimSpace(c) != "" }) {
			continue
		}
		res, faults, lacks, err := r.row(n, cells[n])
		if err != nil {
			return out, err
		}
		if lacks {
			out.Faulty++
		}
		if len(faults) > 0 || lacks {
			out.Faulty += len(faults)
			out.Faults = append(out.Faults, faults[:min(len(faults), MostFaults-len(out.Faults))]...)
			continue
		}
		out.Responses++
		if err := visit(n, res); err != nil {
			return out, err
		}
	}
	for _, t := range r.columns {
		if t != nil && r.left[t.Name] > 0 {
			out.Left = append(out.Left, Count{t.Label, r.left[t.Name]})
		}
	}
	for _, label := range slices.Sorted(maps.Keys(r.lacking)) {
		out.Lacking = append(out.Lacking, Count{label, r.lacking[label]})
	}
	return out, nil
}

// date finds in which order the dates of each column are, from all of its cells.
func (r *Reader) date(cells [][]string) {
	if r.dated {
		return
	}
	r.dated = true
	for n, t := range r.columns {
		if t == nil || !t.isDate(r.program.Form) {
			continue
		}
		dated, _ := DatesOf(r.program.Form, cells, n, r.orders[n].Dated(t.Name))
		r.orders[n], r.unclear[n] = dated.Order, dated.Order == "" && len(dated.Orders) > 0
	}
}

// row judges one row; it lacks something that no column holds.
func (r *Reader) row(n int, cells []string) (res Response, faults []exchange.Fault, lacks bool, err error) {
	fault := func(column int, text string) {
		faults = append(faults, exchange.Fault{Cell: exchange.CellName(n, column), Text: text})
	}
	res = Response{Received: r.now, Parameters: map[string][]string{}}
	raw := r.raw(cells, &res, fault)
	out := r.program.Run(engine.Input{
		Answers: r.program.Answers(raw), Params: res.Parameters, At: res.Received, Begun: res.Received, Mode: engine.Staff,
	})
	res.Overridden = r.findings(out, cells, fault)
	if lacks = len(res.Overridden) > 0; lacks && r.anyway && len(faults) == 0 {
		out.Override()
		lacks = false
	}
	if len(faults) > 0 || lacks {
		return res, faults, lacks, nil
	}
	if !out.Accepted {
		fault(0, "this row is not taken as it is")
		return res, faults, false, nil
	}
	res.Stored, err = out.ToStore()
	for key, choices := range res.Takes { // the office may go beyond for one, but not by the hundred
		for value, take := range choices {
			if most, ok := out.Left(key, value); ok {
				take.Of = &most
				choices[value] = take
			}
		}
	}
	return res, nil, false, err
}

// text is what a cell of a column that holds something says, "" for nothing.
func (r *Reader) text(cells []string, column int) string {
	if r.columns[column] == nil || column >= len(cells) {
		return ""
	}
	return strings.TrimSpace(cells[column])
}

// raw are the answers of a row; what else it says is put into the response.
func (r *Reader) raw(cells []string, res *Response, fault func(column int, text string)) map[string]any {
	raw := map[string]any{}
	for i, t := range r.columns {
		text := r.text(cells, i)
		switch {
		case text == "":
		case t.kind == paramTarget:
			res.Parameters[t.key] = []string{text}
		case t.kind == momentTarget:
			at, ok := moment(text, r.program.Location())
			if !ok {
				fault(i, "this is no date and time such as 2026-05-30 14:05")
			} else if at.After(r.now) {
				fault(i, "this has not been yet")
			} else {
				res.Received = at
			}
		case t.kind != otherTarget:
			if _, _, figures := DayFirst.day(text); r.unclear[i] && figures {
				fault(i, "say above whether the day or the month comes first in this column")
			}
			r.put(raw, t, r.orders[i].Read(text))
		}
	}
	for i, t := range r.columns { // once the picks are there that they belong to
		if text := r.text(cells, i); text != "" && t.kind == otherTarget {
			r.put(raw, t, text)
		}
	}
	return raw
}

// findings says what is wrong with the cells of a row, and gives what has to be answered
// and no column holds.
func (r *Reader) findings(out *engine.Outcome, cells []string, fault func(column int, text string)) (lacking []string) {
	told := map[int]bool{} // columns of which it is said already
	for i, t := range r.columns {
		text := r.text(cells, i)
		if text == "" || t.kind == paramTarget || t.kind == momentTarget {
			continue
		}
		if text = r.missed(out, t, text); text != "" {
			fault(i, text)
			told[i] = true
		}
	}
	counted := map[string]bool{}
	for _, f := range out.Findings("") {
		column, known := r.columnOf(f)
		if !known && (f.Problem.Code == engine.Missing || f.Problem.Code == engine.NotTicked) {
			if lacking = append(lacking, f.Said()); !counted[f.Item.Key] {
				r.lacking[lackingLabel(f)]++
			}
			counted[f.Item.Key] = true
		} else if !known || !told[column] {
			fault(column, f.Said())
		}
	}
	return lacking
}

// lackingLabel is what a question is called that no column holds.
func lackingLabel(f engine.Finding) string {
	if f.Section != nil && f.Section.Repeat != nil {
		return f.Section.Name() + ", " + f.Label
	}
	return f.Label
}

// missed says why a cell's answer is not what is stored: a pick that is not there, or not
// on offer. What is not asked at all is counted.
func (r *Reader) missed(out *engine.Outcome, t *Target, said string) string {
	if t.section != "" && t.row >= out.Group(t.section).Count {
		r.left[t.Name]++
		return ""
	}
	st := out.State(t.key, t.row)
	switch {
	case !st.Fillable():
		r.left[t.Name]++
	case st.Unmatched() && (st.Item().Type.Picks() || st.Item().Type == form.Grid):
		return fmt.Sprintf("“%s” is none of the choices of %s", shortened(said), st.Item().Name())
	case len(st.Aside()) > 0:
		return fmt.Sprintf("“%s” is not on offer with the other answers of the line", shortened(said))
	}
	return ""
}

// shortened is as much of a cell as is repeated in a message.
func shortened(text string) string {
	if runes := []rune(text); len(runes) > 40 {
		return string(runes[:40]) + "…"
	}
	return text
}

// columnOf is the column of what a finding is about; the first, not known, for what no
// column holds.
func (r *Reader) columnOf(f engine.Finding) (at int, known bool) {
	if f.Item == nil {
		return 0, false
	}
	for i, t := range r.columns {
		if t != nil && t.key == f.Item.Key && (t.section == "" || t.row == f.Row) {
			return i, true
		}
	}
	return 0, false
}

// put puts the text of a cell among the answers of its row.
func (r *Reader) put(raw map[string]any, t *Target, text string) {
	in := raw
	if t.section != "" {
		rows, _ := raw[t.section].([]any)
		for len(rows) <= t.row {
			rows = append(rows, map[string]any{})
		}
		raw[t.section] = rows
		in = rows[t.row].(map[string]any)
	}
	it := r.program.Item(t.key)
	switch t.kind {
	case partTarget:
		parts, _ := in[t.key].(map[string]any)
		if parts == nil {
			parts = map[string]any{}
			in[t.key] = parts
		}
		parts[t.part] = text
		if it.Type == form.Grid && it.Many {
			parts[t.part] = several(r.program, it, text)
		}
	case otherTarget:
		in[t.key] = saying(in[t.key], it.Other(), text)
	default:
		in[t.key] = r.answer(it, text)
	}
}

// answer is the text of a cell as an answer.
func (r *Reader) answer(it *form.Item, text string) any {
	switch it.Type {
	case form.ChoicesType, form.Ranking:
		return several(r.program, it, text)
	case form.Number, form.Scale:
		if n := json.Number(text); r.plain && isNumber(text) {
			return n
		}
	case form.YesNo, form.Tick:
		if f := expr.Fold(text); f == "x" || f == "✓" || f == "✔" {
			return true
		}
	}
	return text
}

func isNumber(text string) bool {
	_, err := expr.ParseNumber(text)
	return err == nil
}

// several are picks that stand in one cell, between semicolons, or between commas where
// no pick has one itself.
func several(p *engine.Program, it *form.Item, text string) []any {
	options := p.Symbols.Items[it.Key].Type.Options
	if _, whole := options.Match(text); whole {
		return []any{text}
	}
	sep := ";"
	if !strings.Contains(text, sep) {
		sep = ","
	}
	if strings.Contains(text, "\n") {
		sep = "\n"
	}
	var out []any
	for _, part := range strings.Split(text, sep) {
		if part = strings.TrimSpace(part); part != "" {
			out = append(out, part)
		}
	}
	return out
}

// saying adds what is written for the choice that brings a text to an answer; a cell with
// a text alone picks that choice.
func saying(answer any, other, text string) any {
	said := map[string]any{"value": other, "text": text}
	if pick, _ := answer.(string); pick != "" && expr.Fold(pick) != expr.Fold(other) {
		return answer
	}
	picks, several := answer.([]any)
	if !several {
		return said
	}
	for i, pick := range picks {
		if s, _ := pick.(string); expr.Fold(s) == expr.Fold(other) {
			picks[i] = said
			return picks
		}
	}
	return append(picks, said)
}

// moment reads when a response was received, in the form's zone if the text names none.
func moment(text string, zone *time.Location) (time.Time, bool) {
	for _, layout := range []string{
		time.RFC3339, "2006-01-02 15:04:05", "2006-01-02 15:04", "2006-01-02T15:04:05", "2006-01-02T15:04", time.DateOnly,
	} {
		if at, err := time.ParseInLocation(layout, text, zone); err == nil {
			return at, at.Year() >= 1970
		}
	}
	return time.Time{}, false
}
