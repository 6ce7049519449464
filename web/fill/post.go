package fill

import (
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"unicode/utf8"

	"lazo/core/form"
	"lazo/web/ui"
)

// MaxPost bounds a posted form in bytes, and maxFields its fields.
const (
	MaxPost   = 1 << 20
	maxFields = 50_000
)

// Posted reads the body of a post within bounds; a Refusal says what is wrong.
func Posted(w http.ResponseWriter, r *http.Request) (url.Values, error) {
	r.Body = http.MaxBytesReader(w, r.Body, MaxPost)
	if err := r.ParseForm(); err != nil {
		if strings.Contains(err.Error(), "too large") {
			return nil, err
		}
		return nil, unreadable
	}
	n := 0
	for name, values := range r.PostForm {
		n += len(values)
		for _, v := range append(values, name) {
			if !utf8.ValidString(v) || strings.ContainsRune(v, 0) {
				return nil, unreadable
			}
		}
	}
	if n > maxFields {
		return nil, unreadable
	}
	return r.PostForm, nil
}

var unreadable = ui.Refusal{Status: http.StatusBadRequest, Title: "This could not be read",
	Text: "What was sent is not the text of a form. Please go back and try again."}

// EditRows carries out the buttons that add and remove rows: "add:SECTION" and
// "remove:SECTION:N". It reports whether do was one of them.
func EditRows(f *form.Form, posted url.Values, do string) bool {
	verb, rest, _ := strings.Cut(do, ":")
	key, at, _ := strings.Cut(rest, ":")
	_, sec := f.Section(key)
	if sec == nil || sec.Repeat == nil || (verb != "add" && verb != "remove") {
		return false
	}
	n, _ := rowCount(key, posted)
	if verb == "add" {
		posted.Set("rows."+key, strconv.Itoa(min(n+1, form.MaxRows)))
		return true
	}
	gone, err := strconv.Atoi(at)
	if err != nil || gone < 0 || gone >= n {
		return true
	}
	// The rows after the one taken out move up.
	for name, values := range posted {
		head, rest, ok := cutRow(name, key)
		if !ok {
			continue
		}
		row, field, _ := strings.Cut(rest, ".")
		r, err := strconv.Atoi(row)
		if err != nil || r < gone {
			continue
		}
		delete(posted, name)
		if r > gone {
			posted["\x00"+head+strconv.Itoa(r-1)+"."+field] = values
		}
	}
	for name, values := range posted {
		if moved, ok := strings.CutPrefix(name, "\x00"); ok {
			delete(posted, name)
			posted[moved] = values
		}
	}
	posted.Set("rows."+key, strconv.Itoa(n-1))
	return true
}

// cutRow splits "r.SECTION.N.KEY" and "auto.SECTION.N.KEY" before N.
func cutRow(name, section string) (head, rest string, ok bool) {
	for _, head := range []string{"r." + section + ".", "auto." + section + "."} {
		if rest, ok := strings.CutPrefix(name, head); ok {
			return head, rest, true
		}
	}
	return "", "", false
}
