package store

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"time"
)

// Link is a public address of a form with preset parameters and a name.
type Link struct {
	ID          int64
	WorkspaceID int64
	FormID      int64
	Code        string // of its short address
	Name        string
	Parameters  []byte `gorm:"type:jsonb"`
	Visits      int64
	MadeAt      time.Time
	Responses   int64 `gorm:"->"` // in Links only
}

// Params are the preset parameters.
func (l *Link) Params() (map[string][]string, error) {
	out := map[string][]string{}
	return out, json.Unmarshal(l.Parameters, &out)
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
func (s *Store) AddLink(ctx context.Context, l Link, params map[string][]string) (Link, error) {
	if _, err := s.FormByID(ctx, l.WorkspaceID, l.FormID); err != nil {
		return l, err
	}
	var err error
	if l.Parameters, err = json.Marshal(params); err != nil {
		return l, err
	}
	for range 5 { // a code is taken once in a blue moon
		l.Code, l.MadeAt = newCode(), time.Now()
		err = plain(s.db.WithContext(ctx).Create(&l).Error)
		if !errors.Is(err, ErrConflict) {
			break
		}
	}
	return l, err
}

// Links lists a form's links with how many responses came by each, the newest first.
func (s *Store) Links(ctx context.Context, workspace, formID int64) ([]Link, error) {
	var out []Link
	return out, s.db.WithContext(ctx).Raw(`select l.*, count(r.id) as responses from links l left join responses r on r.link_id = l.id
		where l.workspace_id = ? and l.form_id = ? group by l.id order by l.made_at desc, l.id desc`, workspace, formID).Scan(&out).Error
}

// LinkByID finds a link of a form.
func (s *Store) LinkByID(ctx context.Context, workspace, formID, id int64) (Link, error) {
	var l Link
	return l, plain(s.db.WithContext(ctx).Where("workspace_id = ? and form_id = ? and id = ?", workspace, formID, id).First(&l).Error)
}

// VisitLink finds a link by its code and counts the visit.
func (s *Store) VisitLink(ctx context.Context, code string) (Link, error) {
	var list []Link
	err := s.db.WithContext(ctx).Raw("update links set visits = visits + 1 where code = ? returning *", code).Scan(&list).Error
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Link{}, err
	}
	return list[0], nil
}

// DeleteLink deletes a link; its responses stay.
func (s *Store) DeleteLink(ctx context.Context, workspace, formID, id int64) error {
	return s.db.WithContext(ctx).Exec("delete from links where workspace_id = ? and form_id = ? and id = ?", workspace, formID, id).Error
}

// FormAddress finds a form's public address by its id.
func (s *Store) FormAddress(ctx context.Context, id int64) (string, error) {
	var address string
	err := s.db.WithContext(ctx).Raw("select address from forms where id = ?", id).Scan(&address).Error
	if err == nil && address == "" {
		err = ErrNotFound
	}
	return address, err
}
