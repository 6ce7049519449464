package rehearsal

import (
	"context"
	"errors"
	"net/url"
	"time"

	"lazo/core/engine"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/fill/posted"
)

// beside is what the live edition makes otherwise of what stands on the bench; nothing
// where none is live, or nothing was changed since.
func (d *Room) beside(
	ctx context.Context, f store.Form, fr layout.Header, in engine.Input, fields url.Values, out *engine.Outcome,
) ([]engine.Said, error) {
	if len(fr.Changes) == 0 {
		return nil, nil
	}
	live, err := d.Programs.Get(ctx, f.EditionID(fr.Live))
	if err != nil {
		return nil, err
	}
	in.Answers, in.Prior = live.Answers(posted.Answers(live.Form, fields)), nil
	return out.Beside(live.Run(in)), nil
}

// fromResponse puts what was sent on the bench, as it was when it was received.
func (d *Room) fromResponse(
	ctx context.Context, f store.Form, p *engine.Program, id string,
) (note string, fields url.Values, err error) {
	resp, err := d.InForm(f).Response(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return "This response is no longer there.", url.Values{}, nil
	}
	if err != nil {
		return "", nil, err
	}
	raw, err := engine.ParseAnswers(resp.Answers)
	if err != nil {
		return "", nil, err
	}
	fields = posted.Fields(p.Form, raw)
	for name, values := range resp.Parameters {
		fields["url."+name] = values
	}
	fields.Set(modeField, string(engine.New))
	fields.Set(atField, resp.ReceivedAt.In(p.Location()).Format(layout.LocalMoment))
	fields.Set(exactField, resp.ReceivedAt.Format(time.RFC3339))
	sent := resp.ReceivedAt.In(p.Location()).Format(layout.PlainMoment)
	return "Filled as it was sent on " + sent + ", to be tried with this draft.", fields, nil
}
