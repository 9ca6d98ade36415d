package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/service/auth"
	"celandine/service/roster"
	"celandine/service/store"
)

// OfClass is the path of an operation on a class.
type OfClass struct {
	ID int64 `path:"class" minimum:"1" example:"1" doc:"The class's number."`
}

// OfMember is the path of an operation on somebody of a class.
type OfMember struct {
	OfClass
	Login string `path:"login" maxLength:"63" example:"ana"`
}

func (s *service) classes(api huma.API) {
	tags := []string{"classes"}
	add := func(id, method, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: method, Path: "/api/classes" + path, Summary: summary, Tags: tags}
	}
	huma.Register(api, add("listClasses", http.MethodGet, "", "List one's classes; an administrator's are all"), s.listClasses)
	huma.Register(api, add("makeClass", http.MethodPost, "", "Make a class and teach it"), s.makeClass)
	huma.Register(api, add("getClass", http.MethodGet, "/{class}", "Read a class's settings"),
		func(ctx context.Context, in *OfClass) (*body[client.Class], error) {
			h, err := s.in(ctx, in.ID, member)
			return &body[client.Class]{asClass(h.Class)}, err
		})
	huma.Register(api, add("changeClass", http.MethodPut, "/{class}", "Change a class's name, time zone and rule"), s.changeClass)
	huma.Register(api, add("listMembers", http.MethodGet, "/{class}/members", "List a class's people"), s.listMembers)
	op := add("addMember", http.MethodPost, "/{class}/members", "Enrol somebody who has a login, such as a second instructor")
	op.DefaultStatus = http.StatusNoContent
	huma.Register(api, op, s.addMember)
	op = add("removeMember", http.MethodDelete, "/{class}/members/{login}", "Take somebody out of a class; hand-ins and marks stay")
	op.DefaultStatus = http.StatusNoContent
	huma.Register(api, op, s.removeMember)
	huma.Register(api, add("issueCode", http.MethodPost, "/{class}/members/{login}/code",
		"Give a learner a new join code, to choose a new password with"), s.issueCode)
	op = add("enrol", http.MethodPost, "/{class}/roster", "Enrol a class list, all of it or nothing")
	op.MaxBodyBytes = 2 << 20
	huma.Register(api, op, s.enrol)
	huma.Register(api, add("audit", http.MethodGet, "/{class}/audit", "Read who changed what that a mark may depend on, newest first"),
		s.readAudit)
}

func asClass(c store.Class) client.Class {
	return client.Class{ID: c.ID, Name: c.Name, TimeZone: c.TimeZone, Counts: c.Counts}
}

func (s *service) listClasses(ctx context.Context, _ *struct{}) (*body[[]client.Class], error) {
	p, err := s.signedIn(ctx)
	if err != nil {
		return nil, err
	}
	of := p.ID
	if p.Role == store.Administrator {
		of = 0
	}
	list, err := s.Store.Classes(ctx, of)
	return listed(s, list, err, asClass)
}

// settings checks what a class is to be.
func settings(in client.ClassSettings) (store.Class, error) {
	c := store.Class{Name: strings.TrimSpace(in.Name), TimeZone: in.TimeZone, Counts: in.Counts}
	if c.TimeZone == "" {
		c.TimeZone = "UTC"
	}
	if c.Counts == "" {
		c.Counts = "best"
	}
	if _, err := time.LoadLocation(c.TimeZone); err != nil || c.TimeZone == "Local" {
		return c, coded(http.StatusUnprocessableEntity, "time-zone", "There is no time zone "+c.TimeZone+". Write it as Europe/Zagreb.")
	}
	if c.Name == "" {
		return c, coded(http.StatusUnprocessableEntity, "class-name", "A class needs a name.")
	}
	return c, nil
}

func (s *service) classTaken(err error, name string) error {
	if errors.Is(err, store.ErrTaken) {
		return coded(http.StatusConflict, "name-taken", "There is a class named "+name+" already.")
	}
	return s.told(err, "")
}

func (s *service) makeClass(ctx context.Context, in *body[client.ClassSettings]) (*body[client.Class], error) {
	p, err := s.signedIn(ctx)
	if err != nil {
		return nil, err
	}
	if !teaches(p) {
		return nil, huma.Error403Forbidden("Only an instructor can make a class.")
	}
	c, err := settings(in.Body)
	if err != nil {
		return nil, err
	}
	c, err = s.Store.AddClass(ctx, p.ID, c)
	return &body[client.Class]{asClass(c)}, s.classTaken(err, c.Name)
}

