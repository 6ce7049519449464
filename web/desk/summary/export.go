package summary

import (
	"bufio"
	"context"
	"errors"
	"io"
	"log/slog"
	"net/http"
	"os"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/store"
	"lazo/turns"
	"lazo/web/desk/layout"
	"lazo/web/desk/responses"
)

// How files are made that take long.
const (
	exportsAtOnce = 2                // of one copy of the application
	exportsWaited = 1000             // for how many a member waits at most; see store.MostExports
	exportAtMost  = 30 * time.Minute // for one
	exportSeen    = time.Second      // how often it says how far it is
)

// exportLine is a file that is being made, or was.
type exportLine struct {
	ID, Name          string
	Written, Of       int
	Size              string
	When              string
	Done, Stopped     bool
	Share             int // of a hundred
	Href, DropAddress string
}

func (d *Room) exportsOf(ctx context.Context, l *responses.Looking) (lines []exportLine, going bool, err error) {
	list, err := d.InForm(l.Form).Exports(ctx, layout.Member(ctx).ID)
	for _, e := range list {
		to := layout.Base(l.Form.ID) + "/responses/out/" + e.ID
		one := exportLine{
			ID: e.ID, Name: e.Name, Written: e.Written, Of: e.Responses, Done: e.DoneAt != nil, Stopped: e.Stopped(d.Now()),
			Href:        to,
			DropAddress: to + "/drop", Size: strconv.FormatFloat(float64(e.Size)/1e6, 'f', 1, 64) + " MB",
			When: e.BeganAt.In(l.Lens.Syms.Zone).Format(layout.PlainMoment),
		}
		if e.Responses > 0 {
			one.Share = min(100, 100*e.Written/e.Responses)
		}
		going = going || !one.Done && !one.Stopped
		lines = append(lines, one)
	}
	return lines, going, err
}

// begin begins a file of responses that takes long to make.
func (d *Room) begin(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	format := r.PostForm.Get("format")
	if _, ok := written[format]; !ok || l.Fault != "" {
		return store.ErrNotFound
	}
	n, err := d.InForm(l.Form).CountResponses(r.Context())
	if err != nil {
		return err
	}
	e, err := d.InForm(l.Form).BeginExport(r.Context(), store.Export{
		MemberID: layout.Member(r.Context()).ID, Name: d.fileName(l, format), Format: format, Responses: n,
	})
	if errors.Is(err, store.ErrTooOften) {
		return d.outPage(w, r, http.StatusConflict, "You have many files here already. Take one away first.")
	}
	if err != nil {
		return err
	}
	go d.export(context.WithoutCancel(r.Context()), l, e)
	http.Redirect(w, r, l.Address("/out"), http.StatusSeeOther)
	return nil
}

var errUnwanted = errors.New("nobody wants it any more")

// export makes a file, and says now and then how far it is.
func (d *Room) export(ctx context.Context, l *responses.Looking, e store.Export) {
	ctx, cancel := context.WithTimeout(ctx, exportAtMost)
	defer cancel()
	err := d.exportTurn(ctx, l, e)
	if err == nil || errors.Is(err, errUnwanted) {
		return
	}
	slog.Error("a file of responses was not made", "form", l.Form.ID, "format", e.Format, "err", err)
	ended, cancelEnd := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancelEnd()
	if err := d.Store.FailExport(ended, e.ID); err != nil {
		slog.Error("nor could that be noted", "err", err)
	}
}

// exportTurn waits until it is its turn.
func (d *Room) exportTurn(ctx context.Context, l *responses.Looking, e store.Export) error {
	for {
		wait, cancel := context.WithTimeout(ctx, 10*exportSeen)
		leave, err := d.making.Take(wait, store.Asks(ctx, l.Form.WorkspaceID))
		cancel()
		if err == nil {
			defer leave()
			return d.exportFile(store.InTurn(ctx), l, e)
		}
		if ctx.Err() != nil || errors.Is(err, turns.ErrMany) {
			return err
		}
		if wanted, err := d.Store.SeeExport(ctx, e.ID, 0); err != nil || !wanted {
			return errors.Join(err, errUnwanted)
		}
	}
}

func (d *Room) exportFile(ctx context.Context, l *responses.Looking, e store.Export) error {
	staged, err := os.CreateTemp("", "export-*."+e.Format)
	if err != nil {
		return err
	}
	defer os.Remove(staged.Name())
	defer staged.Close()
	rows, seen := 0, time.Now()
	tick := func() error {
		rows++
		if rows%200 != 0 || time.Since(seen) < exportSeen {
			return nil
		}
		seen = time.Now()
		wanted, err := d.Store.SeeExport(ctx, e.ID, rows)
		if err == nil && !wanted {
			return errUnwanted
		}
		return err
	}
	err = d.InForm(l.Form).AtOnce(ctx, func(all store.Snapshot) error {
		out := bufio.NewWriterSize(staged, 1<<16)
		if err := written[e.Format].write(d, l, all, out, tick); err != nil {
			return err
		}
		return out.Flush()
	})
	if err != nil {
		return err
	}
	if _, err := staged.Seek(0, io.SeekStart); err != nil {
		return err
	}
	return d.Store.FinishExport(ctx, e.ID, rows, staged)
}

// fetch hands a file out that was made.
func (d *Room) fetch(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	e, err := d.InForm(f).Export(r.Context(), layout.Member(r.Context()).ID, chi.URLParam(r, "export"))
	if err != nil {
		return err
	}
	if e.DoneAt == nil {
		return store.ErrNotFound
	}
	h := w.Header()
	h.Set("Content-Type", written[e.Format].media)
	h.Set("Content-Disposition", `attachment; filename="`+e.Name+`"`)
	h.Set("Content-Length", strconv.FormatInt(e.Size, 10))
	return d.Store.ReadExport(r.Context(), e.ID, patient{w})
}

// patience is how long one piece of a file may take to be taken.
const patience = time.Minute

// patient lets a reader take its time for each piece, however many there are.
type patient struct{ http.ResponseWriter }

func (p patient) Write(data []byte) (int, error) {
	// A writer that knows no deadline has none.
	_ = http.NewResponseController(p.ResponseWriter).SetWriteDeadline(time.Now().Add(patience))
	return p.ResponseWriter.Write(data)
}

// drop takes a file away; if it is being made that ends.
func (d *Room) drop(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	if err := d.InForm(f).DropExport(r.Context(), layout.Member(r.Context()).ID, chi.URLParam(r, "export")); err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/responses/out", http.StatusSeeOther)
	return nil
}
