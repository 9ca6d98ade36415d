package cli

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"celandine/client"
)

// DefaultURL is where a service on this machine answers.
const DefaultURL = "http://127.0.0.1:8460"

// signedIn is what login keeps, in a file that only its owner can read.
type signedIn struct {
	URL   string `json:"url"`
	Token string `json:"token"`
}

func signInFile() (string, error) {
	if path := os.Getenv("CELANDINE_SIGN_IN"); path != "" {
		return path, nil
	}
	dir, err := os.UserConfigDir()
	if err != nil {
		return "", fmt.Errorf("finding a place for the sign-in: %w", err)
	}
	return filepath.Join(dir, "celandine", "sign-in.json"), nil
}

func (s signedIn) save() error {
	path, err := signInFile()
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	text, err := json.Marshal(s)
	if err != nil {
		return err
	}
	// A file that was readable to others before must not stay so.
	if err := os.Remove(path); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return os.WriteFile(path, text, 0o600)
}

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
func remote(work func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error) func(*cobra.Command, []string) error {
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
	c.Flags().String("class", os.Getenv("CELANDINE_CLASS"), "the class, by `name` (or how it begins) or number; your first where it is left out; CELANDINE_CLASS sets it too")
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
func inClass(work func(ctx context.Context, c *cobra.Command, service *client.Client, class client.Class, args []string) error) func(*cobra.Command, []string) error {
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

func loginCommand() *cobra.Command {
	var url string
	var fromStdin bool
	c := &cobra.Command{
		Use:   "login LOGIN",
		Short: "Sign in at a service",
		Long: `Login asks for the password and keeps a token in a file that only you can read. The address
is CELANDINE_URL, or --url, or http://127.0.0.1:8460.`,
		Example: "  celandine login nadia\n  echo \"$PASSWORD\" | celandine login nadia --password-stdin",
		Args:    exactly("LOGIN"),
		RunE: func(c *cobra.Command, args []string) error {
			password, err := askPassword(c, fromStdin)
			if err != nil {
				return err
			}
			service := client.Client{URL: url}
			t, err := service.Login(c.Context(), client.Credentials{Login: args[0], Password: password})
			if err != nil {
				return BrokenError(err)
			}
			if err := (signedIn{url, t.Token}).save(); err != nil {
				return BrokenError(fmt.Errorf("keeping the sign-in: %w", err))
			}
			fmt.Fprintf(c.OutOrStdout(), "Signed in as %s (%s) at %s until %s\n", t.Person.Name, t.Person.Role, url, t.Expires.Format("2 January 2006"))
			return nil
		},
	}
	address := os.Getenv("CELANDINE_URL")
	if address == "" {
		address = DefaultURL
	}
	c.Flags().StringVar(&url, "url", address, "the service's `address`")
	c.Flags().BoolVar(&fromStdin, "password-stdin", false, "read the password from standard input")
	return c
}

func askPassword(c *cobra.Command, fromStdin bool) (string, error) {
	if !fromStdin && term.IsTerminal(int(os.Stdin.Fd())) {
		fmt.Fprint(c.ErrOrStderr(), "Password: ")
		text, err := term.ReadPassword(int(os.Stdin.Fd()))
		fmt.Fprintln(c.ErrOrStderr())
		return string(text), err
	}
	if !fromStdin {
		return "", misused("there is no terminal to ask for the password on; use --password-stdin")
	}
	line, err := bufio.NewReader(c.InOrStdin()).ReadString('\n')
	if err != nil && line == "" {
		return "", misused("standard input has no password in it")
	}
	return strings.TrimRight(line, "\r\n"), nil
}

func printJSON(c *cobra.Command, v any) error {
	text, err := json.MarshalIndent(v, "", "  ")
	fmt.Fprintln(c.OutOrStdout(), string(text))
	return err
}
