// Command lazo serves the form designer and runs its tools for form files.
package main

import (
	"errors"
	"fmt"
	"os"
	_ "time/tzdata" // so that time zones are there on every machine

	"github.com/alecthomas/kong"
)

type commands struct {
	Serve    serveCmd    `cmd:"" help:"Serve the application."`
	Migrate  migrateCmd  `cmd:"" help:"Bring the database's schema up to date."`
	Import   importCmd   `cmd:"" help:"Store a form file as a new draft."`
	Export   exportCmd   `cmd:"" help:"Print a form's draft or edition as a form file."`
	Schema   schemaCmd   `cmd:"" help:"Print the JSON Schema of form files."`
	Rehearse rehearseCmd `cmd:"" help:"Try a form with answers, address parameters and a moment; nothing is stored."`
	Proof    proofCmd    `cmd:"" help:"Check a form file and print the remarks."`
}

// status is an exit status that was already explained.
type status int

func (s status) Error() string { return fmt.Sprintf("exit status %d", int(s)) }

func main() {
	var cli commands
	parser := kong.Must(&cli, kong.Name("lazo"), kong.Description("Forms whose logic can be seen, explained and trusted."),
		kong.UsageOnError(), kong.Exit(func(code int) {
			if code != 0 {
				code = 2
			}
			os.Exit(code)
		}))
	ctx, err := parser.Parse(os.Args[1:])
	if err != nil {
		parser.Errorf("%s", err)
		os.Exit(2)
	}
	if err := ctx.Run(); err != nil {
		var s status
		if errors.As(err, &s) {
			os.Exit(int(s))
		}
		fmt.Fprintln(os.Stderr, "lazo:", err)
		os.Exit(2)
	}
}
