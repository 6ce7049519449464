package fill

import "embed"

// Templates print fields, sections and units; pages include them by name.
//
//go:embed templates/*.html
var Templates embed.FS
