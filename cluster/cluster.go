// Package cluster runs a PostgreSQL of one's own: for the demo and for tests.
//
// [In] names a folder. [Cluster.Start] makes a data folder there if need be, starts Debian's PostgreSQL on it, on loopback, at
// a port of its own, and gives the address with the password that it made up. [Cluster.Stop] ends it in order; the data stays,
// until [Cluster.Remove]. As root the server runs as the user postgres, since it refuses root. Several processes may share a
// folder: each finds what another has started.
//
// It touches no PostgreSQL but its own.
package cluster

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/binary"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
)

// ErrMissing is that Debian's PostgreSQL is not installed.
var ErrMissing = errors.New("PostgreSQL is not installed; as root: apt-get install -y postgresql")

// A Cluster is a PostgreSQL in a folder.
type Cluster struct {
	dir      string              // the folder that was named: the lock
	home     string              // the server's: data, log, port, password
	programs string              // initdb and pg_ctl
	as       *syscall.Credential // whose the server is; nil: ours
	uid, gid int
}

// In finds PostgreSQL's programs and the place for the server's files: the folder itself, or, where a closed folder above it would
// lock the user postgres out, one in /var/lib. [Cluster.Home] tells which.
func In(dir string) (*Cluster, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/pg_ctl") // the pattern is right
	if len(found) == 0 {
		return nil, ErrMissing
	}
	newest := slices.MaxFunc(found, func(a, b string) int { return version(a) - version(b) })
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, fmt.Errorf("finding %s: %w", dir, err)
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("making a folder for PostgreSQL: %w", err)
	}
	c := &Cluster{dir: dir, home: dir, programs: filepath.Dir(newest)}
	if os.Getuid() != 0 {
		return c, nil
	}
	if err := c.serveAs("postgres"); err != nil {
		return nil, err
	}
	if c.command("test", "-x", dir).Run() != nil {
		c.home = fmt.Sprintf("/var/lib/celandine-%x", sha256.Sum256([]byte(dir)))[:len("/var/lib/celandine-")+12]
	}
	return c, nil
}

// version is 15 for /usr/lib/postgresql/15/bin/pg_ctl.
func version(path string) int {
	n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(path)))) // what is no number is older than all
	return n
}

func (c *Cluster) serveAs(name string) error {
	u, err := user.Lookup(name)
	if err != nil {
		return fmt.Errorf("PostgreSQL does not run as root, and there is no user %s: %w", name, err)
	}
	if c.uid, err = strconv.Atoi(u.Uid); err == nil {
		c.gid, err = strconv.Atoi(u.Gid)
	}
	if err != nil {
		return fmt.Errorf("the user %s has no number: %w", name, err)
	}
	c.as = &syscall.Credential{Uid: uint32(c.uid), Gid: uint32(c.gid)}
	return nil
}

// Home is the folder of the server's files.
func (c *Cluster) Home() string { return c.home }

func (c *Cluster) data() string { return filepath.Join(c.home, "cluster") }

// Start starts the server unless it runs, with settings such as "fsync=off", and returns the address of its database.
func (c *Cluster) Start(ctx context.Context, settings ...string) (string, error) {
	unlock, err := c.lock()
	if err != nil {
		return "", err
	}
	defer unlock()
	if _, err := os.Stat(c.data()); errors.Is(err, os.ErrNotExist) {
		if err := c.create(ctx); err != nil {
			return "", err
		}
	}
	if !c.Alive() {
		if err := c.start(ctx, settings); err != nil {
			return "", err
		}
	}
	return c.address()
}

// lock keeps other processes out while one makes or starts the server.
func (c *Cluster) lock() (unlock func(), err error) {
	f, err := os.OpenFile(filepath.Join(c.dir, "starting"), os.O_CREATE|os.O_RDWR, 0o644)
	if err == nil {
		err = syscall.Flock(int(f.Fd()), syscall.LOCK_EX)
	}
	if err != nil {
		return nil, fmt.Errorf("waiting for others that use %s: %w", c.dir, err)
	}
	return func() { _ = f.Close() }, nil
}

// create makes the data folder: whole, or not at all.
func (c *Cluster) create(ctx context.Context) error {
	if err := os.MkdirAll(c.home, 0o755); err != nil {
		return fmt.Errorf("making a folder for PostgreSQL: %w", err)
	}
	if err := os.WriteFile(filepath.Join(c.dir, "home"), []byte(c.home+"\n"), 0o644); err != nil {
		return fmt.Errorf("noting where PostgreSQL is: %w", err)
	}
	password := filepath.Join(c.home, "password")
	if err := os.WriteFile(password, []byte(rand.Text()), 0o600); err != nil {
		return fmt.Errorf("making a password for PostgreSQL: %w", err)
	}
	if c.as != nil {
		if err := errors.Join(os.Chown(c.home, c.uid, c.gid), os.Chown(password, c.uid, c.gid)); err != nil {
			return fmt.Errorf("giving the folder to PostgreSQL: %w", err)
		}
	}
	fresh := c.data() + ".new"
	if err := os.RemoveAll(fresh); err != nil {
		return fmt.Errorf("clearing what a broken start has left: %w", err)
	}
	out, err := c.run(ctx, "initdb", "-D", fresh, "-U", "celandine", "--auth=scram-sha-256", "--pwfile="+password, "--locale=C.UTF-8",
		"--encoding=UTF8")
	if err != nil {
		return fmt.Errorf("making PostgreSQL's data folder: %w\n%s", err, out)
	}
	if err := os.Rename(fresh, c.data()); err != nil {
		return fmt.Errorf("making PostgreSQL's data folder: %w", err)
	}
	return nil
}

