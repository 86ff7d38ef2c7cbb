package stock

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/exchange"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Compare is which two instants of what are compared.
type Compare struct {
	From     time.Time `query:"from" doc:"The earlier instant"`
	To       time.Time `query:"to" doc:"The later one; now without"`
	Site     int32     `query:"site" doc:"What is at this site"`
	Location int32     `query:"location" doc:"What is in this location alone"`
	Item     int32     `query:"item" doc:"This item alone"`
	By       string    `query:"by" enum:"item,bin,goods" default:"item" doc:"Told item by item, bin by bin, or goods by goods: an item, its lot and its condition in a bin"`
}

// Compared is what differs between two instants, and by which moves.
type Compared struct {
	From time.Time  `json:"from"`
	To   time.Time  `json:"to"`
	Rows []Differed `json:"rows" nullable:"false"`
}

// Differed is stock that moved between two instants.
type Differed struct {
	ItemID     int32           `json:"item_id" doc:"0 where it is of several"`
	SKU        string          `json:"sku"`
	LocationID int32           `json:"location_id" doc:"0 where it lies in several"`
	Location   string          `json:"location"`
	Lot        string          `json:"lot"`
	Condition  string          `json:"condition"`
	Before     decimal.Decimal `json:"before"`
	After      decimal.Decimal `json:"after"`
	Changed    decimal.Decimal `json:"changed"`
	By         []KindChange    `json:"by" nullable:"false" doc:"What each kind of move did, the most first; they add up to what changed"`
}

// KindChange is what a kind of move did.
type KindChange struct {
	Kind     posting.Kind    `json:"kind"`
	Moves    int             `json:"moves"`
	Quantity decimal.Decimal `json:"quantity"`
}

// comparedCell is what a kind of move did to goods in a bin between two instants.
type comparedCell struct {
	ItemID     int32 `db:"item_id"`
	SKU        string
	LocationID int32 `db:"location_id"`
	Location   string
	Lot        string
	Condition  string
	Kind       posting.Kind
	Moves      int
	Quantity   decimal.Decimal
}

// compareQuery reads, posting by posting, what moved between two instants ($1 and $2) at a site ($3), in a location ($4) and of an item
// ($5), each of them open where it is 0: by goods and kind of move. Goods that did not move do not differ.
const compareQuery = `
	WITH moved AS (
		SELECT e.location_id, m.item_id, CASE WHEN m.tracking <> 'lot_out' THEN m.lot_id END AS lot_id, e.condition, t.kind,
		       count(*) AS moves, sum(e.delta) AS quantity
		  FROM postings t CROSS JOIN LATERAL (
		       SELECT m.*, i.tracking FROM moves m JOIN items i ON i.id = m.item_id
		        WHERE m.posting_id = t.id AND ($5 = 0 OR m.item_id = $5) OFFSET 0) AS m
		 CROSS JOIN LATERAL (VALUES (m.from_location, m.from_condition, -m.quantity), (m.to_location, m.to_condition, m.quantity))
		    AS e(location_id, condition, delta)
		  JOIN locations p ON p.id = e.location_id
		 WHERE t.entered_at > $1 AND t.entered_at <= $2 AND p.real AND ($3 = 0 OR p.site_id = $3) AND ($4 = 0 OR p.id = $4)
		 GROUP BY 1, 2, 3, 4, 5)
	SELECT m.item_id, i.sku, m.location_id, p.code AS location, coalesce(l.code, '') AS lot, m.condition, m.kind, m.moves,
	       m.quantity
	  FROM moved m JOIN items i ON i.id = m.item_id JOIN locations p ON p.id = m.location_id LEFT JOIN lots l ON l.id = m.lot_id
	 ORDER BY i.sku, p.code, l.code, m.condition, m.kind`

// compare reads what differs between two instants, and by which moves.
func compare(ctx context.Context, q sqlx.QueryerContext, in Compare) (out Compared, err error) {
	if in.To, err = ledger.OrNow(ctx, q, in.To); err != nil {
		return out, err
	}
	out = Compared{From: in.From, To: in.To, Rows: []Differed{}}
	if err := ledger.MayLookAt(ctx, q, "from", in.From); err != nil {
		return out, err
	}
	if err := ledger.MayLookAt(ctx, q, "to", in.To); err != nil {
		return out, err
	}
	if in.To.Before(in.From) {
		return out, refusal.New(refusal.DayPast, "to", "%s is before %s. Name the earlier instant first.", in.To.UTC().Format(time.DateTime),
			in.From.UTC().Format(time.DateTime))
	}
	var cells []comparedCell
	if err := sqlx.SelectContext(ctx, q, &cells, compareQuery, in.From, in.To, in.Site, in.Location, in.Item); err != nil {
		return out, fmt.Errorf("comparing two instants: %w", err)
	}
	before, err := in.before(ctx, q)
	if err != nil {
		return out, err
	}
	out.Rows = grouped(cells, before, in.By)
	return out, nil
}

