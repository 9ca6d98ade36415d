// Load lets a hundred learners hand in at once and tells how long each waits for the mark, and what a hand-in costs. It takes
// the addresses of a service that grades within requests and of one that queues everything, both on one database with the demo
// course, and the course's folder. What it enrols stays, so it wants a database of its own; make load sees to that.
package main

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/errgroup"

	"celandine/client"
	"celandine/core/source"
	"celandine/folder"
	"celandine/service/jobs"
)

const (
	learners = 100
	rounds   = 20
	hostile  = 5
	exercise = "mist-hold-in"
	password = "glasshouse"
)

func main() {
	if len(os.Args) != 5 {
		fmt.Fprintln(os.Stderr, "usage: load AT-ONCE QUEUED METRICS COURSE, with CELANDINE_DATABASE set")
		os.Exit(2)
	}
	if err := run(context.Background(), [2]string{os.Args[1], os.Args[2]}, os.Args[3], os.Args[4]); err != nil {
		fmt.Fprintln(os.Stderr, "load:", err)
		os.Exit(1)
	}
}

func text(round string, n int) string {
	return fmt.Sprintf("PROGRAM p // %s %d\nmist_valve := (mist_on OR mist_valve) AND mist_off;\nEND_PROGRAM\n", round, n)
}

var modes = [2]string{"graded at once", "from the queue"}

func run(ctx context.Context, addresses [2]string, metrics, course string) error {
	db, err := pgx.Connect(ctx, os.Getenv("CELANDINE_DATABASE"))
	if err != nil {
		return err
	}
	defer func() { _ = db.Close(ctx) }()
	atOnceClass, err := enrol(ctx, addresses[0])
	if err != nil {
		return err
	}
	classes := [2][]*client.Client{atOnceClass, elsewhere(atOnceClass, addresses[1])}
	// In the first rounds connections are made and the exercise is read.
	for mode, class := range classes {
		if _, _, err := together(ctx, class, fmt.Sprint("first ", mode)); err != nil {
			return err
		}
	}
	if err := alone(ctx, classes); err != nil {
		return err
	}
	if err := compare(ctx, db, classes); err != nil {
		return err
	}
	class := classes[0]
	best, most, err := inRounds(ctx, class, "calm")
	if err != nil {
		return err
	}
	others := class[hostile:]
	fmt.Printf("\n%d learners at once, while %d hand in nothing but programs that use up every scan's budget\n\n", len(others), hostile)
	ended := besiege(ctx, class[:hostile])
	disturbed, _, err := inRounds(ctx, others, "disturbed")
	if stopped := ended(); err == nil {
		err = stopped
	}
	if err != nil {
		return err
	}
	fmt.Printf("\nthe stillest round: p50 %.0f ms, p99 %.0f ms, %.1f times the calm one's\n", ms(disturbed[len(disturbed)/2]),
		ms(disturbed[len(disturbed)*99/100]),
		disturbed[len(disturbed)*99/100].Seconds()/best[len(best)*99/100].Seconds())
	if err := watched(ctx, db, class); err != nil {
		return err
	}
	limit, err := inProcess(course)
	if err != nil {
		return err
	}
	fmt.Printf("grading alone, in one process on %d cores: %.0f hand-ins/s; the service: %.0f, a share of %.3f\n", runtime.GOMAXPROCS(0),
		limit, most, most/limit)
	return memory(metrics)
}

// elsewhere is a class at the other service.
func elsewhere(class []*client.Client, address string) (list []*client.Client) {
	for _, c := range class {
		other := *c
		other.URL = address
		list = append(list, &other)
	}
	return list
}

// alone lets one learner hand in again and again, by turns in both modes.
func alone(ctx context.Context, classes [2][]*client.Client) error {
	var times [2][]time.Duration
	for n := range 300 {
		for mode, class := range classes {
			took, err := handIn(ctx, class[0], fmt.Sprint("alone ", mode), n)
			if err != nil {
				return err
			}
			times[mode] = append(times[mode], took)
		}
	}
	for mode := range modes {
		slices.Sort(times[mode])
		fmt.Printf("one learner alone, %s: p50 %.1f ms, p99 %.1f ms\n", modes[mode], ms(times[mode][150]), ms(times[mode][297]))
	}
	fmt.Printf("half of them wait %.2f times as long\n\n", times[0][150].Seconds()/times[1][150].Seconds())
	return nil
}

