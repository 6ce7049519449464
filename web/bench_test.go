package web_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
)

// largeForm has n items, two ties for three of them.
func largeForm(n int) *form.Form {
	f := &form.Form{Lazo: 1, Key: fmt.Sprintf("large-%d", n), Title: "Large", Timezone: "America/Montevideo"}
	types := []form.Type{form.ChoiceType, form.Number, form.Text, form.YesNo, form.Date}
	for i := range n {
		if i%30 == 0 {
			f.Pages = append(f.Pages, &form.Page{Key: fmt.Sprintf("p%d", i), Title: "Page"})
		}
		page := f.Pages[len(f.Pages)-1]
		if i%10 == 0 {
			page.Sections = append(page.Sections, &form.Section{Key: fmt.Sprintf("s%d", i), Title: "Section"})
		}
		it := &form.Item{Key: fmt.Sprintf("q%d", i), Type: types[i%5], Label: fmt.Sprintf("Question %d: what the office needs to know", i), Help: "As it stands in the register"}
		if it.Type.Picks() {
			it.Choices = []form.Choice{{Value: "a", Label: "First of them"}, {Value: "b", Label: "Second of them"}, {Value: "c", Label: "Third of them"}}
		}
		if base := i - 5 - i%5; base >= 0 && i%3 > 0 {
			it.Shown = form.When(fmt.Sprintf(`q%d in ("b", "c") and q%d >= %d`, base, base+1, i))
		}
		sec := page.Sections[len(page.Sections)-1]
		sec.Items = append(sec.Items, it)
	}
	return f
}

// BenchmarkManuscript is what a designer waits for on a form of 300 items and
// 197 ties with a live edition: opening a question, and changing its label.
func BenchmarkManuscript(b *testing.B) {
	ctx := context.Background()
	m, err := db.MemberByEmail(ctx, demo.Email)
	require.NoError(b, err)
	f, err := db.CreateForm(ctx, m.WorkspaceID, largeForm(300))
	require.NoError(b, err)
	_, err = db.Publish(ctx, m.WorkspaceID, f.ID, f.DraftVersion, m.ID)
	require.NoError(b, err)
	jar, err := cookiejar.New(nil)
	require.NoError(b, err)
	c := client{b, &http.Client{Jar: jar}}
	c.post("/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	path := fmt.Sprintf("%s/forms/%d", site.URL, f.ID)
	version := f.DraftVersion
	send := func(method, to string, body url.Values) {
		req, err := http.NewRequest(method, to, strings.NewReader(body.Encode()))
		require.NoError(b, err)
		req.Header.Set("HX-Request", "true")
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		status, text := c.read(c.Do(req))
		require.Equal(b, http.StatusOK, status, text)
	}
	b.Run("open", func(b *testing.B) {
		for b.Loop() {
			send("GET", fmt.Sprintf("%s?at=q155&version=%d", path, version), nil)
		}
	})
	b.Run("label", func(b *testing.B) {
		for b.Loop() {
			send("POST", path+"/edit", url.Values{"version": {fmt.Sprint(version)}, "do": {"set"}, "key": {"q155"}, "at": {"q155"}, "property": {"label"}, "value": {fmt.Sprint("Label ", version)}})
			version++
		}
	})
}
