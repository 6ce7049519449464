package main

import (
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTemplatesAreLaidOut(t *testing.T) {
	files, err := filepath.Glob("../../*/templates/*.html")
	require.NoError(t, err)
	more, err := filepath.Glob("../../*/*/templates/*.html")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, name := range append(files, more...) {
		assert.NoError(t, visit(name, false), name)
	}
}

func TestLayingOut(t *testing.T) {
	long := strings.Repeat("oars ", 19)
	for name, c := range map[string]struct{ src, want string }{
		"an element a line": {`<div><p>Oars</p><p>Boats</p></div>`,
			"<div>\n  <p>Oars</p>\n  <p>Boats</p>\n</div>\n"},
		"what fits stays on its line":      {`<p>Oars and <b>boats</b></p>`, "<p>Oars and <b>boats</b></p>\n"},
		"blanks beside elements in a text": {`<p><b>a</b><i>b</i></p>`, "<p><b>a</b><i>b</i></p>\n"},
		"an action around an element": {`{{if .A}}<p>Oars</p><p>x</p>{{end}}`,
			"{{if .A}}\n  <p>Oars</p>\n  <p>x</p>\n{{end}}\n"},
		"branches": {`<div>{{if .A}}<p>a</p><p>b</p>{{else}}<p>c</p>{{end}}</div>`,
			"<div>\n  {{if .A}}\n    <p>a</p>\n    <p>b</p>\n  {{else}}\n    <p>c</p>\n  {{end}}\n</div>\n"},
		"a blank that an action needs": {`<p>` + long + `{{if .A}}one{{end}} ` + long + `</p>`,
			"<p>\n  " + long + "{{if .A}}one{{end}} oars\n  " + strings.TrimSpace(long[5:]) + "\n</p>\n"},
		"definitions stand apart": {`{{define "a"}}<p>a</p>{{end}}{{define "b"}}<p>b</p>{{end}}`,
			"{{define \"a\"}}\n<p>a</p>\n{{end}}\n\n{{define \"b\"}}\n<p>b</p>\n{{end}}\n"},
		"a long tag": {`<input type="text" name="` + strings.Repeat("n",
			60) + `" value="{{.Value}}" placeholder="What to call it, in words" autocomplete="off">`,
			"<input type=\"text\" name=\"" + strings.Repeat("n",
				60) + "\" value=\"{{.Value}}\"\n  placeholder=\"What to call it, in words\" autocomplete=\"off\">\n"},
		"what keeps its blanks": {"<div><textarea>a\n b</textarea><p>x</p></div>",
			"<div>\n  <textarea>a\n b</textarea>\n  <p>x</p>\n</div>\n"},
		"a page that others end": {"{{define \"head\"}}<html><head><title>x</title>{{end}}",
			"{{define \"head\"}}\n<html>\n<head>\n<title>x</title>\n{{end}}\n"},
		"an attribute that depends": {`<p id="{{.ID}}" class="` + strings.Repeat("c",
			90) + `"{{if .A}} hidden{{end}}{{if .B}} data-b{{end}}>x</p>`, "<p id=\"{{.ID}}\" class=\"" + strings.Repeat("c",
			90) + "\"\n  {{if .A}} hidden{{end}}{{if .B}} data-b{{end}}>\n  x\n</p>\n"},
		"classes": {`<p class="` + strings.Repeat("oars-and-boats ", 8) + `{{template "x"}} b">x</p>`,
			"<p class=\"" + strings.Repeat("oars-and-boats ",
				6) + "oars-and-boats\n  oars-and-boats {{template \"x\"}} b\">\n  x\n</p>\n"},
		"what must follow a tag": {`<a class="` + strings.Repeat("c", 80) + `" href="#row-{{.Key}}">{{.Name}}</a>`,
			`<a class="` + strings.Repeat("c", 80) + "\"\n  href=\"#row-{{.Key}}\">{{.Name}}</a>\n"},
		"what trims blanks may begin its line": {"<h1>\n  {{- .Title -}}\n</h1>", "<h1>\n  {{- .Title -}}\n</h1>\n"},
	} {
		t.Run(name, func(t *testing.T) {
			got, err := format(c.src)
			require.NoError(t, err)
			assert.Equal(t, c.want, got)
			again, err := format(got)
			require.NoError(t, err)
			assert.Equal(t, got, again, "what is laid out stays as it is")
		})
	}
}

func TestWhatIsNoTemplateIsSaid(t *testing.T) {
	for _, src := range []string{`{{if .A`, `<p class="`, `<textarea>`, `{{end}}`, `{{/* x`} {
		_, err := format(src)
		assert.Error(t, err, src)
	}
}
