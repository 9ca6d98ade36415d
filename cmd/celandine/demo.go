package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"celandine/cli"
	"celandine/cluster"
	"celandine/courses"
	"celandine/service"
	"celandine/service/auth"
)

// demoPassword is everybody's in the demo course.
const demoPassword = "glasshouse"

func demoCommand() *cobra.Command {
	config := service.Config{Cost: auth.Cost}
	var dir string
	var forget bool
	c := &cobra.Command{
		Use:   "demo",
		Short: "Serve the demo course, with a PostgreSQL of its own",
		Long: `Demo starts a PostgreSQL of its own (Debian's package postgresql must be installed), puts the demo course into
it and serves it until Ctrl-C; then it stops both. The data stays for the next time.

It takes the settings of serve but for the database.`,
		Example: "  celandine demo\n  celandine demo --listen 127.0.0.1:9000\n  celandine demo --forget",
		Args:    cobra.NoArgs,
	}
	proxies := serviceFlags(c, &config)
	c.Flags().StringVar(&dir, "data", demoData(), "the `folder` for the database, the log and what else the demo keeps")
	c.Flags().BoolVar(&forget, "forget", false, "stop its PostgreSQL and remove all its data, and do nothing else")
	c.RunE = func(c *cobra.Command, _ []string) error {
		ctx, stop := interruptible(c.Context())
		defer stop()
		d := demo{out: c.OutOrStdout(), dir: dir, config: config}
		work := d.serve
		if forget {
			work = d.forget
		}
		var err error
		if d.config.Proxies, err = prefixes(*proxies); err == nil {
			err = d.alone(ctx, work)
		}
		if err != nil {
			return cli.BrokenError(err)
		}
		return nil
	}
	return c
}

// demoData is where the demo keeps its data where nothing is said: root's home is closed to the user postgres.
func demoData() string {
	const name = "celandine-demo"
	if os.Getuid() == 0 {
		return filepath.Join("/var/lib", name)
	}
	if data := os.Getenv("XDG_DATA_HOME"); data != "" {
		return filepath.Join(data, name)
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return name
	}
	return filepath.Join(home, ".local/share", name)
}

// demo is a service, the course in it and the database beneath it, all in one folder.
type demo struct {
	out     io.Writer
	dir     string
	config  service.Config
	cluster *cluster.Cluster
}

func (d *demo) say(format string, args ...any) { fmt.Fprintf(d.out, format+"\n", args...) }

func (d *demo) file(name string) string { return filepath.Join(d.dir, name) }

// alone does work while no other demo uses the folder.
func (d *demo) alone(ctx context.Context, work func(context.Context) error) error {
	if err := os.MkdirAll(d.dir, 0o755); err != nil {
		return fmt.Errorf("making the demo's folder: %w", err)
	}
	lock, err := os.OpenFile(d.file("lock"), os.O_CREATE|os.O_RDWR, 0o644)
	if err != nil {
		return fmt.Errorf("opening the demo's folder: %w", err)
	}
	defer lock.Close()
	if syscall.Flock(int(lock.Fd()), syscall.LOCK_EX|syscall.LOCK_NB) != nil {
		at, _ := os.ReadFile(d.file("address")) // it may be starting yet
		return fmt.Errorf("the demo is running already %s\nStop it with Ctrl-C where it runs, or open that address",
			strings.TrimSpace("at "+string(at)))
	}
	if d.cluster, err = cluster.In(d.file("postgres")); err != nil {
		return err
	}
	return work(ctx)
}

func (d *demo) forget(ctx context.Context) error {
	if err := d.cluster.Remove(ctx); err != nil {
		return err
	}
	if err := os.RemoveAll(d.dir); err != nil {
		return fmt.Errorf("forgetting the demo: %w", err)
	}
	d.say("The demo's data is gone.")
	return nil
}