// compare lets the class hand in by turns in both modes, and tells rates and what a hand-in costs.
func compare(ctx context.Context, db *pgx.Conn, classes [2][]*client.Client) error {
	fmt.Printf("%d learners hand in at once, by turns in both modes\n\n%16s %12s %18s %18s %14s\n", learners, "", "hand-ins/s",
		"service CPU, ms", "PostgreSQL CPU, ms", "WAL, bytes")
	var most, cpu [2]float64
	for range rounds {
		for mode, class := range classes {
			before, err := spent(ctx, db, mode)
			if err != nil {
				return err
			}
			_, took, err := together(ctx, class, rand.Text())
			if err != nil {
				return err
			}
			after, err := spent(ctx, db, mode)
			if err != nil {
				return err
			}
			n := float64(len(class))
			c := after.minus(before)
			rate := n / took.Seconds()
			most[mode] = max(most[mode], rate)
			if sum := (c.service + c.postgres) / n; cpu[mode] == 0 || sum < cpu[mode] {
				cpu[mode] = sum
			}
			fmt.Printf("%16s %12.0f %18.2f %18.2f %14.0f\n", modes[mode], rate, c.service/n*1e3, c.postgres/n*1e3, c.wal/n)
		}
	}
	fmt.Printf("\nin their best rounds %s takes %.2f times the hand-ins a second, each with %.2f times the CPU\n\n", modes[0], most[0]/most[1],
		cpu[0]/cpu[1])
	return nil
}

// inRounds lets a class hand in again and again, and returns the round in which the slowest waited least, sorted, and the highest rate.
func inRounds(ctx context.Context, class []*client.Client, name string) (best []time.Duration, most float64, err error) {
	fmt.Printf("%8s %8s %8s %12s\n", "p50", "p99", "most", "hand-ins/s")
	slowest := len(class) * 99 / 100
	for round := range rounds {
		times, took, err := together(ctx, class, fmt.Sprint(name, " ", round))
		if err != nil {
			return nil, 0, err
		}
		slices.Sort(times)
		rate := float64(len(class)) / took.Seconds()
		fmt.Printf("%8.0f %8.0f %8.0f %12.0f\n", ms(times[len(times)/2]), ms(times[slowest]), ms(times[len(times)-1]), rate)
		if best == nil || times[slowest] < best[slowest] {
			best = times
		}
		most = max(most, rate)
	}
	return best, most, nil
}

// besiege keeps as many programs waiting as the service takes that are as slow to grade as can be, until the returned function is called.
func besiege(ctx context.Context, hostile []*client.Client) (end func() error) {
	const slow = "PROGRAM p // %d\nVAR i, n : DINT; END_VAR\nFOR i := 1 TO 19000 DO n := n + i; END_FOR;\nEND_PROGRAM\n"
	ctx, cancel := context.WithCancel(ctx)
	var wait errgroup.Group
	for n, c := range hostile {
		wait.Go(func() error {
			for round := 0; ctx.Err() == nil; round++ {
				_, err := c.HandIn(ctx, exercise, client.Program{File: "slow.st", Text: fmt.Sprintf(slow, round)}, fmt.Sprintf("slow %d %d", n, round))
				var p *client.Problem
				switch {
				case errors.As(err, &p) && p.Code == "too-many-waiting":
					time.Sleep(20 * time.Millisecond)
				case err != nil && ctx.Err() == nil:
					return err
				}
			}
			return nil
		})
	}
	time.Sleep(time.Second) // until the queue is full of them
	return func() error {
		cancel()
		return wait.Wait()
	}
}

func ms(d time.Duration) float64 { return float64(d) / 1e6 }

