// Package desktest lets the tests of a screen visit it over HTTP, signed in to a workspace
// of their own.
package desktest

import (
	"bytes"
	"context"
	"fmt"
	"html"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/store"
	"lazo/store/storetest"
	"lazo/web"
)

// Main is what TestMain of a screen's tests ends with.
func Main(m *testing.M) int {
	return storetest.Main(m, func(s *store.Store) func() {
		db = s
		site = httptest.NewServer(web.New(s, web.Options{Quiet: true, Trust: true}))
		return site.Close
	})
}

var (
	db   *store.Store
	site *httptest.Server
)

// Visitor is a member at the desk, with a form.
type Visitor struct {
	t    *testing.T
	http *http.Client
	Form store.Form
	Base string // the form's address on the desk

	At     string // the path that the last visit led to
	member store.MemberID
	email  string
}

// Visit signs a member of a new workspace in, with a form of these items (JSON), which is
// published.
func Visit(t *testing.T, items string) *Visitor {
	t.Helper()
	ctx := context.Background()
	w, err := db.CreateWorkspace(ctx, "Harbour")
	require.NoError(t, err)
	hash := storetest.Hash("oars and boats")
	email := fmt.Sprintf("%d@pedralta.example", time.Now().UnixNano())
	m, err := db.CreateMember(ctx, store.Member{WorkspaceID: w.ID, Email: email, Name: "Ana Prado", PasswordHash: hash})
	require.NoError(t, err)
	def, remarks := form.Read([]byte(`{"lazo": 1, "key": "entry", "title": "Entry", "timezone": "UTC", "pages": [{"key": "p", "title": "Boat",
		"sections": [{"key": "s", "title": "Hull", "items": [` + items + `]}]}]}`))
	require.NotNil(t, def, remarks)
	f, err := db.InWorkspace(w.ID).CreateForm(ctx, def)
	require.NoError(t, err)
	_, err = db.InWorkspace(w.ID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	v := &Visitor{t, &http.Client{Jar: jar}, f, fmt.Sprintf("/forms/%d", f.ID), "", m.ID, email}
	status, _ := v.Post("/sign-in", url.Values{"email": {email}, "password": {"oars and boats"}})
	require.Equal(t, http.StatusOK, status)
	return v
}

// InForm is what belongs to the visitor's form.
func (v *Visitor) InForm() store.InForm { return db.InWorkspace(v.Form.WorkspaceID).Form(v.Form.ID) }

// Member is who visits.
func (v *Visitor) Member() store.MemberID { return v.member }

// Email is the address that they sign in with.
func (v *Visitor) Email() string { return v.email }

// Again is the same person, signed in by another program.
func (v *Visitor) Again(password string) *Visitor {
	v.t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(v.t, err)
	out := *v
	out.http = &http.Client{Jar: jar}
	status, _ := out.Post("/sign-in", url.Values{"email": {v.email}, "password": {password}})
	require.Equal(v.t, http.StatusOK, status)
	return &out
}

// Store is the store that all visitors share.
func (v *Visitor) Store() *store.Store { return db }

// Workspace is what belongs to the visitor's workspace.
func (v *Visitor) Workspace() store.InWorkspace { return db.InWorkspace(v.Form.WorkspaceID) }

var hidden = regexp.MustCompile(`<input type="hidden"[^>]*? name="([^"]*)" value="([^"]*)"`)

// Hidden are the hidden fields of a page.
func Hidden(page string) url.Values {
	out := url.Values{}
	for _, m := range hidden.FindAllStringSubmatch(page, -1) {
		out.Add(m[1], html.UnescapeString(m[2]))
	}
	return out
}

// Draft is the form's draft as it is now, and its version.
func (v *Visitor) Draft() (*form.Form, string) {
	v.t.Helper()
	f, err := v.InForm().Get(context.Background())
	require.NoError(v.t, err)
	def, err := f.Definition()
	require.NoError(v.t, err)
	return def, fmt.Sprint(f.DraftVersion)
}

// DraftJSON is the draft as a form file.
func (v *Visitor) DraftJSON() string {
	v.t.Helper()
	def, _ := v.Draft()
	return string(def.JSON())
}

// Receive stores a response with these answers (JSON).
func (v *Visitor) Receive(answers string) {
	v.t.Helper()
	v.ReceiveIn(1, answers)
}

// ReceiveIn is Receive for a response that was given in an edition.
func (v *Visitor) ReceiveIn(edition int, answers string) {
	v.t.Helper()
	_, err := db.AddResponse(context.Background(), store.Response{
		WorkspaceID: v.Form.WorkspaceID, FormID: v.Form.ID, Edition: edition, Answers: []byte(answers),
		ReceivedAt: time.Now(), Filling: fmt.Sprintf("%08x-0000-4000-8000-%012x", v.Form.ID,
			time.Now().UnixNano()&0xffffffffffff),
	})
	require.NoError(v.t, err)
}

// Entries signs a member in with a form of boats that three people have answered; ids are
// those of their responses by name.
func Entries(t *testing.T) (v *Visitor, ids map[string]string) {
	t.Helper()
	v = Visit(t, `{"key": "boat", "type": "choice", "label": "Boat class",
			"choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
		{"key": "name", "type": "text", "label": "Your name"},
		{"key": "length", "type": "number", "label": "Length in metres", "max": 20},
		{"key": "called", "type": "tick", "label": "Called", "staff": true},
		{"key": "paid", "type": "choice", "label": "Paid", "staff": true, "choices": [{"value": "cash", "label": "In cash"}]}`)
	v.Receive(`{"boat": "eight", "name": "Ana", "length": 17}`)
	v.Receive(`{"boat": "single", "name": "=Bo()", "length": 8}`)
	v.Receive(`{"boat": "single", "name": "Ciro", "length": 9}`)
	list, err := v.InForm().Responses(context.Background(), 0, 10)
	require.NoError(t, err)
	ids = map[string]string{}
	for _, r := range list {
		name, _ := v.Answers(r.ID)["name"].(string)
		ids[name] = r.ID
	}
	return v, ids
}

// Answers are what is stored of a response.
func (v *Visitor) Answers(id string) map[string]any {
	v.t.Helper()
	r, err := v.InForm().Response(context.Background(), id)
	require.NoError(v.t, err)
	answers, err := engine.ParseAnswers(r.Answers)
	require.NoError(v.t, err)
	return answers
}

// Get visits a path.
func (v *Visitor) Get(path string) (status int, page string) {
	v.t.Helper()
	return v.read(v.http.Get(site.URL + path))
}

// Begin asks for a path with a header of the request, and breaks off before anything of the
// answer's body is read.
func (v *Visitor) Begin(path, header, value string) (status int) {
	v.t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, site.URL+path, nil)
	require.NoError(v.t, err)
	r.Header.Set(header, value)
	res, err := v.http.Do(r)
	require.NoError(v.t, err)
	_ = res.Body.Close()
	return res.StatusCode
}

