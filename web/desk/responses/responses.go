// Package responses is what respondents sent: the list, one response with its files and earlier states,
// and the export.
package responses

import (
	"bufio"
	"context"
	"embed"
	"io"
	"net/http"
	"os"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/text"
	"lazo/store"
	"lazo/web/desk/frame"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen of that name.
type Room struct {
	*frame.Desk
	pages *ui.Renderer
}

// New returns the room.
func New(d *frame.Desk) *Room { return &Room{d, frame.Pages(nil, templates)} }

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/responses", h(d.responses))
	r.Get("/responses.csv", h(d.responsesCSV))
	r.Get("/responses/{response}", h(d.response))
	r.Post("/responses/{response}/delete", h(d.deleteResponse))
	r.Get("/responses/{response}/files/{upload}", h(d.responseFile))
}

const responsesPerPage = 50

type responsesPage struct {
	frame.Frame
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

// tableColumns are the questions that the table of responses shows.
const tableColumns = 5

func (d *Room) responses(w http.ResponseWriter, r *http.Request) error {
	f, def, fr, err := d.OpenTab(r, "responses")
	if err != nil {
		return err
	}
	p := responsesPage{Frame: fr}
	if p.Total, err = d.Of(f).CountResponses(r.Context()); err != nil {
		return err
	}
	at, err := strconv.Atoi(r.URL.Query().Get("page"))
	if err != nil || at < 1 || at > p.Total/responsesPerPage+1 {
		at = 1
	}
	list, err := d.Of(f).Responses(r.Context(), (at-1)*responsesPerPage, responsesPerPage)
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

func (d *Room) responseLine(ctx context.Context, f store.Form, res store.Response, items []*form.Item) (responseLine, error) {
	p, err := d.Programs.Get(ctx, f.ID, res.Edition)
	if err != nil {
		return responseLine{}, err
	}
	line := responseLine{ID: res.ID, Edition: res.Edition, Received: res.ReceivedAt.In(p.Location()).Format("2 Jan 2006, 15:04")}
	answers, err := engine.ParseAnswers(res.Answers)
	if err != nil {
		return line, err
	}
	for _, it := range items {
		line.Cells = append(line.Cells, inWords(p, it.Key, answers[it.Key], res.Labels[it.Key]))
	}
	return line, nil
}

// inWords prints a stored answer, choices by their labels.
func inWords(p *engine.Program, key string, v any, kept map[string]string) string {
	sym := p.Symbols.Items[key]
	if sym == nil || sym.Type.Options == nil {
		return exchange.Plain(v)
	}
	label := func(v any) any {
		s, _ := v.(string)
		text := ""
		if m, ok := v.(map[string]any); ok && m["value"] != nil {
			s, _ = m["value"].(string)
			text, _ = m["text"].(string)
		}
		if was := kept[s]; was != "" { // as it read when it was stored
			return was
		}
		if i, ok := sym.Type.Options.Find(s); ok {
			if text != "" {
				return sym.Type.Options.Labels[i] + ": " + text
			}
			return sym.Type.Options.Labels[i]
		}
		return v
	}
	if cells, ok := v.(map[string]any); ok && sym.Type.Kind == expr.Grid {
		var lines []string
		for _, row := range p.Item(key).Rows {
			if cell := cells[row.Key]; cell != nil {
				picks, several := cell.([]any)
				if !several {
					picks = []any{cell}
				}
				for i := range picks {
					picks[i] = label(picks[i])
				}
				lines = append(lines, text.Name(row.Name())+": "+exchange.Plain(picks))
			}
		}
		return strings.Join(lines, "; ")
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

// responsesCSV hands out all responses. They are written to a file first: so the
// database waits for no slow reader, and what fails midway is no file at all.
func (d *Room) responsesCSV(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	staged, err := os.CreateTemp("", "responses-*.csv")
	if err != nil {
		return err
	}
	defer os.Remove(staged.Name())
	defer staged.Close()
	err = d.Of(f).AtOnce(r.Context(), func(all store.Snapshot) error {
		out := bufio.NewWriter(staged)
		if err := writeCSV(all, out); err != nil {
			return err
		}
		return out.Flush()
	})
	if err != nil {
		return err
	}
	size, err := staged.Seek(0, io.SeekEnd)
	if err != nil {
		return err
	}
	if _, err := staged.Seek(0, io.SeekStart); err != nil {
		return err
	}
	h := w.Header()
	h.Set("Content-Type", "text/csv; charset=utf-8")
	h.Set("Content-Disposition", `attachment; filename="`+f.Address+"-"+d.Now().Format(time.DateOnly)+`.csv"`)
	h.Set("Content-Length", strconv.FormatInt(size, 10))
	_, err = io.Copy(w, staged)
	return err
}

// writeCSV writes all responses, under the columns of all editions that they belong to.
func writeCSV(all store.Snapshot, out io.Writer) error {
	stored, err := all.Editions()
	if err != nil {
		return err
	}
	var editions []*form.Form
	for _, e := range stored {
		def, err := e.Form()
		if err != nil {
			return err
		}
		editions = append(editions, def)
	}
	rows := map[string]int{}
	err = all.Each(func(res store.Response) error {
		answers, err := engine.ParseAnswers(res.Answers)
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
	return exchange.NewTable(editions, rows).CSV(out, func(write func(exchange.Response) error) error {
		return all.Each(func(res store.Response) error {
			answers, err := engine.ParseAnswers(res.Answers)
			if err != nil {
				return err
			}
			return write(exchange.Response{ID: res.ID, Edition: res.Edition, Received: res.ReceivedAt, Answers: answers, Parameters: res.Parameters})
		})
	})
}
