package summary

import (
	"context"
	"fmt"

	"lazo/core/view"
	"lazo/store"
	"lazo/web/desk/responses"
)

// far is how far people come in a form.
type far struct {
	Begun, Sent int
	Share       string // of those begun that were sent
	Since       string
	Pages       []farPage
}

// farPage is how many came to a page for the first time, and how many of them went no
// further.
type farPage struct {
	Label      string
	Came, Left int
	Width      int
}

// farOf counts by the pages of what is live now; nil while nobody has begun.
func (d *Room) farOf(ctx context.Context, l *responses.Looking) (*far, error) {
	counted, since, err := d.InForm(l.Form).Progress(ctx)
	if err != nil || len(counted) == 0 {
		return nil, err
	}
	of := map[string]store.PageProgress{}
	for _, c := range counted {
		of[c.Page] = c
	}
	out := &far{Begun: of[""].Came, Sent: of[""].Went, Share: view.Share(of[""].Went, of[""].Came),
		Since: since.Format("2 January 2006")}
	for i, page := range l.Def.Pages {
		c := of[page.Key]
		label := page.Title
		if label == "" {
			label = fmt.Sprintf("Page %d", i+1)
		}
		out.Pages = append(out.Pages, farPage{
			label, c.Came, max(0, c.Came-c.Went), scaled(c.Came, max(out.Begun, c.Came), rowWidth),
		})
	}
	return out, nil
}
