package service

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"path"
	"slices"
	"time"

	"go.yaml.in/yaml/v3"

	"celandine/core/exercise"
	"celandine/folder"
	"celandine/mistake"
	"celandine/service/auth"
	"celandine/service/jobs"
	"celandine/service/store"
)

// demo is class.yaml: a class with its people, and what they handed in to the course.
type demo struct {
	Class      string   `yaml:"class"`
	TimeZone   string   `yaml:"timeZone"`
	Admin      *member  `yaml:"administrator"`
	Instructor member   `yaml:"instructor"`
	Learners   []member `yaml:"learners"`
	Drafts     []string `yaml:"drafts"` // what the instructor is writing
	Tells      bool     `yaml:"tells"`  // learners read what is said of known mistakes
	Handins    []struct {
		By       string `yaml:"by"`
		Exercise string `yaml:"exercise"`
		File     string `yaml:"file"`
	} `yaml:"handins"`
}

type member struct {
	Login string `yaml:"login"`
	Name  string `yaml:"name"`
}

// LoadCourse puts a course folder into the database and waits until its
// hand-ins are graded through the real queue. Doing it again changes nothing.
// progress is told what has been done.
func LoadCourse(ctx context.Context, c Config, folder fs.FS, password string, progress func(string)) error {
	s, err := records(ctx, c)
	if err != nil {
		return err
	}
	defer s.Close()
	queue, err := jobs.New(s, jobs.NewGraders(s), c.Workers, slog.New(slog.DiscardHandler), func(time.Duration) {}, func(*mistake.Mistake) {})
	if err != nil {
		return err
	}
	s.UseQueue(queue)
	l := loader{store: s, folder: folder, progress: progress}
	if err := l.read(); err != nil {
		return err
	}
	if err := l.people(ctx, c, password); err != nil {
		return err
	}
	if err := l.exercises(ctx); err != nil {
		return err
	}
	if err := l.drafts(ctx); err != nil {
		return err
	}
	if err := l.handins(ctx); err != nil {
		return err
	}
	if err := queue.Start(ctx); err != nil {
		return err
	}
	defer func() { _ = queue.Stop(context.WithoutCancel(ctx)) }() // the marks are stored by now
	return l.await(ctx)
}

type loader struct {
	store    *store.Store
	folder   fs.FS
	demo     demo
	course   exercise.Course
	text     []byte // of course.yaml
	class    store.Class
	by       store.Person
	progress func(string)
}

// read reads who is in the class, and the course.
func (l *loader) read() error {
	text, err := fs.ReadFile(l.folder, "class.yaml")
	if err != nil {
		return fmt.Errorf("reading the class: %w", err)
	}
	if err := yaml.Unmarshal(text, &l.demo); err != nil {
		return fmt.Errorf("reading class.yaml: %w", err)
	}
	if l.text, err = fs.ReadFile(l.folder, "course.yaml"); err != nil {
		return fmt.Errorf("reading the course: %w", err)
	}
	course, problems := exercise.ReadCourse(l.text)
	if problems.HasErrors() {
		return fmt.Errorf("reading the course: %s", problems[0])
	}
	l.course = course
	return nil
}

// assign stores an exercise and lets learners see it.
func (l *loader) assign(ctx context.Context, e *exercise.Exercise, files exercise.Files) error {
	if _, err := l.store.Push(ctx, l.class.ID, l.by, e, files); err != nil {
		return err
	}
	a, err := l.store.AnyAssignment(ctx, l.class.ID, e.Name)
	if err != nil || a.Published {
		return err
	}
	a.Published, a.TellMistake = true, l.demo.Tells
	return l.store.ChangeAssignment(ctx, l.by.ID, a)
}

