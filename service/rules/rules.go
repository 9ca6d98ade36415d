// Package rules says when a hand-in is taken, what is taken off for lateness, and which hand-in's mark counts.
//
// In come an assignment's terms and times; out comes a yes, or a refusal in words for the person. It asks no clock and no
// database: the caller says what time it is.
package rules

import (
	"fmt"
	"time"

	"celandine/client"
	"celandine/core/exercise"
)

// Grace is how long after a timed exercise's end a hand-in may still arrive: the network's time, not the learner's.
const Grace = 5 * time.Second

// Terms are what an assignment asks, in its class's time zone.
type Terms struct {
	client.Terms
	Zone *time.Location
}

// A Refusal is why something is not possible now.
type Refusal struct {
	Code string // not-open, closed, no-attempts, not-started, time-over
	Say  string
}

// Error returns the words.
func (r *Refusal) Error() string { return r.Say }

func (t Terms) when(at time.Time) string { return at.In(t.Zone).Format("2 January 2006, 15:04 MST") }

// Opening tells why the exercise may not be looked at yet, or nil.
func (t Terms) Opening(now time.Time) *Refusal {
	if t.Opens != nil && now.Before(*t.Opens) {
		return &Refusal{"not-open", fmt.Sprintf("This exercise opens on %s.", t.when(*t.Opens))}
	}
	return nil
}

// Closes is when the last hand-in is taken; nil is never.
func (t Terms) Closes() *time.Time {
	switch {
	case t.Due == nil:
		return nil
	case t.Late == client.LateNone || t.Late == "":
		return t.Due
	}
	return t.LateUntil
}

// Ends is when a person's time for a timed exercise is over; nil where it is not timed or not begun.
func (t Terms) Ends(started *time.Time) *time.Time {
	if t.Minutes == 0 || started == nil {
		return nil
	}
	end := started.Add(time.Duration(t.Minutes) * time.Minute)
	return &end
}

// Taking tells why a hand-in is not taken now from a person who has handed in so often, or nil.
func (t Terms) Taking(now time.Time, started *time.Time, handins int) *Refusal {
	if r := t.Opening(now); r != nil {
		return r
	}
	if closes := t.Closes(); closes != nil && now.After(*closes) {
		return &Refusal{"closed", fmt.Sprintf("This exercise was closed on %s. Your instructor can move the time.", t.when(*closes))}
	}
	if t.Attempts > 0 && handins >= t.Attempts {
		return &Refusal{"no-attempts", fmt.Sprintf("All %d hand-ins to this exercise are used.", t.Attempts)}
	}
	if t.Minutes > 0 && started == nil {
		return &Refusal{"not-started", fmt.Sprintf("This exercise is timed: press Start first; from then on you have %d minutes.", t.Minutes)}
	}
	if end := t.Ends(started); end != nil && now.After(end.Add(Grace)) {
		return &Refusal{"time-over", fmt.Sprintf("Your %d minutes were over on %s.", t.Minutes, t.when(*end))}
	}
	return nil
}

// DaysLate counts the days begun since the due time, by the calendar of the class: a day on which the clocks change is one day.
func (t Terms) DaysLate(at time.Time) int {
	if t.Due == nil || !at.After(*t.Due) {
		return 0
	}
	due := t.Due.In(t.Zone)
	days := int(at.Sub(due)/(24*time.Hour)) - 1 // not more than there are, whatever the clocks did
	for days = max(days, 0); at.After(due.AddDate(0, 0, days)); days++ {
	}
	return days
}

// Counted is what of the earned marks remains for a hand-in of that time.
func (t Terms) Counted(earned exercise.Marks, at time.Time) exercise.Marks {
	if t.Late != client.LatePercent {
		return earned
	}
	keep := max(0, 100-t.LatePercent*t.DaysLate(at))
	return (earned*exercise.Marks(keep) + 50) / 100
}

// A Graded is one hand-in among a person's, in the order of handing in.
type Graded struct {
	Counted exercise.Marks
	Ready   bool // it has a mark
}

// Counts returns which hand-in's mark stands for the exercise, by the class's rule "best" or "last"; -1 while none has a mark.
// Of equal bests it is the first.
func Counts(rule string, list []Graded) int {
	found := -1
	for i, g := range list {
		if g.Ready && (found < 0 || rule == "last" || g.Counted > list[found].Counted) {
			found = i
		}
	}
	return found
}
