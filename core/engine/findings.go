package engine

import (
	"slices"

	"lazo/core/form"
)

// Finding is a problem with the place where a respondent mends it.
type Finding struct {
	Page    string        // the key of its page
	Section *form.Section // nil for a problem of the page
	Item    *form.Item    // nil for a problem of the section, of one of its rows, or of the page
	Row     int           // of a repeating section, from 0; -1 outside of rows
	Label   string        // of the item, in the wording that applies
	Problem Problem
}

// Findings are the problems that a respondent can see on the page with that key, in
// the order of the form; on every page of the route for "". What a check finds is told
// where the last of what it names is asked, since nobody could mend it before.
func (o *Outcome) Findings(key string) []Finding {
	if !o.p.later {
		return o.findings(key)
	}
	all := o.findings("")
	for i := range all {
		if it := o.p.lookup[all[i].Problem.Mend]; it != nil {
			label, _ := o.Items[it.index].Bare()
			sec := &o.p.sections[it.section]
			all[i] = Finding{o.p.pages[sec.page].Key, sec.Section, it.Item, -1, label, all[i].Problem}
		}
	}
	if key != "" {
		all = slices.DeleteFunc(all, func(f Finding) bool { return f.Page != key })
	}
	at := func(f Finding) int { return slices.IndexFunc(o.p.pages, func(p page) bool { return p.Key == f.Page }) }
	slices.SortStableFunc(all, func(a, b Finding) int { return at(a) - at(b) })
	return all
}

// findings are Findings with what checks find at the checks' own places.
func (o *Outcome) findings(page string) []Finding {
	var out []Finding
	at := -1
	for i := range o.p.sections {
		sec := &o.p.sections[i]
		for at < sec.page {
			at++
			out = o.findingsOf(out, at, page)
		}
		if pg := &o.p.pages[sec.page]; o.Sections[i] && (page == "" || page == pg.Key) {
			out = o.findingsIn(out, sec, pg.Key)
		}
	}
	return out
}

// findingsOf are what the checks of a page find.
func (o *Outcome) findingsOf(out []Finding, i int, page string) []Finding {
	pg := &o.p.pages[i]
	if o.pageProblems == nil || page != "" && page != pg.Key {
		return out
	}
	for _, p := range o.pageProblems[i] {
		out = append(out, Finding{Page: pg.Key, Row: -1, Label: o.Plain(o.p.Form.PageName(i)), Problem: p})
	}
	return out
}

func (o *Outcome) findingsIn(out []Finding, sec *section, page string) []Finding {
	add := func(st *ItemState, row int) {
		if !st.Shown {
			return
		}
		for _, p := range st.Problems() {
			label, _ := st.Bare()
			out = append(out, Finding{page, sec.Section, st.item.Item, row, label, p})
		}
	}
	if sec.group < 0 {
		for _, p := range o.SectionProblems(sec.number) {
			out = append(out, Finding{Page: page, Section: sec.Section, Row: -1, Label: o.Plain(sec.Name()), Problem: p})
		}
		for _, it := range sec.items {
			add(&o.Items[it.index], -1)
		}
		return out
	}
	state := &o.Rows[sec.group]
	for _, p := range state.Problems {
		out = append(out, Finding{Page: page, Section: sec.Section, Row: -1, Label: o.Plain(sec.Name()), Problem: p})
	}
	for row := range state.Count {
		if state.RowProblems != nil {
			for _, p := range state.RowProblems[row] {
				out = append(out, Finding{Page: page, Section: sec.Section, Row: row, Label: o.Plain(sec.Name()), Problem: p})
			}
		}
		for i := range state.Row(row) {
			add(&state.Row(row)[i], row)
		}
	}
	return out
}

// FirstFaultyPage is the key of the first page of the route with a problem, "" if
// there is none.
func (o *Outcome) FirstFaultyPage() string {
	if all := o.Findings(""); len(all) > 0 {
		return all[0].Page
	}
	return ""
}
