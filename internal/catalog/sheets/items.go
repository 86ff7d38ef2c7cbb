package sheets

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/sampling"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/shopspring/decimal"
)

var items = Sheet{
	Name: "items", Label: "Items", Key: "sku",
	Columns: []Column{
		{Name: "sku", Label: "SKU", Kind: "text", Needed: true,
			Help: "The item's own number, as it is read aloud. It tells items apart and stays."},
		{Name: "description", Label: "Description", Kind: "text", Needed: true,
			Help: "What it is, in the words people look for it by."},
		{Name: "base_unit", Label: "Base unit", Kind: "text", Default: "each",
			Help: "The unit in which stock is counted: each, metre, canister."},
		{Name: "whole", Label: "Whole units", Kind: "flag", Default: "yes",
			Help: "Yes when a unit cannot be divided; no for what is measured, such as cloth."},
		{Name: "tracking", Label: "Tracking", Kind: "choice", Default: receiving.None,
			Choices: []string{receiving.None, receiving.Lot, receiving.LotExpiry, receiving.LotOut,
				receiving.Serial, receiving.SerialOut}, Words: trackings,
			Help: "What is known of its units: nothing, their lot, or each by its serial, all along or only on " +
				"the way out. It cannot be changed once the item has moved."},
		{Name: "ask_out", Label: "Lot scanned on the way out", Kind: "flag", Default: "no",
			Help: "Whether a round asks for the lot's label too, where lots are known from arrival on. Serials, and " +
				"lots known at dispatch, are always scanned."},
		{Name: "lot_rule", Label: "Lot rule", Kind: "text",
			Help: "How lots of our own are named where the supplier gives none, such as {SUP}-{YY}{DDD}-{N3}: " +
				receiving.LotRuleHelp + ". Without one: " + string(receiving.DefaultLotRule) + "."},
		{Name: "stocked", Label: "Kept in stock", Kind: "flag", Default: "yes",
			Help: "Whether it may come in and lie in bins."},
		{Name: "bought", Label: "Bought", Kind: "flag", Default: "yes",
			Help: "Whether it may stand on purchase orders."},
		{Name: "sold", Label: "Sold", Kind: "flag", Default: "yes", Help: "Whether it may stand on sales orders."},
		{Name: "allowed", Label: "Allowed at this site", Kind: "flag", Default: "yes",
			Help: "Whether it may be bought for, kept at and sold from this site."},
		{Name: "packs", Label: "Packs", Kind: "text",
			Help: "What it comes in: name=how many base units=GTIN=weight=sides, several parted by semicolons. " +
				"What follows the number may be left out: box of 12=12=09521234000020=5.6 kg=30x20x15 cm; " +
				"pallet=480. Packs that are not named stay; -pallet removes one"},
		{Name: "weight_kg", Label: "Weight, kg", Kind: "number", places: 4,
			Help: "Of one base unit, with its wrapping."},
		{Name: "volume_l", Label: "Volume, litres", Kind: "number", places: 4,
			Help: "Of one base unit, with its wrapping."},
		{Name: "handling", Label: "Handling", Kind: "text",
			Help: "A class that only some zones accept, such as fluid or heavy; empty for ordinary goods."},
		{Name: "pace", Label: "Pace", Kind: "number", places: 2,
			Help: "How quickly it moves, from 0 to 1. Quick movers are put near the gate."},
		{Name: "cost", Label: "Cost", Money: true, By: people.Accounts, Kind: "number", places: 4,
			Help: "What a base unit costs; purchase lines begin with it."},
		{Name: "sales_price", Label: "Sales price", Money: true, By: people.Accounts, Kind: "number", places: 4, open: true,
			Help: "What customers pay for a base unit; empty where it is entered on each order. Discounts and " +
				"agreed prices stand with the customer."},
		{Name: "tax_pct", Label: "Sales tax, %", By: people.Accounts, Kind: "percent", places: 2,
			Help: "What is added to its price on invoices to customers that are taxed."},
		{Name: "short_pct", Label: "Short allowance, %", By: people.Lead, Kind: "percent", places: 2,
			Help: "By how much a purchase line may come in short and be closed as fine."},
		{Name: "over_pct", Label: "Over allowance, %", By: people.Lead, Kind: "percent", places: 2,
			Help: "By how much a purchase line may come in over and be taken."},
		{Name: "inspect_pct", Label: "Inspected, %", Kind: "percent", places: 2,
			Help: "What share of what comes in is set aside until somebody has looked at it."},
		{Name: "inspect_aql", Label: "Sampling plan, limit %", Kind: "choice", Default: noPlan,
			Choices: append([]string{noPlan},
				sampling.Limits()...), Help: "What comes in waits in quarantine for a sample of it; the acceptable " +
				"quality limit leads to its size and to how many may fail. It goes before the share."},
		{Name: "shelf_life", Label: "Shelf life, days", Kind: "count",
			Help: "How many days it keeps from when it is made. A lot that says more is looked at twice; one of " +
				"our own gets its date by it."},
		{Name: "life_in", Label: "Life on arrival, days", Kind: "count",
			Help: "How many days an expiring lot must have left when it comes in."},
		{Name: "life_out", Label: "Life on dispatch, days", Kind: "count",
			Help: "How many days an expiring lot must have left when it is shipped."},
		{Name: "home_bin", Label: "Home bin", Kind: "text", Help: "The bin at this site that it goes to first."},
		{Name: "reorder_point", Label: "Reorder point", Kind: "number", places: 3,
			Help: "At this site: when free and on order together fall to this, more is suggested."},
		{Name: "target", Label: "Target", Kind: "number", places: 3,
			Help: "At this site: how much a suggestion fills up to."},
	},
	query: `
		SELECT i.sku, i.description, i.base_unit, CASE WHEN i.whole THEN 'yes' ELSE 'no' END AS whole, i.tracking,
		       CASE WHEN i.ask_out THEN 'yes' ELSE 'no' END AS ask_out, i.lot_rule, CASE WHEN i.stocked THEN 'yes'
		       ELSE 'no' END AS stocked,
		       CASE WHEN i.bought THEN 'yes' ELSE 'no' END AS bought, CASE WHEN i.sold THEN 'yes' ELSE 'no' END AS sold,
		       CASE WHEN coalesce(s.allowed, true) THEN 'yes' ELSE 'no' END AS allowed,
		       coalesce(trim_scale(i.inspect_aql)::text, 'none') AS inspect_aql,
		       (SELECT string_agg(rtrim(p.name || '=' || trim_scale(p.holds) || '=' || coalesce(p.gtin,
		       '') || '=' || coalesce(trim_scale(p.weight_kg) || ' kg', '') || '=' ||
		               coalesce((SELECT string_agg(trim_scale(s)::text, 'x' ORDER BY s DESC)
		               FROM unnest(p.sides_cm) AS s) || ' cm', ''), '='), '; ' ORDER BY p.holds, p.name) FROM packs p
		               WHERE p.item_id = i.id) AS packs,
		       trim_scale(i.weight_kg)::text AS weight_kg, trim_scale(i.volume_l)::text AS volume_l, i.handling,
		       trim_scale(i.pace)::text AS pace, trim_scale(i.cost)::text AS cost,
		       trim_scale(i.sales_price)::text AS sales_price, trim_scale(i.tax_pct)::text AS tax_pct,
		       trim_scale(i.short_pct)::text AS short_pct, trim_scale(i.over_pct)::text AS over_pct,
		       trim_scale(i.inspect_pct)::text AS inspect_pct, i.life_in::text AS life_in,
		       i.shelf_life::text AS shelf_life, i.life_out::text AS life_out,
		       h.code AS home_bin, trim_scale(coalesce(s.reorder_point, 0))::text AS reorder_point,
		       trim_scale(coalesce(s.target, 0))::text AS target
		  FROM items i LEFT JOIN item_sites s ON s.item_id = i.id AND s.site_id = $1
		  LEFT JOIN locations h ON h.id = s.home_id ORDER BY i.sku`,
	check: checkItem,
	write: writeItem,
}

