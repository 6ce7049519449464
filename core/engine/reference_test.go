package engine_test

import (
	"encoding/json"
	"fmt"
	"math/big"
	"regexp"
	"slices"
	"sort"
	"strings"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
)

// reference is a second evaluator, slow and obvious, written from the
// description of the language and sharing nothing with the engine but the
// syntax tree. It works on demand: asking for an item's value asks for whatever
// that depends on. Numbers are fractions; blank is nil.
type reference struct {
	form           *form.Form
	answers, prior map[string]any
	url            map[string][]string
	at             time.Time
	mode           string
	loc            *time.Location
	memo           map[string]*refItem
	routes         map[int]bool
	unmatched      map[string]bool
	past           *reference // the same form on the prior answers alone, in a change
	isPast         bool
	stored         bool // answers count as they were stored, shown or not
	taken          map[string]map[string]int

	as   string       // the mode as conditions see it
	ways []*reference // in a change: the same form as if in each other mode
	is   *reference   // of one that is only as if: the form as it is
}

type (
	refGrid  map[string]any // what was picked in each row: a text, or several
	refOther struct {       // a pick, or several, and what was written for the one that brings a text
		picks    any
		of, text string
	}
	refDay    int // days since 1970
	refTime   int // seconds after midnight
	refMoment int64
	refSpan   struct{ months, days, secs int }
)

type refItem struct {
	part, shown, locked bool
	value               any
	choices, full       []string
	problems            int
	own                 bool // the respondent's
	kept                bool
	closed              bool
	emptied             bool
}

func newReference(
	f *form.Form, answers, prior map[string]any, url map[string][]string, at time.Time, mode string,
) *reference {
	loc, _ := time.LoadLocation(f.Timezone)
	url, strange := refParameters(f, url)
	make := func(answers map[string]any, isPast bool) *reference {
		return &reference{form: f.Office(), answers: answers, prior: prior, url: url, at: at.Truncate(time.Second),
			mode: mode, loc: loc,
			memo: map[string]*refItem{}, routes: map[int]bool{}, unmatched: map[string]bool{}, isPast: isPast}
	}
	r := make(answers, false)
	for _, name := range strange {
		r.unmatched["url."+name] = true
	}
	if mode != "new" && prior != nil {
		r.past = make(map[string]any{}, true)
		all := []*reference{r}
		for _, as := range []string{"new", "revisit", "staff"} {
			if as != mode {
				w := make(answers, false)
				w.as, w.is, w.past = as, r, r.past
				all = append(all, w)
			}
		}
		for _, w := range all {
			w.ways = all
		}
	}
	return r
}

// refParameters are the parameters without what is not of their type or none of their values,
// and the names of those that brought any.
func refParameters(f *form.Form, url map[string][]string) (is map[string][]string, strange []string) {
	is = map[string][]string{}
	for name, given := range url {
		p := f.Parameters[slices.IndexFunc(f.Parameters, func(p form.Parameter) bool { return p.Name == name })]
		bad := false
		for _, text := range given {
			parts := []string{text}
			if _, ok := refParameter(p, text); !ok && strings.Contains(text, ",") {
				parts = strings.Split(text, ",")
			}
			for _, part := range parts {
				v, ok := refParameter(p, part)
				if ok {
					is[name] = append(is[name], v)
				}
				bad = bad || !ok && strings.TrimSpace(part) != ""
			}
		}
		if bad {
			strange = append(strange, name)
		}
	}
	return is, strange
}

// refParameter is one value of a parameter.
func refParameter(p form.Parameter, text string) (string, bool) {
	trimmed := strings.TrimSpace(text)
	switch {
	case p.Values != nil:
		for _, of := range []func(form.ParameterValue) string{
			func(v form.ParameterValue) string { return v.Value }, func(v form.ParameterValue) string { return v.Label },
		} {
			for _, v := range p.Values.Written {
				if strings.EqualFold(of(v), trimmed) && trimmed != "" {
					return v.Value, true
				}
			}
		}
		return "", false
	case p.Type == "number":
		n, ok := new(big.Rat).SetString(trimmed)
		return trimmed, ok && n != nil
	case p.Type == "date":
		_, err := time.Parse(time.DateOnly, trimmed)
		return trimmed, err == nil
	}
	return text, true
}

// isOrOtherwise is the form as it is, for one that is only as if in another mode.
func (r *reference) isOrOtherwise() *reference {
	if r.is != nil {
		return r.is
	}
	return r
}

// keeps reports whether what is not shown would be if only the mode were another, so that it
// keeps what the response has.
func (r *reference) keeps(shown func(w *reference) bool) bool {
	return slices.ContainsFunc(r.ways, func(w *reference) bool { return w != r && shown(w) })
}

// fitsOtherwise reports whether a response that is changed keeps what its limits would allow if
// only the mode were another.
func (r *reference) fitsOtherwise(it *form.Item, v any, sc refScope) bool {
	as := r.as
	defer func() { r.as = as }()
	return r.mode != "new" && slices.ContainsFunc([]string{"new", "revisit", "staff"}, func(mode string) bool {
		r.as = mode // what the limits read; who fills it in stays who it is
		return r.limits(it, v, sc) == 0
	})
}

// scope is where an expression is evaluated.
type refScope struct {
	section string // "" outside rows
	row     int
	entry   form.Entry
	choice  any
	self    string // the question whose tie it is
	anew    bool   // nothing is held from before
	asker   int    // inside others: the row that asks, from 1
}

// with has places taken.
func (r *reference) with(taken map[string]map[string]int) *reference {
	r.taken = taken
	if r.past != nil {
		r.past.taken = taken
	}
	for _, w := range r.ways {
		w.taken = taken
	}
	return r
}

