package response

import (
	"bytes"
	"html/template"
	"image"
	_ "image/gif"  // a picture that is read
	_ "image/jpeg" // another
	"image/png"
	"net/http"
	"path"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp" // and another

	"lazo/core/form"
	"lazo/store"
)

// Bounds of a picture that is shown small: its file's bytes and its pixels, and how large
// it is shown.
const (
	maxPictured = 12 << 20
	maxPixels   = 24_000_000
	shownAcross = 640
)

// drawing bounds how many pictures are drawn at once, since each takes much memory.
var drawing = make(chan struct{}, 2)

// Funcs are what its templates can do.
var Funcs = template.FuncMap{"pictured": pictured}

// pictured reports whether a file is shown as a picture, by its name and its question.
func pictured(name string, t string) bool {
	return t == string(form.Signature) ||
		slices.Contains([]string{".png", ".jpg", ".jpeg", ".gif", ".webp"}, strings.ToLower(path.Ext(name)))
}

// filePicture shows a picture that came with a response small. It is drawn anew, so that
// nothing but pixels of what a stranger sent reaches the browser; a signature that was
// typed was set by Lazo itself, and runs nothing.
func (d *Room) filePicture(w http.ResponseWriter, r *http.Request) error {
	u, err := d.upload(r)
	if err != nil {
		return err
	}
	if u.Size > maxPictured {
		return store.ErrNotFound
	}
	var data bytes.Buffer
	if err := d.Store.ReadUpload(r.Context(), u.ID, &data); err != nil {
		return err
	}
	kind, drawn := "image/svg+xml", data.Bytes()
	if !bytes.HasPrefix(drawn, []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 600 180"><text `)) ||
		u.MediaType != kind {
		kind = "image/png"
		select {
		case drawing <- struct{}{}:
			defer func() { <-drawing }()
		case <-r.Context().Done():
			return r.Context().Err()
		}
		if drawn, err = small(data.Bytes()); err != nil {
			return store.ErrNotFound
		}
	}
	h := w.Header()
	h.Set("Content-Type", kind)
	h.Set("Content-Length", strconv.Itoa(len(drawn)))
	h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	h.Set("Cache-Control", "private, max-age=3600")
	_, err = w.Write(drawn)
	return err
}

// small draws a picture anew, no wider or taller than it is shown.
func small(data []byte) ([]byte, error) {
	size, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	if size.Width <= 0 || size.Height <= 0 || size.Width*size.Height > maxPixels {
		return nil, image.ErrFormat
	}
	from, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	width, height := size.Width, size.Height
	if most := max(width, height); most > shownAcross {
		width, height = max(1, width*shownAcross/most), max(1, height*shownAcross/most)
	}
	to := image.NewRGBA(image.Rect(0, 0, width, height))
	draw.ApproxBiLinear.Scale(to, to.Bounds(), from, from.Bounds(), draw.Over, nil)
	var out bytes.Buffer
	err = png.Encode(&out, to)
	return out.Bytes(), err
}
