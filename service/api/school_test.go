package api_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"net/http"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"celandine/client"
	"celandine/folder"
	"celandine/service/servicetest"
)

// A class list is enrolled whole or not at all; each newcomer chooses a password with a code that works once.
func TestEnrolAndJoin(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia := s.As(t, "nadia")
	bad, err := nadia.Enrol(ctx, 1, client.Roster{CSV: "login,name\nnoor,Noor Aziz\nana,Ana Somebody\nno or,X\n"})
	require.NoError(t, err)
	assert.Equal(t, []client.ListProblem{
		{Line: 4, Say: "The login \"no or\" is not possible: small letters, digits, dot, dash and underscore, at most 63, " +
			"the first a letter or digit."},
		{Line: 3, Say: "The login ana belongs to Ana Kovač (learner) already."},
	}, bad.Problems)
	list := client.Roster{CSV: "login,name\nnoor,Noor Aziz\nana,Ana Kovač\n", Dry: true}
	dry, err := nadia.Enrol(ctx, 1, list)
	require.NoError(t, err)
	assert.Equal(t, 1, dry.Known)
	assert.Empty(t, dry.Added[0].Code)
	members, err := nadia.Members(ctx, 1)
	require.NoError(t, err)
	assert.Len(t, members, 13, "neither the bad list nor the dry run enrolled anybody")

	list.Dry = false
	done, err := nadia.Enrol(ctx, 1, list)
	require.NoError(t, err)
	require.Len(t, done.Added, 1)
	code := done.Added[0].Code
	require.Regexp(t, `^[a-z2-7]{4}-[a-z2-7]{4}-[a-z2-7]{4}$`, code)

	anybody := &client.Client{URL: s.URL}
	_, err = anybody.Join(ctx, client.Joining{Code: "aaaa-bbbb-cccc", Password: "long enough"})
	assert.Equal(t, 404, problemOf(t, err).Status)
	p, err := anybody.Join(ctx, client.Joining{Code: strings.ToUpper(code), Password: "long enough"})
	require.NoError(t, err)
	assert.Equal(t, "Noor Aziz", p.Name)
	_, err = anybody.Join(ctx, client.Joining{Code: code, Password: "another one"})
	assert.Equal(t, 404, problemOf(t, err).Status, "a code works once")
	token, err := anybody.Login(ctx, client.TokenWish{Credentials: client.Credentials{Login: "noor", Password: "long enough"}})
	require.NoError(t, err)

	// A new code ends what was signed in.
	again, err := nadia.IssueCode(ctx, 1, "noor")
	require.NoError(t, err)
	_, err = anybody.Join(ctx, client.Joining{Code: again.Code, Password: "a third one"})
	require.NoError(t, err)
	_, err = (&client.Client{URL: s.URL, Token: token.Token}).Me(ctx)
	assert.Equal(t, 401, problemOf(t, err).Status)
}

// Who is disabled is signed out at once; marks stay.
func TestDisable(t *testing.T) {
	s := servicetest.Start(t, true)
	rosa, ana := s.As(t, "rosa"), s.As(t, "ana")
	_, err := rosa.Disable(ctx, "ana", true)
	require.NoError(t, err)
	_, err = ana.Me(ctx)
	assert.Equal(t, 401, problemOf(t, err).Status)
	_, err = ana.Login(ctx, client.TokenWish{Credentials: client.Credentials{Login: "ana", Password: servicetest.Password}})
	assert.Equal(t, 401, problemOf(t, err).Status)
	m, err := s.As(t, "nadia").Marks(ctx)
	require.NoError(t, err)
	assert.Equal(t, "Ana Kovač", m.Rows[0].Person.Name)
	_, err = rosa.Disable(ctx, "ana", false)
	require.NoError(t, err)
	_, err = ana.Login(ctx, client.TokenWish{Credentials: client.Credentials{Login: "ana", Password: servicetest.Password}})
	assert.NoError(t, err)
	_, err = rosa.Disable(ctx, "rosa", true)
	assert.Equal(t, "oneself", problemOf(t, err).Code)
}

