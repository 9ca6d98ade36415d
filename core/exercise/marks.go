package exercise

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Marks counts hundredths of a point, so that sums are exact.
type Marks int64

// String writes marks without needless zeros: 4, 1.5, 0.33.
func (m Marks) String() string {
	s := fmt.Sprintf("%d.%02d", m/100, m%100)
	return strings.TrimSuffix(strings.TrimRight(s, "0"), ".")
}

// MarshalJSON writes marks as a number.
func (m Marks) MarshalJSON() ([]byte, error) { return []byte(m.String()), nil }

// UnmarshalJSON reads a number with at most two decimals.
func (m *Marks) UnmarshalJSON(text []byte) error {
	parsed, err := ParseMarks(string(text))
	*m = parsed
	return err
}

// ParseMarks reads a number of points from 0 up, with at most two decimals.
func ParseMarks(text string) (Marks, error) {
	f, err := strconv.ParseFloat(text, 64)
	hundredths := math.Round(f * 100)
	if err != nil || !(f >= 0 && f <= 1e6) || math.Abs(hundredths-f*100) > 1e-6 {
		return 0, fmt.Errorf("%q is not a number of points; write 4, or 1.5, with at most two decimals", text)
	}
	return Marks(hundredths), nil
}
