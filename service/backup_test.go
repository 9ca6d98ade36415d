package service_test

import (
	"context"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/service"
	"celandine/service/servicetest"
)

// A backup restored into an empty database gives the same marks; into another it changes nothing.
func TestBackupAndRestore(t *testing.T) {
	ctx := context.Background()
	s := servicetest.Start(t, true)
	before, err := s.As(t, "nadia").Marks(ctx)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "celandine.backup")
	require.NoError(t, service.Backup(ctx, s.Database, file))
	assert.ErrorIs(t, service.Restore(ctx, s.Database, file), service.ErrNotEmpty)

	empty := servicetest.Database(t)
	require.NoError(t, service.Restore(ctx, empty, file))
	again := servicetest.StartOn(t, empty)
	after, err := again.As(t, "nadia").Marks(ctx)
	require.NoError(t, err)
	assert.Equal(t, before, after)

	broken := filepath.Join(t.TempDir(), "broken.backup")
	require.NoError(t, os.WriteFile(broken, []byte("not a backup"), 0o600))
	other := servicetest.Database(t)
	assert.ErrorContains(t, service.Restore(ctx, other, broken), "pg_restore")
	assert.ErrorContains(t, service.Restore(ctx, other, broken+"x"), "reading the backup")
	assert.Error(t, service.Backup(ctx, s.Database, filepath.Join(t.TempDir(), "no", "such", "folder")))
}

// A backup that the version before has made is restored and brought up to date: every mark and every hand-in is there, and
// everybody signs in.
func TestBackupOfTheVersionBefore(t *testing.T) {
	ctx := context.Background()
	empty := servicetest.Database(t)
	require.NoError(t, service.Restore(ctx, empty, "testdata/schema-6.backup"))
	s := servicetest.StartOn(t, empty)
	nadia := s.As(t, "nadia")
	was, err := servicetest.Start(t, true).As(t, "nadia").Marks(ctx)
	require.NoError(t, err)
	is, err := nadia.Marks(ctx)
	require.NoError(t, err)
	now := byExercise(was)
	for exercise, then := range byExercise(is) { // exercises may have come since
		assert.Equal(t, now[exercise], then, "%s, marked by this version", exercise)
	}
	h, err := s.As(t, "ana").Handin(ctx, 3)
	require.NoError(t, err)
	assert.Contains(t, string(h.Result), `"difference"`)
	assert.Contains(t, string(h.Evidence), `"mist_valve"`)
	list, err := nadia.Library(ctx)
	require.NoError(t, err)
	assert.Len(t, list, 20, "exercises belong to whoever pushed them")
	again, err := s.As(t, "ana").HandIn(ctx, "mist-hold-in",
		client.Program{File: "mine.st", Text: "PROGRAM p\nmist_valve := mist_on;\nEND_PROGRAM\n"}, "a new one")
	require.NoError(t, err)
	assert.Equal(t, 2, again.Number)
}

// byExercise is everybody's marks by exercise and login.
func byExercise(m client.Marks) map[string]map[string]client.Mark {
	all := map[string]map[string]client.Mark{}
	for i, e := range m.Exercises {
		all[e.Name] = map[string]client.Mark{}
		for _, row := range m.Rows {
			mark := row.Marks[i]
			mark.Handin = 0 // its number in the service may be another
			all[e.Name][row.Person.Login] = mark
		}
	}
	return all
}

// Every setting of the address is the backup's, too, and none is on the command line.
func TestBackupKeepsTheConnectionsSettings(t *testing.T) {
	ctx := context.Background()
	s := servicetest.Start(t, true)
	u, err := url.Parse(s.Database)
	require.NoError(t, err)
	password, _ := u.User.Password()
	several := fmt.Sprintf("postgres://%s:%s@127.0.0.1:1,%s%s?sslmode=disable&target_session_attrs=read-write&application_name=nightly&connect_timeout=5&pool_max_conns=3&search_path=public", u.User.Username(), password, u.Host, u.Path)
	inPairs := fmt.Sprintf("host=127.0.0.1 port=%s user=%s password='%s' dbname=%s sslmode=disable statement_cache_capacity=10", u.Port(),
		u.User.Username(), password, u.Path[1:])
	for name, address := range map[string]string{"several hosts": several, "pairs": inPairs} {
		file := filepath.Join(t.TempDir(), "celandine.backup")
		require.NoError(t, service.Backup(ctx, address, file), name)
	}
	err = service.Backup(ctx, s.Database+"&sslmode=verify-full", filepath.Join(t.TempDir(), "b"))
	require.NoError(t, err, "the first of two is taken, as by the service")
	u.RawQuery = "sslmode=require"
	err = service.Backup(ctx, u.String(), filepath.Join(t.TempDir(), "b"))
	require.ErrorContains(t, err, "SSL was required", "a demand for encryption is not dropped")
	assert.NotContains(t, err.Error(), password)
}
