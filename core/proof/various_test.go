package proof_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof"
)

// various are questions of types whose answers are of a form, with conditions on each, %s
// being its key, and answers of which some are taken, some are not, and some are odd.
var various = []struct {
	item    string
	conds   []string
	answers []any
}{
	{`"type": "email"`, []string{`%s is answered`, `length(%s) > 30`, `length(%s) <= 8`, `%s = "ana@lake.example"`,
		`%s ends with ".example"`},
		[]any{"ana@lake.example", "Ana@Lake.Example", "a@b.example", "no mail", strings.Repeat("x", 40) + "@lake.example",
			""}},
	{`"type": "phone"`, []string{`%s is answered`, `length(%s) > 12`, `length(%s) < 10`, `%s starts with "+598"`},
		[]any{"+598 94 123 456", "+49 30 901820", "+1 202 555 0123", "12", "099123456", "+598 2 1234567"}},
	{`"type": "website"`, []string{`%s is answered`, `length(%s) > 40`, `length(%s) < 15`, `%s contains "lake"`},
		[]any{"https://lake.example", "lake.example", "http://a.example", "https://lake.example/" + strings.Repeat("x", 40),
			"not a site"}},
	{`"type": "month_day"`, []string{`%s is answered`, `%s = "02-29"`, `%s = "02-30"`, `length(%s) = 5`, `%s != "05-30"`},
		[]any{"05-30", "2-29", "02-29", "02-30", "1-1", "x"}},
	{`"type": "text", "pattern": "[A-Z]{2,3}[0-9]*", "min_length": 3`,
		[]string{`%s is answered`, `length(%s) > 5`, `length(%s) = 3`, `%s = "ury"`,
			`%s != "URY12"`}, []any{"URY", "ury", "UR", "URY12", "URY12345", "AB", "AB1", "x", "AB12345678"}},
	{`"type": "text", "pattern": "(?i)[a-zß]+", "max_length": 8`,
		[]string{`%s = "gross"`, `length(%s) = 4`, `length(%s) < 4 and %[1]s != "ana"`, `%s is blank`},
		[]any{"Gross", "Groß", "ana", "ANA", "bo", "eight", "ninechars", "1"}},
	{`"type": "paragraph", "min_length": 10`,
		[]string{`length(%s) > 100`, `length(%s) < 10`, `%s is answered`, `length(%s) between 20 and 30`},
		[]any{"short", strings.Repeat("long ", 30), "ten chars.", "twenty-five characters ok"}},
	{`"type": "time", "min": "08:00", "max": "17:30"`,
		[]string{`%s < 09:00`, `%s > 17:30`, `%s = 12:00`, `%s between 10:00 and 11:00`},
		[]any{"08:00", "07:59", "12:00", "17:30", "17:31", "10:30", "x", "23:59"}},
	{`"type": "address"`, []string{`%s is answered`, `%s.country = "UY"`, `%s.city is blank`, `length(%s.postcode) > 6`,
		`%s.street is answered and %[1]s.city is blank`},
		[]any{map[string]any{"city": "Pedralta"}, map[string]any{"country": "UY", "postcode": "11000"},
			map[string]any{"street": "Harbour road 1", "city": "Pedralta", "country": "uy", "postcode": "1234567"},
			map[string]any{}}},
	{`"type": "file", "accept": ["application/pdf", ".doc"], "max_bytes": 500`, []string{`%s is answered`, `%s is blank`},
		[]any{map[string]any{"id": "a", "name": "a.pdf", "type": "application/pdf", "size": "400"},
			map[string]any{"id": "b", "name": "b.DOC", "type": "x/y", "size": "500"},
			map[string]any{"id": "c", "name": "c.png", "type": "image/png", "size": "10"},
			map[string]any{"id": "d", "name": "d.pdf", "type": "application/pdf", "size": "501"}}},
	{`"type": "choice", "choices": [{"value": "a", "label": "A"}, {"value": "z", "label": "Z", "other": true}]`,
		[]string{`%s = "z"`, `%s.other = "Zed"`, `length(%s.other) > 5`, `%s.other is blank`, `%s in ("a", "z")`},
		[]any{"a", "z", map[string]any{"value": "z", "text": "zed"}, map[string]any{"value": "z", "text": "something else"},
			"q"}},
	{`"type": "ranking", "choices": [{"value": "a", "label": "A"}, {"value": "b", "label": "B"}, {"value": "c", "label": "C"}]`,
		[]string{`%s is answered`, `first(%s) has "b"`, `count(%s) = 2`, `%s has "c"`},
		[]any{[]any{"a", "b", "c"}, []any{"b", "a", "c"}, []any{"c", "a"}, []any{}}},
	{`"type": "grid", "many": true, "choices": [{"value": "a", "label": "A"}, {"value": "b", "label": "B"}], "rows": [{"key": "fri"}, {"key": "sat"}]`,
		[]string{`%s is answered`, `%s.fri has "a"`, `%s.sat has none ("a")`, `%s.fri is blank`},
		[]any{map[string]any{"fri": []any{"a"}}, map[string]any{"fri": []any{}},
			map[string]any{"sat": []any{}, "fri": []any{"b"}},
			map[string]any{"fri": []any{"a", "b"}, "sat": []any{"b"}}, map[string]any{"sat": []any{"a"}}}},
	{`"type": "choices", "min_picked": 1, "max_picked": 2, "choices": [{"value": "a", "label": "A"}, {"value": "b", "label": "B"},
		{"value": "z", "label": "Z", "other": true}]`, []string{`%s is blank`, `%s has "a"`, `%s has none ("a", "z")`, `count(%s) = 3`, `%s.other = "Zed"`},
		[]any{[]any{}, []any{"a"}, []any{"a", "b"}, []any{"a", "b", "z"},
			[]any{"b", map[string]any{"value": "z", "text": "zed"}}, []any{"q"}}},
	{`"type": "grid", "choices": [{"value": "a", "label": "A"}, {"value": "b", "label": "B"}], "rows": [{"key": "fri"}, {"key": "sat", "shown": "url.club = \"harbor\""}]`,
		[]string{`%s is answered`, `%s.fri = "a"`, `%s.sat != "a"`, `%s.fri is blank`, `%s.sat is answered`},
		[]any{map[string]any{"fri": "a"}, map[string]any{"sat": "a"}, map[string]any{"fri": "b", "sat": "b"},
			map[string]any{"fri": "q"}, map[string]any{}}},
	{`"type": "signature"`, []string{`%s is answered`, `%s is blank`},
		[]any{map[string]any{"id": "a", "name": "s.png", "type": "image/png", "size": "400"}, ""}},
	{`"type": "scale", "min": 0, "max": 4`, []string{`%s > 4`, `%s = 0`, `%s = 2.5`, `%s >= 3`},
		[]any{"0", "4", "5", "2.5", "3"}},
	{`"type": "hidden", "value": {"is": "url.club"}`, []string{`%s = "harbor"`, `length(%s) = 3`, `%s is blank`},
		[]any{"x"}},
	{`"type": "number", "step": 0.5, "min": 1, "max": 9`,
		[]string{`%s = 2.25`, `%s > 9`, `%s < 1.5`, `%s * 2 = 7`, `%s between 2 and 2.4`},
		[]any{"1", "1.5", "2.25", "3.5", "9", "9.5", "0", "2.2", "x"}},
	{`"type": "date", "min": "today", "max": "today + 1 year"`,
		[]string{`%s < today`, `%s > today + 2 months`, `weekday(%s) = "sun"`, `%s = 2026-05-30`},
		[]any{"2026-05-20", "2026-05-19", "2026-05-30", "2027-05-20", "2027-05-21", "2026-05-31", "2026-08-01"}},
	{`"type": "tick"`, []string{`%s`, `not %s`, `%s = no`}, []any{true, false, "x"}},
	{`"type": "yes_no"`, []string{`%s`, `not %s`, `%s is blank`}, []any{true, false}},
}

