package engine

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/mail"
	"net/url"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"lazo/core/expr"
	"lazo/core/form"
)

// Bounds of what a respondent can send.
const (
	MaxAnswers = 8 << 20 // bytes of JSON
	MaxText    = 100_000 // characters of one answer
)

// Again is appended to the key of a question that is typed twice to name the
// second answer.
const Again = "#again"

// Answers are what was sent for a form's questions, each read by its type.
// A question that nothing was sent for is untouched.
type Answers struct {
	slots  []answer
	groups []groupAnswers
}

type groupAnswers struct {
	sent  bool
	rows  int
	cells []answer
	ids   []string // of each row, "" for none; nil if no row has one
}

type answer struct {
	state     answerState
	unmatched bool     // something that was picked is none of the choices
	problem   *Problem // nil for none
	value     expr.Value
	once      bool // it is to be typed twice, and was not: an unchanged one need not be
}

type answerState uint8

const (
	untouched answerState = iota
	given                 // perhaps blank
)

// otherJSON says in words what JSON held instead of an object, as encoding/json calls it.
func otherJSON(found string) string {
	switch found {
	case "bool":
		return "true or false"
	case "array":
		return "a list"
	case "string":
		return "a text"
	}
	return "a number"
}

// ParseAnswers reads a JSON object of answers by key, within bounds.
func ParseAnswers(data []byte) (map[string]any, error) {
	if len(data) > MaxAnswers {
		return nil, fmt.Errorf("the answers are larger than %d MiB", MaxAnswers>>20)
	}
	if !utf8.Valid(data) {
		return nil, errors.New("the answers are not valid UTF-8")
	}
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	var out map[string]any
	err := dec.Decode(&out)
	if other := (*json.UnmarshalTypeError)(nil); errors.As(err, &other) {
		return nil, errors.New(`a JSON object of answers by key was expected, such as {"boat": "eight"}, not ` +
			otherJSON(other.Value))
	}
	if err != nil {
		return nil, fmt.Errorf("the answers are no JSON: %w", err)
	}
	if _, err := dec.Token(); err != io.EOF {
		return nil, errors.New("something stands after the answers' closing brace")
	}
	return out, nil
}

// Source gives raw answers to be read: what was posted, or what a JSON object has.
type Source interface {
	// Answer is what was sent for an item outside repeating sections; ok is false
	// if nothing was.
	Answer(it *form.Item) (v any, ok bool)
	// Again is the second typing of an item that is typed twice.
	Again(it *form.Item) (v any, ok bool)
	// Rows are what was sent for a repeating section: an object of answers by key
	// for each row.
	Rows(s *form.Section) (rows []any, ok bool)
}

// Texts is a Source that can say without more ado that an answer is one text; ok is false
// if it is anything else, or nothing.
type Texts interface {
	Text(it *form.Item) (text string, ok bool)
}

// Raw are answers by key, those of a repeating section as a list of rows under
// its key, as JSON has them.
type Raw map[string]any

func (r Raw) Answer(it *form.Item) (any, bool) { v, ok := r[it.Key]; return v, ok }

func (r Raw) Again(it *form.Item) (any, bool) { v, ok := r[it.Key+Again]; return v, ok }

// Rows is a Source's; what is no list counts as no rows.
func (r Raw) Rows(s *form.Section) ([]any, bool) {
	v, ok := r[s.Key]
	rows, _ := v.([]any)
	return rows, ok
}

// Answers reads raw answers by key. Unknown keys are left out.
func (p *Program) Answers(raw map[string]any) *Answers { return p.AnswersFrom(Raw(raw)) }

// Record reads a stored response, what was computed too, to be shown as it stands.
func (p *Program) Record(raw map[string]any) *Answers {
	return p.readAnswers(Raw(raw), func(*item) bool { return true })
}

// AnswersFrom reads the answers of a source.
func (p *Program) AnswersFrom(src Source) *Answers {
	// What was computed is read where the mode may leave it as it was.
	return p.readAnswers(src, func(it *item) bool { return p.modal || it.reads() })
}

