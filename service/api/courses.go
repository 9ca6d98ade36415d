package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/service/jobs"
	"celandine/service/store"
)

// OfCourse is the path of an operation on somebody's course.
type OfCourse struct {
	Owner  string `path:"owner" maxLength:"63" example:"nadia" doc:"The owner's login."`
	Course string `path:"course" maxLength:"100" example:"glasshouse-controls" doc:"The course's name, which is its own among the owner's."`
}

func (s *service) courses(api huma.API) {
	tags := []string{"courses"}
	add := func(id, method, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: method, Path: "/api/courses" + path, Summary: summary, Tags: tags}
	}
	const of = "/{owner}/{course}"
	huma.Register(api, add("listCourses", http.MethodGet, "", "List one's courses; an administrator's are all"), s.listCourses)
	large := add("importCourse", http.MethodPost, "", "Store a course with its exercises from a zip: all of it, or nothing")
	large.MaxBodyBytes, large.BodyReadTimeout, large.Middlewares = mostOfFolder, uploading, huma.Middlewares{s.fewFolders}
	huma.Register(api, large, s.importCourse)
	huma.Register(api, add("getCourse", http.MethodGet, of, "Read a course"), s.getCourse)
	huma.Register(api, add("saveCourse", http.MethodPut, of, "Make a course of one's own, or change it over the version that one knows"),
		s.saveCourse)
	gone := add("removeCourse", http.MethodDelete, of, "Forget a course; its exercises stay")
	gone.DefaultStatus = http.StatusNoContent
	huma.Register(api, gone, s.removeCourse)
	huma.Register(api, add("readCourseZip", http.MethodGet, of+"/zip", "Read a course with its exercises as one zip"), s.readCourseZip)
	give := add("giveCourse", http.MethodPost, of+"/classes", "Let a class work on all exercises of a course, or none of them")
	give.DefaultStatus = http.StatusNoContent
	huma.Register(api, give, s.giveCourse)
}

func asCourse(c store.Course) client.Course {
	out := client.Course{Owner: c.Owner.Login, Name: c.Name, Title: c.Title, Version: c.Version, Saved: c.SavedAt,
		Sections: []client.Section{}}
	course, _ := exercise.ReadCourse([]byte(c.Text)) // it was read when it was stored
	for _, section := range course.Sections {
		out.Sections = append(out.Sections, client.Section{Title: section.Title, Exercises: append([]string{}, section.Exercises...)})
	}
	return out
}

func (s *service) listCourses(ctx context.Context, _ *struct{}) (*body[[]client.Course], error) {
	p, err := s.instructs(ctx)
	if err != nil {
		return nil, err
	}
	list, err := s.Store.Courses(ctx, whose(p))
	return listed(s, list, err, asCourse)
}

// course finds a course of one's own; an administrator's are all.
func (s *service) course(ctx context.Context, in OfCourse) (store.Person, store.Course, error) {
	p, err := s.instructs(ctx)
	if err != nil {
		return p, store.Course{}, err
	}
	c, err := s.Store.CourseOf(ctx, in.Owner, in.Course)
	if err == nil && c.OwnerID != p.ID && p.Role != store.Administrator {
		err = store.ErrNotFound
	}
	return p, c, s.told(err, "There is no course %s of yours.", in.Course)
}

func (s *service) getCourse(ctx context.Context, in *OfCourse) (*body[client.Course], error) {
	_, c, err := s.course(ctx, *in)
	if err != nil {
		return nil, err
	}
	return &body[client.Course]{asCourse(c)}, nil
}

func (s *service) saveCourse(ctx context.Context, in *struct {
	OfCourse
	Body client.CourseSettings
}) (*body[client.Course], error) {
	p, c, err := s.course(ctx, in.OfCourse)
	if in.Body.Version == 0 { // a new one, of one's own
		if p, err = s.instructs(ctx); err == nil && !strings.EqualFold(p.Login, in.Owner) {
			err = huma.Error404NotFound("A new course is one's own; make it under " + p.Login + ".")
		}
		c = store.Course{OwnerID: p.ID, Owner: p, Name: in.Course}
	}
	if err != nil {
		return nil, err
	}
	course := exercise.Course{Name: c.Name, Title: in.Body.Title}
	for _, section := range in.Body.Sections {
		course.Sections = append(course.Sections, exercise.Section(section))
	}
	c.Title, c.Text, c.Version = course.Title, string(course.Text()), in.Body.Version
	if _, problems := exercise.ReadCourse([]byte(c.Text)); problems.HasErrors() {
		return nil, coded(http.StatusUnprocessableEntity, "course", problems[0].Message+" "+problems[0].Hint)
	}
	if err := s.Store.SaveCourse(ctx, c); err != nil {
		if errors.Is(err, store.ErrNewer) {
			return nil, coded(http.StatusConflict, "newer", "This course was changed meanwhile, or there is one of that name. Nothing was saved.")
		}
		return nil, s.told(err, "")
	}
	return s.getCourse(ctx, &in.OfCourse)
}

