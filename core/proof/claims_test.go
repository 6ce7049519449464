package proof_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/proof"
)

// What stands here can be, or nobody knows: texts of a form, files of a type, limits that
// are far away, checks on what is in a text. Of each form all remarks are given, and what is
// left undecided.
func TestClaims(t *testing.T) {
	for name, c := range map[string]struct {
		items     string
		remarks   []string
		undecided []string
	}{
		"a mail can be long": {items: `{"key": "mail", "type": "email", "label": "Mail", "required": true},
			{"key": "x", "type": "text", "label": "X", "shown": "length(mail) > 40"}`},
		"and an address of a site": {items: `{"key": "site", "type": "website", "label": "Site"},
			{"key": "x", "type": "text", "label": "X", "shown": "length(site) > 50"}`},
		"of a phone number nobody knows": {items: `{"key": "phone", "type": "phone", "label": "Phone"},
			{"key": "x", "type": "text", "label": "X", "shown": "length(phone) < 8"}`, undecided: []string{"x"}},
		"a month and day is always as long": {items: `{"key": "day", "type": "month_day", "label": "Day"},
			{"key": "x", "type": "text", "label": "X", "shown": "length(day) > 5"},
			{"key": "y", "type": "text", "label": "Y", "shown": "day = \"02-30\""},
			{"key": "z", "type": "text", "label": "Z", "shown": "day != \"02-29\" and day is answered"}`,
			remarks: []string{"never-shown x", "never-shown y", "no-difference z"}},
		"a form and a length go together": {items: `{"key": "four", "type": "text", "label": "Four", "required": true, "min_length": 5, "pattern": "[a-z]*"},
			{"key": "x", "type": "text", "label": "X", "shown": "length(four) > 7", "required": true}`},
		"texts that are compared as equal have several lengths": {items: `{"key": "t", "type": "text", "label": "T"},
			{"key": "x", "type": "text", "label": "X", "shown": "length(t) > 1 and t = \"ß\""},
			{"key": "y", "type": "text", "label": "Y", "shown": "length(t) = 1 and t in (\"ffi\", \"heron\")"},
			{"key": "z", "type": "text", "label": "Z", "shown": "length(t) = 7 and t = \"straße\""},
			{"key": "w", "type": "text", "label": "W", "shown": "length(t) = 4 and t = \"straße\""}`, remarks: []string{"never-shown w"}},
		"or can't": {items: `{"key": "sail", "type": "text", "label": "Sail", "pattern": "[A-Z]{3}[0-9]{2,4}"},
			{"key": "x", "type": "text", "label": "X", "shown": "length(sail) > 7"},
			{"key": "y", "type": "text", "label": "Y", "shown": "length(sail) = 6"},
			{"key": "z", "type": "text", "label": "Z", "shown": "sail = \"ury\""}`, remarks: []string{"only-refused x", "only-refused z"}},
		"a form in capitals fits what is compared in small letters": {items: `{"key": "sail", "type": "text", "label": "Sail",
			"pattern": "[A-Z]{3}"}, {"key": "x", "type": "text", "label": "X", "shown": "sail = \"ury\""}`},
		"a form fits another text than is named": {items: `{"key": "sail", "type": "text", "label": "Sail", "pattern": "[A-Z]{3}",
			"required": true, "checks": [{"ok": "sail != \"ABC\" and sail != \"AAA\"", "message": "No"}]}`},
		"what comes by itself can have a form": {items: `{"key": "g", "type": "text", "label": "G", "value": {"follows": "url.club"},
			"pattern": "[A-Z]{3}", "locked": true, "shown": "url.club is answered"}`},
		"checks on what is in a text": {items: `{"key": "code", "type": "text", "label": "Code", "required": true,
			"checks": [{"ok": "code matches \"[A-Z]{3}[0-9]{4}\"", "message": "No"}]},
			{"key": "two", "type": "text", "label": "Two", "required": true, "checks": [{"ok": "two contains \"zz\"", "message": "No"}]},
			{"key": "mail", "type": "email", "label": "Mail", "required": true, "checks": [{"ok": "mail ends with \".org\"", "message": "No"}]}`,
			undecided: []string{"", "code", "mail"}},
		"checks by arithmetic": {items: `{"key": "n", "type": "number", "label": "N", "required": true, "checks": [{"ok": "n * n = 49", "message": "No"}]},
			{"key": "o", "type": "number", "label": "O", "required": true, "checks": [{"ok": "o - n > 3", "message": "No"}]}`,
			undecided: []string{"", "n", "o"}},
		"checks on the text of a choice": {items: `{"key": "o", "type": "choice", "label": "O", "required": true,
			"choices": [{"value": "a", "label": "A"}, {"value": "z", "label": "Z", "other": true}],
			"checks": [{"ok": "o.other = \"Zed\"", "message": "No"}, {"ok": "o != \"a\"", "message": "No"}]}`},
		"checks on the order of a ranking": {items: `{"key": "r", "type": "ranking", "label": "R", "required": true,
			"choices": [{"value": "a", "label": "A"}, {"value": "b", "label": "B"}], "checks": [{"ok": "first(r) has \"b\"", "message": "No"}]}`},
		"checks on an address": {items: `{"key": "ad", "type": "address", "label": "Ad", "required": true,
			"checks": [{"ok": "ad.country = \"UY\" and ad.city is answered", "message": "No"}]}`},
		"an address that none can be": {items: `{"key": "ad", "type": "address", "label": "Ad", "required": true,
			"checks": [{"ok": "ad.city is answered and ad.city = \"Pedralta\" and ad.city != \"pedralta\"", "message": "No"}]}`,
			remarks: []string{"never-accepted ", "dead-end ad"}},
		"files of a type and size": {items: `{"key": "f", "type": "file", "label": "F", "required": true, "accept": ["audio/mpeg"], "max_bytes": 100},
			{"key": "g", "type": "file", "label": "G", "required": true, "accept": ["video/*"]},
			{"key": "h", "type": "file", "label": "H", "required": true, "accept": [".DOCX"]}`},
		"a long text": {items: `{"key": "big", "type": "paragraph", "label": "Big", "required": true, "min_length": 30000},
			{"key": "x", "type": "text", "label": "X", "shown": "length(big) > 40000"}`, undecided: []string{"", "big", "x"}},
		"letters that fold to two": {items: `{"key": "name", "type": "text", "label": "Name"},
			{"key": "x", "type": "text", "label": "X", "shown": "name = \"Gross\" and length(name) = 4"}`},
		"half a ranking stays while it is hidden": {items: `{"key": "r", "type": "ranking", "label": "R", "shown": "url.club is blank",
			"when_hidden": "keep", "choices": [{"value": "a", "label": "A"}, {"value": "b", "label": "B"}, {"value": "c", "label": "C"}]},
			{"key": "x", "type": "text", "label": "X", "shown": "count(r) = 2"}`},
		"what comes by itself stays while it is hidden, if it has the form": {items: `{"key": "g", "type": "text", "label": "G",
			"value": {"follows": "url.club"}, "pattern": "[A-Z]{2,3}", "locked": true, "shown": "url.club = \"harbor\"", "when_hidden": "keep"},
			{"key": "x", "type": "text", "label": "X", "shown": "length(g) = 3 and url.club != \"harbor\""}`,
			undecided: []string{"x"}},
		"what compares equal can have a form": {items: `{"key": "g", "type": "text", "label": "G", "pattern": "[a-zß]{4}"},
			{"key": "x", "type": "text", "label": "X", "shown": "g = \"gross\""}`},
		"people count fewer characters than a pattern": {items: `{"key": "g", "type": "text", "label": "G", "pattern": ".{6}"},
			{"key": "x", "type": "text", "label": "X", "shown": "length(g) = 3"}`},
		"steps from a limit that is computed": {items: `{"key": "n", "type": "number", "label": "N", "required": true, "step": 2, "min": "len + 1"},
			{"key": "len", "type": "number", "label": "Len"}`, undecided: []string{"n"}},
	} {
		t.Run(name, func(t *testing.T) {
			p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "parameters": [{"name": "club"}],
				"pages": [{"key": "p", "sections": [{"key": "s", "items": [` + c.items + `]}]}]}`))
			require.NotNil(t, p, "%v", remarks)
			r := proof.Of(p, usual)
			said, undecided := []string{}, []string{}
			for _, m := range r.Remarks {
				said = append(said, m.Kind+" "+m.Item)
			}
			for _, u := range r.Undecided {
				undecided = append(undecided, u.Item)
			}
			assert.ElementsMatch(t, c.remarks, said)
			assert.ElementsMatch(t, c.undecided, slices.Compact(undecided))
		})
	}
}

// What a remark says is what its reader can do something about.
func TestRemarksInWords(t *testing.T) {
	for name, c := range map[string]struct{ item, says string }{
		"hidden for everybody, and filled in": {`"type": "text", "shown": false, "value": {"follows": "url.club"}`,
			"note: A is never shown: it is hidden from everybody, and fills itself in."},
		"hidden for everybody": {`"type": "text", "shown": false`, "warning: A is never shown: it is fixed so."},
		"nobody comes back": {`"type": "text", "locked": "mode = \"revisit\""`,
			"warning: A is never locked: it needs that who fills it in is someone coming back, and respondents can’t change yet what they sent."},
		"an empty text": {`"type": "text", "value": {"follows": "\"\""}`,
			"warning: A is never filled in by itself: what it is given is empty."},
	} {
		t.Run(name, func(t *testing.T) {
			p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "parameters": [{"name": "club"}],
				"pages": [{"key": "p", "sections": [{"key": "s", "items": [{"key": "a", "label": "A", ` + c.item + `}, {"key": "b", "type": "text"}]}]}]}`))
			require.NotNil(t, p, "%v", remarks)
			var said []string
			for _, m := range proof.Of(p, usual).Remarks {
				said = append(said, fmt.Sprintf("%s: %s", m.Severity, m.Text))
			}
			assert.Contains(t, said, c.says)
		})
	}
}

