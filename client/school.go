package client

import (
	"encoding/json"
	"time"
)

// Class is people who work on the same exercises.
type Class struct {
	ID       int64  `json:"id" example:"1"`
	Name     string `json:"name" example:"Glasshouse controls, spring"`
	TimeZone string `json:"timeZone" example:"Europe/Zagreb" doc:"IANA name; times are shown and days are counted in it."`
	Counts   string `json:"counts" enum:"best,last" example:"best" doc:"Which hand-in's mark stands."`
}

// ClassSettings make or change a class.
type ClassSettings struct {
	Name     string `json:"name" minLength:"1" maxLength:"100" example:"Glasshouse controls, autumn"`
	TimeZone string `json:"timeZone,omitempty" maxLength:"64" example:"Europe/Zagreb" doc:"IANA name; UTC where it is left out."`
	Counts   string `json:"counts,omitempty" enum:"best,last" example:"best"`
}

// Member is somebody of a class.
type Member struct {
	Login    string `json:"login" example:"ana"`
	Name     string `json:"name" example:"Ana Kovač"`
	Role     string `json:"role" enum:"administrator,instructor,learner" example:"learner"`
	Joined   bool   `json:"joined" doc:"Has chosen a password."`
	Disabled bool   `json:"disabled"`
}

// Roster is a class list to enrol.
type Roster struct {
	CSV string `json:"csv" maxLength:"1048576" example:"login,name\nnoor,Noor Aziz\n" doc:"A header line with the columns login and name, then a person a row."`
	Dry bool   `json:"dry,omitempty" doc:"Say what would be done, and do nothing."`
}

// Enrolled is what became of a class list. With problems nothing was done.
type Enrolled struct {
	Added    []JoinCode    `json:"added" doc:"Who is new to the class. The codes are shown this once."`
	Known    int           `json:"known" example:"11" doc:"How many of the list were in the class already."`
	Problems []ListProblem `json:"problems"`
	Dry      bool          `json:"dry"`
}

// JoinCode lets one person choose a password, once.
type JoinCode struct {
	Login   string    `json:"login" example:"noor"`
	Name    string    `json:"name" example:"Noor Aziz"`
	Code    string    `json:"code,omitempty" example:"k7fq-2mzp-dxtw" doc:"None for who has a password already."`
	Expires time.Time `json:"expires"`
}

// ListProblem is a row that is wrong.
type ListProblem struct {
	Line int    `json:"line" example:"3"`
	Say  string `json:"say" example:"ana stands in line 2 already."`
}

// Joining chooses a first password.
type Joining struct {
	Code     string `json:"code" minLength:"1" maxLength:"40" example:"k7fq-2mzp-dxtw"`
	Password string `json:"password" minLength:"10" maxLength:"200" example:"a long password"`
}

// NewPerson is somebody to add.
type NewPerson struct {
	Login string `json:"login" minLength:"1" maxLength:"63" example:"viktor"`
	Name  string `json:"name" minLength:"1" maxLength:"100" example:"Viktor Novak"`
	Role  string `json:"role" enum:"administrator,instructor,learner" example:"instructor"`
}

// Ability says whether somebody may sign in.
type Ability struct {
	Disabled bool `json:"disabled"`
}

// LoginOnly names a person.
type LoginOnly struct {
	Login string `json:"login" minLength:"1" maxLength:"63" example:"petra"`
}

// What becomes of a hand-in after the due time.
const (
	LateNone    = "none"    // it is not taken
	LateUntil   = "until"   // it is taken until a later time, as if in time
	LatePercent = "percent" // it is taken, and loses percent of its marks for each day begun
)

