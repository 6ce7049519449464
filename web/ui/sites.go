package ui

import (
	"net/http"
	"slices"
	"strings"
)

// Allow lets a page have to do with other sites, given by their origins, in a way that
// a directive of the Content-Security-Policy names.
func Allow(w http.ResponseWriter, directive string, sites []string) {
	if len(sites) == 0 {
		return
	}
	rules := strings.Split(w.Header().Get("Content-Security-Policy"), "; ")
	at := slices.IndexFunc(rules, func(rule string) bool { return strings.HasPrefix(rule, directive+" ") })
	if at < 0 {
		at, rules = len(rules), append(rules, directive)
	}
	rules[at] = strings.TrimSuffix(rules[at], " 'none'") + " " + strings.Join(sites, " ")
	w.Header().Set("Content-Security-Policy", strings.Join(rules, "; "))
}
