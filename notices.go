// Package lazo holds what ships with the program as a whole.
package lazo

import _ "embed"

// Notices say what ships with Lazo, and under which licences.
//
//go:embed NOTICES.md
var Notices string
