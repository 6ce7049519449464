package engine

import (
	"slices"
	"time"

	"lazo/core/form"
)

// Turn is a moment at which a form comes out otherwise by itself, and what is otherwise
// then, in words, by what it is about.
type Turn struct {
	At   time.Time
	Says []Said
}

// Said is what an item or section becomes, by its key and in words.
type Said struct{ Key, Text string }

// turnTries bounds how many changes Turns looks at.
const turnTries = 200

// Turns are the moments after in.At, until another, at which something of the form
// changes although nobody does anything: what is asked, needed, offered, locked, worded or
// computed. When it opens and closes is left out; see [Program.OpenTimes].
func (p *Program) Turns(in Input, until time.Time) []Turn {
	in.Offline = true // so that opening hours are no changes
	was := p.Run(in)
	var out []Turn
	for range turnTries {
		at, ok := p.NextSeen(in)
		if !ok || at.After(until) {
			break
		}
		in.At = at
		is := p.Run(in)
		if says := is.since(was); len(says) > 0 {
			out = append(out, Turn{at, says})
		}
		was = is
	}
	return out
}

// since says what is otherwise than it was, of what stands outside repeating sections.
func (o *Outcome) since(was *Outcome) []Said {
	var out []Said
	for i := range o.Items {
		a, b := &was.Items[i], &o.Items[i]
		if o.sameItem(b, was, a, 0) || !b.Shown && !a.Shown {
			continue
		}
		if becomes := o.becomes(a, b, was); becomes != "" {
			out = append(out, Said{b.Item().Key, o.nameOf(b) + " " + becomes})
		}
	}
	for g := range o.Rows {
		if a, b := &was.Rows[g], &o.Rows[g]; a.Shown != b.Shown {
			section := o.p.sections[o.p.groups[g].section]
			out = append(out, Said{section.Key, section.Name() + " " + shownWords[b.Shown]})
		}
	}
	return out
}

var shownWords = map[bool]string{true: "is shown", false: "is no longer shown"}

func (o *Outcome) nameOf(s *ItemState) string {
	name, _ := s.Bare()
	if name == "" {
		name = s.Item().Name()
	}
	if s.Item().Type == form.Note {
		return "“" + name + "”"
	}
	return name
}

// becomes says what an item is, other than it was; "" where only its problems differ.
func (o *Outcome) becomes(a, b *ItemState, was *Outcome) string {
	v := o.valueOf(b, 0)
	switch {
	case a.Shown != b.Shown:
		return shownWords[b.Shown]
	case a.Required != b.Required && b.Required:
		return "is required"
	case a.Required != b.Required:
		return "is optional"
	case a.Locked != b.Locked && b.Locked:
		return "is locked"
	case a.Locked != b.Locked:
		return "can be filled in"
	case !v.Same(was.valueOf(a, 0)):
		return "is " + o.sayValue(b.item, v)
	case !slices.Equal(a.more().offered, b.more().offered), !slices.Equal(a.more().full, b.more().full):
		return "offers other choices"
	case a.Label() != b.Label(), a.Help() != b.Help():
		return "reads otherwise"
	}
	return ""
}

// Span is a time in which a form is open; no Until is no end.
type Span struct{ From, Until time.Time }

// OpenTimes are the times between two moments in which the form is open by its clock: when
// it opens and closes, and its hours. At most so many are told.
func (p *Program) OpenTimes(from, until time.Time, most int) []Span {
	begin, end := from.Unix(), until.Unix()
	if p.from != nil {
		begin = max(begin, *p.from)
	}
	if p.until != nil {
		end = min(end, *p.until)
	}
	local := func(unix int64) time.Time { return time.Unix(unix, 0).In(p.loc) }
	switch {
	case begin >= end:
		return nil
	case p.hours == nil:
		return []Span{{local(begin), local(end)}}
	}
	var out []Span
	p.hours.windows(begin, func(f, u int64) bool {
		if f >= end || len(out) >= most {
			return false
		}
		out = append(out, Span{local(max(f, begin)), local(min(u, end))})
		return true
	})
	return out
}
