package signal_test

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"celandine/core/signal"
)

func TestFormatClock(t *testing.T) {
	for d, want := range map[time.Duration]string{
		0: "0 s", 1: "0.000001 ms", 10 * time.Millisecond: "10 ms", 1590 * time.Millisecond: "1.59 s", time.Second: "1 s",
		4120 * time.Millisecond: "4.12 s", 59999999999: "59.999999999 s", 90 * time.Second: "1 min 30 s", time.Hour: "60 min",
		61010 * time.Millisecond: "1 min 1.01 s", -250 * time.Millisecond: "-250 ms",
		math.MinInt64: "-153722867 min 16.854775808 s", math.MaxInt64: "153722867 min 16.854775807 s",
	} {
		assert.Equal(t, want, signal.FormatClock(d), "%d", int64(d))
	}
}
