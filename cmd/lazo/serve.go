package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"os"
	"os/signal"
	"syscall"
	"time"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/demo"
	"lazo/editions"
	"lazo/metrics"
	"lazo/notify"
	"lazo/privacy"
	"lazo/store"
	"lazo/web"
	"lazo/web/respond"
)

type database struct {
	Database string `env:"LAZO_DATABASE_URL" help:"The address of the PostgreSQL database." required:""`
	Shared   bool   `name:"database-shared" env:"LAZO_DATABASE_SHARED" help:"The address is that of a program that shares connections by transaction, such as pgbouncer; “lazo check” proves it."`
}

func (d database) open(ctx context.Context) (*store.Store, error) {
	if d.Shared {
		return store.OpenShared(ctx, d.Database)
	}
	return store.Open(ctx, d.Database)
}

type serveCmd struct {
	settings
	Demo     bool   `help:"Lay out the sample workspace if there is none."`
	Busy     bool   `help:"Lay out a busy sample workspace: a form of 300 questions, and thousands of responses." env:"LAZO_BUSY"`
	DemoHook string `help:"The program that the sample hook tells." default:"http://127.0.0.1:8026/crane" env:"LAZO_DEMO_HOOK"`
}

// Run serves until it is told to stop. It does not wait for the database: pages
// answer 503 until it is there.
func (c *serveCmd) Run() error {
	if err := c.sound(); err != nil {
		return err
	}
	c.logs()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer closeWithin(s, lastQueries)
	if c.Replica != "" {
		if err := s.ReadFrom(ctx, c.Replica); err != nil {
			return err
		}
	}
	counted := metrics.New(s, built())
	office, err := c.office(s, counted)
	if err != nil {
		return err
	}
	programs := editions.New(s)
	server := &http.Server{Addr: c.Listen,
		Handler: web.New(s, web.Options{Base: c.Base, Secure: c.Secure, Proxies: prefixes(c.Proxies),
			Programs: programs,
			Letters:  "http://" + c.Listen, Office: office, Files: respond.Quotas{Form: c.FormMB << 20, All: c.FilesMB << 20},
			Figures: counted, Ending: ctx.Done()}),
		ReadHeaderTimeout: 10 * time.Second, ReadTimeout: time.Minute, WriteTimeout: 2 * time.Minute,
		IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 1 << 16}
	failed := make(chan error, 2)
	go func() { failed <- server.ListenAndServe() }()
	if c.Figures != "" {
		aside := &http.Server{Addr: c.Figures, Handler: counted.Handler(), ReadHeaderTimeout: 10 * time.Second,
			WriteTimeout: time.Minute}
		defer aside.Close()
		go func() { failed <- aside.ListenAndServe() }()
	}
	working := make(chan struct{})
	go func() {
		defer close(working)
		if c.prepare(ctx, s) {
			go c.sweep(ctx, s, programs)
			if !c.Deliver {
				slog.Warn("LAZO_DELIVER is false: e-mails and hooks wait, and nothing goes out")
				return
			}
			deliver(ctx, office)
		}
	}()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	c.drain()
	err = end(server, lastRequests)
	select {
	case <-working:
	case <-time.After(lastLetters):
	}
	return err
}

// deliver sends what goes out until ctx ends; what keeps it from beginning is tried again.
func deliver(ctx context.Context, office *notify.Outgoing) {
	for {
		err := office.Run(ctx)
		if err == nil || ctx.Err() != nil {
			return
		}
		slog.Warn("letters can’t be sent; trying again", "err", err)
		select {
		case <-ctx.Done():
			return
		case <-time.After(deliverAgain):
		}
	}
}

// deliverAgain is how long is waited before delivering is begun again; lastLetters how
// long letters that are being handed over may take when the application is told to stop.
const (
	deliverAgain = 5 * time.Second
	lastLetters  = 6 * time.Second
)

// lastRequests is how long requests that are under way may take when the application
// is told to stop.
const lastRequests = 8 * time.Second

// lastQueries is how long the database may take to let go of its connections after that.
const lastQueries = 2 * time.Second

func closeWithin(s *store.Store, within time.Duration) {
	closed := make(chan struct{})
	go func() {
		s.Close()
		close(closed)
	}()
	select {
	case <-closed:
	case <-time.After(within):
	}
}

// end stops a server. Whoever is not done in time is cut off.
func end(server *http.Server, within time.Duration) error {
	wait, cancel := context.WithTimeout(context.Background(), within)
	defer cancel()
	err := server.Shutdown(wait)
	if errors.Is(err, context.DeadlineExceeded) {
		slog.Warn("requests were cut off, since the application stops")
		return server.Close()
	}
	return err
}

// drain goes on for a while after /readyz has begun to say no, so that a proxy sends its
// visitors to others before nobody answers here any more. Who stops it twice does not wait.
func (c *serveCmd) drain() {
	if c.Demo || c.Drain <= 0 {
		return
	}
	again := make(chan os.Signal, 1)
	signal.Notify(again, os.Interrupt, syscall.SIGTERM)
	defer signal.Stop(again)
	select {
	case <-time.After(c.Drain):
	case <-again:
	}
}

