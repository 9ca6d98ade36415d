package exercise

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"celandine/core/signal"
)

// MomentOf reads "scan 400", or a time as 1.5s: the first scan that starts then or later.
func MomentOf(text string, period time.Duration) (scan int, ok bool) {
	if number, counted := strings.CutPrefix(text, "scan "); counted {
		if v, err := strconv.Atoi(strings.TrimSpace(number)); err == nil && v >= 0 && v < signal.MaxScans {
			return v, true
		}
	}
	return scansIn(text, period)
}

// LengthOf reads "3 scans", or a time, rounded up to whole scans.
func LengthOf(text string, period time.Duration) (scans int, ok bool) {
	if number, counted := strings.CutSuffix(strings.TrimSuffix(text, "s"), " scan"); counted {
		if v, err := strconv.Atoi(strings.TrimSpace(number)); err == nil && v >= 0 && v <= signal.MaxScans {
			return v, true
		}
	}
	return scansIn(text, period)
}

func scansIn(text string, period time.Duration) (int, bool) {
	d, err := signal.ParseTime(text)
	if err != nil || d < 0 || d > MaxFor {
		return 0, false
	}
	return int((d + period - 1) / period), true
}

// Moment writes a scan as an exercise does: 1.5s, or, where its time is no whole number of milliseconds, or what stood there before
// counts scans, scan 150.
func Moment(scan int, period time.Duration, before string) string {
	if text, ok := inTime(scan, period); ok && !strings.HasPrefix(before, "scan ") {
		return text
	}
	return fmt.Sprintf("scan %d", scan)
}

// Length writes a number of scans in the same way: 200ms, or 20 scans.
func Length(scans int, period time.Duration, before string) string {
	text, ok := inTime(scans, period)
	switch {
	case ok && scans > 1 && !strings.Contains(before, " scan"):
		return text
	case scans == 1:
		return "1 scan"
	}
	return fmt.Sprintf("%d scans", scans)
}

func inTime(scans int, period time.Duration) (string, bool) {
	d := time.Duration(scans) * period
	switch {
	case d%time.Millisecond != 0:
		return "", false
	case d > 0 && d < time.Second:
		return fmt.Sprintf("%dms", d/time.Millisecond), true
	}
	return strconv.FormatFloat(d.Seconds(), 'f', -1, 64) + "s", true
}
