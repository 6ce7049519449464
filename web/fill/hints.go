package fill

import (
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// hint says before an answer is given what it is held to, as far as that is the same for
// everybody: bounds, steps, lengths, picks, kinds of files and how it is written.
func (b *builder) hint(it *form.Item) string {
	say := b.words.Say
	var out []string
	switch it.Type {
	case form.Number, form.Date, form.Time:
		out = within(b.bound(it.Min), b.bound(it.Max), ways{
			both:  func(low, high string) string { return say("from %s to %s", low, high) },
			least: func(low string) string { return say("at least %s", low) },
			most:  func(high string) string { return say("at most %s", high) },
		})
		if step := b.bound(it.Step); step != "" && step != "1" {
			out = append(out, say("in steps of %s", step))
		}
	case form.Text, form.Paragraph:
		out = within(b.bound(it.MinLength), b.bound(it.MaxLength), ways{
			both:  func(low, high string) string { return say("%s to %s characters", low, high) },
			least: func(low string) string { return say("at least %s characters", low) },
			most:  func(high string) string { return say("at most %s characters", high) },
		})
	case form.ChoicesType:
		out = within(b.bound(it.MinPicked), b.bound(it.MaxPicked), ways{
			both:  func(low, high string) string { return say("%s to %s picks", low, high) },
			least: func(low string) string { return say("at least %s picks", low) },
			most:  func(high string) string { return say("at most %s picks", high) },
		})
	case form.Phone:
		if like := b.p.PhoneExample(); like != "" {
			out = append(out, say("written like %s, or with its country code", like))
		}
	case form.File:
		if len(it.Accept) > 0 {
			out = append(out, engine.KindsOfFiles(it.Accept, say))
		}
		out = append(out, say("up to %s", engine.Size(it.FileLimit())))
	}
	if it.Pattern != "" && it.PatternMessage == "" {
		if like, ok := expr.Sample(it.Pattern); ok {
			out = append(out, say("written like %s", like))
		}
	}
	line := strings.Join(out, "; ")
	if r, n := utf8.DecodeRuneInString(line); n > 0 {
		line = string(unicode.ToUpper(r)) + line[n:]
	}
	return line
}

// ways are how bounds are said.
type ways struct {
	both        func(low, high string) string
	least, most func(bound string) string
}

// within says between what an answer is, "" being no bound.
func within(low, high string, w ways) []string {
	switch {
	case low != "" && high != "":
		return []string{w.both(low, high)}
	case low != "":
		return []string{w.least(low)}
	case high != "":
		return []string{w.most(high)}
	}
	return nil
}

// bound is a bound that is the same for everybody, as people read it; "" for none.
func (b *builder) bound(at *form.Bound) string {
	switch {
	case at == nil:
		return ""
	case at.Number != nil:
		return b.words.Number(at.Number.String())
	}
	if t, err := time.Parse(time.DateOnly, at.Text); err == nil {
		return b.words.Day(t)
	}
	if _, ok := expr.ParseTime(at.Text); ok {
		return at.Text
	}
	return ""
}
