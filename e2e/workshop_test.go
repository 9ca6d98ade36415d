package e2e

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/core/workshop"
	"celandine/courses"
	"celandine/e2e/browser"
	"celandine/folder"
	"celandine/service/servicetest"
)

// A maker writes an exercise in the workshop, by the mouse and the keys.
type maker struct {
	t    *testing.T
	p    *browser.Page
	form exercise.Form // what is made
}

func (m *maker) must(err error) {
	m.t.Helper()
	require.NoError(m.t, err)
}

// part goes to a part of the workshop.
func (m *maker) part(name, words string) {
	m.t.Helper()
	m.must(m.p.ClickSelector("nav[aria-label='Parts of the exercise'] a[href$='/" + name + "']"))
	m.must(m.p.See(words))
}

// put replaces what stands at a place of exercise.yaml, and leaves the field.
func (m *maker) put(at, text string) {
	m.t.Helper()
	if text == "" {
		return
	}
	field := "[data-at='" + at + "']"
	m.must(m.p.ClickSelector(field))
	m.must(m.p.Press("a", chromedp.ModifierCtrl))
	m.must(m.p.Type(text))
	m.must(m.p.Press(kb.Tab))
}

// choose picks a value of the list at a place.
func (m *maker) choose(at, value string) {
	m.t.Helper()
	if value == "" {
		return
	}
	list := "document.querySelector(\"select[data-at='" + at + "']\")"
	m.must(m.p.Until("a list at "+at, list))
	_, err := browser.Evaluate[bool](m.p,
		fmt.Sprintf("((s) => { s.value = %q; return s.dispatchEvent(new Event('change', {bubbles: true})) })(%s)", value, list))
	m.must(err)
}

func (m *maker) until(what, expression string) {
	m.t.Helper()
	m.must(m.p.Until(what, expression))
}

// points writes the wiring list.
func (m *maker) points(input bool, rows []exercise.PointForm) {
	what, place := "Output", "panel/outputs"
	if input {
		what, place = "Input", "panel/inputs"
	}
	for n, row := range rows {
		at := fmt.Sprintf("%s/%d/", place, n)
		button := what
		if row.Type != "" && row.Type != "BOOL" {
			button += " of a number"
		}
		m.must(m.p.ClickSelector(fmt.Sprintf("[data-add='%s']", button)))
		m.until("a row for "+row.Name, "document.activeElement?.dataset.at === '"+at+"name'")
		m.must(m.p.Type(row.Name))
		m.must(m.p.Press(kb.Tab))
		if row.Type != "BOOL" {
			m.choose(at+"type", row.Type)
		}
		m.choose(at+"device", row.Device)
		if row.Contact == "closed" {
			m.choose(at+"contact", "closed")
		}
		if now, err := browser.Evaluate[string](m.p, "document.querySelector(\"[data-at='"+at+"at']\").value"); err != nil || now != row.At {
			m.put(at+"at", row.At)
		}
		m.put(at+"label", row.Label)
		m.put(at+"unit", row.Unit)
		m.put(at+"initial", row.Initial)
	}
}

// program writes a program of the folder.
func (m *maker) program(stem, language, text string) {
	m.must(m.p.ClickSelector(fmt.Sprintf("[data-begin='%s.%s']", stem, language)))
	m.until("the program's text", "document.querySelector('[aria-label=\"Your program\"] .cm-content')?.innerText.includes('PROGRAM')")
	m.must(m.p.Write(text))
	m.until("the text is read", "document.querySelector('[data-summary]')?.dataset.summary.startsWith('0 errors')")
}

// scenario writes one scenario and its steps.
func (m *maker) scenario(n int, s exercise.ScenarioForm) {
	m.must(m.p.Set("What it shows", s.Name))
	m.must(m.p.ClickSelector("form[aria-label='New scenario'] button"))
	at := fmt.Sprintf("scenarios/%d/", n)
	m.until("the scenario "+s.Name, "document.querySelector(\"[data-at='"+at+"name']\")")
	m.put(at+"points", s.Points)
	m.put(at+"for", s.For)
	if s.Shown == "true" {
		m.must(m.p.Click("shown after a hand-in"))
	}
	if s.Predict == "true" {
		m.must(m.p.Click("predicted before the first run"))
	}
	added := 0
	for _, step := range s.Steps {
		each := []exercise.StepForm{step}
		if len(step.Values) > 1 { // the list adds what is set one by one
			each = nil
			for _, v := range step.Values {
				one := step
				one.Values = []exercise.ValueForm{v}
				each = append(each, one)
			}
		}
		for _, one := range each {
			m.step(at, added, one)
			added++
		}
	}
}

