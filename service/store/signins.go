package store

import (
	"context"
	"crypto/sha256"
	"time"
)

// The kinds of sign-ins.
const (
	Session = "session" // a browser's
	Token   = "token"   // a program's
)

// The scopes of sign-ins, each with all of the one before.
const (
	ScopeRead   = "read"
	ScopeHandIn = "hand-in"
	ScopeAll    = "all"
)

// A SignIn lets whoever holds its secret act for a person until it ends or expires. Only the secret's hash is kept.
type SignIn struct {
	ID        int64 `gorm:"->"` // given by the database
	Hash      []byte
	PersonID  int64
	Person    Person
	Kind      string
	Name      string // what its person knows it by
	Scope     string
	CreatedAt time.Time `gorm:"autoCreateTime"`
	ExpiresAt time.Time
	UsedAt    *time.Time // to about a minute
}

// TableName is the table of sign-ins.
func (SignIn) TableName() string { return "tokens" }

// usedWithin is how exactly the last use of a sign-in is kept: each use would be a write.
const usedWithin = time.Minute

// BeginSignIn keeps a sign-in by its secret.
func (s *Store) BeginSignIn(ctx context.Context, secret string, in SignIn) error {
	in.Hash = secretHash(secret)
	return known(s.db.WithContext(ctx).Omit("Person").Create(&in).Error)
}

// SignIns lists a person's sign-ins that have not expired, the newest first.
func (s *Store) SignIns(ctx context.Context, person int64) ([]SignIn, error) {
	var list []SignIn
	return list, known(s.db.WithContext(ctx).Where("person_id = ? AND expires_at > now()", person).Order("id DESC").Find(&list).Error)
}

// EndSignIn ends one sign-in of a person.
func (s *Store) EndSignIn(ctx context.Context, person, id int64) error {
	out := s.db.WithContext(ctx).Exec("DELETE FROM tokens WHERE person_id = ? AND id = ?", person, id)
	if out.Error == nil && out.RowsAffected == 0 {
		return ErrNotFound
	}
	return known(out.Error)
}

// EndSecret ends the sign-in of a secret, if there still is one.
func (s *Store) EndSecret(ctx context.Context, secret string) error {
	return known(s.db.WithContext(ctx).Exec("DELETE FROM tokens WHERE hash = ?", secretHash(secret)).Error)
}

// endSignIns ends everything that acts for a person.
func (w work) endSignIns(person int64) error {
	return w.Exec("DELETE FROM tokens WHERE person_id = ?", person).Error
}

// ForgetSignIns forgets those that have expired.
func (s *Store) ForgetSignIns(ctx context.Context) error {
	return known(s.db.WithContext(ctx).Exec("DELETE FROM tokens WHERE expires_at < now()").Error)
}

// secretHash is what is kept of a sign-in's secret or a join code: both are too long to be guessed.
func secretHash(secret string) []byte {
	h := sha256.Sum256([]byte(secret))
	return h[:]
}
