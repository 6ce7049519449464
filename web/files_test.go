package web_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"mime/multipart"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
	"lazo/store"
)

// published puts a form live in the sample workspace.
func published(t testing.TB, def *form.Form) store.Form {
	ctx := context.Background()
	m, err := db.MemberByEmail(ctx, demo.Email)
	require.NoError(t, err)
	f, err := db.InWorkspace(m.WorkspaceID).CreateForm(ctx, def)
	require.NoError(t, err)
	_, err = db.InWorkspace(m.WorkspaceID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	f, err = db.InWorkspace(m.WorkspaceID).Form(f.ID).Get(ctx)
	require.NoError(t, err)
	return f
}

// sample is one of the samples by its key.
func sample(t testing.TB, key string) *form.Form {
	for _, s := range demo.Samples(time.Now()) {
		if s.Form.Key == key {
			return s.Form
		}
	}
	t.Fatalf("no sample %s", key)
	return nil
}

// damageReport is a form that asks for a photograph.
func damageReport(t testing.TB) *form.Form {
	data, err := os.ReadFile("testdata/damage-report.json")
	require.NoError(t, err)
	f, remarks := form.Read(data)
	require.NotNil(t, f, remarks)
	return f
}

// last is what arrived last for a form.
func last(t testing.TB, f store.Form) (store.Response, map[string]any) {
	list, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(context.Background(), 0, 1)
	require.NoError(t, err)
	require.NotEmpty(t, list)
	var answers map[string]any
	require.NoError(t, json.Unmarshal(list[0].Answers, &answers))
	return list[0], answers
}

type file struct{ field, name, content string }

// multi posts fields and files as a browser does: fields first, in order.
func (c client) multi(path string, v url.Values, files ...file) (int, string) {
	c.t.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	for name, values := range v {
		for _, value := range values {
			require.NoError(c.t, w.WriteField(name, value))
		}
	}
	for _, f := range files {
		part, err := w.CreateFormFile(f.field, f.name)
		require.NoError(c.t, err)
		_, err = part.Write([]byte(f.content))
		require.NoError(c.t, err)
	}
	require.NoError(c.t, w.Close())
	return c.read(c.Post(c.base+path, w.FormDataContentType(), &b))
}

const pngHead = "\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x01\x00\x00\x00\x01\x08\x06\x00\x00\x00\x1f\x15\xc4\x89"

var fileID = regexp.MustCompile(`name="a\.photo\.id" value="([^"]+)"`)

func TestFilesAreTakenByTheirContent(t *testing.T) {
	f := published(t, damageReport(t))
	path := "/f/" + f.Address
	c := newClient(t)
	good := func() url.Values {
		_, page := c.get(path)
		v := fields(page)
		for k, x := range map[string]string{"a.thing": "oar", "a.can_be_used": "yes", "a.reporter": "Zulma", "_do": "send"} {
			v.Set(k, x)
		}
		return v
	}
	status, page := c.multi(path, good(), file{"a.photo", "../../etc/oar.png", pngHead + strings.Repeat("x", 700_000)})
	assert.Contains(t, page, "Thank you", status)
	r, answers := last(t, f)
	photo := answers["photo"].(map[string]any)
	assert.Equal(t, "oar.png", photo["name"])
	assert.Equal(t, "image/png", photo["type"])
	signed := newClient(t).signIn()
	status, body := signed.get(fmt.Sprintf("/forms/%d/responses/%s/files/%s", f.ID, r.ID, photo["id"]))
	assert.Equal(t, 200, status)
	assert.True(t, strings.HasPrefix(body, "\x89PNG"))
	assert.Len(t, body, 700_000+len(pngHead))
	_, page = signed.get(fmt.Sprintf("/forms/%d/responses/%s", f.ID, r.ID))
	assert.Contains(t, page, "oar.png</a>")
	_, stranger := newClient(t).get(fmt.Sprintf("/forms/%d/responses/%s/files/%s", f.ID, r.ID, photo["id"]))
	assert.Contains(t, stranger, "Sign in")

	// A program that calls itself a picture is none; too large is too large; both
	// come back with the page as it was.
	status, page = c.multi(path, good(), file{"a.photo", "oar.png", "#!/bin/sh\necho no\n"})
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "This kind of file can’t be taken")
	status, page = c.multi(path, good(), file{"a.photo", "oar.png", pngHead + strings.Repeat("x", 6<<20)})
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "This file is too large; the most is 5 MB.")
	assert.Contains(t, page, `value="Zulma"`)

	// A file stays with the page while something else is mended.
	v := good()
	v.Del("a.reporter")
	status, page = c.multi(path, v, file{"a.photo", "dock.png", pngHead})
	assert.Equal(t, 422, status)
	id := fileID.FindStringSubmatch(page)
	require.NotNil(t, id)
	assert.Contains(t, page, "dock.png")
	v.Set("a.reporter", "Ana")
	v.Set("a.photo.id", id[1])
	_, page = c.post(path, v)
	assert.Contains(t, page, "Thank you")
	_, answers = last(t, f)
	assert.Equal(t, "dock.png", answers["photo"].(map[string]any)["name"])

	// Somebody else's file can't be named as one's own.
	v = good()
	v.Set("a.photo.id", id[1])
	v.Set("a.photo.name", "stolen.png")
	_, page = c.post(path, v)
	assert.Contains(t, page, "Thank you")
	_, answers = last(t, f)
	assert.NotContains(t, answers, "photo")

	// Deleting the response takes the file along.
	status, _ = signed.post(fmt.Sprintf("/forms/%d/responses/%s/delete", f.ID, r.ID), url.Values{"sure": {"1"}})
	assert.Equal(t, 200, status)
	status, _ = signed.get(fmt.Sprintf("/forms/%d/responses/%s/files/%s", f.ID, r.ID, photo["id"]))
	assert.Equal(t, 404, status)
}

