package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/netip"
	"os"
	"os/signal"
	"runtime"
	"runtime/debug"
	"slices"
	"syscall"

	"github.com/spf13/cobra"

	"celandine/cli"
	"celandine/service"
	"celandine/service/auth"
	"celandine/service/store"
)

// addService adds the commands that are the service itself. They share their settings: one file serves them all.
func addService(root *cobra.Command) {
	demo := demoCommand()
	demo.GroupID = "service"
	root.AddCommand(demo)
	commands := []*cobra.Command{serveCommand(), workerCommand(), migrateCommand(), administratorCommand(), backupCommand(),
		restoreCommand()}
	load := loadCommand()
	for _, c := range root.Commands() {
		if c.Name() == "course" {
			c.AddCommand(load)
		}
	}
	known := settings(append(slices.Clone(commands), load))
	configured(load, known)
	for _, c := range commands {
		c.GroupID = "service"
		root.AddCommand(c)
		for _, one := range append([]*cobra.Command{c}, c.Commands()...) {
			if one.Flags().Lookup("database") != nil {
				configured(one, known)
			}
		}
	}
}

var errNoDatabase = errors.New("say where the database is with --database or CELANDINE_DATABASE")

// onDatabase gives a command the flag that says where the records are, and the work that it does on them until it is interrupted.
func onDatabase(c *cobra.Command, config *service.Config,
	work func(ctx context.Context, c *cobra.Command, args []string) error) *cobra.Command {
	c.Flags().StringVar(&config.Database, "database", "", "the PostgreSQL `address`; CELANDINE_DATABASE sets it too")
	c.RunE = func(c *cobra.Command, args []string) error {
		if config.Database == "" {
			return errNoDatabase
		}
		ctx, stop := interruptible(c.Context())
		defer stop()
		if err := work(ctx, c, args); err != nil {
			return cli.BrokenError(err)
		}
		return nil
	}
	return c
}

// interruptible ends with Ctrl-C, or where the process is told to end.
func interruptible(ctx context.Context) (context.Context, context.CancelFunc) {
	return signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
}

// spend lets the memory grow to five times what is held before it is cleaned up, where GOGC does not say otherwise. A service
// holds little, and a hundred hand-ins at once wait for it.
func spend() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(400)
	}
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(sparingly)
	}
}

// sparingly is how much memory the process takes before it cleans as it would by itself: some large folders at once pass it.
const sparingly = 200 << 20

func serveCommand() *cobra.Command {
	config := service.Config{Cost: auth.Cost}
	var proxies *[]string
	c := onDatabase(&cobra.Command{
		Use:   "serve",
		Short: "Serve the console and the API, and grade hand-ins",
		Long: `Serve brings the database's schema up to date, answers on --listen and grades hand-ins until
it is stopped. Several may run on one database. Logs go to standard error as JSON.`,
		Example: "  celandine serve --database postgres://celandine@127.0.0.1:5432/celandine",
		Args:    cobra.NoArgs,
	}, &config, func(ctx context.Context, c *cobra.Command, _ []string) error {
		err := outfit(&config)
		if err == nil {
			config.Proxies, err = prefixes(*proxies)
		}
		if err != nil {
			return err
		}
		config.Log = slog.New(slog.NewJSONHandler(c.ErrOrStderr(), nil))
		spend()
		return service.Run(ctx, config)
	})
	proxies = serviceFlags(c, &config)
	return c
}

// serviceFlags are what a service is set by, besides its database; it returns the proxies, to be read by [prefixes].
func serviceFlags(c *cobra.Command, config *service.Config) *[]string {
	c.Flags().StringVar(&config.Listen, "listen", "127.0.0.1:8460", "the `address` to answer on")
	c.Flags().IntVar(&config.Workers, "workers", runtime.NumCPU(), "gradings at once; 0 leaves them to worker processes")
	c.Flags().BoolVar(&config.NoLooks, "no-looks", false,
		"leave the closer looks at graded hand-ins, for mistakes by name and what scenarios miss, to other processes")
	c.Flags().BoolVar(&config.Queued, "queued", false,
		"grade every hand-in from the queue, none within its request, as when all cores are busy")
	c.Flags().IntVar(&config.Drafts, "keep-drafts", 400, "`days` that a draft is kept after its last saving; 0 is for ever")
	c.Flags().IntVar(&config.Traces, "keep-traces", 0,
		"`days` that the traces of a hand-in are kept; 0 is for ever. Marks, differences and programs stay")
	c.Flags().StringVar(&config.Metrics, "metrics", "", "the `address` to answer Prometheus on, such as 127.0.0.1:9460; keep it from learners")
	c.Flags().IntVar(&config.SignIns, "sign-ins", 30,
		"wrong sign-in attempts from one address within ten minutes, from which on each guess there has to wait")
	c.Flags().IntVar(&config.HandIns, "hand-ins", 600, "how many programs a learner may hand in within an hour; 0 is any number")
	proxies := c.Flags().StringSlice("proxies", nil,
		"`addresses` of proxies, such as 127.0.0.1 or 10.0.0.0/8, that tell where requests come from (X-Forwarded-For)")
	c.Flags().BoolVar(&config.HTTPS, "https", false,
		"learners come by HTTPS, through a proxy: their browsers are told to come by nothing else")
	c.Flags().DurationVar(&config.Drain, "drain", 0,
		"how long to go on answering after being told to stop, while /readyz says so; longer than proxies take to look")
	return proxies
}

