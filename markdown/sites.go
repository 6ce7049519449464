package markdown

import (
	"net/url"
	"slices"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/text"

	"lazo/core/form"
)

// Site is the origin of another site that an address leads to, if it is reached by
// https; "" for an address of this site, or none.
func Site(address string) string {
	u, err := url.Parse(strings.TrimSpace(address))
	if err != nil || u.Scheme != "https" || u.Host == "" || u.User != nil || strings.ContainsAny(u.Host, ";, '\"*") {
		return ""
	}
	return "https://" + strings.ToLower(u.Host)
}

// PictureSites are the other sites whose pictures a form shows, in any of its
// languages: those in texts, of choices, and its theme's.
func PictureSites(f *form.Form) []string {
	var out []string
	add := func(address string) {
		if site := Site(address); site != "" && !slices.Contains(out, site) {
			out = append(out, site)
		}
	}
	if f.Theme != nil {
		add(f.Theme.Logo)
	}
	for p := range f.Places() {
		for _, c := range p.Item.Choices {
			add(c.Image)
		}
	}
	for _, t := range f.Texts() {
		picturesIn(t.Text, add)
	}
	for _, translation := range f.Translations {
		for _, t := range translation {
			picturesIn(t, add)
		}
	}
	slices.Sort(out)
	return out
}

// picturesIn visits the addresses of the pictures in a text of Markdown.
func picturesIn(src string, visit func(address string)) {
	if !strings.Contains(src, "![") {
		return
	}
	for _, part := range Parts(src) {
		if part.AsWritten {
			continue
		}
		_ = ast.Walk(goldmark.DefaultParser().Parse(text.NewReader([]byte(part.Text))),
			func(n ast.Node, entering bool) (ast.WalkStatus, error) {
				if image, ok := n.(*ast.Image); ok && entering {
					visit(string(image.Destination))
				}
				return ast.WalkContinue, nil
			})
	}
}