// terms puts an assignment under other terms.
func terms(t *testing.T, nadia *client.Client, exercise string, change func(*client.Terms)) {
	t.Helper()
	list, err := nadia.Assignments(ctx, 1)
	require.NoError(t, err)
	for _, a := range list {
		if a.Name == exercise {
			change(&a.Terms)
			_, err := nadia.Assign(ctx, 1, exercise, a.Terms)
			require.NoError(t, err)
		}
	}
}

func in(d time.Duration) *time.Time {
	at := time.Now().Add(d)
	return &at
}

func TestTermsAreKept(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia, liam := s.As(t, "nadia"), s.As(t, "liam")
	refusal := func(text string) string {
		_, err := liam.HandIn(ctx, "mist-hold-in", client.Program{File: "mine.st", Text: text}, "")
		if err == nil {
			return ""
		}
		return problemOf(t, err).Code
	}
	terms(t, nadia, "mist-hold-in", func(t *client.Terms) { t.Opens = in(time.Hour) })
	_, err := liam.Exercise(ctx, "mist-hold-in")
	assert.Equal(t, "not-open", problemOf(t, err).Code, "the task is not to be read yet")
	assert.Equal(t, "not-open", refusal(rightMist))
	terms(t, nadia, "mist-hold-in", func(t *client.Terms) { t.Opens, t.Attempts = nil, 1 })
	assert.Equal(t, "", refusal(rightMist))
	assert.Equal(t, "no-attempts", refusal(rightMist))
	terms(t, nadia, "mist-hold-in", func(t *client.Terms) { t.Attempts, t.Due = 0, in(-time.Hour) })
	assert.Equal(t, "closed", refusal(rightMist))
	terms(t, nadia, "mist-hold-in", func(t *client.Terms) { t.Late, t.LatePercent = "percent", 20 })
	h := handIn(t, liam, "mist-hold-in", rightMist, "late")
	assert.Equal(t, []float64{10, 8}, []float64{*h.Earned, *h.Counted}, "a fifth is taken off on the first day")
	assert.Equal(t, 1, h.Late)
	terms(t, nadia, "mist-hold-in", func(t *client.Terms) { t.Published = false })
	_, err = liam.Exercise(ctx, "mist-hold-in")
	assert.Equal(t, 404, problemOf(t, err).Status)

	_, err = nadia.Assign(ctx, 1, "mist-hold-in", client.Terms{Late: "until", Sees: "shown", Due: in(0)})
	assert.Equal(t, "Say until when late hand-ins are taken.", problemOf(t, err).Detail)
	log, err := nadia.Audit(ctx, 1, "", 5)
	require.NoError(t, err)
	for _, entry := range log.Items {
		assert.Equal(t, "change assignment", entry.Action)
	}
	assert.Equal(t, "Nadia Brandt", log.Items[0].By)
}

