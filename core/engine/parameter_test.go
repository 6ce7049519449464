package engine_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/expr"
)

const brought = `"parameters": [
	{"name": "club", "label": "Club", "values": {"list": "clubs", "value": "code", "label": "name"}},
	{"name": "crew", "type": "number", "values": [{"value": "4", "label": "Four"}, {"value": "8", "label": "Eight"}]},
	{"name": "metres", "type": "number"}, {"name": "on", "type": "date"}, {"name": "member", "type": "yes_no"}],
	"lists": {"clubs": [{"code": "h", "name": "Harbor"}, {"code": "g", "name": "Las Garzas"}]},`

// A parameter is matched as a choice is, and read by its type; what is neither counts as not
// given, and is told.
func TestParametersHaveTypesAndValues(t *testing.T) {
	p := asked(t, brought, "", `
		{"key": "hid", "type": "note", "label": "Hid", "shown": "url.club = \"g\""},
		{"key": "some", "type": "note", "label": "Any", "shown": "url.club has any (\"h\", \"g\")"},
		{"key": "club", "type": "text", "label": "Club", "value": {"starts": "url.club"}},
		{"key": "crew", "type": "number", "label": "Crew", "value": {"starts": "url.crew"}},
		{"key": "long", "type": "note", "label": "Long", "shown": "url.metres * 2 > 5"},
		{"key": "day", "type": "date", "label": "Day", "value": {"starts": "url.on"}},
		{"key": "own", "type": "note", "label": "Own", "shown": "url.member"}`)
	for _, c := range []struct {
		params    map[string][]string
		want      map[string]any
		unmatched []string
	}{
		{map[string][]string{
			"club": {" las garzas "}, "crew": {"Eight"}, "metres": {"3"}, "on": {"2026-05-30"}, "member": {"yes"},
		}, map[string]any{
			"hid": true, "some": true, "long": true, "own": true, "club": "g", "crew": "8", "day": "2026-05-30"}, nil},
		{map[string][]string{"club": {"zz", "Harbor,g"}}, map[string]any{"hid": false, "some": true, "club": "h"},
			[]string{"url.club"}},
		{map[string][]string{"club": {"Foo"}, "crew": {"5"}, "metres": {"three"}, "on": {"2026-5-3"}, "member": {"perhaps"}},
			map[string]any{
				"hid": false, "some": false, "long": false, "own": false, "club": "", "crew": "", "day": ""},
			[]string{"url.club", "url.crew", "url.metres", "url.on", "url.member"}},
		{map[string][]string{"club": {" "}}, map[string]any{"hid": false}, nil},
	} {
		o := p.Run(engine.Input{Params: c.params, At: time.Unix(0, 0)})
		for key, want := range c.want {
			st := o.State(key, 0)
			if shown, ok := want.(bool); ok {
				assert.Equal(t, shown, st.Shown, "%s with %v", key, c.params)
				continue
			}
			v := o.Value(st, 0)
			assert.Equal(t, want, v.Plain(time.UTC), "%s with %v", key, c.params)
		}
		assert.Equal(t, c.unmatched, o.Unmatched, "%v", c.params)
	}
	values, labels := p.ParamValues("club")
	assert.Equal(t, []string{"h", "g"}, values)
	assert.Equal(t, []string{"Harbor", "Las Garzas"}, labels)
	assert.False(t, p.ParamOpen("club"))
	notes := p.ParamNotes(map[string][]string{"club": {"Harbour"}})
	require.Len(t, notes, 1)
	assert.Equal(t, "Harbor", notes[0].Meant)
	n, err := expr.Parse(`url.club = "g"`)
	require.NoError(t, err)
	assert.Equal(t, "the address’s Club is Las Garzas", expr.PiecesText(p.Scope("hid").Phrase(n)))
}

// What a parameter can't be is refused where it is written.
func TestParametersAreChecked(t *testing.T) {
	for src, kind := range map[string]string{
		`[{"name": "a", "values": [{"value": "h"}]}]`:                      "", // compared with “h” below
		`[{"name": "a", "values": [{"value": "x"}]}]`:                      "unknown-choice",
		`[{"name": "a", "type": "colour"}]`:                                "wrong-type",
		`[{"name": "a", "type": "number", "values": [{"value": "many"}]}]`: "wrong-type",
		`[{"name": "a", "values": {"list": "clubs", "value": "code"}}]`:    "unknown-list",
		`[{"name": "a", "values": [{"value": "h"}, {"value": "H"}]}]`:      "duplicate-label",
		`[{"name": "a", "values": 3}]`:                                     "wrong-type",
		`[{"name": "a", "type": "yes_no"}]`:                                "wrong-type", // compared with a text
	} {
		_, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "parameters": ` + src + `,
			"pages": [{"key": "p", "sections": [{"key": "s", "items": [{"key": "x", "type": "note", "label": "X", "shown": "url.a = \"h\""}]}]}]}`))
		var kinds []string
		for _, r := range remarks {
			kinds = append(kinds, r.Kind)
		}
		if kind == "" {
			assert.Empty(t, kinds, src)
		} else {
			assert.Contains(t, kinds, kind, src)
		}
	}
}
