package engine

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
)

// ParamNote says what becomes of one parameter of an address, for whoever makes
// addresses.
type ParamNote struct {
	Name, Value string
	Wrong       bool   // it does nothing, or not what was meant
	Text        string // in a sentence
	Meant       string // the name or value that was probably meant, or ""
}

// ParamNotes says of every parameter of an address what it does in the form and,
// if it does nothing, why and what was meant.
func (p *Program) ParamNotes(params map[string][]string) []ParamNote {
	var out []ParamNote
	for _, name := range slices.Sorted(maps.Keys(params)) {
		known := p.param(name)
		if known == nil {
			out = append(out, p.unknownParam(name, params[name]))
			continue
		}
		uses := p.paramUses(known.Name)
		for _, value := range params[name] {
			if strings.TrimSpace(value) == "" {
				out = append(out, ParamNote{Name: known.Name, Wrong: true,
					Text: known.Name + " has no value; it counts as not given"})
				continue
			}
			out = append(out, p.paramNote(known.Name, value, uses))
		}
	}
	return out
}

// param finds a parameter by its name, whatever its letter case.
func (p *Program) param(name string) *form.Parameter {
	for i := range p.Form.Parameters {
		if strings.EqualFold(strings.TrimSpace(name), p.Form.Parameters[i].Name) {
			return &p.Form.Parameters[i]
		}
	}
	return nil
}

func (p *Program) unknownParam(name string, values []string) ParamNote {
	note := ParamNote{Name: name, Value: strings.Join(values, ", "), Wrong: true,
		Text: fmt.Sprintf("the form has no parameter “%s”", name)}
	var names, labels []string
	byLabel := map[string]string{}
	for _, param := range p.Form.Parameters {
		names = append(names, param.Name)
		if param.Label != "" {
			labels, byLabel[param.Label] = append(labels, param.Label), param.Name
		}
	}
	note.Meant = expr.Nearest(strings.ToLower(name), names)
	if near := expr.Nearest(name, labels); note.Meant == "" && near != "" {
		note.Meant = byLabel[near]
	}
	switch {
	case note.Meant != "":
		note.Text += "; did you mean " + note.Meant + "?"
	case p.lookup[name] != nil:
		note.Text += fmt.Sprintf(
			"; %s is a question, and takes its answer from the address only if it starts as a parameter", p.lookup[name].Name(),
		)
	case len(names) > 0:
		note.Text += "; it has " + strings.Join(names, ", ")
	default:
		note.Text += "; it has none at all"
	}
	return note
}

// ParamValues lists what a parameter's value can be where the form says so: the
// choices of questions that it fills, and what conditions compare it with.
func (p *Program) ParamValues(name string) (values, labels []string) {
	add := func(value, label string) {
		if !slices.Contains(values, value) {
			values, labels = append(values, value), append(labels, label)
		}
	}
	if o := p.Symbols.Params[name].Type.Options; o != nil {
		return o.Values, o.Labels
	}
	u := p.paramUses(name)
	for _, it := range u.fills {
		if it.options != nil {
			for i, v := range it.options.Values {
				add(v, it.options.Labels[i])
			}
		}
	}
	for _, text := range u.compared {
		add(text, text)
	}
	return values, labels
}

// ParamOpen reports whether a parameter can matter by other values than those that
// [Program.ParamValues] lists.
func (p *Program) ParamOpen(name string) bool {
	return p.Symbols.Params[name].Type.Options == nil && p.paramUses(name).open
}

// ParamMany reports whether several values of a parameter count at once: it fills a question
// that takes several.
func (p *Program) ParamMany(name string) bool {
	return slices.ContainsFunc(p.paramUses(name).fills, func(it *item) bool { return it.Type == form.ChoicesType })
}

// paramUses is where a form uses a parameter.
type paramUses struct {
	fills    []*item  // questions whose value is the parameter
	drives   []string // names of what else depends on it
	compared []string // texts that it is compared with for equality
	open     bool     // whether other values can matter too
}

func (p *Program) paramUses(name string) paramUses {
	var u paramUses
	for _, t := range p.Form.AllTies() {
		n, err := expr.Parse(t.Expr)
		if err != nil || !slices.Contains(p.names(n), "url."+name) {
			continue
		}
		if m, ok := n.(*expr.Member); ok && m.Name == name && strings.HasPrefix(t.Property, "value.") {
			if it := p.lookup[t.Owner]; it != nil {
				u.fills = append(u.fills, it)
				continue
			}
		}
		if label := p.ownerName(t.Owner); !slices.Contains(u.drives, label) {
			u.drives = append(u.drives, label)
		}
		u.compare(n, name)
	}
	return u
}

