package fill

import (
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/web/wording"
)

// View is a form with its outcome, ready to be printed.
type View struct {
	Form      *form.Form
	Pages     []PageView // those on the route
	At        int        // the page at hand, an index of Pages
	Elsewhere []Carried  // answers of the other pages, which travel along
	OffRoute  []Carried  // those of pages off the route among them
	Program   *engine.Program
	Outcome   *engine.Outcome

	posted url.Values
	digest string // of the page at hand
}

// PageView is a page on the route.
type PageView struct {
	Key, Title string
	Intro      string
	Sections   []SectionView
}

// SectionView is a section; Rows is set if it repeats.
type SectionView struct {
	Key, Title, Intro string
	Shown             bool
	Columns           int
	Fields            []Field
	Repeats           bool
	Rows              [][]Field
	RowName           string
	Free              bool // the respondent adds and removes rows
	CanAdd, CanRemove bool
	Problems          []string
}

// Field is one item as it is printed.
type Field struct {
	Key, ID, Name            string
	Type                     form.Type
	Look                     string
	Label, Help, Placeholder string
	Shown, Required, Locked  bool
	Fillable, Hold, Twice    bool
	Text, Again              string // the value as an input takes it
	Said                     string // and as people read it
	Choices                  []Option
	Parts                    []Part
	Problems                 []string
	Drives                   bool
	HasAuto                  bool
	Auto, AutoName           string
	Carried                  []Carried // what is set aside while it is not shown
	MaxLength                int
	Computed, Sensitive      bool
	Month, Day               string   // of a month and day
	Months                   []Option // to pick from
	File                     FileView
}

// FileView is a file that was sent.
type FileView struct{ ID, Name, Size, Accept string }

// Option is a choice on offer.
type Option struct {
	Value, Label, Help, Image string
	Picked                    bool
}

// Part is a part of an address.
type Part struct{ Name, ID, Label, Text, Autocomplete string }

// Carried is a field that travels along unseen.
type Carried struct{ Name, Value string }

// FieldProblem is a line of the error summary.
type FieldProblem struct{ ID, Label, Text string }

// DrivesAs says how changes of the field ask the server: at once for picks,
// after a pause for typing, "" not at all.
func (f Field) DrivesAs() string {
	switch {
	case !f.Drives:
		return ""
	case f.Type.Picks() && f.Look != "menu", f.Type == form.YesNo, f.Type == form.Tick, f.Look == "menu", f.Type == form.Date, f.Type == form.Time:
		return "pick"
	}
	return "text"
}

// Answered reports whether there is an answer to be seen.
func (f Field) Answered() bool {
	return f.Text != "" || f.File.ID != "" || slices.ContainsFunc(f.Choices, func(o Option) bool { return o.Picked })
}

// DescribedBy lists the ids that explain the field.
func (f Field) DescribedBy() string {
	var ids []string
	if f.Help != "" {
		ids = append(ids, f.ID+"-help")
	}
	if len(f.Problems) > 0 {
		ids = append(ids, f.ID+"-problem")
	}
	return strings.Join(ids, " ")
}

// Build lays out an outcome. Posted are the fields that it was made from; at is
// the key of the page at hand, the first if it is not on the route. Problems are
// shown only where judged says so: they are not news while one is still typing.
func Build(p *engine.Program, out *engine.Outcome, posted url.Values, at string, judged bool) *View {
	b := &builder{p: p, out: out, posted: posted, judged: judged, words: wording.For(p.Form.Language)}
	v := &View{Form: p.Form, Program: p, Outcome: out, posted: posted}
	route := map[string]bool{}
	for _, key := range out.Route() {
		route[key] = true
	}
	for _, page := range p.Form.Pages {
		if !route[page.Key] {
			v.OffRoute = append(v.OffRoute, b.carryPage(page)...)
			continue
		}
		if page.Key == at {
			v.At = len(v.Pages)
		}
		v.Pages = append(v.Pages, b.page(page))
	}
	v.digest, _ = digests(p, out, v, "")
	v.Elsewhere = v.OffRoute
	for i := range v.Pages {
		if i != v.At {
			v.Elsewhere = append(v.Elsewhere, b.carryPage(p.Form.Page(v.Pages[i].Key))...)
		}
	}
	return v
}