// The first port that is tried, and the first of those that the kernel gives to whoever connects: while the server is away,
// somebody who asks for it again and again would meet themselves there, and keep it.
const (
	firstPort = 15460
	ephemeral = 32768
	spread    = 10_000 // of the first ports that are tried
)

func (c *Cluster) start(ctx context.Context, settings []string) error {
	port, _ := strconv.Atoi(c.read("port")) // none yet: one by the folder, so that few want the same
	if port < firstPort || port >= ephemeral {
		folder := sha256.Sum256([]byte(c.dir))
		port = firstPort + int(binary.BigEndian.Uint16(folder[:]))%spread
	}
	for ; port < ephemeral; port++ {
		if taken(port) {
			continue
		}
		err := c.startAt(ctx, port, settings)
		if err == nil || !taken(port) {
			return err
		} // else another has come between
	}
	return fmt.Errorf("PostgreSQL found no free port from %d to %d", firstPort, ephemeral)
}

func (c *Cluster) startAt(ctx context.Context, port int, settings []string) error {
	if err := os.WriteFile(filepath.Join(c.home, "port"), []byte(strconv.Itoa(port)), 0o644); err != nil {
		return fmt.Errorf("noting PostgreSQL's port: %w", err)
	}
	options := fmt.Sprintf("-p %d -c listen_addresses=127.0.0.1 -c unix_socket_directories=''", port)
	for _, s := range settings {
		options += " -c " + s
	}
	log := filepath.Join(c.home, "log")
	if _, err := c.run(ctx, "pg_ctl", "-D", c.data(), "-w", "-t", "120", "-l", log, "-o", options, "start"); err != nil {
		return fmt.Errorf("PostgreSQL did not start (%w); the end of %s:\n%s", err, log, tail(log))
	}
	return nil
}

func taken(port int) bool {
	l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", port))
	if err != nil {
		return true
	}
	_ = l.Close() // it was never used
	return false
}

func (c *Cluster) read(name string) string {
	text, _ := os.ReadFile(filepath.Join(c.home, name)) // none is ""
	return strings.TrimSpace(string(text))
}

func (c *Cluster) address() (string, error) {
	port, password := c.read("port"), c.read("password")
	if port == "" || password == "" {
		return "", fmt.Errorf("%s lacks its port or password; remove the folder and start again", c.home)
	}
	return fmt.Sprintf("postgres://celandine:%s@127.0.0.1:%s/postgres?sslmode=disable", password, port), nil
}

// Alive tells whether the server runs.
func (c *Cluster) Alive() bool {
	_, err := c.run(context.Background(), "pg_ctl", "-D", c.data(), "status")
	return err == nil
}

// Stop ends the server; what is under way in it is broken off, nothing that was stored is lost.
func (c *Cluster) Stop(ctx context.Context) error {
	if !c.Alive() {
		return nil
	}
	if out, err := c.run(ctx, "pg_ctl", "-D", c.data(), "-m", "fast", "-w", "-t", "120", "stop"); err != nil {
		return fmt.Errorf("stopping PostgreSQL: %w\n%s", err, out)
	}
	return nil
}

// Remove ends the server and forgets all its data.
func (c *Cluster) Remove(ctx context.Context) error {
	if err := c.Stop(ctx); err != nil {
		return err
	}
	if err := errors.Join(os.RemoveAll(c.home), os.RemoveAll(c.dir)); err != nil {
		return fmt.Errorf("forgetting PostgreSQL's data: %w", err)
	}
	return nil
}

// run does one of PostgreSQL's programs to its end. Its output goes to a file: a server that stays would hold a pipe open.
func (c *Cluster) run(ctx context.Context, program string, arguments ...string) (string, error) {
	out, err := os.CreateTemp("", "celandine-"+program+"-")
	if err != nil {
		return "", fmt.Errorf("running %s: %w", program, err)
	}
	defer os.Remove(out.Name())
	defer out.Close()
	made := c.command(filepath.Join(c.programs, program), arguments...)
	made.Stdout, made.Stderr = out, out
	if err := ctx.Err(); err != nil {
		return "", err
	}
	err = made.Run()
	text, _ := os.ReadFile(out.Name()) // without it the error stands alone
	return strings.TrimSpace(string(text)), err
}

// command prepares a program as the server's user, out of reach of the terminal's Ctrl-C: the demo ends its parts in order.
func (c *Cluster) command(program string, arguments ...string) *exec.Cmd {
	made := exec.Command(program, arguments...)
	made.Dir = "/"
	made.SysProcAttr = &syscall.SysProcAttr{Setsid: true, Credential: c.as}
	return made
}

// tail is the end of a log.
func tail(path string) string {
	text, _ := os.ReadFile(path) // none is ""
	lines := strings.Split(strings.TrimSpace(string(text)), "\n")
	return strings.Join(lines[max(0, len(lines)-10):], "\n")
}
