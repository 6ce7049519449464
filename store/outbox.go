package store

import (
	"cmp"
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"

	"lazo/core/engine"
)

// LetterState is what has become of a letter.
type LetterState string

// LetterKind is what something in the outbox is.
type LetterKind string

// The kinds: a mail, or another program that is told.
const (
	Mail LetterKind = "letter"
	Hook LetterKind = "hook"
)

// The states of a letter.
const (
	Waiting   LetterState = "waiting"   // for its moment, or for the mail server
	Held      LetterState = "held"      // until somebody lets it go
	Sending   LetterState = "sending"   // it is being handed to the mail server
	Sent      LetterState = "sent"      // the mail server has taken it
	Failed    LetterState = "failed"    // the mail server will not have it, or was away for too long
	Cancelled LetterState = "cancelled" // by a member
	Dropped   LetterState = "dropped"   // what it followed from holds no longer
)

// Letter is one message to one address, or the lack of one, as it stands in the outbox.
type Letter struct {
	ID          LetterID    `json:"-"`
	WorkspaceID WorkspaceID `json:"-"`
	FormID      FormID      `json:"-"`
	ResponseID  *string     `json:"-"`
	Kind        LetterKind  `json:"kind" gorm:"default:letter"`
	Edition     int         `json:"edition"`   // that the message is of
	Message     string      `json:"message"`   // its key
	Name        string      `json:"name"`      // as the workspace calls it
	Recipient   string      `json:"recipient"` // an address, "" if there was none to send to
	Answered    bool        `json:"answered"`  // the address is an answer, and so anybody's
	ReplyTo     string      `json:"reply_to"`  // an address, "" for none
	Subject     string      `json:"subject"`
	Body        string      `json:"body"`                                     // Markdown
	Attach      []string    `json:"attach" gorm:"type:jsonb;serializer:json"` // what it carries
	Language    string      `json:"language"`                                 // "" for the form's own
	Reason      string      `json:"reason"`                                   // why it goes, in words
	// it has a moment of its own, and is judged again then
	Timed    bool        `json:"timed"`
	State    LetterState `json:"state"`
	DueAt    time.Time   `json:"due_at"`
	MadeAt   time.Time   `json:"made_at"`
	Attempts int         `json:"-"`
	Answer   string      `json:"answer"` // what became of it last, in words
	EndedAt  *time.Time  `json:"ended_at"`
	// what its private address is for, as AboutReset says it
	About     string `json:"-"`
	MessageID string `json:"-" gorm:"default:gen_random_uuid()"` // the same at every attempt
	Asked     string `json:"-"`                                  // of a hook: the last request, as it went
	Reply     string `json:"-"`                                  // and what was answered
	// Became tells a change that the letter's condition has become met; a letter that has
	// a moment and did not become met only moves.
	Became bool `json:"-" gorm:"-"`
}

// TableName is the table that letters stand in.
func (Letter) TableName() string { return "outbox" }

// letterColumns are those that are written with a response; [letterValues] their values.
const letterColumns = `workspace_id, form_id, response_id, edition, message, name, recipient, answered, reply_to, subject, body, attach,
	language, reason, timed, state, due_at, made_at, answer, ended_at, kind`

// letterValues are the values of the letters in the argument of that number, a JSON array.
func letterValues(argument int) string {
	return `x.edition, x.message, x.name, x.recipient, x.answered, x.reply_to, x.subject, x.body, x.attach, x.language,
		x.reason, x.timed, x.state, x.due_at, x.made_at, x.answer, x.ended_at, coalesce(nullif(x.kind, ''), 'letter') from r, jsonb_to_recordset($` + strconv.Itoa(argument) + `::jsonb) as
		x(edition int, message text, name text, recipient text, answered boolean, reply_to text, subject text, body text, attach jsonb,
		language text, reason text, timed boolean, state text, due_at timestamptz, made_at timestamptz, answer text, ended_at timestamptz, kind text)`
}

// wake tells whoever delivers that something is to go out.
func (s *Store) wake() {
	select {
	case s.outgoing <- struct{}{}:
	default: // it was told already
	}
}

// Outgoing tells of what was written to be sent by this copy of the application; what
// others wrote has to be looked for.
func (s *Store) Outgoing() <-chan struct{} { return s.outgoing }

