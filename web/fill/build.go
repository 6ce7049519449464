package fill

import (
	"crypto/rand"
	"encoding/base64"
	"net/url"
	"strconv"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/web/fill/posted"
	"lazo/web/wording"
)

type builder struct {
	p       *engine.Program
	out     *engine.Outcome
	posting posted.Posting
	fields  url.Values
	judged  Judgement
	words   *wording.Words
	edit    *posted.RowEdit
	looking bool                        // nothing is printed
	told    map[string][]engine.Problem // by item: what checks of earlier pages find; nil until it is looked for
}

func newBuilder(p *engine.Program, out *engine.Outcome, fields url.Values, judged Judgement) *builder {
	return &builder{p: p, out: out, posting: posted.Posting{Fields: fields}, fields: fields, judged: judged,
		words: wording.For(p.Form.Language)}
}

// problems lists the problems of a page that are shown.
func (b *builder) problems(page string) []FieldProblem {
	if page == "" {
		return nil
	}
	var out []FieldProblem
	missing := map[string]bool{} // of which it is enough to say so once
	for _, f := range b.out.Findings(page) {
		p := FieldProblem{Label: f.Label, Text: b.problem(f.Problem, f.Item)}
		switch {
		case f.Section == nil:
			p.Unit, p.Name = "s-"+f.Page, posted.ChecksHead+f.Page
		case f.Section.Repeat == nil:
			p.Unit, p.Name = "s-"+f.Section.Key, posted.ChecksHead+f.Section.Key
		default:
			p.Unit, p.Name = "s-"+f.Section.Key, posted.RowsHead+f.Section.Key
		}
		if f.Item == nil && f.Row >= 0 {
			p.Label = b.rowName(f.Section) + " " + strconv.Itoa(f.Row+1)
		}
		if f.Item != nil {
			p.Name = posted.AnswerHead + f.Item.Key
			if f.Row >= 0 {
				p.Name = posted.RowName(f.Section.Key, f.Row, f.Item.Key)
				p.Label = b.rowName(f.Section) + " " + strconv.Itoa(f.Row+1) + ": " + p.Label
			}
			p.Unit = "u-" + domID.Replace(p.Name)
		}
		if b.judged(p.Name) && !missing[p.Name] {
			out = append(out, p)
		}
		missing[p.Name] = missing[p.Name] || f.Item != nil &&
			(f.Problem.Code == engine.Missing || f.Problem.Code == engine.NotTicked)
	}
	return out
}

// toldHere are the problems of checks of earlier pages that are told at an item.
func (b *builder) toldHere(key string) []engine.Problem {
	if b.told == nil {
		b.told = map[string][]engine.Problem{}
		for _, f := range b.out.Findings("") {
			if f.Item != nil && f.Problem.Mend == f.Item.Key {
				b.told[f.Item.Key] = append(b.told[f.Item.Key], f.Problem)
			}
		}
	}
	return b.told[key]
}

func (b *builder) rowName(sec *form.Section) string {
	if sec.Repeat.Name != "" {
		return sec.Repeat.Name
	}
	return b.words.Say("Row")
}

func (b *builder) page(page *form.Page) PageView {
	pv := b.pageHead(page)
	for _, sec := range page.Sections {
		pv.Sections = append(pv.Sections, b.section(sec))
	}
	return pv
}

// pageHead is a page without its sections.
func (b *builder) pageHead(page *form.Page) PageView {
	return PageView{
		Key: page.Key, Title: b.out.Plain(page.Title), Intro: b.out.Markdown(page.Intro),
		Problems: b.refusals(page.Key, page.Key, page.Checks),
	}
}

// refusals are what the checks of a page or a section find, once they are judged.
func (b *builder) refusals(page, key string, checks []form.Check) []string {
	if len(checks) == 0 || !b.judged(posted.ChecksHead+key) {
		return nil
	}
	var out []string
	for _, f := range b.out.Findings(page) {
		if f.Item == nil && (f.Section == nil && page == key || f.Section != nil && f.Section.Key == key) {
			out = append(out, b.problem(f.Problem, f.Item))
		}
	}
	return out
}