// variety is a form of some of them.
type variety struct {
	t    *rapid.T
	of   []int
	rows int // how many questions stand in rows, the last ones
}

func (v *variety) n(low, high int) int { return rapid.IntRange(low, high).Draw(v.t, "n") }

// cond is one on the questions before a place.
func (v *variety) cond(before int) string {
	atom := func() string {
		if before == 0 || v.n(0, 9) == 0 {
			return rapid.SampledFrom([]string{`url.club = "harbor"`, `url.club is blank`, `length(url.club) > 3`}).Draw(v.t,
				"url")
		}
		i := v.n(0, before-1)
		return fmt.Sprintf(rapid.SampledFrom(various[v.of[i]].conds).Draw(v.t, "cond"), fmt.Sprintf("q%d", i))
	}
	switch v.n(0, 5) {
	case 0:
		return "(" + atom() + " and " + atom() + ")"
	case 1:
		return "(" + atom() + " or " + atom() + ")"
	case 2:
		return "not (" + atom() + ")"
	}
	return atom()
}

func (v *variety) items() (items []string) {
	for i := range v.n(2, 5) {
		v.of = append(v.of, v.n(0, len(various)-1))
		items = append(items, v.item(i))
	}
	return items
}

// whole is a form of some of them, of which the last stand in rows, with what it has besides.
func (v *variety) whole() string {
	items := v.items()
	if v.n(0, 2) == 0 {
		v.rows = v.n(1, len(items)-1)
	}
	fixed := len(items) - v.rows
	besides := ""
	if v.n(0, 3) == 0 {
		besides += `, "opening": {"from": "2026-05-10T09:00", "until": "2026-05-30T18:00"}`
	}
	if fixed > 0 && v.n(0, 2) == 0 {
		besides += fmt.Sprintf(`, "messages": [{"key": "m", "name": "M", "when": %q, "to": ["office@lake.example"],
			"subject": "S", "body": "B"}]`, v.cond(fixed))
		besides += fmt.Sprintf(`, "ends": [{"when": %q, "text": "One"}, {"when": %q, "text": "Two"}]`, v.cond(fixed),
			v.cond(fixed))
	}
	sections := `{"key": "s", "items": [` + strings.Join(items[:fixed], ",\n") + `]}`
	if v.rows > 0 {
		sections += fmt.Sprintf(`, {"key": "rows", "title": "Rows", "repeat": {"min": %d, "max": 2}, "items": [%s]}`,
			v.n(0, 1), strings.Join(items[fixed:], ",\n"))
		first := fmt.Sprintf(rapid.SampledFrom(various[v.of[fixed]].conds).Draw(v.t, "cond"), fmt.Sprintf("q%d", fixed))
		over := rapid.SampledFrom([]string{
			"any(rows, %s)", "every(rows, %s)", "count(rows, %s) = 2", "count(rows) > 1 and any(rows, %s)",
		}).Draw(v.t, "over")
		sections += fmt.Sprintf(`, {"key": "after", "items": [{"key": "last", "type": "note", "label": "Last", "shown": %q}]}`, over)
		sections = strings.Replace(sections, "%s", strings.ReplaceAll(first, `"`, `\"`), 1)
	}
	return `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "parameters": [{"name": "club"}], "pages": [{"key": "p",
		"sections": [` + sections + `]}]` + besides + `}`
}

