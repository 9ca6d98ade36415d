package e2e

import (
	"context"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/service/servicetest"
)

// Who comes for the first time is led from a point to a rung, a press and a hand-in.
func TestFirstSteps(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	conn, err := pgx.Connect(context.Background(), s.Database)
	require.NoError(t, err)
	_, err = conn.Exec(context.Background(), `WITH p AS (INSERT INTO people (login, name, role, password_hash) SELECT 'noor', 'Noor Aziz', 'learner', password_hash FROM people WHERE login = 'liam' RETURNING id)
		INSERT INTO enrolments (class_id, person_id) SELECT 1, id FROM p`)
	require.NoError(t, err)
	require.NoError(t, conn.Close(context.Background()))

	p := open(t)
	require.NoError(t, p.SignIn(s.URL, "noor", servicetest.Password))
	require.NoError(t, p.See("You have handed in nothing yet."))
	picture(t, p, "first-list")
	require.NoError(t, p.Click("Begin with"))
	require.NoError(t, p.See("Every device of the panel is a point with a name"))
	picture(t, p, "first-point")
	accessible(t, p)
	require.NoError(t, p.Click("To the program"))
	press(t, p, "r", "c", "vent_switch", kb.Enter)
	require.NoError(t, p.See("End yours with a coil"))
	press(t, p, "o", "roof_vent", kb.Enter)
	require.NoError(t, p.See("Nobody marks this."))
	require.NoError(t, p.Click("To the bench"))
	require.NoError(t, p.Click("Run"))
	require.NoError(t, p.ClickSelector("ul[aria-label=Inputs] .toggle"))
	require.NoError(t, p.See("You get the mark and the reasons at once"))
	picture(t, p, "first-hand-in")
	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("of 10"))
	require.NoError(t, p.Look(s.URL, "#/", "light"))
	require.NoError(t, p.See("1 hand-in"))
	text, err := p.Text()
	require.NoError(t, err)
	assert.NotContains(t, text, "You have handed in nothing yet.")
}
