package api

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/core/workshop"
	"celandine/core/xmlio"
	"celandine/service/jobs"
	"celandine/service/store"
)

// The workshop: exercises as they are written, published and given to classes.

func (s *service) workshop(api huma.API) {
	tags := []string{"workshop"}
	add := func(id, method, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: method, Path: "/api/library" + path, Summary: summary, Tags: tags}
	}
	large := func(op huma.Operation) huma.Operation {
		op.MaxBodyBytes, op.BodyReadTimeout, op.Middlewares = mostOfFolder, uploading, huma.Middlewares{s.fewFolders}
		return op
	}
	none := func(op huma.Operation) huma.Operation {
		op.DefaultStatus = http.StatusNoContent
		return op
	}
	const of = "/{owner}/{exercise}"
	huma.Register(api, large(add("beginExercise", http.MethodPost, "",
		"Begin an exercise: blank, of a lesson, a copy, or from a folder")), s.beginExercise)
	huma.Register(api, huma.Operation{OperationID: "listLessons", Method: http.MethodGet, Path: "/api/lessons",
		Summary: "List the lessons that an exercise can begin with", Tags: tags}, s.listLessons)
	huma.Register(api, huma.Operation{OperationID: "preview", Method: http.MethodPost, Path: "/api/preview",
		Summary: "Show a brief as learners will see it", Tags: tags, MaxBodyBytes: 2 << 20}, s.preview)
	huma.Register(api, add("readWriting", http.MethodGet, of+"/writing", "Read an exercise as it is being written"), s.readWriting)
	huma.Register(api, large(add("saveWriting", http.MethodPut, of+"/writing",
		"Save what changed, over the version that one knows")), s.saveWriting)
	huma.Register(api, none(add("discardWriting", http.MethodDelete, of+"/writing",
		"Forget what was written since the newest revision, or, without one, the exercise")), s.discardWriting)
	huma.Register(api, add("publish", http.MethodPost, of+"/revisions", "Make what was written the next revision"), s.publish)
	huma.Register(api, add("listRevisions", http.MethodGet, of+"/revisions",
		"List an exercise's revisions, the newest first"), s.listRevisions)
	huma.Register(api, add("readRevision", http.MethodGet, of+"/revisions/{number}", "Read the folder of a revision"), s.readRevision)
	huma.Register(api, add("readZip", http.MethodGet, of+"/zip",
		"Read an exercise, as it is being written, as a zip of its folder"), s.readZip)
	huma.Register(api, add("listDifferences", http.MethodGet, of+"/differences",
		"Tell in words what changed from one revision to another, or to what was written"), s.listDifferences)
	huma.Register(api, add("tryMarks", http.MethodPost, of+"/trial",
		"Tell which marks of a class would move with what was written"), s.tryMarks)
	huma.Register(api, none(add("giveExercise", http.MethodPost, of+"/classes", "Let a class work on the newest revision")), s.giveExercise)
	huma.Register(api, none(add("withdraw", http.MethodPut, of+"/withdrawal", "Take an exercise away from learners; marks stay")), s.withdraw)
	huma.Register(api, none(add("offerAgain", http.MethodDelete, of+"/withdrawal", "Let an exercise be offered again")), s.offerAgain)
}

func (s *service) listLessons(ctx context.Context, _ *struct{}) (*body[[]client.Lesson], error) {
	_, err := s.instructs(ctx)
	return &body[[]client.Lesson]{append([]client.Lesson{}, s.Lessons.List...)}, err
}

func (s *service) preview(ctx context.Context, in *struct{ Body client.Markdown }) (*body[client.HTML], error) {
	_, err := s.instructs(ctx)
	return &body[client.HTML]{client.HTML{HTML: s.briefs.html(in.Body.Text)}}, err
}

