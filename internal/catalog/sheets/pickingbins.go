package sheets

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
)

// homeBin stands for whichever bin is an item's home.
const homeBin = "HOME"

// pickingBins are the bins that are kept filled from reserve, with the levels that they are kept between.
var pickingBins = Sheet{
	Name: "picking-bins", Label: "Picking bins", Key: "for",
	Columns: []Column{
		{Name: "for", Label: "Item / bin", Kind: "text", Needed: true,
			Help: "The SKU and the bin that it is picked from: HC-050 / A-01-1-A, or HC-050 / HOME for its home bin, whichever it is."},
		{Name: "least", Label: "Least", Kind: "number", places: 3, Needed: true, Help: "Below this it is refilled, in base units."},
		{Name: "most", Label: "Most", Kind: "number", places: 3, Needed: true, Help: "Up to this it is filled, in base units, as far as it fits."},
		{Name: "retired", Label: "No longer used", Kind: "flag", Default: "no", Help: "Whether it is not refilled any more."},
	},
	query: `
		SELECT i.sku || ' / ' || coalesce(p.code, 'HOME') AS "for", trim_scale(b.least)::text AS least,
		       trim_scale(b.most)::text AS most, CASE WHEN b.retired THEN 'yes' ELSE 'no' END AS retired
		  FROM picking_bins b JOIN items i ON i.id = b.item_id LEFT JOIN locations p ON p.id = b.location_id
		 WHERE b.site_id = $1 ORDER BY 1`,
	check: checkPickingBin,
	write: func(ctx context.Context, tx *command.Tx, site int32, _, row Row) error {
		sku, bin, err := pickedFrom(row)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `
			INSERT INTO picking_bins (site_id, item_id, location_id, least, most, retired)
			SELECT $1, i.id, (SELECT id FROM locations WHERE site_id = $1 AND upper(code) = $3 AND kind = 'bin'), $4, $5, $6
			  FROM items i WHERE upper(i.sku) = $2
			ON CONFLICT (site_id, item_id, location_id) DO UPDATE SET least = excluded.least, most = excluded.most,
			  retired = excluded.retired`, site, sku, bin, row.number("least"), row.number("most"), row.flag("retired"))
		if err != nil {
			return fmt.Errorf("writing picking bin %s: %w", row["for"], err)
		}
		return nil
	},
}

func checkPickingBin(ctx context.Context, f *facts, _, row Row) error {
	sku, bin, err := pickedFrom(row)
	if err != nil {
		return err
	}
	if !f.skus[sku] {
		return refusal.New(refusal.ItemUnknown, "for", "There is no item %s.", clip(sku))
	}
	if _, known := f.holds[bin]; bin != homeBin && !known {
		return refusal.New(refusal.BinUnknown, "for", "There is no bin %s at this site.", clip(bin))
	}
	if bin == homeBin {
		switch home, err := f.home(ctx, sku); {
		case err != nil:
			return err
		case !home:
			return refusal.New(refusal.BinMissing, "for", "%s has no home bin at this site. Name a bin, or give it a home bin first.", clip(sku))
		}
	}
	if least, most := row.number("least"), row.number("most"); !most.IsPositive() || most.LessThan(*least) {
		return refusal.New(refusal.TargetLow, "most", "The most of %s is below the least of %s. It would never be filled.", most, least)
	}
	return nil
}

// pickedFrom parts what a picking bin is of, in capitals.
func pickedFrom(row Row) (sku, bin string, err error) {
	sku, bin, found := strings.Cut(strings.ToUpper(row["for"]), "/")
	if sku, bin = strings.TrimSpace(sku), strings.TrimSpace(bin); !found || sku == "" || bin == "" {
		return "", "", refusal.New(refusal.PickingBinMalformed, "for",
			"%q does not say what is picked where. Write the SKU and the bin: HC-050 / A-01-1-A", clip(row["for"]))
	}
	return sku, bin, nil
}
