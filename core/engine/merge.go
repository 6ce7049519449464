package engine

import (
	"maps"
	"reflect"

	"lazo/core/form"
)

// Clash is an answer that a page changed and somebody else did, too, since the page was
// opened. Of a row, Key names the section, the row and the question.
type Clash struct {
	Key          string // KEY, SECTION.ROW.KEY, or SECTION.ROW for a whole row
	Item         *form.Item
	Section      *form.Section // that the row is of, nil outside rows
	Mine, Theirs any           // as they are stored; nil for nothing, or a row that was taken out
}

// Merging is what a page changed of a response, to be run on the response as it is now, as
// the Prior and the Answers of an Input. Clashes are what has to be decided first.
type Merging struct {
	Prior, Answers *Answers
	Changed        map[string]any // the same answers as they are stored; an absent key keeps what is stored
	Clashes        []Clash
}

// Merge finds what a page changed, from what was stored when it was opened, base, what it
// would store, mine, and what is stored now, theirs. All else keeps what is stored now, so
// that nobody's change is turned back. Mine says for clashes that were decided, by their
// keys, whether the page's answer counts. Out is the page's outcome: what it did not ask,
// it did not change. The error is of answers that can't be read.
func (p *Program) Merge(base, mine, theirs []byte, out *Outcome, decided map[string]bool) (Merging, error) {
	var states [3]map[string]any
	for i, data := range [][]byte{base, mine, theirs} {
		var err error
		if states[i], err = ParseAnswers(data); err != nil {
			return Merging{}, err
		}
	}
	m := merger{decided: decided, out: Merging{Changed: map[string]any{}}}
	m.form(p.Form, states[0], states[1], states[2], out)
	m.out.Prior, m.out.Answers = p.Answers(states[2]), p.Answers(m.out.Changed)
	return m.out, nil
}

type merger struct {
	decided map[string]bool
	out     Merging
}

func (m *merger) form(f *form.Form, base, mine, theirs map[string]any, out *Outcome) {
	for _, pg := range f.Pages {
		for _, s := range pg.Sections {
			if s.Repeat != nil {
				m.section(s, base[s.Key], mine[s.Key], theirs[s.Key])
				continue
			}
			for _, it := range s.Items {
				if !it.Asked() || it.Type.Computed() || mine[it.Key] == nil && !out.State(it.Key, 0).Fillable() {
					continue
				}
				m.answer(m.out.Changed, it.Key, Clash{Key: it.Key, Item: it, Mine: mine[it.Key], Theirs: theirs[it.Key]},
					base[it.Key], it.Twice)
			}
		}
	}
}

// answer puts an answer of the page into what is run, if the page changed it and it counts.
func (m *merger) answer(into map[string]any, key string, c Clash, base any, twice bool) {
	if same(base, c.Mine) || !m.counts(c, base) {
		return
	}
	if into[key] = c.Mine; twice {
		into[key+Again] = c.Mine
	}
}

// counts reports whether what the page changed counts: nobody else has changed it, or it
// was decided so. What is not decided is a clash.
func (m *merger) counts(c Clash, base any) bool {
	if same(base, c.Theirs) || same(c.Mine, c.Theirs) {
		return true
	}
	mine, known := m.decided[c.Key]
	if !known {
		m.out.Clashes = append(m.out.Clashes, c)
	}
	return mine
}

// section puts the rows of a section together: those that are stored now with the page's
// changes, then those that the page added.
func (m *merger) section(s *form.Section, base, mine, theirs any) {
	if same(base, mine) {
		return
	}
	if same(base, theirs) {
		m.out.Changed[s.Key] = mine
		return
	}
	before, own := rowsByID(base), rowsByID(mine)
	rows := []any{}
	there := map[string]bool{}
	for _, row := range rowsOf(theirs) {
		id, _ := row[RowID].(string)
		there[id] = true
		switch was, is := before[id], own[id]; {
		case is != nil:
			rows = append(rows, m.row(s, id, was, is, row))
		case was == nil: // they added it
			rows = append(rows, row)
		case !m.counts(Clash{Key: s.Key + "." + id, Section: s, Theirs: row}, was):
			rows = append(rows, row) // the page took it out, and that does not count
		}
	}
	for _, row := range rowsOf(mine) {
		id, _ := row[RowID].(string)
		switch was := before[id]; {
		case id != "" && there[id]:
		case was == nil, !same(was, row) && m.counts(Clash{Key: s.Key + "." + id, Section: s, Mine: row}, was):
			rows = append(rows, row)
		}
	}
	m.out.Changed[s.Key] = rows
}

// row is a row as it is stored now with the page's changes of it.
func (m *merger) row(s *form.Section, id string, base, mine, theirs map[string]any) map[string]any {
	out := maps.Clone(theirs)
	for _, it := range s.Items {
		if it.Asked() && !it.Type.Computed() {
			c := Clash{Key: s.Key + "." + id + "." + it.Key, Item: it, Section: s, Mine: mine[it.Key], Theirs: theirs[it.Key]}
			m.answer(out, it.Key, c, base[it.Key], it.Twice)
		}
	}
	return out
}

func rowsOf(v any) (out []map[string]any) {
	list, _ := v.([]any)
	for _, e := range list {
		if row, ok := e.(map[string]any); ok {
			out = append(out, row)
		}
	}
	return out
}

func rowsByID(v any) map[string]map[string]any {
	out := map[string]map[string]any{}
	for _, row := range rowsOf(v) {
		if id, _ := row[RowID].(string); id != "" {
			out[id] = row
		}
	}
	return out
}

// same compares stored answers; an answer that is null, or an unticked box, is none.
func same(a, b any) bool {
	if a == false {
		a = nil
	}
	if b == false {
		b = nil
	}
	return reflect.DeepEqual(a, b)
}
