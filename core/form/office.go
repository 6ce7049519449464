package form

import "slices"

// Office is the form as the office and everybody else meet it: what is said of a page or a
// section, that only the workspace sees it, is said of all that is in it. A page of nothing
// but such sections is one itself. It is the form itself where nothing of it is so.
func (f *Form) Office() *Form {
	if !slices.ContainsFunc(f.Pages, func(p *Page) bool {
		return p.Staff || slices.ContainsFunc(p.Sections, func(s *Section) bool { return s.Staff })
	}) {
		return f
	}
	out := *f
	out.Pages = make([]*Page, len(f.Pages))
	for i, p := range f.Pages {
		out.Pages[i] = p.office()
	}
	return &out
}

func (p *Page) office() *Page {
	out := *p
	out.Sections = make([]*Section, len(p.Sections))
	all := len(p.Sections) > 0
	for i, s := range p.Sections {
		sec := *s
		if sec.Staff = s.Staff || p.Staff; sec.Staff {
			sec.Items = make([]*Item, len(s.Items))
			for j, it := range s.Items {
				one := *it
				one.Staff = true
				sec.Items[j] = &one
			}
		}
		all = all && sec.Staff
		out.Sections[i] = &sec
	}
	out.Staff = p.Staff || all
	return &out
}

// IsStaff reports whether only the workspace sees the item, by itself or by where it stands.
func (p Place) IsStaff() bool { return p.Item.Staff || p.Section.Staff || p.Page.Staff }
