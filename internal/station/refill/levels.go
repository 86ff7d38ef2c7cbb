package refill

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refilling"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/countrequests"
	"lanternrow/internal/exchange"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Level is a picking bin of an item with what it holds, what orders will take from it, and what it needs; in base
// units.
type Level struct {
	ID          int64           `db:"id" json:"id"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Item        string          `db:"item" json:"item"`
	Unit        string          `db:"unit" json:"unit"`
	LocationID  int32           `db:"location_id" json:"location_id"`
	Bin         string          `db:"bin" json:"bin"`
	Home        bool            `db:"home" json:"home" doc:"Whether it is the item's home bin"`
	Least       decimal.Decimal `db:"least" json:"least"`
	Most        decimal.Decimal `db:"most" json:"most"`
	Holds       decimal.Decimal `db:"holds" json:"holds"`
	Coming      decimal.Decimal `db:"coming" json:"coming" doc:"What refills bring that are not done"`
	Wanted      decimal.Decimal `db:"wanted" json:"wanted" doc:"What released orders will take from it"`
	After       decimal.Decimal `db:"-" json:"after"`
	Need        decimal.Decimal `db:"-" json:"need" doc:"How much more goes there, as far as it fits"`
	Short       bool            `db:"-" json:"short" doc:"Whether it is below its least, or will be"`
	Lot         string          `db:"lot" json:"-"`
	Whole       bool            `db:"whole" json:"-"`
	WeightKg    decimal.Decimal `db:"weight_kg" json:"-"`
	VolumeL     decimal.Decimal `db:"volume_l" json:"-"`
	Handling    string          `db:"handling" json:"-"`
	ItemsWanted decimal.Decimal `db:"items_wanted" json:"-"`

	// bin is the level as the rules see it.
	bin refilling.Bin
}

func (l Level) goods() slotting.Goods {
	return slotting.Goods{Item: l.SKU, Lot: l.Lot, Quantity: l.Most, Whole: l.Whole, WeightKg: l.WeightKg, VolumeL: l.VolumeL,
		Handling: l.Handling}
}

// readLevels reads the picking bins of a site; the demand of orders is what released ones want up to a day, or all of
// it.
func readLevels(ctx context.Context, q sqlx.QueryerContext, site int32, until string) ([]Level, error) {
	levels := []Level{}
	err := sqlx.SelectContext(ctx, q, &levels, `
		WITH demand AS (
			SELECT l.item_id, sum(greatest(l.due - l.planned - coalesce(x.reserved, 0), 0)) AS wanted
			  FROM outbound_lines l JOIN outbound_orders o ON o.id = l.order_id
			  LEFT JOIN LATERAL (SELECT sum(r.quantity) AS reserved FROM reservations r
			       WHERE r.line_id = l.id AND NOT EXISTS (SELECT FROM round_stops WHERE reservation_id = r.id)
			         AND NOT EXISTS (SELECT FROM stop_units WHERE reservation_id = r.id)) AS x ON true
			 WHERE o.site_id = $1 AND o.state = 'released' AND l.due > l.planned AND ($2 = '' OR o.wanted_on <= $2::date)
			 GROUP BY 1)
		SELECT r.id, r.item_id, i.sku, i.description AS item, i.base_unit AS unit, i.whole, i.weight_kg, i.volume_l,
		       i.handling, r.location_id, p.code AS bin, r.home, r.least, r.most, b.holds, b.wanted, b.lot, m.coming,
		       coalesce(d.wanted, 0) AS items_wanted
		  FROM refilled_bins r
		  JOIN items i ON i.id = r.item_id
		  JOIN locations p ON p.id = r.location_id
		  JOIN LATERAL (SELECT coalesce(sum(quantity), 0) AS holds, coalesce(sum(reserved), 0) AS wanted,
		                       coalesce(max(l.code), '') AS lot
		                  FROM balances LEFT JOIN lots l ON l.id = lot_id
		                 WHERE location_id = r.location_id AND balances.item_id = r.item_id AND condition = 'good'
		                   AND quantity > 0) AS b ON true
		  JOIN LATERAL (SELECT coalesce(sum(quantity - missed - brought - returned), 0) AS coming
		                  FROM refill_moves v JOIN refills f ON f.id = v.refill_id
		                 WHERE v.to_id = r.location_id AND v.item_id = r.item_id AND f.state IN ('planned', 'walking')
		                   AND NOT v.refused) AS m ON true
		  LEFT JOIN demand d ON d.item_id = r.item_id
		 WHERE r.site_id = $1 ORDER BY i.sku, r.home DESC, p.code`, site, until)
	if err != nil {
		return nil, fmt.Errorf("reading picking bins: %w", err)
	}
	return levels, weigh(ctx, q, site, levels)
}

// weigh works out what each level needs: by its orders, and by what fits into its bin beside what the levels before it
// in the same bin need.
func weigh(ctx context.Context, q sqlx.QueryerContext, site int32, levels []Level) error {
	if len(levels) == 0 {
		return nil
	}
	shelves, err := shelvesOf(ctx, q, site, levels)
	if err != nil {
		return err
	}
	bins := make([]refilling.Bin, len(levels))
	for i, l := range levels {
		bins[i] = refilling.Bin{Code: l.Bin, Item: l.SKU, Least: l.Least, Most: l.Most, Holds: l.Holds, Coming: l.Coming,
			Wanted: l.Wanted, OneLot: !shelves[l.LocationID].MixLots, Lot: l.Lot}
	}
	for i := 0; i < len(levels); {
		j := i
		for j < len(levels) && levels[j].ItemID == levels[i].ItemID {
			j++
		}
		refilling.Share(bins[i:j], levels[i].ItemsWanted)
		i = j
	}
	for i := range levels {
		l, shelf := &levels[i], shelves[levels[i].LocationID]
		goods := l.goods()
		goods.Quantity = l.Most.Add(bins[i].Wanted)
		takes, _ := shelf.Capacity(goods)
		takes = decimal.Max(takes.Sub(l.Coming), decimal.Zero)
		bins[i].Fits = &takes
		l.bin = bins[i]
		l.Wanted, l.After, l.Need = l.bin.Wanted, l.bin.After(), l.bin.Need()
		l.Short = l.After.LessThan(l.Least)
		shelves[l.LocationID] = shelf.With(goods, l.Need.Add(l.Coming))
	}
	return nil
}

// shelvesOf reads the bins of levels with what lies in them.
func shelvesOf(ctx context.Context, q sqlx.QueryerContext, site int32, levels []Level) (map[int32]slotting.Bin, error) {
	bench, err := catalog.OneLocation(ctx, q, site, "bench")
	if err != nil {
		return nil, err
	}
	ids := make([]int32, len(levels))
	for i, l := range levels {
		ids[i] = l.LocationID
	}
	bins, err := catalog.Bins(ctx, q, site, bench, ids)
	if err != nil {
		return nil, err
	}
	out := map[int32]slotting.Bin{}
	for _, b := range bins {
		out[b.ID] = b.Bin
	}
	return out, nil
}

// reserve is goods that picking bins can be filled from, with what is known of them.
type reserve struct {
	LocationID int32           `db:"location_id"`
	Bin        string          `db:"bin"`
	X          float64         `db:"x"`
	Y          float64         `db:"y"`
	ItemID     int32           `db:"item_id"`
	SKU        string          `db:"sku"`
	LotID      *int64          `db:"lot_id"`
	Lot        string          `db:"lot"`
	CartonID   *int64          `db:"carton_id"`
	Carton     string          `db:"carton"`
	Expires    string          `db:"expires"`
	Arrived    string          `db:"arrived"`
	Quantity   decimal.Decimal `db:"quantity"`
	Alone      bool            `db:"alone"`
}

// readReserve reads what of the items is free in bins that are no picking bins of theirs, less what refills that are
// not done will fetch there. What is too old to be shipped today stays where it is, and so does what is to be counted.
func readReserve(ctx context.Context, q sqlx.QueryerContext, site int32, items []int32, now time.Time) ([]reserve, error) {
	var out []reserve
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT * FROM (
		SELECT p.id AS location_id, p.code AS bin, p.x, p.y, b.item_id, i.sku, b.lot_id, coalesce(l.code, '') AS lot,
		       b.carton_id, coalesce(c.sscc, '') AS carton, coalesce(to_char(l.expires_on, 'YYYY-MM-DD'), '') AS expires,
		       coalesce(to_char(l.arrived_on, 'YYYY-MM-DD'), '') AS arrived,
		       b.free - coalesce((SELECT sum(v.quantity - v.fetched - v.missed)
		           FROM refill_moves v JOIN refills f ON f.id = v.refill_id
		          WHERE f.state IN ('planned', 'walking') AND v.from_id = b.location_id AND v.item_id = b.item_id
		            AND v.lot_id IS NOT DISTINCT FROM b.lot_id AND v.carton_id IS NOT DISTINCT FROM b.carton_id), 0) AS quantity,
		       b.carton_id IS NOT NULL AND b.free = (SELECT sum(quantity) FROM balances WHERE carton_id = b.carton_id) AS alone
		  FROM (SELECT location_id, item_id, lot_id, carton_id, sum(quantity - reserved) AS free FROM balances
		         WHERE item_id = ANY($2) AND quantity > reserved AND condition = 'good' GROUP BY 1, 2, 3, 4) AS b
		  JOIN items i ON i.id = b.item_id
		  JOIN locations p ON p.id = b.location_id
		  LEFT JOIN lots l ON l.id = b.lot_id
		  LEFT JOIN cartons c ON c.id = b.carton_id
		 WHERE p.site_id = $1 AND p.kind = 'bin' AND (l.expires_on IS NULL OR l.expires_on >= $3::date + i.life_out)
		   AND NOT EXISTS (SELECT FROM refilled_bins r WHERE r.location_id = b.location_id AND r.item_id = b.item_id)
		   AND NOT EXISTS (SELECT FROM carton_work w WHERE w.carton_id = b.carton_id)
		   AND NOT EXISTS (SELECT FROM count_requests d WHERE d.location_id = b.location_id AND d.item_id = b.item_id
		       AND `+countrequests.Doubtful+`)) AS r
		 WHERE quantity > 0 ORDER BY bin, sku, lot, carton`, site, items, now.UTC().Format(time.DateOnly))
	if err != nil {
		return nil, fmt.Errorf("reading reserve: %w", err)
	}
	return out, nil
}

// table writes levels into a file.
func table(levels []Level, err error) (exchange.Table, error) {
	t := exchange.Table{Header: []string{"sku", "item", "bin", "least", "most", "holds", "coming", "wanted", "after", "need"}}
	for _, l := range levels {
		t.Rows = append(t.Rows, []string{l.SKU, l.Item, l.Bin, l.Least.String(), l.Most.String(), l.Holds.String(),
			l.Coming.String(), l.Wanted.String(), l.After.String(), l.Need.String()})
	}
	return t, err
}