// A timed exercise shows its task from Start on, and takes hand-ins until the time is over.
// A class takes exercises from another that one teaches: all that are named, or none; and the log says so, as it does of a new revision.
func TestTakeExercises(t *testing.T) {
	s := servicetest.Start(t, true)
	neighbours(t, s)
	nadia := s.As(t, "nadia")
	autumn, err := nadia.MakeClass(ctx, client.ClassSettings{Name: "Autumn"})
	require.NoError(t, err)
	list, err := nadia.Take(ctx, autumn.ID, client.Taking{From: 1, Exercises: []string{"mist-hold-in", "vent-interlock"}})
	require.NoError(t, err)
	assert.Equal(t, []string{"vent-interlock", "mist-hold-in"}, []string{list[0].Name, list[1].Name}, "in the order that they had")
	_, err = nadia.Take(ctx, autumn.ID, client.Taking{From: 1, Exercises: []string{"tray-counter", "mist-hold-in"}})
	assert.Equal(t, "assigned", problemOf(t, err).Code)
	_, err = nadia.Take(ctx, autumn.ID, client.Taking{From: 1, Exercises: []string{"tray-counter", "no-such"}})
	assert.Equal(t, 404, problemOf(t, err).Status)
	_, err = s.As(t, "petra").Take(ctx, 2, client.Taking{From: 1, Exercises: []string{"tray-counter"}})
	assert.Equal(t, 404, problemOf(t, err).Status, "a class that one does not teach")
	list, err = nadia.Assignments(ctx, autumn.ID)
	require.NoError(t, err)
	assert.Len(t, list, 2, "nothing came with a refusal")

	nadia.Class = autumn.ID
	files := exerciseFolder(t, "tray-counter")
	_, err = nadia.Push(ctx, "tray-counter", client.Folder{Files: files})
	require.NoError(t, err)
	files["brief.md"] = []byte("Count trays.")
	_, err = nadia.Push(ctx, "tray-counter", client.Folder{Files: files})
	require.NoError(t, err)
	_, err = nadia.Push(ctx, "tray-counter", client.Folder{Files: files})
	require.NoError(t, err, "the same again is no news")
	log, err := nadia.Audit(ctx, autumn.ID, "", 10)
	require.NoError(t, err)
	var said []string
	for _, e := range log.Items {
		said = append(said, e.Action+" "+e.Subject+" "+string(e.Before)+" "+string(e.After))
	}
	assert.Equal(t, []string{`push exercise tray-counter {"revision":1} {"revision":2}`, `push exercise tray-counter null {"revision":1}`,
		`take exercises mist-hold-in, vent-interlock null {"from class":1}`}, said[:3])
}

func TestTimed(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia, liam := s.As(t, "nadia"), s.As(t, "liam")
	terms(t, nadia, "mist-hold-in", func(t *client.Terms) { t.Minutes = 5 })
	_, err := liam.Exercise(ctx, "mist-hold-in")
	assert.Equal(t, "not-started", problemOf(t, err).Code)
	begun, err := liam.Start(ctx, "mist-hold-in")
	require.NoError(t, err)
	assert.WithinDuration(t, time.Now().Add(5*time.Minute), *begun.Ends, time.Minute)
	again, err := liam.Start(ctx, "mist-hold-in")
	require.NoError(t, err)
	assert.Equal(t, begun.Ends.Unix(), again.Ends.Unix(), "beginning again changes nothing")
	handIn(t, liam, "mist-hold-in", rightMist, "in time")
	s.Exec(t, "UPDATE starts SET started_at = now() - interval '6 minutes'")
	_, err = liam.HandIn(ctx, "mist-hold-in", client.Program{File: "mine.st", Text: rightMist}, "")
	assert.Equal(t, "time-over", problemOf(t, err).Code)
}

// What a learner sees of a result is what the assignment says.
func TestSees(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia, liam := s.As(t, "nadia"), s.As(t, "liam")
	h := handIn(t, liam, "mist-hold-in", strings.Replace(rightMist, "AND mist_off", "", 1), "wrong")
	for sees, want := range map[string]struct{ difference, why, evidence, hidden bool }{
		"marks": {}, "first": {difference: true}, "shown": {difference: true, why: true, evidence: true},
		"all": {difference: true, why: true, evidence: true, hidden: true},
	} {
		terms(t, nadia, "mist-hold-in", func(t *client.Terms) { t.Sees = sees })
		got, err := liam.Handin(ctx, h.ID)
		require.NoError(t, err)
		result, evidence := string(got.Result), string(got.Evidence)
		assert.Equal(t, want.difference, strings.Contains(result, `"difference"`), sees)
		assert.Equal(t, want.why, strings.Contains(result, `"why"`), sees)
		assert.Equal(t, want.evidence, strings.Contains(evidence, "mist_valve"), sees)
		assert.Equal(t, want.hidden, !strings.Contains(result, `"hidden"`), sees)
	}
}

