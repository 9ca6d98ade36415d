package signal

import (
	"slices"
	"sort"
)

// A repeat is a stretch of a column that comes again and again, so that what is kept follows what is new, not how long it went on: the
// segments from the first on, count of them, once more every period scans, and each time higher by growth.
type repeat struct {
	first, count  int
	period, times int // scans; how often it comes again
	growth        int64
}

// Repeat tells that what was recorded from one scan up to the present end comes again so many times, each time higher by growth. The
// next value appended is that of the scan behind them.
func (c *Column) Repeat(from, to, times int, growth int64) {
	last := c.last()
	if last.Scan <= from && last.Slope*int64(to-from) == growth {
		return // it goes straight on
	}
	c.unfold(from)
	first := c.cut(from)
	c.repeats = append(c.repeats, repeat{first, len(c.segments) - first, to - from, times, growth})
}

// end is the scan behind the last time that it comes.
func (r *repeat) end(segments []Segment) int { return segments[r.first].Scan + (r.times+1)*r.period }

// unfold writes out what comes again behind a scan, since repeats do not lie in one another.
func (c *Column) unfold(from int) {
	n := sort.Search(len(c.repeats), func(n int) bool { return c.repeats[n].end(c.segments) > from })
	if n < len(c.repeats) {
		c.segments, c.repeats = c.unfolded(n), c.repeats[:n]
	}
}

// unfolded lists the segments with the repeats from the n-th on written out.
func (c *Column) unfolded(n int) (out []Segment) {
	done := 0
	for _, r := range c.repeats[n:] {
		behind := r.first + r.count
		out = append(out, c.segments[done:behind]...)
		for times := 1; times <= r.times; times++ {
			for _, s := range c.segments[r.first:behind] {
				out = append(out, s.moved(times*r.period, int64(times)*r.growth))
			}
		}
		done = behind
	}
	return append(out, c.segments[done:]...)
}

// Same reports whether two columns were recorded alike: then their values are the same.
func (c *Column) Same(o *Column) bool {
	return c.Kind == o.Kind && c.Named == o.Named && slices.Equal(c.segments, o.segments) && slices.Equal(c.repeats, o.repeats) &&
		slices.Equal(c.Texts, o.Texts)
}

// End tells that nothing was recorded from a scan on.
func (c *Column) End(scan int) { c.end = scan }

// Empty reports a column of which nothing was recorded.
func (c *Column) Empty() bool { return len(c.segments) == 0 }

// cut makes a segment begin at a scan, which no repeat covers, and returns its place.
func (c *Column) cut(scan int) int {
	i := c.begun(scan)
	if i >= 0 && c.segments[i].Scan == scan {
		return i
	}
	s := Segment{scan, c.At(scan), c.segments[i].Slope}
	c.segments = append(c.segments, Segment{})
	copy(c.segments[i+2:], c.segments[i+1:])
	c.segments[i+1] = s
	return i + 1
}

// begun is the place of the last segment that begins at a scan or before, or -1.
func (c *Column) begun(scan int) int {
	return sort.Search(len(c.segments), func(i int) bool { return c.segments[i].Scan > scan }) - 1
}

// last is the last segment, where it stands the last time that it comes.
func (c *Column) last() Segment {
	s := c.segments[len(c.segments)-1]
	if n := len(c.repeats); n > 0 && c.repeats[n-1].first+c.repeats[n-1].count == len(c.segments) {
		r := &c.repeats[n-1]
		return s.moved(r.times*r.period, int64(r.times)*r.growth)
	}
	return s
}

func (s Segment) moved(scans int, on int64) Segment {
	return Segment{s.Scan + scans, s.Value + on, s.Slope}
}

// At returns the value at a scan.
func (c *Column) At(scan int) int64 {
	i := c.begun(scan)
	if i < 0 {
		return 0
	}
	n := sort.Search(len(c.repeats), func(n int) bool { return c.repeats[n].first > i }) - 1
	if n < 0 || i >= c.repeats[n].first+c.repeats[n].count {
		return c.segments[i].at(scan)
	}
	r := &c.repeats[n]
	begin := c.segments[r.first].Scan
	times := min((scan-begin)/r.period, r.times)
	scan -= times * r.period
	within := c.segments[r.first : r.first+r.count]
	at := sort.Search(len(within), func(i int) bool { return within[i].Scan > scan }) - 1
	return within[at].at(scan) + int64(times)*r.growth
}

// Segments lists the column's segments, those that come again as often as they come. They depend on the values alone, not on how they
// were come by.
func (c *Column) Segments() []Segment {
	if len(c.repeats) == 0 {
		return c.segments
	}
	out, whole := &Column{Kind: c.Kind}, c.unfolded(0)
	for i, s := range whole {
		next := c.end
		if i+1 < len(whole) {
			next = whole[i+1].Scan
		}
		out.appendPiece(s, next)
	}
	return out.segments
}

// appendPiece appends the values of a segment up to a scan: three suffice for a column to go on by itself.
func (c *Column) appendPiece(s Segment, end int) {
	for scan := s.Scan; scan < min(end, s.Scan+3); scan++ {
		c.Append(scan, s.at(scan))
	}
}
