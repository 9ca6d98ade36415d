// Package client speaks with a Celandine service.
//
// The request and response types here are the API's own: service/api answers
// with them. [Client] signs in, pushes exercises, hands in and reads marks.
// It imports nothing of the core: results travel as JSON.
package client

import (
	"encoding/json"
	"time"
)

// Version tells which Celandine answers.
type Version struct {
	Version string `json:"version" example:"v1.4.0"`
	Engine  string `json:"engine" example:"celandine/5" doc:"The rules by which programs run and are marked."`
}

// Credentials sign a person in.
type Credentials struct {
	Login    string `json:"login" minLength:"1" maxLength:"100" example:"ana" doc:"The person's login, in any case of letters."`
	Password string `json:"password" minLength:"1" maxLength:"200" example:"a long password"`
}

// Session says who is signed in.
type Session struct {
	Person *Person `json:"person,omitempty" doc:"Absent while nobody is."`
}

// Person is somebody who signs in.
type Person struct {
	Login string `json:"login" example:"ana"`
	Name  string `json:"name" example:"Ana Kovač"`
	Role  string `json:"role" enum:"administrator,instructor,learner" example:"learner"`
	Class string `json:"class" example:"Glasshouse controls, spring" doc:"The first class, empty while enrolled in none."`
	// Classes are told of oneself only.
	Classes []Class `json:"classes,omitempty"`
}

// TokenWish asks for a token.
type TokenWish struct {
	Credentials
	Name  string `json:"name,omitempty" maxLength:"100" example:"marks script" doc:"What to know it by in the list of one's sign-ins."`
	Scope string `json:"scope,omitempty" enum:"read,hand-in,all" default:"all" example:"read" doc:"What it may do: read; read, write drafts and hand in; all that the person may."`
	Days  int    `json:"days,omitempty" minimum:"1" maximum:"90" default:"90" example:"7" doc:"How long it lasts."`
}

// Token lets the command line act for a person until it expires.
type Token struct {
	Token   string    `json:"token" doc:"Shown once; send it as Authorization: Bearer."`
	Scope   string    `json:"scope" enum:"read,hand-in,all"`
	Expires time.Time `json:"expires"`
	Person  Person    `json:"person"`
}

// SignIn is a browser's session or a token that acts for a person.
type SignIn struct {
	ID      int64      `json:"id" example:"5"`
	Kind    string     `json:"kind" enum:"session,token" example:"token"`
	Name    string     `json:"name" example:"marks script"`
	Scope   string     `json:"scope" enum:"read,hand-in,all" example:"read"`
	Began   time.Time  `json:"began"`
	Used    *time.Time `json:"used,omitempty" doc:"Last, to about a minute."`
	Expires time.Time  `json:"expires"`
	This    bool       `json:"this" doc:"The one that asks."`
}

// Summary is an exercise in a list. Best and Handins are one's own.
type Summary struct {
	Name     string   `json:"name" example:"mist-hold-in"`
	Title    string   `json:"title" example:"Hold the mist valve in"`
	Topic    string   `json:"topic" example:"latches"`
	Points   float64  `json:"points" example:"10"`
	Revision int      `json:"revision" example:"1"`
	Handins  int      `json:"handins" example:"2"`
	Best     *float64 `json:"best,omitempty" example:"8" doc:"The mark that stands, the best or the last by the class's rule; absent while none is graded."`
	// What is asked of one, and how one stands to it.
	Due      *time.Time `json:"due,omitempty"`
	Closes   *time.Time `json:"closes,omitempty" doc:"After this no hand-in is taken."`
	Attempts int        `json:"attempts,omitempty" doc:"How many hand-ins are taken; absent: any number."`
	Minutes  int        `json:"minutes,omitempty" doc:"Timed: so long from Start."`
	Ends     *time.Time `json:"ends,omitempty" doc:"When one's own time is over."`
	Refused  string     `json:"refused,omitempty" example:"All 3 hand-ins to this exercise are used." doc:"Why no hand-in is taken now."`
	Reason   string     `json:"reason,omitempty" example:"no-attempts" doc:"The code of refused."`
}

