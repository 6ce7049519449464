package form

import "strconv"

// Tie is one expression of a form and where it stands. It covers expressions
// only, not rules that are simply true or false.
type Tie struct {
	Owner    string // the key of the page, section or item; "" for the opening
	Property string // shown, required, value.starts, checks.0.ok, choices.2.withheld …
	Expr     string
	set      func(string)
}

// Set replaces the expression in the form.
func (t Tie) Set(expr string) { t.set(expr) }

// AllTies returns every expression of the form, in the order of the form.
func (f *Form) AllTies() []Tie {
	var out []Tie
	add := func(owner, property string, expr *string) {
		if *expr != "" {
			out = append(out, Tie{owner, property, *expr, func(s string) { *expr = s }})
		}
	}
	if f.Opening != nil {
		add("", OpenWhen, &f.Opening.Shown.Expr)
	}
	for i := range f.Ends {
		add("", "ends."+strconv.Itoa(i)+".when", &f.Ends[i].When)
	}
	f.outgoingTies(func(property string, expr *string) { add("", property, expr) })
	for _, p := range f.Pages {
		add(p.Key, "shown", &p.Shown.Expr)
		for i := range p.Checks {
			add(p.Key, "checks."+strconv.Itoa(i)+".ok", &p.Checks[i].OK)
		}
		for i := range p.Next {
			add(p.Key, "next."+strconv.Itoa(i)+".when", &p.Next[i].When)
		}
		for _, s := range p.Sections {
			add(s.Key, "shown", &s.Shown.Expr)
			if s.Repeat != nil {
				add(s.Key, "repeat.rows", &s.Repeat.Rows)
			}
			for i := range s.Checks {
				add(s.Key, "checks."+strconv.Itoa(i)+".ok", &s.Checks[i].OK)
			}
			for _, it := range s.Items {
				out = append(out, it.Ties()...)
			}
		}
	}
	return out
}

// Ties returns the expressions of the item.
func (it *Item) Ties() []Tie {
	var out []Tie
	add := func(property string, expr *string) {
		if *expr != "" {
			out = append(out, Tie{it.Key, property, *expr, func(s string) { *expr = s }})
		}
	}
	add("shown", &it.Shown.Expr)
	add("required", &it.Required.Expr)
	add("locked", &it.Locked.Expr)
	if it.Value != nil {
		add("value.starts", &it.Value.Starts)
		add("value.follows", &it.Value.Follows)
		add("value.when", &it.Value.When)
		add("value.is", &it.Value.Is)
	}
	add("offered", &it.Offered.Expr)
	add("withheld", &it.Withheld.Expr)
	for i := range it.Choices {
		n := strconv.Itoa(i)
		add("choices."+n+".offered", &it.Choices[i].Offered.Expr)
		add("choices."+n+".withheld", &it.Choices[i].Withheld.Expr)
		if b := it.Choices[i].Places; b.Expr() != "" {
			add("choices."+n+".places", &b.Text)
		}
	}
	if it.Places.Expr() != "" {
		add("places", &it.Places.Text)
	}
	for i := range it.Rows {
		add("rows."+strconv.Itoa(i)+".shown", &it.Rows[i].Shown.Expr)
	}
	if it.ChoicesFrom != nil {
		add("choices_from.where", &it.ChoicesFrom.Where)
	}
	for _, b := range it.Bounds() {
		if b.Expr() != "" {
			add(b.Property, &b.Text)
		}
	}
	for i := range it.Checks {
		add("checks."+strconv.Itoa(i)+".ok", &it.Checks[i].OK)
	}
	for i := range it.Wording {
		add("wording."+strconv.Itoa(i)+".when", &it.Wording[i].When)
	}
	return out
}
