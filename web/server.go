// Package web is the application as an HTTP handler: the public side and the
// desk behind one router, with what every request passes through.
package web

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/netip"
	"regexp"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"lazo/core/form"
	"lazo/editions"
	"lazo/metrics"
	"lazo/notify"
	"lazo/store"
	"lazo/web/desk"
	"lazo/web/respond"
	"lazo/web/ui"
)

// Options are what the application can be told.
type Options struct {
	Secure bool             // it is reached by https, so cookies are for https only
	Now    func() time.Time // the clock; time.Now if nil
	// the address at which it is reached, such as https://forms.club.example; as visitors say if ""
	Base  string
	Quiet bool // no log line per request
	Trust bool // a form sent at once after its arrival is not doubted; for tests
	// Proxies are the networks (such as 10.0.0.0/8) of the proxies in front, whose
	// X-Forwarded-For is believed; none if visitors come directly.
	Proxies []netip.Prefix
	Letters string // the address that letters give for the application where Base is ""
	// Programs are the editions that are in use; a memory of its own if nil.
	Programs *editions.Programs
	Office   *notify.Outgoing // that sends what goes out; nil for one that sends nothing
	Files    respond.Quotas   // bounds of what respondents' files take
	Figures  *metrics.Metrics // what is counted; nothing if nil
	Ending   <-chan struct{}  // closed once the application ends: it asks for no more visitors then
}

// New returns the application's handler over a store.
func New(s *store.Store, o Options) http.Handler {
	if o.Now == nil {
		o.Now = time.Now
	}
	sessions := scs.New()
	sessions.Store = s.Desk().Sessions()
	sessions.Lifetime, sessions.IdleTimeout = 14*24*time.Hour, 3*24*time.Hour
	sessions.HashTokenInStore = true // who reads the table can't sign in with it
	sessions.Cookie.Name, sessions.Cookie.HttpOnly, sessions.Cookie.SameSite,
		sessions.Cookie.Secure = cookieName(o.Secure), true,
		http.SameSiteLaxMode, o.Secure
	plain := ui.NewRenderer(nil)
	sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		plain.Handle(func(http.ResponseWriter, *http.Request) error { return err })(w, r)
	}
	programs := o.Programs
	if programs == nil {
		programs = editions.New(s)
	}

	r := chi.NewRouter()
	r.Use(ownIDs, middleware.RequestID, visitors(o.Proxies), ui.At(o.Base, o.Secure))
	r.Use(observed(o.Figures, o.Quiet))
	r.Use(middleware.Recoverer, middleware.Compress(5), headers(o.Secure), readable(plain),
		http.NewCrossOriginProtection().Handler)
	r.NotFound(plain.Handle(func(http.ResponseWriter, *http.Request) error { return store.ErrNotFound }))
	r.Handle("/static/*", ui.Static())
	r.Get("/healthz", alive)
	r.Get("/readyz", ready(s, o.Ending))
	r.Get("/schema/form.json", schema)
	least := respond.LeastTime
	if o.Trust {
		least = 0
	}
	public := respond.New(s, programs, keys(s, store.TicketKeys), o.Now, least, o.Files)
	public.Counting(o.Figures.Run)
	public.Routes(r)
	if o.Office == nil {
		o.Office = notify.New(s, notify.Options{})
	}
	site := cmp.Or(o.Base, o.Letters)
	o.Office.Lend(notify.Application{Site: site, Programs: programs, HTML: ui.Markdown,
		ChangeAddress:  public.ChangeAddress(site),
		ConfirmAddress: public.ConfirmAddress(site)})
	r.Group(func(r chi.Router) {
		r.Use(sessions.LoadAndSave)
		desk.New(s.Desk(), programs, sessions, o.Now, o.Office, public.Preview).Routes(r)
	})
	return r
}

// cookieName is what the session's cookie is called. Behind https no other site, and no
// page that came without it, can set one of that name (RFC 6265bis, 4.1.3.2).
func cookieName(secure bool) string {
	if secure {
		return "__Host-lazo"
	}
	return "lazo"
}

// visitors finds out where requests come from.
func visitors(proxies []netip.Prefix) func(http.Handler) http.Handler {
	if len(proxies) == 0 {
		return middleware.ClientIPFromRemoteAddr
	}
	var trusted []string
	for _, p := range proxies {
		trusted = append(trusted, p.String())
	}
	return middleware.ClientIPFromXFF(trusted...)
}

