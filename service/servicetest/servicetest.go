// Package servicetest gives tests a real service: a fresh PostgreSQL database,
// the service on loopback, and the demo course in it.
package servicetest

import (
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/cluster"
	"celandine/service"
	"celandine/service/store"
	"celandine/web"
)

// Password is everybody's.
const Password = "glasshouse"

// How long a test waits for what takes a moment, and how often it looks.
const (
	Patience = 2 * time.Minute
	Moment   = 50 * time.Millisecond
)

// Root returns the project's folder.
func Root(t testing.TB) string {
	dir, err := os.Getwd()
	require.NoError(t, err)
	for {
		if _, err := os.Stat(filepath.Join(dir, "go.mod")); err == nil {
			return dir
		}
		parent := filepath.Dir(dir)
		require.NotEqual(t, parent, dir, "no go.mod above the test")
		dir = parent
	}
}

// cheap makes password hashes that cost nothing.
var cheap = &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 8, KeyLength: 16}

// Cluster returns the address of a PostgreSQL for tests; it is started if need be.
func Cluster(t testing.TB) string {
	if address := os.Getenv("CELANDINE_TEST_DATABASE"); address != "" {
		return address
	}
	c := Own(t, filepath.Join(Root(t), ".celandine", "test-postgres"))
	address, err := c.Start(context.Background(), "fsync=off", "synchronous_commit=off", "full_page_writes=off", "max_connections=300")
	require.NoError(t, err)
	return address
}

// Own returns a PostgreSQL in a folder; where none is installed, the test is left out.
func Own(t testing.TB, dir string) *cluster.Cluster {
	c, err := cluster.In(dir)
	if errors.Is(err, cluster.ErrMissing) {
		t.Skip(err)
	}
	require.NoError(t, err)
	return c
}

// Database creates an empty database for one test and drops it afterwards.
func Database(t testing.TB) string { return database(t, "template0") }

// database creates a copy of another and drops it afterwards.
func database(t testing.TB, template string) string {
	name := "test_" + strings.ToLower(rand.Text())
	address := execute(t, fmt.Sprintf("CREATE DATABASE %s TEMPLATE %s STRATEGY FILE_COPY", name, template), name)
	t.Cleanup(func() { execute(t, "DROP DATABASE "+name+" WITH (FORCE)", name) })
	return address
}

// execute does something in the cluster, and returns the address of a database in it.
func execute(t testing.TB, sql, name string) string {
	address, err := url.Parse(Cluster(t))
	require.NoError(t, err)
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, address.String())
	require.NoError(t, err)
	defer func() { _ = conn.Close(ctx) }()
	_, err = conn.Exec(ctx, sql)
	require.NoError(t, err)
	address.Path = "/" + name
	return address.String()
}

// course is a database with the demo course, graded once for all tests of the process; each gets a copy.
var course struct {
	sync.Mutex
	name string
}

// dropLeft drops the course databases of processes that have ended.
func dropLeft(t testing.TB) {
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, Cluster(t))
	require.NoError(t, err)
	defer func() { _ = conn.Close(ctx) }()
	rows, err := conn.Query(ctx, "SELECT datname FROM pg_database WHERE datname LIKE 'course\\_%'")
	require.NoError(t, err)
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	for _, name := range names {
		pid, err := strconv.Atoi(strings.TrimPrefix(name, "course_"))
		if err != nil || pid != os.Getpid() && syscall.Kill(pid, 0) == nil {
			continue
		}
		_, err = conn.Exec(ctx, "DROP DATABASE IF EXISTS "+name+" WITH (FORCE)")
		require.NoError(t, err)
	}
}

func courseDatabase(t testing.TB) string {
	course.Lock()
	defer course.Unlock()
	if course.name == "" {
		// Those that earlier processes have left are dropped; one that is in use by a living process stays.
		dropLeft(t)
		name := fmt.Sprintf("course_%d", os.Getpid())
		config := config(execute(t, "CREATE DATABASE "+name, name))
		folder := os.DirFS(filepath.Join(Root(t), "courses", "glasshouse"))
		require.NoError(t, service.LoadCourse(context.Background(), config, folder, Password, func(string) {}))
		course.name = name
	}
	return database(t, course.name)
}

