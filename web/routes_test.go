package web_test

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
	"lazo/store/storetest"
)

// who may come to an address.
type who int

const (
	anybody     who = iota
	signedIn        // anybody who has an account
	readers         // members of the workspace, whatever their role
	exporters       // and readers only if they may take responses out
	designers       // designers and owners
	owners          // owners alone
	readersOf       // as those above, and the form, list or letter is of the workspace
	exportersOf     // (of a reader, the form was chosen)
	designersOf
	ownersOf
)

// mayCome classifies every route of the router. Whoever adds a route says here who may
// come; the test fails until then.
var mayCome = map[who][]string{
	anybody: {
		"GET /healthz", "GET /readyz", "GET /schema/form.json", "* /static/*", "GET /sign-in", "POST /sign-in",
		"GET /sign-in/second", "POST /sign-in/second", "GET /reset", "POST /reset", "GET /reset/{token}",
		"POST /reset/{token}",
		"GET /address/{token}", "POST /address/{token}", "GET /factor/{token}", "POST /factor/{token}", "GET /join/{token}",
		"POST /join/{token}", "GET /begin/{token}", "POST /begin/{token}",
		"GET /f/{address}", "POST /f/{address}", "POST /f/{address}/begun",
		"POST /f/{address}/live", "GET /f/{address}/empty", "GET /f/{address}/opening.ics",
		"GET /f/{address}/received/{filling}", "POST /f/{address}/received/{filling}", "GET /f/{address}/theme/{edition}.css",
		"GET /l/{code}", "GET /p/{picture}", "GET /r/{secret}",
		"GET /c/{token}", "POST /c/{token}", "POST /f/{address}/received/{filling}/ask-again",
		"GET /f/{address}/received/{filling}/documents/{document}",
		"GET /f/{address}/received/{filling}/documents/{document}.pdf",
	},
	signedIn: {
		"GET /", "POST /sign-out", "GET /again", "POST /again", "POST /workspaces", "GET /account", "POST /account/name",
		"POST /account/password", "POST /account/email", "POST /account/second", "GET /account/second/code.svg",
		"POST /account/sign-ins/end",
		"POST /account/leave",
	},
	readers: {"GET /forms", "GET /keys", "GET /help/{topic}", "GET /workspace", "POST /workspace/notices"},
	designers: {
		"POST /forms", "GET /samples", "POST /samples", "POST /import", "GET /lists", "POST /lists", "GET /outbox",
		"POST /outbox/go",
	},
	owners: {
		"POST /workspace/note", "POST /workspace/pictures",
		"POST /workspace/pictures/forbid", "GET /people", "POST /people/invite", "POST /people/second",
		"POST /people/invitations/{invitation}/{act}", "POST /people/{member}", "POST /people/{member}/remove",
		"GET /people/forms", "GET /people/{member}/role",
		"GET /trail", "GET /trail.ndjson", "POST /trail/kept", "POST /outbox/kept", "GET /person", "POST /person",
		"POST /person/file", "POST /person/erase",
	},
	readersOf: {
		"GET /forms/{form}/responses", "GET /forms/{form}/responses/{response}", "GET /forms/{form}/responses/count",
		"GET /forms/{form}/responses/news", "GET /forms/{form}/responses/condition", "GET /forms/{form}/responses/summary",
		"GET /forms/{form}/responses/summary/{question}/picture.svg",
		"GET /forms/{form}/responses/{response}/files/{upload}",
		"GET /forms/{form}/responses/{response}/files/{upload}/picture",
	},
	exportersOf: {
		"GET /forms/{form}/responses.csv", "GET /forms/{form}/responses/as.{format}", "GET /forms/{form}/responses/files.zip",
		"GET /forms/{form}/responses/out", "POST /forms/{form}/responses/out", "GET /forms/{form}/responses/out/{export}",
		"POST /forms/{form}/responses/out/{export}/drop", "GET /forms/{form}/responses/sheets",
		"GET /forms/{form}/responses/schema.json",
	},
	designersOf: {
		"GET /forms/{form}/", "POST /forms/{form}/edit", "POST /forms/{form}/check", "GET /forms/{form}/clause",
		"GET /forms/{form}/targets", "GET /forms/{form}/presence", "POST /forms/{form}/pictures", "POST /forms/{form}/keep",
		"GET /forms/{form}/files", "GET /forms/{form}/more", "GET /forms/{form}/file", "POST /forms/{form}/import",
		"GET /forms/{form}/sheet.{kind}",
		"POST /forms/{form}/sheet", "POST /forms/{form}/sheet/take", "GET /forms/{form}/season", "POST /forms/{form}/season",
		"POST /forms/{form}/duplicate", "POST /forms/{form}/shelf", "POST /forms/{form}/aside",
		"GET /forms/{form}/rehearsal", "POST /forms/{form}/rehearsal", "GET /forms/{form}/proof",
		"GET /forms/{form}/proof/lines",
		"GET /forms/{form}/proof/publishing", "POST /forms/{form}/proof/keep", "GET /forms/{form}/publish",
		"GET /forms/{form}/publish/code.svg",
		"POST /forms/{form}/publish",
		"POST /forms/{form}/live", "POST /forms/{form}/offline", "POST /forms/{form}/online",
		"GET /forms/{form}/public", "GET /forms/{form}/public/{part}", "POST /forms/{form}/public",
		"POST /forms/{form}/public/logo",
		"GET /forms/{form}/public/seen", "GET /forms/{form}/public/seen/theme.css", "GET /forms/{form}/languages/{language}",
		"POST /forms/{form}/languages/{language}", "GET /forms/{form}/links", "POST /forms/{form}/links",
		"POST /forms/{form}/links/many", "POST /forms/{form}/links/{link}/delete",
		"GET /forms/{form}/links/{link}/code.{kind}",
		"POST /forms/{form}/responses/views", "POST /forms/{form}/responses/views/delete", "POST /forms/{form}/responses/set",
		"POST /forms/{form}/responses/take-back", "GET /forms/{form}/responses/new", "POST /forms/{form}/responses/new",
		"GET /forms/{form}/responses/{response}/change", "POST /forms/{form}/responses/{response}/change",
		"POST /forms/{form}/responses/{response}/set", "POST /forms/{form}/responses/{response}/withdraw",
		"POST /forms/{form}/responses/{response}/restore", "POST /forms/{form}/responses/{response}/undo",
		"POST /forms/{form}/responses/{response}/reinstate", "POST /forms/{form}/responses/{response}/confirm",
		"GET /forms/{form}/responses/{response}/documents/{document}",
		"GET /forms/{form}/responses/{response}/documents/{document}.pdf",
		"GET /forms/{form}/responses/documents/{document}.pdf",
		"GET /forms/{form}/responses/in", "POST /forms/{form}/responses/in",
		"GET /forms/{form}/responses/in/{intake}", "POST /forms/{form}/responses/in/{intake}",
		"POST /forms/{form}/responses/in/{intake}/take", "POST /forms/{form}/responses/in/{intake}/drop",
		"GET /forms/{form}/letters/{message}", "GET /outbox/{letter}",
		"GET /forms/{form}/hooks/{hook}", "POST /forms/{form}/hooks/{hook}/secret", "POST /forms/{form}/hooks/{hook}/test",
		"POST /outbox/{letter}/{act}",
		"GET /lists/{list}", "POST /lists/{list}/entries", "POST /lists/{list}/columns", "POST /lists/{list}/read",
		"GET /lists/{list}/proposals/{proposal}", "POST /lists/{list}/proposals/{proposal}", "POST /lists/{list}/back",
		"POST /lists/{list}/name", "GET /lists/{list}/file.{kind}",
	},
	ownersOf: {
		"GET /forms/{form}/kept", "POST /forms/{form}/kept", "GET /forms/{form}/delete", "POST /forms/{form}/delete",
		"POST /forms/{form}/responses/{response}/delete",
		"POST /forms/{form}/responses/in/{intake}/take-out", "POST /lists/{list}/delete",
	},
}

