package engine_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"pgregory.net/rapid"

	"lazo/core/expr"
	"lazo/core/form"
)

// maker draws random forms that are sound but for circles. An item mostly
// depends on earlier ones, now and then on a later one.
type maker struct {
	t       *rapid.T
	f       *form.Form
	specs   []spec
	at      int    // the number of the item at hand; what is before it is preferred
	row     string // the repeating section at hand, or ""
	inside  bool   // within a look over rows
	choices []string
}

// spec is an item before its ties are drawn.
type spec struct {
	item    *form.Item
	section string // of a repeating section, or ""
	kind    string // text, number, yes, date, choice, choices, ""
}

func (m *maker) chance(percent int, name string) bool {
	return rapid.IntRange(0, 99).Draw(m.t, name) < percent
}
func (m *maker) pick(name string, from ...string) string {
	return rapid.SampledFrom(from).Draw(m.t, name)
}
func (m *maker) n(name string, low, high int) int { return rapid.IntRange(low, high).Draw(m.t, name) }

var zones = []string{"America/Montevideo", "Europe/Madrid", "Australia/Lord_Howe", "Asia/Kathmandu", "America/Asuncion",
	"UTC"}

func drawForm(t *rapid.T) *form.Form {
	m := &maker{t: t}
	m.f = &form.Form{Lazo: 1, Key: "t", Title: "T", Timezone: m.pick("zone", zones...),
		Parameters: []form.Parameter{{Name: "club"}, {Name: "days"}, {Name: "crew", Type: "number"},
			{Name: "on", Type: "date"},
			{Name: "shore", Values: &form.ParameterValues{Written: []form.ParameterValue{{Value: "n", Label: "North"},
				{Value: "s"}}}}},
		Lists: map[string]form.List{"piers": {Entries: []form.Entry{
			{"code": "n1", "name": "North pier", "shore": "north", "berths": json.Number("4")},
			{"code": "s1", "name": "South pier", "shore": "south", "berths": json.Number("12")},
			{"code": "s2", "name": "Old slip", "shore": "south"}}}}}
	number := 0
	for p := range m.n("pages", 1, 3) {
		page := &form.Page{Key: fmt.Sprintf("p%d", p)}
		for s := range m.n("sections", 1, 2) {
			sec := &form.Section{Key: fmt.Sprintf("s%d_%d", p, s)}
			group := ""
			if m.chance(25, "repeat") {
				sec.Repeat = &form.Repeat{Min: m.n("min", 0, 2), Max: m.n("max", 2, 4)}
				group = sec.Key
			}
			for range m.n("items", 1, 4) {
				sp := m.item(fmt.Sprintf("q%d", number))
				sp.section = group
				sec.Items = append(sec.Items, sp.item)
				m.specs = append(m.specs, sp)
				number++
			}
			page.Sections = append(page.Sections, sec)
		}
		m.f.Pages = append(m.f.Pages, page)
	}
	m.ties()
	return m.f
}

func (m *maker) item(key string) spec {
	it := &form.Item{Key: key, Label: strings.ToUpper(key)}
	sp := spec{item: it}
	it.Type = rapid.SampledFrom([]form.Type{
		form.Text, form.Number, form.Number, form.Scale, form.Date, form.YesNo, form.Tick, form.ChoiceType,
		form.ChoiceType, form.ChoicesType, form.Ranking, form.Grid, form.Note, form.Hidden, form.Calculation}).Draw(m.t,
		"type")
	sp.kind = map[form.Type]string{form.Text: "text", form.Number: "number", form.Scale: "number", form.Date: "date",
		form.YesNo:      "yes",
		form.Tick:       "yes",
		form.ChoiceType: "choice", form.ChoicesType: "choices", form.Ranking: "choices", form.Grid: "grid"}[it.Type]
	switch {
	case it.Type.Picks() && m.chance(25, "list"):
		it.ChoicesFrom = &form.ChoicesFrom{List: "piers", Value: "code", Label: "name"}
	case it.Type.Picks():
		it.Choices = []form.Choice{{Value: "a", Label: "Alpha"}, {Value: "b", Label: "Beta"}, {Value: "c", Label: "Gamma"}}
		it.Choices[2].Other = it.Type != form.Ranking && m.chance(50, "other")
	case it.Type == form.Grid:
		it.Choices = []form.Choice{{Value: "a", Label: "Alpha"}, {Value: "b", Label: "Beta"}}
		it.Rows, it.Many = []form.GridRow{{Key: "x"}, {Key: "y"}}, m.chance(40, "many")
	case it.Type.Computed():
		sp.kind = m.pick("computed", "text", "number", "yes", "date")
	}
	return sp
}

