// Celandine runs and grades controller exercises. See celandine --help.
package main

import (
	"os"

	"celandine/cli"
)

func main() { os.Exit(cli.Execute(cli.New(), os.Args[1:], os.Stderr)) }
