package respond

import (
	"context"
	"errors"
	"net/http"

	"lazo/store"
)

// withdraw has what was sent count for nothing, once its respondent is sure. Whoever may
// change it may do that.
func (s *Side) withdraw(ctx context.Context, f *filling, at string, sure bool) (answer, error) {
	switch {
	case f.ticket.Response == "":
		return answer{at: at}, nil
	case f.withdrawn:
		return answer{}, withdrawn
	case !f.opening().MayChange(s.now()):
		return answer{}, noLongerChanged
	case !sure:
		return answer{kind: withdrawing}, nil
	}
	err := s.of(f).Withdraw(ctx, f.ticket.Response, nil, s.now())
	if errors.Is(err, store.ErrNotFound) {
		return answer{}, erased
	}
	return answer{kind: withdrew}, err
}

// printWithdrawing asks whether what was sent is to be withdrawn; what was typed travels
// along.
func (s *Side) printWithdrawing(w http.ResponseWriter, r *http.Request, f *filling) error {
	token, err := s.token(r.Context(), f.ticket)
	if err != nil {
		return err
	}
	w.Header().Set("Cache-Control", "private, no-cache")
	return s.page(w, r, f, http.StatusOK, "withdrawing", reviewPage{
		View: f.carryAll(), Address: f.address, Token: token, Edition: f.ticket.Edition, Revisit: true, Far: f.posted.Get(farField),
	})
}
