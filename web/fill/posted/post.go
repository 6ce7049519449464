package posted

import (
	"bytes"
	"errors"
	"io"
	"mime"
	"net/http"
	"net/url"
	"strings"

	"lazo/web/ui"
)

// MaxPost bounds a posted form in bytes, and maxFields its fields.
const (
	MaxPost   = 1 << 20
	maxFields = 50_000
)

// Posted reads the body of a post within bounds; a Refusal says what is wrong.
func Posted(w http.ResponseWriter, r *http.Request) (url.Values, error) {
	var body bytes.Buffer
	if n := r.ContentLength; n > 0 && n <= MaxPost {
		body.Grow(int(n) + bytes.MinRead)
	}
	if _, err := body.ReadFrom(http.MaxBytesReader(w, r.Body, MaxPost)); err != nil {
		return nil, tooLargeOr(err)
	}
	return ParseFields(body.String())
}

// ParseFields reads application/x-www-form-urlencoded as url.ParseQuery does, but
// takes room for all fields at once: a page posts hundreds with each live change.
// Nor is it done by ParseForm, which keeps a second copy of them.
func ParseFields(body string) (url.Values, error) {
	n := strings.Count(body, "&") + 1
	if n > maxFields {
		return nil, ui.Unreadable
	}
	if strings.IndexByte(body, ';') >= 0 || !ui.Readable(body) {
		return nil, ui.Unreadable
	}
	out, values := make(url.Values, n), make([]string, 0, n)
	for pair := range strings.SplitSeq(body, "&") {
		if pair == "" {
			continue
		}
		name, value, _ := strings.Cut(pair, "=")
		var ok1, ok2 bool
		if name, ok1 = unescaped(name); ok1 {
			value, ok2 = unescaped(value)
		}
		if !ok2 {
			return nil, ui.Unreadable
		}
		if before := out[name]; before != nil {
			out[name] = append(before, value)
			continue
		}
		values = append(values, value)
		out[name] = values[len(values)-1 : len(values) : len(values)]
	}
	return out, nil
}

// unescaped is a name or value as it was before it was escaped, if it is readable. Most
// are as they were.
func unescaped(s string) (string, bool) {
	if strings.IndexByte(s, '%') < 0 && strings.IndexByte(s, '+') < 0 {
		return s, true
	}
	out, err := url.QueryUnescape(s)
	return out, err == nil && ui.Readable(out)
}

// TakeFile takes a file that was posted with a form; soFar are the fields before it.
type TakeFile func(field, name string, content io.Reader, soFar url.Values) error

// PostedParts is Posted for a body that may hold files. Fields are read within the
// bounds of Posted; each file is handed to take as it comes in.
func PostedParts(w http.ResponseWriter, r *http.Request, most int64, take TakeFile) (url.Values, error) {
	if kind, _, err := mime.ParseMediaType(r.Header.Get("Content-Type")); err != nil || kind != "multipart/form-data" {
		return Posted(w, r)
	}
	r.Body = http.MaxBytesReader(w, r.Body, most+MaxPost)
	parts, err := r.MultipartReader()
	if err != nil {
		return nil, ui.Unreadable
	}
	out := url.Values{}
	left, n := int64(MaxPost), 0
	for {
		part, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, tooLargeOr(err)
		}
		field := part.FormName()
		if part.FileName() != "" {
			if err := take(field, part.FileName(), part, out); err != nil {
				return nil, err
			}
			continue
		}
		text, err := io.ReadAll(io.LimitReader(part, left+1))
		if err != nil {
			return nil, tooLargeOr(err)
		}
		left -= int64(len(text) + len(field))
		if n++; left < 0 || n > maxFields || !ui.Readable(field) || !ui.Readable(string(text)) {
			return nil, ui.Unreadable
		}
		out.Add(field, string(text))
	}
}

// tooLargeOr passes on that a body is too large; any other fault is Unreadable.
func tooLargeOr(err error) error {
	var tooLarge *http.MaxBytesError
	if errors.As(err, &tooLarge) {
		return err
	}
	return ui.Unreadable
}
