package posted

import (
	"maps"
	"net/url"
	"strconv"
	"strings"

	"lazo/core/form"
)

// RowEdit is what a button did to the rows of a repeating section.
type RowEdit struct {
	Verb    string // add, remove or restore
	Section *form.Section
	Row     int // the row that it is about, from 0
}

// EditRows carries out the buttons of repeating sections: "add:SECTION",
// "remove:SECTION:N", which sets the row aside, and "restore:SECTION", which puts
// the one taken out last back. What was posted stays as it is; the fields after that are returned,
// and no edit if do is none of them, or can't be done.
func EditRows(f *form.Form, posted url.Values, do string) (url.Values, *RowEdit) {
	verb, rest, _ := strings.Cut(do, ":")
	key, at, _ := strings.Cut(rest, ":")
	_, sec := f.Section(key)
	if sec == nil || sec.Repeat == nil || sec.Repeat.Rows != "" {
		return posted, nil
	}
	n, _ := RowCount(key, posted)
	fields := maps.Clone(posted)
	switch verb {
	case "add":
		if n >= sec.Repeat.Limit() {
			return posted, nil
		}
		fields.Set(RowsHead+key, strconv.Itoa(n+1))
		return fields, &RowEdit{verb, sec, n}
	case "remove":
		row, err := strconv.Atoi(at)
		if err != nil || row < 0 || row >= n {
			return posted, nil
		}
		removeRow(fields, key, row, n)
		return fields, &RowEdit{verb, sec, row}
	case "restore":
		row, err := strconv.Atoi(posted.Get(GoneHead + key))
		if err != nil || row < 0 || n >= form.MaxRows {
			return posted, nil
		}
		row = min(row, n)
		restoreRow(fields, key, row, n)
		return fields, &RowEdit{verb, sec, row}
	}
	return posted, nil
}

// removeRow sets one row aside; those after it move up.
func removeRow(posted url.Values, key string, row, n int) {
	renameRows(posted, key, func(at string) (string, bool) {
		r, err := strconv.Atoi(at)
		switch {
		case at == Gone: // only the last can be put back
			return "", false
		case err == nil && r == row:
			return Gone, true
		case err == nil && r > row:
			return strconv.Itoa(r - 1), true
		}
		return at, true
	})
	posted.Set(GoneHead+key, strconv.Itoa(row))
	posted.Set(RowsHead+key, strconv.Itoa(n-1))
}

// restoreRow puts the row that was taken out last back; those after it make room.
func restoreRow(posted url.Values, key string, row, n int) {
	renameRows(posted, key, func(at string) (string, bool) {
		r, err := strconv.Atoi(at)
		switch {
		case at == Gone:
			return strconv.Itoa(row), true
		case err == nil && r >= row:
			return strconv.Itoa(r + 1), true
		}
		return at, true
	})
	posted.Del(GoneHead + key)
	posted.Set(RowsHead+key, strconv.Itoa(n+1))
}

// renameRows gives the fields of each row of a section another row, or takes them
// away.
func renameRows(posted url.Values, key string, to func(row string) (string, bool)) {
	moved := url.Values{}
	for name, values := range posted {
		head, row, rest, ok := cutRow(name, key)
		if !ok {
			continue
		}
		delete(posted, name)
		if row, keep := to(row); keep {
			moved[strings.TrimSuffix(head+row+"."+rest, ".")] = values
		}
	}
	for name, values := range moved {
		posted[name] = values
	}
}

// RowCount is how many rows of a section a page holds; ok is false if it says nothing.
func RowCount(section string, posted url.Values) (n int, ok bool) {
	v := posted.Get(RowsHead + section)
	if v == "" {
		return 0, false
	}
	n, err := strconv.Atoi(v)
	if err != nil || n < 0 {
		return 0, false
	}
	return min(n, form.MaxRows+1), true
}
