// Package faults tries what a school's machine room does to a service: processes killed, the database restarted, a service stopped in the
// middle of a class's hand-ins. The processes are real ones.
package faults

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"celandine/client"
	"celandine/cluster"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/folder"
	"celandine/service"
	"celandine/service/auth"
	"celandine/service/jobs"
	"celandine/service/servicetest"
	"celandine/service/store"
)

// postgres is a PostgreSQL of the test's own, which it may restart.
type postgres struct{ *cluster.Cluster }

func (p postgres) start(t *testing.T) string {
	t.Helper()
	address, err := p.Start(context.Background())
	require.NoError(t, err)
	return address
}

// process is a celandine at work.
type process struct {
	*exec.Cmd
	log *bytes.Buffer
}

func run(t *testing.T, binary, database string, arguments ...string) *process {
	p := &process{exec.Command(binary, arguments...), &bytes.Buffer{}}
	p.Env = append(os.Environ(), "CELANDINE_DATABASE="+database)
	p.Stderr = p.log
	require.NoError(t, p.Start())
	t.Cleanup(func() {
		_ = p.Process.Kill() // most have ended
		_ = p.Wait()
		if t.Failed() {
			t.Logf("celandine %s ended with %s and said:\n%s", strings.Join(arguments, " "), p.ProcessState, p.log)
		}
	})
	return p
}

// freeAddress is one that nobody has: below the ports that the kernel gives to whoever connects, which would be taken again
// before a process listens there, and above those where a cluster begins.
func freeAddress(t *testing.T) string {
	for range 100 {
		l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", 26_000+rand.IntN(6_000)))
		if err != nil {
			continue
		}
		defer l.Close()
		return l.Addr().String()
	}
	require.FailNow(t, "no free port from 26000 to 32000")
	return ""
}

// ground is what a test stands on: the program as it is installed, and a cluster with the demo course.
type ground struct {
	root, binary, database string
	cluster                postgres
}

