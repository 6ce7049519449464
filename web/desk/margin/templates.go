package margin

import (
	"embed"
	"html/template"
)

// Templates show the lines and editors of a margin.
//
//go:embed templates/*.html
var Templates embed.FS

// within is a part of a tie's condition, together with the tie and the page.
type within struct {
	Top    any
	Editor *Editor
	Row    *Passage
}

// Funcs are the functions that the templates need, besides post of the room.
var Funcs = template.FuncMap{
	"within": func(top any, e *Editor, row *Passage) within { return within{top, e, row} },
}
