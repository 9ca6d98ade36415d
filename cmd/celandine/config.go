package main

import (
	"bytes"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"go.yaml.in/yaml/v3"
)

// configured sets a command's flags that were not given from the environment (CELANDINE_LISTEN for --listen), then from the file that --config or
// CELANDINE_CONFIG names: YAML with the flags' names as keys. A key or value that the command does not know ends it before it starts.
func configured(c *cobra.Command) {
	path := c.Flags().String("config", os.Getenv("CELANDINE_CONFIG"), "a YAML `file` with these settings; CELANDINE_CONFIG sets it too")
	c.PreRunE = func(c *cobra.Command, _ []string) error {
		file, err := readConfig(*path)
		if err != nil {
			return err
		}
		for key := range file {
			if f := c.Flags().Lookup(key); f == nil || key == "config" || key == "help" {
				return fmt.Errorf("%s: there is no setting %s; there are %s", *path, key, strings.Join(settings(c.Flags()), ", "))
			}
		}
		var problem error
		c.Flags().VisitAll(func(f *pflag.Flag) {
			variable := "CELANDINE_" + strings.ToUpper(strings.ReplaceAll(f.Name, "-", "_"))
			value, from := os.Getenv(variable), variable
			if value == "" {
				value, from = file[f.Name], *path
			}
			if f.Changed || value == "" || problem != nil {
				return
			}
			if err := f.Value.Set(value); err != nil {
				problem = fmt.Errorf("%s: %s cannot be %q: %w", from, f.Name, value, err)
			}
		})
		return problem
	}
}

func settings(flags *pflag.FlagSet) (names []string) {
	flags.VisitAll(func(f *pflag.Flag) {
		if f.Name != "config" && f.Name != "help" {
			names = append(names, f.Name)
		}
	})
	return names
}

func readConfig(path string) (map[string]string, error) {
	if path == "" {
		return nil, nil
	}
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, fmt.Errorf("reading the settings: %w", err)
	}
	out := map[string]string{}
	if err := yaml.NewDecoder(bytes.NewReader(text)).Decode(&out); err != nil {
		return nil, fmt.Errorf("%s is no list of settings such as “listen: 127.0.0.1:8460”: %w", path, err)
	}
	return out, nil
}
