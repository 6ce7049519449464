// Package credential is about what people prove by who they are: passwords, and a second
// factor by codes that change with the time.
package credential

import (
	"context"
	"crypto/sha512"
	"encoding/base64"
	"errors"
	"fmt"
	"runtime"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/trustelem/zxcvbn"
	"github.com/trustelem/zxcvbn/frequency"
	"golang.org/x/crypto/bcrypt"
	"golang.org/x/text/unicode/norm"
)

// The bounds of a password, in characters. NIST SP 800-63B-4, 3.1.1.2: at least 15 where
// it is the only factor, at least 64 allowed, nothing asked of what it consists of, no
// change after a time.
const (
	Shortest = 15
	Longest  = 200
)

// fewGuesses is how many guesses a password has to stand at least; a copy of the hash can
// be tried slowly only, since it is made to be slow.
const fewGuesses = 1e8

// ownLeast is how many characters of a password are not its owner's name or address.
const ownLeast = 8

// Judge says what is wrong with a password that somebody wants, in words; nil if nothing
// is. Known are words that an attacker knows of its owner: name, address, workspace.
func Judge(password string, known ...string) error {
	password = normal(password)
	n := utf8.RuneCountInString(password)
	switch {
	case n < Shortest:
		return fmt.Errorf("it has %d characters, and needs %d at least. Several words that nobody else would put together are easy to keep in mind", n, Shortest)
	case n > Longest:
		return fmt.Errorf("it has %d characters; %d are as many as it may have", n, Longest)
	}
	lower := strings.ToLower(password)
	if slices.Contains(frequency.FrequencyLists["passwords"], lower) {
		return errors.New("it is one of those that are tried first")
	}
	var words []string
	for _, k := range known {
		words = append(words, strings.FieldsFunc(strings.ToLower(k),
			func(r rune) bool { return strings.ContainsRune(" @.-_", r) })...)
	}
	rest := lower
	for _, word := range words {
		if len(word) > 2 {
			rest = strings.ReplaceAll(rest, word, "")
		}
	}
	if utf8.RuneCountInString(rest) < ownLeast ||
		zxcvbn.PasswordStrength(first(password, 72), append(words, "lazo")).Guesses < fewGuesses {
		return errors.New("it is made of words, dates or rows of keys that are tried first, or of your name or address")
	}
	return nil
}

// first is so much of a text as is looked at; what follows can't make it weaker.
func first(s string, n int) string {
	for i := range s {
		if i > n {
			return s[:i]
		}
	}
	return s
}

// normal is a password as it is compared, whatever keyboard it was typed with
// (NIST SP 800-63B-4, 3.1.1.2).
func normal(password string) string { return norm.NFC.String(password) }

// cost is that of bcrypt: about a quarter of a second.
const cost = 12

// inBounds is a password as bcrypt takes it, which looks at 72 bytes alone.
func inBounds(password string) []byte {
	password = normal(password)
	if len(password) <= 72 {
		return []byte(password)
	}
	sum := sha512.Sum384([]byte(password))
	return []byte(base64.RawStdEncoding.EncodeToString(sum[:]))
}

// Hash makes the hash that a password is compared with.
func Hash(password string) (string, error) {
	h, err := bcrypt.GenerateFromPassword(inBounds(password), cost)
	return string(h), err
}

// absent, the hash of what nobody knows, is compared with where there is none, so that
// the time taken does not tell who has an account.
const absent = "$2a$12$xymxFV4svgFHMPx3ARQaKe7Gs9o6dGr7fUfFRxKnLDMZuT6zTsZy6"

// comparisons bounds how many passwords are compared at once, so that attempts leave
// the machine to others.
var comparisons = make(chan struct{}, max(1, runtime.NumCPU()/2))

// Matches reports whether a password is the one of a hash; of no hash none is.
func Matches(ctx context.Context, hash, password string) (bool, error) {
	select {
	case comparisons <- struct{}{}:
		defer func() { <-comparisons }()
	case <-ctx.Done():
		return false, ctx.Err()
	}
	against := hash
	if hash == "" {
		against = absent
	}
	return bcrypt.CompareHashAndPassword([]byte(against), inBounds(first(password, 4*Longest))) == nil && hash != "", nil
}
