package store

import (
	"bytes"
	"compress/flate"
	"database/sql/driver"
	_ "embed"
	"fmt"
	"io"
	"sync"
)

// Packed is JSON that the database keeps small and gives back to the byte. Nil is none.
type Packed []byte

// How it is packed: the first byte. What was written once must be read for ever, so that a dictionary is never changed; another
// gets another number.
const (
	asItIs    = 0
	deflated1 = 1 // by the dictionary of packed1.txt
)

// largest bounds what is unpacked: far more than a result or its traces take.
const largest = 64 << 20

// dictionary holds what most results have in common.
//
//go:embed packed1.txt
var dictionary []byte

// packers are costly to make and are used again.
var packers = sync.Pool{New: func() any {
	const level = 3 // finds what stands in the dictionary, which the fastest does not
	w, err := flate.NewWriterDict(io.Discard, level, dictionary)
	if err != nil {
		panic(err) // the level is one that there is
	}
	return w
}}

// Value packs the JSON.
func (p Packed) Value() (driver.Value, error) {
	if p == nil {
		return nil, nil
	}
	var out bytes.Buffer
	out.WriteByte(deflated1)
	w := packers.Get().(*flate.Writer)
	defer packers.Put(w)
	w.Reset(&out)
	if _, err := w.Write(p); err != nil {
		return nil, fmt.Errorf("packing a result: %w", err)
	}
	if err := w.Close(); err != nil {
		return nil, fmt.Errorf("packing a result: %w", err)
	}
	return out.Bytes(), nil
}

// Scan unpacks the JSON.
func (p *Packed) Scan(value any) error {
	*p = nil
	text, ok := value.([]byte)
	switch {
	case value == nil:
		return nil
	case !ok || len(text) == 0:
		return fmt.Errorf("store: a result cannot be read from %T", value)
	case text[0] == asItIs:
		*p = bytes.Clone(text[1:])
		return nil
	case text[0] != deflated1:
		return fmt.Errorf("store: a result is packed in a way (%d) that this version does not know", text[0])
	}
	out, err := io.ReadAll(io.LimitReader(flate.NewReaderDict(bytes.NewReader(text[1:]), dictionary), largest))
	if err != nil {
		return fmt.Errorf("unpacking a result: %w", err)
	}
	*p = out
	return nil
}