func (r *reference) run() map[string]any {
	items, sections := map[string]any{}, map[string]any{}
	route := []string{}
	accepted := true
	stored := map[string]any{}
	show := func(it *form.Item, sc refScope, into map[string]any) map[string]any {
		sc.self = it.Key
		st := r.item(it.Key, sc)
		req := st.shown && it.Type != form.Note && r.rule(it.Required, false, sc) &&
			(it.IsStored() || r.past == nil || namesMode(it.Required))
		if st.shown && !st.closed && req && st.problems == 0 &&
			(it.Type != form.Grid && blank(st.value) || it.Type == form.Tick && st.value == false ||
				it.Type == form.Grid && r.unanswered(it, st.value, sc)) {
			st.problems++
		}
		if st.part {
			if st.shown && !st.closed {
				st.problems += r.limits(it, st.value, sc)
			}
			for _, ch := range it.Checks {
				if r.eval(ch.OK, sc) == false {
					st.problems++
				}
			}
		}
		if st.problems > 0 && st.part {
			accepted = false
		}
		if (st.part || st.kept) && it.IsStored() && !blank(st.value) && it.Type != form.Note {
			into[it.Key] = refJSON(st.value, r.loc)
		} else if (st.part || st.kept) && it.IsStored() && st.emptied && it.Value != nil {
			into[it.Key] = nil
		}
		label := it.Label
		if st.part {
			for _, w := range it.Wording {
				if r.eval(w.When, sc) == true {
					if w.Label != "" {
						label = w.Label
					}
					break
				}
			}
		}
		out := map[string]any{
			"shown": st.shown, "required": req, "locked": st.locked, "value": refJSON(st.value, r.loc),
			"label": label, "problems": st.problems > 0,
		}
		if it.Type.Picks() && st.shown {
			out["choices"] = st.choices
		}
		if len(st.full) > 0 {
			out["full"] = st.full
		}
		if it.Type == form.Grid && st.shown {
			rows := map[string]any{}
			for _, row := range it.Rows {
				rows[row.Key] = map[string]any{"shown": r.rule(row.Shown, true, sc), "label": row.Name()}
			}
			out["rows"], out["choices"] = rows, st.choices
		}
		return out
	}
	pages := map[string]any{}
	for pi, p := range r.form.Pages {
		seen := !p.Staff || r.mode == "staff"
		if r.onRoute(pi) && seen {
			route = append(route, p.Key)
		}
		if len(p.Checks) > 0 {
			bad := r.onRoute(pi) && seen && r.refused(p.Checks)
			accepted = accepted && !bad
			pages[p.Key] = map[string]any{"problems": bad}
		}
		for _, s := range p.Sections {
			seen := !s.Staff || r.mode == "staff"
			sections[s.Key] = map[string]any{"shown": r.sectionShown(s.Key) && seen}
			if s.Repeat == nil {
				for _, it := range s.Items {
					items[it.Key] = show(it, refScope{}, stored)
				}
				if len(s.Checks) > 0 {
					bad := r.sectionShown(s.Key) && seen && r.refused(s.Checks)
					accepted = accepted && !bad
					sections[s.Key] = map[string]any{"shown": r.sectionShown(s.Key) && seen, "problems": bad}
				}
				continue
			}
			count, tooMany := r.rows(s)
			rows, kept := []any{}, []any{}
			some := false
			for n := range count {
				row, storedRow := map[string]any{}, map[string]any{}
				for _, it := range s.Items {
					row[it.Key] = show(it, refScope{section: s.Key, row: n}, storedRow)
				}
				some = some || len(storedRow) > 0
				if id := r.rowID(s, n); id != "" {
					storedRow["_row"] = id
				}
				rows, kept = append(rows, row), append(kept, storedRow)
			}
			if tooMany {
				accepted = false
			}
			if some {
				stored[s.Key] = kept
			}
			items[s.Key] = map[string]any{"shown": r.sectionShown(s.Key) && seen, "rows": rows, "problems": tooMany}
		}
	}
	if !accepted {
		stored = map[string]any{}
	}
	unmatched := []string{}
	for k := range r.unmatched {
		unmatched = append(unmatched, k)
	}
	sort.Strings(unmatched)
	out := map[string]any{
		"open": "open", "route": route, "items": items, "sections": sections, "accepted": accepted,
		"stored": stored, "unmatched": unmatched,
	}
	if len(pages) > 0 {
		out["pages"] = pages
	}
	return out
}

// unanswered reports whether a row of a grid that is shown has no answer.
func (r *reference) unanswered(it *form.Item, v any, sc refScope) bool {
	cells, _ := v.(refGrid)
	return slices.ContainsFunc(it.Rows,
		func(row form.GridRow) bool { return r.rule(row.Shown, true, sc) && blank(cells[row.Key]) })
}

