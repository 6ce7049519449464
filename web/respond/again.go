package respond

import (
	"context"
	"strings"
	"time"

	"lazo/web/fill"
)

// sentField is the field in which a page names the filling that its browser sent
// before it came back to the form.
const sentField = "_sent"

// sentHere is what a filling is signed with for the browser that sent it: the address of an
// end page, which holds the filling, lets nobody change anything.
const sentHere = "sent here "

func (s *Side) proofOf(ctx context.Context, filling string) (string, error) {
	keys, err := s.keys(ctx)
	if err != nil {
		return "", err
	}
	return filling + "." + keys.sign(sentHere+filling, sentBytes), nil
}

// sentBeforePage says that the form was sent already, and offers what can be done.
type sentBeforePage struct {
	*fill.View
	Address, Token string
	Edition        int
	When           time.Time
	MayChange      bool
	SentBefore     string
	Far            string
}

// changeInstead is a filling as the change of the response that it, or one before it in the
// same browser, became.
func (s *Side) changeInstead(ctx context.Context, j judgement) (judgement, error) {
	if j.ticket.Response != "" {
		return j, nil
	}
	filling := j.ticket.Filling
	if proof := j.fields.Get(sentField); proof != "" {
		keys, err := s.keys(ctx)
		if err != nil {
			return j, err
		}
		id, sum, _ := strings.Cut(proof, ".")
		if filling = id; !keys.signed(sentHere+id, sum, sentBytes) {
			return j, noLongerChanged
		}
	}
	before, err := s.inForm(j.ticket).ResponseOf(ctx, filling)
	if err != nil {
		return j, err
	}
	at := before.ReceivedAt
	if before.ChangedAt != nil {
		at = *before.ChangedAt
	}
	if !j.opening.program.MayChange(s.now()) || s.now().Sub(at) >= receivedFor {
		return j, noLongerChanged
	}
	f := j.filling
	f.ticket.Response, f.ticket.Filling, f.ticket.Params = before.ID, before.Filling, before.Parameters
	f.input.Params = before.Parameters
	if f, err = s.asChange(ctx, f); err != nil {
		return j, err
	}
	return s.judge(f, j.opening), nil
}
