package api_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/service"
	"celandine/service/roster"
	"celandine/service/servicetest"
)

// One key is one hand-in: sent again it is that one; with another body, to another exercise or by another person it is refused.
func TestIdempotencyKey(t *testing.T) {
	for _, queued := range []bool{false, true} {
		t.Run(fmt.Sprint("queued ", queued), func(t *testing.T) {
			s := servicetest.Start(t, true, func(c *service.Config) { c.Queued = queued })
			ana, ben := s.As(t, "ana"), s.As(t, "ben")
			first := handIn(t, ana, "mist-hold-in", rightMist, "mine")
			assert.Equal(t, first.ID, handIn(t, ana, "mist-hold-in", rightMist, "mine").ID)
			for name, try := range map[string]func() (client.Handin, error){
				"another body": func() (client.Handin, error) {
					return ana.HandIn(ctx, "mist-hold-in", client.Program{File: "mine.st", Text: rightMist + " "}, "mine")
				},
				"another file": func() (client.Handin, error) {
					return ana.HandIn(ctx, "mist-hold-in", client.Program{File: "other.st", Text: rightMist}, "mine")
				},
				"another exercise": func() (client.Handin, error) {
					return ana.HandIn(ctx, "vent-interlock", client.Program{File: "mine.st", Text: rightMist}, "mine")
				},
				"another person": func() (client.Handin, error) {
					return ben.HandIn(ctx, "mist-hold-in", client.Program{File: "mine.st", Text: rightMist}, "mine")
				},
			} {
				_, err := try()
				p := problemOf(t, err)
				assert.Equal(t, 409, p.Status, name)
				assert.Equal(t, "key", p.Code, name)
				assert.NotContains(t, p.Error(), "mist_valve", name)
			}
		})
	}
}

// A learner hands in so often within an hour, and no more; an instructor tries as often as they like.
func TestHandInsAnHour(t *testing.T) {
	s := servicetest.Start(t, true, func(c *service.Config) { c.HandIns = 3 })
	liam, nadia := s.As(t, "liam"), s.As(t, "nadia")
	s.Exec(t, "UPDATE handins SET created_at = now() - interval '2 hours'")
	for range 3 {
		handIn(t, liam, "mist-hold-in", rightMist, "")
	}
	_, err := liam.HandIn(ctx, "vent-interlock", client.Program{File: "mine.st", Text: rightMist}, "")
	p := problemOf(t, err)
	assert.Equal(t, 429, p.Status)
	assert.Equal(t, "You have handed in 3 times within an hour, which is as often as is taken. Try the program on the bench, and hand in "+
		"again later.", p.Detail)
	for range 4 {
		handIn(t, nadia, "mist-hold-in", rightMist, "")
	}
	handIn(t, s.As(t, "ana"), "mist-hold-in", rightMist, "")
}

// A mark comes with the answer where a core is free, and no job is made; else from the queue, to the byte the same.
func TestGradedWithinTheRequest(t *testing.T) {
	results := map[bool]string{}
	for _, queued := range []bool{false, true} {
		s := servicetest.Start(t, true, func(c *service.Config) { c.Queued = queued })
		s.Exec(t, "DELETE FROM river_job")
		h, err := s.As(t, "liam").HandIn(ctx, "mist-hold-in", client.Program{File: "mine.st", Text: rightMist}, "")
		require.NoError(t, err)
		assert.Equal(t, map[bool]string{false: client.Done, true: client.Waiting}[queued], h.State)
		assert.Equal(t, !queued, h.Earned != nil)
		_, err = s.As(t, "liam").Await(ctx, h.ID)
		require.NoError(t, err)
		var n int
		require.NoError(t, s.Store.Pool.QueryRow(ctx, "SELECT count(*) FROM river_job").Scan(&n))
		assert.Equal(t, queued, n > 0)
		h, err = s.As(t, "nadia").Handin(ctx, h.ID)
		require.NoError(t, err)
		results[queued] = string(h.Result)
		if queued {
			assert.Regexp(t, `"msg":"graded","handin":\d+,"requestId":"[^"]+"`, s.Log.String(), "the log follows a request into its job")
		}
	}
	assert.Equal(t, results[false], results[true])
}