// follows writes what follows from a change of a response; what becomes of letters that have
// a moment is [engine.Schedule]'s to say. Those that stand no longer are dropped.
func (in InForm) follows(tx *gorm.DB, response string, goes []Letter, at time.Time) error {
	var timed []Letter
	if err := tx.Scopes(in.ofForm).Where("response_id = ? and timed",
		uuid(response)).Order("id").Find(&timed).Error; err != nil {
		return err
	}
	there := make([]engine.Scheduled, len(timed))
	for i, l := range timed {
		there[i] = engine.Scheduled{Message: l.Message, Recipient: l.Recipient, Open: l.State == Waiting || l.State == Held}
	}
	stays := make([]bool, len(timed))
	for _, l := range goes {
		l.WorkspaceID, l.FormID, l.ResponseID = in.workspace, in.form, &response
		moves, begins := -1, true
		if l.Timed {
			moves, begins = engine.Schedule(there, l.Message, l.Recipient, l.Became, l.DueAt, at)
		}
		var err error
		switch {
		case moves >= 0:
			stays[moves] = true
			err = tx.Model(&timed[moves]).Updates(map[string]any{"due_at": l.DueAt, "subject": l.Subject, "body": l.Body,
				"reply_to": l.ReplyTo, "reason": l.Reason, "queued_at": nil}).Error
		case begins:
			err = tx.Create(&l).Error
		}
		if err != nil {
			return err
		}
	}
	for i, l := range timed {
		if stays[i] || !there[i].Open {
			continue
		}
		if err := tx.Model(&l).Select("state", "answer", "ended_at").
			Updates(Letter{State: Dropped, Answer: "What was answered changed, and it is not called for any more.",
				EndedAt: &at}).Error; err != nil {
			return err
		}
	}
	return nil
}

// Limits bound what goes out within an hour, so that a public form is no way to write to
// strangers.
type Limits struct {
	Form    int // letters of one form
	Address int // letters of one form to one address that somebody answered
	Day     int // and of a day; what is beyond that is dropped
}

// Due is a letter that was handed to a worker.
type Due struct {
	ID    LetterID
	Round int // how often it was; an earlier one is void
	Kind  LetterKind
}

// batch is how many letters are handed on at a time.
const batch = 200

// HandOn gives letters that are due to hand, which writes them down for workers in the
// same transaction; mails only if they can be sent. What is beyond a limit waits for an hour
// from then. It reports how many there were; fewer than that may have been handed on.
func (s *Store) HandOn(
	ctx context.Context, now time.Time, limits Limits, mails bool,
	hand func(ctx context.Context, tx pgx.Tx, due []Due) error,
) (int, error) {
	n := 0
	err := pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `select id, coalesce(form_id, 0), recipient, answered, round, kind from outbox
			where state = 'waiting' and queued_at is null and due_at <= $1 and ($3 or kind <> 'letter')
			order by due_at, id limit $2 for update skip locked`, now, batch, mails)
		if err != nil {
			return err
		}
		type row struct {
			ID        LetterID
			Form      FormID
			Recipient string
			Answered  bool
			Round     int
			Kind      LetterKind
		}
		due, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
		if err != nil || len(due) == 0 {
			return err
		}
		n = len(due)
		spent := &spending{tx: tx, now: now, forms: map[FormID]int{}, addresses: map[string]*toAddress{}}
		var out []Due
		for _, d := range due {
			over, never := "", false
			if d.Kind == Mail {
				if over, never, err = spent.breaks(ctx, limits, d.Form, d.Recipient, d.Answered); err != nil {
					return err
				}
			}
			if never {
				_, err := tx.Exec(ctx, "update outbox set state = $2, ended_at = $3, answer = $4 where id = $1", d.ID,
					string(Dropped), now, over)
				if err != nil {
					return err
				}
				continue
			}
			if over != "" {
				_, err := tx.Exec(ctx, "update outbox set due_at = $2, answer = $3 where id = $1", d.ID, now.Add(time.Hour), over)
				if err != nil {
					return err
				}
				continue
			}
			out = append(out, Due{d.ID, d.Round + 1, d.Kind})
		}
		if len(out) == 0 {
			return nil
		}
		ids := make([]int64, len(out))
		for i, d := range out {
			ids[i] = int64(d.ID)
		}
		if _, err := tx.Exec(ctx, "update outbox set queued_at = $2, round = round + 1 where id = any($1)", ids,
			now); err != nil {
			return err
		}
		return hand(ctx, tx, out)
	})
	return n, err
}

