package main

import (
	"context"
	"fmt"
	"os"
	"time"

	"github.com/spf13/cobra"

	"celandine/cli"
	"celandine/service"
)

func backupCommand() *cobra.Command {
	var config service.Config
	return onDatabase(&cobra.Command{
		Use:   "backup [FILE]",
		Short: "Write all records to a file",
		Long: "Backup writes people, classes, exercises, hand-ins, marks and the log as they are at one moment; the service goes on " +
			"meanwhile. It needs pg_dump.",
		Example: "  celandine backup celandine.backup",
		Args:    cobra.MaximumNArgs(1),
	}, &config, func(ctx context.Context, c *cobra.Command, args []string) error {
		file := "celandine-" + time.Now().Format("2006-01-02-1504") + ".backup"
		if len(args) == 1 {
			file = args[0]
		}
		done := cli.Busy(c.ErrOrStderr(), "writing the backup")
		err := service.Backup(ctx, config.Database, file)
		done()
		if err != nil {
			return err
		}
		written, err := os.Stat(file)
		if err != nil {
			return err
		}
		fmt.Fprintf(c.OutOrStdout(), "%s: %.1f MB\n", file, float64(written.Size())/1e6)
		return nil
	})
}

func restoreCommand() *cobra.Command {
	var config service.Config
	return onDatabase(&cobra.Command{
		Use:     "restore FILE",
		Short:   "Put a backup into an empty database",
		Long:    "Restore puts back what backup wrote: all of it, or nothing. A database that has records is left alone. It needs pg_restore.",
		Example: "  celandine restore celandine.backup --database postgres://celandine@127.0.0.1:5432/fresh",
		Args:    cobra.ExactArgs(1),
	}, &config, func(ctx context.Context, c *cobra.Command, args []string) error {
		done := cli.Busy(c.ErrOrStderr(), "putting the backup back")
		err := service.Restore(ctx, config.Database, args[0])
		done()
		if err != nil {
			return err
		}
		fmt.Fprintln(c.OutOrStdout(), "restored; start the service on it")
		return nil
	})
}
