package author

import (
	"maps"
	"slices"
	"strings"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
)

// SetOpening says when a form is open, how many it takes, and what is said otherwise.
// What was not posted stays as it is.
type SetOpening struct {
	From      *string  `form:"from"`
	Until     *string  `form:"until"`
	Before    *string  `form:"before"`
	After     *string  `form:"after"`
	Full      *string  `form:"full"`
	Limit     *string  `form:"limit"`
	Grace     *string  `form:"grace"` // minutes
	Days      []string `form:"day"`   // of the week, as RFC 5545 has them; blanks say that none is
	Rule      *string  `form:"rule"`  // a recurrence rule, instead
	HourFrom  string   `form:"hours-from"`
	HourUntil string   `form:"hours-until"`
	Condition *string  `form:"condition"`
}

// Do is a Command's.
func (c SetOpening) Do(f *form.Form, _ time.Time) (d Doing, err error) {
	o := form.Opening{}
	if f.Opening != nil {
		o = *f.Opening
	}
	for _, text := range []struct{ posted, into *string }{
		{c.From, &o.From}, {c.Until, &o.Until}, {c.Before, &o.Before}, {c.After, &o.After}, {c.Full, &o.Full}} {
		if text.posted != nil {
			*text.into = strings.TrimSpace(*text.posted)
		}
	}
	for _, number := range []struct {
		posted *string
		into   *int
	}{{c.Limit, &o.Limit}, {c.Grace, &o.GraceMinutes}} {
		if number.posted != nil {
			if *number.into, err = count(*number.posted, 1<<31-1); err != nil {
				return d, err
			}
		}
	}
	if c.Days != nil || c.Rule != nil {
		if o.Hours, err = c.hours(); err != nil {
			return d, err
		}
	}
	if c.Condition != nil {
		if o.Shown, err = rule(f, *c.Condition); err != nil {
			return d, err
		}
	}
	d.Edit = set("", "opening", o)
	return d, nil
}

func (c SetOpening) hours() (*form.Hours, error) {
	h := &form.Hours{From: strings.TrimSpace(c.HourFrom), Until: strings.TrimSpace(c.HourUntil)}
	if c.Rule != nil {
		h.Rule = strings.TrimSpace(*c.Rule)
	}
	if days := ticked(c.Days); h.Rule == "" && len(days) > 0 {
		h.Rule = form.OnWeekdays(days)
	}
	switch {
	case h.Rule == "":
		return nil, nil
	case h.From == "" || h.Until == "":
		return nil, misfit("opening hours need a time from which and until which they last")
	}
	return h, nil
}

// ticked are the boxes that were ticked; a blank says that they were there.
func ticked(values []string) []string {
	return slices.DeleteFunc(slices.Clone(values), func(v string) bool { return strings.TrimSpace(v) == "" })
}

// rule reads a condition of the form's own, none for a blank.
func rule(f *form.Form, src string) (form.Rule, error) {
	if src = strings.TrimSpace(src); src == "" {
		return form.Rule{}, nil
	}
	canonical, err := condition(f, src)
	if err != nil {
		return form.Rule{}, err
	}
	return form.When(canonical), nil
}

// condition checks a condition of the form's own and writes it canonically.
func condition(f *form.Form, src string) (string, error) {
	if fault := faultIn(f.Symbols(), "", "", src); fault != nil {
		return "", misfit("%s: %s", src, fault.Text)
	}
	n, err := expr.Parse(src)
	if err != nil {
		return "", err // it was parsed just before
	}
	return n.String(), nil
}

// SetSending says what happens before a form is sent: a review, what a device remembers,
// and a question that keeps programs out. What was not posted stays as it is.
type SetSending struct {
	Review   []string `form:"review"`   // blank, or ticked
	Remember []string `form:"remember"` // so too
	Question *string  `form:"question"`
	Answers  string   `form:"answers"` // one a line
}

// Do is a Command's.
func (c SetSending) Do(*form.Form, time.Time) (Doing, error) {
	d := nothing("")
	for _, box := range []struct {
		property string
		posted   []string
	}{{"review", c.Review}, {"remember", c.Remember}} {
		if box.posted != nil {
			d.Edit.Edits = append(d.Edit.Edits, set("", box.property, len(ticked(box.posted)) > 0))
		}
	}
	if c.Question != nil {
		guard := form.SetProperty("", "guard", nil)
		if question := strings.TrimSpace(*c.Question); question != "" {
			guard = form.SetProperty("", "guard", form.Guard{Question: question, Answers: lines(c.Answers)})
		}
		d.Edit.Edits = append(d.Edit.Edits, guard)
	}
	return d, nil
}

// lines are the lines of a text that hold anything.
func lines(text string) []string {
	var out []string
	for line := range strings.Lines(text) {
		if line = strings.TrimSpace(line); line != "" {
			out = append(out, line)
		}
	}
	return out
}

// SetReturning says whether respondents can leave and come back, and change what they
// sent, and until when. What was not posted stays as it is.
type SetReturning struct {
	Save   []string `form:"save"`   // blank, or ticked
	Change []string `form:"change"` // so too
	Until  *string  `form:"until"`
}

// Do is a Command's.
func (c SetReturning) Do(f *form.Form, _ time.Time) (Doing, error) {
	r := form.Returning{}
	if f.Returning != nil {
		r = *f.Returning
	}
	if c.Save != nil {
		r.Save = len(ticked(c.Save)) > 0
	}
	if c.Change != nil {
		r.Change = len(ticked(c.Change)) > 0
	}
	if c.Until != nil {
		r.Until = strings.TrimSpace(*c.Until)
	}
	return Doing{Edit: set("", "returning", r)}, nil
}

