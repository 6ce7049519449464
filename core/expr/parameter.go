package expr

import (
	"slices"
	"strings"
)

// Param is an address parameter as it arrived: one value, and all values, those between
// commas too, as a set. Texts are those that can fill a question.
type Param struct {
	Text, Set Value
	Texts     []string
}

// NewParam returns a parameter of any texts with these values; none, or only empty ones, is
// blank.
func NewParam(values []string) Param {
	var p Param
	var set []string
	for _, v := range values {
		trimmed := strings.TrimSpace(v)
		if trimmed == "" {
			continue
		}
		if p.Text.kind == Blank {
			p.Text = TextValue(trimmed)
		}
		p.Texts = append(p.Texts, v)
		set = append(set, trimmed)
		if strings.Contains(trimmed, ",") {
			set = append(set, betweenCommas(trimmed)...)
		}
	}
	if len(set) > 0 {
		p.Set = ChoicesValue(set)
	}
	return p
}

func betweenCommas(text string) (out []string) {
	for part := range strings.SplitSeq(text, ",") {
		if part = strings.TrimSpace(part); part != "" {
			out = append(out, part)
		}
	}
	return out
}

// Read returns the parameter with these values. What is not of its type, or none of its
// values, counts as not given; strange reports whether there was any.
func (s ParamSymbol) Read(values []string) (p Param, strange bool) {
	if s.Type.Kind == Text || s.Type.Kind == Blank {
		return NewParam(values), false
	}
	for _, v := range values {
		if v = strings.TrimSpace(v); v == "" {
			continue
		}
		if s.take(&p, v) {
			continue
		}
		for _, part := range betweenCommas(v) {
			if !strings.Contains(v, ",") || !s.take(&p, part) {
				strange = true
			}
		}
	}
	if len(p.Texts) > 0 {
		p.Set = ChoicesValue(p.Texts)
	}
	return p, strange
}

// take adds one value, if it is one.
func (s ParamSymbol) take(p *Param, text string) bool {
	value, ok := s.value(text)
	if !ok {
		return false
	}
	if plain := value.Plain(nil); !slices.Contains(p.Texts, plain) {
		p.Texts = append(p.Texts, plain)
	}
	if p.Text.kind == Blank {
		p.Text = value
	}
	return true
}

// value matches a text as for a choice, else by its type.
func (s ParamSymbol) value(text string) (v Value, ok bool) {
	if o := s.Type.Options; o != nil {
		if i, ok := o.Match(text); ok {
			return s.typed(o.Values[i])
		}
		v, ok := s.typed(text)
		return v, ok && s.Type.Kind != Choice && slices.ContainsFunc(o.Values, func(one string) bool {
			other, ok := s.typed(one)
			return ok && other.Plain(nil) == v.Plain(nil)
		})
	}
	return s.typed(text)
}

// typed reads a text as its type is written.
func (s ParamSymbol) typed(text string) (Value, bool) {
	switch s.Type.Kind {
	case Num:
		n, err := ParseNumber(text)
		return NumberValue(n), err == nil
	case Date:
		d, ok := ParseDay(text)
		return DayValue(d), ok
	case YesNo:
		switch strings.ToLower(text) {
		case "yes", "true", "1", "on":
			return YesNoValue(true), true
		case "no", "false", "0", "off":
			return YesNoValue(false), true
		}
		return Value{}, false
	}
	return ChoiceValue(text), true
}

// Inputs are all values that a parameter with fixed ones takes, as an address carries them;
// nil for any other.
func (s ParamSymbol) Inputs() (out []string) {
	switch {
	case s.Type.Options != nil:
		for _, text := range s.Type.Options.Values {
			if v, ok := s.typed(text); ok {
				out = append(out, v.Plain(nil))
			}
		}
	case s.Type.Kind == YesNo:
		out = []string{"yes", "no"}
	}
	return out
}
