package form

import (
	"net/url"
	"slices"
	"strconv"
	"strings"
)

// Message is a letter that goes out when its condition becomes met. Its texts may hold
// answers.
type Message struct {
	Key     string   `json:"key"`
	Name    string   `json:"name,omitempty"` // as the workspace calls it
	When    string   `json:"when,omitempty"` // "" is always met
	To      []string `json:"to"`             // addresses, or answers such as {email}
	ReplyTo string   `json:"reply_to,omitempty"`
	Subject string   `json:"subject"`
	Body    string   `json:"body"`             // Markdown
	Attach  []string `json:"attach,omitempty"` // response, calendar, files, or a document's key
	Again   bool     `json:"again,omitempty"`  // after every change while it is met
	At      string   `json:"at,omitempty"`     // a moment or a date, instead of at once
}

// Document is a text with answers that is printed, attached or handed out.
type Document struct {
	Key   string `json:"key"`
	Name  string `json:"name"` // may hold answers
	Body  string `json:"body"` // Markdown
	Paper string `json:"paper,omitempty"`
}

// Hook tells another program of a response, while its condition is met.
type Hook struct {
	Key    string   `json:"key"`
	URL    string   `json:"url"`
	When   string   `json:"when,omitempty"`
	Events []string `json:"events,omitempty"` // nil for all
}

// Confirm asks for an address to be confirmed before a response counts as sent.
type Confirm struct {
	Item    string `json:"item"`
	Within  string `json:"within,omitempty"` // a duration, such as 3 days
	Subject string `json:"subject,omitempty"`
	Body    string `json:"body,omitempty"` // Markdown, with {confirm_link}
}

// What hooks can be told of, what letters can carry, and on what documents are printed.
var (
	HookEvents = []string{"received", "changed", "deleted"}
	Attachable = []string{"response", "calendar", "files"}
	Papers     = []string{"a4", "a5", "letter"}
)

// Bounds of what goes out.
const (
	MaxMessages   = 100
	MaxRecipients = 50
)

// Tells reports whether a hook is told of an event.
func (h Hook) Tells(event string) bool { return len(h.Events) == 0 || slices.Contains(h.Events, event) }

// outgoing reads what goes out.
func (r *reader) outgoing(o *object, f *Form) {
	seen := map[string]bool{}
	keyed := func(p *object, parent string) string {
		key := p.keyed(parent)
		if key != "" && seen[parent+"/"+key] {
			r.remark("duplicate-key", p.at, key, "the key “%s” is given twice", key)
		}
		seen[parent+"/"+key] = true
		return key
	}
	o.each("documents", func(v any, at string) {
		if p, ok := r.object(v, at, ""); ok {
			f.Documents = append(f.Documents,
				Document{keyed(&p, "documents"), p.text("name"), p.text("body"), p.word("paper", Papers...)})
			p.done()
		}
	})
	o.each("messages", func(v any, at string) {
		if p, ok := r.object(v, at, ""); ok {
			f.Messages = append(f.Messages, Message{
				Key: keyed(&p, "messages"), Name: p.text("name"), When: p.text("when"), To: r.texts(&p, "to"),
				ReplyTo: p.text("reply_to"),
				Subject: p.text("subject"), Body: p.text("body"), Attach: r.texts(&p, "attach"), Again: p.yes("again"),
				At: p.text("at"),
			})
			r.attached(&p, f)
			p.done()
		}
	})
	o.each("hooks", func(v any, at string) {
		if p, ok := r.object(v, at, ""); ok {
			f.Hooks = append(f.Hooks, Hook{keyed(&p, "hooks"), p.needed("url"), p.text("when"), r.texts(&p, "events")})
			r.told(&p, f.Hooks[len(f.Hooks)-1])
			p.done()
		}
	})
	if v, ok := o.get("confirm"); ok {
		if p, ok := r.object(v, "confirm", ""); ok {
			f.Confirm = &Confirm{p.needed("item"), p.text("within"), p.text("subject"), p.text("body")}
			p.done()
		}
	}
	for name, n := range map[string]int{"messages": len(f.Messages), "documents": len(f.Documents),
		"hooks": len(f.Hooks)} {
		if n > MaxMessages {
			r.remark("out-of-range", name, "", "a form has at most %d %s", MaxMessages, name)
		}
	}
}

// attached checks what the last message carries, and to how many it goes.
func (r *reader) attached(p *object, f *Form) {
	m := f.Messages[len(f.Messages)-1]
	if len(m.To) > MaxRecipients {
		r.remark("out-of-range", p.place("to"), "", "a message goes to at most %d addresses", MaxRecipients)
	}
	for i, name := range m.Attach {
		document := slices.ContainsFunc(f.Documents, func(d Document) bool { return d.Key == name })
		if !document && !slices.Contains(Attachable, name) {
			r.remark("unknown-name", p.place("attach")+"."+strconv.Itoa(i), "", "there is no document “%s” to attach", name)
		}
	}
}

// told checks where a hook leads, and of what it is told.
func (r *reader) told(p *object, h Hook) {
	if u, err := url.Parse(h.URL); h.URL != "" &&
		(err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" || u.User != nil) {
		r.remark("wrong-type", p.place("url"), "",
			"an address such as https://desk.example/boats was expected, “%s” was found", h.URL)
	}
	for i, e := range h.Events {
		if !slices.Contains(HookEvents, e) {
			r.remark("wrong-type", p.place("events")+"."+strconv.Itoa(i), "", "“%s” is none of %s", e,
				strings.Join(HookEvents, ", "))
		}
	}
}

// outgoingTies are the conditions of what goes out.
func (f *Form) outgoingTies(add func(property string, expr *string)) {
	for i := range f.Messages {
		add("messages."+strconv.Itoa(i)+".when", &f.Messages[i].When)
		add("messages."+strconv.Itoa(i)+".at", &f.Messages[i].At)
	}
	for i := range f.Hooks {
		add("hooks."+strconv.Itoa(i)+".when", &f.Hooks[i].When)
	}
}

// outgoingTexts are the texts of what goes out; blocks tells which may hold blocks.
func (f *Form) outgoingTexts(add func(property string, at *string, blocks bool)) {
	for i := range f.Messages {
		m, at := &f.Messages[i], "messages."+strconv.Itoa(i)+"."
		for n := range m.To {
			add(at+"to."+strconv.Itoa(n), &m.To[n], false)
		}
		add(at+"reply_to", &m.ReplyTo, false)
		add(at+"subject", &m.Subject, false)
		add(at+"body", &m.Body, true)
	}
	if f.Confirm != nil {
		add("confirm.subject", &f.Confirm.Subject, false)
		add("confirm.body", &f.Confirm.Body, true)
	}
	for i := range f.Documents {
		d, at := &f.Documents[i], "documents."+strconv.Itoa(i)+"."
		add(at+"name", &d.Name, false)
		add(at+"body", &d.Body, true)
	}
}

// withOutgoing is what goes out with the expression at a property set; for "" a condition
// that is always met, or a letter that goes at once.
func (f *Form) withOutgoing(head string, n int, rest, src string) (Edit, bool) {
	switch {
	case head == "messages" && n < len(f.Messages):
		messages := slices.Clone(f.Messages)
		switch rest {
		case "when":
			messages[n].When = src
		case "at":
			messages[n].At = src
		default:
			return Edit{}, false
		}
		return SetProperty("", "messages", messages), true
	case head == "hooks" && n < len(f.Hooks) && rest == "when":
		hooks := slices.Clone(f.Hooks)
		hooks[n].When = src
		return SetProperty("", "hooks", hooks), true
	}
	return Edit{}, false
}
