package proof

import (
	"encoding/json"
	"net/url"
	"time"

	"lazo/core/engine"
	"lazo/core/form"
)

// Options are what a proof is asked for.
type Options struct {
	At time.Time // the usual moment, which witnesses have where none matters
	// how much time there is left; after that what is not decided is said to be so. nil is no end
	Left   func() time.Duration
	Shapes bool
	Walks  bool
	Kept   []engine.Filling // fillings that were tried already, for Report.Tried
}

// Witness is an input that shows something.
type Witness struct {
	Answers map[string]any `json:"answers"`
	URL     Address        `json:"url,omitempty"`
	At      time.Time      `json:"at"`
}

// Address are parameters, written as they stand behind the question mark.
type Address map[string][]string

// MarshalJSON writes club=Harbor&days=2.
func (a Address) MarshalJSON() ([]byte, error) { return json.Marshal(url.Values(a).Encode()) }

// Filling is the input as a rehearsal takes it.
func (w Witness) Filling() engine.Filling {
	return engine.Filling{Answers: w.Answers, Params: w.URL, At: w.At, Mode: engine.New}
}

func witnessOf(fl engine.Filling) *Witness {
	w := &Witness{Answers: fl.Answers, URL: fl.Params, At: fl.At}
	if w.Answers == nil {
		w.Answers = map[string]any{}
	}
	return w
}

// Remark is what was found out about a form.
type Remark struct {
	form.Remark
	Part    string   `json:"part,omitempty"`  // of the condition, which can be left out
	With    string   `json:"-"`               // the answers of the witness, in words
	Shorter string   `json:"-"`               // the condition without that part
	Other   string   `json:"other,omitempty"` // the place of the other condition, or the key of what it stands in
	Needs   string   `json:"-"`               // the part of the form's publicity that would have to be allowed first
	Witness *Witness `json:"witness,omitempty"`
}

// Undecided is a condition about which nothing can be claimed either way.
type Undecided struct {
	At   string `json:"at"`
	Item string `json:"item,omitempty"`
	Text string `json:"text"`
	Why  string `json:"why,omitempty"`
}

// Report is what is proven of a form.
type Report struct {
	Remarks    []Remark    `json:"remarks"`
	Undecided  []Undecided `json:"undecided"`
	Conditions int         `json:"conditions"` // how many were decided on
	Items      int         `json:"-"`
	Shapes     *Shapes     `json:"shapes,omitempty"`
	Walks      []Walk      `json:"walks,omitempty"`
	Least      int         `json:"least,omitempty"` // no fewer walks can do
	Tried      []string    `json:"-"`               // what of the walks the kept fillings cover
	Goals      int         `json:"-"`               // how much there is to cover
	Cut        bool        `json:"cut,omitempty"`   // the time was up
}

// The kinds of remarks.
const (
	NeverShown    = "never-shown"
	NeverOffered  = "never-offered"
	NeverRequired = "never-required"
	NeverLocked   = "never-locked"
	NeverFilled   = "never-filled"
	NeverWorded   = "never-worded"
	NeverSent     = "never-sent"
	NeverRead     = "never-read"
	Always        = "always"
	NoDifference  = "no-difference"
	SameAs        = "same-as"
	RouteShadowed = "route-shadowed"
	DeadEnd       = "dead-end"
	WaitsFor      = "waits-for"
	CanBeBlank    = "can-be-blank"
	NeverAccepted = "never-accepted"
	Late          = "late"
	OnlyRefused   = "only-refused"
)

// Of proves what can be proven of a form.
func Of(p *engine.Program, o Options) *Report {
	pr := newProver(p, o)
	pr.remarks()
	if o.Shapes {
		pr.shapes()
	}
	if o.Walks {
		pr.walks(o.Kept)
	}
	r := pr.report
	r.Cut = pr.m.Expired()
	return r
}