func (s *service) changeClass(ctx context.Context, in *struct {
	OfClass
	Body client.ClassSettings
}) (*body[client.Class], error) {
	h, err := s.in(ctx, in.ID, teacher)
	if err != nil {
		return nil, err
	}
	c, err := settings(in.Body)
	if err != nil {
		return nil, err
	}
	c.ID = h.Class.ID
	return &body[client.Class]{asClass(c)}, s.classTaken(s.Store.ChangeClass(ctx, h.ID, c), c.Name)
}

func (s *service) listMembers(ctx context.Context, in *OfClass) (*body[[]client.Member], error) {
	h, err := s.in(ctx, in.ID, teacher)
	if err != nil {
		return nil, err
	}
	list, err := s.Store.Members(ctx, h.Class.ID)
	return listed(s, list, err, asMember)
}

func asMember(p store.Person) client.Member {
	return client.Member{Login: p.Login, Name: p.Name, Role: p.Role, Joined: p.PasswordHash != "", Disabled: p.DisabledAt != nil}
}

func (s *service) addMember(ctx context.Context, in *struct {
	OfClass
	Body client.LoginOnly
}) (*struct{}, error) {
	h, err := s.in(ctx, in.ID, teacher)
	if err != nil {
		return nil, err
	}
	p, err := s.Store.PersonByLogin(ctx, in.Body.Login)
	if err != nil {
		return nil, s.told(err, "Nobody has the login %s. A class list adds people.", in.Body.Login)
	}
	return nil, s.told(s.Store.AddMember(ctx, h.ID, h.Class.ID, p), "")
}

// membership finds somebody of a class that one teaches.
func (s *service) membership(ctx context.Context, in OfMember) (here, store.Person, error) {
	h, err := s.in(ctx, in.ID, teacher)
	if err != nil {
		return h, store.Person{}, err
	}
	p, err := s.Store.PersonByLogin(ctx, in.Login)
	if err == nil {
		var enrolled bool
		if enrolled, err = s.Store.Enrolled(ctx, h.Class.ID, p.ID); err == nil && !enrolled {
			err = store.ErrNotFound
		}
	}
	return h, p, s.told(err, "Nobody in this class has the login %s.", in.Login)
}

func (s *service) removeMember(ctx context.Context, in *OfMember) (*struct{}, error) {
	h, p, err := s.membership(ctx, *in)
	if err != nil {
		return nil, err
	}
	if p.ID == h.ID {
		return nil, coded(http.StatusConflict, "oneself", "One cannot take oneself out of a class; another instructor can.")
	}
	return nil, s.told(s.Store.RemoveMember(ctx, h.ID, h.Class.ID, p), "")
}

func (s *service) issueCode(ctx context.Context, in *OfMember) (*body[client.JoinCode], error) {
	h, p, err := s.membership(ctx, *in)
	if err != nil {
		return nil, err
	}
	if h.Role != store.Administrator {
		if p.Role != store.Learner {
			return nil, huma.Error403Forbidden("Only an administrator gives an instructor a new code.")
		}
		// Whoever has the code acts for the learner, in other classes too.
		all, err := s.Store.TeachesAll(ctx, h.ID, p.ID)
		if err != nil {
			return nil, s.told(err, "")
		}
		if !all {
			return nil, coded(http.StatusForbidden, "other-classes",
				p.Name+" is in a class that you do not teach. "+
					"An administrator can give a new code, or an instructor who teaches all classes of theirs.")
		}
	}
	return s.newCode(ctx, h.ID, h.Class.ID, p)
}

