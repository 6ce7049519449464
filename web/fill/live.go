package fill

import (
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/text"
	"lazo/web/fill/posted"
	"lazo/web/wording"
)

// Unit is a part of the page that changes as one: a field, a repeating section,
// a heading, or the navigation.
type Unit struct {
	ID      string
	Field   *Field
	Section *SectionView
	Page    *PageView // its heading alone
	Heading bool
	Came    bool // it was not to be seen before
	Same    bool // nothing of it changed but what was wrong with it
}

// Live lays out what a live change needs: the navigation, and of the page at hand
// only the units that differ from those that old, the page's digest, stands for.
// It builds no more than it sends, so that an answer costs what changed and not
// what the form holds. Edit is what a button did to rows, or nil.
func Live(
	p *engine.Program, out *engine.Outcome, fields url.Values, at, old string, edit *posted.RowEdit,
) (*View, []Unit) {
	b := newBuilder(p, out, fields, JudgedOnly(fields))
	b.edit = edit
	v := &View{Form: p.Form, Program: p, Outcome: out, fields: fields}
	for _, key := range out.Route() {
		if key == at {
			v.At = len(v.Pages)
		}
		v.Pages = append(v.Pages, b.pageHead(p.Form.Page(key)))
	}
	var changed []unitRef
	if v.digest, changed = b.digests(v, old); len(v.digest) != len(old) {
		v.digest, changed = b.digests(v, strings.Repeat(" ", len(v.digest))) // of another page: nothing of it stays
	}
	units := make([]Unit, 0, len(changed)+1)
	for _, ref := range changed {
		units = append(units, b.unit(ref))
	}
	if fields.Get(FaultyField) != "" {
		v.found = b.problems(v.Page().Key)
		units = append(units, Unit{ID: summaryID})
	}
	return v, units
}

// summaryID is the unit of the error summary.
const summaryID = "summary"

// Digest stands for all units of the page at hand. It leaves out what the
// respondent typed, and their problems.
func (v *View) Digest() string { return v.digest }

// isAsOn reports whether a page is as its digest says that it was on the screen.
func isAsOn(p *engine.Program, out *engine.Outcome, fields url.Values, page, digest string) bool {
	v := &View{}
	for _, key := range out.Route() {
		if key == page {
			v.At = len(v.Pages)
		}
		v.Pages = append(v.Pages, PageView{Key: key})
	}
	b := newBuilder(p, out, fields, Unjudged)
	b.looking = true
	now, changed := b.digests(v, digest)
	return len(now) == len(digest) && len(changed) == 0
}

// unitRef is a unit that is not built yet.
type unitRef struct {
	section *form.Section
	item    *form.Item // of a field
	heading bool       // of a section, or of the page
	page    *form.Page // of the page's heading
	came    bool       // it was not shown on the page as it was
	same    bool       // it is sent although it is as it was
}

func (b *builder) unit(ref unitRef) Unit {
	switch {
	case ref.page != nil:
		pv := b.pageHead(ref.page)
		return Unit{ID: "h-" + pv.Key, Page: &pv, Heading: true}
	case ref.section == nil:
		return Unit{ID: "steps"}
	case ref.item != nil:
		f := b.field(ref.item, b.out.State(ref.item.Key, 0), 0, posted.AnswerHead+ref.item.Key)
		return Unit{ID: "u-" + f.ID, Field: &f, Came: ref.came && f.Shown, Same: ref.same && len(f.Problems) == 0}
	case ref.heading:
		s := b.sectionHead(ref.section)
		return Unit{ID: "h-" + s.Key, Section: &s, Heading: true}
	}
	s := b.section(ref.section)
	return Unit{ID: "rows-" + s.Key, Section: &s}
}

