package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"lazo/core/form"
)

// List is a reference table of the workspace; Version is its newest.
type List struct {
	ID          ListID
	WorkspaceID WorkspaceID
	Key         string // in forms; it stays
	Name        string
	Version     int
	UpdatedAt   time.Time
}

// ListSummary is a line of the list of lists.
type ListSummary struct {
	List
	Size    int    // entries
	Columns []byte // JSON
}

// Head is its columns.
func (l ListSummary) Head() (out []form.Column, err error) {
	return out, json.Unmarshal(l.Columns, &out)
}

// tableParts are a table as it is stored.
type tableParts struct {
	Columns JSON `gorm:"type:jsonb"`
	Entries JSON `gorm:"type:jsonb"`
}

func partsOf(t form.Table) (p tableParts, err error) {
	if t.Entries == nil {
		t.Entries = []form.Entry{}
	}
	if p.Columns, err = json.Marshal(t.Columns); err == nil {
		p.Entries, err = json.Marshal(t.Entries)
	}
	return p, err
}

// Table reads it.
func (p tableParts) Table() (form.Table, error) {
	var t form.Table
	if err := json.Unmarshal(p.Columns, &t.Columns); err != nil {
		return t, err
	}
	return t, json.Unmarshal(p.Entries, &t.Entries)
}

// ListVersion is a state of a list.
type ListVersion struct {
	Number int
	Size   int
	Says   string // what was done, in words
	MadeBy string // the member's name, "" for one who has left
	MadeAt time.Time
}

// ErrTaken is for a key that something else has.
var ErrTaken = errors.New("the key is taken")

// MostListVersions is how many states of a list are kept.
const MostListVersions = 100

// Lists are the lists of a workspace by name.
func (in InWorkspace) Lists(ctx context.Context) ([]ListSummary, error) {
	var out []ListSummary
	return out, in.store.db.WithContext(ctx).Raw(`select l.*, v.size, v.columns from lists l
		join list_versions v on v.list_id = l.id and v.number = l.version
		where l.workspace_id = ? order by lower(l.name), l.id`, in.workspace).Scan(&out).Error
}

// List finds a list of the workspace.
func (in InWorkspace) List(ctx context.Context, id ListID) (List, error) {
	var l List
	return l, plain(in.store.db.WithContext(ctx).Scopes(in.ofWorkspace).Where("id = ?", id).First(&l).Error)
}

// ListState names a list's newest version.
type ListState struct {
	ID      ListID
	Key     string
	Version int
}

// ListTable is what a list holds as one of its versions.
func (in InWorkspace) ListTable(ctx context.Context, id ListID, version int) (form.Table, error) {
	var p tableParts
	err := in.store.db.WithContext(ctx).Raw(`select v.columns, v.entries from list_versions v join lists l on l.id = v.list_id
		where l.workspace_id = ? and l.id = ? and v.number = ?`, in.workspace, id, version).Scan(&p).Error
	if err != nil {
		return form.Table{}, err
	}
	if p.Columns == nil {
		return form.Table{}, ErrNotFound
	}
	return p.Table()
}

// ListVersions are the states that a list was in, the newest first.
func (in InWorkspace) ListVersions(ctx context.Context, id ListID) ([]ListVersion, error) {
	var out []ListVersion
	return out, in.store.db.WithContext(ctx).Raw(`select v.number, v.size, v.says, v.made_at, coalesce(m.name, '') as made_by
		from list_versions v join lists l on l.id = v.list_id left join members m on m.id = v.made_by
		where l.workspace_id = ? and l.id = ? order by v.number desc`, in.workspace, id).Scan(&out).Error
}

// AddList makes a list; ErrTaken if there is one with its key.
func (in InWorkspace) AddList(
	ctx context.Context, key, name string, t form.Table, by MemberID, says string,
) (List, error) {
	l := List{WorkspaceID: in.workspace, Key: key, Name: name, Version: 1, UpdatedAt: time.Now()}
	err := in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Create(&l).Error; err != nil {
			return err
		}
		return addVersion(tx, l, t, by, says)
	})
	return l, taken(plain(err))
}

func addVersion(tx *gorm.DB, l List, t form.Table, by MemberID, says string) error {
	p, err := partsOf(t)
	if err != nil {
		return err
	}
	err = tx.Exec("insert into list_versions (list_id, number, columns, entries, says, made_by) values (?, ?, ?, ?, ?, nullif(?, 0))",
		l.ID, l.Version, p.Columns, p.Entries, says, by).Error
	if err != nil {
		return err
	}
	return tx.Exec("delete from list_versions where list_id = ? and number <= ?", l.ID, l.Version-MostListVersions).Error
}

