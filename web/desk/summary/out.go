package summary

import (
	"bufio"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"os"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/core/text"
	"lazo/notify"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/response"
	"lazo/web/desk/responses"
)

// outPage offers the responses of a view in formats that other programs read, and on
// paper.
type outPage struct {
	layout.Header
	Name          string
	Narrow        bool
	Back          string
	Formats       []outFormat
	Documents     []outFormat // of each response, on paper
	Print, Schema string
	Files         string
	Long          bool   // it takes long, and is made beside what people do
	Make          string // the address that begins that
	Here          string
	Exports       []exportLine
	Going         bool // one of them is being made
	Problem       string
}

// outFormat is a format in which responses are handed out.
type outFormat struct{ Format, Name, Href, Says string }

// longExport is from how many responses on a file is made beside what people do.
const longExport = 20_000

func (d *Room) out(w http.ResponseWriter, r *http.Request) error {
	return d.outPage(w, r, http.StatusOK, "")
}

func (d *Room) outPage(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	p := outPage{Header: l.Frame, Name: "All responses", Narrow: l.View.When != "" || l.Find != "", Back: l.Address(""),
		Print: l.Address("/sheets"), Files: l.Address("/files.zip"),
		Schema: layout.Base(l.Form.ID) + "/responses/schema.json",
		Make:   l.Address("/out"), Here: l.Address("/out"), Problem: problem}
	if l.Saved != nil {
		p.Name = l.Saved.Name
	}
	for _, f := range [][3]string{
		{"csv", "CSV", "one line a response; a column for each row of a section"},
		{"xlsx", "XLSX", "numbers and dates as such; a sheet of its own for each repeating section"},
		{"ndjson", "NDJSON", "an object a line, as it is stored"},
	} {
		p.Formats = append(p.Formats, outFormat{f[0], f[1], l.Address("/as." + f[0]), f[2]})
	}
	n, err := d.InForm(l.Form).CountResponses(r.Context())
	if err != nil {
		return err
	}
	for _, doc := range l.Lens.Program.Form.Documents {
		p.Documents = append(p.Documents,
			outFormat{Name: text.Name(doc.Name), Href: l.Address("/documents/" + doc.Key + ".pdf")})
	}
	p.Long = n > longExport
	if p.Exports, p.Going, err = d.exportsOf(r.Context(), l); err != nil {
		return err
	}
	return d.pages.Page(w, status, "out", p)
}

// written are the formats in which responses are handed out.
var written = map[string]struct {
	media string
	write func(d *Room, l *responses.Looking, all store.Snapshot, out io.Writer, tick func() error) error
}{
	"csv":    {"text/csv; charset=utf-8", (*Room).writeCSV},
	"xlsx":   {"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", (*Room).writeXLSX},
	"ndjson": {"application/x-ndjson", (*Room).writeNDJSON},
}

