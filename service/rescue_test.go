package service_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/service/servicetest"
)

// The job of a process that died in the middle of it is another's within 15 s.
func TestAKilledWorkersJobIsRescued(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	s.Exec(t, "INSERT INTO workers (id) VALUES ('killed')")
	s.Exec(t, "DELETE FROM results WHERE handin_id = 3")
	s.Exec(t, "INSERT INTO waiting (handin_id, assignment_id, person_id) SELECT id, assignment_id, person_id FROM handins WHERE id = 3")
	s.Exec(t, "UPDATE river_job SET state = 'running', finalized_at = NULL, attempted_at = now(), attempted_by = ARRAY['killed'] WHERE "+
		"(args->>'handin')::bigint = 3")
	began := time.Now()
	require.Eventually(t, func() bool {
		n, err := s.Store.Waiting(t.Context())
		return err == nil && n == 0
	}, servicetest.Patience, 100*time.Millisecond)
	assert.Greater(t, time.Since(began), 5*time.Second, "a process is not given up at its first silence")
}
