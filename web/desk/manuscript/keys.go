package manuscript

import (
	"net/http"
)

// keyRow is one shortcut of the manuscript.
type keyRow struct{ Keys, Does string }

// shortcuts are what the keyboard does in the manuscript; desk.js carries them out.
var shortcuts = []keyRow{
	{"?", "these keys"}, {"/", "find a question, a key, a word of a tie"}, {"j, k", "next question, question before"},
	{"Enter", "open the question in focus"},
	{"Esc", "close the open question"}, {"n", "write a new question in this section"},
	{"x", "mark the question in focus, or take the mark away"}, {"Shift with a click on a mark", "mark all between"},
	{"Ctrl+C, Ctrl+X, Ctrl+V", "copy, cut and paste what is marked or in focus, in another form too"},
	{"t", "tie what is marked"}, {"Alt+↑, Alt+↓", "move the open question, or what is marked"},
	{"d", "duplicate the open question"},
	{"f", "see only what is tied to the open question, or all again"}, {"r", "go to the next remark"},
	{"Ctrl+Z, Ctrl+Shift+Z", "undo, redo"}, {"Tab in a written tie", "take the word that is proposed"},
}

func (d *Room) keys(w http.ResponseWriter, _ *http.Request) error {
	return d.pages.Page(w, http.StatusOK, "keys", shortcuts)
}
