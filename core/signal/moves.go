package signal

// A Move is a change of a column, or as many as a slope makes, one in each scan from Scan on.
type Move struct {
	Scan  int
	Value int64 // at Scan
	Slope int64 // 0 where Count is 1
	Count int
}

// Last is the value after the move.
func (m Move) Last() int64 { return m.Value + m.Slope*int64(m.Count-1) }

// Moves lists the value at the scan from, as the first move, and the changes after it before to. Its length follows what happened,
// not how long a slope goes on.
func (c *Column) Moves(from, to int) []Move {
	if from >= to {
		return nil
	}
	list := []Move{{Scan: from, Value: c.At(from), Count: 1}}
	segments := c.Segments()
	for i, s := range segments {
		end := to
		if i+1 < len(segments) {
			end = min(end, segments[i+1].Scan)
		}
		start := max(s.Scan, from+1)
		if start >= end {
			continue
		}
		m := Move{start, s.at(start), s.Slope, end - start}
		if s.Slope == 0 {
			m.Count = 1
		}
		if m.Value != list[len(list)-1].Last() {
			list = append(list, m)
		} else if m.Count > 1 { // the slope begins where the last value stood
			list = append(list, Move{start + 1, m.Value + m.Slope, m.Slope, m.Count - 1})
		}
	}
	return list
}

// Steady reports whether the column has one value in all scans before an end.
func (c *Column) Steady(scans int) bool { return len(c.Moves(0, scans)) <= 1 }

// Edges counts how often a BOOL becomes TRUE and how often FALSE in the scans from one up to but without another, as edge blocks see
// it: before the first scan of all it was FALSE.
func (c *Column) Edges(from, to int) (rises, falls int) {
	before := int64(0)
	if from > 0 {
		before = c.At(from - 1)
	}
	for _, m := range c.Moves(from, to) {
		switch {
		case m.Value == before:
		case m.Value != 0:
			rises++
		default:
			falls++
		}
		before = m.Value
	}
	return rises, falls
}
