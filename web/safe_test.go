package web_test

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
	"lazo/metrics"
	"lazo/store"
	"lazo/store/storetest"
	"lazo/web"
	"lazo/web/respond"
)

// aForm is a small form of its own, with what else it says.
func aForm(key string, set func(*form.Form)) *form.Form {
	f := &form.Form{
		Lazo:     1,
		Key:      key,
		Title:    "Boat check",
		Timezone: "UTC",
		Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s", Items: []*form.Item{
			{Key: "name", Type: form.Text, Label: "Name"}}}}}},
	}
	if set != nil {
		set(f)
	}
	return f
}

// publishAgain makes an edit and publishes it.
func publishAgain(t *testing.T, f store.Form, edit form.Edit) {
	ctx := context.Background()
	m, err := db.MemberByEmail(ctx, demo.Email)
	require.NoError(t, err)
	after, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, m.ID, edit)
	require.NoError(t, err)
	_, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Publish(ctx, after.DraftVersion, m.ID)
	require.NoError(t, err)
}

func TestClosingClosesForPagesThatAreOpenAlready(t *testing.T) {
	past := time.Now().Add(-time.Hour).UTC().Format("2006-01-02T15:04")
	for name, c := range map[string]struct {
		before *form.Opening
		after  form.Opening
		sent   int
	}{
		"a deadline that has passed": {nil, form.Opening{Until: past, After: "The entries are closed."}, 0},
		"a limit that is reached":    {nil, form.Opening{Limit: 1, Full: "The entries are closed."}, 0},
		"a deadline put off": {&form.Opening{Until: time.Now().Add(time.Minute).UTC().Format("2006-01-02T15:04")},
			form.Opening{Until: "2099-01-01T00:00"}, 1},
		"a limit that was lifted": {&form.Opening{Limit: 1}, form.Opening{Limit: 5}, 1},
	} {
		t.Run(name, func(t *testing.T) {
			f := published(t, aForm("closing",
				func(f *form.Form) { f.Opening, f.Returning = c.before, &form.Returning{Save: true} }))
			first, early, late := newClient(t), newClient(t), newClient(t)
			_, page := first.get("/f/" + f.Address)
			_, kept := early.get("/f/" + f.Address)
			_, leaving := late.get("/f/" + f.Address)
			v := fields(leaving)
			v.Set("a.name", "Zulma")
			v.Set("_do", "save")
			_, left := late.post("/f/"+f.Address, v)
			v = fields(page)
			v.Set("a.name", "Inés")
			v.Set("_do", "send")
			_, said := first.post("/f/"+f.Address, v)
			require.Equal(t, 1, count(t, f.Address), said)
			publishAgain(t, f, form.SetProperty("", "opening", c.after))

			v = fields(kept)
			v.Set("a.name", "Bruno")
			v.Set("_do", "send")
			_, said = early.post("/f/"+f.Address, v)
			assert.Equal(t, 1+c.sent, count(t, f.Address), said)
			way := wayBack.FindStringSubmatch(left)
			require.NotNil(t, way, left)
			_, back := late.get(way[1])
			if c.sent == 0 {
				assert.Contains(t, said, "The entries are closed.")
				assert.Contains(t, said, "Bruno", "what was typed is still there")
				assert.Contains(t, back, "The entries are closed.")
			} else {
				assert.Contains(t, back, `value="send"`)
			}
		})
	}
}

func TestWhatWasTypedComesBackFromADeletedForm(t *testing.T) {
	f := published(t, aForm("deleted", nil))
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	v := fields(page)
	v.Set("a.name", "Inés Olivera")
	require.NoError(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).Delete(context.Background()))
	for _, do := range []string{"send", "next", "save"} {
		v.Set("_do", do)
		status, said := c.post("/f/"+f.Address, v)
		assert.Equal(t, http.StatusGone, status)
		assert.Contains(t, said, "This form is no longer here")
		assert.Contains(t, said, "Inés Olivera")
	}
}

// A page is sent again where no answer came. What it stored the first time is the same,
// with its signature, and so it is received and not sent twice.
func TestASignedPageThatIsSentAgainIsReceived(t *testing.T) {
	f := published(t, aForm("signed-again", func(f *form.Form) {
		f.Pages[0].Sections[0].Items = append(
			f.Pages[0].Sections[0].Items,
			&form.Item{Key: "signed", Type: form.Signature, Label: "Signature", Required: form.Always},
		)
	}))
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	v := with(fields(page), "a.name", "Inés", "a.signed.typed", "Inés Olivera", "a.signed.drawn", "", "_do", "send")
	for range 3 {
		status, said := c.post("/f/"+f.Address, v)
		assert.Equal(t, http.StatusOK, status)
		assert.NotContains(t, said, "Change what I sent to this")
	}
	assert.Equal(t, 1, count(t, f.Address))
}

