package proof

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/proof/sat"
)

func run(p *engine.Program, fl engine.Filling) *engine.Outcome {
	return p.Run(engine.Input{Answers: p.Answers(fl.Answers), Params: fl.Params, At: fl.At, Mode: engine.New})
}

// read is a filling of a form as people's answers.
func (m *model) read(sd *side, f sat.Filling) engine.Filling {
	fl := engine.Filling{Answers: map[string]any{}, Params: map[string][]string{}, At: m.at.In(sd.program.Location()),
		Mode: engine.New}
	r := &reader{m: m, side: sd, answers: fl.Answers, rows: map[string][]map[string]any{}}
	for _, in := range m.listed {
		for i, l := range in.lits {
			if i > 0 && f.Holds(l) {
				r.take(in, i)
			}
		}
	}
	r.finish()
	for i, l := range m.clock {
		if f.Holds(l) {
			fl.At = timeOf(m.variables[clockName].values[i], sd)
		}
	}
	for name, lits := range m.params {
		for i, l := range lits {
			if i > 0 && f.Holds(l) {
				fl.Params[name] = m.variables["url."+name].inputs[i]
			}
		}
	}
	return fl
}

// reader puts inputs together to answers.
type reader struct {
	m       *model
	side    *side
	answers map[string]any
	rows    map[string][]map[string]any
	counts  map[string]int
}

// holder is the object in which the answers of a section's row stand.
func (r *reader) holder(it *item, row int) map[string]any {
	g := it.section.group
	if g == nil {
		return r.answers
	}
	for len(r.rows[g.key]) <= row {
		r.rows[g.key] = append(r.rows[g.key], map[string]any{})
	}
	return r.rows[g.key][row]
}

func (r *reader) take(in *input, i int) {
	name, choice, several := strings.Cut(in.name, "\x00")
	base, part := cut(name)
	own, marked := strings.CutSuffix(base, "\x01")
	if base = own; marked != (r.side.named(base) != base) && r.side.items[base] != nil {
		return // answered to an edition in which this is something else
	}
	if r.side.groups[base] != nil && r.side.items[base] == nil {
		n, _ := in.raws[i].(int)
		if r.counts == nil {
			r.counts = map[string]int{}
		}
		r.counts[base] = n
		return
	}
	it := r.side.items[base]
	if it == nil {
		for _, sd := range r.m.sides {
			it = cmp.Or(it, sd.items[base])
		}
	}
	if it == nil {
		return
	}
	to := r.holder(it, in.row)
	switch {
	case part == "" && several:
		list, _ := to[base].([]any)
		if choice != "" {
			list = append(list, choice)
		}
		if list == nil {
			list = []any{}
		}
		to[base] = list
	case part == "":
		to[base] = sent(it, in.raws[i])
	case part == otherPart && it.kind() != expr.Address && it.kind() != expr.Grid:
		to[base+".other"] = in.raws[i]
	default:
		parts, _ := to[base].(map[string]any)
		if parts == nil {
			parts = map[string]any{}
			to[base] = parts
		}
		if several {
			list, _ := parts[part].([]any)
			parts[part] = append(list, choice)
		} else {
			parts[part] = in.raws[i]
		}
	}
}

// finish writes the texts of choices that bring one, and the rows.
func (r *reader) finish() {
	r.bring(r.answers)
	for key, g := range r.side.groups {
		n := max(len(r.rows[key]), r.counts[key])
		switch {
		case r.m.comparesRows(key):
			n = r.counts[key]
		case g.rows == nil:
			n = max(r.counts[key], g.Repeat.Min)
		}
		if n == 0 {
			continue
		}
		rows := make([]any, n)
		for i := range rows {
			rows[i] = map[string]any{}
			if i < len(r.rows[key]) {
				r.bring(r.rows[key][i])
				rows[i] = r.rows[key][i]
			}
		}
		r.answers[key] = rows
	}
}

