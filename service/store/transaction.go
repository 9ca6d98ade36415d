package store

import (
	"context"

	"gorm.io/gorm"
)

// work is a transaction under way.
type work struct{ *gorm.DB }

// transaction runs do in one transaction: all of it, or nothing.
func (s *Store) transaction(ctx context.Context, do func(work) error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error { return do(work{tx}) })
}