// Exercise is what a learner may see of an exercise.
type Exercise struct {
	Summary
	Period    string            `json:"period" example:"10ms"`
	Kind      string            `json:"kind" enum:"write,predict" doc:"What is handed in: a program, or what the one that is shown will do."`
	Languages []string          `json:"languages" doc:"Of what is handed in: ladder, fbd, st, or, of a prediction, trace."`
	Reasons   []string          `json:"reasons,omitempty" example:"[\"Two coils write the fan\"]" doc:"To choose from where a trace is called erratic."`
	Programs  []Solution        `json:"programs,omitempty" doc:"Of a prediction: the program that is shown, in each of its languages."`
	Brief     string            `json:"brief" doc:"The task, as sanitized HTML."`
	Inputs    []Point           `json:"inputs"`
	Picture   string            `json:"picture,omitempty" example:"/api/exercises/mist-hold-in/pictures/bench.png" doc:"Where the picture is that the panel's devices stand on."`
	Outputs   []Point           `json:"outputs"`
	Graded    []Graded          `json:"graded"`
	Told      string            `json:"told" example:"whatever its name: ET of a TON" doc:"What besides the panel's points is graded, and whether its name matters; empty where nothing is."`
	Scenarios []Scenario        `json:"scenarios"`
	Starters  map[string]string `json:"starters" doc:"A program to begin with, by language: the author's, or one with nothing in it."`
	Tasks     []Task            `json:"tasks" doc:"Which program runs how often; none: every program in every scan."`
}

// Task is a program that runs every so many scans, or once.
type Task struct {
	Program  string `json:"program" example:"slow"`
	Every    int    `json:"every" example:"10" doc:"Scans."`
	Priority int    `json:"priority" example:"2"`
	Once     bool   `json:"once"`
}

// Point is one wire of the panel.
type Point struct {
	Name    string `json:"name" example:"mist_off"`
	Address string `json:"at" example:"%IX0.1"`
	Device  string `json:"device" example:"button"`
	Contact string `json:"contact" enum:"open,closed"`
	Label   string `json:"label" example:"Mist OFF"`
	Type    string `json:"type" example:"BOOL"`
	Unit    string `json:"unit,omitempty" example:"0.1 °C"`
	Initial int64  `json:"initial,omitempty" doc:"The device's state before anything is touched."`
	Place   []int  `json:"place,omitempty" example:"[30,60]" doc:"Where its device stands on the panel, in percent from the left and from the top; none: in a row with the others."`
}

// Graded is a signal that is compared.
type Graded struct {
	Signal string `json:"signal" example:"TON.ET" doc:"A name, or the block and member."`
	Block  string `json:"block,omitempty" example:"TON" doc:"The hand-in's instance of this type is meant, whatever its name."`
	Member string `json:"member,omitempty" example:"ET"`
	Weight int    `json:"weight"`
	Type   string `json:"type,omitempty" example:"BOOL" doc:"Where it is predicted."`
	Slack  int    `json:"slack" example:"2" doc:"Scans that a change may be off."`
}

// Scenario is what a learner may know of a scripted run.
type Scenario struct {
	Name   string  `json:"name" example:"stays on after release"`
	Points float64 `json:"points" example:"4"`
	Shown  bool    `json:"shown" doc:"Whether learners see its script and traces."`
	// Of what is predicted, for marks or for practice.
	ByHand   bool            `json:"byHand,omitempty" doc:"A hand works the inputs, each change a scan sooner or later; it may be erratic."`
	Practice bool            `json:"practice,omitempty" doc:"It may be predicted before the first run, without marks."`
	Script   json.RawMessage `json:"script,omitempty" doc:"The inputs, as a trace, where they are seen before a hand-in."`
}

// Program is a text to check or hand in.
type Program struct {
	File string `json:"file" minLength:"1" maxLength:"200" example:"mine.ladder" doc:"A name for the text; messages use it."`
	Text string `json:"text" maxLength:"4194304" example:"PROGRAM mist\nmist_valve := mist_on;\nEND_PROGRAM\n" doc:"Of a file that ends in .xml, the exchange format of IEC 61131-10; it is kept as the program that it holds."`
}