func (m *maker) ties() {
	at := 0
	for pi, p := range m.f.Pages {
		m.at, m.row = at, ""
		p.Staff = m.chance(5, "page staff")
		if pi > 0 && m.chance(25, "page shown") {
			p.Shown = form.When(m.cond(1))
		}
		if m.chance(10, "page check") {
			p.Checks = []form.Check{{OK: m.cond(1), Message: "No"}}
		}
		for _, s := range p.Sections {
			m.at, m.row = at, ""
			s.Staff = m.chance(5, "section staff")
			if m.chance(20, "section shown") {
				s.Shown = form.When(m.cond(1))
			}
			if m.chance(15, "section check") && s.Repeat == nil {
				s.Checks = []form.Check{{OK: m.cond(1), Message: "No"}}
			}
			if s.Repeat != nil && m.chance(50, "rows") {
				s.Repeat.Rows = m.number(1)
			}
			for range s.Items {
				m.at = at
				if s.Repeat != nil {
					m.row = s.Key
				}
				m.itemTies(m.specs[at])
				at++
			}
		}
		m.at, m.row = at, ""
		for q := pi + 1; q < len(m.f.Pages); q++ {
			if m.chance(25, "next") {
				p.Next = append(p.Next, form.Next{When: m.cond(1), Page: m.f.Pages[q].Key})
			}
		}
	}
}

func (m *maker) rule(percent int, name string) form.Rule {
	switch {
	case !m.chance(percent, name):
		return form.Rule{}
	case m.chance(15, name+" fixed"):
		return form.Rule{Fixed: true, Yes: m.chance(50, name+" yes")}
	}
	return form.When(m.cond(2))
}

func (m *maker) itemTies(sp spec) {
	it := sp.item
	it.Shown = m.rule(45, "shown")
	it.Parked = m.chance(4, "parked")
	it.Staff = m.chance(6, "staff")
	if it.Type == form.Note {
		return
	}
	it.Required = m.rule(30, "required")
	it.Locked = m.rule(20, "locked")
	if m.chance(15, "keep") {
		it.WhenHidden = m.pick("when hidden", "keep", "fill")
	}
	if m.chance(8, "not stored") {
		no := false
		it.Stored = &no
	}
	switch {
	case it.Type.Computed():
		it.Value = &form.Value{Is: m.value(sp.kind, 2), Once: m.chance(15, "once")}
	case it.Type != form.Ranking && it.Type != form.Grid && m.chance(25, "value"):
		src := m.filler(sp.kind)
		switch m.n("how", 0, 3) {
		case 0:
			it.Value = &form.Value{Starts: src}
		case 1:
			it.Value = &form.Value{Follows: src}
		case 2:
			it.Value = &form.Value{Follows: src, When: m.cond(1)}
		default:
			it.Value = &form.Value{Is: src, Once: m.chance(40, "once")}
		}
	}
	if it.Type.Picks() || it.Type == form.Grid {
		m.choices = []string{"a", "b", "c"}[:len(it.Choices)]
		if it.ChoicesFrom != nil {
			m.choices = []string{"n1", "s1", "s2"}
			if m.chance(60, "where") {
				it.ChoicesFrom.Where = m.pick(
					"where", `entry.shore = url.club`, `entry.shore = `+m.text(0), m.text(0)+` = entry.shore and `+m.cond(0),
					`entry.berths > `+m.number(0), `entry.shore = "south" and `+m.cond(0),
				)
			}
		}
		candidate := m.candidate
		if it.Type == form.Grid { // which is in no relation to a choice itself
			candidate = func() string { return `choice != "a" or ` + m.cond(0) }
		}
		if m.chance(20, "question offered") {
			it.Offered = form.When(candidate())
		}
		if m.chance(20, "question withheld") {
			it.Withheld = form.When(candidate())
		}
		m.choices = nil
		for i := range it.Choices {
			it.Choices[i].Offered = m.rule(10, "offered")
			it.Choices[i].Withheld = m.rule(10, "withheld")
		}
	}
	if m.chance(15, "check") {
		it.Checks = []form.Check{{OK: m.cond(1), Message: "no"}}
	}
	if m.chance(15, "wording") {
		it.Wording = []form.Wording{{When: m.cond(1), Label: "Other"}, {When: m.cond(0), Help: "Help"}}
	}
	for i := range it.Rows {
		it.Rows[i].Shown = m.rule(30, "grid row")
	}
	m.limits(it)
	if it.Type.Picks() && m.row == "" && m.chance(25, "places") {
		it.Places = m.placesBound()
		for i := range it.Choices {
			if m.chance(25, "places of a choice") {
				it.Choices[i].Places = m.placesBound()
			}
		}
	}
}

