package respond

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/google/uuid"

	"lazo/cache"
	"lazo/store"
)

// ticket is what one filling of a form is bound to. It travels signed with the
// page, so that parameters and edition stay those of the arrival, and no cookie
// is needed.
type ticket struct {
	Form      store.FormID        `json:"f"`
	Address   string              `json:"a"` // of the form
	Workspace store.WorkspaceID   `json:"w"`
	Edition   int                 `json:"e"`
	Params    map[string][]string `json:"p,omitempty"`
	Begun     int64               `json:"b"`           // when the filling was, in Unix seconds
	Renewed   int64               `json:"o,omitempty"` // when it was last gone on with
	Link      store.LinkID        `json:"l,omitempty"`
	Response  string              `json:"r,omitempty"` // the response that is being changed
	Since     string              `json:"s,omitempty"` // the state of it that the page began with
	Language  string              `json:"g,omitempty"` // "" is the form's own
	Filling   string              `json:"n"`           // a UUID, the same for a page that is sent twice
}

// EditionID is one of the editions of the ticket's form.
func (t ticket) EditionID(number int) store.EditionID {
	return store.EditionID{Workspace: t.Workspace, Form: t.Form, Number: number}
}

// maxAge is how long a page can lie open before it is sent.
const maxAge = 7 * 24 * time.Hour

// keptFor is how long a filling that was left can be gone on with, and keptAtMost how
// long after it was begun, however often it is left.
const (
	keptFor    = 30 * 24 * time.Hour
	keptAtMost = 180 * 24 * time.Hour
)

// Unsent is how long files of a filling that is not sent are kept: as long as
// somebody may come back to it.
const Unsent = keptFor + 24*time.Hour

var errTicket = errors.New("the page's ticket is not valid")

// age is how long the page at hand has been open.
func (t ticket) age(now time.Time) time.Duration {
	return now.Sub(time.Unix(max(t.Begun, t.Renewed), 0))
}

// Keys sign what travels with a page. The first signs; whatever one of them has signed is good.
type Keys [][]byte

// sign is the signature of a text, of so many bytes.
func (k Keys) sign(body string, size int) string {
	return base64.RawURLEncoding.EncodeToString(mac(k[0], body)[:size])
}

// signed reports whether one of the keys has signed a text so.
func (k Keys) signed(body, sum string, size int) bool {
	got, err := base64.RawURLEncoding.DecodeString(sum)
	if err != nil {
		return false
	}
	good := false
	for _, key := range k {
		good = hmac.Equal(got, mac(key, body)[:size]) || good
	}
	return good
}

func (t ticket) sign(keys Keys) (string, error) {
	data, err := json.Marshal(t)
	if err != nil {
		return "", err
	}
	body := base64.RawURLEncoding.EncodeToString(data)
	return body + "." + keys.sign(body, sha256.Size), nil
}

func mac(secret []byte, body string) []byte {
	h := hmac.New(sha256.New, secret)
	h.Write([]byte(body))
	return h.Sum(nil)
}

// tickets are those that were opened lately: a page sends the same one with each of
// its live changes. The signed text is as good a key as its signature.
type tickets struct{ opened *cache.Cache[string, ticket] }

// ticketBytes bounds what is remembered of tickets.
const ticketBytes = 4 << 20

func newTickets() tickets {
	return tickets{cache.New(ticketBytes, func(signed string, _ ticket) int { return 2*len(signed) + 300 })}
}

// open is openTicket with a memory.
func (c tickets) open(keys Keys, signed string, now time.Time) (ticket, error) {
	if t, ok := c.opened.Get(signed); ok && t.age(now) <= maxAge {
		return t, nil
	}
	t, err := openTicket(keys, signed, now)
	if err == nil {
		c.opened.Add(strings.Clone(signed), t)
	}
	return t, err
}

func openTicket(keys Keys, signed string, now time.Time) (ticket, error) {
	var t ticket
	body, sum, _ := strings.Cut(signed, ".")
	if !keys.signed(body, sum, sha256.Size) {
		return t, errTicket
	}
	data, err := base64.RawURLEncoding.DecodeString(body)
	if err != nil || json.Unmarshal(data, &t) != nil || t.age(now) > maxAge {
		return t, errTicket
	}
	return t, nil
}

// newFilling names a filling: nobody can guess it.
func newFilling() string { return uuid.NewString() }
