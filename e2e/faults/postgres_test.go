package faults

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"celandine/client"
	"celandine/service/store"
)

// server is the process of the cluster's server.
func (p postgres) server(t *testing.T) int {
	t.Helper()
	text, err := os.ReadFile(filepath.Join(p.Home(), "cluster/postmaster.pid"))
	require.NoError(t, err)
	first, _, _ := strings.Cut(string(text), "\n")
	pid, err := strconv.Atoi(first)
	require.NoError(t, err)
	return pid
}

func children(of int) (list []int) {
	all, _ := filepath.Glob("/proc/[0-9]*/stat")
	for _, path := range all {
		text, err := os.ReadFile(path)
		if err != nil {
			continue // it has ended
		}
		_, rest, _ := strings.Cut(string(text), ") ")
		if fields := strings.Fields(rest); len(fields) > 1 && fields[1] == strconv.Itoa(of) {
			pid, err := strconv.Atoi(filepath.Base(filepath.Dir(path)))
			if err == nil {
				list = append(list, pid)
			}
		}
	}
	return list
}

// all are the processes of the server, itself last; it is stopped, so that it makes no others. One that has been told to stop
// goes on for a while, in the midst of making a process for a connection perhaps; that one would outlive it and keep its memory,
// with which no other server starts.
func (p postgres) all(t *testing.T) []int {
	server := p.server(t)
	require.NoError(t, syscall.Kill(server, syscall.SIGSTOP))
	require.Eventually(t, func() bool { return state(server) == 'T' }, time.Minute, time.Millisecond)
	return append(children(server), server)
}

// state is a process's, as the kernel names it: T stopped, Z ended and not noticed yet, 0 gone.
func state(pid int) byte {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	if err != nil {
		return 0
	}
	_, rest, _ := strings.Cut(string(text), ") ")
	return rest[0]
}

// kill ends the server as a power cut would, and starts it again.
func (p postgres) kill(t *testing.T) {
	all := p.all(t)
	for _, pid := range all {
		_ = syscall.Kill(pid, syscall.SIGKILL) // one may have ended by itself
	}
	require.Eventually(t, func() bool { return !slices.ContainsFunc(all, alive) }, time.Minute, 10*time.Millisecond)
	// Until somebody has noticed its end, which may take seconds, the server that is named here passes for one that runs.
	require.NoError(t, os.Remove(filepath.Join(p.Home(), "cluster/postmaster.pid")))
	p.start(t)
}

// alive reports a process that has not ended, whether or not its end has been noticed.
func alive(pid int) bool { s := state(pid); return s != 0 && s != 'Z' }

// PostgreSQL is killed with -9 twenty times, at random moments of a burst of hand-ins, while the services live: whatever was
// answered is there with its mark, nothing counts twice, and nothing waits for ever.
func TestPostgresIsKilled(t *testing.T) {
	ground := prepare(t)
	c := ground.cluster
	addresses := []string{freeAddress(t), freeAddress(t)}
	run(t, ground.binary, ground.database, "serve", "--listen", addresses[0], "--workers", "2", "--hand-ins", "0", "--sign-ins", "1000")
	run(t, ground.binary, ground.database, "serve", "--listen", addresses[1], "--workers", "2", "--hand-ins", "0", "--sign-ins", "1000",
		"--queued")
	untilReady(t, addresses...)
	learners := signIn(t, addresses[0], "ana", "ben", "chiara", "dmitri", "elif", "farid", "greta", "hugo")

	var sent, answered atomic.Int64
	class, ctx := errgroup.WithContext(t.Context())
	working, stop := context.WithCancel(ctx)
	defer stop()
	for w := range 8 {
		class.Go(func() error {
			for working.Err() == nil {
				n := int(sent.Add(1))
				if err := handInUntilTaken(ctx, learners[n%len(learners)].Token, addresses, w, n); err != nil {
					return err
				}
				answered.Add(1)
			}
			return nil
		})
	}
	random := rand.New(rand.NewPCG(20, 9))
	for range 20 {
		before := answered.Load()
		goOn := func() bool { return ctx.Err() != nil || answered.Load() > before+5 }
		require.Eventually(t, goOn, 2*time.Minute, 5*time.Millisecond, "hand-ins go on")
		time.Sleep(time.Duration(random.IntN(150)) * time.Millisecond)
		c.kill(t)
	}
	stop()
	require.NoError(t, class.Wait())

	s, err := store.Open(t.Context(), ground.database)
	require.NoError(t, err)
	defer s.Close()
	require.Eventually(t, func() bool { n, err := s.Waiting(t.Context()); return err == nil && n == 0 }, 2*time.Minute, 200*time.Millisecond,
		"every hand-in gets its mark")
	stuck, err := s.Stuck(t.Context(), 0, true, 10)
	require.NoError(t, err)
	assert.Empty(t, stuck)
	compare(t, s, ground.root, int(answered.Load()))
	t.Logf("%d hand-ins through twenty kills", answered.Load())
}

