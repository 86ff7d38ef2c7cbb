// Package value says what stock was worth at any instant, by moving average and first in, first out (IAS 2.25 permits
// both), cut by site, zone, bin, item, lot or condition, in parts that add up.
package value

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/valuation"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Method is how goods are valued.
type Method string

// The methods there are.
const (
	Average Method = "average"
	FIFO    Method = "fifo"
)

// Asked is which value is asked for.
type Asked struct {
	At     time.Time `query:"at" doc:"The instant; now without"`
	Method Method    `query:"method" enum:"average,fifo" default:"average"`
	By     string    `query:"by" enum:"site,zone,bin,item,lot,condition" default:"site"`
	Site   int32     `query:"site" doc:"Only this site; all of them, and what is in transit, without"`
}

// A Sum is stock and what it is worth.
type Sum struct {
	At       time.Time       `json:"at"`
	Rows     []Row           `json:"rows" nullable:"false"`
	Quantity decimal.Decimal `json:"quantity"`
	Value    decimal.Decimal `json:"value"`
}

// A Row is a part of it.
type Row struct {
	Label string `json:"label"`
	// Item is its SKU, where all of it is of one.
	Item       string          `json:"item"`
	ItemID     int32           `json:"item_id" doc:"0 where it is of several"`
	LocationID int32           `json:"location_id" doc:"0 where it lies in several"`
	Quantity   decimal.Decimal `json:"quantity"`
	UnitCost   decimal.Decimal `json:"unit_cost" doc:"To four decimals; of several items the mean"`
	Value      decimal.Decimal `json:"value"`
}

// cell is stock of one kind that lay in one location.
type cell struct {
	LocationID int32           `db:"location_id"`
	Location   string          `db:"location"`
	Place      int32           `db:"place"`
	Site       string          `db:"site"`
	Zone       string          `db:"zone"`
	ItemID     int32           `db:"item_id"`
	SKU        string          `db:"sku"`
	Lot        string          `db:"lot"`
	Condition  string          `db:"condition"`
	Quantity   decimal.Decimal `db:"quantity"`
	value      decimal.Decimal
}

// label is what the cell is told by; with its site, where all of them are asked for.
func (c cell) label(by string, all bool) string {
	switch by {
	case "zone":
		if all {
			return c.Site + ", " + c.Zone
		}
		return c.Zone
	case "bin":
		if all {
			return c.Site + ", " + c.Location
		}
		return c.Location
	case "item":
		return c.SKU
	case "lot":
		return strings.TrimSpace(c.SKU + " " + c.Lot)
	case "condition":
		return c.Condition
	}
	return c.Site
}

// cellsQuery is what stood where at an instant ($1), at a site or at all ($2 of 0).
const cellsQuery = `
	WITH held AS (` + ledger.StoodAt + `)
	SELECT h.location_id, p.code AS location, coalesce(p.site_id, 0) AS place, coalesce(s.name, 'between sites') AS site,
	       ` + catalog.AreaOf + ` AS zone, i.id AS item_id, i.sku, coalesce(l.code, '') AS lot, h.condition, h.quantity
	  FROM held h JOIN locations p ON p.id = h.location_id JOIN items i ON i.id = h.item_id LEFT JOIN sites s ON s.id = p.site_id
	  LEFT JOIN zones z ON z.id = p.zone_id LEFT JOIN lots l ON l.id = h.lot_id
	 WHERE p.real AND ($2 = 0 OR p.site_id = $2) ORDER BY i.sku, s.name, p.code, l.code, h.condition`

// key is an item at a place that is valued by itself: a site, or 0 between sites.
type key struct{ item, place int32 }

// Read sums up what stock was worth.
func Read(ctx context.Context, q sqlx.QueryerContext, in Asked) (out Sum, err error) {
	if in.At, err = ledger.OrNow(ctx, q, in.At); err != nil {
		return out, err
	}
	out = Sum{At: in.At, Rows: []Row{}}
	if err := ledger.MayLookAt(ctx, q, "at", in.At); err != nil {
		return out, err
	}
	var cells []cell
	if err := sqlx.SelectContext(ctx, q, &cells, cellsQuery, in.At, in.Site); err != nil {
		return out, fmt.Errorf("reading what lay where: %w", err)
	}
	worth, err := worths(ctx, q, in)
	if err != nil {
		return out, err
	}
	apportion(cells, worth)
	out.gather(cells, in.By, in.Site == 0)
	return out, nil
}