// A mark given by hand stands in place of the graded one until it is taken back; both are in the log. Comments are read by the learner.
func TestOverrideAndComment(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia, ana := s.As(t, "nadia"), s.As(t, "ana")
	h, err := nadia.Override(ctx, 3, client.Overruling{Earned: 7.5, Reason: "The sensor was broken."})
	require.NoError(t, err)
	assert.Equal(t, 7.5, *h.Counted)
	_, err = nadia.Comment(ctx, 3, client.Remark{Line: 3, Text: "Look at this branch."})
	require.NoError(t, err)
	_, err = nadia.Comment(ctx, 3, client.Remark{Line: 900, Text: "?"})
	assert.Equal(t, "line", problemOf(t, err).Code)
	seen, err := ana.Handin(ctx, 3)
	require.NoError(t, err)
	assert.Equal(t, "The sensor was broken.", seen.Override.Reason)
	assert.Equal(t, "Look at this branch.", seen.Comments[0].Text)
	_, err = ana.Override(ctx, 3, client.Overruling{Earned: 10, Reason: "I say so."})
	assert.Equal(t, 403, problemOf(t, err).Status)
	require.NoError(t, nadia.TakeBack(ctx, 3))
	assert.Equal(t, 404, problemOf(t, nadia.TakeBack(ctx, 3)).Status)
	log, err := nadia.Audit(ctx, 1, "", 1)
	require.NoError(t, err)
	assert.JSONEq(t, `{"earned": 7.5, "reason": "The sensor was broken."}`, string(log.Items[0].Before))
	next, err := nadia.Audit(ctx, 1, log.Next, 1)
	require.NoError(t, err)
	assert.Equal(t, "override mark", next.Items[0].Action)
}

// The mark that stands is the best, or the last where the class says so.
// A class's hand-ins come in pages, newest first, and may be asked for by person and state.
func TestHandinsInPages(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia := s.As(t, "nadia").Token
	read := func(query string) (page client.Page[client.Handin], ids []int64) {
		r, err := http.NewRequest("GET", s.URL+"/api/exercises/mist-hold-in/handins?"+query, nil)
		require.NoError(t, err)
		status, text := answer(t, r, nadia)
		require.Equal(t, 200, status, text)
		require.NoError(t, json.Unmarshal([]byte(text), &page))
		for _, h := range page.Items {
			ids = append(ids, h.ID)
			assert.Empty(t, h.Text)
		}
		return page, ids
	}
	_, all := read("")
	require.Len(t, all, 6)
	assert.IsDecreasing(t, all)
	first, ids := read("limit=4")
	assert.Equal(t, all[:4], ids)
	last, ids := read("limit=4&after=" + first.Next)
	assert.Equal(t, all[4:], ids)
	assert.Empty(t, last.Next)
	_, ids = read("person=ana")
	assert.Equal(t, []int64{3}, ids)
	s.Exec(t, "DELETE FROM results WHERE handin_id = 3")
	_, ids = read("state=waiting")
	assert.Equal(t, []int64{3}, ids)
	_, ids = read("state=graded")
	assert.Len(t, ids, 5)
}

func TestBestOrLast(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia, liam := s.As(t, "nadia"), s.As(t, "liam")
	handIn(t, liam, "mist-hold-in", rightMist, "right")
	handIn(t, liam, "mist-hold-in", "PROGRAM p\nEND_PROGRAM\n", "worse")
	mark := func() float64 {
		m, err := liam.Marks(ctx)
		require.NoError(t, err)
		return *m.Rows[0].Marks[1].Earned
	}
	assert.Equal(t, 10.0, mark())
	_, err := nadia.ChangeClass(ctx, 1, client.ClassSettings{Name: "Glasshouse controls, spring", TimeZone: "Europe/Zagreb", Counts: "last"})
	require.NoError(t, err)
	assert.Less(t, mark(), 10.0)
}