// placesBound draws how many places there are.
func (m *maker) placesBound() *form.Bound {
	if m.chance(40, "places by the clock") {
		return &form.Bound{Text: m.pick("places", "if(today < 2026-05-11, 1, 3)", "if(weekday = \"sun\", 2.5, 0 - 1)",
			"2 + 1")}
	}
	return form.BoundOf(m.n("number of places", 0, 3))
}

func (m *maker) limits(it *form.Item) {
	if !m.chance(20, "limits") {
		return
	}
	switch it.Type {
	case form.Number:
		it.Min, it.Max = m.bound("1", m.number), m.bound("20", m.number)
	case form.Scale:
		it.Min, it.Max = m.bound("0", m.number), m.bound("3", m.number)
	case form.Date:
		it.Max = m.bound("2026-05-10", m.date)
	case form.Text:
		it.MaxLength = m.bound("4", m.number)
	case form.ChoicesType:
		it.MaxPicked = m.bound("2", m.number)
	}
}

// bound draws a fixed bound or an expression.
func (m *maker) bound(fixed string, draw func(depth int) string) *form.Bound {
	if m.chance(50, "computed bound") {
		return &form.Bound{Text: draw(1)}
	}
	if n, err := expr.ParseNumber(fixed); err == nil {
		return &form.Bound{Number: &n}
	}
	return &form.Bound{Text: fixed}
}

func (m *maker) candidate() string {
	if self := m.specs[m.at]; m.row != "" && m.chance(40, "others") {
		is := map[string]string{"choice": " = choice", "choices": " has choice"}[self.kind]
		return "others(" + m.row + ", " + self.item.Key + is + ") " + m.pick("taken", "> 0", "= 0", "< 2")
	}
	v := m.pick("candidate", m.choices...)
	return m.pick("candidate op", "choice = ", "choice != ") + expr.Quote(v) + m.pick("join", " or ", " and ") + m.cond(0)
}

// names lists the keys of a kind that can be named at this place.
func (m *maker) names(kind string) []string {
	var before, all []string
	for i, sp := range m.specs {
		if sp.kind != kind || i == m.at || sp.section != "" && sp.section != m.row {
			continue
		}
		all = append(all, sp.item.Key)
		if i < m.at {
			before = append(before, sp.item.Key)
		}
	}
	if len(before) > 0 && m.n("later", 0, 99) < 92 {
		return before
	}
	if m.n("forward", 0, 99) < 30 {
		return all
	}
	return before
}

