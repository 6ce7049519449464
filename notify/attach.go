package notify

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"

	"lazo/core/engine"
	"lazo/core/view"
	"lazo/store"
)

// attachment is a file that a letter carries.
type attachment struct {
	Name, Type string
	Data       []byte
}

// mostAttached bounds the respondent's files that a letter carries, in bytes; those beyond
// it stay with the response.
const mostAttached = 8 << 20

func (o *Outgoing) attachments(ctx context.Context, l store.Letter, r store.Response) (out []attachment, err error) {
	if len(l.Attach) == 0 {
		return nil, nil
	}
	p, err := o.ties.Programs.ProgramIn(ctx, l.EditionID(r.Edition), l.Language)
	if err != nil {
		return nil, err
	}
	for _, what := range l.Attach {
		switch what {
		case "response":
			text, err := Sheet(p, r.Answers)
			if err != nil {
				return nil, err
			}
			out = append(out, attachment{"answers.txt", "text/plain; charset=utf-8", []byte(text)})
		case "calendar":
			if data := calendar(p, r, o.o.Now()); data != nil {
				out = append(out, attachment{"calendar.ics", "text/calendar; charset=utf-8; method=PUBLISH", data})
			}
		case "files":
			files, err := o.files(ctx, p, l, r)
			if err != nil {
				return nil, err
			}
			out = append(out, files...)
		default:
			own, err := o.ties.Programs.ProgramIn(ctx, l.EditionID(l.Edition), l.Language)
			if err != nil {
				return nil, err
			}
			d, err := documentOf(own, r, what, true)
			if errors.Is(err, store.ErrNotFound) {
				continue // it is no longer there
			}
			if err != nil {
				return nil, err
			}
			one, err := o.attached(d, l.Language)
			if err != nil {
				return nil, err
			}
			out = append(out, one)
		}
	}
	return out, nil
}

// Sheet is what was answered, a question a line. What only the workspace sees is left out.
func Sheet(p *engine.Program, answers []byte) (string, error) {
	open, err := p.Sendable(answers)
	if err != nil {
		return "", err
	}
	said, err := view.Differences(p, []byte(`{}`), open, engine.Input{})
	if err != nil {
		return "", err
	}
	var b strings.Builder
	b.WriteString(p.Form.Title + "\n" + strings.Repeat("=", len([]rune(p.Form.Title))) + "\n\n")
	for _, d := range said {
		b.WriteString(d.Label + ": " + strings.ReplaceAll(d.After, "\n", "\n    ") + "\n")
	}
	return b.String(), nil
}

// calendar are the days that lie ahead, one entry each; nil for none.
func calendar(p *engine.Program, r store.Response, now time.Time) []byte {
	days := p.DaysAhead(r.Answers, now)
	if len(days) == 0 {
		return nil
	}
	c := ics.NewCalendar()
	c.SetMethod(ics.MethodPublish)
	c.SetProductId("-//Lazo//EN")
	for _, d := range days {
		e := c.AddEvent(r.ID + "-" + d.Key + "@lazo")
		e.SetDtStampTime(now)
		e.SetAllDayStartAt(d.Day)
		e.SetAllDayEndAt(d.Day.AddDate(0, 0, 1))
		e.SetSummary(d.Label + " – " + p.Form.Title)
	}
	return []byte(c.Serialize())
}

// files are those that came with the response, as far as a letter can carry them.
func (o *Outgoing) files(
	ctx context.Context, p *engine.Program, l store.Letter, r store.Response,
) (out []attachment, err error) {
	open, err := p.WithoutSensitive(r.Answers)
	if err != nil {
		return nil, err
	}
	uploads, err := o.store.InWorkspace(l.WorkspaceID).Form(l.FormID).UploadsOf(ctx, r.Filling)
	if err != nil {
		return nil, err
	}
	left := int64(mostAttached)
	for _, id := range slices.Sorted(maps.Keys(uploads)) { // the same at every attempt
		u := uploads[id]
		if u.Size > left || !bytes.Contains(open, []byte(u.ID)) { // it is of an earlier state, or sensitive
			continue
		}
		left -= u.Size
		var data bytes.Buffer
		if err := o.store.ReadUpload(ctx, u.ID, &data); err != nil {
			if errors.Is(err, store.ErrNotFound) {
				continue
			}
			return nil, fmt.Errorf("reading a file: %w", err)
		}
		out = append(out, attachment{u.Name, "application/octet-stream", data.Bytes()})
	}
	return out, nil
}