// everyRoute is what is asked while the database is in trouble: pages of each kind, by a learner and an instructor.
func everyRoute(t *testing.T, address string, learner, instructor *client.Client) (list []*http.Request) {
	ask := func(c *client.Client, method, path, body string) {
		r, err := http.NewRequest(method, "http://"+address+path, strings.NewReader(body))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		if c != nil {
			r.Header.Set("Authorization", "Bearer "+c.Token)
		}
		list = append(list, r)
	}
	const program = `{"file":"a.st","text":"PROGRAM p\nmist_valve := mist_on;\nEND_PROGRAM\n"}`
	for _, path := range []string{"/api/me", "/api/exercises", "/api/exercises/mist-hold-in", "/api/exercises/mist-hold-in/drafts",
		"/api/exercises/mist-hold-in/handins", "/api/handins/3", "/api/handins/3/events", "/api/marks", "/api/signins", "/readyz"} {
		ask(learner, "GET", path, "")
	}
	ask(learner, "POST", "/api/exercises/mist-hold-in/handins", program)
	ask(learner, "POST", "/api/exercises/mist-hold-in/check", program)
	ask(learner, "PUT", "/api/exercises/mist-hold-in/drafts/st", `{"text":"x","version":0}`)
	for _, path := range []string{"/api/classes", "/api/classes/1", "/api/classes/1/members", "/api/classes/1/assignments",
		"/api/classes/1/audit", "/api/classes/1/insight/mist-hold-in", "/api/classes/1/events", "/api/library", "/api/classes/1/marks.csv"} {
		ask(instructor, "GET", path, "")
	}
	ask(nil, "POST", "/api/session", `{"login":"ana","password":"glasshouse"}`)
	ask(nil, "POST", "/api/tokens", `{"login":"ana","password":"glasshouse"}`)
	ask(nil, "POST", "/api/join", `{"code":"aaaa-bbbb-cccc","password":"long enough for it"}`)
	return list
}

// within is how soon each is to be answered; a machine that is ten times slower, or busy, gets more.
const within = 2 * time.Second

// refusedSoon asks everything at once, and holds that each answer is a 503 problem that says when to come again, and comes soon.
func refusedSoon(t *testing.T, requests []*http.Request) {
	t.Helper()
	slack := slowness(t)
	var wait sync.WaitGroup
	for _, r := range requests {
		wait.Go(func() {
			began := time.Now()
			ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
			defer cancel()
			answer, err := http.DefaultClient.Do(afresh(ctx, t, r))
			if !assert.NoError(t, err, r.URL.Path) {
				return
			}
			defer answer.Body.Close()
			text, _ := io.ReadAll(answer.Body)
			assert.Equal(t, 503, answer.StatusCode, "%s %s: %.200s", r.Method, r.URL.Path, text)
			assert.NotEmpty(t, answer.Header.Get("Retry-After"), r.URL.Path)
			assert.Equal(t, "application/problem+json", answer.Header.Get("Content-Type"), r.URL.Path)
			assert.Less(t, time.Since(began), within+slack, "%s %s", r.Method, r.URL.Path)
		})
	}
	wait.Wait()
}

// afresh is a request to be sent once more.
func afresh(ctx context.Context, t *testing.T, r *http.Request) *http.Request {
	body, err := r.GetBody()
	assert.NoError(t, err)
	once := r.Clone(ctx)
	once.Body = body
	return once
}

// busy is for a machine whose neighbours come and go; what waits for a frozen database without an end waits a minute.
const busy = 4 * time.Second

// slowness is how much longer things take here than they would on a machine of one's own.
func slowness(t *testing.T) time.Duration {
	t.Helper()
	const nap = 100 * time.Millisecond
	began := time.Now()
	for range 5 {
		time.Sleep(nap)
	}
	return 10*(time.Since(began)-5*nap) + busy
}

// fineAgain asks everything one after the other until the database's trouble is over for each: it is by itself.
func fineAgain(t *testing.T, requests []*http.Request) {
	t.Helper()
	for _, r := range requests {
		require.Eventually(t, func() bool {
			ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
			defer cancel()
			answer, err := http.DefaultClient.Do(afresh(ctx, t, r))
			if err != nil {
				return false
			}
			defer answer.Body.Close()
			return answer.StatusCode < 500
		}, time.Minute, 100*time.Millisecond, "%s %s", r.Method, r.URL.Path)
	}
}

