package web_test

import (
	"bytes"
	"context"
	"fmt"
	"html"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
	"lazo/store/storetest"
)

// hostileWords are what stands where a name, a number, an address or a text is
// expected.
var hostileWords = []string{
	"", "\x00", "a\x00b", "\xff\xfe", "\xed\xa0\x80", "-1", "0", "99999999999999999999", "9223372036854775807",
	"-9223372036854775809", "2147483648", "1e400", "NaN",
	"../../../etc/passwd", "' or 1=1 --", "{{.}}", "<script>alert(1)</script>", "crew:checks.-1.ok:met", "a.b.c.d.e.f",
	"=",
	"on:", "page:", "language:", "add:", "remove:x.99999999999999999999",
	strings.Repeat(
		"x", 6_000,
	), strings.Repeat("é", 1_000), "00000000-0000-0000-0000-000000000000", "2026-99-99", "%", "\r\nSet-Cookie: a=b",
	"\u202e", "😀",
}

// routes are all addresses of the application, by walking its router.
func routes(t *testing.T) (out [][2]string) {
	err := chi.Walk(
		site.Config.Handler.(chi.Routes),
		func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
			out = append(out, [2]string{method, strings.ReplaceAll(route, "/*/", "/")})
			return nil
		},
	)
	require.NoError(t, err)
	require.Greater(t, len(out), 40)
	return out
}

var routeParam = regexp.MustCompile(`\{(\w+)\}`)