func TestASignatureIsTypedOrDrawn(t *testing.T) {
	f := published(t, sample(t, "rowing-course"))
	path := "/f/" + f.Address
	c := newClient(t)
	v := func(extra map[string]string) url.Values {
		_, page := c.get(path)
		v := fields(page)
		for k, x := range map[string]string{"a.level": "some", "a.group_wish.at.0": "1:tue", "a.group_wish.at.1": "2:wed",
			"a.group_wish.at.2": "3:thu", "a.swimming": "4", "a.name": "Nahuel",
			"a.birth": time.Now().AddDate(-12, 0, 0).Format("2006-01-02"),
			"a.email": "n@lakeside.example", "a.parent_name": "Zulma", "_do": "send"} {
			v.Set(k, x)
		}
		for k, x := range extra {
			v.Set(k, x)
		}
		return v
	}
	status, page := c.post(path, v(map[string]string{"a.parent_signs.drawn": "", "a.parent_signs.typed": ""}))
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "Sign by typing your name")
	_, page = c.post(path, v(map[string]string{"a.parent_signs.drawn": "",
		"a.parent_signs.typed": "Zulma <b>Olivera</b>"}))
	assert.Contains(t, page, "Thank you")
	r, answers := last(t, f)
	sign := answers["parent_signs"].(map[string]any)
	assert.Equal(t, "image/svg+xml", sign["type"])
	_, body := newClient(t).signIn().get(fmt.Sprintf("/forms/%d/responses/%s/files/%s", f.ID, r.ID, sign["id"]))
	assert.Contains(t, body, "Zulma &lt;b&gt;Olivera")
	status, _ = c.post(path, v(map[string]string{"a.parent_signs.drawn": "data:image/png;base64,bm8=",
		"a.parent_signs.typed": ""}))
	assert.Equal(t, 422, status, "what is no picture is no signature")
}