func TestAPageIsOfItsOwnFormAlone(t *testing.T) {
	f := published(t, aForm("own-form", nil))
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	v := fields(page)
	v.Set("a.name", "Inés")
	v.Set("_do", "send")
	for _, made := range []string{"made-up", "made-up-2", "regatta-entry"} {
		status, _ := c.post("/f/"+made, v)
		assert.Equal(t, http.StatusNotFound, status)
		status, _ = c.post("/f/"+made+"/live", v)
		assert.Equal(t, http.StatusNotFound, status)
	}
	assert.Zero(t, count(t, f.Address))
}

func TestWhatIsNotOpenYetIsNotShownToBePrinted(t *testing.T) {
	f := published(
		t,
		aForm("secret-questions",
			func(f *form.Form) { f.Opening = &form.Opening{From: "2099-01-01T00:00", Before: "Not yet."} }),
	)
	_, page := newClient(t).get("/f/" + f.Address + "/empty")
	assert.Contains(t, page, "Not yet.")
	assert.NotContains(t, page, ">Name<")
}

func TestAnExportThatFailsIsNoFile(t *testing.T) {
	f := published(t, aForm("export", nil))
	c := newClient(t).signIn()
	add := func(answers string, n int) {
		_, err := db.AddResponse(
			context.Background(),
			store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Answers: []byte(answers),
				ReceivedAt: time.Now(), Filling: fmt.Sprintf("%08x-0000-4000-8000-%012x", f.ID, n)},
		)
		require.NoError(t, err)
	}
	for n := range 3 {
		add(`{"name": "Inés"}`, n)
	}
	path := fmt.Sprintf("/forms/%d/responses.csv", f.ID)
	res, err := c.Get(site.URL + path)
	status, body := c.read(res, err)
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, 4, strings.Count(body, "\r\n"))
	add(`["no answers"]`, 4)
	res, err = c.Get(site.URL + path)
	status, body = c.read(res, err)
	assert.Equal(t, http.StatusInternalServerError, status)
	assert.NotContains(t, body, "Inés")
	assert.Empty(t, res.Header.Get("Content-Disposition"))
}

func TestTheLogHoldsNoSecrets(t *testing.T) {
	var log bytes.Buffer
	before := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(&log, nil)))
	defer slog.SetDefault(before)
	server := httptest.NewServer(web.New(db, web.Options{Trust: true}))
	defer server.Close()
	for _, path := range []string{"/r/very-secret", "/f/very-secret/received/very-secret?a=very-secret", "/l/very-secret",
		"/p/very-secret", "/very-secret", "/forms?very-secret",
		"/reset/very-secret", "/join/very-secret", "/begin/very-secret"} {
		res, err := http.Get(server.URL + path)
		require.NoError(t, err)
		_, _ = io.Copy(io.Discard, res.Body)
		res.Body.Close()
	}
	assert.NotContains(t, log.String(), "very-secret")
	assert.Contains(t, log.String(), "route=/r/{secret}")
	assert.Contains(t, log.String(), "route=/f/{address}/received/{filling}")
}

func TestHealthTellsHowManyConnectionsThereAre(t *testing.T) {
	status, body := newClient(t).get("/readyz")
	assert.Equal(t, http.StatusOK, status)
	assert.Regexp(t, `^ok\nconnections: \d+ of \d+ in use\n$`, body)
}

// A database that can't be written to, for want of room or by a setting, is not called ready,
// and what is sent meanwhile is told to come again; it is found out that it can again.
func TestADatabaseThatCantBeWrittenTo(t *testing.T) {
	ctx := context.Background()
	own, address, done := storetest.OpenURL()
	defer done()
	require.NoError(t, demo.Ensure(ctx, own, time.Now()))
	for what, how := range map[string]struct{ spoil, mend, says string }{
		"no room": {
			`create function no_room() returns trigger language plpgsql as $$ begin raise exception using errcode = 'disk_full'; end $$;
			create trigger no_room before insert on pulses for each row execute function no_room();
			create trigger no_room before insert on responses for each row execute function no_room()`,
			"drop function no_room cascade", "no room left",
		},
		"read only": {
			"do $$ begin execute format('alter database %I set default_transaction_read_only = on', current_database()); end $$",
			"do $$ begin set transaction read write; execute format('alter database %I reset default_transaction_read_only', current_database()); end $$",
			"can't be written to",
		},
	} {
		_, err := own.Pool().Exec(ctx, how.spoil)
		require.NoError(t, err)
		s, err := store.Open(ctx, address) // as it would be found after ten seconds
		require.NoError(t, err)
		f := metrics.New(s, "x")
		visit := from(web.New(s, web.Options{Quiet: true, Trust: true}), "192.0.2.93")
		ready := visit(http.MethodGet, "/readyz", nil)
		assert.Equal(t, http.StatusServiceUnavailable, ready.Code, what)
		assert.Contains(t, ready.Body.String(), how.says)
		w := httptest.NewRecorder()
		f.Handler().ServeHTTP(w, httptest.NewRequest(http.MethodGet, "/", nil))
		assert.Contains(t, w.Body.String(), "lazo_database_up 0", what)
		sent := visit(http.MethodPost, "/f/lake-bulletin", url.Values{})
		assert.NotEqual(t, http.StatusInternalServerError, sent.Code)
		_, err = own.Pool().Exec(ctx, how.mend)
		require.NoError(t, err)
		s.Pool().Reset()
		assert.Equal(t, http.StatusOK, visit(http.MethodGet, "/readyz", nil).Code, what)
		s.Close()
	}
}