// A database that is frozen, has no connection to give or no room on its disk is told of at once on every route; when it is
// well again, so is the service, and nothing is half-written.
func TestPostgresInTrouble(t *testing.T) {
	ground := prepare(t)
	c := ground.cluster
	address := freeAddress(t)
	run(t, ground.binary, ground.database, "serve", "--listen", address, "--workers", "2", "--sign-ins", "100000", "--hand-ins", "0")
	people := signIn(t, address, "liam", "nadia")
	requests := everyRoute(t, address, people[0], people[1])
	fineAgain(t, requests)

	t.Run("frozen", func(t *testing.T) {
		frozen := c.all(t)
		for _, pid := range frozen {
			require.NoError(t, syscall.Kill(pid, syscall.SIGSTOP))
		}
		defer func() {
			for _, pid := range frozen {
				_ = syscall.Kill(pid, syscall.SIGCONT) // one may have ended
			}
		}()
		refusedSoon(t, requests)
		refusedSoon(t, requests) // the connections that were open are gone by now
		for _, pid := range frozen {
			_ = syscall.Kill(pid, syscall.SIGCONT)
		}
		fineAgain(t, requests)
	})
	t.Run("out of connections", func(t *testing.T) {
		release := takeAllConnections(t, ground.database)
		refusedSoon(t, requests)
		release()
		fineAgain(t, requests)
	})
	t.Run("out of disk", func(t *testing.T) {
		db, err := pgx.Connect(t.Context(), ground.database)
		require.NoError(t, err)
		defer func() { _ = db.Close(context.Background()) }()
		before := countHandins(t, db)
		_, err = db.Exec(t.Context(), `CREATE FUNCTION full_disk() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
			RAISE EXCEPTION 'could not extend file: No space left on device' USING ERRCODE = 'disk_full'; END $$;
			CREATE TRIGGER full_disk BEFORE INSERT OR UPDATE ON results FOR EACH STATEMENT EXECUTE FUNCTION full_disk()`)
		require.NoError(t, err)
		_, err = people[0].HandIn(t.Context(), "mist-hold-in", client.Program{File: "full.st", Text: variant(1)}, "full")
		var p *client.Problem
		require.True(t, errors.As(err, &p), "%v", err)
		assert.Equal(t, 503, p.Status)
		assert.Equal(t, before, countHandins(t, db), "the hand-in is not there without its result")
		_, err = db.Exec(t.Context(), "DROP TRIGGER full_disk ON results")
		require.NoError(t, err)
		h, err := people[0].HandIn(t.Context(), "mist-hold-in", client.Program{File: "full.st", Text: variant(1)}, "full")
		require.NoError(t, err)
		assert.Equal(t, client.Done, h.State)
	})
}

func countHandins(t *testing.T, db *pgx.Conn) (n int) {
	require.NoError(t, db.QueryRow(t.Context(), "SELECT (SELECT count(*) FROM handins) + (SELECT sum(handins) FROM tallies) + (SELECT "+
		"count(*) FROM waiting)").Scan(&n))
	return n
}

// takeAllConnections ends everybody's connections and takes as many as there are, until the returned function is called.
func takeAllConnections(t *testing.T, database string) (release func()) {
	ctx := context.Background()
	var held []*pgx.Conn
	release = func() {
		for _, c := range held {
			_ = c.Close(ctx) // the test is over with it
		}
	}
	t.Cleanup(release)
	first, err := pgx.Connect(ctx, database)
	require.NoError(t, err)
	held = append(held, first)
	for deadline := time.Now().Add(time.Minute); time.Now().Before(deadline); {
		_, err := first.Exec(ctx, "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE pid <> pg_backend_pid() AND application_name "+
			"<> 'held' AND backend_type = 'client backend'")
		require.NoError(t, err)
		refused := 0
		for refused < 3 {
			c, err := pgx.Connect(ctx, database+"&application_name=held")
			if err != nil {
				refused++
				continue
			}
			held = append(held, c)
		}
		var others int
		require.NoError(t, first.QueryRow(ctx, "SELECT count(*) FROM pg_stat_activity WHERE pid <> pg_backend_pid() AND application_name <> "+
			"'held' AND backend_type = 'client backend'").Scan(&others))
		if others == 0 {
			return release
		}
	}
	require.Fail(t, "the connections could not be taken")
	return release
}
