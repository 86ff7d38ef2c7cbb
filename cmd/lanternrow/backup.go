package main

import (
	"context"
	"fmt"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/config"
	"lanternrow/internal/platform/postgres"

	"github.com/spf13/cobra"
)

// backupCommand writes the database into a file, whoever works meanwhile.
func backupCommand(c config.Config) *cobra.Command {
	return &cobra.Command{Use: "backup FILE", Short: "Write all of the database into a file, while people work", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			url, done, err := database(cmd.Context(), c)
			defer done()
			if err != nil {
				return err
			}
			bytes, err := postgres.Backup(cmd.Context(), url, args[0])
			if err == nil {
				fmt.Printf("%s has all of it, in %.1f MB.\n", args[0], float64(bytes)/1e6)
			}
			return err
		}}
}

// restoreCommand brings a backup into an empty database, and proves that it is whole.
func restoreCommand(c config.Config) *cobra.Command {
	return &cobra.Command{Use: "restore FILE", Short: "Bring a backup into an empty database, and verify it", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			url, done, err := emptyDatabase(cmd.Context(), c)
			defer done()
			if err != nil {
				return err
			}
			if err := postgres.Restore(cmd.Context(), url, args[0]); err != nil {
				return err
			}
			return verify(cmd.Context(), c, ledger.ChainHead{})
		}}
}

// emptyDatabase is database, with nothing brought into it.
func emptyDatabase(ctx context.Context, c config.Config) (url string, done func(), err error) {
	if c.DatabaseURL != "" {
		return c.DatabaseURL, func() {}, nil
	}
	server, err := postgres.Start(ctx, c.RunDir)
	if err != nil {
		return "", func() {}, err
	}
	_, err = server.Make(ctx, databaseName)
	return server.URL(databaseName), func() { _ = server.Stop() }, err
}
