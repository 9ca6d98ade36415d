package main

import (
	"bytes"
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"go.yaml.in/yaml/v3"
)

// configured sets a command's flags that were not given from the environment (CELANDINE_LISTEN for --listen), then from the
// file that --config or CELANDINE_CONFIG names: YAML with the flags' names as keys. The file may hold what another of the
// service's commands is set by; a key that none of them knows, or a value that cannot be, ends the command before it starts.
func configured(c *cobra.Command, known []string) {
	path := c.Flags().String("config", os.Getenv("CELANDINE_CONFIG"), "a YAML `file` with these settings; CELANDINE_CONFIG sets it too")
	c.PreRunE = func(c *cobra.Command, _ []string) error {
		file, err := readConfig(*path)
		if err != nil {
			return err
		}
		for key := range file {
			if !slices.Contains(known, key) {
				return fmt.Errorf("%s: there is no setting %s; there are %s", *path, key, strings.Join(known, ", "))
			}
		}
		var problem error
		c.Flags().VisitAll(func(f *pflag.Flag) {
			variable := "CELANDINE_" + strings.ToUpper(strings.ReplaceAll(f.Name, "-", "_"))
			value, from := os.Getenv(variable), variable
			if value == "" {
				value, from = file[f.Name], *path
			}
			if f.Changed || value == "" || problem != nil || !slices.Contains(known, f.Name) {
				return
			}
			if err := f.Value.Set(value); err != nil {
				problem = fmt.Errorf("%s: %s cannot be %q: %w", from, f.Name, value, err)
			}
		})
		return problem
	}
}

// settings names what the service's commands are set by.
func settings(commands []*cobra.Command) (names []string) {
	for _, c := range commands {
		c.Flags().VisitAll(func(f *pflag.Flag) {
			if !slices.Contains(names, f.Name) {
				names = append(names, f.Name)
			}
		})
	}
	slices.Sort(names)
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
	read := map[string]setting{}
	if err := yaml.NewDecoder(bytes.NewReader(text)).Decode(&read); err != nil {
		return nil, fmt.Errorf("%s is no list of settings such as “listen: 127.0.0.1:8460”: %w", path, err)
	}
	out := map[string]string{}
	for key, s := range read {
		out[key] = string(s)
	}
	return out, nil
}

// A setting is a value, or several as a flag has them: with commas.
type setting string

// UnmarshalYAML reads either.
func (s *setting) UnmarshalYAML(node *yaml.Node) error {
	var several []string
	if node.Kind != yaml.SequenceNode {
		return node.Decode((*string)(s))
	}
	if err := node.Decode(&several); err != nil {
		return err
	}
	*s = setting(strings.Join(several, ","))
	return nil
}
