package cli

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"celandine/client"
)

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

func loginCommand() *cobra.Command {
	var url string
	var fromStdin bool
	var wish client.TokenWish
	c := &cobra.Command{
		Use:   "login LOGIN",
		Short: "Sign in at a service",
		Long: `Login asks for the password and keeps a token in a file that only you can read. The address
is CELANDINE_URL, or --url, or http://127.0.0.1:8460. A script that only reads needs no more than --scope read.`,
		Example: "  celandine login nadia\n  echo \"$PASSWORD\" | celandine login nadia --password-stdin --scope read --days 7",
		Args:    exactly("LOGIN"),
		RunE: func(c *cobra.Command, args []string) error {
			if !slices.Contains([]string{"read", "hand-in", "all"}, wish.Scope) {
				return misused("--scope %s is none; it is read, hand-in or all", wish.Scope)
			}
			if wish.Days < 1 || wish.Days > 90 {
				return misused("--days is from 1 to 90")
			}
			password, err := askPassword(c, fromStdin)
			if err != nil {
				return err
			}
			service := client.Client{URL: url}
			wish.Credentials = client.Credentials{Login: args[0], Password: password}
			t, err := service.Login(c.Context(), wish)
			if err != nil {
				return BrokenError(err)
			}
			if err := (signedIn{url, t.Token}).save(); err != nil {
				return BrokenError(fmt.Errorf("keeping the sign-in: %w", err))
			}
			fmt.Fprintf(c.OutOrStdout(), "Signed in as %s (%s) at %s until %s\n", t.Person.Name, t.Person.Role, url,
				t.Expires.Format("2 January 2006"))
			return nil
		},
	}
	address := os.Getenv("CELANDINE_URL")
	if address == "" {
		address = DefaultURL
	}
	c.Flags().StringVar(&url, "url", address, "the service's `address`")
	host, _ := os.Hostname() // only part of a name
	c.Flags().StringVar(&wish.Name, "name", strings.TrimSuffix("celandine on "+host, " on "),
		"what to `call` this sign-in in celandine signin list")
	c.Flags().StringVar(&wish.Scope, "scope", "all", "what it may do: read, hand-in (read, write drafts, hand in) or all")
	c.Flags().IntVar(&wish.Days, "days", 90, "how long it lasts, at most 90")
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

func logoutCommand() *cobra.Command {
	return &cobra.Command{
		Use: "logout", Short: "Sign out: end the token, and forget it here", Example: "  celandine logout", Args: cobra.NoArgs,
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, _ []string) error {
			if err := service.Logout(ctx); err != nil {
				return err
			}
			path, err := signInFile()
			if err != nil {
				return err
			}
			if err := os.Remove(path); err != nil {
				return fmt.Errorf("forgetting the sign-in: %w", err)
			}
			fmt.Fprintln(c.OutOrStdout(), "Signed out")
			return nil
		}),
	}
}

func signInCommand() *cobra.Command {
	c := &cobra.Command{Use: "signin", Short: "See and end your sign-ins: browsers and tokens"}
	var asJSON bool
	list := &cobra.Command{
		Use: "list", Short: "List what acts for you, newest first", Example: "  celandine signin list", Args: cobra.NoArgs,
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, _ []string) error {
			all, err := service.SignIns(ctx)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(c, all)
			}
			t := plainTable("Number", "Kind", "Name", "May", "Used", "Until", "")
			for _, in := range all {
				used, this := "never", ""
				if in.Used != nil {
					used = in.Used.Local().Format(wall)
				}
				if in.This {
					this = "this one"
				}
				t.AppendRow([]any{in.ID, in.Kind, in.Name, in.Scope, used, in.Expires.Local().Format(wall), this})
			}
			fmt.Fprintln(c.OutOrStdout(), t.Render())
			return nil
		}),
	}
	list.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	end := &cobra.Command{
		Use: "end NUMBER …", Short: "End sign-ins at once", Example: "  celandine signin end 5", Args: cobra.MinimumNArgs(1),
		RunE: remote(func(ctx context.Context, c *cobra.Command, service *client.Client, args []string) error {
			for _, arg := range args {
				id, err := strconv.ParseInt(arg, 10, 64)
				if err != nil {
					return misused("%q is no number of a sign-in; celandine signin list shows them", arg)
				}
				if err := service.EndSignIn(ctx, id); err != nil {
					return err
				}
				fmt.Fprintf(c.OutOrStdout(), "Sign-in %d is ended\n", id)
			}
			return nil
		}),
	}
	c.AddCommand(list, end)
	return c
}
