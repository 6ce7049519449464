// Package privacy is about what is kept of people, and when it goes: responses whose time
// is over, and all that is held about one person.
package privacy

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"
	"time"

	"lazo/core/form"
	"lazo/notify"
	"lazo/store"
)

// Erase deletes a response with all that is its own. Hooks are told its id.
func Erase(
	ctx context.Context, s *store.Store, programs notify.Programs, f store.Form, r store.Response, now time.Time,
) error {
	edition := r.Edition
	if f.LiveEdition != nil {
		edition = *f.LiveEdition
	}
	told, err := notify.OfDeletion(ctx, programs, edition, r, now)
	if err != nil {
		return err
	}
	return s.InWorkspace(f.WorkspaceID).Form(f.ID).DeleteResponse(ctx, r.ID, told...)
}

// dateKeys are the keys under which the date stands that a form's time is counted from:
// the one of now first, then those that it had before. There are none for the receipt.
func dateKeys(ctx context.Context, in store.InForm, def *form.Form, from string) ([]string, error) {
	if from == "" {
		return nil, nil
	}
	earlier, err := in.Earlier(ctx, def)
	if err != nil {
		return nil, err
	}
	if !def.Keys()[from] {
		for now, before := range earlier {
			for _, key := range before {
				if key == from {
					return append([]string{now}, before...), nil
				}
			}
		}
	}
	return append([]string{from}, earlier[from]...), nil
}

// Dates are the questions that a form's time can be counted from: each response answers
// them once.
func Dates(def *form.Form) (out []*form.Item) {
	for pl := range def.Places() {
		if pl.Item.Type == form.Date && pl.Section.Repeat == nil {
			out = append(out, pl.Item)
		}
	}
	return out
}

// batch is how many responses of a form are erased at a time.
const batch = 500

// EraseOverdue deletes the responses whose time is over, of all forms, and puts on the
// trail how many. A form whose time is counted from a date is judged by the day in its
// zone. Several copies may do it at once.
func EraseOverdue(ctx context.Context, s *store.Store, programs notify.Programs, now time.Time) error {
	forms, err := s.FormsWithRetention(ctx)
	if err != nil {
		return err
	}
	var faults []error
	for _, f := range forms {
		if err := eraseOf(ctx, s, programs, f, now); err != nil {
			faults = append(faults, fmt.Errorf("erasing responses of the form %d: %w", f.ID, err))
		}
	}
	return errors.Join(faults...)
}

func eraseOf(ctx context.Context, s *store.Store, programs notify.Programs, f store.Form, now time.Time) error {
	in := s.InWorkspace(f.WorkspaceID).Form(f.ID)
	k, err := in.Retention(ctx)
	if err != nil || k.Days == 0 || k.Resting(now) {
		return err
	}
	keys, now, err := counted(ctx, in, f, k, now)
	if err != nil {
		return err
	}
	n := 0
	for {
		late, err := in.Overdue(ctx, keys, now.AddDate(0, 0, -k.Days), batch)
		if err != nil {
			return err
		}
		for _, r := range late {
			err := Erase(ctx, s, programs, f, r, now)
			if errors.Is(err, store.ErrNotFound) {
				continue // another copy was quicker
			}
			if err != nil {
				return errors.Join(err, told(ctx, s, f, n))
			}
			n++
		}
		if len(late) < batch {
			return told(ctx, s, f, n)
		}
	}
}

// counted are the keys of the date that a form's time is counted from, and the moment in
// its zone.
func counted(
	ctx context.Context, in store.InForm, f store.Form, k store.Retention, now time.Time,
) ([]string, time.Time, error) {
	def, err := f.Definition()
	if err != nil {
		return nil, now, err
	}
	if zone, err := time.LoadLocation(def.Timezone); err == nil {
		now = now.In(zone)
	}
	keys, err := dateKeys(ctx, in, def, k.From)
	return keys, now, err
}

// WouldErase is how many responses of a form would be deleted now, were they kept so long.
func WouldErase(ctx context.Context, in store.InForm, f store.Form, k store.Retention, now time.Time) (int, error) {
	if k.Days == 0 {
		return 0, nil
	}
	keys, now, err := counted(ctx, in, f, k, now)
	if err != nil {
		return 0, err
	}
	n, err := in.CountOverdue(ctx, keys, now.AddDate(0, 0, -k.Days))
	return int(n), err
}