// ownIDs lets requests keep the id that a proxy gave them, if it is one that logs can hold;
// any other is taken away, so that they get one of ours.
func ownIDs(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if id := r.Header.Get(middleware.RequestIDHeader); id != "" && !requestID.MatchString(id) {
			r.Header.Del(middleware.RequestIDHeader)
		}
		next.ServeHTTP(w, r)
	})
}

var requestID = regexp.MustCompile(`^[A-Za-z0-9._:/+=-]{1,64}$`)

// keysHeld is for how long keys are remembered: so long may a change of them take to be
// known to all copies.
const keysHeld = 30 * time.Second

// keys gives the keys of a name, remembered for a while.
func keys(s *store.Store, name string) func(context.Context) (respond.Keys, error) {
	var mu sync.Mutex
	var held respond.Keys
	var since time.Time
	return func(ctx context.Context) (respond.Keys, error) {
		mu.Lock()
		defer mu.Unlock()
		if held != nil && time.Since(since) < keysHeld {
			return held, nil
		}
		fresh, err := s.Keys(ctx, name)
		if err != nil {
			return nil, err
		}
		held, since = fresh, time.Now()
		return held, nil
	}
}

// alive says that the application runs, whatever it depends on.
func alive(w http.ResponseWriter, _ *http.Request) { fmt.Fprintln(w, "ok") }

// ready says whether the application can do its work, and how busy it is. One that ends
// says no, so that a proxy sends its visitors to others.
func ready(s *store.Store, ending <-chan struct{}) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		select {
		case <-ending:
			http.Error(w, "the application ends", http.StatusServiceUnavailable)
			return
		default:
		}
		switch err := s.Ready(r.Context()); {
		case errors.Is(err, store.ErrReadOnly), errors.Is(err, store.ErrNoRoom):
			http.Error(w, err.Error(), http.StatusServiceUnavailable)
		case err != nil:
			http.Error(w, "the database can't be reached", http.StatusServiceUnavailable)
		default:
			public, desk := s.Connections()
			fmt.Fprintf(w, "ok\nconnections: %d of %d in use\n", public.AcquiredConns()+desk.AcquiredConns(),
				public.MaxConns()+desk.MaxConns())
		}
	}
}

// schema publishes the JSON Schema of form files.
func schema(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "application/schema+json")
	w.Header().Set("Cache-Control", "public, max-age=3600")
	_, _ = w.Write(form.Schema())
}

// headers forbids what no page of the application needs. Behind https browsers are told to
// come by nothing else, for a year.
func headers(secure bool) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			h := w.Header()
			h.Set(
				"Content-Security-Policy",
				"default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'",
			)
			h.Set("X-Content-Type-Options", "nosniff")
			h.Set("Referrer-Policy", "same-origin")
			h.Set("Cross-Origin-Opener-Policy", "same-origin")
			h.Set("Permissions-Policy", "accelerometer=(), camera=(), display-capture=(), geolocation=(), gyroscope=(), "+
				"magnetometer=(), microphone=(), midi=(), payment=(), usb=(), browsing-topics=()")
			if secure {
				h.Set("Strict-Transport-Security", "max-age=31536000")
			}
			next.ServeHTTP(w, r)
		})
	}
}

// readable refuses addresses that hold what no text holds: bytes that are not UTF-8,
// or NUL. What is posted is looked at where it is read.
func readable(pages *ui.Renderer) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return pages.HandleSpoken(func(w http.ResponseWriter, r *http.Request) error {
			if !ui.Readable(r.URL.Path) || !ui.ReadableFields(r.URL.Query()) {
				return ui.Unreadable
			}
			next.ServeHTTP(w, r)
			return nil
		})
	}
}

// observed counts requests, and writes one line each unless it is to be quiet. It names the
// route, not the address, for addresses hold secrets.
func observed(f *metrics.Metrics, quiet bool) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
			begun := time.Now()
			ctx, line := ui.WithLogLine(r.Context())
			r = r.WithContext(ctx)
			defer func() { // even of one that is broken off
				took := time.Since(begun)
				f.Request(r.Method, ui.Route(r), ww.Status(), took)
				if quiet {
					return
				}
				said := []any{"id", middleware.GetReqID(ctx), "method", r.Method, "route", ui.Route(r), "status", ww.Status(),
					"bytes", ww.BytesWritten(), "ms", took.Milliseconds()}
				if line.Member != 0 {
					said = append(said, "member", line.Member)
				}
				slog.InfoContext(ctx, "request", said...)
			}()
			next.ServeHTTP(ww, r)
		})
	}
}