func (v *variety) item(i int) string {
	it := fmt.Sprintf(`"key": "q%d", "label": "Q%d", %s`, i, i, various[v.of[i]].item)
	tie := func(property, src string) { it += fmt.Sprintf(`, %q: %q`, property, src) }
	if v.n(0, 1) == 0 {
		tie("shown", v.cond(i))
	}
	switch v.n(0, 4) {
	case 0:
		it += `, "required": true`
	case 1:
		tie("required", v.cond(i))
	case 2:
		if strings.Contains(it, `"text"`) {
			from := "url.club"
			if i > 0 && v.n(0, 1) == 0 {
				from = fmt.Sprintf("q%d", v.n(0, i-1))
			}
			it += fmt.Sprintf(`, "value": {%q: %q}`, rapid.SampledFrom([]string{"follows", "starts"}).Draw(v.t, "comes"), from)
			if v.n(0, 1) == 0 {
				it += `, "locked": true`
			}
		}
	}
	if strings.Contains(it, `"value": "a"`) && !strings.Contains(it, `"grid"`) && v.n(0, 2) == 0 {
		tie(rapid.SampledFrom([]string{"offered", "withheld"}).Draw(v.t, "offer"), `choice = "a" and `+v.cond(i))
	}
	if v.n(0, 6) == 0 {
		it += `, "when_hidden": "keep"`
	}
	if v.n(0, 9) == 0 {
		it += `, "staff": true`
	}
	if v.n(0, 3) == 0 {
		it += fmt.Sprintf(`, "checks": [{"ok": %q, "message": "No"}]`, v.cond(i+1))
	}
	return "{" + it + "}"
}

