package notify

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"lazo/store"
)

// SecretPrefix begins a secret as it is written down (Standard Webhooks).
const SecretPrefix = "whsec_"

// WrittenSecret is a secret as it is handed to who runs the program that is told.
func WrittenSecret(secret []byte) string {
	return SecretPrefix + base64.StdEncoding.EncodeToString(secret)
}

// ReadSecret reads a secret as it is written down.
func ReadSecret(text string) ([]byte, error) {
	return base64.StdEncoding.DecodeString(strings.TrimPrefix(strings.TrimSpace(text), SecretPrefix))
}

// Signed is the signature of what a program is told (Standard Webhooks 1.0, scheme v1):
// HMAC-SHA256 of the id, the time in Unix seconds and the body, with full stops between.
func Signed(secret []byte, id string, at time.Time, body []byte) string {
	h := hmac.New(sha256.New, secret)
	fmt.Fprintf(h, "%s.%d.", id, at.Unix())
	h.Write(body)
	return "v1," + base64.StdEncoding.EncodeToString(h.Sum(nil))
}

// event is what a program is told (CloudEvents 1.0, structured JSON).
type event struct {
	SpecVersion string    `json:"specversion"`
	ID          string    `json:"id"`
	Source      string    `json:"source"`
	Type        string    `json:"type"`
	Subject     string    `json:"subject,omitempty"`
	Time        time.Time `json:"time"`
	ContentType string    `json:"datacontenttype"`
	Data        data      `json:"data"`
}

// data is what is told of a response. Of one that was deleted only its id is left.
type data struct {
	Form       string              `json:"form"` // its key in its public address
	Edition    int                 `json:"edition"`
	Response   string              `json:"response,omitempty"`
	Received   *time.Time          `json:"received_at,omitempty"`
	Parameters map[string][]string `json:"parameters,omitempty"`
	Answers    json.RawMessage     `json:"answers,omitempty"`
}

// Trial is the event of a test.
const Trial = "test"

// eventOf is what is told.
func eventOf(l store.Letter, r store.Response, site, address string) ([]byte, error) {
	e := event{SpecVersion: "1.0", ID: l.MessageID, Source: site + "/f/" + address, Type: "lazo.response." + l.Subject,
		Time:        l.MadeAt.UTC(),
		ContentType: "application/json", Data: data{Form: address, Edition: l.Edition}}
	switch {
	case l.Subject == Trial:
		e.Type = "lazo.test"
	case l.ResponseID != nil:
		received := r.ReceivedAt.UTC()
		e.Subject = r.ID
		e.Data.Response, e.Data.Received, e.Data.Parameters, e.Data.Answers = r.ID, &received, r.Parameters,
			json.RawMessage(l.Body)
	default: // it was deleted
		if err := json.Unmarshal([]byte(l.Body), &e.Data); err != nil {
			return nil, err
		}
		e.Subject = e.Data.Response
	}
	return json.Marshal(e)
}

// Bounds of what a program may answer, and how long it may take.
const (
	mostReply   = 2000
	replyWithin = 15 * time.Second
)

// caller calls other programs: only by https, and only at public addresses, unless the
// operator allows networks. Where a name leads is looked at when the connection is made,
// so that nothing can be changed in between. It follows no redirects.
type caller struct {
	allowed []netip.Prefix
	client  *http.Client
}

// errNotPublic is for an address that is not to be called.
var errNotPublic = errors.New("it leads to an address that is not public")

func newCaller(allowed []netip.Prefix) *caller {
	c := &caller{allowed: allowed}
	dial := &net.Dialer{Timeout: 5 * time.Second, Control: func(_, address string, _ syscall.RawConn) error {
		at, err := netip.ParseAddrPort(address)
		if err != nil {
			return err
		}
		if !c.may(at.Addr()) {
			return errNotPublic
		}
		return nil
	}}
	c.client = &http.Client{Timeout: replyWithin,
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
		Transport: &http.Transport{DialContext: dial.DialContext, DisableKeepAlives: true, DisableCompression: true,
			TLSHandshakeTimeout: 5 * time.Second, ResponseHeaderTimeout: replyWithin, MaxResponseHeaderBytes: 16 << 10}}
	return c
}

// reserved are networks that are not public and that netip does not tell: carrier-grade
// NAT, protocol assignments, documentation, benchmarks, 6to4 relays, reserved ones, and
// those of IPv6 that hold IPv4 addresses (RFC 6890, RFC 8215, RFC 4380, RFC 9637, RFC 9602).
var reserved = func() (out []netip.Prefix) {
	for _, p := range []string{
		"0.0.0.0/8", "100.64.0.0/10", "192.0.0.0/24", "192.0.2.0/24", "192.88.99.0/24", "198.18.0.0/15", "198.51.100.0/24",
		"203.0.113.0/24",
		"240.0.0.0/4", "::/96", "64:ff9b::/96", "64:ff9b:1::/48", "100::/64", "2001::/23", "2001:db8::/32", "2002::/16",
		"3fff::/20", "5f00::/16",
		"fec0::/10",
	} {
		out = append(out, netip.MustParsePrefix(p))
	}
	return out
}()

