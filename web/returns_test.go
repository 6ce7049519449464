package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/store"
	"lazo/web"
)

// storage is a small form of two pages that can be left, reviewed and changed.
func storage(key string) *form.Form {
	return &form.Form{Lazo: 1, Key: key, Title: "Storage", Timezone: "America/Montevideo", End: "usual end", Review: true,
		Returning: &form.Returning{Save: true, Change: true},
		Ends:      []form.End{{When: `boat = "eight"`, Text: "An **eight** is long."}},
		Pages: []*form.Page{
			{Key: "one", Title: "The boat", Sections: []*form.Section{{Key: "s1", Items: []*form.Item{
				{
					Key: "boat", Type: form.ChoiceType, Label: "Boat", Required: form.Always,
					Choices: []form.Choice{{Value: "single", Label: "Single"}, {Value: "eight", Label: "Eight"}},
				},
				{Key: "length_m", Type: form.Number, Label: "Length", Shown: form.When(`boat = "eight"`),
					Locked: form.When(`mode = "revisit"`)}}}}},
			{Key: "two", Title: "You", Sections: []*form.Section{{Key: "s2", Items: []*form.Item{
				{Key: "name", Type: form.Text, Label: "Name", Required: form.Always},
				{Key: "remark", Type: form.Paragraph, Label: "Remark"}}}}}}}
}

var (
	wayBack  = regexp.MustCompile(`href="https?://[^/"]+(/r/[A-Za-z0-9_-]+)"`)
	anyField = regexp.MustCompile(`<input type="hidden" name="([^"]+)" value="([^"]*)">`)
)

// carried are all hidden fields of a page.
func carried(page string) url.Values {
	v := fields(page)
	for _, m := range anyField.FindAllStringSubmatch(page, -1) {
		if !strings.HasPrefix(m[1], "_") {
			v.Add(m[1], m[2])
		}
	}
	return v
}

func with(v url.Values, pairs ...string) url.Values {
	for i := 0; i < len(pairs); i += 2 {
		v.Set(pairs[i], pairs[i+1])
	}
	return v
}

func TestAFillingIsLeftReviewedSentAndChanged(t *testing.T) {
	f := published(t, storage("storage-returns"))
	path := "/f/" + f.Address
	c := newClient(t)
	_, page := c.get(path)
	assert.Contains(t, page, "Keep and go on later")
	_, page = c.post(path, with(carried(page), "a.boat", "eight", "a.length_m", "17.5", "_do", "next"))
	assert.Contains(t, page, "Review your answers")

	// Left on the second page, gone on with on another device.
	_, left := c.post(path, with(carried(page), "a.name", "Zulma", "_do", "save"))
	way := wayBack.FindStringSubmatch(left)
	require.NotNil(t, way, left)
	other := newClient(t)
	status, page := other.get(way[1])
	assert.Equal(t, 200, status)
	assert.Contains(t, page, `value="Zulma"`)
	assert.Contains(t, page, `name="a.boat" value="eight"`)
	status, _ = other.get(way[1][:len(way[1])-1] + "_")
	assert.Equal(t, 404, status)

	// The review sends nothing and leads back to each page.
	before := count(t, f.Address)
	_, review := other.post(path, with(carried(page), "a.name", "Zulma", "_do", "review"))
	assert.Contains(t, review, "Nothing has been sent yet")
	assert.Contains(t, review, "17.5")
	assert.Equal(t, before, count(t, f.Address))
	_, page = other.post(path, with(carried(review), "_do", "page:one"))
	assert.Contains(t, page, `value="17.5"`)
	_, end := other.post(path, with(carried(review), "_do", "send"))
	assert.Contains(t, end, "An <strong>eight</strong> is long.")
	assert.Contains(t, end, "What you sent")
	assert.Equal(t, before+1, count(t, f.Address))
	status, _ = other.get(way[1])
	assert.Equal(t, 404, status, "what was sent is not gone on with")

	// Changed: what is locked stays whatever is sent, and the state before is kept.
	change := wayBack.FindStringSubmatch(end)
	require.NotNil(t, change, end)
	_, page = other.get(change[1])
	assert.Contains(t, page, "(locked)")
	v := with(carried(page), "a.boat", "eight", "a.length_m", "3", "_do", "next")
	_, page = other.post(path, v)
	assert.Contains(t, page, `value="Zulma"`, "an answer that was not sent stands")
	_, review = other.post(path, with(carried(page), "a.name", "Ana", "a.length_m", "3", "_do", "review"))
	assert.Contains(t, review, "Send the change")
	_, end = other.post(path, with(carried(review), "_do", "send"))
	assert.Contains(t, end, "Your change has been received")
	assert.Equal(t, before+1, count(t, f.Address))
	r, answers := last(t, f)
	assert.Equal(t, "Ana", answers["name"])
	assert.EqualValues(t, 17.5, answers["length_m"])
	r, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).ResponseWithVersions(context.Background(), r.ID)
	require.NoError(t, err)
	require.Len(t, r.Versions, 1)
	assert.Contains(t, string(r.Versions[0].Answers), "Zulma")
	desk := newClient(t).signIn()
	_, page = desk.get(fmt.Sprintf("/forms/%d/responses/%s?version=1", f.ID, r.ID))
	assert.Contains(t, page, "as it was before a change")
	assert.Contains(t, page, "Zulma")
}

