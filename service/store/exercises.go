package store

import (
	"cmp"
	"context"
	"database/sql/driver"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"celandine/client"
	"celandine/core/exercise"
)

// A Revision is one state of an exercise's folder, for ever.
type Revision struct {
	ID         int64
	ExerciseID int64
	Name       string
	Number     int
	Title      string
	Topic      string
	Points     exercise.Marks
	Hash       string
	Languages  string // ladder, fbd, st
	Note       string // what the instructor says of it
	Files      Folder
	CreatedBy  int64
	CreatedAt  time.Time `gorm:"autoCreateTime"`
	Exercise   Exercise
	Creator    Person `gorm:"foreignKey:CreatedBy"`
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
	CreatedAt  time.Time `gorm:"autoCreateTime"`
	client.Terms
}

// NewRevision is a folder as a revision that has no number yet.
func NewRevision(e *exercise.Exercise, files exercise.Files) Revision {
	return Revision{Name: e.Name, Title: e.Title, Topic: e.Topic, Points: e.Points(), Languages: strings.Join(e.Languages, ", "),
		Hash: files.Hash(), Files: Folder(files)}
}

// An Exercise belongs to somebody, who alone, with those it is shared with, gives it revisions.
type Exercise struct {
	ID        int64
	OwnerID   int64
	Owner     Person
	Name      string
	CreatedAt time.Time `gorm:"autoCreateTime"`
	// WithdrawnAt is when it was taken away from learners; nil: it was not.
	WithdrawnAt *time.Time
}

// A Share lets somebody else read an exercise, or change it.
type Share struct {
	ExerciseID int64 `gorm:"primaryKey"`
	PersonID   int64 `gorm:"primaryKey"`
	Person     Person
	May        string
}

// What a share allows, each with all of the one before.
const (
	MayRead   = "read"
	MayChange = "change"
)

// ErrForeign tells that an exercise belongs to somebody who has not shared it for this.
type ErrForeign struct{ Owner string }

// Error names the owner.
func (e ErrForeign) Error() string { return "the exercise belongs to " + e.Owner }

// exercise finds the exercise of a name that somebody's push to a class means: the one that the class works on, else one's own,
// which is made where there is none. Whoever may not change it gets an [ErrForeign]; an administrator may.
func (w work) exercise(class int64, by Person, name string) (Exercise, error) {
	var found []Exercise
	err := w.Joins("Owner").Joins("JOIN revisions r ON r.exercise_id = exercises.id").Joins("JOIN assignments a ON a.revision_id = r.id").
		Where("a.class_id = ? AND a.exercise = ?", class, name).Limit(1).Find(&found).Error
	if err != nil {
		return Exercise{}, err
	}
	if len(found) == 0 {
		e := Exercise{OwnerID: by.ID, Name: name}
		err := w.Omit("Owner").Where("owner_id = ? AND name = ?", by.ID, name).FirstOrCreate(&e).Error
		return e, err
	}
	e := found[0]
	if e.OwnerID == by.ID || by.Role == Administrator {
		return e, nil
	}
	var may []string
	if err := w.Raw("SELECT may FROM shares WHERE exercise_id = ? AND person_id = ?", e.ID, by.ID).Scan(&may).Error; err != nil {
		return e, err
	}
	if len(may) == 0 || may[0] != MayChange {
		return e, ErrForeign{e.Owner.Name}
	}
	return e, nil
}

// Push stores a folder as the newest revision of its exercise, unless the newest is the same already, and lets the class work
// on it. [ErrForeign] tells that the class works on one of that name which is not the pusher's to change.
func (s *Store) Push(ctx context.Context, class int64, by Person, e *exercise.Exercise, files exercise.Files) (Revision, error) {
	var r Revision
	err := s.transaction(ctx, func(tx work) error {
		// Two pushes of one name take their numbers one after the other.
		if err := tx.Exec("SELECT pg_advisory_xact_lock(hashtext(?))", "push "+e.Name).Error; err != nil {
			return err
		}
		of, err := tx.exercise(class, by, e.Name)
		if err != nil {
			return err
		}
		if err := tx.Where("exercise_id = ?", of.ID).Order("number DESC").Limit(1).Find(&r).Error; err != nil {
			return err
		}
		if hash := files.Hash(); r.Hash != hash {
			number := r.Number + 1
			r = NewRevision(e, files)
			r.ExerciseID, r.Number, r.CreatedBy = of.ID, number, by.ID
			if err := tx.Omit("Exercise", "Creator").Create(&r).Error; err != nil {
				return err
			}
		}
		var before []int
		if err := tx.Raw("SELECT r.number FROM assignments a JOIN revisions r ON r.id = a.revision_id WHERE a.class_id = ? AND a.exercise = ?",
			class, e.Name).Scan(&before).Error; err != nil {
			return err
		}
		if len(before) > 0 && before[0] == r.Number {
			return nil // the class works on it already
		}
		err = tx.Exec(`INSERT INTO assignments (class_id, exercise, revision_id, published, position)
			VALUES (?, ?, ?, FALSE, (SELECT coalesce(max(position), 0) + 1 FROM assignments WHERE class_id = ?))
			ON CONFLICT (class_id, exercise) DO UPDATE SET revision_id = excluded.revision_id`, class, e.Name, r.ID, class).Error
		if err != nil {
			return err
		}
		var was any
		if len(before) > 0 {
			was = map[string]any{"revision": before[0]}
		}
		return tx.note(by.ID, class, "push exercise", e.Name, was, map[string]any{"revision": r.Number})
	})
	return r, known(err)
}

