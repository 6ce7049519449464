package fill

import (
	"cmp"
	"net/url"
	"slices"
	"strings"

	"lazo/core/engine"
	"lazo/core/view"
	"lazo/store"
	"lazo/web/fill/posted"
)

// clashHead begins the field that decides whose answer counts where two changed the same;
// its value is [clashMine] or [clashTheirs].
const (
	clashHead   = "_whose."
	clashMine   = "mine"
	clashTheirs = "theirs"
)

// Clash is an answer that somebody else changed too since the page was opened.
type Clash struct {
	Name         string // of the field that decides
	Label        string
	Mine, Theirs string // in words, "" for nothing
	By           string // who changed it: a member's name, or "" for the respondent
	Chosen       string // what was decided, "" for nothing yet
}

// Decided are the clashes that a page decides, by their keys.
func Decided(fields url.Values) map[string]bool {
	out := map[string]bool{}
	for name, values := range fields {
		key, ok := strings.CutPrefix(name, clashHead)
		if ok && len(values) == 1 && (values[0] == clashMine || values[0] == clashTheirs) {
			out[key] = values[0] == clashMine
		}
	}
	return out
}

// Clashes puts clashes into words; since are the changes that were made meanwhile, the
// newest first.
func Clashes(p *engine.Program, clashes []engine.Clash, since []store.ResponseVersion) []Clash {
	var out []Clash
	for _, c := range clashes {
		one := Clash{Name: clashHead + c.Key}
		if len(since) > 0 && since[0].ByOffice {
			one.By = cmp.Or(since[0].Member, "the office")
		}
		if c.Item == nil { // a whole row
			one.Label = cmp.Or(c.Section.Repeat.Name, c.Section.Name())
			one.Mine, one.Theirs = rowInWords(p, c, c.Mine), rowInWords(p, c, c.Theirs)
		} else {
			one.Label = c.Item.Name()
			if c.Section != nil {
				one.Label = cmp.Or(c.Section.Repeat.Name, c.Section.Name()) + ", " + one.Label
			}
			one.Mine, one.Theirs = view.InWords(p, c.Item.Key, c.Mine, nil), view.InWords(p, c.Item.Key, c.Theirs, nil)
		}
		out = append(out, one)
	}
	return out
}

// rowInWords are the answers of a row, one after the other.
func rowInWords(p *engine.Program, c engine.Clash, v any) string {
	row, _ := v.(map[string]any)
	var words []string
	for _, it := range c.Section.Items {
		if said := view.InWords(p, it.Key, row[it.Key], nil); row[it.Key] != nil && said != "" {
			words = append(words, said)
		}
	}
	return strings.Join(words, ", ")
}

// Untouched is what was posted without the fields of all questions that are not among touched,
// so that they keep what is stored.
func Untouched(sent url.Values, touched map[string]any) url.Values {
	kept := url.Values{}
	for name, values := range sent {
		head, rest, _ := strings.Cut(name, ".")
		key, _, _ := strings.Cut(rest, ".")
		if _, own := touched[key]; own || !slices.Contains(posted.QuestionHeads, head+".") {
			kept[name] = values
		}
	}
	return kept
}
