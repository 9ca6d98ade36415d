package grade_test

import (
	"encoding/json"
	"flag"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/folder"
)

var update = flag.Bool("update", false, "write losses.txt anew, to be read")

const course = "../../courses/glasshouse"

func grader(t testing.TB, name string) *grade.Grader {
	t.Helper()
	files, err := folder.Open(filepath.Join(course, "exercises", name))
	require.NoError(t, err)
	e, problems := exercise.Read(files)
	require.NotNil(t, e, "%v", problems)
	g, problems := grade.Prepare(e)
	require.NotNil(t, g, "%v", problems)
	return g
}

func gradeFile(t testing.TB, g *grade.Grader, path string) *grade.Result {
	t.Helper()
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	r, _ := g.Grade(filepath.Base(path), []*source.File{source.NewFile(filepath.Base(path), string(text))})
	return r
}

// The demo course: losses.txt tells what each hand-in, named for its mistake, earns and loses first.
func TestDemoCourse(t *testing.T) {
	text, err := os.ReadFile(filepath.Join(course, "handins/losses.txt"))
	require.NoError(t, err)
	if *update {
		text = newLosses(t)
		require.NoError(t, os.WriteFile(filepath.Join(course, "handins/losses.txt"), text, 0o644))
	}
	listed, wrong := map[string]bool{}, map[string]int{}
	for line := range strings.Lines(string(text)) {
		name, want, ok := strings.Cut(strings.TrimSpace(line), ": ")
		if !ok || strings.HasPrefix(line, "#") {
			continue
		}
		listed[name] = true
		if !strings.HasSuffix(want, "nothing") {
			wrong[filepath.Dir(name)]++
		}
		t.Run(name, func(t *testing.T) {
			r := gradeFile(t, grader(t, filepath.Dir(name)), filepath.Join(course, "handins", name))
			assert.Equal(t, want, lost(r))
		})
	}
	files, err := filepath.Glob(filepath.Join(course, "handins/*/*"))
	require.NoError(t, err)
	for _, f := range files {
		assert.True(t, listed[strings.TrimPrefix(filepath.ToSlash(f), course+"/handins/")], "losses.txt lacks %s", f)
	}
	exercises, err := filepath.Glob(filepath.Join(course, "exercises/*"))
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(exercises), 16)
	for _, e := range exercises {
		assert.GreaterOrEqual(t, wrong[filepath.Base(e)], 3, "wrong hand-ins to %s", e)
	}
}

func newLosses(t *testing.T) []byte {
	out := []byte("# What each hand-in earns, the scenarios it fails by their numbers, and where it fails first. Its name says the mistake.\n")
	files, err := filepath.Glob(filepath.Join(course, "handins/*/*"))
	require.NoError(t, err)
	for _, f := range files {
		name := filepath.Base(filepath.Dir(f))
		out = fmt.Appendf(out, "%s/%s: %s\n", name, filepath.Base(f), lost(gradeFile(t, grader(t, name), f)))
	}
	return out
}

// Every exercise tests what it means to: no errors, and no input or contact that its scenarios leave untried.
func TestDemoCourseVerifies(t *testing.T) {
	exercises, err := filepath.Glob(filepath.Join(course, "exercises/*"))
	require.NoError(t, err)
	for _, e := range exercises {
		for _, d := range grader(t, filepath.Base(e)).Verify() {
			constant := strings.Contains(d.Message, "constant throughout") || strings.Contains(d.Message, "changes no graded signal")
			assert.True(t, d.Severity == source.Warning && constant, d.String())
		}
	}
}

// lost is what a hand-in earns, the numbers of the scenarios that it fails, and where it fails first.
func lost(r *grade.Result) string {
	var failed []string
	for i, s := range r.Scenarios {
		if s.Earned < s.Points {
			failed = append(failed, strconv.Itoa(i+1))
		}
	}
	words := r.Earned.String() + " of " + r.Points.String()
	if len(failed) > 0 {
		words += ", fails " + strings.Join(failed, " ")
	}
	return words + ", loses " + firstLoss(r)
}

func firstLoss(r *grade.Result) string {
	for _, d := range r.Diagnostics {
		if d.Severity == source.Error {
			return "error[" + string(d.Code) + "]"
		}
	}
	if loss := r.FirstLoss(); loss != "" {
		return loss
	}
	return "nothing"
}

