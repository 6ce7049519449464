package responses

import (
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/web/desk/layout"
	"lazo/web/desk/margin"
)

// part is a part of a view's condition with all that it can be changed into. Its path
// names its fields: a number for each group that it stands in.
type part struct {
	Path     string
	Join     string // of a group
	Joins    []layout.Option
	RowsOf   string // of a group by rows: the section's label
	Parts    []*part
	Clause   *margin.Clause
	Subjects []expr.Subject
	Source   string // a condition as it is written
	Words    string // and as a sentence
}

var (
	joins = []layout.Option{
		{Value: expr.AllOf, Label: "all of these"}, {Value: expr.AnyOf, Label: "any of these"},
		{Value: expr.NoneOf, Label: "none of these"},
	}
	rowJoins = []layout.Option{{Value: expr.AnyRow, Label: "in at least one row of"},
		{Value: expr.EveryRow, Label: "in every row of"}}
)

// outline is the condition of the view as parts; nil if it can't be read.
func (l *Looking) outline() *expr.Passage {
	if l.View.When == "" {
		return &expr.Passage{Join: expr.AllOf}
	}
	n, err := expr.Parse(l.View.When)
	if err != nil {
		return nil
	}
	return l.Lens.Syms.Outline(n)
}

// parts lays an outline out to be changed.
func (l *Looking) parts(p *expr.Passage, path string, syms *expr.Symbols) *part {
	out := &part{Path: path, Join: p.Join, Joins: joins, Source: p.Source}
	switch {
	case p.Clause != nil:
		m := margin.Margin{Def: l.Def, Syms: syms, Today: l.Lens.Clock(l.Now).Day()}
		out.Clause, out.Subjects = m.Clause(syms, *p.Clause), author.Subjects(l.Def, syms, "")
		if !slices.ContainsFunc(out.Subjects, func(s expr.Subject) bool { return s.Key == p.Clause.Key }) {
			if own, ok := syms.Subject(p.Clause.Key); ok {
				out.Subjects = append(out.Subjects, own)
			}
		}
		return out
	case p.Join == "":
		if n, err := expr.Parse(p.Source); err == nil {
			out.Words = expr.PiecesText(syms.Sentence(n))
		}
		return out
	}
	inner := syms
	if g := syms.Groups[p.Of]; g != nil {
		out.Joins, out.RowsOf, inner = rowJoins, g.Label, syms.InRow(g)
	}
	for i, kid := range p.Parts {
		out.Parts = append(out.Parts, l.parts(kid, below(path, i), inner))
	}
	return out
}

func below(path string, i int) string {
	if path == "" {
		return strconv.Itoa(i)
	}
	return path + "." + strconv.Itoa(i)
}

// condition changes the condition of a view by what was posted of it, and looks by that.
// The address is one to be looked at, so nothing is stored.
func (d *Room) condition(w http.ResponseWriter, r *http.Request) error {
	l, err := Read(d.Desk, r)
	if err != nil {
		return err
	}
	q := r.URL.Query()
	switch {
	case q.Get("do") == "written":
		l.View.When = strings.TrimSpace(q.Get("source"))
		if n, err := l.Lens.Syms.ReadWritten(l.View.When, true); err == nil && l.View.When != "" {
			l.View.When = n.String()
		}
	default:
		root := l.outline()
		if root == nil {
			root = &expr.Passage{Join: expr.AllOf}
		}
		l.take(root, "", l.Lens.Syms, q)
		l.act(root, q.Get("do"))
		l.View.When = l.written(root)
	}
	http.Redirect(w, r, l.Address("", "edit", "1"), http.StatusSeeOther)
	return nil
}

// written is an outline as an expression; "" if nothing is left of it, and as it was if
// it can't be one.
func (l *Looking) written(root *expr.Passage) string {
	if prune(root); len(root.Parts) == 0 {
		return ""
	}
	n, err := l.Lens.Syms.Condition(root)
	if err != nil {
		return l.View.When
	}
	return n.String()
}

// prune takes empty groups out.
func prune(p *expr.Passage) {
	p.Parts = slices.DeleteFunc(p.Parts, func(kid *expr.Passage) bool {
		prune(kid)
		return kid.Join != "" && len(kid.Parts) == 0
	})
}

// take takes the posted fields of a part and of those below it.
func (l *Looking) take(p *expr.Passage, path string, syms *expr.Symbols, q url.Values) {
	if p.Clause != nil {
		l.takeClause(p.Clause, path, syms, q)
		return
	}
	if p.Join == "" {
		return
	}
	options := joins
	if g := syms.Groups[p.Of]; g != nil {
		options, syms = rowJoins, syms.InRow(g)
	}
	if join := q.Get("join" + path); slices.ContainsFunc(options, func(o layout.Option) bool { return o.Value == join }) {
		p.Join = join
	}
	for i, kid := range p.Parts {
		l.take(kid, below(path, i), syms, q)
	}
}

// takeClause takes the fields of a clause; what does not fit its operator any more is still
// to be given, as is all that it was compared with once it is about something else.
func (l *Looking) takeClause(c *expr.Clause, path string, syms *expr.Symbols, q url.Values) {
	if !q.Has("key" + path) {
		return
	}
	after, ok := author.ClauseAfter(l.Def, syms, *c, q.Get("key"+path), q.Get("op"+path), q["value"+path])
	if !ok {
		return
	}
	subject, _ := syms.Subject(after.Key)
	after.Values = syms.KeptOperands(subject.Type, subject.Type.Operator(after.Op), after.Values)
	*c = after
}

// act adds a clause or a group by rows to the part at a path, or takes the part away.
func (l *Looking) act(root *expr.Passage, do string) {
	verb, path, _ := strings.Cut(do, ":")
	if verb == "rows" {
		if g := l.Lens.Syms.Groups[path]; g != nil {
			likely := l.likely(l.Lens.Syms.InRow(g))
			root.Parts = append(root.Parts, &expr.Passage{Join: expr.AnyRow, Of: g.Key, Parts: []*expr.Passage{likely}})
		}
		return
	}
	group, syms, at := root, l.Lens.Syms, -1
	if path != "" {
		for step := range strings.SplitSeq(path, ".") {
			if at >= 0 {
				if at >= len(group.Parts) {
					return
				}
				group = group.Parts[at]
				if g := syms.Groups[group.Of]; g != nil {
					syms = syms.InRow(g)
				}
			}
			var err error
			if at, err = strconv.Atoi(step); err != nil || at < 0 {
				return
			}
		}
	}
	switch verb {
	case "remove":
		if at >= 0 && at < len(group.Parts) {
			group.Parts = slices.Delete(group.Parts, at, at+1)
		}
	case "add":
		if at >= 0 {
			if at >= len(group.Parts) || group.Parts[at].Join == "" {
				return
			}
			group = group.Parts[at]
			if g := syms.Groups[group.Of]; g != nil {
				syms = syms.InRow(g)
			}
		}
		group.Parts = append(group.Parts, l.likely(syms))
	}
}

// likely is the clause to begin with: about the first question, or when responses were
// received.
func (l *Looking) likely(syms *expr.Symbols) *expr.Passage {
	all := author.Subjects(l.Def, syms, "")
	subject := all[0]
	for _, s := range all {
		if sym := syms.Items[s.Key]; sym != nil && sym.Group == syms.Row {
			subject = s
			break
		}
	}
	first := syms.FirstClause(subject)
	return &expr.Passage{Clause: &first}
}
