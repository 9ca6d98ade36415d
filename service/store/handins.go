package store

import (
	"context"
	"crypto/sha256"
	"errors"
	"time"

	"gorm.io/gorm"

	"celandine/core/exercise"
)

// A Handin is a program as it was handed in, for ever.
type Handin struct {
	ID           int64
	AssignmentID int64
	Assignment   Assignment
	RevisionID   int64
	PersonID     int64
	Person       Person
	Number       int
	File         string
	Text         string
	Key          []byte // see [KeyOf]; nil: none was given
	CreatedAt    time.Time
	Result       *Result
}

// A Result is the mark of a hand-in. The JSON is kept as the grading gave it.
type Result struct {
	HandinID   int64 `gorm:"primaryKey"`
	RevisionID int64 // that gave it
	Earned     exercise.Marks
	Points     exercise.Marks
	Result     Packed
	Kept       Packed // traces of what went wrong; none where nothing did
	GradedAt   time.Time
}

// KeyOf is what is kept of an Idempotency-Key.
func KeyOf(key string) []byte {
	if key == "" {
		return nil
	}
	h := sha256.Sum256([]byte(key))
	return h[:16]
}

// Sofar is what a person has handed in before: to the assignment, in the last hour, and what of the last hour waits for its mark.
type Sofar struct {
	Handins, LastHour, Waiting int
	Same                       int64 // the hand-in that the key was used for, by whomever; 0: none
}

// Sofar tells what stands before a hand-in.
func (s *Store) Sofar(ctx context.Context, h Handin) (Sofar, error) {
	return work{s.db.WithContext(ctx)}.sofar(h)
}

func (w work) sofar(h Handin) (Sofar, error) {
	var before Sofar
	err := w.Raw(`SELECT coalesce((SELECT handins FROM tallies WHERE assignment_id = @assignment AND person_id = @person), 0) AS handins,
		(SELECT count(*) FROM handins WHERE person_id = @person AND created_at > now() - interval '1 hour') AS last_hour,
		(SELECT count(*) FROM waiting WHERE person_id = @person AND since > now() - interval '1 hour') AS waiting,
		coalesce((SELECT id FROM handins WHERE key = @key), 0) AS same`,
		map[string]any{"assignment": h.AssignmentID, "person": h.PersonID, "key": h.Key}).Scan(&before).Error
	return before, known(err)
}

// ErrRefused tells that a person has used all attempts meanwhile.
var ErrRefused = errors.New("all attempts are used")

// RecordGraded stores a hand-in with its result, both or neither, at once; most is how many the person may hand in to the
// assignment, 0 any number. [ErrTaken] tells that the key has been used, [ErrRefused] that all attempts are.
func (s *Store) RecordGraded(ctx context.Context, h Handin, r Result, most int) (Handin, error) {
	given := numbered(h, most, 1)
	given["earned"], given["points"], given["result"], given["kept"], given["graded_at"] = int64(r.Earned), int64(r.Points), r.Result, r.Kept,
		r.GradedAt
	h, err := made(work{s.db.WithContext(ctx)}, h, given,
		`, put AS (INSERT INTO results (handin_id, revision_id, earned, points, result, kept, graded_at)
		SELECT made.id, @revision, @earned, @points, @result, @kept, @graded_at FROM made),
		look AS (INSERT INTO unlooked (handin_id) SELECT made.id FROM made ON CONFLICT DO NOTHING)`)
	r.HandinID, r.RevisionID = h.ID, h.RevisionID
	h.Result = &r
	return h, err
}