func (p *Program) readAnswers(src Source, reads func(*item) bool) *Answers {
	a := &Answers{slots: make([]answer, len(p.bySlot)), groups: make([]groupAnswers, len(p.groups))}
	plain, _ := src.(Texts)
	for i, it := range p.bySlot {
		if !reads(it) {
			continue
		}
		if plain != nil && !it.Twice && !it.Type.Computed() {
			if text, ok := plain.Text(it.Item); ok {
				p.readString(it, text, &a.slots[i])
				continue
			}
		}
		if v, ok := src.Answer(it.Item); ok {
			p.read(it, v, &a.slots[i])
			p.confirm(it, v, src, &a.slots[i])
		}
	}
	for i := range p.groups {
		g := &p.groups[i]
		rows, ok := src.Rows(p.sections[g.section].Section)
		if !ok {
			continue
		}
		ga := groupAnswers{sent: true, rows: len(rows)}
		kept := min(len(rows), form.MaxRows)
		ga.cells = make([]answer, kept*g.width)
		for r := range kept {
			row, _ := rows[r].(map[string]any)
			ga.identify(r, kept, row)
			for _, it := range g.items {
				if v, ok := row[it.Key]; ok && it.slot >= 0 && reads(it) {
					p.read(it, v, &ga.cells[r*g.width+int(it.slot)])
					p.confirm(it, v, Raw(row), &ga.cells[r*g.width+int(it.slot)])
				}
			}
		}
		a.groups[i] = ga
	}
	return a
}

// RowID is the key under which a stored row carries its identity, a short text
// that stays with the row wherever it moves.
const RowID = "_row"

// maxRowID is the greatest length of a row's identity in bytes; a longer one is none.
const maxRowID = 64

// identify notes the identity that the row at a place of count rows carries. Of
// two rows with the same the second has none.
func (g *groupAnswers) identify(at, count int, row map[string]any) {
	id, _ := row[RowID].(string)
	if id == "" || len(id) > maxRowID || !utf8.ValidString(id) || strings.ContainsRune(id, 0) ||
		slices.Contains(g.ids, id) {
		return
	}
	if g.ids == nil {
		g.ids = make([]string, count)
	}
	g.ids[at] = id
}

// confirm compares with the second typing of a question that is typed twice.
func (p *Program) confirm(it *item, first any, src Source, a *answer) {
	if !it.Twice || a.problem != nil {
		return
	}
	again, ok := src.Again(it.Item)
	if !ok {
		return
	}
	a1, _ := first.(string)
	a2, _ := again.(string)
	if strings.TrimSpace(a1) != strings.TrimSpace(a2) {
		a.problem = &Problem{Code: Differs}
		a.once = strings.TrimSpace(a2) == ""
	}
}

// reads reports whether anything is read for an item: nothing is for what is always
// computed, but for what was decided once.
func (it *item) reads() bool { return !it.Type.Computed() || it.once }

// read reads one answer by the type of its question.
func (p *Program) read(it *item, raw any, a *answer) {
	a.state = given
	if it.Type.Computed() {
		a.value = stored(it.kind, raw)
		return
	}
	switch v := raw.(type) {
	case nil:
		return
	case []any:
		p.readList(it, v, a)
		return
	case []string:
		list := make([]any, len(v))
		for i, s := range v {
			list[i] = s
		}
		p.readList(it, list, a)
		return
	case map[string]any:
		switch {
		case it.kind == expr.Grid:
			p.readGrid(it, v, a)
		case it.kind == expr.Choice || it.kind == expr.Choices:
			p.readList(it, []any{v}, a)
		default:
			p.readParts(it, v, a)
		}
		return
	case bool:
		if it.kind != expr.YesNo {
			a.problem = &Problem{Code: Unreadable, Arg: it.Type.Words()}
			return
		}
		a.value = expr.YesNoValue(v)
		return
	case json.Number:
		p.readNumber(it, v.String(), a)
		return
	case float64:
		p.readNumber(it, json.Number(fmt.Sprint(v)).String(), a)
		return
	case int:
		p.readNumber(it, fmt.Sprint(v), a)
		return
	case string:
		p.readString(it, v, a)
		return
	}
	a.problem = &Problem{Code: Unreadable, Arg: it.Type.Words()}
}

func (p *Program) readString(it *item, text string, a *answer) {
	a.state = given
	switch {
	case !utf8.ValidString(text) || strings.IndexByte(text, 0) >= 0:
		a.problem = &Problem{Code: Unreadable, Arg: it.Type.Words()}
	case len(text) > MaxText && utf8.RuneCountInString(text) > MaxText:
		a.problem = &Problem{Code: TooLong, Arg: strconv.Itoa(MaxText)}
	default:
		a.readText(p, it, text)
	}
}

