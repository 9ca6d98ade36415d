package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/prediction"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/xmlio"
	"celandine/service/jobs"
	"celandine/service/store"
)

// InClass chooses the class of an operation.
type InClass struct {
	Class int64 `query:"class" minimum:"0" example:"1" doc:"The class; one's first where it is left out."`
}

// Named is the path of an operation on an exercise.
type Named struct {
	InClass
	Name string `path:"name" maxLength:"100" example:"mist-hold-in" doc:"The exercise's name."`
}

func (s *service) exercises(api huma.API) {
	tags := []string{"exercises"}
	huma.Register(api, huma.Operation{OperationID: "listExercises", Method: http.MethodGet, Path: "/api/exercises",
		Summary: "List the class's exercises with one's own best marks", Tags: tags},
		func(ctx context.Context, in *InClass) (*body[[]client.Summary], error) {
			h, err := s.in(ctx, in.Class, member)
			if err != nil {
				return nil, err
			}
			list, err := s.summaries(ctx, h)
			return &body[[]client.Summary]{list}, err
		})
	huma.Register(api, huma.Operation{OperationID: "getExercise", Method: http.MethodGet, Path: "/api/exercises/{name}",
		Summary: "Read an exercise", Tags: tags}, s.getExercise)
	huma.Register(api, huma.Operation{OperationID: "pushExercise", Method: http.MethodPut, Path: "/api/exercises/{name}",
		Summary: "Store an exercise folder as a revision", Tags: tags, MaxBodyBytes: mostOfFolder, BodyReadTimeout: uploading,
		Middlewares: huma.Middlewares{s.fewFolders}}, s.pushExercise)
	huma.Register(api, huma.Operation{OperationID: "addExercise", Method: http.MethodPost, Path: "/api/exercises",
		Summary: "Store an exercise folder as a revision, whatever its name", Tags: tags, MaxBodyBytes: mostOfFolder, BodyReadTimeout: uploading,
		Middlewares: huma.Middlewares{s.fewFolders}}, s.addExercise)
	huma.Register(api, huma.Operation{OperationID: "readPicture", Method: http.MethodGet, Path: "/api/exercises/{name}/pictures/{file}",
		Summary: "Read a picture of an exercise's brief", Tags: tags}, s.readPicture)
	huma.Register(api, huma.Operation{OperationID: "checkProgram", Method: http.MethodPost, Path: "/api/exercises/{name}/check",
		Summary: "Check a program against the exercise's panel", Tags: tags, MaxBodyBytes: mostOfProgram}, s.checkProgram)
}

// summaries lists a class's exercises as a person stands to them.
func (s *service) summaries(ctx context.Context, h here) ([]client.Summary, error) {
	find := s.Store.Assignments
	if h.teaches() {
		find = s.Store.AllAssignments
	}
	assignments, err := find(ctx, h.Class.ID)
	if err != nil {
		return nil, s.told(err, "")
	}
	attempts, err := s.Store.Attempts(ctx, h.Class, h.ID, 0)
	if err != nil {
		return nil, s.told(err, "")
	}
	begun, err := s.Store.Starts(ctx, h.Class.ID, h.ID)
	if err != nil {
		return nil, s.told(err, "")
	}
	stand := standings(h.Class, assignments, attempts)
	list := []client.Summary{}
	for _, a := range assignments {
		list = append(list, summary(h, a, stand[place{a.ID, h.ID}], begun[a.ID]))
	}
	return list, nil
}

func summary(h here, a store.Assignment, stands standing, begun *time.Time) client.Summary {
	terms := a.Rules(h.Class.Zone())
	out := client.Summary{Name: a.Exercise, Title: a.Revision.Title, Topic: a.Revision.Topic, Points: number(a.Revision.Points),
		Revision: a.Revision.Number,
		Handins:  stands.handins, Best: stands.mark(), Due: a.Due, Closes: terms.Closes(), Attempts: a.Attempts, Minutes: a.Minutes,
		Ends: terms.Ends(begun)}
	if r := terms.Taking(time.Now(), begun, stands.handins); r != nil {
		out.Refused, out.Reason = r.Say, r.Code
	}
	return out
}

func (s *service) getExercise(ctx context.Context, in *Named) (*body[client.Exercise], error) {
	h, a, begun, err := s.opened(ctx, *in)
	if err != nil {
		return nil, err
	}
	g, err := s.Graders.Of(ctx, a.RevisionID)
	if err != nil {
		return nil, s.told(err, "")
	}
	attempts, err := s.Store.Attempts(ctx, h.Class, h.ID, a.ID)
	if err != nil {
		return nil, s.told(err, "")
	}
	stands := standings(h.Class, []store.Assignment{a}, attempts)[place{a.ID, h.ID}]
	out, err := s.learnersView(g, summary(h, a, stands, begun))
	if err != nil {
		return nil, s.told(err, "")
	}
	out.Brief = withPictures(out.Brief, a.Exercise, h.Class.ID)
	if g.Exercise.Picture != "" {
		out.Picture = fmt.Sprintf("/api/exercises/%s/%s?class=%d", a.Exercise, g.Exercise.Picture, h.Class.ID)
	}
	return &body[client.Exercise]{out}, nil
}

