// Command lanternrow serves Lantern Row and does its chores.
package main

import (
	"context"
	"crypto/ed25519"
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
	"lanternrow/internal/mailhost"
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
	c, unsettled := config.Load()
	slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: c.Level()})))
	root := &cobra.Command{Use: "lanternrow", Short: "Warehouse work on the floor, with every unit accounted for",
		SilenceUsage: true,
		PersistentPreRunE: func(cmd *cobra.Command, _ []string) error {
			if unsettled != nil && cmd.Annotations[noHouse] == "" {
				return fmt.Errorf("settings: %w", unsettled)
			}
			return nil
		}}
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
		bare(chore("openapi", "Print the API's description", func(ctx context.Context) error {
			text, err := application.New(ctx, nil, "", config.Config{StandIns: true}).Describe()
			fmt.Println(string(text))
			return err
		})),
		backupCommand(c),
		restoreCommand(c),
		setupCommand(c),
		userCommand(c),
		bare(calcCommand()),
		benchCommand(c),
	)
	if err := root.ExecuteContext(ctx); err != nil {
		stop()
		os.Exit(1)
	}
}

// noHouse marks a command that is about no house, and needs no settings.
const noHouse = "no house"

func bare(cmd *cobra.Command) *cobra.Command {
	cmd.Annotations = map[string]string{noHouse: "yes"}
	return cmd
}

func chore(name, short string, do func(context.Context) error) *cobra.Command {
	return &cobra.Command{Use: name, Short: short, Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error { return do(cmd.Context()) }}
}

func serve(ctx context.Context, c config.Config, withDemo bool) error {
	if withDemo {
		if c.File != "" {
			return fmt.Errorf("%w: %s", errDemoInService, c.File)
		}
		// The people of the demo are made up, and so are their addresses.
		c.StandIns, c.SMTP, c.MailFrom = true, "", ""
	}
	signer, err := outside(c)
	if err != nil {
		return err
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
	pools, err := openPools(ctx, c, at.serve)
	if err != nil {
		return err
	}
	defer pools.Close()
	work, end := context.WithCancel(ctx)
	defer end()
	server := application.New(work, pools, at.serve, c)
	go ledger.KeepSealing(work, pools.Reads)
	go retention.Run(work, pools.Reads, c.Keep)
	if signer != nil {
		go ledger.KeepHeads(work, pools.Reads, signer, c.HeadFile, ledger.HeadEvery)
	}
	if err := greet(ctx, c, pools, withDemo); err != nil {
		return err
	}
	return server.App.Listen(c.Address, fiber.ListenConfig{GracefulContext: ctx, DisableStartupMessage: true,
		ShutdownTimeout: 5 * time.Second})
}

// outside errs at the start where what is outside of the house could not be spoken or written to later. signer signs heads,
// where they go out of the house.
func outside(c config.Config) (signer ed25519.PrivateKey, err error) {
	if c.SMTP != "" {
		if err := (mailhost.Host{Address: c.SMTP, From: c.MailFrom}).Check(); err != nil {
			return nil, fmt.Errorf("LANTERNROW_SMTP and LANTERNROW_MAIL_FROM: %w", err)
		}
	}
	if c.HeadFile == "" {
		return nil, nil
	}
	if signer, err = signingKey(c.HeadKey); err != nil {
		return nil, fmt.Errorf("reading LANTERNROW_HEAD_KEY: %w", err)
	}
	if err := ledger.CanKeepHeads(c.HeadFile); err != nil {
		return nil, fmt.Errorf("LANTERNROW_HEAD_FILE cannot be written to: %w", err)
	}
	return signer, nil
}

// openPools connects as the login that serves, and to where reports are read.
func openPools(ctx context.Context, c config.Config, url string) (*postgres.Pools, error) {
	pools, err := postgres.OpenPools(ctx, url)
	if err != nil {
		return nil, err
	}
	err = postgres.CheckServing(ctx, pools.Reads)
	if err == nil && c.ReportsURL != "" {
		err = pools.ReadReports(ctx, c.ReportsURL)
	}
	if err != nil {
		pools.Close()
	}
	return pools, err
}

// greet says where the house is, and how the first person comes in.
func greet(ctx context.Context, c config.Config, pools *postgres.Pools, withDemo bool) error {
	fmt.Fprintf(os.Stderr, "\nLantern Row is at http://%s\n", c.Address)
	if withDemo {
		fmt.Fprint(os.Stderr, demo.SignIn)
	}
	code, err := staff.OpenDoor(ctx, pools.Commands)
	if err == nil && code != "" {
		fmt.Fprintf(os.Stderr, "Nobody works here yet. Open the page, and name the first site and the first lead with this code: %s\n", code)
	}
	return err
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