func (s *service) beginExercise(ctx context.Context, in *struct{ Body client.Beginning }) (*body[client.Writing], error) {
	p, err := s.instructs(ctx)
	if err != nil {
		return nil, err
	}
	if several(in.Body) {
		return nil, coded(http.StatusUnprocessableEntity, "beginning", "An exercise begins with a lesson, a copy or a folder; name one of them.")
	}
	files, err := s.beginning(ctx, p, in.Body)
	if err != nil {
		return nil, err
	}
	form, err := exercise.FormOf(string(files["exercise.yaml"]))
	if err != nil {
		return nil, coded(http.StatusUnprocessableEntity, "exercise", err.Error())
	}
	title, name := in.Body.Title, form.Name
	if title != "" {
		name = exercise.NameFor(title)
	} else {
		title = form.Title
	}
	if name == "" {
		return nil, coded(http.StatusUnprocessableEntity, "title", "A title needs at least one letter or digit.")
	}
	if name, err = s.Store.FreeName(ctx, p.ID, strings.Trim(name[:min(len(name), 56)], "-")); err != nil {
		return nil, s.told(err, "")
	}
	if name != form.Name || title != form.Title {
		if files, err = workshop.Retitled(files, name, title); err != nil {
			return nil, coded(http.StatusUnprocessableEntity, "exercise", err.Error())
		}
	}
	e, err := s.Store.BeginWriting(ctx, p, name, store.NewWriting(files))
	if errors.Is(err, store.ErrNamed) {
		return nil, coded(http.StatusConflict, "named", "You have an exercise named "+name+" already. Give this one another title.")
	}
	if err != nil {
		return nil, s.told(err, "")
	}
	return s.written(ctx, e, store.MayChange)
}

// several tells of an exercise that is to begin with more than one thing.
func several(b client.Beginning) bool {
	n := 0
	for _, given := range []bool{b.Lesson != "", b.Copy != "", b.Folder != nil} {
		if given {
			n++
		}
	}
	return n > 1
}

// beginning is the folder that an exercise begins with.
func (s *service) beginning(ctx context.Context, p store.Person, b client.Beginning) (exercise.Files, error) {
	switch {
	case b.Lesson != "":
		files, ok := s.Lessons.Folders[b.Lesson]
		if !ok {
			return nil, huma.Error404NotFound("There is no lesson " + b.Lesson + ".")
		}
		return files, nil
	case b.Copy != "":
		owner, name, _ := strings.Cut(b.Copy, "/")
		e, _, err := s.Store.May(ctx, p, owner, name)
		var w store.Writing
		if err == nil {
			w, err = s.Store.Writing(ctx, e)
		}
		return exercise.Files(w.Files), s.told(err, "There is no exercise %s of %s that you may read.", name, owner)
	case b.Folder != nil:
		return unpacked(*b.Folder)
	}
	files, err := workshop.Blank(b.Title)
	if err != nil {
		return nil, coded(http.StatusUnprocessableEntity, "title", "A title needs at least one letter or digit.")
	}
	return files, nil
}

// unpacked is the folder that was sent, as files or as a zip.
func unpacked(f client.Folder) (exercise.Files, error) {
	files, err := unzipped(f)
	if err != nil {
		return nil, err
	}
	if problems := xmlio.InFolder(files); problems.HasErrors() {
		return nil, badExercise(jobs.BadExercise{Problems: problems})
	}
	return files, nil
}

func unzipped(f client.Folder) (exercise.Files, error) {
	if len(f.Zip) > 0 {
		files, err := exercise.Unzip(f.Zip)
		if err != nil {
			return nil, huma.Error422UnprocessableEntity("The archive was refused: " + err.Error() + ".")
		}
		return files, nil
	}
	files := exercise.Files{}
	for name, content := range f.Files {
		if err := placed(files, name, content); err != nil {
			return nil, err
		}
	}
	return files, nil
}