// CarryAll puts the answers of all pages among those that travel along, for a
// page that asks nothing.
func (v *View) CarryAll() {
	v.Elsewhere = nil
	for name, values := range v.posted {
		if name == "" || name[0] == '_' {
			continue
		}
		for _, value := range values {
			v.Elsewhere = append(v.Elsewhere, Carried{name, value})
		}
	}
	slices.SortStableFunc(v.Elsewhere, func(a, b Carried) int { return strings.Compare(a.Name, b.Name) })
}

// Posted is a field that the view was made from.
func (v *View) Posted(name string) string { return v.posted.Get(name) }

// Page is the page at hand.
func (v *View) Page() PageView {
	if len(v.Pages) == 0 {
		return PageView{}
	}
	return v.Pages[v.At]
}

// Number is the number of the page at hand, from 1.
func (v *View) Number() int { return v.At + 1 }

// LastKey is the key of the last page of the route.
func (v *View) LastKey() string {
	if len(v.Pages) == 0 {
		return ""
	}
	return v.Pages[len(v.Pages)-1].Key
}

// First and Last report whether the page at hand is.
func (v *View) First() bool { return v.At == 0 }

// Last reports whether the page at hand is the last of the route.
func (v *View) Last() bool { return v.At >= len(v.Pages)-1 }

// Files reports whether the page at hand asks for a file.
func (v *View) Files() bool {
	for _, s := range v.Page().Sections {
		for _, f := range append(slices.Concat(s.Rows...), s.Fields...) {
			if f.Shown && f.Type == form.File {
				return true
			}
		}
	}
	return false
}

// Summary lists the problems of the page at hand.
func (v *View) Summary() []FieldProblem { return v.Page().summary() }

func (p PageView) summary() []FieldProblem {
	var out []FieldProblem
	add := func(f Field, row string) {
		for _, text := range f.Problems {
			out = append(out, FieldProblem{f.ID, row + f.Label, text})
		}
	}
	for _, s := range p.Sections {
		for _, text := range s.Problems {
			out = append(out, FieldProblem{"s-" + s.Key, s.Title, text})
		}
		for _, f := range s.Fields {
			add(f, "")
		}
		for i, row := range s.Rows {
			for _, f := range row {
				add(f, s.RowName+" "+strconv.Itoa(i+1)+": ")
			}
		}
	}
	return out
}

// FirstFaulty is the first page with a problem, or -1.
func (v *View) FirstFaulty() int {
	for i, p := range v.Pages {
		if len(p.summary()) > 0 {
			return i
		}
	}
	return -1
}

type builder struct {
	p      *engine.Program
	out    *engine.Outcome
	posted url.Values
	judged bool
	words  *wording.Words
}

func (b *builder) page(page *form.Page) PageView {
	pv := PageView{Key: page.Key, Title: page.Title, Intro: page.Intro}
	for _, sec := range page.Sections {
		pv.Sections = append(pv.Sections, b.section(sec))
	}
	return pv
}

func (b *builder) section(sec *form.Section) SectionView {
	sv := SectionView{Key: sec.Key, Title: sec.Title, Intro: sec.Intro, Shown: b.out.SectionShown(sec.Key), Columns: b.p.Form.ColumnsOf(sec)}
	if sec.Repeat == nil {
		for _, it := range sec.Items {
			sv.Fields = append(sv.Fields, b.field(it, b.out.State(it.Key, 0), 0, "a."+it.Key))
		}
		return sv
	}
	state := b.out.Group(sec.Key)
	sv.Repeats, sv.RowName, sv.Free = true, sec.Repeat.Name, sec.Repeat.Rows == ""
	if sv.RowName == "" {
		sv.RowName = b.words.Say("Row")
	}
	sv.CanAdd = sv.Free && state.Count < sec.Repeat.Limit()
	sv.CanRemove = sv.Free && state.Count > sec.Repeat.Min
	if b.judged {
		for _, p := range state.Problems {
			sv.Problems = append(sv.Problems, b.problem(p))
		}
	}
	for r := range state.Count {
		var row []Field
		for i, it := range sec.Items {
			row = append(row, b.field(it, &state.Row(r)[i], r, RowName(sec.Key, r, it.Key)))
		}
		sv.Rows = append(sv.Rows, row)
	}
	return sv
}