func (s *service) enrol(ctx context.Context, in *struct {
	OfClass
	Body client.Roster
}) (*body[client.Enrolled], error) {
	h, err := s.in(ctx, in.ID, teacher)
	if err != nil {
		return nil, err
	}
	out := client.Enrolled{Added: []client.JoinCode{}, Problems: []client.ListProblem{}, Dry: in.Body.Dry}
	list, problems := roster.Read([]byte(in.Body.CSV))
	for _, p := range problems {
		out.Problems = append(out.Problems, client.ListProblem(p))
	}
	mates, err := s.classmates(ctx, h, list)
	if err != nil {
		return nil, err
	}
	for _, p := range list {
		if known, ok := mates[p.Login]; ok && (known.Name != p.Name || known.Role != store.Learner) {
			out.Problems = append(out.Problems, client.ListProblem{Line: p.Line,
				Say: "The login " + p.Login + " belongs to " + known.Name + " (" + known.Role + ") already."})
		}
	}
	if len(out.Problems) > mostErrors {
		more := len(out.Problems) - mostErrors
		out.Problems = append(out.Problems[:mostErrors],
			client.ListProblem{Line: out.Problems[mostErrors].Line, Say: fmt.Sprintf("From here on %d more lines are wrong.", more)})
	}
	if len(out.Problems) > 0 {
		return &body[client.Enrolled]{out}, nil
	}
	if in.Body.Dry {
		return s.rehearsed(ctx, h, list, out)
	}
	return s.enrolled(ctx, h, list, out)
}

// classmates finds whom of a list one knows as one's own people: those of classes that one teaches.
func (s *service) classmates(ctx context.Context, h here, list []roster.Person) (map[string]store.Person, error) {
	var logins []string
	for _, p := range list {
		logins = append(logins, p.Login)
	}
	found, err := s.Store.Classmates(ctx, h.ID, logins)
	mates := map[string]store.Person{}
	for _, p := range found {
		mates[strings.ToLower(p.Login)] = p
	}
	return mates, s.told(err, "")
}

// rehearsed tells what enrolling would do as far as it concerns people of one's own: of others a rehearsal tells nothing, not
// even that they are there.
func (s *service) rehearsed(ctx context.Context, h here, list []roster.Person, out client.Enrolled) (*body[client.Enrolled], error) {
	members, err := s.Store.Members(ctx, h.Class.ID)
	if err != nil {
		return nil, s.told(err, "")
	}
	here := map[string]bool{}
	for _, m := range members {
		here[strings.ToLower(m.Login)] = true
	}
	for _, p := range list {
		if here[p.Login] {
			out.Known++
			continue
		}
		out.Added = append(out.Added, client.JoinCode{Login: p.Login, Name: p.Name})
	}
	return &body[client.Enrolled]{out}, nil
}

func (s *service) enrolled(ctx context.Context, h here, list []roster.Person, out client.Enrolled) (*body[client.Enrolled], error) {
	expires := time.Now().Add(auth.JoinLife)
	codes := map[string]string{}
	lines := map[string]int{}
	var newcomers []store.Newcomer
	for _, p := range list {
		codes[p.Login], lines[p.Login] = auth.NewCode(), p.Line
		newcomers = append(newcomers, store.Newcomer{Login: p.Login, Name: p.Name, Code: auth.Normal(codes[p.Login])})
	}
	became, err := s.Store.Enrol(ctx, h.ID, h.Class.ID, newcomers, expires)
	var other store.ErrOther
	if errors.As(err, &other) {
		out.Problems = append(out.Problems, client.ListProblem{Line: lines[other.Login],
			Say: "The login " + other.Login + " belongs to somebody else already. Choose another. Nobody was enrolled."})
		return &body[client.Enrolled]{out}, nil
	}
	if err != nil {
		return nil, s.told(err, "")
	}
	for _, p := range became {
		if !p.Fresh {
			out.Known++
		}
		if p.Fresh || p.Coded {
			c := client.JoinCode{Login: p.Login, Name: p.Name}
			if p.Coded {
				c.Code, c.Expires = codes[strings.ToLower(p.Login)], expires
			}
			out.Added = append(out.Added, c)
		}
	}
	return &body[client.Enrolled]{out}, nil
}

func (s *service) readAudit(ctx context.Context, in *struct {
	OfClass
	Paged
}) (*body[client.Page[client.AuditEntry]], error) {
	h, err := s.in(ctx, in.ID, teacher)
	if err != nil {
		return nil, err
	}
	before, err := in.number()
	if err != nil {
		return nil, err
	}
	list, err := s.Store.Audit(ctx, h.Class.ID, before, in.Limit)
	return paged(s, in.Paged, list, err, asEntry, func(e store.Entry) string { return nextNumber(e.ID) })
}

func asEntry(e store.Entry) client.AuditEntry {
	return client.AuditEntry{ID: e.ID, At: e.At, By: e.By, Action: e.Action, Subject: e.Subject, Before: []byte(e.Before),
		After: []byte(e.After)}
}
