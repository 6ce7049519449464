package help_test

import (
	"os"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

// Every screen leads to its help, and that of a form gives an example of it.
func TestEveryScreenHasItsHelp(t *testing.T) {
	v := desktest.Visit(t, `{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "single"}, {"value": "eight", "label": "Eight"}]},
		{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\"", "required": "boat is answered"}`)
	leads := regexp.MustCompile(`href="(/help/[^"]*)"`)
	for _, path := range []string{"/forms", "/lists", "/outbox", "/people", "/trail", "/workspace", "/account", v.Base,
		v.Base + "/rehearsal",
		v.Base + "/links", v.Base + "/public", v.Base + "/responses", v.Base + "/publish", v.Base + "/season"} {
		_, page := v.Get(path)
		m := leads.FindStringSubmatch(page)
		require.NotNil(t, m, path)
		status, help := v.Get(m[1])
		assert.Equal(t, 200, status, m[1])
		assert.Contains(t, help, "help-body")
	}
	v.Try([]desktest.Case{
		{Name: "an example", Path: "/help/manuscript?form=" + v.Base[len("/forms/"):],
			Says: []string{"Cox is shown when Boat class is Eight."}},
		{Name: "of no form", Path: "/help/manuscript?form=999999", Status: 404},
		{Name: "of nothing", Path: "/help/dragons", Status: 404},
	})
}
