package catalog

import (
	"context"
	"fmt"
	"math"
	"strings"

	"lanternrow/internal/core/slotting"
	"lanternrow/internal/core/walking"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A ShelfBin is a bin with what lies in it, as the putaway rules see it.
type ShelfBin struct {
	ID int32
	// At is where one stands to reach it.
	At walking.Point
	slotting.Bin
}

type binRow struct {
	ID          int32            `db:"id"`
	Code        string           `db:"code"`
	X           float64          `db:"x"`
	Y           float64          `db:"y"`
	MaxUnits    *decimal.Decimal `db:"max_units"`
	MaxWeightKg *decimal.Decimal `db:"max_weight_kg"`
	MaxVolumeL  *decimal.Decimal `db:"max_volume_l"`
	MixItems    bool             `db:"mix_items"`
	MixLots     bool             `db:"mix_lots"`
	Accepts     *string          `db:"accepts"`
	SKU         *string          `db:"sku"`
	Lot         *string          `db:"lot"`
	Quantity    *decimal.Decimal `db:"quantity"`
	WeightKg    *decimal.Decimal `db:"weight_kg"`
	VolumeL     *decimal.Decimal `db:"volume_l"`
}

// Bins reads the storage bins of a site with their contents and their walks from a
// location. only narrows it to these bins; nil reads all.
func Bins(ctx context.Context, q sqlx.QueryerContext, site int32, from Location, only []int32) ([]ShelfBin, error) {
	floor, err := FloorOf(ctx, q, site)
	if err != nil {
		return nil, err
	}
	gate, err := OneLocation(ctx, q, site, "staging")
	if err != nil {
		return nil, err
	}
	var rows []binRow
	err = sqlx.SelectContext(ctx, q, &rows, `
		SELECT p.id, p.code, p.x, p.y, p.max_units, p.max_weight_kg, p.max_volume_l, p.mix_items, p.mix_lots,
		       array_to_string(z.accepts, ',') AS accepts, i.sku, coalesce(l.code, '') AS lot, b.quantity,
		       i.weight_kg, i.volume_l
		  FROM locations p LEFT JOIN zones z ON z.id = p.zone_id
		  LEFT JOIN LATERAL (SELECT item_id, lot_id, sum(quantity) AS quantity FROM balances WHERE location_id = p.id
		    GROUP BY 1, 2) AS b ON true
		  LEFT JOIN items i ON i.id = b.item_id LEFT JOIN lots l ON l.id = b.lot_id
		 WHERE p.site_id = $1 AND p.kind = 'bin' AND ($2::int[] IS NULL OR p.id = ANY($2)) ORDER BY p.code`, site, only)
	if err != nil {
		return nil, fmt.Errorf("reading bins: %w", err)
	}
	var bins []ShelfBin
	for _, r := range rows {
		if len(bins) == 0 || bins[len(bins)-1].ID != r.ID {
			at := walking.Point{X: r.X, Y: r.Y}
			bins = append(bins, ShelfBin{r.ID, at, slotting.Bin{
				Code: r.Code, MaxUnits: r.MaxUnits, MaxWeightKg: r.MaxWeightKg, MaxVolumeL: r.MaxVolumeL, MixItems: r.MixItems, MixLots: r.MixLots,
				Accepts: split(r.Accepts), WalkM: Tenth(floor.Distance(from.Point(),
					at)), GateM: Tenth(floor.Distance(at, gate.Point())),
			}})
		}
		if r.SKU != nil {
			b := &bins[len(bins)-1]
			b.Holds = append(b.Holds, slotting.Held{Item: *r.SKU, Lot: *r.Lot, Quantity: *r.Quantity,
				WeightKg: *r.WeightKg, VolumeL: *r.VolumeL})
		}
	}
	return bins, nil
}

// Point is where one stands to reach the location.
func (p Location) Point() walking.Point { return walking.Point{X: p.X, Y: p.Y} }

// Tenth rounds a length to a tenth of a metre, as walks are shown.
func Tenth(metres float64) float64 { return math.Round(metres*10) / 10 }

func split(s *string) []string {
	if s == nil || *s == "" {
		return nil
	}
	return strings.Split(*s, ",")
}
