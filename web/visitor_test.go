package web_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"lazo/demo"
	"lazo/web"
)

// A limit counts by the visitor: behind a proxy by what the proxy says, without
// one by the connection alone, whatever a header claims.
func TestLimitsCountTheVisitor(t *testing.T) {
	def := demo.LakeBulletin()
	def.Key = "bulletin-limits"
	f := published(t, def)
	_, page := newClient(t).get("/f/" + f.Address)
	body := with(fields(page), "a.email", "a@garzas.example", "a.email#again", "a@garzas.example", "_do", "send").Encode()
	direct := web.New(db, web.Options{Quiet: true, Trust: true})
	behind := web.New(db, web.Options{Quiet: true, Trust: true,
		Proxies: []netip.Prefix{netip.MustParsePrefix("10.0.0.0/8")}})
	send := func(app http.Handler, from, forwarded string) int {
		r := httptest.NewRequest(http.MethodPost, "/f/"+f.Address, strings.NewReader(body))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.RemoteAddr = from
		if forwarded != "" {
			r.Header.Set("X-Forwarded-For", forwarded)
		}
		w := httptest.NewRecorder()
		app.ServeHTTP(w, r)
		return w.Code
	}
	exhaust := func(send func(i int) int) (refused bool) {
		for i := range 70 { // more than a limit, even if a minute ends meanwhile
			if send(i) == http.StatusTooManyRequests {
				return true
			}
		}
		return false
	}
	assert.True(
		t, exhaust(func(i int) int { return send(direct, "192.0.2.1:99", fmt.Sprintf("198.51.100.%d", i)) }),
		"a header changes nothing",
	)
	assert.True(t, exhaust(func(int) int { return send(behind, "10.0.0.1:99", "203.0.113.7") }),
		"one visitor behind the proxy")
	assert.False(
		t, exhaust(func(i int) int { return send(behind, "10.0.0.1:99", fmt.Sprintf("203.0.113.%d", 20+i)) }),
		"many visitors behind it",
	)
	assert.True(t, exhaust(func(i int) int { return send(behind, "203.0.113.200:99", fmt.Sprintf("198.51.100.%d", i)) }),
		"past the proxy")
	assert.True(
		t, exhaust(func(i int) int { return send(direct, fmt.Sprintf("[2001:db8:1:1::%x]:99", i), "") }),
		"the addresses of one household",
	)
}
