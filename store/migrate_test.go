package store_test

import (
	"context"
	"database/sql"
	"os"
	"testing"
	"time"

	"github.com/google/uuid"
	_ "github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
	"lazo/store/storetest"
)

// Every migration can be taken back and made again with data there, and what is tallied is
// right on both sides.
func TestMigrationsGoBackAndForth(t *testing.T) {
	ctx := context.Background()
	s, address, done := storetest.OpenURL()
	defer done()
	w, err := s.CreateWorkspace(ctx, "Harbour")
	require.NoError(t, err)
	f, err := s.InWorkspace(w.ID).CreateForm(ctx, &form.Form{Lazo: 1, Key: "back-and-forth", Title: "T", Timezone: "UTC"})
	require.NoError(t, err)
	m, err := s.CreateMember(ctx,
		store.Member{WorkspaceID: w.ID, Email: "ana@pedralta.example", Name: "Ana", PasswordHash: "x"})
	require.NoError(t, err)
	_, err = s.InWorkspace(w.ID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	for i := range 7 {
		_, err := s.AddResponse(ctx, store.Response{WorkspaceID: w.ID, FormID: f.ID, Edition: 1, Answers: []byte(`{}`),
			ReceivedAt: time.Now().AddDate(0, 0, -i/3), Filling: uuid.NewString()})
		require.NoError(t, err)
	}
	db, err := sql.Open("pgx", address)
	require.NoError(t, err)
	defer db.Close()
	p, err := goose.NewProvider(goose.DialectPostgres, db, os.DirFS("migrations"))
	require.NoError(t, err)
	tallied := func() (n int) {
		require.NoError(t, db.QueryRowContext(ctx, "select sum(responses) from response_tallies").Scan(&n))
		return n
	}
	newest, err := p.GetDBVersion(ctx)
	require.NoError(t, err)
	for version := newest - 1; version >= 12; version-- { // the tallies came with 12
		_, err := p.DownTo(ctx, version)
		require.NoError(t, err, version)
		assert.Equal(t, 7, tallied(), version)
		_, err = p.Up(ctx)
		require.NoError(t, err, version)
		assert.Equal(t, 7, tallied(), version)
	}
	_, err = p.DownTo(ctx, 0)
	require.NoError(t, err)
	_, err = p.Up(ctx)
	require.NoError(t, err)
}
