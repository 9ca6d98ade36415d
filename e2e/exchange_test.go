package e2e

import (
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"celandine/core/source"
	"celandine/core/xmlio"
	"celandine/e2e/browser"
)

// exported is the solution of an exercise as an exchange file.
func exported(t *testing.T, form xmlio.Form, file string) string {
	text, err := os.ReadFile("../courses/glasshouse/exercises/mist-hold-in/" + file)
	require.NoError(t, err)
	out, problems := xmlio.Write(form, source.NewFile(file, string(text)), nil)
	require.Empty(t, problems)
	return out
}

// openFile puts a file into the field for a program's file, as choosing it does.
func openFile(p *browser.Page, name, text string) error {
	_, err := browser.Evaluate[bool](p, `(() => {
		const all = new DataTransfer()
		all.items.add(new File([`+strconv.Quote(text)+`], `+strconv.Quote(name)+`))
		const field = document.querySelector('[aria-label="A program’s file"]')
		field.files = all.files
		return field.dispatchEvent(new Event('change', { bubbles: true }))
	})()`)
	return err
}

func textHas(has string) string {
	return "document.querySelector('.cm-content')?.innerText.includes(" + strconv.Quote(has) + ")"
}

// A program drawn elsewhere is opened from its exchange file, in the language that it is in, and earns its mark; what
// cannot be read is told and leaves the program as it was; a program is saved for other programs.
func TestExchangeFile(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.See("Now: scan 0"))
	require.NoError(t, openFile(p, "mine.xml", exported(t, xmlio.Earlier, "solution.ladder")))
	require.NoError(t, p.Until("the ladder of the file", textHas("{ [mist_on] | [mist_valve] }")))
	require.NoError(t, openFile(p, "blocks.xml", exported(t, xmlio.Standard, "solution.fbd")))
	require.NoError(t, p.Until("its blocks, drawn", "document.querySelectorAll('[data-network] .body').length > 1"))

	jump := strings.Replace(exported(t, xmlio.Earlier, "solution.ladder"), "<contact", "<jump localId=\"99\" label=\"night\"/><contact", 1)
	require.NoError(t, openFile(p, "jump.xml", jump))
	require.NoError(t, p.See("the jump night is not read"))
	require.NoError(t, p.See("your program is as it was"))
	accessible(t, p)
	require.NoError(t, p.Click("Close"))
	require.NoError(t, p.Until("the program as it was", textHas("mist_off")))

	_, err := browser.Evaluate[bool](p, `(() => {
		const made = URL.createObjectURL
		URL.createObjectURL = (b) => (b.text().then((t) => (window.saved = t)), made(b))
		return true
	})()`)
	require.NoError(t, err)
	require.NoError(t, p.Click("File"))
	require.NoError(t, p.Click("Save as an exchange file (XML)"))
	require.NoError(t, p.Until("the file", `window.saved?.includes('identifier="mist_off"')`))

	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("10 of 10"))
}

// An exchange file in another language than the program's file of the folder is said in that.
func TestExchangeFileInTheWorkshop(t *testing.T) {
	t.Parallel()
	_, p := look(t, "nadia", "#/workshop/nadia/fogger-run-on/programs", "Known mistakes")
	require.NoError(t, p.Until("a ladder in sight", textHas("RUNG")))
	blocks, problems := xmlio.Write(xmlio.Standard, source.NewFile("blocks.fbd",
		"PROGRAM p\nFBD\nNETWORK 'Run'\n  AND(OR(fogger_on, fogger), fogger_off) => { fogger | fan };\nEND_FBD\nEND_PROGRAM\n"), nil)
	require.Empty(t, problems)
	require.NoError(t, openFile(p, "blocks.xml", blocks))
	require.NoError(t, p.See("It was in block diagrams, and is in ladder here."))
	require.NoError(t, p.Click("Close"))
	require.NoError(t, p.Until("the program as a ladder", textHas("{ [fogger_on] | [fogger] } -- [fogger_off]")))
}
