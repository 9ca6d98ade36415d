package grade_test

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
)

// exact are the exercises whose lesson is the order of the rungs or the width of a pulse: they allow no slack, and their briefs say so.
var exact = map[string]string{"vents-in-turn": "very scan", "tray-pulses": "very scan", "predict-one-pulse": "very scan",
	"predict-toggle": "scan by scan"}

// A right program is right however it is built: with its outputs a scan later, from internal bits, with other names for its
// instances, with set and reset for a plain coil.
func TestRightHoweverBuilt(t *testing.T) {
	files, err := filepath.Glob(filepath.Join(course, "exercises/*/solution.*"))
	require.NoError(t, err)
	made := map[string]int{}
	for _, f := range files {
		name := filepath.Base(filepath.Dir(f))
		g := grader(t, name)
		if g.Exercise.Kind == exercise.Predict {
			continue // its programs are read, not handed in
		}
		text, err := os.ReadFile(f)
		require.NoError(t, err)
		for how, build := range variants {
			if how == "a scan later" && exact[name] != "" {
				continue
			}
			built := build(g, string(text))
			if built == string(text) {
				continue // it has nothing of the kind
			}
			made[how]++
			t.Run(name+filepath.Ext(f)+"/"+how, func(t *testing.T) {
				r, _ := g.Grade(filepath.Base(f), []*source.File{source.NewFile(filepath.Base(f), built)})
				assert.False(t, r.Diagnostics.HasErrors(), "%v\n%s", r.Diagnostics, built)
				assert.Equal(t, r.Points, r.Earned, "%s\n%s", r.FirstLoss(), built)
			})
		}
	}
	for how := range variants {
		assert.GreaterOrEqual(t, made[how], 10, how)
	}
}

var variants = map[string]func(*grade.Grader, string) string{
	"a scan later": func(g *grade.Grader, text string) string {
		return throughBits(g, text, plain, true)
	},
	"from an internal bit": func(g *grade.Grader, text string) string {
		return throughBits(g, text, plain, false)
	},
	"set and reset": func(g *grade.Grader, text string) string {
		return throughBits(g, text, held, false)
	},
	"other names": otherNames,
}

var (
	programs = regexp.MustCompile(`(?s)PROGRAM (\w+)\n.*?END_PROGRAM`)
	lastVar  = regexp.MustCompile(`(?s)^(PROGRAM \w+\n(?:VAR.*?END_VAR\n)*)`)
	instance = regexp.MustCompile(`(\w+(?:, \w+)*) : (TON|TOF|TP|TACC|CTU|CTD|CTUD|R_TRIG|RS|SR|bed)\b`)
)

// plain and held copy a bit to an output in each language: by its body's first and last word, which text has none of.
var (
	plain = map[string]string{"LADDER": "RUNG [%s_now] -- (%[1]s);\n", "FBD": "NETWORK %s_now => %[1]s;\n", "": "%s := %[1]s_now;\n"}
	held  = map[string]string{"LADDER": "RUNG { [%s_now] -- (S %[1]s) | [/%[1]s_now] -- (R %[1]s) };\n",
		"FBD": "NETWORK %s_now => (S %[1]s); NOT(%[1]s_now) => (R %[1]s);\n", "": "IF %s_now THEN %[1]s := TRUE; ELSE %[1]s := FALSE; END_IF;\n"}
)

// throughBits writes each output of the panel to an internal bit, and copies the bit to the output in front of the program, which is a
// scan later, or behind it.
func throughBits(g *grade.Grader, text string, copying map[string]string, front bool) string {
	return programs.ReplaceAllStringFunc(text, func(program string) string {
		var names, copies []string
		body := ""
		for word := range copying {
			if word != "" && strings.Contains(program, word+"\n") {
				body = word
			}
		}
		for _, p := range g.Exercise.Outputs {
			written := regexp.MustCompile(`\b` + p.Name + `\b`)
			if p.Type != "BOOL" || !written.MatchString(program) {
				continue
			}
			program = written.ReplaceAllString(program, p.Name+"_now")
			names = append(names, p.Name+"_now")
			copies = append(copies, fmt.Sprintf(copying[body], p.Name))
		}
		if len(names) == 0 {
			return program
		}
		head := lastVar.FindString(program)
		rest := program[len(head):]
		head += "VAR " + strings.Join(names, ", ") + " : BOOL; END_VAR\n"
		copied := strings.Join(copies, "")
		end := "END_PROGRAM"
		if body != "" {
			end = "END_" + body + "\nEND_PROGRAM"
		}
		switch {
		case front && body != "":
			return head + strings.Replace(rest, body+"\n", body+"\n"+copied, 1)
		case front:
			return head + copied + rest
		}
		return head + strings.TrimSuffix(rest, end) + copied + end
	})
}

// otherNames calls each instance something else.
func otherNames(_ *grade.Grader, text string) string {
	for _, m := range instance.FindAllStringSubmatch(text, -1) {
		for _, name := range strings.Split(m[1], ", ") {
			text = regexp.MustCompile(`\b`+name+`\b`).ReplaceAllString(text, "my_"+name)
		}
	}
	return text
}

// What does nothing earns nothing, and a starter earns less than half.
func TestNothingForNothing(t *testing.T) {
	exercises, err := filepath.Glob(filepath.Join(course, "exercises/*"))
	require.NoError(t, err)
	require.NotEmpty(t, exercises)
	for _, e := range exercises {
		g := grader(t, filepath.Base(e))
		trials := g.Trials()
		if g.Exercise.Kind != exercise.Predict { // which nobody begins
			require.Greater(t, len(trials), 1)
		}
		for _, trial := range trials {
			r := trial.Result
			assert.False(t, r.Diagnostics.HasErrors(), "%s: %v", e, r.Diagnostics)
			if trial.Name == grade.Empty {
				assert.Zero(t, r.Earned, "%s: %s", e, trial.Name)
			}
			assert.Less(t, 2*r.Earned, r.Points, "%s: %s earns %s", e, trial.Name, r.Earned)
		}
	}
}

// Only where order or width is the lesson is there no slack, and the brief says it.
func TestNoSlackIsTold(t *testing.T) {
	exercises, err := filepath.Glob(filepath.Join(course, "exercises/*"))
	require.NoError(t, err)
	for _, path := range exercises {
		e := grader(t, filepath.Base(path)).Exercise
		for _, one := range e.Graded {
			words := exact[e.Name]
			assert.Equal(t, words != "", one.Slack == 0, "%s: %s", e.Name, one.Name())
			assert.Contains(t, e.Brief, words, e.Name)
		}
	}
}
