package signal_test

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/signal"
)

// A waveform viewer's own tools read the dump and give back the same values: into their format and back again.
func TestVCDIsReadByOthers(t *testing.T) {
	fan := signal.Steps("fan", signal.Bool, []signal.Change{{Scan: 0, Value: 0}, {Scan: 3, Value: 1}, {Scan: 9, Value: 0}})
	count := signal.Steps("rack.CV", signal.Int, []signal.Change{{Scan: 0, Value: -7}, {Scan: 5, Value: 12}})
	elapsed := &signal.Column{Name: "settle.ET", Kind: signal.Time}
	for scan := range 12 {
		elapsed.Append(scan, int64(min(max(scan-3, 0), 5))*1e7)
	}
	trace := &signal.Trace{Period: 10 * time.Millisecond, Scans: 12, Columns: []*signal.Column{fan, count, elapsed}}
	var dump bytes.Buffer
	require.NoError(t, signal.WriteVCD(&dump, trace))
	dir := t.TempDir()
	before, after := filepath.Join(dir, "a.vcd"), filepath.Join(dir, "a.fst")
	require.NoError(t, os.WriteFile(before, dump.Bytes(), 0o644))
	if _, err := exec.LookPath("vcd2fst"); err != nil {
		t.Skip("vcd2fst is not here (Debian: gtkwave)")
	}
	out, err := exec.Command("vcd2fst", before, after).CombinedOutput()
	require.NoError(t, err, "%s", out)
	back, err := exec.Command("fst2vcd", after).Output()
	require.NoError(t, err)
	values := valuesAt(t, string(back), trace)
	for _, c := range trace.Columns {
		for scan := range trace.Scans {
			assert.Equal(t, c.At(scan), values[c.Name][scan], "%s at scan %d", c.Name, scan)
		}
	}
}

// valuesAt reads a dump of wires and integers, a value for each scan.
func valuesAt(t *testing.T, dump string, trace *signal.Trace) map[string][]int64 {
	names, now := map[string]string{}, map[string]int64{}
	out := map[string][]int64{}
	scope, scan := "", 0
	upTo := func(end int) {
		for ; scan < end; scan++ {
			for _, c := range trace.Columns {
				out[c.Name] = append(out[c.Name], now[c.Name])
			}
		}
	}
	for line := range strings.Lines(dump) {
		f := strings.Fields(line)
		switch {
		case len(f) == 0:
		case f[0] == "$scope":
			scope = f[2] + "."
		case f[0] == "$upscope":
			scope = ""
		case f[0] == "$var":
			names[f[3]] = scope + f[4]
		case f[0][0] == '#':
			at, err := strconv.ParseInt(f[0][1:], 10, 64)
			require.NoError(t, err)
			upTo(min(int(at/int64(trace.Period)), trace.Scans))
		case f[0][0] == 'b' && len(f) == 2:
			u, err := strconv.ParseUint(f[0][1:], 2, 64)
			require.NoError(t, err)
			now[names[f[1]]] = int64(u)
		case len(f) == 1 && (f[0][0] == '0' || f[0][0] == '1'):
			now[names[f[0][1:]]] = int64(f[0][0] - '0')
		}
	}
	upTo(trace.Scans)
	return out
}