// stored reads a computed value as it was stored; blank if it is of another kind,
// as after its expression was changed.
func stored(kind expr.Kind, raw any) expr.Value {
	switch v := raw.(type) {
	case bool:
		if kind == expr.YesNo {
			return expr.YesNoValue(v)
		}
	case json.Number:
		if n, err := expr.ParseNumber(v.String()); err == nil && kind == expr.Num {
			return expr.NumberValue(n)
		}
	case []any:
		if kind == expr.Choices {
			return storedPicks(v)
		}
	case map[string]any:
		return storedParts(kind, v)
	case string:
		return storedText(kind, v)
	}
	return expr.Value{}
}

// PickOf is a pick as it is sent or stored, and what was written for it if it brings a text.
func PickOf(raw any) (pick, text string) {
	if of, ok := raw.(map[string]any); ok {
		pick, _ = of["value"].(string)
		text, _ = of["text"].(string)
		return pick, text
	}
	pick, _ = raw.(string)
	return pick, ""
}

func storedPicks(list []any) expr.Value {
	var picks []string
	other, written := "", ""
	for _, e := range list {
		pick, text := PickOf(e)
		if pick == "" {
			continue
		}
		if text != "" {
			other, written = pick, text
		}
		picks = append(picks, pick)
	}
	v := expr.ChoicesValue(picks)
	if written != "" {
		v = v.WithOther(other, written)
	}
	return v
}

// storedParts reads what has named parts: an address, a file, a grid, or a pick with its
// text.
func storedParts(kind expr.Kind, of map[string]any) expr.Value {
	switch kind {
	case expr.Choice:
		if pick, text := PickOf(of); pick != "" {
			return expr.ChoiceValue(pick).WithOther(pick, text)
		}
	case expr.Address, expr.File:
		if v, ok := partsOf(kind, of); ok {
			return v
		}
	case expr.Grid:
		var cells []expr.Cell
		for _, row := range slices.Sorted(maps.Keys(of)) {
			switch v := of[row].(type) {
			case string:
				cells = append(cells, expr.Cell{Row: row, Value: expr.ChoiceValue(v)})
			case []any:
				cells = append(cells, expr.Cell{Row: row, Value: storedPicks(v)})
			}
		}
		return expr.GridValue(cells)
	}
	return expr.Value{}
}

func storedText(kind expr.Kind, text string) expr.Value {
	switch kind {
	case expr.Text:
		return expr.TextValue(text)
	case expr.Choice:
		return expr.ChoiceValue(text)
	case expr.Date:
		if d, ok := expr.ParseDay(text); ok {
			return expr.DayValue(d)
		}
	case expr.Time:
		if sec, ok := expr.ParseTime(text); ok {
			return expr.TimeValue(sec)
		}
	case expr.Moment:
		if t, err := time.Parse(time.RFC3339, text); err == nil {
			return expr.MomentValue(t.Unix())
		}
	}
	return expr.Value{}
}

// readText reads an answer that came as a text.
func (a *answer) readText(p *Program, it *item, text string) {
	if it.kind == expr.Choice { // the usual case of fromText without its lists
		if i, ok := it.options.Match(text); ok {
			a.value = expr.ChoiceValue(it.options.Values[i])
		} else {
			a.unmatched = strings.TrimSpace(text) != ""
		}
		return
	}
	var v expr.Value
	var problem Problem
	var unmatched bool
	if it.kind == expr.Choices {
		v, problem, unmatched = p.fromText(it, []string{text})
	} else {
		v, problem, unmatched = p.scalar(it, expr.Clean(text))
	}
	a.value, a.unmatched = v, unmatched
	if problem.Code != "" {
		kept := problem // so that an answer without a problem takes no memory for one
		a.problem = &kept
	}
}

func (p *Program) readNumber(it *item, digits string, a *answer) {
	if it.kind != expr.Num {
		a.readText(p, it, digits)
		return
	}
	n, err := expr.ParseNumber(digits)
	switch {
	case errors.Is(err, expr.ErrDigits):
		a.problem = &Problem{Code: TooManyDigits}
		return
	case err != nil:
		a.problem = &Problem{Code: NotANumber}
		return
	}
	a.value = expr.NumberValue(n)
}

