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
	"lanternrow/internal/platform/config"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/platform/retention"
	"lanternrow/internal/staff"

	"github.com/gofiber/fiber/v3"
	"github.com/jmoiron/sqlx"
	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	c, err := config.Load()
	if err != nil {
		fmt.Fprintln(os.Stderr, "This cannot be a setting:", err)
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

func serve(ctx context.Context, c config.Config, withDemo bool) error {
	if withDemo && c.File != "" {
		return fmt.Errorf("%w: %s", errDemoInService, c.File)
	}
	at, err := served(ctx, c)
	defer at.done()
	if err != nil {
		return err
	}
	if withDemo {
		if at.owner == "" {
			return errOwnerUnknown
		}
		if err := demo.Load(ctx, at.owner, c.CompanyPrefix, time.Now(), os.Stderr); err != nil {
			return fmt.Errorf("loading the demo: %w", err)
		}
	}
	pools, err := postgres.OpenPools(ctx, at.serve)
	if err != nil {
		return err
	}
	defer pools.Close()
	if err := postgres.CheckServing(ctx, pools.Reads); err != nil {
		return err
	}
	if c.ReportsURL != "" {
		if err := pools.ReadReports(ctx, c.ReportsURL); err != nil {
			return err
		}
	}
	work, end := context.WithCancel(ctx)
	defer end()
	c.StandIns = c.StandIns || withDemo
	server := application.New(work, pools, at.serve, c)
	go ledger.KeepSealing(work, pools.Reads)
	go retention.Run(work, pools.Reads, c.Keep)
	if c.HeadFile != "" {
		signer, err := signingKey(c.HeadKey)
		if err != nil {
			return fmt.Errorf("reading LANTERNROW_HEAD_KEY: %w", err)
		}
		go ledger.KeepHeads(work, pools.Reads, signer, c.HeadFile, ledger.HeadEvery)
	}
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
