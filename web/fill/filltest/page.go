package filltest

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html"

	"lazo/core/form"
	"lazo/web/fill/posted"
)

// Page is a page of a form in a browser without scripts: its controls can be set,
// and posted by one of its buttons.
type Page struct {
	root *html.Node
}

// ReadPage parses a page.
func ReadPage(text string) (*Page, error) {
	root, err := html.Parse(strings.NewReader(text))
	return &Page{root}, err
}

func attr(n *html.Node, name string) (string, bool) {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val, true
		}
	}
	return "", false
}

func setAttr(n *html.Node, name, value string, on bool) {
	n.Attr = slices.DeleteFunc(n.Attr, func(a html.Attribute) bool { return a.Key == name })
	if on {
		n.Attr = append(n.Attr, html.Attribute{Key: name, Val: value})
	}
}

// each visits the elements below a node, in the order of the page.
func each(n *html.Node, visit func(*html.Node)) {
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		if c.Type == html.ElementNode {
			visit(c)
		}
		each(c, visit)
	}
}

func text(n *html.Node) string {
	var b strings.Builder
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		if c.Type == html.TextNode {
			b.WriteString(c.Data)
		}
	}
	return b.String()
}

// controls are those of the form, with their names.
func (p *Page) controls(visit func(n *html.Node, name, kind string)) {
	each(p.root, func(n *html.Node) {
		name, _ := attr(n, "name")
		if name == "" || n.Data == "meta" {
			return
		}
		kind := n.Data
		if n.Data == "input" {
			if kind, _ = attr(n, "type"); kind == "" {
				kind = "text"
			}
		}
		visit(n, name, kind)
	})
}

// Do sets a control as the act says; a button has to be submitted instead.
func (p *Page) Do(a Act) {
	parts := map[string]string{a.Name: "", a.Name + ".other": a.Other}
	switch {
	case a.Type == form.Ranking:
	case len(a.Values) == 1:
		parts[a.Name] = a.Values[0]
	case a.Type == form.MonthDay:
		parts = map[string]string{a.Name + ".month": a.Values[0], a.Name + ".day": a.Values[1]}
	case a.Type == form.Address:
		parts = map[string]string{a.Name + ".street": a.Values[0], a.Name + ".city": a.Values[2]}
	}
	p.controls(func(n *html.Node, name, kind string) {
		value, mine := parts[name]
		if a.Type == form.Ranking && strings.HasPrefix(name, a.Name+".at.") {
			rank(n, a.Values)
			return
		}
		if !mine || kind == "hidden" {
			return
		}
		switch kind {
		case "checkbox", "radio":
			own, _ := attr(n, "value")
			setAttr(n, "checked", "", slices.Contains(a.Values, own))
		case "select":
			each(n, func(o *html.Node) {
				own, _ := attr(o, "value")
				setAttr(o, "selected", "", name == a.Name && slices.Contains(a.Values, own) || name != a.Name && own == value)
			})
		case "textarea":
			for n.FirstChild != nil {
				n.RemoveChild(n.FirstChild)
			}
			n.AppendChild(&html.Node{Type: html.TextNode, Data: value})
		case "button":
		default:
			setAttr(n, "value", value, true)
		}
	})
}

// rank gives a choice its place in an order, none if it has none there.
func rank(menu *html.Node, order []string) {
	each(menu, func(o *html.Node) {
		own, _ := attr(o, "value")
		at, value, _ := strings.Cut(own, ":")
		setAttr(o, "selected", "", value != "" && at == strconv.Itoa(slices.Index(order, value)+1))
	})
}

// Submit gives the fields that the page posts when a button is pressed.
func (p *Page) Submit(do string) url.Values {
	out := url.Values{}
	p.controls(func(n *html.Node, name, kind string) {
		value, _ := attr(n, "value")
		switch kind {
		case "checkbox", "radio":
			if _, checked := attr(n, "checked"); checked {
				out.Add(name, value)
			}
		case "select":
			for _, v := range p.selected(n) {
				out.Add(name, v)
			}
		case "textarea":
			out.Add(name, strings.ReplaceAll(text(n), "\n", "\r\n"))
		case "button", "file":
		default:
			out.Add(name, value)
		}
	})
	out.Set(posted.DoField, do)
	return out
}

