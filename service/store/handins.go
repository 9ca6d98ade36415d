package store

import (
	"context"
	"strconv"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

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
	Key          *string
	CreatedAt    time.Time `gorm:"autoCreateTime"`
	Result       *Result
}

// A Result is the mark of a hand-in. The JSON is kept as the grading gave it.
type Result struct {
	HandinID   int64 `gorm:"primaryKey"`
	RevisionID int64 // that gave it
	Earned     exercise.Marks
	Points     exercise.Marks
	Result     Document
	Evidence   Document
	GradedAt   time.Time `gorm:"autoCreateTime"`
}

// Sofar is what a person has handed in: to the assignment, and to any of which the mark has not come for at most an hour.
type Sofar struct{ Handins, Waiting int }

// Record stores a hand-in and its grading job together: both, or neither. It
// returns the same hand-in when the person has used the key before; else taken is asked, with what the person has handed in, and its
// error ends it.
func (s *Store) Record(ctx context.Context, h Handin, taken func(Sofar) error) (Handin, error) {
	err := s.transaction(ctx, func(tx work) error {
		// One person's hand-ins are numbered one after the other.
		if err := tx.Exec("SELECT pg_advisory_xact_lock(?)", h.PersonID).Error; err != nil {
			return err
		}
		var before struct {
			Sofar
			Same int64
		}
		err := tx.Raw(`SELECT coalesce(max(number) FILTER (WHERE assignment_id = @assignment), 0) AS handins, coalesce(max(id) FILTER (WHERE key = @key), 0) AS same,
			count(*) FILTER (WHERE created_at > now() - interval '1 hour' AND NOT EXISTS (SELECT FROM results r WHERE r.handin_id = handins.id)) AS waiting
			FROM handins WHERE person_id = @person`, map[string]any{"assignment": h.AssignmentID, "person": h.PersonID, "key": h.Key}).Scan(&before).Error
		if err != nil {
			return err
		}
		if before.Same != 0 {
			return tx.Take(&h, before.Same).Error
		}
		if err := taken(before.Sofar); err != nil {
			return err
		}
		h.Number = before.Handins + 1
		if err := tx.Omit(clause.Associations).Create(&h).Error; err != nil {
			return err
		}
		return tx.enqueue(ctx, s.queue, h.ID)
	})
	return h, known(err)
}

// Handin finds a hand-in with its person, exercise and result.
func (s *Store) Handin(ctx context.Context, id int64) (Handin, error) {
	var h Handin
	err := s.whole(ctx).Take(&h, "handins.id = ?", id).Error
	return h, known(err)
}

// Whose tells whose a hand-in is, and in which class.
func (s *Store) Whose(ctx context.Context, id int64) (person, class int64, err error) {
	var found []struct{ PersonID, ClassID int64 }
	err = s.db.WithContext(ctx).Raw("SELECT h.person_id, a.class_id FROM handins h JOIN assignments a ON a.id = h.assignment_id WHERE h.id = ?", id).Scan(&found).Error
	if err == nil && len(found) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return 0, 0, known(err)
	}
	return found[0].PersonID, found[0].ClassID, nil
}

// ToGrade reads a hand-in as far as grading needs it; graded tells that it has its result.
func (s *Store) ToGrade(ctx context.Context, id int64) (h Handin, graded bool, err error) {
	var found []struct {
		RevisionID int64
		File, Text string
		Graded     bool
	}
	err = s.db.WithContext(ctx).Raw("SELECT h.revision_id, h.file, h.text, r.handin_id IS NOT NULL AS graded FROM handins h LEFT JOIN results r ON r.handin_id = h.id WHERE h.id = ?", id).Scan(&found).Error
	if err == nil && len(found) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return h, false, known(err)
	}
	f := found[0]
	return Handin{ID: id, RevisionID: f.RevisionID, File: f.File, Text: f.Text}, f.Graded, nil
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

func (s *Store) whole(ctx context.Context) *gorm.DB {
	return s.db.WithContext(ctx).Joins("Person").Joins("Assignment").Preload("Result")
}

// Wanted says which of an assignment's hand-ins to list.
type Wanted struct {
	Person  int64 // 0: everybody's
	Waiting *bool // those that wait for their mark, or those that do not; nil: both
	Before  int64 // only those handed in before this one; 0: from the newest
	Limit   int
}

// Handins lists hand-ins to an assignment, newest first. Texts and evidence are left out.
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

// SaveResult stores the mark of a hand-in, once: a second grading of the same
// hand-in changes nothing. Every process is told.
func (s *Store) SaveResult(ctx context.Context, r Result) error {
	err := s.transaction(ctx, func(tx work) error {
		if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&r).Error; err != nil {
			return err
		}
		return tx.Exec("SELECT pg_notify(?, ?)", Channel, strconv.FormatInt(r.HandinID, 10)).Error
	})
	return known(err)
}

// Waiting counts the hand-ins that have no result yet.
func (s *Store) Waiting(ctx context.Context) (int64, error) {
	var n int64
	err := s.db.WithContext(ctx).Raw("SELECT count(*) FROM handins h LEFT JOIN results r ON r.handin_id = h.id WHERE r.handin_id IS NULL").Scan(&n).Error
	return n, known(err)
}

// ClassProgress counts a class's hand-ins that have a result, and those that wait for one.
func (s *Store) ClassProgress(ctx context.Context, class int64) (graded, waiting int, err error) {
	var n struct{ Graded, Waiting int }
	err = s.db.WithContext(ctx).Raw(`SELECT count(r.handin_id) AS graded, count(*) - count(r.handin_id) AS waiting
		FROM handins h JOIN assignments a ON a.id = h.assignment_id LEFT JOIN results r ON r.handin_id = h.id WHERE a.class_id = ?`, class).Scan(&n).Error
	return n.Graded, n.Waiting, known(err)
}
