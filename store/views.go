package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/view"
)

// SavedView is a view that is kept under a name.
type SavedView struct {
	ID          ViewID
	WorkspaceID WorkspaceID
	FormID      FormID
	OwnerID     *MemberID // nil for one that all see
	Name        string
	Definition  view.View `gorm:"type:jsonb;serializer:json"`
	MadeAt      time.Time
}

// TableName keeps gorm from guessing.
func (SavedView) TableName() string { return "views" }

// MaxViews is how many views of one form are kept.
const MaxViews = 60

// Views lists the views of a form that a member sees, by name: those of all and the
// member's own.
func (in InForm) Views(ctx context.Context, member MemberID) ([]SavedView, error) {
	var out []SavedView
	return out, in.store.db.WithContext(ctx).Scopes(in.ofForm, seenBy(member)).Order("lower(name), id").Find(&out).Error
}

// View finds a view that a member sees.
func (in InForm) View(ctx context.Context, member MemberID, id ViewID) (SavedView, error) {
	var v SavedView
	return v, plain(in.store.db.WithContext(ctx).Scopes(in.ofForm, seenBy(member)).Where("id = ?", id).First(&v).Error)
}

// seenBy binds a query of views to those that a member sees.
func seenBy(member MemberID) func(*gorm.DB) *gorm.DB {
	return func(db *gorm.DB) *gorm.DB { return db.Where("owner_id is null or owner_id = ?", member) }
}

// SaveView keeps a view; with an ID it replaces that one. ErrTaken is for a name that
// another has, ErrTooOften for more than [MaxViews].
func (in InForm) SaveView(ctx context.Context, v SavedView) (SavedView, error) {
	v.WorkspaceID, v.FormID, v.MadeAt = in.workspace, in.form, time.Now()
	db := in.store.db.WithContext(ctx)
	if v.ID != 0 {
		done := db.Model(&SavedView{}).Scopes(in.ofForm).Where("id = ?", v.ID).Select("name", "definition",
			"owner_id").Updates(&v)
		if done.Error == nil && done.RowsAffected == 0 {
			return v, ErrNotFound
		}
		return v, taken(plain(done.Error))
	}
	var n int64
	if err := db.Model(&SavedView{}).Scopes(in.ofForm).Count(&n).Error; err != nil {
		return v, err
	}
	if n >= MaxViews {
		return v, ErrTooOften
	}
	return v, taken(plain(db.Create(&v).Error))
}

// taken says of a conflict that a name is taken.
func taken(err error) error {
	if errors.Is(err, ErrConflict) {
		return ErrTaken
	}
	return err
}

// DeleteView forgets a view that a member sees; its responses stay.
func (in InForm) DeleteView(ctx context.Context, member MemberID, id ViewID) error {
	return in.store.db.WithContext(ctx).Scopes(in.ofForm, seenBy(member)).Where("id = ?", id).Delete(&SavedView{}).Error
}

// Earlier are the keys that the form's questions and sections had before they were
// renamed, by the key that they have now, the newest first; the edits know. A key that
// something else has now is nobody's earlier one.
func (in InForm) Earlier(ctx context.Context, def *form.Form) (map[string][]string, error) {
	var renames []struct{ Before, After string }
	err := in.store.db.WithContext(ctx).Raw(`select edit->>'key' as before, edit->>'to' as after from edits
		where form_id = (select id from forms where id = ? and workspace_id = ?) and edit->>'op' = ? and not undone order by number desc`,
		in.form, in.workspace, form.RenameKey).Scan(&renames).Error
	keys := def.Keys()
	now := map[string]string{} // by an earlier key
	out := map[string][]string{}
	for _, r := range renames {
		to := r.After
		if later, ok := now[to]; ok {
			to = later
		}
		if !keys[to] || keys[r.Before] || slices.Contains(out[to], r.Before) {
			continue
		}
		now[r.Before] = to
		out[to] = append(out[to], r.Before)
	}
	return out, err
}

// Look asks for the responses that a view shows.
type Look struct {
	Lens *view.Lens
	When *view.Condition // nil for all
	Find string          // words that an answer must hold
	Sort string          // the key of a column, "" for when they were received
	Up   bool
	Now  time.Time
	Most int // of those that pieces are asked of, 0 for all

	day *time.Time // the day (UTC) on which they were received, nil for any
}