// Grading again shows what would change, then stores exactly that, or nothing.
func TestRegrade(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia := s.As(t, "nadia")
	same, err := nadia.Regrade(ctx, 1, client.Regrading{Exercise: "mist-hold-in"})
	require.NoError(t, err)
	assert.Empty(t, same.Changes, "the same revision gives the same marks")
	assert.Positive(t, same.Graded)

	// Somebody's mark is wrong, as after a mistake that was mended in the exercise.
	s.Exec(t, "UPDATE results SET earned = 100 WHERE handin_id = 3")
	preview, err := nadia.Regrade(ctx, 1, client.Regrading{Exercise: "mist-hold-in"})
	require.NoError(t, err)
	require.Len(t, preview.Changes, 1)
	assert.Equal(t, 1.0, preview.Changes[0].Before)
	before, err := nadia.Handin(ctx, 3)
	require.NoError(t, err)
	assert.Equal(t, 1.0, *before.Earned, "a preview changes nothing")

	// The preview is old once another mark changes.
	s.Exec(t, "UPDATE results SET earned = 200 WHERE handin_id = 3")
	_, err = nadia.Regrade(ctx, 1, client.Regrading{Exercise: "mist-hold-in", Apply: preview.Key})
	assert.Equal(t, "preview-old", problemOf(t, err).Code)
	preview, err = nadia.Regrade(ctx, 1, client.Regrading{Exercise: "mist-hold-in", Handin: 3})
	require.NoError(t, err)
	assert.Equal(t, 1, preview.Graded)
	done, err := nadia.Regrade(ctx, 1, client.Regrading{Exercise: "mist-hold-in", Handin: 3, Apply: preview.Key})
	require.NoError(t, err)
	assert.True(t, done.Applied)
	after, err := nadia.Handin(ctx, 3)
	require.NoError(t, err)
	assert.Equal(t, preview.Changes[0].After, *after.Earned)
	log, err := nadia.Audit(ctx, 1, "", 1)
	require.NoError(t, err)
	assert.Equal(t, "grade again", log.Items[0].Action)
	assert.Contains(t, string(log.Items[0].After), "hand-in 3")
}

// No name becomes a formula in a spreadsheet.
func TestExports(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia := s.As(t, "nadia")
	_, err := nadia.Enrol(ctx, 1, client.Roster{CSV: "login,name\nmallory,=HYPERLINK(\"http://x\")\n"})
	require.NoError(t, err)
	_, err = nadia.Enrol(ctx, 1, client.Roster{CSV: "login,name\nmallory,\"=HYPERLINK(\"\"http://x\"\")\"\n"})
	require.NoError(t, err)
	text, err := nadia.ExportMarks(ctx, 1, "csv")
	require.NoError(t, err)
	rows, err := csv.NewReader(bytes.NewReader(text)).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"login", "name", "vent-interlock"}, rows[0][:3])
	assert.Equal(t, `'=HYPERLINK("http://x")`, rows[1][1])
	assert.Equal(t, []string{"ana", "Ana Kovač", "10"}, rows[2][:3])

	text, err = nadia.ExportMarks(ctx, 1, "xlsx")
	require.NoError(t, err)
	f, err := excelize.OpenReader(bytes.NewReader(text))
	require.NoError(t, err)
	formula, err := f.GetCellFormula("Marks", "B3")
	require.NoError(t, err)
	assert.Empty(t, formula)
	kind, err := f.GetCellType("Marks", "C4")
	require.NoError(t, err)
	assert.NotEqual(t, excelize.CellTypeSharedString, kind, "marks are numbers")
	value, err := f.GetCellValue("Marks", "C4")
	require.NoError(t, err)
	assert.Equal(t, "10", value)
}

