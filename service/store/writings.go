package store

import (
	"context"
	"errors"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"celandine/core/exercise"
)

// A Writing is an exercise as somebody is writing it: the folder that will be its next revision.
type Writing struct {
	ExerciseID int64 `gorm:"primaryKey"`
	Files      Folder
	Title      string
	Topic      string
	Languages  string
	Settled    string // the solution that the instructor has last agreed with
	Base       int    // the revision that it goes on from; 0: none
	Version    int    // counts the savings, from 1; 0: nothing was changed since the base
	SavedBy    int64
	Saver      Person `gorm:"foreignKey:SavedBy"`
	SavedAt    time.Time
	Newest     int `gorm:"-"` // the newest revision; 0: there is none
}

// NewWriting is a folder as it is being written, with what a list shows of it.
func NewWriting(files exercise.Files) Writing {
	form, _ := exercise.FormOf(string(files["exercise.yaml"])) // what is no YAML has no title
	return Writing{Files: Folder(files), Title: form.Title, Topic: form.Topic, Languages: strings.Join(form.Languages, ", ")}
}

// ErrNamed tells that its owner has an exercise of that name already.
var ErrNamed = errors.New("there is an exercise of that name already")

// BeginWriting makes an exercise of which there is no revision yet. [ErrNamed] tells that its owner has one of that name.
func (s *Store) BeginWriting(ctx context.Context, by Person, name string, w Writing) (Exercise, error) {
	e := Exercise{OwnerID: by.ID, Name: name}
	err := s.transaction(ctx, func(tx work) error {
		put := tx.Omit("Owner").Clauses(clause.OnConflict{DoNothing: true}).Create(&e)
		if put.Error != nil {
			return put.Error
		}
		if put.RowsAffected == 0 {
			return ErrNamed
		}
		w.ExerciseID, w.Version, w.SavedBy = e.ID, 1, by.ID
		return tx.Omit("Saver", "SavedAt").Create(&w).Error
	})
	e.Owner = by
	return e, known(err)
}

// FreeName is the name, or the name with the first number behind it that makes it one of which the owner has no exercise.
func (s *Store) FreeName(ctx context.Context, owner int64, name string) (string, error) {
	var free string
	err := s.db.WithContext(ctx).Raw(`SELECT n.name FROM (SELECT 1 AS i, @name AS name
		UNION ALL SELECT i, @name || '-' || i FROM generate_series(2, 1000) i) n
		WHERE NOT EXISTS (SELECT FROM exercises e WHERE e.owner_id = @owner AND e.name = n.name) ORDER BY n.i LIMIT 1`,
		map[string]any{"owner": owner, "name": name}).Scan(&free).Error
	return free, known(err)
}

// May finds somebody's exercise, and what a person may do with it: read or change it.
func (s *Store) May(ctx context.Context, p Person, owner, name string) (e Exercise, may string, err error) {
	err = s.db.WithContext(ctx).Joins("Owner").Take(&e, `lower("Owner".login) = lower(?) AND exercises.name = ?`, owner, name).Error
	if err != nil || e.OwnerID == p.ID || p.Role == Administrator {
		return e, MayChange, known(err)
	}
	var shared []string
	err = s.db.WithContext(ctx).Raw("SELECT may FROM shares WHERE exercise_id = ? AND person_id = ?", e.ID, p.ID).Scan(&shared).Error
	if err == nil && len(shared) == 0 {
		err = gorm.ErrRecordNotFound
	}
	if err != nil {
		return e, "", known(err)
	}
	return e, shared[0], nil
}

// Writing finds an exercise as it is being written, or else as its newest revision has it.
func (s *Store) Writing(ctx context.Context, e Exercise) (Writing, error) {
	var list []Writing
	if err := s.db.WithContext(ctx).Joins("Saver").Limit(1).Find(&list, "exercise_id = ?", e.ID).Error; err != nil {
		return Writing{}, known(err)
	}
	if len(list) > 0 {
		err := s.db.WithContext(ctx).Raw("SELECT coalesce(max(number), 0) FROM revisions WHERE exercise_id = ?", e.ID).Scan(&list[0].Newest).Error
		return list[0], known(err)
	}
	var r Revision
	err := s.db.WithContext(ctx).Joins("Creator").Order("number DESC").Take(&r, "exercise_id = ?", e.ID).Error
	return Writing{ExerciseID: e.ID, Files: r.Files, Title: r.Title, Topic: r.Topic, Languages: r.Languages, Base: r.Number, Newest: r.Number,
		SavedBy: r.CreatedBy, Saver: r.Creator, SavedAt: r.CreatedAt}, known(err)
}