// spending counts what went out within the hour, and to addresses within the day.
type spending struct {
	tx        pgx.Tx
	now       time.Time
	forms     map[FormID]int
	addresses map[string]*toAddress
}

// toAddress is how many letters went to an address.
type toAddress struct{ Hour, Day int }

// breaks says which limit one more letter would break, "" for none, and counts it if not; never
// tells that it is not to wait for its turn. An address is the same however it is spelt.
func (s *spending) breaks(
	ctx context.Context, limits Limits, form FormID, to string, answered bool,
) (why string, never bool, err error) {
	hour := s.now.Add(-time.Hour)
	if _, known := s.forms[form]; !known {
		var n int
		err := s.tx.QueryRow(ctx, "select count(*) from outbox where form_id = $1 and queued_at > $2 and kind = 'letter'",
			form, hour).Scan(&n)
		if err != nil {
			return "", false, err
		}
		s.forms[form] = n
	}
	key := fmt.Sprintf("%d %s", form, strings.ToLower(to))
	if s.addresses[key] == nil {
		s.addresses[key] = &toAddress{}
		if answered {
			rows, err := s.tx.Query(ctx, `select count(*) filter (where queued_at > $2) as hour, count(*) as day from outbox
				where form_id = $1 and queued_at > $3 and answered and lower(recipient) = lower($4)`, form, hour, s.now.AddDate(0, 0, -1), to)
			if err != nil {
				return "", false, err
			}
			if *s.addresses[key], err = pgx.CollectExactlyOneRow(rows, pgx.RowToStructByName[toAddress]); err != nil {
				return "", false, err
			}
		}
	}
	had := s.addresses[key]
	switch {
	case answered && limits.Day > 0 && had.Day >= limits.Day:
		return fmt.Sprintf("It was not sent: %d letters a day are sent to one address that was answered, at most.",
			limits.Day), true, nil
	case s.forms[form] >= limits.Form:
		return fmt.Sprintf("It waits for an hour: a form sends %d letters an hour at most.", limits.Form), false, nil
	case answered && had.Hour >= limits.Address:
		return fmt.Sprintf("It waits for an hour: %d letters an hour are sent to one address that was answered, at most.",
			limits.Address), false, nil
	}
	s.forms[form]++
	had.Hour++
	had.Day++
	return "", false, nil
}

// Claim takes a letter that is to be sent, with the response that it is of. A letter that
// was erased, held or cancelled meanwhile, has gone, or was handed on anew, is
// [ErrNotFound]; one that another attempt broke off with is taken again.
func (s *Store) Claim(ctx context.Context, d Due) (Letter, Response, error) {
	var l Letter
	db := s.db.WithContext(ctx)
	done := db.Raw(`update outbox set state = 'sending', attempts = attempts + 1
		where id = ? and round = ? and state in ('waiting', 'sending') returning *`, d.ID, d.Round).Scan(&l)
	if done.Error != nil {
		return l, Response{}, done.Error
	}
	if done.RowsAffected == 0 {
		return l, Response{}, ErrNotFound
	}
	if l.ResponseID == nil {
		return l, Response{}, nil
	}
	r, err := s.InWorkspace(l.WorkspaceID).Form(l.FormID).Response(ctx, *l.ResponseID)
	return l, r, err
}

// Became writes down what became of a letter: its state and what is said of it. One that
// waits again is due at that time. What was erased meanwhile leaves nothing.
func (s *Store) Became(ctx context.Context, d Due, state LetterState, answer string, at time.Time) error {
	ended := &at
	if state == Waiting {
		ended = nil
	}
	_, err := s.pool.Exec(ctx,
		"update outbox set state = $3, answer = $4, ended_at = $5 where id = $1 and round = $2 and state = 'sending'",
		d.ID, d.Round, string(state), answer, ended)
	return err
}