// When the time is up before anything was looked at, nothing is claimed of any type.
func TestNothingIsClaimedWithoutTime(t *testing.T) {
	for _, one := range various {
		for _, cond := range one.conds {
			q := fmt.Sprintf(cond, "q")
			p, remarks := engine.Load([]byte(formOf([]string{
				`{"key": "q", "label": "Q", ` + one.item + `}`,
				fmt.Sprintf(`{"key": "x", "type": "note", "label": "X", "shown": %q}`, q),
			})))
			require.NotNil(t, p, "%v", remarks)
			o := usual
			o.Left = func() time.Duration { return 0 }
			r := proof.Of(p, o)
			assert.True(t, r.Cut)
			assert.Empty(t, r.Remarks, "%s of %s", cond, one.item)
		}
	}
}

// What is made of a value that two others name, each of which names two again, is found once:
// 55 such calculations over 28 boxes would be gone through some hundred thousand million times.
func TestChainsOfCalculationsEnd(t *testing.T) {
	var items []string
	for i := range 28 {
		items = append(items, fmt.Sprintf(`{"key": "t%d", "type": "tick", "label": "T%d"}`, i, i))
	}
	chain := func(i int, is string) string {
		return fmt.Sprintf(`{"key": "c%d", "type": "calculation", "label": "C%d", "value": {"is": "%s"}}`, i, i, is)
	}
	items = append(items, chain(0, "if(t0, 1, 2)"), chain(1, "if(t1, 1, 2)"))
	for i := 2; i < 57; i++ {
		items = append(items, chain(i, fmt.Sprintf("if(t%d, c%d, c%d)", i%28, i-1, i-2)))
	}
	items = append(items, `{"key": "x", "type": "note", "label": "X", "shown": "c56 = 1"}`,
		`{"key": "y", "type": "note", "label": "Y", "shown": "c56 = 3"}`)
	p, remarks := engine.Load([]byte(formOf(items)))
	require.NotNil(t, p, "%v", remarks)
	r := proof.Of(p, usual)
	require.Empty(t, r.Undecided)
	require.Len(t, r.Remarks, 1)
	require.Equal(t, "y", r.Remarks[0].Item)
}
