package exchange

import (
	"encoding/json"
	"io"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"

	"lazo/core/form"
)

// Book is the layout of responses as a spreadsheet: a sheet of responses, with a column
// for each question that any of the editions stores, and a sheet for each repeating
// section, with a line for each row.
type Book struct {
	main   *Table
	groups []group
	zone   *time.Location
}

type group struct {
	key, name string
	columns   []column
}

// NewBook lays the sheets out for editions, the newest first.
func NewBook(editions []*form.Form) *Book {
	b := &Book{main: NewTable(editions, nil), zone: time.UTC}
	b.zone = b.main.zone
	at := map[string]int{}
	seen := map[string]bool{}
	for _, f := range editions {
		for p := range f.Places() {
			if p.Section.Repeat == nil || !p.Item.Asked() || !p.Item.IsStored() || seen[p.Item.Key] {
				continue
			}
			seen[p.Item.Key] = true
			i, known := at[p.Section.Key]
			if !known {
				i = len(b.groups)
				at[p.Section.Key] = i
				b.groups = append(b.groups, group{key: p.Section.Key, name: p.Section.Key})
			}
			t := Table{}
			t.add(p.Item, column{title: p.Item.Key, key: p.Item.Key})
			b.groups[i].columns = append(b.groups[i].columns, t.columns...)
		}
	}
	return b
}

// XLSX writes the book, streamed. Numbers, truth values and dates are cells of their
// types; whatever reads like a formula is a text.
func (b *Book) XLSX(w io.Writer, each func(write func(Response) error) error) error {
	book := excelize.NewFile()
	defer book.Close()
	day, err := book.NewStyle(&excelize.Style{NumFmt: 14})
	if err != nil {
		return err
	}
	moment, err := book.NewStyle(&excelize.Style{NumFmt: 22})
	if err != nil {
		return err
	}
	if err := book.SetSheetName("Sheet1", "Responses"); err != nil {
		return err
	}
	s := &streams{book: book, day: day, moment: moment, zone: b.zone}
	head := []string{"response", "received", "edition"}
	for _, c := range b.main.columns {
		head = append(head, c.title)
	}
	main, err := s.sheet("Responses", head)
	if err != nil {
		return err
	}
	rows := make([]*stream, len(b.groups))
	for i, g := range b.groups {
		head := []string{"response", "row"}
		for _, c := range g.columns {
			head = append(head, c.title)
		}
		if rows[i], err = s.sheet(SheetName(g.name), head); err != nil {
			return err
		}
	}
	if err := each(func(r Response) error { return b.response(main, rows, r) }); err != nil {
		return err
	}
	for _, st := range append(rows, main) {
		if err := st.w.Flush(); err != nil {
			return err
		}
	}
	return book.Write(w)
}

func (b *Book) response(main *stream, rows []*stream, r Response) error {
	line := []any{r.ID, main.moment(r.Received), r.Edition}
	for _, c := range b.main.columns {
		line = append(line, main.typed(c.cell(r)))
	}
	if err := main.put(line); err != nil {
		return err
	}
	for i, g := range b.groups {
		list, _ := r.Answers[g.key].([]any)
		for n, row := range list {
			cells, _ := row.(map[string]any)
			line := []any{r.ID, n + 1}
			for _, c := range g.columns {
				line = append(line, rows[i].typed(c.cell(Response{Answers: cells})))
			}
			if err := rows[i].put(line); err != nil {
				return err
			}
		}
	}
	return nil
}

// streams are the sheets of a book that is written line by line.
type streams struct {
	book        *excelize.File
	day, moment int // styles
	zone        *time.Location
}

type stream struct {
	*streams
	w *excelize.StreamWriter
	n int
}

func (s *streams) sheet(name string, head []string) (*stream, error) {
	if name != "Responses" {
		if _, err := s.book.NewSheet(name); err != nil {
			return nil, err
		}
	}
	w, err := s.book.NewStreamWriter(name)
	if err != nil {
		return nil, err
	}
	out := &stream{streams: s, w: w}
	cells := make([]any, len(head))
	for i, h := range head {
		cells[i] = h
	}
	return out, out.put(cells)
}

func (s *stream) put(line []any) error {
	s.n++
	return s.w.SetRow("A"+strconv.Itoa(s.n), line)
}

func (s *stream) moment(t time.Time) any {
	local := t.In(s.zone)
	return excelize.Cell{StyleID: s.streams.moment, Value: wall(local)}
}

// wall is the time on the wall as a spreadsheet keeps it, which knows no zones.
func wall(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second(), 0, time.UTC)
}

// typed is an answer as a cell of its type.
func (s *stream) typed(v any) any {
	switch v := v.(type) {
	case nil:
		return nil
	case bool:
		return v
	case json.Number:
		if n, err := v.Float64(); err == nil && len(strings.Trim(v.String(), "-.0")) <= 15 {
			return n // more digits than a spreadsheet keeps stay a text
		}
		return v.String()
	case string:
		if day, err := time.Parse(time.DateOnly, v); err == nil && day.Year() >= 1900 {
			return excelize.Cell{StyleID: s.day, Value: day}
		}
		if at, err := time.Parse(time.RFC3339, v); err == nil && at.Year() >= 1900 {
			return s.moment(at)
		}
		return v
	}
	return Plain(v)
}

// AnswersSchema describes the stored answers of a form as JSON Schema (2020-12).
func AnswersSchema(f *form.Form) map[string]any {
	properties := map[string]any{}
	for p := range f.Places() {
		it := p.Item
		if !it.Asked() || !it.IsStored() || it.Parked {
			continue
		}
		if p.Section.Repeat == nil {
			properties[it.Key] = answerSchema(f, it)
			continue
		}
		list, _ := properties[p.Section.Key].(map[string]any)
		if list == nil {
			list = map[string]any{"type": "array", "items": map[string]any{
				"type": "object", "properties": map[string]any{"_row": map[string]any{"type": "string"}},
			}}
			properties[p.Section.Key] = list
		}
		of, _ := list["items"].(map[string]any)
		row, _ := of["properties"].(map[string]any)
		row[it.Key] = answerSchema(f, it)
	}
	return map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": f.Title, "type": "object",
		"properties": properties}
}

func answerSchema(f *form.Form, it *form.Item) map[string]any {
	out := map[string]any{"title": it.Name()}
	text := func(format string) {
		out["type"] = "string"
		if format != "" {
			out["format"] = format
		}
	}
	pick := map[string]any{"type": "string"}
	if it.Type.Picks() || it.Type == form.Grid {
		if o := f.Options(it); it.ChoicesFrom == nil {
			pick["enum"] = o.Values
		}
		if it.Other() != "" {
			pick = map[string]any{"anyOf": []any{pick, map[string]any{"type": "object", "properties": map[string]any{
				"value": map[string]any{"type": "string"}, "text": map[string]any{"type": "string"},
			}}}}
		}
	}
	switch it.Type {
	case form.Number, form.Scale:
		out["type"] = "number"
	case form.YesNo, form.Tick:
		out["type"] = "boolean"
	case form.Date:
		text("date")
	case form.Email:
		text("email")
	case form.Website:
		text("uri")
	case form.ChoiceType:
		for k, v := range pick {
			out[k] = v
		}
	case form.ChoicesType, form.Ranking:
		out["type"], out["items"] = "array", pick
	case form.Grid, form.Address, form.File, form.Signature:
		out["type"] = "object"
	case form.Hidden, form.Calculation: // of the type that their expression has
	default:
		text("")
	}
	return out
}