// Post posts fields to a path, and goes where that leads.
func (v *Visitor) Post(path string, fields url.Values) (status int, page string) {
	v.t.Helper()
	return v.read(v.http.PostForm(site.URL+path, fields))
}

// Upload posts a file, and fields given as names and values in turn.
func (v *Visitor) Upload(path, name string, data []byte, fields ...string) (status int, page string) {
	v.t.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	for i := 0; i+1 < len(fields); i += 2 {
		require.NoError(v.t, w.WriteField(fields[i], fields[i+1]))
	}
	if name != "" {
		part, err := w.CreateFormFile("file", name)
		require.NoError(v.t, err)
		_, err = part.Write(data)
		require.NoError(v.t, err)
	}
	require.NoError(v.t, w.Close())
	return v.PostBody(path, w.FormDataContentType(), &b)
}

// PostBody is Post for a body of any kind.
func (v *Visitor) PostBody(path, kind string, body io.Reader) (status int, page string) {
	v.t.Helper()
	return v.read(v.http.Post(site.URL+path, kind, body))
}

func (v *Visitor) read(res *http.Response, err error) (int, string) {
	v.t.Helper()
	require.NoError(v.t, err)
	defer res.Body.Close()
	v.At = res.Request.URL.Path
	body, err := io.ReadAll(res.Body)
	require.NoError(v.t, err)
	return res.StatusCode, string(body)
}

// Case is one visit with what has to come of it.
type Case struct {
	Name    string
	Path    string     // behind the form's address, or from the root if it begins with /
	Post    url.Values // nil to get; the draft's version is added
	Status  int        // 200 if 0
	Says    []string
	SaysNot []string
}

// Try makes visits one after the other, each a test of its own.
func (v *Visitor) Try(cases []Case) {
	v.t.Helper()
	t := v.t
	for _, c := range cases {
		t.Run(c.Name, func(t *testing.T) {
			v.t = t
			path := c.Path
			if !strings.HasPrefix(path, "/") {
				path = v.Base + "/" + path
			}
			var status int
			var page string
			if c.Post == nil {
				status, page = v.Get(path)
			} else {
				_, version := v.Draft()
				if !c.Post.Has("version") {
					c.Post.Set("version", version)
				}
				status, page = v.Post(path, c.Post)
			}
			want := c.Status
			if want == 0 {
				want = http.StatusOK
			}
			require.Equal(t, want, status, "%.3000s", page)
			for _, text := range c.Says {
				require.Contains(t, page, text)
			}
			for _, text := range c.SaysNot {
				require.NotContains(t, page, text)
			}
		})
	}
	v.t = t
}

// Fields are posted fields, given as names and values in turn.
func Fields(pairs ...string) url.Values {
	out := url.Values{}
	for i := 0; i+1 < len(pairs); i += 2 {
		out.Add(pairs[i], pairs[i+1])
	}
	return out
}

// Reader signs in a reader of the visitor's form, who may take responses out or not.
func (v *Visitor) Reader(exports bool) *Visitor {
	v.t.Helper()
	ctx := context.Background()
	hash := storetest.Hash("reads alone")
	email := fmt.Sprintf("reader-%d@pedralta.example", time.Now().UnixNano())
	m, err := db.CreateMember(ctx,
		store.Member{WorkspaceID: v.Form.WorkspaceID, Email: email, Name: "Bo Lind", PasswordHash: hash,
			Role: store.Reader})
	require.NoError(v.t, err)
	require.NoError(v.t, v.Workspace().SetRole(ctx, m.ID, store.Reader, exports, []store.FormID{v.Form.ID}))
	jar, err := cookiejar.New(nil)
	require.NoError(v.t, err)
	out := &Visitor{v.t, &http.Client{Jar: jar}, v.Form, v.Base, "", m.ID, email}
	status, _ := out.Post("/sign-in", url.Values{"email": {email}, "password": {"reads alone"}})
	require.Equal(v.t, http.StatusOK, status)
	return out
}

// Change posts fields as the scripts of a page do, for the parts of it that change.
func (v *Visitor) Change(path string, fields url.Values) (status int, page string) {
	v.t.Helper()
	req, err := http.NewRequest(http.MethodPost, site.URL+path, strings.NewReader(fields.Encode()))
	require.NoError(v.t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("HX-Request", "true")
	return v.read(v.http.Do(req))
}