// as hands the responses of a view out in a format. They are written to a file first: so
// the database waits for no slow reader, and what fails midway is no file at all.
func (d *Room) as(w http.ResponseWriter, r *http.Request) error {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	format := chi.URLParam(r, "format")
	if format == "" {
		format = "csv"
	}
	as, ok := written[format]
	if !ok || l.Fault != "" {
		return store.ErrNotFound
	}
	staged, err := os.CreateTemp("", "responses-*."+format)
	if err != nil {
		return err
	}
	defer os.Remove(staged.Name())
	defer staged.Close()
	err = d.InForm(l.Form).AtOnce(r.Context(), func(all store.Snapshot) error {
		out := bufio.NewWriterSize(staged, 1<<16)
		if err := as.write(d, l, all, out, func() error { return nil }); err != nil {
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
	h.Set("Content-Type", as.media)
	h.Set("Content-Disposition", `attachment; filename="`+d.fileName(l, format)+`"`)
	h.Set("Content-Length", strconv.FormatInt(size, 10))
	_, err = io.Copy(w, staged)
	return err
}

// fileName is what a file of responses is called.
func (d *Room) fileName(l *responses.Looking, format string) string {
	return l.Form.Address + "-" + d.Now().Format(time.DateOnly) + "." + format
}

// oldestFirst is the look of a view as it is handed out: in its own order, or else the
// oldest first.
func oldestFirst(l *responses.Looking) store.Look {
	look := l.Look()
	if l.View.Sort == "" {
		look.Up = true
	}
	return look
}

// editions are the forms of all editions that responses belong to, with how many rows
// their repeating sections have at most.
func editions(l *responses.Looking, all store.Snapshot) ([]*form.Form, map[string]int, error) {
	stored, err := all.Editions()
	if err != nil {
		return nil, nil, err
	}
	var out []*form.Form
	rows := map[string]int{}
	for _, e := range stored {
		def, err := e.Form()
		if err != nil {
			return nil, nil, err
		}
		out = append(out, l.Mask.Form(def))
		for p := range def.Places() {
			if _, known := rows[p.Section.Key]; p.Section.Repeat == nil || known {
				continue
			}
			if rows[p.Section.Key], err = all.MostRows(p.Section.Key); err != nil {
				return nil, nil, err
			}
		}
	}
	return out, rows, nil
}

// toWrite is a response as it is handed out.
func toWrite(l *responses.Looking, res store.Response) (exchange.Response, error) {
	open, err := l.Mask.WithoutMasked(res.Answers)
	if err != nil {
		return exchange.Response{}, err
	}
	answers, err := engine.ParseAnswers(open)
	return exchange.Response{ID: res.ID, Edition: res.Edition, Received: res.ReceivedAt, Answers: answers,
		Parameters: l.Mask.Parameters(res.Parameters)}, err
}

// writeCSV writes under the columns of all editions that responses belong to.
func (d *Room) writeCSV(l *responses.Looking, all store.Snapshot, out io.Writer, tick func() error) error {
	defs, rows, err := editions(l, all)
	if err != nil {
		return err
	}
	table := exchange.NewTable(defs, rows)
	return table.CSV(out, func(write func(exchange.Response, [][]byte) error) error {
		return all.EachOfPieces(oldestFirst(l), table.Pieces(), func(res store.Response, pieces [][]byte) error {
			if err := tick(); err != nil {
				return err
			}
			return write(exchange.Response{ID: res.ID, Edition: res.Edition, Received: res.ReceivedAt,
				Parameters: res.Parameters}, pieces)
		})
	})
}

// writeXLSX writes typed cells, with a sheet of its own for each repeating section.
func (d *Room) writeXLSX(l *responses.Looking, all store.Snapshot, out io.Writer, tick func() error) error {
	defs, _, err := editions(l, all)
	if err != nil {
		return err
	}
	return exchange.NewBook(defs).XLSX(out, func(write func(exchange.Response) error) error {
		return all.Each(oldestFirst(l), func(res store.Response) error {
			one, err := toWrite(l, res)
			if err := errors.Join(err, tick()); err != nil {
				return err
			}
			return write(one)
		})
	})
}

// writeNDJSON writes an object a line, with the answers as they are stored.
func (d *Room) writeNDJSON(l *responses.Looking, all store.Snapshot, out io.Writer, tick func() error) error {
	enc := json.NewEncoder(out)
	return all.Each(oldestFirst(l), func(res store.Response) error {
		open, err := l.Mask.WithoutMasked(res.Answers)
		if err := errors.Join(err, tick()); err != nil {
			return err
		}
		return enc.Encode(struct {
			ID         string              `json:"id"`
			Edition    int                 `json:"edition"`
			Received   string              `json:"received"`
			Changed    string              `json:"changed,omitempty"`
			Language   string              `json:"language,omitempty"`
			Parameters map[string][]string `json:"parameters,omitempty"`
			Answers    json.RawMessage     `json:"answers"`
		}{res.ID, res.Edition, moment(&res.ReceivedAt), moment(res.ChangedAt), res.Language,
			l.Mask.Parameters(res.Parameters), open})
	})
}

// moment is RFC 3339 in UTC; "" for none.
func moment(t *time.Time) string {
	if t == nil {
		return ""
	}
	return t.UTC().Format(time.RFC3339)
}

// mostSheets is how many responses are printed at once.
const mostSheets = 500

// paperPage is documents that can't be put on paper here.
type paperPage struct {
	layout.Header
	Documents []notify.Document
	Unshown   string
	Back      string
}

// documents is a document for every response of a view, of the first so many, as one PDF.
func (d *Room) documents(w http.ResponseWriter, r *http.Request) error {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	p := paperPage{Header: l.Frame, Back: l.Address("/out")}
	if l.Fault == "" {
		page, err := d.InForm(l.Form).Look(r.Context(), l.Look(), store.Place{}, false, mostSheets)
		if err != nil {
			return err
		}
		for _, res := range page.Responses {
			one, err := notify.DocumentOf(l.Lens.Program, res, chi.URLParam(r, "document"))
			if err != nil {
				return err
			}
			p.Documents = append(p.Documents, one)
		}
	}
	if len(p.Documents) > 0 {
		if p.Unshown, err = response.OnPaper(w, d.Now(), p.Documents); p.Unshown == "" {
			return err
		}
	}
	return d.pages.Page(w, http.StatusOK, "documents", p)
}

// sheetsPage is the responses of a view as sheets to print.
type sheetsPage struct {
	layout.Header
	Name   string
	Back   string
	Sheets []*response.Sheet
	More   bool
}

func (d *Room) sheets(w http.ResponseWriter, r *http.Request) error {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	p := sheetsPage{Header: l.Frame, Name: "All responses", Back: l.Address("")}
	if l.Saved != nil {
		p.Name = l.Saved.Name
	}
	if l.Fault == "" {
		page, err := d.InForm(l.Form).Look(r.Context(), l.Look(), store.Place{}, false, mostSheets)
		if err != nil {
			return err
		}
		p.More = page.After || page.Unsure
		for _, res := range page.Responses {
			one, err := response.Printed(r.Context(), d.Desk, l, res)
			if err != nil {
				return err
			}
			p.Sheets = append(p.Sheets, one)
		}
	}
	return d.pages.Page(w, http.StatusOK, "sheets", p)
}

// schema describes the answers of the newest edition as JSON Schema (2020-12).
func (d *Room) schema(w http.ResponseWriter, r *http.Request) error {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "application/schema+json")
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	return enc.Encode(exchange.AnswersSchema(l.Def))
}
