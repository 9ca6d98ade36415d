// Package service wires the service's rooms together: store, sign-in, grading
// queue and HTTP interface. [Run] serves until its context ends.
package service

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"time"

	vm "github.com/VictoriaMetrics/metrics"
	"github.com/alexedwards/argon2id"

	"celandine/mistake"
	"celandine/service/api"
	"celandine/service/auth"
	"celandine/service/jobs"
	"celandine/service/store"
)

// Config is what a process is told.
type Config struct {
	Listen   string         // 127.0.0.1:8460
	Listener net.Listener   // taken already; nil: one is made at Listen
	Database string         // postgres://…
	Follow   func() string  // where the database is now, for one that may move; nil: it stays at Database
	Workers  int            // gradings at once in this process
	NoLooks  bool           // the closer looks at graded hand-ins are left to other processes
	Queued   bool           // every hand-in is graded from the queue, none within its request
	Metrics  string         // address of the page for Prometheus, 127.0.0.1:9460; "": there is none
	SignIns  int            // wrong attempts from one address within ten minutes, from which on guesses there wait sooner
	HandIns  int            // of a learner within an hour; 0: any number
	Proxies  []netip.Prefix // whose X-Forwarded-For is believed
	HTTPS    bool           // learners come by HTTPS, through a proxy
	Drafts   int            // days that a draft is kept after its last saving; 0: for ever
	Traces   int            // days that traces are kept after grading; 0: for ever
	Wait     time.Duration  // how long a request waits for the database in all; 0: 1.7 s
	Drain    time.Duration  // how long it goes on answering after it was told to stop
	Cost     *argon2id.Params
	Console  http.Handler
	Lessons  api.Lessons // what an exercise can begin with
	Log      *slog.Logger
	Started  func(address string) // called once the service answers
}

// check tells what cannot be.
func (c Config) check() error {
	switch {
	case c.Workers < 0:
		return fmt.Errorf("workers cannot be %d; 0 leaves hand-ins to worker processes", c.Workers)
	case c.SignIns < 1:
		return fmt.Errorf("sign-ins cannot be %d; at least one wrong attempt must be allowed", c.SignIns)
	case c.HandIns < 0:
		return fmt.Errorf("hand-ins cannot be %d; 0 is any number", c.HandIns)
	case c.Drain < 0 || c.Drain > time.Minute:
		return fmt.Errorf("drain cannot be %s; it is at most a minute", c.Drain)
	case c.Drafts < 0 || c.Traces < 0:
		return errors.New("keep-drafts and keep-traces are days; 0 keeps for ever")
	}
	return nil
}

func (c Config) listen() (net.Listener, error) {
	if c.Listener != nil {
		return c.Listener, nil
	}
	listener, err := net.Listen("tcp", c.Listen)
	if err != nil {
		return nil, fmt.Errorf("cannot listen on %s: %w", c.Listen, err)
	}
	return listener, nil
}

// grace is how long requests and gradings under way may take at the end.
const grace = 15 * time.Second

