package ui

import (
	"context"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"unicode/utf8"

	"github.com/go-chi/chi/v5/middleware"
)

// Visitor is the network address that a request comes from, as the router found it
// out; of IPv6 the first half, which is what one household or phone has. Limits
// count by it.
func Visitor(r *http.Request) string {
	ip := middleware.GetClientIPAddr(r.Context())
	if !ip.IsValid() {
		return "unknown"
	}
	if ip.Is6() {
		return netip.PrefixFrom(ip, 64).Masked().String()
	}
	return ip.String()
}

// LogLine is what is said of a request in the log beside the request itself.
type LogLine struct{ Member int64 } // who is signed in, 0 for nobody

type logLineKey struct{}

// WithLogLine is a request's context with a line to be filled in.
func WithLogLine(ctx context.Context) (context.Context, *LogLine) {
	line := &LogLine{}
	return context.WithValue(ctx, logLineKey{}, line), line
}

// LogMember says in the log who makes a request.
func LogMember(ctx context.Context, id int64) {
	if line, ok := ctx.Value(logLineKey{}).(*LogLine); ok {
		line.Member = id
	}
}

type originKey struct{}

// At tells requests at which address the application is reached: base, or where that
// is "", the host that the visitor names, by https if secure.
func At(base string, secure bool) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			origin := strings.TrimSuffix(base, "/")
			if origin == "" {
				origin = "http://" + r.Host
				if secure || r.TLS != nil {
					origin = "https://" + r.Host
				}
			}
			next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), originKey{}, origin)))
		})
	}
}

// Origin is the scheme and host at which the application is reached.
func Origin(r *http.Request) string {
	origin, _ := r.Context().Value(originKey{}).(string)
	return origin
}

// Readable reports whether a posted text can be stored: UTF-8 without NUL.
func Readable(s string) bool { return utf8.ValidString(s) && !strings.ContainsRune(s, 0) }

// ReadableFields reports whether all names and values are readable.
func ReadableFields(fields url.Values) bool {
	for name, values := range fields {
		if !Readable(name) {
			return false
		}
		for _, v := range values {
			if !Readable(v) {
				return false
			}
		}
	}
	return true
}

// Unreadable refuses what is not the text of a form or of an address.
var Unreadable = Refusal{Status: http.StatusBadRequest, Title: "This could not be read",
	Text: "What was sent is not the text of a form. Please go back and try again."}