// TestNoRouteFailsOnWhatIsSent asks every route of the router, signed in and not,
// with words that are no names, numbers or texts in each of its places: in the
// path, after the question mark, and in the body under the names that the pages use.
func TestNoRouteFailsOnWhatIsSent(t *testing.T) {
	atLength(t)
	def, remarks := form.Read([]byte(hostileForm))
	require.Empty(t, form.Errors(remarks))
	f := published(t, def)
	id, address := f.ID, f.Address
	hash := storetest.Hash("hostile")
	_, err := db.CreateMember(context.Background(), store.Member{WorkspaceID: f.WorkspaceID,
		Email: "hostile@pedralta.example", Name: "Hostile", PasswordHash: hash})
	require.NoError(t, err)
	stranger, member := newClient(t), newClient(t)
	status, _ := member.post("/sign-in", url.Values{"email": {"hostile@pedralta.example"}, "password": {"hostile"}})
	require.Equal(t, http.StatusOK, status)
	for _, c := range []client{stranger, member} {
		c.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	}
	_, page := stranger.get("/f/" + address)
	found := regexp.MustCompile(`name="_token" value="([^"]*)"`).FindStringSubmatch(page)
	require.NotNil(t, found)
	token := html.UnescapeString(found[1])
	names := []string{
		"", "=", "_token", "_do", "_page", "_digest", "_seen.p", "_sent", "_guard", "_language", "a.name", "own.a.name",
		"auto.a.name", "aside.a.name", "rows.crew", "row.crew.0", "r.crew.0.n", "gone.crew", "do", "version", "key", "at",
		"to", "index", "n", "number", "value", "text", "property", "place", "label", "type", "title", "sure", "name", "csv",
		"search", "page", "cells", "keep", "columns", "gone", "find.a.name", "e.0.code", "n.0.code", "name.code", "edit",
		"kept", "sample", "date", "email", "password", "caret", "seek", "why", "moment", "url",
		"own_password", "repeated", "role", "form", "export", "code", "days", "who", "act", "before", "workspace", "sign_in",
	}
	verbs := []string{
		"save", "send", "next", "back", "review", "another", "change", "add", "move", "delete", "set", "tie", "passage",
		"undo", "redo", "text", "choices", "type",
	}
	const fewForStrangers = 12
	atHand, behind := "", false // the route, and whether it is for who has signed in
	asked := 0
	defer func() { t.Logf("%d requests", asked) }()
	tried := map[string]int{}
	check := func(c client, method, path, kind string, body []byte) {
		if c == stranger && tried[method+atHand] > fewForStrangers && behind {
			return // they are led to sign in before anything is read
		}
		tried[method+atHand]++
		asked++
		req, err := http.NewRequest(method, site.URL, bytes.NewReader(body))
		require.NoError(t, err)
		req.URL.Opaque = path
		if kind != "" {
			req.Header.Set("Content-Type", kind)
		}
		res, err := c.Do(req)
		if !assert.NoError(t, err, "%s %.200q", method, path) {
			return
		}
		said, _ := io.ReadAll(res.Body)
		res.Body.Close()
		assert.Less(t, res.StatusCode, 500, "%s %.200q %.200q: %.300s", method, path, body, said)
	}
	defer forgetCounts(t)
	for turn, route := range routes(t) {
		method, pattern := route[0], route[1]
		if pattern == "/sign-out" || pattern == "/account/leave" || pattern == "/healthz" || pattern == "/readyz" ||
			pattern == "/static/*" {
			continue
		}
		class, _ := classified(method, pattern)
		atHand, behind = pattern, class != anybody
		// fill names the places in the path, the one at hand by a hostile word.
		fill := func(hostile int, word string) string {
			n := -1
			return routeParam.ReplaceAllStringFunc(pattern, func(param string) string {
				if n++; n == hostile {
					return url.PathEscape(word)
				}
				switch param {
				case "{form}":
					return fmt.Sprint(id)
				case "{address}":
					return address
				case "{language}":
					return "es"
				case "{kind}":
					return "svg"
				case "{member}":
					return "999999" // who is there is not removed
				}
				return "1"
			})
		}
		for i, word := range hostileWords {
			if (i+turn)%2 != 0 {
				continue // each route meets every second word, the next one the others
			}
			for n := range routeParam.FindAllString(pattern, -1) {
				if !strings.HasPrefix(pattern, "/forms") {
					check(stranger, method, fill(n, word), "", nil)
				}
				check(member, method, fill(n, word), "", nil)
			}
			path := fill(-1, "")
			query := url.Values{}
			for _, name := range names {
				query.Set(name, word)
			}
			if method == http.MethodGet {
				check(member, method, path+"?"+query.Encode(), "", nil)
				check(stranger, method, path+"?"+query.Encode(), "", nil)
				continue
			}
			if pattern == "/sign-in" && i > 12 {
				continue // each costs a comparison of passwords
			}
			// Only some routes tell what to do by a field; there each word meets another verb.
			for k := range 3 {
				verb := verbs[(3*i+k)%len(verbs)]
				fields := url.Values{"_token": {token}, "_do": {verb}, "do": {verb}, "version": {"1"}, "_page": {"p"}}
				for _, name := range names {
					if !fields.Has(name) {
						fields.Set(name, word)
					}
				}
				check(member, method, path, "application/x-www-form-urlencoded", []byte(fields.Encode()))
				check(stranger, method, path, "application/x-www-form-urlencoded", []byte(fields.Encode()))
				if pattern != "/f/{address}" && pattern != "/f/{address}/live" && !strings.HasSuffix(pattern, "/edit") &&
					!strings.HasSuffix(pattern, "/rehearsal") {
					break
				}
			}
			if i%3 != 0 {
				continue // each of these meets every third word
			}
			check(member, method, path, "application/x-www-form-urlencoded",
				[]byte("=y&_do=save&"+url.Values{"_token": {token}}.Encode()))
			check(member, method, path, "application/x-www-form-urlencoded", []byte(word))
			check(
				member, method, path, "multipart/form-data; boundary=x",
				[]byte("--x\r\nContent-Disposition: form-data; name=\""+word+"\"; filename=\""+word+"\"\r\n\r\n"+word+"\r\n--x--"),
			)
			check(member, method, path, "multipart/form-data; boundary=x", []byte(word))
			check(member, method, path, "multipart/form-data", []byte(word))
			check(member, method, path, "application/json; "+strings.Map(printable, word), []byte(word))
		}
	}
}

func printable(r rune) rune {
	if r < ' ' || r > '~' || r == ';' {
		return -1
	}
	return r
}

// hostileForm is a form of its own for what may come of hostile words.
const hostileForm = `{"lazo":1,"key":"hostile-form","title":"Boat check","timezone":"UTC","parameters":[{"name":"club"}],"returning":{"save":true,"change":true},
 "pages":[{"key":"p","sections":[{"key":"s","items":[{"key":"name","type":"text","label":"Name"},{"key":"paper","type":"file","label":"Paper"},{"key":"sign","type":"signature","label":"Signature"},
  {"key":"n","type":"number","label":"Length"},{"key":"d","type":"date","label":"Day"},{"key":"pick","type":"choices","label":"Roles","choices":[{"value":"a","label":"A"},{"value":"b","label":"B"}]}]},
  {"key":"crew","repeat":{"max":3},"items":[{"key":"rn","type":"text","label":"Rower"}]}]}]}`
