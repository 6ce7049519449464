package e2e

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
	"lazo/store"
)

// draftOf makes a form of these items and gives its path on the desk.
func (v *visitor) draftOf(key, items string) (store.Form, string) {
	v.t.Helper()
	ctx := context.Background()
	def, remarks := form.Read(
		[]byte(
			fmt.Sprintf(
				`{"lazo": 1, "key": %q, "title": "Draft", "timezone": "UTC", "pages": [{"key": "p", "title": "P", "sections": [{"key": "s", "title": "S", "items": [%s]}]}]}`,
				key, items,
			),
		),
	)
	require.Empty(v.t, form.Errors(remarks))
	m, err := v.store.MemberByEmail(ctx, demo.Email)
	require.NoError(v.t, err)
	f, err := v.store.InWorkspace(m.WorkspaceID).CreateForm(ctx, def)
	require.NoError(v.t, err)
	return f, fmt.Sprintf("/forms/%d", f.ID)
}

func (v *visitor) definition(f store.Form) *form.Form {
	v.t.Helper()
	now, err := v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Get(context.Background())
	require.NoError(v.t, err)
	def, err := now.Definition()
	require.NoError(v.t, err)
	return def
}

// Undo says what it took back, and shows where.
func TestUndoSaysWhatAndWhere(t *testing.T) {
	v := visit(t)
	v.signIn()
	items := `{"key": "q0", "type": "text", "label": "First", "required": true}`
	for i := 1; i < 25; i++ {
		items += fmt.Sprintf(`, {"key": "q%d", "type": "text", "label": "Question %d"}`, i, i)
	}
	f, path := v.draftOf("undo-says", items)
	v.open(path + "?at=q0")
	v.write("#f-label", "Changed")
	v.do(chromedp.SendKeys("#f-label", kb.Enter))
	v.until(`document.querySelector(".saved").textContent === "Saved"`)
	v.click("#delete")
	v.until(`!document.querySelector("#row-q0")`)
	js[bool](v, `scrollTo(0, document.body.scrollHeight), true`)
	js[bool](v, `document.querySelector("#undo").click(), true`)
	v.until(`document.querySelector("#row-q0")`)
	v.sees("Undone: ")
	v.until(`document.querySelector("#row-q0").getBoundingClientRect().top > 0`)
	js[bool](v, `document.querySelector("#undo").click(), true`)
	v.until(`document.querySelector("#f-label")?.value === "First"`)
	v.sees("Undone: ")
	assert.Equal(t, "First", v.definition(f).Pages[0].Sections[0].Items[0].Label)
}

// In a menu the arrow keys pass over options without saving each.
func TestArrowKeysInAMenuSaveOnlyWhatIsChosen(t *testing.T) {
	v := visit(t)
	v.signIn()
	f, path := v.draftOf("arrows", `{"key": "q", "type": "text", "label": "Q"}`)
	v.open(path + "?at=q")
	v.do(chromedp.Focus("#f-type"), chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.ArrowDown),
		chromedp.KeyEvent(kb.ArrowDown))
	time.Sleep(300 * time.Millisecond)
	now, err := v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Get(context.Background())
	require.NoError(t, err)
	assert.Equal(t, f.DraftVersion, now.DraftVersion, "nothing was chosen yet")
	chosen := js[string](v, `document.querySelector("#f-type").value`)
	v.saves(func() { v.keys(kb.Tab) })
	p, _ := v.definition(f).Find("q")
	assert.Equal(t, chosen, string(p.Item.Type))
	now, err = v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Get(context.Background())
	require.NoError(t, err)
	assert.Equal(t, f.DraftVersion+1, now.DraftVersion)
}

