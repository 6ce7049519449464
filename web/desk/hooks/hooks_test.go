package hooks_test

import (
	"context"
	"html"
	"net/http"
	"os"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/notify"
	"lazo/store"
	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

func TestAHookHasASecretAndIsTried(t *testing.T) {
	v := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Name"}`)
	ctx := context.Background()
	draft, err := v.InForm().Get(ctx)
	require.NoError(t, err)
	_, err = v.InForm().Edit(ctx, draft.DraftVersion, v.Member(), form.SetProperty("", "hooks",
		[]form.Hook{{Key: "desk", URL: "https://desk.example/boats"}}))
	require.NoError(t, err)
	at := v.Base + "/hooks/desk"
	_, page := v.Get(at)
	assert.Contains(t, page, "https://desk.example/boats")
	assert.Contains(t, page, "Nothing yet.")
	assert.NotContains(t, page, notify.SecretPrefix)

	_, page = v.Post(at+"/secret", nil)
	shown := regexp.MustCompile(`whsec_[A-Za-z0-9+/=]+`).FindString(html.UnescapeString(page))
	require.NotEmpty(t, shown)
	kept, err := v.InForm().HookSecret(ctx, "desk")
	require.NoError(t, err)
	assert.Equal(t, notify.WrittenSecret(kept.Secret), shown)
	_, page = v.Get(at)
	assert.NotContains(t, html.UnescapeString(page), shown, "it is shown once")
	_, page = v.Post(at+"/secret", nil)
	again, err := v.InForm().HookSecret(ctx, "desk")
	require.NoError(t, err)
	assert.Equal(t, kept.Secret, again.Before, "the one before counts for a while")
	assert.NotContains(t, html.UnescapeString(page), shown)

	_, page = v.Post(at+"/test", nil)
	assert.Contains(t, page, "A test by Ana Prado.")
	letters, err := v.Workspace().Letters(ctx, store.Outbox{Kind: store.Hook})
	require.NoError(t, err)
	require.Len(t, letters, 1)
	assert.Nil(t, letters[0].ResponseID)
	status, _ := v.Get(v.Base + "/hooks/none")
	assert.Equal(t, http.StatusNotFound, status)
}