// locked finds a list that stays as it is until the transaction ends; ErrConflict if it
// is at another version than base.
func (in InWorkspace) locked(tx *gorm.DB, id ListID, base int) (List, error) {
	var l List
	err := plain(tx.Clauses(clause.Locking{Strength: "UPDATE"}).Scopes(in.ofWorkspace).Where("id = ?", id).First(&l).Error)
	if err == nil && l.Version != base {
		err = ErrConflict
	}
	return l, err
}

// SaveList makes what a list holds its next version. It is ErrConflict if base is not
// the newest.
func (in InWorkspace) SaveList(
	ctx context.Context, id ListID, base int, t form.Table, by MemberID, says string,
) (List, error) {
	var l List
	return l, in.store.db.WithContext(ctx).Transaction(func(tx *gorm.DB) (err error) {
		if l, err = in.locked(tx, id, base); err != nil {
			return err
		}
		l.Version, l.UpdatedAt = l.Version+1, time.Now()
		if err := tx.Save(&l).Error; err != nil {
			return err
		}
		return addVersion(tx, l, t, by, says)
	})
}

// RenameList gives a list another name.
func (in InWorkspace) RenameList(ctx context.Context, id ListID, name string) error {
	return in.store.db.WithContext(ctx).Exec("update lists set name = ? where workspace_id = ? and id = ?", name,
		in.workspace, id).Error
}

// DeleteList deletes a list with its versions.
func (in InWorkspace) DeleteList(ctx context.Context, id ListID) error {
	return in.store.db.WithContext(ctx).Exec("delete from lists where workspace_id = ? and id = ?", in.workspace, id).Error
}

// ListProposal is what was read for a list, until it is taken.
type ListProposal struct {
	ID   string
	Base int // the version that it was compared with
	Says string
	// What it would hold.
	Columns []byte
	Entries []byte
}

// Table is what the list would hold.
func (p ListProposal) Table() (form.Table, error) { return tableParts{p.Columns, p.Entries}.Table() }

// Propose keeps what was read for a list.
func (in InWorkspace) Propose(
	ctx context.Context, id ListID, base int, t form.Table, says string,
) (proposal string, err error) {
	p, err := partsOf(t)
	if err != nil {
		return "", err
	}
	return proposal, in.store.db.WithContext(ctx).Raw(`insert into list_proposals (list_id, base, columns, entries, says)
		select id, ?, ?, ?, ? from lists where workspace_id = ? and id = ? returning id`,
		base, p.Columns, p.Entries, says, in.workspace, id).Scan(&proposal).Error
}

// Proposal finds what was read for a list.
func (in InWorkspace) Proposal(ctx context.Context, id ListID, proposal string) (ListProposal, error) {
	var p ListProposal
	err := in.store.db.WithContext(ctx).Raw(`select p.id, p.base, p.says, p.columns, p.entries from list_proposals p
		join lists l on l.id = p.list_id where l.workspace_id = ? and l.id = ? and p.id = ?`, in.workspace, id, uuid(proposal)).Scan(&p).Error
	if err == nil && p.ID == "" {
		err = ErrNotFound
	}
	return p, err
}

// ListUse is a form that uses a list.
type ListUse struct {
	FormID FormID
	Title  string
	Draft  bool // its draft does
	Live   bool // its live edition does
	Past   bool // only editions that are not live any more do
}

// UsesOf are the forms of the workspace that use a list, by title.
func (in InWorkspace) UsesOf(ctx context.Context, key string) ([]ListUse, error) {
	path := fmt.Sprintf(`strict $.lists.*.shared ? (@ == %s)`, quoted(key))
	var out []ListUse
	return out, in.store.db.WithContext(ctx).Raw(`select * from (
		select f.id as form_id, f.title, jsonb_path_exists(f.draft, @path, '{}', true) as draft,
			exists (select 1 from editions e where e.form_id = f.id and e.number = f.live_edition
				and jsonb_path_exists(e.definition, @path, '{}', true)) as live,
			exists (select 1 from editions e where e.form_id = f.id and jsonb_path_exists(e.definition, @path, '{}', true)) as past
		from forms f where f.workspace_id = @workspace) u where draft or live or past order by title, form_id`,
		map[string]any{"path": path, "workspace": in.workspace}).Scan(&out).Error
}

// quoted is a text as a path of JSON has it.
func quoted(s string) string {
	data, err := json.Marshal(s)
	if err != nil {
		return `""`
	}
	return string(data)
}

// Holding counts the responses of a form that hold one of codes at a path of their
// answers, up to a thousand. Path is a question's key, or a section's and a question's.
func (in InForm) Holding(ctx context.Context, path []string, codes []string) (int, error) {
	at := "lax $"
	for _, key := range path {
		at += "." + quoted(key)
	}
	var n int
	err := in.store.pool.QueryRow(ctx, `select count(*) from (select 1 from responses
		where form_id = $1 and workspace_id = $2 and jsonb_path_query_array(answers, ($3::text || '[*]')::jsonpath) ?| $4 limit 1000) r`,
		in.form, in.workspace, at, codes).Scan(&n)
	return n, err
}