func (m *maker) step(scenario string, n int, s exercise.StepForm) {
	m.must(m.p.Choose("do", s.Verb))
	field := func(label, text string) {
		if text == "" {
			return
		}
		m.must(m.p.ClickSelector("form[aria-label='Another step'] [data-field='" + label + "']"))
		m.must(m.p.Press("a", chromedp.ModifierCtrl))
		m.must(m.p.Type(text))
	}
	field("at", s.At)
	what, value := s.Object, s.For
	if len(s.Values) > 0 {
		what, value = s.Values[0].Name, s.Values[0].Value
	}
	if s.Verb != "restart" {
		m.until("a name "+what,
			fmt.Sprintf("[...document.querySelectorAll('form[aria-label=\"Another step\"] option')].some((o) => o.value === %q)", what))
		m.must(m.p.Choose("what", what))
	}
	field("value", value)
	m.must(m.p.Click("Add the step"))
	m.until("the step", fmt.Sprintf("document.querySelectorAll('ol[aria-label=Steps] [data-at$=\"/at\"]').length === %d", n+1))
	m.put(fmt.Sprintf("%ssteps/%d/every", scenario, n), s.Every)
	m.put(fmt.Sprintf("%ssteps/%d/times", scenario, n), s.Times)
}

// graded clicks what is graded, and says how it weighs.
func (m *maker) graded() {
	for n, g := range m.form.Graded {
		name := g.Signal
		if g.Block != "" {
			name = g.Block + "." + g.Member
		}
		m.must(m.p.ClickSelector(fmt.Sprintf("[data-grade='%s']", strings.ToLower(name))))
		at := fmt.Sprintf("graded/%d/", n)
		m.until("its row", "document.querySelector(\"[data-at='"+at+"slack']\")")
		if g.Weight != "" && g.Weight != "1" {
			m.must(m.p.ClickSelector("[data-at='" + at + "weight']"))
			m.must(m.p.Press(kb.Home))
			for range weight(g.Weight) - 1 {
				m.must(m.p.Press(kb.ArrowRight))
			}
			m.must(m.p.Press(kb.Tab))
		}
		m.put(at+"slack", g.Slack)
		m.put(at+"drift", g.Drift)
		m.put(at+"within", g.Within)
	}
	for n, r := range m.form.Rules {
		for kind, what := range map[string]string{"require": r.Require, "forbid": r.Forbid, "warning": r.Warning, "chatter": r.Chatter} {
			if what != "" {
				m.must(m.p.Choose("A hand-in", kind))
				m.must(m.p.Choose("what", what))
			}
		}
		m.must(m.p.Click("Add the rule"))
		at := fmt.Sprintf("rules/%d/", n)
		m.put(at+"deduct", r.Deduct)
		m.put(at+"at_least", r.AtLeast)
		m.put(at+"at_most", r.AtMost)
		m.put(at+"say", r.Say)
	}
}

func weight(text string) (n int) {
	_, _ = fmt.Sscan(text, &n)
	return max(n, 1)
}

// make makes an exercise of the demo course again, from nothing.
func (m *maker) make(title string, files exercise.Files) {
	m.must(m.p.Click("New exercise"))
	m.must(m.p.Type(title))
	m.must(m.p.Click("Begin"))
	m.must(m.p.See("What does the learner press?"))
	m.put("topic", m.form.Topic)
	m.points(true, m.form.Panel.Inputs)
	m.points(false, m.form.Panel.Outputs)

	m.part("brief", "As learners see it")
	m.must(m.p.ClickSelector(".cm-content"))
	m.must(m.p.Type(string(files["brief.md"])))

	m.part("programs", "Learners write it in")
	if strings.Contains(string(files["exercise.yaml"]), "fbd") {
		m.must(m.p.Click("Blocks"))
		m.until("blocks may be written", "document.querySelector(\"[data-begin='solution.fbd']\")")
	}
	for _, name := range slices.Sorted(maps.Keys(files)) {
		if stem, language, ok := strings.Cut(name, "."); ok && (stem == "solution" || stem == "starter") {
			m.program(stem, language, string(files[name]))
		}
	}
	for n, task := range m.form.Tasks {
		if n == 0 {
			m.must(m.p.Click("Tasks"))
		}
		m.must(m.p.Set("Program", task.Program))
		m.must(m.p.Click("Add a task"))
		at := fmt.Sprintf("tasks/%d/", n)
		m.until("the task", "document.querySelector(\"[data-at='"+at+"priority']\")")
		m.put(at+"priority", task.Priority)
		m.put(at+"every", task.Every)
		if task.Once == "true" {
			m.must(m.p.ClickSelector("[data-once='" + task.Program + "']"))
		}
	}

	m.part("scenarios", "What it shows")
	for n, s := range m.form.Scenarios {
		m.scenario(n, s)
	}
	m.part("marks", "Click what is graded")
	m.graded()
	m.part("try", "An empty program")
}

