package roster_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"golang.org/x/tools/txtar"

	"celandine/service/roster"
)

// Each case is a list and what is said of it.
func TestRead(t *testing.T) {
	archive, err := txtar.ParseFile("testdata/lists.txtar")
	assert.NoError(t, err)
	for i := 0; i+1 < len(archive.Files); i += 2 {
		list, want := archive.Files[i], archive.Files[i+1]
		t.Run(list.Name, func(t *testing.T) {
			people, problems := roster.Read(list.Data)
			var got strings.Builder
			for _, p := range people {
				fmt.Fprintf(&got, "%d %s = %s\n", p.Line, p.Login, p.Name)
			}
			for _, p := range problems {
				fmt.Fprintf(&got, "line %d: %s\n", p.Line, p.Say)
			}
			assert.Equal(t, string(want.Data), got.String())
		})
	}
}

func TestReadNotText(t *testing.T) {
	_, problems := roster.Read([]byte("login,name\nana,\xff\n"))
	assert.Equal(t, []roster.Problem{{Line: 1, Say: "The list is not UTF-8. Save it from the spreadsheet as CSV UTF-8."}}, problems)
	_, problems = roster.Read(make([]byte, roster.MaxSize+1))
	assert.Equal(t, "The list is larger than 1 MiB.", problems[0].Say)
	_, problems = roster.Read([]byte("login,name\n" + strings.Repeat("x", 1)))
	assert.Len(t, problems, 1)
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("login,name\nana,Ana Kovač\n"))
	f.Add([]byte("name;login\n\"a\nb\";x\n"))
	f.Fuzz(func(t *testing.T, text []byte) {
		people, problems := roster.Read(text)
		for _, p := range people {
			assert.Empty(t, roster.Login(p.Login))
			assert.NotEmpty(t, p.Name)
		}
		if len(people) == 0 {
			assert.NotEmpty(t, problems)
		}
	})
}
