package view

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// Mask are the keys of what is not shown: of questions whose answers are sensitive, in any
// edition or under any key that they had, and url.NAME for parameters.
type Mask map[string]bool

// Masked is the lens of who is not shown what is sensitive: no view finds, sorts or counts
// by it, and no column holds it. Others are how answers flow in editions that are no longer
// live; what was given as sensitive in one stays so, also where it flowed in another.
func (l *Lens) Masked(others ...form.Flow) (*Lens, Mask) {
	mask := Mask(form.Join(l.Earlier, append(others, l.Program.Form.Flow())...).Sensitive())
	if len(mask) == 0 {
		return l, nil
	}
	out, syms := *l, *l.Syms
	syms.Items, syms.Groups = maps.Clone(syms.Items), maps.Clone(syms.Groups)
	syms.Params = maps.Clone(syms.Params)
	for key := range mask {
		delete(syms.Items, key)
		if name, is := strings.CutPrefix(key, "url."); is {
			delete(syms.Params, name)
		}
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

// WithoutMasked are stored answers without what is masked.
func (m Mask) WithoutMasked(answers []byte) ([]byte, error) {
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

// Parameters are those that a response came with, without what is masked.
func (m Mask) Parameters(all map[string][]string) map[string][]string {
	if len(m) == 0 {
		return all
	}
	out := maps.Clone(all)
	maps.DeleteFunc(out, func(name string, _ []string) bool { return m["url."+name] })
	return out
}

// Form is a form without the questions that are masked, for those who write its answers out.
func (m Mask) Form(f *form.Form) *form.Form {
	if len(m) == 0 {
		return f
	}
	out := *f
	out.Pages = nil
	out.Parameters = slices.DeleteFunc(slices.Clone(f.Parameters), func(p form.Parameter) bool { return m["url."+p.Name] })
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
