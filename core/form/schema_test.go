package form_test

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
)

// The schema takes what the reader takes, and refuses what it refuses.
func TestTheSchemaAgreesWithTheReader(t *testing.T) {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(form.Schema()))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("form.json", doc))
	schema, err := c.Compile("form.json")
	require.NoError(t, err)
	valid := func(src []byte) error {
		v, err := jsonschema.UnmarshalJSON(bytes.NewReader(src))
		require.NoError(t, err)
		return schema.Validate(v)
	}
	at := time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC)
	for _, f := range []*form.Form{demo.CrewEntry(at), demo.ShoreCrew(at), demo.LakeBulletin(), demo.MooringRequest(at),
		read(t, crew)} {
		assert.NoError(t, valid(f.JSON()), f.Key)
	}
	for _, s := range demo.Samples(at) {
		assert.NoError(t, valid(s.Form.JSON()), s.Form.Key)
	}
	for _, typ := range form.Types() {
		src := `{"lazo": 1, "key": "t", "pages": [{"key": "p", "sections": [{"key": "s", "items": [{"key": "a", "type": "` +
			string(typ.Type) + `"}]}]}]}`
		assert.NoError(t, valid([]byte(src)), typ.Type)
		for _, look := range typ.Looks {
			src := strings.Replace(src, `"key": "a"`, `"key": "a", "look": "`+look.Name+`"`, 1)
			assert.NoError(t, valid([]byte(src)), src)
		}
	}
	for _, src := range []string{
		`{"lazo": 1, "key": "t", "pages": [], "lists": {"a": {"shared": ""}}}`,
		`{"lazo": 1, "key": "t", "pages": [{"key": "p", "checks": [{"message": "x"}]}]}`,
		`{"lazo": 1, "key": "t", "pages": [{"key": "p", "sections": [{"key": "s", "items": [{"key": "a", "type": "choice", "places": true}]}]}]}`,
		`{"lazo": 1, "key": "t", "pages": [{"key": "p", "sections": [{"key": "s", "items": [{"key": "a", "type": "grid", "rows": [{"label": "x"}]}]}]}]}`,
		`{"lazo": 2, "key": "t", "pages": []}`,
		`{"lazo": 1, "key": "t", "pages": [], "colour": 1}`,
		`{"lazo": 1, "key": "t", "pages": [{"key": "P"}]}`,
		`{"lazo": 1, "key": "t", "pages": [{"key": "p", "sections": [{"key": "s", "items": [{"key": "a", "type": "txt"}]}]}]}`,
		`{"lazo": 1, "key": "t", "pages": [{"key": "p", "sections": [{"key": "s", "items": [{"key": "a", "type": "text", "shown": 3}]}]}]}`,
	} {
		assert.Error(t, valid([]byte(src)), src)
		_, remarks := form.Read([]byte(src))
		assert.NotEmpty(t, remarks, src)
	}
}