// digests computes the digest of the page at hand, and which units differ from an
// old one of the same length.
func (b *builder) digests(v *View, old string) (string, []unitRef) {
	d := digester{out: b.out, fields: b.fields, loc: b.p.Location(), old: old}
	d.looking = b.looking
	d.options = func(key string) *expr.Options { return b.p.Symbols.Items[key].Type.Options }
	if !b.looking {
		d.always, d.judged = b.always, b.fields.Get(FaultyField) != ""
	}
	d.b.Grow(max(len(old), 64))
	if len(v.Pages) > 0 {
		page := b.p.Form.Page(v.Pages[v.At].Key)
		d.begin()
		d.said(page.Title)
		d.said(page.Intro)
		d.force = d.judged && len(page.Checks) > 0 && d.always(posted.ChecksHead+page.Key)
		d.end(unitRef{page: page, heading: true})
		for _, sec := range page.Sections {
			d.section(sec)
		}
	}
	d.begin()
	d.add(strconv.Itoa(len(v.Pages)))
	d.flag(v.Last())
	d.end(unitRef{})
	return d.b.String(), d.changed
}

// always reports whether a field is sent with every live change: one that was
// judged faulty, since that may be mended, and one for a file that came or went.
func (b *builder) always(name string) bool {
	return b.judged(name) || b.fields.Has(name+posted.FileNew) || b.fields.Has(name+posted.FileGone)
}

// digester writes a few letters for each unit, and compares them with those of
// the page before. It reckons each unit twice: as the page has it, where a question
// that was touched since still stands with what it said by itself, and as it is
// printed now; a unit that is as the page has it is not printed.
type digester struct {
	out     *engine.Outcome
	options func(key string) *expr.Options
	looking bool // at the page as it is on the screen
	fields  url.Values
	loc     *time.Location
	old     string
	always  func(name string) bool // whether a field is sent even if its unit is as it was; nil for none
	judged  bool                   // whether any field was found faulty
	force   bool                   // it is, for a field of the unit at hand
	b       strings.Builder
	here    hash // as the page has it
	printed hash // as it is printed
	changed []unitRef
}

// hash is FNV-1a in 32 bits (draft-eastlake-fnv), as in hash/fnv, which takes bytes:
// each of the hundreds of texts of a page would be copied for it with each live change.
type hash uint32

func (h *hash) add(s string) {
	n := *h
	for i := 0; i < len(s); i++ {
		n = (n ^ hash(s[i])) * 16777619
	}
	*h = (n ^ 0xff) * 16777619 // so that "a", "b" is not "ab"
}

func (h *hash) flag(b bool) {
	n := hash(0)
	if b {
		n = 1
	}
	*h = (*h ^ n) * 16777619
}

const (
	digestLength  = 5
	digestLetters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_"
)

// unseen are the letters of an item that is not shown.
var unseen = func() string {
	var d digester
	d.begin()
	d.flag(false)
	letters := d.here.letters()
	return string(letters[:])
}()

func (d *digester) begin() { d.here, d.printed, d.force = 2166136261, 2166136261, false }

func (d *digester) add(s string) {
	d.here.add(s)
	d.printed.add(s)
}

func (d *digester) flag(b bool) {
	d.here.flag(b)
	d.printed.flag(b)
}

// letters are those of a hash.
func (h hash) letters() (out [digestLength]byte) {
	for i := range out {
		out[i] = digestLetters[h>>(6*i)&63]
	}
	return out
}

func (d *digester) end(ref unitRef) {
	at := d.b.Len()
	if d.old != "" { // else only the digest is wanted
		here := d.here.letters()
		ref.same = len(d.old) >= at+digestLength && string(here[:]) == d.old[at:at+digestLength]
		if ref.same && !d.force {
			d.b.Write(here[:])
			return
		}
		ref.came = len(d.old) >= at+digestLength && d.old[at:at+digestLength] == unseen
		d.changed = append(d.changed, ref)
	}
	printed := d.printed.letters()
	d.b.Write(printed[:])
}

// said adds a text in which answers may stand; any other is as the edition has it.
func (d *digester) said(src string) {
	if text.Holds(src) {
		d.add(d.out.Plain(src))
	}
}

