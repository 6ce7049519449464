package form

import (
	"encoding/json"

	"lazo/core/expr"
)

// Parameter is a named value that the form's address may carry.
type Parameter struct {
	Name   string           `json:"name"`
	Label  string           `json:"label,omitempty"`
	Type   string           `json:"type,omitempty"`   // one of ParameterTypes; text unless said
	Values *ParameterValues `json:"values,omitempty"` // all that it can be; anything unless said
}

// ParameterTypes are those that a parameter can be of.
var ParameterTypes = []string{"text", "number", "date", "yes_no"}

// ParameterValues are the values that a parameter takes: written out, or the entries of a list.
type ParameterValues struct {
	Written            []ParameterValue
	List, Value, Label string // of a list: its name and its columns
}

// ParameterValue is one of them, and what it is called.
type ParameterValue struct {
	Value string `json:"value"`
	Label string `json:"label,omitempty"`
}

// MarshalJSON writes an array or, of a list, an object.
func (v *ParameterValues) MarshalJSON() ([]byte, error) {
	if v.List == "" {
		return json.Marshal(v.Written)
	}
	return json.Marshal(struct {
		List  string `json:"list"`
		Value string `json:"value"`
		Label string `json:"label,omitempty"`
	}{v.List, v.Value, v.Label})
}

// paramSymbol is a parameter as expressions see it. One of a list that is not at hand can be
// anything.
func (f *Form) paramSymbol(p Parameter, slot int) expr.ParamSymbol {
	out := expr.ParamSymbol{Slot: slot, Label: p.Label, Type: expr.Type{Kind: expr.Text}}
	if p.Label == "" {
		out.Label = p.Name
	}
	switch p.Type {
	case "number":
		out.Type.Kind = expr.Num
	case "date":
		out.Type.Kind = expr.Date
	case "yes_no":
		out.Type.Kind = expr.YesNo
	}
	if p.Values == nil || f.Lists[p.Values.List].Unknown() {
		return out
	}
	var values, labels []string
	add := func(value, label string) {
		if value == "" {
			return
		}
		if label == "" {
			label = value
		}
		values, labels = append(values, value), append(labels, label)
	}
	for _, v := range p.Values.Written {
		add(v.Value, v.Label)
	}
	for _, e := range f.Lists[p.Values.List].Entries {
		add(e.Text(p.Values.Value), e.Text(p.Values.Label))
	}
	out.Type.Options = expr.NewOptions(values, labels)
	if out.Type.Kind == expr.Text {
		out.Type.Kind = expr.Choice
	}
	return out
}

func (r *reader) parameter(v any, at string) (out Parameter, ok bool) {
	p, ok := r.object(v, at, "")
	if !ok {
		return out, false
	}
	out = Parameter{Name: p.needed("name"), Label: p.text("label"), Type: p.word("type", ParameterTypes...)}
	switch v, _ := p.get("values"); v := v.(type) {
	case map[string]any:
		if from, ok := r.object(v, at+".values", ""); ok {
			out.Values = &ParameterValues{List: from.needed("list"), Value: from.needed("value"), Label: from.text("label")}
			from.done()
		}
	case []any:
		out.Values = &ParameterValues{Written: []ParameterValue{}}
		p.each("values", func(v any, at string) {
			if one, ok := r.object(v, at, ""); ok && len(out.Values.Written) < MaxChoices {
				out.Values.Written = append(out.Values.Written, ParameterValue{one.needed("value"), one.text("label")})
				one.done()
			}
		})
	case nil:
	default:
		p.wrong("values", "a list of values, or where they come from", v)
	}
	p.done()
	return out, true
}
