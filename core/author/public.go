package author

import (
	"cmp"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/form"
)

// SetOpening says when a form is open, how many it takes, and what is said otherwise.
// What was not posted stays as it is.
type SetOpening struct {
	From   *string `form:"from"`
	Until  *string `form:"until"`
	Before *string `form:"before"`
	After  *string `form:"after"`
	Full   *string `form:"full"`
	Limit  *string `form:"limit"`
	Grace  *string `form:"grace"` // minutes

	Days      *string  `form:"days"`    // a form.Kind, or blank for no hours
	Every     string   `form:"every"`   // of weeks
	On        []string `form:"day"`     // days of the week; blanks say that none is
	Nth       string   `form:"nth"`     // of a day of the week in the month
	Weekday   string   `form:"weekday"` // that day
	Date      string   `form:"date"`    // of the month
	Rule      string   `form:"rule"`    // of RFC 5545
	HourFrom  *string  `form:"hours-from"`
	HourUntil *string  `form:"hours-until"`
}

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
	if c.Days != nil || c.HourFrom != nil || c.HourUntil != nil {
		o.Hours = c.hours(o.Hours)
	}
	d.Edit = set("", "opening", o)
	return d, nil
}

// wholeDay is from when and until when hours last that nothing is said of.
const wholeDay = "00:00"

// hours are those of before with what was posted of them; nil for any day at any time.
func (c SetOpening) hours(before *form.Hours) *form.Hours {
	h := form.Hours{Rule: form.Recurrence{Kind: form.EveryDay}.RRule(), From: wholeDay, Until: wholeDay}
	if before != nil {
		h = *before
	}
	if c.Days != nil {
		h.Rule = c.recurrence(form.RecurrenceOf(h.Rule)).RRule()
	}
	for _, time := range []struct{ posted, into *string }{{c.HourFrom, &h.From}, {c.HourUntil, &h.Until}} {
		if time.posted != nil {
			*time.into = cmp.Or(strings.TrimSpace(*time.posted), wholeDay)
		}
	}
	daily := form.RecurrenceOf(h.Rule).Kind == form.EveryDay
	if h.Rule == "" || daily && h.AllDay() {
		return nil
	}
	return &h
}

// recurrence is the posted one, begun with what is likely where its kind is new.
func (c SetOpening) recurrence(before form.Recurrence) form.Recurrence {
	number := func(text string, otherwise int) int {
		if n, err := strconv.Atoi(strings.TrimSpace(text)); err == nil {
			return n
		}
		return otherwise
	}
	r := form.Recurrence{
		Kind: form.Kind(strings.TrimSpace(*c.Days)), Every: number(c.Every, 1), Days: ticked(c.On), Nth: number(c.Nth, 1),
		Day: cmp.Or(strings.TrimSpace(c.Weekday), "SA"), Date: number(c.Date, 1), Rule: strings.TrimSpace(c.Rule),
	}
	switch {
	case r.Kind == form.EveryWeek && c.On == nil && before.Kind == form.EveryWeek:
		r.Days = before.Days
	case r.Kind == form.EveryWeek && c.On == nil:
		r.Days = []string{"MO", "TU", "WE", "TH", "FR"}
	case r.Kind == form.ByRule && r.Rule == "" && before.Kind != form.ByRule:
		r.Rule = before.RRule()
	}
	return r
}

// ticked are the boxes that were ticked; a blank says that they were there.
func ticked(values []string) []string {
	return slices.DeleteFunc(slices.Clone(values), func(v string) bool { return strings.TrimSpace(v) == "" })
}

// SetSending says what happens before a form is sent: a review, what a device remembers,
// and a question that keeps programs out. What was not posted stays as it is.
type SetSending struct {
	Review   []string `form:"review"`   // blank, or ticked
	Remember []string `form:"remember"` // so too
	Question *string  `form:"question"`
	Answers  string   `form:"answers"` // one a line
}

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
// parameters go along. What was not posted stays as it is.
type SetFraming struct {
	Origins *string  `form:"origins"` // one a line
	Pass    []string `form:"pass"`    // blanks say that none does
}

func (c SetFraming) Do(f *form.Form, _ time.Time) (Doing, error) {
	fr := form.Framing{}
	if f.Framing != nil {
		fr = *f.Framing
	}
	if c.Origins != nil {
		fr.Origins = lines(*c.Origins)
	}
	if c.Pass != nil {
		fr.Pass = ticked(c.Pass)
	}
	if len(fr.Origins) == 0 {
		return Doing{Edit: form.SetProperty("", "framing", nil)}, nil
	}
	return Doing{Edit: form.SetProperty("", "framing", fr)}, nil
}

// maxEnds is how many closing texts for some answers can be set.
const maxEnds = 50

// SetEnd sets a closing text: the form's own, or that for some answers with a number.
type SetEnd struct {
	End  *int   `form:"end"` // from 0, nil for the form's own
	Text string `form:"text"`
}

