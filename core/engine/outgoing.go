package engine

import (
	"cmp"
	"encoding/json"
	"errors"
	"net/mail"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/text"
)

// letter is a compiled message.
type letter struct {
	when condition  // with a nil code for one that is always met
	at   *expr.Code // nil for at once
}

// morning is when a letter goes out that has a date and no time, in seconds after midnight.
const morning = 9 * 3600

// confirmWithin is within what time an address is confirmed unless the form says otherwise.
const confirmWithin = "3 days"

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
			c.remark("wrong-type", form.Error, "confirm.item", "",
				"an e-mail address outside of rows is confirmed, “%s” is none", f.Item)
		}
		within := cmp.Or(strings.TrimSpace(f.Within), confirmWithin)
		c.p.confirmBy = c.compile("now + "+within, place{at: "confirm.within"}, c.p.Symbols, false)
		if c.p.confirmBy != nil && c.p.confirmBy.Type.Kind != expr.Moment {
			c.remark("wrong-type", form.Error, "confirm.within", "", "a time such as 3 days was expected, %s is none", within)
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
	Name     string   // as the workspace calls it
	Answered []string // those of its addresses that somebody answered
	ReplyTo  string   // an address, "" for none
	Body     string   // Markdown, in which answers stand as plain text; see [ChangeLink]
	Attach   []string // response, calendar, or a document's key
	Goes     bool
	Timed    bool    // it has a moment of its own
	Stands   bool    // its condition is met and its moment known, whether or not it became so now
	Why      Because // holds if it goes, or would once something is known
}

// Letters are all messages of the form for the outcome, in their order: those that go out
// and those that do not. A message goes out if its condition is met and, in a change, was
// not met before, or if it goes out again. Nothing goes out of what is not accepted. While
// an address is to be confirmed only the letter that asks for it goes.
func (o *Outcome) Letters() []Letter {
	if o.in == nil {
		return nil
	}
	if o.mode == New {
		return o.letters(nil)
	}
	return o.letters(sync.OnceValue(func() *Outcome { return o.priorAlone(false) })) // which most letters do not ask for
}

// letters are the messages of an outcome after a change of what before gives, or at its
// receipt if that is nil.
func (o *Outcome) letters(before func() *Outcome) []Letter {
	var out []Letter
	waits := o.Accepted && o.waits()
	if waits {
		out = append(out, o.confirmLetter())
	}
	for i := range o.p.Form.Messages {
		out = append(out, o.letter(i, waits, before))
	}
	return out
}

func (o *Outcome) letter(i int, waits bool, before func() *Outcome) Letter {
	m, l := &o.p.Form.Messages[i], &o.p.messages[i]
	one := Letter{
		Outgoing: Outgoing{Key: m.Key, To: o.addresses(m.To), Subject: o.sentSubject(m.Subject)}, Name: m.Name,
		Body: o.sent(o.p.linked(m.Body), (*text.Compiled).Markdown), Attach: m.Attach, Timed: l.at != nil,
	}
	one.Answered = o.addresses(slices.DeleteFunc(slices.Clone(m.To), func(to string) bool { return !text.Holds(to) }))
	// It stands in the letter for whoever gets it, as its text does.
	if reply := addressesIn([]string{o.sent(m.ReplyTo, (*text.Compiled).Plain)}); len(reply) > 0 {
		one.ReplyTo = reply[0]
	}
	met := l.when.holds(o)
	one.Why = o.because("sent", met, "", l.when.code, o.p.Symbols)
	at, known := o.moment(l.at)
	one.Stands = met && o.Accepted && !waits && known
	switch {
	case !met:
		one.Why.Says = "it does not go"
	case !o.Accepted:
		one.Why.Says = "it goes once the form can be sent"
	case waits:
		one.Why.Says = "it goes once the address is confirmed"
	case before != nil && !m.Again && l.when.holds(before()):
		one.Why.Holds = false
		one.Why.Says = "it does not go again: its condition was met before this change"
	case !known:
		one.Why.Says = "it goes once its moment is known"
	default:
		one.Goes, one.Why.Says = true, "it goes"
		if l.when.code == nil {
			one.Why.Says = "it always goes"
		}
	}
	if one.Stands {
		one.At = at
	}
	return one
}

