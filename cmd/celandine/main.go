// Celandine runs and grades controller exercises. See celandine --help.
package main

import (
	"os"

	"celandine/cli"
)

func main() {
	root := cli.New()
	addService(root)
	os.Exit(cli.Execute(root, os.Args[1:], os.Stderr))
}
