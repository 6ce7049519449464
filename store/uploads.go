package store

import (
	"context"
	"errors"
	"io"
	"time"

	"github.com/jackc/pgx/v5"
)

// Upload is a file that a respondent sent for a question.
type Upload struct {
	ID         string `gorm:"default:gen_random_uuid()"`
	FormID     int64
	Filling    string // the filling of the form that it belongs to
	Item       string // the key of the question
	Name       string // as it was called where it came from
	MediaType  string // by its content
	Size       int64  // bytes
	ResponseID *string
	MadeAt     time.Time
}

// pieceSize is how much of a file is in memory at a time.
const pieceSize = 256 << 10

// ErrTooLarge is returned for a file over its limit; nothing of it is kept.
var ErrTooLarge = errors.New("the file is too large")

// AddUpload streams a file into the database, in pieces, within one transaction.
// Beyond limit bytes it is ErrTooLarge. An empty file is ErrNotFound.
func (s *Store) AddUpload(ctx context.Context, u Upload, content io.Reader, limit int64) (Upload, error) {
	tx, err := s.pool.Begin(ctx)
	if err != nil {
		return u, err
	}
	defer tx.Rollback(context.WithoutCancel(ctx)) //nolint:errcheck // without effect after the commit
	err = tx.QueryRow(ctx, `insert into uploads (form_id, filling, item, name, media_type) values ($1, $2, $3, $4, $5) returning id::text`,
		u.FormID, u.Filling, u.Item, u.Name, u.MediaType).Scan(&u.ID)
	if err != nil {
		return u, err
	}
	piece := make([]byte, pieceSize)
	u.Size = 0
	for number := 0; ; number++ {
		n, err := io.ReadFull(content, piece)
		if u.Size += int64(n); u.Size > limit {
			return u, ErrTooLarge
		}
		if n > 0 {
			if _, err := tx.Exec(ctx, "insert into upload_pieces (upload_id, number, data) values ($1, $2, $3)", u.ID, number, piece[:n]); err != nil {
				return u, err
			}
		}
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			break
		}
		if err != nil {
			return u, err
		}
	}
	if u.Size == 0 {
		return u, ErrNotFound
	}
	// What the same question had in this filling before gives way.
	_, err = tx.Exec(ctx, "delete from uploads where form_id = $1 and filling = $2 and item = $3 and id <> $4 and response_id is null", u.FormID, u.Filling, u.Item, u.ID)
	if err != nil {
		return u, err
	}
	if _, err := tx.Exec(ctx, "update uploads set size = $1 where id = $2", u.Size, u.ID); err != nil {
		return u, err
	}
	return u, tx.Commit(ctx)
}

// UploadsOf lists the files of a filling, by their ids.
func (s *Store) UploadsOf(ctx context.Context, formID int64, filling string) (map[string]Upload, error) {
	var list []Upload
	err := s.db.WithContext(ctx).Where("form_id = ? and filling = ?", formID, filling).Find(&list).Error
	out := make(map[string]Upload, len(list))
	for _, u := range list {
		out[u.ID] = u
	}
	return out, err
}

// UploadOfResponse finds a file of a response.
func (s *Store) UploadOfResponse(ctx context.Context, formID int64, responseID, id string) (Upload, error) {
	var u Upload
	return u, plain(s.db.WithContext(ctx).Where("form_id = ? and response_id::text = ? and id::text = ?", formID, responseID, id).First(&u).Error)
}

// ReadUpload streams a file out, piece by piece.
func (s *Store) ReadUpload(ctx context.Context, id string, out io.Writer) error {
	for number := 0; ; number++ {
		var data []byte
		err := s.pool.QueryRow(ctx, "select data from upload_pieces where upload_id = $1 and number = $2", id, number).Scan(&data)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil
		}
		if err != nil {
			return err
		}
		if _, err := out.Write(data); err != nil {
			return err
		}
	}
}

// Sweep deletes what nobody will come back for: files of fillings that were never
// sent, private addresses that have expired, and counts of minutes long past.
func (s *Store) Sweep(ctx context.Context, unsent time.Duration) error {
	for _, q := range []struct {
		sql  string
		args []any
	}{
		{"delete from uploads where response_id is null and made_at < now() - $1::interval", []any{unsent.String()}},
		{"delete from returns where expires_at < now()", nil},
		{"delete from public_counts where minute < now() - interval '1 day'", nil},
	} {
		if _, err := s.pool.Exec(ctx, q.sql, q.args...); err != nil {
			return err
		}
	}
	return nil
}