// Readable finds the newest revision, with its folder, of somebody's exercise that a person may read: its owner, whom it is
// shared with, who teaches a class that works on it, an administrator.
func (s *Store) Readable(ctx context.Context, p Person, owner, name string) (Revision, error) {
	var r Revision
	err := s.db.WithContext(ctx).Joins("Exercise").Joins("Exercise.Owner").Where(`lower("Exercise__Owner".login) = lower(@owner)
		AND "Exercise".name = @name AND (@administrator OR "Exercise".owner_id = @person
		OR EXISTS (SELECT FROM shares s WHERE s.exercise_id = revisions.exercise_id AND s.person_id = @person)
		OR EXISTS (SELECT FROM enrolments e JOIN assignments a ON a.class_id = e.class_id JOIN revisions ar ON ar.id = a.revision_id
		WHERE e.person_id = @person AND ar.exercise_id = revisions.exercise_id))`,
		map[string]any{"owner": owner, "name": name, "administrator": p.Role == Administrator,
			"person": p.ID}).Order("revisions.number DESC").Take(&r).Error
	return r, known(err)
}

// ExerciseOf finds an exercise of an owner.
func (s *Store) ExerciseOf(ctx context.Context, owner int64, name string) (Exercise, error) {
	var e Exercise
	return e, known(s.db.WithContext(ctx).Joins("Owner").Take(&e, "owner_id = ? AND exercises.name = ?", owner, name).Error)
}

// Shares lists whom an exercise is shared with.
func (s *Store) Shares(ctx context.Context, exercise int64) ([]Share, error) {
	var list []Share
	return list, known(s.db.WithContext(ctx).Joins("Person").Where("exercise_id = ?", exercise).Order(`"Person".login`).Find(&list).Error)
}

// Share lets somebody read or change an exercise, or, where may is "", takes that back.
func (s *Store) Share(ctx context.Context, by int64, e Exercise, with Person, may string) error {
	return known(s.transaction(ctx, func(tx work) error {
		if may == "" {
			out := tx.Exec("DELETE FROM shares WHERE exercise_id = ? AND person_id = ?", e.ID, with.ID)
			if out.Error != nil || out.RowsAffected == 0 {
				return cmp.Or(out.Error, gorm.ErrRecordNotFound)
			}
			return tx.note(by, 0, "end share", e.Name, with.Login, nil)
		}
		err := tx.Exec("INSERT INTO shares (exercise_id, person_id, may) VALUES (?, ?, ?) ON CONFLICT (exercise_id, person_id) DO UPDATE SET "+
			"may = excluded.may", e.ID, with.ID, may).Error
		if err != nil {
			return err
		}
		return tx.note(by, 0, "share exercise", e.Name, nil, map[string]string{with.Login: may})
	}))
}

// Take lets a class work on exercises of another, in the revisions that that works on, behind its own: all of them, or with an error none.
// [ErrTaken] tells that the class has one of them already.
func (s *Store) Take(ctx context.Context, by, from, class int64, exercises []string) error {
	return known(s.transaction(ctx, func(tx work) error {
		put := tx.Exec(`INSERT INTO assignments (class_id, exercise, revision_id, position)
			SELECT @class, a.exercise, a.revision_id, (SELECT coalesce(max(position), 0) FROM assignments
			WHERE class_id = @class) + row_number() OVER (ORDER BY a.position, a.id)
			FROM assignments a WHERE a.class_id = @from AND a.exercise IN @exercises`,
			map[string]any{"class": class, "from": from, "exercises": exercises})
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

// Revision finds a revision with its folder.
func (s *Store) Revision(ctx context.Context, id int64) (Revision, error) {
	var r Revision
	return r, known(s.db.WithContext(ctx).Take(&r, id).Error)
}
