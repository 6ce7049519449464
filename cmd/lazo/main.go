// Command lazo serves the form designer and runs its tools for form files.
package main

import (
	"errors"
	"fmt"
	"os"
	"runtime/debug"
	_ "time/tzdata" // so that time zones are there on every machine

	"github.com/alecthomas/kong"
)

// version is the release; a build says another with -ldflags "-X main.version=…".
var version = "0.8.0"

// built is the version with the commit that it was built from, if that is known.
func built() string {
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return version
	}
	for _, s := range info.Settings {
		if s.Key == "vcs.revision" && len(s.Value) >= 12 {
			return version + " (" + s.Value[:12] + ")"
		}
	}
	return version
}

type commands struct {
	Version   kong.VersionFlag `help:"Print the version."`
	Serve     serveCmd         `cmd:"" help:"Serve the application."`
	Check     checkCmd         `cmd:"" help:"Look at all settings, and whether what they lead to answers."`
	Postbox   postboxCmd       `cmd:"" help:"A mail server that hands nothing on, with a web page that shows what came: for trying letters out."`
	Receiver  receiverCmd      `cmd:"" help:"A program that hooks can tell, with a web page that shows what it was told: for trying hooks out."`
	Migrate   migrateCmd       `cmd:"" help:"Bring the database's schema up to date."`
	Account   accountCmd       `cmd:"" help:"Add accounts, and set passwords that were forgotten."`
	Keys      keysCmd          `cmd:"" help:"Change the keys that sign what travels with public pages."`
	Workspace workspaceCmd     `cmd:"" help:"Add workspaces."`
	Import    importCmd        `cmd:"" help:"Store a form file as a new draft."`
	Export    exportCmd        `cmd:"" help:"Print a form's draft or edition as a form file."`
	Notices   noticesCmd       `cmd:"" help:"Print what ships with Lazo, and what it was built from."`
	Schema    schemaCmd        `cmd:"" help:"Print the JSON Schema of form files."`
	Rehearse  rehearseCmd      `cmd:"" help:"Try a form with answers, address parameters and a moment; nothing is stored."`
	Proof     proofCmd         `cmd:"" help:"Check a form file and print the remarks."`
}

// status is an exit status that was already explained.
type status int

func (s status) Error() string { return fmt.Sprintf("exit status %d", int(s)) }

func main() {
	var cli commands
	parser := kong.Must(&cli, kong.Name("lazo"), kong.Description("Forms whose logic can be seen, explained and trusted."),
		kong.Vars{"version": built()}, kong.UsageOnError(), kong.Exit(func(code int) {
			if code != 0 {
				code = 2
			}
			os.Exit(code)
		}))
	setAside()
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