// Place is a place in the order of a view: behind the response with that ID, which has
// that value by which it is in order.
type Place struct {
	ID    string
	Value *string
}

// Page is a part of what a view shows.
type Page struct {
	Responses []Response
	First     Place // of the responses; "" for none
	Last      Place
	Before    bool // there are some before
	After     bool // there are some after
	Slow      bool // the core had to decide
	Unsure    bool // it stopped looking before the page was full; it can be gone on from Last
}

// Bounds of how long is looked for one page: the rows that the core decides on, and the
// time that the database has.
const (
	lookBatch   = 500
	lookAtMost  = 100_000
	lookTimeout = 8 * time.Second
)

// ErrTooSlow is for a look that took longer than anybody waits.
var ErrTooSlow = errors.New("it took too long to look")

// slow turns a statement's timeout into ErrTooSlow.
func slow(err error) error {
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == "57014" || errors.Is(err, context.DeadlineExceeded) {
		return ErrTooSlow
	}
	return err
}

// dataFault reports whether a statement met a value that it can't read.
func dataFault(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && strings.HasPrefix(pg.Code, "22")
}

// ordered is the expression that a look is in order by, and its type.
func (t *translator) ordered(sort string) (by, as string) {
	if sort != "" && sort != view.Received {
		if n, err := expr.Parse(sort); err == nil {
			if name, ok := n.(*expr.Name); ok && t.syms.Groups[name.Name] != nil {
				n = &expr.Call{Name: "count", Args: []expr.Node{name}}
			}
			asked := len(t.args)
			if x, err := t.scalar(n); err == nil {
				switch x.kind {
				case expr.Text, expr.Choice, expr.Date, expr.Time:
					return "(" + x.sql + `) collate "C"`, "text"
				case expr.Num:
					return x.sql, "numeric"
				case expr.Moment:
					return x.sql, "bigint"
				case expr.YesNo:
					return x.sql, "boolean"
				case expr.Choices:
					return "array_to_string(" + x.sql + `, ',') collate "C"`, "text"
				}
			}
			t.args = t.args[:asked] // what has no order is in that of its receipt, and asks for nothing
		}
	}
	return "received_at", "timestamptz"
}

// plainQuery leaves a condition to the core: for a response of which the database can't
// read something.
func (in InForm) plainQuery(l Look) query {
	q := in.query(Look{Lens: l.Lens, Find: l.Find, Up: l.Up, Now: l.Now, day: l.day})
	if l.When.NamesState() {
		q.from = strings.Replace(q.from, presentOnly, "", 1)
	}
	q.exact, q.plain = l.When == nil, true
	return q
}

// presentOnly leaves out what was withdrawn.
const presentOnly = " and withdrawn_at is null"

// query is a look as a statement.
type query struct {
	plain bool
	from  string // from … where …
	by    string // in order by
	as    string // and the type of that
	args  []any
	exact bool
}

func (in InForm) query(l Look) query {
	t := &translator{lens: l.Lens, syms: l.Lens.Syms, frame: &expr.Evaluation{Clock: l.Lens.Clock(l.Now)}}
	narrowed, args := narrow(l.When, l.Lens, l.Now, []any{in.workspace, in.form})
	t.args = args
	q := query{from: " from responses where form_id = (select id from forms where workspace_id = $1 and id = $2)",
		exact: narrowed.exact}
	if !l.When.NamesState() {
		q.from += presentOnly
	}
	if narrowed.sql != "" {
		q.from += " and " + narrowed.sql
	}
	if l.day != nil {
		q.from += " and received_at >= " + t.arg(*l.day,
			"timestamptz") + " and received_at < " + t.arg(l.day.AddDate(0, 0, 1), "timestamptz")
	}
	for _, word := range strings.Fields(expr.Searched(l.Find)) {
		q.from += " and " + t.found(word)
	}
	q.by, q.as = t.ordered(l.Sort)
	q.args = t.args
	return q
}

// isPlain reports whether a word stands in JSON as it is, in letters of ASCII.
func isPlain(word string) bool {
	return strings.IndexFunc(word, func(r rune) bool { return r < ' ' || r > '~' || r == '"' || r == '\\' }) < 0
}