// Exporting is a program that is wanted as an exchange file.
type Exporting struct {
	File string `json:"file" minLength:"1" maxLength:"200" example:"mine.ladder"`
	Text string `json:"text" maxLength:"1048576" example:"PROGRAM mist\nmist_valve := mist_on;\nEND_PROGRAM\n"`
	Form string `json:"form" enum:"xml,xml-2009" example:"xml" doc:"The standard's form, or the one before it, which more programs read."`
}

// Exchanged is a program that came out of an exchange file, or an exchange file.
type Exchanged struct {
	File        string       `json:"file" example:"mine.ladder" doc:"Its name, which ends as its language does."`
	Text        string       `json:"text" example:"PROGRAM mist\nmist_valve := mist_on;\nEND_PROGRAM\n" doc:"Empty where there are errors."`
	Diagnostics []Diagnostic `json:"diagnostics"`
}

// Draft is what a person is writing for an exercise in one language.
type Draft struct {
	Language string    `json:"language" enum:"ladder,fbd,st,trace" example:"ladder"`
	Text     string    `json:"text" example:"PROGRAM mist\nEND_PROGRAM\n"`
	Version  int       `json:"version" example:"3" doc:"Counts the savings."`
	Saved    time.Time `json:"saved"`
}

// DraftText is a draft to save over a version.
type DraftText struct {
	Text    string `json:"text" maxLength:"1048576" example:"PROGRAM mist\nEND_PROGRAM\n"`
	Version int    `json:"version" minimum:"0" example:"3" doc:"The version that one knows; 0 before the first. Where another stands by now, the answer is 409."`
}

// Diagnostic says what is wrong and where; lines and columns count from 1.
type Diagnostic struct {
	Code      string `json:"code" example:"undeclared"`
	Severity  string `json:"severity" enum:"error,warning"`
	File      string `json:"file"`
	Line      int    `json:"line"`
	Column    int    `json:"column"`
	EndLine   int    `json:"endLine"`
	EndColumn int    `json:"endColumn"`
	Message   string `json:"message" example:"There is no variable named strat."`
	Hint      string `json:"hint,omitempty" example:"Did you mean start?"`
}

// Checked is the answer to a check.
type Checked struct {
	Diagnostics []Diagnostic `json:"diagnostics"`
	Summary     string       `json:"summary" example:"0 errors, 0 warnings"`
	Missing     []string     `json:"missing" doc:"Graded names that the program lacks."`
}

// The states of a hand-in.
const (
	Waiting = "waiting"
	Done    = "graded"
)

// Handin is a program that was handed in, and its mark when there is one.
type Handin struct {
	ID       int64           `json:"id" example:"7"`
	Number   int             `json:"number" example:"2" doc:"Counts one's hand-ins to the exercise from 1."`
	Exercise string          `json:"exercise" example:"mist-hold-in"`
	Title    string          `json:"title" example:"Hold the mist valve in"`
	Person   Person          `json:"person"`
	File     string          `json:"file" example:"mine.ladder"`
	Text     string          `json:"text,omitempty"`
	HandedIn time.Time       `json:"handedIn"`
	State    string          `json:"state" enum:"waiting,graded"`
	Earned   *float64        `json:"earned,omitempty" doc:"As graded."`
	Counted  *float64        `json:"counted,omitempty" doc:"What counts: less what lateness costs, or the mark given by hand."`
	Late     int             `json:"late,omitempty" doc:"Days begun since the due time."`
	Override *Override       `json:"override,omitempty"`
	Comments []Comment       `json:"comments,omitempty"`
	Points   float64         `json:"points"`
	Revision int             `json:"revision,omitempty" doc:"That gave the mark."`
	Before   int64           `json:"before,omitempty" doc:"For instructors: the hand-in before it in the review queue."`
	After    int64           `json:"after,omitempty" doc:"For instructors: the next in the review queue."`
	Result   json.RawMessage `json:"result,omitempty" doc:"Marks by scenario, findings and diagnostics."`
	Evidence json.RawMessage `json:"evidence,omitempty" doc:"Traces of the scenarios that may be seen."`
	Programs []Solution      `json:"programs,omitempty" doc:"Of a prediction: the program that was shown."`
	Looking  bool            `json:"looking,omitempty" doc:"A closer look that one may be told of is still to come."`
	Look     *Look           `json:"look,omitempty" doc:"What a closer look found, some time after the mark; to learners as far as the assignment says."`
}

