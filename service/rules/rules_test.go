package rules_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/service/rules"
)

func zone(t *testing.T) *time.Location {
	z, err := time.LoadLocation("Europe/Zagreb")
	require.NoError(t, err)
	return z
}

func at(t *testing.T, text string) time.Time {
	when, err := time.ParseInLocation("2006-01-02 15:04", text, zone(t))
	require.NoError(t, err)
	return when
}

func ref(t *testing.T, text string) *time.Time {
	if text == "" {
		return nil
	}
	when := at(t, text)
	return &when
}

func TestTaking(t *testing.T) {
	for _, c := range []struct {
		name, opens, due, until string
		late                    string
		attempts, minutes       int
		now, started            string
		handins                 int
		code, say               string
	}{
		{name: "no terms", now: "2026-03-28 12:00"},
		{name: "before it opens", opens: "2026-03-28 12:00", now: "2026-03-28 11:59", code: "not-open",
			say: "This exercise opens on 28 March 2026, 12:00 CET."},
		{name: "as it opens", opens: "2026-03-28 12:00", now: "2026-03-28 12:00"},
		{name: "on the due minute", due: "2026-03-28 12:00", now: "2026-03-28 12:00"},
		{name: "after it, no late rule", due: "2026-03-29 12:00", now: "2026-03-29 12:01", code: "closed",
			say: "This exercise was closed on 29 March 2026, 12:00 CEST. Your instructor can move the time."},
		{name: "late until", due: "2026-03-28 12:00", late: client.LateUntil, until: "2026-03-30 12:00", now: "2026-03-30 12:00"},
		{name: "after late until", due: "2026-03-28 12:00", late: client.LateUntil, until: "2026-03-30 12:00", now: "2026-03-30 12:01",
			code: "closed", say: "This exercise was closed on 30 March 2026, 12:00 CEST. Your instructor can move the time."},
		{name: "percent a day, for ever", due: "2026-03-28 12:00", late: client.LatePercent, now: "2026-09-30 12:01"},
		{name: "an attempt left", attempts: 3, handins: 2, now: "2026-03-28 12:00"},
		{name: "none left", attempts: 3, handins: 3, now: "2026-03-28 12:00", code: "no-attempts",
			say: "All 3 hand-ins to this exercise are used."},
		{name: "timed, not begun", minutes: 5, now: "2026-03-28 12:00", code: "not-started",
			say: "This exercise is timed: press Start first; from then on you have 5 minutes."},
		{name: "timed, at its end", minutes: 5, started: "2026-03-28 11:55", now: "2026-03-28 12:00"},
		{name: "timed, over", minutes: 5, started: "2026-03-28 11:54", now: "2026-03-28 12:00", code: "time-over",
			say: "Your 5 minutes were over on 28 March 2026, 11:59 CET."},
	} {
		t.Run(c.name, func(t *testing.T) {
			terms := rules.Terms{Zone: zone(t), Terms: client.Terms{Opens: ref(t, c.opens), Due: ref(t, c.due), LateUntil: ref(t, c.until),
				Late: c.late, Attempts: c.attempts, Minutes: c.minutes}}
			refusal := terms.Taking(at(t, c.now), ref(t, c.started), c.handins)
			if c.code == "" {
				assert.Nil(t, refusal)
				return
			}
			require.NotNil(t, refusal)
			assert.Equal(t, c.code, refusal.Code)
			assert.Equal(t, c.say, refusal.Say)
		})
	}
}

// The clocks go forward on 29 March 2026 and back on 25 October: a day stays a day.
func TestDaysLate(t *testing.T) {
	for _, c := range []struct {
		due, at string
		days    int
	}{
		{"2026-03-20 12:00", "2026-03-20 12:00", 0},
		{"2026-03-20 12:00", "2026-03-20 12:01", 1},
		{"2026-03-20 12:00", "2026-03-21 12:00", 1},
		{"2026-03-20 12:00", "2026-03-21 12:01", 2},
		{"2026-03-28 12:00", "2026-03-29 12:00", 1}, // 23 hours
		{"2026-03-28 12:00", "2026-03-29 12:01", 2},
		{"2026-10-24 12:00", "2026-10-25 12:00", 1}, // 25 hours
		{"2026-10-24 12:00", "2026-10-25 12:01", 2},
		{"2026-01-01 00:00", "2026-12-31 23:59", 365},
	} {
		due := at(t, c.due)
		assert.Equal(t, c.days, rules.Terms{Zone: zone(t), Terms: client.Terms{Due: &due}}.DaysLate(at(t, c.at)), c.due+" → "+c.at)
	}
}

func TestCounted(t *testing.T) {
	due := at(t, "2026-03-20 12:00")
	terms := rules.Terms{Zone: zone(t), Terms: client.Terms{Due: &due, Late: client.LatePercent, LatePercent: 15}}
	for when, want := range map[string]exercise.Marks{"2026-03-20 11:00": 1000, "2026-03-20 13:00": 850, "2026-03-22 13:00": 550,
		"2026-04-22 13:00": 0} {
		assert.Equal(t, want, terms.Counted(1000, at(t, when)), when)
	}
	assert.Equal(t, exercise.Marks(28), terms.Counted(33, at(t, "2026-03-20 13:00")), "28.05 hundredths")
}

// Later never earns more, and never counts fewer days.
func TestLaterIsNotBetter(t *testing.T) {
	z := zone(t)
	rapid.Check(t, func(r *rapid.T) {
		due := time.Unix(rapid.Int64Range(1.7e9, 1.9e9).Draw(r, "due"), 0).In(z)
		terms := rules.Terms{Zone: z, Terms: client.Terms{Due: &due, Late: client.LatePercent,
			LatePercent: rapid.IntRange(0, 100).Draw(r, "percent")}}
		a := due.Add(time.Duration(rapid.Int64Range(-1e6, 4e7).Draw(r, "a")) * time.Second)
		b := a.Add(time.Duration(rapid.Int64Range(0, 4e6).Draw(r, "b")) * time.Second)
		earned := exercise.Marks(rapid.Int64Range(0, 10_000).Draw(r, "earned"))
		require.LessOrEqual(t, terms.DaysLate(a), terms.DaysLate(b))
		require.GreaterOrEqual(t, terms.Counted(earned, a), terms.Counted(earned, b))
	})
}

func TestCounts(t *testing.T) {
	list := []rules.Graded{{400, true}, {900, true}, {900, true}, {100, true}, {1000, false}}
	assert.Equal(t, 1, rules.Counts("best", list))
	assert.Equal(t, 3, rules.Counts("last", list))
	assert.Equal(t, -1, rules.Counts("best", list[4:]))
}
