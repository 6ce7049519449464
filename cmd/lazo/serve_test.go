package main

import (
	"net"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A request that would never end does not keep the application from stopping, and is
// told so by a broken connection.
func TestStoppingWaitsForNobodyForEver(t *testing.T) {
	arrived := make(chan struct{})
	server := &http.Server{Handler: http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		close(arrived)
		<-r.Context().Done()
	})}
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go func() { _ = server.Serve(listener) }()
	cut := make(chan error, 1)
	go func() {
		res, err := http.Get("http://" + listener.Addr().String())
		if err == nil {
			res.Body.Close()
		}
		cut <- err
	}()
	<-arrived
	stopped := make(chan error, 1)
	go func() { stopped <- end(server, 50*time.Millisecond) }()
	select {
	case err := <-stopped:
		require.NoError(t, err)
	case <-time.After(20 * time.Second):
		t.Fatal("it goes on")
	}
	assert.Error(t, <-cut)
}
