package main

import (
	"fmt"
	"runtime/debug"

	"lazo"
)

type noticesCmd struct{}

// Run prints what ships with the program, and the modules that it was built from.
func (noticesCmd) Run() error {
	fmt.Println(lazo.Notices)
	if info, ok := debug.ReadBuildInfo(); ok {
		for _, m := range info.Deps {
			fmt.Println(m.Path, m.Version)
		}
	}
	return nil
}
