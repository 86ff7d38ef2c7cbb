package main

import (
	"bufio"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"strings"
	"time"

	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/config"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/staff"

	"github.com/jmoiron/sqlx"
	"github.com/spf13/cobra"
	"golang.org/x/term"
)

// setupCommand names the first site and the first lead.
func setupCommand(c config.Config) *cobra.Command {
	var f staff.Founding
	cmd := &cobra.Command{Use: "setup", Short: "Name the first site and the first lead, in an empty house", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) (err error) {
			if f.Password, err = secretOf("Password of "+f.Login, people.Password); err != nil {
				return err
			}
			m, err := atConsole(cmd.Context(), c, func(ctx context.Context, tx *command.Tx) (staff.Member, error) {
				return staff.Found(ctx, tx, f)
			})
			if err == nil {
				fmt.Printf("%s signs on as %s and leads %s, %s. Serve the house, and add the others on the page People.\n", m.Name, m.Login, m.Site, houseOf(c))
			}
			return err
		}}
	for _, flag := range []struct {
		to                *string
		name, usual, says string
	}{{&f.SiteCode, "site-code", "", "a short code of the site, which stays"}, {&f.SiteName, "site-name", "", "the site's name"},
		{&f.Timezone, "timezone", "UTC", "the clock on its walls, such as Europe/London"},
		{&f.Name, "name", "", "the lead's name, as it is to stand in the trail"}, {&f.Login, "login", "", "what the lead signs on with"}} {
		cmd.Flags().StringVar(flag.to, flag.name, flag.usual, flag.says)
		if flag.usual == "" {
			_ = cmd.MarkFlagRequired(flag.name)
		}
	}
	return cmd
}

// userCommand is what whoever runs the server can do about people, whatever became of the leads.
func userCommand(c config.Config) *cobra.Command {
	user := &cobra.Command{Use: "user", Short: "Add people, give them a new password, or shut them out"}
	user.AddCommand(userAdd(c), userSecret(c), userEnd(c))
	return user
}

func userAdd(c config.Config) *cobra.Command {
	var w staff.Wish
	var site string
	var roles []string
	cmd := &cobra.Command{Use: "add LOGIN", Short: "Let somebody work here", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			w.Login = args[0]
			for _, role := range roles {
				w.Roles = append(w.Roles, people.Role(role))
			}
			password, err := secretOf("Password of "+w.Login, people.Password)
			if err != nil {
				return err
			}
			m, err := atConsole(cmd.Context(), c, func(ctx context.Context, tx *command.Tx) (staff.Member, error) {
				err := tx.GetContext(ctx, &w.SiteID, `SELECT id FROM sites WHERE code = $1`, site)
				if errors.Is(err, sql.ErrNoRows) {
					err = fmt.Errorf("there is no site with the code %q", site)
				}
				if err != nil {
					return staff.Member{}, err
				}
				return staff.Add(ctx, tx, staff.Newcomer{Wish: w, Password: password})
			})
			if err == nil {
				fmt.Printf("%s signs on as %s, %s at %s, and changes the password at once.\n", m.Name, m.Login, m.Roles, m.Site)
			}
			return err
		}}
	cmd.Flags().StringVar(&w.Name, "name", "", "the name as it is to stand in the trail")
	cmd.Flags().StringSliceVar(&roles, "role", []string{string(people.Lead)}, "one or several, parted by commas, of: "+people.Every.String())
	cmd.Flags().StringVar(&site, "site", "", "the code of the site that they work at")
	for _, needed := range []string{"name", "site"} {
		_ = cmd.MarkFlagRequired(needed)
	}
	return cmd
}

func userSecret(c config.Config) *cobra.Command {
	return &cobra.Command{Use: "passwd LOGIN", Short: "Give somebody a new password, which they change at once", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			password, err := secretOf("New password of "+args[0], people.Password)
			if err != nil {
				return err
			}
			m, err := atConsole(cmd.Context(), c, func(ctx context.Context, tx *command.Tx) (staff.Member, error) {
				id, err := personNamed(ctx, tx, args[0])
				if err != nil {
					return staff.Member{}, err
				}
				return staff.Give(ctx, tx, id, people.Password, password)
			})
			if err == nil {
				fmt.Printf("%s has a new password, to be changed at its first use. All their sessions are ended.\n", m.Name)
			}
			return err
		}}
}

func userEnd(c config.Config) *cobra.Command {
	return &cobra.Command{Use: "disable LOGIN", Short: "Shut somebody out: they sign on no more, and stay in the trail", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			m, err := atConsole(cmd.Context(), c, func(ctx context.Context, tx *command.Tx) (staff.Member, error) {
				id, err := personNamed(ctx, tx, args[0])
				if err != nil {
					return staff.Member{}, err
				}
				return staff.End(ctx, tx, id)
			})
			if err == nil {
				fmt.Printf("%s signs on no more. All their sessions are ended.\n", m.Name)
			}
			return err
		}}
}

func personNamed(ctx context.Context, q sqlx.QueryerContext, login string) (id int32, err error) {
	err = sqlx.GetContext(ctx, q, &id, `SELECT id FROM people WHERE login = lower($1)`, login)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, fmt.Errorf("nobody signs on as %s", login)
	}
	return id, err
}

// atConsole runs a command as whoever runs the server.
func atConsole[T any](ctx context.Context, c config.Config, fn func(context.Context, *command.Tx) (T, error)) (out T, err error) {
	url, done, err := database(ctx, c)
	defer done()
	if err != nil {
		return out, err
	}
	db, err := postgres.OpenApp(ctx, url)
	if err != nil {
		return out, err
	}
	defer db.Close()
	return command.Do(people.With(ctx, staff.Console), &command.Runner{DB: db, Now: time.Now}, "", "console", nil, fn)
}

// secretOf asks for a secret twice at a terminal, without showing it; what is not a terminal is read one line of.
func secretOf(what string, kind people.Secret) (string, error) {
	in := int(os.Stdin.Fd())
	if !term.IsTerminal(in) {
		line, err := bufio.NewReader(os.Stdin).ReadString('\n')
		if line = strings.TrimRight(line, "\r\n"); line == "" {
			return "", errors.Join(fmt.Errorf("no %s came in: type it at a terminal, or send it in one line", kind), err)
		}
		return line, nil
	}
	var said [2]string
	for i, ask := range []string{what, "The same again"} {
		fmt.Fprintf(os.Stderr, "%s: ", ask)
		text, err := term.ReadPassword(in)
		fmt.Fprintln(os.Stderr)
		if err != nil {
			return "", fmt.Errorf("reading a %s: %w", kind, err)
		}
		said[i] = string(text)
	}
	if said[0] != said[1] {
		return "", errors.New("the two are not the same; nothing was changed")
	}
	return said[0], nil
}