// from is a client at a network address of its own.
func from(app http.Handler, address string) func(method, path string, fields url.Values) *httptest.ResponseRecorder {
	return func(method, path string, fields url.Values) *httptest.ResponseRecorder {
		r := httptest.NewRequest(method, path, strings.NewReader(fields.Encode()))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.RemoteAddr = address + ":99"
		w := httptest.NewRecorder()
		app.ServeHTTP(w, r)
		return w
	}
}

func TestOfManySignInsAtOnceNoMoreAreJudgedThanAllowed(t *testing.T) {
	atLength(t)
	stranger := from(site.Config.Handler, "192.0.2.40")
	var all sync.WaitGroup
	var judged atomic.Int32
	for range 40 {
		all.Go(func() {
			if w := stranger(http.MethodPost, "/sign-in", url.Values{"email": {demo.Email},
				"password": {"guess"}}); w.Code != http.StatusTooManyRequests {
				judged.Add(1)
			}
		})
	}
	all.Wait()
	assert.EqualValues(t, 10, judged.Load())
	owner := from(site.Config.Handler, "192.0.2.41")
	for range 12 { // one who knows the password is never refused, here or elsewhere
		w := owner(http.MethodPost, "/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}})
		assert.Equal(t, http.StatusSeeOther, w.Code)
	}
	forgetCounts(t)
}

func TestSessionsCannotBeTakenFromTheDatabase(t *testing.T) {
	c := newClient(t).signIn()
	here, err := url.Parse(site.URL)
	require.NoError(t, err)
	token := c.Jar.Cookies(here)[0].Value
	var n int
	require.NoError(t, db.Pool().QueryRow(context.Background(), "select count(*) from sessions where token = $1",
		token).Scan(&n))
	assert.Zero(t, n)
}

func TestLinksAreOfTheAddressThatWasConfigured(t *testing.T) {
	f := published(t, aForm("based", func(f *form.Form) { f.Returning = &form.Returning{Save: true} }))
	for base, want := range map[string]string{"https://forms.club.example/": "https://forms.club.example/r/",
		"": "http://example.com/r/"} {
		respondent := from(web.New(db, web.Options{Quiet: true, Trust: true, Base: base}), "192.0.2.42")
		v := fields(respondent(http.MethodGet, "/f/"+f.Address, nil).Body.String())
		v.Set("_do", "save")
		assert.Contains(t, respondent(http.MethodPost, "/f/"+f.Address, v).Body.String(), want)
	}
}

func TestTheAddressForChangesIsMadeOnceAndShownOnce(t *testing.T) {
	f := published(t, aForm("once-shown", func(f *form.Form) { f.Returning = &form.Returning{Change: true} }))
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	res, err := c.PostForm(site.URL+"/f/"+f.Address, with(fields(page), "a.name", "Inés", "_do", "send"))
	status, first := c.read(res, err)
	require.Equal(t, http.StatusOK, status)
	end := res.Request.URL.Path
	way := wayBack.FindStringSubmatch(first)
	require.NotNil(t, way, first)
	for range 3 {
		_, again := c.get(end)
		assert.NotRegexp(t, wayBack, again)
		assert.Contains(t, again, "Make a new private address")
	}
	_, back := c.get(way[1])
	assert.Contains(t, back, `value="Inés"`)

	_, anew := c.post(end, nil)
	second := wayBack.FindStringSubmatch(anew)
	require.NotNil(t, second, anew)
	status, _ = c.get(way[1])
	assert.Equal(t, http.StatusNotFound, status, "the one before leads nowhere")
	_, back = c.get(second[1])
	assert.Contains(t, back, `value="Inés"`)
}

func TestErasedIsErasedEverywhere(t *testing.T) {
	ctx := context.Background()
	f := published(t, aForm("erased", func(f *form.Form) { f.Returning = &form.Returning{Save: true, Change: true} }))
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	v := with(fields(page), "a.name", "Inés Olivera-Quist", "_do", "save")
	_, left := c.post("/f/"+f.Address, v)
	way := wayBack.FindStringSubmatch(left)
	require.NotNil(t, way)
	v.Set("_do", "send")
	res, err := c.PostForm(site.URL+"/f/"+f.Address, v)
	status, end := c.read(res, err)
	require.Equal(t, http.StatusOK, status)
	change := wayBack.FindStringSubmatch(end)
	require.NotNil(t, change)
	list, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(ctx, 0, 1)
	require.NoError(t, err)
	// which keeps what it counted
	_, summary := newClient(t).signIn().get(fmt.Sprintf("/forms/%d/responses/summary", f.ID))
	require.Contains(t, summary, "Olivera-Quist")
	require.NoError(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).DeleteResponse(ctx, list[0].ID))

	status, said := c.post("/f/"+f.Address, v)
	assert.Equal(t, http.StatusGone, status)
	assert.Contains(t, said, "has been erased")
	for _, path := range []string{way[1], change[1], res.Request.URL.Path} {
		status, said = c.get(path)
		assert.Equal(t, http.StatusNotFound, status, path)
		assert.NotContains(t, said, "Olivera")
	}
	assert.Zero(t, count(t, f.Address))
	for _, table := range tables(t) {
		var n int
		require.NoError(t, db.Pool().QueryRow(ctx,
			"select count(*) from "+table+" x where x::text like '%Olivera-Quist%'").Scan(&n))
		assert.Zero(t, n, table)
	}
}