// Exchanged writes down what a program was asked and what it answered.
func (s *Store) Exchanged(ctx context.Context, id LetterID, asked, reply string) error {
	_, err := s.pool.Exec(ctx, "update outbox set asked = $2, reply = $3 where id = $1", id, asked, reply)
	return err
}

// Moved lets a letter wait for a moment that has become another, or be sent in other
// words.
func (s *Store) Moved(ctx context.Context, d Due, due time.Time) error {
	_, err := s.pool.Exec(ctx,
		"update outbox set state = 'waiting', queued_at = null, due_at = $3 where id = $1 and round = $2 and state = 'sending'",
		d.ID, d.Round, due)
	return err
}

// Reworded puts the words of a letter as they are now in the place of what they were.
func (s *Store) Reworded(ctx context.Context, l Letter) error {
	return s.db.WithContext(ctx).Model(&l).Select("subject", "body", "reply_to", "reason", "attach").Updates(&l).Error
}

// Outbox is which letters are looked at.
type Outbox struct {
	Form     FormID // 0 for all of the workspace
	Response string // "" for all
	Address  string // part of one, "" for all
	Message  string // the key of one, "" for all
	Kind     LetterKind
	State    LetterState
	Before   LetterID // those older than this one, 0 for the newest
	Limit    int
}

// LetterOf is a letter with what it belongs to.
type LetterOf struct {
	Letter
	Title string // of its form
	Zone  string // of its form, such as Europe/Lisbon
}

const letterOf = "outbox.*, coalesce(f.title, '') as title, coalesce(f.draft->>'timezone', 'UTC') as zone"

// Letters are the letters of the workspace that are looked for, the newest first.
func (in InWorkspace) Letters(ctx context.Context, look Outbox) ([]LetterOf, error) {
	var out []LetterOf
	q := in.looking(ctx, look).Select(letterOf).Joins("left join forms f on f.id = outbox.form_id")
	if look.Before > 0 {
		q = q.Where("outbox.id < ?", look.Before)
	}
	return out, q.Order("outbox.id desc").Limit(cmp.Or(look.Limit, 50)).Find(&out).Error
}

func (in InWorkspace) looking(ctx context.Context, look Outbox) *gorm.DB {
	q := in.store.db.WithContext(ctx).Model(&Letter{}).Where("outbox.workspace_id = ?", in.workspace)
	if look.Form > 0 {
		q = q.Where("outbox.form_id = ?", look.Form)
	}
	if look.Response != "" {
		q = q.Where("response_id = ?", uuid(look.Response))
	}
	if look.Address != "" {
		q = q.Where("strpos(lower(recipient), lower(?)) > 0", look.Address)
	}
	if look.Message != "" {
		q = q.Where("message = ?", look.Message)
	}
	if look.Kind != "" {
		q = q.Where("kind = ?", look.Kind)
	}
	if look.State != "" {
		q = q.Where("outbox.state = ?", look.State)
	}
	return q
}

// CountLetters is how many letters there are in each state in which something is still to
// become of them.
func (in InWorkspace) CountLetters(ctx context.Context, look Outbox) (map[LetterState]int, error) {
	look.State = ""
	var rows []struct {
		State LetterState
		N     int
	}
	err := in.looking(ctx, look).
		Where("outbox.state in ('waiting', 'held', 'sending', 'failed')").
		Select("outbox.state, count(*) as n").Group("outbox.state").Find(&rows).Error
	out := map[LetterState]int{}
	for _, r := range rows {
		out[r.State] = r.N
	}
	return out, err
}

// LetterTally is what became of the letters of one message.
type LetterTally struct {
	Sent  int
	Last  *time.Time // when the last one went
	Held  int
	Fails int
	Waits int
}

// Tally counts the letters of a message of the form.
func (in InForm) Tally(ctx context.Context, message string) (LetterTally, error) {
	var t LetterTally
	err := in.store.db.WithContext(ctx).Model(&Letter{}).Scopes(in.ofForm).Where("message = ? and kind = ?", message, Mail).Select(`
		count(*) filter (where state = 'sent') as sent, max(ended_at) filter (where state = 'sent') as last,
		count(*) filter (where state = 'held') as held, count(*) filter (where state = 'failed') as fails,
		count(*) filter (where state in ('waiting', 'sending')) as waits`).Take(&t).Error
	return t, err
}

