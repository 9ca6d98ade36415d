package cli

import (
	"io"
	"os"
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"
	"golang.org/x/term"
)

// width is how many letters a terminal has in a line; 0 for anything else, whose lines stay as they are.
func width(w io.Writer) int {
	f, ok := w.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) {
		return 0
	}
	columns, _, err := term.GetSize(int(f.Fd()))
	if err != nil {
		return 0
	}
	return columns
}

// wrap breaks sentences that are too long for a terminal between words and keeps their indentation. Tables are left alone.
func wrap(body []byte, width int) []byte {
	if width < 40 {
		return body
	}
	var out strings.Builder
	for line := range strings.Lines(string(body)) {
		words := strings.TrimLeft(line, " ")
		indent := strings.Repeat(" ", len(line)-len(words))
		if text.RuneWidthWithoutEscSequences(strings.TrimRight(line, "\n")) <= width || strings.Contains(words, "  ") ||
			strings.ContainsAny(words, "│─") {
			out.WriteString(line)
			continue
		}
		for part := range strings.Lines(text.WrapSoft(strings.TrimRight(words, "\n"), width-len(indent)-2)) {
			out.WriteString(indent + strings.TrimRight(part, " \n") + "\n")
			if len(indent) == len(line)-len(words) {
				indent += "  "
			}
		}
	}
	return []byte(out.String())
}
