package postbox

import (
	"embed"
	"html/template"
	"mime"
	"net/http"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"
)

//go:embed *.html
var files embed.FS

var pages = template.Must(template.New("").Funcs(template.FuncMap{"inc": func(i int) int {
	return i +
		1
}}).ParseFS(files, "*.html"))

// shown is how many letters are listed.
const shown = 200

func (b *Box) list(w http.ResponseWriter, _ *http.Request) {
	letters := b.Letters()
	slices.Reverse(letters)
	b.mu.Lock()
	fault := b.fault
	b.mu.Unlock()
	print(w, "list", map[string]any{"Letters": letters[:min(len(letters), shown)], "All": len(letters), "Faults": Faults,
		"Fault": fault})
}

func print(w http.ResponseWriter, name string, data any) {
	h := w.Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; frame-src 'self'; form-action 'self'")
	if err := pages.ExecuteTemplate(w, name, data); err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
	}
}

// letterAt finds the letter of a request.
func (b *Box) letterAt(w http.ResponseWriter, r *http.Request) (Letter, bool) {
	n, _ := strconv.Atoi(chi.URLParam(r, "number"))
	for _, l := range b.Letters() {
		if l.Number == n {
			return l, true
		}
	}
	http.NotFound(w, r)
	return Letter{}, false
}

func (b *Box) letter(w http.ResponseWriter, r *http.Request) {
	if l, ok := b.letterAt(w, r); ok {
		print(w, "letter", l)
	}
}

// html shows the mail's own page, where nothing in it runs or is fetched.
func (b *Box) html(w http.ResponseWriter, r *http.Request) {
	l, ok := b.letterAt(w, r)
	if !ok {
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy",
		"default-src 'none'; style-src 'unsafe-inline'; sandbox allow-popups allow-top-navigation-by-user-activation")
	_, _ = w.Write([]byte(l.Body()))
}

// part hands out a file that the mail carries.
func (b *Box) part(w http.ResponseWriter, r *http.Request) {
	l, ok := b.letterAt(w, r)
	if !ok {
		return
	}
	parts := l.Parts()
	n, err := strconv.Atoi(chi.URLParam(r, "part"))
	if err != nil || n < 1 || n > len(parts) {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Content-Disposition",
		mime.FormatMediaType("attachment", map[string]string{"filename": parts[n-1].Name}))
	_, _ = w.Write(parts[n-1].Data)
}

func (b *Box) source(w http.ResponseWriter, r *http.Request) {
	if l, ok := b.letterAt(w, r); ok {
		w.Header().Set("Content-Type", "text/plain; charset=utf-8")
		_, _ = w.Write(l.Data)
	}
}

func (b *Box) suffer(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 1<<10)
	fault := Fault(r.FormValue("fault"))
	for _, f := range Faults {
		if f.Fault == fault {
			b.Suffer(fault)
			http.Redirect(w, r, "/", http.StatusSeeOther)
			return
		}
	}
	http.Error(w, "there is no such fault", http.StatusUnprocessableEntity)
}