// may reports whether who has a role may come to a route of a class.
func (w who) may(role store.Role, exports bool) bool {
	switch w {
	case owners, ownersOf:
		return role == store.Owner
	case designers, designersOf:
		return role != store.Reader
	case exporters, exportersOf:
		return role != store.Reader || exports
	}
	return true
}

// of reports whether a route is about something of a workspace.
func (w who) of() bool { return w >= readersOf }

// classified gives who may come to a route; ok is false for one that nobody classified.
func classified(method, pattern string) (w who, ok bool) {
	for w, list := range mayCome {
		for _, route := range list {
			if route == method+" "+pattern || route == "* "+pattern {
				return w, true
			}
		}
	}
	return 0, false
}

func TestEveryRouteSaysWhoMayCome(t *testing.T) {
	there := map[string]bool{}
	for _, route := range routes(t) {
		_, ok := classified(route[0], route[1])
		assert.True(t, ok, "%s %s is not classified", route[0], route[1])
		there[route[0]+" "+route[1]], there["* "+route[1]] = true, true
	}
	for _, list := range mayCome {
		for _, route := range list {
			assert.True(t, there[route], "there is no route %s", route)
		}
	}
}

// Strangers are led to sign in, and members of another workspace find nothing, at every
// route that is not for anybody; nothing is changed by either.
func TestOthersGetNothing(t *testing.T) {
	ctx := context.Background()
	w, err := db.CreateWorkspace(ctx, "Elsewhere")
	require.NoError(t, err)
	hash := storetest.Hash("elsewhere")
	_, err = db.CreateMember(ctx,
		store.Member{WorkspaceID: w.ID, Email: "other@elsewhere.example", Name: "Other", PasswordHash: hash})
	require.NoError(t, err)
	f, err := db.FormByAddress(ctx, "crew-entry")
	require.NoError(t, err)
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	list, err := in.Responses(ctx, 0, 1)
	require.NoError(t, err)
	links, err := in.Links(ctx)
	require.NoError(t, err)
	before, err := in.Get(ctx)
	require.NoError(t, err)
	lists, err := db.InWorkspace(f.WorkspaceID).Lists(ctx)
	require.NoError(t, err)
	proposal, err := db.InWorkspace(f.WorkspaceID).Propose(ctx, lists[0].ID, lists[0].Version, form.Table{}, "a draft")
	require.NoError(t, err)
	letters, err := db.InWorkspace(f.WorkspaceID).Letters(ctx, store.Outbox{Form: f.ID})
	require.NoError(t, err)
	fill := strings.NewReplacer("{form}", fmt.Sprint(f.ID), "{response}", list[0].ID, "{link}", fmt.Sprint(links[0].ID),
		"{kind}", "svg",
		"{list}", fmt.Sprint(lists[0].ID), "{proposal}", proposal,
		"{letter}", fmt.Sprint(letters[0].ID), "{act}", "again", "{hook}", "crane", "{document}", "starting_card",
		"{message}", "confirmation",
		"{language}", "es", "{upload}", "00000000-0000-0000-0000-000000000000")

	other, stranger := newClient(t), newClient(t)
	status, _ := other.post("/sign-in", url.Values{"email": {"other@elsewhere.example"}, "password": {"elsewhere"}})
	require.Equal(t, http.StatusOK, status)
	posted := url.Values{
		"version": {fmt.Sprint(before.DraftVersion)}, "do": {"set"}, "property": {"title"}, "value": {"Stolen"},
		"title": {"Crew entry"},
		"sure":  {"yes"}, "number": {"1"}, "message": {"Stolen"}, "part": {"returning"}, "save": {"1"}, "name": {"Stolen"},
	}
	ask := func(c client, method, path string) (int, string) {
		if method == http.MethodPost {
			return c.post(path, posted)
		}
		return c.get(path)
	}
	for _, route := range routes(t) {
		method, path := route[0], fill.Replace(route[1])
		switch w, _ := classified(method, route[1]); {
		case w.of():
			status, _ := ask(other, method, path)
			assert.Equal(t, http.StatusNotFound, status, "%s %s, from another workspace", method, path)
			fallthrough
		case w != anybody && route[1] != "/":
			_, page := ask(stranger, method, path)
			assert.Contains(t, page, "Sign in", "%s %s, of a stranger", method, path)
		}
	}
	after, err := in.Get(ctx)
	require.NoError(t, err)
	assert.Equal(t, before, after, "nothing was changed")
	left, err := in.Responses(ctx, 0, 1)
	require.NoError(t, err)
	assert.Equal(t, list[0].ID, left[0].ID)
	stand, err := db.InWorkspace(f.WorkspaceID).Letters(ctx, store.Outbox{Form: f.ID})
	require.NoError(t, err)
	assert.Equal(t, letters, stand)
	now, err := db.InWorkspace(f.WorkspaceID).Lists(ctx)
	require.NoError(t, err)
	assert.Equal(t, lists, now)
}

