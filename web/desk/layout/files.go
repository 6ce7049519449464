package layout

import (
	"errors"
	"io"
	"mime"
	"net/http"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"lazo/core/exchange"
	"lazo/store"
	"lazo/web/ui"
)

// ReadFile reads a file that was posted as “file”, or what was pasted into a field where
// none was; name is the file's, "" for what was pasted. The other fields are in
// r.PostForm.
func ReadFile(w http.ResponseWriter, r *http.Request, most int64, pasted string) (data []byte, name string, err error) {
	r.Body = http.MaxBytesReader(w, r.Body, most+1<<20)
	err = r.ParseMultipartForm(most)
	switch {
	case err != nil && strings.Contains(err.Error(), "too large"):
		return nil, "", err
	case err != nil && !errors.Is(err, http.ErrNotMultipart):
		return nil, "", ui.Unreadable
	case !ui.ReadableFields(r.PostForm):
		return nil, "", ui.Unreadable
	}
	if r.MultipartForm != nil {
		defer r.MultipartForm.RemoveAll() //nolint:errcheck // it is a temporary file
	}
	file, header, err := r.FormFile("file")
	switch {
	case err == nil:
		defer file.Close()
		data, err = io.ReadAll(io.LimitReader(file, most+1))
		return data, header.Filename, err
	case errors.Is(err, http.ErrMissingFile), errors.Is(err, http.ErrNotMultipart):
		return []byte(r.PostForm.Get(pasted)), "", nil
	}
	return nil, "", err
}

// SendSheets hands sheets out: as xlsx all of them, as csv the first.
func SendSheets(w http.ResponseWriter, kind, name string, sheets []exchange.Sheet) error {
	var data []byte
	var err error
	media := "text/csv; charset=utf-8"
	switch kind {
	case "csv":
		data, err = exchange.WriteCSV(sheets[0])
	case "xlsx":
		media = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
		data, err = exchange.WriteXLSX(sheets)
	default:
		return store.ErrNotFound
	}
	if err != nil {
		return err
	}
	h := w.Header()
	h.Set("Content-Type", media)
	h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name + "." + kind}))
	h.Set("Content-Length", strconv.Itoa(len(data)))
	_, err = w.Write(data)
	return err
}

// Sentence is what an error says, as a sentence.
func Sentence(err error) string {
	text := err.Error()
	first, size := utf8.DecodeRuneInString(text)
	return strings.TrimSuffix(string(unicode.ToUpper(first))+text[size:], ".") + "."
}