// goodsKey is what goods are told by; told by item or by bin, the rest of it is empty.
type goodsKey struct {
	item, location int32
	lot, condition string
}

// told are the columns of goodsKey as things are told apart, of what stood there (b) and its lot (l).
var told = map[string]string{
	"item":  "b.item_id, 0 AS location_id, '' AS lot, '' AS condition",
	"bin":   "0 AS item_id, b.location_id, '' AS lot, '' AS condition",
	"goods": "b.item_id, b.location_id, coalesce(l.code, '') AS lot, b.condition",
}

// before reads how many there were at the earlier instant, of what moved since and of what did not.
func (in Compare) before(ctx context.Context, q sqlx.QueryerContext) (map[goodsKey]decimal.Decimal, error) {
	var rows []struct {
		ItemID     int32 `db:"item_id"`
		LocationID int32 `db:"location_id"`
		Lot        string
		Condition  string
		Quantity   decimal.Decimal
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT `+told[in.By]+`, sum(b.quantity) AS quantity FROM (`+ledger.StoodAt+`) AS b JOIN locations p ON p.id = b.location_id
		  LEFT JOIN lots l ON l.id = b.lot_id
		 WHERE p.real AND ($2 = 0 OR p.site_id = $2) AND ($3 = 0 OR p.id = $3) AND ($4 = 0 OR b.item_id = $4) GROUP BY 1, 2, 3, 4`,
		in.From, in.Site, in.Location, in.Item); err != nil {
		return nil, fmt.Errorf("reading what lay there before: %w", err)
	}
	out := make(map[goodsKey]decimal.Decimal, len(rows))
	for _, r := range rows {
		out[goodsKey{r.ItemID, r.LocationID, r.Lot, r.Condition}] = r.Quantity
	}
	return out, nil
}

// grouped puts cells together by item, by bin, or as goods.
func grouped(cells []comparedCell, before map[goodsKey]decimal.Decimal, by string) []Differed {
	rows, at := []Differed{}, map[goodsKey]int{}
	for _, c := range cells {
		key := goodsKey{c.ItemID, c.LocationID, c.Lot, c.Condition}
		row := Differed{ItemID: c.ItemID, SKU: c.SKU, LocationID: c.LocationID, Location: c.Location, Lot: c.Lot, Condition: c.Condition}
		switch by {
		case "item":
			key, row = goodsKey{item: c.ItemID}, Differed{ItemID: c.ItemID, SKU: c.SKU}
		case "bin":
			key, row = goodsKey{location: c.LocationID}, Differed{LocationID: c.LocationID, Location: c.Location}
		}
		i, known := at[key]
		if !known {
			i, at[key] = len(rows), len(rows)
			row.Before = before[key]
			rows = append(rows, row)
		}
		rows[i].add(c)
	}
	for i := range rows {
		rows[i].After = rows[i].Before.Add(rows[i].Changed)
		slices.SortStableFunc(rows[i].By, func(a, b KindChange) int { return b.Quantity.Abs().Cmp(a.Quantity.Abs()) })
	}
	slices.SortStableFunc(rows, func(a, b Differed) int {
		return cmp.Or(b.Changed.Abs().Cmp(a.Changed.Abs()), cmp.Compare(a.SKU+a.Location, b.SKU+b.Location))
	})
	return rows
}

func (d *Differed) add(c comparedCell) {
	d.Changed = d.Changed.Add(c.Quantity)
	i := slices.IndexFunc(d.By, func(k KindChange) bool { return k.Kind == c.Kind })
	if i < 0 {
		i = len(d.By)
		d.By = append(d.By, KindChange{Kind: c.Kind})
	}
	d.By[i].Moves += c.Moves
	d.By[i].Quantity = d.By[i].Quantity.Add(c.Quantity)
}

// table writes the comparison into a file.
func (c Compared) table() exchange.Table {
	t := exchange.Table{Header: []string{"item", "location", "lot", "condition", "before", "after", "changed", "kind", "moves", "quantity"}}
	for _, r := range c.Rows {
		for _, k := range r.By {
			t.Rows = append(t.Rows, []string{r.SKU, r.Location, r.Lot, r.Condition, r.Before.String(), r.After.String(), r.Changed.String(),
				string(k.Kind), fmt.Sprint(k.Moves), k.Quantity.String()})
		}
	}
	return t
}