// Terms are what an assignment asks. A missing time and a 0 ask nothing. The service's records, its rules, its log and the console's
// form go by this one list of fields; the columns are those of the table assignments.
type Terms struct {
	Opens       *time.Time `gorm:"column:opens_at" json:"opens,omitempty" example:"2026-03-02T08:00:00+01:00"`
	Due         *time.Time `gorm:"column:due_at" json:"due,omitempty" example:"2026-03-09T18:00:00+01:00"`
	Late        string     `json:"late" enum:"none,until,percent" example:"percent" doc:"After the due time a hand-in is not taken (none), taken as if in time until lateUntil (until), or loses latePercent of its marks for each day begun (percent)."`
	LateUntil   *time.Time `json:"lateUntil,omitempty" example:"2026-03-16T18:00:00+01:00"`
	LatePercent int        `json:"latePercent" minimum:"0" maximum:"100" example:"10"`
	Attempts    int        `json:"attempts" minimum:"0" maximum:"1000" example:"0" doc:"How many hand-ins; 0 is any number."`
	Sees        string     `json:"sees" enum:"marks,first,shown,all" example:"shown" doc:"What a learner sees after a hand-in: marks only, the first difference, all of the shown scenarios, everything."`
	Minutes     int        `json:"minutes" minimum:"0" maximum:"10080" example:"0" doc:"Time from pressing Start; 0 is no limit."`
	// TellMistake and TellDifference are about what a closer look finds, some time after the mark.
	TellMistake    bool `json:"tellMistake" doc:"Learners read what is said of the known mistake that a hand-in behaves like."`
	TellDifference bool `json:"tellDifference" doc:"Learners see the shortest script on which a hand-in still differs from what is expected, without the solution."`
	Published      bool `json:"published" doc:"Learners see the exercise."`
	Position       int  `json:"position" minimum:"0" example:"3" doc:"Its place in the list."`
}

// Assignment is an exercise of a class with its terms.
type Assignment struct {
	Name     string  `json:"name" example:"mist-hold-in"`
	Title    string  `json:"title" example:"Hold the mist valve in"`
	Points   float64 `json:"points" example:"10"`
	Revision int     `json:"revision" example:"1"`
	Terms
}

// Taking lets a class work on exercises of another.
type Taking struct {
	From      int64    `json:"from" minimum:"1" example:"1" doc:"The class that has them."`
	Exercises []string `json:"exercises" minItems:"1" maxItems:"500" example:"[\"tray-counter\"]"`
}

// Overruling gives a mark by hand.
type Overruling struct {
	Earned float64 `json:"earned" minimum:"0" maximum:"100000" example:"8.5"`
	Reason string  `json:"reason" minLength:"3" maxLength:"1000" example:"The wire of the sensor was broken in the lab."`
}

// Override is a mark given by hand.
type Override struct {
	Earned float64   `json:"earned" example:"8.5"`
	Reason string    `json:"reason"`
	By     string    `json:"by" example:"Nadia Berger"`
	At     time.Time `json:"at"`
}

// Remark is a comment to write.
type Remark struct {
	Line int    `json:"line,omitempty" minimum:"0" maximum:"1000000" example:"3" doc:"The line of the program; 0 is all of it."`
	Rung int    `json:"rung,omitempty" minimum:"0" maximum:"100000" example:"1" doc:"In place of a line: a rung, by its number in the program."`
	Text string `json:"text" minLength:"1" maxLength:"4000" example:"This branch must stand beside the button, not behind it."`
}

// Comment is what an instructor says about a hand-in.
type Comment struct {
	ID   int64     `json:"id" example:"5"`
	Line int       `json:"line" example:"3"`
	Rung int       `json:"rung,omitempty" example:"1" doc:"The rung that the line is part of."`
	Text string    `json:"text"`
	By   string    `json:"by" example:"Nadia Berger"`
	At   time.Time `json:"at"`
}

// Regrading asks for hand-ins to be graded again.
type Regrading struct {
	Exercise string `json:"exercise" maxLength:"100" example:"mist-hold-in"`
	Handin   int64  `json:"handin,omitempty" example:"7" doc:"Only this one."`
	Revision int    `json:"revision,omitempty" example:"2" doc:"By this revision; the one that the class works on where it is left out."`
	Apply    string `json:"apply,omitempty" example:"9f2c41d07be35a6618c0d4e2" doc:"The key of a preview: what it shows is stored, all of it or nothing."`
}

// Regraded is what grading again gives.
type Regraded struct {
	Key      string   `json:"key" doc:"Names this preview; send it as apply."`
	Revision int      `json:"revision" example:"2"`
	Graded   int      `json:"graded" example:"12"`
	Changes  []Change `json:"changes"`
	Applied  bool     `json:"applied"`
}

