package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"lazo/core/engine"
)

// Response is what one respondent sent.
type Response struct {
	ID          string `gorm:"default:gen_random_uuid()"`
	WorkspaceID WorkspaceID
	FormID      FormID
	Edition     int
	Answers     []byte              `gorm:"type:jsonb"`
	Parameters  map[string][]string `gorm:"type:jsonb;serializer:json"` // of the address
	ReceivedAt  time.Time
	ChangedAt   *time.Time
	TakenBy     *MemberID    // who took it down for someone; nil for what a respondent sent
	LinkID      *LinkID      // the link by which the respondent came
	Filling     string       // one filling of the form; a second response of it is not stored
	Language    string       // that it was given in, "" for the form's own
	Uploads     []string     `gorm:"-"` // the ids of its files, in AddResponse
	Takes       engine.Takes `gorm:"-"` // the places that it takes, in AddResponse
	// Labels is what its picks from lists of the workspace read when it was stored:
	// {"pier": {"h": "Heron pier"}}; nil for none.
	Labels   map[string]map[string]string `gorm:"type:jsonb;serializer:json"`
	Versions []ResponseVersion            // in ResponseWithVersions
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

// errTooOften is for a response that was changed [MostVersions] times.
var errTooOften = errors.New("the response was changed too often")

// ChangeResponse puts the answers, edition, places and labels of next in the place of
// a response's, keeping what it was as a version. The files of next become its own;
// those it had before stay with its versions. It is not changed beyond [MostVersions],
// nor where a choice has no place left.
func (in InForm) ChangeResponse(ctx context.Context, id string, next Response, at time.Time) (Reception, error) {
	err := in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var r Response
		err := plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Scopes(in.ofForm).Where("id = ?", uuid(id)).First(&r).Error)
		if err != nil {
			return err
		}
		kept := tx.Exec(`insert into response_versions (response_id, number, edition, answers, kept_at)
			select ?, coalesce(max(number), 0) + 1, ?, ?, ? from response_versions where response_id = ? having count(*) < ?`, id, r.Edition, r.Answers, at, id, MostVersions)
		switch {
		case kept.Error != nil:
			return kept.Error
		case kept.RowsAffected == 0:
			return errTooOften
		}
		if err := tx.Exec("update uploads set response_id = ? where form_id = ? and filling = ? and id in ?", id, in.form, r.Filling, uuids(next.Uploads)).Error; err != nil {
			return err
		}
		return tx.Exec("update responses set answers = ?, edition = ?, changed_at = ?, takes = ?::jsonb, labels = ?::jsonb where id = ?",
			next.Answers, next.Edition, at, orNull(next.Takes), orNull(next.Labels), id).Error
	})
	switch {
	case isNoPlaces(err):
		return NoPlaces, nil
	case errors.Is(err, errTooOften):
		return ChangedTooOften, nil
	}
	return Received, err
}

// ResponseVersion is a state that a response was in before it was changed.
type ResponseVersion struct {
	ResponseID string `gorm:"primaryKey"`
	Number     int    `gorm:"primaryKey"`
	Edition    int
	Answers    []byte `gorm:"type:jsonb"`
	KeptAt     time.Time
}

// ResponseWithVersions finds a response with its earlier states, the newest first.
func (in InForm) ResponseWithVersions(ctx context.Context, id string) (Response, error) {
	var r Response
	newestFirst := func(db *gorm.DB) *gorm.DB { return db.Order("number desc") }
	return r, plain(in.store.db.WithContext(ctx).Preload("Versions", newestFirst).Scopes(in.ofForm).Where("id = ?", uuid(id)).First(&r).Error)
}

// DeleteResponse erases a response, with its versions and files, and with what was
// left of its filling to be gone on with. That it was is remembered by the filling
// alone, so that a page that is still open does not bring it back.
func (in InForm) DeleteResponse(ctx context.Context, id string) error {
	return in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var r Response
		err := plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Scopes(in.ofForm).Where("id = ?", uuid(id)).First(&r).Error)
		if err != nil {
			return err
		}
		for _, q := range []string{
			"insert into erased_fillings (filling) values (@filling) on conflict do nothing",
			"delete from returns where form_id = @form and ticket::json->>'n' = @filling",
			"delete from uploads where form_id = @form and filling = cast(@filling as uuid)",
			"delete from responses where form_id = @form and filling = cast(@filling as uuid)",
		} {
			if err := tx.Exec(q, sql.Named("filling", r.Filling), sql.Named("form", in.form)).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// CountResponses counts the responses of a form.
func (in InForm) CountResponses(ctx context.Context) (int, error) {
	var n int64
	return int(n), in.store.db.WithContext(ctx).Model(&Response{}).Scopes(in.ofForm).Count(&n).Error
}

// Responses lists a form's responses, the newest first, from an offset.
func (in InForm) Responses(ctx context.Context, offset, limit int) ([]Response, error) {
	var out []Response
	return out, in.store.db.WithContext(ctx).Scopes(in.ofForm).
		Order("received_at desc, id").Offset(offset).Limit(limit).Find(&out).Error
}

// Response finds a response of a form.
func (in InForm) Response(ctx context.Context, id string) (Response, error) {
	var r Response
	return r, plain(in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("id = ?", uuid(id)).First(&r).Error)
}

// Snapshot is all responses of a form as they are at one moment.
type Snapshot struct {
	db *gorm.DB
	in InForm
}

// AtOnce calls read with a form's responses as they are now; what arrives or is
// deleted meanwhile changes nothing in it. A connection is held until read returns,
// so it must not wait for anybody.
func (in InForm) AtOnce(ctx context.Context, read func(Snapshot) error) error {
	return in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		return read(Snapshot{tx, in})
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
}

func (s Snapshot) query() *gorm.DB {
	return s.db.Model(&Response{}).Scopes(s.in.ofForm)
}

// Editions lists the editions that the responses belong to, the newest first.
func (s Snapshot) Editions() ([]Edition, error) {
	var out []Edition
	return out, s.db.Scopes(s.in.ofForm).Where("number in (?)", s.query().Select("edition")).Order("number desc").Find(&out).Error
}

// Each visits the responses, the oldest first, without holding all of them in memory.
func (s Snapshot) Each(visit func(Response) error) error {
	rows, err := s.query().Order("received_at, id").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var r Response
		if err := s.db.ScanRows(rows, &r); err != nil {
			return err
		}
		if err := visit(r); err != nil {
			return err
		}
	}
	return rows.Err()
}