// An exercise belongs to whoever pushed it first. Another instructor of the class may read it, and change it once it is shared
// for that; one of another class reaches nothing of it, and has the name to themselves.
func TestExercisesHaveOwners(t *testing.T) {
	s := servicetest.Start(t, true)
	neighbours(t, s)
	s.Exec(t, "WITH v AS (INSERT INTO people (login, name, role, password_hash) SELECT 'viktor', 'Viktor', 'instructor', password_hash "+
		"FROM people WHERE login = 'ana' RETURNING id) INSERT INTO enrolments SELECT 1, id FROM v")
	nadia, viktor, petra := s.As(t, "nadia"), s.As(t, "viktor"), s.As(t, "petra")
	files := exerciseFolder(t, "mist-hold-in")
	changed := map[string][]byte{}
	for path, content := range files {
		changed[path] = content
	}
	changed["brief.md"] = []byte("Another brief that tells of mist_on, mist_off and mist_valve.")

	_, err := viktor.Push(ctx, "mist-hold-in", client.Folder{Files: changed})
	p := problemOf(t, err)
	assert.Equal(t, 403, p.Status)
	assert.Contains(t, p.Detail, "belongs to Nadia Brandt")
	read, err := viktor.Folder(ctx, "nadia", "mist-hold-in")
	require.NoError(t, err, "who teaches a class that works on it reads it")
	assert.Equal(t, string(files["solution.ladder"]), string(read.Files["solution.ladder"]))

	pushed, err := petra.Push(ctx, "mist-hold-in", client.Folder{Files: changed})
	require.NoError(t, err, "the name is free for each owner")
	assert.Equal(t, 1, pushed.Revision)
	mine, err := petra.Library(ctx)
	require.NoError(t, err)
	require.Len(t, mine, 1)
	assert.Equal(t, "petra", mine[0].Owner)
	for name, err := range map[string]error{
		"reading":      second(petra.Folder(ctx, "nadia", "mist-hold-in")),
		"its shares":   second(petra.Shares(ctx, "nadia", "mist-hold-in")),
		"sharing":      second(petra.Share(ctx, "nadia", "mist-hold-in", "petra", "read")),
		"ending":       petra.EndShare(ctx, "nadia", "mist-hold-in", "viktor"),
		"previewing":   second(petra.Regrade(ctx, 1, client.Regrading{Exercise: "mist-hold-in"})),
		"her revision": second(nadia.Regrade(ctx, 1, client.Regrading{Exercise: "mist-hold-in", Revision: 2})),
		"copying":      second(petra.Take(ctx, 2, client.Taking{From: 1, Exercises: []string{"tray-counter"}})),
	} {
		assert.Equal(t, 404, problemOf(t, err).Status, name)
	}

	for _, may := range []string{"read", "change"} {
		_, err := nadia.Share(ctx, "nadia", "mist-hold-in", "viktor", may)
		require.NoError(t, err)
		_, err = viktor.Push(ctx, "mist-hold-in", client.Folder{Files: changed})
		assert.Equal(t, may == "change", err == nil, may)
	}
	shares, err := nadia.Shares(ctx, "nadia", "mist-hold-in")
	require.NoError(t, err)
	assert.Equal(t, []client.Share{{Login: "viktor", Name: "Viktor", May: "change"}}, shares)
	_, err = nadia.Share(ctx, "nadia", "mist-hold-in", "petra", "read")
	require.NoError(t, err)
	_, err = petra.Folder(ctx, "nadia", "mist-hold-in")
	assert.NoError(t, err)
	require.NoError(t, nadia.EndShare(ctx, "nadia", "mist-hold-in", "petra"))
	_, err = petra.Folder(ctx, "nadia", "mist-hold-in")
	assert.Error(t, err)
	_, err = nadia.Share(ctx, "nadia", "mist-hold-in", "ana", "read")
	assert.Equal(t, 404, problemOf(t, err).Status, "learners are shared nothing with")
}

