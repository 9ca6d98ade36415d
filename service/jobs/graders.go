package jobs

import (
	"context"
	"strconv"
	"sync"

	"golang.org/x/sync/singleflight"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/service/store"
)

// Graders keeps exercises that are ready to grade with, by revision; a revision never changes. It is safe for concurrent use.
type Graders struct {
	store *store.Store
	once  singleflight.Group
	mu    sync.Mutex
	kept  map[int64]*grade.Grader
}

// keptGraders bounds the memory for prepared exercises.
const keptGraders = 200

// NewGraders returns graders for the revisions in the records.
func NewGraders(s *store.Store) *Graders {
	return &Graders{store: s, kept: map[int64]*grade.Grader{}}
}

// Of prepares a revision, once for all who ask for it meanwhile.
func (g *Graders) Of(ctx context.Context, revision int64) (*grade.Grader, error) {
	if ready := g.ready(revision); ready != nil {
		return ready, nil
	}
	made, err, _ := g.once.Do(strconv.FormatInt(revision, 10), func() (any, error) {
		r, err := g.store.Revision(context.WithoutCancel(ctx), revision)
		if err != nil {
			return nil, err
		}
		made, err := Prepare(exercise.Files(r.Files))
		if err != nil {
			return nil, err
		}
		g.keep(revision, made)
		return made, nil
	})
	if err != nil {
		return nil, err
	}
	return made.(*grade.Grader), nil
}

func (g *Graders) ready(revision int64) *grade.Grader {
	g.mu.Lock()
	defer g.mu.Unlock()
	return g.kept[revision]
}

func (g *Graders) keep(revision int64, made *grade.Grader) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if len(g.kept) >= keptGraders {
		clear(g.kept)
	}
	g.kept[revision] = made
}

// A BadExercise is why a folder cannot be graded with.
type BadExercise struct{ Problems source.List }

// Error counts the problems.
func (b BadExercise) Error() string { return "the exercise has " + b.Problems.Summary() }

// Prepare reads a folder and makes it ready to grade with.
func Prepare(files exercise.Files) (*grade.Grader, error) {
	e, problems := exercise.Read(files)
	if e == nil {
		return nil, BadExercise{problems}
	}
	g, problems := grade.Prepare(e)
	if g == nil {
		return nil, BadExercise{problems}
	}
	return g, nil
}