var aReference = regexp.MustCompile(`^[0-9a-f]{8}$`)

// found finds a word in the texts of a response, or the response by its reference.
func (t *translator) found(word string) string {
	says := t.says(word)
	if !aReference.MatchString(word) {
		return says
	}
	first, last := t.arg(word+"-0000-0000-0000-000000000000", "uuid"), t.arg(word+"-ffff-ffff-ffff-ffffffffffff", "uuid")
	return "(id between " + first + " and " + last + " or " + says + ")"
}

// says finds a word within the texts and numbers of a response.
func (t *translator) says(word string) string {
	quick := ""
	if isPlain(word) {
		quick = `(strpos(lower(answers::text collate "C"), ` + t.arg(word, "text") + `) > 0 or answers::text ~ '[^ -~]') and `
	}
	word = t.arg(word, "text")
	return quick + `exists (select from jsonb_path_query(answers, 'strict $.** ? (@.type() == "string" || @.type() == "number")') said
		where strpos(lazo_find(said#>>'{}'), ` + word + `) > 0)`
}

const responseColumns = ` id, workspace_id, form_id, edition, answers, parameters, received_at, changed_at, link_id, filling, language, labels, taken_by, withdrawn_at`

// Look gives a page of at most limit responses behind a place, or before it; of the first
// ones for no place, or, before none, of the last ones.
func (in InForm) Look(ctx context.Context, l Look, at Place, before bool, limit int) (Page, error) {
	ctx, leave, err := in.takeTurn(ctx)
	if err != nil {
		return Page{}, err
	}
	defer leave()
	ctx, cancel := context.WithTimeout(ctx, lookTimeout)
	defer cancel()
	q := in.query(l)
	var page Page
	for looked := 0; ; {
		batch := limit + 1
		if !q.exact {
			batch = lookBatch
		}
		rows, places, err := in.rowsAt(ctx, q, at, before != l.Up, before, batch)
		if dataFault(err) && at.Value != nil {
			return page, ErrNotFound // no such place
		}
		if dataFault(err) && !q.plain {
			q = in.plainQuery(l)
			continue
		}
		if err = slow(err); errors.Is(err, ErrTooSlow) && looked > 0 {
			page.Unsure, page.Last = true, at
			break
		}
		if err != nil {
			return page, err
		}
		page.Slow = !q.exact
		for i, r := range rows {
			at = places[i]
			if !q.exact {
				record, err := r.Record()
				if err != nil || l.When.Truth(record, l.Now) != expr.Met {
					continue
				}
			}
			if len(page.Responses) == limit {
				page.Responses = append(page.Responses, r)
				break
			}
			page.Responses = append(page.Responses, r)
			if page.First.ID == "" {
				page.First = at
			}
			page.Last = at
		}
		looked += len(rows)
		if len(page.Responses) > limit || len(rows) < batch || q.exact {
			break
		}
		if looked >= lookAtMost {
			page.Unsure, page.Last = true, at
			break
		}
	}
	more := len(page.Responses) > limit
	page.Responses = page.Responses[:min(len(page.Responses), limit)]
	if before {
		slices.Reverse(page.Responses)
		page.First, page.Last = page.Last, page.First
		page.Before, page.After = more, true
	} else {
		page.Before, page.After = false, more
	}
	return page, nil
}