// What can't be saved stays, is said to be unsaved, and is offered again: while the
// server fails, and after the session has ended.
func TestWhatCantBeSavedIsOfferedAgain(t *testing.T) {
	v, fails, _ := broken(t, visit(t))
	v.signIn()
	f, path := v.draftOf("unsaved", `{"key": "q", "type": "text", "label": "Q"}`)
	v.open(path + "?at=q")
	label := func() string { p, _ := v.definition(f).Find("q"); return p.Item.Label }
	fails.Store(503)
	v.write("#f-label", "Written while it failed")
	v.do(chromedp.SendKeys("#f-label", kb.Enter))
	v.sees("Not saved: the server can’t answer right now.")
	v.accessible("something unsaved")
	assert.Equal(t, "Written while it failed", js[string](v, `document.querySelector("#f-label").value`),
		"it stays in its field")
	fails.Store(0)
	v.open(path) // another page load, and it is offered still
	v.sees("“Written while it failed”")
	js[bool](v, `[...document.querySelectorAll("#unsaved button")].find((b) => b.textContent === "Save it now").click(), true`)
	v.until(`!document.querySelector("#unsaved")`)
	v.until(`document.querySelector(".saved").textContent === "Saved"`)
	assert.Equal(t, "Written while it failed", label())

	v.open(path + "?at=q")
	// As signing out ends it: a request that is under way could bring back what was only deleted.
	_, err := v.store.Pool().Exec(context.Background(),
		"with gone as (delete from sessions returning token) insert into ended_sessions (token) select token from gone")
	require.NoError(t, err)
	v.write("#f-label", "Written while signed out")
	v.do(chromedp.SendKeys("#f-label", kb.Enter))
	v.sees("Not saved: you are signed out.")
	js[bool](v, `document.querySelector("#unsaved a").click(), true`)
	v.write("#email", demo.Email)
	v.write("#password", demo.Password)
	v.click("button.first")
	v.sees("“Written while signed out”") // back where one was
	js[bool](v, `[...document.querySelectorAll("#unsaved button")].find((b) => b.textContent === "Save it now").click(), true`)
	v.until(`!document.querySelector("#unsaved") && document.querySelector(".saved").textContent === "Saved"`)
	assert.Equal(t, "Written while signed out", label())
}

// A faulty tie that is left by Esc is neither lost nor said to be saved.
func TestAFaultyTieLeftByEscStays(t *testing.T) {
	v := visit(t)
	v.signIn()
	f, path := v.draftOf(
		"faulty-esc",
		`{"key": "a", "type": "number", "label": "A"}, {"key": "b", "type": "text", "label": "B", "shown": "a > 3"}`,
	)
	v.open(path + "?at=b&write=shown")
	v.do(chromedp.WaitVisible("textarea.writing"))
	v.write("textarea.writing", "a > > 3")
	v.do(chromedp.KeyEvent(kb.Escape))
	v.until(
		`document.querySelector("textarea.writing")?.value === "a > > 3" && /expected|found/.test(document.querySelector(".row.sel").textContent)`,
	)
	assert.Equal(t, "a > 3", v.definition(f).Expr("b", "shown"))
	assert.NotEqual(t, "Saved", js[string](v, `document.querySelector(".saved").textContent`))
}

// A key that can't be leaves the question open, with what is wrong in words.
func TestABadKeyLeavesTheQuestionOpen(t *testing.T) {
	v := visit(t)
	v.signIn()
	_, path := v.draftOf("bad-key",
		`{"key": "a", "type": "number", "label": "A"}, {"key": "b", "type": "text", "label": "B"}`)
	for _, c := range []struct{ key, says string }{{"a", "The key “a” is taken already."}, {"no way", "can’t be a key"},
		{"and", "is a word of the expression language"}} {
		v.open(path + "?at=b")
		js[bool](v, `document.querySelector("details.more-settings").open = true, true`)
		v.write("#f-key", c.key)
		v.do(chromedp.SendKeys("#f-key", kb.Enter))
		v.sees(c.says)
		v.until(`document.querySelector(".row.sel")?.id === "row-b"`)
	}
}

// A clicked remark brings its question into sight.
func TestAClickedRemarkIsBroughtIntoSight(t *testing.T) {
	v := visit(t)
	v.signIn()
	items := `{"key": "q0", "type": "text", "label": "Zero"}`
	for i := 1; i < 40; i++ {
		items += fmt.Sprintf(`, {"key": "q%d", "type": "text", "label": "Question %d"}`, i, i)
	}
	items += `, {"key": "last", "type": "choice", "label": "Last"}`
	_, path := v.draftOf("remark-sight", items)
	v.open(path)
	js[bool](v, `document.querySelector(".remark-list").open = true, document.querySelector(".to-remark").click(), true`)
	v.until(`document.querySelector("#row-last.sel")`)
	v.until(`(() => { const r = document.querySelector("#row-last").getBoundingClientRect(); return r.top >= 0 && r.top < innerHeight })()`)
}
