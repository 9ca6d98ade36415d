package bridge

import (
	"fmt"
	"strings"

	"celandine/bridge/editor"
	"celandine/core/exercise"
	"celandine/core/signal"
	"celandine/core/workshop"
)

// A folder is an exercise being written: its texts, and the names alone of its pictures.
type folder struct {
	Files map[string]string `json:"files"`
}

func (f folder) read() exercise.Files {
	files := exercise.Files{}
	for name, text := range f.Files {
		files[name] = []byte(text)
	}
	return files
}

// changed is what a change makes of a folder: the texts that became others, and the files that are gone.
type changed struct {
	Files map[string]string `json:"files"`
	Gone  []string          `json:"gone"`
}

func changedBy(files exercise.Files, err error) (changed, error) {
	out := changed{map[string]string{}, []string{}}
	for name, text := range files {
		if text == nil {
			out.Gone = append(out.Gone, name)
			continue
		}
		out.Files[name] = string(text)
	}
	return out, err
}

// inWorkshop are the calls of the page on which an exercise is written.
var inWorkshop = []Call{
	call("outline", func(_ *Page, in folder) (workshop.Outline, error) { return workshop.Of(in.read()), nil }),
	call("judge", func(_ *Page, in judged) (workshop.Judgement, error) { return workshop.Judge(in.read(), in.Before), nil }),
	call("try", func(_ *Page, in tried) (workshop.Variant, error) { return workshop.Try(in.read(), in.File, in.Text) }),
	call("edit", func(_ *Page, in edited) (changed, error) { return changedBy(workshop.Edit(in.read(), in.Edits)) }),
	call("addPoint", func(_ *Page, in added) (changed, error) {
		return changedBy(workshop.AddPoint(in.read(), in.Input, in.Type))
	}),
	call("rename", func(_ *Page, in renamed) (changed, error) { return changedBy(workshop.Rename(in.read(), in.At, in.To)) }),
	call("moveEdge", func(_ *Page, in movedEdge) (changed, error) {
		return changedBy(workshop.MoveEdge(in.read(), in.Scenario, in.Edge, in.To))
	}),
	call("addStep", func(_ *Page, in addedStep) (changed, error) {
		return changedBy(workshop.AddStep(in.read(), in.Scenario, in.Scan, in.Step))
	}),
	call("reshape", func(_ *Page, in reshaped) (changed, error) {
		return changedBy(workshop.Reshape(in.read(), in.Scenario, in.Do, in.From, in.To, in.By))
	}),
	call("taken", func(_ *Page, in stretch) ([]workshop.Timed, error) {
		return workshop.Taken(in.read(), in.Scenario, in.From, in.To)
	}),
	call("paste", func(_ *Page, in pasted) (changed, error) {
		return changedBy(workshop.Paste(in.read(), in.Scenario, in.Steps, in.At))
	}),
	call("ramp", func(_ *Page, in ramp) (changed, error) {
		return changedBy(workshop.Ramp(in.read(), in.Scenario, in.Input, in.From, in.To, in.Every, in.Least, in.Greatest))
	}),
	call("work", func(_ *Page, in workedFor) (changed, error) {
		return changedBy(workshop.Work(in.read(), in.Scenario, in.Input, in.From, in.To, in.Value))
	}),
	call("repeat", func(_ *Page, in repeated) (changed, error) {
		return changedBy(workshop.Repeat(in.read(), in.Scenario, in.Input, in.From, in.To, in.Times))
	}),
	call("breakWire", func(_ *Page, in ofInput) (changed, error) {
		return changedBy(workshop.BreakWire(in.read(), in.Scenario, in.Input, in.From, in.To))
	}),
	call("rows", func(_ *Page, in inScenario) ([]workshop.Row, error) { return workshop.Rows(in.read(), in.Scenario) }),
	call("setCell", func(_ *Page, in cell) (changed, error) {
		return changedBy(workshop.SetCell(in.read(), in.Scenario, in.Scan, in.Input, in.Value))
	}),
	onBench("record", func(p *Page, in inScenario) (changed, error) {
		script := p.bench.Script()
		steps := exercise.StepsByHand(p.panel, script, p.broken)
		return changedBy(workshop.Record(in.read(), in.Scenario, steps, script.Scans))
	}),
	call("copyScenario", func(_ *Page, in inScenario) (changed, error) {
		return changedBy(workshop.CopyScenario(in.read(), in.Scenario))
	}),
	call("steps", func(_ *Page, in inScenario) (changed, error) {
		return changedBy(workshop.Steps(in.read(), in.Scenario))
	}),
	call("pin", func(_ *Page, in pinned) (changed, error) {
		return changedBy(workshop.Pin(in.read(), in.Scenario, in.Solution))
	}),
	call("unpin", func(_ *Page, in inScenario) (changed, error) {
		return changedBy(workshop.Unpin(in.read(), in.Scenario))
	}),
	call("addCheck", func(_ *Page, in addedCheck) (changed, error) {
		return changedBy(workshop.AddCheck(in.read(), in.Scenario, in.Check, in.From, in.To))
	}),
	call("ignore", func(_ *Page, in stretch) (changed, error) {
		return changedBy(workshop.Ignore(in.read(), in.Scenario, in.From, in.To))
	}),
	call("drawExpected", func(_ *Page, in drawnExpected) (changed, error) {
		return changedBy(workshop.DrawExpected(in.read(), in.Scenario, in.Signal, in.Value, in.From, in.To))
	}),
	call("gradeSignal", func(_ *Page, in gradedSignal) (changed, error) {
		return changedBy(workshop.Grade(in.read(), in.Signal))
	}),
	call("starter", func(_ *Page, in starter) (changed, error) {
		return changedBy(workshop.Starter(in.read(), in.Language, in.Without))
	}),
	call("scanOf", func(_ *Page, in momentText) (scanned, error) {
		period, err := signal.ParseTime(strings.ReplaceAll(in.Period, " ", ""))
		if err != nil {
			return scanned{}, err
		}
		scan, ok := exercise.MomentOf(in.Text, period)
		if !ok {
			return scanned{}, fmt.Errorf("%q is no moment; write it like 300ms, 1.5s or scan 400", in.Text)
		}
		return scanned{scan}, nil
	}),
	call("sentence", func(_ *Page, in sentence) (changed, error) {
		return changedBy(workshop.Sentence(in.read(), in.File, in.Says))
	}),
	call("begun", func(_ *Page, in inLanguage) (editor.Written, error) {
		return editor.Written{Text: workshop.Begun(in.read(), in.Language)}, nil
	}),
	call("rungs", func(_ *Page, in editor.Program) ([]workshop.RungText, error) { return workshop.Rungs(in.Text), nil }),
	call("differences", func(_ *Page, in twoFolders) ([]string, error) {
		return workshop.Differences(folder{in.Before}.read(), folder{in.After}.read()), nil
	}),
}

