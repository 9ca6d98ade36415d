package store_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/service/store"
)

var soon = time.Now().Add(time.Hour)

// person adds somebody.
func person(t *testing.T, s *store.Store, login, role string) store.Person {
	p, err := s.SavePerson(ctx, store.Person{Login: login, Name: login, Role: role, PasswordHash: "-"})
	require.NoError(t, err)
	return p
}

// deeds are the actions in a class's log, the newest first.
func deeds(t *testing.T, s *store.Store, class int64) (list []string) {
	entries, err := s.Audit(ctx, class, 0, 100)
	require.NoError(t, err)
	for _, e := range entries {
		list = append(list, e.Action+" "+e.Subject)
	}
	return list
}

// What a request needs is read at once: who asks, their class, the exercise with its terms, and how they stand to it.
func TestAdmit(t *testing.T) {
	s, _, h := school(t)
	ana, err := s.PersonByLogin(ctx, "ana")
	require.NoError(t, err)
	a, err := s.AnyAssignment(ctx, 1, "mist")
	require.NoError(t, err)
	due := time.Now().Add(time.Hour).Round(time.Microsecond)
	a.Terms = client.Terms{Due: &due, Late: client.LatePercent, LatePercent: 20, Attempts: 3, Sees: "first", Minutes: 45, Published: true,
		Position: 7}
	require.NoError(t, s.ChangeAssignment(ctx, ana.ID, a))
	require.NoError(t, s.BeginSignIn(ctx, "secret", store.SignIn{PersonID: ana.ID, Kind: store.Token, Scope: store.ScopeAll, ExpiresAt: soon}))
	made, err := s.Record(ctx, h, 0, always)
	require.NoError(t, err)

	for name, c := range map[string]struct {
		at            store.Place
		class, course bool
		owner         int64
	}{
		"one's first class":        {store.Place{}, true, false, 0},
		"its exercise":             {store.Place{Exercise: "mist"}, true, true, 0},
		"an exercise there is not": {store.Place{Exercise: "fog"}, true, false, 0},
		"a class by its number":    {store.Place{Class: a.ClassID, Exercise: "mist"}, true, true, 0},
		"a class there is not":     {store.Place{Class: 999}, false, false, 0},
		"a hand-in":                {store.Place{Handin: made.ID}, true, true, ana.ID},
		"a hand-in there is not":   {store.Place{Handin: 999}, false, false, 0},
	} {
		t.Run(name, func(t *testing.T) {
			found, err := s.Admit(ctx, store.Token, "secret", c.at)
			require.NoError(t, err)
			assert.Equal(t, "ana", found.SignIn.Person.Login)
			assert.Equal(t, c.class, found.Class != nil)
			require.Equal(t, c.course, found.Assignment != nil)
			assert.Equal(t, c.owner, found.Owner)
			if c.course {
				have := found.Assignment.Terms
				assert.True(t, have.Due.Equal(due))
				have.Due = a.Terms.Due
				assert.Equal(t, a.Terms, have)
				assert.Equal(t, "Mist", found.Assignment.Revision.Title)
			}
		})
	}
	begun, err := s.Begin(ctx, a.ID, ana.ID)
	require.NoError(t, err)
	found, err := s.Admit(ctx, store.Token, "secret", store.Place{Exercise: "mist"})
	require.NoError(t, err)
	require.NotNil(t, found.Begun)
	assert.True(t, begun.Equal(*found.Begun))
	again, err := s.Begin(ctx, a.ID, ana.ID)
	require.NoError(t, err)
	assert.True(t, begun.Equal(again), "beginning again changes nothing")
	_, err = s.Admit(ctx, store.Token, "another", store.Place{})
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// Sign-ins are listed, ended one by one, and forgotten once they have expired.
func TestSignIns(t *testing.T) {
	s, _, h := school(t)
	for secret, until := range map[string]time.Time{"one": soon, "two": soon, "old": time.Now().Add(-time.Hour)} {
		require.NoError(t, s.BeginSignIn(ctx, secret,
			store.SignIn{PersonID: h.PersonID, Kind: store.Token, Name: secret, Scope: store.ScopeRead, ExpiresAt: until}))
	}
	list, err := s.SignIns(ctx, h.PersonID)
	require.NoError(t, err)
	require.Len(t, list, 2)
	other := person(t, s, "ben", store.Learner)
	assert.ErrorIs(t, s.EndSignIn(ctx, other.ID, list[0].ID), store.ErrNotFound, "another's is not one's own to end")
	require.NoError(t, s.EndSignIn(ctx, h.PersonID, list[0].ID))
	require.NoError(t, s.EndSecret(ctx, list[1].Name))
	list, err = s.SignIns(ctx, h.PersonID)
	require.NoError(t, err)
	assert.Empty(t, list)
	require.NoError(t, s.ForgetSignIns(ctx))
}

func TestClasses(t *testing.T) {
	s, _, _ := school(t)
	nadia := person(t, s, "nadia", store.Instructor)
	class, err := s.AddClass(ctx, nadia.ID, store.Class{Name: "autumn", TimeZone: "Europe/Zagreb", Counts: "last"})
	require.NoError(t, err)
	class.Name = "winter"
	require.NoError(t, s.ChangeClass(ctx, nadia.ID, class))
	have, err := s.Class(ctx, class.ID)
	require.NoError(t, err)
	assert.Equal(t, "winter", have.Name)
	assert.Equal(t, "Europe/Zagreb", have.Zone().String())
	mine, err := s.Classes(ctx, nadia.ID)
	require.NoError(t, err)
	assert.Len(t, mine, 1)
	in, err := s.Enrolled(ctx, class.ID, nadia.ID)
	require.NoError(t, err)
	assert.True(t, in)
	assert.ErrorIs(t, s.ChangeClass(ctx, nadia.ID, store.Class{ID: 999}), store.ErrNotFound)
	assert.Equal(t, []string{"change class winter", "make class autumn"}, deeds(t, s, class.ID))
}

// A class list is taken whole or not at all; who is there already stays, and a code is given to those alone who have no password and are
// nobody else's learners.
func TestEnrol(t *testing.T) {
	s, _, _ := school(t)
	nadia := person(t, s, "nadia", store.Instructor)
	class, err := s.AddClass(ctx, nadia.ID, store.Class{Name: "autumn"})
	require.NoError(t, err)
	list := []store.Newcomer{{"chiara", "Chiara", "c1"}, {"ANA", "Ana", "c2"}}
	out, err := s.Enrol(ctx, nadia.ID, class.ID, list, soon)
	require.NoError(t, err)
	assert.Equal(t, []bool{true, true}, []bool{out[0].Fresh, out[0].Coded})
	assert.Equal(t, []bool{true, false}, []bool{out[1].Fresh, out[1].Coded}, "ana has a password")
	out, err = s.Enrol(ctx, nadia.ID, class.ID, []store.Newcomer{{"chiara", "Chiara", "c3"}}, soon)
	require.NoError(t, err)
	assert.False(t, out[0].Fresh || out[0].Coded, "the first code still holds")

	_, err = s.Enrol(ctx, nadia.ID, class.ID, []store.Newcomer{{"dmitri", "Dmitri", "c4"}, {"chiara", "Another", "c5"}}, soon)
	var other store.ErrOther
	require.ErrorAs(t, err, &other)
	assert.Equal(t, "chiara", other.Login)
	_, err = s.PersonByLogin(ctx, "dmitri")
	assert.ErrorIs(t, err, store.ErrNotFound, "all or none")

	require.NoError(t, s.Joinable(ctx, "c1"))
	joined, err := s.Join(ctx, "c1", "hash")
	require.NoError(t, err)
	assert.Equal(t, "chiara", joined.Login)
	assert.ErrorIs(t, s.Joinable(ctx, "c1"), store.ErrNotFound, "a code is used once")
	_, err = s.Join(ctx, "c1", "hash")
	assert.ErrorIs(t, err, store.ErrNotFound)

	all, err := s.TeachesAll(ctx, nadia.ID, joined.ID)
	require.NoError(t, err)
	assert.True(t, all)
	ana, err := s.PersonByLogin(ctx, "ana")
	require.NoError(t, err)
	all, err = s.TeachesAll(ctx, nadia.ID, ana.ID)
	require.NoError(t, err)
	assert.False(t, all, "ana is in another class, too")
	mates, err := s.Classmates(ctx, nadia.ID, []string{"ana", "chiara", "nobody"})
	require.NoError(t, err)
	assert.Len(t, mates, 2)
}

func TestMembers(t *testing.T) {
	s, _, _ := school(t)
	nadia, ben := person(t, s, "nadia", store.Instructor), person(t, s, "ben", store.Learner)
	class, err := s.AddClass(ctx, nadia.ID, store.Class{Name: "autumn"})
	require.NoError(t, err)
	require.NoError(t, s.AddMember(ctx, nadia.ID, class.ID, ben))
	require.NoError(t, s.AddMember(ctx, nadia.ID, class.ID, ben), "once more changes nothing")
	members, err := s.Members(ctx, class.ID)
	require.NoError(t, err)
	require.Len(t, members, 2)
	assert.Equal(t, "nadia", members[0].Login, "instructors first")
	learners, err := s.Learners(ctx, class.ID)
	require.NoError(t, err)
	assert.Len(t, learners, 1)
	require.NoError(t, s.RemoveMember(ctx, nadia.ID, class.ID, ben))
	assert.ErrorIs(t, s.RemoveMember(ctx, nadia.ID, class.ID, ben), store.ErrNotFound)
	assert.Equal(t, []string{"take out of class ben", "enrol ben", "make class autumn"}, deeds(t, s, class.ID))
}

func TestPeople(t *testing.T) {
	s, _, _ := school(t)
	rosa := person(t, s, "rosa", store.Administrator)
	eve, err := s.AddPerson(ctx, rosa.ID, store.Person{Login: "e_ve", Name: "Eve 100%", Role: store.Instructor}, "code", soon)
	require.NoError(t, err)
	_, err = s.AddPerson(ctx, rosa.ID, store.Person{Login: "E_VE", Name: "Eve", Role: store.Learner}, "other", soon)
	assert.ErrorIs(t, err, store.ErrTaken)
	for letters, want := range map[string]int{"": 3, "e_v": 1, "0%": 1, "%": 1, "_": 1, "ROS": 1, `\`: 0} {
		list, err := s.People(ctx, letters, "", 10)
		require.NoError(t, err)
		assert.Len(t, list, want, "%q", letters)
	}
	list, err := s.People(ctx, "", "ana", 1)
	require.NoError(t, err)
	assert.Equal(t, "e_ve", list[0].Login)
	require.NoError(t, s.BeginSignIn(ctx, "eve", store.SignIn{PersonID: eve.ID, Kind: store.Token, Scope: store.ScopeAll, ExpiresAt: soon}))
	require.NoError(t, s.Disable(ctx, rosa.ID, eve, true))
	_, err = s.Admit(ctx, store.Token, "eve", store.Place{})
	assert.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, s.Disable(ctx, rosa.ID, eve, false))
	_, err = s.Admit(ctx, store.Token, "eve", store.Place{})
	assert.ErrorIs(t, err, store.ErrNotFound, "sign-ins have ended for good")
}

// An exercise is its owner's; others read or change it by a share.
func TestShares(t *testing.T) {
	s, _, _ := school(t)
	ana, err := s.PersonByLogin(ctx, "ana")
	require.NoError(t, err)
	nadia, rosa := person(t, s, "nadia", store.Instructor), person(t, s, "rosa", store.Administrator)
	e, err := s.ExerciseOf(ctx, ana.ID, "mist")
	require.NoError(t, err)
	reads := func(p store.Person) bool {
		_, err := s.Readable(ctx, p, "ANA", "mist")
		if err != nil {
			require.ErrorIs(t, err, store.ErrNotFound)
		}
		return err == nil
	}
	push := func(p store.Person, brief string) error {
		_, err := s.Push(ctx, 1, p, &exercise.Exercise{Name: "mist", Title: "Mist"}, exercise.Files{"brief.md": []byte(brief)})
		return err
	}
	assert.Equal(t, []bool{true, true, false}, []bool{reads(ana), reads(rosa), reads(nadia)})
	var foreign store.ErrForeign
	assert.ErrorAs(t, push(nadia, "hers"), &foreign)
	assert.EqualError(t, foreign, "the exercise belongs to Ana")
	require.NoError(t, s.Share(ctx, ana.ID, e, nadia, store.MayRead))
	assert.True(t, reads(nadia))
	assert.ErrorAs(t, push(nadia, "hers"), &foreign, "reading is not changing")
	require.NoError(t, s.Share(ctx, ana.ID, e, nadia, store.MayChange))
	require.NoError(t, push(nadia, "hers"))
	require.NoError(t, push(rosa, "an administrator's"))
	shares, err := s.Shares(ctx, e.ID)
	require.NoError(t, err)
	require.Len(t, shares, 1)
	assert.Equal(t, "nadia", shares[0].Person.Login)
	list, err := s.Library(ctx, nadia.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 3, list[0].Revision)
	first, err := s.RevisionOf(ctx, e.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, "x", string(first.Files["brief.md"]))
	require.NoError(t, s.Share(ctx, ana.ID, e, nadia, ""))
	assert.ErrorIs(t, s.Share(ctx, ana.ID, e, nadia, ""), store.ErrNotFound)
	assert.False(t, reads(nadia))
}

// A class takes exercises of another, all of them or none.
func TestTake(t *testing.T) {
	s, _, _ := school(t)
	nadia := person(t, s, "nadia", store.Instructor)
	class, err := s.AddClass(ctx, nadia.ID, store.Class{Name: "autumn"})
	require.NoError(t, err)
	assert.ErrorIs(t, s.Take(ctx, nadia.ID, 1, class.ID, []string{"mist", "fog"}), store.ErrNotFound)
	all, err := s.AllAssignments(ctx, class.ID)
	require.NoError(t, err)
	assert.Empty(t, all)
	require.NoError(t, s.Take(ctx, nadia.ID, 1, class.ID, []string{"mist"}))
	assert.ErrorIs(t, s.Take(ctx, nadia.ID, 1, class.ID, []string{"mist"}), store.ErrTaken)
	all, err = s.AllAssignments(ctx, class.ID)
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.Equal(t, client.Terms{Late: client.LateNone, Sees: "shown", Published: true, Position: 1}, all[0].Terms,
		"learners see it at once, with no terms")
}

// graded stores a hand-in with its mark.
func graded(t *testing.T, s *store.Store, h store.Handin, earned exercise.Marks) store.Handin {
	made, err := s.RecordGraded(ctx, h, store.Result{RevisionID: h.RevisionID, Earned: earned, Points: 1000, Result: store.Packed(`{"a":1}`),
		GradedAt: time.Now()}, 0)
	require.NoError(t, err)
	return made
}

// A mark by hand stands over the one that was earned, until it is taken back; each is in the log.
func TestOverrule(t *testing.T) {
	s, _, h := school(t)
	one := graded(t, s, h, 400)
	for _, earned := range []exercise.Marks{700, 800} {
		require.NoError(t, s.Overrule(ctx, h.PersonID, 1, one.ID, &store.Override{Earned: earned, Reason: "wired wrongly"}))
	}
	o, err := s.OverrideOf(ctx, one.ID)
	require.NoError(t, err)
	assert.Equal(t, "8 wired wrongly Ana", o.Earned.String()+" "+o.Reason+" "+o.By.Name)
	attempts, err := s.Attempts(ctx, store.Class{ID: 1, Counts: "best"}, h.PersonID, 0)
	require.NoError(t, err)
	require.Len(t, attempts, 1)
	assert.EqualValues(t, 800, *attempts[0].Override)
	require.NoError(t, s.Overrule(ctx, h.PersonID, 1, one.ID, nil))
	assert.ErrorIs(t, s.Overrule(ctx, h.PersonID, 1, one.ID, nil), store.ErrNotFound)
	assert.Equal(t, []string{"take back override hand-in 1", "override mark hand-in 1", "override mark hand-in 1"}, deeds(t, s, 1)[:3])
}

// Which hand-in stands is the class's rule: the best, the first of those, or the last.
func TestAttempts(t *testing.T) {
	s, _, h := school(t)
	for _, earned := range []exercise.Marks{400, 900, 900, 100} {
		graded(t, s, h, earned)
	}
	for rule, want := range map[string]int{"best": 2, "last": 4, "unknown": 2} {
		list, err := s.Attempts(ctx, store.Class{ID: 1, Counts: rule}, 0, h.AssignmentID)
		require.NoError(t, err)
		require.Len(t, list, 1)
		assert.Equal(t, want, list[0].Number, rule)
		assert.Equal(t, 4, list[0].Handins)
	}
	a, err := s.AnyAssignment(ctx, 1, "mist")
	require.NoError(t, err)
	due := time.Now()
	a.Due, a.Late, a.LatePercent = &due, client.LatePercent, 10
	require.NoError(t, s.ChangeAssignment(ctx, h.PersonID, a))
	list, err := s.Attempts(ctx, store.Class{ID: 1, Counts: "best"}, 0, h.AssignmentID)
	require.NoError(t, err)
	assert.Len(t, list, 4, "lateness may make any of them the best")
}

func TestReview(t *testing.T) {
	s, _, h := school(t)
	ben := person(t, s, "ben", store.Instructor)
	one, two, three := graded(t, s, h, 1), graded(t, s, h, 2), graded(t, s, h, 3)
	before, after, err := s.Neighbours(ctx, store.Handin{ID: two.ID, AssignmentID: h.AssignmentID})
	require.NoError(t, err)
	assert.Equal(t, []int64{one.ID, three.ID}, []int64{before, after})
	c, err := s.Say(ctx, store.Comment{HandinID: one.ID, ByID: h.PersonID, Line: 3, Text: "Look here."})
	require.NoError(t, err)
	_, err = s.Say(ctx, store.Comment{HandinID: one.ID, ByID: h.PersonID, Text: "Well done."})
	require.NoError(t, err)
	list, err := s.Comments(ctx, one.ID)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "Well done.", list[0].Text, "of the whole first")
	assert.ErrorIs(t, s.Unsay(ctx, ben.ID, one.ID, c.ID), store.ErrNotFound, "another's comment stays")
	require.NoError(t, s.Unsay(ctx, h.PersonID, one.ID, c.ID))
	some, err := s.Graded(ctx, h.AssignmentID, two.ID)
	require.NoError(t, err)
	require.Len(t, some, 1)
	assert.Equal(t, h.Text, some[0].Text)
	all, err := s.Graded(ctx, h.AssignmentID)
	require.NoError(t, err)
	assert.Len(t, all, 3)
}

// Grading again puts all new marks in place, or, where one has changed meanwhile, none.
func TestRegrade(t *testing.T) {
	s, _, h := school(t)
	one, two := graded(t, s, h, 100), graded(t, s, h, 200)
	again := func(earned exercise.Marks, id int64) store.Result {
		return store.Result{HandinID: id, RevisionID: h.RevisionID, Earned: earned, Points: 1000, Result: store.Packed(`{}`),
			GradedAt: time.Now()}
	}
	results := []store.Result{again(500, one.ID), again(200, two.ID)}
	err := s.Regrade(ctx, h.PersonID, 1, "mist", map[int64]exercise.Marks{one.ID: 100, two.ID: 199}, results)
	assert.ErrorIs(t, err, store.ErrNewer)
	mark := func(id int64) exercise.Marks {
		found, err := s.Handin(ctx, id)
		require.NoError(t, err)
		return found.Result.Earned
	}
	assert.EqualValues(t, 100, mark(one.ID))
	require.NoError(t, s.Regrade(ctx, h.PersonID, 1, "mist", map[int64]exercise.Marks{one.ID: 100, two.ID: 200}, results))
	assert.EqualValues(t, 500, mark(one.ID))
	entries, err := s.Audit(ctx, 1, 0, 1)
	require.NoError(t, err)
	assert.JSONEq(t, `{"graded": 2, "changed": {"hand-in 1": [1, 5]}}`, string(entries[0].After))
	older, err := s.Audit(ctx, 1, entries[0].ID, 100)
	require.NoError(t, err)
	assert.NotEqual(t, entries[0].ID, older[0].ID)
}

// A process that says nothing any more loses its jobs to others, and one that lives those that it has not in its hands.
func TestRescue(t *testing.T) {
	s, _, _ := school(t)
	require.NoError(t, s.Alive(ctx, "here"))
	require.NoError(t, s.Alive(ctx, "silent"))
	_, err := s.Pool.Exec(ctx, "INSERT INTO river_job (id, kind, args, state, max_attempts, attempt, attempted_at, attempted_by, queue) "+
		"SELECT n, 'k', '{}', 'running', 5, 1, now() - interval '1 minute', ARRAY[by], 'default' "+
		"FROM unnest(ARRAY['here', 'here', 'silent', 'gone']) WITH ORDINALITY AS j (by, n)")
	require.NoError(t, err)
	_, err = s.Pool.Exec(ctx, "UPDATE workers SET seen_at = now() - interval '1 minute' WHERE id = 'silent'")
	require.NoError(t, err)
	rescue := func(id string, inHand ...int64) int64 {
		n, err := s.Rescue(ctx, 10*time.Second, id, inHand)
		require.NoError(t, err)
		return n
	}
	assert.EqualValues(t, 2, rescue("other"), "of the silent and of the one that is gone")
	assert.EqualValues(t, 0, rescue("here", 1, 2), "both are in hand")
	assert.EqualValues(t, 1, rescue("here", 2), "one is lost")
	require.NoError(t, s.Gone(ctx, "here"))
	assert.EqualValues(t, 1, rescue("other"))
}
