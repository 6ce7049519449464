// Package browser starts Debian's Chromium for tests and pictures.
package browser

import (
	"context"
	"os"
	"time"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// New starts a browser with a new profile; cancel ends it.
func New(parent context.Context, width, height int) (ctx context.Context, cancel context.CancelFunc) {
	return In(parent, "en-US", width, height)
}

// In is New for somebody whose browser is in a language, as its fields for dates are.
func In(parent context.Context, language string, width, height int) (ctx context.Context, cancel context.CancelFunc) {
	options := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.Flag("disable-gpu", true), chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-component-update", true),
		chromedp.Flag("force-prefers-reduced-motion", true), chromedp.WindowSize(width, height),
		chromedp.WSURLReadTimeout(time.Minute),
		chromedp.Flag("lang", language), chromedp.Flag("accept-lang", language), chromedp.Env("LANGUAGE="+language))
	if os.Getuid() == 0 {
		options = append(options, chromedp.NoSandbox)
	}
	alloc, stop := chromedp.NewExecAllocator(parent, options...)
	ctx, end := chromedp.NewContext(alloc)
	// else whoever uses it sees that it does not start
	if err := chromedp.Do(ctx, chromedp.Navigate("about:blank")); err == nil {
		go leave(ctx)
	}
	return ctx, func() { end(); stop() }
}

// leave answers for whoever is asked whether to leave a page with what was not sent: they
// do.
func leave(ctx context.Context) {
	for dialog, err := range chromedp.Events(ctx, page.JavascriptDialogOpening) {
		if err != nil {
			return
		}
		if dialog.Type == page.DialogTypeBeforeunload {
			_, _ = chromedp.Call(ctx, page.HandleJavaScriptDialog, page.HandleJavaScriptDialogParams{Accept: true})
		}
	}
}