// selected are the values that a menu says: of one without a choice its first.
func (p *Page) selected(n *html.Node) []string {
	_, multiple := attr(n, "multiple")
	var out []string
	first, any := "", false
	each(n, func(o *html.Node) {
		value, _ := attr(o, "value")
		if !any {
			first, any = value, true
		}
		if _, on := attr(o, "selected"); on {
			out = append(out, value)
		}
	})
	if len(out) == 0 && !multiple && any {
		out = []string{first}
	}
	return out
}

// Screen is what the page shows.
func (p *Page) Screen() Screen {
	screen := Screen{}
	each(p.root, func(n *html.Node) {
		id, _ := attr(n, "id")
		if class, _ := attr(n, "class"); !strings.HasPrefix(id, "u-") || !strings.HasPrefix(class, "unit") {
			return
		}
		_, hidden := attr(n, "hidden")
		s := Shown{Shown: !hidden, Values: []string{}, Offered: []string{}}
		(&Page{n}).controls(func(n *html.Node, name, kind string) {
			value, _ := attr(n, "value")
			switch kind {
			case "hidden", "button", "file":
				return
			case "checkbox", "radio":
				if _, checked := attr(n, "checked"); checked {
					s.Values = append(s.Values, value)
				}
				if _, full := attr(n, "disabled"); !full {
					s.Offered = append(s.Offered, value)
				}
			case "select":
				if _, ranked, is := strings.Cut(name, ".at."); is && ranked != "" {
					s.Values = append(s.Values, p.selected(n)...)
					s.Offered = append(s.Offered, offeredPlace(n))
					break
				}
				chosen := p.selected(n)
				s.Values = append(s.Values, chosen...)
				each(n, func(o *html.Node) {
					v, _ := attr(o, "value")
					if _, full := attr(o, "disabled"); !full {
						s.Offered = append(s.Offered, v)
					}
				})
			case "textarea":
				s.Values = append(s.Values, text(n))
			default:
				if strings.HasSuffix(name, ".other") {
					s.Other = value
					break
				}
				s.Values = append(s.Values, value)
			}
			s.Fillable = true
		})
		if _, asked := attr(n, "data-key"); asked && !s.Fillable && strings.Contains(content(n), "on offer here yet") {
			s.Fillable = true // a question whose choices are all gone
		}
		screen[id] = s
	})
	return screen
}

// offeredPlace is the choice that a menu of places is of.
func offeredPlace(menu *html.Node) (value string) {
	each(menu, func(o *html.Node) {
		own, _ := attr(o, "value")
		_, value, _ = strings.Cut(own, ":")
	})
	return value
}

func content(n *html.Node) string {
	var b strings.Builder
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		if c.Type == html.TextNode {
			b.WriteString(c.Data)
		}
		b.WriteString(content(c))
	}
	return b.String()
}

// Alike puts a screen in the form in which two can be compared: sets in order, and
// nothing that only tells one control from another of the same use.
func (s Screen) Alike(f *form.Form) Screen {
	out := Screen{}
	for id, shown := range s {
		it := itemOf(f, id)
		if it == nil {
			continue
		}
		if !shown.Fillable || it.Other() == "" || !slices.Contains(shown.Values, it.Other()) {
			shown.Other = "" // what stands there counts for nothing
		}
		switch {
		case !shown.Shown || !shown.Fillable:
			shown.Fillable, shown.Values, shown.Offered = shown.Shown && shown.Fillable, nil, nil
		case it.Type == form.Ranking:
			shown.Values, shown.Offered = ordered(shown.Values), answered(shown.Offered)
		case it.Type.Picks():
			shown.Values, shown.Offered = answered(shown.Values), answered(shown.Offered)
		case it.Type == form.YesNo || it.Type == form.Tick || it.Type == form.Scale || it.Type == form.Grid:
			shown.Values, shown.Offered = answered(shown.Values), nil
		default:
			shown.Offered = nil
		}
		out[id] = shown
	}
	return out
}

// ordered are the choices of a ranking by their places, of less than ten: of PLACE:CHOICE the
// choices, of two with the same place the first.
func ordered(values []string) (out []string) {
	before := ""
	for _, v := range answered(values) {
		place, value, _ := strings.Cut(v, ":")
		if place != before {
			out = append(out, value)
		}
		before = place
	}
	return out
}

func answered(values []string) []string {
	var out []string
	for _, v := range values {
		if v != "" {
			out = append(out, v)
		}
	}
	slices.Sort(out)
	return out
}

func itemOf(f *form.Form, id string) *form.Item {
	parts := strings.Split(id, "-")
	p, ok := f.Find(parts[len(parts)-1])
	if !ok {
		return nil
	}
	return p.Item
}
