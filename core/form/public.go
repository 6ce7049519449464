package form

import (
	"regexp"
	"slices"
	"strings"

	"lazo/core/expr"
)

// End is a closing text of its own for some answers; the first met wins.
type End struct {
	When string `json:"when"`
	Text string `json:"text"` // Markdown
}

// Returning says whether respondents can leave a filling and go on later, and
// whether they can change what they sent, until when.
type Returning struct {
	Save   bool   `json:"save,omitempty"`
	Change bool   `json:"change,omitempty"`
	Until  string `json:"until,omitempty"` // local to the form's zone; "" is as long as the form is open
}

// Framing says which sites may show the form inside their pages, and which
// parameters of the page around it are handed through.
type Framing struct {
	Origins []string `json:"origins"`
	Pass    []string `json:"pass,omitempty"`
}

// Guard keeps programs from sending the form: a question of the author's own
// whose answer only people know.
type Guard struct {
	Question string   `json:"question"`
	Answers  []string `json:"answers"`
}

// Right reports whether an answer is one of those that are right, by text comparison.
func (g *Guard) Right(given string) bool {
	return slices.ContainsFunc(g.Answers, func(a string) bool { return expr.Fold(a) == expr.Fold(given) })
}

// Theme is how the public form looks, within what stays legible.
type Theme struct {
	Accent string `json:"accent,omitempty"` // #rrggbb, of buttons and headings
	Paper  string `json:"paper,omitempty"`  // #rrggbb, around the sheet
	Logo   string `json:"logo,omitempty"`   // the address of a picture
	Font   string `json:"font,omitempty"`   // next, mono, serif or system
	Width  string `json:"width,omitempty"`  // narrow, usual or wide
	// Columns, 1 or 2, is for sections that say nothing of their own; 0 is 1.
	Columns int    `json:"columns,omitempty"`
	Send    string `json:"send,omitempty"` // what the buttons say
	Next    string `json:"next,omitempty"`
	Back    string `json:"back,omitempty"`
}

// The values of Theme.Font and Theme.Width.
var (
	Fonts  = []string{"next", "mono", "serif", "system"}
	Widths = []string{"narrow", "usual", "wide"}
)

var (
	originPattern = regexp.MustCompile(`^https?://[a-z0-9.-]+(:[0-9]{1,5})?$`)
	colourPattern = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)
)

// public reads the properties that concern only how a form is met in public.
func (r *reader) public(o *object, f *Form) {
	f.Review, f.Remember = o.yes("review"), o.yes("remember")
	o.each("ends", func(v any, at string) {
		if p, ok := r.object(v, at, ""); ok {
			f.Ends = append(f.Ends, End{p.needed("when"), p.text("text")})
			p.done()
		}
	})
	if v, ok := o.get("returning"); ok {
		if p, ok := r.object(v, "returning", ""); ok {
			f.Returning = &Returning{p.yes("save"), p.yes("change"), p.text("until")}
			p.done()
		}
	}
	if v, ok := o.get("framing"); ok {
		if p, ok := r.object(v, "framing", ""); ok {
			f.Framing = &Framing{r.origins(&p), r.texts(&p, "pass")}
			p.done()
		}
	}
	if v, ok := o.get("guard"); ok {
		if p, ok := r.object(v, "guard", ""); ok {
			f.Guard = &Guard{p.needed("question"), r.texts(&p, "answers")}
			if len(f.Guard.Answers) == 0 {
				r.remark("missing", "guard.answers", "", "the question has no answer that is right")
			}
			p.done()
		}
	}
	if v, ok := o.get("theme"); ok {
		if p, ok := r.object(v, "theme", ""); ok {
			f.Theme = r.theme(&p)
		}
	}
}

func (r *reader) texts(o *object, name string) []string {
	var out []string
	o.each(name, func(v any, at string) {
		s, ok := v.(string)
		if !ok {
			r.remark("wrong-type", at, "", "a text was expected, %s was found", jsonKind(v))
			return
		}
		out = append(out, s)
	})
	return out
}

func (r *reader) origins(o *object) []string {
	out := r.texts(o, "origins")
	for _, origin := range out {
		if !originPattern.MatchString(origin) {
			r.remark("syntax", "framing.origins", "", "“%s” is no origin; one is written like https://club.example", origin)
		}
	}
	return slices.DeleteFunc(out, func(s string) bool { return !originPattern.MatchString(s) })
}

func (r *reader) theme(o *object) *Theme {
	t := &Theme{
		Logo: o.text("logo"), Font: o.word("font", Fonts...), Width: o.word("width", Widths...), Send: o.text("send"),
		Next: o.text("next"), Back: o.text("back"),
	}
	for _, c := range []struct {
		name string
		into *string
	}{{"accent", &t.Accent}, {"paper", &t.Paper}} {
		if *c.into = strings.ToLower(o.text(c.name)); *c.into != "" && !colourPattern.MatchString(*c.into) {
			r.remark("syntax", "theme."+c.name, "", "“%s” is no colour; one is written like #0e5a4a", *c.into)
			*c.into = ""
		}
	}
	if t.Columns = o.count("columns"); t.Columns > 2 {
		r.remark("senseless", "theme.columns", "", "a form is laid out in 1 or 2 columns")
		t.Columns = 2
	}
	o.done()
	return t
}

// ColumnsOf is the number of columns that a section is laid out in where there is
// room: its own, or else those of the theme.
func (f *Form) ColumnsOf(s *Section) int {
	if s.Columns == 0 && f.Theme != nil {
		return max(1, f.Theme.Columns)
	}
	return max(1, s.Columns)
}

// MayFrame reports whether any site may show the form inside its pages.
func (f *Form) MayFrame() bool { return f.Framing != nil && len(f.Framing.Origins) > 0 }