// Each lesson is made from nothing in the workshop, published, given to the class, handed in and marked. What was made says the same
// as the exercise of the demo course that it was made after, and its zip, read as the command line reads one, gives the same marks.
func TestEachLessonIsMadeInTheWorkshop(t *testing.T) {
	lessons, err := courses.Lessons()
	require.NoError(t, err)
	names := []string{}
	for _, l := range lessons {
		if !slices.Contains(names, l.Exercise) {
			names = append(names, l.Exercise)
		}
	}
	const several = 4
	for n := range several {
		t.Run(fmt.Sprint(n), func(t *testing.T) {
			t.Parallel()
			s, p := look(t, "nadia", "#/exercises", "New exercise")
			for i := n; i < len(names); i += several {
				lesson(t, s, p, names[i])
			}
		})
	}
}

func lesson(t *testing.T, s *servicetest.Service, p *browser.Page, name string) {
	t.Helper()
	files, err := folder.Open(filepath.Join(servicetest.Root(t), "courses/glasshouse/exercises", name))
	require.NoError(t, err)
	maps.DeleteFunc(files, func(name string, _ []byte) bool { return strings.HasPrefix(name, "mistakes/") }) // a test of its own makes one
	form, err := exercise.FormOf(string(files["exercise.yaml"]))
	require.NoError(t, err)
	require.NoError(t, p.Go(s.URL+"/#/exercises"))
	t.Log(name)
	m := &maker{t, p, form}
	m.make(form.Title+", made", files)

	m.part("publish", "Everything is new.")
	m.until("all is saved", "document.querySelector('[data-kept=service]')")
	m.must(p.Click("Publish revision 1"))
	m.must(p.See("Published as revision 1."))
	m.must(p.Click("Give"))
	m.must(p.See("Revision 1 is given to Glasshouse controls, spring."))

	made := exercise.NameFor(form.Title + ", made")
	made = strings.Trim(made[:min(len(made), 56)], "-")
	packed, err := s.As(t, "nadia").Zip(t.Context(), "nadia", made)
	require.NoError(t, err)
	zipped := filepath.Join(t.TempDir(), "made.zip")
	require.NoError(t, os.WriteFile(zipped, packed, 0o600))
	again, err := folder.Open(zipped)
	require.NoError(t, err)
	want, err := workshop.Retitled(files, made, form.Title+", made")
	require.NoError(t, err)
	differences := slices.DeleteFunc(workshop.Differences(want, again), func(d string) bool {
		return strings.HasSuffix(d, "in spaces or order alone.") || strings.HasPrefix(d, "Only spaces")
	})
	assert.Empty(t, differences, name)

	e, problems := exercise.Read(again)
	require.Empty(t, problems, name)
	g, problems := grade.Prepare(e)
	require.NotNil(t, g, problems)
	wrong, err := filepath.Glob(filepath.Join(servicetest.Root(t), "courses/glasshouse/handins", name, "*"))
	require.NoError(t, err)
	for _, handin := range wrong[:min(len(wrong), 2)] {
		text, err := os.ReadFile(handin)
		require.NoError(t, err)
		file := "mine" + filepath.Ext(handin)
		here, _ := g.Grade(file, []*source.File{source.NewFile(file, string(text))})
		there := handedIn(t, s, made, file, string(text))
		assert.InDelta(t, float64(here.Earned)/100, there, 1e-9, "%s: %s", name, handin)
	}
}

// handedIn is what a learner earns with a program.
func handedIn(t *testing.T, s *servicetest.Service, exercise, file, text string) float64 {
	t.Helper()
	liam := s.As(t, "liam")
	h, err := liam.HandIn(t.Context(), exercise, client.Program{File: file, Text: text}, "")
	require.NoError(t, err)
	p, err := liam.Await(t.Context(), h.ID)
	require.NoError(t, err)
	require.NotNil(t, p.Earned)
	return *p.Earned
}
