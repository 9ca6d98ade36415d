package store

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"celandine/core/exercise"
)

// A Revision is one state of an exercise's folder, for ever.
type Revision struct {
	ID        int64
	Name      string
	Number    int
	Title     string
	Topic     string
	Points    exercise.Marks
	Hash      string
	Files     Folder
	CreatedBy int64
	CreatedAt time.Time `gorm:"autoCreateTime"`
}

// Folder is the files of a revision, as JSON in the database.
type Folder exercise.Files

// Value writes the folder as JSON.
func (f Folder) Value() (driver.Value, error) {
	text, err := json.Marshal(map[string][]byte(f))
	return string(text), err
}

// Scan reads the folder from JSON.
func (f *Folder) Scan(value any) error {
	switch text := value.(type) {
	case []byte:
		return json.Unmarshal(text, f)
	case string:
		return json.Unmarshal([]byte(text), f)
	}
	return fmt.Errorf("store: a folder cannot be read from %T", value)
}

// An Assignment is the revision that a class works on.
type Assignment struct {
	ID         int64
	ClassID    int64
	Exercise   string
	RevisionID int64
	Revision   Revision
	Position   int
	Published  bool
	CreatedAt  time.Time `gorm:"autoCreateTime"`
	// The terms; see [rules.Terms].
	OpensAt     *time.Time
	DueAt       *time.Time
	Late        string
	LateUntil   *time.Time
	LatePercent int
	Attempts    int
	Sees        string // what a learner sees after a hand-in: marks, first, shown, all
	Minutes     int
}

// Push stores a folder as the newest revision of its exercise, unless the
// newest is the same already, and lets the class work on it.
func (s *Store) Push(ctx context.Context, class, by int64, e *exercise.Exercise, files exercise.Files) (Revision, error) {
	var r Revision
	err := s.transaction(ctx, func(tx work) error {
		// Two pushes of one exercise take their numbers one after the other.
		if err := tx.Exec("SELECT pg_advisory_xact_lock(hashtext(?))", "push "+e.Name).Error; err != nil {
			return err
		}
		if err := tx.Where("name = ?", e.Name).Order("number DESC").Limit(1).Find(&r).Error; err != nil {
			return err
		}
		if hash := files.Hash(); r.Hash != hash {
			r = Revision{Name: e.Name, Number: r.Number + 1, Title: e.Title, Topic: e.Topic, Points: e.Points(), Hash: hash, Files: Folder(files), CreatedBy: by}
			if err := tx.Create(&r).Error; err != nil {
				return err
			}
		}
		var before []int
		if err := tx.Raw("SELECT r.number FROM assignments a JOIN revisions r ON r.id = a.revision_id WHERE a.class_id = ? AND a.exercise = ?", class, e.Name).Scan(&before).Error; err != nil {
			return err
		}
		if len(before) > 0 && before[0] == r.Number {
			return nil // the class works on it already
		}
		err := tx.Exec(`INSERT INTO assignments (class_id, exercise, revision_id, published, position)
			VALUES (?, ?, ?, FALSE, (SELECT coalesce(max(position), 0) + 1 FROM assignments WHERE class_id = ?))
			ON CONFLICT (class_id, exercise) DO UPDATE SET revision_id = excluded.revision_id`, class, e.Name, r.ID, class).Error
		if err != nil {
			return err
		}
		var was any
		if len(before) > 0 {
			was = map[string]any{"revision": before[0]}
		}
		return tx.note(by, class, "push exercise", e.Name, was, map[string]any{"revision": r.Number})
	})
	return r, known(err)
}

// Take lets a class work on exercises of another, in the revisions that that works on, behind its own: all of them, or with an error none.
// [ErrTaken] tells that the class has one of them already.
func (s *Store) Take(ctx context.Context, by, from, class int64, exercises []string) error {
	return taken(s.transaction(ctx, func(tx work) error {
		put := tx.Exec(`INSERT INTO assignments (class_id, exercise, revision_id, position)
			SELECT @class, a.exercise, a.revision_id, (SELECT coalesce(max(position), 0) FROM assignments WHERE class_id = @class) + row_number() OVER (ORDER BY a.position, a.id)
			FROM assignments a WHERE a.class_id = @from AND a.exercise IN @exercises`, map[string]any{"class": class, "from": from, "exercises": exercises})
		if put.Error != nil {
			return put.Error
		}
		if put.RowsAffected < int64(len(exercises)) {
			return gorm.ErrRecordNotFound
		}
		return tx.note(by, class, "take exercises", strings.Join(exercises, ", "), nil, map[string]any{"from class": from})
	}))
}

// Assignments lists a class's exercises in their order.
func (s *Store) Assignments(ctx context.Context, class int64) ([]Assignment, error) {
	var list []Assignment
	err := s.brief(ctx).Where("class_id = ? AND published", class).Order("position, assignments.id").Find(&list).Error
	return list, known(err)
}

// brief is assignments with their revisions, but not their folders, which are large and seldom needed.
func (s *Store) brief(ctx context.Context) *gorm.DB {
	return s.db.WithContext(ctx).Joins("Revision", s.db.Omit("Files"))
}

// Assignment finds a class's published exercise by name. Its folder is read with [Store.Revision].
func (s *Store) Assignment(ctx context.Context, class int64, name string) (Assignment, error) {
	var a Assignment
	err := s.brief(ctx).Where("class_id = ? AND exercise = ? AND published", class, name).Take(&a).Error
	return a, known(err)
}

// Revision finds a revision with its folder.
func (s *Store) Revision(ctx context.Context, id int64) (Revision, error) {
	var r Revision
	return r, known(s.db.WithContext(ctx).Take(&r, id).Error)
}
