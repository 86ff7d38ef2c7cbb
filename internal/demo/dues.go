package demo

import (
	"context"

	"lanternrow/internal/catalog/sheets"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/command"
)

// dues write down what customers owe: one has not paid in time, another may owe only so
// much.
func (s *story) dues() {
	as(s, "office", func(ctx context.Context, tx *command.Tx) (sheets.Preview, error) {
		return sheets.Sheets["customers"].Import(ctx, tx, site,
			exchange.Table{Header: []string{"code", "overdue", "credit_limit", "in_parts"},
				Rows: [][]string{{"TNT", "412.50", "", "yes"}, {"HAR", "0", "5000", "no"}}}, false)
	})
}
