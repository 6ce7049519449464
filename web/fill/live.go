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
	Replace bool // swap it whole, so that a value that came by itself is seen
}

// Live lays out what a live change needs: the navigation, and of the page at hand
// only the units that differ from those that old, the page's digest, stands for.
// It builds no more than it sends, so that an answer costs what changed and not
// what the form holds.
func Live(p *engine.Program, out *engine.Outcome, posted url.Values, at, old string) (*View, []Unit) {
	b := &builder{p: p, out: out, posted: posted, words: wording.For(p.Form.Language)}
	v := &View{Form: p.Form, Program: p, Outcome: out, posted: posted}
	for _, key := range out.Route() {
		if key == at {
			v.At = len(v.Pages)
		}
		v.Pages = append(v.Pages, PageView{Key: key, Title: p.Form.Page(key).Title})
	}
	var changed []unitRef
	if v.digest, changed = digests(p, out, v, old); len(v.digest) != len(old) {
		v.digest, changed = digests(p, out, v, strings.Repeat(" ", len(v.digest))) // of another page: nothing of it stays
	}
	units := make([]Unit, 0, len(changed))
	for _, ref := range changed {
		units = append(units, b.unit(ref))
	}
	return v, units
}

// Digest stands for all units of the page at hand. It leaves out what the
// respondent typed.
func (v *View) Digest() string { return v.digest }

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
		f := b.field(ref.item, b.out.State(ref.item.Key, 0), 0, "a."+ref.item.Key)
		return Unit{ID: "u-" + f.ID, Field: &f, Replace: f.HasAuto && f.Text == f.Auto || f.Locked}
	case ref.heading:
		s := SectionView{Key: ref.section.Key, Title: ref.section.Title, Intro: ref.section.Intro, Shown: b.out.SectionShown(ref.section.Key)}
		return Unit{ID: "h-" + s.Key, Section: &s, Heading: true}
	}
	s := b.section(ref.section)
	return Unit{ID: "rows-" + s.Key, Section: &s}
}

// digests computes the digest of the page at hand, and which units differ from an
// old one of the same length.
func digests(p *engine.Program, out *engine.Outcome, v *View, old string) (string, []unitRef) {
	d := digester{out: out, old: old}
	d.b.Grow(max(len(old), 64))
	if len(v.Pages) > 0 {
		for _, sec := range p.Form.Page(v.Pages[v.At].Key).Sections {
			d.section(sec)
		}
	}
	d.begin()
	d.add(strconv.Itoa(len(v.Pages)))
	d.flag(v.Last())
	d.end(unitRef{})
	return d.b.String(), d.changed
}

// digester writes a few letters for each unit, and compares them with those of
// the page before.
type digester struct {
	out     *engine.Outcome
	old     string
	b       strings.Builder
	hash    uint32
	changed []unitRef
}

const (
	digestLength  = 5
	digestLetters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_"
)

// FNV-1a in 32 bits (draft-eastlake-fnv).
func (d *digester) begin() { d.hash = 2166136261 }

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
	if len(d.old) < at+digestLength || d.b.String()[at:] != d.old[at:at+digestLength] {
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
			d.item(it, d.out.State(it.Key, 0), 0)
			d.end(unitRef{section: sec, item: it})
		}
		return
	}
	d.begin()
	d.flag(shown)
	state := d.out.Group(sec.Key)
	for r := range state.Count {
		d.add("row")
		for i, it := range sec.Items {
			d.item(it, &state.Row(r)[i], r)
		}
	}
	d.end(unitRef{section: sec})
}

// item adds all that is seen of an item but what the respondent typed.
func (d *digester) item(it *form.Item, st *engine.ItemState, row int) {
	d.flag(st.Shown)
	if !st.Shown {
		return
	}
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
	case it.Type == form.File || it.Type == form.Signature:
		v := d.out.Value(st, row)
		d.add(v.Parts().Get("id"))
	case !fillable || it.Value != nil && st.Automatic():
		v := d.out.Value(st, row)
		d.add(v.Plain(d.out.Location()))
	}
	for _, c := range st.Choices() {
		d.add(c)
	}
}

// Announcement says in one sentence what changed, for those who can't see it.
func Announcement(w *wording.Words, units []Unit) string {
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
