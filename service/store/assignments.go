package store

import (
	"context"
	"reflect"
	"time"

	"gorm.io/gorm/clause"
	"gorm.io/gorm/schema"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/service/rules"
)

// Rules are the assignment's terms in its class's time zone.
func (a Assignment) Rules(zone *time.Location) rules.Terms {
	return rules.Terms{Terms: a.Terms, Zone: zone}
}

// terms are the fields of the terms, and their columns, in one order.
var terms = func() (list struct{ fields, columns []string }) {
	naming := schema.NamingStrategy{}
	for _, f := range reflect.VisibleFields(reflect.TypeFor[client.Terms]()) {
		column := schema.ParseTagSetting(f.Tag.Get("gorm"), ";")["COLUMN"]
		if column == "" {
			column = naming.ColumnName("", f.Name)
		}
		list.fields, list.columns = append(list.fields, f.Name), append(list.columns, column)
	}
	return list
}()

// maybeTerms takes the columns of terms from a row in which there may be none: they are NULL then.
type maybeTerms []reflect.Value

func newMaybeTerms() (m maybeTerms) {
	for _, f := range reflect.VisibleFields(reflect.TypeFor[client.Terms]()) {
		m = append(m, reflect.New(reflect.PointerTo(f.Type)))
	}
	return m
}

// targets are where the columns are scanned to.
func (m maybeTerms) targets() (list []any) {
	for _, v := range m {
		list = append(list, v.Interface())
	}
	return list
}

func (m maybeTerms) terms() (t client.Terms) {
	for i, f := range reflect.VisibleFields(reflect.TypeFor[client.Terms]()) {
		if v := m[i].Elem(); !v.IsNil() {
			reflect.ValueOf(&t).Elem().FieldByIndex(f.Index).Set(v.Elem())
		}
	}
	return t
}

// ChangeAssignment changes an assignment's terms. Marks follow at once, since lateness is counted when they are read.
func (s *Store) ChangeAssignment(ctx context.Context, by int64, a Assignment) error {
	return known(s.transaction(ctx, func(tx work) error {
		var before Assignment
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Take(&before, a.ID).Error; err != nil {
			return err
		}
		if err := tx.Model(&Assignment{ID: a.ID}).Select(terms.fields).Updates(&a).Error; err != nil {
			return err
		}
		return tx.note(by, a.ClassID, "change assignment", a.Exercise, before.Terms, a.Terms)
	}))
}

// AnyAssignment finds a class's exercise by name, hidden ones too.
func (s *Store) AnyAssignment(ctx context.Context, class int64, name string) (Assignment, error) {
	var a Assignment
	err := s.brief(ctx).Where("class_id = ? AND exercise = ?", class, name).Take(&a).Error
	return a, known(err)
}

// AllAssignments lists a class's exercises in their order, hidden ones too.
func (s *Store) AllAssignments(ctx context.Context, class int64) ([]Assignment, error) {
	var list []Assignment
	err := s.brief(ctx).Where("class_id = ?", class).Order("position, assignments.id").Find(&list).Error
	return list, known(err)
}

// Begin notes that a person opens a timed exercise; opening it again changes nothing. It returns when it was.
func (s *Store) Begin(ctx context.Context, assignment, person int64) (time.Time, error) {
	var at time.Time
	err := s.db.WithContext(ctx).Raw(`INSERT INTO starts AS s (assignment_id, person_id) VALUES (?, ?) ON CONFLICT (assignment_id, person_id)
		DO UPDATE SET started_at = s.started_at RETURNING started_at`, assignment, person).Scan(&at).Error
	return at, known(err)
}

// An Attempt is a hand-in as far as marks need it.
type Attempt struct {
	AssignmentID int64
	PersonID     int64
	HandinID     int64
	Number       int
	CreatedAt    time.Time
	Earned       *exercise.Marks // graded; nil while it waits
	Override     *exercise.Marks // given by hand
	Handins      int             // of the person to the assignment, in all
}

// Which of a person's hand-ins stands, where lateness takes nothing off: the greatest of these, which end in its number in the
// service. It is the first of the best, or the last that has a mark.
var stands = map[string]string{
	"best": "ARRAY[coalesce(o.earned, h.earned, -1), -h.number, h.id]",
	"last": "ARRAY[CASE WHEN coalesce(o.earned, h.earned) IS NULL THEN 0 ELSE 1 END, h.number, h.id]",
}

// Attempts lists, in the order of handing in, those of a class's hand-ins that may stand for their persons' marks: where
// lateness takes marks off, all of them; else one of each person to each assignment. It is one person's, or everybody's where
// person is 0; to one assignment, or to all where it is 0.
func (s *Store) Attempts(ctx context.Context, class Class, person, assignment int64) ([]Attempt, error) {
	order, ok := stands[class.Counts]
	if !ok {
		order = stands["best"]
	}
	var list []Attempt
	// What stands, and its tally, is looked at one by one: there are few, and PostgreSQL would read all that there are.
	err := s.db.WithContext(ctx).Raw(`SELECT h.assignment_id,
		h.person_id, h.id AS handin_id, h.number, h.created_at, h.earned, o.earned AS override, coalesce(t.handins, h.number) AS handins FROM (
			SELECT max(`+order+`) AS top FROM assignments a JOIN handins h ON h.assignment_id = a.id LEFT JOIN overrides o ON o.handin_id = h.id
			WHERE a.class_id = ? AND (? = 0 OR h.person_id = ?) AND (? = 0 OR h.assignment_id = ?)
			GROUP BY h.assignment_id, h.person_id, CASE WHEN a.late = 'percent' THEN h.number ELSE 0 END) b
		JOIN LATERAL (SELECT * FROM handins h WHERE h.id = b.top[3] OFFSET 0) h ON TRUE LEFT JOIN overrides o ON o.handin_id = h.id
		LEFT JOIN LATERAL (SELECT handins FROM tallies t WHERE t.assignment_id = h.assignment_id AND t.person_id = h.person_id OFFSET 0) t ON TRUE
		ORDER BY h.assignment_id, h.person_id, h.number`, class.ID, person, person, assignment, assignment).Scan(&list).Error
	return list, known(err)
}

// Starts tells, by assignment of a class, when a person opened the timed ones.
func (s *Store) Starts(ctx context.Context, class, person int64) (map[int64]*time.Time, error) {
	var list []struct {
		AssignmentID int64
		StartedAt    time.Time
	}
	err := s.db.WithContext(ctx).Raw("SELECT s.assignment_id, s.started_at FROM starts s JOIN assignments a ON a.id = s.assignment_id "+
		"WHERE a.class_id = ? AND s.person_id = ?", class, person).Scan(&list).Error
	out := map[int64]*time.Time{}
	for _, s := range list {
		out[s.AssignmentID] = &s.StartedAt
	}
	return out, known(err)
}

// RevisionOf finds a revision of an exercise by its number.
func (s *Store) RevisionOf(ctx context.Context, exercise int64, number int) (Revision, error) {
	var r Revision
	return r, known(s.db.WithContext(ctx).Take(&r, "exercise_id = ? AND number = ?", exercise, number).Error)
}