// bring puts what is written for a choice beside it.
func (r *reader) bring(answers map[string]any) {
	for _, key := range slices.Collect(maps.Keys(answers)) {
		it := r.side.items[key]
		if it == nil || it.symbol == nil || it.symbol.Type.Options == nil || it.symbol.Type.Options.Other == "" {
			continue
		}
		text := any(usualOther)
		if t, ok := answers[key+".other"]; ok {
			text = t
		}
		other := it.symbol.Type.Options.Other
		brought := map[string]any{"value": other, "text": text}
		if answers[key] == any(other) {
			answers[key] = brought
		}
		if list, ok := answers[key].([]any); ok {
			for i := range list {
				if list[i] == any(other) {
					list[i] = brought
				}
			}
		}
	}
	for _, key := range slices.Collect(maps.Keys(answers)) {
		if strings.HasSuffix(key, ".other") {
			delete(answers, key)
		}
	}
}

// shrink leaves as few answers in a filling as can be with which a test still holds, as long
// as there is time.
func (p *prover) shrink(fl engine.Filling, holds func(engine.Filling) bool) engine.Filling {
	test := func(fl engine.Filling) bool { return !p.up() && holds(fl) }
	if usual := p.m.at.In(fl.At.Location()); !usual.Equal(fl.At) {
		then := fl
		if then.At = usual; test(then) {
			fl = then
		}
	}
	answered := fl.Answers
	fl = with(fl, fewest(slices.Sorted(maps.Keys(answered)), func(keys []string) bool { return test(with(fl, keys)) }))
	brought := fl.Params
	at := func(names []string) engine.Filling {
		less := fl
		less.Params = only(brought, names)
		return less
	}
	fl = at(fewest(slices.Sorted(maps.Keys(brought)), func(names []string) bool { return test(at(names)) }))
	for _, key := range slices.Sorted(maps.Keys(fl.Answers)) {
		if rows, ok := fl.Answers[key].([]any); ok {
			fl = shrinkRows(fl, key, rows, test)
		}
	}
	return fl
}

// with is a filling with some of its answers.
func with(fl engine.Filling, keys []string) engine.Filling {
	fl.Answers = only(fl.Answers, keys)
	return fl
}

func only[V any](of map[string]V, keys []string) map[string]V {
	out := map[string]V{}
	for _, k := range keys {
		out[k] = of[k]
	}
	return out
}

// fewest leaves out as much of a list as can be, many at once as long as that goes, while
// something still is so of the rest.
func fewest[T any](list []T, still func(rest []T) bool) []T {
	for size := len(list); size > 0; size /= 2 {
		for from := 0; from < len(list); {
			rest := slices.Delete(slices.Clone(list), from, min(len(list), from+size))
			if still(rest) {
				list = rest
			} else {
				from += size
			}
		}
	}
	return list
}

// shrinkRows takes away what stands in rows, or which of several are picked.
func shrinkRows(fl engine.Filling, key string, list []any, test func(engine.Filling) bool) engine.Filling {
	with := func(list []any) engine.Filling {
		next := fl
		next.Answers = maps.Clone(fl.Answers)
		next.Answers[key] = list
		return next
	}
	for size := len(list); size > 0; size /= 2 {
		for end := len(list); end > 0; end -= size {
			less := slices.Delete(slices.Clone(list), max(0, end-size), end)
			if next := with(less); test(next) {
				fl, list = next, less
			}
		}
	}
	for i := len(list) - 1; i >= 0; i-- {
		row, ok := list[i].(map[string]any)
		if !ok {
			continue
		}
		for _, k := range slices.Sorted(maps.Keys(row)) {
			smaller := maps.Clone(row)
			delete(smaller, k)
			less := slices.Clone(list)
			less[i] = smaller
			if next := with(less); test(next) {
				fl, list, row = next, less, smaller
			}
		}
	}
	return fl
}
