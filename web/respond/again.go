package respond

import (
	"bytes"
	"context"
	"encoding/json"
	"reflect"
	"time"

	"lazo/store"
	"lazo/web/fill"
)

// sentField is the field in which a page names the filling that its browser sent
// before it came back to the form.
const sentField = "_sent"

// sentBeforePage says that the form was sent already, and offers what can be done.
type sentBeforePage struct {
	*fill.View
	Address, Token string
	Edition        int
	When           time.Time
	MayChange      bool
	SentBefore     string
}

// sentElsewhere is the response that this browser has sent before, if it says that
// it has; the id of its filling is known only to who sent it. It is nil in a change
// of a response, and for a filling that it names itself.
func (s *Side) sentElsewhere(ctx context.Context, f *filling) (*store.Response, error) {
	sent := f.posted.Get(sentField)
	if sent == "" || sent == f.ticket.Filling || f.ticket.Response != "" {
		return nil, nil
	}
	before, err := s.store.In(f.ticket.Workspace).Form(f.ticket.Form).ResponseOf(ctx, sent)
	if err == store.ErrNotFound {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return &before, nil
}

// changeInstead makes a filling the change of the response that it, or one before
// it in the same browser, became.
func (s *Side) changeInstead(ctx context.Context, f *filling) error {
	if f.ticket.Response != "" {
		return nil
	}
	filling := f.posted.Get(sentField)
	if filling == "" {
		filling = f.ticket.Filling
	}
	before, err := s.store.In(f.ticket.Workspace).Form(f.ticket.Form).ResponseOf(ctx, filling)
	if err != nil {
		return err
	}
	if !f.opening().MayChange(s.now()) {
		return noLongerChanged
	}
	f.ticket.Response, f.ticket.Filling = before.ID, before.Filling
	if f.ticket.Params, err = before.Params(); err != nil {
		return err
	}
	f.input.Params = f.ticket.Params
	return s.prior(ctx, f)
}

// sameAnswers reports whether two stored responses hold the same.
func sameAnswers(a, b []byte) bool {
	read := func(data []byte) (v any) {
		dec := json.NewDecoder(bytes.NewReader(data))
		dec.UseNumber()
		if dec.Decode(&v) != nil {
			return nil
		}
		return v
	}
	return reflect.DeepEqual(read(a), read(b))
}