// SetFraming says which sites may show the form inside their pages, and which of their
// parameters go along.
type SetFraming struct {
	Origins string   `form:"origins"` // one a line
	Pass    []string `form:"pass"`
}

// Do is a Command's.
func (c SetFraming) Do(*form.Form, time.Time) (Doing, error) {
	fr := form.Framing{Origins: lines(c.Origins), Pass: c.Pass}
	if len(fr.Origins) == 0 {
		return Doing{Edit: form.SetProperty("", "framing", nil)}, nil
	}
	return Doing{Edit: form.SetProperty("", "framing", fr)}, nil
}

// maxEnds is how many closing texts for some answers can be set.
const maxEnds = 50

// SetEnds sets the closing text and those for some answers; a blank condition takes one
// away.
type SetEnds struct {
	End   string   `form:"end"`
	Whens []string `form:"when"`
	Texts []string `form:"text"`
}

// Do is a Command's.
func (c SetEnds) Do(f *form.Form, _ time.Time) (Doing, error) {
	var ends []form.End
	for i := range min(len(c.Whens), len(c.Texts), maxEnds) {
		src := strings.TrimSpace(c.Whens[i])
		if src == "" {
			continue
		}
		canonical, err := condition(f, src)
		if err != nil {
			return Doing{}, err
		}
		ends = append(ends, form.End{When: canonical, Text: strings.TrimSpace(c.Texts[i])})
	}
	forSome := form.SetProperty("", "ends", nil)
	if len(ends) > 0 {
		forSome = form.SetProperty("", "ends", ends)
	}
	return Doing{Edit: batch(form.SetProperty("", "end", strings.TrimSpace(c.End)), forSome)}, nil
}

// SetTheme says how a form looks, or for Reset that it looks as usual.
type SetTheme struct {
	Reset   string `form:"reset"`
	Accent  string `form:"accent"`
	Paper   string `form:"paper"`
	Logo    string `form:"logo"`
	Font    string `form:"font"`
	Width   string `form:"width"`
	Columns string `form:"columns"`
	Send    string `form:"send"`
	Next    string `form:"next"`
	Back    string `form:"back"`
}

// Faint is a theme that can't be read well; Meant is the nearest colour that can, "" if
// that is not what is wrong.
type Faint struct{ Text, Meant string }

// Error is what is wrong with it.
func (f *Faint) Error() string { return form.ErrEdit.Error() + ": " + f.Text }

// Unwrap makes it a form.ErrEdit.
func (f *Faint) Unwrap() error { return form.ErrEdit }

// Do is a Command's.
func (c SetTheme) Do(*form.Form, time.Time) (Doing, error) {
	if c.Reset != "" {
		return Doing{Edit: form.SetProperty("", "theme", nil)}, nil
	}
	said := strings.TrimSpace
	t := form.Theme{
		Accent: strings.ToLower(said(c.Accent)), Paper: strings.ToLower(said(c.Paper)), Logo: said(c.Logo),
		Font: said(c.Font), Width: said(c.Width), Send: said(c.Send), Next: said(c.Next), Back: said(c.Back),
	}
	if said(c.Columns) == "2" {
		t.Columns = 2
	}
	if faults := t.Faults(); len(faults) > 0 {
		faint := &Faint{Text: faults[0].Text}
		if form.Passing(t.Accent) != t.Accent {
			faint.Meant = form.Passing(t.Accent)
		}
		return Doing{}, faint
	}
	return Doing{Edit: set("", "theme", t)}, nil
}

// SetLanguages adds a language to those that people can fill the form in in, or takes one
// away.
type SetLanguages struct {
	Add    string `form:"language"` // a language tag (BCP 47)
	Remove string `form:"remove"`
}

// Do is a Command's.
func (c SetLanguages) Do(f *form.Form, _ time.Time) (Doing, error) {
	all := maps.Clone(f.Translations)
	add, remove := strings.TrimSpace(c.Add), strings.TrimSpace(c.Remove)
	switch {
	case remove != "":
		delete(all, remove)
	case !form.IsLanguage(add):
		return Doing{}, misfit("“%s” is no language; one is written like es for Spanish, ar for Arabic or pt-BR", add)
	case add == f.Languages()[0]:
		return Doing{}, misfit("the form is in %s already", form.LanguageName(add))
	case all[add] != nil:
		return Doing{}, misfit("%s is there already", form.LanguageName(add))
	case all == nil:
		all = map[string]form.Translation{add: {}}
	default:
		all[add] = form.Translation{}
	}
	if len(all) == 0 {
		return Doing{Edit: form.SetProperty("", "translations", nil)}, nil
	}
	return Doing{Edit: form.SetProperty("", "translations", all)}, nil
}

// Translate sets what texts are in another language; a blank takes a translation away.
// Those of texts that the form has no more are kept: what was changed may be changed
// back.
type Translate struct {
	Language string
	Said     map[string]string // by the text
}

// Do is a Command's.
func (c Translate) Do(f *form.Form, _ time.Time) (Doing, error) {
	old, ok := f.Translations[c.Language]
	if !ok {
		return Doing{}, misfit("the form is not in %s", form.LanguageName(c.Language))
	}
	t := maps.Clone(old)
	for text, said := range c.Said {
		if t[text] = said; said == "" {
			delete(t, text)
		}
	}
	all := maps.Clone(f.Translations)
	all[c.Language] = t
	return Doing{Edit: form.SetProperty("", "translations", all)}, nil
}
