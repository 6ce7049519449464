package store

import (
	"context"
	"database/sql"
	"errors"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"lazo/core/engine"
)

// Reference is by what people name a response: how its id begins. It need not be the only
// one.
func Reference(id string) string { return strings.ToUpper(id[:min(len(id), 8)]) }

// Response is what one respondent sent.
type Response struct {
	ID          string `gorm:"default:gen_random_uuid()"`
	WorkspaceID WorkspaceID
	FormID      FormID
	Edition     int
	Answers     JSON                `gorm:"type:jsonb"`
	Parameters  map[string][]string `gorm:"type:jsonb;serializer:json"` // of the address
	ReceivedAt  time.Time
	ChangedAt   *time.Time
	WithdrawnAt *time.Time
	ConfirmBy   *time.Time // until when its address is to be confirmed; nil if it is not
	ConfirmedAt *time.Time // when it was; with ConfirmBy, an address that it had before
	// ConfirmFrom is the version before the change that came with another address, whose
	// letters wait until that is confirmed; nil for those of the receipt.
	ConfirmFrom *int
	WithdrawnBy *MemberID    // nil for the respondent
	IntakeID    *IntakeID    // with what it was read in from elsewhere
	TakenBy     *MemberID    // who took it down for someone; nil for what a respondent sent
	LinkID      *LinkID      // the link by which the respondent came
	Filling     string       // one filling of the form; a second response of it is not stored
	Language    string       // that it was given in, "" for the form's own
	Uploads     []string     `gorm:"-"` // the ids of its files, in AddResponse
	Takes       engine.Takes `gorm:"-"` // the places that it takes, in AddResponse
	Goes        []Letter     `gorm:"-"` // what goes out of it, in AddResponse and Amend
	// Labels is what its picks from lists of the workspace read when it was stored:
	// {"pier": {"h": "Heron pier"}}; nil for none.
	Labels   map[string]map[string]string `gorm:"type:jsonb;serializer:json"`
	Versions []ResponseVersion            // in ResponseWithVersions
	// Overridden is what the checks said against the response as the office stored it.
	Overridden []string `gorm:"type:jsonb;serializer:json"`
	// Alone tells Amend that nothing but the answers changes: places, labels and what was
	// overridden stay.
	Alone bool `gorm:"-"`
	// Judge is the edition that said that the form takes responses, in AddResponse:
	// nothing is stored if another is live by then. 0 is none.
	Judge int `gorm:"-"`
}

// ResponseOf finds the response that a filling became.
func (in InForm) ResponseOf(ctx context.Context, filling string) (Response, error) {
	var r Response
	return r, plain(in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("filling = ?", uuid(filling)).First(&r).Error)
}

// MostVersions is how often a response can be changed.
const MostVersions = 200

// errWithdrawn is for a response that was withdrawn.
var errWithdrawn = errors.New("the response was withdrawn")

// errTooOften is for a response that was changed [MostVersions] times.
var errTooOften = errors.New("the response was changed too often")

// ChangeResponse puts the answers, edition, places and labels of next in the place of
// a response's, as its respondent; see [InForm.Amend].
func (in InForm) ChangeResponse(ctx context.Context, id string, next Response, at time.Time) (Reception, error) {
	return in.Amend(ctx, id, nil, at, func(Response) (Response, error) { return next, nil })
}