func formOf(items []string) string {
	return `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "parameters": [{"name": "club"}], "pages": [{"key": "p",
		"sections": [{"key": "s", "items": [` + strings.Join(items, ",\n") + `]}]}]}`
}

func (v *variety) filling() engine.Filling {
	fl := engine.Filling{Answers: map[string]any{}, At: usual.At.AddDate(0, 0, v.n(0, 4)*v.n(0, 8)-5), Mode: engine.New}
	fixed := len(v.of) - v.rows
	fill := func(into map[string]any, i int) {
		if of := various[v.of[i]].answers; v.n(0, 4) > 0 {
			into[fmt.Sprintf("q%d", i)] = of[v.n(0, len(of)-1)]
		}
	}
	for i := range fixed {
		fill(fl.Answers, i)
	}
	if v.rows > 0 {
		rows := make([]any, v.n(0, 3))
		for r := range rows {
			row := map[string]any{}
			for i := fixed; i < len(v.of); i++ {
				fill(row, i)
			}
			rows[r] = row
		}
		fl.Answers["rows"] = rows
	}
	if club := rapid.SampledFrom([]string{"", "harbor", "URY", "north pier", "ana"}).Draw(v.t, "club"); club != "" {
		fl.Params = map[string][]string{"club": {club}}
	}
	return fl
}

// timed is how much is left of a time that begins now.
func timed(limit time.Duration) func() time.Duration {
	end := time.Now().Add(limit)
	return func() time.Duration { return time.Until(end) }
}

// No answer of any type contradicts what is claimed.
func TestNoAnswerContradictsAClaim(t *testing.T) {
	found := map[string]int{}
	rapid.Check(t, func(t *rapid.T) {
		v := &variety{t: t}
		src := v.whole()
		p, remarks := engine.Load([]byte(src))
		if p == nil {
			t.Skip("a form with errors", remarks)
		}
		o := usual
		o.Left = timed(5 * time.Second)
		r := proof.Of(p, o)
		var all []engine.Filling
		for range 30 {
			all = append(all, v.filling())
		}
		y := tried(p, all)
		for _, m := range r.Remarks {
			found[m.Kind]++
			v.tryEnds(p, m)
			require.False(t, y.seen[against(m)], "%s of\n%s", m, src)
			v.withoutPart(p, m, all)
		}
	})
	t.Log(found)
}

// against is what can't be seen if a claim is true.
func against(m proof.Remark) string {
	property := strings.TrimPrefix(m.At[strings.LastIndexByte(m.At, '/')+1:], m.Item+".")
	switch m.Kind {
	case proof.NeverAccepted:
		return "accepted"
	case proof.NeverShown:
		if row, ok := strings.CutPrefix(property, "rows."); ok {
			return "shown " + m.Item + "." + row
		}
		return "shown " + m.Item
	case proof.OnlyRefused:
		return "sent with " + m.Item
	case proof.NeverOffered:
		return "offered " + m.Item + "." + m.Part
	case proof.NeverRequired, proof.NeverLocked, proof.NeverFilled:
		return "met " + m.Item + "." + property
	case proof.NeverSent:
		return "sent m"
	case proof.NeverRead:
		return "read " + strings.Split(m.At, ".")[1]
	case proof.Always:
		return "not " + m.Item + "." + property
	}
	return ""
}

// tryEnds tries every answer where it is claimed that none is accepted.
func (v *variety) tryEnds(p *engine.Program, m proof.Remark) {
	if m.Kind != proof.DeadEnd {
		return
	}
	i := slices.IndexFunc(slices.Collect(p.Form.Places()), func(pl form.Place) bool { return pl.Item.Key == m.Item })
	if i >= len(v.of)-v.rows {
		return // in rows
	}
	for _, a := range various[v.of[i]].answers {
		require.False(v.t, acceptedWith(p, m.Witness.Filling(), m.Item, a), "%v to %s of\n%s", a, m, p.Form.JSON())
	}
}

