package public

import (
	"errors"
	"fmt"
	"net/http"

	"lazo/core/author"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
)

// looks is how the public form looks.
type looks struct {
	form.Theme
	Colours       []colour
	Fonts, Widths []layout.Option
}

// colour is one that can be picked, with some that are ready.
type colour struct {
	Property, Label string
	Value           string // #rrggbb
	Own             bool   // it is not the usual one
	Says            string // how well it can be read
	Ready           []swatch
}

type swatch struct{ Value, Name string }

// The colours that a form has while its author picks none, as the style sheet has them.
const (
	usualAccent = "#0e5a4a"
	usualPaper  = "#e9eeed"
	white       = "#ffffff"
	ink         = "#15231f"
)

// Ready colours can all be read well; a test holds them against that.
var (
	readyAccents = []swatch{
		{usualAccent, "Spruce"}, {"#1d5f8a", "Lake"}, {"#3d4f8f", "Dusk"}, {"#6b3d86", "Plum"}, {"#a8201a", "Madder"},
		{"#8a4b08", "Rust"},
		{"#5b5f16", "Moss"}, {"#3b4a45", "Slate"},
	}
	readyPapers = []swatch{
		{usualPaper, "Mist"}, {"#f6f1e7", "Sand"}, {"#eaf1f7", "Water"}, {"#f4edf6", "Heather"}, {"#eef3e6", "Meadow"},
		{"#f3f3f3", "Stone"},
		{white, "White"},
	}
)

func looksOf(def *form.Form) *looks {
	out := &looks{
		Fonts: []layout.Option{{Value: "", Label: "Atkinson Hyperlegible Next"},
			{Value: "mono", Label: "Atkinson Hyperlegible Mono"},
			{Value: "serif", Label: "with serifs"}, {Value: "system", Label: "as the device has them"}},
		Widths: []layout.Option{{Value: "", Label: "usual"}, {Value: "narrow", Label: "narrow"},
			{Value: "wide", Label: "wide"}},
	}
	if def.Theme != nil {
		out.Theme = *def.Theme
	}
	read := func(property, label, value, usual, with, says string, ready []swatch) {
		c := colour{Property: property, Label: label, Value: value, Own: value != "" && value != usual, Ready: ready}
		if value == "" {
			c.Value = usual
		}
		c.Says = fmt.Sprintf("%s: %.1f to 1, at least %.1f is needed", says, form.Contrast(c.Value, with), form.LeastContrast)
		out.Colours = append(out.Colours, c)
	}
	read("accent", "Buttons and headings", out.Accent, usualAccent, white, "White letters on it", readyAccents)
	read("paper", "Around the sheet", out.Paper, usualPaper, ink, "Letters on it", readyPapers)
	return out
}

// setLogo stores a picture and has the form show it above its title.
func (d *Room) setLogo(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	theme, _ := partOf("theme")
	address, err := d.KeepPicture(w, r, f)
	shown := page{Part: theme, Look: theme.look(r.PostForm)}
	var after store.Form
	if err == nil {
		after, err = d.apply(r.Context(), f, def, r.PostForm, author.SetTheme{Logo: &address})
	}
	if err != nil && !errors.Is(err, form.ErrEdit) && !errors.Is(err, store.ErrConflict) {
		return err
	}
	return d.answer(w, r, f, after, shown, err)
}