var domID = strings.NewReplacer(".", "-", "#", "-")

func (b *builder) field(it *form.Item, st *engine.ItemState, row int, name string) Field {
	f := Field{Key: it.Key, ID: domID.Replace(name), Name: name, Type: it.Type, Look: it.Look, Label: st.Label(), Help: st.Help(), Placeholder: it.Placeholder,
		Shown: st.Shown && it.Type != form.Hidden, Required: st.Required, Locked: st.Locked, Fillable: st.Fillable(), Hold: it.Place == "hold", Twice: it.Twice,
		Drives: b.p.Drives(it.Key), MaxLength: it.MaxLength, AutoName: autoName(name), Computed: it.Type.Computed(), Sensitive: it.Sensitive}
	if !f.Shown || !f.Fillable {
		f.Carried = b.carried(it, name)
	}
	if !f.Shown {
		return f
	}
	v := b.out.Value(st, row)
	f.Text = inputText(&v, b.p.Location())
	f.Said = b.said(&v, f.Text)
	if b.judged {
		for _, p := range st.Problems {
			f.Problems = append(f.Problems, b.problem(p))
		}
		if st.Unmatched() && it.Type.Picks() && len(f.Problems) == 0 {
			f.Problems = []string{b.problem(engine.Problem{Code: engine.NotOffered})}
		}
	}
	if f.Fillable {
		f.HasAuto = it.Value != nil
		if st.Automatic() {
			f.Auto = f.Text
		} else if f.HasAuto {
			f.Auto = b.posted.Get(f.AutoName)
		}
		// What was typed stands as it was typed, above all if it is wrong.
		if typed, ok := b.posted[name]; ok && !st.Automatic() && len(typed) == 1 && !it.Type.Picks() && it.Type != form.Tick && it.Type != form.YesNo {
			f.Text = typed[0]
		}
		f.Again = b.posted.Get(name + engine.Again)
	}
	if it.Type == form.MonthDay {
		b.monthDay(&f, name)
	}
	if v.Kind() == expr.File {
		f.File = FileView{ID: v.Parts().Get("id"), Name: v.Parts().Get("name"), Size: sizeText(v.Parts().Get("size"))}
		f.Text, f.Said = f.File.Name, f.File.Name
	}
	f.File.Accept = strings.Join(it.Accept, ",")
	b.choices(&f, it, st, &v)
	b.parts(&f, it, &v)
	return f
}

// sizeText says a size in bytes as people do.
func sizeText(bytes string) string {
	n, err := strconv.ParseFloat(bytes, 64)
	switch {
	case err != nil:
		return ""
	case n < 1000:
		return bytes + " B"
	case n < 1e6:
		return strconv.FormatFloat(n/1e3, 'f', 0, 64) + " kB"
	}
	return strconv.FormatFloat(n/1e6, 'f', 1, 64) + " MB"
}

// problem says a problem, with the limit in it as people write it.
func (b *builder) problem(p engine.Problem) string {
	if _, err := expr.ParseNumber(p.Arg); err == nil {
		p.Arg = b.words.Number(p.Arg)
	} else if t, err := time.Parse(time.DateOnly, p.Arg); err == nil {
		p.Arg = b.words.Day(t)
	}
	return p.In(b.words.Say)
}

// said is a value as people of the form's language read it.
func (b *builder) said(v *expr.Value, plain string) string {
	switch v.Kind() {
	case expr.Num:
		return b.words.Number(plain)
	case expr.Date:
		if t, err := time.Parse(time.DateOnly, plain); err == nil {
			return b.words.Day(t)
		}
	case expr.YesNo:
		if v.Yes() {
			return b.words.Say("Yes")
		}
		return b.words.Say("No")
	}
	return plain
}