var pictureIn = regexp.MustCompile(`(<img [^>]*src=")pictures/([^"/]+)"`)

// withPictures lets the pictures of a brief be fetched from where the service has them.
func withPictures(brief, exercise string, class int64) string {
	return pictureIn.ReplaceAllString(brief, fmt.Sprintf(`${1}/api/exercises/%s/pictures/${2}?class=%d"`, exercise, class))
}

type picture struct {
	Type  string `header:"Content-Type"`
	Cache string `header:"Cache-Control"`
	Body  []byte
}

func (s *service) readPicture(ctx context.Context, in *struct {
	Named
	File string `path:"file" maxLength:"200" example:"bench.png"`
}) (*picture, error) {
	_, a, _, err := s.opened(ctx, in.Named)
	if err != nil {
		return nil, err
	}
	r, err := s.Store.Revision(ctx, a.RevisionID)
	if err != nil {
		return nil, s.told(err, "")
	}
	name := "pictures/" + in.File
	content, ok := r.Files[name]
	if !ok || exercise.Lies(name, content) != nil {
		return nil, huma.Error404NotFound("There is no picture " + in.File + " in this exercise.")
	}
	return &picture{Type: http.DetectContentType(content), Cache: "private, max-age=3600", Body: content}, nil
}

// learnersView is everything of an exercise that may be seen before handing
// in: no solution, no expected trace, and no script but of what is predicted.
func (s *service) learnersView(g *grade.Grader, list client.Summary) (client.Exercise, error) {
	e := g.Exercise
	out := client.Exercise{
		Summary: list, Kind: string(e.Kind), Reasons: e.Reasons, Period: signal.FormatClock(e.Period), Languages: e.Languages, Brief: s.briefs.html(e.Brief),
		Inputs: points(e.Inputs), Outputs: points(e.Outputs), Graded: []client.Graded{}, Told: e.Told(), Scenarios: []client.Scenario{},
		Starters: map[string]string{}, Tasks: []client.Task{}, Programs: predicted(e),
	}
	kinds := g.Kinds()
	for j, one := range e.Graded {
		graded := client.Graded{Signal: one.Name(), Block: one.Block, Member: one.Member, Weight: one.Weight, Slack: one.Slack}
		if prediction.Draws(kinds[j]) {
			graded.Type = kinds[j].String()
		}
		out.Graded = append(out.Graded, graded)
	}
	for _, sc := range e.Scenarios {
		one, err := scenario(e, sc)
		if err != nil {
			return out, err
		}
		out.Scenarios = append(out.Scenarios, one)
	}
	for _, t := range e.Tasks {
		out.Tasks = append(out.Tasks, client.Task(t))
	}
	if e.Kind != exercise.Predict {
		out.Starters = starters(e)
	}
	return out, nil
}

// starters are the texts to begin with, by language: programs with nothing in them where the author wrote none.
func starters(e *exercise.Exercise) map[string]string {
	begun := map[string]string{}
	for _, language := range e.Languages {
		begun[language] = grade.Begun(e, language)
	}
	for _, st := range e.Starters {
		begun[st.Language()] = st.Text
	}
	return begun
}

// scenario is what may be known of a scripted run before a hand-in: where it is to be predicted, its script.
func scenario(e *exercise.Exercise, s exercise.Scenario) (out client.Scenario, err error) {
	out = client.Scenario{Name: s.Name, Points: number(s.Points), Shown: s.Shown, ByHand: s.ByHand, Practice: s.Practice}
	if s.Practice || e.Kind == exercise.Predict {
		out.Script, err = json.Marshal(s.Script)
	}
	return out, err
}

// predicted is the program that is shown where a trace is predicted.
func predicted(e *exercise.Exercise) (list []client.Solution) {
	if e.Kind != exercise.Predict {
		return nil
	}
	for _, one := range e.Solutions {
		list = append(list, client.Solution{File: one.Name, Language: one.Language(), Text: one.Text})
	}
	return list
}

func points(list []exercise.Point) []client.Point {
	out := []client.Point{}
	for _, p := range list {
		contact := "open"
		if p.Closed {
			contact = "closed"
		}
		out = append(out, client.Point{Name: p.Name, Address: p.Address, Device: p.Device, Contact: contact, Label: p.Label, Type: p.Type,
			Unit: p.Unit, Initial: p.Initial, Place: p.Place})
	}
	return out
}

// briefs renders Markdown once and lets nothing through that could run.
type briefs struct {
	once   sync.Once
	writer goldmark.Markdown
	policy *bluemonday.Policy
}