// rowsAt are the responses behind a place in one direction, each with its own place.
func (in InForm) rowsAt(
	ctx context.Context, q query, at Place, up, before bool, limit int,
) ([]Response, []Place, error) {
	sql, args := "select"+responseColumns+", ("+q.by+")::text as place"+q.from, slices.Clone(q.args)
	less, order, nulls := "<", "desc", "last"
	if up {
		less, order = ">", "asc"
	}
	if before {
		nulls = "first"
	}
	if at.ID != "" {
		args = append(args, uuid(at.ID), at.Value)
		id, value := fmt.Sprintf("$%d", len(args)-1), fmt.Sprintf("$%d::text::%s", len(args), q.as)
		behind := fmt.Sprintf("(%s %s %s or %s = %s and id %s %s", q.by, less, value, q.by, value, less, id)
		switch {
		case at.Value == nil && !before:
			behind = fmt.Sprintf("(%s is null and id %s %s", q.by, less, id)
		case at.Value == nil:
			behind = fmt.Sprintf("(%s is not null or id %s %s", q.by, less, id)
		case q.by == "received_at":
			behind = fmt.Sprintf("((received_at, id) %s (%s, %s)", less, value, id)
		case !before:
			behind += " or " + q.by + " is null"
		}
		if at.Value == nil {
			args = args[:len(args)-1]
		}
		sql += " and " + behind + ")"
	}
	if q.by == "received_at" {
		sql += inOrder(q.by, order) + fmt.Sprintf(" limit %d", limit)
	} else {
		sql += fmt.Sprintf(" order by %s %s nulls %s, id %s limit %d", q.by, order, nulls, order, limit)
	}
	rows, err := in.store.pool.Query(ctx, sql, args...)
	if err != nil {
		return nil, nil, err
	}
	var places []Place
	out, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (Response, error) {
		var place *string
		r, err := scanned(row, &place)
		places = append(places, Place{r.ID, place})
		return r, err
	})
	return out, places, err
}

// scanned reads a response, and what stands behind its columns.
func scanned(row pgx.CollectableRow, more ...any) (Response, error) {
	var r Response
	err := row.Scan(append([]any{&r.ID, &r.WorkspaceID, &r.FormID, &r.Edition, &r.Answers, &r.Parameters, &r.ReceivedAt,
		&r.ChangedAt,
		&r.LinkID, &r.Filling, &r.Language, &r.Labels, &r.TakenBy, &r.WithdrawnAt}, more...)...)
	return r, err
}

// Record is a response as conditions see it.
func (r *Response) Record() (view.Record, error) {
	answers, err := engine.ParseAnswers(r.Answers)
	out := view.Record{Answers: answers, Parameters: r.Parameters, Received: r.ReceivedAt, Changed: r.ChangedAt,
		Edition:  r.Edition,
		Language: r.Language, By: view.ByRespondent, Withdrawn: r.WithdrawnAt != nil}
	if r.LinkID != nil {
		out.Link = int64(*r.LinkID)
	}
	if r.TakenBy != nil {
		out.By = view.ByOffice
	}
	return out, err
}

// Count is how many responses a view shows; all of the form's are counted as they come
// and go.
func (in InForm) Count(ctx context.Context, l Look) (int, error) {
	if l.When == nil && strings.TrimSpace(l.Find) == "" {
		return in.CountResponses(ctx)
	}
	ctx, leave, err := in.takeTurn(ctx)
	if err != nil {
		return 0, err
	}
	defer leave()
	ctx, cancel := context.WithTimeout(ctx, lookTimeout)
	defer cancel()
	n := 0
	l.Sort = "" // how many there are does not hang on their order
	q := in.query(l)
	if !q.exact {
		err := in.EachOf(ctx, l, func(Response) error { n++; return nil })
		return n, slow(err)
	}
	err = in.store.pool.QueryRow(ctx, "select count(*)"+q.from, q.args...).Scan(&n)
	if dataFault(err) {
		n = 0
		err = in.visit(ctx, in.store.pool, in.plainQuery(l), l, func(Response) error { n++; return nil })
	}
	return n, slow(err)
}

// CountResponses is how many responses the form has; they are tallied as they come and go.
func (in InForm) CountResponses(ctx context.Context) (int, error) {
	var n int
	return n, in.store.pool.QueryRow(ctx, `select coalesce(sum(responses), 0)::bigint from response_tallies
		where form_id = (select id from forms where workspace_id = $1 and id = $2)`, in.workspace, in.form).Scan(&n)
}

// EachOf visits what a view shows, in its order and as it is at one moment, without
// holding all of it in memory. A connection is held until it returns, so visit must not
// wait for anybody.
func (in InForm) EachOf(ctx context.Context, l Look, visit func(Response) error) error {
	ctx, leave, err := in.takeTurn(ctx)
	if err != nil {
		return err
	}
	defer leave()
	return in.eachOf(ctx, in.store.pool, l, visit)
}

type querier interface {
	Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error)
	QueryRow(ctx context.Context, sql string, args ...any) pgx.Row
}

