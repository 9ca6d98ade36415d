package api

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strconv"
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

// strangers may ask these, and send little.
var strangers = map[string]bool{"signIn": true, "join": true, "issueToken": true}

// anybody may ask these; who is signed in gets another answer.
var anybody = map[string]bool{"signOut": true, "getSession": true}

// mostOfStrangers is how large a body may be of which nobody knows whose it is.
const mostOfStrangers = 8 << 10

// patient operations may keep the database for longer than a page waits: they read or write much.
var patient = map[string]bool{"regrade": true, "marksCSV": true, "marksXLSX": true, "insight": true, "listStuck": true,
	"requeueStuck": true,
	"enrol":        true, "pushExercise": true, "addExercise": true, "tryMarks": true, "importCourse": true, "readCourseZip": true}

// How long the database is waited for in all: by a request, where nothing else is set, and by a patient one.
const (
	soon     = 1700 * time.Millisecond
	patience = 5 * time.Minute
)

// placeOf is what a request asks for. What cannot be is left out here, and refused where inputs are checked.
func placeOf(ctx huma.Context) (at store.Place) {
	number := func(text string) int64 {
		n, err := strconv.ParseInt(text, 10, 64)
		if err != nil {
			return 0
		}
		return n
	}
	at.Exercise, at.Handin = ctx.Param("name"), number(ctx.Param("id"))
	if at.Class = number(ctx.Param("class")); at.Class == 0 {
		at.Class = number(ctx.Query("class"))
	}
	return at
}

// admitted finds out who asks and for what, before anything of what they sent is read, and refuses whom nobody knows and what a
// token was not given for.
func (s *service) admitted(ctx huma.Context, next func(huma.Context)) {
	op := ctx.Operation()
	r, w := humachi.Unwrap(ctx)
	inner := store.Within(ctx.Context(), s.Wait)
	if strangers[op.OperationID] {
		next(huma.WithContext(ctx, inner))
		return
	}
	kind, secret := auth.Sent(r)
	found, err := store.Admission{}, store.ErrNotFound
	if secret != "" {
		found, err = s.Store.Admit(inner, kind, secret, placeOf(ctx))
	}
	switch {
	case err == nil:
		if patient[op.OperationID] {
			inner = store.Within(inner, patience)
		}
		inner = auth.With(inner, &found)
	case anybody[op.OperationID] && errors.Is(err, store.ErrNotFound):
	default:
		refuse(w, s.told(err, ""), errors.Is(err, store.ErrNotFound))
		return
	}
	if no := scoped(op, found.SignIn, err == nil); no != nil {
		no.send(w)
		return
	}
	next(huma.WithContext(ctx, inner))
}

// refuse answers a request that was not admitted.
func refuse(w http.ResponseWriter, err error, unknown bool) {
	if unknown {
		Problem(w, http.StatusUnauthorized, signInFirst)
		return
	}
	answerWith(w, err)
}

const signInFirst = "Sign in first; a session lasts twelve hours."

// scoped tells what the token of a request was not given for.
func scoped(op *huma.Operation, in store.SignIn, signedIn bool) *problem {
	asked, known := scopes[op.OperationID]
	switch {
	case known:
	case op.Method == http.MethodGet:
		asked = store.ScopeRead
	default:
		asked = store.ScopeAll
	}
	order := []string{"", store.ScopeRead, store.ScopeHandIn, store.ScopeAll}
	if !signedIn || slices.Index(order, in.Scope) >= slices.Index(order, asked) {
		return nil
	}
	may := map[string]string{store.ScopeRead: "may only read", store.ScopeHandIn: "may read and hand in, no more"}[in.Scope]
	return &problem{Title: http.StatusText(http.StatusForbidden), Status: http.StatusForbidden, Code: "scope",
		Detail: "This token " + may + ". Sign in with a token of a wider scope for this."}
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
		return p, huma.Error401Unauthorized(signInFirst)
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

// classOf finds a class that a person belongs to, any for an administrator: mostly it was read with the sign-in.
func (s *service) classOf(ctx context.Context, p store.Person, id int64) (store.Class, error) {
	found := auth.Admission(ctx)
	if at := found.Place; at.Class == id && at.Handin == 0 {
		switch {
		case found.Class != nil && (found.Enrolled || p.Role == store.Administrator):
			return *found.Class, nil
		case id == 0:
			return store.Class{}, s.told(store.ErrNotFound, "%s is in no class yet. An instructor enrols people.", p.Name)
		}
		return store.Class{}, s.told(store.ErrNotFound, "There is no class %d of yours.", id)
	}
	find := func() (store.Class, error) { return s.Store.ClassOf(ctx, id, p.ID) }
	if p.Role == store.Administrator {
		find = func() (store.Class, error) { return s.Store.Class(ctx, id) }
	}
	c, err := find()
	return c, s.told(err, "There is no class %d of yours.", id)
}

// named finds an exercise of a class, hidden ones too: mostly it was read with the sign-in.
func (s *service) named(ctx context.Context, class store.Class, name string) (store.Assignment, error) {
	found := auth.Admission(ctx)
	if found.Place.Exercise != name || found.Class == nil || found.Class.ID != class.ID {
		return s.Store.AnyAssignment(ctx, class.ID, name)
	}
	if found.Assignment == nil {
		return store.Assignment{}, store.ErrNotFound
	}
	return *found.Assignment, nil
}

// assigned finds an exercise of a class: for learners one that is published and has opened.
func (s *service) assigned(ctx context.Context, in Named) (here, store.Assignment, error) {
	h, err := s.in(ctx, in.Class, member)
	if err != nil {
		return h, store.Assignment{}, err
	}
	a, err := s.named(ctx, h.Class, in.Name)
	if err == nil && !a.Published && !h.teaches() {
		err = store.ErrNotFound
	}
	if err != nil {
		return h, a, s.told(err, "There is no exercise named %s in your class.", in.Name)
	}
	if r := a.Rules(h.Class.Zone()).Opening(time.Now()); r != nil && !h.teaches() {
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
	begun := auth.Admission(ctx).Begun
	if begun == nil {
		return h, a, nil, refused(a.Rules(h.Class.Zone()).Taking(time.Now(), nil, 0))
	}
	return h, a, begun, nil
}

// refused tells a rule's refusal.
func refused(r *rules.Refusal) error { return coded(403, r.Code, r.Say) }

// admits tells whether a person may see the hand-in that they ask for: one's own, or one of a class that one teaches.
func (s *service) admits(ctx context.Context, id int64) (here, error) {
	p, err := s.signedIn(ctx)
	if err != nil {
		return here{}, err
	}
	found := auth.Admission(ctx)
	at := here{Person: p}
	if found.Place.Handin != id || found.Owner == 0 || !found.Enrolled && p.Role != store.Administrator || found.Owner != p.ID && !teaches(p) {
		return at, s.told(store.ErrNotFound, "There is no hand-in %d of yours.", id)
	}
	at.Class = *found.Class
	return at, nil
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