func (d *digester) section(sec *form.Section) {
	shown := d.out.SectionShown(sec.Key)
	d.begin()
	d.flag(shown)
	d.said(sec.Title)
	d.said(sec.Intro)
	d.force = d.judged && sec.Repeat == nil && len(sec.Checks) > 0 && d.always(posted.ChecksHead+sec.Key)
	d.end(unitRef{section: sec, heading: true})
	if sec.Repeat == nil {
		states := d.out.States(sec)
		for i, it := range sec.Items {
			d.begin()
			d.item(sec, &states[i], 0)
			d.end(unitRef{section: sec, item: it})
		}
		return
	}
	d.begin()
	d.flag(shown)
	state := d.out.Group(sec.Key)
	d.force = d.judged && d.always(posted.RowsHead+sec.Key)
	for r := range state.Count {
		d.add("row")
		for i := range sec.Items {
			d.item(sec, &state.Row(r)[i], r)
		}
	}
	d.end(unitRef{section: sec})
}

// fieldName is the name of an item's field.
func fieldName(sec *form.Section, row int, it *form.Item) string {
	if sec.Repeat == nil {
		return posted.AnswerHead + it.Key
	}
	return posted.RowName(sec.Key, row, it.Key)
}

// item adds all that is seen of an item but what the respondent typed. It makes the name
// of its field only where that is asked for: there are hundreds on a page.
func (d *digester) item(sec *form.Section, st *engine.ItemState, row int) {
	it := st.Item()
	d.flag(st.Shown)
	if !st.Shown {
		return
	}
	files := it.Type == form.File || it.Type == form.Signature
	if d.always != nil && (d.judged || files) {
		d.force = d.force || d.always(fieldName(sec, row, it))
	}
	if len(it.Wording) > 0 || st.Worded() { // else both stand as the edition has them
		d.add(st.Label())
		d.add(st.Help())
	}
	if st.Worded() {
		d.add(st.Placeholder())
		for n := range it.Choices {
			label, help := st.Choice(n)
			d.add(label)
			d.add(help)
		}
	}
	fillable := st.Fillable()
	d.flag(st.Required)
	d.flag(fillable)
	d.flag(st.Locked)
	switch {
	case it.Type == form.Note:
	case fillable && files:
	case !fillable:
		v := d.out.Value(st, row)
		d.add(v.Plain(d.loc))
	case it.Value != nil:
		d.byItself(it, st, row, fieldName(sec, row, it))
	}
	if it.Look == "search" && len(st.Choices()) > shownAtOnce {
		d.found(sec, st, row)
	} else if st.OffersVary() { // else they stand as the edition has them
		for _, c := range st.Choices() {
			d.add(c)
		}
		for _, c := range st.Full() {
			d.add(c)
		}
		if it.ShowLeft != "" {
			for _, c := range st.Choices() {
				left, _ := d.out.Left(it.Key, c)
				d.add(strconv.Itoa(left))
			}
		}
	}
	switch it.Type {
	case form.Grid:
		for i := range it.Rows {
			d.flag(st.RowShown(i))
			d.worded(st, st.RowLabel(i))
		}
	case form.Scale:
		low, high := st.Ends()
		d.worded(st, low)
		d.worded(st, high)
		least, most := d.out.Scale(st, row)
		d.add(strconv.Itoa(least))
		d.add(strconv.Itoa(most))
	}
}

// worded adds what an item says if answers may stand in it; else it is as the edition has it.
func (d *digester) worded(st *engine.ItemState, words string) {
	if st.Worded() {
		d.add(words)
	}
}

// found adds which of many choices are shown: those that are looked for, or, of the page
// as it is on the screen, those that it found.
func (d *digester) found(sec *form.Section, st *engine.ItemState, row int) {
	head := posted.FindHead
	if d.looking {
		head = posted.FoundHead
	}
	options := d.options(st.Item().Key)
	first, n := search(options, st, d.fields.Get(posted.Headed(head, fieldName(sec, row, st.Item()))))
	d.add(strconv.Itoa(n))
	for _, i := range first {
		d.add(options.Values[i])
	}
}