func (c SetEnd) Do(f *form.Form, _ time.Time) (Doing, error) {
	text := strings.ReplaceAll(strings.TrimSpace(c.Text), "\r\n", "\n")
	if c.End == nil {
		return Doing{Edit: form.SetProperty("", "end", text)}, nil
	}
	ends, err := endsWith(f, *c.End)
	if err != nil {
		return Doing{}, err
	}
	ends[*c.End].Text = text
	return Doing{Edit: form.SetProperty("", "ends", ends)}, nil
}

// endsWith are a form's closing texts for some answers, to be changed; the one with a
// number is among them.
func endsWith(f *form.Form, n int) ([]form.End, error) {
	if n < 0 || n >= len(f.Ends) {
		return nil, misfit("this closing text is no longer there")
	}
	return slices.Clone(f.Ends), nil
}

// AddEnd adds a closing text for some answers, behind those that there are.
type AddEnd struct{}

func (c AddEnd) Do(f *form.Form, _ time.Time) (Doing, error) {
	if len(f.Ends) >= maxEnds {
		return Doing{}, misfit("a form has at most %d closing texts for some answers", maxEnds)
	}
	first, err := beginning{form: f, syms: f.Scope("", "ends.0.when"), property: "ends.0.when"}.firstClause()
	if err != nil {
		return Doing{}, err
	}
	return Doing{Edit: form.SetProperty("", "ends",
		append(slices.Clone(f.Ends), form.End{When: first.String(), Text: f.End}))}, nil
}

// MoveEnd moves a closing text by one place: the first whose condition is met is read.
type MoveEnd struct {
	End int  `form:"end"`
	Up  bool `form:"-"`
}

func (c MoveEnd) Do(f *form.Form, _ time.Time) (Doing, error) {
	ends, err := endsWith(f, c.End)
	if err != nil {
		return Doing{}, err
	}
	to := c.End + 1
	if c.Up {
		to = c.End - 1
	}
	if to < 0 || to >= len(ends) {
		return nothing(""), nil
	}
	ends[c.End], ends[to] = ends[to], ends[c.End]
	return Doing{Edit: form.SetProperty("", "ends", ends)}, nil
}

// SetTheme says how a form looks, or for Reset that it looks as usual. What was not posted
// stays as it is.
type SetTheme struct {
	Reset   string  `form:"reset"`
	Accent  *string `form:"accent"`
	Paper   *string `form:"paper"`
	Logo    *string `form:"logo"`
	Font    *string `form:"font"`
	Width   *string `form:"width"`
	Columns *string `form:"columns"`
	Send    *string `form:"send"`
	Next    *string `form:"next"`
	Back    *string `form:"back"`
}

// Faint is a theme that can't be read well, by its property (accent or paper) with the
// colour that was asked for; Meant is the nearest that can.
type Faint struct{ Property, Colour, Text, Meant string }

// Error is what is wrong with it.
func (f *Faint) Error() string { return form.ErrEdit.Error() + ": " + f.Text }

// Unwrap makes it a form.ErrEdit.
func (f *Faint) Unwrap() error { return form.ErrEdit }

func (c SetTheme) Do(f *form.Form, _ time.Time) (Doing, error) {
	if c.Reset != "" {
		return Doing{Edit: form.SetProperty("", "theme", nil)}, nil
	}
	t := form.Theme{}
	if f.Theme != nil {
		t = *f.Theme
	}
	for _, text := range []struct{ posted, into *string }{
		{c.Logo, &t.Logo}, {c.Font, &t.Font}, {c.Width, &t.Width}, {c.Send, &t.Send}, {c.Next, &t.Next}, {c.Back, &t.Back}} {
		if text.posted != nil {
			*text.into = strings.TrimSpace(*text.posted)
		}
	}
	if c.Columns != nil {
		t.Columns = map[string]int{"2": 2}[strings.TrimSpace(*c.Columns)]
	}
	for _, colour := range []struct {
		property     string
		posted, into *string
		passing      func(string) string
	}{{"accent", c.Accent, &t.Accent, form.Passing}, {"paper", c.Paper, &t.Paper, form.PassingPaper}} {
		if colour.posted == nil {
			continue
		}
		*colour.into = strings.ToLower(strings.TrimSpace(*colour.posted))
		for _, fault := range t.Faults() {
			if fault.At == "theme."+colour.property {
				return Doing{}, &Faint{colour.property, *colour.into, fault.Text, colour.passing(*colour.into)}
			}
		}
	}
	return Doing{Edit: set("", "theme", t)}, nil
}

// SetLanguages adds a language to those that people can fill the form in in, or takes one
// away.
type SetLanguages struct {
	Add    string `form:"language"` // a language tag (BCP 47)
	Remove string `form:"remove"`
}

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