// Change is a mark before and after.
type Change struct {
	Handin int64   `json:"handin" example:"7"`
	Number int     `json:"number" example:"2"`
	Person string  `json:"person" example:"Ana Kovač"`
	Before float64 `json:"before" example:"6"`
	After  float64 `json:"after" example:"8"`
}

// Insight is what a class's counting hand-ins to an exercise tell.
type Insight struct {
	Exercise    string            `json:"exercise" example:"mist-hold-in"`
	Title       string            `json:"title" example:"Hold the mist valve in"`
	Handins     int               `json:"handins" example:"11" doc:"One of each learner: the one that counts."`
	Scenarios   []ScenarioInsight `json:"scenarios"`
	Differences []CommonSlip      `json:"differences" doc:"The most common first differences, most common first."`
	Mistakes    []MistakeGroup    `json:"mistakes" doc:"What the hand-ins behave like, most common first."`
	Looking     int               `json:"looking" example:"0" doc:"Hand-ins that wait for the closer look that tells."`
	Alike       []Alike           `json:"alike" doc:"Hand-ins whose logic is the same but for names and order. A fact, not a verdict: a short task has few right answers."`
}

// ScenarioInsight is how many earn a scenario whole.
type ScenarioInsight struct {
	Name   string  `json:"name" example:"stays on after release"`
	Passed int     `json:"passed" example:"9"`
	Of     int     `json:"of" example:"11"`
	Points float64 `json:"points" example:"4"`
}

// CommonSlip is a first difference that several have.
type CommonSlip struct {
	Scenario string        `json:"scenario"`
	Signal   string        `json:"signal" example:"mist_valve"`
	Scan     int           `json:"scan" example:"300" doc:"Where it differs, or where the run stopped."`
	Say      string        `json:"say" example:"At scan 300 (3 s) it should be FALSE and was TRUE."`
	Handins  []HandinShort `json:"handins"`
}

// MistakeGroup is a known mistake that counting hand-ins behave like.
type MistakeGroup struct {
	KnownMistake
	Handins []SlipShort `json:"handins"`
	Ever    int         `json:"ever" example:"14" doc:"How many people have ever handed it in, in any class and to any revision of the exercise."`
}

// SlipShort names a hand-in that behaves like a known mistake.
type SlipShort struct {
	HandinShort
	Since int `json:"since" example:"2" doc:"The number of the hand-in since which this person's have behaved so."`
}

// Hinting says something to everybody whose counting hand-in behaves like a known mistake.
type Hinting struct {
	Mistake string `json:"mistake" minLength:"1" maxLength:"1000" example:"branch-left-out: the branch [mist_valve] is left out"`
	Text    string `json:"text" minLength:"1" maxLength:"10000" example:"Look at what keeps the output on after the button is let go."`
}

// Hinted is how many were told.
type Hinted struct {
	Told int `json:"told" example:"3"`
}

// Alike is a group of hand-ins with one structure.
type Alike struct {
	Handins []HandinShort `json:"handins"`
}

// HandinShort names a hand-in.
type HandinShort struct {
	ID     int64  `json:"id" example:"7"`
	Person string `json:"person" example:"Ana Kovač"`
}

// AuditEntry says who changed what that a mark may depend on.
type AuditEntry struct {
	ID      int64           `json:"id"`
	At      time.Time       `json:"at"`
	By      string          `json:"by" example:"Nadia Berger" doc:"Empty: at the service's own machine."`
	Action  string          `json:"action" example:"override mark"`
	Subject string          `json:"subject" example:"hand-in 7"`
	Before  json.RawMessage `json:"before"`
	After   json.RawMessage `json:"after"`
}

// Page is a stretch of a long list. Next, where it is not empty, is what to send as after for the rest.
type Page[T any] struct {
	Items []T    `json:"items"`
	Next  string `json:"next,omitempty"`
}

// ClassProgress is told when something of a class has been graded or changed.
type ClassProgress struct {
	Graded  int `json:"graded" example:"81"`
	Waiting int `json:"waiting" example:"0"`
}
