package layout

import (
	"io"
	"net/http"
	"slices"

	"lazo/store"
	"lazo/web/ui"
)

// Pictures are taken up to this size, and of these kinds.
const maxPicture = 3 << 20

// PictureTypes are the media types of pictures that forms show.
var PictureTypes = []string{"image/png", "image/jpeg", "image/gif", "image/webp"}

// KeepPicture stores the picture that was posted as “file” and returns the address that a
// form shows it by; form.ErrEdit says why one can't be used. The other fields are in
// r.PostForm.
func (d *Desk) KeepPicture(w http.ResponseWriter, r *http.Request, f store.Form) (address string, err error) {
	r.Body = http.MaxBytesReader(w, r.Body, maxPicture+1<<20)
	file, header, err := r.FormFile("file")
	if err != nil {
		return "", Wrong("no picture was sent; it may be larger than 3 MB")
	}
	defer file.Close()
	data, err := io.ReadAll(io.LimitReader(file, maxPicture+1))
	if err != nil {
		return "", err
	}
	kind := http.DetectContentType(data)
	if len(data) > maxPicture || !slices.Contains(PictureTypes, kind) {
		return "", Wrong("“%s” can’t be used: pictures are PNG, JPEG, GIF or WebP, of at most 3 MB", header.Filename)
	}
	if !ui.ReadableFields(r.PostForm) {
		return "", ui.Unreadable
	}
	id, err := d.Store.InWorkspace(f.WorkspaceID).AddPicture(r.Context(), store.Picture{MediaType: kind, Data: data})
	return "/p/" + id, err
}
