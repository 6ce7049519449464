package layout

import (
	"context"
	"time"

	"lazo/core/text"
	"lazo/store"
)

// Notice is what an account is written to about.
type Notice struct {
	Subject string
	Text    string // Markdown
	About   string // what its private address is for, "" for none
}

// Tell writes to an account; where no mail server is set, nobody is written to.
func (d *Desk) Tell(ctx context.Context, a store.Account, n Notice) error {
	if !d.Office.Sends() {
		return nil
	}
	return d.Store.WriteToAccount(ctx, store.Letter{
		Message: "account", Name: "About an account", Recipient: a.Email, Subject: "Lazo: " + n.Subject, About: n.About,
		Body:   "Dear " + text.Escape(a.Name) + ",\n\n" + n.Text,
		Reason: "Sent since it is about the account of its recipient.",
	}, time.Now())
}
