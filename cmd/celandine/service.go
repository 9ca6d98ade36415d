package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"runtime"
	"runtime/debug"
	"syscall"

	"github.com/spf13/cobra"

	"celandine/cli"
	"celandine/service"
	"celandine/service/auth"
	"celandine/service/store"
	"celandine/web"
)

// addService adds the commands that are the service itself.
func addService(root *cobra.Command) {
	for _, c := range []*cobra.Command{serveCommand(), workerCommand(), migrateCommand(), courseCommand(), backupCommand(), restoreCommand()} {
		c.GroupID = "service"
		root.AddCommand(c)
	}
}

var errNoDatabase = errors.New("say where the database is with --database or CELANDINE_DATABASE")

// database adds the flag that says where the records are.
func database(c *cobra.Command, config *service.Config) {
	c.Flags().StringVar(&config.Database, "database", os.Getenv("CELANDINE_DATABASE"), "the PostgreSQL `address`; CELANDINE_DATABASE sets it too")
}

func interruptible(c *cobra.Command) (context.Context, context.CancelFunc) {
	return signal.NotifyContext(c.Context(), os.Interrupt, syscall.SIGTERM)
}

// spend lets the memory grow to five times what is held before it is cleaned up, where GOGC does not say otherwise. A service holds little, and a
// hundred hand-ins at once wait for it.
func spend() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(400)
	}
}

func serveCommand() *cobra.Command {
	config := service.Config{Cost: auth.Cost}
	c := &cobra.Command{
		Use:   "serve",
		Short: "Serve the console and the API, and grade hand-ins",
		Long: `Serve brings the database's schema up to date, answers on --listen and grades hand-ins until
it is stopped. Several may run on one database. Logs go to standard error as JSON.`,
		Example: "  celandine serve --database postgres://celandine@127.0.0.1:5432/celandine",
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if config.Database == "" {
				return errNoDatabase
			}
			console, err := web.Handler()
			if err != nil {
				return err
			}
			config.Console = console
			config.Log = slog.New(slog.NewJSONHandler(c.ErrOrStderr(), nil))
			spend()
			ctx, stop := interruptible(c)
			defer stop()
			if err := service.Run(ctx, config); err != nil {
				return cli.BrokenError(err)
			}
			return nil
		},
	}
	database(c, &config)
	c.Flags().StringVar(&config.Listen, "listen", "127.0.0.1:8460", "the `address` to answer on")
	c.Flags().IntVar(&config.Workers, "workers", runtime.NumCPU(), "gradings at once; 0 leaves them to worker processes")
	c.Flags().IntVar(&config.Drafts, "keep-drafts", 400, "`days` that a draft is kept after its last saving; 0 is for ever")
	c.Flags().IntVar(&config.Traces, "keep-traces", 0, "`days` that the traces of a hand-in are kept; 0 is for ever. Marks, differences and programs stay")
	c.Flags().IntVar(&config.SignIns, "sign-ins", 30, "sign-in attempts a minute from one address")
	configured(c)
	return c
}

func workerCommand() *cobra.Command {
	var config service.Config
	c := &cobra.Command{
		Use:     "worker",
		Short:   "Grade hand-ins, and nothing else",
		Long:    "Worker takes hand-ins from the queue and grades them until it is stopped. Any number may run, on any machines, beside any number of serve processes, all on one database.",
		Example: "  celandine worker --workers 4",
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if config.Database == "" {
				return errNoDatabase
			}
			if config.Workers < 1 {
				return fmt.Errorf("--workers is at least 1")
			}
			config.Log = slog.New(slog.NewJSONHandler(c.ErrOrStderr(), nil))
			spend()
			ctx, stop := interruptible(c)
			defer stop()
			if err := service.Work(ctx, config); err != nil {
				return cli.BrokenError(err)
			}
			return nil
		},
	}
	database(c, &config)
	c.Flags().IntVar(&config.Workers, "workers", runtime.NumCPU(), "gradings at once")
	configured(c)
	return c
}

func migrateCommand() *cobra.Command {
	var config service.Config
	c := &cobra.Command{
		Use:     "migrate",
		Short:   "Bring the database's schema up to date",
		Long:    "Migrate applies the versions that the database lacks. Serve does the same when it starts; run migrate alone to do it beforehand.",
		Example: "  celandine migrate --database postgres://celandine@127.0.0.1:5432/celandine",
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			s, err := store.Open(c.Context(), config.Database)
			if err != nil {
				return cli.BrokenError(err)
			}
			defer s.Close()
			applied, err := s.Migrate(c.Context())
			if err != nil {
				return cli.BrokenError(err)
			}
			for _, name := range applied {
				fmt.Fprintln(c.OutOrStdout(), "applied "+name)
			}
			if len(applied) == 0 {
				fmt.Fprintln(c.OutOrStdout(), "up to date")
			}
			return nil
		},
	}
	database(c, &config)
	return c
}

func courseCommand() *cobra.Command {
	config := service.Config{Cost: auth.Cost, Workers: runtime.NumCPU()}
	var password string
	load := &cobra.Command{
		Use:   "load DIR",
		Short: "Put a course folder into the database and grade its hand-ins",
		Long: `Load reads course.yaml in DIR, adds its people, class and exercises, and records its hand-ins,
which are graded through the queue. Doing it again changes nothing.`,
		Example: "  celandine course load courses/glasshouse --password glasshouse",
		Args:    cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			ctx, stop := interruptible(c)
			defer stop()
			err := service.LoadCourse(ctx, config, os.DirFS(args[0]), password, func(line string) { fmt.Fprintln(c.OutOrStdout(), line) })
			if err != nil {
				return cli.BrokenError(err)
			}
			return nil
		},
	}
	database(load, &config)
	load.Flags().StringVar(&password, "password", "", "everybody's password (for a demo)")
	_ = load.MarkFlagRequired("password") // the flag exists
	course := &cobra.Command{Use: "course", Short: "Load a whole course"}
	course.AddCommand(load)
	return course
}