// Where editions come out otherwise for an answer of any type, that is said, or said to be
// undecided: another question stands in the place of one, or one of other limits.
func TestNoAnswerContradictsADifference(t *testing.T) {
	limits := strings.NewReplacer(`{2,3}`, `{1,4}`, `"min_length": 10`, `"min_length": 20`, `"08:00"`, `"10:00"`,
		`"max_bytes": 500`, `"max_bytes": 400`, `".doc"`, `"image/png"`, `"step": 0.5`, `"step": 0.25`,
		`"max": 4`, `"max": 3`, `"max_picked": 2`, `"max_picked": 1`,
		`"max": "today + 1 year"`, `"max": "today + 1 month"`)
	said := 0
	rapid.Check(t, func(t *rapid.T) {
		v := &variety{t: t}
		items := v.items()
		later := slices.Clone(items)
		other := &variety{t: t, of: slices.Clone(v.of)}
		switch i := v.n(0, len(items)-1); v.n(0, 2) {
		case 0:
			later[i] = limits.Replace(later[i])
		case 1:
			later[i] = other.item(i)
		default:
			other.of[i] = v.n(0, len(various)-1)
			later[i] = other.item(i)
		}
		old, _ := engine.Load([]byte(formOf(items)))
		now, _ := engine.Load([]byte(formOf(later)))
		if old == nil || now == nil {
			t.Skip("a form with errors")
		}
		o := usual
		o.Left = timed(5 * time.Second)
		found, undecided := proof.Between(old, now, o)
		said += len(found)
		for n := range 30 {
			fl := v.filling()
			if n%2 == 1 {
				fl = other.filling()
			}
			if !taken(old, fl) || !taken(now, fl) {
				continue
			}
			for _, one := range between(now.Form, run(old, fl), run(now, fl)) {
				require.True(t, slices.ContainsFunc(found, func(d proof.Difference) bool {
					return one == fmt.Sprint(d.Effect, " ", d.Item, " ", d.Choice+d.Row, " ", d.Now)
				}) || slices.ContainsFunc(undecided, func(u proof.Undecided) bool {
					f := strings.Split(one, " ")
					return u.At == f[1]+"."+f[0]
				}), "%s with %v of\n%s\nand\n%s", one, fl, formOf(items), formOf(later))
			}
		}
	})
	t.Logf("%d differences", said)
}

// taken reports whether all answers can be read and keep the fixed limits of their questions.
// What does not is refused wherever it is asked, and left aside where editions are compared.
func taken(p *engine.Program, fl engine.Filling) bool {
	for key, raw := range fl.Answers {
		if v, ok := p.ReadAnswer(key, raw); !ok || !p.Fits(key, v) {
			return false
		}
	}
	return true
}

// withoutPart leaves out the part of a condition of which it is claimed that it makes no
// difference.
func (v *variety) withoutPart(p *engine.Program, m proof.Remark, all []engine.Filling) {
	property := m.At[strings.LastIndexByte(m.At, '.')+1:]
	if m.Kind != proof.NoDifference || property != "shown" && property != "required" || strings.Contains(m.At, ".rows.") {
		return
	}
	n, err := expr.Parse(m.Shorter)
	require.NoError(v.t, err)
	code, faults := expr.CompileCondition(n, p.Scope(m.Item))
	require.Empty(v.t, faults)
	for _, fl := range all {
		o := run(p, fl)
		for row := range 2 {
			truth, there, ok := o.Truth(m.Item, property, row)
			if st := o.State(m.Item, row); !ok || !there || st == nil || st.Item() == nil || property == "required" &&
				!st.Part() {
				continue
			}
			require.Equal(v.t, truth == expr.Met, o.TruthOf(code, m.Item, row, engine.Candidate{}) == expr.Met,
				"%s with %v in row %d of\n%s", m, fl, row, p.Form.JSON())
			if pl, _ := p.Form.Find(m.Item); pl.Section.Repeat == nil {
				break
			}
		}
	}
}
