package say_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/say"
)

type named string
type letter rune

// What is said is what fmt says.
func TestTextfIsFmts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		sentence := ""
		var values []any
		for range rapid.IntRange(0, 4).Draw(t, "places") {
			sentence += rapid.SampledFrom([]string{"", "a ", "100%% ", "ö\n"}).Draw(t, "words")
			text := rapid.StringOfN(rapid.SampledFrom([]rune("a\"\\%\nö\x00")), 0, 5, -1).Draw(t, "text")
			verb := rapid.SampledFrom([]string{"%s", "%q", "%v", "%d", "%c"}).Draw(t, "verb")
			number := rapid.Int64().Draw(t, "number")
			switch verb {
			case "%s", "%q":
				values = append(values, rapid.SampledFrom([]any{text, named(text), errors.New(text)}).Draw(t, "value"))
			case "%d":
				values = append(values, rapid.SampledFrom([]any{number, int(number), uint64(number), uint8(number)}).Draw(t, "value"))
			case "%c":
				values = append(values, rapid.SampledFrom([]any{'x', 'ö', byte('y'), letter('z')}).Draw(t, "value"))
			default:
				values = append(values, rapid.SampledFrom([]any{text, number, true, errors.New(text), 1.5, time.Second, nil}).Draw(t, "value"))
			}
			sentence += verb
		}
		require.Equal(t, fmt.Sprintf(sentence, values...), say.Textf(sentence, values...))
	})
}

func TestErrorsLieBeneath(t *testing.T) {
	beneath := errors.New("no")
	err := say.Errorf("reading %s: %v", "a", beneath)
	assert.Equal(t, "reading a: no", err.Error())
	assert.ErrorIs(t, err, beneath)
	wrong, nothing := "%s", []any{}
	assert.Equal(t, "%!s(MISSING)", say.Textf(wrong, nothing...))
	assert.True(t, strings.HasPrefix(say.Textf(wrong, []int{1}), "a []int"))
}