// ChangeLink stands in a letter's text for the private address at which the respondent
// changes or withdraws what was sent; whoever sends the letter puts the address there. It
// is written {change_link}, unless a question has that key.
const ChangeLink = "\ue000change\ue000"

// linked is a letter's text with [ChangeLink] and [ConfirmLink] in it.
func (p *Program) linked(src string) string {
	for key, link := range map[string]string{"change_link": ChangeLink, "confirm_link": ConfirmLink} {
		if p.lookup[key] == nil {
			src = strings.ReplaceAll(src, "{"+key+"}", link)
		}
	}
	return src
}

// Going is what goes out of a response that came or was changed.
type Going struct {
	Letters []Letter // that go, or stand with a moment of their own
	Hooks   []Telling
}

// Telling is that another program is told.
type Telling struct {
	Hook  form.Hook
	Event string // received, changed or deleted
	Why   Because
}

// GoesOut is what follows from a response as it is stored: from its receipt, or, with what
// it was before, from its change at a moment in a mode. It is judged as it stands, with
// what is stored of it and nothing that comes by itself, and as confirmed.
func (p *Program) GoesOut(before []byte, now Submitted, at time.Time, mode Mode) (Going, error) {
	if !p.sends {
		return Going{}, nil
	}
	o, err := p.standing(now.Answers, now.Parameters, at, mode)
	if err != nil {
		return Going{}, err
	}
	if before == nil {
		return o.going(nil), nil
	}
	then, err := p.standing(before, now.Parameters, at, mode)
	return o.going(func() *Outcome { return then }), err
}

// GoesOut is what goes out at the receipt of an outcome.
func (o *Outcome) GoesOut() Going {
	if !o.p.sends || !o.Accepted || o.in == nil {
		return Going{}
	}
	return o.going(nil)
}

func (o *Outcome) going(before func() *Outcome) Going {
	event := "received"
	if before != nil {
		event = "changed"
	}
	g := Going{Hooks: o.tellings(event)}
	for _, l := range o.letters(before) {
		if l.Goes || l.Timed && l.Stands {
			g.Letters = append(g.Letters, l)
		}
	}
	return g
}

// ConfirmLink stands in the letter that asks for an address to be confirmed for where that
// is done. It is written {confirm_link}.
const ConfirmLink = "\ue000confirm\ue000"

// ConfirmBy is until when the address of the outcome is to be confirmed; nil if it is not.
func (o *Outcome) ConfirmBy() *time.Time {
	if o.in == nil || !o.Accepted || !o.waits() {
		return nil
	}
	until := o.p.confirmBy.Value(&o.frame)
	at := time.Unix(until.Unix(), 0)
	return &at
}

// confirmLetter is the letter that asks for the address to be confirmed.
func (o *Outcome) confirmLetter() Letter {
	c := *o.p.Form.Confirm
	v := o.Value(o.State(c.Item, 0), 0)
	c.Subject, c.Body = cmp.Or(c.Subject, o.p.Form.Title), o.p.linked(c.Body)
	return Letter{
		Outgoing: Outgoing{Key: ConfirmKey, To: []string{v.Text()}, Subject: o.sentSubject(c.Subject)},
		Body:     o.sent(c.Body, (*text.Compiled).Markdown), Goes: true,
		Answered: []string{v.Text()},
		Why: Because{Effect: "sent", Holds: true, Truth: expr.Met,
			Says: "it goes first, since the address is to be confirmed"},
	}
}

// ConfirmsAt is the address of a stored response that the form asks to be confirmed, "" for
// none.
func (p *Program) ConfirmsAt(answers []byte) string {
	if p.Form.Confirm == nil {
		return ""
	}
	var address string
	if err := json.Unmarshal(AnswerIn(answers, p.Form.Confirm.Item), &address); err != nil {
		return ""
	}
	return address
}

// AskedAnew is the letter that asks for an address to be confirmed that came with a change,
// and until when; ok is false where it is the address that it was, or none.
func (p *Program) AskedAnew(
	before []byte, now Submitted, at time.Time,
) (l Letter, until time.Time, ok bool, err error) {
	address := p.ConfirmsAt(now.Answers)
	if address == "" || address == p.ConfirmsAt(before) {
		return l, until, false, nil
	}
	o, err := p.standing(now.Answers, now.Parameters, at, New)
	if err != nil {
		return l, until, false, err
	}
	by := p.confirmBy.Value(&o.frame)
	return o.confirmLetter(), time.Unix(by.Unix(), 0), true, nil
}