// Right hand-ins and both solutions earn everything, and no warning with it.
func TestRightOnesEarnEverything(t *testing.T) {
	var files []string
	for _, pattern := range []string{"exercises/*/solution.*", "handins/*/right.*"} {
		found, err := filepath.Glob(filepath.Join(course, pattern))
		require.NoError(t, err)
		files = append(files, found...)
	}
	require.GreaterOrEqual(t, len(files), 50)
	for _, f := range files {
		g := grader(t, filepath.Base(filepath.Dir(f)))
		shown := g.Exercise.Kind == exercise.Predict && filepath.Ext(f) != "."+exercise.TraceFile
		if shown {
			g = g.Programs()
		}
		r := gradeFile(t, g, f)
		assert.Equal(t, r.Points, r.Earned, f)
		if !shown { // a program that is shown may be one to be warned of
			assert.Empty(t, r.Diagnostics, f)
		}
	}
}

// A starter can be handed in and does not earn full marks.
func TestStartersDoNotPass(t *testing.T) {
	files, err := filepath.Glob(filepath.Join(course, "exercises/*/starter.*"))
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(files), 30)
	for _, f := range files {
		r := gradeFile(t, grader(t, filepath.Base(filepath.Dir(f))), f)
		assert.False(t, r.Diagnostics.HasErrors(), f)
		assert.Less(t, r.Earned, r.Points, f)
	}
}

func TestSameBytesEveryTime(t *testing.T) {
	path := filepath.Join(course, "handins/tray-counter/done-read-as-equal.st")
	first, err := json.Marshal(gradeFile(t, grader(t, "tray-counter"), path))
	require.NoError(t, err)
	for range 5 {
		again, err := json.Marshal(gradeFile(t, grader(t, "tray-counter"), path))
		require.NoError(t, err)
		require.Equal(t, string(first), string(again))
	}
}

func TestFaultEarnsNothingAndSaysWhere(t *testing.T) {
	g := grader(t, "mist-hold-in")
	r, _ := g.Grade("p.st", []*source.File{source.NewFile("p.st",
		"PROGRAM p\nVAR n : INT; END_VAR\nmist_valve := (mist_on OR mist_valve) AND mist_off;\nIF mist_valve THEN n := 1 / n; END_IF;\n"+
			"END_PROGRAM\n")})
	assert.Equal(t, exercise.Marks(0), r.Earned)
	assert.Equal(t, &grade.Fault{Scan: 10, Line: 4, Message: "This divides by zero."}, r.Scenarios[0].Fault)
}

func TestLanguageNotAllowed(t *testing.T) {
	g := grader(t, "mist-hold-in")
	g.Exercise.Languages = []string{"ladder"}
	r := gradeFile(t, g, filepath.Join(course, "handins/mist-hold-in/right.st"))
	assert.Equal(t, "error[language]", firstLoss(r))
}

// scans builds a column from one value a scan, written as digits.
func scans(digits string) *signal.Column {
	c := &signal.Column{Name: "s", Kind: signal.Bool}
	for scan, d := range digits {
		c.Append(scan, int64(d-'0'))
	}
	return c
}

func TestCompareSteps(t *testing.T) {
	for name, c := range map[string]struct {
		expected, actual string
		slack            int
		want             int // -1: the same
	}{
		"the same":                                 {"00110", "00110", 0, -1},
		"a scan late":                              {"0001100", "0000110", 0, 3},
		"a scan late with a scan of slack":         {"0001100", "0000110", 1, -1},
		"a scan early":                             {"0001100", "0011000", 0, 2},
		"two late with one of slack":               {"00010000", "00000100", 1, 3},
		"a missing pulse never passes":             {"0001000", "0000000", 5, 3},
		"an extra pulse never passes":              {"0000000", "0001000", 5, 3},
		"wrong from the start":                     {"0000", "1111", 3, 0},
		"the first of two changes without partner": {"0001110000", "0001111100", 1, 6},
		"never released":                           {"0110", "0111", 0, 3},
	} {
		t.Run(name, func(t *testing.T) {
			scan, differs := compare.Columns(scans(c.expected), scans(c.actual), len(c.expected), compare.Tolerance{Slack: c.slack}, nil)
			if !differs {
				scan = -1
			}
			assert.Equal(t, c.want, scan)
		})
	}
}

