package engine

import (
	"encoding/json"
	"net/mail"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
)

// letter is a compiled message.
type letter struct {
	when condition  // with a nil code for one that is always met
	at   *expr.Code // nil for at once
}

// morning is when a letter goes out that has a date and no time, in seconds after midnight.
const morning = 9 * 3600

// outgoing compiles the conditions of what goes out.
func (c *compiler) outgoing() {
	c.p.sends = len(c.form.Messages) > 0 || len(c.form.Hooks) > 0 || c.form.Confirm != nil
	when := func(src, at string) condition {
		if strings.TrimSpace(src) == "" {
			return condition{}
		}
		return conditionOf(c.compile(src, place{at: at}, c.p.Symbols, true))
	}
	for i, m := range c.form.Messages {
		at := "messages." + strconv.Itoa(i) + "."
		l := letter{when: when(m.When, at+"when")}
		if strings.TrimSpace(m.At) != "" {
			l.at = c.compile(m.At, place{at: at + "at"}, c.p.Symbols, false)
		}
		if l.at != nil && l.at.Type.Kind != expr.Date && l.at.Type.Kind != expr.Moment && l.at.Type.Kind != expr.Blank {
			c.remark("wrong-type", form.Error, at+"at", "", "a moment or a date was expected, %s is %s", m.At, l.at.Type.Kind)
		}
		c.p.messages = append(c.p.messages, l)
	}
	for i, h := range c.form.Hooks {
		c.p.hooks = append(c.p.hooks, when(h.When, "hooks."+strconv.Itoa(i)+".when"))
	}
	if f := c.form.Confirm; f != nil && f.Item != "" {
		if it := c.p.lookup[f.Item]; it == nil {
			c.remark("unknown-name", form.Error, "confirm.item", "", "there is no question “%s”", f.Item)
		} else if it.Type != form.Email || it.group >= 0 {
			c.remark("wrong-type", form.Error, "confirm.item", "", "an e-mail address outside of rows is confirmed, “%s” is none", f.Item)
		}
	}
}

// Outgoing is a letter that would go out.
type Outgoing struct {
	Key     string
	To      []string // the addresses that can be read as such, each once; empty if there is none
	Subject string
	At      *time.Time // nil for at once
}

// MarshalJSON writes the letter as lazo rehearse prints it.
func (g Outgoing) MarshalJSON() ([]byte, error) {
	out := map[string]any{"key": g.Key, "to": g.To, "subject": g.Subject, "at": nil}
	if g.At != nil {
		out["at"] = g.At.Format(time.RFC3339)
	}
	return json.Marshal(out)
}

// ConfirmKey is the key of the letter that asks for an address to be confirmed.
const ConfirmKey = "confirm"

// Letter is a message of the form for an outcome: as it would arrive, if it goes, and why
// it does or does not.
type Letter struct {
	Outgoing
	Name    string   // as the workspace calls it
	ReplyTo string   // an address, "" for none
	Body    string   // Markdown, in which answers stand as plain text
	Attach  []string // response, calendar, or a document's key
	Goes    bool
	Why     Because // holds if it goes, or would once something is known
}

// Letters are all messages of the form for the outcome, in their order: those that go out
// and those that do not. A message goes out if its condition is met and, in a change, was
// not met before, or if it goes out again. Nothing goes out of what is not accepted. While
// an address is to be confirmed only the letter that asks for it goes.
func (o *Outcome) Letters() []Letter {
	if o.in == nil {
		return nil
	}
	var out []Letter
	waits := o.Accepted && o.waits()
	if waits {
		out = append(out, o.confirmLetter())
	}
	before := sync.OnceValue(o.priorAlone) // which most letters do not ask for
	for i := range o.p.Form.Messages {
		m, l := &o.p.Form.Messages[i], &o.p.messages[i]
		one := Letter{
			Outgoing: Outgoing{Key: m.Key, To: o.addresses(m.To), Subject: oneLine(o.Plain(m.Subject))}, Name: m.Name,
			Body: o.Markdown(m.Body), Attach: m.Attach,
		}
		if reply := o.addresses([]string{m.ReplyTo}); len(reply) > 0 {
			one.ReplyTo = reply[0]
		}
		met := l.when.holds(o)
		one.Why = o.because("sent", met, "", l.when.code, o.p.Symbols)
		at, known := o.moment(l.at)
		switch {
		case !met:
			one.Why.Says = "it does not go"
		case !o.Accepted:
			one.Why.Says = "it goes once the form can be sent"
		case waits:
			one.Why.Says = "it goes once the address is confirmed"
		case o.mode != New && !m.Again && l.when.holds(before()):
			one.Why.Holds = false
			one.Why.Says = "it does not go again: its condition was met before this change"
		case !known:
			one.Why.Says = "it goes once its moment is known"
		default:
			one.Goes, one.At, one.Why.Says = true, at, "it goes"
			if l.when.code == nil {
				one.Why.Says = "it always goes"
			}
		}
		out = append(out, one)
	}
	return out
}

