package desk

import (
	"context"
	"net/http"
	"slices"
	"strconv"
	"time"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/store"
)

const responsesPerPage = 50

type responsesPage struct {
	Frame
	Columns         []string
	Lines           []responseLine
	Total, From, To int
	Previous, Next  int // pages, from 1; 0 for none
}

type responseLine struct {
	ID       string
	Received string
	Edition  int
	Cells    []string
}

// answersOf reads what is stored of a response.
func answersOf(r store.Response) (answers map[string]any, params map[string][]string, err error) {
	if answers, err = engine.ParseAnswers(r.Answers); err != nil {
		return nil, nil, err
	}
	params, err = r.Params()
	return answers, params, err
}

// tableColumns are the questions that the table of responses shows.
const tableColumns = 5

func (d *Desk) responses(w http.ResponseWriter, r *http.Request) error {
	f, def, fr, err := d.openTab(r, "responses")
	if err != nil {
		return err
	}
	p := responsesPage{Frame: fr}
	if p.Total, err = d.store.CountResponses(r.Context(), f.ID); err != nil {
		return err
	}
	at, err := strconv.Atoi(r.URL.Query().Get("page"))
	if err != nil || at < 1 {
		at = 1
	}
	list, err := d.store.Responses(r.Context(), f.WorkspaceID, f.ID, (at-1)*responsesPerPage, responsesPerPage)
	if err != nil {
		return err
	}
	items := firstQuestions(def)
	for _, it := range items {
		p.Columns = append(p.Columns, it.Name())
	}
	for _, res := range list {
		line, err := d.responseLine(r.Context(), f, res, items)
		if err != nil {
			return err
		}
		p.Lines = append(p.Lines, line)
	}
	p.From, p.To = (at-1)*responsesPerPage+1, (at-1)*responsesPerPage+len(list)
	if at > 1 {
		p.Previous = at - 1
	}
	if p.To < p.Total {
		p.Next = at + 1
	}
	return d.pages.Page(w, http.StatusOK, "responses", p)
}

func firstQuestions(def *form.Form) []*form.Item {
	var out []*form.Item
	for pl := range def.Places() {
		if pl.Item.Asked() && pl.Section.Repeat == nil && !pl.Item.Parked && pl.Item.Type != form.Hidden && len(out) < tableColumns {
			out = append(out, pl.Item)
		}
	}
	return out
}

func (d *Desk) responseLine(ctx context.Context, f store.Form, res store.Response, items []*form.Item) (responseLine, error) {
	p, err := d.programs.Get(ctx, f.ID, res.Edition)
	if err != nil {
		return responseLine{}, err
	}
	line := responseLine{ID: res.ID, Edition: res.Edition, Received: res.ReceivedAt.In(p.Location()).Format("2 Jan 2006, 15:04")}
	answers, _, err := answersOf(res)
	if err != nil {
		return line, err
	}
	for _, it := range items {
		line.Cells = append(line.Cells, inWords(p, it.Key, answers[it.Key]))
	}
	return line, nil
}

// inWords prints a stored answer, choices by their labels.
func inWords(p *engine.Program, key string, v any) string {
	sym := p.Symbols.Items[key]
	if sym == nil || sym.Type.Options == nil {
		return exchange.Plain(v)
	}
	label := func(v any) any {
		s, _ := v.(string)
		if i, ok := sym.Type.Options.Find(s); ok {
			return sym.Type.Options.Labels[i]
		}
		return v
	}
	if list, ok := v.([]any); ok {
		out := make([]any, len(list))
		for i, e := range list {
			out[i] = label(e)
		}
		return exchange.Plain(out)
	}
	return exchange.Plain(label(v))
}

func toAny(list []string) []any {
	out := make([]any, len(list))
	for i, s := range list {
		out[i] = s
	}
	return out
}

func (d *Desk) responsesCSV(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.open(r)
	if err != nil {
		return err
	}
	numbers, err := d.store.ResponseEditions(r.Context(), f.WorkspaceID, f.ID)
	if err != nil {
		return err
	}
	slices.Reverse(numbers)
	var editions []*form.Form
	for _, n := range numbers {
		p, err := d.programs.Get(r.Context(), f.ID, n)
		if err != nil {
			return err
		}
		editions = append(editions, p.Form)
	}
	rows := map[string]int{}
	err = d.store.EachResponse(r.Context(), f.WorkspaceID, f.ID, func(res store.Response) error {
		answers, _, err := answersOf(res)
		for key, v := range answers {
			if list, ok := v.([]any); ok {
				rows[key] = max(rows[key], len(list))
			}
		}
		return err
	})
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", `attachment; filename="`+f.Address+"-"+d.now().Format(time.DateOnly)+`.csv"`)
	return exchange.NewTable(editions, rows).CSV(w, func(write func(exchange.Response) error) error {
		return d.store.EachResponse(r.Context(), f.WorkspaceID, f.ID, func(res store.Response) error {
			answers, params, err := answersOf(res)
			if err != nil {
				return err
			}
			return write(exchange.Response{ID: res.ID, Edition: res.Edition, Received: res.ReceivedAt, Answers: answers, Parameters: params})
		})
	})
}