func (in InForm) eachOf(ctx context.Context, db querier, l Look, visit func(Response) error) error {
	visited := false
	err := in.visit(ctx, db, in.query(l), l, func(r Response) error { visited = true; return visit(r) })
	if dataFault(err) && !visited {
		err = in.visit(ctx, db, in.plainQuery(l), l, visit)
	}
	return err
}

func (in InForm) visit(ctx context.Context, db querier, q query, l Look, visit func(Response) error) error {
	order := "desc"
	if l.Up {
		order = "asc"
	}
	sql := "select" + responseColumns + q.from + inOrder(q.by, order)
	rows, err := db.Query(ctx, sql, q.args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		r, err := scanned(rows)
		if err != nil {
			return err
		}
		if !q.exact {
			record, err := r.Record()
			if err != nil || l.When.Truth(record, l.Now) != expr.Met {
				continue
			}
		}
		if err := visit(r); err != nil {
			return err
		}
	}
	return rows.Err()
}

// eachOfPieces visits pieces of what a view shows, as JSON, nil for none, with the id, the
// edition, the parameters and the receipt of each response. A piece is a path of keys, and
// of the numbers of rows from 0; nil is always nothing. It is quicker than eachOf.
func (in InForm) eachOfPieces(
	ctx context.Context, db querier, l Look, pieces [][]any, visit func(r Response, parts [][]byte) error,
) error {
	q := in.query(l)
	if !q.exact {
		return in.visit(ctx, db, q, l, func(r Response) error {
			answers, err := engine.ParseAnswers(r.Answers)
			if err != nil {
				return err
			}
			parts, err := exchange.Cut(answers, pieces)
			if err != nil {
				return err
			}
			return visit(r, parts)
		})
	}
	// All as texts, so that what came over the line is read where it lies.
	sql, args := `select id::text, edition::text, parameters::text, (extract(epoch from received_at) * 1000000)::bigint::text,
		(jsonb_typeof(answers) = 'object')::text, link_id::text`, slices.Clone(q.args)
	for _, piece := range pieces {
		at := "answers"
		if piece == nil {
			at = "null::jsonb"
		}
		for _, step := range piece {
			if n, ok := step.(int); ok {
				at += fmt.Sprintf("->%d", n)
				continue
			}
			args = append(args, step)
			at += fmt.Sprintf("->$%d::text", len(args))
		}
		sql += ", (" + at + ")::text"
	}
	order := "desc"
	if l.Up {
		order = "asc"
	}
	sql += q.from + inOrder(q.by, order)
	if l.Most > 0 {
		sql += fmt.Sprintf(" limit %d", l.Most)
	}
	rows, err := db.Query(ctx, sql, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		raw := rows.RawValues()
		r, err := headOf(raw)
		if err != nil {
			return err
		}
		if err := visit(r, raw[headColumns:]); err != nil {
			return err
		}
	}
	return rows.Err()
}

// inOrder is how a look's statement orders; that of when responses were received is never
// null, so that its index gives the order.
func inOrder(by, order string) string {
	if by == "received_at" {
		return fmt.Sprintf(" order by received_at %s, id %s", order, order)
	}
	return fmt.Sprintf(" order by %s %s nulls last, id %s", by, order, order)
}

// headColumns are the columns before the pieces.
const headColumns = 6

// headOf reads what comes with the pieces of a response.
func headOf(raw [][]byte) (r Response, err error) {
	r.ID = string(raw[0])
	if string(raw[4]) != "true" {
		return r, errors.New("a stored response can't be read: its answers are no object")
	}
	if r.Edition, err = strconv.Atoi(string(raw[1])); err != nil {
		return r, err
	}
	if raw[5] != nil {
		id, err := strconv.ParseInt(string(raw[5]), 10, 64)
		if err != nil {
			return r, err
		}
		link := LinkID(id)
		r.LinkID = &link
	}
	micros, err := strconv.ParseInt(string(raw[3]), 10, 64)
	if r.ReceivedAt = time.UnixMicro(micros); err != nil {
		return r, err
	}
	if len(raw[2]) > len("null") {
		err = json.Unmarshal(raw[2], &r.Parameters)
	}
	return r, err
}

// EachOfPieces is Each for pieces of the answers alone, as JSON, nil for none.
func (s Snapshot) EachOfPieces(l Look, pieces [][]any, visit func(r Response, parts [][]byte) error) error {
	return s.in.eachOfPieces(s.ctx, s.tx, l, pieces, visit)
}

