package summary

import (
	"archive/zip"
	"fmt"
	"log/slog"
	"net/http"
	"path"
	"slices"
	"strings"
	"time"

	"lazo/store"
	"lazo/web/desk/responses"
	"lazo/web/ui"
)

// mostZipped is of how many responses the files are handed out at once.
const mostZipped = 20_000

var tooManyFiles = ui.Refusal{Status: http.StatusUnprocessableEntity, Title: "These are too many at once",
	Text: "The files of at most 20,000 responses go into one archive. Please narrow the view."}

// files hands out the files of what the view shows as a ZIP, which is made while it is
// taken; each response has a folder. Files are mostly pictures, and so are not made smaller.
func (d *Room) files(w http.ResponseWriter, r *http.Request) error {
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	if l.Fault != "" {
		return store.ErrNotFound
	}
	var list []store.ResponseFile
	err = d.InForm(l.Form).AtOnce(r.Context(), func(all store.Snapshot) error {
		var ids []string
		err := all.Each(l.Look(), func(res store.Response) error {
			if ids = append(ids, res.ID); len(ids) > mostZipped {
				return tooManyFiles
			}
			return nil
		})
		if err != nil {
			return err
		}
		list, err = all.FilesOf(ids)
		return err
	})
	if err != nil {
		return err
	}
	list = slices.DeleteFunc(list, func(f store.ResponseFile) bool { return l.Mask[f.Item] })
	h := w.Header()
	h.Set("Content-Type", "application/zip")
	h.Set("Content-Disposition", `attachment; filename="`+d.fileName(l, "zip")+`"`)
	archive := zip.NewWriter(patient{w})
	names := map[string]bool{}
	for _, f := range list {
		to, err := archive.CreateHeader(&zip.FileHeader{
			Name: zipped(f, l.Lens.Syms.Zone, names), Method: zip.Store, Modified: f.Received.In(l.Lens.Syms.Zone),
		})
		if err != nil {
			return err
		}
		if err := d.Store.ReadUpload(r.Context(), f.ID, to); err != nil {
			slog.ErrorContext(r.Context(), "an archive of files was cut off", "form", l.Form.ID, "err", err)
			panic(http.ErrAbortHandler) // so that nobody takes it for whole
		}
	}
	return archive.Close()
}

// zipped is where a file stands in the archive; no two stand at the same place, and none
// outside of its folder.
func zipped(f store.ResponseFile, zone *time.Location, names map[string]bool) string {
	plain := func(s string) string {
		s = strings.Map(func(r rune) rune {
			if r < ' ' || strings.ContainsRune(`/\\:*?"<>|`, r) {
				return '_'
			}
			return r
		}, s)
		return strings.Trim(s, ". ")
	}
	name := plain(f.Name)
	if name == "" {
		name = "file"
	}
	folder := f.Received.In(zone).Format("2006-01-02 15.04") + " " + f.Response[:8]
	at := path.Join(folder, plain(f.Item)+" "+name)
	ext := path.Ext(at)
	for n, first := 2, strings.TrimSuffix(at, ext); names[at]; n++ {
		at = fmt.Sprintf("%s (%d)%s", first, n, ext)
	}
	names[at] = true
	return at
}
