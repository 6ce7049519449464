package form

import _ "embed"

//go:embed schema.json
var schema []byte

// Schema is the JSON Schema (draft 2020-12) of form files.
func Schema() []byte { return schema }
