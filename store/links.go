package store

import (
	"context"
	"crypto/rand"
	"errors"
	"time"

	"lazo/core/view"
)

// Link is a public address of a form with preset parameters and a name.
type Link struct {
	ID          LinkID
	WorkspaceID WorkspaceID
	FormID      FormID
	Code        string // of its short address
	Name        string
	Parameters  map[string][]string `gorm:"type:jsonb;serializer:json"` // preset
	Visits      int64
	MadeAt      time.Time
	Responses   int64 `gorm:"->"` // in Links only
}

// codeLetters leave out what is mistaken for another: 0 and o, 1, l and i.
const codeLetters = "abcdefghjkmnpqrstuvwxyz23456789"

func newCode() string {
	var b [8]byte
	rand.Read(b[:])
	for i := range b {
		b[i] = codeLetters[int(b[i])%len(codeLetters)]
	}
	return string(b[:])
}

// AddLink adds a link with a short address of its own.
func (in InForm) AddLink(ctx context.Context, l Link) (Link, error) {
	l.WorkspaceID, l.FormID = in.workspace, in.form
	if _, err := in.Get(ctx); err != nil {
		return l, err
	}
	var err error
	for range 5 { // a code is taken once in a blue moon
		l.Code, l.MadeAt = newCode(), time.Now()
		err = plain(in.store.db.WithContext(ctx).Create(&l).Error)
		if !errors.Is(err, ErrConflict) {
			break
		}
	}
	return l, err
}

// Links lists a form's links with how many responses came by each, the newest first.
func (in InForm) Links(ctx context.Context) ([]Link, error) {
	var out []Link
	return out, in.store.db.WithContext(ctx).Raw(`select l.*, count(r.id) as responses from links l
		left join responses r on r.link_id = l.id and r.withdrawn_at is null
		where l.workspace_id = ? and l.form_id = ? group by l.id order by l.made_at desc, l.id desc`, in.workspace, in.form).Scan(&out).Error
}

// Link finds a link of a form.
func (in InForm) Link(ctx context.Context, id LinkID) (Link, error) {
	var l Link
	return l, plain(in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("id = ?", id).First(&l).Error)
}

// VisitLink finds a link by its code and counts the visit, by its day too.
func (s *Store) VisitLink(ctx context.Context, code string) (Link, error) {
	var list []Link
	err := s.db.WithContext(ctx).Raw(`with followed as (update links set visits = visits + 1 where code = ? returning *),
		counted as (insert into link_days select id, (now() at time zone 'utc')::date, 1 from followed
			on conflict (link_id, day) do update set visits = link_days.visits + 1)
		select * from followed`, code).Scan(&list).Error
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Link{}, err
	}
	return list[0], nil
}

// LinkDay is how often a link was followed on a day (UTC).
type LinkDay struct {
	LinkID LinkID
	Day    time.Time
	Visits int
}

// LinkDays are the visits of a form's links since a day, the oldest first.
func (in InForm) LinkDays(ctx context.Context, since time.Time) (out []LinkDay, err error) {
	return out, in.store.db.WithContext(ctx).Raw(`select d.* from link_days d join links l on l.id = d.link_id
		where l.workspace_id = ? and l.form_id = ? and d.day >= ? order by d.day`, in.workspace, in.form, since).Scan(&out).Error
}

// DeleteLink deletes a link; its responses stay.
func (in InForm) DeleteLink(ctx context.Context, id LinkID) error {
	return in.store.db.WithContext(ctx).Exec("delete from links where workspace_id = ? and form_id = ? and id = ?",
		in.workspace, in.form, id).Error
}

// Address finds a form's public address by its id.
func (in InForm) Address(ctx context.Context) (string, error) {
	var address string
	err := in.store.db.WithContext(ctx).Raw("select address from forms where workspace_id = ? and id = ?", in.workspace,
		in.form).Scan(&address).Error
	if err == nil && address == "" {
		err = ErrNotFound
	}
	return address, err
}

// LinkNames are a form's links as conditions name them, the newest first.
func (in InForm) LinkNames(ctx context.Context) ([]view.Link, error) {
	var out []view.Link
	links := in.store.db.WithContext(ctx).Model(&Link{}).Scopes(in.ofForm).Select("id, name")
	return out, links.Order("made_at desc, id desc").Limit(500).Scan(&out).Error
}