// Letter finds a letter of the workspace.
func (in InWorkspace) Letter(ctx context.Context, id LetterID) (LetterOf, error) {
	var l LetterOf
	return l, plain(in.looking(ctx, Outbox{}).Select(letterOf).Joins("left join forms f on f.id = outbox.form_id").
		Where("outbox.id = ?", id).Take(&l).Error)
}

// Hold keeps a letter that waits from going, until it is let go.
func (in InWorkspace) Hold(ctx context.Context, id LetterID) error {
	return in.turn(ctx, id, []LetterState{Waiting}, map[string]any{"state": Held, "answer": ""})
}

// LetGo sends a letter on that was held, has failed, was cancelled or was dropped; one
// whose moment is to come waits for it.
func (in InWorkspace) LetGo(ctx context.Context, id LetterID, at time.Time) error {
	err := in.turn(ctx, id, []LetterState{Held, Failed, Cancelled, Dropped}, map[string]any{
		"state": Waiting, "queued_at": nil, "answer": "", "ended_at": nil,
		"due_at": gorm.Expr("greatest(due_at, ?::timestamptz)", at),
		"timed":  gorm.Expr("timed and state <> ?", Dropped), // somebody wants it to go all the same
	})
	if err == nil {
		in.store.wake()
	}
	return err
}

// LetAllGo lets all letters go that are looked for and held, or have failed; it gives how
// many.
func (in InWorkspace) LetAllGo(ctx context.Context, look Outbox, at time.Time) (int, error) {
	if look.State != Held && look.State != Failed {
		return 0, nil
	}
	done := in.looking(ctx, look).Updates(map[string]any{
		"state": Waiting, "queued_at": nil, "answer": "", "ended_at": nil,
		"due_at": gorm.Expr("greatest(due_at, ?::timestamptz)", at),
	})
	if done.Error == nil {
		in.store.wake()
	}
	return int(done.RowsAffected), done.Error
}

// FormsThatSend are the workspace's forms of which something is in the outbox.
func (in InWorkspace) FormsThatSend(ctx context.Context) ([]Form, error) {
	var out []Form
	return out, in.store.db.WithContext(ctx).Select("id, title").Scopes(in.ofWorkspace).
		Where("exists (select 1 from outbox o where o.form_id = forms.id)").Order("title, id").Limit(200).Find(&out).Error
}

// Cancel keeps a letter that has not gone from going at all.
func (in InWorkspace) Cancel(ctx context.Context, id LetterID, at time.Time) error {
	return in.turn(ctx, id, []LetterState{Waiting, Held, Failed},
		map[string]any{"state": Cancelled, "ended_at": at, "answer": ""})
}

// turn changes a letter in one of some states; [ErrConflict] is for one in another.
func (in InWorkspace) turn(ctx context.Context, id LetterID, from []LetterState, to map[string]any) error {
	done := in.store.db.WithContext(ctx).Model(&Letter{}).Scopes(in.ofWorkspace).Where("id = ? and state in ?", id,
		from).Updates(to)
	if done.Error == nil && done.RowsAffected == 0 {
		return in.whyNotTurned(ctx, id)
	}
	return done.Error
}

// whyNotTurned is why a letter could not be changed: it is not there, or in another state.
func (in InWorkspace) whyNotTurned(ctx context.Context, id LetterID) error {
	if _, err := in.Letter(ctx, id); err != nil {
		return err
	}
	return ErrConflict
}

// SendAgain sends a letter that has gone once more, as another one, for a reason.
func (in InWorkspace) SendAgain(ctx context.Context, id LetterID, reason string, at time.Time) error {
	done := in.store.db.WithContext(ctx).Exec(`insert into outbox (`+letterColumns+`)
		select workspace_id, form_id, response_id, edition, message, name, recipient, answered, reply_to, subject, body, attach,
			language, ?, false, 'waiting', ?, ?, '', null, kind from outbox where id = ? and workspace_id = ? and state = 'sent'`, reason, at, at, id, in.workspace)
	if done.Error == nil && done.RowsAffected == 0 {
		return in.whyNotTurned(ctx, id)
	}
	if done.Error == nil {
		in.store.wake()
	}
	return done.Error
}