// confirmLetter is the letter that asks for the address to be confirmed.
func (o *Outcome) confirmLetter() Letter {
	c := o.p.Form.Confirm
	v := o.Value(o.State(c.Item, 0), 0)
	return Letter{
		Outgoing: Outgoing{Key: ConfirmKey, To: []string{v.Text()}, Subject: oneLine(o.Plain(c.Subject))}, Body: o.Markdown(c.Body), Goes: true,
		Why: Because{Effect: "sent", Holds: true, Truth: expr.Met, Says: "it goes first, since the address is to be confirmed"},
	}
}

// Messages are the letters that go out for the outcome; see [Outcome.Letters].
func (o *Outcome) Messages() []Outgoing {
	out := []Outgoing{}
	for _, l := range o.Letters() {
		if l.Goes {
			out = append(out, l.Outgoing)
		}
	}
	return out
}

// waits reports whether the response waits for its address to be confirmed.
func (o *Outcome) waits() bool {
	c := o.p.Form.Confirm
	if c == nil || o.mode != New {
		return false
	}
	v := o.Value(o.State(c.Item, 0), 0)
	return !v.IsBlank()
}

// Hooks are the keys of the hooks that would be told of the outcome.
func (o *Outcome) Hooks() []string {
	out := []string{}
	if !o.Accepted || o.in == nil || o.waits() {
		return out
	}
	event := "received"
	if o.mode != New {
		event = "changed"
	}
	for i, h := range o.p.Form.Hooks {
		if h.Tells(event) && o.p.hooks[i].holds(o) {
			out = append(out, h.Key)
		}
	}
	return out
}

// holds reports whether a condition is met for an outcome; one that is not written always
// is.
func (c *condition) holds(o *Outcome) bool {
	return c.code == nil || c.code.Truth(&o.frame) == expr.Met
}

// priorAlone is the form on the answers of before, at the moment of the change.
func (o *Outcome) priorAlone() *Outcome {
	in := *o.in
	in.Answers = o.p.Answers(nil)
	return o.p.Run(in)
}

// moment is when a letter goes: nil for at once. One whose moment is not known yet does
// not go.
func (o *Outcome) moment(code *expr.Code) (at *time.Time, goes bool) {
	if code == nil {
		return nil, true
	}
	v := code.Value(&o.frame)
	var t time.Time
	switch v.Kind() {
	case expr.Moment:
		t = time.Unix(v.Unix(), 0)
	case expr.Date:
		t = time.Unix(expr.MomentIn(o.p.loc, v.Day(), morning), 0)
	default:
		return nil, false
	}
	if !t.After(o.in.At) {
		return nil, true
	}
	t = t.In(o.p.loc)
	return &t, true
}

// addresses are where a letter goes, without what is blank or no address.
func (o *Outcome) addresses(to []string) []string {
	out := []string{}
	for _, src := range to {
		a, err := mail.ParseAddress(strings.TrimSpace(o.Plain(src)))
		if err != nil || slices.ContainsFunc(out, func(s string) bool { return strings.EqualFold(s, a.Address) }) {
			continue
		}
		out = append(out, a.Address)
	}
	return out
}

// oneLine keeps what stands in a header on its line.
func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }
