package notify

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"html/template"
	"net/mail"
	"strings"

	gomail "github.com/wneessen/go-mail"

	"lazo/core/engine"
	"lazo/store"
)

// compose writes a letter as a mail: as plain text and as HTML, with what it carries. Its
// Message-ID is the same at every attempt.
func (o *Outgoing) compose(ctx context.Context, l store.Letter, r store.Response) (*gomail.Msg, error) {
	body, way, err := o.withAddresses(ctx, l, r)
	if err != nil {
		return nil, err
	}
	carried, err := o.attachments(ctx, l, r)
	if err != nil {
		return nil, err
	}
	from := o.o.Server.Sender()
	m := gomail.NewMsg(gomail.WithCharset(gomail.CharsetUTF8))
	if from.Name == "" && l.WorkspaceID == 0 {
		from.Name = "Lazo"
	} else if from.Name == "" {
		if from.Name, err = o.store.WorkspaceName(ctx, l.WorkspaceID); err != nil {
			return nil, err
		}
	}
	m.FromMailAddress(&from)
	if err := addressed(m, l); err != nil {
		return nil, errors.Join(errNotSendable, err)
	}
	m.Subject(asWords(oneLine(l.Subject)))
	m.SetDateWithValue(o.o.Now())
	_, host, _ := strings.Cut(from.Address, "@")
	m.SetMessageIDWithValue(l.MessageID + "@" + host)
	m.SetGenHeader("Auto-Submitted", "auto-generated")
	if way != "" && l.Answered {
		m.SetGenHeader(gomail.HeaderListUnsubscribe, "<"+way+">")
	}
	m.SetBodyString(gomail.TypeTextPlain, Plain(body))
	html, err := page(l.Subject, l.Language, o.ties.HTML(body))
	if err != nil {
		return nil, err
	}
	m.AddAlternativeString(gomail.TypeTextHTML, html)
	for _, a := range carried {
		if err := m.AttachReader(a.Name, bytes.NewReader(a.Data),
			gomail.WithFileContentType(gomail.ContentType(a.Type))); err != nil {
			return nil, errors.Join(errNotSendable, err)
		}
	}
	return m, nil
}

// addressed says to whom a letter goes, and to whom its answers.
func addressed(m *gomail.Msg, l store.Letter) error {
	to, err := mail.ParseAddress(l.Recipient)
	if err != nil {
		return err
	}
	m.AddToMailAddress(&mail.Address{Address: to.Address})
	if l.ReplyTo == "" {
		return nil
	}
	reply, err := mail.ParseAddress(l.ReplyTo)
	if err != nil {
		return err
	}
	m.ReplyToMailAddress(&mail.Address{Address: reply.Address})
	return nil
}

// asWords keeps an answer in a subject from being read as words that are encoded (RFC 2047).
func asWords(s string) string { return strings.ReplaceAll(s, "=?", "= ?") }

// oneLine keeps what stands in a header on its line.
func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

// withAddresses puts the private addresses into a letter's text. One that asks for an
// address to be confirmed says where, whatever else it says.
func (o *Outgoing) withAddresses(ctx context.Context, l store.Letter, r store.Response) (body, way string, err error) {
	body = l.Body
	if l.Message == engine.ConfirmKey && !strings.Contains(body, engine.ConfirmLink) {
		body += "\n\n" + engine.ConfirmLink
	}
	if strings.Contains(body, engine.ConfirmLink) {
		at, err := o.ties.ConfirmAddress(ctx, r, l.Recipient)
		if err != nil {
			return "", "", fmt.Errorf("making an address to confirm at: %w", err)
		}
		body = strings.ReplaceAll(body, engine.ConfirmLink, "<"+at+">")
	}
	if !strings.Contains(body, engine.ChangeLink) {
		return body, "", nil
	}
	if way, err = o.ties.ChangeAddress(ctx, r); err != nil {
		return "", "", fmt.Errorf("making a private address: %w", err)
	}
	link := "(this can no longer be changed)"
	if way != "" {
		link = "<" + way + ">"
	}
	return strings.ReplaceAll(body, engine.ChangeLink, link), way, nil
}

// OnceLink stands in the text of a letter where the address goes that is good once. It is
// made when the letter is handed over, so that it is kept nowhere.
const OnceLink = "{once_link}"

// Shown is a letter's text as it is shown in the desk: the private address is its
// recipient's alone.
func Shown(body string) string {
	return strings.NewReplacer(engine.ChangeLink, "*(the private address to change or withdraw it)*",
		engine.ConfirmLink, "*(the private address to confirm at)*", OnceLink,
		"*(an address that is good once)*").Replace(body)
}

// sheet is the mail as a page. Mail programs read styles from the elements only.
var sheet = template.Must(template.New("mail").Parse(`<!doctype html>
<html{{with .Language}} lang="{{.}}"{{end}}>
<head><meta charset="utf-8"><title>{{.Subject}}</title></head>
<body style="margin:0;padding:24px;background:#fff;color:#15231f;font:16px/1.5 system-ui,sans-serif">
<div style="max-width:36em;margin:0 auto" dir="auto">
{{.Body}}
</div>
</body>
</html>
`))

func page(subject, language string, body template.HTML) (string, error) {
	var out strings.Builder
	err := sheet.Execute(&out, struct {
		Subject, Language string
		Body              template.HTML
	}{subject, language, body})
	return out.String(), err
}