// placed puts a file into a folder, within its limits and where it may lie.
func placed(files exercise.Files, name string, content []byte) error {
	if err := exercise.Lies(name, content); err != nil {
		return coded(http.StatusUnprocessableEntity, "file", err.Error())
	}
	delete(files, name)
	if err := files.Add(name, content); err != nil {
		return coded(http.StatusUnprocessableEntity, "file", err.Error())
	}
	return nil
}

// inWorkshop finds an exercise that a person may read, or change.
func (s *service) inWorkshop(ctx context.Context, in OfOwner, may string) (store.Person, store.Exercise, string, error) {
	p, err := s.instructs(ctx)
	if err != nil {
		return p, store.Exercise{}, "", err
	}
	e, granted, err := s.Store.May(ctx, p, in.Owner, in.Exercise)
	if err != nil {
		return p, e, "", s.told(err, "There is no exercise %s of %s that you may read.", in.Exercise, in.Owner)
	}
	if may == store.MayChange && granted != store.MayChange {
		return p, e, "", coded(http.StatusForbidden, "foreign", fmt.Sprintf("%s belongs to %s, who has shared it to be read, not changed. "+
			"Copy it, or ask for a share.", e.Name, e.Owner.Name))
	}
	return p, e, granted, nil
}

func (s *service) written(ctx context.Context, e store.Exercise, may string) (*body[client.Writing], error) {
	w, err := s.Store.Writing(ctx, e)
	return &body[client.Writing]{asWriting(e, w, may)}, s.told(err, "There is nothing in %s yet.", e.Name)
}

func asWriting(e store.Exercise, w store.Writing, may string) client.Writing {
	return client.Writing{Owner: e.Owner.Login, Name: e.Name, Files: w.Files, Settled: w.Settled, Version: w.Version, Base: w.Base,
		Newest: w.Newest, May: may, Withdrawn: e.WithdrawnAt != nil, SavedBy: w.Saver.Name, Saved: w.SavedAt}
}

func (s *service) readWriting(ctx context.Context, in *OfOwner) (*body[client.Writing], error) {
	_, e, may, err := s.inWorkshop(ctx, *in, store.MayRead)
	if err != nil {
		return nil, err
	}
	return s.written(ctx, e, may)
}

func (s *service) saveWriting(ctx context.Context, in *struct {
	OfOwner
	Body client.Saving
}) (*body[client.Writing], error) {
	p, e, may, err := s.inWorkshop(ctx, in.OfOwner, store.MayChange)
	if err != nil {
		return nil, err
	}
	before, err := s.Store.Writing(ctx, e)
	if err != nil {
		return nil, s.told(err, "")
	}
	files, err := saved(before, in.Body)
	if err != nil {
		return nil, err
	}
	w := store.NewWriting(files)
	w.ExerciseID, w.Version, w.Base, w.Settled = e.ID, in.Body.Version, before.Base, in.Body.Settled
	w.SavedBy, w.Saver, w.SavedAt, w.Newest = p.ID, p, time.Now(), before.Newest
	if before.Version == in.Body.Version {
		w, err = s.Store.SaveWriting(ctx, w)
	} else {
		err = store.ErrNewer
	}
	if errors.Is(err, store.ErrNewer) {
		return nil, s.newer(ctx, e)
	}
	w.Files = store.Folder{} // the saver has them
	return &body[client.Writing]{asWriting(e, w, may)}, s.told(err, "")
}

// saved is the folder with what is to be saved in it.
func saved(before store.Writing, what client.Saving) (exercise.Files, error) {
	files := maps.Clone(exercise.Files(before.Files))
	for _, name := range what.Gone {
		delete(files, name)
	}
	for name, content := range what.Files {
		if err := placed(files, name, content); err != nil {
			return nil, err
		}
	}
	if files.Weight() > exercise.MaxZip {
		return nil, coded(http.StatusUnprocessableEntity, "file",
			"The exercise would be too large: "+exercise.ErrLarge.Error()+". Nothing was saved.")
	}
	return files, nil
}