// Insight tells pass rates, common slips and hand-ins alike but for names and order, one hand-in of each learner.
func TestInsight(t *testing.T) {
	s := servicetest.Start(t, true)
	handIn(t, s.As(t, "liam"), "mist-hold-in", "PROGRAM other\n// Mine.\nmist_valve := mist_off AND (mist_valve OR mist_on);\nEND_PROGRAM\n",
		"alike")
	handIn(t, s.As(t, "kemi"), "mist-hold-in", rightMist, "")
	i, err := s.As(t, "nadia").Insight(ctx, 1, "mist-hold-in")
	require.NoError(t, err)
	assert.Positive(t, i.Handins)
	for _, sc := range i.Scenarios {
		assert.Equal(t, i.Handins, sc.Of, sc.Name)
	}
	require.NotEmpty(t, i.Differences)
	assert.Regexp(t, `^At scan \d+ \(.*\) it should be (TRUE|FALSE) and was`, i.Differences[0].Say)
	found := false
	for _, a := range i.Alike {
		names := ""
		for _, h := range a.Handins {
			names += h.Person + "; "
		}
		found = found || strings.Contains(names, "Liam Byrne") && strings.Contains(names, "Kemi Adeyemi")
	}
	assert.True(t, found, "%v", i.Alike)
}

// What has not changed is not sent again.
func TestUnchangedIsNotSentAgain(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia := s.As(t, "nadia")
	ask := func(tag string) *http.Response {
		r, err := http.NewRequest("GET", s.URL+"/api/marks", nil)
		require.NoError(t, err)
		r.Header.Set("Authorization", "Bearer "+nadia.Token)
		r.Header.Set("If-None-Match", tag)
		response, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		require.NoError(t, response.Body.Close())
		return response
	}
	first := ask("")
	assert.Equal(t, 200, first.StatusCode)
	assert.Equal(t, 304, ask(first.Header.Get("ETag")).StatusCode)
	_, err := nadia.Override(ctx, 3, client.Overruling{Earned: 9, Reason: "It changes."})
	require.NoError(t, err)
	assert.Equal(t, 200, ask(first.Header.Get("ETag")).StatusCode)
}

// The log tells who asked for what, and no password, token, join code or program.
func TestNoSecretIsLogged(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia := s.As(t, "nadia")
	done, err := nadia.Enrol(ctx, 1, client.Roster{CSV: "login,name\nnoor,Noor Aziz\n"})
	require.NoError(t, err)
	anybody := &client.Client{URL: s.URL}
	_, err = anybody.Join(ctx, client.Joining{Code: done.Added[0].Code, Password: "sunflowers grow"})
	require.NoError(t, err)
	_, err = anybody.Login(ctx, client.TokenWish{Credentials: client.Credentials{Login: "noor", Password: "a wrong password"}})
	require.Error(t, err)
	handIn(t, s.As(t, "liam"), "mist-hold-in", rightMist, "logged")
	log := s.Log.String()
	assert.Contains(t, log, "/api/join")
	for _, secret := range []string{servicetest.Password, "sunflowers grow", "a wrong password", nadia.Token, done.Added[0].Code,
		"mist_valve :="} {
		assert.NotContains(t, log, secret)
	}
}

// A brief is Markdown; what could run in a page is taken out of it.
func TestBriefCannotRun(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia := s.As(t, "nadia")
	files, err := folder.Open(filepath.Join(servicetest.Root(t), "courses/glasshouse/exercises/mist-hold-in"))
	require.NoError(t, err)
	files["brief.md"] = []byte("**Mist.** <script>alert(1)</script><img src=x onerror=alert(1)> [here](javascript:alert(1))\n")
	_, err = nadia.Push(ctx, "mist-hold-in", client.Folder{Files: files})
	require.NoError(t, err)
	e, err := s.As(t, "liam").Exercise(ctx, "mist-hold-in")
	require.NoError(t, err)
	assert.Contains(t, e.Brief, "<strong>Mist.</strong>")
	for _, bad := range []string{"<script", "onerror", "javascript:"} {
		assert.NotContains(t, e.Brief, bad)
	}
}
