// Package exercise reads the exercise package: the folder in which an
// instructor keeps a brief, the panel's points, scripted inputs and what is
// graded.
//
// In come the folder's files as bytes ([Read]); out comes an [Exercise] whose
// scenarios are input columns over scans, or every problem at once with its file, line and
// the way out. Steps speak of devices, and the wiring decides the bit: pressing a normally closed button makes its
// input FALSE. The package compiles and runs nothing.
package exercise

import (
	"crypto/sha256"
	"encoding/hex"
	"maps"
	"math"
	"regexp"
	"slices"
	"sort"
	"strings"
	"time"

	"celandine/core/signal"
	"celandine/core/source"
)

// Format is the first line of every exercise.yaml.
const Format = "celandine/exercise/1"

var notInNames = regexp.MustCompile(`[^a-z0-9]+`)

// NameFor makes a name of words: small letters, digits and hyphens. It may be empty.
func NameFor(words string) string {
	return strings.Trim(notInNames.ReplaceAllString(strings.ToLower(words), "-"), "-")
}

// Files is an exercise folder: contents by slash-separated path.
type Files map[string][]byte

// Hash names the folder's contents: the same files give the same hash.
func (f Files) Hash() string {
	paths := make([]string, 0, len(f))
	for p := range f {
		paths = append(paths, p)
	}
	sort.Strings(paths)
	h := sha256.New()
	for _, p := range paths {
		content := sha256.Sum256(f[p])
		h.Write([]byte(p + "\x00"))
		h.Write(content[:])
	}
	return hex.EncodeToString(h.Sum(nil))
}

// An Exercise is one task with everything needed to grade it.
type Exercise struct {
	Name      string // of the folder; letters, digits and hyphens
	Hash      string // of its files
	Title     string
	Topic     string
	Kind      Kind
	Reasons   []string // of a kind in which traces are predicted: why one may be erratic
	Brief     string   // Markdown
	Period    time.Duration
	Languages []string // in which it is handed in: of [Languages]; where a trace is predicted trace
	Inputs    []Point
	Outputs   []Point
	Picture   string // a file of the folder that the panel's devices stand on; "" where there is none
	Graded    []Graded
	Scenarios []Scenario
	Rules     []Rule
	Tasks     []Task // none: every program runs in every scan, in the order of the text
	Solutions []Source
	Starters  []Source
	Mistakes  []Source // programs known to be wrong
}

// A Task runs a program every so many scans, or once in the first; of those due the lowest priority runs first.
type Task struct {
	Program  string
	Every    int // scans
	Priority int
	Once     bool
}

// A Source is a program of the folder.
type Source struct {
	Name string // solution.ladder
	Text string
}

// Language returns what it is written in, by the file's ending.
func (s Source) Language() string { return LanguageOf(s.Name) }

// Said is the first comment of a program: of a known mistake the sentence that a learner is told.
func (s Source) Said() string {
	line, _, _ := strings.Cut(strings.TrimSpace(s.Text), "\n")
	if words, ok := strings.CutPrefix(line, "//"); ok {
		return strings.TrimSpace(words)
	}
	words, ok := strings.CutPrefix(strings.TrimSpace(s.Text), "(*")
	words, _, _ = strings.Cut(words, "*)")
	if !ok {
		return ""
	}
	return strings.Join(strings.Fields(words), " ")
}

// A Point is one wire between the panel and the controller.
type Point struct {
	Name    string      `json:"name"`
	Address string      `json:"at"`
	Device  string      `json:"device"`
	Closed  bool        `json:"closed"` // wired normally closed
	Label   string      `json:"label"`
	Type    string      `json:"type"` // BOOL, INT, DINT …
	Unit    string      `json:"unit,omitempty"`
	Initial int64       `json:"initial,omitempty"` // the device's state at the start
	Place   []int       `json:"place,omitempty"`   // where its device stands on the panel, in percent from the left and from the top
	At      source.Span `json:"-"`
}

// PointTypes lists the types that a point may have, in alphabetical order.
func PointTypes() []string { return slices.Sorted(maps.Keys(pointTypes)) }

// Kind tells how the point's values are read.
func (p Point) Kind() signal.Kind { return pointTypes[p.Type] }

// Limits are the least and the greatest value that the point holds.
func (p Point) Limits() (least, greatest int64) {
	switch p.Type {
	case "BOOL":
		return 0, 1
	case "SINT":
		return math.MinInt8, math.MaxInt8
	case "INT":
		return math.MinInt16, math.MaxInt16
	case "DINT":
		return math.MinInt32, math.MaxInt32
	case "USINT", "BYTE":
		return 0, math.MaxUint8
	case "UINT", "WORD":
		return 0, math.MaxUint16
	case "UDINT", "DWORD":
		return 0, math.MaxUint32
	}
	return math.MinInt64, math.MaxInt64
}