// newer tells who else has saved meanwhile.
func (s *service) newer(ctx context.Context, e store.Exercise) error {
	w, err := s.Store.Writing(ctx, e)
	if err != nil {
		return s.told(err, "")
	}
	return coded(http.StatusConflict, "newer", w.Saver.Name+" has changed this exercise meanwhile. Read it, then choose; nothing was saved.")
}

func (s *service) discardWriting(ctx context.Context, in *OfOwner) (*struct{}, error) {
	p, e, _, err := s.inWorkshop(ctx, *in, store.MayChange)
	if err != nil {
		return nil, err
	}
	return nil, s.told(s.Store.Discard(ctx, p.ID, e), "")
}

func (s *service) publish(ctx context.Context, in *struct {
	OfOwner
	Body client.Publishing
}) (*body[client.Pushed], error) {
	p, e, _, err := s.inWorkshop(ctx, in.OfOwner, store.MayChange)
	if err != nil {
		return nil, err
	}
	w, err := s.Store.Writing(ctx, e)
	if err != nil {
		return nil, s.told(err, "")
	}
	if w.Version != in.Body.Version {
		return nil, s.newer(ctx, e)
	}
	g, err := jobs.Prepare(exercise.Files(w.Files))
	if err != nil {
		return nil, badExercise(err)
	}
	if g.Exercise.Name != e.Name {
		return nil, coded(http.StatusUnprocessableEntity, "name",
			"The exercise's name in exercise.yaml is "+g.Exercise.Name+"; it is kept as "+e.Name+".")
	}
	revision := store.NewRevision(g.Exercise, exercise.Files(w.Files))
	revision.Note = in.Body.Note
	r, err := s.Store.Publish(ctx, p.ID, e, w.Version, revision)
	if errors.Is(err, store.ErrNewer) {
		return nil, s.newer(ctx, e)
	}
	return &body[client.Pushed]{client.Pushed{Name: r.Name, Revision: r.Number, Hash: r.Hash}},
		s.told(err, "Nothing was changed since the newest revision.")
}

func (s *service) listRevisions(ctx context.Context, in *OfOwner) (*body[[]client.Revision], error) {
	_, e, _, err := s.inWorkshop(ctx, *in, store.MayRead)
	if err != nil {
		return nil, err
	}
	list, err := s.Store.Revisions(ctx, e)
	return listed(s, list, err, func(r store.Revision) client.Revision {
		return client.Revision{Number: r.Number, Note: r.Note, By: r.Creator.Name, At: r.CreatedAt, Points: number(r.Points), Hash: r.Hash}
	})
}

func (s *service) readRevision(ctx context.Context, in *struct {
	OfOwner
	Number int `path:"number" minimum:"1" maximum:"1000000" example:"2"`
}) (*body[client.Folder], error) {
	_, e, _, err := s.inWorkshop(ctx, in.OfOwner, store.MayRead)
	if err != nil {
		return nil, err
	}
	r, err := s.Store.RevisionOf(ctx, e.ID, in.Number)
	return &body[client.Folder]{client.Folder{Files: r.Files}}, s.told(err, "%s has no revision %d.", e.Name, in.Number)
}

func (s *service) listDifferences(ctx context.Context, in *struct {
	OfOwner
	From int `query:"from" minimum:"0" maximum:"1000000" example:"1" doc:"A revision; the newest where it is left out."`
	To   int `query:"to" minimum:"0" maximum:"1000000" example:"0" doc:"A later one; 0 is what was written since."`
}) (*body[[]string], error) {
	_, e, _, err := s.inWorkshop(ctx, in.OfOwner, store.MayRead)
	if err != nil {
		return nil, err
	}
	if in.From == 0 {
		revisions, err := s.Store.Revisions(ctx, e)
		if err != nil || len(revisions) == 0 {
			return nil, s.told(cmp.Or(err, store.ErrNotFound), "%s has no revision yet.", e.Name)
		}
		in.From = revisions[0].Number
	}
	from, err := s.Store.RevisionOf(ctx, e.ID, in.From)
	if err != nil {
		return nil, s.told(err, "%s has no revision %d.", e.Name, in.From)
	}
	var to store.Folder
	if in.To == 0 {
		var w store.Writing
		w, err = s.Store.Writing(ctx, e)
		to = w.Files
	} else {
		var r store.Revision
		r, err = s.Store.RevisionOf(ctx, e.ID, in.To)
		to = r.Files
	}
	return &body[[]string]{workshop.Differences(exercise.Files(from.Files), exercise.Files(to))},
		s.told(err, "%s has no revision %d.", e.Name, in.To)
}

