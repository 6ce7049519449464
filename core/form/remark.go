package form

import "fmt"

// Severity says how much a remark hinders.
type Severity string

// The severities. A form with an Error can't be published or run.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
	Hint    Severity = "note"
)

// Remark is a finding about a form, in words for its author.
type Remark struct {
	Kind     string   `json:"kind"`
	Severity Severity `json:"severity"`
	At       string   `json:"at"`             // pages/PAGE/SECTION/ITEM.property
	Item     string   `json:"item,omitempty"` // the key of the item, section or page concerned
	Text     string   `json:"text"`
}

// String is the remark as one line: its place, its kind, its text.
func (r Remark) String() string { return fmt.Sprintf("%s: %s: %s", r.At, r.Kind, r.Text) }

// Errors returns the remarks that are errors.
func Errors(remarks []Remark) []Remark {
	var out []Remark
	for _, r := range remarks {
		if r.Severity == Error {
			out = append(out, r)
		}
	}
	return out
}
