package credential

import (
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base32"
	"encoding/hex"
	"net/url"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"
)

// The second factor is a code of six digits that changes every half minute (RFC 6238,
// with the values that all programs for it know). The code before and the one after are
// taken as well, since clocks differ.
const (
	period = 30
	skew   = 1
)

var written = base32.StdEncoding.WithPadding(base32.NoPadding)

// NewSecret makes the secret of a second factor: 160 bits, as RFC 4226 recommends.
func NewSecret() []byte {
	secret := make([]byte, 20)
	rand.Read(secret)
	return secret
}

// Written is a secret as it is typed, in groups of four.
func Written(secret []byte) string {
	text := written.EncodeToString(secret)
	var groups []string
	for len(text) > 4 {
		groups, text = append(groups, text[:4]), text[4:]
	}
	return strings.Join(append(groups, text), " ")
}

// Address is a secret as a program reads it from a picture, for an account at a site.
func Address(secret []byte, account, site string) string {
	u := url.URL{Scheme: "otpauth", Host: "totp", Path: "/" + site + ":" + account}
	u.RawQuery = url.Values{"secret": {written.EncodeToString(secret)}, "issuer": {site}, "period": {"30"},
		"digits": {"6"}}.Encode()
	return u.String()
}

// Step finds the period that a code is of, now or next to it; ok is false if it is of
// none. A step that was used before is not to be taken again.
func Step(secret []byte, code string, now time.Time) (step int64, ok bool) {
	code = strings.Join(strings.Fields(code), "")
	for by := int64(-skew); by <= skew; by++ {
		at := now.Add(time.Duration(by*period) * time.Second)
		want, err := totp.GenerateCodeCustom(written.EncodeToString(secret), at,
			totp.ValidateOpts{Period: period, Digits: otp.DigitsSix})
		if err == nil && subtle.ConstantTimeCompare([]byte(want), []byte(code)) == 1 {
			return at.Unix() / period, true
		}
	}
	return 0, false
}

// recoveries is how many codes stand in for a second factor that is lost.
const recoveries = 10

// Recovery makes codes that stand in for the second factor, each once, with the hashes
// that are kept of them. They have 120 bits, so that a plain hash is
// enough.
func Recovery() (codes, hashes []string) {
	for range recoveries {
		random := make([]byte, 15)
		rand.Read(random)
		code := strings.ReplaceAll(strings.ToLower(Written(random)), " ", "-")
		codes, hashes = append(codes, code), append(hashes, RecoveryHash(code))
	}
	return codes, hashes
}

// RecoveryHash is what is kept of a code.
func RecoveryHash(code string) string {
	plain := strings.NewReplacer("-", "", " ", "").Replace(strings.ToLower(code))
	sum := sha256.Sum256([]byte(plain))
	return hex.EncodeToString(sum[:])
}