type archive struct {
	Type string `header:"Content-Type"`
	Name string `header:"Content-Disposition"`
	Body []byte
}

func (s *service) readZip(ctx context.Context, in *OfOwner) (*archive, error) {
	_, e, _, err := s.inWorkshop(ctx, *in, store.MayRead)
	if err != nil {
		return nil, err
	}
	w, err := s.Store.Writing(ctx, e)
	if err != nil {
		return nil, s.told(err, "There is nothing in %s yet.", e.Name)
	}
	packed, err := exercise.Files(w.Files).Zip()
	return &archive{"application/zip", `attachment; filename="` + e.Name + `.zip"`, packed}, s.told(err, "")
}

func (s *service) tryMarks(ctx context.Context, in *struct {
	OfOwner
	Body client.ForClass
}) (*body[client.Regraded], error) {
	_, e, _, err := s.inWorkshop(ctx, in.OfOwner, store.MayRead)
	if err != nil {
		return nil, err
	}
	_, a, err := s.assignment(ctx, OfAssignment{OfClass{in.Body.Class}, e.Name})
	if err != nil {
		return nil, err
	}
	w, err := s.Store.Writing(ctx, e)
	if err != nil {
		return nil, s.told(err, "")
	}
	g, err := jobs.Prepare(exercise.Files(w.Files))
	if err != nil {
		return nil, badExercise(err)
	}
	list, err := s.Store.Graded(ctx, a.ID)
	if err != nil {
		return nil, s.told(err, "")
	}
	out, _, _, err := gradeAgain(ctx, g, store.Revision{Number: w.Base}, list, s.Noticed)
	out.Key = "" // nothing can be stored of it
	return &body[client.Regraded]{out}, s.told(err, "")
}

func (s *service) giveExercise(ctx context.Context, in *struct {
	OfOwner
	Body client.ForClass
}) (*struct{}, error) {
	_, e, _, err := s.inWorkshop(ctx, in.OfOwner, store.MayRead)
	if err != nil {
		return nil, err
	}
	h, err := s.in(ctx, in.Body.Class, teacher)
	if err != nil {
		return nil, err
	}
	if e.WithdrawnAt != nil {
		return nil, coded(http.StatusConflict, "withdrawn", e.Name+" was withdrawn. Offer it again first.")
	}
	err = s.Store.Give(ctx, h.ID, h.Class.ID, e)
	if errors.Is(err, store.ErrTaken) {
		return nil, coded(http.StatusConflict, "assigned", "The class works on another exercise named "+e.Name+" already. Nothing was changed.")
	}
	return nil, s.told(err, "No revision of %s is published yet.", e.Name)
}

func (s *service) withdraw(ctx context.Context, in *OfOwner) (*struct{}, error) {
	p, e, err := s.owned(ctx, *in)
	if err != nil {
		return nil, err
	}
	return nil, s.told(s.Store.Withdraw(ctx, p.ID, e, false), "")
}

func (s *service) offerAgain(ctx context.Context, in *OfOwner) (*struct{}, error) {
	p, e, err := s.owned(ctx, *in)
	if err != nil {
		return nil, err
	}
	return nil, s.told(s.Store.Withdraw(ctx, p.ID, e, true), "")
}
