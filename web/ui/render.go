// Package ui has the parts that all pages share: the layout, the renderer,
// Markdown, static files and the answers to errors.
package ui

import (
	"bytes"
	"embed"
	"errors"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"regexp"
	"strings"
	"sync"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"lazo/cache"
	"lazo/core/text"
	"lazo/editions"
	"lazo/store"
	"lazo/web/wording"
)

//go:embed templates/*.html
var templates embed.FS

// Renderer prints pages from the shared templates and those of one side, in one
// language.
type Renderer struct {
	set      *template.Template
	pristine *template.Template // never executed, so that it can be cloned

	spoken *cache.Cache[string, *Renderer] // by language tag
}

// maxSpoken bounds the languages that are held ready.
const maxSpoken = 50

func one[V any](string, V) int { return 1 }

var funcs = template.FuncMap{
	"words": func(parts []text.Part, plain string) []text.Part {
		if parts == nil {
			return []text.Part{{Text: plain}}
		}
		return parts
	},
	"markdown": Markdown, "static": staticAt, "inc": func(n int) int { return n + 1 }, "lower": strings.ToLower,
}

// NewRenderer parses the shared templates and all in files, with functions of
// the side's own, which may be nil.
func NewRenderer(own template.FuncMap, files ...fs.FS) *Renderer {
	set := template.New("").Funcs(funcs).Funcs(inLanguage("en")).Funcs(own)
	for _, f := range append([]fs.FS{templates}, files...) {
		parse(set, f)
	}
	return &Renderer{template.Must(set.Clone()), set, cache.New(maxSpoken, one[*Renderer])}
}

var (
	indentation = regexp.MustCompile(`[ \t]*\n\s*`)
	control     = regexp.MustCompile(`\n?(\{\{-? ?(?:if|else|end|range|with|template|define|/\*)[^}]*\}\})\n?`)
)

// parse adds the templates of a folder. Their indentation, and the lines that only
// say what comes next, are for those who read them and do not travel.
func parse(set *template.Template, files fs.FS) {
	names, err := fs.Glob(files, "templates/*.html")
	if err != nil {
		panic("ui: " + err.Error()) // the pattern is sound
	}
	for _, name := range names {
		text, err := fs.ReadFile(files, name)
		if err != nil {
			panic("ui: " + err.Error()) // it ships with the program
		}
		template.Must(set.New(name).Parse(control.ReplaceAllString(indentation.ReplaceAllString(string(text), "\n"), "$1")))
	}
}

// inLanguage are the functions that speak a language. A page that is clearly of no
// other is in English.
func inLanguage(tag string) template.FuncMap {
	w := wording.For(tag)
	return template.FuncMap{"say": w.Say, "day": w.Day, "moment": w.Moment,
		"language": func() string { return w.Tag }, "direction": func() string { return wording.Direction(w.Tag) }}
}

// InLanguage returns the renderer of the same pages in the language with a tag.
func (rd *Renderer) InLanguage(tag string) *Renderer {
	in, _ := rd.spoken.GetOrMake(tag, func() (*Renderer, error) {
		return &Renderer{template.Must(rd.pristine.Clone()).Funcs(inLanguage(tag)), rd.pristine, rd.spoken}, nil
	})
	return in
}

// buffers are those that pages were printed into before.
var buffers = sync.Pool{New: func() any { return new(bytes.Buffer) }}

// Page prints a template as a whole answer.
func (rd *Renderer) Page(w http.ResponseWriter, status int, name string, data any) error {
	b := buffers.Get().(*bytes.Buffer)
	defer buffers.Put(b)
	b.Reset()
	if err := rd.set.ExecuteTemplate(b, name, data); err != nil {
		return err
	}
	if w.Header().Get("Content-Type") == "" {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
	}
	w.WriteHeader(status)
	_, _ = b.WriteTo(w) // it fails only for a visitor who has gone away
	return nil
}

// Handler is an http handler that may fail; Handle answers for it.
type Handler func(w http.ResponseWriter, r *http.Request) error

// Refusal is an error whose text is for the visitor.
type Refusal struct {
	Status int
	Title  string
	Text   string
}

func (e Refusal) Error() string { return e.Title + ": " + e.Text }

