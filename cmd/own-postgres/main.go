// Own-postgres starts, stops or removes a PostgreSQL of the project's own, for scripts.
//
//	own-postgres start DIR [setting=value …]   starts it if need be; prints its address
//	own-postgres stop DIR                      stops it; the data stays
//	own-postgres remove DIR                    stops it and forgets the data
package main

import (
	"context"
	"errors"
	"fmt"
	"os"

	"celandine/cluster"
)

func main() {
	if err := run(context.Background(), os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, "own-postgres:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, arguments []string) error {
	if len(arguments) < 2 {
		return errors.New("usage: own-postgres start|stop|remove DIR [setting=value …]")
	}
	c, err := cluster.In(arguments[1])
	if err != nil {
		return err
	}
	switch arguments[0] {
	case "start":
		address, err := c.Start(ctx, arguments[2:]...)
		if err == nil {
			fmt.Println(address)
		}
		return err
	case "stop":
		return c.Stop(ctx)
	case "remove":
		return c.Remove(ctx)
	}
	return fmt.Errorf("there is no %s; there are start, stop, remove", arguments[0])
}