// Each role may do what is its own at every route, and is refused at all others; of a
// reader that holds for the forms that were chosen, and others are not there.
func TestRolesHoldOnEveryRoute(t *testing.T) {
	ctx := context.Background()
	w, err := db.CreateWorkspace(ctx, "Harbour of roles")
	require.NoError(t, err)
	in := db.InWorkspace(w.ID)
	hash := storetest.Hash("roles")
	founder, err := db.CreateMember(ctx,
		store.Member{WorkspaceID: w.ID, Email: "founder@roles.example", Name: "Founder", PasswordHash: hash})
	require.NoError(t, err)
	var forms []store.Form
	for _, key := range []string{"chosen", "other"} {
		def, _ := form.Read([]byte(`{"lazo": 1, "key": "` + key + `", "title": "` + key + `", "timezone": "UTC", "pages": [{"key": "p", "title": "P",
			"sections": [{"key": "s", "title": "S", "items": [{"key": "boat", "type": "text", "label": "Boat"}]}]}]}`))
		f, err := in.CreateForm(ctx, def)
		require.NoError(t, err)
		_, err = in.Form(f.ID).Publish(ctx, f.DraftVersion, founder.ID)
		require.NoError(t, err)
		f, err = in.Form(f.ID).Get(ctx)
		require.NoError(t, err)
		forms = append(forms, f)
	}
	_, err = db.AddResponse(ctx, store.Response{WorkspaceID: w.ID, FormID: forms[0].ID, Edition: 1,
		Answers: []byte(`{"boat": "Pato"}`), ReceivedAt: time.Now(), Filling: "0bad0bad-0000-4000-8000-000000000001"})
	require.NoError(t, err)
	kept, err := in.Form(forms[0].ID).Responses(ctx, 0, 1)
	require.NoError(t, err)
	resp := kept[0]
	list, err := in.AddList(ctx, "piers", "Piers", form.Table{}, founder.ID, "begun")
	require.NoError(t, err)
	path := func(f store.Form, pattern string) string {
		return strings.NewReplacer("{form}", fmt.Sprint(f.ID), "{response}", resp.ID, "{list}", fmt.Sprint(list.ID),
			"{upload}",
			"00000000-0000-0000-0000-000000000000", "{kind}", "csv", "{format}", "csv", "{language}", "es", "{question}", "boat",
			"{member}", "0", "{invitation}", "0", "{link}", "0", "{letter}", "0", "{intake}", "0", "{act}", "address", "{hook}",
			"crane",
			"{message}", "m", "{document}", "d", "{export}", "0", "{proposal}", "0").Replace(pattern)
	}
	for _, one := range []struct {
		name    string
		role    store.Role
		exports bool
	}{
		{"owner", store.Owner, false}, {"designer", store.Designer, false}, {"reader", store.Reader, false},
		{"exporting reader", store.Reader, true},
	} {
		email := strings.ReplaceAll(one.name, " ", "-") + "@roles.example"
		m, err := db.CreateMember(ctx,
			store.Member{WorkspaceID: w.ID, Email: email, Name: one.name, PasswordHash: hash, Role: one.role})
		require.NoError(t, err)
		if one.role == store.Reader {
			require.NoError(t, in.SetRole(ctx, m.ID, one.role, one.exports, []store.FormID{forms[0].ID}))
		}
		c := newClient(t)
		status, page := c.post("/sign-in", url.Values{"email": {email}, "password": {"roles"}})
		require.Equal(t, http.StatusOK, status, page)
		_, page = c.get("/forms")
		assert.Contains(t, page, ">chosen</a>")
		assert.Equal(t, one.role != store.Reader, strings.Contains(page, ">other</a>"), "the other form, listed for the %s",
			one.name)
		for _, route := range routes(t) {
			class, _ := classified(route[0], route[1])
			if class == anybody || route[1] == "/sign-out" || route[1] == "/" {
				continue
			}
			for i, f := range forms {
				if i > 0 && !strings.Contains(route[1], "{form}") {
					continue
				}
				ask := func() (int, string) { return c.get(path(f, route[1])) }
				if route[0] == http.MethodPost {
					ask = func() (int, string) { return c.post(path(f, route[1]), url.Values{"version": {"1"}}) }
				}
				status, page := ask()
				says := fmt.Sprintf("%s %s, of the form %s, by the %s", route[0], route[1], f.Title, one.name)
				assert.Less(t, status, 500, says)
				switch {
				case !class.may(one.role, one.exports):
					assert.Equal(t, http.StatusForbidden, status, says)
					assert.Contains(t, page, "This is not for your role", says)
				case one.role == store.Reader && i > 0:
					assert.Equal(t, http.StatusNotFound, status, says)
				default:
					assert.NotEqual(t, http.StatusForbidden, status, says)
				}
			}
		}
	}
	_, err = in.Form(forms[0].ID).Response(ctx, resp.ID)
	assert.NoError(t, err)
}
