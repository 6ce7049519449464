// Package attack_test attacks the application as members, strangers and programs would:
// shortly with the other tests, and in full with LAZO_ATTACK=1 (make attack).
package attack_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
	"lazo/web"
	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

// full reports whether the whole attack was asked for.
func full() bool { return os.Getenv("LAZO_ATTACK") != "" }

// times is how often something is tried: shortly, or in full.
func times(short, whole int) int {
	if full() {
		return whole
	}
	return short
}

// drawn is a form in several editions that is being attacked. Each answer holds a text that
// stands nowhere else; secret are those that no reader may see, by their questions.
type drawn struct {
	random   *rand.Rand
	keys     []string
	once     map[string]bool // of those that were sensitive in any edition
	codes    int
	editions []string
	secret   []string
	open     []string
}

// code is a text that stands nowhere else.
func (d *drawn) code() string {
	d.codes++
	return fmt.Sprintf("zq%dxj%d", d.codes, d.random.IntN(1_000_000))
}

// edition draws the items of an edition: texts, some of them sensitive, some gone, and what
// follows from them by itself.
func (d *drawn) edition() string {
	var items []map[string]any
	for _, key := range d.keys {
		if d.random.IntN(5) == 0 {
			continue
		}
		it := map[string]any{"key": key, "type": "text", "label": "Of " + key}
		if d.random.IntN(3) == 0 {
			it["sensitive"] = true
			d.once[key] = true
		}
		items = append(items, it)
	}
	for n, it := range items {
		from, _ := it["key"].(string)
		switch kind := fmt.Sprintf("%s_%d", from, n); d.random.IntN(4) {
		case 0:
			items = append(items, map[string]any{"key": "c" + kind, "type": "hidden", "label": "Copy",
				"value": map[string]any{"is": from}})
		case 1:
			items = append(items, map[string]any{"key": "s" + kind, "type": "text", "label": "Begins",
				"value": map[string]any{"starts": "join(\": \", " + from + ")"}})
		case 2:
			items = append(items, map[string]any{"key": "l" + kind, "type": "text", "label": "Since {" + from + "}?"})
		}
	}
	out, err := json.Marshal(items)
	if err != nil {
		panic(err)
	}
	return strings.Trim(string(out), "[]")
}

// answered draws answers for the questions of an edition, with what follows from them.
func (d *drawn) answered(def *form.Form) string {
	answers, codes := map[string]string{}, map[string]string{}
	for p := range def.Places() {
		key := p.Item.Key
		from, _, follows := strings.Cut(key[1:], "_")
		switch {
		case follows && key[0] != 'l':
			answers[key] = codes[from]
		case follows:
			answers[key] = "May"
		default:
			codes[key] = d.code()
			answers[key] = codes[key]
		}
	}
	for key, code := range codes {
		if d.once[key] {
			d.secret = append(d.secret, code)
		} else {
			d.open = append(d.open, code)
		}
	}
	out, err := json.Marshal(answers)
	if err != nil {
		panic(err)
	}
	return string(out)
}

// routes are those of the router that only show something.
func routes(t *testing.T, s *store.Store) (out []string) {
	t.Helper()
	app, is := web.New(s, web.Options{Quiet: true}).(chi.Routes)
	require.True(t, is)
	require.NoError(t, chi.Walk(app,
		func(method, pattern string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
			if method == http.MethodGet && strings.Contains(pattern, "{form}") {
				out = append(out, pattern)
			}
			return nil
		}))
	require.Greater(t, len(out), 30)
	return out
}

// readable unpacks what is packed, so that it can be searched.
func readable(body string) string {
	packed, err := zip.NewReader(strings.NewReader(body), int64(len(body)))
	if err != nil {
		return body
	}
	var out bytes.Buffer
	for _, f := range packed.File {
		out.WriteString(f.Name + "\n")
		if part, err := f.Open(); err == nil {
			_, _ = io.Copy(&out, part)
			_ = part.Close()
		}
	}
	return out.String()
}

