package frame

import (
	"context"
	"time"

	"lazo/core/engine"
	"lazo/core/proof"
	"lazo/store"
)

// provenKey is a draft as one of its versions and how much of it is proven.
type provenKey struct {
	draft *Draft
	whole bool
	kept  string // what of it was rehearsed
}

// Bounds of proofs: how long one may take, how many answers of witnesses are remembered,
// and how many are made at once.
const (
	proofLimit  = 10 * time.Second
	provenHeld  = 200_000
	provenAtAll = 1
)

// weight is about how much a report takes in memory, in remarks and answers.
func weight(_ provenKey, r *proof.Report) int {
	n := 20 + len(r.Remarks) + len(r.Undecided)
	if r.Shapes != nil {
		for _, s := range r.Shapes.List {
			n += len(s.Shown) + len(s.Required) + len(s.Witness.Answers)
		}
	}
	for _, w := range r.Walks {
		n += len(w.Covers) + len(w.Answers)
	}
	return n
}

// Proven is what can be proven of a draft that has no errors: its remarks, made once for
// each of its versions.
func (d *Desk) Proven(draft *Draft) (*proof.Report, error) {
	return d.prove(provenKey{draft: draft}, draft.Program, proof.Options{})
}

// ProvenWhole is the same with shapes and walks, and with what fillings that were kept have
// tried of it; names tells these from others.
func (d *Desk) ProvenWhole(draft *Draft, kept []engine.Filling, names string) (*proof.Report, error) {
	return d.prove(provenKey{draft, true, names}, draft.Program, proof.Options{Shapes: true, Walks: true, Kept: kept})
}

// prove makes a report unless it is there. It goes on if who asked has left, since others
// may wait for the same.
func (d *Desk) prove(key provenKey, p *engine.Program, o proof.Options) (*proof.Report, error) {
	return d.proven.Of(key, func() (*proof.Report, error) {
		d.proving <- struct{}{} // others wait, so that people who fill forms in do not
		defer func() { <-d.proving }()
		o.Limit, o.At = proofLimit, d.Now()
		return proof.Of(p, o), nil
	})
}

// Between is what a draft makes otherwise than an edition, found within a few seconds.
func (d *Desk) Between(old, now *engine.Program) ([]proof.Difference, []proof.Undecided) {
	d.proving <- struct{}{}
	defer func() { <-d.proving }()
	return proof.Between(old, now, proof.Options{At: d.Now(), Limit: proofLimit / 3})
}

// Live is the edition of a form that is live, compiled; nil if none is.
func (d *Desk) Live(ctx context.Context, f store.Form) (*engine.Program, error) {
	if f.LiveEdition == nil {
		return nil, nil
	}
	return d.Programs.Get(ctx, f.ID, *f.LiveEdition)
}
