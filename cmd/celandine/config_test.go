package main

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/spf13/cobra"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A flag wins over the environment, that over the file; what is not known is refused.
func TestSettings(t *testing.T) {
	for _, c := range []struct {
		name, file, listen string
		arguments          []string
		want, problem      string
	}{
		{name: "default", want: "default 2"},
		{name: "file", file: "listen: file\nworkers: 3\n", want: "file 3"},
		{name: "environment over file", file: "listen: file\n", listen: "environment", want: "environment 2"},
		{name: "flag over all", file: "listen: file\n", listen: "environment", arguments: []string{"--listen", "flag"}, want: "flag 2"},
		{name: "unknown key", file: "lisen: x\n", problem: "there is no setting lisen; there are keep, listen, workers"},
		{name: "bad value", file: "workers: many\n", problem: `workers cannot be "many"`},
		{name: "another command's key", file: "listen: file\nkeep: 3\n", want: "file 2"},
		{name: "several values", file: "listen: [a, b]\n", want: "a,b 2"},
		{name: "no settings", file: "- a\n", problem: "is no list of settings"},
	} {
		t.Run(c.name, func(t *testing.T) {
			path := filepath.Join(t.TempDir(), "celandine.yaml")
			require.NoError(t, os.WriteFile(path, []byte(c.file), 0o600))
			if c.file == "" {
				path = ""
			}
			t.Setenv("CELANDINE_CONFIG", path)
			t.Setenv("CELANDINE_LISTEN", c.listen)
			command := &cobra.Command{Use: "serve", SilenceErrors: true, SilenceUsage: true,
				RunE: func(*cobra.Command, []string) error { return nil }}
			other := &cobra.Command{Use: "backup"}
			other.Flags().Int("keep", 0, "")
			listen := command.Flags().String("listen", "default", "")
			workers := command.Flags().Int("workers", 2, "")
			configured(command, settings([]*cobra.Command{command, other}))
			command.SetArgs(c.arguments)
			err := command.Execute()
			if c.problem != "" {
				require.ErrorContains(t, err, c.problem)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, c.want, *listen+" "+map[int]string{2: "2", 3: "3"}[*workers])
		})
	}
}

func TestPrefixes(t *testing.T) {
	all, err := prefixes([]string{"127.0.0.1", "10.0.0.0/8", "::1"})
	require.NoError(t, err)
	assert.Equal(t, "[127.0.0.1/32 10.0.0.0/8 ::1/128]", fmt.Sprint(all))
	_, err = prefixes([]string{"proxy.example"})
	assert.EqualError(t, err, `proxies: "proxy.example" is no address; write it as 127.0.0.1 or 10.0.0.0/8`)
}