// tables are the names of all tables of the database.
func tables(t *testing.T) (names []string) {
	t.Helper()
	rows, err := db.Pool().Query(context.Background(),
		"select quote_ident(tablename) from pg_tables where schemaname = 'public'")
	require.NoError(t, err)
	names, err = pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	require.Greater(t, len(names), 25)
	return names
}

func TestAClockThatWasSetBackDoubtsNobody(t *testing.T) {
	f := published(t, aForm("clock-back", nil))
	now := time.Now()
	respondent := from(web.New(db, web.Options{Quiet: true, Now: func() time.Time { return now }}), "192.0.2.43")
	v := with(fields(respondent(http.MethodGet, "/f/"+f.Address, nil).Body.String()), "a.name", "Inés", "_do", "send")
	assert.Contains(t, respondent(http.MethodPost, "/f/"+f.Address, v).Body.String(), "very quick")
	now = now.Add(-time.Hour)
	assert.Equal(t, http.StatusSeeOther, respondent(http.MethodPost, "/f/"+f.Address, v).Code)
}

func TestAFillingTakesSoManyFilesAndNoMore(t *testing.T) {
	f := published(t, aForm("many-files", func(f *form.Form) {
		f.Pages[0].Sections = append(
			f.Pages[0].Sections,
			&form.Section{Key: "crew", Repeat: &form.Repeat{},
				Items: []*form.Item{{Key: "paper", Type: form.File, Label: "Paper"}}},
		)
	}))
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	send := func(rows ...string) (int, string) {
		var list []file
		for _, row := range rows {
			list = append(list, file{"r.crew." + row + ".paper", "paper.txt", "Oars"})
		}
		return c.multi("/f/"+f.Address, with(fields(page), "_do", "update"), list...)
	}
	var rows []string
	for n := range 101 {
		rows = append(rows, fmt.Sprint(n))
	}
	status, said := send("500", "-1", "99999999999999999999", strings.Repeat("7", 200_000), "x")
	assert.Equal(t, http.StatusOK, status, said)
	kept := func() (n int) {
		require.NoError(t, db.Pool().QueryRow(context.Background(), "select count(*) from uploads where form_id = $1",
			f.ID).Scan(&n))
		return n
	}
	assert.Zero(t, kept(), "a row that can't be has no file")
	status, _ = send(rows[:100]...)
	assert.Equal(t, http.StatusOK, status)
	status, said = send(rows[100])
	assert.Equal(t, http.StatusRequestEntityTooLarge, status)
	assert.Contains(t, said, "These are too many files")
	assert.Equal(t, 100, kept())
}

