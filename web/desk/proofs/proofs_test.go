package proofs_test

import (
	"net/http"
	"net/url"
	"os"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const stuck = `
	{"key": "lane", "type": "choice", "label": "Lane", "choices": [{"value": "pier", "label": "Pier"}, {"value": "canal", "label": "Canal"}]},
	{"key": "boat", "type": "choice", "label": "Boat", "required": true, "choices": [{"value": "eight", "label": "Eight", "withheld": "lane = \"canal\""}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\" and lane = \"canal\""},
	{"key": "crew", "type": "text", "label": "Crew", "shown": "lane = \"pier\" and lane is answered"}`

// The page says what would stop people, leads to an input that shows it, and shortens a
// condition.
func TestThePageShowsWhatIsProven(t *testing.T) {
	v := desktest.Visit(t, stuck)
	status, body := v.Get(v.Base + "/proof")
	require.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, "One thing would stop people")
	assert.Contains(t, body, "With Lane Canal nobody can send the form.")
	assert.Contains(t, body, "Cox is never shown.")
	assert.Contains(t, body, "“Lane is answered” makes no difference")
	assert.Contains(t, body, "1 to be mended before publishing")

	status, body = v.Get(v.Base + "/rehearsal?try=remark:" + strconv.Itoa(0))
	require.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, "The form has been changed meanwhile", "a remark without an input leads nowhere")

	status, _ = v.Post(v.Base+"/edit", url.Values{
		"version": {strconv.FormatInt(v.Form.DraftVersion, 10)}, "do": {"source"}, "key": {"crew"}, "property": {"shown"},
		"source": {`lane = "pier"`},
	})
	require.Equal(t, http.StatusOK, status)
	_, body = v.Get(v.Base + "/proof")
	assert.NotContains(t, body, "makes no difference")
}

// A form without faults says so; one with errors says what stands in the way.
func TestTheOtherStatesOfThePage(t *testing.T) {
	v := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Name"}`)
	_, body := v.Get(v.Base + "/proof")
	assert.Contains(t, body, "Everything can happen, and nobody is stopped")
	assert.Contains(t, body, "it is the same for everybody")
	assert.Contains(t, body, "1 shape")

	v = desktest.Visit(t, stuck)
	v.Post(v.Base+"/edit", url.Values{
		"version": {strconv.FormatInt(v.Form.DraftVersion, 10)}, "do": {"delete"}, "key": {"lane"}, "how": {"only"},
	})
	status, body := v.Get(v.Base + "/proof")
	require.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, "This draft can’t be proven yet")
}

// All walks are kept in one go, and count as tried from then on.
func TestWalksAreKept(t *testing.T) {
	v := desktest.Visit(t, stuck)
	_, body := v.Get(v.Base + "/proof")
	assert.Contains(t, body, "Your kept rehearsals try none of the")
	status, body := v.Post(v.Base+"/proof/keep", url.Values{})
	require.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, "walks are kept as rehearsals")
	assert.NotContains(t, body, "try none of the")
	_, body = v.Get(v.Base + "/rehearsal?try=walk:0")
	assert.Contains(t, body, "Walk 1 of")
	assert.Contains(t, body, `rehearsal?try=walk:1">Next walk`)
	assert.Contains(t, body, "as expected")
	_, body = v.Get(v.Base + "/rehearsal?try=shape:0")
	assert.Contains(t, body, "One of the shapes")
}

// The manuscript asks for what is proven of its newest draft only; publishing reads what
// becomes impossible, and for whom it changes.
func TestWhatIsProvenStandsWhereItIsNeeded(t *testing.T) {
	v := desktest.Visit(t, `
		{"key": "lane", "type": "choice", "label": "Lane", "choices": [{"value": "pier"}, {"value": "canal"}]},
		{"key": "cox", "type": "text", "label": "Cox", "shown": "lane = \"canal\""}`)
	version := v.Form.DraftVersion
	_, body := v.Get(v.Base + "/proof/lines?version=" + strconv.FormatInt(version, 10) + "&had=lane")
	assert.Contains(t, body, `hx-target="#proof-lane"`, "what stood there goes")
	assert.NotContains(t, body, "never shown")

	v.Post(v.Base+"/edit", url.Values{
		"version": {strconv.FormatInt(version, 10)}, "do": {"source"}, "key": {"cox"}, "property": {"shown"},
		"source": {`lane = "canal" and lane = "pier"`},
	})
	_, body = v.Get(v.Base + "/proof/lines?version=" + strconv.FormatInt(version, 10))
	assert.NotContains(t, body, "Cox", "an older draft is not proven")
	_, body = v.Get(v.Base + "/proof/lines?version=" + strconv.FormatInt(version+1, 10))
	assert.Contains(t, body, `hx-target="#proof-cox"`)
	assert.Contains(t, body, "Cox is never shown.")

	_, body = v.Get(v.Base + "/proof/publishing")
	assert.Contains(t, body, "What becomes impossible")
	assert.Contains(t, body, "Cox is never shown.")
	assert.Contains(t, body, "Cox is no longer asked, with Lane canal.")
	assert.Contains(t, body, "rehearsal?try=change:0")
	_, body = v.Get(v.Base + "/rehearsal?try=change:0")
	assert.Contains(t, body, "Cox is no longer asked, with Lane canal.")
	assert.Contains(t, body, `/publish">Back to publishing`)
	_, body = v.Get(v.Base + "/rehearsal?try=change:7")
	assert.Contains(t, body, "The form has been changed meanwhile")
}
