package syntax

import (
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"celandine/core/source"
)

// A Comment is kept beside the tree, with its place.
type Comment struct {
	Text string
	Span source.Span
}

// scanner turns a text into tokens. It reports what cannot be a token and goes on.
type scanner struct {
	file     *source.File
	text     string
	at       int
	comments []Comment
	problems *source.List
}

func (s *scanner) span(start int) source.Span {
	return source.Span{File: s.file, Start: start, End: s.at}
}

func (s *scanner) peek(ahead int) byte {
	if s.at+ahead < len(s.text) {
		return s.text[s.at+ahead]
	}
	return 0
}

// next returns the next token; after the last, EOF for ever.
func (s *scanner) next() Token {
	s.skipBlank()
	start := s.at
	if start >= len(s.text) {
		return Token{Kind: EOF, Span: s.span(start)}
	}
	c := s.text[start]
	switch {
	case isLetter(c):
		return s.word(start)
	case isDigit(c):
		return s.number(start)
	case s.foreignLetter():
		return s.foreign(start)
	case c == '\'' || c == '"':
		return s.quoted(start, c)
	case c == '%':
		return s.address(start)
	}
	return s.sign(start)
}

func isLetter(c byte) bool { return c == '_' || 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' }

// IsName reports a text of letters, digits and underscores that does not begin with a digit.
func IsName(text string) bool {
	for i := range len(text) {
		if !isLetter(text[i]) && (i == 0 || !isDigit(text[i])) {
			return false
		}
	}
	return text != ""
}

func isDigit(c byte) bool { return '0' <= c && c <= '9' }

func (s *scanner) skipBlank() {
	for s.at < len(s.text) {
		switch c := s.text[s.at]; {
		case c == ' ' || c == '\t' || c == '\n' || c == '\r':
			s.at++
		case c == '/' && s.peek(1) == '/':
			start := s.at
			for s.at < len(s.text) && s.text[s.at] != '\n' {
				s.at++
			}
			s.comments = append(s.comments, Comment{s.text[start:s.at], s.span(start)})
		case c == '(' && s.peek(1) == '*':
			s.comment("(*", "*)")
		case c == '/' && s.peek(1) == '*':
			s.comment("/*", "*/")
		case (c < ' ' || c > '~') && s.unseen():
		default:
			return
		}
	}
}

func (s *scanner) comment(open, closing string) {
	start, depth := s.at, 0
	for s.at < len(s.text) {
		switch rest := s.text[s.at:]; {
		case strings.HasPrefix(rest, open):
			depth++
			s.at += 2
		case strings.HasPrefix(rest, closing):
			depth--
			s.at += 2
			if depth == 0 {
				s.comments = append(s.comments, Comment{s.text[start:s.at], s.span(start)})
				return
			}
		default:
			s.at++
		}
	}
	s.problems.Add(source.OpenComment, source.Span{File: s.file, Start: start, End: start + 2},
		"Write "+closing+" where the comment ends.", "This comment has no end.")
}

func (s *scanner) word(start int) Token {
	for s.at < len(s.text) && (isLetter(s.text[s.at]) || isDigit(s.text[s.at])) {
		s.at++
	}
	if s.foreignLetter() {
		return s.foreign(start)
	}
	if s.at < len(s.text) && s.text[s.at] == '#' {
		return s.typed(start)
	}
	text := s.text[start:s.at]
	if len(text) > MaxName {
		s.problems.Add(source.LongName, s.span(start), "Give it a shorter one.", "This name has %d letters; a name has at most %d.", len(text),
			MaxName)
		text = text[:MaxName]
	}
	if word := keyword(text); word != "" {
		return Token{Kind: Keyword, Text: text, Word: word, Span: s.span(start)}
	}
	if legal := legalName(text); legal != text {
		hint := "Write a name with letters, digits and single underscores."
		if legal != "" {
			hint = "Write " + legal + "."
		}
		s.problems.Add(source.WrongName, s.span(start), hint,
			"%s has a doubled or trailing underscore, which a name may not have.", text)
		text = legal
	}
	return Token{Kind: Ident, Text: text, Span: s.span(start)}
}

// foreignLetter reports a letter that names do not have.
func (s *scanner) foreignLetter() bool {
	if s.peek(0) < utf8.RuneSelf {
		return false
	}
	r, _ := utf8.DecodeRuneInString(s.text[s.at:])
	return unicode.IsLetter(r)
}

// plainLetters are what people write for letters that names do not have.
var plainLetters = strings.NewReplacer("ä", "ae", "ö", "oe", "ü", "ue", "Ä", "Ae", "Ö", "Oe", "Ü", "Ue", "ß", "ss", "æ", "ae", "ø",
	"oe", "å", "aa", "Æ", "Ae", "Ø", "Oe", "Å", "Aa",
	"á", "a", "à", "a", "â", "a", "ã", "a", "é", "e", "è", "e", "ê", "e", "ë", "e", "í", "i", "ì", "i", "î", "i", "ï", "i", "ó",
	"o", "ò", "o", "ô", "o", "õ", "o", "ú", "u", "ù", "u", "û", "u",
	"ç", "c", "č", "c", "ć", "c", "đ", "d", "ğ", "g", "ı", "i", "ł", "l", "ñ", "n", "ń", "n", "ř", "r", "š", "s", "ş", "s", "ś",
	"s", "ž", "z", "ź", "z", "ż", "z", "ý", "y",
	"É", "E", "È", "E", "Ç", "C", "Č", "C", "Ć", "C", "Đ", "D", "Ğ", "G", "İ", "I", "Ł", "L", "Ñ", "N", "Š", "S", "Ş", "S", "Ž",
	"Z")

// foreign reads a name with letters other than a to z, reports it, and stands in for it a legal one.
func (s *scanner) foreign(start int) Token {
	for s.at < len(s.text) && (isLetter(s.text[s.at]) || isDigit(s.text[s.at]) || s.foreignLetter()) {
		_, size := utf8.DecodeRuneInString(s.text[s.at:])
		s.at += size
	}
	text := s.text[start:s.at]
	legal := strings.Map(func(r rune) rune {
		if r < utf8.RuneSelf {
			return r
		}
		return -1
	}, plainLetters.Replace(text))
	legal = strings.TrimLeft(legalName(legal), "0123456789")
	hint := "Write the name with the letters a to z, digits and single underscores."
	if legal != "" {
		hint = "Write " + legal + "."
	} else {
		legal = "x"
	}
	s.problems.Add(source.WrongName, s.span(start), hint, "%s has letters other than a to z, which a name may not have.", text)
	return Token{Kind: Ident, Text: legal, Span: s.span(start)}
}

// legalName returns the name with single underscores and none at the end.
func legalName(name string) string {
	for strings.Contains(name, "__") {
		name = strings.ReplaceAll(name, "__", "_")
	}
	return strings.TrimSuffix(name, "_")
}

// typed reads what follows the # of INT#5, T#1m30s, T#-2s or REAL#1.0E-3.
func (s *scanner) typed(start int) Token {
	s.at++
	if c := s.peek(0); c == '-' || c == '+' {
		s.at++
	}
	for s.at < len(s.text) {
		c := s.text[s.at]
		exponent := (c == '-' || c == '+') && (s.text[s.at-1] == 'e' || s.text[s.at-1] == 'E') && isDigit(s.peek(1)) &&
			!isTime(s.text[start:s.at])
		if !isLetter(c) && !isDigit(c) && c != '.' && c != '#' && !exponent {
			break
		}
		s.at++
	}
	text := s.text[start:s.at]
	if isTime(text) && s.peek(0) == ',' && isDigit(s.peek(1)) && isDigit(text[len(text)-1]) {
		s.at++
		for s.at < len(s.text) && (isLetter(s.text[s.at]) || isDigit(s.text[s.at])) {
			s.at++
		}
		text = strings.Replace(s.text[start:s.at], ",", ".", 1)
		s.problems.Add(source.WrongLiteral, s.span(start), "Write "+text+".", "A time has a point before its fraction, not a comma.")
	}
	return Token{Kind: Typed, Text: text, Word: strings.ToUpper(text), Span: s.span(start)}
}

func isTime(text string) bool {
	prefix, _, _ := strings.Cut(strings.ToUpper(text), "#")
	return prefix == "T" || prefix == "TIME"
}

func (s *scanner) number(start int) Token {
	s.digits()
	kind := Int
	switch {
	case s.peek(0) == '#':
		s.at++
		for s.at < len(s.text) && (isLetter(s.text[s.at]) || isDigit(s.text[s.at])) {
			s.at++
		}
	case s.peek(0) == '.' && isDigit(s.peek(1)):
		kind = Real
		s.at++
		s.digits()
		fallthrough
	default:
		if c := s.peek(0); c == 'e' || c == 'E' {
			sign := 0
			if d := s.peek(1); d == '-' || d == '+' {
				sign = 1
			}
			if isDigit(s.peek(1 + sign)) {
				kind = Real
				s.at += 1 + sign
				s.digits()
			}
		}
	}
	if isLetter(s.peek(0)) {
		return s.leadingDigit(start)
	}
	return Token{Kind: kind, Text: s.text[start:s.at], Span: s.span(start)}
}

func (s *scanner) digits() {
	for s.at < len(s.text) && (isDigit(s.text[s.at]) || s.text[s.at] == '_') {
		s.at++
	}
}

// isBareTime reports a time without its T#: 5s, 1m30s.
func isBareTime(text string) bool {
	for rest := strings.ToLower(text); rest != ""; {
		number := strings.TrimLeft(rest, "0123456789")
		unit := strings.TrimLeft(number, "dhmsun")
		if number == rest || unit == number || !slices.Contains([]string{"d", "h", "m", "s", "ms", "us", "ns"}, number[:len(number)-len(unit)]) {
			return false
		}
		rest = unit
	}
	return text != ""
}

// leadingDigit reads a name like 2nd_valve, reports it, and stands in for it
// a legal one.
func (s *scanner) leadingDigit(start int) Token {
	for s.at < len(s.text) && (isLetter(s.text[s.at]) || isDigit(s.text[s.at])) {
		s.at++
	}
	text := s.text[start:s.at]
	if isBareTime(text) {
		s.problems.Add(source.WrongLiteral, s.span(start), "Write T#"+text+".", "%s is no time as it stands.", text)
		return Token{Kind: Typed, Text: "T#" + text, Word: "T#" + strings.ToUpper(text), Span: s.span(start)}
	}
	legal := legalName(strings.TrimLeft(text, "0123456789_") + "_" +
		strings.TrimRight(text[:len(text)-len(strings.TrimLeft(text, "0123456789_"))], "_"))
	s.problems.Add(source.WrongName, s.span(start), "Write "+legal+", for example.", "The name %s begins with a digit.", text)
	return Token{Kind: Ident, Text: legal, Span: s.span(start)}
}

func (s *scanner) quoted(start int, quote byte) Token {
	s.at++
	for s.at < len(s.text) && s.text[s.at] != quote && s.text[s.at] != '\n' {
		if s.text[s.at] == '$' {
			s.at++
		}
		s.at++
	}
	s.at = min(s.at, len(s.text))
	if s.peek(0) != quote {
		s.problems.Add(source.OpenString, s.span(start), "Write "+string(quote)+" at its end.", "This text in quotes has no end on its line.")
		return Token{Kind: Str, Text: s.text[start:s.at] + string(quote), Span: s.span(start)}
	}
	s.at++
	return Token{Kind: Str, Text: s.text[start:s.at], Span: s.span(start)}
}

func (s *scanner) address(start int) Token {
	s.at++
	for s.at < len(s.text) && (isLetter(s.text[s.at]) || isDigit(s.text[s.at]) || s.text[s.at] == '.' && isDigit(s.peek(1))) {
		s.at++
	}
	text := s.text[start:s.at]
	return Token{Kind: AddressToken, Text: text, Word: strings.ToUpper(text), Span: s.span(start)}
}

type sign struct {
	text string
	kind Kind
}

var signs = []sign{
	{":=", Assign}, {"=>", Output}, {"**", Power}, {"<=", LessEq}, {">=", GreaterEq}, {"<>", NotEqual}, {"--", Wire}, {"..", Range},
	{"+", Plus}, {"-", Minus}, {"*", Star}, {"/", Slash}, {"<", Less}, {">", Greater}, {"=", Equal}, {"&", Amp},
	{"(", LParen}, {")", RParen}, {"[", LBracket}, {"]", RBracket}, {"{", LBrace}, {"}", RBrace}, {"|", Bar},
	{",", Comma}, {";", Semicolon}, {":", Colon}, {".", Dot}, {"@", At},
}

// beginning lists the signs that begin with each letter, the longer first.
var beginning = func() (table [utf8.RuneSelf][]sign) {
	for _, s := range signs {
		table[s.text[0]] = append(table[s.text[0]], s)
	}
	return table
}()

// foreignSigns are signs of other languages, with what is meant.
var foreignSigns = []struct {
	text, hint string
	stands     Token
}{
	{"==", "Write = to compare.", Token{Kind: Equal, Text: "="}},
	{"!=", "Write <> for “not equal”.", Token{Kind: NotEqual, Text: "<>"}},
	{"&&", "Write AND.", Token{Kind: Amp, Text: "&"}},
	{"!", "Write NOT.", Token{Kind: Keyword, Text: "NOT"}},
}

func (s *scanner) sign(start int) Token {
	first := s.text[start]
	for _, foreign := range foreignSigns {
		if foreign.text[0] == first && strings.HasPrefix(s.text[start:], foreign.text) {
			s.at += len(foreign.text)
			s.problems.Add(source.WrongSign, s.span(start), foreign.hint, "The sign %s has no meaning here.", foreign.text)
			return Token{Kind: foreign.stands.Kind, Text: foreign.stands.Text, Word: foreign.stands.Text, Span: s.span(start)}
		}
	}
	if first < utf8.RuneSelf {
		for _, sign := range beginning[first] {
			if strings.HasPrefix(s.text[start:], sign.text) {
				s.at += len(sign.text)
				return Token{Kind: sign.kind, Text: sign.text, Span: s.span(start)}
			}
		}
	}
	r, size := utf8.DecodeRuneInString(s.text[start:])
	s.at += size
	// A run of stray signs is one mistake.
	for s.at < len(s.text) {
		next, n := utf8.DecodeRuneInString(s.text[s.at:])
		if next < utf8.RuneSelf && next != '!' && next != '?' && next != '$' && next != '~' && next != '^' || unicode.IsSpace(next) {
			break
		}
		s.at += n
	}
	hint := ""
	switch r {
	case '“', '”', '‘', '’', '`':
		hint = "Write the plain quote '."
	case '–', '—':
		hint = "Write the plain sign - or, between rung elements, --."
	}
	s.problems.Add(source.WrongSign, s.span(start), hint, "The sign %s has no meaning here.", s.text[start:s.at])
	return Token{Kind: Bad, Text: s.text[start:s.at], Span: s.span(start)}
}

// codePoint is a sign's number as Unicode writes it.
func codePoint(r rune) string {
	digits := strings.ToUpper(strconv.FormatInt(int64(r), 16))
	return "U+" + strings.Repeat("0", max(0, 4-len(digits))) + digits
}

// unseen passes over a run of one sign that looks like a space or like nothing, and tells what it is; false where something else stands.
func (s *scanner) unseen() bool {
	r, size := utf8.DecodeRuneInString(s.text[s.at:])
	name, hint := "", ""
	switch {
	case r == utf8.RuneError:
		name, hint = "A byte that is not UTF-8", "Save the file as UTF-8."
	case unicode.Is(unicode.Zs, r):
		name, hint = "A special space ("+codePoint(r)+")", "Delete it and type a plain space."
	case unicode.Is(unicode.Cf, r) || unicode.Is(unicode.Cc, r):
		name, hint = "An invisible character ("+codePoint(r)+")", "Delete it: put the cursor behind it and press Backspace."
	default:
		return false
	}
	start, sign := s.at, s.text[s.at:s.at+size]
	for strings.HasPrefix(s.text[s.at:], sign) {
		s.at += size
	}
	s.problems.Add(source.WrongSign, s.span(start), hint, "%s is not allowed in a program.", name)
	return true
}