// Two at once on one response: nobody's change is turned back, and who changed the same
// chooses.
func TestTwoChangeOneResponse(t *testing.T) {
	f := published(t, storage("storage-two"))
	path := "/f/" + f.Address
	c := newClient(t)
	_, page := c.get(path)
	_, page = c.post(path, with(carried(page), "a.boat", "eight", "a.length_m", "17.5", "_do", "next"))
	_, review := c.post(path, with(carried(page), "a.name", "Zulma", "_do", "review"))
	_, end := c.post(path, with(carried(review), "_do", "send"))
	way := wayBack.FindStringSubmatch(end)
	require.NotNil(t, way, end)
	_, mine := c.get(way[1])
	// The office corrects the name meanwhile.
	r, _ := last(t, f)
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	office := func(name string) {
		_, err := in.Amend(context.Background(), r.ID, nil, time.Now(), func(now store.Response) (store.Response, error) {
			next := now
			answers, err := engine.ParseAnswers(now.Answers)
			require.NoError(t, err)
			answers["name"] = name
			next.Answers, err = json.Marshal(answers)
			return next, err
		})
		require.NoError(t, err)
	}
	office("Zulma Ríos")
	// Another boat is sent from the page that was open; the name stays corrected.
	_, page = c.post(path, with(carried(mine), "a.boat", "single", "a.length_m", "17.5", "_do", "next"))
	assert.Contains(t, page, `value="Zulma"`, "the page shows what it was opened with")
	_, review = c.post(path, with(carried(page), "a.name", "Zulma", "_do", "review"))
	_, end = c.post(path, with(carried(review), "_do", "send"))
	assert.Contains(t, end, "Your change has been received")
	_, answers := last(t, f)
	assert.Equal(t, "Zulma Ríos", answers["name"])
	assert.Equal(t, "single", answers["boat"])
	// From the same page another name: that is the same answer.
	_, page = c.post(path, with(carried(mine), "a.boat", "eight", "a.length_m", "17.5", "_do", "next"))
	_, review = c.post(path, with(carried(page), "a.name", "Zuli", "_do", "review"))
	status, met := c.post(path, with(carried(review), "_do", "send"))
	assert.Equal(t, 409, status)
	assert.Contains(t, met, "Nothing of yours is lost")
	assert.Contains(t, met, "Zulma Ríos")
	assert.Contains(t, met, "Zuli")
	_, answers = last(t, f)
	assert.Equal(t, "Zulma Ríos", answers["name"])
	_, end = c.post(path, with(carried(met), "a.name", "Zuli", "_whose.name", "theirs", "_do", "send"))
	assert.Contains(t, end, "Your change has been received")
	_, answers = last(t, f)
	assert.Equal(t, "Zulma Ríos", answers["name"])
}

