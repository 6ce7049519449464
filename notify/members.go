package notify

import (
	"context"
	"fmt"
	"log/slog"
	"strconv"
	"strings"
	"time"

	"lazo/core/text"
	"lazo/store"
)

// The letters that members get.
const (
	digestKey  = "digest"
	failureKey = "failure"
)

// digestAt is from when on in the day, in UTC, digests are written.
const digestAt = 6 * time.Hour

// digestEvery is how often is looked who is to be written to.
const digestEvery = 5 * time.Minute

// digests writes to the members who want it of new responses, each once a day.
func (o *Outgoing) digests(ctx context.Context) {
	now := o.o.Now()
	due := now.UTC().Truncate(24 * time.Hour).Add(digestAt)
	if now.Before(due) {
		return
	}
	for {
		there, err := o.store.WriteDigest(ctx, due, now,
			func(m store.Member, since time.Time, news []store.News) store.Letter {
				return o.digest(m, since, news, now)
			})
		if err != nil && ctx.Err() == nil {
			slog.Warn("writing digests", "err", err)
		}
		if err != nil || !there {
			return
		}
	}
}

// digest is the letter of new responses.
func (o *Outgoing) digest(m store.Member, since time.Time, news []store.News, now time.Time) store.Letter {
	all := 0
	var b strings.Builder
	b.WriteString("Dear " + text.Escape(m.Name) + ",\n\nsince " + since.UTC().Format("2 January, 15:04") +
		" (UTC) there came\n\n")
	for _, n := range news {
		all += n.N
		fmt.Fprintf(&b, "- %s to [%s](%s/forms/%d/responses)\n", responses(n.N), text.Escape(n.Title), o.ties.Site, n.FormID)
	}
	b.WriteString("\nWhether you get this letter is set [on the page of the workspace](" + o.ties.Site + "/workspace).")
	return store.Letter{Message: digestKey, Name: "New responses", Recipient: m.Email, Subject: "Lazo: " + responses(all),
		Body:   b.String(),
		Reason: "Sent once a day, since its recipient wants it.", State: store.Waiting, DueAt: now, MadeAt: now}
}

func responses(n int) string {
	if n == 1 {
		return "one new response"
	}
	return strconv.Itoa(n) + " new responses"
}

// tellFailure writes to the members who want it that something could not be sent.
func (o *Outgoing) tellFailure(ctx context.Context, l store.Letter, answer string) error {
	if l.Message == failureKey || l.Message == digestKey || l.WorkspaceID == 0 {
		return nil
	}
	now := o.o.Now()
	return o.store.InWorkspace(l.WorkspaceID).TellFailure(ctx, now, func(m store.Member) store.Letter {
		what := "The letter “" + text.Escape(l.Subject) + "” to " + text.Escape(l.Recipient) + " could not be sent. "
		if l.Kind == store.Hook {
			what = "The program at " + text.Escape(l.Recipient) + " could not be told. "
		}
		return store.Letter{Message: failureKey, Name: "What could not be sent", Recipient: m.Email,
			Subject: "Lazo: something could not be sent",
			Body: "Dear " + text.Escape(m.Name) + ",\n\n" + what + text.Escape(answer) +
				"\n\nThe [outbox](" + o.ties.Site +
				"/outbox?state=failed) says what else there is; for an hour you get no other letter of this.",
			Reason: "Sent since something failed, and its recipient wants to know.", State: store.Waiting, DueAt: now,
			MadeAt: now}
	})
}
