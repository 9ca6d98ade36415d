package store

import (
	"context"
	"database/sql"
	"strings"
	"time"

	"celandine/core/exercise"
)

// An Admission is everything that deciding on a request needs, read at once: who asks, and their place in what they ask for.
type Admission struct {
	Place      Place
	SignIn     SignIn // with its person
	Class      *Class // nil: there is none of that number, or the person is in none
	Enrolled   bool
	Assignment *Assignment // with its revision, but not its folder; nil: none was asked for, or there is none of that name in the class
	Begun      *time.Time  // when the person opened the assignment, where that is timed
	Owner      int64       // whose hand-in was asked for; 0: none was, or there is none
}

// A Place is what a request asks for.
type Place struct {
	Class    int64  // 0: the person's first
	Exercise string // "": none
	Handin   int64  // 0: none; else its class and exercise are meant
}

// The classes that a place means: one's first, one by its number, or that of a hand-in.
const (
	firstClass = `SELECT c.*, e.person_id AS member, 0::bigint AS owner, NULL::bigint AS assignment FROM enrolments e
		JOIN classes c ON c.id = e.class_id WHERE e.person_id = p.id ORDER BY c.id LIMIT 1`
	thatClass = `SELECT c.*, e.person_id AS member, 0::bigint AS owner, NULL::bigint AS assignment FROM classes c LEFT
		JOIN enrolments e ON e.class_id = c.id AND e.person_id = p.id WHERE c.id = @class`
	itsClass = `SELECT c.*, e.person_id AS member, h.person_id AS owner, h.assignment_id AS assignment FROM handins h
		JOIN assignments ha ON ha.id = h.assignment_id JOIN classes c ON c.id = ha.class_id
		LEFT JOIN enrolments e ON e.class_id = c.id AND e.person_id = p.id WHERE h.id = @handin`
)

// Admit finds the sign-in of a secret and a kind, with its person: one that has neither ended nor expired, of somebody who is
// not disabled; and what they ask for. The kind keeps a session's secret from being used as a token.
func (s *Store) Admit(ctx context.Context, kind, secret string, at Place) (Admission, error) {
	classes := thatClass
	switch {
	case at.Handin != 0:
		classes = itsClass
	case at.Class == 0:
		classes = firstClass
	}
	row := s.db.WithContext(ctx).Raw(`SELECT t.id, t.kind,
		t.name, t.scope, t.expires_at, t.used_at, p.id, p.login, p.name, p.role, p.password_hash, p.disabled_at,
		c.id, c.name, c.time_zone, c.counts, c.member IS NOT NULL, coalesce(c.owner, 0),
		a.id, a.exercise, a.revision_id, a.`+strings.Join(terms.columns, ", a.")+`,
		r.exercise_id, r.number, r.title, r.topic, r.points, r.hash, s.started_at
		FROM tokens t JOIN people p ON p.id = t.person_id LEFT JOIN LATERAL (`+classes+`) c ON TRUE
		LEFT JOIN assignments a ON a.class_id = c.id AND (a.id = c.assignment OR c.assignment IS NULL AND a.exercise = @exercise) LEFT
		JOIN revisions r ON r.id = a.revision_id
		LEFT JOIN starts s ON s.assignment_id = a.id AND s.person_id = p.id AND a.minutes > 0
		WHERE t.kind = @kind AND t.hash = @hash AND t.expires_at > now() AND p.disabled_at IS NULL`, map[string]any{
		"class": at.Class, "handin": at.Handin, "exercise": at.Exercise, "kind": kind, "hash": secretHash(secret)}).Row()
	found, err := admission(row)
	found.Place = at
	if err != nil {
		return found, known(err)
	}
	if in := found.SignIn; in.UsedAt == nil || time.Since(*in.UsedAt) > usedWithin {
		err = s.db.WithContext(ctx).Exec("UPDATE tokens SET used_at = now() WHERE id = ?", in.ID).Error
	}
	return found, known(err)
}

// admission reads the row of an [Store.Admit].
func admission(row *sql.Row) (Admission, error) {
	var (
		found                                                  Admission
		in, p                                                  = &found.SignIn, &found.SignIn.Person
		class, assignment, revision, ex, points                sql.Null[int64]
		number                                                 sql.Null[int]
		name, zone, counts, exerciseName, title, topic, folder sql.Null[string]
		asked                                                  = newMaybeTerms()
	)
	targets := []any{&in.ID, &in.Kind, &in.Name, &in.Scope, &in.ExpiresAt, &in.UsedAt, &p.ID, &p.Login, &p.Name, &p.Role, &p.PasswordHash,
		&p.DisabledAt,
		&class, &name, &zone, &counts, &found.Enrolled, &found.Owner, &assignment, &exerciseName, &revision}
	targets = append(targets, asked.targets()...)
	if err := row.Scan(append(targets, &ex, &number, &title, &topic, &points, &folder, &found.Begun)...); err != nil {
		return found, err
	}
	in.PersonID = p.ID
	if class.Valid {
		found.Class = &Class{ID: class.V, Name: name.V, TimeZone: zone.V, Counts: counts.V}
	}
	if assignment.Valid {
		found.Assignment = &Assignment{ID: assignment.V, ClassID: class.V, Exercise: exerciseName.V, RevisionID: revision.V, Terms: asked.terms(),
			Revision: Revision{ID: revision.V, ExerciseID: ex.V, Name: exerciseName.V, Number: number.V, Title: title.V, Topic: topic.V,
				Points: exercise.Marks(points.V), Hash: folder.V}}
	}
	return found, nil
}

// MayWatch tells whether a sign-in still holds and its person still teaches a class, or is an administrator.
func (s *Store) MayWatch(ctx context.Context, signIn, class int64) (bool, error) {
	var n int64
	err := s.db.WithContext(ctx).Raw(`SELECT count(*) FROM tokens t JOIN people p ON p.id = t.person_id WHERE t.id = @signin
		AND t.expires_at > now() AND p.disabled_at IS NULL
		AND (p.role = 'administrator' OR p.role = 'instructor' AND EXISTS (SELECT FROM enrolments e WHERE e.class_id = @class
		AND e.person_id = p.id))`,
		map[string]any{"signin": signIn, "class": class}).Scan(&n).Error
	return n > 0, known(err)
}
