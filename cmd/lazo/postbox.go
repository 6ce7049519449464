package main

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/signal"
	"syscall"
	"time"

	"lazo/notify/postbox"
)

type postboxCmd struct {
	SMTP string `name:"smtp" help:"The address to take letters at; LAZO_SMTP_URL is then smtp://THIS?tls=none." default:"127.0.0.1:2525"`
	Web  string `help:"The address of the page that shows them." default:"127.0.0.1:8025"`
}

// Run takes letters and shows them until it is told to stop.
func (c *postboxCmd) Run() error {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	box := postbox.New(nil)
	l, err := net.Listen("tcp", c.SMTP)
	if err != nil {
		return err
	}
	pages := &http.Server{Addr: c.Web, Handler: box.Handler(), ReadHeaderTimeout: 10 * time.Second}
	failed := make(chan error, 2)
	go func() { failed <- box.Serve(l) }()
	go func() { failed <- pages.ListenAndServe() }()
	fmt.Printf("The postbox takes letters at smtp://%s?tls=none and shows them at http://%s/\n", c.SMTP, c.Web)
	select {
	case err = <-failed:
	case <-ctx.Done():
	}
	_ = box.Close()
	_ = pages.Close()
	return err
}
