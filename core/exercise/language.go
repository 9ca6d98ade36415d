package exercise

import (
	"path"
	"slices"
)

// Languages are those in which a program may be written, each as its files end.
func Languages() []string { return []string{"ladder", "fbd", "st"} }

// LanguageOf is the language of a file by its name; "" where it is no program.
func LanguageOf(file string) string {
	ext := path.Ext(file)
	if ext == "" || !slices.Contains(Languages(), ext[1:]) {
		return ""
	}
	return ext[1:]
}

// Empty is a program of that name with nothing in it yet.
func Empty(name, language string) string {
	body := ""
	switch language {
	case "ladder":
		body = "LADDER\nEND_LADDER"
	case "fbd":
		body = "FBD\nEND_FBD"
	}
	return "PROGRAM " + name + "\n" + body + "\nEND_PROGRAM\n"
}

// inOrder sorts programs by their languages, those that stand first in [Languages] first.
func inOrder(list []Source) {
	slices.SortStableFunc(list, func(a, b Source) int {
		return slices.Index(Languages(), a.Language()) - slices.Index(Languages(), b.Language())
	})
}