func (s *service) removeCourse(ctx context.Context, in *OfCourse) (*struct{}, error) {
	_, c, err := s.course(ctx, *in)
	if err != nil {
		return nil, err
	}
	return nil, s.told(s.Store.RemoveCourse(ctx, c), "")
}

func (s *service) readCourseZip(ctx context.Context, in *OfCourse) (*archive, error) {
	_, c, err := s.course(ctx, *in)
	if err != nil {
		return nil, err
	}
	course, _ := exercise.ReadCourse([]byte(c.Text))
	folders, err := s.Store.Folders(ctx, c.OwnerID, course.Exercises())
	if err != nil {
		return nil, s.told(err, "")
	}
	for _, name := range course.Exercises() {
		if folders[name] == nil {
			return nil, coded(http.StatusConflict, "unpublished", name+" is not published; a course's zip holds published exercises.")
		}
	}
	packed, err := exercise.Whole([]byte(c.Text), folders).Zip()
	return &archive{"application/zip", `attachment; filename="` + c.Name + `.zip"`, packed}, s.told(err, "")
}

func (s *service) importCourse(ctx context.Context, in *struct{ Body client.Archive }) (*body[client.Course], error) {
	p, err := s.instructs(ctx)
	if err != nil {
		return nil, err
	}
	files, err := exercise.UnzipCourse(in.Body.Zip)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The archive was refused: " + err.Error() + ".")
	}
	text, folders := files.Parts()
	course, problems := exercise.ReadCourse(text)
	if problems.HasErrors() {
		return nil, badExercise(jobs.BadExercise{Problems: problems})
	}
	revisions, err := revisionsOf(course, folders)
	if err != nil {
		return nil, err
	}
	stands := store.Course{OwnerID: p.ID, Owner: p, Name: course.Name}
	if found, err := s.Store.CourseOf(ctx, p.Login, course.Name); err == nil {
		stands = found
	} else if !errors.Is(err, store.ErrNotFound) {
		return nil, s.told(err, "")
	}
	stands.Title, stands.Text = course.Title, string(text)
	if err := s.Store.Import(ctx, p, stands, revisions); err != nil {
		return nil, s.told(err, "")
	}
	return s.getCourse(ctx, &OfCourse{p.Login, course.Name})
}

// revisionsOf reads the exercises of a course's folder: all of them are right, and all that the course names are there.
func revisionsOf(course exercise.Course, folders map[string]exercise.Files) (list []store.Revision, err error) {
	for _, name := range course.Exercises() {
		if folders[name] == nil {
			return nil, coded(http.StatusUnprocessableEntity, "course",
				fmt.Sprintf("The course names %s; there is no exercises/%[1]s in the archive.", name))
		}
	}
	for name, files := range folders {
		g, err := jobs.Prepare(files)
		if err != nil {
			return nil, badExercise(err)
		}
		if g.Exercise.Name != name {
			return nil, coded(http.StatusUnprocessableEntity, "course",
				fmt.Sprintf("exercises/%s is named %s in its exercise.yaml.", name, g.Exercise.Name))
		}
		list = append(list, store.NewRevision(g.Exercise, files))
	}
	slices.SortFunc(list, func(a, b store.Revision) int { return strings.Compare(a.Name, b.Name) })
	return list, nil
}

func (s *service) giveCourse(ctx context.Context, in *struct {
	OfCourse
	Body client.ForClass
}) (*struct{}, error) {
	_, c, err := s.course(ctx, in.OfCourse)
	if err != nil {
		return nil, err
	}
	h, err := s.in(ctx, in.Body.Class, teacher)
	if err != nil {
		return nil, err
	}
	course, _ := exercise.ReadCourse([]byte(c.Text))
	err = s.Store.GiveCourse(ctx, h.ID, h.Class.ID, c, course.Exercises())
	return nil, s.told(err, "One of the course's exercises is not published, or was withdrawn. The class was given none of them.")
}