// A Log is what a service has logged.
type Log struct {
	mu   sync.Mutex
	text bytes.Buffer
}

// Write takes a line.
func (l *Log) Write(line []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.Write(line)
}

// String returns all lines so far.
func (l *Log) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.String()
}

// A Service is a running one.
type Service struct {
	URL      string
	Database string
	Store    *store.Store
	Log      *Log
	config   service.Config
	stop     context.CancelFunc
	ended    chan error
}

// Start runs a service on a fresh database until the test ends. With the demo course its
// hand-ins are graded already.
func Start(t testing.TB, withCourse bool, changes ...func(*service.Config)) *Service {
	if withCourse {
		return StartOn(t, courseDatabase(t), changes...)
	}
	return StartOn(t, Database(t), changes...)
}

func config(database string) service.Config {
	return service.Config{Listen: "127.0.0.1:0", Metrics: "127.0.0.1:0", Database: database, Workers: 2, NoLooks: true, SignIns: 10_000, Cost: cheap,
		Wait: Patience, Log: slog.New(slog.DiscardHandler)}
}

// Looking lets a service take closer looks at hand-ins, which are left out elsewhere: they take what the tests need.
func Looking(c *service.Config) { c.NoLooks = false }

// StartOn runs a service on a database until the test ends; each change is made to how it is set.
func StartOn(t testing.TB, database string, changes ...func(*service.Config)) *Service {
	config := config(database)
	for _, change := range changes {
		change(&config)
	}
	console, err := web.Handler()
	require.NoError(t, err)
	config.Console = console
	s := &Service{Database: config.Database, Log: &Log{}}
	config.Log = slog.New(slog.NewJSONHandler(s.Log, nil))
	s.config = config
	s.Run(t)
	s.Store, err = store.Open(context.Background(), config.Database)
	require.NoError(t, err)
	t.Cleanup(func() {
		s.Store.Close()
		s.Stop(t)
	})
	return s
}

// Run starts the service again after Stop, at the address that it had. Where the database is too busy to answer in time it starts once more,
// as whatever watches over a service would.
func (s *Service) Run(t testing.TB) {
	for since := time.Now(); ; {
		err := s.run(t)
		if !errors.Is(err, store.ErrDown) || time.Since(since) > Patience {
			require.NoError(t, err)
			return
		}
	}
}

func (s *Service) run(t testing.TB) error {
	ctx, stop := context.WithCancel(context.Background())
	config, started, ended := s.config, make(chan string, 1), make(chan error, 1)
	config.Started = func(address string) { started <- address }
	go func() { ended <- service.Run(ctx, config) }()
	select {
	case address := <-started:
		s.config.Listen, s.URL = address, "http://"+address
	case err := <-ended:
		stop()
		return err
	case <-time.After(Patience):
		require.Fail(t, "the service did not start")
	}
	s.stop, s.ended = stop, ended
	return nil
}

// Stop ends the service; what is under way finishes first.
func (s *Service) Stop(t testing.TB) {
	if s.ended == nil {
		return
	}
	s.stop()
	require.NoError(t, <-s.ended)
	s.ended = nil
}

// Exec does something in the service's database behind its back.
func (s *Service) Exec(t testing.TB, sql string) {
	_, err := s.Store.Pool.Exec(context.Background(), sql)
	require.NoError(t, err)
}

// MetricsURL is where the service that runs answers Prometheus.
func (s *Service) MetricsURL(t testing.TB) string {
	all := regexp.MustCompile(`"serving metrics","address":"([^"]+)"`).FindAllStringSubmatch(s.Log.String(), -1)
	require.NotEmpty(t, all)
	return "http://" + all[len(all)-1][1] + "/metrics"
}

// As returns a client that has signed in.
func (s *Service) As(t testing.TB, login string) *client.Client {
	// A connection pool of its own, so that the service's end is not held up.
	transport := &http.Transport{}
	t.Cleanup(transport.CloseIdleConnections)
	c := &client.Client{URL: s.URL, HTTP: &http.Client{Transport: transport}}
	token, err := c.Login(context.Background(), client.TokenWish{Credentials: client.Credentials{Login: login, Password: Password}})
	require.NoError(t, err)
	c.Token = token.Token
	return c
}
