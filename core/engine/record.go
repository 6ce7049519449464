package engine

import (
	"encoding/json"

	"lazo/core/form"
)

// Stored is what is kept of an accepted outcome.
type Stored struct {
	Answers []byte                       // as JSON, by key; see [Outcome.Stored]
	Labels  map[string]map[string]string // what picks from the workspace's lists read
	Takes   Takes                        // the places that it takes
	Files   []string                     // the ids of its files
}

// ToStore gives what is kept of the outcome; nothing but {} if it is not accepted.
func (o *Outcome) ToStore() (Stored, error) {
	answers, err := json.Marshal(o.Stored())
	return Stored{Answers: answers, Labels: o.Labels(), Takes: o.Takes(), Files: o.files()}, err
}

// files are the ids of the files among what is stored.
func (o *Outcome) files() (out []string) {
	if !o.Accepted {
		return nil
	}
	o.each(func(st *ItemState, row int) {
		it := st.item
		if it.Type != form.File && it.Type != form.Signature || !st.part && !st.kept || !it.IsStored() {
			return
		}
		v := o.valueOf(st, row)
		if id := v.Parts().Get("id"); id != "" {
			out = append(out, id)
		}
	})
	return out
}

// Override lets an outcome of mode staff be stored although checks hinder it, and tells
// what hinders it; nothing in other modes.
func (o *Outcome) Override() []Finding {
	if o.mode != Staff || o.Accepted {
		return nil
	}
	o.Accepted = true
	return o.Findings("")
}