// Look is what a closer look at a graded hand-in found.
type Look struct {
	Mistake    *KnownMistake    `json:"mistake,omitempty" doc:"What it behaves like; none where it has full marks, or is like no known mistake."`
	Verdict    string           `json:"verdict,omitempty" enum:"differs,same,none" doc:"Of the hand-in and the solution: they differ on a script, are the same in every state that they can reach, or no difference was found."`
	Difference *FoundDifference `json:"difference,omitempty" doc:"The shortest script on which they differ."`
}

// KnownMistake is one that was kept in the exercise, or is one change of a solution.
type KnownMistake struct {
	Key   string `json:"key,omitempty" example:"branch-left-out: the branch [mist_valve] is left out" doc:"The same for all that behave alike."`
	Title string `json:"title,omitempty" example:"branch left out"`
	Words string `json:"words,omitempty" example:"the branch [mist_valve] is left out (rung 1)"`
	Says  string `json:"says,omitempty" example:"The mist stops as soon as the button is let go." doc:"The instructor's sentence: all that a learner is told."`
	Hint  string `json:"hint,omitempty" example:"Look at what keeps the output on after the button is let go." doc:"What could be said to those who made it."`
}

// FoundDifference is the shortest script on which a hand-in differs from the solution.
type FoundDifference struct {
	Signal string          `json:"signal,omitempty" example:"mist_valve" doc:"Empty where a run ends in a fault."`
	Scan   int             `json:"scan" example:"1"`
	Say    string          `json:"say" example:"scan 1: mist_valve expected TRUE, was FALSE"`
	Steps  []string        `json:"steps" example:"[\"0 s: press mist_on\"]"`
	YAML   string          `json:"yaml,omitempty" doc:"For instructors: as a scenario of an exercise.yaml."`
	Script json.RawMessage `json:"script" doc:"The inputs, as a trace."`
}

// Key is what an instructor sees of an exercise besides: the solutions, and what each scenario does with the first of them.
type Key struct {
	Revision  int             `json:"revision"`
	Solutions []Solution      `json:"solutions"`
	Result    json.RawMessage `json:"result" doc:"The marks of the first solution: what is compared or checked in each scenario."`
	Evidence  json.RawMessage `json:"evidence" doc:"Of each scenario the inputs, and what is expected."`
}

// Solution is one of an exercise's solutions.
type Solution struct {
	File     string `json:"file" example:"solution.ladder"`
	Language string `json:"language" enum:"ladder,fbd,st"`
	Text     string `json:"text"`
}

// Progress is sent while a hand-in waits for its mark.
type Progress struct {
	State  string   `json:"state" enum:"waiting,graded"`
	Earned *float64 `json:"earned,omitempty"`
	Points float64  `json:"points"`
}

// Marks is a class's marks, or one's own.
type Marks struct {
	Class     string    `json:"class"`
	Exercises []Summary `json:"exercises"`
	Rows      []MarkRow `json:"rows"`
}

// MarkRow is one learner's best marks, in the order of the exercises.
type MarkRow struct {
	Person Person `json:"person"`
	Marks  []Mark `json:"marks"`
}

// Mark is a best mark; Handin, 0 where there is none, is the hand-in that earned it.
type Mark struct {
	Handins int      `json:"handins"`
	Earned  *float64 `json:"earned,omitempty"`
	Handin  int64    `json:"handin"`
	Late    int      `json:"late,omitempty" doc:"Days."`
	ByHand  bool     `json:"byHand,omitempty" doc:"The mark was given by hand."`
}

// Folder is an exercise folder: contents by path, or a zip of it.
type Folder struct {
	Files map[string][]byte `json:"files,omitempty" example:"{\"exercise.yaml\":\"bmFtZTogbWlzdAo=\"}" doc:"Base64 contents by slash-separated path."`
	Zip   []byte            `json:"zip,omitempty" example:"UEsDBBQAAAAI" doc:"A zip archive of the folder, in place of files."`
}

// Pushed tells which revision a folder became.
type Pushed struct {
	Name      string `json:"name"`
	Revision  int    `json:"revision"`
	Hash      string `json:"hash"`
	Published bool   `json:"published" doc:"Whether learners see the exercise; a new one they do not, until it is assigned."`
}

