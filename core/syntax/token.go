package syntax

import (
	"maps"
	"slices"
	"strings"

	"celandine/core/source"
)

// A Kind tells what a token is.
type Kind uint8

// The kinds of token. Words with a fixed meaning are Keyword, and their text
// tells which; P, N, S and R have a meaning in rungs only and stay Ident.
const (
	EOF Kind = iota
	Bad
	Ident
	Keyword
	Int
	Real
	Typed // INT#5, T#5s, BOOL#1
	Str
	AddressToken // %IX0.3
	Assign       // :=
	Output       // =>
	Plus
	Minus
	Star
	Slash
	Power // **
	Less
	LessEq
	Greater
	GreaterEq
	Equal
	NotEqual
	Amp
	LParen
	RParen
	LBracket
	RBracket
	LBrace
	RBrace
	Bar
	Wire // --
	Comma
	Semicolon
	Colon
	Dot
	Range // ..
	At    // @
)

// String returns the sign as it is written, or a word for what it stands for.
func (k Kind) String() string {
	return [...]string{"the end of the text", "this sign", "a name", "a keyword", "a number", "a number", "a literal", "a string",
		"an address", ":=", "=>", "+", "-", "*", "/", "**", "<", "<=", ">", ">=", "=", "<>", "&", "(", ")", "[", "]", "{", "}",
		"|", "--", ",", ";", ":", ".", "..", "@"}[k]
}

// IsKeyword reports whether a word, in any case of letters, has a fixed meaning and cannot be a name.
func IsKeyword(word string) bool { return keyword(word) != "" }

// keyword returns the keyword that a word is, in any case of letters, or "".
func keyword(word string) string {
	var upper [len("END_FUNCTION_BLOCK")]byte
	if len(word) > len(upper) {
		return ""
	}
	for i := range len(word) {
		c := word[i]
		if 'a' <= c && c <= 'z' {
			c -= 'a' - 'A'
		}
		upper[i] = c
	}
	return keywords[string(upper[:len(word)])]
}

// Keywords lists the words that have a fixed meaning, in alphabetical order.
func Keywords() []string { return slices.Sorted(maps.Keys(keywords)) }

// A Token is one word or sign. Text is as written; Word is the upper-case form of what is no name.
type Token struct {
	Kind Kind
	Text string
	Word string
	Span source.Span
}

// Is reports whether the token is the keyword.
func (t Token) Is(keyword string) bool { return t.Kind == Keyword && t.Word == keyword }

// named reports whether the token is a name, in any case of letters.
func (t Token) named(name string) bool { return t.Kind == Ident && strings.EqualFold(t.Text, name) }

func (t Token) describe() string {
	switch t.Kind {
	case EOF:
		return "the end of the text"
	case Keyword:
		return t.Word
	}
	return t.Text
}

// keywords are the keywords by themselves.
var keywords = func() map[string]string {
	m := map[string]string{}
	for _, w := range strings.Fields(`AND ARRAY AT BY CASE CONSTANT CONTINUE DO ELSE ELSIF END_CASE END_FBD END_FOR END_FUNCTION
		END_FUNCTION_BLOCK END_IF END_LADDER END_PROGRAM END_REPEAT END_STRUCT END_TYPE END_VAR END_WHILE EXIT FALSE FBD FOR
		FUNCTION FUNCTION_BLOCK IF LADDER MOD NOT OF OR PROGRAM REPEAT RETAIN RETURN RUNG STRUCT THEN TO TRUE TYPE UNTIL VAR
		VAR_EXTERNAL VAR_GLOBAL VAR_INPUT VAR_IN_OUT VAR_OUTPUT VAR_TEMP WHILE XOR`) {
		m[w] = w
	}
	return m
}()
