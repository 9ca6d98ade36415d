package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"celandine/client"
)

// DefaultURL is where a service on this machine answers.
const DefaultURL = "http://127.0.0.1:8460"

// connect returns a client for whoever signed in last. CELANDINE_URL wins over
// the address that was signed in at.
func connect() (*client.Client, error) {
	path, err := signInFile()
	if err != nil {
		return nil, BrokenError(err)
	}
	text, err := os.ReadFile(path)
	if errors.Is(err, os.ErrNotExist) {
		return nil, exit{Broken, errors.New("nobody is signed in. Run: celandine login LOGIN")}
	}
	if err != nil {
		return nil, BrokenError(err)
	}
	var s signedIn
	if err := json.Unmarshal(text, &s); err != nil {
		return nil, exit{Broken, fmt.Errorf("%s cannot be read (%v). Run celandine login again", path, err)}
	}
	if url := os.Getenv("CELANDINE_URL"); url != "" {
		s.URL = url
	}
	return &client.Client{URL: s.URL, Token: s.Token}, nil
}

// remote wraps a command's work: it connects, and gives errors their status.
func remote(work func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error) func(*cobra.Command,
	[]string) error {
	return func(c *cobra.Command, args []string) error {
		service, err := connect()
		if err != nil {
			return err
		}
		if f := c.Flags().Lookup("class"); f != nil && f.Value.String() != "" {
			class, err := findClass(c.Context(), service, f.Value.String())
			if err != nil {
				return status(err)
			}
			service.Class = class.ID
		}
		return status(work(c.Context(), c, service, args))
	}
}

// classFlag lets a command choose the class.
func classFlag(c *cobra.Command) {
	c.Flags().String("class", os.Getenv("CELANDINE_CLASS"),
		"the class, by `name` (or how it begins) or number; your first where it is left out; CELANDINE_CLASS sets it too")
}

// findClass finds one of the person's classes by number, name, or the beginning of its name.
func findClass(ctx context.Context, service *client.Client, wanted string) (client.Class, error) {
	list, err := service.Classes(ctx)
	if err != nil {
		return client.Class{}, err
	}
	var found []client.Class
	for _, class := range list {
		if strconv.FormatInt(class.ID, 10) == wanted || strings.EqualFold(class.Name, wanted) {
			return class, nil
		}
		if len(class.Name) >= len(wanted) && strings.EqualFold(class.Name[:len(wanted)], wanted) {
			found = append(found, class)
		}
	}
	if len(found) == 1 {
		return found[0], nil
	}
	var names []string
	for _, class := range list {
		names = append(names, fmt.Sprintf("%d %s", class.ID, class.Name))
	}
	return client.Class{}, misused("no class is named %s. Yours are: %s", wanted, strings.Join(names, "; "))
}

// theClass is the class that a command is about: the chosen one, or one's first.
func theClass(ctx context.Context, service *client.Client) (client.Class, error) {
	list, err := service.Classes(ctx)
	if err != nil {
		return client.Class{}, err
	}
	for _, class := range list {
		if service.Class == 0 || class.ID == service.Class {
			return class, nil
		}
	}
	return client.Class{}, misused("you have no class yet. Make one: celandine class make NAME")
}

// inClass wraps the work of a command that is about a class.
func inClass(work func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class,
	args []string) error) func(*cobra.Command, []string) error {
	return remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
		class, err := theClass(ctx, service)
		if err != nil {
			return err
		}
		return work(ctx, c, service, class, args)
	})
}

// status gives an error of the service its exit status.
func status(err error) error {
	var done exit
	var p *client.Problem
	switch {
	case err == nil || errors.As(err, &done):
		return err
	case errors.As(err, &p) && p.Status == 401:
		return exit{Broken, errors.New(p.Error() + " Run: celandine login LOGIN")}
	case errors.As(err, &p) && p.Status == 422:
		return exit{Failed, err}
	}
	return BrokenError(err)
}

func printJSON(c *cobra.Command, v any) error {
	text, err := json.MarshalIndent(v, "", "  ")
	fmt.Fprintln(c.OutOrStdout(), string(text))
	return err
}
