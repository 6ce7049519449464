package view

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/text"
)

// InWords prints a stored answer, choices by their labels.
func InWords(p *engine.Program, key string, v any, kept map[string]string) string {
	sym := p.Symbols.Items[key]
	if sym == nil || sym.Type.Options == nil {
		return plainWords(v)
	}
	label := func(v any) any {
		s, _ := v.(string)
		own := ""
		if m, ok := v.(map[string]any); ok && m["value"] != nil {
			s, _ = m["value"].(string)
			own, _ = m["text"].(string)
		}
		if was := kept[s]; was != "" { // as it read when it was stored
			return was
		}
		if i, ok := sym.Type.Options.Find(s); ok {
			if own != "" {
				return sym.Type.Options.Labels[i] + ": " + own
			}
			return sym.Type.Options.Labels[i]
		}
		return v
	}
	if cells, ok := v.(map[string]any); ok && sym.Type.Kind == expr.Grid {
		return gridWords(p.Item(key), cells, label)
	}
	if list, ok := v.([]any); ok {
		out := make([]any, len(list))
		for i, e := range list {
			out[i] = label(e)
		}
		return exchange.Plain(out)
	}
	return exchange.Plain(label(v))
}

// gridWords prints the answered rows of a grid.
func gridWords(it *form.Item, cells map[string]any, label func(any) any) string {
	var lines []string
	for _, row := range it.Rows {
		cell := cells[row.Key]
		if cell == nil {
			continue
		}
		picks, several := cell.([]any)
		if !several {
			picks = []any{cell}
		}
		said := make([]any, len(picks))
		for i := range picks {
			said[i] = label(picks[i])
		}
		lines = append(lines, text.Name(row.Name())+": "+exchange.Plain(said))
	}
	return strings.Join(lines, "; ")
}

// plainWords prints a stored answer that has no labels; a file by its name.
func plainWords(v any) string {
	if m, ok := v.(map[string]any); ok && m["name"] != nil {
		v = m["name"]
	}
	return exchange.Plain(v)
}

// Difference is an answer that changed.
type Difference struct{ Label, Before, After string }

// NotAsked is what a difference says of an answer whose question is not asked any more.
const NotAsked = "not asked"

// Differences are the answers in which two states of a response differ, in the order of
// the form. In are the parameters and the moment that it came with: what its questions hang
// on, besides its answers.
func Differences(p *engine.Program, before, after []byte, in engine.Input) ([]Difference, error) {
	a, err := engine.ParseAnswers(before)
	if err != nil {
		return nil, err
	}
	b, err := engine.ParseAnswers(after)
	if err != nil {
		return nil, err
	}
	var out []Difference
	then := sync.OnceValue(func() *engine.Outcome {
		in.Record, in.Mode = p.Record(b), engine.Staff
		return p.Run(in)
	})
	asked := func(key string) bool { return then().State(key, 0).Shown }
	add := func(it *form.Item, was, is any) {
		if it.Type == form.Tick { // one that is not stored is not ticked
			was, is = was == true, is == true
		}
		label, key := it.Name(), it.Key
		x, y := InWords(p, key, was, nil), InWords(p, key, is, nil)
		if x == y {
			return
		}
		if b[key] == nil && !asked(key) {
			y = NotAsked
		}
		out = append(out, Difference{label, x, y})
	}
	for pl := range p.Form.Places() {
		if pl.Section.Repeat == nil {
			add(pl.Item, a[pl.Item.Key], b[pl.Item.Key])
			continue
		}
		if pl.Index == 0 {
			out = append(out, rowDifferences(p, pl.Section, a[pl.Section.Key], b[pl.Section.Key])...)
		}
	}
	return out, nil
}

// rowDifferences compares the rows of a section, each with itself wherever it stands.
func rowDifferences(p *engine.Program, s *form.Section, before, after any) (out []Difference) {
	was, _ := before.([]any)
	is, _ := after.([]any)
	name := cmp.Or(s.Repeat.Name, s.Name())
	row := func(rows []any, i int) map[string]any { m, _ := rows[i].(map[string]any); return m }
	matched := map[int]bool{}
	for i := range is {
		now := row(is, i)
		at := slices.IndexFunc(was, func(v any) bool {
			m, _ := v.(map[string]any)
			return m[engine.RowID] != nil && m[engine.RowID] == now[engine.RowID]
		})
		if at < 0 && now[engine.RowID] == nil && i < len(was) {
			at = i
		}
		then := map[string]any{}
		if at >= 0 {
			then, matched[at] = row(was, at), true
		}
		for _, it := range s.Items {
			x, y := InWords(p, it.Key, then[it.Key], nil), InWords(p, it.Key, now[it.Key], nil)
			if x != y {
				out = append(out, Difference{name + " " + strconv.Itoa(i+1) + ", " + it.Name(), x, y})
			}
		}
	}
	for i := range was {
		if !matched[i] {
			var said []string
			for _, it := range s.Items {
				if x := InWords(p, it.Key, row(was, i)[it.Key], nil); x != "" {
					said = append(said, x)
				}
			}
			out = append(out, Difference{name + " " + strconv.Itoa(i+1), strings.Join(said, ", "), "taken out"})
		}
	}
	return out
}
