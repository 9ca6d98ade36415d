//go:build !editor

package signal

import (
	"bufio"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"
)

// WriteVCD writes a trace as a value change dump (IEEE 1364-2005, clause 18), which waveform viewers open. A BOOL is a
// wire, a whole number a 64-bit integer, a TIME the same in nanoseconds, a REAL a real, and a text a string; the time unit is a nanosecond.
// A member, settle.ET, stands in a scope of its own.
func WriteVCD(w io.Writer, t *Trace) error {
	out := bufio.NewWriter(w)
	fmt.Fprintf(out, "$comment Celandine: %d scans of %s $end\n$timescale 1ns $end\n", t.Scans, t.Period)
	declare(out, t)
	fmt.Fprint(out, "$enddefinitions $end\n")
	for _, scan := range t.changeScans() {
		fmt.Fprintf(out, "#%d\n", t.Time(scan)/time.Nanosecond)
		for i, c := range t.Columns {
			if v := c.At(scan); scan == 0 || v != c.At(scan-1) {
				fmt.Fprintln(out, c.vcd(v, vcdID(i)))
			}
		}
	}
	fmt.Fprintf(out, "#%d\n", t.Time(t.Scans)/time.Nanosecond)
	return out.Flush()
}

// declare names the columns, members below their instance.
func declare(out io.Writer, t *Trace) {
	open := ""
	for i, c := range t.Columns {
		scope, name := "", c.Name
		if dot := strings.LastIndexByte(name, '.'); dot > 0 {
			scope, name = name[:dot], name[dot+1:]
		}
		if scope != open {
			if open != "" {
				fmt.Fprintln(out, "$upscope $end")
			}
			if scope != "" {
				fmt.Fprintf(out, "$scope module %s $end\n", plainName(scope))
			}
			open = scope
		}
		kind := map[Kind]string{Bool: "wire 1", Real: "real 64", Text: "string 1"}[c.Kind]
		if kind == "" {
			kind = "integer 64"
		}
		fmt.Fprintf(out, "$var %s %s %s $end\n", kind, vcdID(i), plainName(name))
	}
	if open != "" {
		fmt.Fprintln(out, "$upscope $end")
	}
}

// plainName has no letter that means something to a viewer.
func plainName(name string) string {
	return strings.NewReplacer(" ", "", "[", "(", "]", ")", ".", "_").Replace(name)
}

// vcdID is the short name of a column, of printable letters.
func vcdID(i int) string {
	id := ""
	for i++; i > 0; i = (i - 1) / 94 {
		id += string(rune('!' + (i-1)%94))
	}
	return id
}

func (c *Column) vcd(v int64, id string) string {
	switch c.Kind {
	case Bool:
		return strconv.FormatInt(v, 10) + id
	case Real:
		return "r" + strconv.FormatFloat(math.Float64frombits(uint64(v)), 'g', 17, 64) + " " + id
	case Text:
		return "s" + strings.ReplaceAll(c.Format(v), " ", `\040`) + " " + id
	}
	return "b" + strconv.FormatUint(uint64(v), 2) + " " + id
}

// changeScans lists the scans in which any column has a new value.
func (t *Trace) changeScans() []int {
	var list []int
	for _, c := range t.Columns {
		for _, change := range c.Changes(0, t.Scans) {
			list = append(list, change.Scan)
		}
	}
	slices.Sort(list)
	return slices.Compact(list)
}
