package store

import (
	"bytes"
	"context"
	"errors"
	"io"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
)

// Upload is a file that a respondent sent for a question.
type Upload struct {
	ID         string `gorm:"default:gen_random_uuid()"`
	FormID     FormID
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

// AddUpload streams a file into the database, in pieces. No connection is held while
// content is read, which may be slow: each piece is stored by itself, and only the
// last statement makes a file of them. Beyond limit bytes it is ErrTooLarge. An empty
// file is ErrNotFound.
func (s *Store) AddUpload(ctx context.Context, u Upload, content io.Reader, limit int64) (Upload, error) {
	piece := make([]byte, pieceSize)
	n, end := readPiece(content, piece)
	if n == 0 {
		if errors.Is(end, io.EOF) {
			end = ErrNotFound
		}
		return u, end
	}
	err := s.pool.QueryRow(ctx,
		`insert into uploads (form_id, filling, item, name, media_type) values ($1, $2, $3, $4, $5) returning id::text`,
		u.FormID, u.Filling, u.Item, u.Name, u.MediaType).
		Scan(&u.ID)
	if err != nil {
		return u, err
	}
	if err = s.addPieces(ctx, &u, content, piece, n, end, limit); err != nil {
		s.dropUpload(ctx, u.ID)
	}
	return u, err
}

// AddUploadOnce is AddUpload for a small file, which is stored only if its question has
// none like it in this filling yet.
func (s *Store) AddUploadOnce(ctx context.Context, u Upload, content []byte) (Upload, error) {
	err := s.pool.QueryRow(ctx, `select id::text, size from uploads where form_id = $1 and filling = $2 and item = $3 and name = $4 and media_type = $5 and size = $6
		and (select string_agg(data, '' order by number) from upload_pieces where upload_id = uploads.id) = $7`,
		u.FormID, u.Filling, u.Item, u.Name, u.MediaType, len(content), content).
		Scan(&u.ID, &u.Size)
	if errors.Is(err, pgx.ErrNoRows) {
		return s.AddUpload(ctx, u, bytes.NewReader(content), int64(len(content)))
	}
	return u, err
}

// readPiece fills a piece as far as content goes. Unlike io.ReadFull it tells a file
// that ends within a piece from one that was cut off on its way.
func readPiece(content io.Reader, piece []byte) (n int, err error) {
	for n < len(piece) && err == nil {
		var more int
		more, err = content.Read(piece[n:])
		n += more
	}
	return n, err
}

// addPieces stores the pieces of a file, of which n bytes and then end were read.
func (s *Store) addPieces(
	ctx context.Context, u *Upload, content io.Reader, piece []byte, n int, end error, limit int64,
) error {
	u.Size = 0
	for number := 0; n > 0; number++ {
		if u.Size += int64(n); u.Size > limit {
			return ErrTooLarge
		}
		if _, err := s.pool.Exec(ctx, "insert into upload_pieces (upload_id, number, data) values ($1, $2, $3)", u.ID, number,
			piece[:n]); err != nil {
			return err
		}
		if end != nil {
			break
		}
		n, end = readPiece(content, piece)
	}
	if !errors.Is(end, io.EOF) {
		return end
	}
	// What the same question had in this filling before gives way.
	_, err := s.pool.Exec(ctx, `with whole as (update uploads set size = $1 where id = $2)
		delete from uploads where form_id = $3 and filling = $4 and item = $5 and id <> $2 and size > 0 and response_id is null`, u.Size, u.ID, u.FormID, u.Filling, u.Item)
	return err
}

// dropUpload takes back what there is of a file that did not come to its end. If even
// that fails, Sweep does it.
func (s *Store) dropUpload(ctx context.Context, id string) {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
	defer cancel()
	if _, err := s.pool.Exec(ctx, "delete from uploads where id = $1", id); err != nil {
		slog.WarnContext(ctx, "part of a file is left to be swept", "err", err)
	}
}

// UploadsOf lists the files of a filling, by their ids.
func (in InForm) UploadsOf(ctx context.Context, filling string) (map[string]Upload, error) {
	var list []Upload
	err := in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("filling = ? and size > 0", filling).Find(&list).Error
	out := make(map[string]Upload, len(list))
	for _, u := range list {
		out[u.ID] = u
	}
	return out, err
}

// UploadedIn is how many files a filling has, sent or not, and their bytes.
func (in InForm) UploadedIn(ctx context.Context, filling string) (files int, bytes int64, err error) {
	err = in.store.pool.QueryRow(ctx, `select count(*), coalesce(sum(size), 0)::bigint from uploads
		where form_id = (select id from forms where workspace_id = $1 and id = $2) and filling = $3`, in.workspace, in.form, filling).
		Scan(&files, &bytes)
	return files, bytes, err
}

// FileBytes is how many bytes of files a form has, and all forms of the installation together.
func (in InForm) FileBytes(ctx context.Context) (form, all int64, err error) {
	err = in.store.pool.QueryRow(ctx, `select coalesce(sum(bytes) filter (where form_id = (select id from forms where workspace_id = $1 and id = $2)), 0)::bigint,
		coalesce(sum(bytes), 0)::bigint from file_tallies`, in.workspace, in.form).
		Scan(&form, &all)
	return form, all, err
}

// UploadOfResponse finds a file of a response.
func (in InForm) UploadOfResponse(ctx context.Context, responseID, id string) (Upload, error) {
	var u Upload
	return u, plain(
		in.store.db.WithContext(ctx).Scopes(in.ofForm).Where("response_id = ? and id = ?", uuid(responseID),
			uuid(id)).First(&u).Error,
	)
}

// ReadUpload streams a file out, piece by piece; no connection is held meanwhile.
func (s *Store) ReadUpload(ctx context.Context, id string, out io.Writer) error {
	return s.readPieces(ctx, "select data from upload_pieces where upload_id = $1 and number = $2", id, out)
}

// readPieces writes the pieces that a statement finds by an id and a number from 0.
func (s *Store) readPieces(ctx context.Context, query, id string, out io.Writer) error {
	for number := 0; ; number++ {
		var data []byte
		err := s.pool.QueryRow(ctx, query, id, number).Scan(&data)
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
// sent or came only in part, private addresses and sessions that have expired, who had a
// draft open, counts of times long past, fillings that no page can be of any more, and
// pictures that no form shows.
func (s *Store) Sweep(ctx context.Context, unsent time.Duration) error {
	for _, q := range []struct {
		sql  string
		args []any
	}{
		{"delete from uploads where response_id is null and made_at < now() - $1::interval", []any{unsent.String()}},
		{"delete from uploads where size = 0 and made_at < now() - interval '1 day'", nil},
		{"delete from returns where expires_at < now()", nil},
		{"delete from public_counts where minute < now() - case when key like 'long %' then interval '15 days' else interval '2 hours' end", nil},
		{"delete from sessions where expiry < now()", nil},
		{"delete from list_proposals where made_at < now() - interval '1 day'", nil},
		{"delete from ended_sessions where ended_at < now() - interval '15 days'", nil},
		{"delete from bulk_changes where made_at < now() - interval '30 days'", nil},
		{"delete from intakes where taken_at is null and made_at < now() - interval '1 day'", nil},
		{"delete from exports where began_at < now() - interval '" + exportsKept + "'", nil},
		{`delete from outbox o using workspaces w where w.id = o.workspace_id and o.ended_at < now() - make_interval(days => w.emails_days)`, nil},
		{staleDays, nil},
		{"delete from presences where seen_at < now() - interval '1 day'", nil},
		{"delete from erased_fillings where erased_at < now() - interval '400 days'", nil}, {lookForPictures, nil},
		{unshownPictures, nil},
	} {
		if _, err := s.pool.Exec(ctx, q.sql, q.args...); err != nil {
			return err
		}
	}
	if err := s.sweepSignIns(ctx); err != nil {
		return err
	}
	if err := s.nameFillings(ctx); err != nil {
		return err
	}
	if err := s.sweepTrail(ctx); err != nil {
		return err
	}
	return s.sweepUnconfirmed(ctx)
}
