package store

import (
	"context"
	"errors"
	"io"
	"time"

	"github.com/jackc/pgx/v5"
)

// Export is responses that are handed out in a file which takes long to make.
type Export struct {
	ID          string `gorm:"default:gen_random_uuid()"`
	WorkspaceID WorkspaceID
	FormID      FormID
	MemberID    MemberID // who asked for it, and alone has it
	Name        string   // of the file
	Format      string
	Responses   int // that there were to write
	Written     int // of these
	Size        int64
	BeganAt     time.Time
	SeenAt      time.Time // when it was last seen to go on
	DoneAt      *time.Time
	Failed      bool
}

// exportStopped is after how long an export that nobody sees go on is taken for broken off.
const exportStopped = time.Minute

// exportsKept is for how long an export is kept.
const exportsKept = "1 day"

// Stopped reports whether an export failed, or whoever made it is gone.
func (e *Export) Stopped(now time.Time) bool {
	return e.Failed || e.DoneAt == nil && now.Sub(e.SeenAt) > exportStopped
}

// MostExports is how many exports of a form a member has at once.
const MostExports = 5

// BeginExport notes that a file is being made; ErrTooOften for more than [MostExports].
func (in InForm) BeginExport(ctx context.Context, e Export) (Export, error) {
	e.WorkspaceID, e.FormID = in.workspace, in.form
	e.BeganAt = time.Now()
	e.SeenAt = e.BeganAt
	var n int64
	db := in.store.db.WithContext(ctx)
	if err := db.Model(&Export{}).Scopes(in.ofForm).Where("member_id = ?", e.MemberID).Count(&n).Error; err != nil {
		return e, err
	}
	if n >= MostExports {
		return e, ErrTooOften
	}
	return e, db.Create(&e).Error
}

// SeeExport says how far an export is; false if nobody wants it any more.
func (s *Store) SeeExport(ctx context.Context, id string, written int) (wanted bool, err error) {
	done, err := s.pool.Exec(ctx, "update exports set written = $2, seen_at = now() where id = $1", id, written)
	return err == nil && done.RowsAffected() == 1, err
}

// FinishExport keeps the file of an export.
func (s *Store) FinishExport(ctx context.Context, id string, written int, content io.Reader) error {
	piece := make([]byte, 1<<20)
	size := int64(0)
	for number := 0; ; number++ {
		n, err := io.ReadFull(content, piece)
		if n > 0 {
			size += int64(n)
			if _, err := s.pool.Exec(ctx, "insert into export_pieces (export_id, number, data) values ($1, $2, $3)", id, number,
				piece[:n]); err != nil {
				return err
			}
			if _, err := s.SeeExport(ctx, id, written); err != nil {
				return err
			}
		}
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			break
		}
		if err != nil {
			return err
		}
	}
	_, err := s.pool.Exec(ctx, "update exports set done_at = now(), written = $2, size = $3 where id = $1", id, written,
		size)
	return err
}

// FailExport notes that an export came to nothing.
func (s *Store) FailExport(ctx context.Context, id string) error {
	_, err := s.pool.Exec(ctx, "update exports set failed = true where id = $1", id)
	return err
}

// Exports are a member's of the form, the newest first.
func (in InForm) Exports(ctx context.Context, member MemberID) ([]Export, error) {
	var out []Export
	return out, in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("member_id = ?",
		member).Order("began_at desc").Find(&out).Error
}

// Export finds one of a member's.
func (in InForm) Export(ctx context.Context, member MemberID, id string) (Export, error) {
	var e Export
	return e, plain(in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("member_id = ? and id = ?", member,
		uuid(id)).First(&e).Error)
}

// ReadExport writes the file of an export out piece by piece; no connection is held
// meanwhile.
func (s *Store) ReadExport(ctx context.Context, id string, out io.Writer) error {
	return s.readPieces(ctx, "select data from export_pieces where export_id = $1 and number = $2", id, out)
}

// DropExport takes an export of a member's away; whoever makes it stops.
func (in InForm) DropExport(ctx context.Context, member MemberID, id string) error {
	return in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("member_id = ? and id = ?", member,
		uuid(id)).Delete(&Export{}).Error
}

// ResponseFile is a file of a response, as it is handed out among others.
type ResponseFile struct {
	ID, Response, Item, Name string
	Size                     int64
	Received                 time.Time
}

// FilesOf are the files of responses, in the order of their ids.
func (s Snapshot) FilesOf(responses []string) ([]ResponseFile, error) {
	rows, err := s.tx.Query(s.ctx, `select u.id::text, r.id::text, u.item, u.name, u.size, r.received_at from uploads u
		join responses r on r.id = u.response_id
		where r.form_id = (select id from forms where workspace_id = $1 and id = $2) and r.id = any($3) order by r.received_at, r.id, u.item, u.id`,
		s.in.workspace, s.in.form, uuids(responses))
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(row pgx.CollectableRow) (f ResponseFile, err error) {
		return f, row.Scan(&f.ID, &f.Response, &f.Item, &f.Name, &f.Size, &f.Received)
	})
}