// columns lists GROUP.KEY of a kind over earlier repeating sections.
func (m *maker) columns(kind string) []string {
	var out []string
	for i, sp := range m.specs {
		if sp.kind == kind && sp.section != "" && sp.section != m.row && i < m.at {
			out = append(out, sp.section+"."+sp.item.Key)
		}
	}
	return out
}

func (m *maker) groups() []string {
	var out []string
	for i, sp := range m.specs {
		if sp.section != "" && sp.section != m.row && i < m.at && (len(out) == 0 || out[len(out)-1] != sp.section) {
			out = append(out, sp.section)
		}
	}
	return out
}

func (m *maker) one(kind string) string {
	if names := m.names(kind); len(names) > 0 {
		return m.pick(kind, names...)
	}
	return ""
}

// cell draws a condition on one row of a grid, or on all of it.
func (m *maker) cell(key string) string {
	for _, sp := range m.specs {
		if sp.item.Key != key {
			continue
		}
		cell := key + "." + m.pick("row", "x", "y")
		if sp.item.Many {
			return m.pick("cells", cell+` has "a"`, cell+` has none ("b")`, cell+" is blank", key+" is answered")
		}
		return m.pick("cell", cell+` = "a"`, cell+` != "b"`, cell+` in ("a", "b")`, cell+" is answered", key+" is blank")
	}
	return key + " is blank"
}

func (m *maker) cond(depth int) string {
	if depth > 0 {
		switch m.n("logic", 0, 5) {
		case 0:
			return "(" + m.cond(depth-1) + " and " + m.cond(depth-1) + ")"
		case 1:
			return "(" + m.cond(depth-1) + " or " + m.cond(depth-1) + ")"
		case 2:
			return "(not " + m.cond(depth-1) + ")"
		}
	}
	op := func() string { return m.pick("op", "=", "!=", "<", "<=", ">", ">=") }
	for {
		switch m.n("condition", 0, 16) {
		case 16:
			if k := m.one("grid"); k != "" {
				return m.cell(k)
			}
		case 0:
			return m.number(depth) + " " + op() + " " + m.number(depth)
		case 1:
			return m.date(depth) + " " + op() + " " + m.date(depth)
		case 2:
			if k := m.one("choice"); k != "" {
				return k + " " + m.pick("op", "=", "!=") + " " + expr.Quote(m.choiceOf(k))
			}
		case 3:
			if k := m.one("choice"); k != "" {
				return k + m.pick("in", " in ",
					" not in ") + "(" + expr.Quote(m.choiceOf(k)) + ", " + expr.Quote(m.choiceOf(k)) + ")"
			}
		case 4:
			if k := m.one("choices"); k != "" {
				return k + " has " + m.pick("how", "any ", "all ",
					"none ") + "(" + expr.Quote(m.choiceOf(k)) + ", " + expr.Quote(m.choiceOf(k)) + ")"
			}
		case 5:
			if k := m.one("yes"); k != "" {
				return m.pick("yes", k, k+" = no", k+" is blank")
			}
		case 6:
			return m.text(depth) + m.pick("test", " contains ", " starts with ", " ends with ", " = ", " < ") + m.text(depth)
		case 7:
			kind := m.pick("blank of", "text", "number", "date", "choice", "choices", "yes")
			if k := m.one(kind); k != "" {
				return k + m.pick("blank", " is blank", " is answered")
			}
		case 8:
			return m.pick("clock", `weekday = "sat"`, `weekday in ("mon", "tue")`, "time >= 18:00", "time < 02:30",
				"now >= 2026-05-10T18:00", "now < 2026-10-04T02:30", "today = 2026-05-10",
				"today between 2026-05-09 and 2026-06-01")
		case 9:
			return m.pick("mode", `mode = "new"`, `mode != "staff"`, `mode = "revisit"`)
		case 10:
			return m.pick("url", `url.club = "north"`, `url.days has "sat"`, "url.club is answered",
				`url.days has none ("sun", "mon")`,
				`url.shore = "n"`, `url.shore in ("s")`, `url.shore has any ("n", "s")`, "url.shore is blank", "url.crew > 4",
				"url.on < today")
		case 11:
			return m.number(depth) + " between " + m.number(0) + " and " + m.number(0)
		case 12:
			if g := m.groups(); len(g) > 0 {
				group := m.pick("group", g...)
				return m.pick("rows", "any", "every") + "(" + group + ", " + m.inRow(group) + ")"
			}
		case 13:
			if m.row != "" {
				return "row_number " + op() + " 2"
			}
		case 14:
			if g := m.groups(); len(g) > 0 {
				group := m.pick("group", g...)
				return "unique(" + group + ", " + m.eachRow(group, m.pick("same", "text", "number", "date")) + ")"
			}
		case 15:
			if m.row != "" && m.canAsk() {
				return "others(" + m.row + ", " + m.inRow(m.row) + ") " + op() + " " + m.pick("how many", "0", "1")
			}
		}
	}
}

