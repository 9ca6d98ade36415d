package service_test

import (
	"context"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