// noPlan is the sampling plan of what has none.
const noPlan = "none"

// trackings say how an item is tracked.
var trackings = map[string]string{receiving.LotExpiry: "lot and expiry", receiving.LotOut: "lot at dispatch",
	receiving.Serial: "serial from arrival", receiving.SerialOut: "serial at dispatch"}

// ruleDay is a day on which a lot rule is tried.
var ruleDay = time.Date(2026, 12, 31, 0, 0, 0, 0, time.UTC)

// fixed are the fields that may not change once an item has moved: what was counted
// before would mean something else after.
var fixed = []string{"tracking", "base_unit", "whole"}

// keepFixed refuses a change of what may not change once an item has moved.
func keepFixed(ctx context.Context, f *facts, old, row Row) error {
	for _, name := range fixed {
		if old == nil || old[name] == row[name] {
			continue
		}
		n, err := f.moves(ctx, old["sku"])
		if err != nil {
			return err
		}
		if n > 0 {
			kept := old[name]
			if words, worded := trackings[kept]; worded && name == "tracking" {
				kept = words
			}
			return refusal.New(refusal.ItemHasMoved, name,
				"%s has made %d moves: its %s stays %s. Make a new item for what is kept otherwise.", old["sku"], n, strings.ReplaceAll(name, "_", " "), kept).With("moves", n)
		}
	}
	return nil
}

