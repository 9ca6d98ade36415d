package cluster

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func own(t *testing.T, dir string) *Cluster {
	c, err := In(dir)
	if errors.Is(err, ErrMissing) {
		t.Skip(err)
	}
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, c.Remove(context.Background())) })
	return c
}

// Several that start at once find one server; stopped and started again it has its port and password; killed, it is no longer
// alive, and starts again.
func TestOneServerForAll(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "postgres")
	var wait sync.WaitGroup
	addresses := make([]string, 3)
	for i := range addresses {
		c := own(t, dir)
		wait.Go(func() {
			var err error
			addresses[i], err = c.Start(t.Context(), "fsync=off")
			assert.NoError(t, err)
		})
	}
	wait.Wait()
	assert.Equal(t, addresses[0], addresses[1])
	assert.Equal(t, addresses[0], addresses[2])
	assert.Contains(t, addresses[0], "@127.0.0.1:")

	c := own(t, dir)
	assert.True(t, c.Alive())
	require.NoError(t, c.Stop(t.Context()))
	assert.False(t, c.Alive())
	require.NoError(t, c.Stop(t.Context()), "it has stopped already")
	again, err := c.Start(t.Context())
	require.NoError(t, err)
	assert.Equal(t, addresses[0], again)

	pid, err := os.ReadFile(filepath.Join(c.data(), "postmaster.pid"))
	require.NoError(t, err)
	first, _, _ := strings.Cut(string(pid), "\n")
	server, err := strconv.Atoi(first)
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(server, syscall.SIGKILL))
	require.Eventually(t, func() bool { return !c.Alive() }, time.Minute, 10*time.Millisecond)
	_, err = c.Start(t.Context())
	require.NoError(t, err)
	assert.True(t, c.Alive())
}

// Several that start at the same moment take ports of their own.
func TestPortsOfTheirOwn(t *testing.T) {
	var wait sync.WaitGroup
	addresses := make([]string, 3)
	for i := range addresses {
		c := own(t, filepath.Join(t.TempDir(), "postgres"))
		wait.Go(func() {
			var err error
			addresses[i], err = c.Start(t.Context(), "fsync=off")
			assert.NoError(t, err)
		})
	}
	wait.Wait()
	ports := map[string]bool{}
	for _, a := range addresses {
		_, port, _ := strings.Cut(a, "@127.0.0.1:")
		ports[port] = true
	}
	assert.Len(t, ports, len(addresses))
}

// A folder that the server's user cannot come to is told by Home, and all is removed with it.
func TestClosedFolder(t *testing.T) {
	if os.Getuid() != 0 {
		t.Skip("only root's server is another user's")
	}
	closed := t.TempDir()
	require.NoError(t, os.Chmod(closed, 0o700))
	c := own(t, filepath.Join(closed, "postgres"))
	assert.Regexp(t, `^/var/lib/celandine-[0-9a-f]{12}$`, c.Home())
	_, err := c.Start(t.Context(), "fsync=off")
	require.NoError(t, err)
	noted, err := os.ReadFile(filepath.Join(closed, "postgres/home"))
	require.NoError(t, err)
	assert.Equal(t, c.Home()+"\n", string(noted))
	require.NoError(t, c.Remove(t.Context()))
	assert.NoDirExists(t, c.Home())
}

// A server that cannot start says why.
func TestBadSetting(t *testing.T) {
	c := own(t, filepath.Join(t.TempDir(), "postgres"))
	_, err := c.Start(t.Context(), "max_connections=many")
	require.ErrorContains(t, err, `invalid value for parameter "max_connections": "many"`)
	assert.False(t, c.Alive())
}
