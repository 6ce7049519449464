package notify

import (
	"errors"
	"html/template"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/notify/paper"
	"lazo/store"
)

// Document is a document of a form, for a response as it is stored.
type Document struct {
	paper.Document
	Key   string
	Paper string // a4, a5 or letter; "" for a4
}

// DocumentOf is a program's document for a response; [store.ErrNotFound] if there is none of
// that key.
func DocumentOf(p *engine.Program, r store.Response, key string) (Document, error) {
	return documentOf(p, r, key, false)
}

func documentOf(p *engine.Program, r store.Response, key string, sent bool) (Document, error) {
	name, body, size, err := p.Document(key,
		engine.Submitted{Answers: r.Answers, Parameters: r.Parameters, Received: r.ReceivedAt}, sent)
	if errors.Is(err, engine.ErrNoDocument) {
		err = store.ErrNotFound
	}
	return Document{paper.Document{Title: name, Body: body}, key, size}, err
}

// PDF is documents on paper, each from a page of its own; the size is the first one’s.
func PDF(made time.Time, documents ...Document) ([]byte, error) {
	size, on := "", make([]paper.Document, len(documents))
	for i, d := range documents {
		on[i] = d.Document
	}
	if len(documents) > 0 {
		size = documents[0].Paper
	}
	return paper.PDF(size, made, on...)
}

// FileName is a document's name as a file is called, without its ending.
func (d Document) FileName() string {
	name := strings.Map(func(r rune) rune {
		if strings.ContainsRune(`/\:*?"<>|`, r) || r < ' ' {
			return '-'
		}
		return r
	}, d.Title)
	if name = strings.TrimSpace(name); name == "" {
		return d.Key
	}
	return name
}

// attached is a document as a letter carries it: on paper, or, if that can’t show its
// letters, as a page to be printed.
func (o *Outgoing) attached(d Document, language string) (attachment, error) {
	data, err := PDF(o.o.Now(), d)
	var unshown *paper.UnshownError
	if !errors.As(err, &unshown) {
		return attachment{d.FileName() + ".pdf", "application/pdf", data}, err
	}
	heading := template.HTML("<h1>" + template.HTMLEscapeString(d.Title) + "</h1>\n") //nolint:gosec // escaped
	html, err := page(d.Title, language, heading+o.ties.HTML(d.Body))
	return attachment{d.FileName() + ".html", "text/html; charset=utf-8", []byte(html)}, err
}