func checkItem(ctx context.Context, f *facts, old, row Row) error {
	if err := keepFixed(ctx, f, old, row); err != nil {
		return err
	}
	if err := keepSizes(ctx, f, old, row); err != nil {
		return err
	}
	if unitwise := row["tracking"] == receiving.Serial ||
		row["tracking"] == receiving.SerialOut; !row.flag("whole") && (unitwise || row["inspect_aql"] != noPlan) {
		return refusal.New(refusal.NotWhole, "whole",
			"%s is measured. Serials and sampling plans are for what is counted in whole units.", row["sku"])
	}
	if row["lot_rule"] != "" {
		if _, err := receiving.LotRule(row["lot_rule"]).Make("lot_rule", "SUP", ruleDay, 1); err != nil {
			return err
		}
	}
	if pace := row.number("pace"); pace.GreaterThan(decimal.NewFromInt(1)) {
		return refusal.New(refusal.PaceRange, "pace", "The pace goes from 0 to 1, not %s.", pace)
	}
	if point, target := row.number("reorder_point"), row.number("target"); target.LessThan(*point) {
		return refusal.New(refusal.TargetLow, "target",
			"The target of %s is below the reorder point of %s. Nothing would ever be suggested.", target, point)
	}
	if _, known := f.holds[strings.ToUpper(row["home_bin"])]; row["home_bin"] != "" && !known {
		return refusal.New(refusal.BinUnknown, "home_bin",
			"There is no bin %s at this site. Make the bin first, or leave the home bin out.", row["home_bin"])
	}
	row["home_bin"] = strings.ToUpper(row["home_bin"])
	all, err := mergePacks(old["packs"], row["packs"])
	if err != nil {
		return err
	}
	row["packs"] = all
	packs, err := readPacks(f, row)
	if err != nil {
		return err
	}
	var words []string
	for _, p := range packs {
		if p.gtin != "" {
			f.gtins[p.gtin] = row["sku"]
		}
		words = append(words, p.words())
	}
	row["packs"] = strings.Join(words, "; ")
	return nil
}

func writeItem(ctx context.Context, tx *command.Tx, site int32, _, row Row) error {
	var id int32
	err := tx.GetContext(ctx, &id, `
		INSERT INTO items (sku, description, base_unit, whole, tracking, weight_kg, volume_l, handling, pace, cost,
		  short_pct, over_pct, life_in, life_out, inspect_pct,
		                   ask_out, lot_rule, stocked, bought, sold, inspect_aql, shelf_life, sales_price, tax_pct)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19, $20,
		  nullif($21, 'none')::numeric, $22, $23, coalesce($24::numeric, 0))
		ON CONFLICT (sku) DO UPDATE SET description = $2, base_unit = $3, whole = $4, tracking = $5, weight_kg = $6,
		volume_l = $7, handling = $8, pace = $9, cost = $10,
		       short_pct = $11, over_pct = $12, life_in = $13, life_out = $14, inspect_pct = $15,
		       ask_out = $16, lot_rule = $17, stocked = $18, bought = $19, sold = $20,
		       inspect_aql = nullif($21, 'none')::numeric, shelf_life = $22, sales_price = $23,
		       tax_pct = coalesce($24::numeric, 0) RETURNING id`,
		row["sku"], row["description"], row["base_unit"], row.flag("whole"), row["tracking"], row.number("weight_kg"), row.number("volume_l"), row["handling"],
		row.number("pace"), row.number("cost"), row.number("short_pct"), row.number("over_pct"), row.count("life_in"), row.count("life_out"), row.number("inspect_pct"),
		row.flag("ask_out"), row["lot_rule"], row.flag("stocked"), row.flag("bought"), row.flag("sold"), row["inspect_aql"], row.count("shelf_life"), row.number("sales_price"), row.number("tax_pct"))
	if err != nil {
		return fmt.Errorf("writing item %s: %w", row["sku"], err)
	}
	packs, err := readPacks(&facts{}, row)
	if err != nil {
		return err
	}
	names := []string{}
	for _, p := range packs {
		names = append(names, p.name)
	}
	// The row names all that it has by now; what goes away was said to. What is written anew
	// must not meet it: GTINs may change packs.
	if _, err := tx.ExecContext(ctx, `
		DELETE FROM packs WHERE item_id = $1 AND NOT name = ANY($2)`, id, names); err != nil {
		return fmt.Errorf("removing packs of %s: %w", row["sku"], err)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE packs SET gtin = NULL WHERE item_id = $1`, id); err != nil {
		return fmt.Errorf("writing packs of %s: %w", row["sku"], err)
	}
	for _, p := range packs {
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO packs (item_id, name, holds, gtin, weight_kg, sides_cm)
			VALUES ($1, $2, $3, nullif($4, ''), $5, $6::text[]::numeric[])
			ON CONFLICT (item_id, name) DO UPDATE SET holds = $3, gtin = nullif($4, ''), weight_kg = $5,
			sides_cm = $6::text[]::numeric[]`, id, p.name, p.holds, p.gtin, p.weight, p.sidesText()); err != nil {
			return fmt.Errorf("writing a pack of %s: %w", row["sku"], err)
		}
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO item_sites (item_id, site_id, home_id, reorder_point, target, allowed)
		VALUES ($1, $2, (SELECT id FROM locations WHERE site_id = $2 AND upper(code) = $3 AND kind = 'bin'), $4, $5, $6)
		ON CONFLICT (item_id, site_id) DO UPDATE SET home_id = excluded.home_id, reorder_point = $4, target = $5,
		allowed = $6`,
		id, site, row["home_bin"], row.number("reorder_point"), row.number("target"), row.flag("allowed"))
	if err != nil {
		return fmt.Errorf("writing %s at the site: %w", row["sku"], err)
	}
	return nil
}
