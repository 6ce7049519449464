package fill

import (
	"maps"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"lazo/core/engine"
	"lazo/web/fill/posted"
)

// Seen reports whether a page was left before.
func Seen(fields url.Values, page string) bool { return fields.Has(posted.SeenHead + page) }

// Leave is what was posted with the note that the page at hand was seen, if it is still as it
// stood there.
func Leave(p *engine.Program, out *engine.Outcome, sent url.Values, page string) url.Values {
	if p.Form.Page(page) == nil || !SeenAsItIs(p, out, sent, page) {
		return sent
	}
	fields := maps.Clone(sent)
	fields.Set(posted.SeenHead+page, strings.Join(fillables(p, out, page), " "))
	return fields
}

// SeenAsItIs reports whether the page at hand still is as the respondent saw it,
// but for what they answered. A post that does not come from a page says nothing
// of it, and is believed.
func SeenAsItIs(p *engine.Program, out *engine.Outcome, fields url.Values, page string) bool {
	return !fields.Has(posted.DigestField) || isAsOn(p, out, fields, page, fields.Get(posted.DigestField))
}

// fillables are the questions of a page that can be filled now.
func fillables(p *engine.Program, out *engine.Outcome, page string) []string {
	var keys []string
	for _, sec := range p.Form.Page(page).Sections {
		if sec.Repeat != nil {
			state := out.Group(sec.Key)
			for r := range state.Count {
				for i := range state.Row(r) {
					if st := &state.Row(r)[i]; st.Fillable() {
						keys = append(keys, st.Item().Key+":"+strconv.Itoa(r))
					}
				}
			}
			continue
		}
		for _, it := range sec.Items {
			if out.State(it.Key, 0).Fillable() {
				keys = append(keys, it.Key)
			}
		}
	}
	return keys
}

// Unseen is the first page of the route on which something can be filled that the
// respondent has not seen; "" if there is none. At is the page at hand, "" for
// none, as at a review.
func Unseen(p *engine.Program, out *engine.Outcome, fields url.Values, at string) string {
	said := fields.Has(posted.DigestField) ||
		slices.ContainsFunc(slices.Collect(maps.Keys(fields)),
			func(name string) bool { return strings.HasPrefix(name, posted.SeenHead) })
	for _, page := range out.Route() {
		if page == at {
			if !SeenAsItIs(p, out, fields, page) {
				return page
			}
			continue
		}
		seen := strings.Fields(fields.Get(posted.SeenHead + page))
		if said && slices.ContainsFunc(fillables(p, out, page),
			func(key string) bool { return !slices.Contains(seen, key) }) {
			return page
		}
	}
	return ""
}

// carrySeen carries what was seen of the other pages.
func carrySeen(fields url.Values, at string) []Carried {
	var out []Carried
	for name, values := range fields {
		if strings.HasPrefix(name, posted.SeenHead) && name != posted.SeenHead+at {
			out = append(out, Carried{Name: name, Value: values[0]})
		}
	}
	slices.SortFunc(out, func(a, b Carried) int { return strings.Compare(a.Name, b.Name) })
	return out
}