// Amend changes a response: what change makes of it as it stands is put in the place of
// its answers, edition, places and labels, and what it was is kept as a version. By is
// the member who does it, nil for the respondent. The files of the new state become its
// own; those it had before stay with its versions. What would change nothing of the answers
// does nothing. It is not changed beyond
// [MostVersions], nor where a choice has no place left. The response is locked while
// change runs, so that it must not wait for anybody; nobody's change is lost.
func (in InForm) Amend(
	ctx context.Context, id string, by *MemberID, at time.Time, change func(Response) (Response, error),
) (Reception, error) {
	goes := false
	err := in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var r Response
		err := plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Scopes(in.ofForm).Where("id = ?",
			uuid(id)).First(&r).Error)
		if err != nil {
			return err
		}
		if r.WithdrawnAt != nil {
			return errWithdrawn
		}
		next, err := change(r)
		if err != nil {
			return err
		}
		if next.Edition == r.Edition && len(next.Takes) == 0 && engine.SameAnswers(next.Answers, r.Answers) {
			return nil // nothing becomes different, so that there is nothing to remember
		}
		kept := tx.Exec(`insert into response_versions (response_id, number, edition, answers, kept_at, changed_by, by_office)
			select ?, coalesce(max(number), 0) + 1, ?, ?, ?, ?, ? from response_versions where response_id = ? having count(*) < ?`,
			id, r.Edition, r.Answers, at, by, by != nil, id, MostVersions)
		switch {
		case kept.Error != nil:
			return kept.Error
		case kept.RowsAffected == 0:
			return errTooOften
		}
		if err := in.follows(tx, id, next.Goes, at); err != nil {
			return err
		}
		goes = len(next.Goes) > 0
		if err := in.asksAnew(tx, r, next); err != nil {
			return err
		}
		if next.Alone {
			return tx.Exec("update responses set answers = ?, changed_at = ? where id = ?", next.Answers, at, id).Error
		}
		if err := tx.Exec("update uploads set response_id = ? where form_id = ? and filling = ? and id in ?", id, in.form,
			r.Filling,
			uuids(next.Uploads)).Error; err != nil {
			return err
		}
		return tx.Exec(`update responses set answers = ?, edition = ?, changed_at = ?, takes = ?::jsonb, labels = ?::jsonb, overridden = ?::jsonb
			where id = ?`, next.Answers, next.Edition, at, orNull(next.Takes), orNull(next.Labels), orNullList(next.Overridden), id).Error
	})
	switch {
	case isNoPlaces(err):
		return NoPlaces, nil
	case errors.Is(err, errTooOften):
		return ChangedTooOften, nil
	case errors.Is(err, errWithdrawn):
		return Withdrawn, nil
	}
	if err == nil && goes {
		in.store.wake()
	}
	return Received, err
}

// Withdraw sets a response aside: it stays, but counts for nothing, and its places are
// given back. By is the member who does it, nil for the respondent. One that was withdrawn
// before stays as it is.
func (in InForm) Withdraw(ctx context.Context, id string, by *MemberID, at time.Time) error {
	done := in.store.db.WithContext(ctx).Model(&Response{}).Scopes(in.ofForm).Where("id = ?",
		uuid(id)).Updates(map[string]any{
		"withdrawn_at": gorm.Expr("coalesce(withdrawn_at, ?)", at),
		"withdrawn_by": gorm.Expr("case when withdrawn_at is null then ?::bigint else withdrawn_by end", by),
		"takes_before": gorm.Expr("coalesce(takes, takes_before)"), "takes": nil,
	})
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}

// Reinstate takes back that a response was withdrawn: it counts again, and takes its
// places again, or stays withdrawn for [NoPlaces].
func (in InForm) Reinstate(ctx context.Context, id string) (Reception, error) {
	done := in.store.db.WithContext(ctx).Model(&Response{}).Scopes(in.ofForm).Where("id = ?",
		uuid(id)).Updates(map[string]any{
		"withdrawn_at": nil, "withdrawn_by": nil, "takes": gorm.Expr("coalesce(takes_before, takes)"), "takes_before": nil,
	})
	switch {
	case isNoPlaces(done.Error):
		return NoPlaces, nil
	case done.Error == nil && done.RowsAffected == 0:
		return 0, ErrNotFound
	}
	return Received, done.Error
}

// ResponseVersion is a state that a response was in before it was changed.
type ResponseVersion struct {
	ResponseID string `gorm:"primaryKey"`
	Number     int    `gorm:"primaryKey"`
	Edition    int
	Answers    JSON `gorm:"type:jsonb"`
	KeptAt     time.Time
	ByOffice   bool      // the change that ended it was the office's
	ChangedBy  *MemberID // who made that change; nil for the respondent, or one who has left
	Member     string    `gorm:"->"` // that member's name, in ResponseWithVersions
}

