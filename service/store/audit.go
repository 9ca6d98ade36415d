package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"
)

// An Entry of the audit log says who changed what that a mark may depend on.
type Entry struct {
	ID      int64
	At      time.Time
	ByID    *int64
	By      string // the person's name
	ClassID *int64
	Action  string // "override mark"
	Subject string // "hand-in 7"
	Before  Document
	After   Document
}

// note adds an entry in the transaction of the change itself.
func (w work) note(by, class int64, action, subject string, before, after any) error {
	text := func(v any) (*string, error) {
		if v == nil {
			return nil, nil
		}
		out, err := json.Marshal(v)
		s := string(out)
		return &s, err
	}
	b, err := text(before)
	if err != nil {
		return fmt.Errorf("writing the audit log: %w", err)
	}
	a, err := text(after)
	if err != nil {
		return fmt.Errorf("writing the audit log: %w", err)
	}
	return w.Exec("INSERT INTO audit (by_id, class_id, action, subject, before, after) VALUES (nullif(?, 0), nullif(?, 0), ?, ?, ?::jsonb, "+
		"?::jsonb)", by, class, action, subject, b, a).Error
}

// Audit lists a class's entries, newest first, those before an entry's number where it is not 0.
func (s *Store) Audit(ctx context.Context, class, before int64, limit int) ([]Entry, error) {
	var list []Entry
	err := s.db.WithContext(ctx).Raw(`SELECT a.id, a.at,
		a.by_id, coalesce(p.name, '') AS by, a.class_id, a.action,
		a.subject, coalesce(a.before::text, 'null') AS before, coalesce(a.after::text, 'null') AS after
		FROM audit a LEFT JOIN people p ON p.id = a.by_id WHERE a.class_id = ? AND (? = 0 OR a.id < ?)
		ORDER BY a.id DESC LIMIT ?`, class, before, before, limit).Scan(&list).Error
	return list, known(err)
}
