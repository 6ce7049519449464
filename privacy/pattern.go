package privacy

import (
	"regexp"
	"strings"
)

var telephone = regexp.MustCompile(`^\+?[0-9 ()./-]{6,25}$`)

// Pattern is the pattern by which what somebody is called by is found in texts: an
// e-mail address as a whole, or a telephone number however it is parted; "" for what is
// neither.
func Pattern(typed string) string {
	typed = strings.TrimSpace(typed)
	switch {
	case strings.Count(typed, "@") == 1 && len(typed) >= 5 && len(typed) <= 254 &&
		!strings.ContainsAny(typed, " \t\r\n\"\\"):
		return `(^|[^[:alnum:]._%+-]|\\[bfnrt])` + regexp.QuoteMeta(typed) + `($|[^[:alnum:].-]|[.-]($|[^[:alnum:]]))`
	case telephone.MatchString(typed):
		var digits []string
		for _, r := range typed {
			if r >= '0' && r <= '9' {
				digits = append(digits, string(r))
			}
		}
		if len(digits) < 6 {
			return ""
		}
		plus := ""
		if strings.HasPrefix(typed, "+") {
			plus = `\+`
		}
		return `(^|[^0-9+])` + plus + strings.Join(digits, `[ ()./-]*`) + `($|[^0-9])`
	}
	return ""
}