// canAsk reports whether the row at hand is one of the section that is being tied, so
// that others can look at the rest of its rows.
func (m *maker) canAsk() bool {
	return m.at < len(m.specs) && m.specs[m.at].section == m.row && !m.inside
}

// eachRow draws a value as seen from a row of another section.
func (m *maker) eachRow(group, kind string) string {
	outer, inside := m.row, m.inside
	m.row, m.inside = group, true
	defer func() { m.row, m.inside = outer, inside }()
	return m.value(kind, 0)
}

// inRow draws a condition as seen from a row of another section.
func (m *maker) inRow(group string) string {
	outer, inside := m.row, m.inside
	m.row, m.inside = group, true
	defer func() { m.row, m.inside = outer, inside }()
	return m.cond(0)
}

// drawn is a question with one choice out of the list of piers, or "".
func (m *maker) drawn() string {
	k := m.one("choice")
	for _, sp := range m.specs {
		if sp.item.Key == k && sp.item.ChoicesFrom != nil {
			return k
		}
	}
	return ""
}

// brings is an earlier question with a choice that brings a text, "" if there is none.
func (m *maker) brings() string {
	var with []string
	for _, key := range append(m.names("choice"), m.names("choices")...) {
		if slices.ContainsFunc(m.specs, func(sp spec) bool { return sp.item.Key == key && sp.item.Other() != "" }) {
			with = append(with, key)
		}
	}
	if len(with) == 0 {
		return ""
	}
	return m.pick("brings", with...)
}

func (m *maker) choiceOf(key string) string {
	for _, sp := range m.specs {
		if sp.item.Key == key && sp.item.ChoicesFrom != nil {
			return m.pick("entry", "n1", "s1", "s2")
		}
	}
	return m.pick("choice", "a", "b", "C") // text comparison ignores case
}

func (m *maker) number(depth int) string {
	for {
		switch m.n("number", 0, 16) {
		case 16:
			return "url.crew"
		case 0, 1:
			return m.pick("literal", "0", "1", "2", "3", "12", "18", "2.5")
		case 2, 3, 4:
			if k := m.one("number"); k != "" {
				return k
			}
		case 5:
			if depth > 0 {
				return "(" + m.number(depth-1) + m.pick("arith", " + ", " - ", " * ") + m.number(depth-1) + ")"
			}
		case 6:
			if c := m.columns("number"); len(c) > 0 {
				return m.pick("aggregate", "sum", "min", "max", "count") + "(" + m.pick("column", c...) + ")"
			}
		case 7:
			if g := m.groups(); len(g) > 0 {
				group := m.pick("group", g...)
				return m.pick("count", "count("+group+")", "count("+group+", "+m.inRow(group)+")")
			}
		case 8:
			if k := m.one("choices"); k != "" {
				return "count(" + k + ")"
			}
		case 9:
			if depth > 0 {
				return m.pick("dates", "age", "days", "months", "years") + "(" + m.date(0) + ", " + m.date(0) + ")"
			}
		case 10:
			if k := m.one("date"); k != "" {
				return "age(" + k + ")"
			}
		case 11:
			if depth > 0 {
				return "if(" + m.cond(0) + ", " + m.number(0) + ", " + m.number(0) + ")"
			}
		case 13:
			if g := m.groups(); len(g) > 0 {
				group := m.pick("group", g...)
				return m.pick("aggregate", "sum", "average", "min", "max") + "(" + group + ", " + m.eachRow(group, "number") + ")"
			}
		case 14:
			if depth > 0 {
				return m.pick("part", "year", "month", "day") + "(" + m.date(0) + ")"
			}
		case 15:
			if k := m.drawn(); k != "" {
				return k + ".berths"
			}
		case 12:
			if depth > 0 {
				return m.pick("fn", "round(", "floor(", "ceil(", "abs(", "first(0 - ", "-(") + m.number(depth-1) + ")"
			}
		}
	}
}

