package api

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"celandine/service/auth"
	"celandine/service/rules"
	"celandine/service/store"
)

// Who may do what is decided here and nowhere else: by the person's role, the class, and whose a thing is. What is not one's own does not
// exist for one: the answer is 404, not 403, so that nobody learns what others have.

// need is what an operation asks of a person.
type need int

const (
	member        need = iota // belongs to the class
	teacher                   // teaches the class, or is an administrator
	administrator             // is an administrator, whatever the class
)

// scopes is what an operation asks of a token beyond reading, where that is less than all. Signing in and out asks nothing.
var scopes = map[string]string{
	"signIn": "", "join": "", "issueToken": "", "signOut": "",
	"checkProgram": store.ScopeRead, // it changes nothing
	"handIn":       store.ScopeHandIn, "saveDraft": store.ScopeHandIn, "start": store.ScopeHandIn,
}

// scoped refuses what the token of a request was not given for.
func scoped(ctx huma.Context, next func(huma.Context)) {
	op := ctx.Operation()
	asked, known := scopes[op.OperationID]
	switch {
	case known:
	case op.Method == http.MethodGet:
		asked = store.ScopeRead
	default:
		asked = store.ScopeAll
	}
	order := []string{"", store.ScopeRead, store.ScopeHandIn, store.ScopeAll}
	in, ok := auth.SignIn(ctx.Context())
	if ok && slices.Index(order, in.Scope) < slices.Index(order, asked) {
		_, w := humachi.Unwrap(ctx)
		may := map[string]string{store.ScopeRead: "may only read", store.ScopeHandIn: "may read and hand in, no more"}[in.Scope]
		(&problem{Title: http.StatusText(http.StatusForbidden), Status: http.StatusForbidden, Code: "scope", Detail: "This token " + may + ". Sign in with a token of a wider scope for this."}).send(w)
		return
	}
	next(ctx)
}

// here is a person at work in a class.
type here struct {
	store.Person
	Class store.Class
}

// teaches tells whether the person sees and marks what others do.
func (h here) teaches() bool { return teaches(h.Person) }

func teaches(p store.Person) bool { return p.Role == store.Instructor || p.Role == store.Administrator }

func (s *service) signedIn(ctx context.Context) (store.Person, error) {
	p, ok := auth.Person(ctx)
	if !ok {
		return p, huma.Error401Unauthorized("Sign in first; a session lasts twelve hours.")
	}
	return p, nil
}

// govern admits an administrator.
func (s *service) govern(ctx context.Context) (store.Person, error) {
	p, err := s.signedIn(ctx)
	if err == nil && p.Role != store.Administrator {
		err = huma.Error403Forbidden("Only an administrator can do this.")
	}
	return p, err
}

// in admits a person to a class, or to their first where class is 0.
func (s *service) in(ctx context.Context, class int64, n need) (here, error) {
	p, err := s.signedIn(ctx)
	if err != nil {
		return here{}, err
	}
	h := here{Person: p}
	if h.Class, err = s.classOf(ctx, p, class); err != nil {
		return h, err
	}
	if n == teacher && !h.teaches() {
		return h, huma.Error403Forbidden("Only an instructor of the class can do this.")
	}
	return h, nil
}

func (s *service) classOf(ctx context.Context, p store.Person, id int64) (store.Class, error) {
	if id == 0 {
		list, err := s.Store.Classes(ctx, p.ID)
		if err == nil && len(list) == 0 {
			err = store.ErrNotFound
		}
		if err != nil {
			return store.Class{}, s.told(err, "%s is in no class yet. An instructor enrols people.", p.Name)
		}
		return list[0], nil
	}
	find := func() (store.Class, error) { return s.Store.ClassOf(ctx, id, p.ID) }
	if p.Role == store.Administrator {
		find = func() (store.Class, error) { return s.Store.Class(ctx, id) }
	}
	c, err := find()
	return c, s.told(err, "There is no class %d of yours.", id)
}

// assigned finds an exercise of a class: for learners one that is published and has opened.
func (s *service) assigned(ctx context.Context, in Named) (here, store.Assignment, error) {
	h, err := s.in(ctx, in.Class, member)
	if err != nil {
		return h, store.Assignment{}, err
	}
	find := s.Store.Assignment
	if h.teaches() {
		find = s.Store.AnyAssignment
	}
	a, err := find(ctx, h.Class.ID, in.Name)
	if err != nil {
		return h, a, s.told(err, "There is no exercise named %s in your class.", in.Name)
	}
	if r := a.Terms(h.Class.Zone()).Opening(time.Now()); r != nil && !h.teaches() {
		return h, a, refused(r)
	}
	return h, a, nil
}

// opened finds an exercise whose task a person may read: a timed one once it was begun. It returns when that was.
func (s *service) opened(ctx context.Context, in Named) (here, store.Assignment, *time.Time, error) {
	h, a, err := s.assigned(ctx, in)
	if err != nil || a.Minutes == 0 || h.teaches() {
		return h, a, nil, err
	}
	begun, err := s.Store.Begun(ctx, a.ID, h.ID)
	if err != nil {
		return h, a, nil, s.told(err, "")
	}
	if begun == nil {
		return h, a, nil, refused(a.Terms(h.Class.Zone()).Taking(time.Now(), nil, 0))
	}
	return h, a, begun, nil
}

// refused tells a rule's refusal.
func refused(r *rules.Refusal) error { return coded(403, r.Code, r.Say) }

// admits tells whether a person may see a hand-in: one's own, or one of a class that one teaches.
func (s *service) admits(ctx context.Context, id int64) (here, error) {
	p, err := s.signedIn(ctx)
	if err != nil {
		return here{}, err
	}
	at := here{Person: p}
	person, class, belongs, err := s.Store.Whose(ctx, id, p.ID)
	at.Class = class
	if err == nil && (!belongs && p.Role != store.Administrator || person != p.ID && !teaches(p)) {
		err = store.ErrNotFound
	}
	return at, s.told(err, "There is no hand-in %d of yours.", id)
}

// visible reads a hand-in that a person may see.
func (s *service) visible(ctx context.Context, id int64) (here, store.Handin, error) {
	at, err := s.admits(ctx, id)
	if err != nil {
		return at, store.Handin{}, err
	}
	h, err := s.Store.Handin(ctx, id)
	return at, h, s.told(err, "There is no hand-in %d of yours.", id)
}

// reviewable finds a hand-in whose mark a person may change.
func (s *service) reviewable(ctx context.Context, id int64) (here, store.Handin, error) {
	at, h, err := s.visible(ctx, id)
	if err == nil && !at.teaches() {
		err = huma.Error403Forbidden("Only an instructor of the class can do this.")
	}
	return at, h, err
}
