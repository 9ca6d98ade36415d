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

// ErrTaken tells that a name or login belongs to another already.
var ErrTaken = errors.New("taken")

// taken finds the violation of a unique index.
func taken(err error) error {
	if err != nil && strings.Contains(err.Error(), "SQLSTATE 23505") {
		return ErrTaken
	}
	return known(err)
}

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
	return c, taken(err)
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
	return taken(err)
}

// Members lists everybody of a class, instructors first.
func (s *Store) Members(ctx context.Context, class int64) ([]Person, error) {
	var list []Person
	err := s.db.WithContext(ctx).Joins("JOIN enrolments e ON e.person_id = people.id AND e.class_id = ?", class).
		Order("people.role, people.name, people.id").Find(&list).Error
	return list, known(err)
}

// A Newcomer is somebody to enrol: added where the login is new. Code, where it is not "", lets them choose a password once.
type Newcomer struct {
	Login, Name, Code string
}

// ErrOther tells that a login belongs to somebody of another name or role; nothing was stored.
type ErrOther struct{ Login, Name, Role string }

// Error names the person who has the login.
func (e ErrOther) Error() string {
	return fmt.Sprintf("the login %s belongs to %s (%s)", e.Login, e.Name, e.Role)
}

// Enrol puts learners into a class: all of them, or none. Those who are in it stay. It returns the people who are new to the class. With dry set nothing is stored.
func (s *Store) Enrol(ctx context.Context, by, class int64, list []Newcomer, codes time.Time, dry bool) (added []Person, err error) {
	rehearsed := errors.New("rehearsed")
	err = s.transaction(ctx, func(tx work) error {
		added = nil
		for _, n := range list {
			p, err := tx.newcomer(n, codes)
			if err != nil {
				return err
			}
			put := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&Enrolment{class, p.ID})
			if put.Error != nil {
				return put.Error
			}
			if put.RowsAffected > 0 {
				added = append(added, p)
			}
		}
		if dry {
			return rehearsed
		}
		if len(added) == 0 {
			return nil
		}
		var logins []string
		for _, p := range added {
			logins = append(logins, p.Login)
		}
		return tx.note(by, class, "enrol", fmt.Sprintf("%d people", len(added)), nil, logins)
	})
	if errors.Is(err, rehearsed) {
		err = nil
	}
	return added, known(err)
}

func (w work) newcomer(n Newcomer, codes time.Time) (Person, error) {
	var p Person
	err := w.Where("lower(login) = ?", strings.ToLower(n.Login)).Take(&p).Error
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		p = Person{Login: n.Login, Name: n.Name, Role: Learner}
		if err := w.Create(&p).Error; err != nil {
			return p, err
		}
	case err != nil:
		return p, err
	case p.Name != n.Name || p.Role != Learner:
		return p, ErrOther{p.Login, p.Name, p.Role}
	}
	if n.Code == "" || p.PasswordHash != "" {
		return p, nil
	}
	return p, w.joinCode(p.ID, n.Code, codes)
}

func (w work) joinCode(person int64, code string, expires time.Time) error {
	return w.Exec("INSERT INTO join_codes (person_id, hash, expires_at) VALUES (?, ?, ?) ON CONFLICT (person_id) DO UPDATE SET hash = excluded.hash, created_at = now(), expires_at = excluded.expires_at",
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

// Join takes a join code once and gives its person a password. Sign-ins from before end.
func (s *Store) Join(ctx context.Context, code, passwordHash string) (Person, error) {
	var p Person
	err := s.transaction(ctx, func(tx work) error {
		var person []int64
		if err := tx.Raw("DELETE FROM join_codes WHERE hash = ? AND expires_at > now() RETURNING person_id", secretHash(code)).Scan(&person).Error; err != nil {
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
	err := s.db.WithContext(ctx).Where("(login ILIKE ? OR name ILIKE ?) AND lower(login) > lower(?)", pattern, pattern, after).Order("lower(login)").Limit(limit).Find(&list).Error
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
	return p, taken(err)
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
