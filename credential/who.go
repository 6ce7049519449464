package credential

import (
	"strings"
	"unicode/utf8"

	"lazo/core/engine"
)

// Email is the address that somebody signs in with, as it is kept: in small letters; "" for
// what is none.
func Email(typed string) string {
	address, ok := engine.EmailAddress(strings.TrimSpace(typed))
	if !ok || !utf8.ValidString(address) || strings.ContainsRune(address, 0) {
		return ""
	}
	return strings.ToLower(address)
}

// longestName is the longest name of a person or a workspace, in characters.
const longestName = 120

// Name is the name of a person or a workspace as it is kept, "" for what is none.
func Name(typed string) string {
	name := strings.Join(strings.Fields(typed), " ")
	if utf8.RuneCountInString(name) > longestName {
		return ""
	}
	return name
}
