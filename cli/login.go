package cli

import (
	"bufio"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/charmbracelet/huh"
	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"ironcast/client"
)

const defaultServer = "http://127.0.0.1:7420"

// login is what is kept of a login, readable by its owner alone.
type login struct {
	Server string `yaml:"server"`
	Name   string `yaml:"name"`
	Token  string `yaml:"token"`
}

func loginPath() (string, error) {
	dir, err := os.UserConfigDir()
	if err != nil {
		return "", fmt.Errorf("there is no folder to keep the login in: %w", err)
	}
	return filepath.Join(dir, "ironcast", "login.yaml"), nil
}

func readLogin() (login, error) {
	var kept login
	path, err := loginPath()
	if err != nil {
		return kept, nil
	}
	text, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return kept, nil
	}
	if err != nil {
		return kept, err
	}
	if yaml.Unmarshal(text, &kept) != nil {
		return kept, fmt.Errorf("%s is damaged; log in again with: ironcast login", path)
	}
	return kept, nil
}

func (s *session) loginCommand() *cobra.Command {
	var name string
	var fromStdin bool
	command := &cobra.Command{
		Use:   "login [SERVER]",
		Short: "Log in to a service",
		Long: `Exchanges an account's name and password for a token, which is kept for the
other commands in your configuration folder. The password is asked for on the
terminal, or read from standard input with --password-stdin.`,
		Args: between(0, 1, "one address at most"),
		RunE: func(command *cobra.Command, args []string) error {
			c, err := s.client()
			if err != nil {
				return err
			}
			if len(args) == 1 {
				c = client.New(args[0], "")
			}
			given := client.Credentials{Name: name}
			if err := s.askCredentials(command, &given, fromStdin); err != nil {
				return err
			}
			host, _ := os.Hostname()
			token, err := c.LogIn(command.Context(), given, "ironcast on "+host)
			if err != nil {
				return err
			}
			if err := keepLogin(login{Server: c.Server, Name: given.Name, Token: token.Secret}); err != nil {
				return err
			}
			if s.format == "json" {
				return s.json(map[string]string{"server": c.Server, "name": given.Name})
			}
			fmt.Fprintf(s.out, "Logged in to %s as %s.\n", c.Server, given.Name)
			return nil
		},
	}
	command.Flags().StringVar(&name, "name", "", "the account's name")
	command.Flags().BoolVar(&fromStdin, "password-stdin", false, "read the password from standard input")
	return command
}

func (s *session) askCredentials(command *cobra.Command, given *client.Credentials, fromStdin bool) error {
	if fromStdin {
		if given.Name == "" {
			return wrongUsage("--password-stdin needs --name as well")
		}
		line, err := bufio.NewReader(s.in).ReadString('\n')
		if given.Password = strings.TrimRight(line, "\r\n"); given.Password == "" {
			return wrongUsage("there is no password on standard input (%v)", err)
		}
		return nil
	}
	if !s.asks() {
		return wrongUsage("the password is asked for on a terminal; without one, use --name NAME --password-stdin")
	}
	required := func(text string) error {
		if text == "" {
			return errors.New("this is needed")
		}
		return nil
	}
	var fields []huh.Field
	if given.Name == "" {
		fields = append(fields, huh.NewInput().Title("Name").Value(&given.Name).Validate(required))
	}
	fields = append(fields, huh.NewInput().Title("Password").EchoMode(huh.EchoModePassword).Value(&given.Password).Validate(required))
	return s.ask(command.Context(), fields...)
}

func keepLogin(l login) error {
	path, err := loginPath()
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return fmt.Errorf("the login cannot be kept: %w", err)
	}
	text, err := yaml.Marshal(l)
	if err != nil {
		return err
	}
	if err := writeFile(path, text); err != nil {
		return err
	}
	return os.Chmod(path, 0o600)
}
