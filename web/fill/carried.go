package fill

import (
	"slices"
	"strconv"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/web/fill/posted"
)

// Carried is a field that travels along unseen.
type Carried struct {
	Name, Value string
	Sensitive   bool // never kept on the respondent's device
}

// carried are the posted fields of an item that has no control of its own now. One
// that nobody has touched has none: its value comes by itself again.
func (b *builder) carried(it *form.Item, name string) []Carried {
	if it.Value != nil {
		if _, touched := b.posting.AnswerAt(it, name); !touched {
			return nil
		}
	}
	var out []Carried
	names := fieldNames(it, name)
	if it.Type == form.Ranking {
		names = append(names, b.placesOf(name)...)
	}
	for _, n := range names {
		for _, v := range b.fields[n] {
			out = append(out, Carried{n, v, b.p.Sensitive(it.Key)})
		}
	}
	if it.Value != nil && it.Asked() && !it.Type.Computed() {
		out = append(out, Carried{posted.Headed(posted.OwnHead, name), "yes", b.p.Sensitive(it.Key)})
	}
	return out
}

// placesOf are the posted fields of a ranking's places.
func (b *builder) placesOf(name string) (fields []string) {
	for field := range b.fields {
		if strings.HasPrefix(field, name+posted.PlacePart) {
			fields = append(fields, field)
		}
	}
	slices.Sort(fields)
	return fields
}

// asideText is a pick that is set aside as it is posted: of a ranking with the place where
// it stood.
func (b *builder) asideText(it *form.Item, name, value string) string {
	if it.Type != form.Ranking {
		return value
	}
	v, _ := b.posting.AnswerAt(it, name)
	list, _ := v.([]string)
	return posted.Placed{Place: slices.Index(list, value) + 1, Value: value}.String()
}

// fieldNames are the names under which an item's answer is posted.
func fieldNames(it *form.Item, name string) []string {
	names := []string{name}
	switch it.Type {
	case form.File:
		names = append(names, name+posted.FileID)
	case form.Signature:
		names = append(names, name+posted.FileID, name+posted.Typed, name+posted.Drawn)
	case form.MonthDay:
		names = append(names, name+posted.MonthPart, name+posted.DayPart)
	case form.ChoiceType, form.ChoicesType:
		names = append(names, posted.Headed(posted.AsideHead, name))
		if it.Other() != "" {
			names = append(names, name+posted.OtherPart)
		}
	case form.Ranking:
		names = append(names, posted.Headed(posted.AsideHead, name))
	case form.Grid:
		for _, row := range it.Rows {
			names = append(names, name+"."+row.Key)
		}
	case form.Address:
		for _, part := range expr.AddressParts {
			names = append(names, name+"."+part)
		}
	}
	if it.Twice {
		names = append(names, name+engine.Again)
	}
	return names
}

// carryPage carries every field of a page that is not at hand.
func (b *builder) carryPage(page *form.Page) []Carried {
	var out []Carried
	for _, sec := range page.Sections {
		if sec.Repeat == nil {
			for _, it := range sec.Items {
				out = append(out, b.carried(it, posted.AnswerHead+it.Key)...)
			}
			continue
		}
		if n, ok := posted.RowCount(sec.Key, b.fields); ok {
			sv := SectionView{Free: sec.Repeat.Rows == ""}
			b.setAsideRows(&sv, sec, 0)
			out = append(append(out, Carried{Name: posted.RowsHead + sec.Key, Value: strconv.Itoa(n)}), sv.Carried...)
		}
	}
	return out
}
