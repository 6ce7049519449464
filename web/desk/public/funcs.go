package public

import (
	"html/template"

	"lazo/store"
	"lazo/web/desk/layout"
)

// posting is what every form of the screen sends along unseen.
type posting struct {
	ID                store.FormID
	Part              string
	Do, Key, Property string
	Look              []layout.Option
	Pressed           string
}

// piece is a piece of a sentence that can be pressed.
type piece struct {
	Page  page
	Name  string
	Words string
}

// closing is a text that is read while a form is not open, with the look that shows it.
type closing struct {
	Page                     page
	Name, Label, Text, Usual string
	At                       string // a moment at which it is read, "" for none
}

// As is who looks when it is read.
func (c closing) As() string {
	if c.Name == "full" {
		return "full"
	}
	return ""
}

var funcs = template.FuncMap{
	"post": func(p page, do, key, property string) posting {
		return posting{p.ID, p.Part.Name, do, key, property, p.Look.Fields(), p.Look.Pressed}
	},
	"closing": func(p page, name, label, text, usual, at string) closing {
		return closing{p, name, label, text, usual, at}
	},
	"piece": func(p page, name, words string) piece { return piece{p, name, words} },
}