// Record stores a hand-in that waits, and its grading job, both or neither, once taken, told what the person has handed in,
// finds nothing against it; most is as with [Store.RecordGraded].
func (s *Store) Record(ctx context.Context, h Handin, most int, taken func(Sofar) error) (Handin, error) {
	err := s.shared(ctx, func(tx work, queue Tx) error {
		// One person's hand-ins come one after the other.
		if err := tx.Exec("SELECT pg_advisory_xact_lock(?)", h.PersonID).Error; err != nil {
			return err
		}
		before, err := tx.sofar(h)
		if err != nil {
			return err
		}
		if before.Same != 0 {
			return ErrTaken
		}
		if err := taken(before); err != nil {
			return err
		}
		if h, err = made(tx, h, numbered(h, most, 0),
			`, put AS (INSERT INTO waiting (handin_id, assignment_id, person_id) SELECT made.id, @assignment, @person FROM made)`); err != nil {
			return err
		}
		return s.queue.Enqueue(ctx, queue, h.ID)
	})
	return h, known(err)
}

// numbered is what storing a hand-in is given.
func numbered(h Handin, most, graded int) map[string]any {
	return map[string]any{"earned": nil, "assignment": h.AssignmentID, "revision": h.RevisionID, "person": h.PersonID, "file": h.File,
		"text": h.Text, "key": h.Key, "most": most, "graded": graded}
}

// made counts a hand-in, numbers and stores it, and does the rest with it, in one statement.
func made(w work, h Handin, given map[string]any, rest string) (Handin, error) {
	var rows []struct {
		ID        int64
		Number    int
		CreatedAt time.Time
	}
	err := w.Raw(`WITH turn AS (INSERT INTO tallies AS t (assignment_id, person_id, handins, graded) VALUES (@assignment, @person, 1, @graded)
			ON CONFLICT (assignment_id, person_id) DO UPDATE SET handins = t.handins + 1, graded = t.graded + excluded.graded
			WHERE @most = 0 OR t.handins < @most RETURNING t.handins),
		made AS (INSERT INTO handins (assignment_id, revision_id, person_id, number, file, text, key, earned)
			SELECT @assignment, @revision, @person, turn.handins, @file, @text, @key, @earned FROM turn RETURNING id, number, created_at)`+rest+`
		SELECT id, number, created_at FROM made`, given).Scan(&rows).Error
	if err == nil && len(rows) == 0 {
		err = ErrRefused
	}
	if err != nil {
		return h, known(err)
	}
	h.ID, h.Number, h.CreatedAt = rows[0].ID, rows[0].Number, rows[0].CreatedAt
	return h, nil
}

// Handin finds a hand-in with its person, exercise and result.
func (s *Store) Handin(ctx context.Context, id int64) (Handin, error) {
	var h Handin
	err := s.db.WithContext(ctx).Joins("Person").Joins("Assignment").Preload("Result").Take(&h, "handins.id = ?", id).Error
	return h, known(err)
}

// ToGrade reads a hand-in as far as grading needs it; graded tells that it has its result.
func (s *Store) ToGrade(ctx context.Context, id int64) (h Handin, graded bool, err error) {
	var found []struct {
		AssignmentID, RevisionID, ClassID int64
		File, Text                        string
		CreatedAt                         time.Time
		Graded                            bool
	}
	err = s.db.WithContext(ctx).Raw(`SELECT h.assignment_id,
		h.revision_id, a.class_id, h.file, h.text, h.created_at, r.handin_id IS NOT NULL AS graded
		FROM handins h JOIN assignments a ON a.id = h.assignment_id LEFT JOIN results r ON r.handin_id = h.id
		WHERE h.id = ?`, id).Scan(&found).Error
	if err == nil && len(found) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return h, false, known(err)
	}
	f := found[0]
	at := Assignment{ID: f.AssignmentID, ClassID: f.ClassID}
	return Handin{ID: id, AssignmentID: f.AssignmentID, Assignment: at, RevisionID: f.RevisionID, File: f.File, Text: f.Text,
		CreatedAt: f.CreatedAt}, f.Graded, nil
}

