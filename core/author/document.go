package author

import (
	"slices"
	"strings"
	"time"

	"lazo/core/form"
)

// DocumentAt is what a document is called among what can be at hand in the manuscript.
func DocumentAt(key string) string { return "document-" + key }

// AddDocument begins a document.
type AddDocument struct {
	Name string `form:"label"`
}

func (c AddDocument) Do(f *form.Form, _ time.Time) (Doing, error) {
	name := strings.TrimSpace(c.Name)
	if name == "" {
		return Doing{}, misfit("a document needs a name, such as Starting card")
	}
	if len(f.Documents) >= form.MaxMessages {
		return Doing{}, misfit("a form has at most %d documents", form.MaxMessages)
	}
	taken := map[string]bool{}
	for _, what := range form.Attachable {
		taken[what] = true // which letters know by these names
	}
	for _, d := range f.Documents {
		taken[d.Key] = true
	}
	d := form.Document{Key: form.FreeKey(form.ProposeKey(name), "document", taken), Name: name}
	return Doing{Edit: withDocuments(append(slices.Clone(f.Documents), d)), At: DocumentAt(d.Key)}, nil
}

func withDocuments(documents []form.Document) form.Edit {
	return form.SetProperty("", "documents", documents)
}

func document(f *form.Form, key string) (int, error) {
	i := slices.IndexFunc(f.Documents, func(d form.Document) bool { return d.Key == key })
	if i < 0 {
		return 0, misfit("this document is no longer there")
	}
	return i, nil
}

// SetDocument sets a property of a document: its name, body or paper.
type SetDocument struct {
	Document string `form:"document"` // its key
	Property string `form:"property"`
	Value    string `form:"value"`
}

func (c SetDocument) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: DocumentAt(c.Document)}
	i, err := document(f, c.Document)
	if err != nil {
		return d, err
	}
	documents := slices.Clone(f.Documents)
	switch c.Property {
	case "name":
		if documents[i].Name = strings.Join(strings.Fields(c.Value), " "); documents[i].Name == "" {
			return d, misfit("a document needs a name, such as Starting card")
		}
	case "body":
		documents[i].Body = strings.ReplaceAll(strings.TrimRight(c.Value, " \t\r\n"), "\r\n", "\n")
	case "paper":
		if !slices.Contains(form.Papers, c.Value) {
			return d, misfit("there is no paper “%s”", c.Value)
		}
		documents[i].Paper = c.Value
	default:
		return d, misfit("a document has no “%s”", c.Property)
	}
	d.Edit = withDocuments(documents)
	return d, nil
}

// RemoveDocument takes a document out, and out of the letters that carry it.
type RemoveDocument struct {
	Document string `form:"document"`
}

func (c RemoveDocument) Do(f *form.Form, _ time.Time) (Doing, error) {
	i, err := document(f, c.Document)
	if err != nil {
		return Doing{}, err
	}
	edits := []form.Edit{}
	messages, carried := slices.Clone(f.Messages), false
	for n, m := range messages {
		if slices.Contains(m.Attach, c.Document) {
			carried = true
			messages[n].Attach = slices.DeleteFunc(slices.Clone(m.Attach), func(what string) bool { return what == c.Document })
		}
	}
	if carried {
		edits = append(edits, withLetters(messages))
	}
	edits = append(edits, withDocuments(slices.Delete(slices.Clone(f.Documents), i, i+1)))
	return Doing{Edit: batch(edits...)}, nil
}