// SaveWriting stores what an exercise has become over the version that the saver knows. Where another version stands it changes nothing
// and returns [ErrNewer].
func (s *Store) SaveWriting(ctx context.Context, w Writing) (Writing, error) {
	before := w.Version
	w.Version++
	err := s.transaction(ctx, func(tx work) error {
		if before == 0 {
			put := tx.Omit("Saver", "SavedAt").Clauses(clause.OnConflict{DoNothing: true}).Create(&w)
			if put.Error == nil && put.RowsAffected == 0 {
				return ErrNewer
			}
			return put.Error
		}
		put := tx.Model(&Writing{}).Where("exercise_id = ? AND version = ?", w.ExerciseID, before).
			Select("Files", "Title", "Topic", "Languages", "Settled", "Version", "SavedBy", "SavedAt").Updates(&w)
		if put.Error == nil && put.RowsAffected == 0 {
			return ErrNewer
		}
		return put.Error
	})
	return w, known(err)
}

// Discard forgets what was written since the newest revision; an exercise that has none goes with it.
func (s *Store) Discard(ctx context.Context, by int64, e Exercise) error {
	return known(s.transaction(ctx, func(tx work) error {
		if err := tx.Exec("DELETE FROM writings WHERE exercise_id = ?", e.ID).Error; err != nil {
			return err
		}
		var revisions int64
		if err := tx.Model(&Revision{}).Where("exercise_id = ?", e.ID).Count(&revisions).Error; err != nil || revisions > 0 {
			return err
		}
		if err := tx.Exec("DELETE FROM shares WHERE exercise_id = ?", e.ID).Error; err != nil {
			return err
		}
		if err := tx.Exec("DELETE FROM exercises WHERE id = ?", e.ID).Error; err != nil {
			return err
		}
		return tx.note(by, 0, "discard exercise", e.Name, nil, nil)
	}))
}

// Publish makes what was written the exercise's next revision. [ErrNewer] tells that it has another version by now. Classes go on
// with the revision that they work on.
func (s *Store) Publish(ctx context.Context, by int64, e Exercise, version int, r Revision) (Revision, error) {
	err := s.transaction(ctx, func(tx work) error {
		var w Writing
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Omit("Saver").Take(&w, "exercise_id = ?", e.ID).Error; err != nil {
			return err
		}
		if w.Version != version {
			return ErrNewer
		}
		var last int
		if err := tx.Raw("SELECT coalesce(max(number), 0) FROM revisions WHERE exercise_id = ?", e.ID).Scan(&last).Error; err != nil {
			return err
		}
		r.ExerciseID, r.Name, r.Number, r.CreatedBy = e.ID, e.Name, last+1, by
		if err := tx.Omit("Exercise", "Creator").Create(&r).Error; err != nil {
			return err
		}
		if err := tx.Exec("DELETE FROM writings WHERE exercise_id = ?", e.ID).Error; err != nil {
			return err
		}
		return tx.note(by, 0, "publish exercise", e.Name, nil, map[string]any{"revision": r.Number, "note": r.Note})
	})
	return r, known(err)
}

// Revisions lists an exercise's revisions, the newest first, without their folders.
func (s *Store) Revisions(ctx context.Context, e Exercise) ([]Revision, error) {
	var list []Revision
	err := s.db.WithContext(ctx).Omit("Files").Joins("Creator").Where("exercise_id = ?", e.ID).Order("number DESC").Find(&list).Error
	return list, known(err)
}

