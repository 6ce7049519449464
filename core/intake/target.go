// Package intake reads responses in that were written elsewhere: the rows of a spreadsheet,
// whose columns are matched to questions, each judged by the engine as if the office had
// taken it down.
package intake

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
)

// Target is what a column can hold.
type Target struct {
	Name  string // such as boat, rowers.2.name, meals.sat, home.city, how.other, url.club
	Label string // in words

	kind    targetKind
	key     string // of the question or parameter
	section string // the repeating section that it is asked in, or ""
	row     int    // of that, from 0
	part    string // of an address or a grid
}

type targetKind int

const (
	answerTarget targetKind = iota
	partTarget              // of an address, or a row of a grid
	otherTarget             // what is written for the choice that brings a text
	paramTarget             // of the address that the respondent came by
	momentTarget            // when it was received
)

// Received is the target of the moment when a response was received.
const Received = "response.received"

// usualRows is how many rows of a repeating section can be matched at least, if it can
// have them.
const usualRows = 4

// Targets are what the columns of a sheet can hold for a form, in its order: all that can
// be written down in a cell, so no files and signatures, and nothing that is always
// computed. Rows of repeating sections are there as many as the headings name, and some.
func Targets(f *form.Form, head []string) []Target {
	out := []Target{{Name: Received, Label: "When it was received", kind: momentTarget}}
	rows := rowsNamed(head)
	for p := range f.Places() {
		if !written(p.Item) {
			continue
		}
		if p.Section.Repeat == nil {
			out = append(out, of(p.Item, Target{Name: p.Item.Key, Label: p.Item.Name(), key: p.Item.Key})...)
			continue
		}
		sec := p.Section
		for n := range min(max(usualRows, rows[expr.Fold(sec.Key)]), sec.Repeat.Limit()) {
			out = append(out, of(p.Item, Target{
				Name:  fmt.Sprintf("%s.%d.%s", sec.Key, n+1, p.Item.Key),
				Label: fmt.Sprintf("%s %d, %s", sec.Name(), n+1, p.Item.Name()),
				key:   p.Item.Key, section: sec.Key, row: n,
			})...)
		}
	}
	for _, p := range f.Parameters {
		label := p.Label
		if label == "" {
			label = p.Name
		}
		out = append(out, Target{Name: "url." + p.Name, Label: label + ", of the address", kind: paramTarget, key: p.Name})
	}
	return out
}

// written reports whether an answer can be written down in a cell.
func written(it *form.Item) bool {
	switch {
	case !it.Asked() || it.Type.Computed() || it.Type == form.File || it.Type == form.Signature ||
		it.Type == form.Hidden || it.Parked:
		return false
	}
	return it.Value == nil || it.Value.Is == ""
}

// of are the targets of one question: itself, or its parts.
func of(it *form.Item, t Target) []Target {
	part := func(name, label string, kind targetKind) Target {
		p := t
		p.Name, p.Label, p.kind, p.part = t.Name+"."+name, t.Label+", "+label, kind, name
		return p
	}
	var out []Target
	switch {
	case it.Type == form.Grid:
		for _, row := range it.Rows {
			out = append(out, part(row.Key, row.Name(), partTarget))
		}
	case it.Type == form.Address:
		for _, name := range expr.AddressParts {
			out = append(out, part(name, name, partTarget))
		}
	default:
		if out = append(out, t); it.Other() != "" {
			out = append(out, part("other", "in their own words", otherTarget))
		}
	}
	return out
}

// rowHeading is a heading such as rowers.12.name.
var rowHeading = regexp.MustCompile(`^([\p{L}0-9_]+)\.([0-9]{1,3})\.`)

// rowsNamed is how many rows of each section the headings name.
func rowsNamed(head []string) map[string]int {
	out := map[string]int{}
	for _, h := range head {
		if m := rowHeading.FindStringSubmatch(strings.TrimSpace(h)); m != nil {
			n, _ := strconv.Atoi(m[2])
			key := expr.Fold(m[1])
			out[key] = max(out[key], min(n, form.MaxRows))
		}
	}
	return out
}

// Guess finds what the columns hold by their headings, which are keys or labels; "" for
// those that say nothing. No target is found twice.
func Guess(head []string, targets []Target) []string {
	out, used := make([]string, len(head)), map[string]bool{}
	for _, heading := range []func(Target) string{
		func(t Target) string { return t.Name },
		func(t Target) string { return t.Label },
	} {
		for i, h := range head {
			if out[i] != "" || strings.TrimSpace(h) == "" {
				continue
			}
			for _, t := range targets {
				if !used[t.Name] && expr.Fold(h) == expr.Fold(heading(t)) {
					out[i], used[t.Name] = t.Name, true
					break
				}
			}
		}
	}
	for i, h := range head { // as Lazo itself writes it
		if out[i] == "" && h == "received" && !used[Received] {
			out[i] = Received
		}
	}
	return out
}
