package store

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// AddClass makes a class with its first instructor.
func (s *Store) AddClass(ctx context.Context, by int64, c Class) (Class, error) {
	err := s.transaction(ctx, func(tx work) error {
		if err := tx.Create(&c).Error; err != nil {
			return err
		}
		if err := tx.Create(&Enrolment{c.ID, by}).Error; err != nil {
			return err
		}
		return tx.note(by, c.ID, "make class", c.Name, nil, classFacts(c))
	})
	return c, known(err)
}

func classFacts(c Class) map[string]string {
	return map[string]string{"name": c.Name, "timeZone": c.TimeZone, "counts": c.Counts}
}

// ChangeClass changes a class's name, time zone and rule.
func (s *Store) ChangeClass(ctx context.Context, by int64, c Class) error {
	err := s.transaction(ctx, func(tx work) error {
		var before Class
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Take(&before, c.ID).Error; err != nil {
			return err
		}
		if err := tx.Model(&c).Select("Name", "TimeZone", "Counts").Updates(&c).Error; err != nil {
			return err
		}
		return tx.note(by, c.ID, "change class", c.Name, classFacts(before), classFacts(c))
	})
	return known(err)
}

// Members lists everybody of a class, instructors first.
func (s *Store) Members(ctx context.Context, class int64) ([]Person, error) {
	var list []Person
	err := s.db.WithContext(ctx).Joins("JOIN enrolments e ON e.person_id = people.id AND e.class_id = ?", class).
		Order("people.role, people.name, people.id").Find(&list).Error
	return list, known(err)
}

// A Newcomer is somebody to enrol: added where the login is new. Code lets them choose a password once.
type Newcomer struct {
	Login, Name, Code string
}

// Enrolled is what became of a [Newcomer].
type Enrolled struct {
	Person
	Fresh bool // new to the class
	Coded bool // the code is theirs
}

// ErrOther tells that a login belongs to somebody of another name or role; nothing was stored.
type ErrOther struct{ Login string }

// Error says no more than that: who has the login may be nobody of the class.
func (e ErrOther) Error() string { return fmt.Sprintf("somebody else has the login %s", e.Login) }

// Enrol puts learners into a class: all of them, or none. Those who are in it stay. A newcomer's code becomes theirs where they
// have neither a password nor a code that still holds, and no other class than those that by teaches: with a code one acts for
// its person. [ErrOther] tells of a login that is another's.
func (s *Store) Enrol(ctx context.Context, by, class int64, list []Newcomer, codes time.Time) (out []Enrolled, err error) {
	err = s.transaction(ctx, func(tx work) error {
		out = nil
		var added []string
		for _, n := range list {
			e, err := tx.enrol(by, class, n, codes)
			if err != nil {
				return err
			}
			if out = append(out, e); e.Fresh {
				added = append(added, e.Login)
			}
		}
		if len(added) == 0 {
			return nil
		}
		return tx.note(by, class, "enrol", fmt.Sprintf("%d people", len(added)), nil, added)
	})
	return out, known(err)
}

func (w work) enrol(by, class int64, n Newcomer, codes time.Time) (out Enrolled, err error) {
	err = w.Where("lower(login) = ?", strings.ToLower(n.Login)).Take(&out.Person).Error
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		out.Person = Person{Login: n.Login, Name: n.Name, Role: Learner}
		if err := w.Create(&out.Person).Error; err != nil {
			return out, err
		}
	case err != nil:
		return out, err
	case out.Name != n.Name || out.Role != Learner:
		return out, ErrOther{n.Login}
	}
	put := w.Clauses(clause.OnConflict{DoNothing: true}).Create(&Enrolment{class, out.ID})
	if put.Error != nil {
		return out, put.Error
	}
	out.Fresh = put.RowsAffected > 0
	if out.PasswordHash != "" {
		return out, nil
	}
	if sole, err := w.teachesAll(by, out.ID); err != nil || !sole {
		return out, err
	}
	given := w.Exec(`INSERT INTO join_codes AS j (person_id, hash, expires_at) VALUES (?, ?, ?) ON CONFLICT (person_id)
		DO UPDATE SET hash = excluded.hash, created_at = now(), expires_at = excluded.expires_at
		WHERE j.expires_at < now()`, out.ID, secretHash(n.Code), codes)
	out.Coded = given.RowsAffected > 0
	return out, given.Error
}

// teachesAll tells whether somebody teaches every class that a person is in.
func (w work) teachesAll(by, person int64) (bool, error) {
	var foreign int64
	err := w.Raw(`SELECT count(*) FROM enrolments e WHERE e.person_id = @person AND NOT EXISTS (
		SELECT FROM enrolments t JOIN people p ON p.id = t.person_id WHERE t.class_id = e.class_id AND t.person_id = @by
		AND p.role IN ('instructor', 'administrator'))`,
		map[string]any{"person": person, "by": by}).Scan(&foreign).Error
	return foreign == 0, err
}

// TeachesAll tells whether somebody teaches every class that a person is in.
func (s *Store) TeachesAll(ctx context.Context, by, person int64) (bool, error) {
	ok, err := work{s.db.WithContext(ctx)}.teachesAll(by, person)
	return ok, known(err)
}

