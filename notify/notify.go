// Package notify sends what goes out: what stands in the outbox is handed to workers, who
// hand it to the mail server, once each. What is to go out was written there in the
// transaction that made it necessary, so that nothing is lost however anything ends.
package notify

import (
	"context"
	"errors"
	"html/template"
	"log/slog"
	"net/netip"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"

	"lazo/core/engine"
	"lazo/store"
)

// Programs gives the program of an edition in a language.
type Programs interface {
	ProgramIn(ctx context.Context, id store.EditionID, language string) (*engine.Program, error)
}

// Application are what the application lends to letters.
type Application struct {
	Programs Programs
	// Site is the address of the application, such as https://forms.club.example.
	Site string
	// HTML turns Markdown into safe HTML.
	HTML func(markdown string) template.HTML
	// ChangeAddress makes a private address at which a response can be changed or
	// withdrawn; "" if it can't be.
	ChangeAddress func(ctx context.Context, r store.Response) (string, error)
	// ConfirmAddress is where an e-mail address of a response is confirmed.
	ConfirmAddress func(ctx context.Context, r store.Response, email string) (string, error)
}

// Options are what the office is told.
type Options struct {
	Server Server       // the mail server; without one letters wait
	Limits store.Limits // of what goes out within an hour
	// Networks may be called by hooks though they are not public, and without https.
	Networks []netip.Prefix
	Now      func() time.Time
	// Counted is told how each attempt ended: sent, waiting to be tried again, failed, or
	// dropped and held where nothing was tried.
	Counted func(kind store.LetterKind, became store.LetterState)
	Rescue  time.Duration   // after which a worker that came to its end without a word is replaced
	Waits   []time.Duration // before each further attempt; [Waits] if nil
	Holds   bool            // nothing goes out: it is a copy that is only looked at
	Quiet   bool            // nothing is logged but errors of the queue
}

// The usual limits.
const (
	LettersAnHour    = 1000
	PerAddressAnHour = 10
	PerAddressADay   = 30
)

// Outgoing delivers what stands in the outbox.
type Outgoing struct {
	store *store.Store
	o     Options
	ties  Application
	river *river.Client[pgx.Tx]

	caller *caller // of other programs
	watch  watch   // of the mail server
}

const (
	queue = "letters"
	hooks = "hooks"
	// lookEvery is how often what other copies wrote, and what has become due, is looked for.
	lookEvery = 2 * time.Second
	// attempt is how long one attempt at sending may take.
	attempt = 45 * time.Second
	// workers is how many letters are sent at once.
	workers = 4
	// schema is where the queue keeps its tables.
	schema = "river"
)

// New is an office over a store; it sends nothing until it is run.
func New(s *store.Store, o Options) *Outgoing {
	if o.Now == nil {
		o.Now = time.Now
	}
	if o.Limits == (store.Limits{}) {
		o.Limits = store.Limits{Form: LettersAnHour, Address: PerAddressAnHour, Day: PerAddressADay}
	}
	if o.Waits == nil {
		o.Waits = Waits
	}
	if o.Rescue == 0 {
		o.Rescue = 2 * attempt
	}
	return &Outgoing{store: s, o: o, caller: newCaller(o.Networks)}
}

// Lend gives the office what the application lends to letters, before it is run.
func (o *Outgoing) Lend(ties Application) { o.ties = ties }

// Sends reports whether there is a mail server to send by.
func (o *Outgoing) Sends() bool { return o.o.Server != nil && !o.o.Holds }

// Holds reports whether nothing goes out by a setting, mails and hooks alike.
func (o *Outgoing) Holds() bool { return o.o.Holds }

// Limits are those of an hour.
func (o *Outgoing) Limits() store.Limits { return o.o.Limits }

