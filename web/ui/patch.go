package ui

import (
	"bytes"
	"html/template"
	"slices"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// Part is an element of a page that is to take the place of the one with its id.
type Part struct {
	ID   string
	HTML template.HTML
}

// Text is what a template of the renderer prints.
func (rd *Renderer) Text(name string, data any) (string, error) {
	var b bytes.Buffer
	err := rd.set.ExecuteTemplate(&b, name, data)
	return b.String(), err
}

// Patch finds the smallest elements with an id by which a part of a page, which is one
// element with an id itself, differs from what it was.
func Patch(before, after string) ([]Part, error) {
	a, err := element(before)
	if err != nil {
		return nil, err
	}
	b, err := element(after)
	if err != nil {
		return nil, err
	}
	parts, done := patched(a, b)
	if !done {
		return []Part{{idOf(b), template.HTML(after)}}, nil
	}
	return parts, nil
}

// element reads what begins with an element.
func element(text string) (*html.Node, error) {
	all, err := html.ParseFragment(strings.NewReader(text),
		&html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body})
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(all, func(n *html.Node) bool { return n.Type == html.ElementNode })
	if at < 0 {
		return &html.Node{Type: html.TextNode}, nil
	}
	return all[at], nil
}

// patched finds the parts by which b differs from a; done is false if something differs
// that lies in no element with an id.
func patched(a, b *html.Node) (parts []Part, done bool) {
	switch {
	case a.Type != b.Type || a.Data != b.Data || !slices.Equal(a.Attr, b.Attr):
		return own(a, b)
	case b.FirstChild == nil && a.FirstChild == nil:
		return nil, true
	}
	x, y := a.FirstChild, b.FirstChild
	for ; x != nil && y != nil; x, y = x.NextSibling, y.NextSibling {
		more, ok := patched(x, y)
		if !ok {
			return own(a, b)
		}
		parts = append(parts, more...)
	}
	if x != nil || y != nil {
		return own(a, b)
	}
	return parts, true
}

// own is b as a part of its own, if it can take the place of a.
func own(a, b *html.Node) ([]Part, bool) {
	id := idOf(b)
	if id == "" || idOf(a) != id {
		return nil, false
	}
	var text bytes.Buffer
	if err := html.Render(&text, b); err != nil {
		return nil, false
	}
	return []Part{{id, template.HTML(text.String())}}, true
}

func idOf(n *html.Node) string {
	for _, at := range n.Attr {
		if at.Key == "id" && n.Type == html.ElementNode {
			return at.Val
		}
	}
	return ""
}
