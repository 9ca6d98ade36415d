package source

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

var (
	series  = regexp.MustCompile(`\{(\d{1,4})\.\.(\d{1,4})\}`)
	address = regexp.MustCompile(`^%[IQM]([XBWDL]?)(\d+)(\.[0-7])?$`)
)

const longestSeries = 256

// A Series is the numbers of a name such as tray_{1..10}. A plain name is a series of itself.
type Series struct {
	From, To int
	Numbered bool
}

// SeriesOf reads the numbers in a name. It is an error for a series to be empty or longer than 256.
func SeriesOf(name string) (Series, error) {
	m := series.FindStringSubmatch(name)
	if m == nil {
		return Series{}, nil
	}
	from, _ := strconv.Atoi(m[1]) // at most four digits
	to, _ := strconv.Atoi(m[2])
	if to < from || to-from >= longestSeries {
		return Series{}, fmt.Errorf("the series %s is empty or too long", name)
	}
	return Series{from, to, true}, nil
}

// Name writes the number in place of {1..10} and of {n}.
func (s Series) Name(text string, number int) string {
	if !s.Numbered {
		return text
	}
	return strings.ReplaceAll(series.ReplaceAllString(text, "{n}"), "{n}", strconv.Itoa(number))
}

// AddressAfter returns the nth address after one: bits go on in the next byte, words by their size.
func AddressAfter(first string, n int) string {
	m := address.FindStringSubmatch(strings.ToUpper(first))
	if m == nil || n == 0 {
		return first
	}
	number, _ := strconv.Atoi(m[2])
	head := strings.ToUpper(first[:2]) + m[1]
	if m[1] == "X" || m[3] != "" {
		bit, _ := strconv.Atoi(strings.TrimPrefix(m[3], "."))
		bit += number*8 + n
		return head + strconv.Itoa(bit/8) + "." + strconv.Itoa(bit%8)
	}
	size := map[string]int{"B": 1, "W": 2, "D": 4, "L": 8}[m[1]]
	return head + strconv.Itoa(number+n*max(size, 1))
}