// sectionHead is a section without what is asked in it.
func (b *builder) sectionHead(sec *form.Section) SectionView {
	sv := SectionView{
		Key: sec.Key, Title: b.out.Plain(sec.Title), Intro: b.out.Markdown(sec.Intro), Shown: b.out.SectionShown(sec.Key),
		Columns: b.p.Form.ColumnsOf(sec), Always: sec.Shown.Expr == "",
	}
	if sec.Repeat == nil {
		page, _ := b.p.Form.Section(sec.Key)
		sv.Problems = b.refusals(page.Key, sec.Key, sec.Checks)
	}
	return sv
}

func (b *builder) section(sec *form.Section) SectionView {
	sv := b.sectionHead(sec)
	if sec.Repeat == nil {
		for _, it := range sec.Items {
			sv.Fields = append(sv.Fields, b.field(it, b.out.State(it.Key, 0), 0, "a."+it.Key))
		}
		return sv
	}
	state := b.out.Group(sec.Key)
	sv.Repeats, sv.RowName, sv.Free = true, b.rowName(sec), sec.Repeat.Rows == ""
	sv.CanAdd = sv.Free && state.Count < sec.Repeat.Limit()
	sv.CanRemove = sv.Free && state.Count > sec.Repeat.Min
	if b.judged(posted.RowsHead + sec.Key) {
		for _, p := range state.Problems {
			sv.Problems = append(sv.Problems, b.problem(p, nil))
		}
		for _, row := range state.RowProblems {
			var texts []string
			for _, p := range row {
				texts = append(texts, b.problem(p, nil))
			}
			sv.RowProblems = append(sv.RowProblems, texts)
		}
	}
	for r := range state.Count {
		var row []Field
		for i, it := range sec.Items {
			row = append(row, b.field(it, &state.Row(r)[i], r, posted.RowName(sec.Key, r, it.Key)))
		}
		sv.Rows = append(sv.Rows, row)
		id := state.ID(r)
		if id == "" {
			id = newRowID()
		}
		sv.RowIDs = append(sv.RowIDs, id)
	}
	b.setAsideRows(&sv, sec, state.Count)
	if b.edit != nil && b.edit.Section.Key == sec.Key {
		sv.Focus, sv.FocusRow = b.edit.Verb, b.edit.Row
	}
	return sv
}

// setAsideRows carries the rows from a place on, which the page does not show now,
// and the one that was taken out last.
func (b *builder) setAsideRows(sv *SectionView, sec *form.Section, from int) {
	held, said := posted.RowCount(sec.Key, b.fields)
	if held = max(held, from); said || sv.Shown {
		sv.Held = strconv.Itoa(held)
	}
	for r := from; said && r < held; r++ {
		sv.Carried = append(sv.Carried, b.carriedRow(sec, strconv.Itoa(r))...)
	}
	if at, err := strconv.Atoi(b.fields.Get(posted.GoneHead + sec.Key)); err == nil && sv.Free {
		sv.Gone = at + 1
		sv.Carried = append(sv.Carried, Carried{Name: posted.GoneHead + sec.Key, Value: strconv.Itoa(at)})
		sv.Carried = append(sv.Carried, b.carriedRow(sec, posted.Gone)...)
	}
}

// carriedRow carries all fields of one row.
func (b *builder) carriedRow(sec *form.Section, row string) []Carried {
	var out []Carried
	if id := b.fields.Get(posted.RowIDHead + sec.Key + "." + row); id != "" {
		out = append(out, Carried{Name: posted.RowIDHead + sec.Key + "." + row, Value: id})
	}
	for _, it := range sec.Items {
		out = append(out, b.carried(it, posted.RowHead+sec.Key+"."+row+"."+it.Key)...)
	}
	return out
}

// newRowID makes the identity of a row that has none yet.
func newRowID() string {
	var b [6]byte
	rand.Read(b[:])
	return base64.RawURLEncoding.EncodeToString(b[:])
}