// grid reads what was picked in the rows of a grid.
func (r *reference) grid(it *form.Item, cells map[string]any, st *refItem) any {
	one := *it
	if one.Type = form.ChoiceType; it.Many {
		one.Type = form.ChoicesType
	}
	out := refGrid{}
	for _, row := range it.Rows {
		raw, there := cells[row.Key]
		if !there || raw == nil {
			continue
		}
		texts := []string{}
		if s, ok := raw.(string); ok {
			texts = append(texts, s)
		} else {
			for _, e := range raw.([]any) {
				texts = append(texts, e.(string))
			}
		}
		v, bad := r.convert(&one, texts)
		if bad && st != nil {
			r.unmatched[it.Key] = true
		}
		if !blank(v) {
			out[row.Key] = v
		}
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// refused reports whether a check of a section or page is not met.
func (r *reference) refused(checks []form.Check) bool {
	return slices.ContainsFunc(checks, func(c form.Check) bool { return r.eval(c.OK, refScope{}) == false })
}

// namesMode reports whether a rule says that it is about the mode.
func namesMode(ru form.Rule) bool {
	n, err := expr.Parse(ru.Expr)
	named := false
	if err == nil && ru.Expr != "" {
		expr.Walk(n, func(n expr.Node) {
			if name, is := n.(*expr.Name); is && name.Name == "mode" {
				named = true
			}
		})
	}
	return named
}

func (r *reference) onRoute(page int) bool {
	if on, ok := r.routes[page]; ok {
		return on
	}
	earliest := 0
	for i := 0; i <= page; i++ {
		p := r.form.Pages[i]
		on := i >= earliest && r.rule(p.Shown, true, refScope{})
		r.routes[i] = on
		if !on || i == page {
			continue
		}
		earliest = i + 1
		for _, n := range p.Next {
			if r.eval(n.When, refScope{}) == true {
				earliest = slices.IndexFunc(r.form.Pages, func(q *form.Page) bool { return q.Key == n.Page })
				break
			}
		}
	}
	return r.routes[page]
}

func (r *reference) sectionShown(key string) bool {
	for pi, p := range r.form.Pages {
		for _, s := range p.Sections {
			if s.Key == key {
				return r.onRoute(pi) && r.rule(s.Shown, true, refScope{})
			}
		}
	}
	panic("no section " + key)
}

func (r *reference) sentRows(key string) []any {
	if v, ok := r.answers[key]; ok && (r.ways == nil || r.sectionShown(key) && r.isOrOtherwise().sectionShown(key)) {
		rows, _ := v.([]any)
		return rows
	}
	if r.mode != "new" {
		rows, _ := r.prior[key].([]any)
		return rows
	}
	return nil
}

// What was stored stands for answers that are named, not for what follows from them.
func (r *reference) rows(s *form.Section) (count int, tooMany bool) {
	defer func(stored bool) { r.stored = stored }(r.stored)
	r.stored = false
	if !r.sectionShown(s.Key) {
		if r.keeps(func(w *reference) bool { return w.sectionShown(s.Key) }) {
			most := 0
			for _, w := range r.ways {
				if w != r && w.sectionShown(s.Key) {
					n, _ := w.rows(s)
					most = max(most, n)
				}
			}
			return min(most, len(r.sentRows(s.Key))), false
		}
		return 0, false
	}
	n := s.Repeat.Min
	if s.Repeat.Rows != "" {
		if v, ok := r.eval(s.Repeat.Rows, refScope{}).(*big.Rat); ok {
			n = s.Repeat.Limit() + 1
			if whole := refFloor(v); v.Cmp(big.NewRat(int64(n), 1)) < 0 {
				n = max(0, int(whole.Int64()))
				if v.Sign() < 0 {
					n = 0
				}
			}
		}
		if n > s.Repeat.Limit() {
			n, tooMany = s.Repeat.Limit(), true
		}
	} else {
		n = len(r.sentRows(s.Key))
		if n > s.Repeat.Limit() {
			n, tooMany = s.Repeat.Limit(), true
		}
	}
	return max(n, s.Repeat.Min), tooMany
}

// idOf is the identity of a row among others: none for the second of two.
func idOf(rows []any, at int) string {
	if at >= len(rows) {
		return ""
	}
	id := func(i int) string { row, _ := rows[i].(map[string]any); s, _ := row["_row"].(string); return s }
	for i := range at {
		if id(i) == id(at) {
			return ""
		}
	}
	return id(at)
}

// rowBefore is the place of a row among the prior ones; -1 if it is new.
func (r *reference) rowBefore(section string, at int) int {
	before, _ := r.prior[section].([]any)
	now := r.sentRows(section)
	if r.mode == "new" || at >= len(now) {
		return -1
	}
	if _, sent := r.answers[section]; !sent || r.ways != nil &&
		!(r.sectionShown(section) && r.isOrOtherwise().sectionShown(section)) {
		return at // they are the same
	}
	if slices.ContainsFunc(now, func(row any) bool { m, _ := row.(map[string]any); return m["_row"] != nil }) {
		for i := range before {
			if id := idOf(now, at); id != "" && idOf(before, i) == id {
				return i
			}
		}
		return -1
	}
	if at < len(before) {
		return at
	}
	return -1
}

func (r *reference) rowID(s *form.Section, at int) string {
	if id := idOf(r.sentRows(s.Key), at); id != "" {
		return id
	}
	if i := r.rowBefore(s.Key, at); i >= 0 {
		before, _ := r.prior[s.Key].([]any)
		return idOf(before, i)
	}
	return ""
}

func (r *reference) rule(ru form.Rule, otherwise bool, sc refScope) bool {
	switch {
	case ru.IsZero():
		return otherwise
	case ru.Fixed:
		return ru.Yes
	}
	return r.eval(ru.Expr, sc) == true
}

func (r *reference) find(key string) (*form.Item, *form.Section) {
	for p := range r.form.Places() {
		if p.Item.Key == key {
			return p.Item, p.Section
		}
	}
	return nil, nil
}

// raw finds what was sent for an item; ok is false if it is untouched.
func (r *reference) raw(all map[string]any, it *form.Item, sc refScope) (any, bool) {
	if sc.section != "" {
		rows, _ := all[sc.section].([]any)
		if sc.row >= len(rows) {
			return nil, false
		}
		all, _ = rows[sc.row].(map[string]any)
	}
	v, ok := all[it.Key]
	return v, ok
}

func (r *reference) item(key string, sc refScope) *refItem {
	sc.entry, sc.choice, sc.self, sc.asker, sc.anew = nil, nil, key, 0, false
	id := fmt.Sprint(key, "/", sc.section, "/", sc.row)
	if st := r.memo[id]; st != nil {
		return st
	}
	it, s := r.find(key)
	st := &refItem{}
	r.memo[id] = st
	st.part = !it.Parked && r.sectionShown(s.Key) && r.rule(it.Shown, true, sc)
	st.shown = st.part && (!it.Staff || r.mode == "staff")
	if before, had := r.before(it, sc); !st.part && !it.Parked && had && it.Type != form.Note &&
		r.keeps(func(w *reference) bool {
			return (sc.section == "" || sc.row < w.count(sc.section)) && w.item(key, sc).part
		}) {
		said := r.unmatched[it.Key]
		st.kept, st.value = true, r.readStored(it, before)
		st.emptied = blank(st.value) && !r.wrong(it, before)
		if !said { // it is not asked
			delete(r.unmatched, it.Key)
		}
		return st
	}
	if !st.part && !it.Parked && it.WhenHidden == "fill" && it.Type != form.Note {
		st.kept, st.value = true, r.automatic(it, sc)
		if it.Type.Picks() || it.Type == form.Grid {
			sc.anew = true // it comes by itself, whatever the response had
			offered, _ := r.offer(it, sc, sc)
			st.value = r.onlyOffered(it, st.value, offered)
			r.giveUp(it, st, sc)
		}
		return st
	}
	st.kept = !st.part && !it.Parked && it.WhenHidden == "keep"
	if it.Type == form.Note || (!st.part && !st.kept) {
		return st
	}
	locked := st.part && r.rule(it.Locked, false, sc)
	computed := it.Type == form.Hidden || it.Type == form.Calculation
	is := it.Value != nil && (it.Value.Is != "" || computed)
	closed := locked || is || (it.Staff && r.mode != "staff")
	st.closed = closed
	st.locked = st.shown && (locked || is && !computed)
	answers := r.answers
	if sc.section != "" && r.answers[sc.section] == nil {
		answers = map[string]any{}
	}
	sent, touched := r.raw(answers, it, sc)
	if r.is != nil && touched && it.WhenHidden != "keep" && (sc.section == "" || sc.row < r.is.count(sc.section)) &&
		!r.is.item(key, sc).part {
		sent, touched = nil, false // it is not shown
	}
	before, had := r.before(it, sc)
	psc := sc
	if sc.section != "" {
		psc.row = r.rowBefore(sc.section, sc.row)
	}
	// An item follows on if what it has is what its expression gave then.
	follows := false
	if r.past != nil && had && it.Value != nil && !is && psc.row >= 0 && !blank(r.accept(it, before, nil)) {
		r.past.stored = true
		then := r.past.automatic(it, psc)
		r.past.stored = false
		follows = jsonText(refJSON(then, r.loc)) == jsonText(refJSON(r.accept(it, before, nil), r.loc))
	}
	decided := false
	if r.past != nil && is && it.Value.Once && it.IsStored() && psc.row >= 0 {
		decided = had || (sc.section == "" || psc.row < r.past.count(sc.section)) && r.past.item(it.Key, psc).part
	}
	switch {
	case decided:
		st.value = r.readStored(it, before)
	case is:
		st.value = r.automatic(it, sc)
	case touched && !closed:
		st.value, st.own = r.accept(it, sent, st), true
		st.emptied = blank(st.value) && !r.wrong(it, sent)
	case !had || follows:
		st.value = r.automatic(it, sc)
	case closed:
		st.value = r.accept(it, before, nil)
	default:
		st.value, st.own = r.accept(it, before, st), true
		st.emptied = blank(st.value) && !r.wrong(it, before)
	}
	if st.value == nil && st.shown && it.Type == form.Tick {
		st.value = false
	}
	if st.value == nil && st.shown && it.Type == form.ChoicesType {
		st.value = []string{}
	}
	if st.kept {
		if st.problems > 0 || r.limits(it, st.value, sc) > 0 && !r.fitsOtherwise(it, st.value, sc) {
			st.value = nil
		}
		st.problems = 0
		if it.Type.Picks() || it.Type == form.Grid {
			offered, _ := r.offer(it, sc, psc)
			st.value = r.onlyOffered(it, st.value, offered)
		}
		r.giveUp(it, st, sc)
		return st
	}
	if it.Type == form.Grid && st.part {
		shown := refGrid{}
		now, _ := st.value.(refGrid)
		then, _ := r.quietly(it, before, had).(refGrid)
		for i, row := range it.Rows {
			from := now
			if !r.rule(row.Shown, true, sc) {
				if from = then; !r.keeps(func(w *reference) bool {
					return (sc.section == "" || sc.row < w.count(sc.section)) && w.item(key, sc).part &&
						w.rule(it.Rows[i].Shown, true, sc)
				}) {
					continue
				}
			}
			if c, there := from[row.Key]; there {
				shown[row.Key] = c
			}
		}
		st.value = shown
		if len(shown) == 0 {
			st.value = nil
		}
	}
	if (it.Type.Picks() || it.Type == form.Grid) && st.shown {
		st.choices, st.full = r.offer(it, sc, psc)
		if !locked {
			r.lost(it, st)
		}
		st.value = r.onlyOffered(it, st.value, st.choices)
		if !locked {
			return st
		}
	}
	r.giveUp(it, st, sc)
	return st
}

// picksLeft are the picks of a value that stay, with what is written for one of them.
func picksLeft(it *form.Item, value any, stays func(pick string) bool) any {
	var left any
	switch v := refPicks(value).(type) {
	case string:
		if stays(v) {
			left = v
		}
	case []string:
		left = slices.DeleteFunc(slices.Clone(v), func(s string) bool { return !stays(s) })
	default:
		return value
	}
	if o, ok := value.(refOther); ok {
		return withOther(it, left, o.text)
	}
	return left
}

// giveUp takes the picks away that nobody picks now and that have no place left.
func (r *reference) giveUp(it *form.Item, st *refItem, sc refScope) {
	if !it.Type.Picks() || r.mode == "staff" {
		return
	}
	st.value = picksLeft(it, st.value, func(pick string) bool {
		places, limited := r.places(it, pick)
		return !limited || r.held(it, sc, pick) || places > r.taken[it.Key][pick]
	})
}

// held reports whether the response held a pick before.
func (r *reference) held(it *form.Item, sc refScope, value string) bool {
	raw, had := r.before(it, sc)
	if r.past == nil || !had || sc.anew {
		return false
	}
	switch v := refPicks(r.accept(it, raw, nil)).(type) {
	case string:
		return v == value
	case []string:
		return slices.Contains(v, value)
	case refGrid:
		for _, cell := range v {
			if list, _ := cell.([]string); cell == value || slices.Contains(list, value) {
				return true
			}
		}
	}
	return false
}

// lost counts the respondent's picks that have no place left.
func (r *reference) lost(it *form.Item, st *refItem) {
	picks, _ := refPicks(st.value).([]string)
	if s, ok := refPicks(st.value).(string); ok {
		picks = []string{s}
	}
	for _, p := range picks {
		if st.own && slices.Contains(st.full, p) && !slices.Contains(st.choices, p) {
			st.problems++
		}
	}
}

// places is how many places a choice has; ok is false if any number may hold it.
func (r *reference) places(it *form.Item, value string) (n int, ok bool) {
	b := it.Places
	for _, c := range it.Choices {
		if c.Value == value && c.Places != nil {
			b = c.Places
		}
	}
	if b == nil {
		return 0, false
	}
	v, ok := r.eval(b.String(), refScope{}).(*big.Rat)
	if !ok {
		return 0, false
	}
	return max(0, int(refFloor(v).Int64())), true
}

// count is how many rows a section has.
func (r *reference) count(section string) int {
	_, s := r.form.Section(section)
	n, _ := r.rows(s)
	return n
}

// before is what the response has for an item.
// quietly reads what the response has for an item, without a word about it.
func (r *reference) quietly(it *form.Item, raw any, had bool) any {
	if !had {
		return nil
	}
	said := r.unmatched[it.Key]
	v := r.accept(it, raw, nil)
	if !said {
		delete(r.unmatched, it.Key)
	}
	return v
}

// onlyOffered drops the picks that are not on offer, of a grid in each of its rows.
func (r *reference) onlyOffered(it *form.Item, v any, offered []string) any {
	on := func(pick string) bool { return slices.Contains(offered, pick) }
	cells, ok := v.(refGrid)
	if !ok {
		return picksLeft(it, v, on)
	}
	one := *it
	if one.Type = form.ChoiceType; it.Many {
		one.Type = form.ChoicesType
	}
	out := refGrid{}
	for key, cell := range cells {
		if left := picksLeft(&one, cell, on); !blank(left) {
			out[key] = left
		}
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

func (r *reference) before(it *form.Item, sc refScope) (any, bool) {
	if r.mode == "new" {
		return nil, false
	}
	if sc.section != "" {
		if sc.row = r.rowBefore(sc.section, sc.row); sc.row < 0 {
			return nil, false
		}
	}
	return r.raw(r.prior, it, sc)
}

// wrong reports whether what was sent can't be read as an answer.
func (r *reference) wrong(it *form.Item, raw any) bool {
	before := len(r.unmatched)
	had := r.unmatched[it.Key]
	delete(r.unmatched, it.Key)
	probe := &refItem{}
	r.accept(it, raw, probe)
	bad := probe.problems > 0 || r.unmatched[it.Key]
	if had || bad && len(r.unmatched) > before {
		r.unmatched[it.Key] = true
	}
	return bad
}

// readStored is a value that was decided once, as it was stored.
func (r *reference) readStored(it *form.Item, raw any) any {
	if it.Type != form.Hidden && it.Type != form.Calculation {
		return r.accept(it, raw, nil)
	}
	switch v := raw.(type) {
	case json.Number:
		n, _ := new(big.Rat).SetString(v.String())
		return n
	case string:
		if d, err := time.Parse("2006-01-02", v); err == nil {
			return refDay(d.Unix() / 86400)
		}
	}
	return raw
}

func jsonText(v any) string {
	data, _ := json.Marshal(v)
	return string(data)
}

func (r *reference) automatic(it *form.Item, sc refScope) any {
	if it.Value == nil || it.Value.When != "" && r.eval(it.Value.When, sc) != true {
		return nil
	}
	src := it.Value.Expr()
	v := r.eval(src, sc)
	if v == "" {
		return nil
	}
	if it.Type == form.Hidden || it.Type == form.Calculation {
		return v
	}
	texts := []string(nil)
	switch x := v.(type) {
	case string:
		texts = []string{x}
	case []string:
		texts = x
	default:
		return v
	}
	if p, ok := strings.CutPrefix(src, "url."); ok {
		texts = r.url[p]
	}
	out, bad := r.convert(it, texts)
	if bad {
		if strings.HasPrefix(src, "url.") {
			r.unmatched[src] = true
		} else {
			r.unmatched[it.Key] = true
		}
	}
	return out
}

// refPicks is a value without what was written for one of its picks.
func refPicks(v any) any {
	if o, ok := v.(refOther); ok {
		return o.picks
	}
	return v
}

// withOther adds what was written, if the pick that brings a text is among the picks.
func withOther(it *form.Item, picks any, text string) any {
	text = strings.TrimSpace(text)
	list, _ := picks.([]string)
	if text == "" || it.Other() == "" || picks != it.Other() && !slices.Contains(list, it.Other()) {
		return picks
	}
	return refOther{picks, it.Other(), text}
}

// accept reads what was sent; a problem is counted on st unless it is nil.
func (r *reference) accept(it *form.Item, raw any, st *refItem) any {
	var texts []string
	other := ""
	switch v := raw.(type) {
	case nil:
		return nil
	case bool:
		return v
	case map[string]any:
		if it.Type == form.Grid {
			return r.grid(it, v, st)
		}
		return r.accept(it, []any{v}, st)
	case json.Number:
		texts = []string{v.String()}
	case string:
		if it.Type == form.Grid {
			if strings.TrimSpace(v) != "" && st != nil {
				r.unmatched[it.Key] = true
				st.problems++
			}
			return nil
		}
		texts = []string{v}
	case []any:
		for _, e := range v {
			of, parts := e.(map[string]any)
			if !parts {
				texts = append(texts, e.(string))
				continue
			}
			if it.Other() == "" {
				if st != nil {
					st.problems++
				}
				return nil
			}
			texts = append(texts, of["value"].(string))
			if of["value"] == it.Other() {
				other = of["text"].(string)
			}
		}
	}
	v, bad := r.convert(it, texts)
	v = withOther(it, v, other)
	if bad && st != nil {
		if it.Type.Picks() {
			r.unmatched[it.Key] = true
		} else {
			st.problems++
		}
	}
	return v
}

func (r *reference) allChoices(it *form.Item) (values, labels []string) {
	for _, c := range it.Choices {
		values, labels = append(values, c.Value), append(labels, c.Name())
	}
	if it.ChoicesFrom != nil {
		for _, e := range r.form.Lists[it.ChoicesFrom.List].Entries {
			values, labels = append(values, e.Text(it.ChoicesFrom.Value)), append(labels, e.Text(it.ChoicesFrom.Label))
		}
	}
	return values, labels
}

func (r *reference) convert(it *form.Item, texts []string) (v any, bad bool) {
	if it.Type.Picks() {
		values, labels := r.allChoices(it)
		find := func(t string) (string, bool) {
			for i := range values {
				if strings.EqualFold(values[i], strings.TrimSpace(t)) {
					return values[i], true
				}
			}
			for i := range labels {
				if strings.EqualFold(labels[i], strings.TrimSpace(t)) {
					return values[i], true
				}
			}
			return "", false
		}
		picked, order := map[string]bool{}, []string{}
		for _, t := range texts {
			if strings.TrimSpace(t) == "" {
				continue
			}
			parts := []string{t}
			if _, ok := find(t); !ok && it.Type != form.ChoiceType {
				parts = strings.Split(t, ",")
			}
			for _, part := range parts {
				if c, ok := find(part); ok {
					if !picked[c] {
						order = append(order, c)
					}
					picked[c] = true
				} else {
					bad = true
				}
			}
		}
		out := []string{}
		for _, c := range values {
			if picked[c] {
				out = append(out, c)
			}
		}
		if it.Type == form.ChoicesType {
			return out, bad
		}
		if it.Type == form.Ranking {
			return order, bad
		}
		if len(out) == 0 {
			return nil, bad
		}
		return out[0], bad
	}
	t := strings.TrimSpace(texts[0])
	if t == "" {
		return nil, false
	}
	switch it.Type {
	case form.Number, form.Scale:
		if !regexp.MustCompile(`^-?\d+(\.\d+)?$`).MatchString(t) {
			return nil, true
		}
		n, _ := new(big.Rat).SetString(t)
		return n, false
	case form.Date:
		d, err := time.Parse("2006-01-02", t)
		if err != nil {
			return nil, true
		}
		return refDay(d.Unix() / 86400), false
	case form.YesNo, form.Tick:
		if t != "yes" && t != "no" {
			return nil, true
		}
		return t == "yes", false
	}
	return t, false
}

func (r *reference) offer(it *form.Item, sc, psc refScope) (out, full []string) {
	out = []string{}
	has := func(value string) bool { return r.held(it, sc, value) }
	// as reports whether a condition comes out as wanted, or may be passed over for
	// a choice that the response has already.
	as := func(ru form.Rule, otherwise, wanted bool, value string, sc refScope) bool {
		return r.rule(ru, otherwise, sc) == wanted || has(value) && r.asBefore(ru.Expr, sc, psc)
	}
	ok := func(value string, offered, withheld form.Rule, sc refScope) bool {
		sc.choice = value
		return as(offered, true, true, value, sc) && as(withheld, false, false, value, sc) &&
			as(it.Offered, true, true, value, sc) &&
			as(it.Withheld, false, false, value, sc)
	}
	offer := func(value string) {
		places, limited := r.places(it, value)
		none := limited && !has(value) && places <= r.taken[it.Key][value]
		if none {
			full = append(full, value)
		}
		if !none || r.mode == "staff" {
			out = append(out, value)
		}
	}
	for _, c := range it.Choices {
		if ok(c.Value, c.Offered, c.Withheld, sc) {
			offer(c.Value)
		}
	}
	if it.ChoicesFrom != nil {
		for _, e := range r.form.Lists[it.ChoicesFrom.List].Entries {
			sc := sc
			sc.entry = e
			value := e.Text(it.ChoicesFrom.Value)
			if (it.ChoicesFrom.Where == "" || r.eval(it.ChoicesFrom.Where, sc) == true || has(value) &&
				r.asBefore(it.ChoicesFrom.Where, sc, psc)) &&
				ok(e.Text(it.ChoicesFrom.Value), form.Rule{}, form.Rule{}, sc) {
				offer(value)
			}
		}
	}
	return out, full
}

// asBefore reports whether all answers that an expression names are what they were.
func (r *reference) asBefore(src string, sc, psc refScope) bool {
	if src == "" {
		return true
	}
	n, err := expr.Parse(src)
	if err != nil {
		panic(err)
	}
	same := func(key string, now, then refScope) bool {
		r.past.stored = true
		defer func() { r.past.stored = false }()
		return jsonText(refJSON(r.value(key, now), r.loc)) == jsonText(refJSON(r.past.value(key, then), r.loc))
	}
	over := map[string]bool{} // the keys that are looked at in all rows of the section at hand
	expr.Walk(n, func(n expr.Node) {
		if call, ok := n.(*expr.Call); ok && len(call.Args) == 2 {
			if s := r.group(call.Args[0]); s != nil && s.Key == sc.section {
				for _, key := range expr.Mentions(call.Args[1], r.form.Repeats()) {
					over[key] = true
				}
			}
		}
	})
	for key := range over {
		it, s := r.find(key)
		if it == nil || s.Key != sc.section {
			continue
		}
		if r.count(s.Key) != r.past.count(s.Key) {
			return false
		}
		for row := range r.count(s.Key) {
			at := refScope{section: s.Key, row: row}
			switch {
			case key != sc.self && !same(key, at, at):
				return false
			case key == sc.self && row != sc.row &&
				jsonText(refJSON(r.sentValue(key, at), r.loc)) != jsonText(refJSON(r.past.sentValue(key, at), r.loc)):
				return false
			}
		}
	}
	for _, key := range expr.Mentions(n, r.form.Repeats()) {
		if key == "row" || over[key] && key == sc.self {
			continue
		}
		it, s := r.find(key)
		if _, group := r.form.Section(key); group != nil {
			if r.count(key) != r.past.count(key) {
				return false
			}
			continue
		}
		switch {
		case it.Type == form.Note:
		case s.Repeat == nil:
			if !same(key, refScope{}, refScope{}) {
				return false
			}
		case s.Key == sc.section:
			if psc.row < 0 || psc.row >= r.past.count(s.Key) ||
				!same(key, refScope{section: s.Key, row: sc.row}, refScope{section: s.Key, row: psc.row}) {
				return false
			}
		default:
			if r.count(s.Key) != r.past.count(s.Key) {
				return false
			}
			for row := range r.count(s.Key) {
				if !same(key, refScope{section: s.Key, row: row}, refScope{section: s.Key, row: row}) {
					return false
				}
			}
		}
	}
	return true
}

// value is an item's value; on the prior answers what was stored, if anything.
func (r *reference) value(key string, sc refScope) any {
	if !r.stored {
		return r.item(key, sc).value
	}
	it, _ := r.find(key)
	if raw, had := r.raw(r.prior, it, sc); had && !r.isComputed(it) && !r.hasProblem(it, raw) {
		return r.accept(it, raw, nil)
	} else if had && r.isComputed(it) && it.Value.Once && it.IsStored() {
		return r.readStored(it, raw)
	}
	r.stored = false
	defer func() { r.stored = true }()
	return r.item(key, sc).value
}

func (r *reference) isComputed(it *form.Item) bool {
	return it.Type == form.Hidden || it.Type == form.Calculation
}

func (r *reference) hasProblem(it *form.Item, raw any) bool {
	probe := &refItem{}
	r.accept(it, raw, probe)
	return probe.problems > 0
}

func (r *reference) limits(it *form.Item, v any, sc refScope) int {
	n := 0
	past := func(b *form.Bound, op string, v any) {
		if b != nil && refCompare(op, v, r.eval(b.String(), sc)) == true {
			n++
		}
	}
	least, most := it.Min, it.Max
	_, said := v.(refOther)
	v = refPicks(v)
	picks, _ := v.([]string)
	if !said && it.Other() != "" && (v == it.Other() || slices.Contains(picks, it.Other())) {
		n++
	}
	if n, scale := v.(*big.Rat); scale && it.Type == form.Scale {
		if least == nil {
			least = form.BoundOf(1)
		}
		if most == nil {
			most = form.BoundOf(5)
		}
		if !n.IsInt() {
			past(form.BoundOf(-1_000_000), ">", n)
		}
	}
	switch v := v.(type) {
	case *big.Rat, refDay:
		past(least, "<", v)
		past(most, ">", v)
	case string:
		if !it.Type.Picks() {
			past(it.MaxLength, ">", big.NewRat(int64(len([]rune(v))), 1))
		}
	case []string:
		if it.Type == form.Ranking && len(v) > 0 && len(v) < len(r.item(it.Key, sc).choices) {
			n++
		}
		if len(v) > 0 {
			past(it.MaxPicked, ">", big.NewRat(int64(len(v)), 1))
		}
	}
	return n
}

func blank(v any) bool {
	switch v := v.(type) {
	case []string:
		return len(v) == 0
	case refGrid:
		return len(v) == 0
	}
	return v == nil
}

func (o refOther) json() any {
	brings := map[string]any{"value": o.of, "text": o.text}
	if o.picks == o.of {
		return brings
	}
	list := []any{}
	for _, pick := range o.picks.([]string) {
		if list = append(list, pick); pick == o.of {
			list[len(list)-1] = brings
		}
	}
	return list
}

func refJSON(v any, loc *time.Location) any {
	switch v := v.(type) {
	case *big.Rat:
		s := v.FloatString(99)
		s = strings.TrimRight(s, "0")
		return json.Number(strings.TrimSuffix(s, "."))
	case refDay:
		return time.Unix(int64(v)*86400, 0).UTC().Format("2006-01-02")
	case refTime:
		return fmt.Sprintf("%02d:%02d", v/3600, v/60%60)
	case refMoment:
		return time.Unix(int64(v), 0).In(loc).Format(time.RFC3339)
	case refOther:
		return v.json()
	}
	return v
}

// refRound leaves a number 34 significant digits, half to even, and at most 99 decimals.
func refRound(v *big.Rat) *big.Rat {
	if v.Sign() == 0 {
		return v
	}
	ten := big.NewInt(10)
	abs := new(big.Rat).Abs(v)
	digits := 0 // of the whole part, fewer than none where it begins behind the point
	for one := big.NewRat(1, 1); abs.Cmp(one) >= 0; digits++ {
		abs.Quo(abs, big.NewRat(10, 1))
	}
	for tenth := big.NewRat(1, 10); abs.Cmp(tenth) < 0; digits-- {
		abs.Mul(abs, big.NewRat(10, 1))
	}
	places := min(34-digits, 99)
	unit := new(big.Rat).SetInt(new(big.Int).Exp(ten, big.NewInt(int64(max(places, -places))), nil))
	if places < 0 {
		unit.Inv(unit)
	}
	scaled := new(big.Rat).Mul(new(big.Rat).Abs(v), unit)
	whole := refFloor(scaled)
	rest := new(big.Rat).Sub(scaled, new(big.Rat).SetInt(whole))
	if half := rest.Cmp(big.NewRat(1, 2)); half > 0 || half == 0 && whole.Bit(0) == 1 {
		whole.Add(whole, big.NewInt(1))
	}
	out := new(big.Rat).Quo(new(big.Rat).SetInt(whole), unit)
	if v.Sign() < 0 {
		out.Neg(out)
	}
	return out
}

func refFloor(v *big.Rat) *big.Int {
	return new(big.Int).Div(v.Num(), v.Denom()) // Euclidean, which for a positive denominator is floor
}

// --- expressions ---

func (r *reference) eval(src string, sc refScope) any {
	n, err := expr.Parse(src)
	if err != nil {
		panic(err)
	}
	return r.node(n, sc)
}

func (r *reference) group(n expr.Node) *form.Section {
	if name, ok := n.(*expr.Name); ok {
		if _, s := r.form.Section(name.Name); s != nil && s.Repeat != nil {
			return s
		}
	}
	return nil
}

func (r *reference) node(n expr.Node, sc refScope) any {
	switch n := n.(type) {
	case *expr.Literal:
		switch n.Kind {
		case expr.Text:
			return n.Text
		case expr.Num:
			v, _ := new(big.Rat).SetString(n.Num.String())
			return v
		case expr.YesNo:
			return n.Yes
		case expr.Date:
			return refDay(n.Day)
		case expr.Time:
			return refTime(n.Sec)
		case expr.Moment:
			y, m, d := n.Day.Date()
			return refMoment(time.Date(y, time.Month(m), d, 0, 0, n.Sec, 0, r.loc).Unix())
		}
		c, _ := n.Num.Whole()
		switch n.Unit {
		case "minutes":
			return refSpan{secs: c * 60}
		case "hours":
			return refSpan{secs: c * 3600}
		case "days":
			return refSpan{days: c}
		case "weeks":
			return refSpan{days: 7 * c}
		case "months":
			return refSpan{months: c}
		}
		return refSpan{months: 12 * c}
	case *expr.Name:
		return r.name(n.Name, sc)
	case *expr.Member:
		switch n.Of {
		case "url":
			for _, v := range r.url[n.Name] {
				if v = strings.TrimSpace(v); v == "" {
					continue
				}
				switch n.Name {
				case "crew":
					number, _ := new(big.Rat).SetString(v)
					return number
				case "on":
					day, _ := time.Parse(time.DateOnly, v)
					return refDay(day.Unix() / 86400)
				}
				return v
			}
			return nil
		case "entry":
			switch v := sc.entry[n.Name].(type) {
			case json.Number:
				f, _ := new(big.Rat).SetString(v.String())
				return f
			case nil:
				return nil
			default:
				return v
			}
		case "row":
			asks := sc
			asks.row = sc.asker - 1
			if n.Name == sc.self {
				return refPicks(r.sentValue(n.Name, asks))
			}
			return refPicks(r.value(n.Name, asks))
		}
		if it, s := r.find(n.Of); it != nil && it.Type == form.Grid {
			if s.Repeat == nil {
				sc.section, sc.row = "", 0
			}
			cells, _ := r.value(n.Of, sc).(refGrid)
			return cells[n.Name]
		} else if it != nil && n.Name == "other" {
			if o, ok := r.answer(n.Of, sc).(refOther); ok {
				return o.text
			}
			return nil
		} else if it != nil && it.ChoicesFrom != nil {
			if s.Repeat == nil {
				sc.section, sc.row = "", 0
			}
			picked, _ := r.value(n.Of, sc).(string)
			for _, e := range r.form.Lists[it.ChoicesFrom.List].Entries {
				if picked != "" && e.Text(it.ChoicesFrom.Value) == picked {
					return r.node(&expr.Member{Of: "entry", Name: n.Name}, refScope{entry: e})
				}
			}
			return nil
		}
		panic("column outside an aggregate")
	case *expr.Not:
		switch r.node(n.X, sc) {
		case true:
			return false
		case false:
			return true
		}
		return nil
	case *expr.Neg:
		if v, ok := r.node(n.X, sc).(*big.Rat); ok {
			return new(big.Rat).Neg(v)
		}
		return nil
	case *expr.Logic:
		var all []any
		for _, t := range n.Terms {
			all = append(all, r.node(t, sc))
		}
		return kleene(n.Op, all)
	case *expr.Arith:
		return r.arith(n, sc)
	case *expr.Compare:
		return refCompare(n.Op, r.node(n.L, sc), r.node(n.R, sc))
	case *expr.Between:
		x := r.node(n.X, sc)
		return kleene("and", []any{refCompare(">=", x, r.node(n.Low, sc)), refCompare("<=", x, r.node(n.High, sc))})
	case *expr.In:
		var all []any
		for _, e := range n.List {
			all = append(all, refCompare("=", r.node(n.X, sc), r.node(e, sc)))
		}
		v := kleene("or", all)
		if b, ok := v.(bool); ok && n.Not {
			return !b
		}
		return v
	case *expr.IsBlank:
		return blank(r.node(n.X, sc)) != n.Not
	case *expr.TextTest:
		x, ok1 := r.node(n.X, sc).(string)
		y, ok2 := r.node(n.Y, sc).(string)
		if !ok1 || !ok2 {
			return nil
		}
		if n.Op == "matches" {
			return regexp.MustCompile(y).MatchString(x)
		}
		x, y = expr.Fold(x), expr.Fold(y)
		switch n.Op {
		case "contains":
			return strings.Contains(x, y)
		case "starts with":
			return strings.HasPrefix(x, y)
		}
		return strings.HasSuffix(x, y)
	case *expr.Has:
		return r.has(n, sc)
	case *expr.Call:
		return r.call(n, sc)
	}
	panic(fmt.Sprintf("unknown %T", n))
}

func (r *reference) name(name string, sc refScope) any {
	local := r.at.In(r.loc)
	switch name {
	case "now":
		return refMoment(r.at.Unix())
	case "today":
		return refDay(time.Date(local.Year(), local.Month(), local.Day(), 0, 0, 0, 0, time.UTC).Unix() / 86400)
	case "time":
		return refTime(local.Hour()*3600 + local.Minute()*60 + local.Second())
	case "weekday":
		return strings.ToLower(local.Weekday().String()[:3])
	case "mode":
		if r.as != "" {
			return r.as
		}
		return r.mode
	case "row_number":
		return big.NewRat(int64(sc.row+1), 1)
	case "choice":
		return sc.choice
	}
	return refPicks(r.answer(name, sc))
}

// answer is what a question has, seen from a scope, with what was written for a pick.
func (r *reference) answer(key string, sc refScope) any {
	if _, s := r.find(key); s.Repeat == nil {
		sc.section, sc.row = "", 0
	}
	if sc.asker > 0 && key == sc.self {
		return r.sentValue(key, sc)
	}
	return r.value(key, sc)
}

// sentValue is what was sent for an item in a row, whatever becomes of it.
func (r *reference) sentValue(key string, sc refScope) any {
	it, _ := r.find(key)
	raw, sent := r.raw(r.answers, it, sc)
	if !sent {
		raw, _ = r.before(it, sc)
	}
	return r.accept(it, raw, nil)
}

func kleene(op string, all []any) any {
	stop := op == "or"
	out := any(!stop)
	for _, v := range all {
		if v == stop {
			return stop
		}
		if v == nil {
			out = nil
		}
	}
	return out
}

func refCompare(op string, a, b any) any {
	if a == nil || b == nil {
		return nil
	}
	d := 0
	switch x := a.(type) {
	case *big.Rat:
		d = x.Cmp(b.(*big.Rat))
	case string:
		d = strings.Compare(expr.Fold(x), expr.Fold(b.(string)))
	case bool:
		if x != b.(bool) {
			d = 1
		}
	case refDay:
		d = int(x) - int(b.(refDay))
	case refTime:
		d = int(x) - int(b.(refTime))
	case refMoment:
		d = int(x - b.(refMoment))
	}
	switch op {
	case "=":
		return d == 0
	case "!=":
		return d != 0
	case "<":
		return d < 0
	case "<=":
		return d <= 0
	case ">":
		return d > 0
	}
	return d >= 0
}

func (r *reference) arith(n *expr.Arith, sc refScope) any {
	a, b := r.node(n.L, sc), r.node(n.R, sc)
	if a == nil || b == nil {
		return nil
	}
	switch x := a.(type) {
	case *big.Rat:
		y := b.(*big.Rat)
		switch n.Op {
		case "+":
			return refRound(new(big.Rat).Add(x, y))
		case "-":
			return refRound(new(big.Rat).Sub(x, y))
		case "*":
			return refRound(new(big.Rat).Mul(x, y))
		}
		if y.Sign() == 0 {
			return nil
		}
		return refRound(new(big.Rat).Quo(x, y))
	case refDay:
		if y, ok := b.(refDay); ok {
			return big.NewRat(int64(x-y), 1)
		}
		by := b.(refSpan)
		if n.Op == "-" {
			by = refSpan{-by.months, -by.days, -by.secs}
		}
		t := time.Unix(int64(x)*86400, 0).UTC()
		first := time.Date(t.Year(), t.Month()+time.Month(by.months), 1, 0, 0, 0, 0, time.UTC)
		length := first.AddDate(0, 1, -1).Day()
		moved := first.AddDate(0, 0, min(t.Day(), length)-1+by.days)
		if moved.Year() < 1 || moved.Year() > 9999 {
			return nil
		}
		return refDay(moved.Unix() / 86400)
	}
	panic("unexpected arithmetic")
}

func (r *reference) has(n *expr.Has, sc refScope) any {
	var set []string
	if m, ok := n.X.(*expr.Member); ok && m.Of == "url" {
		for _, v := range r.url[m.Name] {
			if v = strings.TrimSpace(v); v != "" {
				set = append(set, v)
				for _, part := range strings.Split(v, ",") {
					set = append(set, strings.TrimSpace(part))
				}
			}
		}
		if set == nil {
			return nil
		}
	} else {
		v := r.node(n.X, sc)
		if v == nil {
			return nil
		}
		set = v.([]string)
	}
	var all []any
	for _, e := range n.List {
		want, ok := r.node(e, sc).(string)
		if !ok {
			all = append(all, nil)
			continue
		}
		all = append(all, slices.ContainsFunc(set, func(s string) bool { return expr.Fold(s) == expr.Fold(want) }))
	}
	switch n.How {
	case "all":
		return kleene("and", all)
	case "none":
		if v, ok := kleene("or", all).(bool); ok {
			return !v
		}
		return nil
	}
	return kleene("or", all)
}

// values are the answered values of arguments, columns row by row.
func (r *reference) values(args []expr.Node, sc refScope) []any {
	var out []any
	if len(args) == 2 && r.group(args[0]) != nil {
		s := r.group(args[0])
		count, _ := r.rows(s)
		for i := range count {
			if v := r.node(args[1], refScope{section: s.Key, row: i, entry: sc.entry, choice: sc.choice,
				self: sc.self}); !blank(v) {
				out = append(out, v)
			}
		}
		return out
	}
	for _, a := range args {
		if m, ok := a.(*expr.Member); ok && r.group(&expr.Name{Name: m.Of}) != nil {
			_, s := r.form.Section(m.Of)
			count, _ := r.rows(s)
			for n := range count {
				if v := refPicks(r.value(m.Name, refScope{section: m.Of, row: n})); !blank(v) {
					out = append(out, v)
				}
			}
			continue
		}
		if v := r.node(a, sc); !blank(v) {
			out = append(out, v)
		}
	}
	return out
}

func (r *reference) call(n *expr.Call, sc refScope) any {
	switch n.Name {
	case "unique":
		s := r.group(n.Args[0])
		count, _ := r.rows(s)
		seen := []any{}
		for i := range count {
			v := r.node(n.Args[1], refScope{section: s.Key, row: i, self: sc.self})
			if blank(v) {
				continue
			}
			if slices.ContainsFunc(seen, func(w any) bool { return refCompare("=", v, w) == true }) {
				return false
			}
			seen = append(seen, v)
		}
		return true
	case "others":
		met := int64(0)
		count, _ := r.rows(r.group(n.Args[0]))
		for i := range count {
			if i == sc.row {
				continue
			}
			there := sc
			there.row, there.asker = i, sc.row+1
			if r.node(n.Args[1], there) == true {
				met++
			}
		}
		return big.NewRat(met, 1)
	case "year", "month", "day", "weekday":
		d, ok := r.node(n.Args[0], sc).(refDay)
		if !ok {
			return nil
		}
		t := time.Unix(int64(d)*86400, 0).UTC()
		return map[string]any{
			"year": big.NewRat(int64(t.Year()), 1), "month": big.NewRat(int64(t.Month()), 1),
			"day":     big.NewRat(int64(t.Day()), 1),
			"weekday": strings.ToLower(t.Weekday().String()[:3]),
		}[n.Name]
	case "date":
		m := r.node(n.Args[0], sc).(refMoment)
		y, month, day := time.Unix(int64(m), 0).In(r.loc).Date()
		return refDay(time.Date(y, month, day, 0, 0, 0, 0, time.UTC).Unix() / 86400)
	case "label", "value":
		v, ok := r.node(n.Args[0], sc).(string)
		if !ok {
			return nil
		}
		if it, _ := r.find(n.Args[0].String()); n.Name == "label" {
			values, labels := r.allChoices(it)
			label := labels[slices.Index(values, v)]
			if o, ok := r.answer(it.Key, sc).(refOther); ok {
				label += ": " + o.text
			}
			return label
		}
		return v
	case "any", "every", "count":
		if s := r.group(n.Args[0]); s != nil {
			count, _ := r.rows(s)
			if len(n.Args) == 1 {
				return big.NewRat(int64(count), 1)
			}
			var all []any
			met := 0
			for i := range count {
				v := r.node(n.Args[1], refScope{section: s.Key, row: i, entry: sc.entry, choice: sc.choice, self: sc.self})
				all = append(all, v)
				if v == true {
					met++
				}
			}
			switch n.Name {
			case "any":
				return kleene("or", all)
			case "every":
				return kleene("and", all)
			}
			return big.NewRat(int64(met), 1)
		}
		if len(n.Args) == 1 {
			if name, ok := n.Args[0].(*expr.Name); ok {
				if it, _ := r.find(name.Name); it != nil && (it.Type == form.ChoicesType || it.Type == form.Ranking) {
					set, _ := r.node(name, sc).([]string)
					return big.NewRat(int64(len(set)), 1)
				}
			}
		}
		return big.NewRat(int64(len(r.values(n.Args, sc))), 1)
	case "sum", "average", "min", "max":
		vals := r.values(n.Args, sc)
		if len(vals) == 0 {
			if n.Name == "sum" {
				return new(big.Rat)
			}
			return nil
		}
		best := vals[0]
		sum := new(big.Rat)
		for _, v := range vals {
			if n.Name == "min" && refCompare("<", v, best) == true || n.Name == "max" && refCompare(">", v, best) == true {
				best = v
			}
			if x, ok := v.(*big.Rat); ok {
				sum = refRound(sum.Add(sum, x))
			}
		}
		switch n.Name {
		case "sum":
			return sum
		case "average":
			return refRound(sum.Quo(sum, big.NewRat(int64(len(vals)), 1)))
		}
		return best
	case "first":
		for _, a := range n.Args {
			if v := r.node(a, sc); !blank(v) {
				return v
			}
		}
		return nil
	case "if":
		switch r.node(n.Args[0], sc) {
		case true:
			return r.node(n.Args[1], sc)
		case false:
			if len(n.Args) == 3 {
				return r.node(n.Args[2], sc)
			}
		}
		return nil
	case "length":
		if s, ok := r.node(n.Args[0], sc).(string); ok {
			return big.NewRat(int64(len([]rune(s))), 1)
		}
		return nil
	case "age", "years", "days", "months":
		a := r.node(n.Args[0], sc)
		b := r.name("today", sc)
		if len(n.Args) == 2 {
			b = r.node(n.Args[1], sc)
		}
		if a == nil || b == nil {
			return nil
		}
		if n.Name == "age" && b.(refDay) < a.(refDay) {
			return nil
		}
		return big.NewRat(int64(refWhole(n.Name, a.(refDay), b.(refDay))), 1)
	case "round", "floor", "ceil", "abs":
		v, ok := r.node(n.Args[0], sc).(*big.Rat)
		if !ok {
			return nil
		}
		switch n.Name {
		case "abs":
			return new(big.Rat).Abs(v)
		case "floor":
			return new(big.Rat).SetInt(refFloor(v))
		case "ceil":
			return new(big.Rat).Neg(new(big.Rat).SetInt(refFloor(new(big.Rat).Neg(v))))
		}
		half := new(big.Rat).Add(new(big.Rat).Abs(v), big.NewRat(1, 2))
		out := new(big.Rat).SetInt(refFloor(half))
		if v.Sign() < 0 {
			out.Neg(out)
		}
		return out
	case "join":
		sep := r.node(n.Args[0], sc).(string)
		var parts []string
		for _, v := range r.said(n.Args[1:], sc) {
			switch x := v.(type) {
			case refDay:
				day := time.Unix(int64(x)*86400, 0).UTC()
				parts = append(parts, fmt.Sprintf("%s %d, %d", day.Month(), day.Day(), day.Year()))
			case *big.Rat:
				read, _ := new(big.Rat).SetString(x.FloatString(10)) // ten decimals, as people read it
				parts = append(parts, fmt.Sprint(refJSON(read, r.loc)))
			case []string:
				parts = append(parts, strings.Join(x, ", "))
			case bool:
				parts = append(parts, map[bool]string{true: "yes", false: "no"}[x])
			default:
				parts = append(parts, fmt.Sprint(x))
			}
		}
		if s := strings.TrimSpace(strings.Join(parts, sep)); s != "" {
			return s
		}
		return nil
	case "exact":
		a, ok1 := r.node(n.Args[0], sc).(string)
		b, ok2 := r.node(n.Args[1], sc).(string)
		if !ok1 || !ok2 {
			return nil
		}
		return a == b
	}
	panic("unknown function " + n.Name)
}

// said are the answered values of what join joins; choices by their labels.
func (r *reference) said(args []expr.Node, sc refScope) []any {
	var out []any
	for _, a := range args {
		for _, v := range r.values([]expr.Node{a}, sc) {
			if call, ok := a.(*expr.Call); ok && call.Name == "weekday" || a.String() == "weekday" {
				v = map[any]string{
					"mon": "Monday", "tue": "Tuesday", "wed": "Wednesday", "thu": "Thursday", "fri": "Friday", "sat": "Saturday",
					"sun": "Sunday",
				}[v]
			}
			if it, _ := r.find(a.String()); it != nil && it.Type.Picks() {
				values, labels := r.allChoices(it)
				label := func(value string) string { return labels[slices.Index(values, value)] }
				switch x := v.(type) {
				case string:
					v = label(x)
				case []string:
					words := make([]string, len(x))
					for i := range x {
						words[i] = label(x[i])
					}
					v = words
				}
			}
			out = append(out, v)
		}
	}
	return out
}

// refWhole counts whole days, months or years by stepping one at a time.
func refWhole(unit string, a, b refDay) int {
	if unit == "days" {
		return int(b - a)
	}
	if b < a {
		return -refWhole(unit, b, a)
	}
	start := time.Unix(int64(a)*86400, 0).UTC()
	step := 1
	if unit != "months" {
		step = 12
	}
	n := 0
	for {
		// A month without that day is whole on the first of the next, so that a
		// birthday on 29 February falls on 1 March.
		first := time.Date(start.Year(), start.Month()+time.Month(step*(n+1)), 1, 0, 0, 0, 0, time.UTC)
		next := first.AddDate(0, 0, start.Day()-1)
		if next.Month() != first.Month() {
			next = first.AddDate(0, 1, 0)
		}
		if next.Unix()/86400 > int64(b) {
			return n
		}
		n++
	}
}
