package engine_test

import (
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
)

const addressed = `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "parameters": [{"name": "club", "label": "Partner club"}, {"name": "class"}, {"name": "idle"}, {"name": "on"}, {"name": "days"}], "pages": [
 {"key": "p", "sections": [{"key": "s", "items": [
  {"key": "boat", "type": "choice", "label": "Boat class", "value": {"starts": "url.class"}, "choices": [{"value": "single", "label": "Single scull"}, {"value": "eight", "label": "Eight"}]},
  {"key": "days", "type": "choices", "label": "Days", "value": {"starts": "url.days"}, "choices": [{"value": "sat", "label": "Saturday"}, {"value": "sun", "label": "Sunday"}]},
  {"key": "start_day", "type": "date", "label": "Day", "value": {"starts": "url.on"}},
  {"key": "number", "type": "text", "label": "Number", "shown": "url.club = \"Harbor\" or url.club = \"North Pier\""}]}]}]}`

func TestWhyAParameterDoesNothing(t *testing.T) {
	p, remarks := engine.Load([]byte(addressed))
	require.NotNil(t, p, remarks)
	for query, want := range map[string]struct {
		wrong bool
		text  string
		meant string
	}{
		"class=eight":          {false, "fills Boat class with Eight", ""},
		"class=+EIGHT":         {false, "fills Boat class with Eight", ""},
		"class=single%20scull": {false, "fills Boat class with Single scull", ""},
		"class=eigth":          {true, "“eigth” is none of the choices of Boat class; did you mean “eight”?", "eight"},
		"days=sat,sun":         {false, "fills Days with Saturday, Sunday", ""},
		"days=sat,mon":         {true, "fills Days with Saturday; “mon” is none of the choices of Days", ""},
		"clas=eight":           {true, "the form has no parameter “clas”; did you mean class?", "class"},
		"partner+club=x":       {true, "the form has no parameter “partner club”; did you mean club?", "club"},
		"boat=eight": {true,
			"the form has no parameter “boat”; Boat class is a question, and takes its answer from the address only if it starts as a parameter", ""},
		"zzzzzz=1":        {true, "the form has no parameter “zzzzzz”; it has club, class, idle, on, days", ""},
		"club=harbor":     {false, "drives Number", ""},
		"CLUB=North+Pier": {false, "drives Number", ""},
		"club=Hrabor": {true,
			"no condition asks for “Hrabor”; they ask for “Harbor”, “North Pier”; did you mean “Harbor”?", "Harbor"},
		"idle=1":        {true, "nothing in the form uses idle", ""},
		"class=":        {true, "class has no value; it counts as not given", ""},
		"on=2026-05-30": {false, "fills Day with 30 May 2026", ""},
		"on=30+May":     {true, "“30 May” can’t be read as an answer to Day (date)", ""},
	} {
		params, err := url.ParseQuery(query)
		require.NoError(t, err)
		notes := p.ParamNotes(params)
		require.Len(t, notes, 1, query)
		assert.Equal(t, want.wrong, notes[0].Wrong, query)
		assert.Equal(t, want.text, notes[0].Text, query)
		assert.Equal(t, want.meant, notes[0].Meant, query)
	}
	values, labels := p.ParamValues("class")
	assert.Equal(t, []string{"single", "eight"}, values)
	assert.Equal(t, []string{"Single scull", "Eight"}, labels)
	values, _ = p.ParamValues("club")
	assert.Equal(t, []string{"Harbor", "North Pier"}, values)
}
