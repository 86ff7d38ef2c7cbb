// Command lanternrow serves Lantern Row and does its chores.
package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"syscall"
	"time"

	"lanternrow/internal/application"
	"lanternrow/internal/demo"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/config"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/staff"

	"github.com/gofiber/fiber/v3"
	"github.com/jmoiron/sqlx"
	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	c := config.FromEnvironment()
	if err := c.Check(); err != nil {
		fmt.Fprintln(os.Stderr, "This setting is none:", err)
		os.Exit(1)
	}
	slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: c.Level()})))
	root := &cobra.Command{Use: "lanternrow", Short: "Warehouse work on the floor, with every unit accounted for",
		SilenceUsage: true}
	root.AddCommand(
		chore("serve", "Serve the application", func(ctx context.Context) error { return serve(ctx, c, false) }),
		chore("demo", "Load the demo, if it is not there, and serve it",
			func(ctx context.Context) error { return serve(ctx, c, true) }),
		chore("migrate", "Bring the database to the present schema", func(ctx context.Context) error {
			_, done, err := database(ctx, c)
			done()
			return err
		}),
		verifyCommand(c),
		headCommand(c),
		chore("stop", "Stop the private database server",
			func(ctx context.Context) error { return postgres.Stop(ctx, c.RunDir) }),
		chore("openapi", "Print the API's description", func(ctx context.Context) error {
			c.StandIns = true
			text, err := application.New(ctx, nil, "", c).Describe()
			fmt.Println(string(text))
			return err
		}),
		backupCommand(c),
		restoreCommand(c),
		setupCommand(c),
		userCommand(c),
		calcCommand(),
		benchCommand(c),
	)
	if err := root.ExecuteContext(ctx); err != nil {
		stop()
		os.Exit(1)
	}
}

func chore(name, short string, do func(context.Context) error) *cobra.Command {
	return &cobra.Command{Use: name, Short: short, Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return do(cmd.Context()) }}
}

// databaseName is the application's database on the private server.
const databaseName = "lanternrow"

// database finds the database: the outside one that is configured, or one on the
// private server, which is started when it is not running. done stops what was
// started.
func database(ctx context.Context, c config.Config) (url string, done func(), err error) {
	if c.DatabaseURL != "" {
		return c.DatabaseURL, func() {}, postgres.Migrate(ctx, c.DatabaseURL)
	}
	server, err := postgres.Start(ctx, c.RunDir)
	if err != nil {
		return "", func() {}, err
	}
	done = func() {
		if err := server.Stop(); err != nil {
			fmt.Fprintln(os.Stderr, "stopping the database:", err)
		}
	}
	_, err = server.Ensure(ctx, databaseName)
	return server.URL(databaseName), done, err
}

// withDatabase does something on the database, which is found as database finds it, and connects as its owner.
func withDatabase(ctx context.Context, c config.Config, do func(context.Context, *sqlx.DB) error) error {
	url, done, err := database(ctx, c)
	defer done()
	if err != nil {
		return err
	}
	db, err := postgres.Open(ctx, url)
	if err != nil {
		return err
	}
	defer db.Close()
	return do(ctx, db)
}

func serve(ctx context.Context, c config.Config, withDemo bool) error {
	url, done, err := database(ctx, c)
	defer done()
	if err != nil {
		return err
	}
	if withDemo {
		if err := demo.Load(ctx, url, c.CompanyPrefix, time.Now(), os.Stderr); err != nil {
			return fmt.Errorf("loading the demo: %w", err)
		}
	}
	pools, err := postgres.OpenPools(ctx, url)
	if err != nil {
		return err
	}
	defer pools.Close()
	work, end := context.WithCancel(ctx)
	defer end()
	c.StandIns = c.StandIns || withDemo
	server := application.New(work, pools, url, c)
	go ledger.KeepSealing(work, pools.Reads)
	go command.KeepPruned(work, pools.Reads)
	fmt.Fprintf(os.Stderr, "\nLantern Row is at http://%s\n", c.Address)
	if withDemo {
		fmt.Fprint(os.Stderr, demo.SignIn)
	}
	if code, err := staff.OpenDoor(ctx, pools.Commands); err != nil {
		return err
	} else if code != "" {
		fmt.Fprintf(os.Stderr, "Nobody works here yet. Open the page, and name the first site and the first lead with this code: %s\n", code)
	}
	return server.App.Listen(c.Address, fiber.ListenConfig{GracefulContext: ctx, DisableStartupMessage: true,
		ShutdownTimeout: 5 * time.Second})
}

func verify(ctx context.Context, c config.Config, kept ledger.ChainHead) error {
	var r ledger.Report
	if err := withDatabase(ctx, c, func(ctx context.Context, db *sqlx.DB) (err error) {
		r, err = ledger.VerifySince(ctx, db, kept)
		return err
	}); err != nil {
		return err
	}
	if r.First != nil {
		fmt.Printf("The ledger is not whole. %s %s %s.\n", r.First.Table, r.First.Row, r.First.Wrong)
		return errors.New("the ledger is not whole")
	}
	fmt.Printf("The ledger is whole: %d moves, %d of them sealed, head %s.\n", r.Moves, r.Sealed, r.Head)
	if kept.Position > 0 {
		fmt.Printf("It goes through the head of %s: nothing up to move %d of the chain was cut off or made anew.\n", kept.At.Format(time.DateTime), kept.Position)
	}
	return nil
}
