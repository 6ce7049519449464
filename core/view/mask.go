package view

import (
	"encoding/json"
	"maps"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// Mask are the keys of questions whose answers are not shown: of those that are sensitive,
// and of those that they were before they had another key.
type Mask map[string]bool

// Masked is the lens of who is not shown what is sensitive: no view finds, sorts or counts
// by it, and no column holds it.
func (l *Lens) Masked() (*Lens, Mask) {
	mask := Mask{}
	for pl := range l.Program.Form.Places() {
		if !pl.Item.Sensitive {
			continue
		}
		mask[pl.Item.Key] = true
		for _, key := range l.Earlier[pl.Item.Key] {
			mask[key] = true
		}
	}
	if len(mask) == 0 {
		return l, nil
	}
	out, syms := *l, *l.Syms
	syms.Items, syms.Groups = maps.Clone(syms.Items), maps.Clone(syms.Groups)
	for key := range mask {
		delete(syms.Items, key)
	}
	for key, g := range syms.Groups {
		one := *g
		one.Items = map[string]*expr.Symbol{}
		for name, sym := range g.Items {
			if !mask[name] {
				one.Items[name] = sym
			}
		}
		syms.Groups[key] = &one
	}
	// Questions of a section know it by its address.
	for key, sym := range syms.Items {
		if sym.Group != nil {
			one := *sym
			one.Group = syms.Groups[sym.Group.Key]
			syms.Items[key] = &one
			one.Group.Items[key] = &one
		}
	}
	out.Syms, out.mask = &syms, mask
	return &out, mask
}

// Without are stored answers without what is masked.
func (m Mask) Without(answers []byte) ([]byte, error) {
	if len(m) == 0 {
		return answers, nil
	}
	raw, err := engine.ParseAnswers(answers)
	if err != nil {
		return nil, err
	}
	for key, v := range raw {
		if m[key] {
			delete(raw, key)
			continue
		}
		rows, _ := v.([]any)
		for _, row := range rows {
			if cells, ok := row.(map[string]any); ok {
				for name := range cells {
					if m[name] {
						delete(cells, name)
					}
				}
			}
		}
	}
	return json.Marshal(raw)
}

// Form is a form without the questions that are masked, for those who write its answers out.
func (m Mask) Form(f *form.Form) *form.Form {
	if len(m) == 0 {
		return f
	}
	out := *f
	out.Pages = nil
	for _, p := range f.Pages {
		page := *p
		page.Sections = nil
		for _, s := range p.Sections {
			sec := *s
			sec.Items = nil
			for _, it := range s.Items {
				if !m[it.Key] {
					sec.Items = append(sec.Items, it)
				}
			}
			page.Sections = append(page.Sections, &sec)
		}
		out.Pages = append(out.Pages, &page)
	}
	return &out
}
