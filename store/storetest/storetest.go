// Package storetest opens a fresh database for tests.
package storetest

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"fmt"
	"net/url"
	"os"
	"testing"

	"github.com/jackc/pgx/v5"
	"golang.org/x/crypto/bcrypt"

	"lazo/store"
)

// Main runs a package's tests with a database of its own, after prepare has made it
// ready. Without a server they are skipped, and that is said: make test, and so whatever
// checks a change, always has one.
func Main(m *testing.M, prepare func(s *store.Store) (done func())) int {
	if os.Getenv("LAZO_TEST_DATABASE_URL") == "" {
		fmt.Println("skipped: LAZO_TEST_DATABASE_URL names no PostgreSQL; make test starts one")
		return 0
	}
	s, done := Open()
	defer done()
	defer prepare(s)()
	return m.Run()
}

// Also makes what else a package's tests need in a database, over it itself.
var Also = func(context.Context, *store.Store) error { return nil }

// Open makes a migrated database of its own on the server that
// LAZO_TEST_DATABASE_URL names; done drops it. It panics without a server, since
// no test of the store means anything without one: make test starts it.
func Open() (s *store.Store, done func()) {
	s, _, done = OpenURL()
	return s, done
}

// OpenURL is Open with the database's address.
func OpenURL() (s *store.Store, address string, done func()) {
	ctx := context.Background()
	address, drop := Empty()
	s, err := store.Open(ctx, address)
	check(err)
	check(s.Migrate(ctx))
	check(Also(ctx, s))
	if at := os.Getenv("LAZO_TEST_SHARED"); at != "" {
		s.Close()
		s, err = store.OpenShared(ctx, Shared(address, at))
		check(err)
		check(s.Migrate(ctx))
	}
	return s, address, func() {
		s.Close()
		drop()
	}
}

// Shared is the address of a database over a program that shares connections at another
// host and port.
func Shared(address, at string) string {
	u, err := url.Parse(address)
	check(err)
	u.Host = at
	return u.String()
}

// Empty makes a database of its own without a schema.
func Empty() (address string, drop func()) {
	ctx := context.Background()
	base := os.Getenv("LAZO_TEST_DATABASE_URL")
	if base == "" {
		panic("LAZO_TEST_DATABASE_URL is not set; run make test")
	}
	u, err := url.Parse(base)
	check(err)
	var b [6]byte
	rand.Read(b[:])
	name := "test_" + hex.EncodeToString(b[:])
	admin := func(sql string) {
		conn, err := pgx.Connect(ctx, base)
		check(err)
		defer conn.Close(ctx)
		_, err = conn.Exec(ctx, sql)
		check(err)
	}
	admin("create database " + name)
	u.Path = "/" + name
	return u.String(), func() { admin(fmt.Sprintf("drop database %s with (force)", name)) }
}

// Hash is the hash of a password, made as quickly as can be.
func Hash(password string) string {
	h, err := bcrypt.GenerateFromPassword([]byte(password), bcrypt.MinCost)
	check(err)
	return string(h)
}

func check(err error) {
	if err != nil {
		panic(err)
	}
}