func TestOneVisitorSendsSoMuchInAnHour(t *testing.T) {
	f := published(t, aForm("much-an-hour", func(f *form.Form) {
		f.Pages[0].Sections[0].Items = append(f.Pages[0].Sections[0].Items,
			&form.Item{Key: "paper", Type: form.File, Label: "Paper"})
	}))
	defer forgetCounts(t)
	_, err := db.CountBy(context.Background(), "files:127.0.0.1", time.Now().Truncate(time.Hour), 500<<10)
	require.NoError(t, err)
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	status, said := c.multi("/f/"+f.Address, with(fields(page), "_do", "update"), file{"a.paper", "paper.txt", "Oars"})
	assert.Equal(t, http.StatusTooManyRequests, status)
	assert.Contains(t, said, "Too much was sent from here")
}

func TestWhatIsKeptOfAFillingIsItsOwn(t *testing.T) {
	f := published(t, aForm("kept-fields", func(f *form.Form) { f.Returning = &form.Returning{Save: true} }))
	defer forgetCounts(t)
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	status, said := c.post(
		"/f/"+f.Address,
		with(fields(page), "a.name", "Ana Prado", "a.club", "Junk", "r.crew.5.name", "Junk", "evil", "Junk", "_do", "save"),
	)
	assert.Equal(t, http.StatusOK, status, said)
	var kept string
	require.NoError(t, db.Pool().QueryRow(context.Background(), "select fields::text from returns where form_id = $1",
		f.ID).Scan(&kept))
	assert.Contains(t, kept, "Ana Prado")
	assert.NotContains(t, kept, "Junk")
}

// still is a copy of the application whose clock stands, so that no minute ends meanwhile.
func still(t testing.TB) (base string) {
	now := time.Now()
	app := httptest.NewServer(web.New(db, web.Options{Quiet: true, Trust: true, Now: func() time.Time { return now }}))
	t.Cleanup(app.Close)
	return app.URL
}

func TestMuchCountsForSeveral(t *testing.T) {
	long := aForm("long-texts", func(f *form.Form) {
		f.Returning = &form.Returning{Save: true}
		for n := range 8 {
			f.Pages[0].Sections[0].Items = append(
				f.Pages[0].Sections[0].Items,
				&form.Item{Key: fmt.Sprintf("story_%d", n), Type: form.Paragraph, Label: "What happened?"},
			)
		}
	})
	for _, do := range []string{"save", "send"} {
		t.Run(do, func(t *testing.T) {
			f := published(t, long)
			defer forgetCounts(t)
			c := newClient(t).at(still(t))
			taken := 0
			for range 4 {
				_, page := c.get("/f/" + f.Address)
				v := with(fields(page), "_do", do)
				for n := range 8 {
					v.Set(fmt.Sprintf("a.story_%d", n), strings.Repeat("The hull leaks. ", 5_500))
				}
				status, said := c.post("/f/"+f.Address, v)
				if status == http.StatusTooManyRequests {
					assert.Contains(t, said, "The hull leaks.", "what was typed comes back")
					break
				}
				taken++
			}
			assert.Equal(t, map[string]int{"save": 1, "send": 2}[do], taken)
		})
	}
}

func TestAResponseIsChangedSoOftenAndNoMore(t *testing.T) {
	f := published(t, aForm("changed-often", func(f *form.Form) { f.Returning = &form.Returning{Change: true} }))
	defer forgetCounts(t)
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	_, end := c.post("/f/"+f.Address, with(fields(page), "a.name", "Ana Prado", "_do", "send"))
	way := secretIn(end)
	require.NotEmpty(t, way, end)
	r, _ := last(t, f)
	_, err := db.Pool().Exec(context.Background(), `insert into response_versions (response_id, number, edition, answers)
		select $1, n, 1, '{}' from generate_series(1, $2) n`, r.ID, store.MostVersions)
	require.NoError(t, err)
	_, page = c.get(way)
	_, said := c.post("/f/"+f.Address, with(fields(page), "a.name", "Ana Prado Ruiz", "_do", "send"))
	assert.Contains(t, said, "it can’t be changed again")
	assert.Contains(t, said, "Ana Prado Ruiz", "what was typed comes back")
	_, answers := last(t, f)
	assert.Equal(t, "Ana Prado", answers["name"])
}

func TestTheGuardQuestionIsNotGuessed(t *testing.T) {
	f := published(t, aForm("guarded",
		func(f *form.Form) { f.Guard = &form.Guard{Question: "Which lake?", Answers: []string{"Pedralta"}} }))
	defer forgetCounts(t)
	c := newClient(t).at(still(t))
	var sent sync.WaitGroup
	var judged atomic.Int32
	_, page := c.get("/f/" + f.Address)
	for n := range 20 {
		sent.Go(func() {
			_, said := c.post("/f/"+f.Address, with(fields(page), "a.name", "Ana Prado", "_guard", fmt.Sprint(n), "_do", "send"))
			if strings.Contains(said, "is not right yet") {
				judged.Add(1)
			}
		})
	}
	sent.Wait()
	assert.EqualValues(t, 6, judged.Load())
	_, said := c.post("/f/"+f.Address, with(fields(page), "a.name", "Ana Prado", "_guard", "Pedralta", "_do", "send"))
	assert.Contains(t, said, "answered wrong too often")
	assert.Contains(t, said, "Ana Prado")
	forgetCounts(t)
	_, said = c.post("/f/"+f.Address, with(fields(page), "a.name", "Ana Prado", "_guard", "Pedralta", "_do", "send"))
	assert.Contains(t, said, "received", "a right answer is through, and is not counted")
}