func second[T any](_ T, err error) error { return err }

// Who gives somebody a code acts for them: only an administrator may, or who teaches all classes of theirs.
func TestCodesAcrossClasses(t *testing.T) {
	s := servicetest.Start(t, true)
	neighbours(t, s)
	nadia, petra := s.As(t, "nadia"), s.As(t, "petra")
	list := func(rows ...string) client.Roster {
		return client.Roster{CSV: "login,name\n" + strings.Join(rows, "\n") + "\n"}
	}
	enrol := func(c *client.Client, class int64, r client.Roster) client.Enrolled {
		e, err := c.Enrol(ctx, class, r)
		require.NoError(t, err)
		return e
	}
	// Noor is enrolled by nadia; enrolling again keeps the code.
	first := enrol(nadia, 1, list("noor,Noor Aziz"))
	require.Len(t, first.Added, 1)
	require.NotEmpty(t, first.Added[0].Code)
	again := enrol(nadia, 1, list("noor,Noor Aziz", "omar,Omar Said"))
	require.Len(t, again.Added, 1, "noor has a code that holds")
	assert.Equal(t, "omar", again.Added[0].Login)
	assert.Equal(t, 1, again.Known)

	// petra enrols noor as well, and gets no code with which to be noor in nadia's class.
	other := enrol(petra, 2, list("noor,Noor Aziz"))
	require.Len(t, other.Added, 1)
	assert.Empty(t, other.Added[0].Code)
	for _, login := range []string{"noor"} {
		for _, c := range []struct {
			by    *client.Client
			class int64
		}{{petra, 2}, {nadia, 1}} {
			_, err := c.by.IssueCode(ctx, c.class, login)
			p := problemOf(t, err)
			assert.Equal(t, "other-classes", p.Code)
		}
	}
	_, err := s.As(t, "rosa").IssueCode(ctx, 1, "noor")
	assert.NoError(t, err, "an administrator may")
	_, err = nadia.IssueCode(ctx, 1, "omar")
	assert.NoError(t, err, "who teaches all of their classes may")
	require.NoError(t, petra.AddMember(ctx, 2, "ana"))
	_, err = petra.IssueCode(ctx, 2, "ana")
	assert.Equal(t, 403, problemOf(t, err).Status, "nor by adding somebody to one's class first")

	// A rehearsal tells nothing of people outside: not that ben's login is taken, nor by whom.
	dry := client.Roster{CSV: "login,name\nben,Somebody Else\nzoe,Zoe Hart\n", Dry: true}
	rehearsal := enrol(petra, 2, dry)
	assert.Empty(t, rehearsal.Problems)
	assert.Len(t, rehearsal.Added, 2)
	dry.Dry = false
	refused := enrol(petra, 2, dry)
	require.Len(t, refused.Problems, 1)
	assert.Equal(t, client.ListProblem{Line: 2, Say: "The login ben belongs to somebody else already. Choose another. Nobody was enrolled."},
		refused.Problems[0])
	members, err := petra.Members(ctx, 2)
	require.NoError(t, err)
	for _, m := range members {
		assert.NotEqual(t, "zoe", m.Login, "all of it or nothing")
	}
}

// A list as long as may be is enrolled, though it keeps the database for longer than a page waits.
func TestLongList(t *testing.T) {
	s := servicetest.Start(t, true)
	s.Exec(t, `CREATE FUNCTION slow_disk() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN PERFORM pg_sleep(0.002); RETURN NEW; END $$;
		CREATE TRIGGER slow_disk BEFORE INSERT ON enrolments FOR EACH ROW EXECUTE FUNCTION slow_disk()`)
	var list strings.Builder
	list.WriteString("login,name\n")
	for n := range roster.MaxPeople {
		fmt.Fprintf(&list, "new-%04d,Learner %d\n", n, n)
	}
	e, err := s.As(t, "nadia").Enrol(ctx, 1, client.Roster{CSV: list.String()})
	require.NoError(t, err)
	assert.Len(t, e.Added, roster.MaxPeople)
}

