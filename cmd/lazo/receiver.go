package main

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"os/signal"
	"syscall"
	"time"

	"lazo/notify"
	"lazo/notify/receiver"
)

type receiverCmd struct {
	Web    string `help:"The address to take events at and to show them." default:"127.0.0.1:8026"`
	Secret string `help:"The hook’s secret, as it was shown: whsec_…" required:"" env:"LAZO_RECEIVER_SECRET"`
}

// Run takes events and shows them until it is told to stop.
func (c *receiverCmd) Run() error {
	secret, err := notify.ReadSecret(c.Secret)
	if err != nil {
		return fmt.Errorf("the secret can’t be read: %w", err)
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	pages := &http.Server{Addr: c.Web, Handler: receiver.New(secret).Handler(), ReadHeaderTimeout: 10 * time.Second}
	failed := make(chan error, 1)
	go func() { failed <- pages.ListenAndServe() }()
	fmt.Printf("The receiver takes and shows events at http://%s/ (LAZO_HOOK_NETWORKS has to allow that)\n", c.Web)
	select {
	case err = <-failed:
	case <-ctx.Done():
	}
	_ = pages.Close()
	return err
}
