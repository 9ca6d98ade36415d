package main

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"

	"celandine/client"
)

const (
	watchers = 300
	perTick  = 100 // hand-ins a second
	watching = 10 * time.Second
)

// watched tells how long other requests take while many pages watch the class and a hundred hand-ins come in each second.
func watched(ctx context.Context, db *pgx.Conn, class []*client.Client) error {
	for waiting := 1; waiting > 0; time.Sleep(100 * time.Millisecond) { // what the hostile left
		if err := db.QueryRow(ctx, "SELECT count(*) FROM waiting").Scan(&waiting); err != nil {
			return err
		}
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	// As many of the class become instructors of it as are needed: each may have a few pages open.
	teachers := class[len(class)-watchers/streams:]
	if _, err := db.Exec(ctx, "UPDATE people SET role = 'instructor' WHERE login >= $1 AND login LIKE 'load-%'",
		fmt.Sprintf("load-%03d", len(class)-len(teachers))); err != nil {
		return err
	}
	var told atomic.Int64
	var open sync.WaitGroup
	for _, c := range teachers {
		for range streams {
			open.Go(func() { watch(ctx, c, &told) })
		}
	}
	class = class[:len(class)-len(teachers)]
	for told.Load() < watchers { // every page is open and has its first news
		time.Sleep(10 * time.Millisecond)
	}
	time.AfterFunc(watching, stop)
	var mu sync.Mutex
	var times []time.Duration
	tick := time.NewTicker(time.Second / perTick)
	defer tick.Stop()
	var all sync.WaitGroup
	for n := 0; ctx.Err() == nil; n++ {
		<-tick.C
		all.Go(func() {
			_, _ = handIn(ctx, class[n%len(class)], "watched", n) // ended by the time that is over
		})
		all.Go(func() {
			began := time.Now()
			if _, err := class[(n+len(class)/2)%len(class)].Exercises(ctx); err == nil {
				mu.Lock()
				defer mu.Unlock()
				times = append(times, time.Since(began))
			}
		})
	}
	all.Wait()
	open.Wait()
	slices.Sort(times)
	fmt.Printf("\n%d pages watch a class that hands in %d times a second: %d other requests, p50 %.0f ms, p99 %.0f ms; %d news sent\n",
		watchers, perTick, len(times),
		ms(times[len(times)/2]), ms(times[len(times)*99/100]), told.Load())
	return nil
}

// streams is how many of the pages are one person's.
const streams = 10

func watch(ctx context.Context, c *client.Client, told *atomic.Int64) {
	r, err := http.NewRequestWithContext(ctx, "GET", c.URL+"/api/classes/1/events", nil)
	if err != nil {
		return
	}
	r.Header.Set("Authorization", "Bearer "+c.Token)
	answer, err := c.HTTP.Do(r)
	if err != nil {
		return
	}
	defer answer.Body.Close()
	lines := bufio.NewScanner(answer.Body)
	for lines.Scan() {
		if lines.Text() != "" {
			told.Add(1)
		}
	}
}
