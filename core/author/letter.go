package author

import (
	"regexp"
	"slices"
	"strings"
	"time"

	"lazo/core/form"
)

// LetterAt is what a letter is called among what can be at hand in the manuscript; keys of
// items hold no hyphen.
func LetterAt(key string) string { return "letter-" + key }

// toRespondent are names of letters that go to whoever answers; any other begins without an
// address, so that what is meant for the office is not sent to strangers.
var toRespondent = regexp.MustCompile(`(?i)\b(thank|thanks|confirm|confirmation|remind|reminder|welcome|receipt|invite|invitation|respondent|them|whoever|gracias|confirmación|recordatorio|bienvenida)\b`)

// AddLetter begins a letter. One that is named after the respondent goes to the first
// address that is asked for, always, until it is told otherwise.
type AddLetter struct {
	Name string `form:"label"`
}

func (c AddLetter) Do(f *form.Form, _ time.Time) (Doing, error) {
	name := strings.TrimSpace(c.Name)
	if name == "" {
		return Doing{}, misfit("a letter needs a name, such as Thank whoever asks")
	}
	if len(f.Messages) >= form.MaxMessages {
		return Doing{}, misfit("a form has at most %d letters", form.MaxMessages)
	}
	m := form.Message{Key: form.FreeKey(form.ProposeKey(name), "letter", letterKeys(f)), Name: name, Subject: name,
		To: []string{}}
	for p := range f.Places() {
		if toRespondent.MatchString(name) && p.Item.Type == form.Email && p.Section.Repeat == nil {
			m.To = []string{"{" + p.Item.Key + "}"}
			break
		}
	}
	return Doing{Edit: withLetters(append(slices.Clone(f.Messages), m)), At: LetterAt(m.Key)}, nil
}

func letterKeys(f *form.Form) map[string]bool {
	taken := map[string]bool{}
	for _, m := range f.Messages {
		taken[m.Key] = true
	}
	return taken
}

func withLetters(messages []form.Message) form.Edit {
	return form.SetProperty("", "messages", messages)
}

func letter(f *form.Form, key string) (int, error) {
	i := slices.IndexFunc(f.Messages, func(m form.Message) bool { return m.Key == key })
	if i < 0 {
		return 0, misfit("this letter is no longer there")
	}
	return i, nil
}

// SetLetter sets a property of a letter: its name, to (addresses or answers between
// commas), reply_to, subject, body, again, at, or what it carries.
type SetLetter struct {
	Letter   string   `form:"letter"` // its key
	Property string   `form:"property"`
	Value    string   `form:"value"`
	Values   []string `form:"attach"`
}

func (c SetLetter) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: LetterAt(c.Letter)}
	i, err := letter(f, c.Letter)
	if err != nil {
		return d, err
	}
	messages := slices.Clone(f.Messages)
	m, text := &messages[i], strings.TrimSpace(c.Value)
	switch c.Property {
	case "name":
		m.Name = text
	case "to":
		m.To = addresses(text)
	case "reply_to":
		m.ReplyTo = text
	case "subject":
		m.Subject = strings.Join(strings.Fields(text), " ")
	case "body":
		m.Body = strings.ReplaceAll(strings.TrimRight(c.Value, " \t\r\n"), "\r\n", "\n")
	case "again":
		m.Again = c.Value != ""
	case "attach":
		m.Attach = ticked(c.Values)
	case "at":
		m.At = text
		if text != "" {
			n, err := written(f, "", "messages.0.at", text)
			if err != nil {
				return d, err
			}
			m.At = n.String()
		}
	default:
		return d, misfit("a letter has no “%s”", c.Property)
	}
	d.Edit = withLetters(messages)
	return d, nil
}

// addresses are those between commas or on lines of their own; commas within braces part
// nothing.
func addresses(text string) []string {
	out, depth, from := []string{}, 0, 0
	add := func(part string) {
		if part = strings.TrimSpace(part); part != "" {
			out = append(out, part)
		}
	}
	for i, r := range text {
		switch {
		case r == '{':
			depth++
		case r == '}':
			depth--
		case depth <= 0 && (r == ',' || r == ';' || r == '\n'):
			add(text[from:i])
			from = i + 1
		}
	}
	add(text[from:])
	return out
}

// RemoveLetter takes a letter out.
type RemoveLetter struct {
	Letter string `form:"letter"`
}

func (c RemoveLetter) Do(f *form.Form, _ time.Time) (Doing, error) {
	i, err := letter(f, c.Letter)
	if err != nil {
		return Doing{}, err
	}
	return Doing{Edit: withLetters(slices.Delete(slices.Clone(f.Messages), i, i+1))}, nil
}

// MoveLetter moves a letter by one place.
type MoveLetter struct {
	Letter string `form:"letter"`
	Up     bool   `form:"-"`
}

func (c MoveLetter) Do(f *form.Form, _ time.Time) (Doing, error) {
	i, err := letter(f, c.Letter)
	if err != nil {
		return Doing{}, err
	}
	to := i + 1
	if c.Up {
		to = i - 1
	}
	if to < 0 || to >= len(f.Messages) {
		return nothing(LetterAt(c.Letter)), nil
	}
	messages := slices.Clone(f.Messages)
	messages[i], messages[to] = messages[to], messages[i]
	return Doing{Edit: withLetters(messages), At: LetterAt(c.Letter)}, nil
}

// SetConfirm has an address confirmed before a response counts as sent, or no longer for
// no item.
type SetConfirm struct {
	Item    string `form:"item"`
	Within  string `form:"within"`
	Subject string `form:"subject"`
	Body    string `form:"body"`
}

func (c SetConfirm) Do(f *form.Form, _ time.Time) (Doing, error) {
	if c.Item == "" {
		if f.Confirm == nil {
			return nothing(""), nil
		}
		return Doing{Edit: form.SetProperty("", "confirm", nil)}, nil
	}
	it, err := item(f, c.Item)
	if err != nil {
		return Doing{}, err
	}
	if it.Type != form.Email {
		return Doing{}, misfit("an e-mail address is confirmed, %s is none", it.Name())
	}
	within := strings.TrimSpace(c.Within)
	if within != "" {
		if _, err := written(f, "", "messages.0.at", "now + "+within); err != nil {
			return Doing{}, misfit("a time such as 3 days was expected, “%s” was found", within)
		}
	}
	next := form.Confirm{Item: c.Item, Within: within, Subject: strings.Join(strings.Fields(c.Subject), " "),
		Body: strings.ReplaceAll(strings.TrimSpace(c.Body), "\r\n", "\n")}
	if f.Confirm == nil { // something to begin with
		next = form.Confirm{Item: c.Item, Within: "3 days", Subject: "Please confirm your address",
			Body: "Please confirm that this is your address:\n\n{confirm_link}\n\nIf you did not fill in the form, you need not do anything."}
	}
	return Doing{Edit: form.SetProperty("", "confirm", next)}, nil
}