// Mark returns what a hand-in earned, nil while it waits.
func (s *Store) Mark(ctx context.Context, id int64) (*Result, error) {
	var found []Result
	err := s.db.WithContext(ctx).Select("handin_id", "earned", "points").Where("handin_id = ?", id).Limit(1).Find(&found).Error
	if err != nil || len(found) == 0 {
		return nil, known(err)
	}
	return &found[0], nil
}

// Wanted says which of an assignment's hand-ins to list.
type Wanted struct {
	Person  int64 // 0: everybody's
	Waiting *bool // those that wait for their mark, or those that do not; nil: both
	Before  int64 // only those handed in before this one; 0: from the newest
	Limit   int
}

// Handins lists hand-ins to an assignment, newest first. Texts and traces are left out.
func (s *Store) Handins(ctx context.Context, assignment int64, w Wanted) ([]Handin, error) {
	q := s.db.WithContext(ctx).Omit("Text").Joins("Person").Joins("Assignment").
		Preload("Result", func(db *gorm.DB) *gorm.DB { return db.Select("handin_id", "earned", "points") }).Where("assignment_id = ?", assignment)
	if w.Person != 0 {
		q = q.Where("person_id = ?", w.Person)
	}
	if w.Waiting != nil {
		q = q.Where("NOT EXISTS (SELECT FROM results r WHERE r.handin_id = handins.id) = ?", *w.Waiting)
	}
	if w.Before != 0 {
		q = q.Where("handins.id < ?", w.Before)
	}
	var list []Handin
	return list, known(q.Order("handins.id DESC").Limit(w.Limit).Find(&list).Error)
}

// SaveResult stores the mark of a hand-in that waited and the end of its job, both or neither; a second grading of the same
// hand-in changes nothing but the job. done ends the job in the transaction.
func (s *Store) SaveResult(ctx context.Context, r Result, done func(Tx) error) error {
	return known(s.shared(ctx, func(tx work, queue Tx) error {
		err := tx.Exec(`WITH put AS (INSERT INTO results (handin_id, revision_id, earned, points, result, kept, graded_at)
				VALUES (@handin, @revision, @earned, @points, @result, @kept, @graded_at) ON CONFLICT DO NOTHING RETURNING handin_id),
			waited AS (DELETE FROM waiting WHERE handin_id = @handin),
			marked AS (UPDATE handins SET earned = @earned FROM put WHERE id = put.handin_id),
			look AS (INSERT INTO unlooked (handin_id) SELECT handin_id FROM put ON CONFLICT DO NOTHING)
			UPDATE tallies t SET graded = t.graded + 1 FROM put JOIN handins h ON h.id = put.handin_id WHERE t.assignment_id = h.assignment_id
			AND t.person_id = h.person_id`, map[string]any{
			"handin": r.HandinID, "revision": r.RevisionID, "earned": int64(r.Earned), "points": int64(r.Points), "result": r.Result, "kept": r.Kept,
			"graded_at": r.GradedAt}).Error
		if err != nil {
			return err
		}
		return done(queue)
	}))
}

// Waiting counts the hand-ins that have no result yet.
func (s *Store) Waiting(ctx context.Context) (int64, error) {
	var n int64
	err := s.db.WithContext(ctx).Raw("SELECT count(*) FROM waiting").Scan(&n).Error
	return n, known(err)
}

// ClassProgress counts a class's hand-ins that have a result, and those that wait for one.
func (s *Store) ClassProgress(ctx context.Context, class int64) (graded, waiting int, err error) {
	var n struct{ Graded, Waiting int }
	err = s.db.WithContext(ctx).Raw(`SELECT coalesce(sum(t.graded), 0) AS graded, (SELECT count(*) FROM waiting w
		JOIN assignments a ON a.id = w.assignment_id WHERE a.class_id = @class) AS waiting
		FROM tallies t JOIN assignments a ON a.id = t.assignment_id WHERE a.class_id = @class`, map[string]any{"class": class}).Scan(&n).Error
	return n.Graded, n.Waiting, known(err)
}
