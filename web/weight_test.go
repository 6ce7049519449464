package web_test

import (
	"fmt"
	"io"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
)

var linked = regexp.MustCompile(`(?:src|href)="(/[^"]+\.(?:js|css|svg)[^"]*)"`)

// The first page of a form of sixty questions, with all that it loads but fonts,
// is under 100 KB over the wire, with one script.
func TestAFirstPageIsLight(t *testing.T) {
	def := &form.Form{
		Lazo: 1, Key: "sixty", Title: "Sixty questions", Timezone: "UTC",
		Theme: &form.Theme{Accent: "#0e4a7a"}, Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s"}}}},
	}
	types := []form.Type{form.Text, form.Number, form.ChoiceType, form.YesNo, form.Date, form.Paragraph}
	for i := range 60 {
		it := &form.Item{
			Key: fmt.Sprintf("q%d", i), Type: types[i%len(types)],
			Label: fmt.Sprintf("What about boat %d of the club and its crew?", i), Help: "As it stands in the register.",
			Required: form.Always,
		}
		if it.Type == form.ChoiceType {
			for c := range 6 {
				it.Choices = append(it.Choices,
					form.Choice{Value: fmt.Sprintf("c%d", c), Label: fmt.Sprintf("Choice %d of this question", c)})
			}
		}
		if i > 0 {
			it.Shown = form.When(fmt.Sprintf("q%d is answered or q0 is blank", i-1))
		}
		def.Pages[0].Sections[0].Items = append(def.Pages[0].Sections[0].Items, it)
	}
	f := published(t, def)
	wire := func(path string) (bytes int, body string) {
		req, err := http.NewRequest(http.MethodGet, site.URL+path, nil)
		require.NoError(t, err)
		req.Header.Set("Accept-Encoding", "gzip") // set here, the client leaves the body as it came
		res, err := http.DefaultTransport.RoundTrip(req)
		require.NoError(t, err)
		defer res.Body.Close()
		data, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, res.StatusCode, path)
		require.Empty(t, res.Cookies(), "no cookie before it is needed")
		return len(data), string(data)
	}
	total, _ := wire("/f/" + f.Address)
	_, page := newClient(t).get("/f/" + f.Address)
	assert.Equal(t, 1, strings.Count(page, "<script"))
	seen := map[string]bool{}
	for _, m := range linked.FindAllStringSubmatch(page, -1) {
		if !seen[m[1]] {
			seen[m[1]] = true
			n, _ := wire(m[1])
			t.Logf("%6d bytes %s", n, m[1])
			total += n
		}
	}
	t.Logf("%6d bytes in all", total)
	assert.Len(t, seen, 4, "the styles, those of the theme, the script and the icon")
	assert.Less(t, total, 100_000)
}
