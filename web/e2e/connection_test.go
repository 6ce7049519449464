package e2e

import (
	"net/http"
	"net/http/httptest"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"lazo/web"
)

// What is sent without a connection waits for it; nothing that was typed is lost.
func TestSendingWaitsForTheConnection(t *testing.T) {
	v := visit(t)
	f := v.live("waiting", `{"key": "name", "type": "text", "label": "Name"}`)
	var broken atomic.Bool
	app := web.New(v.store, web.Options{Quiet: true, Trust: true})
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if broken.Load() {
			panic(http.ErrAbortHandler) // which ends the connection
		}
		app.ServeHTTP(w, r)
	}))
	defer server.Close()
	v = &visitor{&site{server.URL, v.store, v.tab, v.box}, t, v.ctx}
	v.open("/f/waiting")
	v.write("#a-name", "Zulma")
	broken.Store(true)
	v.click(".steps button.first")
	v.sees("goes on as soon as it is back")
	assert.Equal(t, "Zulma", js[string](v, `document.querySelector("#a-name").value`))
	v.write("#a-name", "Zulma Ríos") // one goes on typing meanwhile
	time.Sleep(300 * time.Millisecond)
	broken.Store(false)
	v.sees("have been received")
	assert.Equal(t, "Zulma Ríos", v.stored(f)["name"])
}
