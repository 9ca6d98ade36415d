package source

import (
	"strconv"
	"strings"

	"celandine/core/say"
)

const longestSeries = 256

// A Series is the numbers of a name such as tray_{1..10}. A plain name is a series of itself.
type Series struct {
	From, To int
	Numbered bool
}

// numbers finds {1..10} in a name: where it begins and ends, and its two numbers, of at most four digits each.
func numbers(name string) (from, to int, first, last string, ok bool) {
	for at := 0; ; at++ {
		open := strings.IndexByte(name[at:], '{')
		if open < 0 {
			return 0, 0, "", "", false
		}
		at += open
		inside, _, closed := strings.Cut(name[at+1:], "}")
		first, last, two := strings.Cut(inside, "..")
		if closed && two && isNumber(first, 4) && isNumber(last, 4) {
			return at, at + len(inside) + 2, first, last, true
		}
	}
}

// isNumber reports a text of digits, at most so many.
func isNumber(text string, most int) bool {
	return text != "" && len(text) <= most && strings.Trim(text, "0123456789") == ""
}

// SeriesOf reads the numbers in a name. It is an error for a series to be empty or longer than 256.
func SeriesOf(name string) (Series, error) {
	_, _, first, last, ok := numbers(name)
	if !ok {
		return Series{}, nil
	}
	from, _ := strconv.Atoi(first) // at most four digits
	to, _ := strconv.Atoi(last)
	if to < from || to-from >= longestSeries {
		return Series{}, say.Errorf("the series %s is empty or too long", name)
	}
	return Series{from, to, true}, nil
}

// Name writes the number in place of {1..10} and of {n}.
func (s Series) Name(text string, number int) string {
	if !s.Numbered {
		return text
	}
	for from, to, _, _, ok := numbers(text); ok; from, to, _, _, ok = numbers(text) {
		text = text[:from] + "{n}" + text[to:]
	}
	return strings.ReplaceAll(text, "{n}", strconv.Itoa(number))
}

// AddressAfter returns the nth address after one: bits go on in the next byte, words by their size.
func AddressAfter(first string, n int) string {
	size, digits, bits, ok := partsOf(strings.ToUpper(first))
	if !ok || n == 0 {
		return first
	}
	number, _ := strconv.Atoi(digits)
	head := strings.ToUpper(first[:2]) + size
	if size == "X" || bits != "" {
		bit, _ := strconv.Atoi(bits)
		bit += number*8 + n
		return head + strconv.Itoa(bit/8) + "." + strconv.Itoa(bit%8)
	}
	bytes := map[string]int{"B": 1, "W": 2, "D": 4, "L": 8}[size]
	return head + strconv.Itoa(number+n*max(bytes, 1))
}

// partsOf takes an address apart: its size, if it names one, its number and its bit, if it has one.
func partsOf(address string) (size, number, bit string, ok bool) {
	if len(address) < 3 || address[0] != '%' || !strings.Contains("IQM", address[1:2]) {
		return "", "", "", false
	}
	rest := address[2:]
	if strings.Contains("XBWDL", rest[:1]) {
		size, rest = rest[:1], rest[1:]
	}
	number, bit, dotted := strings.Cut(rest, ".")
	if !isNumber(number, len(number)) || dotted && (len(bit) != 1 || bit[0] < '0' || bit[0] > '7') {
		return "", "", "", false
	}
	return size, number, bit, true
}