// Snapshot is the responses of a form as they are at one moment.
type Snapshot struct {
	ctx context.Context //nolint:containedctx // it lives for one read
	tx  pgx.Tx
	in  InForm
}

// AtOnce calls read with a form's responses as they are now, or were seconds ago; what arrives or is
// deleted meanwhile changes nothing in it. A connection is held until read returns,
// so it must not wait for anybody, nor ask for more than the snapshot gives.
func (in InForm) AtOnce(ctx context.Context, read func(Snapshot) error) error {
	ctx, leave, err := in.takeTurn(ctx)
	if err != nil {
		return err
	}
	defer leave()
	tx, err := in.store.lateTx(ctx)
	if err != nil {
		return err
	}
	defer tx.Rollback(context.WithoutCancel(ctx)) //nolint:errcheck // it only read
	return read(Snapshot{ctx, tx, in})
}

// Each visits what a view shows.
func (s Snapshot) Each(l Look, visit func(Response) error) error {
	return s.in.eachOf(s.ctx, s.tx, l, visit)
}

// Editions lists the editions that responses of the form belong to, the newest first.
func (s Snapshot) Editions() ([]Edition, error) {
	rows, err := s.tx.Query(s.ctx, `select number, definition from editions e where form_id = (select id from forms where workspace_id = $1 and id = $2)
		and exists (select from responses r where r.form_id = e.form_id and r.edition = e.number) order by number desc`, s.in.workspace, s.in.form)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(row pgx.CollectableRow) (e Edition, err error) {
		return e, row.Scan(&e.Number, &e.Definition)
	})
}

// MostRows is how many rows a repeating section has at most in any response.
func (s Snapshot) MostRows(section string) (int, error) {
	var n int
	return n, s.tx.QueryRow(s.ctx, `select coalesce(max(jsonb_array_length(answers->$3::text)), 0) from responses
		where form_id = (select id from forms where workspace_id = $1 and id = $2) and jsonb_typeof(answers->$3::text) = 'array'`,
		s.in.workspace, s.in.form, section).Scan(&n)
}

// Neighbours are the responses before and behind one in the order of a view; "" for none.
func (in InForm) Neighbours(ctx context.Context, l Look, id string) (before, after string, err error) {
	ctx, leave, err := in.takeTurn(ctx)
	if err != nil {
		return "", "", err
	}
	defer leave()
	q := in.query(l)
	place := Place{ID: id}
	sql := fmt.Sprintf("select (%s)::text%s and id = $%d", q.by, q.from, len(q.args)+1)
	err = in.store.pool.QueryRow(ctx, sql, append(q.args, uuid(id))...).Scan(&place.Value)
	if errors.Is(err, pgx.ErrNoRows) {
		return "", "", nil
	}
	if err != nil {
		return "", "", err
	}
	for _, back := range []bool{true, false} {
		page, err := in.Look(ctx, l, place, back, 1)
		if err != nil || len(page.Responses) == 0 {
			continue
		}
		if back {
			before = page.Responses[0].ID
		} else {
			after = page.Responses[0].ID
		}
	}
	return before, after, nil
}

// AnyWithdrawn reports whether a response of the form was withdrawn. The last one is asked
// for, so that its index is gone by even where nobody knows yet how few there are.
func (in InForm) AnyWithdrawn(ctx context.Context) (bool, error) {
	var last time.Time
	err := in.store.pool.QueryRow(ctx, `select withdrawn_at from responses
		where form_id = (select id from forms where workspace_id = $1 and id = $2) and withdrawn_at is not null
		order by withdrawn_at desc limit 1`, in.workspace, in.form).Scan(&last)
	if errors.Is(err, pgx.ErrNoRows) {
		return false, nil
	}
	return err == nil, err
}

// CountSince is how many responses the form received after a moment, up to a thousand.
func (in InForm) CountSince(ctx context.Context, since time.Time) (int, error) {
	var n int
	return n, in.store.pool.QueryRow(ctx, `select count(*) from (select from responses
		where form_id = (select id from forms where workspace_id = $1 and id = $2) and received_at > $3 and withdrawn_at is null
		limit 1000) r`,
		in.workspace, in.form, since).Scan(&n)
}
