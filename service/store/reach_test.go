package store_test

import (
	"context"
	"io"
	"net"
	"net/url"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/service/servicetest"
	"celandine/service/store"
)

// A process that starts waits for a database that takes connections and says nothing yet; one that nobody listens for is told at once.
func TestOpenWaitsForASlowDatabase(t *testing.T) {
	database, err := url.Parse(servicetest.Database(t))
	require.NoError(t, err)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	var mute atomic.Int32
	go func() {
		for {
			from, err := listener.Accept()
			if err != nil {
				return
			}
			t.Cleanup(func() { _ = from.Close() })
			if mute.Add(1) == 1 {
				continue // the first is never answered
			}
			to, err := net.Dial("tcp", database.Host)
			if err != nil {
				return
			}
			t.Cleanup(func() { _ = to.Close() })
			go func() { _, _ = io.Copy(to, from) }()
			go func() { _, _ = io.Copy(from, to) }()
		}
	}()
	slow := *database
	slow.Host = listener.Addr().String()
	s, err := store.Open(context.Background(), slow.String())
	require.NoError(t, err)
	s.Close()
	assert.Greater(t, mute.Load(), int32(1))

	require.NoError(t, listener.Close())
	began := time.Now()
	_, err = store.Open(context.Background(), slow.String())
	require.ErrorIs(t, err, store.ErrDown)
	assert.Less(t, time.Since(began), 10*time.Second, "a refusal is no reason to wait the whole time for")
}

// Each new connection goes to where the database is then.
func TestFollow(t *testing.T) {
	database, nowhere := servicetest.Database(t), "postgres://nobody@127.0.0.1:1/none?sslmode=disable"
	var now atomic.Pointer[string]
	now.Store(&database)
	s, err := store.Follow(t.Context(), func() string { return *now.Load() })
	require.NoError(t, err)
	defer s.Close()
	for _, to := range []struct {
		url  string
		want error
	}{{database, nil}, {nowhere, store.ErrDown}, {database, nil}} {
		now.Store(&to.url)
		s.Pool.Reset()
		require.ErrorIs(t, s.Ping(t.Context()), to.want)
	}
}
