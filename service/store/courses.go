package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"celandine/core/exercise"
)

// A Course is exercises of its owner's in the order in which they are taught.
type Course struct {
	ID      int64
	OwnerID int64
	Owner   Person
	Name    string
	Title   string
	Text    string // course.yaml
	Version int    // counts the savings, from 1; 0: none so far
	SavedAt time.Time
}

// Courses lists the courses of a person; all of them where person is 0.
func (s *Store) Courses(ctx context.Context, person int64) ([]Course, error) {
	var list []Course
	err := s.db.WithContext(ctx).Joins("Owner").Where("? = 0 OR owner_id = ?", person, person).
		Order("lower(title), courses.id").Find(&list).Error
	return list, known(err)
}

// CourseOf finds a course of an owner by its name.
func (s *Store) CourseOf(ctx context.Context, owner, name string) (Course, error) {
	var c Course
	err := s.db.WithContext(ctx).Joins("Owner").Take(&c, `lower("Owner".login) = lower(?) AND courses.name = ?`, owner, name).Error
	return c, known(err)
}

// SaveCourse stores a course over the version that it names, 0 for a new one. [ErrNewer] tells that there is another version.
func (s *Store) SaveCourse(ctx context.Context, c Course) error {
	return known(s.transaction(ctx, func(tx work) error { return tx.saveCourse(c) }))
}

func (w work) saveCourse(c Course) error {
	before := c.Version
	c.Version++
	c.SavedAt = time.Now()
	var put *gorm.DB
	if before == 0 {
		put = w.Omit("Owner").Clauses(clause.OnConflict{DoNothing: true}).Create(&c)
	} else {
		put = w.Model(&Course{}).Where("owner_id = ? AND name = ? AND version = ?", c.OwnerID, c.Name, before).
			Select("Title", "Text", "Version", "SavedAt").Updates(&c)
	}
	if put.Error == nil && put.RowsAffected == 0 {
		return ErrNewer
	}
	return put.Error
}

// RemoveCourse forgets a course; its exercises stay.
func (s *Store) RemoveCourse(ctx context.Context, c Course) error {
	return known(s.transaction(ctx, func(tx work) error {
		if err := tx.Exec("DELETE FROM courses WHERE id = ?", c.ID).Error; err != nil {
			return err
		}
		return tx.note(c.OwnerID, 0, "remove course", c.Name, nil, nil)
	}))
}

// Import stores a course with its exercises: all of it, or with an error nothing. An exercise that its owner has already gets a new
// revision, unless its newest is the same.
func (s *Store) Import(ctx context.Context, by Person, c Course, exercises []Revision) error {
	return known(s.transaction(ctx, func(tx work) error {
		for _, r := range exercises {
			if err := tx.add(by, r); err != nil {
				return err
			}
		}
		if err := tx.saveCourse(c); err != nil {
			return err
		}
		return tx.note(by.ID, 0, "import course", c.Name, nil, map[string]any{"exercises": len(exercises)})
	}))
}

// add makes a folder the newest revision of one's own exercise of its name.
func (w work) add(by Person, r Revision) error {
	e := Exercise{OwnerID: by.ID, Name: r.Name}
	if err := w.Omit("Owner").Where("owner_id = ? AND name = ?", by.ID, r.Name).FirstOrCreate(&e).Error; err != nil {
		return err
	}
	var newest Revision
	if err := w.Where("exercise_id = ?", e.ID).Omit("Files").Order("number DESC").Limit(1).Find(&newest).Error; err != nil {
		return err
	}
	if newest.Hash == r.Hash {
		return nil
	}
	r.ExerciseID, r.Number, r.CreatedBy = e.ID, newest.Number+1, by.ID
	return w.Omit("Exercise", "Creator").Create(&r).Error
}

// GiveCourse lets a class work on exercises of an owner in their newest revisions, in this order behind its own: all of them, or with an
// error none. What the class has already stays as it is. [ErrNotFound] tells that one of them has no revision.
func (s *Store) GiveCourse(ctx context.Context, by, class int64, c Course, names []string) error {
	return known(s.transaction(ctx, func(tx work) error {
		for _, name := range names {
			put := tx.Exec(`INSERT INTO assignments (class_id, exercise, revision_id, published, position)
				SELECT @class, @name, r.id, FALSE, (SELECT coalesce(max(position), 0) + 1 FROM assignments WHERE class_id = @class)
				FROM revisions r JOIN exercises e ON e.id = r.exercise_id WHERE e.owner_id = @owner AND e.name = @name AND e.withdrawn_at IS NULL
				ORDER BY r.number DESC LIMIT 1 ON CONFLICT (class_id, exercise) DO NOTHING`,
				map[string]any{"class": class, "name": name, "owner": c.OwnerID})
			if put.Error != nil {
				return put.Error
			}
			if put.RowsAffected > 0 {
				continue
			}
			var has int64
			if err := tx.Model(&Assignment{}).Where("class_id = ? AND exercise = ?", class, name).Count(&has).Error; err != nil {
				return err
			}
			if has == 0 {
				return gorm.ErrRecordNotFound
			}
		}
		return tx.note(by, class, "give course", c.Name, nil, map[string]any{"exercises": len(names)})
	}))
}

// Folders reads the newest folders of an owner's exercises, by name; those that have none are left out.
func (s *Store) Folders(ctx context.Context, owner int64, names []string) (map[string]exercise.Files, error) {
	var list []Revision
	err := s.db.WithContext(ctx).Raw(`SELECT DISTINCT ON (r.exercise_id) r.* FROM revisions r JOIN exercises e ON e.id = r.exercise_id
		WHERE e.owner_id = ? AND e.name IN ? ORDER BY r.exercise_id, r.number DESC`, owner, append(names, "")).Scan(&list).Error
	out := map[string]exercise.Files{}
	for _, r := range list {
		out[r.Name] = exercise.Files(r.Files)
	}
	return out, known(err)
}
