package form

import (
	"fmt"
	"strings"
)

// outgoing compares what goes out: messages, documents, hooks and what is asked of an
// address, one by one.
func (d *differ) outgoing() {
	list := func(f *Form) (out []thing) {
		for i := range f.Messages {
			out = append(out, thing{"messages/" + f.Messages[i].Key, letterName(&f.Messages[i]), "messages", f.Messages[i], i})
		}
		for i, doc := range f.Documents {
			out = append(out, thing{"documents/" + doc.Key, "the document “" + doc.Name + "”", "documents", doc, i})
		}
		for i, h := range f.Hooks {
			out = append(out, thing{"hooks/" + h.Key, "the hook “" + h.Key + "”", "hooks", h, i})
		}
		if f.Confirm != nil {
			out = append(out, thing{"confirm", "confirming an address", "confirm", *f.Confirm, 0})
		}
		return out
	}
	from := len(d.out)
	d.things(list(d.before), list(d.after))
	for i := range d.out[from:] { // they are of the form itself
		d.out[from+i].Key = ""
	}
}

// letterName is what a message is called.
func letterName(m *Message) string {
	if m.Name != "" {
		return "“" + m.Name + "”"
	}
	return "the message “" + m.Key + "”"
}

// going says what is different of one that goes out; ok is false for what is said as usual.
func (d *differ) going(prop string, is any) (says string, ok bool) {
	texts := func() string {
		var out []string
		list, _ := is.([]any)
		for _, one := range list {
			out = append(out, fmt.Sprint(one))
		}
		return strings.Join(out, ", ")
	}
	src, _ := is.(string)
	switch prop {
	case "when":
		if is == nil {
			return "now always goes", true
		}
		return "now goes when " + d.sentence(src), true
	case "at":
		if is == nil {
			return "now goes at once", true
		}
		return "now goes at this time: " + d.phrase(src), true
	case "to":
		return "now goes to " + texts(), true
	case "attach":
		if is == nil {
			return "now goes with nothing attached", true
		}
		return "now goes with " + texts(), true
	case "events":
		if is == nil {
			return "now told of everything", true
		}
		return "now told of what is " + texts(), true
	case "again":
		return map[bool]string{true: "now goes again after every change", false: "now goes once"}[is == true], true
	case "body":
		return "its text changed", true
	}
	return "", false
}