// serve starts database, course and service, and ends them in order.
func (d *demo) serve(ctx context.Context) (err error) {
	began := time.Now()
	d.say("PostgreSQL, in %s …", d.cluster.Home())
	if d.config.Database, err = d.cluster.Start(ctx); err != nil {
		return err
	}
	defer func() {
		_ = os.Remove(d.file("address"))                                   // it may not have come so far
		err = errors.Join(err, d.cluster.Stop(context.WithoutCancel(ctx))) // the interrupt that ends the demo is no reason to leave it running
		d.say("Stopped. The data stays in %s; celandine demo --data %s --forget forgets it.", d.cluster.Home(), d.dir)
	}()
	d.say("The demo course …")
	if err := d.load(ctx); err != nil {
		return err
	}
	if d.config.Listener, err = free(d.config.Listen); err != nil {
		return err
	}
	defer d.config.Listener.Close() // the service has closed it, if it came so far
	log, err := os.OpenFile(d.file("service.log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return fmt.Errorf("opening the service's log: %w", err)
	}
	defer log.Close()
	d.config.Log = slog.New(slog.NewJSONHandler(log, nil))
	if err := outfit(&d.config); err != nil {
		return err
	}
	d.config.Started = func(address string) { d.welcome(address, time.Since(began)) }
	spend()
	var database atomic.Value // its address now: where another takes its port while it is away, it comes back at the next
	database.Store(d.config.Database)
	d.config.Follow = func() string { return database.Load().(string) }
	serving, end := context.WithCancel(ctx)
	defer end()
	go d.watch(serving, func(address string) { database.Store(address) })
	err = service.Run(ctx, d.config)
	d.say("\nStopping …")
	return err
}

func (d *demo) load(ctx context.Context) error {
	folder, err := courses.Glasshouse()
	if err != nil {
		return fmt.Errorf("reading the demo course: %w", err)
	}
	loading := d.config
	loading.Log = slog.New(slog.DiscardHandler)
	loading.Workers = max(1, loading.Workers) // its hand-ins are graded here, whoever grades later
	return service.LoadCourse(ctx, loading, folder, demoPassword, func(line string) { d.say("  %s", line) })
}

// ports is how many are tried, from the one that was asked for.
const ports = 50

// free listens on the address, or on the same with the next port that nobody has. It is held from then on: a port that is only
// looked at is somebody else's before it is used.
func free(address string) (net.Listener, error) {
	host, text, err := net.SplitHostPort(address)
	if err != nil {
		return nil, fmt.Errorf("%s is no address to listen on; write it as 127.0.0.1:8460: %w", address, err)
	}
	first, err := strconv.Atoi(text)
	if err != nil {
		return nil, fmt.Errorf("%q is no port: a number from 1 to 65535", text)
	}
	for port := first; port < first+ports; port++ {
		at := net.JoinHostPort(host, strconv.Itoa(port))
		l, err := net.Listen("tcp", at)
		if err == nil {
			return l, nil
		}
		if !errors.Is(err, syscall.EADDRINUSE) {
			return nil, fmt.Errorf("cannot listen on %s: %w", at, err)
		}
	}
	return nil, fmt.Errorf("no free port from %d on; give another with --listen %s:PORT", first, host)
}

func (d *demo) welcome(address string, took time.Duration) {
	_ = os.WriteFile(d.file("address"), []byte("http://"+address+"\n"), 0o644) // for a second demo and for scripts; this one goes on without
	d.say(`
  Celandine is at  http://%s   (ready after %.0f s)

  Sign in as       nadia    an instructor
                   ana      a learner with some marks
                   liam     a learner at the beginning
                   rosa     an administrator
  Password         %s

  Ctrl-C stops it.
`, address, took.Seconds(), demoPassword)
}

// watch starts a database that has died under the service again, and tells where it is then.
func (d *demo) watch(ctx context.Context, back func(address string)) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(time.Second):
		}
		if ctx.Err() != nil || d.cluster.Alive() {
			continue
		}
		d.say("PostgreSQL has stopped; starting it again.")
		address, err := d.cluster.Start(ctx)
		if err != nil {
			d.say("It did not start: %v", err)
			continue
		}
		back(address)
		d.say("PostgreSQL is back; no hand-in was lost.")
	}
}
