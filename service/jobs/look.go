package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"celandine/core/diagnose"
	"celandine/core/equivalence"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/machine"
	"celandine/core/source"
	"celandine/core/strength"
	"celandine/mistake"
	"celandine/service/store"
)

// A Looker looks closer at hand-ins that have their mark: which known mistake each behaves like, and the shortest script on which it differs
// from the solution. It works on one at a time, leaves the core to others for as long as each took, and never comes before a mark.
type Looker struct {
	store   *store.Store
	graders *Graders
	log     *slog.Logger
	noticed func(*mistake.Mistake)
	known   map[int64]*diagnose.Known // by revision
	inARow  int                       // hand-ins looked at since a revision was asked for
}

// What a look may take.
const (
	lookBudget   = equivalence.Budget / 4 // scans
	lookMillions = 50                     // instructions
	lookLonger   = 2 * time.Minute        // before another process may try
	lookAgain    = time.Second            // where there is nothing to look at
	keptKnown    = 30                     // revisions whose known mistakes are kept
	mostInARow   = 4                      // hand-ins before a revision gets its turn
)

// NewLooker returns a looker at the hand-ins in the records.
func NewLooker(s *store.Store, graders *Graders, log *slog.Logger, noticed func(*mistake.Mistake)) *Looker {
	return &Looker{store: s, graders: graders, log: log, noticed: noticed, known: map[int64]*diagnose.Known{}}
}

// Run looks until the context ends.
func (l *Looker) Run(ctx context.Context) {
	for {
		began := time.Now()
		looked, err := l.Once(ctx)
		rest := max(time.Since(began), 10*time.Millisecond)
		if err != nil || !looked {
			rest = lookAgain
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(rest):
		}
	}
}

// Once looks at one hand-in, or at how strong a revision is, and reports whether there was anything to do. Hand-ins come first, but a
// revision waits for a few of them only.
func (l *Looker) Once(ctx context.Context) (bool, error) {
	if l.inARow < mostInARow {
		l.inARow++
		if looked, err := l.lookAtNext(ctx); looked || err != nil {
			return looked, err
		}
	}
	l.inARow = 0
	if strengthened, err := l.strengthen(ctx); strengthened || err != nil {
		return strengthened, err
	}
	return l.lookAtNext(ctx)
}

func (l *Looker) lookAtNext(ctx context.Context) (bool, error) {
	h, ok, err := l.store.NextToLook(ctx, lookLonger)
	if err != nil || !ok {
		return false, err
	}
	look := store.Look{HandinID: h.ID, RevisionID: h.Result.RevisionID, LookedAt: time.Now()}
	err = mistake.Guard(fmt.Sprintf("looking closer at hand-in %d", h.ID), func() error { return l.look(ctx, h, &look) })
	if ctx.Err() != nil {
		return true, ctx.Err()
	}
	var wrong *mistake.Mistake
	switch {
	case errors.As(err, &wrong):
		l.noticed(wrong)
	case err != nil && !errors.Is(err, machine.ErrStopped): // it would end so again
		l.log.Warn("looking closer at a hand-in", "handin", h.ID, "error", err)
	}
	return true, l.store.SaveLook(ctx, look)
}

func (l *Looker) look(ctx context.Context, h store.Handin, look *store.Look) error {
	g, err := l.graders.Of(ctx, h.Result.RevisionID)
	if err != nil {
		return err
	}
	f := source.NewFile(h.File, h.Text)
	known, err := l.knownOf(g, h.Result.RevisionID)
	if err != nil {
		return err
	}
	if h.Result.Earned < h.Result.Points {
		m, ok, err := known.Of(f, Limited(ctx, lookMillions))
		if err != nil {
			return err
		}
		if ok {
			look.Mistake, look.Title, look.Words, look.Says, look.Hint = m.Key, m.Title, m.Words, m.Says, m.Hint
		}
	}
	if g.Exercise.Kind == exercise.Predict {
		return nil // nothing was programmed that could differ
	}
	return difference(ctx, g, known, f, look)
}

// strengthen finds out how strong the scenarios of a revision are.
func (l *Looker) strengthen(ctx context.Context) (bool, error) {
	revision, err := l.store.NextToStrengthen(ctx)
	if err != nil || revision == 0 {
		return false, err
	}
	var percent *int
	err = mistake.Guard(fmt.Sprintf("finding the strength of revision %d", revision), func() error {
		percent, err = l.strength(ctx, revision)
		return err
	})
	switch {
	case ctx.Err() != nil: // somebody else will
		return true, l.store.SaveStrength(context.WithoutCancel(ctx), revision, nil)
	case err != nil:
		l.log.Warn("finding the strength of an exercise", "revision", revision, "error", err)
		return true, nil
	}
	return true, l.store.SaveStrength(ctx, revision, percent)
}

// strength tries every mutant, as long as the context lasts.
func (l *Looker) strength(ctx context.Context, revision int64) (*int, error) {
	g, err := l.graders.Of(ctx, revision)
	if err != nil {
		return nil, err
	}
	t, err := strength.New(g)
	if err != nil {
		return nil, err
	}
	var outcomes []strength.Outcome
	for n := range t.Len() {
		o, err := t.Try(n, lookBudget)
		if err != nil || ctx.Err() != nil {
			return nil, err
		}
		outcomes = append(outcomes, o)
	}
	percent := t.Sum(outcomes).Percent
	return &percent, nil
}

// difference looks for the shortest script on which a hand-in differs from the solution.
func difference(ctx context.Context, g *grade.Grader, known *diagnose.Known, f *source.File, look *store.Look) error {
	handin, err := strength.ReadUntil(g, f, Limited(ctx, lookMillions))
	if err != nil || handin.Code() == nil {
		return err
	}
	right := known.Reference(exercise.LanguageOf(f.Name))
	verdict, found, err := strength.Between(g, right, handin, lookBudget)
	if err != nil {
		return err
	}
	look.Verdict = string(verdict)
	if found != nil {
		look.Found, err = json.Marshal(found)
	}
	return err
}

// knownOf is the known mistakes of a revision, which never changes.
func (l *Looker) knownOf(g *grade.Grader, revision int64) (*diagnose.Known, error) {
	if known := l.known[revision]; known != nil {
		return known, nil
	}
	known, err := diagnose.New(g)
	if err != nil {
		return nil, err
	}
	if len(l.known) >= keptKnown {
		clear(l.known)
	}
	l.known[revision] = known
	return known, nil
}
