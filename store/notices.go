package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Notices are what a member is written to about.
type Notices struct {
	Digest       bool // new responses, once a day
	ToldFailures bool // what could not be sent
}

// Notices are what the member is written to about.
func (s *Store) Notices(ctx context.Context, id MemberID) (Notices, error) {
	var n Notices
	err := plain(s.db.WithContext(ctx).Table("members").Select("digest, told_failures").Where("id = ?", id).Take(&n).Error)
	return n, err
}

// SetNotices sets what the member is written to about. A digest begins with what comes
// from now on.
func (s *Store) SetNotices(ctx context.Context, id MemberID, n Notices, now time.Time) error {
	return s.db.WithContext(ctx).Table("members").Where("id = ?", id).Updates(map[string]any{
		"digest": n.Digest, "told_failures": n.ToldFailures,
		"digested_at": gorm.Expr("case when digest and ? then digested_at else ? end", n.Digest, now),
	}).Error
}

// News are the new responses of a form.
type News struct {
	FormID FormID
	Title  string
	N      int
}

// WriteDigest writes to a member who wants it, and was last written to before a moment, of
// the responses that came since: letter makes the letter of them. It reports whether there
// was such a member; who has no news is not written to.
func (s *Store) WriteDigest(
	ctx context.Context, before, now time.Time, letter func(m Member, since time.Time, news []News) Letter,
) (there bool, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var m struct {
			Member
			DigestedAt time.Time
		}
		found := tx.Table("members").Clauses(clause.Locking{Strength: "UPDATE", Options: "SKIP LOCKED"}).
			Where("digest and left_at is null and digested_at < ?", before).Order("digested_at").Limit(1).Find(&m)
		if found.Error != nil || found.RowsAffected == 0 {
			return found.Error
		}
		there = true
		if err := tx.Exec("update members set digested_at = ? where id = ?", now, m.ID).Error; err != nil {
			return err
		}
		var news []News
		err := tx.Raw(`select f.id as form_id, f.title, count(*) as n from responses r join forms f on f.id = r.form_id
			where f.workspace_id = ? and r.received_at > ? and r.received_at <= ? and r.withdrawn_at is null
			and (? <> 'reader' or exists (select 1 from member_forms c where c.form_id = f.id and c.member_id = ?))
			group by f.id, f.title order by n desc, f.title limit 100`, m.WorkspaceID, m.DigestedAt, now, m.Role, m.ID).Scan(&news).Error
		if err != nil || len(news) == 0 {
			return err
		}
		l := letter(m.Member, m.DigestedAt, news)
		l.WorkspaceID = m.WorkspaceID
		return tx.Omit("form_id").Create(&l).Error
	})
	return there, err
}

// TellFailure writes to the members who want it that something could not be sent, at most
// once an hour for a workspace.
func (in InWorkspace) TellFailure(ctx context.Context, now time.Time, letter func(m Member) Letter) error {
	return in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		// Of several at once one writes.
		if err := tx.Exec("select 1 from workspaces where id = ? for update", in.workspace).Error; err != nil {
			return err
		}
		var members []Member
		if err := tx.Scopes(in.ofWorkspace,
			here).Where("told_failures and role <> 'reader'").Order("id").Find(&members).Error; err != nil {
			return err
		}
		for _, m := range members {
			l := letter(m)
			var n int64
			err := tx.Model(&Letter{}).Scopes(in.ofWorkspace).Where("message = ? and recipient = ? and form_id is null and made_at > ?",
				l.Message, m.Email, now.Add(-time.Hour)).Count(&n).Error
			if err == nil && n == 0 {
				l.WorkspaceID = in.workspace
				err = tx.Omit("form_id").Create(&l).Error
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
}
