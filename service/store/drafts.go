package store

import (
	"context"
	"errors"
	"time"
)

// A Draft is what a person is writing for an exercise in one language.
type Draft struct {
	AssignmentID int64  `gorm:"primaryKey"`
	PersonID     int64  `gorm:"primaryKey"`
	Language     string `gorm:"primaryKey"`
	Text         string
	Version      int // counts the savings, from 1
	SavedAt      time.Time
}

// ErrNewer tells that a draft was saved from elsewhere since the version that the saver knew.
var ErrNewer = errors.New("a newer draft is there")

// Drafts lists a person's drafts for an assignment.
func (s *Store) Drafts(ctx context.Context, assignment, person int64) ([]Draft, error) {
	var list []Draft
	err := s.db.WithContext(ctx).Where("assignment_id = ? AND person_id = ?", assignment, person).Order("language").Find(&list).Error
	return list, known(err)
}

// SaveDraft stores a draft over the version that it names, 0 for none, and gives it the next. Where another version stands, it
// changes nothing and returns [ErrNewer]; the same text over any version is no change.
func (s *Store) SaveDraft(ctx context.Context, d Draft) (Draft, error) {
	var saved []Draft
	err := s.db.WithContext(ctx).Raw(`INSERT INTO drafts AS d (assignment_id, person_id, language, text, version) VALUES (?, ?, ?, ?, 1)
		ON CONFLICT (assignment_id, person_id, language) DO UPDATE SET text = excluded.text, saved_at = now(),
			version = d.version + CASE WHEN d.text = excluded.text THEN 0 ELSE 1 END
		WHERE d.version = ? OR d.text = excluded.text RETURNING *`, d.AssignmentID, d.PersonID, d.Language, d.Text, d.Version).Scan(&saved).Error
	if err != nil {
		return d, known(err)
	}
	if len(saved) == 0 {
		return d, ErrNewer
	}
	return saved[0], nil
}
