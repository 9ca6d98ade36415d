package auth_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/service/auth"
)

// However a code is read aloud and typed, it is the same code; another code is another.
func TestCodesAreTypedInManyWays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		code := auth.NewCode()
		require.Regexp(t, "^[a-z2-7]{4}-[a-z2-7]{4}-[a-z2-7]{4}$", code)
		kept := auth.Normal(code)
		typed := code
		for _, way := range rapid.SliceOf(rapid.SampledFrom([]string{"upper", "spaces", "joined", "zeros", "ones", "around"})).Draw(t, "ways") {
			switch way {
			case "upper":
				typed = strings.ToUpper(typed)
			case "spaces":
				typed = strings.ReplaceAll(typed, "-", " ")
			case "joined":
				typed = strings.ReplaceAll(typed, "-", "")
			case "zeros":
				typed = strings.NewReplacer("o", "0", "O", "0").Replace(typed)
			case "ones":
				typed = strings.NewReplacer("l", "1", "L", "1").Replace(typed)
			case "around":
				typed = " " + typed + " "
			}
		}
		require.Equal(t, kept, auth.Normal(typed), "typed as %q", typed)
		require.Len(t, kept, 12)
		require.NotEqual(t, kept, auth.Normal(auth.NewCode()))
	})
}

func TestNormalLeavesOtherLetters(t *testing.T) {
	assert.Equal(t, "k7fq2mzpdxtw", auth.Normal("K7FQ-2mzp dxtw"))
}
