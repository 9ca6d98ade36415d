//go:build !editor

package source

import (
	"encoding/json"
	"strings"
)

// MarshalJSON writes it with its place.
func (d Diagnostic) MarshalJSON() ([]byte, error) { return json.Marshal(d.Placed()) }

// UnmarshalJSON reads what MarshalJSON writes; of the place only the file's
// name stays, with the line and column in it.
func (d *Diagnostic) UnmarshalJSON(text []byte) error {
	var p struct {
		Code     Code
		Severity Severity
		File     string
		Line     int
		Column   int
		Message  string
		Hint     string
	}
	if err := json.Unmarshal(text, &p); err != nil {
		return err
	}
	// A file of empty lines and columns in which the place is the same.
	blank := strings.Repeat("\n", max(p.Line-1, 0)) + strings.Repeat(" ", max(p.Column-1, 0))
	*d = Diagnostic{Code: p.Code, Severity: p.Severity, Message: p.Message, Hint: p.Hint}
	d.Span = Span{File: NewFile(p.File, blank), Start: len(blank), End: len(blank)}
	return nil
}