// What is ignored is cut out, and the rest moves together.
func TestCompareIgnores(t *testing.T) {
	for name, c := range map[string]struct {
		expected, actual string
		slack            int
		ignore           []exercise.Window
		want             int
	}{
		"a difference inside":                    {"0001000", "0000000", 0, []exercise.Window{{From: 2, To: 5}}, -1},
		"from is in":                             {"0010000", "0000000", 0, []exercise.Window{{From: 2, To: 3}}, -1},
		"to is out":                              {"0001000", "0000000", 0, []exercise.Window{{From: 2, To: 3}}, 3},
		"before it":                              {"0100000", "0000000", 0, []exercise.Window{{From: 2, To: 3}}, 1},
		"different after it":                     {"0011111", "0011000", 0, []exercise.Window{{From: 1, To: 5}}, 5},
		"two windows, in any order":              {"0101010", "0000000", 0, []exercise.Window{{From: 5, To: 6}, {From: 1, To: 4}}, -1},
		"slack reaches across what is cut out":   {"0001111111", "0000001111", 1, []exercise.Window{{From: 4, To: 6}}, -1},
		"slack does not reach as far without it": {"0001111111", "0000001111", 1, nil, 3},
		"everything":                             {"0101", "1010", 0, []exercise.Window{{From: 0, To: 4}}, -1},
	} {
		t.Run(name, func(t *testing.T) {
			scan, differs := compare.Columns(scans(c.expected), scans(c.actual), len(c.expected), compare.Tolerance{Slack: c.slack}, c.ignore)
			if !differs {
				scan = -1
			}
			assert.Equal(t, c.want, scan)
			scan, differs = compare.Columns(scans(c.expected), scans(c.actual), len(c.expected), compare.Tolerance{Slack: c.slack, Numeric: true},
				c.ignore)
			if c.slack == 0 {
				assert.Equal(t, c.want, map[bool]int{true: scan, false: -1}[differs], "as a number")
			}
		})
	}
}

// Comparing numbers segment by segment finds what looking at every scan finds.
func TestCompareNumbersLikeScanByScan(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) *signal.Column {
			c := &signal.Column{Kind: signal.Time}
			value, slope := int64(0), int64(0)
			for scan := range 50 {
				switch rapid.IntRange(0, 9).Draw(t, name) {
				case 0:
					value = rapid.Int64Range(-20, 20).Draw(t, "jump")
				case 1:
					slope = rapid.Int64Range(-2, 2).Draw(t, "slope")
				}
				c.Append(scan, value)
				value += slope
			}
			return c
		}
		expected, actual := draw("expected"), draw("actual")
		within := rapid.Int64Range(0, 10).Draw(t, "within")
		want, wantDiffers := 0, false
		for scan := range 50 {
			if d := expected.At(scan) - actual.At(scan); d > within || -d > within {
				want, wantDiffers = scan, true
				break
			}
		}
		got, differs := compare.Columns(expected, actual, 50, compare.Tolerance{Numeric: true, Within: within}, nil)
		require.Equal(t, wantDiffers, differs)
		require.Equal(t, want, got)
	})
}

// Around an expected jump a numeric signal is excused, elsewhere not.
func TestCompareNumbersExcusesSteps(t *testing.T) {
	timer := func(dropAt int) *signal.Column {
		c := &signal.Column{Kind: signal.Time}
		for scan := range 40 {
			elapsed := int64(max(scan-10, 0)) * 10
			if scan >= dropAt {
				elapsed = 0
			}
			c.Append(scan, elapsed)
		}
		return c
	}
	_, differs := compare.Columns(timer(30), timer(31), 40, compare.Tolerance{Slack: 1, Numeric: true, Within: 5}, nil)
	assert.False(t, differs)
	scan, differs := compare.Columns(timer(30), timer(33), 40, compare.Tolerance{Slack: 1, Numeric: true, Within: 5}, nil)
	assert.True(t, differs)
	assert.Equal(t, 32, scan)
}

// A number that comes as late or as early as the slack allows is right, whatever its shape; and where nothing is expected to change, no
// other value is.
func TestCompareNumbersAllowsTheSlack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		const scans = 60
		values := make([]float64, scans)
		for scan := 1; scan < scans; scan++ {
			values[scan] = values[scan-1]
			if rapid.IntRange(0, 3).Draw(t, "changes") == 0 {
				values[scan] += float64(rapid.IntRange(-5, 5).Draw(t, "by"))
			}
		}
		columnOf := func(at func(scan int) float64) *signal.Column {
			c := &signal.Column{Kind: signal.Real}
			for scan := range scans {
				c.Append(scan, int64(math.Float64bits(at(scan))))
			}
			return c
		}
		slack := rapid.IntRange(0, 4).Draw(t, "slack")
		late := rapid.IntRange(-slack, slack).Draw(t, "late")
		expected := columnOf(func(scan int) float64 { return values[scan] })
		shifted := columnOf(func(scan int) float64 { return values[min(max(scan-late, 0), scans-1)] })
		tolerance := compare.Tolerance{Numeric: true, Slack: slack}
		scan, differs := compare.Columns(expected, shifted, scans, tolerance, nil)
		require.False(t, differs, "scan %d of %v, %d late", scan, values, late)

		wrongAt := rapid.IntRange(0, scans-1).Draw(t, "wrong")
		still := true
		for near := max(wrongAt-slack-1, 0); near <= min(wrongAt+slack, scans-1); near++ {
			still = still && values[near] == values[wrongAt]
		}
		wrong := columnOf(func(scan int) float64 {
			if scan == wrongAt {
				return values[scan] + 1
			}
			return values[scan]
		})
		scan, differs = compare.Columns(expected, wrong, scans, tolerance, nil)
		require.True(t, differs || !still, "%v is wrong at %d", values, wrongAt)
		require.True(t, !still || scan == wrongAt)
	})
}

