package respond

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/xml"
	"errors"
	"image/png"
	"io"
	"maps"
	"net/http"
	"net/url"
	"path"
	"strconv"
	"strings"
	"time"
	"unicode"

	"github.com/gabriel-vasile/mimetype"

	"lazo/core/form"
	"lazo/store"
	"lazo/web/fill/posted"
	"lazo/web/ui"
)

// Bounds of a drawn signature in bytes, and of a file's name in characters; those
// of a file are its question's.
const (
	maxDrawn = 256 << 10
	maxName  = 200
)

// Bounds of the files of one filling, and of what one visitor sends in an hour.
const (
	filesAFilling = 100
	bytesAFilling = 200 << 20
	bytesAnHour   = 500 << 20
)

var tooManyFiles = ui.Refusal{Status: http.StatusRequestEntityTooLarge, Title: "These are too many files",
	Text: "A form takes 100 files of 200 MB in all from each respondent. Please take some out, or send smaller ones."}

var tooMuchAnHour = ui.Refusal{Status: http.StatusTooManyRequests, Title: "Too much was sent from here",
	Text: "Files of more than 500 MB came from your connection within an hour. Please wait a little and go on then; your answers are still on the page before this one."}

// Quotas are how many bytes of files are kept; those under way when one is met may go
// a little beyond. 0 is no bound.
type Quotas struct{ Form, All int64 }

var formIsFull = ui.Refusal{Status: http.StatusInsufficientStorage, Title: "No more files can be taken",
	Text: "The files of this form take all the room that it has. Your answers are still on the page before this one; please tell whoever gave you its address."}

// room reports whether a filling, whoever fills it in, its form and the installation
// may have one more file.
func (s *Side) room(r *http.Request, t ticket) error {
	files, bytes, err := s.store.InWorkspace(t.Workspace).Form(t.Form).UploadedIn(r.Context(), t.Filling)
	if err != nil {
		return err
	}
	if files >= filesAFilling || bytes >= bytesAFilling {
		return tooManyFiles
	}
	sent, err := s.store.CountBy(r.Context(), "files:"+ui.Visitor(r), s.now().Truncate(time.Hour), 0)
	if err != nil {
		return err
	}
	if sent >= bytesAnHour>>10 {
		return tooMuchAnHour
	}
	form, all, err := s.store.InWorkspace(t.Workspace).Form(t.Form).FileBytes(r.Context())
	if err == nil && (s.quotas.Form > 0 && form >= s.quotas.Form || s.quotas.All > 0 && all >= s.quotas.All) {
		return formIsFull
	}
	return err
}

// posted reads a posted page; files in it are stored as they come in and leave
// their id among the fields.
func (s *Side) posted(w http.ResponseWriter, r *http.Request) (url.Values, error) {
	return posted.PostedParts(w, r, form.MaxFile, func(field, name string, content io.Reader, soFar url.Values) error {
		return s.takeFile(r, field, name, content, soFar)
	})
}

// takeFile stores one file, if the page's ticket and the field are good; what is
// wrong with it is left for the engine to say.
func (s *Side) takeFile(r *http.Request, field, name string, content io.Reader, soFar url.Values) error {
	ctx := r.Context()
	keys, err := s.keys(ctx)
	if err != nil {
		return err
	}
	t, err := s.tickets.open(keys, soFar.Get(posted.TokenField), s.now())
	if err != nil {
		return nil // a page that is too old is begun anew, without its files
	}
	p, err := s.programs.Get(ctx, t.EditionID(t.Edition))
	if err != nil {
		return err
	}
	it := itemOf(p.Form, field)
	if it == nil || it.Type != form.File {
		return nil
	}
	live, err := s.store.InWorkspace(t.Workspace).Form(t.Form).Live(ctx)
	switch {
	case errors.Is(err, store.ErrNotFound), err == nil && live.Offline:
		return nil // it takes nothing; the page says so
	case err != nil:
		return err
	}
	if err := s.room(r, t); err != nil {
		return err
	}
	head := make([]byte, 3072)
	n, err := io.ReadFull(content, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		return err
	}
	kind, _, _ := strings.Cut(mimetype.Detect(head[:n]).String(), ";")
	u, err := s.store.AddUpload(ctx,
		store.Upload{FormID: t.Form, Filling: t.Filling, Item: field, Name: plainName(name), MediaType: kind},
		io.MultiReader(bytes.NewReader(head[:n]), content), int64(it.FileLimit()))
	switch {
	case errors.Is(err, store.ErrNotFound):
		return nil // an empty file
	case errors.Is(err, store.ErrTooLarge):
		soFar.Set(field+posted.FileID, tooLarge)
		soFar.Set(field+posted.FileNew, "yes")
		_, err = io.Copy(io.Discard, content)
		return err
	case err != nil:
		return err
	}
	if _, err := s.store.CountBy(ctx, "files:"+ui.Visitor(r), s.now().Truncate(time.Hour), int(u.Size>>10)+1); err != nil {
		return err
	}
	soFar.Set(field+posted.FileID, u.ID)
	soFar.Set(field+posted.FileNew, "yes")
	soFar.Del(field + posted.FileGone)
	return nil
}