func TestWhatProgramsDoIsDoubtedAndPeopleGetThrough(t *testing.T) {
	def := storage("storage-guard")
	def.Review, def.Guard = false,
		&form.Guard{Question: "Which lake is it?", Answers: []string{"Pedralta", "Lake Pedralta"}}
	f := published(t, def)
	path := "/f/" + f.Address
	patient := httptest.NewServer(web.New(db, web.Options{Quiet: true}))
	defer patient.Close()
	c := newClient(t)
	at := func(method, path string, v url.Values) (int, string) {
		if method == http.MethodGet {
			return c.read(c.Get(patient.URL + path))
		}
		return c.read(c.PostForm(patient.URL+path, v))
	}
	_, page := at(http.MethodGet, path, nil)
	v := with(carried(page), "_page", "two", "a.boat", "single", "a.name", "Ana", "_guard", " lake PEDRALTA", "_do",
		"send")
	before := count(t, f.Address)
	_, page = at(http.MethodPost, path, v)
	assert.Contains(t, page, "That was very quick")
	_, page = at(
		http.MethodPost, path,
		with(carried(page), "a.name", "Ana", "a.boat", "single", "_subject_line", "Buy now", "_guard", "Pedralta", "_do",
			"send"),
	)
	assert.NotContains(t, page, "usual end")
	time.Sleep(2100 * time.Millisecond)
	_, page = at(http.MethodPost, path, with(v, "_subject_line", "Buy now"))
	assert.Contains(t, page, "Something filled in a field")
	_, page = at(http.MethodPost, path, with(v, "_subject_line", "", "_guard", "ocean"))
	assert.Contains(t, page, "The answer to “Which lake is it?” is not right yet")
	assert.Contains(t, page, `value="Ana"`)
	assert.Equal(t, before, count(t, f.Address))
	_, page = at(http.MethodPost, path, with(v, "_guard", "Pedralta"))
	assert.Contains(t, page, "usual end")
	assert.Equal(t, before+1, count(t, f.Address))

	var status int
	for range 40 {
		_, page = at(http.MethodGet, path, nil)
		status, page = c.post(
			path, with(carried(page), "_page", "two", "a.boat", "single", "a.name", "Ana", "_guard", "Pedralta", "_do", "send"),
		)
		if status == http.StatusTooManyRequests {
			break
		}
	}
	assert.Equal(t, http.StatusTooManyRequests, status, "one address can’t send without end")
	assert.Contains(t, page, "Your answers are still here")
}

func TestAClosedFormSaysWhenItOpens(t *testing.T) {
	def := storage("storage-opening")
	def.Opening = &form.Opening{From: "2027-03-01T09:00", Until: "2027-05-30T18:00", Before: "Not *yet*."}
	f := published(t, def)
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	assert.Contains(t, page, "Not <em>yet</em>.")
	assert.Contains(t, page, "It opens on March 1, 2027, 9:00\u202fAM (America/Montevideo).</time>")
	_, ics := c.get("/f/" + f.Address + "/opening.ics")
	assert.Contains(t, ics, "DTSTART:20270301T120000Z")
	assert.Contains(t, ics, "SUMMARY:Storage closes")
	assert.Contains(t, ics, "\r\n")
	status, _ := c.get("/f/shore-crew/opening.ics")
	assert.Equal(t, 404, status)

	later := httptest.NewServer(
		web.New(db, web.Options{Quiet: true, Trust: true,
			Now: func() time.Time { return time.Date(2027, 6, 1, 12, 0, 0, 0, time.UTC) }}),
	)
	defer later.Close()
	_, page = c.read(c.Get(later.URL + "/f/" + f.Address))
	assert.Contains(t, page, "It closed on")
}

func TestAnEmptyFormIsPrintedWithoutWhatIsHidden(t *testing.T) {
	f := published(t, storage("storage-print"))
	_, page := newClient(t).get("/f/" + f.Address + "/empty")
	assert.Contains(t, page, "The boat")
	assert.Contains(t, page, "Remark")
	assert.NotContains(t, page, ">Length<")
}

// Two copies of the application on one database are one: what one signs the
// other takes, and what one publishes the other has at once.
func TestTwoCopiesAreOne(t *testing.T) {
	ctx := context.Background()
	f := published(t, storage("storage-copies"))
	second := httptest.NewServer(web.New(db, web.Options{Quiet: true, Trust: true}))
	defer second.Close()
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	v := with(carried(page), "a.boat", "single", "_do", "next")
	_, page = c.read(c.PostForm(second.URL+"/f/"+f.Address, v))
	assert.Contains(t, page, "Review your answers")
	// Sent to both at once it is stored once.
	_, review := c.post("/f/"+f.Address, with(carried(page), "a.name", "Ana", "_do", "review"))
	sent := with(carried(review), "_do", "send")
	before := count(t, f.Address)
	done := make(chan bool)
	for _, base := range []string{site.URL, second.URL, site.URL, second.URL} {
		go func() {
			res, err := http.PostForm(base+"/f/"+f.Address, sent)
			if err == nil {
				res.Body.Close()
			}
			done <- err == nil && res.StatusCode == http.StatusOK
		}()
	}
	for range 4 {
		assert.True(t, <-done)
	}
	assert.Equal(t, before+1, count(t, f.Address))
	// An edition published on one is served by the other.
	m, err := db.MemberByEmail(ctx, "office@pedralta.example")
	require.NoError(t, err)
	changed, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, m.ID,
		form.SetProperty("boat", "label", "Kind of boat"))
	require.NoError(t, err)
	_, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Publish(ctx, changed.DraftVersion, m.ID)
	require.NoError(t, err)
	_, page = c.read(c.Get(second.URL + "/f/" + f.Address))
	assert.Contains(t, page, "Kind of boat")
	// A session of one is a session of the other.
	desk := newClient(t).signIn()
	u, err := url.Parse(site.URL)
	require.NoError(t, err)
	w, err := url.Parse(second.URL)
	require.NoError(t, err)
	desk.Jar.SetCookies(w, desk.Jar.Cookies(u))
	_, page = desk.read(desk.Get(second.URL + "/forms"))
	assert.Contains(t, page, "Pedralta Lake Regatta")
}

