package main

import (
	"lanternrow/internal/bench"
	"lanternrow/internal/platform/config"

	"github.com/spf13/cobra"
)

func benchCommand(c config.Config) *cobra.Command {
	var out string
	var moves int
	cmd := &cobra.Command{Use: "bench", Short: "Measure postings, hot reads and rounds", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return bench.Run(cmd.Context(), c, moves, out)
		}}
	cmd.Flags().StringVar(&out, "json", "", "also write the figures to this file")
	cmd.Flags().IntVar(&moves, "moves", 1_000_000, "how many moves the long history has; 0 for none, and no reads of it")
	return cmd
}
