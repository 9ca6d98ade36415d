package api_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/core/source"
	"celandine/core/xmlio"
	"celandine/service/servicetest"
)

// An exchange file is taken wherever a program is: it is kept as the program that it holds.
func TestExchangeFiles(t *testing.T) {
	s := servicetest.Start(t, true)
	liam := s.As(t, "liam")
	ladder, err := os.ReadFile("../../courses/glasshouse/exercises/mist-hold-in/solution.ladder")
	require.NoError(t, err)
	right, problems := xmlio.Write(xmlio.Earlier, source.NewFile("mine.ladder", string(ladder)), nil)
	require.Empty(t, problems)
	jump := strings.Replace(right, "<contact", "<jump localId=\"99\" label=\"night\"/><contact", 1)
	wrong := strings.Replace(right, "mist_on", "mist_onn", 1)
	program := func(text string) client.Program { return client.Program{File: "mine.xml", Text: text} }

	t.Run("handed in", func(t *testing.T) {
		h, err := liam.HandIn(ctx, "mist-hold-in", program(right), "one")
		require.NoError(t, err)
		if h.State == client.Waiting {
			_, err = liam.Await(ctx, h.ID)
			require.NoError(t, err)
		}
		h, err = liam.Handin(ctx, h.ID)
		require.NoError(t, err)
		assert.Equal(t, 10.0, *h.Earned)
		assert.Equal(t, "mine.ladder", h.File)
		assert.Contains(t, h.Text, "LADDER\nRUNG")
	})
	t.Run("checked, with places in the file", func(t *testing.T) {
		c, err := liam.Check(ctx, "mist-hold-in", program(wrong))
		require.NoError(t, err)
		require.NotEmpty(t, c.Diagnostics)
		assert.Equal(t, "undeclared", c.Diagnostics[0].Code)
		assert.Contains(t, strings.Split(wrong, "\n")[c.Diagnostics[0].Line-1], "<contact ")
	})
	t.Run("refused", func(t *testing.T) {
		before, err := liam.Handins(ctx, "mist-hold-in", client.Wanted{})
		require.NoError(t, err)
		_, err = liam.HandIn(ctx, "mist-hold-in", program(jump), "two")
		p := problemOf(t, err)
		assert.Equal(t, 422, p.Status)
		assert.Contains(t, p.Error(), "the jump night is not read")
		after, err := liam.Handins(ctx, "mist-hold-in", client.Wanted{})
		require.NoError(t, err)
		assert.Len(t, after, len(before))
	})
	t.Run("read and written", func(t *testing.T) {
		out, err := liam.WriteExchange(ctx, client.Exporting{File: "mine.ladder", Text: string(ladder), Form: string(xmlio.Standard)})
		require.NoError(t, err)
		assert.Equal(t, "mine.xml", out.File)
		in, err := liam.ReadExchange(ctx, client.Program{File: out.File, Text: out.Text})
		require.NoError(t, err)
		assert.Equal(t, "mine.ladder", in.File)
		assert.Contains(t, in.Text, "RUNG")
		in, err = liam.ReadExchange(ctx, program(jump))
		require.NoError(t, err)
		assert.Empty(t, in.Text)
		assert.NotEmpty(t, in.Diagnostics)
	})
}
