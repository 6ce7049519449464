package postbox

import (
	"bytes"
	"encoding/base64"
	"io"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	"net/mail"
	"strings"
	"time"
)

// Letter is a mail that was taken.
type Letter struct {
	Number int // of those that were taken, from 1
	From   string
	To     []string
	Data   []byte
	Taken  time.Time
}

// Part is a part of a mail that is not made of parts itself.
type Part struct {
	Type string // such as text/plain
	Name string // of a file
	Data []byte
}

// Header is a header of the mail, decoded; "" if there is none.
func (l Letter) Header(name string) string {
	m, err := mail.ReadMessage(bytes.NewReader(l.Data))
	if err != nil {
		return ""
	}
	text, err := new(mime.WordDecoder).DecodeHeader(m.Header.Get(name))
	if err != nil {
		return m.Header.Get(name)
	}
	return text
}

// Subject is what the mail is about.
func (l Letter) Subject() string { return l.Header("Subject") }

// Parts are the parts of the mail, in their order.
func (l Letter) Parts() []Part {
	m, err := mail.ReadMessage(bytes.NewReader(l.Data))
	if err != nil {
		return nil
	}
	return partsOf(m.Header.Get("Content-Type"), m.Header.Get("Content-Transfer-Encoding"),
		m.Header.Get("Content-Disposition"), m.Body, 0)
}

// mostDeep is how deep parts can lie within parts.
const mostDeep = 8

func partsOf(kind, encoding, disposition string, body io.Reader, depth int) (out []Part) {
	media, params, err := mime.ParseMediaType(kind)
	if err != nil {
		media = "text/plain"
	}
	if strings.HasPrefix(media, "multipart/") && depth < mostDeep {
		for r := multipart.NewReader(body, params["boundary"]); ; {
			p, err := r.NextRawPart()
			if err != nil {
				return out
			}
			h := p.Header
			out = append(out, partsOf(h.Get("Content-Type"), h.Get("Content-Transfer-Encoding"), h.Get("Content-Disposition"), p,
				depth+1)...)
		}
	}
	switch strings.ToLower(encoding) {
	case "base64":
		body = base64.NewDecoder(base64.StdEncoding, body)
	case "quoted-printable":
		body = quotedprintable.NewReader(body)
	}
	data, _ := io.ReadAll(body)
	_, named, _ := mime.ParseMediaType(disposition)
	name, err := new(mime.WordDecoder).DecodeHeader(named["filename"])
	if err != nil {
		name = named["filename"]
	}
	return []Part{{media, name, data}}
}

// Text is the mail's plain text, Body its HTML; "" if it has none.
func (l Letter) Text() string { return l.first("text/plain") }

// Body is the mail's HTML.
func (l Letter) Body() string { return l.first("text/html") }

func (l Letter) first(kind string) string {
	for _, p := range l.Parts() {
		if p.Type == kind && p.Name == "" {
			return strings.ReplaceAll(string(p.Data), "\r\n", "\n")
		}
	}
	return ""
}