// A respondent withdraws what they sent, once they are sure, and no longer than they could
// change it.
func TestARespondentWithdraws(t *testing.T) {
	f := published(t, aForm("withdraw-by-respondent", func(f *form.Form) { f.Returning = &form.Returning{Change: true} }))
	path := "/f/" + f.Address
	c := newClient(t)
	_, page := c.get(path)
	assert.NotContains(t, page, "Withdraw what I sent")
	_, page = c.post(path, with(carried(page), "a.name", "Inés", "_do", "withdraw:sure"))
	assert.NotContains(t, page, "It is withdrawn", "there is nothing yet")
	_, end := c.post(path, with(carried(page), "a.name", "Inés", "_do", "send"))
	way := wayBack.FindStringSubmatch(end)
	require.NotNil(t, way)
	_, page = c.get(way[1])
	assert.Contains(t, page, "Withdraw what I sent")
	_, asked := c.post(path, with(carried(page), "a.name", "Inés Prado", "_do", "withdraw"))
	assert.Contains(t, asked, "Do you want to withdraw what you sent?")
	_, kept := c.post(path, with(carried(asked), "_do", "page:"+fields(asked).Get("_page")))
	assert.Contains(t, kept, "Inés Prado", "what was typed is still there")
	assert.Equal(t, 1, count(t, f.Address))
	_, gone := c.post(path, with(carried(asked), "_do", "withdraw:sure"))
	assert.Contains(t, gone, "It is withdrawn")
	n, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).CountResponses(context.Background())
	require.NoError(t, err)
	assert.Zero(t, n)
	for _, again := range []url.Values{with(carried(asked), "_do", "withdraw:sure"),
		with(carried(kept), "a.name", "Eva", "_do", "send")} {
		status, said := c.post(path, again)
		assert.Equal(t, http.StatusGone, status)
		assert.Contains(t, said, "This was withdrawn")
	}
	status, said := c.get(way[1])
	assert.Equal(t, http.StatusGone, status)
	assert.Contains(t, said, "This was withdrawn")
	list, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(context.Background(), 0, 1)
	require.NoError(t, err)
	assert.Nil(t, list[0].WithdrawnBy)
	_, sheet := newClient(t).signIn().get(fmt.Sprintf("/forms/%d/responses/%s", f.ID, list[0].ID))
	assert.Contains(t, sheet, "Withdrawn by its respondent")
}

// The end page shows what was sent to the browser that sent it, without what is sensitive or
// was never stored; whoever has its address alone sees none of it.
func TestTheEndPageIsForWhoSent(t *testing.T) {
	no := false
	f := published(t, &form.Form{Lazo: 1, Key: "end-of-one", Title: "Health", Timezone: "UTC",
		Returning: &form.Returning{Change: true},
		Documents: []form.Document{{Key: "card", Name: "Card", Body: "For {name}"}},
		Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s", Items: []*form.Item{
			{Key: "name", Type: form.Text, Label: "Name"}, {Key: "illness", Type: form.Text, Label: "Illness", Sensitive: true},
			{Key: "code", Type: form.Text, Label: "Entrance code", Stored: &no}}}}}}})
	path := "/f/" + f.Address
	c := newClient(t)
	_, page := c.get(path)
	_, end := c.post(path, with(carried(page), "a.name", "Zulma", "a.illness", "asthma", "a.code", "1234", "_do", "send"))
	assert.Contains(t, end, "Zulma")
	assert.NotContains(t, end, "asthma")
	assert.Contains(t, end, "answered, not shown here")
	assert.NotContains(t, end, "Entrance code", "what is not stored is not said to be unanswered")
	require.NotNil(t, wayBack.FindString(end))
	r, _ := last(t, f)
	at := path + "/received/" + r.Filling
	_, again := c.get(at)
	assert.Contains(t, again, "Zulma")
	status, _ := c.get(at + "/documents/card")
	assert.Equal(t, 200, status)
	other := newClient(t)
	status, theirs := other.get(at)
	assert.Equal(t, 200, status)
	assert.Contains(t, theirs, "have been received")
	for _, secret := range []string{"Zulma", "asthma", "/r/"} {
		assert.NotContains(t, theirs, secret)
	}
	status, _ = other.get(at + "/documents/card")
	assert.Equal(t, 404, status)
}