// Give lets a class work on an exercise in its newest revision: behind its others and hidden, where it is new to the class. [ErrTaken]
// tells that the class works on another exercise of that name.
func (s *Store) Give(ctx context.Context, by, class int64, e Exercise) error {
	return known(s.transaction(ctx, func(tx work) error {
		var foreign int64
		err := tx.Raw(`SELECT count(*) FROM assignments a JOIN revisions r ON r.id = a.revision_id
			WHERE a.class_id = ? AND a.exercise = ? AND r.exercise_id <> ?`, class, e.Name, e.ID).Scan(&foreign).Error
		if err != nil {
			return err
		}
		if foreign > 0 {
			return ErrTaken
		}
		put := tx.Exec(`INSERT INTO assignments (class_id, exercise, revision_id, published, position)
			SELECT @class, @name, r.id, FALSE, (SELECT coalesce(max(position), 0) + 1 FROM assignments WHERE class_id = @class)
			FROM revisions r WHERE r.exercise_id = @exercise ORDER BY r.number DESC LIMIT 1
			ON CONFLICT (class_id, exercise) DO UPDATE SET revision_id = excluded.revision_id`,
			map[string]any{"class": class, "name": e.Name, "exercise": e.ID})
		if put.Error == nil && put.RowsAffected == 0 {
			return gorm.ErrRecordNotFound
		}
		if put.Error != nil {
			return put.Error
		}
		return tx.note(by, class, "give exercise", e.Name, nil, nil)
	}))
}

// Withdraw takes an exercise away from learners in every class, or, with back, lets it be offered again. Hand-ins and marks stay.
func (s *Store) Withdraw(ctx context.Context, by int64, e Exercise, back bool) error {
	return known(s.transaction(ctx, func(tx work) error {
		action, at := "withdraw exercise", any(gorm.Expr("now()"))
		if back {
			action, at = "offer exercise again", nil
		}
		if err := tx.Model(&Exercise{}).Where("id = ?", e.ID).Update("withdrawn_at", at).Error; err != nil {
			return err
		}
		if !back {
			if err := tx.Exec(`UPDATE assignments SET published = FALSE WHERE revision_id IN (SELECT id FROM revisions WHERE exercise_id = ?)`,
				e.ID).Error; err != nil {
				return err
			}
		}
		return tx.note(by, 0, action, e.Name, nil, nil)
	}))
}

// A LibraryEntry is a line of somebody's library.
type LibraryEntry struct {
	ExerciseID  int64
	Owner       string // login
	OwnerName   string
	Name        string
	Title       string
	Topic       string
	Languages   string
	Points      exercise.Marks
	Revision    int    // the newest; 0: none
	Note        string // of the newest revision
	Strength    *int   // of the newest revision, in percent; nil: not known
	Changed     time.Time
	Writing     bool // changed since the newest revision
	May         string
	Shared      int // with so many
	WithdrawnAt *time.Time
	Classes     string // their names, by line
}

// Library lists the exercises that somebody may read by owning them or by a share, written or published; all of them where person is 0.
func (s *Store) Library(ctx context.Context, person int64) ([]LibraryEntry, error) {
	var list []LibraryEntry
	err := s.db.WithContext(ctx).Raw(`SELECT e.id AS exercise_id, o.login AS owner, o.name AS owner_name, e.name, e.withdrawn_at,
			coalesce(w.title, r.title) AS title, coalesce(w.topic, r.topic) AS topic, coalesce(w.languages, r.languages) AS languages,
			coalesce(r.points, 0) AS points, coalesce(r.number, 0) AS revision, coalesce(r.note, '') AS note, nullif(r.strength, -1) AS strength,
			coalesce(w.saved_at, r.created_at) AS changed, w.exercise_id IS NOT NULL AS writing,
			CASE WHEN @person = 0 OR e.owner_id = @person THEN 'change' ELSE (SELECT may FROM shares s WHERE s.exercise_id = e.id
				AND s.person_id = @person) END AS may,
			(SELECT count(*) FROM shares s WHERE s.exercise_id = e.id) AS shared,
			coalesce((SELECT string_agg(DISTINCT c.name, E'\n' ORDER BY c.name) FROM assignments a JOIN revisions ar ON ar.id = a.revision_id
				JOIN classes c ON c.id = a.class_id WHERE ar.exercise_id = e.id), '') AS classes
		FROM exercises e JOIN people o ON o.id = e.owner_id LEFT JOIN writings w ON w.exercise_id = e.id
		LEFT JOIN LATERAL (SELECT title, topic, languages, points, number, note, strength, created_at FROM revisions r
			WHERE r.exercise_id = e.id ORDER BY number DESC LIMIT 1) r ON TRUE
		WHERE (w.exercise_id IS NOT NULL OR r.number IS NOT NULL) AND (@person = 0 OR e.owner_id = @person
			OR EXISTS (SELECT FROM shares s WHERE s.exercise_id = e.id AND s.person_id = @person))
		ORDER BY lower(coalesce(w.title, r.title)), e.id`, map[string]any{"person": person}).Scan(&list).Error
	return list, known(err)
}