func TestAFormAndAllFormsHaveRoomForSoManyFiles(t *testing.T) {
	f := published(t, aForm("quota", func(f *form.Form) {
		f.Pages[0].Sections[0].Items = append(f.Pages[0].Sections[0].Items,
			&form.Item{Key: "paper", Type: form.File, Label: "Paper"})
	}))
	for name, quotas := range map[string]respond.Quotas{"of the form": {Form: 1000}, "of all": {All: 1}} {
		t.Run(name, func(t *testing.T) {
			app := httptest.NewServer(web.New(db, web.Options{Quiet: true, Trust: true, Files: quotas}))
			defer app.Close()
			c := newClient(t).at(app.URL)
			_, page := c.get("/f/" + f.Address)
			send := func() (int, string) {
				return c.multi("/f/"+f.Address, with(fields(page), "_do", "update"),
					file{"a.paper", "paper.txt", strings.Repeat("Oars. ", 200)})
			}
			status, said := send()
			if quotas.Form > 0 {
				require.Equal(t, http.StatusOK, status, said)
				status, said = send()
			}
			assert.Equal(t, http.StatusInsufficientStorage, status)
			assert.Contains(t, said, "No more files can be taken")
		})
	}
	form, all, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).FileBytes(context.Background())
	require.NoError(t, err)
	assert.EqualValues(t, 1200, form)
	_, err = db.Pool().Exec(context.Background(), "delete from uploads where form_id = $1", f.ID)
	require.NoError(t, err)
	after, allAfter, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).FileBytes(context.Background())
	require.NoError(t, err)
	assert.Zero(t, after, "what is deleted makes room")
	assert.Equal(t, all-1200, allAfter)
}

func TestAFormIsTakenOfflineByWhateverWay(t *testing.T) {
	ctx := context.Background()
	f := published(t, aForm("offline", func(f *form.Form) { f.Returning = &form.Returning{Save: true, Change: true} }))
	defer forgetCounts(t)
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	_, end := c.post("/f/"+f.Address, with(fields(page), "a.name", "Ana Prado", "_do", "send"))
	change := secretIn(end)
	_, open := c.get("/f/" + f.Address)
	_, left := c.post("/f/"+f.Address, with(fields(open), "a.name", "Berta Lago", "_do", "save"))
	saved := secretIn(left)
	require.NotEmpty(t, change)
	require.NotEmpty(t, saved)
	_, changing := c.get(change)

	desk := newClient(t).signIn()
	status, _ := desk.post(fmt.Sprintf("/forms/%d/offline", f.ID),
		url.Values{"message": {"We count **oars** until noon."}})
	require.Equal(t, http.StatusOK, status)
	_, said := desk.get(fmt.Sprintf("/forms/%d/publish", f.ID))
	assert.Contains(t, said, "This form is offline")

	for way, visit := range map[string]func() (int, string){
		"arriving": func() (int, string) { return c.get("/f/" + f.Address) },
		"printing": func() (int, string) { return c.get("/f/" + f.Address + "/empty") },
		"sending": func() (int, string) {
			return c.post("/f/"+f.Address, with(fields(open), "a.name", "Berta Lago", "_do", "send"))
		},
		"keeping": func() (int, string) {
			return c.post("/f/"+f.Address, with(fields(open), "a.name", "Berta Lago", "_do", "save"))
		},
		"coming back":      func() (int, string) { return c.get(saved) },
		"coming to change": func() (int, string) { return c.get(change) },
		"sending the change": func() (int, string) {
			return c.post("/f/"+f.Address, with(fields(changing), "a.name", "Ana Prado Ruiz", "_do", "send"))
		},
	} {
		t.Run(way, func(t *testing.T) {
			_, said := visit()
			assert.Contains(t, said, "<strong>oars</strong>")
			if strings.HasPrefix(way, "sending") {
				assert.Contains(t, said, "What you typed was not sent")
			}
		})
	}
	n, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).CountResponses(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	_, answers := last(t, f)
	assert.Equal(t, "Ana Prado", answers["name"])

	_, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Get(ctx)
	require.NoError(t, err)
	assert.ErrorIs(t, db.InWorkspace(f.WorkspaceID+1).Form(f.ID).TakeOffline(ctx, ""), store.ErrNotFound,
		"another workspace can't")
	_, _ = desk.post(fmt.Sprintf("/forms/%d/online", f.ID), nil)
	status, said = c.post("/f/"+f.Address, with(fields(open), "a.name", "Berta Lago", "_do", "send"))
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, said, "received")
}

