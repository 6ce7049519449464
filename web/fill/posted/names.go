package posted

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// The names of fields. What belongs to a question is named by it: a.KEY outside
// repeating sections, r.SECTION.N.KEY in row N of one; the others take the place
// of the first part.
const (
	AnswerHead = "a."     // an answer; several of one name for a set of choices, a.KEY.PART for a part of an address
	RowHead    = "r."     // an answer in a row
	AutoHead   = "auto."  // what stood in a control that nobody had touched when the page was made
	OwnHead    = "own."   // not empty if the respondent has touched the question
	AsideHead  = "aside." // a pick that is set aside because it is not on offer
	FindHead   = "find."  // what is looked for among many choices
	FoundHead  = "found." // and what those on the page were found by
	RowsHead   = "rows."  // rows.SECTION: how many rows the page holds, those set aside too
	RowIDHead  = "row."   // row.SECTION.N: the identity of a row
	ChecksHead = "check." // check.KEY: the checks of a page or section, among the fields that were found faulty
	GoneHead   = "gone."  // gone.SECTION: where the row stood that was taken out last; its fields have gone for N
	Gone       = "gone"
)

// What the page itself posts.
const (
	DoField    = "_do"    // what was pressed: a verb, and behind a colon what it is about
	PageField  = "_page"  // the page that was on the screen
	TokenField = "_token" // the ticket
)

// What a respondent has seen travels with the form, so that nothing is sent that
// was never on a screen: of the page at hand by its digest, of each page before by
// _seen.PAGE, the keys of the questions that could be filled there, those of a
// repeating section with the number of its rows.
const (
	SeenHead    = "_seen."
	DigestField = "_digest"
)

// RowName is the name of a field in a repeating section.
func RowName(section string, row int, key string) string {
	return RowHead + section + "." + strconv.Itoa(row) + "." + key
}

// Headed is the name of a question's field with another head.
func Headed(head, name string) string { return head + name[strings.IndexByte(name, '.')+1:] }

func RowIDName(section string, row int) string {
	return RowIDHead + section + "." + strconv.Itoa(row)
}

// rowHeads are the heads of all fields that move with a row.
var rowHeads = []string{RowHead, AutoHead, OwnHead, AsideHead, FindHead, FoundHead, RowIDHead}

// QuestionHeads are the heads of all fields that belong to a question or its section.
var QuestionHeads = append([]string{AnswerHead, RowsHead, GoneHead}, rowHeads...)

// cutRow splits "r.SECTION.N.KEY", and what moves with it, around N.
func cutRow(name, section string) (head, row, rest string, ok bool) {
	for _, h := range rowHeads {
		after, ok := strings.CutPrefix(name, h+section+".")
		if !ok {
			continue
		}
		row, rest, _ := strings.Cut(after, ".")
		return h + section + ".", row, rest, true
	}
	return "", "", "", false
}

// The fields of a file's question beside the file itself: the id of what was sent,
// a wish to take it away, and a signature drawn or typed.
const (
	FileID   = ".id"
	FileGone = ".gone"
	FileNew  = ".new" // a file was just taken; never on a page
	Drawn    = ".drawn"
	Typed    = ".typed"
)

// The fields of what choices bring beside them: the text of the one that has its own, and
// the places of a ranking, each followed by the number of the choice.
const (
	OtherPart = ".other"
	PlacePart = ".at."
)

// The parts in which a month and day is asked.
const (
	MonthPart = ".month"
	DayPart   = ".day"
)

// drawnHead begins a drawn signature: a PNG as a data address (RFC 2397).
const drawnHead = "data:image/png;base64,"

// Pending is the id of a signature that was drawn or typed but not stored yet.
const Pending = "pending"

// Belonging are the posted fields that belong to a filling of the form: to one of its
// questions, rows or pages, rather than to the page that they were posted from or to
// nothing at all.
func Belonging(f *form.Form, posted url.Values) url.Values {
	n := naming{f, map[string]form.Place{}}
	for p := range f.Places() {
		n.places[p.Item.Key] = p
	}
	out := url.Values{}
	for name, values := range posted {
		if n.knows(name) {
			out[name] = values
		}
	}
	return out
}

// naming knows the names of a form's fields.
type naming struct {
	form   *form.Form
	places map[string]form.Place // of its items
}

func (n naming) knows(name string) bool {
	if page, ok := strings.CutPrefix(name, SeenHead); ok {
		return n.form.Page(page) != nil
	}
	head, rest, _ := strings.Cut(name, ".")
	switch head += "."; head {
	case RowsHead, GoneHead:
		return n.repeats(rest)
	case RowIDHead:
		section, row, _ := strings.Cut(rest, ".")
		return n.repeats(section) && isRow(row)
	case AnswerHead, RowHead, AutoHead, OwnHead, AsideHead:
		if n.control(rest, nil) {
			return head != RowHead
		}
		section, rest, _ := strings.Cut(rest, ".")
		row, rest, _ := strings.Cut(rest, ".")
		_, sec := n.form.Section(section)
		return head != AnswerHead && sec != nil && sec.Repeat != nil && isRow(row) && n.control(rest, sec)
	}
	return false
}

func (n naming) repeats(section string) bool {
	_, s := n.form.Section(section)
	return s != nil && s.Repeat != nil
}

func isRow(text string) bool {
	n, err := strconv.Atoi(text)
	return text == Gone || err == nil && n >= 0 && n <= form.MaxRows
}

// control reports whether a name is that of a control, or of a part of one, in a
// repeating section, or outside of all for nil.
func (n naming) control(name string, in *form.Section) bool {
	key, part, _ := strings.Cut(name, ".")
	key, again := strings.CutSuffix(key, engine.Again)
	p, ok := n.places[key]
	if !ok || again && !p.Item.Twice || p.Section != in && (in != nil || p.Section.Repeat != nil) {
		return false
	}
	if part == "" {
		return true
	}
	switch part = "." + part; p.Item.Type {
	case form.ChoiceType, form.ChoicesType:
		return part == OtherPart && p.Item.Other() != ""
	case form.Ranking:
		n, ok := strings.CutPrefix(part, PlacePart)
		at, err := strconv.Atoi(n)
		return ok && err == nil && at >= 0 && at < form.MaxChoices
	case form.Grid:
		return slices.ContainsFunc(p.Item.Rows, func(r form.GridRow) bool { return r.Key == part[1:] })
	case form.Address:
		return slices.Contains(expr.AddressParts, part[1:])
	case form.MonthDay:
		return part == MonthPart || part == DayPart
	case form.File, form.Signature:
		return slices.Contains(engine.FileParts, part[1:]) || part == FileGone || part == Drawn || part == Typed
	}
	return false
}
