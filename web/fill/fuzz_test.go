package fill

import (
	"encoding/json"
	"net/url"
	"strings"
	"testing"
	"time"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/web/fill/posted"
)

const postedForm = `{"lazo": 1, "key": "t", "title": "T", "timezone": "Europe/Madrid", "pages": [{"key": "p", "sections": [
 {"key": "s", "items": [{"key": "n", "type": "number", "label": "N"}, {"key": "d", "type": "number", "label": "D", "value": {"follows": "n"}},
  {"key": "c", "type": "choice", "label": "C", "choices": [{"value": "a"}, {"value": "b", "withheld": "n > 2"}]}, {"key": "cs", "type": "choices", "label": "S", "choices": [{"value": "a"}, {"value": "b", "offered": "c = \"a\""}]},
  {"key": "t", "type": "tick", "label": "T", "value": {"follows": "n > 1", "when": "c is answered"}}, {"key": "ad", "type": "address", "label": "A"}, {"key": "md", "type": "month_day", "label": "M"},
  {"key": "f", "type": "file", "label": "F"}, {"key": "sg", "type": "signature", "label": "G", "twice": true}, {"key": "yn", "type": "yes_no", "label": "Y", "shown": "t"}]},
 {"key": "crew", "repeat": {"max": 4}, "items": [{"key": "nm", "type": "text", "label": "Nm", "value": {"starts": "\"x\""}}, {"key": "pr", "type": "choice", "label": "P", "choices": [{"value": "a", "offered": "nm = \"x\""}]}]},
 {"key": "seats", "repeat": {"max": 4, "rows": "n"}, "items": [{"key": "st", "type": "text", "label": "St"}]}]},
 {"key": "q", "shown": "n > 3", "sections": [{"key": "s2", "items": [{"key": "z", "type": "email", "label": "Z", "required": true}]}]}]}`

// FuzzPosted takes a request's body to fields, answers, outcome and page: nothing
// fails or panics, whatever is posted; the page posts as many rows as it shows, and
// printing what was printed gives the same.
func FuzzPosted(f *testing.F) {
	def, remarks := form.Read([]byte(postedForm))
	if def == nil {
		f.Fatal(remarks)
	}
	def.Pages[0].Sections[0].Items[8].Twice = false
	p, remarks := engine.Compile(def)
	if p == nil {
		f.Fatal(remarks)
	}
	for _, body := range []string{"", "a.n=5&auto.d=5&a.d=5&own.d=",
		"rows.crew=2&r.crew.0.nm=Ana&row.crew.0=x&own.crew.0.nm=yes&r.crew.1.nm=&_do=remove:crew:0",
		"gone.crew=1&r.crew.gone.nm=Bo&row.crew.gone=y&rows.crew=1&_do=restore:crew", "a.c=&aside.c=b&a.cs=a&aside.cs=b",
		"rows.seats=3&r.seats.2.st=x&a.n=1", "a.sg.drawn=data:image/png;base64,AA&a.f.id=x",
		"_digest=AAAAA&_page=p&_seen.q=z&_faulty=a.n+a.z", "rows.crew=-1&rows.seats=99999999999999999999&r.crew.999999.nm=x",
		"a.md.month=13&a.md.day=99&a.ad.city=%20", "%00=%ff", "rows.crew=4&_do=add:crew"} {
		f.Add(body)
	}
	known := func(_ *form.Item, parts map[string]any) any {
		if parts["id"] != "x" {
			return nil
		}
		return map[string]any{"id": "x", "name": "slip.png", "type": "image/png", "size": "1000"}
	}
	f.Fuzz(func(t *testing.T, body string) {
		fields, err := posted.ParseFields(body)
		if err != nil {
			return
		}
		fields, edit := posted.EditRows(def, fields, fields.Get("_do"))
		out := p.Run(engine.Input{Answers: p.AnswersFrom(posted.Posting{Fields: fields, Files: known}),
			At: time.Unix(1_780_000_000, 0)})
		if _, err := json.Marshal(out); err != nil {
			t.Fatal(err)
		}
		at := fields.Get("_page")
		view := BuildAfter(p, out, fields, at, JudgedOnly(fields), edit)
		Unseen(p, out, fields, at)
		Live(p, out, fields, at, fields.Get(posted.DigestField), edit)
		// What the page would post as it stands is the same filling.
		again := printed(view)
		same := p.Run(engine.Input{Answers: p.AnswersFrom(posted.Posting{Fields: again, Files: known}),
			At: time.Unix(1_780_000_000, 0)})
		if a, b := plainOutcome(t, out), plainOutcome(t, same); a != b {
			t.Fatalf("posted %q\nbefore %s\nafter  %s\nfields %s", body, a, b, again.Encode())
		}
	})
}