func prepare(t *testing.T) ground {
	root := servicetest.Root(t)
	dir, err := os.MkdirTemp("", "celandine-faults-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	binary := filepath.Join(dir, "celandine")
	build := exec.Command("go", "build", "-o", binary, "./cmd/celandine")
	build.Dir = root
	out, err := build.CombinedOutput()
	require.NoError(t, err, string(out))

	c := postgres{servicetest.Own(t, filepath.Join(dir, "postgres"))}
	database := c.start(t)
	t.Cleanup(func() {
		require.NoError(t, c.Remove(context.Background()))
		_ = os.RemoveAll(dir)
	})
	require.NoError(t, service.LoadCourse(context.Background(),
		service.Config{Database: database, Workers: 2, Cost: auth.Cost, Log: slog.New(slog.DiscardHandler)},
		os.DirFS(filepath.Join(root, "courses/glasshouse")), servicetest.Password, func(string) {}))
	return ground{root, binary, database, c}
}

// signIn signs learners in as soon as the service is there.
func signIn(t *testing.T, address string, logins ...string) (learners []*client.Client) {
	for _, login := range logins {
		one := &client.Client{URL: "http://" + address}
		require.Eventually(t, func() bool {
			token, err := one.Login(t.Context(), client.TokenWish{Credentials: client.Credentials{Login: login, Password: servicetest.Password}})
			one.Token = token.Token
			return err == nil
		}, 2*time.Minute, 200*time.Millisecond)
		learners = append(learners, one)
	}
	return learners
}

// variant is a text of its own, so that no hand-in is another's.
func variant(n int) string {
	logic := []string{"(mist_on OR mist_valve) AND mist_off", "mist_on OR mist_valve", "mist_on AND mist_off", "FALSE"}[n%4]
	return fmt.Sprintf("PROGRAM p // %d\nmist_valve := %s;\nEND_PROGRAM\n", n, logic)
}

const handins = 2_000

// 2,000 hand-ins while a worker is killed, PostgreSQL is restarted, and one of two services is stopped: none is lost, none
// counts twice, and every result is what a calm run gives.
func TestNothingIsLost(t *testing.T) {
	ground := prepare(t)
	binary, database, c, root := ground.binary, ground.database, ground.cluster, ground.root

	addresses := []string{freeAddress(t), freeAddress(t)}
	var services []*process
	for _, a := range addresses {
		services = append(services, run(t, binary, database, "serve", "--listen", a, "--workers", "0", "--sign-ins", "1000", "--hand-ins", "0"))
	}
	doomed := run(t, binary, database, "worker", "--workers", "2")
	run(t, binary, database, "worker", "--workers", "2")
	untilReady(t, addresses...)
	learners := signIn(t, addresses[0], "ana", "ben", "chiara", "dmitri", "elif", "farid", "greta", "hugo")
	class, ctx := errgroup.WithContext(t.Context())
	numbers := make(chan int)
	for w := range 16 {
		class.Go(func() error {
			for n := range numbers {
				if err := handInUntilTaken(ctx, learners[n%len(learners)].Token, addresses, w, n); err != nil {
					return err
				}
			}
			return nil
		})
	}
	var killed time.Time
	for n := 0; n < handins && ctx.Err() == nil; n++ {
		select {
		case numbers <- n:
		case <-ctx.Done():
		}
		switch n {
		case handins / 4:
			killed = time.Now()
			require.NoError(t, doomed.Process.Signal(syscall.SIGKILL))
		case handins / 2:
			require.NoError(t, c.Stop(t.Context()))
			c.start(t)
		case handins * 3 / 4:
			require.NoError(t, services[0].Process.Signal(syscall.SIGTERM))
		}
	}
	close(numbers)
	require.NoError(t, class.Wait())

	s, err := store.Open(t.Context(), database)
	require.NoError(t, err)
	defer s.Close()
	assert.Eventually(t, func() bool { n, err := s.Waiting(t.Context()); return err == nil && n == 0 }, time.Minute, 200*time.Millisecond,
		"every hand-in gets its mark")
	t.Logf("all graded %.1f s after the kill", time.Since(killed).Seconds())
	compare(t, s, root, handins)
}

// handInUntilTaken hands in as a console does: again with the same key, at the other address, until somebody takes it.
func handInUntilTaken(ctx context.Context, token string, addresses []string, w, n int) error {
	var last error
	for try, deadline := 0, time.Now().Add(2*time.Minute); time.Now().Before(deadline) && ctx.Err() == nil; try++ {
		one := &client.Client{URL: "http://" + addresses[(w+try)%len(addresses)], Token: token}
		_, err := one.HandIn(ctx, "mist-hold-in", client.Program{File: "mine.st", Text: variant(n)}, fmt.Sprintf("fault %d", n))
		if err == nil {
			return nil
		}
		last = err
		time.Sleep(100 * time.Millisecond)
	}
	return fmt.Errorf("hand-in %d was not taken within two minutes: %w", n, last)
}

// compare holds what is stored against what the core gives here.
func compare(t *testing.T, s *store.Store, root string, most int) {
	files, err := folder.Open(filepath.Join(root, "courses/glasshouse/exercises/mist-hold-in"))
	require.NoError(t, err)
	g, err := jobs.Prepare(files)
	require.NoError(t, err)
	seen := map[string]bool{}
	for n := range most + 1 {
		before, err := s.Sofar(t.Context(), store.Handin{Key: store.KeyOf(fmt.Sprintf("fault %d", n))})
		require.NoError(t, err)
		if before.Same == 0 {
			continue
		}
		h, err := s.Handin(t.Context(), before.Same)
		require.NoError(t, err)
		require.NotNil(t, h.Result, h.ID)
		assert.False(t, seen[h.Text], "%s twice", h.Text)
		seen[h.Text] = true
		calm := g.Read("mine.st", []*source.File{source.NewFile("mine.st", h.Text)})
		require.NoError(t, calm.Play(func() bool { return false }, grade.Every))
		calm.Mark()
		want, err := calm.Record()
		require.NoError(t, err)
		require.Equal(t, string(want), string(h.Result.Result), h.ID)
	}
	assert.Len(t, seen, most)
	var stored int
	require.NoError(t, s.Pool.QueryRow(t.Context(), "SELECT count(*) FROM handins WHERE text LIKE 'PROGRAM p // %'").Scan(&stored))
	assert.Equal(t, most, stored, "none is there twice")
}

// front is a proxy as stands before two services: it sends nobody to one that is not ready.
func front(t *testing.T, addresses []string) string {
	ready := make([]atomic.Bool, len(addresses))
	go func() {
		for t.Context().Err() == nil {
			for n, a := range addresses {
				ready[n].Store(isReady(a))
			}
			time.Sleep(50 * time.Millisecond)
		}
	}()
	var turn atomic.Int64
	proxy := &httputil.ReverseProxy{
		Rewrite: func(r *httputil.ProxyRequest) {
			n := int(turn.Add(1)) % len(addresses)
			if !ready[n].Load() {
				n = (n + 1) % len(addresses)
			}
			r.SetURL(&url.URL{Scheme: "http", Host: addresses[n]})
		},
		FlushInterval: -1,
	}
	server := httptest.NewServer(proxy)
	t.Cleanup(server.Close)
	return strings.TrimPrefix(server.URL, "http://")
}

func isReady(address string) bool {
	answer, err := http.Get("http://" + address + "/readyz")
	if err != nil {
		return false
	}
	return answer.Body.Close() == nil && answer.StatusCode == http.StatusOK
}

// untilReady waits for services that are to stand before a test begins: one that is still starting when its database is taken
// away ends, as it should.
func untilReady(t *testing.T, addresses ...string) {
	t.Helper()
	for _, a := range addresses {
		require.Eventually(t, func() bool { return isReady(a) }, 2*time.Minute, 50*time.Millisecond, a)
	}
}

// Two services are restarted one after the other, as for an upgrade, while learners work through the proxy: no request fails,
// and every hand-in gets its mark.
func TestRollingRestart(t *testing.T) {
	ground := prepare(t)
	addresses := []string{freeAddress(t), freeAddress(t)}
	start := func(n int) *process {
		return run(t, ground.binary, ground.database, "serve", "--listen", addresses[n], "--workers", "1", "--drain", "1s", "--hand-ins", "0")
	}
	services := []*process{start(0), start(1)}
	untilReady(t, addresses...)
	learners := signIn(t, front(t, addresses), "ana", "ben", "chiara", "dmitri")

	working, stop := context.WithCancel(t.Context())
	var work errgroup.Group
	var done atomic.Int64
	for n, learner := range learners {
		work.Go(func() error {
			for round := 0; working.Err() == nil; round++ {
				if err := workOnce(learner, fmt.Sprintf("rolling %d %d", n, round)); err != nil {
					return err
				}
				done.Add(1)
			}
			return nil
		})
	}
	for n, service := range services {
		before := done.Load()
		require.NoError(t, service.Process.Signal(syscall.SIGTERM))
		require.NoError(t, service.Wait(), service.log)
		start(n)
		untilReady(t, addresses[n])
		require.Eventually(t, func() bool { return done.Load() > before+20 }, 2*time.Minute, 20*time.Millisecond, "learners go on meanwhile")
	}
	stop()
	require.NoError(t, work.Wait())
	s, err := store.Open(t.Context(), ground.database)
	require.NoError(t, err)
	defer s.Close()
	waiting, err := s.Waiting(t.Context())
	require.NoError(t, err)
	assert.Zero(t, waiting)
}

// whileBusy asks again while a loaded machine's database does not answer in time, as the answer says.
func whileBusy(ctx context.Context, ask func() error) error {
	for {
		err := ask()
		if err == nil || ctx.Err() != nil || !strings.Contains(err.Error(), "The database does not answer just now") {
			return err
		}
		time.Sleep(100 * time.Millisecond)
	}
}

// workOnce reads the exercises, hands in and waits for the mark. A stream that ends is asked for again, as browsers do by themselves.
func workOnce(learner *client.Client, key string) error {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
	defer cancel()
	err := whileBusy(ctx, func() error {
		_, err := learner.Exercises(ctx)
		return err
	})
	if err != nil {
		return fmt.Errorf("reading the exercises: %w", err)
	}
	var h client.Handin
	err = whileBusy(ctx, func() (err error) {
		h, err = learner.HandIn(ctx, "mist-hold-in", client.Program{File: "mine.st", Text: variant(len(key))}, key)
		return err
	})
	if err != nil {
		return fmt.Errorf("handing in: %w", err)
	}
	for {
		_, err := learner.Await(ctx, h.ID)
		if err == nil || !errors.Is(err, client.ErrUnreachable) || ctx.Err() != nil {
			return err
		}
	}
}
