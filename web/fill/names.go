package fill

import (
	"strconv"
	"strings"
)

// The names of fields. What belongs to a question is named by it: a.KEY outside
// repeating sections, r.SECTION.N.KEY in row N of one; the others take the place
// of the first part.
const (
	answerHead = "a."     // an answer; several of one name for a set of choices, a.KEY.PART for a part of an address
	rowHead    = "r."     // an answer in a row
	autoHead   = "auto."  // what stood in a control that nobody had touched when the page was made
	ownHead    = "own."   // not empty if the respondent has touched the question
	asideHead  = "aside." // a pick that is set aside because it is not on offer
	rowsHead   = "rows."  // rows.SECTION: how many rows the page holds, those set aside too
	rowIDHead  = "row."   // row.SECTION.N: the identity of a row
	goneHead   = "gone."  // gone.SECTION: where the row stood that was taken out last; its fields have gone for N
	gone       = "gone"
)

// RowName is the name of a field in a repeating section.
func RowName(section string, row int, key string) string {
	return rowHead + section + "." + strconv.Itoa(row) + "." + key
}

// headed is the name of a question's field with another head.
func headed(head, name string) string { return head + name[strings.IndexByte(name, '.')+1:] }

func rowIDName(section string, row int) string {
	return rowIDHead + section + "." + strconv.Itoa(row)
}

// rowHeads are the heads of all fields that move with a row.
var rowHeads = []string{rowHead, autoHead, ownHead, asideHead, rowIDHead}

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

// The parts in which a month and day is asked.
const (
	monthPart = ".month"
	dayPart   = ".day"
)

// drawnHead begins a drawn signature: a PNG as a data address (RFC 2397).
const drawnHead = "data:image/png;base64,"

// Pending is the id of a signature that was drawn or typed but not stored yet.
const Pending = "pending"
