package equivalence

import "slices"

// mostTries bounds how many shorter scripts are tried.
const mostTries = 300

// shorten makes a script that tells the two apart shorter: it leaves out events, and then brings those that are left together, as long as
// the script still tells them apart.
func (b *both) shorten(found Result, events []event) Result {
	tries := 0
	try := func(fewer []event, scans int) bool {
		if tries++; tries > mostTries {
			return false
		}
		r, differs := b.tellsApart(fewer, scans)
		if differs {
			found = r
		}
		return differs
	}
	for size := max(len(events)/2, 1); size > 0; size /= 2 {
		for from := len(events) - size; from >= 0; from -= size {
			from = min(from, len(events)-size)
			if from < 0 {
				break
			}
			if fewer := slices.Delete(slices.Clone(events), from, from+size); try(fewer, found.Scan+1) {
				events = fewer
			}
		}
	}
	gap := 2*b.slack(nil) + 1
	for i := range events {
		at := 0
		if i > 0 {
			at = events[i-1].scan
		}
		for _, to := range [4]int{0, 1, gap, 2 * gap} {
			by := at + to - events[i].scan
			if by >= 0 {
				break
			}
			closer := slices.Clone(events)
			for j := i; j < len(closer); j++ {
				closer[j].scan += by
			}
			if try(closer, found.Scan+by+1) {
				events = closer
				break
			}
		}
	}
	return found
}
