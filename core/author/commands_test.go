package author_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"flag"
	"net/url"
	"os"
	"testing"
	"time"

	decoder "github.com/go-playground/form/v4"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/author"
	"lazo/core/form"
)

var update = flag.Bool("update", false, "write what the commands do now into testdata, to be read")

var noon = time.Date(2026, 5, 30, 12, 0, 0, 0, time.UTC)

// aCommand is a command as a page posts it, with what it has to do: an edit, or a
// refusal in words.
type aCommand struct {
	Do     string          `json:"do"`
	Fields url.Values      `json:"fields"`
	Edit   json.RawMessage `json:"edit,omitempty"`
	At     string          `json:"at,omitempty"`
	Drops  []string        `json:"drops,omitempty"`
	Asks   []string        `json:"asks,omitempty"`
	Error  string          `json:"error,omitempty"`
}

func harbourForm(t *testing.T) *form.Form {
	data, err := os.ReadFile("testdata/harbour.json")
	require.NoError(t, err)
	f, remarks := form.Read(data)
	require.NotNil(t, f, remarks)
	return f
}

// TestCommands does what testdata/commands.json says, and holds what comes of it against
// what stands there. Every edit can be made and taken back.
func TestCommands(t *testing.T) {
	data, err := os.ReadFile("testdata/commands.json")
	require.NoError(t, err)
	var cases []aCommand
	require.NoError(t, json.Unmarshal(data, &cases))
	tried := map[string]bool{}
	for i := range cases {
		c := &cases[i]
		tried[c.Do] = true
		t.Run(c.Do+"?"+c.Fields.Encode(), func(t *testing.T) {
			got := do(t, c)
			if *update {
				*c = got
				return
			}
			want, err := json.Marshal(c)
			require.NoError(t, err)
			is, err := json.Marshal(got)
			require.NoError(t, err)
			assert.JSONEq(t, string(want), string(is))
		})
	}
	for name := range author.Commands {
		assert.True(t, tried[name], "%s is not tried", name)
	}
	if *update {
		var out bytes.Buffer
		enc := json.NewEncoder(&out)
		enc.SetEscapeHTML(false)
		enc.SetIndent("", " ")
		require.NoError(t, enc.Encode(cases))
		require.NoError(t, os.WriteFile("testdata/commands.json", out.Bytes(), 0o600))
	}
}

func do(t *testing.T, c *aCommand) aCommand {
	got := aCommand{Do: c.Do, Fields: c.Fields}
	f := harbourForm(t)
	before := string(f.JSON())
	command := author.Commands[c.Do]()
	require.NoError(t, decoder.NewDecoder().Decode(command, c.Fields))
	d, err := command.Do(f, noon)
	assert.Equal(t, before, string(f.JSON()), "a command changes nothing itself")
	got.At, got.Drops = d.At, d.Drops
	var unsure *author.Unsure
	var fault *author.Fault
	switch {
	case errors.As(err, &unsure):
		got.Asks = unsure.Broken
	case errors.As(err, &fault):
		got.Error = "as it is written: " + fault.Text
	case err != nil:
		require.ErrorIs(t, err, form.ErrEdit)
		got.Error = author.Reason(err)
	case !d.Empty():
		got.Edit, err = json.Marshal(d.Edit)
		require.NoError(t, err)
		after, inverse, err := form.Apply(f, d.Edit)
		if errors.Is(err, form.ErrEdit) {
			got.Error = "as it is made: " + author.Reason(err)
			return got
		}
		require.NoError(t, err)
		back, _, err := form.Apply(after, inverse)
		require.NoError(t, err)
		assert.Equal(t, before, string(back.JSON()), "undo brings all of it back")
	}
	return got
}

// Translations come by the texts that they are of, so the table of posts has none.
func TestTranslating(t *testing.T) {
	f := harbourForm(t)
	d, err := author.Translate{Language: "es", Said: map[string]string{"Welcome.": "", "Hull": "Casco"}}.Do(f, noon)
	require.NoError(t, err)
	after, _, err := form.Apply(f, d.Edit)
	require.NoError(t, err)
	assert.Equal(t, form.Translation{"Hull": "Casco"}, after.Translations["es"])
	_, err = author.Translate{Language: "ar"}.Do(f, noon)
	assert.EqualError(t, err, form.ErrEdit.Error()+": the form is not in Arabic")
}

// What is put in from elsewhere has no post of its own either.
func TestPuttingIn(t *testing.T) {
	f := harbourForm(t)
	kept, err := form.ReadSection([]byte(`{"key": "gear", "title": "Gear", "items": [{"key": "name", "type": "text", "label": "Name"}]}`))
	require.NoError(t, err)
	for name, c := range map[string]struct {
		command author.Command
		see     func(*form.Form) any
		want    any
	}{
		"a kept section, under keys of its own": {author.InsertKept{Section: kept, Into: "boat"},
			func(f *form.Form) any { return len(f.Pages[0].Sections) }, 3},
		"a picture in the greeting": {author.SetPicture{Address: "/p/1"}, func(f *form.Form) any { return f.Intro },
			"Welcome.\n\n![](/p/1)"},
		"one behind a note": {author.SetPicture{Key: "note_1", Address: "/p/1"}, func(f *form.Form) any {
			p,
				_ := f.Find("note_1")
			return p.Item.Help
		}, "![](/p/1)"},
		"one at a choice, which then shows them": {author.SetPicture{Key: "class", N: "1", Address: "/p/1"},
			func(f *form.Form) any {
				p, _ := f.Find("class")
				return p.Item.Choices[1].Image + " " + p.Item.Look
			}, "/p/1 pictures"},
		"another form": {author.Replace{By: &form.Form{Lazo: 1, Key: "entry", Title: "Other"}},
			func(f *form.Form) any { return f.Title }, "Other"},
	} {
		t.Run(name, func(t *testing.T) {
			d, err := c.command.Do(f, noon)
			require.NoError(t, err)
			after, _, err := form.Apply(f, d.Edit)
			require.NoError(t, err)
			assert.Equal(t, c.want, c.see(after))
		})
	}
	_, err = author.SetPicture{Key: "class", N: "9", Address: "/p/1"}.Do(f, noon)
	assert.ErrorIs(t, err, form.ErrEdit)
}