func (p *Program) readList(it *item, list []any, a *answer) {
	var texts []string
	other := ""
	for _, e := range list {
		switch e := e.(type) {
		case map[string]any: // a pick that brings a text of its own
			value, text := PickOf(e)
			if it.options == nil || it.options.Other == "" || !utf8.ValidString(text) || strings.ContainsRune(text, 0) ||
				len(text) > maxOther {
				a.problem = &Problem{Code: Unreadable, Arg: it.Type.Words()}
				return
			}
			texts = append(texts, value)
			if value == it.options.Other {
				other = text
			}
		case string:
			texts = append(texts, e)
		case json.Number:
			texts = append(texts, e.String())
		default:
			a.problem = &Problem{Code: Unreadable, Arg: it.Type.Words()}
			return
		}
	}
	defer func() {
		if other != "" && a.value.Holds(it.options.Other) {
			a.value = a.value.WithOther(it.options.Other, other)
		}
	}()
	switch {
	case it.kind == expr.Choices:
		var picked []string
		for _, t := range texts { // each entry is one pick, commas and all
			one, missed := match(it.options, []string{t}, false)
			picked = append(picked, one...)
			a.unmatched = a.unmatched || len(missed) > 0
		}
		a.value = expr.ChoicesValue(it.order(picked))
	case len(texts) == 1:
		a.readText(p, it, texts[0])
	case len(texts) > 1:
		a.problem = &Problem{Code: Unreadable, Arg: it.Type.Words()}
	}
}

func (p *Program) readParts(it *item, parts map[string]any, a *answer) {
	if it.kind == expr.Address || it.kind == expr.File {
		if v, ok := partsOf(it.kind, parts); ok {
			a.value = v
			return
		}
	}
	a.problem = &Problem{Code: Unreadable, Arg: it.Type.Words()}
}

// partsOf reads the parts of an address or a file; ok is false if one can't be a text of
// at most 1,000 bytes.
func partsOf(kind expr.Kind, parts map[string]any) (v expr.Value, ok bool) {
	names := expr.AddressParts
	if kind == expr.File {
		names = FileParts
	}
	var out expr.Parts
	for _, name := range names {
		text := ""
		switch v := parts[name].(type) {
		case string:
			text = expr.Clean(v)
		case json.Number:
			text = v.String()
		}
		if !utf8.ValidString(text) || strings.ContainsRune(text, 0) || len(text) > 1000 {
			return expr.Value{}, false
		}
		out = append(out, expr.Part{Name: name, Text: text})
	}
	return expr.PartsValue(kind, out), true
}

// FileParts are the parts of a file's answer: where it is kept, its name, its
// media type and its size in bytes.
var FileParts = []string{"id", "name", "type", "size"}

// fromText reads a text, or the values of a parameter, by the type of its
// question. A text that is none of a question's choices leaves it blank and is
// reported as unmatched, as is any text that the type can't take; the latter is
// a problem, too, where a respondent typed it.
func (p *Program) fromText(it *item, texts []string) (v expr.Value, problem Problem, unmatched bool) {
	if it.kind == expr.Choice || it.kind == expr.Choices {
		picked, missed := match(it.options, texts, it.kind == expr.Choices)
		unmatched := len(missed) > 0
		if it.kind == expr.Choices {
			return expr.ChoicesValue(it.order(picked)), Problem{}, unmatched
		}
		if len(picked) == 0 {
			return expr.Value{}, Problem{}, unmatched
		}
		return expr.ChoiceValue(picked[0]), Problem{}, unmatched
	}
	return p.scalar(it, expr.Clean(texts[0]))
}