// told puts on the trail how many were erased.
func told(ctx context.Context, s *store.Store, f store.Form, n int) error {
	if n == 0 {
		return nil
	}
	detail := fmt.Sprintf("erased %d responses, since their time was over", n)
	if n == 1 {
		detail = "erased a response, since its time was over"
	}
	return s.AddStep(ctx, store.TrailStep{WorkspaceID: &f.WorkspaceID, FormID: &f.ID, Form: f.Title, Act: "erase",
		Detail: detail})
}

// HandOut writes all that was found about a person as one archive: data.json, with what
// was answered and sent, and the files that came with it.
func HandOut(ctx context.Context, s *store.Store, found store.PersonFound, out io.Writer) error {
	archive := zip.NewWriter(out)
	data, err := dataOf(ctx, s, found)
	if err != nil {
		return err
	}
	w, err := archive.Create("data.json")
	if err != nil {
		return err
	}
	if _, err := w.Write(data); err != nil {
		return err
	}
	for _, r := range found.Responses {
		uploads, err := s.InWorkspace(r.WorkspaceID).Form(r.FormID).UploadsOf(ctx, r.Filling)
		if err != nil {
			return err
		}
		for _, u := range uploads {
			w, err := archive.Create(path.Join("files", r.ID, u.ID+"-"+inFolder(u.Name)))
			if err != nil {
				return err
			}
			if err := s.ReadUpload(ctx, u.ID, w); err != nil && !errors.Is(err, store.ErrNotFound) {
				return err
			}
		}
	}
	return archive.Close()
}

// inFolder is a file's name without what would lead out of its folder.
func inFolder(name string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`/\:*?"<>|`, r) {
			return '_'
		}
		return r
	}, name)
}

// The parts of data.json.
type (
	personData struct {
		Responses []responseData `json:"responses"`
		Unsent    []fillingData  `json:"fillings_not_sent"`
		Letters   []letterData   `json:"letters"`
	}
	responseData struct {
		Form       string              `json:"form"`
		ID         string              `json:"id"`
		Received   time.Time           `json:"received"`
		Answers    json.RawMessage     `json:"answers"`
		Parameters map[string][]string `json:"parameters,omitempty"`
		Before     []versionData       `json:"before_changes,omitempty"`
	}
	versionData struct {
		Until   time.Time       `json:"until"`
		Answers json.RawMessage `json:"answers"`
	}
	fillingData struct {
		Form   string          `json:"form"`
		Begun  time.Time       `json:"begun"`
		Fields json.RawMessage `json:"fields"`
	}
	letterData struct {
		Form    string    `json:"form,omitempty"`
		To      string    `json:"to"`
		Subject string    `json:"subject"`
		Text    string    `json:"text"`
		State   string    `json:"state"`
		Made    time.Time `json:"made"`
	}
)

func dataOf(ctx context.Context, s *store.Store, found store.PersonFound) ([]byte, error) {
	d := personData{Responses: []responseData{}, Unsent: []fillingData{}, Letters: []letterData{}}
	for _, r := range found.Responses {
		whole, err := s.InWorkspace(r.WorkspaceID).Form(r.FormID).ResponseWithVersions(ctx, r.ID)
		if errors.Is(err, store.ErrNotFound) {
			continue
		}
		if err != nil {
			return nil, err
		}
		one := responseData{Form: r.Title, ID: r.ID, Received: r.ReceivedAt.UTC(), Answers: json.RawMessage(whole.Answers),
			Parameters: whole.Parameters}
		for _, v := range whole.Versions {
			one.Before = append(one.Before, versionData{v.KeptAt.UTC(), json.RawMessage(v.Answers)})
		}
		d.Responses = append(d.Responses, one)
	}
	for _, f := range found.Fillings {
		d.Unsent = append(d.Unsent, fillingData{f.Title, f.MadeAt.UTC(), json.RawMessage(f.Fields)})
	}
	for _, l := range found.Letters {
		d.Letters = append(d.Letters,
			letterData{l.Title, l.Recipient, l.Subject, notify.Shown(l.Body), string(l.State), l.MadeAt.UTC()})
	}
	var out bytes.Buffer
	enc := json.NewEncoder(&out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	err := enc.Encode(d)
	return out.Bytes(), err
}
