package store

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"celandine/core/exercise"
)

// An Override is a mark given by hand, with its reason.
type Override struct {
	HandinID  int64 `gorm:"primaryKey"`
	Earned    exercise.Marks
	Reason    string
	ByID      int64
	By        Person
	CreatedAt time.Time
}

// A Comment is what an instructor says about a line of a hand-in, or about all of it where Line is 0.
type Comment struct {
	ID        int64
	HandinID  int64
	ByID      int64
	By        Person
	Line      int
	Text      string
	CreatedAt time.Time `gorm:"autoCreateTime"`
}

func handin(id int64) string { return fmt.Sprintf("hand-in %d", id) }

// Overrule gives a hand-in a mark by hand, or, with nil, takes that back.
func (s *Store) Overrule(ctx context.Context, by, class, id int64, o *Override) error {
	return known(s.transaction(ctx, func(tx work) error {
		var before []Override
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("handin_id = ?", id).Find(&before).Error; err != nil {
			return err
		}
		var was, is any
		if len(before) > 0 {
			was = map[string]any{"earned": before[0].Earned, "reason": before[0].Reason}
		}
		if o == nil {
			if len(before) == 0 {
				return gorm.ErrRecordNotFound
			}
			if err := tx.Delete(&before[0]).Error; err != nil {
				return err
			}
			return tx.note(by, class, "take back override", handin(id), was, nil)
		}
		o.HandinID, o.ByID, o.CreatedAt = id, by, time.Now()
		is = map[string]any{"earned": o.Earned, "reason": o.Reason}
		if err := tx.Omit(clause.Associations).Clauses(clause.OnConflict{UpdateAll: true}).Create(o).Error; err != nil {
			return err
		}
		return tx.note(by, class, "override mark", handin(id), was, is)
	}))
}

// OverrideOf finds the mark that was given by hand.
func (s *Store) OverrideOf(ctx context.Context, id int64) (Override, error) {
	var o Override
	return o, known(s.db.WithContext(ctx).Preload("By").Take(&o, "handin_id = ?", id).Error)
}

// Comments lists what was said about a hand-in, by line.
func (s *Store) Comments(ctx context.Context, id int64) ([]Comment, error) {
	var list []Comment
	return list, known(s.db.WithContext(ctx).Preload("By").Where("handin_id = ?", id).Order("line, id").Find(&list).Error)
}

// Say adds a comment.
func (s *Store) Say(ctx context.Context, c Comment) (Comment, error) {
	return c, known(s.db.WithContext(ctx).Omit(clause.Associations).Create(&c).Error)
}

// SayAll adds comments, all or none.
func (s *Store) SayAll(ctx context.Context, list []Comment) error {
	return known(s.db.WithContext(ctx).Omit(clause.Associations).Create(&list).Error)
}

// Unsay takes one's own comment back.
func (s *Store) Unsay(ctx context.Context, by, handin, id int64) error {
	out := s.db.WithContext(ctx).Where("id = ? AND handin_id = ? AND by_id = ?", id, handin, by).Delete(&Comment{})
	if out.Error == nil && out.RowsAffected == 0 {
		return ErrNotFound
	}
	return known(out.Error)
}

// Regrade puts new results in the place of old ones: all, or none. A hand-in whose result has changed since old was read ends
// it with [ErrNewer].
func (s *Store) Regrade(ctx context.Context, by, class int64, subject string, old map[int64]exercise.Marks, results []Result) error {
	return known(s.transaction(ctx, func(tx work) error {
		changed := map[string][2]exercise.Marks{}
		for _, r := range results {
			var stands Result
			if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Select("handin_id", "earned").Take(&stands, "handin_id = ?",
				r.HandinID).Error; err != nil {
				return err
			}
			if stands.Earned != old[r.HandinID] {
				return ErrNewer
			}
			if err := tx.Model(&Result{HandinID: r.HandinID}).Select("Earned", "Points", "Result", "Kept", "RevisionID",
				"GradedAt").Updates(&r).Error; err != nil {
				return err
			}
			if err := tx.Exec("UPDATE handins SET earned = ? WHERE id = ?", int64(r.Earned), r.HandinID).Error; err != nil {
				return err
			}
			if err := tx.Exec("INSERT INTO unlooked (handin_id) VALUES (?) ON CONFLICT DO NOTHING", r.HandinID).Error; err != nil {
				return err
			}
			if r.Earned != stands.Earned {
				changed[handin(r.HandinID)] = [2]exercise.Marks{stands.Earned, r.Earned}
			}
		}
		return tx.note(by, class, "grade again", subject, nil, map[string]any{"graded": len(results), "changed": changed})
	}))
}

// Graded lists the hand-ins to an assignment that have a result, with their texts: some, by their numbers, or all where none are named.
func (s *Store) Graded(ctx context.Context, assignment int64, some ...int64) ([]Handin, error) {
	q := s.db.WithContext(ctx).Joins("Person").Joins("Assignment").Joins("JOIN results r ON r.handin_id = handins.id").
		Preload("Result", func(db *gorm.DB) *gorm.DB { return db.Omit("Kept") }).Where("handins.assignment_id = ?", assignment)
	if len(some) > 0 {
		q = q.Where("handins.id IN ?", some)
	}
	var list []Handin
	return list, known(q.Order("handins.id").Find(&list).Error)
}

// Neighbours finds the hand-ins before and after one in an assignment's review queue, by number; 0 is none.
func (s *Store) Neighbours(ctx context.Context, h Handin) (before, after int64, err error) {
	var found struct{ Before, After int64 }
	err = s.db.WithContext(ctx).Raw(`SELECT coalesce(max(id) FILTER (WHERE id < @id),
		0) AS before, coalesce(min(id) FILTER (WHERE id > @id), 0) AS after
		FROM handins WHERE assignment_id = @assignment`, map[string]any{"id": h.ID, "assignment": h.AssignmentID}).Scan(&found).Error
	return found.Before, found.After, known(err)
}