// Bit returns what the input shows for a state of its device.
func (p Point) Bit(state int64) int64 {
	if p.Kind() == signal.Bool && p.Closed {
		return state ^ 1
	}
	return state
}

// Rest returns what the input shows before anything is touched.
func (p Point) Rest() int64 { return p.Bit(p.Initial) }

var pointTypes = map[string]signal.Kind{
	"BOOL": signal.Bool, "SINT": signal.Int, "INT": signal.Int, "DINT": signal.Int, "LINT": signal.Int,
	"USINT": signal.Int, "UINT": signal.Int, "UDINT": signal.Int, "BYTE": signal.Int, "WORD": signal.Int, "DWORD": signal.Int,
	"REAL": signal.Real, "LREAL": signal.Real, "TIME": signal.Time,
}

// Graded is what is compared in every scenario: a signal by its name, or a member of a block by the block's type, whatever the
// hand-in calls its instance.
type Graded struct {
	Signal   string
	Block    string // TON, in place of a signal
	Member   string // ET
	Weight   int
	Slack    int    // scans
	Drift    int    // scans that a change may be off further than the one before it
	Within   string // as written, a number or a time; "" where there is none
	At       source.Span
	WithinAt source.Span
}

// Name is how the graded thing is spoken of: settle.ET, or TON.ET where a block is meant by its type.
func (g Graded) Name() string {
	if g.Block != "" {
		return g.Block + "." + g.Member
	}
	return g.Signal
}

// DefaultSlack is how many scans a change may be off where an exercise says nothing: a right program whose rungs stand in another
// order, or that keeps its result in an internal bit first, is right.
const DefaultSlack = 2

// A Scenario is one scripted run and what is expected of it.
type Scenario struct {
	Name     string
	Points   Marks
	Shown    bool          // learners see its script and its traces
	Hides    bool          // shown: false is written
	ByHand   bool          // of a prediction: a hand works the inputs, each change a scan sooner or later than the script has it
	Practice bool          // it may be predicted before the first run, without marks
	Script   *signal.Trace // every input, scan by scan
	Edges    []Edge        // where steps work the inputs; none of a script that is a table
	Expect   Expectation
	Ignore   []Window // scans that are not compared
	At       source.Span
}

// A Window is scans; From is in, To is out.
type Window struct{ From, To int }

// Expectation is where the expected trace comes from: the solution, or a table;
// or a list of checks in place of a trace; or there is nothing that could be expected.
type Expectation struct {
	Table   []byte      // a scan table; nil: the solution's own trace
	File    string      // the table's
	Checks  []Check     // nil: the graded signals are compared
	Erratic string      // of a prediction: why nobody can tell what happens; "" where one can
	At      source.Span // of the value in exercise.yaml
}

// Points is the sum of the scenarios' points.
func (e *Exercise) Points() Marks {
	var sum Marks
	for _, s := range e.Scenarios {
		sum += s.Points
	}
	return sum
}

// Input returns the input of that name, in any case of letters.
func (e *Exercise) Input(name string) (Point, bool) {
	for _, p := range e.Inputs {
		if strings.EqualFold(p.Name, name) {
			return p, true
		}
	}
	return Point{}, false
}

// Named lists what is graded by a name that the hand-in must choose: neither a point of the panel nor a block by its type.
func (e *Exercise) Named() (list []Graded) {
	points := map[string]bool{}
	for _, p := range e.Inputs {
		points[strings.ToLower(p.Name)] = true
	}
	for _, p := range e.Outputs {
		points[strings.ToLower(p.Name)] = true
	}
	for _, g := range e.Graded {
		if g.Block == "" && !points[strings.ToLower(g.Signal)] {
			list = append(list, g)
		}
	}
	return list
}

// Told says what must be named, or be there, to be graded: what the panel does not give.
func (e *Exercise) Told() string {
	var named, blocks []string
	for _, g := range e.Named() {
		named = append(named, g.Signal)
	}
	for _, g := range e.Graded {
		if g.Block != "" {
			blocks = append(blocks, g.Member+" of a "+g.Block)
		}
	}
	var words []string
	if len(named) > 0 {
		words = append(words, "by just this name: "+strings.Join(named, ", "))
	}
	if len(blocks) > 0 {
		words = append(words, "whatever its name: "+strings.Join(blocks, ", "))
	}
	return strings.Join(words, "; ")
}

func (e *Exercise) inputNames() []string {
	names := make([]string, len(e.Inputs))
	for i, p := range e.Inputs {
		names[i] = p.Name
	}
	return names
}