// may reports whether an address may be called.
func (c *caller) may(a netip.Addr) bool {
	a = a.Unmap()
	if c.allows(a) {
		return true
	}
	return a.IsGlobalUnicast() && !a.IsPrivate() &&
		!slices.ContainsFunc(reserved, func(p netip.Prefix) bool { return p.Contains(a) })
}

func (c *caller) allows(a netip.Addr) bool {
	return slices.ContainsFunc(c.allowed, func(p netip.Prefix) bool { return p.Contains(a) })
}

// plain reports whether an address may be called without https: only one that is written
// as a number of a network that the operator allows.
func (c *caller) plain(u *url.URL) bool {
	a, err := netip.ParseAddr(u.Hostname())
	return u.Scheme == "http" && err == nil && c.allows(a.Unmap())
}

// answerError is what a program answered instead of taking what it was told.
type answerError struct {
	status int
	gone   bool
}

func (e answerError) Error() string { return fmt.Sprintf("it answered with %d", e.status) }

// call tells a program, and gives the request and the answer as they went.
func (c *caller) call(
	ctx context.Context, to string, id string, at time.Time, body []byte, secrets ...[]byte,
) (asked, reply string, err error) {
	u, err := url.Parse(to)
	if err != nil || u.Scheme != "https" && !c.plain(u) {
		return "", "", errNotPublic
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, to, bytes.NewReader(body))
	if err != nil {
		return "", "", err
	}
	var signatures []string
	for _, s := range secrets {
		signatures = append(signatures, Signed(s, id, at, body))
	}
	r.Header.Set("Content-Type", "application/cloudevents+json; charset=utf-8")
	r.Header.Set("User-Agent", "Lazo")
	r.Header.Set("Webhook-Id", id)
	r.Header.Set("Webhook-Timestamp", strconv.FormatInt(at.Unix(), 10))
	r.Header.Set("Webhook-Signature", strings.Join(signatures, " "))
	asked = written(r.Header) + "\n" + string(body)
	got, err := c.client.Do(r)
	if err != nil {
		return asked, "", err
	}
	defer got.Body.Close()
	said, _ := io.ReadAll(io.LimitReader(got.Body, mostReply))
	reply = got.Status + "\n" + strings.ToValidUTF8(strings.ReplaceAll(string(said), "\x00", "�"), "�")
	if got.StatusCode/100 != 2 {
		return asked, reply, answerError{got.StatusCode, got.StatusCode == http.StatusGone}
	}
	return asked, reply, nil
}

// written are headers as they are read, without the signature, which is nobody's business.
func written(h http.Header) string {
	var b strings.Builder
	for _, name := range []string{"Content-Type", "Webhook-Id", "Webhook-Timestamp"} {
		b.WriteString(name + ": " + h.Get(name) + "\n")
	}
	return b.String()
}

// tell tells a program what stands in the outbox, and says what became of it.
func (o *Outgoing) tell(ctx context.Context, l store.Letter, r store.Response) (store.LetterState, string, error) {
	in := o.store.InWorkspace(l.WorkspaceID).Form(l.FormID)
	address, err := in.Address(ctx)
	if err != nil {
		return "", "", err
	}
	secret, err := in.HookSecret(ctx, l.Message)
	if err != nil {
		return "", "", err
	}
	secrets := [][]byte{secret.Secret}
	at := o.o.Now()
	if len(secret.Before) > 0 && at.Sub(secret.MadeAt) < store.SecretsOverlap {
		secrets = append(secrets, secret.Before)
	}
	body, err := eventOf(l, r, o.ties.Site, address)
	if err != nil {
		return "", "", errors.Join(errNotSendable, err)
	}
	asked, reply, err := o.caller.call(ctx, l.Recipient, l.MessageID, at, body, secrets...)
	if noted := o.store.Exchanged(context.WithoutCancel(ctx), l.ID, asked, reply); noted != nil {
		return "", "", noted
	}
	if err != nil {
		return "", "", err
	}
	return store.Sent, "", nil
}

// hookSaid puts what went wrong with a program into words; permanent tells that it need
// not be tried again.
func hookSaid(err error) (words string, permanent bool) {
	var answered answerError
	var network net.Error
	switch {
	case errors.Is(err, errNotPublic):
		return "It is told only by https and at public addresses.", true
	case errors.Is(err, errNotSendable):
		return "It can’t be written down.", true
	case errors.As(err, &answered) && answered.gone:
		return "The program says that it is gone for good (410).", true
	case errors.As(err, &answered) && answered.status/100 == 3:
		return fmt.Sprintf("The program led elsewhere (%d), where nobody follows.", answered.status), false
	case errors.As(err, &answered):
		return fmt.Sprintf("The program answered with %d.", answered.status), false
	case errors.As(err, &network) && network.Timeout(), errors.Is(err, context.DeadlineExceeded):
		return "The program did not answer in time.", false
	}
	return "The program can’t be reached.", false
}
