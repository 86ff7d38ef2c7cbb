package sheets

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
)

// prices are what was agreed with customers for items, from a day on.
var prices = Sheet{
	Name: "prices", Label: "Agreed prices", Key: "for",
	Columns: []Column{
		{Name: "for", Label: "Customer / item / from", By: people.Accounts, Kind: "text", Needed: true,
			Help: "The customer's code, the SKU and the first day that the price holds: LYR / HC-050 / 2027-01-01"},
		{Name: "price", Label: "Price", Money: true, By: people.Accounts, Kind: "number", places: 4, Needed: true,
			Help: "What this customer pays for a base unit from that day on, whatever the sales price and the " +
				"discount."},
	},
	query: `
		SELECT c.code || ' / ' || i.sku || ' / ' || to_char(a.from_on, 'YYYY-MM-DD') AS "for",
		       trim_scale(a.price)::text AS price
		  FROM agreed_prices a JOIN parties c ON c.id = a.customer_id JOIN items i ON i.id = a.item_id WHERE $1 > 0
		 ORDER BY 1`,
	check: func(_ context.Context, f *facts, _, row Row) error {
		customer, sku, day, err := agreedOf(row)
		if err != nil {
			return err
		}
		if f.parties[strings.ToUpper(customer)] != "customer" {
			return refusal.New(refusal.CustomerUnknown, "for", "There is no customer %s.", clip(customer))
		}
		if !f.skus[strings.ToUpper(sku)] {
			return refusal.New(refusal.ItemUnknown, "for", "There is no item %s.", clip(sku))
		}
		_, err = documents.Day("for", day)
		return err
	},
	write: func(ctx context.Context, tx *command.Tx, _ int32, _, row Row) error {
		customer, sku, day, err := agreedOf(row)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `
			INSERT INTO agreed_prices (customer_id, item_id, from_on, price)
			SELECT c.id, i.id, $3::date, $4 FROM parties c, items i WHERE upper(c.code) = upper($1)
			   AND c.kind = 'customer' AND upper(i.sku) = upper($2)
			ON CONFLICT (customer_id, item_id,
				from_on) DO UPDATE SET price = $4`, customer, sku, day, row.number("price"))
		if err != nil {
			return fmt.Errorf("writing an agreed price: %w", err)
		}
		return nil
	},
}

// agreedOf parts what a price is for, and writes it back in one form.
func agreedOf(row Row) (customer, sku, day string, err error) {
	parts := strings.Split(row["for"], "/")
	if len(parts) != 3 {
		return "", "", "", refusal.New(refusal.PriceForMalformed, "for",
			"%q does not say what the price is for. Write the customer's code, the SKU and the first day: LYR / "+
				"HC-050 / 2027-01-01", clip(row["for"]))
	}
	customer, sku, day = strings.TrimSpace(parts[0]), strings.TrimSpace(parts[1]), strings.TrimSpace(parts[2])
	return customer, sku, day, nil
}
