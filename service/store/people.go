package store

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm/clause"
)

// The roles.
const (
	Administrator = "administrator"
	Instructor    = "instructor"
	Learner       = "learner"
)

// A Person signs in.
type Person struct {
	ID           int64
	Login        string
	Name         string
	Role         string
	PasswordHash string    // "": nobody can sign in with a password yet
	CreatedAt    time.Time `gorm:"autoCreateTime"`
	DisabledAt   *time.Time
}

// TableName is the table of people.
func (Person) TableName() string { return "people" }

// A Class is people who work on the same exercises.
type Class struct {
	ID        int64
	Name      string
	CreatedAt time.Time `gorm:"autoCreateTime"`
	TimeZone  string    `gorm:"default:UTC"`
	Counts    string    `gorm:"default:best"` // which hand-in's mark stands: best, last
}

// Zone is the class's time zone.
func (c Class) Zone() *time.Location {
	zone, err := time.LoadLocation(c.TimeZone)
	if err != nil {
		return time.UTC // a zone is looked up before it is stored
	}
	return zone
}

// An Enrolment puts a person into a class.
type Enrolment struct {
	ClassID  int64
	PersonID int64
}

// PersonByLogin finds a person, in any case of letters.
func (s *Store) PersonByLogin(ctx context.Context, login string) (Person, error) {
	var p Person
	err := s.db.WithContext(ctx).Where("lower(login) = ?", strings.ToLower(login)).Take(&p).Error
	return p, known(err)
}

// Person finds a person by number.
func (s *Store) Person(ctx context.Context, id int64) (Person, error) {
	var p Person
	return p, known(s.db.WithContext(ctx).Take(&p, id).Error)
}

// SavePerson adds a person, or changes the name, role and password of the one
// with that login.
func (s *Store) SavePerson(ctx context.Context, p Person) (Person, error) {
	old, err := s.PersonByLogin(ctx, p.Login)
	if err == nil {
		p.ID, p.CreatedAt = old.ID, old.CreatedAt
	} else if err != ErrNotFound {
		return Person{}, err
	}
	return p, known(s.db.WithContext(ctx).Save(&p).Error)
}

// SaveClass finds or adds a class by its name and enrols people in it.
func (s *Store) SaveClass(ctx context.Context, class Class, people ...Person) (Class, error) {
	db := s.db.WithContext(ctx)
	if err := db.Where("name = ?", class.Name).FirstOrCreate(&class).Error; err != nil {
		return Class{}, known(err)
	}
	for _, p := range people {
		err := db.Clauses(clause.OnConflict{DoNothing: true}).Create(&Enrolment{class.ID, p.ID}).Error
		if err != nil {
			return Class{}, known(err)
		}
	}
	return class, nil
}

// Classes lists the classes that a person belongs to, oldest first; all of them where person is 0.
func (s *Store) Classes(ctx context.Context, person int64) ([]Class, error) {
	q := s.db.WithContext(ctx).Order("classes.id")
	if person != 0 {
		q = q.Joins("JOIN enrolments e ON e.class_id = classes.id AND e.person_id = ?", person)
	}
	var list []Class
	return list, known(q.Find(&list).Error)
}

// Class finds a class by number.
func (s *Store) Class(ctx context.Context, id int64) (Class, error) {
	var c Class
	return c, known(s.db.WithContext(ctx).Take(&c, id).Error)
}

// Enrolled tells whether a person belongs to a class.
func (s *Store) Enrolled(ctx context.Context, class, person int64) (bool, error) {
	var n int64
	err := s.db.WithContext(ctx).Model(&Enrolment{}).Where("class_id = ? AND person_id = ?", class, person).Count(&n).Error
	return n > 0, known(err)
}

// ClassOf finds a class that a person belongs to.
func (s *Store) ClassOf(ctx context.Context, class, person int64) (Class, error) {
	var c Class
	return c, known(s.db.WithContext(ctx).Joins("JOIN enrolments e ON e.class_id = classes.id AND e.person_id = ?", person).Take(&c,
		class).Error)
}

// Learners lists the learners of a class by name.
func (s *Store) Learners(ctx context.Context, class int64) ([]Person, error) {
	var list []Person
	err := s.db.WithContext(ctx).Joins("JOIN enrolments e ON e.person_id = people.id AND e.class_id = ?", class).
		Where("role = ?", Learner).Order("people.name, people.id").Find(&list).Error
	return list, known(err)
}