// Handle turns a Handler into an http.Handler. Errors are logged once, with the
// request's id, and shown in plain words.
func (rd *Renderer) Handle(h Handler) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) { rd.handle(w, r, h, func() *Renderer { return rd }) }
}

// HandleSpoken is Handle for pages whose errors speak the visitor's language.
func (rd *Renderer) HandleSpoken(h Handler) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		rd.handle(w, r, h, func() *Renderer {
			return rd.InLanguage(wording.Best(wording.Languages,
				r.Header.Get("Accept-Language")))
		})
	}
}

// begun is a response of which something may be on its way already.
type begun struct {
	http.ResponseWriter
	began bool
}

func (b *begun) WriteHeader(status int) {
	b.began = true
	b.ResponseWriter.WriteHeader(status)
}

func (b *begun) Write(data []byte) (int, error) {
	b.began = true
	return b.ResponseWriter.Write(data)
}

// Unwrap is for http.ResponseController.
func (b *begun) Unwrap() http.ResponseWriter { return b.ResponseWriter }

// handle answers an error with a page, unless an answer has begun: that is broken off,
// so that nobody takes a part of a file for the whole.
func (rd *Renderer) handle(w http.ResponseWriter, r *http.Request, h Handler, in func() *Renderer) {
	b := &begun{ResponseWriter: w}
	err := h(b, r)
	if err == nil {
		return
	}
	if b.began {
		slog.WarnContext(
			r.Context(), "answer broken off", "id", middleware.GetReqID(r.Context()), "method", r.Method, "route", Route(r),
			"err", err,
		)
		panic(http.ErrAbortHandler)
	}
	in().fail(w, r, err)
}

func (rd *Renderer) fail(w http.ResponseWriter, r *http.Request, err error) {
	e := explain(err)
	id := middleware.GetReqID(r.Context())
	if e.Status >= 500 {
		slog.ErrorContext(r.Context(), "request failed", "id", id, "method", r.Method, "route", Route(r), "err", err)
	}
	if e.Status == http.StatusServiceUnavailable {
		w.Header().Set("Retry-After", "5")
	}
	data := struct {
		Refusal
		ID string
	}{e, id}
	if err := rd.Page(w, e.Status, "error", data); err != nil {
		slog.Error("the error page failed", "id", id, "err", err)
	}
}

// Route is the pattern of the route that a request took, for the log: addresses
// themselves hold secrets, and names that visitors made up.
func Route(r *http.Request) string {
	if c := chi.RouteContext(r.Context()); c != nil {
		return c.RoutePattern()
	}
	return ""
}

func explain(err error) Refusal {
	var refusal Refusal
	var unsound editions.Unsound
	var tooLarge *http.MaxBytesError
	switch {
	case errors.As(err, &refusal):
		return refusal
	case errors.As(err, &unsound):
		return Refusal{
			Status: http.StatusServiceUnavailable, Title: "This form can’t be filled in now",
			Text: "Something in it has to be mended first. Please tell whoever gave you its address.",
		}
	case errors.Is(err, store.ErrNotFound):
		return Refusal{
			Status: http.StatusNotFound, Title: "There is no such page",
			Text: "The address may be mistyped, or what was here has been taken away.",
		}
	case errors.As(err, &tooLarge):
		return Refusal{
			Status: http.StatusRequestEntityTooLarge, Title: "This is too much at once",
			Text: "What was sent is larger than can be taken.",
		}
	case errors.Is(err, store.ErrBusy):
		return Refusal{
			Status: http.StatusServiceUnavailable, Title: "Please try again in a moment",
			Text: "So much is being looked for at once that this did not come to its turn. Nothing is lost.",
		}
	case errors.Is(err, store.ErrTooSlow):
		return Refusal{
			Status: http.StatusServiceUnavailable, Title: "This took too long to look through",
			Text: "Narrow it by when responses were received, and try again.",
		}
	case store.Unreachable(err):
		return Refusal{
			Status: http.StatusServiceUnavailable, Title: "Please try again in a moment",
			Text: "The data can’t be reached right now. Nothing is lost; use your browser’s reload in a few seconds.",
		}
	}
	return Refusal{
		Status: http.StatusInternalServerError, Title: "Something went wrong here",
		Text: "It is not your doing. We have noted it; please try again.",
	}
}