// ResponseWithVersions finds a response with its earlier states, the newest first.
func (in InForm) ResponseWithVersions(ctx context.Context, id string) (Response, error) {
	var r Response
	newestFirst := func(db *gorm.DB) *gorm.DB {
		return db.Select("response_versions.*, (select name from members m where m.id = changed_by) as member").Order("number desc")
	}
	return r, plain(in.store.db.WithContext(ctx).Preload("Versions", newestFirst).Scopes(in.ofForm).Where("id = ?",
		uuid(id)).First(&r).Error)
}

// Stamp tells one state of a response from another: when it was changed last.
func (r *Response) Stamp() string {
	if r.ChangedAt == nil {
		return "received"
	}
	return r.ChangedAt.UTC().Format(time.RFC3339Nano)
}

// AsStamped is As for a stamp; one that is none stands for now.
func (r *Response) AsStamped(stamp string) (answers []byte, since []ResponseVersion) {
	if stamp == "received" {
		return r.As(nil)
	}
	if at, err := time.Parse(time.RFC3339Nano, stamp); err == nil {
		return r.As(&at)
	}
	return r.Answers, nil
}

// As tells how a response was when it had been changed last at a moment, nil for its
// receipt, and which changes came after, the newest first; it needs its versions.
func (r *Response) As(changed *time.Time) (answers []byte, since []ResponseVersion) {
	answers = r.Answers
	for _, v := range r.Versions {
		if changed != nil && !v.KeptAt.After(*changed) {
			break
		}
		answers, since = v.Answers, append(since, v)
	}
	return answers, since
}

// DeleteResponse erases a response, with its versions and files, with what was left of its
// filling to be gone on with, and with the files of exports, which may hold it. That it was is
// remembered by the filling
// alone, so that a page that is still open does not bring it back. What goes out of that tells
// nothing of what it held.
func (in InForm) DeleteResponse(ctx context.Context, id string, goes ...Letter) error {
	defer in.store.wake()
	return in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var r Response
		err := plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Scopes(in.ofForm).Where("id = ?",
			uuid(id)).First(&r).Error)
		if err != nil {
			return err
		}
		for _, q := range []string{
			"insert into erased_fillings (filling) values (@filling) on conflict do nothing",
			"delete from returns where form_id = @form and filling = cast(@filling as uuid)",
			"delete from uploads where form_id = @form and filling = cast(@filling as uuid)",
			"update bulk_changes set changed = changed #- array[cast('responses' as text), cast(@id as text)] where form_id = @form",
			"delete from exports where form_id = @form",
			"delete from responses where form_id = @form and filling = cast(@filling as uuid)",
		} {
			if err := tx.Exec(q, sql.Named("filling", r.Filling), sql.Named("form", in.form),
				sql.Named("id", r.ID)).Error; err != nil {
				return err
			}
		}
		for _, l := range goes {
			l.WorkspaceID, l.FormID = in.workspace, in.form
			if err := tx.Create(&l).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// Responses lists a form's responses, the newest first, from an offset.
func (in InForm) Responses(ctx context.Context, offset, limit int) ([]Response, error) {
	var out []Response
	return out, in.store.db.WithContext(ctx).Scopes(in.ofForm).
		Order("received_at desc, id").Offset(offset).Limit(limit).Find(&out).Error
}

// ResponseTold finds a response by its id alone, for whoever proves to have been told it: where
// it is first, then as any other of its form.
func (s *Store) ResponseTold(ctx context.Context, id string) (Response, error) {
	var at Response
	if err := s.db.WithContext(ctx).Select("workspace_id, form_id").Where("id = ?",
		uuid(id)).First(&at).Error; err != nil {
		return at, plain(err)
	}
	return s.InWorkspace(at.WorkspaceID).Form(at.FormID).Response(ctx, id)
}

// Response finds a response of a form.
func (in InForm) Response(ctx context.Context, id string) (Response, error) {
	var r Response
	return r, plain(in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("id = ?", uuid(id)).First(&r).Error)
}
