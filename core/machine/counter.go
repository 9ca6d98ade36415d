package machine

import "celandine/core/check"

// counting lists the types that something counts in; an instruction names one
// by its index.
var counting = [...]*check.Type{check.Sint, check.Int, check.Dint, check.Lint, check.Usint, check.Uint, check.Udint, check.Ulint}

const countsUlint = uint16(len(counting) - 1)

// limits are the least and greatest value of each type in counting.
var limits = func() (table [len(counting)][2]int64) {
	for i, t := range counting {
		table[i][0], table[i][1] = t.Range()
	}
	table[countsUlint][1] = -1 // all bits set
	return table
}()

func countIndex(t *check.Type) uint16 {
	for i, c := range counting {
		if c == t {
			return uint16(i)
		}
	}
	return 0
}

// reached is cv >= pv in the counting type.
func reached(n uint16, cv, pv int64) byte {
	if n == countsUlint {
		return truth(uint64(cv) >= uint64(pv))
	}
	return truth(cv >= pv)
}

// spent is cv <= 0 in the counting type.
func spent(n uint16, cv int64) byte { return truth(cv == 0 || cv < 0 && n != countsUlint) }

const (
	wordPV = 0
	wordCV = 1
)

const (
	counterBits  = 8
	counterWords = 2
)

// counted reports whether a rising edge of now counts, before a memory of it.
func counted(now, before byte) bool { return now&^before != 0 }

// The bits of CTU and CTD: the way in, the way out, the last value of the way in, R or LD. They are where [laid] puts them, written out
// here because the loop has no time to look them up; a test walks each block against its description.
const (
	upWas    = 4
	upR      = 6
	downWas  = 4
	downLoad = 6
)

// The bits of CTUD.
const (
	bothQD   = 4
	bothUp   = 6 // the last value of CU
	bothDown = 8 // the last value of CD
	bothCD   = 10
	bothR    = 12
	bothLD   = 14
)

// countDown is CTD.
func countDown(i instance) {
	f, w, n := i.bits, i.words, i.n
	switch {
	case f[downLoad] != 0:
		w[wordCV] = w[wordPV]
	case counted(f[0], f[downWas]) && w[wordCV] != limits[n][0]:
		w[wordCV]--
	}
	put(f, downWas, f[0])
	put(f, wayOut, spent(n, w[wordCV]))
}

// countBoth is CTUD.
func countBoth(i instance) {
	f, w, n := i.bits, i.words, i.n
	up, down := counted(f[0], f[bothUp]), counted(f[bothCD], f[bothDown])
	switch {
	case f[bothR] != 0:
		w[wordCV] = 0
	case f[bothLD] != 0:
		w[wordCV] = w[wordPV]
	case up == down: // none, or both in one scan
	case up && w[wordCV] != limits[n][1]:
		w[wordCV]++
	case down && w[wordCV] != limits[n][0]:
		w[wordCV]--
	}
	put(f, bothUp, f[0])
	put(f, bothDown, f[bothCD])
	put(f, wayOut, reached(n, w[wordCV], w[wordPV]))
	put(f, bothQD, spent(n, w[wordCV]))
}

// passed reports whether a FOR counter is beyond its limit.
func passed(counter, limit, step int64, unsigned bool) bool {
	switch {
	case unsigned:
		return uint64(counter) > uint64(limit)
	case step < 0:
		return counter < limit
	}
	return counter > limit
}

// forNext adds the step and reports whether the loop goes on. It ends without
// wrapping where the sum would leave the type: the counter then stays.
func (m *Machine) forNext(in *instruction) bool {
	counter, limit, step := &m.words[in.b], m.words[in.c], m.words[in.c+1]
	next := *counter + step
	unsigned := in.n == countsUlint
	switch {
	case unsigned && uint64(next) < uint64(*counter):
		return false
	case !unsigned && (step > 0 && next < *counter || step < 0 && next > *counter):
		return false
	case !unsigned && (next < limits[in.n][0] || next > limits[in.n][1]):
		return false
	}
	*counter = next
	return !passed(next, limit, step, unsigned)
}