// A person has a few pages open that wait for news, and no more; a page that is closed makes room.
func TestStreamsAreFew(t *testing.T) {
	s := servicetest.Start(t, true)
	token := s.As(t, "nadia").Token
	open := func() *http.Response {
		r, err := http.NewRequest("GET", s.URL+"/api/classes/1/events", nil)
		require.NoError(t, err)
		r.Header.Set("Authorization", "Bearer "+token)
		response, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		t.Cleanup(func() { _ = response.Body.Close() })
		return response
	}
	var streams []*http.Response
	for {
		one := open()
		if one.StatusCode != 200 {
			assert.Equal(t, 429, one.StatusCode)
			assert.NotEmpty(t, one.Header.Get("Retry-After"))
			break
		}
		streams = append(streams, one)
		require.Less(t, len(streams), 100)
	}
	assert.Greater(t, len(streams), 5)
	require.NoError(t, streams[0].Body.Close())
	require.Eventually(t, func() bool {
		one := open()
		defer one.Body.Close()
		return one.StatusCode == 200
	}, servicetest.Patience, servicetest.Moment)
}

// A hand-in that has no result and no job is found by the service itself, and by an administrator.
func TestStuckHandinsAreFreed(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	s.Exec(t, "DELETE FROM results WHERE handin_id IN (3, 4)")
	s.Exec(t, "UPDATE handins SET created_at = now() - interval '1 hour'")
	rosa := s.As(t, "rosa")
	list, err := rosa.Stuck(ctx)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "ana", list[0].Login)
	freed, err := rosa.Requeue(ctx)
	require.NoError(t, err)
	assert.Equal(t, 2, freed.Queued)
	for _, id := range []int64{3, 4} {
		_, err = rosa.Await(ctx, id)
		require.NoError(t, err)
	}

	s.Exec(t, "DELETE FROM results WHERE handin_id = 4")
	s.Exec(t, "DELETE FROM waiting")
	_, err = rosa.Await(ctx, 4) // the service sweeps a few times a minute
	require.NoError(t, err)
	require.Eventually(t, func() bool { return strings.Contains(s.Log.String(), `"hand-ins were stuck","handins":[4],"queued":1`) },
		servicetest.Patience, servicetest.Moment)
}

// Folders whose exercise.yaml is large, of whatever shape, are refused before they take much memory, three at once too.
func TestLargeFolders(t *testing.T) {
	s := servicetest.Start(t, true)
	token := s.As(t, "nadia").Token
	const size = 11 << 20 // as JSON carries it, 15 MiB
	for name, unit := range map[string]string{"a list": "- a\n", "depth": "["} {
		body, err := json.Marshal(client.Folder{Files: map[string][]byte{"exercise.yaml": []byte(strings.Repeat(unit, size/len(unit)))}})
		require.NoError(t, err)
		runtime.GC()
		var before, now runtime.MemStats
		runtime.ReadMemStats(&before)
		var all sync.WaitGroup
		var going atomic.Int32
		for range 3 {
			going.Add(1)
			all.Go(func() {
				defer going.Add(-1)
				r, err := http.NewRequest("PUT", s.URL+"/api/exercises/mist?class=1", bytes.NewReader(body))
				assert.NoError(t, err)
				r.Header.Set("Content-Type", "application/json")
				status, text := answer(t, r, token)
				assert.Equal(t, 422, status, name)
				assert.Less(t, len(text), 20_000, name)
			})
		}
		peak := uint64(0)
		for going.Load() > 0 {
			runtime.ReadMemStats(&now)
			peak = max(peak, now.HeapAlloc)
			time.Sleep(time.Millisecond)
		}
		all.Wait()
		assert.Less(t, int64(peak)-int64(before.HeapAlloc), int64(200<<20), name)
	}
}