// sentSubject is the subject of a letter.
func (o *Outcome) sentSubject(src string) string { return oneLine(o.sent(src, (*text.Compiled).Plain)) }

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
	if c == nil || o.mode != New || o.confirmed {
		return false
	}
	v := o.Value(o.State(c.Item, 0), 0)
	return !v.IsBlank()
}

// Hooks are the keys of the hooks that would be told of the outcome.
func (o *Outcome) Hooks() []string {
	if !o.Accepted || o.in == nil {
		return []string{}
	}
	out, event := []string{}, "received"
	if o.mode != New {
		event = "changed"
	}
	for _, t := range o.tellings(event) {
		out = append(out, t.Hook.Key)
	}
	return out
}

// tellings are the programs that are told of an event.
func (o *Outcome) tellings(event string) (out []Telling) {
	if o.waits() {
		return nil
	}
	for i, h := range o.p.Form.Hooks {
		if c := &o.p.hooks[i]; h.Tells(event) && c.holds(o) {
			out = append(out, Telling{h, event, o.because("told", true, "it is told", c.code, o.p.Symbols)})
		}
	}
	return out
}

// ToldOfDeletion are the programs that are told that a response is deleted.
func (p *Program) ToldOfDeletion(r Submitted, at time.Time) ([]Telling, error) {
	if len(p.Form.Hooks) == 0 {
		return nil, nil
	}
	o, err := p.standing(r.Answers, r.Parameters, at, Staff)
	if err != nil {
		return nil, err
	}
	return o.tellings("deleted"), nil
}

// standing is a response as it is stored.
func (p *Program) standing(data []byte, params map[string][]string, at time.Time, mode Mode) (*Outcome, error) {
	raw, err := ParseAnswers(data)
	if err != nil {
		return nil, err
	}
	out := p.Run(Input{Record: p.Record(raw), Params: params, At: at, Mode: mode})
	out.Accepted, out.confirmed = true, true // it is stored, whatever the form demands by now
	return out, nil
}

// holds reports whether a condition is met for an outcome; one that is not written always
// is.
func (c *condition) holds(o *Outcome) bool {
	return c.code == nil || c.code.Truth(&o.frame) == expr.Met
}

// priorAlone is the form on the answers of before, at the moment of the change; if that is
// tracked, it says until when it stays as it is.
func (o *Outcome) priorAlone(track bool) *Outcome {
	in := *o.in
	in.Answers = o.p.Answers(nil)
	return o.p.run(&in, track)
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
	said := make([]string, len(to))
	for i, src := range to {
		said[i] = o.Plain(src)
	}
	return addressesIn(said)
}

// addressesIn are those of texts that are e-mail addresses, each once.
func addressesIn(texts []string) []string {
	out := []string{}
	for _, said := range texts {
		a, err := mail.ParseAddress(strings.TrimSpace(said))
		if err != nil || slices.ContainsFunc(out, func(s string) bool { return strings.EqualFold(s, a.Address) }) {
			continue
		}
		out = append(out, a.Address)
	}
	return out
}

// oneLine keeps what stands in a header on its line.
func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

// ErrNoDocument is for a document that the form does not have.
var ErrNoDocument = errors.New("the form has no such document")

// Document is a document of the form for a response as it is stored: its name, its text as
// Markdown, and its paper, "" for a4. One that is sent is without what is sensitive.
func (p *Program) Document(key string, r Submitted, sent bool) (name, body, paper string, err error) {
	i := slices.IndexFunc(p.Form.Documents, func(d form.Document) bool { return d.Key == key })
	if i < 0 {
		return "", "", "", ErrNoDocument
	}
	o, err := p.standing(r.Answers, r.Parameters, r.Received, Staff)
	if err != nil {
		return "", "", "", err
	}
	d := p.Form.Documents[i]
	if sent {
		return o.sentSubject(d.Name), o.sent(d.Body, (*text.Compiled).Markdown), d.Paper, nil
	}
	return oneLine(o.Plain(d.Name)), o.Markdown(d.Body), d.Paper, nil
}