type sentence struct {
	folder
	File string `json:"file"`
	Says string `json:"says"`
}

type inLanguage struct {
	folder
	Language string `json:"language"`
}

// momentText is a moment as people write it.
type momentText struct {
	Period string `json:"period"`
	Text   string `json:"text"`
}

type judged struct {
	folder
	Before string `json:"before"`
}

type tried struct {
	folder
	editor.Program
}

type edited struct {
	folder
	Edits []exercise.Edit `json:"edits"`
}

type added struct {
	folder
	Input bool   `json:"input"`
	Type  string `json:"type"`
}

type renamed struct {
	folder
	At string `json:"at"`
	To string `json:"to"`
}

type inScenario struct {
	folder
	Scenario int `json:"scenario"`
}

type movedEdge struct {
	inScenario
	Edge exercise.Edge `json:"edge"`
	To   int           `json:"to"`
}

type addedStep struct {
	inScenario
	Scan int               `json:"scan"`
	Step exercise.StepForm `json:"step"`
}

// stretch is scans of a scenario: from is in, to is out.
type stretch struct {
	inScenario
	From int `json:"from"`
	To   int `json:"to"`
}

type pasted struct {
	inScenario
	Steps []workshop.Timed `json:"steps"`
	At    int              `json:"at"` // scan
}

type reshaped struct {
	stretch
	Do workshop.Reshaping `json:"do"`
	By int                `json:"by"`
}

// ofInput is a stretch of one input.
type ofInput struct {
	stretch
	Input string `json:"input"`
}

type workedFor struct {
	ofInput
	Value string `json:"value"` // of a number
}

type repeated struct {
	ofInput
	Times int `json:"times"`
}

type ramp struct {
	ofInput
	Every    int   `json:"every"`
	Least    int64 `json:"least"`
	Greatest int64 `json:"greatest"`
}

type cell struct {
	inScenario
	Scan  int    `json:"scan"`
	Input string `json:"input"`
	Value string `json:"value"`
}

type pinned struct {
	inScenario
	// Solution is the text whose trace is pinned; "" is the folder's own.
	Solution string `json:"solution"`
}

type addedCheck struct {
	stretch
	Check exercise.CheckForm `json:"check"`
}

type drawnExpected struct {
	stretch
	Signal string `json:"signal"`
	Value  string `json:"value"`
}

type gradedSignal struct {
	folder
	Signal workshop.Signal `json:"signal"`
}

type starter struct {
	folder
	Language string              `json:"language"`
	Without  []workshop.RungText `json:"without"`
}

type twoFolders struct {
	Before map[string]string `json:"before"`
	After  map[string]string `json:"after"`
}
