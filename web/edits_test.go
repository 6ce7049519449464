package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/demo"
)

// Whatever is posted to the manuscript, it answers in words and stays whole.
func TestNoBadEditFails(t *testing.T) {
	atLength(t)
	def := demo.CrewEntry(time.Now())
	def.Key = "bad-edits"
	f := published(t, def)
	desk := newClient(t).signIn()
	path := fmt.Sprintf("/forms/%d/edit", f.ID)
	dos := []string{
		"set", "choices", "choice", "key", "state", "passage", "source", "tie-texts", "add-tie", "remove-tie", "copy-tie",
		"value", "move", "nonsense",
	}
	properties := []string{
		"shown", "checks.-1.ok", "checks.9.ok", "choices.-1.offered", "choices.9.withheld", "wording.-7.when", "next.-1.when",
		"value.starts", "label",
	}
	n := 0
	for _, do := range dos {
		for _, key := range []string{"", "cox_name", "boat", "no_such_key"} {
			for _, property := range properties {
				text := "é"
				if do == "set" || do == "choices" {
					text = "a\x00b\xff" // no database takes it
				}
				v := url.Values{
					"version":  {fmt.Sprint(f.DraftVersion)},
					"do":       {do},
					"key":      {key},
					"property": {property},
					"at":       {key},
					"path":     {"-1.9"},
					"n":        {"-1"},
					"index":    {"-3"},
					"act": {
						"clause",
					},
					"op":      {"~"},
					"subject": {"nothing"},
					"value":   {text},
					"state":   {"when"},
					"how":     {"starts"},
					"source":  {"((("},
					"into":    {"nowhere"},
					"message": {"x"},
					"target":  {"no_such_key"},
				}
				status, page := desk.post(path, v)
				if !assert.Less(t, status, http.StatusInternalServerError, "%s %s %s", do, key, property) {
					t.Log(page)
				}
				n++
			}
		}
	}
	require.Greater(t, n, 400)
	status, page := desk.get(fmt.Sprintf("/forms/%d", f.ID))
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, page, "boat_class")
}