// enrol adds the learners by a class list and lets each choose a password.
func enrol(ctx context.Context, address string) ([]*client.Client, error) {
	transport := &http.Transport{MaxIdleConnsPerHost: 2 * learners}
	one := func() *client.Client { return &client.Client{URL: address, HTTP: &http.Client{Transport: transport}} }
	nadia := one()
	token, err := nadia.Login(ctx, client.TokenWish{Credentials: client.Credentials{Login: "nadia", Password: password}})
	if err != nil {
		return nil, err
	}
	nadia.Token = token.Token
	var list strings.Builder
	list.WriteString("login,name\n")
	for n := range learners {
		fmt.Fprintf(&list, "load-%03d,Learner %d\n", n, n)
	}
	enrolled, err := nadia.Enrol(ctx, token.Person.Classes[0].ID, client.Roster{CSV: list.String()})
	if err != nil {
		return nil, err
	}
	if len(enrolled.Added) != learners {
		return nil, fmt.Errorf("%d learners were enrolled, not %d: this database has been used for it before", len(enrolled.Added), learners)
	}
	var class []*client.Client
	for n, added := range enrolled.Added {
		c := one()
		if _, err := c.Join(ctx, client.Joining{Code: added.Code, Password: "sunflowers grow"}); err != nil {
			return nil, err
		}
		token, err := c.Login(ctx, client.TokenWish{Credentials: client.Credentials{Login: added.Login, Password: "sunflowers grow"}})
		if err != nil {
			return nil, err
		}
		c.Token = token.Token
		class = append(class, c)
		if n%20 == 19 {
			fmt.Fprintf(os.Stderr, "%d learners have joined\n", n+1)
		}
	}
	return class, nil
}

// handIn hands in and waits for the mark.
func handIn(ctx context.Context, c *client.Client, round string, n int) (time.Duration, error) {
	began := time.Now()
	h, err := c.HandIn(ctx, exercise, client.Program{File: "mine.st", Text: text(round, n)}, fmt.Sprint("load ", round, " ", n))
	if err == nil && h.State == client.Waiting {
		_, err = c.Await(ctx, h.ID)
	}
	return time.Since(began), err
}

func together(ctx context.Context, class []*client.Client, round string) ([]time.Duration, time.Duration, error) {
	times := make([]time.Duration, len(class))
	failed := make([]error, len(class))
	var wait sync.WaitGroup
	start := make(chan struct{})
	for n, c := range class {
		wait.Go(func() {
			<-start
			times[n], failed[n] = handIn(ctx, c, round, n)
		})
	}
	began := time.Now()
	close(start)
	wait.Wait()
	took := time.Since(began)
	return times, took, errors.Join(failed...)
}

// inProcess is how many hand-ins a second the core grades with nothing around it.
func inProcess(course string) (float64, error) {
	files, err := folder.Open(filepath.Join(course, "exercises", exercise))
	if err != nil {
		return 0, err
	}
	g, err := jobs.Prepare(files)
	if err != nil {
		return 0, err
	}
	var wait sync.WaitGroup
	var mu sync.Mutex
	done := 0
	began := time.Now()
	for range runtime.GOMAXPROCS(0) {
		wait.Go(func() {
			n := 0
			for ; time.Since(began) < 2*time.Second; n++ {
				g.Grade("mine.st", []*source.File{source.NewFile("mine.st", text("", n))})
			}
			mu.Lock()
			done += n
			mu.Unlock()
		})
	}
	wait.Wait()
	return float64(done) / time.Since(began).Seconds(), nil
}

// memory asks the service how much it holds.
func memory(metrics string) error {
	response, err := http.Get(metrics)
	if err != nil {
		return err
	}
	defer response.Body.Close()
	var all strings.Builder
	if err := response.Write(&all); err != nil {
		return err
	}
	found := regexp.MustCompile(`(?m)^process_resident_memory_bytes (\S+)`).FindStringSubmatch(all.String())
	if found == nil {
		return fmt.Errorf("the service's metrics tell no memory")
	}
	var bytes float64
	if _, err := fmt.Sscan(found[1], &bytes); err != nil {
		return err
	}
	fmt.Printf("memory of the service: %.0f MB\n", bytes/1e6)
	return nil
}