// Problem is an error as RFC 9457 has it.
type Problem struct {
	Title  string `json:"title"`
	Status int    `json:"status"`
	Code   string `json:"code"`
	Detail string `json:"detail"`
	Errors []struct {
		Message  string `json:"message"`
		Location string `json:"location"`
	} `json:"errors"`
}

// Error returns the detail with each place.
func (p *Problem) Error() string {
	text := p.Detail
	if text == "" {
		text = p.Title
	}
	for _, e := range p.Errors {
		text += "\n" + e.Location
		if e.Location != "" {
			text += ": "
		}
		text += e.Message
	}
	return text
}

// Owned is an exercise that one owns, or that is shared with one: published, or being written.
type Owned struct {
	Owner     string    `json:"owner" example:"nadia" doc:"The owner's login."`
	OwnerName string    `json:"ownerName" example:"Nadia Brandt"`
	Name      string    `json:"name" example:"mist-hold-in"`
	Title     string    `json:"title" example:"Hold the mist valve in"`
	Topic     string    `json:"topic" example:"latches"`
	Languages string    `json:"languages" example:"ladder, st" doc:"Empty where it is not known."`
	Points    float64   `json:"points" example:"10" doc:"Of the newest revision."`
	Revision  int       `json:"revision" example:"3" doc:"The newest; 0 where none is published."`
	Note      string    `json:"note" example:"Stop is wired closed now." doc:"What the instructor said of the newest revision."`
	Strength  *int      `json:"strength,omitempty" example:"97" doc:"How many of the programs with one mistake the scenarios of the newest revision catch, in percent; found out some time after it is published."`
	Changed   time.Time `json:"changed" doc:"When it was last written or published."`
	Writing   bool      `json:"writing" doc:"Whether it was changed since the newest revision."`
	May       string    `json:"may" enum:"read,change" example:"change" doc:"What one may do with it."`
	Shared    int       `json:"shared" example:"1" doc:"With how many others it is shared."`
	Withdrawn bool      `json:"withdrawn" doc:"Whether it was taken away from learners."`
	Classes   []string  `json:"classes" example:"[\"Glasshouse controls, spring\"]" doc:"The classes that have it."`
}

// Beginning is an exercise to be written: blank, of a lesson, a copy, or from a folder; just one of these.
type Beginning struct {
	Title  string  `json:"title,omitempty" maxLength:"200" example:"Hold the mist valve in" doc:"What learners see in their list; its name is made of it. A folder's own where it is left out."`
	Lesson string  `json:"lesson,omitempty" maxLength:"100" example:"hold-in" doc:"The lesson whose exercise it begins with."`
	Copy   string  `json:"copy,omitempty" maxLength:"200" example:"nadia/mist-hold-in" doc:"The owner and name of the exercise that it is a copy of."`
	Folder *Folder `json:"folder,omitempty" doc:"A folder, or a zip of one, that it begins with."`
}

// Lesson is what an exercise can begin with.
type Lesson struct {
	Name      string `json:"name" example:"hold-in"`
	Title     string `json:"title" example:"Hold-in: an output's own contact parallel to the start button"`
	Behaviour string `json:"behaviour" example:"Stays on after release; stop wins over start." doc:"What a script must pin down."`
	Exercise  string `json:"exercise" example:"mist-hold-in" doc:"The exercise that it begins with."`
}

// Writing is an exercise as it is being written.
type Writing struct {
	Owner     string            `json:"owner" example:"nadia"`
	Name      string            `json:"name" example:"mist-hold-in"`
	Files     map[string][]byte `json:"files" example:"{\"brief.md\":\"SG9sZC4=\"}" doc:"Base64 contents by slash-separated path."`
	Settled   string            `json:"settled" doc:"The solution that the instructor has last agreed with; empty where that is the newest revision's."`
	Version   int               `json:"version" example:"12" doc:"Counts the savings; 0 where nothing was changed since the newest revision."`
	Base      int               `json:"base" example:"3" doc:"The revision that it goes on from; 0 where there is none."`
	Newest    int               `json:"newest" example:"3" doc:"The newest revision; later than base where somebody pushed one meanwhile."`
	May       string            `json:"may" enum:"read,change" example:"change"`
	Withdrawn bool              `json:"withdrawn"`
	SavedBy   string            `json:"savedBy" example:"Nadia Brandt"`
	Saved     time.Time         `json:"saved"`
}

