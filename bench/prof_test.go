package main

import (
	"testing"
	"time"
)

func BenchmarkScan(b *testing.B) {
	code := compile(elevenRungs)
	m := code.Start(10 * time.Millisecond)
	off, _ := code.Slot("off")
	m.Write(off, 1)
	for b.Loop() {
		m.Scan()
	}
}