func (m *maker) date(depth int) string {
	for {
		switch m.n("date", 0, 4) {
		case 0:
			return m.pick("literal", "2026-05-10", "2026-02-28", "2024-02-29", "2008-02-29", "2026-12-31")
		case 1:
			return "today"
		case 2, 3:
			if k := m.one("date"); k != "" {
				return k
			}
		case 4:
			if depth > 0 {
				return "(" + m.date(
					depth-1,
				) + m.pick(
					"shift", " + ", " - ",
				) + m.pick(
					"span", "14 days", "2 weeks", "1 month", "18 years", "3 months",
				) + ")"
			}
		}
	}
}

func (m *maker) text(depth int) string {
	for {
		switch m.n("text", 0, 9) {
		case 9:
			if k := m.brings(); k != "" {
				return k + ".other"
			}
		case 0:
			return expr.Quote(m.pick("literal", "a", "North", "pier", "x"))
		case 1, 2:
			if k := m.one("text"); k != "" {
				return k
			}
		case 3:
			return "url.club"
		case 4:
			if k := m.one("choice"); k != "" {
				return "first(" + k + ", \"none\")" // a text, so that any text may be compared with it
			}
		case 6:
			if k := m.drawn(); k != "" {
				return k + ".shore"
			}
		case 7:
			if k := m.one("choice"); k != "" {
				return m.pick("words", "label", "value") + "(" + k + ")"
			}
		case 8:
			if depth > 0 {
				return "join(\" \", " + m.date(0) + ", weekday(" + m.date(0) + "))"
			}
		case 5:
			if depth > 0 {
				return "join(\"-\", " + m.text(depth-1) + ", " + m.number(0) + ")"
			}
		}
	}
}

func (m *maker) value(kind string, depth int) string {
	switch kind {
	case "number":
		return m.number(depth)
	case "yes":
		return m.cond(depth)
	case "date":
		return m.date(depth)
	}
	return m.text(depth)
}

// filler draws a value that can fill a question of the kind.
func (m *maker) filler(kind string) string {
	if m.chance(30, "from address") {
		if kind == "choice" && m.chance(50, "of values") {
			return "url.shore"
		}
		return m.pick("param", "url.club", "url.days")
	}
	switch kind {
	case "choice", "choices":
		if m.choices == nil && m.chance(50, "written") {
			return "url.days"
		}
		return m.pick("filler", "url.club", "url.days")
	}
	return m.value(kind, 1)
}

// drawAnswers draws answers for a form, some absent, some blank, some wrong.
func drawAnswers(t *rapid.T, f *form.Form, name string) map[string]any {
	out := map[string]any{}
	for _, p := range f.Pages {
		for _, s := range p.Sections {
			into := []map[string]any{out}
			if s.Repeat != nil {
				n := rapid.IntRange(-1, 5).Draw(t, name+" rows")
				if n < 0 {
					continue
				}
				into = nil
				rows := []any{}
				named := rapid.IntRange(0, 2).Draw(t, name+" named")
				for range n {
					row := map[string]any{}
					if id := rapid.SampledFrom([]string{"", "a", "b", "c", "d"}).Draw(t, name+" row"); named > 0 && id != "" {
						row["_row"] = id
					}
					into, rows = append(into, row), append(rows, row)
				}
				out[s.Key] = rows
			}
			for _, row := range into {
				for _, it := range s.Items {
					if v, ok := drawAnswer(t, it, name); ok {
						row[it.Key] = v
					}
				}
			}
		}
	}
	return out
}

