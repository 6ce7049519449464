package ui

import (
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

// Origin is the scheme and host by which a visitor reached the application.
func Origin(r *http.Request) string {
	scheme := "http"
	if r.TLS != nil || r.Header.Get("X-Forwarded-Proto") == "https" {
		scheme = "https"
	}
	return scheme + "://" + r.Host
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
