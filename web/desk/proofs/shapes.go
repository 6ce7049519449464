package proofs

import (
	"slices"
	"strconv"
	"strings"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/proof"
)

// shape is one way in which the form can look, as a small drawing.
type shape struct {
	At      int
	Bars    []bar
	High    int    // of the drawing
	Says    string // what is otherwise than in the one before, in words
	Answers string // with which it looks so
}

// bar is one item of a drawing.
type bar struct {
	Y, Dot int
	Class  string
}

// How large the parts of a drawing are, and how many shapes are drawn.
const (
	barStep    = 7
	sectionGap = 5
	shapesSeen = 60
	maxBars    = 90
)

// shapes draws the first of the shapes.
func (p *proofPage) shapes(def *form.Form, program *engine.Program, all *proof.Shapes) {
	if all == nil {
		return
	}
	p.Count = strconv.Itoa(all.Count)
	if all.Capped {
		p.Count = "More than " + strconv.Itoa(max(all.Count, 1))
	}
	for i, s := range all.List {
		if len(p.Shapes) == shapesSeen {
			break
		}
		one := draw(def, s)
		one.At, one.Says = i, label(program, *s.Witness)
		if i > 0 {
			one.Answers, one.Says = one.Says, differ(def, all.List[i-1], s)
		}
		p.Shapes = append(p.Shapes, one)
	}
	p.More = all.Count - len(p.Shapes)
}

// draw places a bar for each item outside rows, in the order of the form.
func draw(def *form.Form, s proof.Shape) (out shape) {
	y := 4
	for _, pg := range def.Pages {
		for _, sec := range pg.Sections {
			if sec.Repeat != nil {
				continue
			}
			drawn := false
			for _, it := range sec.Items {
				if it.Staff || it.Parked || it.Type.Computed() || len(out.Bars) == maxBars {
					continue
				}
				b := bar{Y: y, Dot: y + 2, Class: "absent"}
				switch {
				case slices.Contains(s.Required, it.Key):
					b.Class = "required"
				case slices.Contains(s.Shown, it.Key):
					b.Class = "asked"
				}
				out.Bars = append(out.Bars, b)
				y += barStep
				drawn = true
			}
			if drawn {
				y += sectionGap
			}
		}
	}
	out.High = y
	return out
}

// differ says what tells a shape from another: what is there more or less, or what else is
// required.
func differ(def *form.Form, a, b proof.Shape) string {
	switch more, less := names(def, b.Shown, a.Shown), names(def, a.Shown, b.Shown); {
	case len(more) > 0 && len(less) > 0:
		return "with " + few(more) + ", without " + few(less)
	case len(more) > 0:
		return "with " + few(more)
	case len(less) > 0:
		return "without " + few(less)
	}
	if more := names(def, b.Required, a.Required); len(more) > 0 {
		return "requires " + few(more)
	}
	return "does not require " + few(names(def, a.Required, b.Required))
}

// names are what the keys of one list are called that are not in another.
func names(def *form.Form, of, not []string) (out []string) {
	for _, key := range of {
		if !slices.Contains(not, key) {
			out = append(out, strings.TrimSuffix(def.NameOf(key), "."))
		}
	}
	return out
}

// label is what was answered, in as few words as it takes.
func label(p *engine.Program, w proof.Witness) string {
	var parts []string
	o := p.Run(engine.Input{Answers: p.Answers(w.Answers), Params: w.URL, At: w.At, Mode: engine.New})
	for _, a := range o.Answered() {
		if _, given := w.Answers[a.Key]; !given || len(parts) == 3 || len(a.Text) > 30 {
			continue
		}
		if it, ok := p.Form.Find(a.Key); ok && it.Item.Type.Picks() {
			parts = append(parts, a.Text)
		} else {
			parts = append(parts, a.Label)
		}
	}
	if len(parts) == 0 {
		return "nothing answered"
	}
	return strings.Join(parts, ", ")
}

// few are the first of some names.
func few(names []string) string {
	switch len(names) {
	case 0:
		return "the same"
	case 1:
		return names[0]
	case 2:
		return names[0] + " and " + names[1]
	}
	return names[0] + " and " + strconv.Itoa(len(names)-1) + " more"
}