// prepare migrates as soon as the database answers, and says so; false if that never came.
func (c *serveCmd) prepare(ctx context.Context, s *store.Store) bool {
	for told := false; ; {
		err := s.Migrate(ctx)
		if err == nil && c.Demo {
			err = demo.EnsureTelling(ctx, s, time.Now(), c.DemoHook)
		}
		if err == nil && c.Demo && c.Busy {
			err = demo.Busy(ctx, s, time.Now())
		}
		if err == nil {
			break
		}
		if !told {
			slog.Warn("the database is not ready; trying again every second", "err", err)
			told = true
		}
		select {
		case <-ctx.Done():
			return false
		case <-time.After(time.Second):
		}
	}
	at := cmp.Or(c.Base, "http://"+c.Listen)
	fmt.Printf("Lazo is ready: %s/\n", at)
	if err := c.welcome(ctx, s); err != nil && ctx.Err() == nil {
		slog.Error("who can sign in could not be found out", "err", err)
	}
	if c.Demo {
		fmt.Print(demo.Welcome(at))
	}
	return true
}

// welcome prints an address where nobody can sign in yet: at it the first workspace is
// made, with its owner.
func (c *serveCmd) welcome(ctx context.Context, s *store.Store) error {
	there, err := s.HasAccounts(ctx)
	if err != nil || there {
		return err
	}
	secret, err := s.AddToken(ctx, store.Token{Kind: store.First}, store.FirstLasts)
	if err != nil {
		return err
	}
	fmt.Printf("\nNobody can sign in yet. Make the first workspace at this address, good once and for a day:\n  %s\n\n",
		site{cmp.Or(c.Base, "http://"+c.Listen)}.address("/begin/"+secret))
	return nil
}

// sweepEvery is how often what nobody will come back for is deleted. Any copy of
// the application may do it at any time.
const sweepEvery = 30 * time.Minute

func (c *serveCmd) sweep(ctx context.Context, s *store.Store, programs *editions.Programs) {
	for {
		if err := s.Sweep(ctx, respond.Unsent); err != nil && ctx.Err() == nil {
			slog.Warn("sweeping", "err", err)
		}
		if err := privacy.EraseOverdue(ctx, s, programs, time.Now()); err != nil && ctx.Err() == nil {
			slog.Warn("deleting what is over", "err", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(sweepEvery):
		}
	}
}

type migrateCmd struct{ database }

func (c *migrateCmd) Run() error {
	ctx := context.Background()
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := s.Migrate(ctx); err != nil {
		return err
	}
	return notify.Migrate(ctx, s)
}

type schemaCmd struct{}

func (schemaCmd) Run() error {
	_, err := os.Stdout.Write(form.Schema())
	return err
}

type importCmd struct {
	database
	Form  string `arg:"" help:"The form file, or - for standard input."`
	Email string `help:"The e-mail address of a member; the form goes to that member's workspace." required:""`
}

// Run stores a form file as a new draft. What is wrong with its ties is told and stored all
// the same, as a draft that is not finished yet; a file that can't be understood whole is not.
func (c *importCmd) Run() error {
	data, err := readFile(c.Form, form.MaxBytes)
	if err != nil {
		return err
	}
	def, remarks := form.Read(data)
	if def == nil || len(form.Errors(remarks)) > 0 {
		for _, r := range form.Errors(remarks) {
			fmt.Fprintln(os.Stderr, r)
		}
		return status(1)
	}
	_, remarks = engine.Compile(def)
	for _, r := range form.Errors(remarks) {
		fmt.Fprintln(os.Stderr, "to be fixed in the draft:", r)
	}
	ctx := context.Background()
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	m, err := s.MemberByEmail(ctx, c.Email)
	if errors.Is(err, store.ErrNotFound) {
		return fmt.Errorf("there is no member %s", c.Email)
	}
	if err != nil {
		return err
	}
	f, err := s.InWorkspace(m.WorkspaceID).CreateForm(ctx, def)
	if err != nil {
		return err
	}
	fmt.Println(f.Address)
	return nil
}

type exportCmd struct {
	database
	Address string `arg:"" help:"The form's key in its public address."`
	Edition int    `help:"An edition; the draft if left out."`
}

// Run prints a form file.
func (c *exportCmd) Run() error {
	ctx := context.Background()
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	f, err := s.FormByAddress(ctx, c.Address)
	if errors.Is(err, store.ErrNotFound) {
		return fmt.Errorf("there is no form %s", c.Address)
	}
	if err != nil {
		return err
	}
	var def *form.Form
	if c.Edition > 0 {
		e, err := s.Edition(ctx, f.EditionID(c.Edition))
		if err != nil {
			return fmt.Errorf("edition %d: %w", c.Edition, err)
		}
		if def, err = e.Form(); err != nil {
			return err
		}
	} else {
		if f, err = s.InWorkspace(f.WorkspaceID).Form(f.ID).Get(ctx); err != nil {
			return err
		}
		if def, err = f.Definition(); err != nil {
			return err
		}
	}
	_, err = os.Stdout.Write(def.JSON())
	return err
}
