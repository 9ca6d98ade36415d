package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// A Look is what a closer look at a graded hand-in found.
type Look struct {
	HandinID   int64 `gorm:"primaryKey"`
	RevisionID int64 // of the result that it is about
	Mistake    string
	Title      string
	Words      string
	Says       string
	Hint       string
	Verdict    string
	Found      []byte `gorm:"type:jsonb"`
	LookedAt   time.Time
}

// NextToLook takes a graded hand-in that nobody has looked at closer, the newest first, and keeps it from others for a while. ok is false
// where there is none.
func (s *Store) NextToLook(ctx context.Context, during time.Duration) (h Handin, ok bool, err error) {
	var ids []int64
	err = s.db.WithContext(ctx).Raw(`UPDATE unlooked SET taken_until = now() + make_interval(secs => ?) WHERE handin_id = (
		SELECT handin_id FROM unlooked WHERE taken_until < now() ORDER BY handin_id DESC LIMIT 1 FOR UPDATE SKIP LOCKED) RETURNING handin_id`,
		during.Seconds()).Scan(&ids).Error
	if err != nil || len(ids) == 0 {
		return h, false, known(err)
	}
	err = s.db.WithContext(ctx).Joins("Assignment").Preload("Result").Take(&h, "handins.id = ?", ids[0]).Error
	return h, err == nil && h.Result != nil, known(err)
}

// NextToStrengthen takes a revision, the newest of its exercise, whose strength nobody has found out; 0 where there is none.
func (s *Store) NextToStrengthen(ctx context.Context) (revision int64, err error) {
	err = s.db.WithContext(ctx).Raw(`UPDATE revisions SET strength = -1 WHERE id = (SELECT r.id FROM revisions r WHERE r.strength IS NULL
		AND NOT EXISTS (SELECT FROM revisions n WHERE n.exercise_id = r.exercise_id AND n.number > r.number)
		ORDER BY r.id DESC LIMIT 1 FOR UPDATE SKIP LOCKED) RETURNING id`).Scan(&revision).Error
	return revision, known(err)
}

// SaveStrength stores how strong a revision's scenarios are, in percent; nil: it is still to be found out.
func (s *Store) SaveStrength(ctx context.Context, revision int64, percent *int) error {
	return known(s.db.WithContext(ctx).Exec("UPDATE revisions SET strength = ? WHERE id = ?", percent, revision).Error)
}

// SaveLook stores what a closer look found; the hand-in waits no more.
func (s *Store) SaveLook(ctx context.Context, l Look) error {
	return known(s.transaction(ctx, func(tx work) error {
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&l).Error; err != nil {
			return err
		}
		return tx.Exec("DELETE FROM unlooked WHERE handin_id = ?", l.HandinID).Error
	}))
}

// LookAt finds what a closer look at a hand-in found; nil while there was none.
func (s *Store) LookAt(ctx context.Context, handin int64) (*Look, error) {
	var list []Look
	if err := s.db.WithContext(ctx).Where("handin_id = ?", handin).Limit(1).Find(&list).Error; err != nil || len(list) == 0 {
		return nil, known(err)
	}
	return &list[0], nil
}

// A Slip is a hand-in to an assignment that behaves like a known mistake, or the next of the same person that does not.
type Slip struct {
	HandinID int64
	PersonID int64
	Number   int
	Mistake  string
	Title    string
	Words    string
	Says     string
	Hint     string
}

// Slips lists the hand-ins to an assignment that were looked at, person by person in the order in which they came.
func (s *Store) Slips(ctx context.Context, assignment int64) (list []Slip, err error) {
	err = s.db.WithContext(ctx).Raw(`SELECT h.id AS handin_id, h.person_id, h.number, l.mistake, l.title, l.words, l.says, l.hint
		FROM handins h JOIN looks l ON l.handin_id = h.id WHERE h.assignment_id = ? ORDER BY h.person_id, h.number`, assignment).Scan(&list).Error
	return list, known(err)
}

// Unlooked counts an assignment's hand-ins that wait for a closer look.
func (s *Store) Unlooked(ctx context.Context, assignment int64) (n int, err error) {
	err = s.db.WithContext(ctx).Raw(`SELECT count(*) FROM unlooked u JOIN handins h ON h.id = u.handin_id WHERE h.assignment_id = ?`,
		assignment).Scan(&n).Error
	return n, known(err)
}

// EverMade counts, of each known mistake of an exercise, the people who have ever handed it in, in any class and to any revision.
func (s *Store) EverMade(ctx context.Context, exercise int64) (map[string]int, error) {
	var list []struct {
		Mistake string
		People  int
	}
	err := s.db.WithContext(ctx).Raw(`SELECT l.mistake, count(DISTINCT h.person_id) AS people FROM looks l JOIN handins h ON h.id = l.handin_id
		JOIN revisions r ON r.id = l.revision_id JOIN people p ON p.id = h.person_id
		WHERE r.exercise_id = ? AND l.mistake <> '' AND p.role = ? GROUP BY l.mistake`, exercise, Learner).Scan(&list).Error
	made := map[string]int{}
	for _, one := range list {
		made[one.Mistake] = one.People
	}
	return made, known(err)
}
