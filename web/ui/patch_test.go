package ui_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/web/ui"
)

func TestWhatBecameDifferentIsSentInTheSmallestElements(t *testing.T) {
	for _, c := range []struct {
		name, before, after string
		parts               map[string]string
	}{
		{"nothing", `<div id="row"><p>Boat</p></div>`, `<div id="row"><p>Boat</p></div>`, nil},
		{"a field", `<div id="row"><form><input id="f" value="a"><b>x</b></form></div>`,
			`<div id="row"><form><input id="f" value="b"><b>x</b></form></div>`,
			map[string]string{"f": `<input id="f" value="b"/>`}},
		{"two", `<div id="row"><p id="a">1</p><p id="b">2</p><p id="c">3</p></div>`,
			`<div id="row"><p id="a">1</p><p id="b">9</p><p id="c">8</p></div>`,
			map[string]string{"b": `<p id="b">9</p>`, "c": `<p id="c">8</p>`}},
		{"a text without an id", `<div id="row"><div id="in"><p>1</p></div></div>`,
			`<div id="row"><div id="in"><p>2</p></div></div>`,
			map[string]string{"in": `<div id="in"><p>2</p></div>`}},
		{"one more", `<div id="row"><p id="a">1</p></div>`, `<div id="row"><p id="a">1</p><p id="b">2</p></div>`,
			map[string]string{"row": `<div id="row"><p id="a">1</p><p id="b">2</p></div>`}},
		{"another id", `<div id="row"><p id="a">1</p></div>`, `<div id="row"><p id="b">1</p></div>`,
			map[string]string{"row": `<div id="row"><p id="b">1</p></div>`}},
		{"its own attribute", `<div id="row" class="x"><p id="a">1</p></div>`,
			`<div id="row" class="y"><p id="a">1</p></div>`,
			map[string]string{"row": `<div id="row" class="y"><p id="a">1</p></div>`}},
		{"what is escaped stays so", `<div id="row"><p id="a">1</p></div>`,
			`<div id="row"><p id="a">&lt;b&gt; &amp; "</p></div>`,
			map[string]string{"a": `<p id="a">&lt;b&gt; &amp; &#34;</p>`}},
		{"a row of a table", `<table id="row"><tbody><tr id="a"><td>1</td></tr></tbody></table>`,
			`<table id="row"><tbody><tr id="a"><td>2</td></tr></tbody></table>`,
			map[string]string{"a": `<tr id="a"><td>2</td></tr>`}},
	} {
		parts, err := ui.Patch(c.before, c.after)
		require.NoError(t, err, c.name)
		got := map[string]string{}
		for _, p := range parts {
			got[p.ID] = string(p.HTML)
		}
		if c.parts == nil {
			c.parts = map[string]string{}
		}
		assert.Equal(t, c.parts, got, c.name)
	}
}
