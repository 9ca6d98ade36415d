package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/service"
)

// Every lesson that the binary offers begins with an exercise that is right as it stands.
func TestEveryLessonBeginsWithAnExercise(t *testing.T) {
	var c service.Config
	require.NoError(t, outfit(&c))
	require.Len(t, c.Lessons.List, 17)
	for _, l := range c.Lessons.List {
		e, problems := exercise.Read(c.Lessons.Folders[l.Name])
		require.NotNil(t, e, "%s: %v", l.Name, problems)
		g, problems := grade.Prepare(e)
		require.NotNil(t, g, "%s: %v", l.Name, problems)
		assert.False(t, g.Verify().HasErrors(), l.Name)
		assert.NotEmpty(t, l.Behaviour)
	}
}