func (l *loader) people(ctx context.Context, c Config, password string) error {
	hash, err := auth.Hash(password, c.Cost)
	if err != nil {
		return err
	}
	var all []store.Person
	for i, m := range append([]member{l.demo.Instructor}, l.demo.Learners...) {
		role := store.Learner
		if i == 0 {
			role = store.Instructor
		}
		p, err := l.store.SavePerson(ctx, store.Person{Login: m.Login, Name: m.Name, Role: role, PasswordHash: hash})
		if err != nil {
			return err
		}
		all = append(all, p)
	}
	l.by = all[0]
	if a := l.demo.Admin; a != nil { // in no class
		if _, err := l.store.SavePerson(ctx, store.Person{Login: a.Login, Name: a.Name, Role: store.Administrator,
			PasswordHash: hash}); err != nil {
			return err
		}
	}
	if l.class, err = l.store.SaveClass(ctx, store.Class{Name: l.demo.Class, TimeZone: l.demo.TimeZone}, all...); err != nil {
		return err
	}
	l.progress(fmt.Sprintf("%d people in %s", len(all), l.class.Name))
	return nil
}

func (l *loader) exercises(ctx context.Context) error {
	for _, name := range l.course.Exercises() {
		files, err := folder.Read(l.folder, path.Join("exercises", name))
		if err != nil {
			return err
		}
		g, err := jobs.Prepare(files)
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		if err := l.assign(ctx, g.Exercise, files); err != nil {
			return err
		}
	}
	course := store.Course{OwnerID: l.by.ID, Name: l.course.Name, Title: l.course.Title, Text: string(l.text)}
	if err := l.store.SaveCourse(ctx, course); err != nil && !errors.Is(err, store.ErrNewer) { // it was loaded before
		return err
	}
	l.progress(fmt.Sprintf("%d exercises", len(l.course.Exercises())))
	return nil
}

// drafts are exercises that the instructor has begun.
func (l *loader) drafts(ctx context.Context) error {
	for _, name := range l.demo.Drafts {
		files, err := folder.Read(l.folder, path.Join("drafts", name))
		if err != nil {
			return err
		}
		if _, err := l.store.BeginWriting(ctx, l.by, name, store.NewWriting(files)); err != nil && !errors.Is(err, store.ErrNamed) {
			return fmt.Errorf("draft %s: %w", name, err)
		}
	}
	return nil
}

func (l *loader) handins(ctx context.Context) error {
	for _, h := range l.demo.Handins {
		p, err := l.store.PersonByLogin(ctx, h.By)
		if err != nil {
			return fmt.Errorf("hand-in of %s: %w", h.By, err)
		}
		a, err := l.store.AnyAssignment(ctx, l.class.ID, h.Exercise)
		if err != nil {
			return fmt.Errorf("hand-in to %s: %w", h.Exercise, err)
		}
		text, err := fs.ReadFile(l.folder, path.Join("handins", h.Exercise, h.File))
		if err != nil {
			return fmt.Errorf("hand-in of %s: %w", h.By, err)
		}
		before, err := l.store.Handins(ctx, a.ID, store.Wanted{Person: p.ID, Limit: 100})
		if err != nil {
			return err
		}
		if slices.ContainsFunc(before, func(b store.Handin) bool { return b.File == h.File }) {
			continue // it was loaded before
		}
		_, err = l.store.Record(ctx, store.Handin{AssignmentID: a.ID, RevisionID: a.RevisionID, PersonID: p.ID, File: h.File, Text: string(text)},
			0, func(store.Sofar) error { return nil })
		if err != nil {
			return err
		}
	}
	return nil
}

// stalled is how long a grading queue may stand still before loading gives up.
const stalled = time.Minute

// await returns when every hand-in has its mark.
func (l *loader) await(ctx context.Context) error {
	last, since := int64(-1), time.Now()
	for {
		n, err := l.store.Waiting(ctx)
		if err != nil {
			return err
		}
		if n == 0 {
			l.progress(fmt.Sprintf("%d hand-ins graded", len(l.demo.Handins)))
			return nil
		}
		if n != last {
			last, since = n, time.Now()
		} else if time.Since(since) > stalled {
			return fmt.Errorf("%d hand-ins have waited for their mark for a minute; the table river_job says why", n)
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
	}
}
