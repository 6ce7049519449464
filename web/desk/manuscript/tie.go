package manuscript

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/margin"
)

// checkPage is an expression while it is being written.
type checkPage struct {
	Empty       bool
	Reads       string
	Fault       string
	Place       int
	Completions []completion
	ID          string
}

type completion struct {
	Text, Says string
	From, To   int // the place in the text, in characters
	Caret      int // where the caret goes after
}

// check says how an expression reads so far, what is wrong with it, and what can
// stand at the caret. Nothing is changed.
func (d *Room) check(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	_, def, err := d.Open(r)
	if err != nil {
		return err
	}
	v := r.PostForm
	owner, property := v.Get("key"), v.Get("property")
	syms := def.Scope(owner, property)
	if property == "value" {
		syms = def.Scope(owner, "value.is")
	}
	src := v.Get("source")
	page := checkPage{Empty: strings.TrimSpace(src) == "", ID: margin.DOMID(property)}
	if caret, err := strconv.Atoi(v.Get("caret")); err == nil {
		at := byteAt(src, caret)
		from, list := syms.Complete(src, at)
		for _, c := range list {
			page.Completions = append(
				page.Completions,
				completion{c.Text, c.Says, len([]rune(src[:from])), caret, len([]rune(src[:from])) + len([]rune(c.Text))},
			)
		}
	}
	if !page.Empty {
		page.judge(syms, property, src)
	}
	return d.pages.Page(w, http.StatusOK, "check", page)
}

func (p *checkPage) judge(syms *expr.Symbols, property, src string) {
	say := func(f *expr.Fault) {
		p.Fault = f.Text
		if f.Pos > 0 && f.Pos <= len(src) {
			p.Fault = fmt.Sprintf("At character %d: %s", len([]rune(src[:f.Pos]))+1, f.Text)
		}
	}
	condition := form.Wants(property) && property != "value"
	n, err := syms.ReadWritten(src, condition)
	if err != nil {
		say(err.(*expr.Fault))
		return
	}
	read := syms.Phrase
	if condition {
		read = syms.Sentence
	}
	if faults := expr.CheckBegun(n, syms, condition); len(faults) > 0 {
		say(faults[0])
		return
	}
	p.Reads = expr.PiecesText(read(n))
}

// byteAt is the place in bytes of a place in characters.
func byteAt(s string, characters int) int {
	for i := range s {
		if characters == 0 {
			return i
		}
		characters--
	}
	return len(s)
}

// clausePage is a clause that is not part of the draft yet.
type clausePage struct {
	ID       string
	Form     store.FormID
	Fixed    bool // the subject can't be changed
	Clause   *margin.Clause
	Subjects []expr.Subject
}

// clause prints the fields of a clause for a question and an operator, for the
// forms that put one tie on several items.
func (d *Room) clause(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	q := r.URL.Query()
	page := clausePage{ID: q.Get("clause"), Form: f.ID, Fixed: q.Get("fixed") != ""}
	if !slices.Contains([]string{"many", "then"}, page.ID) {
		page.ID = "many"
	}
	syms := def.Symbols()
	key, err := author.Resolve(def, def.Scope(q.Get("subject"), ""), q.Get("subject"), "today")
	if err != nil {
		key = "today"
	}
	if p, ok := def.Find(key); ok && p.Section.Repeat != nil {
		syms = def.Scope(key, "")
	}
	m := margin.Margin{Def: def, Syms: syms, Today: expr.ClockAt(d.Now().Unix(), syms.Zone).Day()}
	before := expr.Clause{Key: key} // with another operator, as far as is known
	if about := q.Get("about"); about != "" && about != key {
		before = expr.Clause{Key: about, Op: q.Get("op")}
	}
	after, ok := author.ClauseAfter(def, syms, before, key, q.Get("op"), q["value"])
	if !ok {
		return store.ErrNotFound
	}
	page.Clause = m.Clause(syms, after)
	page.Subjects = author.Subjects(def, syms, "")
	return d.pages.Page(w, http.StatusOK, "loose-clause", page)
}

// targets lists the items that can be tied from the other end, but the one itself.
func (d *Room) targets(w http.ResponseWriter, r *http.Request) error {
	_, def, err := d.Open(r)
	if err != nil {
		return err
	}
	but := r.URL.Query().Get("but")
	list := slices.DeleteFunc(layout.Targets(def), func(o layout.Option) bool { return o.Value == but })
	return d.pages.Page(w, http.StatusOK, "target-list", list)
}