// compare collects the texts that url.name is compared with in n.
func (u *paramUses) compare(n expr.Node, name string) {
	is := func(n expr.Node) bool { m, ok := n.(*expr.Member); return ok && m.Of == "url" && m.Name == name }
	take := func(n expr.Node) {
		if lit, ok := n.(*expr.Literal); ok && lit.Kind == expr.Text {
			u.compared = append(u.compared, lit.Text)
		}
	}
	expr.Walk(n, func(n expr.Node) {
		switch n := n.(type) {
		case *expr.Compare:
			if is(n.L) {
				take(n.R)
			} else if is(n.R) {
				take(n.L)
			}
		case *expr.In:
			if is(n.X) {
				for _, e := range n.List {
					take(e)
				}
			}
		case *expr.Has:
			if is(n.X) {
				for _, e := range n.List {
					take(e)
				}
			}
		case *expr.IsBlank:
			u.open = u.open || is(n.X)
		case *expr.TextTest:
			u.open = u.open || is(n.X)
		case *expr.Call:
			for _, a := range n.Args {
				u.open = u.open || is(a)
			}
		}
	})
}

func (p *Program) ownerName(key string) string {
	if name := p.Form.NameOf(key); name != key {
		return name
	}
	if p.lookup[key] != nil {
		return key
	}
	return "the opening"
}

func (p *Program) paramNote(name, value string, u paramUses) ParamNote {
	note := ParamNote{Name: name, Value: value}
	sym := p.Symbols.Params[name]
	read, strange := sym.Read([]string{value})
	if strange {
		note.Wrong, note.Text = true,
			fmt.Sprintf("“%s” is none of the values of %s; it counts as not given", value, sym.Label)
		if o := sym.Type.Options; o != nil {
			if near := expr.Nearest(value, slices.Concat(o.Values, o.Labels)); near != "" {
				note.Meant = near
				note.Text += "; did you mean “" + near + "”?"
			}
		}
		return note
	}
	if sym.Type.Options != nil && len(read.Texts) > 0 {
		value = read.Texts[0]
	}
	if len(u.fills)+len(u.drives) == 0 {
		note.Wrong, note.Text = true, "nothing in the form uses "+name
		return note
	}
	var does []string
	for _, it := range u.fills {
		v, _, unmatched := p.fromText(it, []string{value})
		if it.kind == expr.Choice || it.kind == expr.Choices {
			_, missed := match(it.options, []string{value}, it.kind == expr.Choices)
			if !v.IsBlank() {
				does = append(does, p.filled(it, v))
			}
			for _, one := range missed {
				does = append(does, note.missed(it, one))
			}
			continue
		}
		if unmatched {
			note.Wrong = true
			does = append(does, fmt.Sprintf("“%s” can’t be read as an answer to %s (%s)", value, it.Name(), it.Type.Words()))
			continue
		}
		does = append(does, p.filled(it, v))
	}
	if len(u.drives) > 0 {
		meets := slices.ContainsFunc(u.compared, func(text string) bool { return expr.Fold(text) == expr.Fold(value) })
		switch {
		case meets || u.open || len(u.compared) == 0:
			does = append(does, "drives "+strings.Join(u.drives, ", "))
		default:
			if len(u.fills) == 0 {
				note.Wrong = true
			}
			text := fmt.Sprintf("no condition asks for “%s”; they ask for %s", value, quotedList(u.compared))
			if near := expr.Nearest(value, u.compared); near != "" {
				note.Meant = near
				text += "; did you mean “" + near + "”?"
			}
			does = append(does, text)
		}
	}
	note.Text = strings.Join(does, "; ")
	return note
}

func (p *Program) filled(it *item, v expr.Value) string {
	return fmt.Sprintf("fills %s with %s", it.Name(),
		it.symbol.Type.Say(&v, &expr.Evaluation{Clock: expr.ClockAt(0, p.loc)}))
}

// missed notes that a text is none of a question's choices.
func (n *ParamNote) missed(it *item, text string) string {
	n.Wrong = true
	said := fmt.Sprintf("“%s” is none of the choices of %s", text, it.Name())
	if n.Meant = nearestOption(it.options, text); n.Meant != "" {
		said += "; did you mean “" + n.Meant + "”?"
	}
	return said
}

func nearestOption(o *expr.Options, value string) string {
	if near := expr.Nearest(value, o.Values); near != "" {
		return near
	}
	if i, ok := o.Match(expr.Nearest(value, o.Labels)); ok {
		return o.Values[i]
	}
	return ""
}

func quotedList(texts []string) string {
	var out []string
	for _, t := range texts {
		if q := "“" + t + "”"; !slices.Contains(out, q) {
			out = append(out, q)
		}
	}
	return strings.Join(out, ", ")
}
