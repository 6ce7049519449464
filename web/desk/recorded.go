package desk

import (
	"log/slog"
	"maps"
	"net/http"

	"github.com/go-chi/chi/v5/middleware"

	"lazo/web/ui"
)

// unrecorded is for what can't be put on the trail, and so is not done.
var unrecorded = ui.Refusal{Status: http.StatusServiceUnavailable, Title: "This can’t be done right now",
	Text: "Who does this is written down, and just now nothing can be written down. Nothing was done. Try again in a minute."}

// recorded is the answer to a request that is put on the trail: its line is written before
// its first byte goes out, so that whoever breaks a download off has had it all the same,
// and where it can't be written nothing goes out.
type recorded struct {
	http.ResponseWriter
	write   func() error // writes the line
	refuse  func(http.ResponseWriter)
	before  http.Header // as it was when the handler began
	begun   bool
	refused bool
}

func (rec *recorded) WriteHeader(status int) {
	if rec.refused {
		return
	}
	if !rec.begun && status >= http.StatusOK {
		rec.begun = true
		if status < http.StatusBadRequest && rec.write() != nil {
			rec.refused = true
			header := rec.Header()
			clear(header)
			maps.Copy(header, rec.before)
			rec.refuse(rec.ResponseWriter)
			return
		}
	}
	rec.ResponseWriter.WriteHeader(status)
}

func (rec *recorded) Write(data []byte) (int, error) {
	if !rec.begun {
		rec.WriteHeader(http.StatusOK)
	}
	if rec.refused { // an error would break off the page that says so
		return len(data), nil
	}
	return rec.ResponseWriter.Write(data)
}

// Unwrap is for http.ResponseController.
func (rec *recorded) Unwrap() http.ResponseWriter { return rec.ResponseWriter }

// record runs a handler whose act is put on the trail. Of what changes something it is tried
// first whether the trail can be written, since what was done can't be refused any more.
func (d *Desk) record(w http.ResponseWriter, r *http.Request, next http.Handler, act, response string) error {
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		if err := d.TryTrail(r, act, response); err != nil {
			slog.ErrorContext(r.Context(), "the trail can't be written", "id", middleware.GetReqID(r.Context()), "act", act,
				"err", err)
			return unrecorded
		}
	}
	rec := &recorded{ResponseWriter: w, before: w.Header().Clone()}
	rec.write = func() error { return d.Trail(r, act, response) }
	rec.refuse = func(w http.ResponseWriter) {
		d.pages.Handle(func(http.ResponseWriter, *http.Request) error { return unrecorded })(w, r)
	}
	next.ServeHTTP(rec, r)
	if !rec.begun { // a handler that says nothing says that all is well
		rec.WriteHeader(http.StatusOK)
	}
	return nil
}
