package layout

import (
	"context"
	"errors"
	"fmt"
	"runtime"
	"time"

	"lazo/core/engine"
	"lazo/core/proof"
	"lazo/store"
	"lazo/turns"
)

// provenKey is a draft as one of its versions and how much of it is proven.
type provenKey struct {
	draft *Draft
	whole bool
	kept  string // what of it was rehearsed
}

// Bounds of proofs: how long one may take, how many answers of witnesses are remembered,
// and for how many a member waits at once.
const (
	proofLimit   = 10 * time.Second
	provenHeld   = 200_000
	provenWaited = 8
)

// provenAtOnce is how many are made at once: the other half of the machine is for people
// who fill forms in.
func provenAtOnce() int { return max(1, runtime.GOMAXPROCS(0)/2) }

// Proven is what was proven of a draft, and how long that took.
type Proven struct {
	*proof.Report
	Took time.Duration
}

// Long says how long it took.
func (p *Proven) Long() string { return fmt.Sprintf("%.1f s", max(0.1, p.Took.Seconds())) }

// weight is about how much a report takes in memory, in remarks and answers.
func weight(_ provenKey, r *Proven) int {
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
func (d *Desk) Proven(ctx context.Context, draft *Draft) (*Proven, error) {
	return d.prove(ctx, provenKey{draft: draft}, draft.Program, proof.Options{})
}

// ProvenWhole is the same with shapes and walks, and with what fillings that were kept have
// tried of it; names tells these from others.
func (d *Desk) ProvenWhole(ctx context.Context, draft *Draft, kept []engine.Filling, names string) (*Proven, error) {
	return d.prove(ctx, provenKey{draft, true, names}, draft.Program, proof.Options{Shapes: true, Walks: true, Kept: kept})
}

// prove makes a report unless it is there, when it is the turn of who asked first. It goes
// on as long as anybody waits for it.
func (d *Desk) prove(ctx context.Context, key provenKey, p *engine.Program, o proof.Options) (*Proven, error) {
	return d.proven.OfWhile(ctx, key, func(ctx context.Context) (*Proven, error) {
		leave, err := d.turnToProve(ctx)
		if err != nil {
			return nil, err
		}
		defer leave()
		begun := time.Now()
		o.Left, o.At = within(ctx, proofLimit), d.Now()
		report := proof.Of(p, o)
		return &Proven{report, time.Since(begun)}, ctx.Err()
	})
}

// turnToProve waits until a member may have something proven.
func (d *Desk) turnToProve(ctx context.Context) (leave func(), err error) {
	leave, err = d.proving.Take(ctx, store.Asks(ctx, Member(ctx).WorkspaceID))
	if errors.Is(err, turns.ErrMany) {
		err = store.ErrBusy
	}
	return leave, err
}

// within tells how much is left of a time from now on; nothing once the context has ended.
func within(ctx context.Context, limit time.Duration) func() time.Duration {
	begun := time.Now()
	return func() time.Duration {
		if ctx.Err() != nil {
			return 0
		}
		return limit - time.Since(begun)
	}
}

// Comparison is what a draft makes otherwise than the live edition.
type Comparison struct {
	Claimed     map[string]bool // of the live edition: what remarks name, by ClaimOf
	Differences []proof.Difference
	Undecided   []proof.Undecided
}

// ClaimOf tells what a remark names from what others do.
func ClaimOf(r proof.Remark) string { return r.Kind + " " + r.At + " " + r.Part }

type comparedKey struct {
	draft   *Draft
	edition int
}

func compared(_ comparedKey, c *Comparison) int {
	n := 20 + len(c.Claimed) + len(c.Undecided)
	for _, one := range c.Differences {
		n += 5 + len(one.Witness.Answers)
	}
	return n
}

// Compared compares a draft with the live edition, once for each of its versions, within a
// few seconds; nil if none is live.
func (d *Desk) Compared(ctx context.Context, f store.Form, draft *Draft) (*Comparison, error) {
	live, err := d.Live(ctx, f)
	if err != nil || live == nil {
		return nil, err
	}
	return d.compared.OfWhile(ctx, comparedKey{draft, *f.LiveEdition}, func(ctx context.Context) (*Comparison, error) {
		leave, err := d.turnToProve(ctx)
		if err != nil {
			return nil, err
		}
		defer leave()
		c := &Comparison{Claimed: map[string]bool{}}
		o := proof.Options{At: d.Now(), Left: within(ctx, proofLimit/3)}
		for _, r := range proof.Of(live, o).Remarks {
			c.Claimed[ClaimOf(r)] = true
		}
		c.Differences, c.Undecided = proof.Between(live, draft.Program, o)
		return c, ctx.Err()
	})
}

// Live is the edition of a form that is live, compiled; nil if none is.
func (d *Desk) Live(ctx context.Context, f store.Form) (*engine.Program, error) {
	if f.LiveEdition == nil {
		return nil, nil
	}
	return d.Programs.Get(ctx, f.EditionID(*f.LiveEdition))
}