// records opens the database and brings its schema up to date.
func records(ctx context.Context, c Config) (*store.Store, error) {
	database := c.Follow
	if database == nil {
		database = func() string { return c.Database }
	}
	s, err := store.Follow(ctx, database)
	if err != nil {
		return nil, err
	}
	if _, err := s.Migrate(ctx); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// Run migrates, serves and grades until the context ends, then lets what is
// under way finish.
func Run(ctx context.Context, c Config) error {
	if err := c.check(); err != nil {
		return err
	}
	s, err := records(ctx, c)
	if err != nil {
		return err
	}
	defer s.Close()
	metrics := newMetrics(s, c.Log)
	graders := jobs.NewGraders(s)
	queue, err := jobs.New(s, graders, c.Workers, c.Log, metrics.graded, metrics.noticed)
	if err != nil {
		return err
	}
	s.UseQueue(queue)
	keeper, err := auth.New(s, c.Cost, c.HTTPS, c.SignIns)
	if err != nil {
		return err
	}
	listener, err := c.listen()
	if err != nil {
		return err
	}
	if c.Workers > 0 {
		if err := queue.Start(ctx); err != nil {
			return fmt.Errorf("starting the grading queue: %w", err)
		}
	}
	background, end := context.WithCancel(context.WithoutCancel(ctx))
	defer end()
	if err := metrics.serve(background, c); err != nil {
		return err
	}
	hub := api.NewHub()
	go s.Listen(background, hub.Told)
	go s.Telling(background)
	go tidy(background, s, c)
	go sweep(background, s, c.Log, metrics.stuck.Set)
	if c.Workers > 0 && !c.NoLooks {
		go jobs.NewLooker(s, graders, c.Log, metrics.noticed).Run(background)
	}
	server := &http.Server{
		Handler: api.New(api.Options{Store: s, Auth: keeper, Graders: graders, Queue: queue, Queued: c.Queued, Hub: hub, Metrics: metrics.set,
			Console: c.Console, Log: c.Log, Noticed: metrics.noticed, HandIns: c.HandIns, Wait: c.Wait, Lessons: c.Lessons,
			Proxies: c.Proxies, HTTPS: c.HTTPS, Draining: ctx.Done(), Ending: background.Done()}),
		ReadHeaderTimeout: 10 * time.Second,
		ErrorLog:          slog.NewLogLogger(c.Log.Handler(), slog.LevelWarn),
	}
	return serve(ctx, c, server, listener, queue, end)
}

// tidy forgets once an hour what is kept no longer. Several processes may do it at once.
func tidy(ctx context.Context, s *store.Store, c Config) {
	const day = 24 * time.Hour
	for {
		drafts, traces, err := s.Prune(ctx, time.Duration(c.Drafts)*day, time.Duration(c.Traces)*day)
		if err == nil && drafts+traces > 0 {
			c.Log.Info("forgot what is kept no longer", "drafts", drafts, "traces", traces)
		}
		if err := s.ForgetSignIns(ctx); err != nil {
			c.Log.Warn("forgetting expired sign-ins", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(time.Hour):
		}
	}
}

// How long a hand-in may be without a job before it counts as stuck, and how often that is looked for.
const (
	stuckAfter = 30 * time.Second
	sweepEvery = 20 * time.Second
	mostSwept  = 1_000
)

// sweep finds hand-ins that wait for a mark that nobody works on, and queues them again. Transactions see to it that there are
// none; it is there should somebody have changed the queue by hand, or should they not. found is told how many there were.
func sweep(ctx context.Context, s *store.Store, log *slog.Logger, found func(float64)) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(sweepEvery):
		}
		list, err := s.Stuck(ctx, stuckAfter, false, mostSwept)
		if err != nil {
			continue // the database does not answer, which others tell
		}
		found(float64(len(list)))
		if len(list) == 0 {
			continue
		}
		var ids []int64
		for _, one := range list {
			ids = append(ids, one.ID)
		}
		n, err := s.Requeue(ctx, ids)
		log.Error("hand-ins were stuck", "handins", ids, "queued", n, "error", err)
	}
}

// Work grades hand-ins until the context ends, then lets what is under way finish. It answers no requests.
func Work(ctx context.Context, c Config) error {
	s, err := records(ctx, c)
	if err != nil {
		return err
	}
	defer s.Close()
	graders := jobs.NewGraders(s)
	queue, err := jobs.New(s, graders, c.Workers, c.Log, func(time.Duration) {}, logged(c.Log))
	if err != nil {
		return err
	}
	s.UseQueue(queue)
	background, end := context.WithCancel(context.WithoutCancel(ctx))
	defer end()
	go s.Telling(background)
	go sweep(background, s, c.Log, func(float64) {})
	if !c.NoLooks {
		go jobs.NewLooker(s, graders, c.Log, logged(c.Log)).Run(background)
	}
	if err := queue.Start(ctx); err != nil {
		return fmt.Errorf("starting the grading queue: %w", err)
	}
	c.Log.Info("grading", "workers", c.Workers)
	<-ctx.Done()
	ending, cancel := context.WithTimeout(context.WithoutCancel(ctx), grace)
	defer cancel()
	c.Log.Info("stopping")
	return queue.Stop(ending)
}

