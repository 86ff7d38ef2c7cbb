package sheets

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
)

// offers are how suppliers sell items.
var offers = Sheet{
	Name: "supplier-items", Label: "Suppliers' items", Key: "for",
	Columns: []Column{
		{Name: "for", Label: "Supplier / item", Kind: "text", Needed: true,
			Help: "The supplier's code and the SKU: BRO / HC-050"},
		{Name: "code", Label: "Supplier's item number", Kind: "text",
			Help: "What the supplier calls it. It stands on orders to this supplier."},
		{Name: "pack", Label: "Pack", Kind: "text", Help: "The pack that it is sold in, by its name. Any without."},
		{Name: "price", Label: "Price", Money: true, By: people.Accounts, Kind: "number", places: 4, open: true,
			Help: "For a base unit. New orders to this supplier begin with it."},
		{Name: "minimum", Label: "Minimum", Kind: "number", places: 3, Help: "The least that is sold, in base units."},
		{Name: "lead_days", Label: "Lead time, days", Kind: "count",
			Help: "From the order to the arrival. Suggested orders are expected by it."},
	},
	query: `
		SELECT c.code || ' / ' || i.sku AS "for", a.code, coalesce(p.name, '') AS pack,
		       coalesce(trim_scale(a.price)::text, '') AS price, trim_scale(a.minimum)::text AS minimum,
		       a.lead_days::text AS lead_days
		  FROM supplier_items a JOIN parties c ON c.id = a.supplier_id JOIN items i ON i.id = a.item_id
		  LEFT JOIN packs p ON p.id = a.pack_id WHERE $1 > 0 ORDER BY 1`,
	check: func(_ context.Context, f *facts, _, row Row) error {
		supplier, sku, err := offeredFor(row)
		if err != nil {
			return err
		}
		if f.parties[strings.ToUpper(supplier)] != "supplier" {
			return refusal.New(refusal.SupplierUnknown, "for", "There is no supplier %s.", clip(supplier))
		}
		if !f.skus[strings.ToUpper(sku)] {
			return refusal.New(refusal.ItemUnknown, "for", "There is no item %s.", clip(sku))
		}
		if row["pack"] != "" && !f.packs[strings.ToUpper(sku+"/"+row["pack"])] {
			return refusal.New(refusal.PackUnknown, "pack", "%s has no pack %s.", clip(sku), clip(row["pack"]))
		}
		return nil
	},
	write: func(ctx context.Context, tx *command.Tx, _ int32, _, row Row) error {
		supplier, sku, err := offeredFor(row)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `
			INSERT INTO supplier_items (supplier_id, item_id, code, pack_id, price, minimum, lead_days)
			SELECT c.id, i.id, $3, (SELECT id FROM packs WHERE item_id = i.id AND upper(name) = upper($4)), $5,
			       coalesce($6::numeric, 0), coalesce($7::integer, 0)
			  FROM parties c, items i
			 WHERE upper(c.code) = upper($1) AND c.kind = 'supplier' AND upper(i.sku) = upper($2)
			ON CONFLICT (supplier_id, item_id) DO UPDATE SET code = excluded.code, pack_id = excluded.pack_id,
			  price = excluded.price, minimum = excluded.minimum, lead_days = excluded.lead_days`,
			supplier, sku, row["code"], row["pack"], row.number("price"), row.number("minimum"), row.number("lead_days"))
		if err != nil {
			return fmt.Errorf("writing what a supplier offers: %w", err)
		}
		return nil
	},
}

// offeredFor parts what is offered by whom.
func offeredFor(row Row) (supplier, sku string, err error) {
	supplier, sku, parted := strings.Cut(row["for"], "/")
	if !parted || strings.Contains(sku, "/") {
		return "", "", refusal.New(refusal.OfferForMalformed, "for",
			"%q does not say who sells what. Write the supplier's code and the SKU: BRO / HC-050", clip(row["for"]))
	}
	return strings.TrimSpace(supplier), strings.TrimSpace(sku), nil
}