// Saving is what changed of an exercise being written.
type Saving struct {
	Version int               `json:"version" minimum:"0" example:"12" doc:"The version that one knows."`
	Files   map[string][]byte `json:"files" example:"{\"brief.md\":\"SG9sZC4=\"}" doc:"The files that changed, in base64."`
	Gone    []string          `json:"gone,omitempty" example:"[\"starter.st\"]" doc:"The files that are no more."`
	Settled string            `json:"settled,omitempty" maxLength:"1048576" example:"PROGRAM mist END_PROGRAM" doc:"The solution that one has agreed with."`
}

// Publishing makes what was written a revision.
type Publishing struct {
	Version int    `json:"version" minimum:"1" example:"12" doc:"The version that one has looked at."`
	Note    string `json:"note,omitempty" maxLength:"2000" example:"Stop is wired closed now." doc:"What changed, in words."`
}

// Revision is one state of an exercise, for ever.
type Revision struct {
	Number int       `json:"number" example:"3"`
	Note   string    `json:"note" example:"Stop is wired closed now."`
	By     string    `json:"by" example:"Nadia Brandt"`
	At     time.Time `json:"at"`
	Points float64   `json:"points" example:"10"`
	Hash   string    `json:"hash"`
}

// Course is exercises of its owner's in the order in which they are taught.
type Course struct {
	Owner    string    `json:"owner" example:"nadia"`
	Name     string    `json:"name" example:"glasshouse-controls"`
	Title    string    `json:"title" example:"Glasshouse controls"`
	Version  int       `json:"version" example:"2" doc:"Counts the savings."`
	Saved    time.Time `json:"saved"`
	Sections []Section `json:"sections"`
}

// Section is some of a course's exercises under a title.
type Section struct {
	Title     string   `json:"title" maxLength:"200" example:"Timers"`
	Exercises []string `json:"exercises" maxItems:"500" example:"[\"vent-settle-delay\"]" doc:"Names of the owner's exercises."`
}

// CourseSettings are what a course is to be.
type CourseSettings struct {
	Version  int       `json:"version" minimum:"0" example:"0" doc:"The version that one knows; 0 for a new course."`
	Title    string    `json:"title" minLength:"1" maxLength:"200" example:"Glasshouse controls"`
	Sections []Section `json:"sections" maxItems:"200" example:"[{\"title\":\"Timers\",\"exercises\":[\"vent-settle-delay\"]}]"`
}

// Archive is a zip of a folder.
type Archive struct {
	Zip []byte `json:"zip" example:"UEsDBBQAAAAI" doc:"In base64."`
}

// ForClass names a class.
type ForClass struct {
	Class int64 `json:"class" minimum:"1" example:"1"`
}

// Markdown is a text to be shown as learners will see it.
type Markdown struct {
	Text string `json:"text" maxLength:"1048576" example:"Press **Mist ON**."`
}

// HTML is a text as a page shows it.
type HTML struct {
	HTML string `json:"html" example:"<p>Press <strong>Mist ON</strong>.</p>"`
}

// Share lets somebody read an exercise, or change it as well.
type Share struct {
	Login string `json:"login" example:"petra"`
	Name  string `json:"name" example:"Petra Novak"`
	May   string `json:"may" enum:"read,change" example:"read"`
}

// Sharing is what a share is to allow.
type Sharing struct {
	May string `json:"may" enum:"read,change" example:"read" doc:"Read: see the folder, and so copy it. Change: push revisions, too."`
}

// Stuck is a hand-in that waits for a mark that nobody works on.
type Stuck struct {
	ID       int64     `json:"id" example:"7"`
	Exercise string    `json:"exercise" example:"mist-hold-in"`
	Class    string    `json:"class" example:"Glasshouse controls, spring"`
	Login    string    `json:"login" example:"ana"`
	HandedIn time.Time `json:"handedIn"`
}

// Requeued tells how many stuck hand-ins were queued again.
type Requeued struct {
	Queued int `json:"queued" example:"2"`
}
