package main

import (
	"bytes"
	"context"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/service/servicetest"
)

// said is what a command has printed so far.
type said struct {
	sync.Mutex
	bytes.Buffer
}

func (s *said) Write(text []byte) (int, error) {
	s.Lock()
	defer s.Unlock()
	return s.Buffer.Write(text)
}

func (s *said) text() string {
	s.Lock()
	defer s.Unlock()
	return s.String()
}

func demoOn(ctx context.Context, out *said, arguments ...string) error {
	c := demoCommand()
	c.SilenceErrors, c.SilenceUsage = true, true
	c.SetOut(out)
	c.SetArgs(arguments)
	return c.ExecuteContext(ctx)
}

// The demo takes the next port where its own is taken, says where it is, refuses a second beside it, brings a database back
// that has died, and leaves nothing when it is forgotten.
func TestDemo(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "demo")
	own := servicetest.Own(t, filepath.Join(dir, "postgres"))
	t.Cleanup(func() { require.NoError(t, own.Remove(context.Background())) }) // it may stand outside the test's folder
	neighbour, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer neighbour.Close()

	ctx, stop := context.WithCancel(t.Context())
	defer stop()
	out, ended := &said{}, make(chan error, 1)
	go func() { ended <- demoOn(ctx, out, "--data", dir, "--listen", neighbour.Addr().String()) }()
	waitFor := func(done func() bool) {
		assert.Eventually(t, func() bool { return len(ended) > 0 || done() }, 2*time.Minute, 50*time.Millisecond)
		if len(ended) > 0 {
			require.NoError(t, <-ended, out.text())
		}
		if t.Failed() {
			log, _ := os.ReadFile(filepath.Join(dir, "service.log")) // without it what was printed stands alone
			require.FailNow(t, "the demo does not go on", "%s\n%s", out.text(), log)
		}
	}
	waitFor(func() bool { return strings.Contains(out.text(), "Celandine is at") })
	require.Contains(t, out.text(), "44 hand-ins graded")
	text, err := os.ReadFile(filepath.Join(dir, "address"))
	require.NoError(t, err)
	address := strings.TrimSpace(string(text))
	assert.NotEqual(t, "http://"+neighbour.Addr().String(), address)
	assert.Contains(t, out.text(), address)
	ready := func() bool {
		answer, err := http.Get(address + "/readyz")
		if err != nil {
			return false
		}
		defer answer.Body.Close()
		return answer.StatusCode == http.StatusOK
	}
	assert.True(t, ready())
	assert.ErrorContains(t, demoOn(t.Context(), &said{}, "--data", dir), "the demo is running already at "+address)

	// Another takes the database's port as soon as it is free: it comes back at the next.
	port, err := os.ReadFile(filepath.Join(own.Home(), "port"))
	require.NoError(t, err)
	require.NoError(t, own.Stop(t.Context()))
	if l, err := net.Listen("tcp", "127.0.0.1:"+string(port)); err == nil { // else it is back already, or somebody else has it
		defer l.Close()
	}
	waitFor(func() bool { return strings.Contains(out.text(), "PostgreSQL is back") && ready() })

	stop()
	require.NoError(t, <-ended)
	assert.Contains(t, out.text(), "The data stays in "+own.Home())
	assert.False(t, own.Alive())
	require.NoError(t, demoOn(t.Context(), &said{}, "--data", dir, "--forget"))
	assert.NoDirExists(t, dir)
	assert.NoDirExists(t, own.Home())
}

// An address that cannot be is told before anything is listened on.
func TestDemoAddress(t *testing.T) {
	for address, problem := range map[string]string{
		"127.0.0.1":       "is no address to listen on",
		"127.0.0.1:many":  `"many" is no port`,
		"203.0.113.1:80":  "cannot listen on 203.0.113.1:80",
		"127.0.0.1:65536": "cannot listen on 127.0.0.1:65536",
	} {
		_, err := free(address)
		assert.ErrorContains(t, err, problem)
	}
}

// Nobody else can have the address from the moment it is found.
func TestDemoHoldsItsAddress(t *testing.T) {
	l, err := free("127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	_, err = net.Listen("tcp", l.Addr().String())
	assert.ErrorIs(t, err, syscall.EADDRINUSE)
}