func TestMarksAreRead(t *testing.T) {
	m, err := exercise.ParseMarks("1.5")
	assert.NoError(t, err)
	assert.Equal(t, exercise.Marks(150), m)
	_, err = exercise.ParseMarks("1.234")
	assert.Error(t, err)
}

// An elapsed time is graded by its value on the way, not only at the end.
func TestElapsedTimeIsCompared(t *testing.T) {
	g := grader(t, "vent-settle-delay")
	late := "PROGRAM p\nVAR settle : TON; slow : BOOL; END_VAR\nsettle(IN := slow, PT := T#5s);\nslow := mist_switch;\n" +
		"mist_valve := mist_switch;\nvent := settle.Q;\nEND_PROGRAM\n"
	r, evidence := g.Grade("late.st", []*source.File{source.NewFile("late.st", late)})
	assert.Equal(t, r.Points, r.Earned, "one scan late is within 20 ms and one scan of slack")
	assert.Equal(t, 10*time.Millisecond, evidence[0].Actual.Period)
	later := strings.Replace(late, "slow := mist_switch", "slow := mist_switch AND settle.ET < T#3s", 1)
	r, _ = g.Grade("later.st", []*source.File{source.NewFile("later.st", later)})
	assert.Contains(t, firstLoss(r), "vent")
}

// A hand-in that executes much can be stopped between scans; what is not stopped is the same to the byte.
func TestMarkingStops(t *testing.T) {
	g := grader(t, "mist-hold-in")
	marked := func(stop func() bool, text string) (*grade.Result, error) {
		h := g.Read("slow.st", []*source.File{source.NewFile("slow.st", text)})
		if err := h.Play(stop, grade.Every); err != nil {
			return nil, err
		}
		h.Mark()
		return h.Result, h.Explain(grade.Every)
	}
	const slow = "PROGRAM p\nVAR i, n : DINT; END_VAR\nFOR i := 1 TO 4000 DO n := n * 3 + i; END_FOR;\nmist_valve := mist_on;\nEND_PROGRAM\n"
	assert.Less(t, g.Executed(), 100_000, "the solution takes little")
	assert.Positive(t, g.Executed())
	whole, _ := g.Grade("slow.st", []*source.File{source.NewFile("slow.st", slow)})
	asked := 0
	counted, err := marked(func() bool { asked++; return false }, slow)
	require.NoError(t, err)
	assert.Equal(t, whole, counted)
	assert.Greater(t, asked, 3)
	for after := range asked {
		left := after
		_, err := marked(func() bool { left--; return left < 0 }, slow)
		assert.ErrorIs(t, err, machine.ErrStopped, "after %d", after)
	}
	_, err = marked(func() bool { return true }, "PROGRAM p\nmist_valve := mist_on;\nEND_PROGRAM\n")
	assert.NoError(t, err, "a program that executes little is not asked about")
}

// Every solution of the course, left alone for ten minutes, has fewer scans than two in a hundred executed, its slow tasks and blinkers
// among them. What it does is what it does when every scan is.
func TestCourseIsSkipped(t *testing.T) {
	entries, err := os.ReadDir(filepath.Join(course, "exercises"))
	require.NoError(t, err)
	for _, entry := range entries {
		t.Run(entry.Name(), func(t *testing.T) {
			e := grader(t, entry.Name()).Exercise
			for _, solution := range e.Solutions {
				code, problems := grade.CompileFor(e, []*source.File{source.NewFile(solution.Name, solution.Text)})
				require.NotNil(t, code, "%v", problems)
				script := *e.Scenarios[0].Script
				script.Scans += 60_000
				skipped, err := code.Play(&script, code.Names())
				require.NoError(t, err)
				stepped, err := code.Step(&script, code.Names())
				require.NoError(t, err)
				for i, c := range stepped.Trace.Columns {
					require.Equal(t, c.Segments(), skipped.Trace.Columns[i].Segments(), c.Name)
				}
				assert.Less(t, skipped.Scanned, 1200, solution.Name)
			}
		})
	}
}