// Readers, with and without leave to take responses out, go to every address there is of
// many forms in three editions: never is a secret in what they get, whatever became of its
// question. Strangers and members of another workspace get nothing at all.
func TestReadersAgainstManyForms(t *testing.T) {
	ctx := context.Background()
	seed := uint64(time.Now().UnixNano())
	t.Log("seed", seed)
	asked := 0
	for n := range times(2, 20) {
		d := &drawn{random: rand.New(rand.NewPCG(seed, uint64(n))), keys: []string{"qa", "qb", "qc", "qd", "qe"},
			once: map[string]bool{}}
		for range 3 {
			d.editions = append(d.editions, d.edition())
		}
		owner := desktest.Visit(t, d.editions[0])
		for e, items := range d.editions {
			def, remarks := form.Read([]byte(`{"lazo": 1, "key": "entry", "title": "Entry", "timezone": "UTC", "pages": [{"key": "p", "title": "Boat",
				"sections": [{"key": "s", "title": "Hull", "items": [` + items + `]}]}]}`))
			require.NotNil(t, def, remarks)
			if e > 0 {
				f, err := owner.InForm().Get(ctx)
				require.NoError(t, err)
				f, err = owner.InForm().Edit(ctx, f.DraftVersion, owner.Member(), form.Edit{Op: form.Replace, Form: def})
				require.NoError(t, err)
				_, err = owner.InForm().Publish(ctx, f.DraftVersion, owner.Member())
				require.NoError(t, err)
			}
			for range 2 {
				owner.ReceiveIn(e+1, d.answered(def))
			}
		}
		asked += d.attack(t, owner)
	}
	t.Logf("%d addresses were asked for", asked)
}

// attack asks for everything, as who may not see everything.
func (d *drawn) attack(t *testing.T, owner *desktest.Visitor) (asked int) {
	t.Helper()
	list, err := owner.InForm().Responses(context.Background(), 0, 20)
	require.NoError(t, err)
	seen := ""
	for _, r := range list {
		_, page := owner.Get(owner.Base + "/responses/" + r.ID)
		seen += page
	}
	for _, code := range append(append([]string{}, d.secret...), d.open...) {
		assert.Contains(t, seen, code, "owners see all")
	}
	var paths []string
	in := owner.Base + "/responses"
	for _, pattern := range routes(t, owner.Store()) {
		for _, r := range list {
			for _, key := range d.keys {
				path := strings.NewReplacer("{form}", fmt.Sprint(owner.Form.ID), "{response}", r.ID, "{format}", "ndjson",
					"{question}", key,
					"{kind}", "csv", "{language}", "es", "{part}", "look", "{link}", "1", "{intake}", "1", "{export}", "1", "{hook}",
					"h",
					"{message}", "m",
					"{document}", "d", "{upload}", r.ID).Replace(pattern)
				if paths = append(paths, path); !strings.Contains(pattern, "{question}") {
					break
				}
			}
			if !strings.Contains(pattern, "{response}") {
				break
			}
		}
	}
	for _, code := range d.secret {
		paths = append(paths, in+"?find="+code, in+"/count?find="+code)
	}
	for _, key := range d.keys {
		paths = append(paths, in+"?sort="+key, in+"?cols="+key, in+"?when="+key+"+is+answered",
			in+"/summary?of="+key+"&by="+d.keys[0], in+"/sheets?cols="+key)
	}
	for _, format := range []string{"csv", "ndjson", "xlsx", "json"} {
		paths = append(paths, in+"/as."+format, in+"/as."+format+"?cols="+strings.Join(d.keys, ","))
	}
	another := desktest.Visit(t, `{"key": "qa", "type": "text", "label": "A"}`)
	for _, who := range []struct {
		name  string
		v     *desktest.Visitor
		never []string
	}{
		{"a reader", owner.Reader(false), d.secret}, {"an exporting reader", owner.Reader(true), d.secret},
		{"another owner", another, append(append([]string{}, d.secret...), d.open...)},
	} {
		got := ""
		for _, path := range paths {
			status, body := who.v.Get(path)
			asked++
			assert.Less(t, status, 500, "%s at %s", who.name, path)
			if _, what, finds := strings.Cut(path, "find="); finds {
				body = strings.ReplaceAll(body, what, "") // a page says what it was asked for
			}
			body = readable(body)
			got += body
			for _, code := range who.never {
				if strings.Contains(body, code) {
					at := strings.Index(body, code)
					t.Fatalf("%s was told %s at %s in %q of\n%s", who.name, code, path, body[max(0, at-300):min(len(body), at+50)],
						d.editions)
				}
			}
		}
		if len(d.open) > 0 && who.name == "an exporting reader" {
			assert.Contains(t, got, d.open[0], "readers see what is open")
		}
	}
	return asked
}