// Classmates finds, among logins, the people of a class and of others that somebody teaches.
func (s *Store) Classmates(ctx context.Context, by int64, logins []string) ([]Person, error) {
	var list []Person
	err := s.db.WithContext(ctx).Where(`lower(login) IN ? AND EXISTS (SELECT FROM enrolments e JOIN enrolments t ON t.class_id = e.class_id
		AND t.person_id = ? WHERE e.person_id = people.id)`, logins, by).Find(&list).Error
	return list, known(err)
}

func (w work) joinCode(person int64, code string, expires time.Time) error {
	return w.Exec("INSERT INTO join_codes (person_id, hash, expires_at) VALUES (?, ?, ?) ON CONFLICT (person_id) DO UPDATE SET hash = "+
		"excluded.hash, created_at = now(), expires_at = excluded.expires_at",
		person, secretHash(code), expires).Error
}

// IssueCode gives a person a new join code in place of any before. Their password goes on working until the code is used.
func (s *Store) IssueCode(ctx context.Context, by, class int64, p Person, code string, expires time.Time) error {
	return known(s.transaction(ctx, func(tx work) error {
		if err := tx.joinCode(p.ID, code, expires); err != nil {
			return err
		}
		return tx.note(by, class, "issue join code", p.Login, nil, nil)
	}))
}

// Joinable tells, by [ErrNotFound], of a join code that is not known or holds no more.
func (s *Store) Joinable(ctx context.Context, code string) error {
	var n int64
	err := s.db.WithContext(ctx).Raw("SELECT count(*) FROM join_codes WHERE hash = ? AND expires_at > now()", secretHash(code)).Scan(&n).Error
	if err == nil && n == 0 {
		err = ErrNotFound
	}
	return known(err)
}

// Join takes a join code once and gives its person a password. Sign-ins from before end.
func (s *Store) Join(ctx context.Context, code, passwordHash string) (Person, error) {
	var p Person
	err := s.transaction(ctx, func(tx work) error {
		var person []int64
		if err := tx.Raw("DELETE FROM join_codes WHERE hash = ? AND expires_at > now() RETURNING person_id",
			secretHash(code)).Scan(&person).Error; err != nil {
			return err
		}
		if len(person) == 0 {
			return gorm.ErrRecordNotFound
		}
		if err := tx.Where("disabled_at IS NULL").Take(&p, person[0]).Error; err != nil {
			return err
		}
		p.PasswordHash = passwordHash
		if err := tx.Model(&p).Update("password_hash", passwordHash).Error; err != nil {
			return err
		}
		if err := tx.endSignIns(p.ID); err != nil {
			return err
		}
		return tx.note(p.ID, 0, "choose password", p.Login, nil, nil)
	})
	return p, known(err)
}

// AddMember enrols somebody who has a login: an instructor who shares the class, or a learner.
func (s *Store) AddMember(ctx context.Context, by, class int64, p Person) error {
	return known(s.transaction(ctx, func(tx work) error {
		put := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&Enrolment{class, p.ID})
		if put.Error != nil || put.RowsAffected == 0 {
			return put.Error
		}
		return tx.note(by, class, "enrol", p.Login, nil, p.Role)
	}))
}

// RemoveMember takes somebody out of a class; hand-ins and marks stay.
func (s *Store) RemoveMember(ctx context.Context, by, class int64, p Person) error {
	return known(s.transaction(ctx, func(tx work) error {
		out := tx.Where("class_id = ? AND person_id = ?", class, p.ID).Delete(&Enrolment{})
		if out.Error != nil {
			return out.Error
		}
		if out.RowsAffected == 0 {
			return gorm.ErrRecordNotFound
		}
		return tx.note(by, class, "take out of class", p.Login, p.Role, nil)
	}))
}

// People lists everybody whose login or name contains some letters, by login, after one login.
func (s *Store) People(ctx context.Context, with, after string, limit int) ([]Person, error) {
	pattern := "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(with) + "%"
	var list []Person
	err := s.db.WithContext(ctx).Where("(login ILIKE ? OR name ILIKE ?) AND lower(login) > lower(?)", pattern, pattern,
		after).Order("lower(login)").Limit(limit).Find(&list).Error
	return list, known(err)
}

// AddPerson adds somebody with a join code.
func (s *Store) AddPerson(ctx context.Context, by int64, p Person, code string, expires time.Time) (Person, error) {
	err := s.transaction(ctx, func(tx work) error {
		if err := tx.Create(&p).Error; err != nil {
			return err
		}
		if err := tx.joinCode(p.ID, code, expires); err != nil {
			return err
		}
		return tx.note(by, 0, "add person", p.Login, nil, p.Role)
	})
	return p, known(err)
}

// Disable ends or restores a person's sign-in. Their sign-ins end for good.
func (s *Store) Disable(ctx context.Context, by int64, p Person, disabled bool) error {
	return known(s.transaction(ctx, func(tx work) error {
		at := gorm.Expr("NULL")
		if disabled {
			at = gorm.Expr("now()")
			if err := tx.endSignIns(p.ID); err != nil {
				return err
			}
		}
		if err := tx.Model(&p).Update("disabled_at", at).Error; err != nil {
			return err
		}
		return tx.note(by, 0, map[bool]string{true: "disable", false: "enable"}[disabled], p.Login, nil, nil)
	}))
}
