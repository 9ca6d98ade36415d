package client

// Result is the mark of a hand-in and where it went, as [Handin.Result] has it. Of a scenario that one may not see it has the
// points, and that it is hidden.
type Result struct {
	Engine      string         `json:"engine,omitempty" example:"celandine/5" doc:"The rules by which it was marked."`
	Revision    string         `json:"revision,omitempty" doc:"The hash of the exercise's files; for instructors."`
	Handin      string         `json:"handin,omitempty" doc:"The hash of the program's text."`
	File        string         `json:"file" example:"mine.ladder"`
	Earned      float64        `json:"earned" example:"8"`
	Points      float64        `json:"points" example:"10"`
	Scenarios   []ScenarioMark `json:"scenarios"`
	Findings    []Finding      `json:"findings"`
	Diagnostics []Diagnostic   `json:"diagnostics"`
}

// ScenarioMark is the mark of one scenario.
type ScenarioMark struct {
	Name    string       `json:"name" example:"stays on after release"`
	Earned  float64      `json:"earned" example:"4"`
	Points  float64      `json:"points" example:"4"`
	Signals []SignalMark `json:"signals" doc:"Its parts: graded signals, or checks."`
	Still   bool         `json:"still,omitempty" doc:"Nothing may happen in it: whole or nothing."`
	Note    string       `json:"note,omitempty" doc:"Why it earns nothing, where its signals do not tell."`
	Fault   *Fault       `json:"fault,omitempty"`
	Hidden  bool         `json:"hidden,omitempty" doc:"What one may not see was taken out."`
}

// Fault is where a run ended before its time.
type Fault struct {
	Scan    int    `json:"scan" example:"40"`
	Line    int    `json:"line" example:"4"`
	Message string `json:"message" example:"This divides by zero."`
}

// SignalMark tells whether one part of a scenario was as expected.
type SignalMark struct {
	Signal     string      `json:"signal" example:"mist_valve" doc:"As the hand-in names it."`
	Of         string      `json:"of,omitempty" example:"TON.ET" doc:"Where it is graded by its block's type."`
	Still      bool        `json:"still" doc:"A program that does nothing gets it right."`
	OK         bool        `json:"ok"`
	Drawn      bool        `json:"drawn,omitempty" doc:"Its actual value is what somebody predicted."`
	Difference *Difference `json:"difference,omitempty"`
	Missing    string      `json:"missing,omitempty" doc:"What is wrong where no difference tells it."`
	Why        *Why        `json:"why,omitempty"`
}

// Difference is the first scan at which a signal was not as expected.
type Difference struct {
	Scan     int    `json:"scan" example:"100"`
	Time     string `json:"time" example:"1 s"`
	Expected any    `json:"expected" example:"false" doc:"A truth value, a number or a text."`
	Actual   any    `json:"actual" example:"true" doc:"A truth value, a number or a text."`
}

// Why explains a value at a scan.
type Why struct {
	Signal string   `json:"signal" example:"mist_valve"`
	Scan   int      `json:"scan" example:"100"`
	Time   string   `json:"time" example:"1 s"`
	Value  string   `json:"value" example:"TRUE"`
	Short  []string `json:"short" doc:"In sentences."`
	Steps  []Reason `json:"steps" doc:"From the signal back to what began it."`
}

// Reason is one step of an explanation.
type Reason struct {
	Signal   string    `json:"signal" example:"mist_valve"`
	Value    string    `json:"value" example:"TRUE"`
	Scan     int       `json:"scan" example:"100"`
	Since    int       `json:"since" example:"40" doc:"The scan since when it has the value."`
	Kind     string    `json:"kind" example:"rung" doc:"What gave it: rung, statement, input, block …"`
	Place    *Place    `json:"place,omitempty"`
	Within   string    `json:"within,omitempty" doc:"The instance or function whose rung or line it is."`
	Elements []Element `json:"elements"`
	Say      string    `json:"say"`
	Second   string    `json:"second,omitempty" doc:"What else would have kept the value so."`
}

// Place is where something stands in a hand-in; start and end count bytes from 0.
type Place struct {
	File  string `json:"file" example:"mine.ladder"`
	Line  int    `json:"line" example:"4"`
	Rung  int    `json:"rung,omitempty" example:"2"`
	Title string `json:"title,omitempty" example:"Hold in"`
	Start int    `json:"start" example:"90"`
	End   int    `json:"end" example:"151"`
}

// Element is a contact, a block or an operand that an explanation looks at.
type Element struct {
	Text    string `json:"text" example:"[mist_on]"`
	Name    string `json:"name,omitempty" example:"mist_on"`
	State   string `json:"state,omitempty" example:"closed"`
	Since   int    `json:"since" example:"40"`
	Decides bool   `json:"decides" doc:"Were it otherwise, so would be the value."`
	In      bool   `json:"in,omitempty" doc:"Power reached it."`
	Out     bool   `json:"out,omitempty" doc:"Power left it."`
	Start   int    `json:"start" example:"102"`
	End     int    `json:"end" example:"117"`
}

// Finding is a rule that a hand-in broke; a learner is told of rules for scenarios that are not shown whether they were broken or not.
type Finding struct {
	Rule     string  `json:"rule" example:"require TON"`
	Deduct   float64 `json:"deduct" example:"1" doc:"What it took off; 0 where it took nothing."`
	Say      string  `json:"say" example:"Use an on-delay timer"`
	Scenario string  `json:"scenario,omitempty" doc:"In which it was broken."`
}

// Evidence is what the diagram of one scenario shows.
type Evidence struct {
	Scenario string `json:"scenario" example:"stays on after release"`
	Inputs   Trace  `json:"inputs"`
	Expected Trace  `json:"expected"`
	Actual   Trace  `json:"actual"`
}

// Trace is recorded signals.
type Trace struct {
	Period  int64    `json:"period" example:"10000000" doc:"Nanoseconds."`
	Scans   int      `json:"scans" example:"500"`
	Signals []Column `json:"signals"`
	Acts    []Act    `json:"acts,omitempty" doc:"What was done by hand or by a script."`
}

// Column is one signal: from a segment's scan on its value is value + slope × (n − scan).
type Column struct {
	Name     string   `json:"name" example:"mist_valve"`
	Type     string   `json:"type" example:"BOOL"`
	Texts    []string `json:"texts,omitempty" doc:"Of texts and enumerations, what the values are places in."`
	Segments [][]any  `json:"segments" doc:"[scan, value, slope]; times in nanoseconds, truth values as 0 and 1, a real that is none as a text."`
}

// Act is something that a script did besides working inputs.
type Act struct {
	Scan  int    `json:"scan" example:"40"`
	Verb  string `json:"verb" enum:"force,unforce,write,restart" example:"force"`
	Name  string `json:"name,omitempty" example:"mist_valve"`
	Value string `json:"value,omitempty" example:"TRUE"`
}
