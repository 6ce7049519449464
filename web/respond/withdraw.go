package respond

import (
	"context"
	"errors"
	"net/http"

	"lazo/store"
)

// withdraw has what was sent count for nothing, once its respondent is sure. Whoever may
// change it may do that.
func (s *Side) withdraw(ctx context.Context, j judgement, at string, sure bool) (answer, error) {
	switch {
	case j.ticket.Response == "":
		return answer{at: at}, nil
	case j.change.withdrawn:
		return answer{}, withdrawn
	case !j.opening.program.MayChange(s.now()):
		return answer{}, noLongerChanged
	case !sure:
		return answer{kind: withdrawing}, nil
	}
	err := s.inForm(j.ticket).Withdraw(ctx, j.ticket.Response, nil, s.now())
	if errors.Is(err, store.ErrNotFound) {
		return answer{}, erased
	}
	return answer{kind: withdrew}, err
}

// printWithdrawing asks whether what was sent is to be withdrawn; what was typed travels
// along.
func (s *Side) printWithdrawing(w http.ResponseWriter, r *http.Request, j judgement) error {
	token, err := s.token(r.Context(), j.ticket)
	if err != nil {
		return err
	}
	w.Header().Set("Cache-Control", "private, no-cache")
	return s.page(w, r, j, http.StatusOK, "withdrawing", reviewPage{
		View: j.carryAll(), Address: j.ticket.Address, Token: token, Edition: j.ticket.Edition, Revisit: true,
		Far: j.fields.Get(farField),
	})
}