func drawAnswer(t *rapid.T, it *form.Item, name string) (any, bool) {
	text := func(from ...string) (any, bool) { return rapid.SampledFrom(from).Draw(t, name+" "+it.Key), true }
	switch rapid.IntRange(0, 9).Draw(t, name+" state") {
	case 0, 1:
		return nil, false
	case 2:
		return nil, true
	case 3:
		return text("", "nonsense")
	}
	switch it.Type {
	case form.Number, form.Scale:
		return json.Number(rapid.SampledFrom([]string{
			"0", "1", "2", "2.5", "12", "18", "400", "-3", "0.3333333333333333333333333333333333",
			"0.0000000000000000000000000000000001", "9999999999999999999999999999999995",
		}).Draw(t, name+" "+it.Key)), true
	case form.Grid:
		cells := map[string]any{}
		for _, row := range []string{"x", "y", "z"} {
			switch rapid.IntRange(0, 4).Draw(t, name+" cell") {
			case 0:
				cells[row] = ""
			case 1, 2:
				cells[row] = rapid.SampledFrom([]string{"a", "Beta", "zz"}).Draw(t, name+" cell")
			case 3:
				if it.Many {
					cells[row] = []any{"b", rapid.SampledFrom([]string{"a", "b", "zz"}).Draw(t, name+" cell")}
				}
			}
		}
		return cells, true
	case form.Date:
		return text("2026-05-10", "2008-02-29", "2010-07-01", "2026-05-11", "1990-12-31", "0001-01-03", "9999-12-25")
	case form.YesNo, form.Tick:
		return rapid.Bool().Draw(t, name+" "+it.Key), true
	case form.ChoiceType:
		if drawsOther(t, it, name) {
			return drawOther(t, name), true
		}
		return text("a", "b", "c", "B", "Gamma", "n1", "s1", "Old slip")
	case form.ChoicesType, form.Ranking:
		picks := []any{}
		for range rapid.IntRange(0, 3).Draw(t, name+" picks") {
			picks = append(picks, rapid.SampledFrom([]string{"a", "b", "c", "Beta", "n1", "s2", "zz"}).Draw(t, name+" pick"))
		}
		if drawsOther(t, it, name) {
			picks = append(picks, drawOther(t, name))
		}
		return picks, true
	}
	return text("North", "pier", "x", " a ", "Northern", "NORTH pier")
}

// drawsOther decides whether a pick is sent with a text: of half the questions that take
// one, and of a few that don't.
func drawsOther(t *rapid.T, it *form.Item, name string) bool {
	n := rapid.IntRange(0, 9).Draw(t, name+" other")
	return n == 0 || it.Other() != "" && n < 5
}

// drawOther draws a pick with a text of its own, for a choice that takes one or not.
func drawOther(t *rapid.T, name string) any {
	return map[string]any{
		"value": rapid.SampledFrom([]string{"c", "c", "c", "a", "zz"}).Draw(t, name+" pick"),
		"text":  rapid.SampledFrom([]string{"North", " By swan ", "x", "", " "}).Draw(t, name+" text"),
	}
}

func drawMoment(t *rapid.T, f *form.Form) time.Time {
	loc, _ := time.LoadLocation(f.Timezone)
	base := rapid.SampledFrom([]string{"2026-05-10T17:59:59", "2026-05-10T18:00:00", "2026-02-28T12:00:00",
		"2026-10-04T02:15:00",
		"2026-05-16T23:59:59", "2026-03-29T01:30:00", "2026-12-31T23:00:00"}).Draw(t, "moment")
	at, _ := time.ParseInLocation("2006-01-02T15:04:05", base, loc)
	return at.Add(time.Duration(rapid.IntRange(-3, 3).Draw(t, "hours")) * time.Hour)
}