// plainOutcome is an outcome without problems, which a control that holds one line
// or one date can mend by itself.
func plainOutcome(t *testing.T, out *engine.Outcome) string {
	data, err := json.Marshal(out)
	if err != nil {
		t.Fatal(err)
	}
	var v map[string]any
	if err := json.Unmarshal(data, &v); err != nil {
		t.Fatal(err)
	}
	delete(v, "accepted")
	delete(v, "stored")
	delete(v, "unmatched")
	strip(v)
	data, _ = json.Marshal(v)
	return string(data)
}

func strip(v any) {
	switch v := v.(type) {
	case map[string]any:
		delete(v, "problems")
		for _, e := range v {
			strip(e)
		}
	case []any:
		for _, e := range v {
			strip(e)
		}
	}
}

// printed are the fields that a page posts as it was printed, as its templates do.
func printed(v *View) url.Values {
	out := url.Values{}
	carry := func(list []Carried) {
		for _, c := range list {
			out.Add(c.Name, c.Value)
		}
	}
	carry(v.Elsewhere)
	for _, s := range v.Page().Sections {
		if s.Repeats {
			if s.Held != "" {
				out.Set(posted.RowsHead+s.Key, s.Held)
			}
			carry(s.Carried)
			for i, row := range s.Rows {
				out.Set(posted.RowIDName(s.Key, i), s.RowIDs[i])
				for _, f := range row {
					printField(f, out)
				}
			}
			continue
		}
		for _, f := range s.Fields {
			printField(f, out)
		}
	}
	return out
}

func printField(f Field, out url.Values) {
	for _, c := range append(f.Carried, f.Aside...) {
		out.Add(c.Name, c.Value)
	}
	if !f.Shown || !f.Fillable {
		return
	}
	if f.HasAuto {
		if f.Own == "" {
			out.Set(f.AutoName, f.Auto)
		}
		out.Set(f.OwnName, f.Own)
	}
	switch {
	case f.Type == form.Address:
		for _, part := range f.Parts {
			out.Set(part.Name, part.Text)
		}
	case f.Type == form.MonthDay:
		month := ""
		for _, m := range f.Months {
			if m.Picked {
				month = m.Value
			}
		}
		out.Set(f.Name+posted.MonthPart, month)
		out.Set(f.Name+posted.DayPart, f.Day)
	case f.Type == form.File || f.Type == form.Signature:
		if f.File.ID != "" {
			out.Set(f.Name+posted.FileID, f.File.ID)
		}
		out.Set(f.Name+posted.Typed, f.File.Typed)
		out.Set(f.Name+posted.Drawn, f.File.Drawn)
	case f.Type == form.Tick:
		out.Add(f.Name, "")
		if f.Text == "yes" {
			out.Add(f.Name, "yes")
		}
	case len(f.Choices) > 0 || f.Type.Picks() || f.Type == form.YesNo:
		out.Add(f.Name, "")
		for _, c := range f.Choices {
			if c.Picked {
				out.Add(f.Name, c.Value)
			}
		}
	default:
		out.Set(f.Name, strings.ReplaceAll(f.Text, "\n", ""))
	}
}
