package store

import (
	"context"
	"database/sql"
	"strings"
	"time"

	"gorm.io/gorm"
)

// Retention is how long the responses of a form are kept.
type Retention struct {
	Days int    `gorm:"column:keep_days"` // 0 for as long as nobody deletes them
	From string `gorm:"column:keep_from"` // the key of a date that was answered, "" for the receipt
	Told bool   `gorm:"column:keep_told"` // respondents are told

	Since *time.Time `gorm:"column:keep_since"` // when the time was last changed
}

// KeepGrace is for how long nothing is deleted after the time was changed.
const KeepGrace = 24 * time.Hour

// Resting reports whether nothing is deleted yet, since the time was changed just now.
func (k Retention) Resting(now time.Time) bool {
	return k.Since != nil && now.Before(k.Since.Add(KeepGrace))
}

// LongestRetention is the most days that can be set.
const LongestRetention = 36500

// Retention is how long the form's responses are kept.
func (in InForm) Retention(ctx context.Context) (Retention, error) {
	var k Retention
	return k, plain(in.store.db.WithContext(ctx).Table("forms").Select("coalesce(keep_days, 0) as keep_days, keep_from, keep_told, keep_since").
		Where("id = ? and workspace_id = ?", in.form, in.workspace).Take(&k).Error)
}

// SetRetention sets how long they are, as of now.
func (in InForm) SetRetention(ctx context.Context, k Retention, now time.Time) error {
	return in.store.db.WithContext(ctx).Exec(`update forms set keep_since = case when coalesce(keep_days, 0) = @days and keep_from = @from then keep_since else @now end,
		keep_days = nullif(@days, 0), keep_from = @from, keep_told = @told where id = @form and workspace_id = @workspace`,
		sql.Named("days", k.Days), sql.Named("from", k.From), sql.Named("told", k.Told), sql.Named("now", now),
		sql.Named("form", in.form), sql.Named("workspace", in.workspace)).Error
}

// FormsWithRetention are the forms whose responses are kept for a time, with their drafts.
func (s *Store) FormsWithRetention(ctx context.Context) ([]Form, error) {
	var out []Form
	return out, s.db.WithContext(ctx).Where("keep_days is not null").Order("id").Find(&out).Error
}

// Overdue are responses whose time is over on a day, the oldest first. Keys are those of
// the date that it is counted from, the one of now first; none for the receipt, which
// counts too where no date was answered.
func (in InForm) Overdue(ctx context.Context, keys []string, last time.Time, limit int) ([]Response, error) {
	var out []Response
	q := in.store.db.WithContext(ctx).Scopes(in.ofForm, overdue(keys, last))
	return out, q.Order("received_at, id").Limit(limit).Find(&out).Error
}

// CountOverdue is how many responses Overdue would find without a limit.
func (in InForm) CountOverdue(ctx context.Context, keys []string, last time.Time) (n int64, err error) {
	return n, in.store.db.WithContext(ctx).Model(&Response{}).Scopes(in.ofForm, overdue(keys, last)).Count(&n).Error
}

// overdue narrows responses to those whose time is over on a day.
func overdue(keys []string, last time.Time) func(*gorm.DB) *gorm.DB {
	return func(q *gorm.DB) *gorm.DB {
		if len(keys) == 0 {
			return q.Where("received_at < ?", last)
		}
		dates := []string{}
		var args []any
		for _, key := range keys {
			dates = append(dates, "case when answers->>? ~ '^\\d{4}-\\d\\d-\\d\\d$' then answers->>? end")
			args = append(args, key, key)
		}
		date := "coalesce(" + strings.Join(dates, ", ") + ")"
		return q.Where("case when "+date+" is null then received_at < ? else "+date+" < ? end",
			append(append(append([]any{}, args...), last), append(args, last.Format(time.DateOnly))...)...)
	}
}

// PersonFound is what a workspace holds about a person, as found by their e-mail address or
// telephone number.
type PersonFound struct {
	Responses  []ResponseOfForm
	Fillings   []FillingLeft // that were begun and left, and not sent
	Letters    []LetterOf    // to them; what was written about a response to others goes with it
	Rehearsals []Mention
	// What is not erased with a person, since it is the workspace's own.
	Lists, Forms, Views, Links, Members []Mention
}

// Any reports whether something was found.
func (p PersonFound) Any() bool {
	return len(p.Responses)+len(p.Fillings)+len(p.Letters)+len(p.Rehearsals) > 0
}

// Own reports whether something was found that is the workspace's own.
func (p PersonFound) Own() bool {
	return len(p.Lists)+len(p.Forms)+len(p.Views)+len(p.Links)+len(p.Members) > 0
}

// ResponseOfForm is a response with the title of its form.
type ResponseOfForm struct {
	Response
	Title string
}

