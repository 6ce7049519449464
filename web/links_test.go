package web_test

import (
	"context"
	"fmt"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/demo"
)

var shortAddress = regexp.MustCompile(`href="(/l/[a-z0-9]+)"`)

func TestALinkSetsItsParametersAndCounts(t *testing.T) {
	def := demo.LakeBulletin()
	def.Key = "bulletin-links"
	f := published(t, def)
	base := fmt.Sprintf("/forms/%d/links", f.ID)
	desk := newClient(t).signIn()
	_, page := desk.get(base)
	assert.Contains(t, page, "There are no links yet")
	status, page := desk.post(base, url.Values{"name": {" "}, "p.source": {"x"}})
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "Give the link a name")
	_, page = desk.post(base, url.Values{"name": {"Poster & more"}, "p.source": {"poster, north/pier & 50%"}})
	assert.Contains(t, page, "Poster &amp; more")
	assert.Contains(t, page, "source=poster%2C&#43;north%2Fpier&#43;%26&#43;50%25")
	short := shortAddress.FindStringSubmatch(page)
	require.NotNil(t, short)

	c := newClient(t)
	_, filling := c.get(short[1] + "?source=tampered")
	v := fields(filling)
	v.Set("a.email", "a@lakeside.example")
	v.Set("a.email#again", "a@lakeside.example")
	v.Set("_do", "send")
	v.Set("url.source", "tampered")
	_, thanks := c.post("/f/"+f.Address+"?source=tampered", v)
	assert.Contains(t, thanks, "Welcome aboard")
	r, answers := last(t, f)
	assert.Equal(t, "poster, north/pier & 50%", answers["source"])
	require.NotNil(t, r.LinkID)
	links, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Links(context.Background())
	require.NoError(t, err)
	assert.EqualValues(t, 1, links[0].Visits)
	assert.EqualValues(t, 1, links[0].Responses)

	for kind, head := range map[string]string{"svg": "<svg", "png": "\x89PNG"} {
		_, body := desk.get(fmt.Sprintf("%s/%d/code.%s", base, links[0].ID, kind))
		assert.True(t, strings.HasPrefix(body, head), kind)
	}

	// A link for each partner; a wrong column makes none of them.
	status, page = desk.post(base+"/many", url.Values{"csv": {"name,sorce\nA,1"}})
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "There is no parameter “sorce”")
	_, page = desk.post(base+"/many", url.Values{"csv": {"name,source\n\"Harbor, Ltd\",harbor\nPier,pier"}})
	assert.Contains(t, page, "Harbor, Ltd")

	_, page = desk.get(base + "?address=" + url.QueryEscape("http://x.example/f/"+f.Address+"?sorce=1&source=2"))
	assert.Contains(t, page, "did you mean source?")

	// A link that is deleted while someone fills the form in loses no response.
	_, filling = c.get(short[1])
	v = fields(filling)
	v.Set("a.email", "b@lakeside.example")
	v.Set("a.email#again", "b@lakeside.example")
	v.Set("_do", "send")
	_, _ = desk.post(fmt.Sprintf("%s/%d/delete", base, links[0].ID), nil)
	_, thanks = c.post("/f/"+f.Address, v)
	assert.Contains(t, thanks, "Welcome aboard")
	r, _ = last(t, f)
	assert.Nil(t, r.LinkID)
	status, _ = c.get(short[1])
	assert.Equal(t, 404, status)
	status, page = newClient(t).get(base)
	assert.Equal(t, 200, status)
	assert.Contains(t, page, "Sign in")
}
