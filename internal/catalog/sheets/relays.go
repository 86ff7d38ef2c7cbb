package sheets

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
)

// relays are the standing rules by which goods that a site receives move on to another.
var relays = Sheet{
	Name: "relays", Label: "Relays", Key: "name",
	Columns: []Column{
		{Name: "name", Label: "Name", Kind: "text", Needed: true, Help: "As it stands on its transfers."},
		{Name: "to_site", Label: "On to", Kind: "text", Needed: true, Help: "The site that goods move on to, by its name."},
		{Name: "item", Label: "Item", Kind: "text", Help: "The SKU that it is for; any without."},
		{Name: "supplier", Label: "Supplier", Kind: "text", Help: "The code of the supplier whose goods it is for; any without."},
		{Name: "handling", Label: "Handling class", Kind: "text", Help: "The handling class that it is for; any without."},
		{Name: "how", Label: "How much", Kind: "choice", Choices: []string{"all", "target", "share"}, Default: "all",
			Words: map[string]string{"target": "up to its target", "share": "a share"},
			Help:  "All that comes, what the other site is short of its target, or a share."},
		{Name: "share_pct", Label: "Share, %", Kind: "percent", places: 2, Default: "0", Help: "How much of it, by a share."},
		{Name: "release", Label: "Released by itself", Kind: "flag", Default: "yes",
			Help: "Whether its transfers go to the floor at once; they are on hold without."},
		{Name: "days", Label: "On its way, days", Kind: "count", Default: "1", Help: "How long it takes to the other site."},
		{Name: "retired", Label: "No longer used", Kind: "flag", Default: "no", Help: "Whether nothing moves on by it any more."},
	},
	query: `
		SELECT r.name, t.name AS to_site, coalesce(i.sku, '') AS item, coalesce(p.code, '') AS supplier, r.handling, r.how,
		       trim_scale(r.share_pct)::text AS share_pct, CASE WHEN r.release THEN 'yes' ELSE 'no' END AS release,
		       r.days::text AS days, CASE WHEN r.retired THEN 'yes' ELSE 'no' END AS retired
		  FROM relay_rules r JOIN sites t ON t.id = r.to_site_id LEFT JOIN items i ON i.id = r.item_id
		  LEFT JOIN parties p ON p.id = r.supplier_id WHERE r.site_id = $1 ORDER BY r.id`,
	check: func(ctx context.Context, f *facts, _, row Row) error {
		other, err := f.otherSite(ctx, row["to_site"])
		switch {
		case err != nil:
			return err
		case !other:
			return refusal.New(refusal.SiteUnknown, "to_site", "There is no other site %s.", clip(row["to_site"]))
		case row["item"] != "" && !f.skus[strings.ToUpper(row["item"])]:
			return refusal.New(refusal.ItemUnknown, "item", "There is no item %s.", clip(row["item"]))
		case row["supplier"] != "" && f.parties[strings.ToUpper(row["supplier"])] != "supplier":
			return refusal.New(refusal.SupplierUnknown, "supplier", "There is no supplier %s.", clip(row["supplier"]))
		case row["item"] == "" && row["supplier"] == "" && row["handling"] == "":
			return refusal.New(refusal.FieldMissing, "item", "Say what moves on: an item, a supplier's goods, or a handling class.")
		}
		return nil
	},
	write: func(ctx context.Context, tx *command.Tx, site int32, _, row Row) error {
		_, err := tx.ExecContext(ctx, `
			INSERT INTO relay_rules (site_id, name, to_site_id, item_id, supplier_id, handling, how, share_pct, release, days,
			  retired)
			SELECT $1, $2, t.id, (SELECT id FROM items WHERE upper(sku) = upper($4)),
			       (SELECT id FROM parties WHERE upper(code) = upper($5) AND kind = 'supplier'), $6, $7, $8, $9, $10, $11
			  FROM sites t WHERE upper(t.name) = upper($3)
			ON CONFLICT (site_id, name) DO UPDATE SET to_site_id = excluded.to_site_id, item_id = excluded.item_id,
			  supplier_id = excluded.supplier_id, handling = excluded.handling, how = excluded.how,
			  share_pct = excluded.share_pct, release = excluded.release, days = excluded.days, retired = excluded.retired`,
			site, row["name"], row["to_site"], row["item"], row["supplier"], row["handling"], row["how"], row.number("share_pct"),
			row.flag("release"), row.count("days"), row.flag("retired"))
		if err != nil {
			return fmt.Errorf("writing relay %s: %w", row["name"], err)
		}
		return nil
	},
}