// A page says which sites may show it and whose pictures it shows.
func TestAPageThatComesBackIsFramedAsTheLiveEditionSays(t *testing.T) {
	f := published(t, aForm("framed", func(f *form.Form) {
		f.Framing = &form.Framing{Origins: []string{"https://club.example"}}
		f.Guard = &form.Guard{Question: "Which lake?", Answers: []string{"Pedralta"}}
	}))
	defer forgetCounts(t)
	get, post := http.MethodGet, http.MethodPost
	respondent := from(site.Config.Handler, "192.0.2.41:1")
	first := respondent(get, "/f/"+f.Address, nil)
	assert.Contains(t, first.Header().Get("Content-Security-Policy"), "frame-ancestors https://club.example")
	publishAgain(t, f, form.SetProperty("", "framing", nil))
	back := respondent(post, "/f/"+f.Address,
		with(fields(first.Body.String()), "a.name", "Ana", "_guard", "no", "_do", "send"))
	assert.Contains(t, back.Body.String(), "is not right yet")
	assert.Contains(t, back.Header().Get("Content-Security-Policy"), "frame-ancestors 'none'")
}

func TestPicturesOfOtherSitesAreShownOnlyWhereTheWorkspaceAllowsThem(t *testing.T) {
	f := published(t, aForm("pictures", func(f *form.Form) {
		f.Intro = "The course: ![The course](https://maps.example/lake.png) and ![a spy](https://spy.example/p.gif), see [the club](https://club.example)."
	}))
	policy := func() string {
		res, err := http.Get(site.URL + "/f/" + f.Address)
		require.NoError(t, err)
		defer res.Body.Close()
		return res.Header.Get("Content-Security-Policy")
	}
	assert.Contains(t, policy(), "img-src 'self' data:;")
	desk := newClient(t).signIn()
	_, said := desk.get(fmt.Sprintf("/forms/%d/publish", f.ID))
	assert.Contains(t, said, "https://maps.example")
	assert.NotContains(t, said, "https://club.example", "a link shows no picture")
	for _, bad := range []string{"", "maps.example", "http://maps.example", "https://maps.example; script-src *",
		"https://*",
		"https://a@maps.example"} {
		status, said := desk.post("/workspace/pictures", url.Values{"site": {bad}})
		assert.Equal(t, http.StatusUnprocessableEntity, status, bad)
		assert.Contains(t, said, "This is no site")
	}
	status, _ := desk.post("/workspace/pictures", url.Values{"site": {"https://Maps.example/lake"}, "to": {"/workspace"}})
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, policy(), "img-src 'self' data: https://maps.example;")
	_, said = desk.get(fmt.Sprintf("/forms/%d/publish", f.ID))
	assert.NotContains(t, said, "https://maps.example</")
	_, said = desk.post("/workspace/pictures/forbid", url.Values{"site": {"https://maps.example"}})
	assert.Contains(t, said, "No site is allowed")
	assert.Contains(t, policy(), "img-src 'self' data:;")
}

// secretIn is the private address that a page shows, "" for none.
func secretIn(page string) string {
	if way := wayBack.FindStringSubmatch(page); way != nil {
		return way[1]
	}
	return ""
}