func (b *builder) monthDay(f *Field, name string) {
	f.Month, f.Day, _ = strings.Cut(f.Text, "-")
	if b.posted.Has(name + monthPart) {
		f.Month, f.Day = b.posted.Get(name+monthPart), b.posted.Get(name+dayPart)
	}
	for m := time.January; m <= time.December; m++ {
		value := fmt.Sprintf("%02d", int(m))
		f.Months = append(f.Months, Option{Value: value, Label: b.words.Month(m), Picked: value == f.Month})
	}
}

func (b *builder) choices(f *Field, it *form.Item, st *engine.ItemState, v *expr.Value) {
	switch {
	case it.Type == form.YesNo:
		yes, no := v.Yes(), v.Kind() == expr.YesNo && !v.Yes()
		f.Choices = []Option{{Value: "yes", Label: b.words.Say("Yes"), Picked: yes}, {Value: "no", Label: b.words.Say("No"), Picked: no}}
	case it.Type.Picks():
		picked := map[string]bool{v.Text(): v.Kind() == expr.Choice}
		for _, p := range v.Picks() {
			picked[p] = true
		}
		options := b.p.Symbols.Items[it.Key].Type.Options
		extra := map[string]form.Choice{}
		for _, c := range it.Choices {
			extra[c.Value] = c
		}
		for _, value := range st.Choices() {
			label := value
			if i, ok := options.Find(value); ok {
				label = options.Labels[i]
			}
			f.Choices = append(f.Choices, Option{value, label, extra[value].Help, extra[value].Image, picked[value]})
		}
	}
}

var partLabels = map[string][2]string{"street": {"Street and number", "address-line1"}, "extra": {"Further line", "address-line2"}, "city": {"Town", "address-level2"},
	"region": {"Region", "address-level1"}, "postcode": {"Postcode", "postal-code"}, "country": {"Country", "country-name"}}

func (b *builder) parts(f *Field, it *form.Item, v *expr.Value) {
	if it.Type != form.Address {
		return
	}
	for _, name := range expr.AddressParts {
		f.Parts = append(f.Parts, Part{f.Name + "." + name, f.ID + "-" + name, b.words.Say(partLabels[name][0]), v.Parts().Get(name), partLabels[name][1]})
	}
}

// carried are the posted fields of an item that has no control of its own now.
func (b *builder) carried(it *form.Item, name string) []Carried {
	var out []Carried
	names := []string{name, autoName(name)}
	if it.Type == form.File || it.Type == form.Signature {
		names = append(names, name+FileID, name+Typed)
	}
	if it.Type == form.MonthDay {
		names = append(names, name+monthPart, name+dayPart)
	}
	if it.Type == form.Address {
		for _, part := range expr.AddressParts {
			names = append(names, name+"."+part)
		}
	}
	if it.Twice {
		names = append(names, name+engine.Again)
	}
	for _, n := range names {
		for _, v := range b.posted[n] {
			out = append(out, Carried{n, v})
		}
	}
	return out
}

// carryPage carries every field of a page that is not at hand.
func (b *builder) carryPage(page *form.Page) []Carried {
	var out []Carried
	for _, sec := range page.Sections {
		if sec.Repeat == nil {
			for _, it := range sec.Items {
				out = append(out, b.carried(it, "a."+it.Key)...)
			}
			continue
		}
		n, ok := rowCount(sec.Key, b.posted)
		if !ok {
			continue
		}
		out = append(out, Carried{"rows." + sec.Key, strconv.Itoa(n)})
		for r := range n {
			for _, it := range sec.Items {
				out = append(out, b.carried(it, RowName(sec.Key, r, it.Key))...)
			}
		}
	}
	return out
}

// inputText is a value as an input takes it.
func inputText(v *expr.Value, loc *time.Location) string {
	if v.Kind() == expr.Choices {
		return strings.Join(v.Picks(), "\n")
	}
	return v.Plain(loc)
}
