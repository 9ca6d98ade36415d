// Load lets a hundred learners hand in at once and tells how long each waits for the mark. It takes the service's address and the demo
// course's folder; the service must have that course. What it enrols stays, so it wants a database of its own; make load sees to that.
package main

import (
	"context"
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
	if len(os.Args) != 3 {
		fmt.Fprintln(os.Stderr, "usage: load ADDRESS COURSE")
		os.Exit(2)
	}
	if err := run(context.Background(), os.Args[1], os.Args[2]); err != nil {
		fmt.Fprintln(os.Stderr, "load:", err)
		os.Exit(1)
	}
}

func text(round string, n int) string {
	return fmt.Sprintf("PROGRAM p // %s %d\nmist_valve := (mist_on OR mist_valve) AND mist_off;\nEND_PROGRAM\n", round, n)
}

func run(ctx context.Context, address, course string) error {
	class, err := enrol(ctx, address)
	if err != nil {
		return err
	}
	// In the first round connections are made and the exercise is read.
	if _, _, err := atOnce(ctx, class, "first"); err != nil {
		return err
	}
	fmt.Printf("%d learners hand in at once, %d times; hand-in to mark, ms\n\n", len(class), rounds)
	best, most, err := inRounds(ctx, class, "calm")
	if err != nil {
		return err
	}
	fmt.Printf("\nthe stillest round: p50 %.0f ms, p99 %.0f ms\n", ms(best[len(best)/2]), ms(best[len(best)*99/100]))
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
	fmt.Printf("\nthe stillest round: p50 %.0f ms, p99 %.0f ms, %.1f times the calm one's\n", ms(disturbed[len(disturbed)/2]), ms(disturbed[len(disturbed)*99/100]),
		disturbed[len(disturbed)*99/100].Seconds()/best[len(best)*99/100].Seconds())
	limit, err := inProcess(course)
	if err != nil {
		return err
	}
	fmt.Printf("grading alone, in one process on %d cores: %.0f hand-ins/s; the service: %.0f, a share of %.3f\n", runtime.GOMAXPROCS(0), limit, most, most/limit)
	return memory(address)
}

// inRounds lets a class hand in again and again, and returns the round in which the slowest waited least, sorted, and the highest rate.
func inRounds(ctx context.Context, class []*client.Client, name string) (best []time.Duration, most float64, err error) {
	fmt.Printf("%8s %8s %8s %12s\n", "p50", "p99", "most", "hand-ins/s")
	slowest := len(class) * 99 / 100
	for round := range rounds {
		times, took, err := atOnce(ctx, class, fmt.Sprint(name, " ", round))
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

func atOnce(ctx context.Context, class []*client.Client, round string) ([]time.Duration, time.Duration, error) {
	times := make([]time.Duration, len(class))
	failed := make([]error, len(class))
	var wait sync.WaitGroup
	start := make(chan struct{})
	for n, c := range class {
		wait.Go(func() {
			<-start
			began := time.Now()
			h, err := c.HandIn(ctx, exercise, client.Program{File: "mine.st", Text: text(round, n)}, fmt.Sprint("load ", round, " ", n))
			if err == nil {
				_, err = c.Await(ctx, h.ID)
			}
			times[n], failed[n] = time.Since(began), err
		})
	}
	began := time.Now()
	close(start)
	wait.Wait()
	took := time.Since(began)
	for _, err := range failed {
		if err != nil {
			return nil, 0, err
		}
	}
	return times, took, nil
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
func memory(address string) error {
	response, err := http.Get(address + "/metrics")
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
