// Package printable is a form for those who must have it on paper: every question with room to
// answer it by hand, and its conditions in words.
package printable

import (
	"embed"
	"strconv"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/web/fill"
	"lazo/web/wording"
)

// Templates show a form as paper.
//
//go:embed templates/*.html
var Templates embed.FS

// Bounds of what is printed: choices that are not boxes but a line beyond it, and the rows
// of a section that repeats.
const (
	mostBoxes = 60
	someRows  = 4
	mostRows  = 12
)

// Form is a form as paper.
type Form struct {
	Title, Intro string // Markdown the second
	Pages        []Page
}

// Page is a page of the form, which need not be one of paper.
type Page struct {
	Title, Intro, When string
	Sections           []Section
}

// Section is a section; one that repeats is a table with empty rows.
type Section struct {
	Title, When string
	Items       []Item
	Rows        []int // their numbers, of a section that repeats
}

// Item is what is asked, with room for the answer.
type Item struct {
	Label, Help, When string
	Kind              string // note, line, lines, boxes, numbers, order, grid, parts, enclosed, sign
	Many              bool   // several of the boxes can be ticked
	Choices           []string
	Left              int      // of more choices than are printed
	Rows              []string // of a grid
	Low, High         string
	Needed            bool
}

type printer struct {
	form  *form.Form
	syms  *expr.Symbols
	out   *engine.Outcome
	words *wording.Words
}

// Of is a form as paper, in the words of its language; out is an outcome without answers.
func Of(p *engine.Program, out *engine.Outcome, words *wording.Words) Form {
	pr := printer{p.Form, p.Symbols, out, words}
	f := Form{Title: out.Plain(p.Form.Title), Intro: out.Markdown(p.Form.Intro)}
	for _, page := range p.Form.Pages {
		if page.Staff || never(page.Shown) {
			continue
		}
		one := Page{Title: out.Plain(page.Title), Intro: out.Markdown(page.Intro), When: pr.when(page.Key, page.Shown)}
		for _, s := range page.Sections {
			if section := pr.section(s); len(section.Items) > 0 && !never(s.Shown) {
				one.Sections = append(one.Sections, section)
			}
		}
		f.Pages = append(f.Pages, one)
	}
	return f
}

func never(r form.Rule) bool { return r.Fixed && !r.Yes }

// when says in words for whom something is; "" for everyone. Conditions read as sentences
// in English alone; elsewhere it is said that it is for some.
func (pr printer) when(owner string, r form.Rule) string {
	n, err := expr.Parse(r.Expr)
	if r.Expr == "" || err != nil {
		return ""
	}
	if language := pr.form.Language; language != "" && language != "en" && !strings.HasPrefix(language, "en-") {
		return pr.words.Say("Only for some: the form on the web asks it where it is needed.")
	}
	return "Only if " + expr.PiecesText(pr.form.Narrow(pr.syms, owner, "shown").Sentence(n))
}

func (pr printer) section(s *form.Section) Section {
	out := Section{Title: pr.out.Plain(s.Title), When: pr.when(s.Key, s.Shown)}
	if s.Repeat != nil {
		n := someRows
		if s.Repeat.Max > 0 {
			n = min(s.Repeat.Max, mostRows)
		}
		for i := range max(n, min(s.Repeat.Min, mostRows)) {
			out.Rows = append(out.Rows, i+1)
		}
	}
	for _, it := range s.Items {
		if it.Staff || it.Parked || never(it.Shown) || it.Type.Computed() {
			continue
		}
		out.Items = append(out.Items, pr.item(it))
	}
	return out
}

// kinds are the ways to answer by hand that are not boxes, by type; else it is a line.
var kinds = map[form.Type]string{
	form.Note: "note", form.Paragraph: "lines", form.Scale: "numbers", form.Ranking: "order", form.Grid: "grid",
	form.Address: "parts",
	form.File:    "enclosed", form.Signature: "sign",
}

func (pr printer) item(it *form.Item) Item {
	out := Item{
		Label: pr.out.Plain(it.Name()), Help: pr.out.Plain(it.Help), When: pr.when(it.Key, it.Shown), Kind: kinds[it.Type],
		Needed: it.Required.Fixed && it.Required.Yes,
	}
	switch it.Type {
	case form.Note:
		out.Label = pr.out.Markdown(it.Label)
	case form.YesNo:
		out.Kind, out.Choices = "boxes", []string{pr.words.Say("Yes"), pr.words.Say("No")}
	case form.Tick:
		out.Kind, out.Many, out.Choices = "boxes", true, []string{out.Label}
		out.Label = ""
	case form.Scale:
		pr.scale(&out, it)
	case form.Address:
		for _, part := range expr.AddressParts {
			out.Choices = append(out.Choices, pr.words.Say(fill.PartName(part)))
		}
	case form.Grid:
		for _, row := range it.Rows {
			out.Rows = append(out.Rows, pr.out.Plain(row.Name()))
		}
		out.Many = it.Many
	}
	if it.Type.Picks() || it.Type == form.Grid || it.Type == form.Ranking {
		pr.choices(&out, it)
	}
	if out.Kind == "" {
		out.Kind = "line"
	}
	return out
}

func (pr printer) scale(out *Item, it *form.Item) {
	low, high := 1, 5
	for _, bound := range []struct {
		of   *form.Bound
		into *int
	}{{it.Min, &low}, {it.Max, &high}} {
		if bound.of != nil && bound.of.Number != nil {
			if n, ok := bound.of.Number.Whole(); ok {
				*bound.into = n
			}
		}
	}
	for n := low; n <= min(high, low+20); n++ {
		out.Choices = append(out.Choices, pr.words.Number(strconv.Itoa(n)))
	}
	out.Low, out.High = pr.out.Plain(it.Low), pr.out.Plain(it.High)
}

// choices are boxes to tick, or a line where they are too many.
func (pr printer) choices(out *Item, it *form.Item) {
	labels := pr.form.Options(it).Labels
	if len(labels) > mostBoxes {
		out.Left = len(labels)
		return
	}
	for _, label := range labels {
		out.Choices = append(out.Choices, pr.out.Plain(label))
	}
	if out.Kind == "" {
		out.Kind, out.Many = "boxes", it.Type == form.ChoicesType
	}
}
