package ui_test

import (
	"net/http"
	"net/http/httptest"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/web/ui"
)

// A static file is kept for a year under a name that is another once it is another file.
func TestStaticFilesAreFingerprinted(t *testing.T) {
	get := func(path string) *httptest.ResponseRecorder {
		w := httptest.NewRecorder()
		ui.Static().ServeHTTP(w, httptest.NewRequest(http.MethodGet, path, nil))
		return w
	}
	css := get("/static/lazo.css")
	require.Equal(t, 200, css.Code)
	assert.Equal(t, "public, max-age=3600", css.Header().Get("Cache-Control"))
	font := regexp.MustCompile(`/static/atkinson-next\.[0-9a-f]{10}\.woff2`).FindString(css.Body.String())
	require.NotEmpty(t, font, "the style names its fonts with their fingerprints")
	kept := get(font)
	assert.Equal(t, 200, kept.Code)
	assert.Equal(t, "public, max-age=31536000, immutable", kept.Header().Get("Cache-Control"))
	older := get("/static/atkinson-next.0123456789.woff2")
	assert.Equal(t, 200, older.Code, "a page of an older version gets what there is now")
	assert.Equal(t, "no-cache", older.Header().Get("Cache-Control"))
	assert.Equal(t, 404, get("/static/gone.js").Code)
	assert.Equal(t, 404, get("/static/../render.go").Code)
	assert.Contains(t, get("/static/desk.js").Header().Get("Content-Type"), "javascript")
}
