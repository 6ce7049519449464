// Package formtest draws random edits of forms for tests.
package formtest

import (
	"slices"

	"pgregory.net/rapid"

	"lazo/core/expr"
	"lazo/core/form"
)

// Everything is a form with each property that a form file has, so that the random
// edits below take out and put back all that can be stored.
const Everything = `{"lazo": 1, "key": "all", "title": "All", "intro": "I", "end": "E", "timezone": "Europe/Madrid", "language": "es",
 "parameters": [{"name": "club", "label": "Club"}], "review": true, "remember": true, "returning": {"save": true, "change": true, "until": "2026-05-01T00:00"},
 "opening": {"from": "2026-03-01T09:00", "shown": "url.club is answered", "limit": 7, "hours": {"rule": "FREQ=WEEKLY;BYDAY=MO", "from": "09:00", "until": "17:00"}},
 "lists": {"piers": [{"code": "n", "depth": 1.50, "lit": true}, {"code": "s", "depth": 12345678901234567890.5, "lit": false}]},
 "ends": [{"when": "boat = \"four\"", "text": "T"}],
 "documents": [{"key": "card", "name": "Card for {boat}", "body": "B {n}", "paper": "a5"}], "confirm": {"item": "mail", "within": "3 days", "subject": "S", "body": "B"},
 "messages": [{"key": "m", "name": "M", "when": "n > 3", "to": ["{mail}", "office@pedralta.example"], "reply_to": "{mail}", "subject": "S {n}", "body": "B {boat}",
  "attach": ["response", "card"], "again": true, "at": "d - 3 days"}], "hooks": [{"key": "h", "url": "https://desk.example/x", "when": "boat is answered", "events": ["received"]}], "theme": {"accent": "#0e5a4a", "columns": 2}, "guard": {"question": "Q", "answers": ["a"]},
 "framing": {"origins": ["https://club.example"], "pass": ["club"]}, "translations": {"en": {"Bote": "Boat"}},
 "pages": [{"key": "p", "title": "P", "shown": true, "next": [{"when": "boat is answered", "page": "q"}], "sections": [
  {"key": "s", "title": "S", "intro": "x", "columns": 2, "shown": "url.club is answered", "items": [
   {"key": "boat", "type": "choice", "label": "Bote", "required": true, "offered": "choice != \"four\"", "look": "menu",
    "choices": [{"value": "four", "label": "Four", "help": "h", "offered": true, "withheld": "today > 2026-05-01"}, {"value": "eight", "withheld": false}]},
   {"key": "n", "type": "number", "label": "N", "min": 0.50, "max": 12, "step": 0.25, "value": {"follows": "12", "when": "boat is answered"}},
   {"key": "mail", "type": "email", "label": "Mail"},
   {"key": "d", "type": "date", "label": "D", "min": "2026-01-01", "locked": false, "required": "n > 3"},
   {"key": "pier", "type": "choices", "label": "Pier", "choices_from": {"list": "piers", "value": "code", "where": "entry.lit"}, "min_picked": 1, "max_picked": 2},
   {"key": "f", "type": "file", "label": "F", "accept": ["image/*"], "max_bytes": 1000, "stored": false, "sensitive": true}]},
  {"key": "rows", "title": "R", "repeat": {"min": 1, "max": 8, "rows": "n", "name": "Rower"}, "items": [
   {"key": "nm", "type": "text", "label": "Nm", "min_length": 2, "max_length": 20, "pattern": "[a-z]+", "checks": [{"ok": "length(nm) > 1", "message": "m"}],
    "wording": [{"when": "n > 3", "label": "W", "help": "h"}], "placeholder": "p", "when_hidden": "keep", "place": "hold", "twice": true}]}]},
 {"key": "q", "title": "Q", "sections": [{"key": "t", "items": [{"key": "total", "type": "calculation", "label": "T", "value": {"is": "count(rows) * n"}},
  {"key": "staffed", "type": "tick", "label": "St", "staff": true, "parked": true}]}]}]}`

// AnyEdit draws an edit that fits the form more often than not.
func AnyEdit(t *rapid.T, f *form.Form) form.Edit {
	var items, sections, pages []string
	for _, p := range f.Pages {
		pages = append(pages, p.Key)
		for _, s := range p.Sections {
			sections = append(sections, s.Key)
			for _, it := range s.Items {
				items = append(items, it.Key)
			}
		}
	}
	one := func(of []string) string {
		if len(of) == 0 {
			return "none"
		}
		return rapid.SampledFrom(of).Draw(t, "key")
	}
	all := append(append(slices.Clone(items), sections...), pages...)
	index := rapid.IntRange(0, 4).Draw(t, "index")
	switch rapid.IntRange(0, 13).Draw(t, "edit") {
	case 0, 1:
		e, _ := f.Delete(one(all), rapid.Bool().Draw(t, "ties"))
		return e
	case 2:
		e, _, _ := f.CopyOf(one(all))
		return e
	case 3:
		return form.Edit{Op: form.RenameKey, Key: one(all), To: form.FreeKey("renamed", "renamed", f.Keys())}
	case 4:
		return form.Edit{Op: form.MoveItem, Key: one(items), Into: one(sections), Index: index}
	case 5:
		return form.Edit{Op: form.MoveSection, Key: one(sections), Into: one(pages), Index: index}
	case 6:
		return form.Edit{Op: form.MovePage, Key: one(pages), Index: index}
	case 7:
		n := expr.Int(int64(index))
		it := &form.Item{Key: form.FreeKey("added", "added", f.Keys()), Type: rapid.SampledFrom(form.Types()).Draw(t,
			"type").Type, Label: "Added",
			Required: form.Always, Shown: form.When("boat is answered"), Min: &form.Bound{Number: &n},
			Max:     &form.Bound{Text: "2026-05-30"},
			Choices: []form.Choice{{Value: "a", Withheld: form.Never}}}
		return form.Edit{Op: form.AddItem, Into: one(sections), Index: index, Item: it}
	case 8:
		return form.Edit{Op: form.Replace, Form: f.Clone()}
	case 9:
		ties := f.AllTies()
		if len(ties) == 0 {
			return form.Edit{Op: form.Batch}
		}
		at := rapid.SampledFrom(ties).Draw(t, "tie")
		e, _ := f.SetTie(at.Owner, at.Property, rapid.SampledFrom([]string{"", "n > 4", `boat = "four"`}).Draw(t, "source"))
		return e
	case 10:
		return form.SetProperty(
			one(items),
			rapid.SampledFrom([]string{"required", "shown", "locked", "min", "max", "value", "choices", "type",
				"checks"}).Draw(t, "property"),
			nil,
		)
	case 11:
		return form.SetProperty(
			"",
			rapid.SampledFrom([]string{"opening", "lists", "ends", "theme", "translations", "returning"}).Draw(t, "property"),
			nil,
		)
	}
	kind := rapid.SampledFrom(form.Types()).Draw(t, "type").Type
	return form.SetProperty(one(items), "type", string(kind))
}
