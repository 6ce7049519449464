// Package postbox is a small mail server that keeps what it is given and shows it as a web
// page, instead of handing it on: for trying Lazo out, and for its tests. It can be told
// to behave as mail servers do on a bad day.
package postbox

import (
	"crypto/tls"
	"errors"
	"io"
	"net"
	"net/http"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
	"github.com/go-chi/chi/v5"
)

// Fault is what is wrong with the mail server.
type Fault string

// The faults that can be asked for.
const (
	Well     Fault = ""         // nothing is
	Refuse   Fault = "refuse"   // it takes no letter, for good
	Busy     Fault = "busy"     // it takes no letter, for now
	Slow     Fault = "slow"     // it takes seconds
	BreakOff Fault = "breakoff" // it takes the letter, and breaks off before it says so
)

// Faults are all that can be asked for, in words.
var Faults = []struct {
	Fault Fault
	Says  string
}{
	{Well, "takes letters"}, {Refuse, "refuses them for good"}, {Busy, "refuses them for now"},
	{Slow, "takes five seconds"},
	{BreakOff, "takes them and breaks off"},
}

// Bounds of what is kept: letters, the oldest of which go first, and the bytes of one.
const (
	mostLetters = 20_000
	mostBytes   = 12 << 20
)

// slowly is how long a slow server takes.
const slowly = 5 * time.Second

// Box keeps letters. It is safe for use by many goroutines.
type Box struct {
	Takes time.Duration // how long it takes over each letter; set before it serves

	mu      sync.Mutex
	letters []Letter // the oldest first
	taken   int
	fault   Fault
	offered int // how often a letter was offered, taken or not
	server  *smtp.Server
}

// New is an empty box; with a certificate it offers STARTTLS and takes letters only after
// it.
func New(certificate *tls.Config) *Box {
	b := &Box{}
	b.server = smtp.NewServer(b)
	b.server.Domain, b.server.TLSConfig = "postbox.example", certificate
	b.server.MaxMessageBytes, b.server.MaxRecipients = mostBytes, 100
	b.server.ReadTimeout, b.server.WriteTimeout = time.Minute, time.Minute
	b.server.ErrorLog = quiet{}
	return b
}

// quiet says nothing of connections that clients end.
type quiet struct{}

func (quiet) Printf(string, ...any) {}
func (quiet) Println(...any)        {}

// Serve takes letters by SMTP until it is closed.
func (b *Box) Serve(l net.Listener) error {
	err := b.server.Serve(l)
	if errors.Is(err, smtp.ErrServerClosed) {
		return nil
	}
	return err
}

// Close ends the server and its connections.
func (b *Box) Close() error { return b.server.Close() }

// Suffer has the server behave as a fault has it, from now on.
func (b *Box) Suffer(f Fault) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.fault = f
}

// Letters are those that were taken, the oldest first.
func (b *Box) Letters() []Letter {
	b.mu.Lock()
	defer b.mu.Unlock()
	return append([]Letter(nil), b.letters...)
}

// Offered is how often a letter was offered, taken or not.
func (b *Box) Offered() int {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.offered
}

// NewSession begins a session with a client.
func (b *Box) NewSession(c *smtp.Conn) (smtp.Session, error) {
	return &session{box: b, conn: c}, nil
}

type session struct {
	box  *Box
	conn *smtp.Conn
	from string
	to   []string
}

var (
	errRefused = &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1},
		Message: "There is no such mailbox here"}
	errBusy     = &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "Come back later"}
	errEncrypt  = &smtp.SMTPError{Code: 530, EnhancedCode: smtp.EnhancedCode{5, 7, 0}, Message: "Begin with STARTTLS"}
	errBreakOff = errors.New("broken off")
)

func (s *session) Reset()        { s.from, s.to = "", nil }
func (s *session) Logout() error { return nil }

func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	if _, encrypted := s.conn.TLSConnectionState(); s.box.server.TLSConfig != nil && !encrypted {
		return errEncrypt
	}
	s.from = from
	return nil
}

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.box.mu.Lock()
	defer s.box.mu.Unlock()
	switch s.box.fault {
	case Refuse:
		s.box.offered++
		return errRefused
	case Busy:
		s.box.offered++
		return errBusy
	}
	s.to = append(s.to, to)
	return nil
}

func (s *session) Data(r io.Reader) error {
	data, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	s.box.mu.Lock()
	fault := s.box.fault
	s.box.offered++
	s.box.mu.Unlock()
	time.Sleep(s.box.Takes)
	if fault == Slow {
		time.Sleep(slowly)
	}
	s.box.keep(s.from, s.to, data)
	if fault == BreakOff {
		_ = s.conn.Conn().Close()
		return errBreakOff
	}
	return nil
}

func (b *Box) keep(from string, to []string, data []byte) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.taken++
	b.letters = append(b.letters, Letter{Number: b.taken, From: from, To: to, Data: data, Taken: time.Now()})
	if len(b.letters) > mostLetters {
		b.letters = b.letters[len(b.letters)-mostLetters:]
	}
}

// Handler shows what was taken, and asks for faults.
func (b *Box) Handler() http.Handler {
	r := chi.NewRouter()
	r.Use(http.NewCrossOriginProtection().Handler)
	r.Get("/", b.list)
	r.Get("/letters/{number}", b.letter)
	r.Get("/letters/{number}/html", b.html)
	r.Get("/letters/{number}/parts/{part}", b.part)
	r.Get("/letters/{number}/source", b.source)
	r.Post("/fault", b.suffer)
	return r
}