// tooLarge stands for the id of a file that was too large to be taken.
const tooLarge = "too-large"

// plainName is a file's name without folders and control characters.
func plainName(name string) string {
	name = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || r == unicode.ReplacementChar {
			return -1
		}
		return r
	}, strings.ToValidUTF8(path.Base(strings.ReplaceAll(name, `\`, "/")), ""))
	if r := []rune(name); len(r) > maxName {
		name = string(r[len(r)-maxName:])
	}
	if name == "" || name == "." || name == "/" {
		return "file"
	}
	return name
}

// itemOf finds the item of a field's name.
func itemOf(f *form.Form, field string) *form.Item {
	parts := strings.Split(field, ".")
	p, ok := f.Find(parts[len(parts)-1])
	switch {
	case !ok:
		return nil
	case p.Section.Repeat == nil && len(parts) == 2 && parts[0] == "a":
		return p.Item
	case p.Section.Repeat != nil && len(parts) == 4 && parts[0] == "r" && parts[1] == p.Section.Key:
		if row, err := strconv.Atoi(parts[2]); err == nil && row >= 0 && row < form.MaxRows {
			return p.Item
		}
	}
	return nil
}

// sign stores signatures that were drawn or typed, and leaves their ids among the
// fields; signed tells whether any field is another.
func (s *Side) sign(
	ctx context.Context, t ticket, f *form.Form, as url.Values,
) (fields url.Values, signed bool, err error) {
	fields = maps.Clone(as)
	for name := range as {
		field, drawn := strings.CutSuffix(name, posted.Drawn)
		if !drawn {
			continue
		}
		it := itemOf(f, field)
		if it == nil || it.Type != form.Signature {
			continue
		}
		u := store.Upload{FormID: t.Form, Filling: t.Filling, Item: field}
		var data []byte
		if picture := drawnPicture(fields.Get(name)); picture != nil {
			data, u.Name, u.MediaType = picture, "drawn.png", "image/png"
		} else if typed := strings.TrimSpace(fields.Get(field + posted.Typed)); typed != "" {
			data, u.Name, u.MediaType = typedPicture(typed), plainName(typed)+".svg", "image/svg+xml"
		} else {
			signed = true // what is no picture is no signature
			fields.Del(name)
			continue
		}
		// A page that is sent again, since no answer came, makes no second signature.
		u, err := s.store.AddUploadOnce(ctx, u, data)
		if err != nil {
			return as, false, err
		}
		fields.Set(field+posted.FileID, u.ID)
		fields.Del(name)
		fields.Del(field + posted.Typed)
		signed = true
	}
	return fields, signed, nil
}

// drawnPicture decodes a drawn signature; nil if it is no PNG within bounds.
func drawnPicture(address string) []byte {
	body, ok := strings.CutPrefix(address, "data:image/png;base64,")
	if !ok || len(body) > maxDrawn {
		return nil
	}
	data, err := base64.StdEncoding.DecodeString(body)
	if err != nil {
		return nil
	}
	if c, err := png.DecodeConfig(bytes.NewReader(data)); err != nil || c.Width > 2400 || c.Height > 1200 {
		return nil
	}
	return data
}

// typedPicture sets a typed name as a picture.
func typedPicture(name string) []byte {
	if r := []rune(name); len(r) > 120 {
		name = string(r[:120])
	}
	var b bytes.Buffer
	b.WriteString(
		`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 600 180"><text x="20" y="110" font-family="cursive" font-style="italic" font-size="48">`,
	)
	_ = xml.EscapeText(&b, []byte(name)) // a buffer does not fail
	b.WriteString(`</text></svg>`)
	return b.Bytes()
}

// files completes the answers to questions for files by what is known of the files
// of one filling, which is looked up when it is first needed.
type files struct {
	s       *Side
	ctx     context.Context //nolint:containedctx // it lives for one request
	ticket  ticket
	uploads map[string]store.Upload
	err     error
}

// complete gives a file's parts as they are stored; an id that is not of this
// filling counts as blank.
func (f *files) complete(it *form.Item, parts map[string]any) any {
	id, _ := parts["id"].(string)
	if id == "" || f.err != nil {
		return nil
	}
	if id == tooLarge {
		return map[string]any{"name": "…", "size": strconv.Itoa(it.FileLimit() + 1)}
	}
	if f.uploads == nil {
		if f.uploads, f.err = f.s.store.InWorkspace(f.ticket.Workspace).Form(f.ticket.Form).UploadsOf(f.ctx,
			f.ticket.Filling); f.err != nil {
			return nil
		}
	}
	u, known := f.uploads[id]
	if !known {
		return nil
	}
	return map[string]any{"id": u.ID, "name": u.Name, "type": u.MediaType, "size": strconv.FormatInt(u.Size, 10)}
}