// prefixes reads addresses, or stretches of them.
func prefixes(list []string) (all []netip.Prefix, err error) {
	for _, text := range list {
		p, err := netip.ParsePrefix(text)
		if a, alone := netip.ParseAddr(text); err != nil && alone == nil {
			p, err = netip.PrefixFrom(a, a.BitLen()), nil
		}
		if err != nil {
			return nil, fmt.Errorf("proxies: %q is no address; write it as 127.0.0.1 or 10.0.0.0/8", text)
		}
		all = append(all, p)
	}
	return all, nil
}

func workerCommand() *cobra.Command {
	var config service.Config
	c := onDatabase(&cobra.Command{
		Use:   "worker",
		Short: "Grade hand-ins, and nothing else",
		Long: "Worker takes hand-ins from the queue and grades them until it is stopped. Any number may run, on any machines, beside any " +
			"number of serve processes, all on one database.",
		Example: "  celandine worker --workers 4",
		Args:    cobra.NoArgs,
	}, &config, func(ctx context.Context, c *cobra.Command, _ []string) error {
		if config.Workers < 1 {
			return errors.New("a worker grades at least one at once: --workers 1")
		}
		config.Log = slog.New(slog.NewJSONHandler(c.ErrOrStderr(), nil))
		spend()
		return service.Work(ctx, config)
	})
	c.Flags().IntVar(&config.Workers, "workers", runtime.NumCPU(), "gradings at once")
	return c
}

func administratorCommand() *cobra.Command {
	config := service.Config{Log: slog.New(slog.DiscardHandler)}
	return onDatabase(&cobra.Command{
		Use:   "administrator LOGIN [NAME]",
		Short: "Add an administrator, or give one another join code",
		Long: `Administrator works at the service's own machine, for the first administrator and for one who lost the
password. It prints a join code, with which they choose a password once, in the console or by the API.`,
		Example: "  celandine administrator rosa 'Rosa Lindner'",
		Args:    cobra.RangeArgs(1, 2),
	}, &config, func(ctx context.Context, c *cobra.Command, args []string) error {
		name := ""
		if len(args) == 2 {
			name = args[1]
		}
		code, err := service.Administrator(ctx, config, args[0], name)
		if err != nil {
			return err
		}
		fmt.Fprintf(c.OutOrStdout(), "%s joins with the code  %s\n", args[0], code)
		return nil
	})
}

func migrateCommand() *cobra.Command {
	var config service.Config
	return onDatabase(&cobra.Command{
		Use:   "migrate",
		Short: "Bring the database's schema up to date",
		Long: "Migrate applies the versions that the database lacks. Serve does the same when it starts; run migrate alone to do it " +
			"beforehand.",
		Example: "  celandine migrate --database postgres://celandine@127.0.0.1:5432/celandine",
		Args:    cobra.NoArgs,
	}, &config, func(ctx context.Context, c *cobra.Command, _ []string) error {
		s, err := store.Open(ctx, config.Database)
		if err != nil {
			return err
		}
		defer s.Close()
		applied, err := s.Migrate(ctx)
		if err != nil {
			return err
		}
		for _, name := range applied {
			fmt.Fprintln(c.OutOrStdout(), "applied "+name)
		}
		if len(applied) == 0 {
			fmt.Fprintln(c.OutOrStdout(), "up to date")
		}
		return nil
	})
}

// loadCommand is of the course commands the one that works on the database itself.
func loadCommand() *cobra.Command {
	config := service.Config{Cost: auth.Cost, Workers: runtime.NumCPU()}
	var password string
	load := onDatabase(&cobra.Command{
		Use:   "load DIR",
		Short: "Put a course folder into the database and grade its hand-ins",
		Long: `Load works at the service's own machine. It reads course.yaml and class.yaml in DIR, adds the class with its people, the
course with its exercises, and records the class's hand-ins, which are graded through the queue. Doing it again changes nothing.`,
		Example: "  celandine course load courses/glasshouse --password glasshouse",
		Args:    cobra.ExactArgs(1),
	}, &config, func(ctx context.Context, c *cobra.Command, args []string) error {
		return service.LoadCourse(ctx, config, os.DirFS(args[0]), password, func(line string) { fmt.Fprintln(c.OutOrStdout(), line) })
	})
	load.Flags().StringVar(&password, "password", "", "everybody's password (for a demo)")
	_ = load.MarkFlagRequired("password") // the flag exists
	return load
}