// FillingLeft is a filling that somebody left to go on with later.
type FillingLeft struct {
	ID     string
	FormID FormID
	Title  string
	MadeAt time.Time
	Fields string // as it was left, JSON
}

// Mention is a place where a person is mentioned.
type Mention struct {
	ID     int64
	FormID FormID
	Name   string
}

// MostFound bounds how much of a kind is found at once.
const MostFound = 500

// Person finds what the workspace holds about a person, by a pattern
// of PostgreSQL that what they are called by matches. It
// looks through everything, which takes a while where there is much.
func (in InWorkspace) Person(ctx context.Context, pattern string) (PersonFound, error) {
	var p PersonFound
	ctx, leave, err := in.takeTurn(ctx)
	if err != nil {
		return p, err
	}
	defer leave()
	db := in.store.db.WithContext(ctx) // not of a replica: what came just now counts
	ofForms := "(select id from forms where workspace_id = @ws)"
	find := func(into any, sql string) error {
		return db.Raw(sql+" limit @most",
			map[string]any{"ws": in.workspace, "p": pattern, "most": MostFound}).Scan(into).Error
	}
	for _, one := range []struct {
		into any
		sql  string
	}{
		{&p.Responses, `select r.*, f.title from responses r join forms f on f.id = r.form_id where r.workspace_id = @ws and (r.answers::text ~* @p
			or r.parameters::text ~* @p or exists (select 1 from response_versions v where v.response_id = r.id and v.answers::text ~* @p)
			or exists (select 1 from uploads u where u.response_id = r.id and u.name ~* @p)) order by r.received_at desc, r.id`},
		{&p.Fillings, `select w.id::text, w.form_id, f.title, w.made_at, w.fields::text as fields from returns w join forms f on f.id = w.form_id
			where f.workspace_id = @ws and w.response_id is null and (w.fields::text ~* @p or w.ticket ~* @p) order by w.id`},
		{&p.Letters, `select outbox.*, coalesce(f.title, '') as title, coalesce(f.draft->>'timezone', 'UTC') as zone from outbox
			left join forms f on f.id = outbox.form_id where outbox.workspace_id = @ws and (recipient ~* @p
			or response_id is null and (subject ~* @p or body ~* @p or answer ~* @p)) order by outbox.id desc`},
		{&p.Rehearsals, `select id, form_id, name from rehearsals where form_id in ` + ofForms +
			` and (filling::text ~* @p or expected::text ~* @p) order by id`},
		{&p.Lists, `select l.id, l.name from lists l where l.workspace_id = @ws and exists (select 1 from list_versions v
			where v.list_id = l.id and v.entries::text ~* @p) order by l.id`},
		{&p.Forms, `select id, id as form_id, title as name from forms f where workspace_id = @ws and (draft::text ~* @p
			or exists (select 1 from editions e where e.form_id = f.id and e.definition::text ~* @p)) order by id`},
		{&p.Views, `select id, form_id, name from views where form_id in ` + ofForms +
			` and definition::text ~* @p order by id`},
		{&p.Links, `select id, form_id, name from links where form_id in ` + ofForms +
			` and (name ~* @p or parameters::text ~* @p) order by id`},
		{&p.Members, `select id, name from members where workspace_id = @ws and email ~* @p
			union all select id, email from invitations where workspace_id = @ws and email ~* @p order by id`},
	} {
		if err := find(one.into, one.sql); err != nil {
			return p, err
		}
	}
	return p, nil
}

// Forget deletes what is held about a person beside responses: fillings that were left,
// letters and kept rehearsals.
func (in InWorkspace) Forget(ctx context.Context, p PersonFound) error {
	return in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		ofForms := " and form_id in (select id from forms where workspace_id = ?)"
		var letters []LetterID
		for _, l := range p.Letters {
			letters = append(letters, l.ID)
		}
		var fillings []string
		for _, f := range p.Fillings {
			fillings = append(fillings, f.ID)
		}
		var rehearsals []int64
		for _, m := range p.Rehearsals {
			rehearsals = append(rehearsals, m.ID)
		}
		for _, one := range []struct {
			sql string
			ids any
			n   int
		}{
			{"delete from uploads where response_id is null and filling in (select filling from returns where id in ?" +
				ofForms + ")", fillings, len(fillings)},
			{"delete from returns where id in ?" + ofForms, fillings, len(fillings)},
			{"delete from outbox where id in ? and workspace_id = ?", letters, len(letters)},
			{"delete from rehearsals where id in ?" + ofForms, rehearsals, len(rehearsals)},
		} {
			if one.n == 0 {
				continue
			}
			if err := tx.Exec(one.sql, one.ids, in.workspace).Error; err != nil {
				return err
			}
		}
		return nil
	})
}
