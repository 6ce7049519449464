package expr

import "regexp"

// reserved are the words of the language, which can't be keys: operators,
// literals, and the names that mean something by themselves. A function's name
// can be a key, since it is the function only before a parenthesis, and so can a
// unit of time, which stands only after a number.
var reserved = map[string]bool{}

func init() {
	for _, w := range []string{
		"or", "and", "not", "between", "in", "is", "blank", "answered", "contains", "starts", "ends", "with", "matches",
		"has", "any", "all", "none", "yes", "no",
		"url", "now", "today", "time", "weekday", "mode", "entry", "choice", "row_number",
	} {
		reserved[w] = true
	}
}

// Reserved reports whether w is a word of the language and so can't be a key.
func Reserved(w string) bool { return reserved[w] }

var keyPattern = regexp.MustCompile(`^[a-z][a-z0-9_]*$`)

// MaxKey is the greatest length of a key in bytes.
const MaxKey = 64

// IsKey reports whether s has the form of a key: a to z first, then also 0 to 9
// and _. It may still be reserved.
func IsKey(s string) bool { return len(s) <= MaxKey && keyPattern.MatchString(s) }
