package form

import (
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"lazo/core/expr"
)

// linked is a link of Markdown within a label, of which the words count.
var linked = regexp.MustCompile(`\[([^\]]*)\]\([^)]*\)`)

// ProposeKey makes a key from a label: its letters without accents, small, with
// _ between the words. It is "" if nothing of the label can stand in a key.
func ProposeKey(label string) string {
	var b strings.Builder
	gap := false
	for _, r := range norm.NFKD.String(linked.ReplaceAllString(label, "$1")) {
		switch {
		case r == '’' || r == '\'' || unicode.Is(unicode.Mn, r):
			continue
		case r == 'ß':
			b.WriteString("ss")
			continue
		case r < 128 && (unicode.IsLetter(r) || unicode.IsDigit(r)):
			if gap && b.Len() > 0 {
				b.WriteByte('_')
			}
			gap = false
			b.WriteRune(unicode.ToLower(r))
		default:
			gap = true
		}
		if b.Len() >= 40 {
			break
		}
	}
	key := strings.TrimRight(b.String(), "_")
	if key == "" {
		return ""
	}
	if key[0] >= '0' && key[0] <= '9' {
		key = "q_" + key
	}
	if expr.Reserved(key) {
		key = "the_" + key
	}
	return key
}

// FreeKey returns key or, if it is taken, key with the first free number.
func FreeKey(key, otherwise string, taken map[string]bool) string {
	if key == "" {
		key = otherwise
	}
	if !taken[key] {
		return key
	}
	for n := 2; ; n++ {
		if k := key + "_" + strconv.Itoa(n); !taken[k] {
			return k
		}
	}
}
