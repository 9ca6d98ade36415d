// Grow fills a database with schools' years and tells how long each page's call takes at a thousand, a hundred thousand and a
// million hand-ins. It takes the address of a service whose database, CELANDINE_DATABASE, has the demo course, and the metrics'
// address. What it adds stays; make grow gives it a database of its own.
package main

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"os"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"celandine/client"
)

const (
	classes  = 100
	learners = 5_000 // fifty in each class
	password = "glasshouse"
	asked    = 21 // times each call is made
)

var sizes = []int{1_000, 100_000, 1_000_000}

func main() {
	if len(os.Args) != 3 {
		fmt.Fprintln(os.Stderr, "usage: grow ADDRESS METRICS, with CELANDINE_DATABASE set")
		os.Exit(2)
	}
	if err := run(context.Background(), os.Args[1], os.Args[2]); err != nil {
		fmt.Fprintln(os.Stderr, "grow:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, address, metrics string) error {
	db, err := pgx.Connect(ctx, os.Getenv("CELANDINE_DATABASE"))
	if err != nil {
		return err
	}
	defer func() { _ = db.Close(ctx) }()
	if err := people(ctx, db); err != nil {
		return fmt.Errorf("adding classes and people: %w", err)
	}
	learner, other, instructor, administrator := &client.Client{URL: address}, &client.Client{URL: address}, &client.Client{URL: address},
		&client.Client{URL: address}
	for login, c := range map[string]*client.Client{"grow-00000": learner, "grow-00001": other, "grow-teacher": instructor,
		"rosa": administrator} {
		token, err := c.Login(ctx, client.TokenWish{Credentials: client.Credentials{Login: login, Password: password}})
		if err != nil {
			return err
		}
		c.Token = token.Token
	}
	times := map[string][]time.Duration{}
	made := 0
	var calls []call
	for _, size := range sizes {
		began := time.Now()
		for made < size {
			some := min(50_000, size-made)
			if err := handins(ctx, db, made, some); err != nil {
				return fmt.Errorf("adding hand-ins: %w", err)
			}
			made += some
			fmt.Fprintf(os.Stderr, "%d hand-ins, %s\n", made, time.Since(began).Round(time.Second))
		}
		if _, err := db.Exec(ctx, "VACUUM ANALYZE"); err != nil {
			return err
		}
		if calls, err = pages(ctx, db, learner, other, instructor, administrator, metrics); err != nil {
			return err
		}
		for _, c := range calls {
			took, err := median(c.ask)
			if err != nil {
				return fmt.Errorf("%s: %w", c.name, err)
			}
			times[c.by+c.name] = append(times[c.by+c.name], took)
		}
	}
	fmt.Printf("| call | by | %d | %d | %d |\n|---|---|---|---|---|\n", sizes[0], sizes[1], sizes[2])
	for _, c := range calls {
		t := times[c.by+c.name]
		fmt.Printf("| `%s` | %s | %.1f | %.1f | %.1f |\n", c.name, c.by, ms(t[0]), ms(t[1]), ms(t[2]))
	}
	var bytes int64
	if err := db.QueryRow(ctx, "SELECT sum(pg_total_relation_size(c)) "+
		"FROM unnest(ARRAY['handins', 'results', 'tallies']::regclass[]) c").Scan(&bytes); err != nil {
		return err
	}
	fmt.Printf("\n%d hand-ins take %.0f MB with their results and indexes\n", sizes[len(sizes)-1], float64(bytes)/1e6)
	return nil
}

func ms(d time.Duration) float64 { return float64(d) / 1e6 }

// A call is what a page asks.
type call struct {
	name, by string
	ask      func() error
}

func median(ask func() error) (time.Duration, error) {
	var times []time.Duration
	for range asked {
		began := time.Now()
		if err := ask(); err != nil {
			return 0, err
		}
		times = append(times, time.Since(began))
	}
	slices.Sort(times[1:]) // the first makes connections and plans
	return times[1:][asked/2], nil
}

// pages are the calls of the console's pages, and of whoever watches the service.
func pages(ctx context.Context, db *pgx.Conn, learner, other, instructor, administrator *client.Client, metrics string) ([]call, error) {
	get := func(c *client.Client, path func() string) func() error {
		return func() error {
			r, err := http.NewRequestWithContext(ctx, "GET", path(), nil)
			if err != nil {
				return err
			}
			if c != nil {
				r.Header.Set("Authorization", "Bearer "+c.Token)
			}
			answer, err := http.DefaultClient.Do(r)
			if err != nil {
				return err
			}
			defer answer.Body.Close()
			if text, _ := io.ReadAll(answer.Body); answer.StatusCode != http.StatusOK {
				return fmt.Errorf("%d: %.200s", answer.StatusCode, text)
			}
			return nil
		}
	}
	var class, newest int64
	if err := db.QueryRow(ctx, "SELECT id FROM classes WHERE name = 'Grown 0'").Scan(&class); err != nil {
		return nil, err
	}
	if err := db.QueryRow(ctx, "SELECT max(h.id) FROM handins h JOIN people p ON p.id = h.person_id "+
		"WHERE p.login = 'grow-00000'").Scan(&newest); err != nil {
		return nil, err
	}
	var list []call
	add := func(by string, c *client.Client, name string) {
		list = append(list, call{name, by, get(c, func() string {
			url := learner.URL + name
			for from, to := range map[string]string{"{class}": fmt.Sprint(class), "{id}": fmt.Sprint(newest), "{name}": "mist-hold-in"} {
				url = replace(url, from, to)
			}
			return url
		})})
	}
	for _, path := range []string{"/api/me", "/api/exercises", "/api/exercises/{name}", "/api/exercises/{name}/handins", "/api/handins/{id}",
		"/api/marks"} {
		add("learner", learner, path)
	}
	for _, path := range []string{"/api/classes", "/api/marks?class={class}", "/api/exercises?class={class}",
		"/api/exercises/{name}/handins?class={class}", "/api/exercises/{name}/handins?class={class}&state=waiting", "/api/handins/{id}",
		"/api/classes/{class}/members", "/api/classes/{class}/assignments", "/api/classes/{class}/insight/{name}", "/api/classes/{class}/audit",
		"/api/classes/{class}/marks.csv", "/api/library"} {
		add("instructor", instructor, path)
	}
	for _, path := range []string{"/api/classes", "/api/people", "/api/people?with=grow"} {
		add("administrator", administrator, path)
	}
	list = append(list, call{"hand in", "learner", func() error {
		_, err := other.HandIn(ctx, "mist-hold-in", client.Program{File: "mine.st",
			Text: "PROGRAM p\nmist_valve := (mist_on OR mist_valve) AND mist_off;\nEND_PROGRAM\n"}, "")
		return err
	}}, call{"/metrics", "Prometheus", get(nil, func() string { return metrics })})
	return list, nil
}
