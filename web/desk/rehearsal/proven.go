package rehearsal

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/proof"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/fill/posted"
)

// shown is an input that a proof found, what to say of it, and where it goes on from there.
type shown struct {
	witness *proof.Witness
	note    string
	onward  onward
}

// onward is a way on from what is on the bench, below the form's address.
type onward struct{ Says, To string }

var toProof = onward{"Back to the proof", "proof"}

// fromProof puts an input on the bench that the proof of the draft found: remark:0, shape:3
// or walk:1, by its number, or change:2, of what it makes otherwise than the live edition.
func (d *Room) fromProof(
	ctx context.Context, f store.Form, p *engine.Program, arg string,
) (s shown, fields url.Values, err error) {
	gone := shown{note: "The form has been changed meanwhile; the proof has what holds of it now.", onward: toProof}
	draft, err := d.Draft(ctx, f)
	if err != nil {
		return s, nil, err
	}
	kind, at, _ := strings.Cut(arg, ":")
	n, err := strconv.Atoi(at)
	if err != nil || n < 0 || draft.Program == nil {
		return gone, url.Values{}, nil
	}
	if s, err = d.found(ctx, f, draft, kind, n); err != nil || s.witness == nil {
		return gone, url.Values{}, err
	}
	return s, benchFields(p, s.witness.Filling()), nil
}

// found is what a proof found under a number; nothing if there is none of it.
func (d *Room) found(ctx context.Context, f store.Form, draft *layout.Draft, kind string, n int) (shown, error) {
	switch kind {
	case "remark":
		report, err := d.Proven(ctx, draft)
		if err != nil || n >= len(report.Remarks) {
			return shown{}, err
		}
		return shown{report.Remarks[n].Witness, report.Remarks[n].Text, toProof}, nil
	case "change":
		c, err := d.Compared(ctx, f, draft)
		if err != nil || c == nil || n >= len(c.Differences) {
			return shown{}, err
		}
		return shown{c.Differences[n].Witness, c.Differences[n].Text, onward{"Back to publishing", "publish"}}, nil
	}
	kept, err := d.Fillings(ctx, f, draft.Program)
	if err != nil {
		return shown{}, err
	}
	report, err := d.ProvenWhole(ctx, draft, kept, Names(kept))
	if err != nil {
		return shown{}, err
	}
	switch {
	case kind == "walk" && n < len(report.Walks):
		next := toProof
		if n+1 < len(report.Walks) {
			next = onward{"Next walk", "rehearsal?try=walk:" + strconv.Itoa(n+1)}
		}
		return shown{&report.Walks[n].Witness, "Walk " + strconv.Itoa(n+1) + " of " + strconv.Itoa(len(report.Walks)) + ".",
			next}, nil
	case kind == "shape" && report.Shapes != nil && n < len(report.Shapes.List):
		return shown{report.Shapes.List[n].Witness, "One of the shapes that the form can take.", toProof}, nil
	}
	return shown{}, nil
}

// benchFields puts a filling on the bench.
func benchFields(p *engine.Program, fl engine.Filling) url.Values {
	fields := posted.Fields(p.Form, fl.Answers)
	for name, v := range fl.Params {
		fields["url."+name] = v
	}
	fields.Set(modeField, string(engine.New))
	fields.Set(atField, fl.At.In(p.Location()).Format(layout.LocalMoment))
	fields.Set(exactField, fl.At.Format(time.RFC3339))
	return fields
}

// KeepFilling keeps a filling as a rehearsal, with what comes of it now.
func (d *Room) KeepFilling(ctx context.Context, f store.Form, p *engine.Program, name string, fl engine.Filling) error {
	b := d.benchOf(p, benchFields(p, fl))
	b.params, b.at = fl.Params, fl.At
	in, err := d.input(ctx, f, p, b)
	if err != nil {
		return err
	}
	_, err = d.saveRehearsal(ctx, f, b, p.Run(in), shortened(name))
	return err
}

// shortened is a name that a rehearsal can have.
func shortened(name string) string {
	if r := []rune(name); len(name) > maxRehearsalName {
		for len(string(r)) > maxRehearsalName-len("…") {
			r = r[:len(r)-1]
		}
		return string(r) + "…"
	}
	return name
}

// Fillings are what the kept rehearsals of a form are filled with, as if for the first time.
func (d *Room) Fillings(ctx context.Context, f store.Form, p *engine.Program) ([]engine.Filling, error) {
	list, err := d.InForm(f).Rehearsals(ctx)
	if err != nil {
		return nil, err
	}
	var out []engine.Filling
	for _, r := range list {
		var saved savedFilling
		if json.Unmarshal(r.Filling, &saved) == nil && saved.Mode == engine.New {
			out = append(out, engine.Filling{
				Answers: posted.Answers(p.Form, saved.Fields), Params: saved.Params, At: saved.At, Mode: saved.Mode,
			})
		}
	}
	return out, nil
}

// Names tells some fillings from others.
func Names(kept []engine.Filling) string {
	data, err := json.Marshal(kept)
	if err != nil {
		return fmt.Sprint(kept)
	}
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}
