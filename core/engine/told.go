package engine

import "strconv"

// Answered is an answer as it would be stored, in words.
type Answered struct{ Key, Label, Text string }

// Told is what would be stored, in the order of the form, in words; nothing if it is not
// accepted.
func (o *Outcome) Told() []Answered {
	if !o.Accepted {
		return nil
	}
	return o.Answered()
}

// Answered are all answers that count, whether or not they are accepted, in the order of
// the form, in words.
func (o *Outcome) Answered() []Answered {
	var out []Answered
	tell := func(s *ItemState, row int, before string) {
		if (!s.part && !s.kept) || s.item.slot < 0 || !s.item.IsStored() {
			return
		}
		if v := o.valueOf(s, row); !v.IsBlank() {
			out = append(out, Answered{s.item.Key, before + o.nameOf(s), o.sayValue(s.item, v)})
		}
	}
	for _, page := range o.p.Form.Pages {
		for _, section := range page.Sections {
			if rows := o.Group(section.Key); section.Repeat != nil && rows != nil {
				for r := range rows.Count {
					states := rows.Row(r)
					for i := range states {
						tell(&states[i], r, section.Name()+" "+strconv.Itoa(r+1)+", ")
					}
				}
				continue
			}
			for _, it := range section.Items {
				if s := o.State(it.Key, 0); s != nil {
					tell(s, 0, "")
				}
			}
		}
	}
	return out
}

// Beside says how another form, such as another edition, comes out otherwise for the same
// input, item by item outside repeating sections: what it is there.
func (o *Outcome) Beside(other *Outcome) []Said {
	var out []Said
	say := func(s *ItemState, text string) { out = append(out, Said{s.item.Key, o.nameOf(s) + " " + text}) }
	for i := range o.Items {
		a := &o.Items[i]
		b := other.State(a.item.Key, 0)
		switch {
		case b == nil || b.item.group >= 0:
			if a.Shown {
				say(a, "is not there")
			}
		case a.Shown != b.Shown:
			say(a, map[bool]string{true: "is shown", false: "is not shown"}[b.Shown])
		case !a.Shown:
		case a.Required != b.Required:
			say(a, map[bool]string{true: "is required", false: "is optional"}[b.Required])
		case a.Locked != b.Locked:
			say(a, map[bool]string{true: "is locked", false: "can be filled in"}[b.Locked])
		case saidOf(o, a) != saidOf(other, b):
			say(a, "is "+saidOf(other, b))
		}
	}
	for i := range other.Items {
		b := &other.Items[i]
		if o.p.lookup[b.item.Key] == nil && b.Shown {
			out = append(out, Said{b.item.Key, other.nameOf(b) + " is asked"})
		}
	}
	return out
}

// saidOf is the value of an item in words.
func saidOf(o *Outcome, s *ItemState) string {
	if s.item.slot < 0 {
		return ""
	}
	return o.sayValue(s.item, o.valueOf(s, 0))
}