// Small things that an attack found.
func TestSmallThingsStaySafe(t *testing.T) {
	ctx := context.Background()
	f := published(t, damageReport(t))
	path := "/f/" + f.Address
	c := newClient(t)
	for _, address := range []string{"/reset", "/sign-in", "/reset/x", "/join/x"} {
		res, err := http.Get(site.URL + address)
		require.NoError(t, err)
		assert.Equal(t, "no-store", res.Header.Get("Cache-Control"), address)
		require.NoError(t, res.Body.Close())
	}
	for _, address := range []string{path + "/received/x", "/r/x", "/c/x"} {
		res, err := http.Get(site.URL + address)
		require.NoError(t, err)
		assert.Equal(t, "noindex", res.Header.Get("X-Robots-Tag"), address)
		require.NoError(t, res.Body.Close())
	}
	// A filling is begun once, however often it is said.
	_, page := c.get(path)
	for range 20 {
		status, _ := c.post(path+"/begun", carried(page))
		assert.Equal(t, http.StatusNoContent, status)
	}
	body, err := base64.RawURLEncoding.DecodeString(strings.Split(carried(page).Get("_token"), ".")[0])
	require.NoError(t, err)
	var ticket struct {
		Filling string `json:"n"`
	}
	require.NoError(t, json.Unmarshal(body, &ticket))
	n, err := db.CountWithin(ctx, "long begun "+ticket.Filling, 7*24*time.Hour, time.Now())
	require.NoError(t, err)
	assert.Equal(t, 21, n, "what came again was seen to be so")
	// The trail can't be emptied by whoever the application is to the database.
	_, err = db.Pool().Exec(ctx, "truncate trail")
	assert.ErrorContains(t, err, "the trail is not emptied")
	// What is offline takes no files.
	require.NoError(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).TakeOffline(ctx, "Later"))
	_, _ = c.multi(path, carried(page), file{"a.photo", "oar.png", pngHead})
	var files int
	require.NoError(t, db.Pool().QueryRow(ctx, "select count(*) from uploads where form_id = $1", f.ID).Scan(&files))
	assert.Zero(t, files)
}

// The address of an end page is no key: whoever has it reads and changes nothing by it.
func TestTheAddressOfAnEndPageIsNoKey(t *testing.T) {
	f := published(t, storage("storage-no-key"))
	path := "/f/" + f.Address
	c := newClient(t)
	_, page := c.get(path)
	_, page = c.post(path, with(carried(page), "a.boat", "eight", "a.length_m", "17.5", "_do", "next"))
	_, review := c.post(path, with(carried(page), "a.name", "Zulma", "_do", "review"))
	_, end := c.post(path, with(carried(review), "_do", "send"))
	require.Contains(t, end, "data-filling=")
	proof := regexp.MustCompile(`data-filling="([^"]*)"`).FindStringSubmatch(end)[1]
	filling, _, _ := strings.Cut(proof, ".")

	other := newClient(t)
	_, seen := other.get(path + "/received/" + filling)
	assert.NotContains(t, seen, "Zulma")
	assert.Contains(t, seen, `data-filling=""`, "another browser is given no proof")
	try := func(c client, sent string) (int, string) {
		_, page := c.get(path)
		_, page = c.post(path, with(carried(page), "a.boat", "single", "a.length_m", "9", "_do", "next"))
		return c.post(path, with(carried(page), "a.name", "Mallory", "_sent", sent, "_do", "change"))
	}
	for _, sent := range []string{filling, filling + ".", filling + ".AAAAAAAAAAAAAAAAAAAAAA"} {
		status, page := try(other, sent)
		assert.Equal(t, 410, status, sent)
		assert.NotContains(t, page, "Zulma")
	}
	_, answers := last(t, f)
	assert.Equal(t, "Zulma", answers["name"])
}

// One visitor does not use up what a form may send for everybody: letters to answered addresses
// beyond so many an hour are held until the office lets them go.
func TestOneVisitorsLettersAreHeldBack(t *testing.T) {
	ctx := context.Background()
	f := published(t, aForm("held-back", func(f *form.Form) {
		f.Pages[0].Sections[0].Items = append(f.Pages[0].Sections[0].Items,
			&form.Item{Key: "email", Type: form.Email, Label: "E-mail"})
		f.Messages = []form.Message{
			{Key: "thanks", To: []string{"{email}"}, Subject: "Thanks", Body: "Thanks"},
			{Key: "office", To: []string{"office@pedralta.example"}, Subject: "One more", Body: "One more"},
		}
	}))
	c := newClient(t)
	send := func(email string) map[string]store.LetterState {
		_, page := c.get("/f/" + f.Address)
		status, _ := c.post("/f/"+f.Address, with(fields(page), "a.name", "Inés", "a.email", email, "_do", "send"))
		require.Equal(t, http.StatusOK, status)
		letters, err := db.InWorkspace(f.WorkspaceID).Letters(ctx, store.Outbox{Form: f.ID, Limit: 2})
		require.NoError(t, err)
		states := map[string]store.LetterState{}
		for _, l := range letters {
			states[l.Recipient] = l.State
		}
		return states
	}
	states := send("ines@lake.example")
	assert.NotEqual(t, store.Held, states["ines@lake.example"])
	_, err := db.CountBy(ctx, fmt.Sprintf("letters:%d:127.0.0.1", f.ID), time.Now().Truncate(time.Hour), 199)
	require.NoError(t, err)
	states = send("olga@lake.example")
	assert.Equal(t, store.Held, states["olga@lake.example"])
	assert.NotEqual(t, store.Held, states["office@pedralta.example"], "the office hears of it all the same")
}
