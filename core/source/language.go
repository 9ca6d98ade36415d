package source

// LanguageWord is what people call a language.
func LanguageWord(language string) string {
	switch language {
	case "ladder":
		return "ladder"
	case "fbd":
		return "block diagrams"
	case "st":
		return "structured text"
	}
	return language
}