// byItself adds what a control says that nobody has touched. Of one that was touched
// since the page was made, the page still tells what it said.
func (d *digester) byItself(it *form.Item, st *engine.ItemState, row int, name string) {
	if !st.Touched() {
		v := d.out.Value(st, row)
		d.add(autoText(it, &v, d.loc))
		return
	}
	if auto, has := d.fields[posted.Headed(posted.AutoHead, name)]; has {
		d.here.add(posted.PlainText(it, auto[0]))
	}
}

// autoText is what the control of a question says for a value, as one text.
func autoText(it *form.Item, v *expr.Value, loc *time.Location) string {
	switch {
	case it.Type == form.Address:
		texts := make([]string, len(expr.AddressParts))
		for i, part := range expr.AddressParts {
			texts[i] = v.Parts().Get(part)
		}
		return strings.Join(texts, "\n")
	case v.Kind() == expr.File:
		return v.Parts().Get("id")
	}
	return posted.PlainText(it, inputText(v, loc))
}

// mostNamed is how many changes are named in an announcement; of more, only how many they
// are is said, since nobody keeps a long list in mind that is read aloud once.
const mostNamed = 3

// Announcement says what changed, for those who can't see it: by name up to three, else how
// much. Mended is that nothing is left of what was found faulty.
func Announcement(w *wording.Words, units []Unit, edit *posted.RowEdit, mended bool) string {
	var said []string
	if mended {
		said = append(said, w.Say("Nothing is left to mend."))
	}
	if edit != nil {
		return strings.Join(append(said, saidOf(edit, w)), " ")
	}
	units = slices.DeleteFunc(slices.Clone(units),
		func(u Unit) bool { return u.Field == nil || u.Same || u.Field.Type == form.Hidden })
	if len(units) > mostNamed {
		return strings.Join(append(said, howMuch(w, units)), " ")
	}
	var news []string
	for _, u := range units {
		news = append(news, u.news(w))
	}
	if len(news) > 0 {
		said = append(said, strings.Join(news, "; "))
	}
	return strings.Join(said, " ")
}

// howMuch says how many questions came, changed or went.
func howMuch(w *wording.Words, units []Unit) string {
	shown := 0
	for _, u := range units {
		if u.Field.Shown {
			shown++
		}
	}
	switch gone := len(units) - shown; {
	case shown > 0 && gone > 0:
		return w.Say("%d changed or added, %d taken away", shown, gone)
	case shown > 0:
		return w.Say("%d questions changed or added", shown)
	default:
		return w.Say("%d questions were taken away", gone)
	}
}

// news is what became of a field, in one sentence.
func (u *Unit) news(w *wording.Words) string {
	switch {
	case !u.Field.Shown:
		return w.Say("%s was taken away", u.Field.Label)
	case u.Came && !u.Field.Computed:
		return w.Say("%s was added", u.Field.Label)
	}
	return u.Field.news(w)
}

// news is what became of a field that stays, in one sentence.
func (f *Field) news(w *wording.Words) string {
	switch {
	case len(f.Problems) > 0:
		return f.Label + ": " + strings.Join(f.Problems, " ")
	case f.Said != "" && (f.Computed || f.Locked || f.HasAuto):
		return w.Say("%s is now %s", f.Label, f.Said)
	}
	return w.Say("Changed: %s", f.Label)
}

// saidOf says what was done to a row.
func saidOf(e *posted.RowEdit, w *wording.Words) string {
	name := e.Section.Repeat.Name
	if name == "" {
		name = w.Say("Row")
	}
	switch e.Verb {
	case "add":
		return w.Say("%s %d was added", name, e.Row+1)
	case "remove":
		return w.Say("%s %d was taken out", name, e.Row+1)
	}
	return w.Say("%s %d is back", name, e.Row+1)
}
