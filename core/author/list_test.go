package author_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/author"
	"lazo/core/form"
)

func TestAListIsGivenToTheWorkspace(t *testing.T) {
	f := harbourForm(t)
	table, err := author.TableOf(f, "piers")
	require.NoError(t, err)
	assert.Equal(t, []form.Column{{Key: "code", Name: "Code", Type: "text"}, {Key: "name", Name: "Name", Type: "text"}},
		table.Columns)
	assert.Len(t, table.Entries, 2)
	d, err := author.ShareList{Name: "piers", Shared: "piers_2"}.Do(f, noon)
	require.NoError(t, err)
	after, back, err := form.Apply(f, d.Edit)
	require.NoError(t, err)
	assert.Equal(t, []string{"piers_2"}, after.SharedLists())
	_, err = author.TableOf(after, "piers")
	assert.ErrorIs(t, err, form.ErrEdit)
	again, _, err := form.Apply(after, back)
	require.NoError(t, err)
	assert.JSONEq(t, string(f.JSON()), string(again.JSON()))

	f.Lists["piers"].Entries[1]["code"] = "N"
	_, err = author.TableOf(f, "piers")
	assert.ErrorContains(t, err, "“N” stands in line 2 already")
}

func TestTheBestColumnAndQuestionComeFirst(t *testing.T) {
	f, remarks := form.Read([]byte(`{"lazo": 1, "key": "m", "title": "M", "timezone": "UTC",
		"lists": {"piers": [{"code": "h", "name": "Heron", "lies_at": "n", "fee": 3}], "berths": [{"code": "h1", "name": "H 1", "pier": "h"}]},
		"pages": [{"key": "p", "sections": [{"key": "s", "items": [
			{"key": "name", "type": "text", "label": "Your name"},
			{"key": "shore", "type": "choice", "label": "Shore", "choices": [{"value": "n"}, {"value": "s"}]},
			{"key": "kind", "type": "choice", "label": "Kind", "choices": [{"value": "row"}]},
			{"key": "pier", "type": "choice", "label": "Pier", "choices_from": {"list": "piers", "value": "code", "label": "name"}},
			{"key": "berth", "type": "choice", "label": "Berth", "choices_from": {"list": "berths", "value": "code", "label": "name"}}
		]}]}]}`))
	require.NotNil(t, f, remarks)
	for key, want := range map[string][2]string{"pier": {"lies_at", "shore"}, "berth": {"pier", "pier"}} {
		p, _ := f.Find(key)
		n := author.NarrowingOf(f, p.Item)
		assert.Equal(t, want, [2]string{n.Columns[0].Key, n.Questions[0].Key}, key)
	}
	p, _ := f.Find("kind")
	assert.Empty(t, author.NarrowingOf(f, p.Item).Columns)
}
