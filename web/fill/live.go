package fill

import (
	"net/url"
	"strconv"
	"strings"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/web/wording"
)

// Unit is a part of the page that changes as one: a field, a repeating section,
// a heading, or the navigation.
type Unit struct {
	ID      string
	Field   *Field
	Section *SectionView
	Heading bool
}

// Live lays out what a live change needs: the navigation, and of the page at hand
// only the units that differ from those that old, the page's digest, stands for.
// It builds no more than it sends, so that an answer costs what changed and not
// what the form holds. Edit is what a button did to rows, or nil.
func Live(p *engine.Program, out *engine.Outcome, posted url.Values, at, old string, edit *RowEdit) (*View, []Unit) {
	b := newBuilder(p, out, posted, JudgedOnly(posted))
	b.edit = edit
	v := &View{Form: p.Form, Program: p, Outcome: out, posted: posted}
	for _, key := range out.Route() {
		if key == at {
			v.At = len(v.Pages)
		}
		v.Pages = append(v.Pages, PageView{Key: key, Title: p.Form.Page(key).Title})
	}
	var changed []unitRef
	if v.digest, changed = b.digests(v, old); len(v.digest) != len(old) {
		v.digest, changed = b.digests(v, strings.Repeat(" ", len(v.digest))) // of another page: nothing of it stays
	}
	units := make([]Unit, 0, len(changed)+1)
	for _, ref := range changed {
		units = append(units, b.unit(ref))
	}
	if posted.Get(FaultyField) != "" {
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

// digestOf is the digest of one page.
func digestOf(p *engine.Program, out *engine.Outcome, posted url.Values, page string) string {
	v := &View{}
	for _, key := range out.Route() {
		if key == page {
			v.At = len(v.Pages)
		}
		v.Pages = append(v.Pages, PageView{Key: key})
	}
	digest, _ := newBuilder(p, out, posted, Unjudged).digests(v, "")
	return digest
}

// unitRef is a unit that is not built yet.
type unitRef struct {
	section *form.Section
	item    *form.Item // of a field
	heading bool       // of a section
}

func (b *builder) unit(ref unitRef) Unit {
	switch {
	case ref.section == nil:
		return Unit{ID: "steps"}
	case ref.item != nil:
		f := b.field(ref.item, b.out.State(ref.item.Key, 0), 0, answerHead+ref.item.Key)
		return Unit{ID: "u-" + f.ID, Field: &f}
	case ref.heading:
		s := SectionView{Key: ref.section.Key, Title: ref.section.Title, Intro: ref.section.Intro, Shown: b.out.SectionShown(ref.section.Key)}
		return Unit{ID: "h-" + s.Key, Section: &s, Heading: true}
	}
	s := b.section(ref.section)
	return Unit{ID: "rows-" + s.Key, Section: &s}
}

// digests computes the digest of the page at hand, and which units differ from an
// old one of the same length.
func (b *builder) digests(v *View, old string) (string, []unitRef) {
	d := digester{out: b.out, old: old, always: b.always}
	d.b.Grow(max(len(old), 64))
	if len(v.Pages) > 0 {
		for _, sec := range b.p.Form.Page(v.Pages[v.At].Key).Sections {
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
	return b.judged(name) || b.posted.Has(name+FileNew) || b.posted.Has(name+FileGone)
}

// digester writes a few letters for each unit, and compares them with those of
// the page before.
type digester struct {
	out     *engine.Outcome
	old     string
	always  func(name string) bool // whether a field is sent even if its unit is as it was
	force   bool                   // it is, for a field of the unit at hand
	b       strings.Builder
	hash    uint32
	changed []unitRef
}

const (
	digestLength  = 5
	digestLetters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_"
)

// FNV-1a in 32 bits (draft-eastlake-fnv).
func (d *digester) begin() { d.hash, d.force = 2166136261, false }

func (d *digester) add(s string) {
	h := d.hash
	for i := 0; i < len(s); i++ {
		h = (h ^ uint32(s[i])) * 16777619
	}
	d.hash = (h ^ 0xff) * 16777619 // so that "a", "b" is not "ab"
}

func (d *digester) flag(b bool) {
	n := uint32(0)
	if b {
		n = 1
	}
	d.hash = (d.hash ^ n) * 16777619
}

func (d *digester) end(ref unitRef) {
	at := d.b.Len()
	for i := 0; i < digestLength; i++ {
		d.b.WriteByte(digestLetters[d.hash>>(6*i)&63])
	}
	if d.old == "" {
		return // only the digest is wanted
	}
	if d.force || len(d.old) < at+digestLength || d.b.String()[at:] != d.old[at:at+digestLength] {
		d.changed = append(d.changed, ref)
	}
}

func (d *digester) section(sec *form.Section) {
	shown := d.out.SectionShown(sec.Key)
	d.begin()
	d.flag(shown)
	d.end(unitRef{section: sec, heading: true})
	if sec.Repeat == nil {
		for _, it := range sec.Items {
			d.begin()
			d.item(it, d.out.State(it.Key, 0), 0, answerHead+it.Key)
			d.end(unitRef{section: sec, item: it})
		}
		return
	}
	d.begin()
	d.flag(shown)
	state := d.out.Group(sec.Key)
	d.force = d.always(rowsHead + sec.Key)
	for r := range state.Count {
		d.add("row")
		for i, it := range sec.Items {
			d.item(it, &state.Row(r)[i], r, RowName(sec.Key, r, it.Key))
		}
	}
	d.end(unitRef{section: sec})
}

// item adds all that is seen of an item but what the respondent typed.
func (d *digester) item(it *form.Item, st *engine.ItemState, row int, name string) {
	d.flag(st.Shown)
	if !st.Shown {
		return
	}
	d.force = d.force || d.always(name)
	if len(it.Wording) > 0 { // else both stand as the edition has them
		d.add(st.Label())
		d.add(st.Help())
	}
	fillable := st.Fillable()
	d.flag(st.Required)
	d.flag(fillable)
	d.flag(st.Locked)
	switch {
	case it.Type == form.Note:
	case fillable && (it.Type == form.File || it.Type == form.Signature):
	case !fillable || it.Value != nil && !st.Touched():
		v := d.out.Value(st, row)
		d.add(v.Plain(d.out.Location()))
	}
	for _, c := range st.Choices() {
		d.add(c)
	}
}

// Announcement says in one sentence what changed, for those who can't see it.
func Announcement(w *wording.Words, units []Unit, edit *RowEdit) string {
	if edit != nil {
		return edit.said(w)
	}
	shown, gone := 0, 0
	for _, u := range units {
		if u.Field == nil || u.Field.Type == form.Hidden {
			continue
		}
		if u.Field.Shown {
			shown++
		} else {
			gone++
		}
	}
	switch {
	case shown > 0 && gone > 0:
		return w.Say("%d changed or added, %d taken away", shown, gone)
	case shown == 1:
		for _, u := range units {
			if u.Field != nil && u.Field.Shown {
				return w.Say("Changed: %s", u.Field.Label)
			}
		}
	case shown > 1:
		return w.Say("%d questions changed or added", shown)
	case gone == 1:
		return w.Say("One question was taken away")
	case gone > 1:
		return w.Say("%d questions were taken away", gone)
	}
	return ""
}

// said says what was done to a row.
func (e *RowEdit) said(w *wording.Words) string {
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