// scalar reads what is no choice.
func (p *Program) scalar(it *item, text string) (v expr.Value, problem Problem, unmatched bool) {
	if text == "" {
		return expr.Value{}, Problem{}, false
	}
	fail := func(code ProblemCode) (expr.Value, Problem, bool) { return expr.Value{}, Problem{Code: code}, true }
	switch it.Type {
	case form.Number, form.Scale:
		n, err := p.reading.parse(text)
		switch {
		case errors.Is(err, expr.ErrDigits):
			return fail(TooManyDigits)
		case err != nil:
			return fail(NotANumber)
		}
		return expr.NumberValue(n), Problem{}, false
	case form.Date:
		if d, ok := p.reading.day(text); ok {
			return expr.DayValue(d), Problem{}, false
		}
		return fail(NotADate)
	case form.Time:
		if sec, ok := expr.ParseTime(text); ok {
			return expr.TimeValue(sec), Problem{}, false
		}
		return fail(NotATime)
	case form.MonthDay:
		if s, ok := monthDay(text); ok {
			return expr.TextValue(s), Problem{}, false
		}
		return fail(NotAMonthDay)
	case form.YesNo, form.Tick:
		switch expr.Fold(text) {
		case "yes", "true", "1", "on":
			return expr.YesNoValue(true), Problem{}, false
		case "no", "false", "0", "off":
			return expr.YesNoValue(false), Problem{}, false
		}
		return fail(NotYesNo)
	case form.Email:
		if s, ok := EmailAddress(text); ok {
			return expr.TextValue(s), Problem{}, false
		}
		return fail(NotAnEmail)
	case form.Phone:
		if s, ok := p.reading.phone(text); ok {
			return expr.TextValue(s), Problem{}, false
		}
		return fail(NotAPhone)
	case form.Website:
		if s, ok := website(text); ok {
			return expr.TextValue(s), Problem{}, false
		}
		return fail(NotAWebsite)
	case form.Address, form.File, form.Signature, form.Grid:
		return expr.Value{}, Problem{Code: Unreadable, Arg: it.Type.Words()}, true
	}
	return expr.TextValue(text), Problem{}, false
}

// match finds the options that texts name, by value or else by label. With
// several, a text that names none as a whole may be several between commas.
func match(o *expr.Options, texts []string, several bool) (picked, missed []string) {
	for _, t := range texts {
		if strings.TrimSpace(t) == "" {
			continue
		}
		if i, ok := o.Match(t); ok {
			picked = append(picked, o.Values[i])
			continue
		}
		if !several || !strings.Contains(t, ",") {
			missed = append(missed, t)
			continue
		}
		for part := range strings.SplitSeq(t, ",") {
			if strings.TrimSpace(part) == "" {
				continue
			}
			if i, ok := o.Match(part); ok {
				picked = append(picked, o.Values[i])
			} else {
				missed = append(missed, strings.TrimSpace(part))
			}
		}
	}
	return picked, missed
}

// order puts picks in their order: that of the question, or of a ranking as they came.
func (it *item) order(picked []string) []string {
	if it.Type != form.Ranking {
		return inOrder(it.options, picked)
	}
	var out []string
	for _, p := range picked {
		if !slices.Contains(out, p) {
			out = append(out, p)
		}
	}
	return out
}

// maxOther is the longest text of a choice that brings one, in bytes.
const maxOther = 2000

// inOrder sorts picks as the question orders its choices, each once.
func inOrder(o *expr.Options, picked []string) []string {
	at := func(v string) int { i, _ := o.Find(v); return i }
	sort.SliceStable(picked, func(i, j int) bool { return at(picked[i]) < at(picked[j]) })
	return slices.Compact(picked)
}

// monthDay reads "05-30", also "--05-30" as ISO 8601 had it.
func monthDay(text string) (string, bool) {
	text = strings.TrimPrefix(text, "--")
	if len(text) != 5 {
		return "", false
	}
	if _, ok := expr.ParseDay("2000-" + text); !ok { // a leap year, so that 29 February is a day
		return "", false
	}
	return text, true
}

// EmailAddress accepts one e-mail address without a name, and puts its domain in lower case.
func EmailAddress(text string) (string, bool) {
	a, err := mail.ParseAddress(text)
	if err != nil || a.Name != "" || a.Address != text || len(text) > 254 {
		return "", false
	}
	at := strings.LastIndexByte(text, '@')
	domain := strings.ToLower(text[at+1:])
	if !strings.Contains(domain, ".") || strings.HasPrefix(domain, ".") || strings.HasSuffix(domain, ".") ||
		strings.ContainsAny(domain, "[] ") {
		return "", false
	}
	return text[:at+1] + domain, true
}

// website accepts an address on the web; one without a scheme is taken as https.
func website(text string) (string, bool) {
	if !strings.Contains(text, "://") {
		text = "https://" + text
	}
	u, err := url.Parse(text)
	if err != nil || (u.Scheme != "http" && u.Scheme != "https") || !strings.Contains(u.Hostname(), ".") ||
		u.User != nil || strings.ContainsAny(text, " \t\"<>") || len(text) > 2000 {
		return "", false
	}
	return text, true
}
