package store

import (
	"database/sql/driver"
	"fmt"
)

// A Document is JSON that the database keeps as it is.
type Document []byte

// Value writes the JSON.
func (d Document) Value() (driver.Value, error) { return string(d), nil }

// Scan reads the JSON.
func (d *Document) Scan(value any) error {
	switch text := value.(type) {
	case []byte:
		*d = append(Document(nil), text...)
	case string:
		*d = Document(text)
	default:
		return fmt.Errorf("store: a document cannot be read from %T", value)
	}
	return nil
}