func (b *briefs) html(markdown string) string {
	b.once.Do(func() {
		b.writer = goldmark.New(goldmark.WithExtensions(extension.GFM))
		b.policy = bluemonday.UGCPolicy()
	})
	var out strings.Builder
	if err := b.writer.Convert([]byte(markdown), &out); err != nil {
		return ""
	}
	return b.policy.Sanitize(out.String())
}

// How large a folder may be as JSON carries it, and how long it may take to arrive.
const (
	mostOfFolder = 16 << 20
	uploading    = 20 * time.Second
)

// fewFolders lets few folders be read at once: each takes several times its size.
func (s *service) fewFolders(ctx huma.Context, next func(huma.Context)) {
	select {
	case s.pushes <- struct{}{}:
		defer func() { <-s.pushes }()
		next(ctx)
	case <-ctx.Context().Done(): // whoever asked has gone
	}
}

type push struct {
	Named
	Body client.Folder
}

func (s *service) pushExercise(ctx context.Context, in *push) (*body[client.Pushed], error) {
	return s.keep(ctx, in.Class, in.Body, func(name string) error {
		if name != in.Name {
			return huma.Error422UnprocessableEntity("The folder's exercise is named " + name + ", not " + in.Name + ".")
		}
		return nil
	})
}

func (s *service) addExercise(ctx context.Context, in *struct {
	InClass
	Body client.Folder
}) (*body[client.Pushed], error) {
	return s.keep(ctx, in.Class, in.Body, func(string) error { return nil })
}

// keep reads a folder and stores it, if its exercise is named as it should be.
func (s *service) keep(ctx context.Context, class int64, folder client.Folder, named func(string) error) (*body[client.Pushed], error) {
	h, err := s.in(ctx, class, teacher)
	if err != nil {
		return nil, err
	}
	files := exercise.Files(folder.Files)
	if len(folder.Zip) > 0 {
		if files, err = exercise.Unzip(folder.Zip); err != nil {
			return nil, huma.Error422UnprocessableEntity("The archive was refused: " + err.Error() + ".")
		}
	}
	if problems := xmlio.InFolder(files); problems.HasErrors() {
		return nil, badExercise(jobs.BadExercise{Problems: problems})
	}
	g, err := jobs.Prepare(files)
	if err != nil {
		return nil, badExercise(err)
	}
	if err := named(g.Exercise.Name); err != nil {
		return nil, err
	}
	r, err := s.Store.Push(ctx, h.Class.ID, h.Person, g.Exercise, files)
	var foreign store.ErrForeign
	if errors.As(err, &foreign) {
		return nil, coded(http.StatusForbidden, "foreign",
			fmt.Sprintf("%s of this class belongs to %s, who has not shared it to be changed. Ask for a share, or give yours another name. "+
				"Nothing was stored.", g.Exercise.Name, foreign.Owner))
	}
	if err != nil {
		return nil, s.told(err, "")
	}
	a, err := s.Store.AnyAssignment(ctx, h.Class.ID, r.Name)
	if err != nil {
		return nil, s.told(err, "")
	}
	return &body[client.Pushed]{client.Pushed{Name: r.Name, Revision: r.Number, Hash: r.Hash, Published: a.Published}}, nil
}

func badExercise(err error) error {
	var bad jobs.BadExercise
	if !errors.As(err, &bad) {
		return huma.Error422UnprocessableEntity(err.Error())
	}
	var details []error
	for _, d := range bad.Problems {
		message := d.Message
		if d.Hint != "" {
			message += " " + d.Hint
		}
		details = append(details, &huma.ErrorDetail{Message: message, Location: d.Span.String()})
	}
	return huma.Error422UnprocessableEntity("The exercise has problems; nothing was stored.", details...)
}

type program struct {
	Named
	Body client.Program
}

func (s *service) checkProgram(ctx context.Context, in *program) (*body[client.Checked], error) {
	_, a, _, err := s.opened(ctx, in.Named)
	if err != nil {
		return nil, err
	}
	g, err := s.Graders.Of(ctx, a.RevisionID)
	if err != nil {
		return nil, s.told(err, "")
	}
	files := []*source.File{sourceOf(in.Body)}
	problems := g.Check(files)
	out := client.Checked{Diagnostics: diagnostics(problems.Most(grade.MostMessages)), Summary: problems.Summary(), Missing: missing(g, files)}
	return &body[client.Checked]{out}, nil
}

func missing(g *grade.Grader, files []*source.File) []string {
	return append([]string{}, g.Missing(files)...)
}

func diagnostics(list source.List) []client.Diagnostic {
	out := []client.Diagnostic{}
	for _, d := range list {
		c := client.Diagnostic{Code: string(d.Code), Severity: string(d.Severity), Message: d.Message, Hint: d.Hint}
		if f := d.Span.File; f != nil {
			c.File = f.Name
			c.Line, c.Column = f.Position(d.Span.Start)
			c.EndLine, c.EndColumn = f.Position(d.Span.End)
		}
		out = append(out, c)
	}
	return out
}