// Run delivers until it is told to stop; what is under way then is waited for. Several
// copies may run at once.
func (o *Outgoing) Run(ctx context.Context) error {
	if err := Migrate(ctx, o.store); err != nil {
		return err
	}
	level := slog.LevelWarn
	if o.o.Quiet {
		level = slog.LevelError + 1
	}
	kinds := river.NewWorkers()
	river.AddWorker(kinds, &worker{office: o})
	river.AddWorker(kinds, &teller{office: o})
	var err error
	o.river, err = river.NewClient(riverpgxv5.New(o.store.Pool()), &river.Config{
		Queues:  map[string]river.QueueConfig{queue: {MaxWorkers: workers}, hooks: {MaxWorkers: workers}},
		Workers: kinds, Schema: schema, JobTimeout: min(attempt, o.o.Rescue),
		RescueStuckJobsAfter: o.o.Rescue, MaxAttempts: len(o.o.Waits) + 1, RetryPolicy: retry(o.o.Waits),
		CompletedJobRetentionPeriod: time.Hour,
		DiscardedJobRetentionPeriod: time.Hour, CancelledJobRetentionPeriod: time.Hour, FetchCooldown: 50 * time.Millisecond,
		PollOnly: o.store.Shared(),
		Logger:   slog.New(atLeast{slog.Default().Handler(), level}),
	})
	if err != nil {
		return err
	}
	if err := o.river.Start(context.WithoutCancel(ctx)); err != nil {
		return err
	}
	o.handOn(ctx)
	last, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
	defer cancel()
	if err := o.river.Stop(last); err != nil {
		return o.river.StopAndCancel(context.WithoutCancel(ctx))
	}
	return nil
}

// handOn hands letters to workers as they become due, until ctx ends.
func (o *Outgoing) handOn(ctx context.Context) {
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	var digested time.Time
	for {
		if o.Sends() && time.Since(digested) > digestEvery {
			digested = time.Now()
			o.digests(ctx)
		}
		n, err := o.store.HandOn(ctx, o.o.Now(), o.o.Limits, o.Sends(), o.hand)
		if err != nil && ctx.Err() == nil {
			slog.Warn("looking into the outbox", "err", err)
		}
		if n > 0 && err == nil {
			continue
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		case <-o.store.Outgoing():
		}
	}
}

func (o *Outgoing) hand(ctx context.Context, tx pgx.Tx, due []store.Due) error {
	jobs := make([]river.InsertManyParams, len(due))
	for i, d := range due {
		jobs[i] = river.InsertManyParams{Args: delivery{d.ID, d.Round}, InsertOpts: &river.InsertOpts{Queue: queue}}
		if d.Kind == store.Hook {
			jobs[i] = river.InsertManyParams{Args: telling{delivery{d.ID, d.Round}},
				InsertOpts: &river.InsertOpts{Queue: hooks, MaxAttempts: len(HookWaits) + 1}}
		}
	}
	_, err := o.river.InsertManyFastTx(ctx, tx, jobs)
	return err
}

// Migrate makes the queue's tables; of several copies one does, and the others wait, by a
// lock that needs a session of its own. On shared connections nothing is made;
// [store.ErrBehind] if there is something to be.
func Migrate(ctx context.Context, s *store.Store) error {
	m, err := rivermigrate.New(riverpgxv5.New(s.Pool()),
		&rivermigrate.Config{Schema: schema, Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return err
	}
	if s.Shared() {
		is, err := m.Validate(ctx, nil)
		if err == nil && !is.OK {
			err = store.ErrBehind
		}
		return err
	}
	conn, err := s.Pool().Acquire(ctx)
	if err != nil {
		return err
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, "select pg_advisory_lock($1)", migrating); err != nil {
		return err
	}
	//nolint:errcheck // it ends with the connection
	defer conn.Exec(context.WithoutCancel(ctx), "select pg_advisory_unlock($1)", migrating)
	if _, err := conn.Exec(ctx, "create schema if not exists "+schema); err != nil {
		return err
	}
	_, err = m.Migrate(ctx, rivermigrate.DirectionUp, nil)
	return err
}

// migrating is the lock that is held meanwhile, a number of our own.
const migrating = 7205759403792

// atLeast passes on what is at least so grave.
type atLeast struct {
	slog.Handler
	level slog.Level
}

func (h atLeast) Enabled(_ context.Context, l slog.Level) bool { return l >= h.level }

// errLater is for a letter that is to be tried again.
var errLater = errors.New("it is to be tried again")