// worths are what each item was worth at each place, to the cent.
func worths(ctx context.Context, q sqlx.QueryerContext, in Asked) (map[key]decimal.Decimal, error) {
	if in.Method == FIFO {
		return layered(ctx, q, in.At)
	}
	return averaged(ctx, q, in.At)
}

// averaged values each item by the moving average, which what came less what went is worth.
func averaged(ctx context.Context, q sqlx.QueryerContext, at time.Time) (map[key]decimal.Decimal, error) {
	var rows []struct {
		Item  int32 `db:"item_id"`
		Place int32
		Value decimal.Decimal
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT item_id, place, sum(value) AS value FROM (`+crossed+`) AS t WHERE entered_at <= $1 GROUP BY 1, 2`, at); err != nil {
		return nil, fmt.Errorf("adding up what moves carried: %w", err)
	}
	out := map[key]decimal.Decimal{}
	for _, r := range rows {
		out[key{r.Item, r.Place}] = r.Value.Round(2)
	}
	return out, nil
}

// ends are what crosses at each of the places that it comes to or leaves, with the part of its value, a query over it
// as c; re-costed besides by what entries say of a method.
func ends(value string, from string, method Method) string {
	return `
	SELECT c.id, c.entered_at, c.kind, c.item_id, e.place, e.quantity, e.quantity * ` + value + ` AS value
	  FROM ` + from + ` CROSS JOIN LATERAL (VALUES ("to", quantity), ("from", -quantity)) AS e(place, quantity)
	 WHERE e.place <> -1
	UNION ALL
	SELECT -r.id, r.entered_at, '` + string(Recosted) + `', r.item_id, e.place, 0, e.value
	  FROM recosts r JOIN recost_parts e ON e.recost_id = r.id AND e.method = '` + string(method) + `' AND e.place <> -1`
}

// crossed values what crosses by moving average: since what goes leaves the average as it is, what came less what went is
// worth the average, with what it was re-costed by since. CrossedByLayers values it by what its layers carried: the moves
// are $4 and their values $5.
var (
	crossed         = ends(`c.unit_cost`, `(`+ledger.Crossings+`) AS c`, Average)
	crossedByLayers = ends(`v.value::numeric / c.quantity`,
		`(`+ledger.Crossings+`) AS c JOIN unnest($4::bigint[], $5::text[]) AS v(move, value) ON v.move = c.id`, FIFO)
)

// apportion gives each cell its part of what its item is worth at its place.
func apportion(cells []cell, worth map[key]decimal.Decimal) {
	by := map[key][]int{}
	for i, c := range cells {
		k := key{c.ItemID, c.Place}
		by[k] = append(by[k], i)
	}
	for k, mine := range by {
		quantities := make([]decimal.Decimal, len(mine))
		for i, at := range mine {
			quantities[i] = cells[at].Quantity
		}
		for i, part := range valuation.Apportion(worth[k], quantities) {
			cells[mine[i]].value = part
		}
	}
}

// gather sums cells up by their labels, the most worth first.
func (s *Sum) gather(cells []cell, by string, all bool) {
	at := map[string]int{}
	for _, c := range cells {
		label := c.label(by, all)
		i, known := at[label]
		if !known {
			i, at[label] = len(s.Rows), len(s.Rows)
			s.Rows = append(s.Rows, Row{Label: label, Item: c.SKU, ItemID: c.ItemID, LocationID: c.LocationID})
		}
		r := &s.Rows[i]
		if r.ItemID != c.ItemID {
			r.Item, r.ItemID = "", 0
		}
		if r.LocationID != c.LocationID {
			r.LocationID = 0
		}
		r.Quantity, r.Value = r.Quantity.Add(c.Quantity), r.Value.Add(c.value)
		s.Quantity, s.Value = s.Quantity.Add(c.Quantity), s.Value.Add(c.value)
	}
	for i, r := range s.Rows {
		if !r.Quantity.IsZero() {
			s.Rows[i].UnitCost = r.Value.Div(r.Quantity).Round(4)
		}
	}
	slices.SortStableFunc(s.Rows, func(a, b Row) int { return b.Value.Cmp(a.Value) })
}