// serve answers until the context ends. Then, for as long as it is to drain, it goes on while /readyz says that it will stop,
// so that proxies send nobody here any more; then open streams end, and what is under way finishes.
func serve(ctx context.Context, c Config, server *http.Server, listener net.Listener, queue *jobs.Queue, end func()) error {
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(listener) }()
	c.Log.Info("serving", "address", listener.Addr().String())
	if c.Started != nil {
		c.Started(listener.Addr().String())
	}
	var err error
	select {
	case err = <-failed:
	case <-ctx.Done():
		c.Log.Info("draining", "for", c.Drain)
		time.Sleep(c.Drain)
	}
	end()
	ending, cancel := context.WithTimeout(context.WithoutCancel(ctx), grace)
	defer cancel()
	c.Log.Info("stopping")
	return errors.Join(err, server.Shutdown(ending), queue.Stop(ending))
}

// metrics is what the service tells of itself.
type metrics struct {
	set      *vm.Set
	grading  *vm.PrometheusHistogram // time to grade a hand-in, without the queue, in seconds
	mistakes *vm.Counter             // calls that ended in a mistake of Celandine's own; each stands in the log with its place
	stuck    *vm.Gauge               // hand-ins that waited for a mark that nobody worked on, when last looked for; they were queued again
	log      *slog.Logger
}

func newMetrics(s *store.Store, log *slog.Logger) *metrics {
	set := vm.NewSet()
	// Hand-ins that have no mark yet; -1 while the database does not answer.
	set.NewGauge("celandine_handins_waiting", func() float64 {
		ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
		defer cancel()
		n, err := s.Waiting(ctx)
		if err != nil {
			return -1
		}
		return float64(n)
	})
	return &metrics{
		set:      set,
		log:      log,
		mistakes: set.NewCounter("celandine_mistakes_total"),
		stuck:    set.NewGauge("celandine_handins_stuck", nil),
		grading:  set.NewPrometheusHistogramExt("celandine_grading_seconds", []float64{.001, .005, .02, .1, .5, 2, 10, 60}),
	}
}

// serve answers Prometheus at an address of its own: how long gradings take is nothing for whoever hands in.
func (m *metrics) serve(ctx context.Context, c Config) error {
	if c.Metrics == "" {
		return nil
	}
	listener, err := net.Listen("tcp", c.Metrics)
	if err != nil {
		return fmt.Errorf("cannot listen on %s for metrics: %w", c.Metrics, err)
	}
	pages := http.NewServeMux()
	pages.HandleFunc("/metrics", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/plain; version=0.0.4; charset=utf-8")
		m.set.WritePrometheus(w)
		vm.WriteProcessMetrics(w)
	})
	server := &http.Server{Handler: pages, ReadHeaderTimeout: 10 * time.Second, ErrorLog: slog.NewLogLogger(c.Log.Handler(), slog.LevelWarn)}
	go func() {
		<-ctx.Done()
		_ = server.Close() // nobody waits for what it answers
	}()
	go func() {
		if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			c.Log.Error("serving metrics", "error", err)
		}
	}()
	c.Log.Info("serving metrics", "address", listener.Addr().String())
	return nil
}

func (m *metrics) noticed(wrong *mistake.Mistake) {
	m.mistakes.Inc()
	logged(m.log)(wrong)
}

// logged writes a mistake of Celandine's own with its place.
func logged(log *slog.Logger) func(*mistake.Mistake) {
	return func(wrong *mistake.Mistake) {
		log.Error("mistake", "doing", wrong.Doing, "value", fmt.Sprint(wrong.Value), "stack", string(wrong.Stack))
	}
}

func (m *metrics) graded(d time.Duration) { m.grading.Update(d.Seconds()) }
