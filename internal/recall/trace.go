package recall

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/core/recalling"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Trace is what became of goods, at this moment.
type Trace struct {
	Source Source `json:"source" enum:"lot,serial,arrival,order,recall"`
	ID     int64  `json:"id"`
	From   string `json:"from" doc:"What it begins from, in words"`
	// Goods are the lots, and the units of each item, with what became of them in all.
	Goods []Goods `json:"goods" nullable:"false"`
	// Pooled came too and cannot be followed.
	Pooled []Pooled `json:"pooled" nullable:"false"`
	Came   []Origin `json:"came" nullable:"false"`
	Here   []Rest   `json:"here" nullable:"false" doc:"Where each of them is now that is ours"`
	Went   []Sent   `json:"went" nullable:"false"`
	Back   []Back   `json:"back" nullable:"false"`
	Gone   []Gone   `json:"gone" nullable:"false"`
	// Whole tells that all numbers add up to what came in.
	Whole bool `json:"whole"`
	// Recall is the one that is followed, or that is open over these goods, if any.
	Recall *Recall `json:"recall"`
}

// Goods is a lot, or the units of an item, and what became of it, in base units.
type Goods struct {
	ItemID    int32    `db:"item_id" json:"item_id"`
	SKU       string   `db:"sku" json:"sku"`
	Item      string   `db:"item" json:"item"`
	Unit      string   `db:"unit" json:"unit"`
	Tracking  string   `db:"tracking" json:"-"`
	LotID     int64    `db:"lot_id" json:"lot_id" doc:"0 for units"`
	Lot       string   `db:"lot" json:"lot"`
	Supplier  string   `db:"supplier_lot" json:"supplier_lot" doc:"What its supplier calls the lot, where that is another number"`
	ExpiresOn *string  `db:"expires_on" json:"expires_on"`
	Units     string   `db:"units" json:"-"`
	Serials   []string `db:"-" json:"serials" nullable:"false"`
	recalling.Tally
	WithCustomers decimal.Decimal `db:"-" json:"with_customers"`
	Left          decimal.Decimal `db:"-" json:"left" doc:"What must be left by the moves"`
	Stands        decimal.Decimal `db:"stands" json:"stands" doc:"What stands with us by the balances"`
	// Differs is how many more stand than must be left.
	Differs decimal.Decimal `db:"-" json:"differs"`
	// OnTheWayOut tells that it is known from the way out on alone: what came in and is left is not told apart by it.
	OnTheWayOut bool `db:"-" json:"on_the_way_out"`
}

// An Origin is where goods came from.
type Origin struct {
	SKU       string          `db:"sku" json:"sku"`
	Lot       string          `db:"lot" json:"lot"`
	Serials   string          `db:"serials" json:"serials"`
	Supplier  string          `db:"supplier" json:"supplier"`
	Arrival   string          `db:"arrival" json:"arrival"`
	ArrivalID int64           `db:"arrival_id" json:"arrival_id"`
	Order     string          `db:"order_number" json:"order"`
	Site      string          `db:"site" json:"site"`
	At        time.Time       `db:"at" json:"at"`
	Quantity  decimal.Decimal `db:"quantity" json:"quantity"`
}

// A Rest is goods that are ours and where they are.
type Rest struct {
	SKU        string          `db:"sku" json:"sku"`
	Lot        string          `db:"lot" json:"lot"`
	Serials    string          `db:"serials" json:"serials"`
	Site       string          `db:"site" json:"site" doc:"Empty between two sites"`
	LocationID int32           `db:"location_id" json:"location_id"`
	Location   string          `db:"location" json:"location"`
	Kind       string          `db:"kind" json:"kind" doc:"The kind of location"`
	Carton     string          `db:"carton" json:"carton"`
	Condition  string          `db:"condition" json:"condition"`
	Quantity   decimal.Decimal `db:"quantity" json:"quantity"`
	Reserved   decimal.Decimal `db:"reserved" json:"reserved"`
	// Order is the one that it is reserved, packed or loaded for.
	Order string `db:"order_number" json:"order"`
}

// Sent is goods that went to a customer with a shipment.
type Sent struct {
	SKU        string          `db:"sku" json:"sku"`
	Lot        string          `db:"lot" json:"lot"`
	Serials    string          `db:"serials" json:"serials"`
	Cartons    string          `db:"cartons" json:"cartons"`
	Customer   string          `db:"customer" json:"customer"`
	CustomerID int32           `db:"customer_id" json:"customer_id"`
	Email      string          `db:"email" json:"email"`
	Order      string          `db:"order_number" json:"order"`
	Shipment   string          `db:"shipment" json:"shipment"`
	ShipmentID int64           `db:"shipment_id" json:"shipment_id"`
	At         time.Time       `db:"at" json:"at"`
	Quantity   decimal.Decimal `db:"quantity" json:"quantity"`
	// SiteID is the site that it went from.
	SiteID int32 `db:"site_id" json:"-"`
}

// Back is goods that came back from a customer.
type Back struct {
	SKU      string          `db:"sku" json:"sku"`
	Lot      string          `db:"lot" json:"lot"`
	Serials  string          `db:"serials" json:"serials"`
	Customer string          `db:"customer" json:"customer"`
	Return   string          `db:"return_number" json:"return"`
	At       time.Time       `db:"at" json:"at"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
}

// Gone is goods that went off the books, or turned up again: scrapped, lost, found, or back with their supplier.
type Gone struct {
	SKU      string          `db:"sku" json:"sku"`
	Lot      string          `db:"lot" json:"lot"`
	Serials  string          `db:"serials" json:"serials"`
	How      string          `db:"how" json:"how" enum:"scrapped,lost,found,sent_back"`
	Document string          `db:"document" json:"document"`
	Note     string          `db:"note" json:"note"`
	Person   string          `db:"person" json:"person"`
	At       time.Time       `db:"at" json:"at"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
}

// moved are the moves of the goods that are followed ($1 lots, $2 units), with their postings and both ends.
const moved = `
	  FROM moves m JOIN postings t ON t.id = m.posting_id JOIN items i ON i.id = m.item_id
	  JOIN locations f ON f.id = m.from_location JOIN locations d ON d.id = m.to_location
	  LEFT JOIN lots l ON l.id = m.lot_id LEFT JOIN serials u ON u.id = m.serial_id`

const (
	followed = ` (m.lot_id = ANY($1) OR m.serial_id = ANY($2)) `
	what     = ` i.sku, coalesce(l.code, '') AS lot, coalesce(string_agg(u.code, ' ' ORDER BY u.code), '') AS serials,
	       sum(m.quantity) AS quantity `
)

// place is whose hands a location is in.
func place(alias string) string {
	return strings.ReplaceAll(`CASE WHEN @.real THEN 'ours' WHEN @.kind = 'lost' AND @.code = 'Scrapped' THEN 'scrapped' ELSE @.kind END`, "@", alias)
}

// Follow follows goods to where each of them is: of a recall that ended, it is what its page said then.
func Follow(ctx context.Context, q sqlx.QueryerContext, of Source, id int64) (t Trace, err error) {
	if of != OfRecall {
		return readTrace(ctx, q, of, id)
	}
	r, err := readRecall(ctx, q, id)
	if err != nil {
		return t, err
	}
	if r.EndedAt == nil {
		t, err = readTrace(ctx, q, of, id)
	} else if err = json.Unmarshal(r.Report, &t); err != nil {
		err = fmt.Errorf("reading the page of a recall: %w", err)
	}
	t.Recall = &r
	return t, err
}

// readTrace follows goods to where they are.
func readTrace(ctx context.Context, q sqlx.QueryerContext, of Source, id int64) (Trace, error) {
	t := Trace{Source: of, ID: id, Goods: []Goods{}, Pooled: []Pooled{}, Came: []Origin{}, Here: []Rest{}, Went: []Sent{},
		Back: []Back{}, Gone: []Gone{}}
	s, err := readScope(ctx, q, of, id)
	if err != nil {
		return t, err
	}
	t.From = s.From
	if s.pooled != nil {
		t.Pooled = s.pooled
	}
	if err := t.readGoods(ctx, q, s); err != nil {
		return t, err
	}
	for _, part := range []struct {
		rows  any
		query string
	}{{&t.Came, cameQuery}, {&t.Here, hereQuery}, {&t.Went, wentQuery}, {&t.Back, backQuery}, {&t.Gone, goneQuery}} {
		if err := sqlx.SelectContext(ctx, q, part.rows, part.query, s.lots, s.serials); err != nil {
			return t, fmt.Errorf("following goods: %w", err)
		}
	}
	t.Recall, err = openOver(ctx, q, s)
	return t, err
}

// readGoods reads what is followed and adds up what became of it.
func (t *Trace) readGoods(ctx context.Context, q sqlx.QueryerContext, s scope) error {
	err := sqlx.SelectContext(ctx, q, &t.Goods, `
		SELECT g.item_id, i.sku, i.description AS item, i.base_unit AS unit, i.tracking, g.lot_id, g.lot, g.supplier_lot,
		       to_char(g.expires_on, 'YYYY-MM-DD') AS expires_on, g.units, coalesce((
		           SELECT sum(b.quantity) FROM balances b JOIN locations p ON p.id = b.location_id
		            WHERE p.real AND b.item_id = g.item_id AND (b.lot_id = g.lot_id OR b.serial_id = ANY(g.ids))), 0) AS stands
		  FROM (SELECT item_id, id AS lot_id, code AS lot, supplier_code AS supplier_lot, expires_on, '' AS units, '{}'::bigint[] AS ids FROM lots WHERE id = ANY($1)
		        UNION ALL
		        SELECT item_id, 0, '', '', NULL, string_agg(code, ' ' ORDER BY code), array_agg(id) FROM serials WHERE id = ANY($2)
		         GROUP BY item_id) AS g
		  JOIN items i ON i.id = g.item_id ORDER BY i.sku, g.lot`, s.lots, s.serials)
	if err != nil {
		return fmt.Errorf("reading what is followed: %w", err)
	}
	var flows []struct {
		Item int32 `db:"item_id"`
		Lot  int64 `db:"lot_id"`
		recalling.Flow
	}
	if err := sqlx.SelectContext(ctx, q, &flows, `
		SELECT m.item_id, coalesce(m.lot_id, 0) AS lot_id, `+place("f")+` AS "from", `+place("d")+` AS "to",
		       t.kind IN ('reverse_receipt', 'reverse_shipment') AS back, sum(m.quantity) AS quantity`+moved+`
		 WHERE`+followed+`AND NOT (f.real AND d.real) GROUP BY 1, 2, 3, 4, 5`, s.lots, s.serials); err != nil {
		return fmt.Errorf("adding up what became of goods: %w", err)
	}
	t.Whole = true
	for i := range t.Goods {
		g := &t.Goods[i]
		var mine []recalling.Flow
		for _, f := range flows {
			if f.Item == g.ItemID && f.Lot == g.LotID {
				mine = append(mine, f.Flow)
			}
		}
		g.add(mine)
		t.Whole = t.Whole && (g.OnTheWayOut || g.Differs.IsZero())
	}
	return nil
}

// add adds up what became of the goods.
func (g *Goods) add(flows []recalling.Flow) {
	g.Serials = strings.Fields(g.Units)
	g.Tally = recalling.Sum(flows)
	g.WithCustomers, g.Left = g.Tally.WithCustomers(), g.Ours()
	g.OnTheWayOut = toldOnTheWayOut(g.Tracking)
	if g.OnTheWayOut {
		g.Left = decimal.Zero
	}
	g.Differs = g.Stands.Sub(g.Left)
}

// cameQuery is where goods came from.
const cameQuery = `
	SELECT coalesce(p.name, f.code) AS supplier, coalesce(a.number, '') AS arrival, coalesce(a.id, 0) AS arrival_id,
	       coalesce(n.number, '') AS order_number, coalesce(s.name, '') AS site, min(t.happened_at) AS at, ` + what + moved + `
	  LEFT JOIN parties p ON p.location_id = f.id LEFT JOIN sites s ON s.id = d.site_id
	  LEFT JOIN receipts r ON r.move_id = m.id LEFT JOIN arrivals a ON a.id = r.arrival_id
	  LEFT JOIN inbound_lines b ON b.id = r.line_id LEFT JOIN inbound_orders n ON n.id = b.order_id
	 WHERE` + followed + `AND f.kind = 'supplier' AND r.undone_at IS NULL
	 GROUP BY 1, 2, 3, 4, 5, i.sku, l.code ORDER BY min(t.happened_at), i.sku, l.code`

// hereQuery is where goods are that are ours. What is in a carton is its order's; what is reserved is that of its
// order.
const hereQuery = `
	SELECT i.sku, coalesce(l.code, '') AS lot, coalesce(string_agg(u.code, ' ' ORDER BY u.code), '') AS serials,
	       coalesce(s.name, '') AS site, p.id AS location_id, p.code AS location, p.kind, coalesce(c.sscc, '') AS carton, b.condition,
	       sum(b.quantity) AS quantity, sum(b.reserved) AS reserved, coalesce(max(o.number), (
	           SELECT string_agg(DISTINCT o.number, ' ') FROM reservations r JOIN outbound_lines x ON x.id = r.line_id
	             JOIN outbound_orders o ON o.id = x.order_id
	            WHERE r.location_id = p.id AND r.item_id = i.id AND r.lot_id IS NOT DISTINCT FROM l.id
	              AND (r.serial_id IS NULL OR r.serial_id = ANY($2))), '') AS order_number
	  FROM balances b JOIN items i ON i.id = b.item_id JOIN locations p ON p.id = b.location_id LEFT JOIN sites s ON s.id = p.site_id
	  LEFT JOIN lots l ON l.id = b.lot_id LEFT JOIN serials u ON u.id = b.serial_id LEFT JOIN cartons c ON c.id = b.carton_id
	  LEFT JOIN carton_work w ON w.carton_id = b.carton_id AND w.state <> 'shipped' LEFT JOIN outbound_orders o ON o.id = w.order_id
	 WHERE p.real AND b.quantity > 0 AND (b.lot_id = ANY($1) OR b.serial_id = ANY($2))
	 GROUP BY i.id, l.id, s.id, p.id, c.id, b.condition ORDER BY s.name NULLS LAST, p.code, i.sku, l.code`

// wentQuery is who got goods, and with which shipment; one that was taken back never was.
const wentQuery = `
	SELECT coalesce(o.recipient, d.code) AS customer, coalesce(o.party_id, 0) AS customer_id, coalesce(o.email, '') AS email,
	       coalesce(o.number, '') AS order_number, t.document AS shipment, coalesce(x.id, 0) AS shipment_id,
	       coalesce(min(m.from_site), (SELECT min(id) FROM sites)) AS site_id, min(t.happened_at) AS at, coalesce(string_agg(DISTINCT c.sscc, ' '), '') AS cartons, ` + what + moved + `
	  LEFT JOIN shipments x ON x.number = t.document LEFT JOIN outbound o ON o.id = x.order_id
	  LEFT JOIN cartons c ON c.id = m.from_carton
	 WHERE` + followed + `AND d.kind = 'customer' AND x.state IS DISTINCT FROM 'taken_back'
	 GROUP BY 1, 2, 3, 4, 5, 6, i.sku, l.code ORDER BY min(t.happened_at), t.document, i.sku, l.code`

// backQuery is what came back from customers.
const backQuery = `
	SELECT coalesce(n.source, f.code) AS customer, coalesce(n.number, t.document) AS return_number, min(t.happened_at) AS at, ` +
	what + moved + `
	  LEFT JOIN receipts r ON r.move_id = m.id LEFT JOIN inbound_lines b ON b.id = r.line_id LEFT JOIN inbound n ON n.id = b.order_id
	 WHERE` + followed + `AND f.kind = 'customer' AND t.kind <> 'reverse_shipment'
	 GROUP BY 1, 2, i.sku, l.code ORDER BY min(t.happened_at), i.sku, l.code`

// goneQuery is what went off the books otherwise, or turned up.
var goneQuery = `
	SELECT CASE WHEN f.kind = 'lost' THEN 'found' WHEN d.kind = 'supplier' THEN 'sent_back' ELSE ` + place("d") + ` END AS how,
	       t.document, t.note, e.name AS person, min(t.happened_at) AS at, ` + what + moved + `
	  JOIN people e ON e.id = t.person_id
	 WHERE` + followed + `AND ('lost' IN (f.kind, d.kind) OR d.kind = 'supplier') AND t.kind <> 'reverse_receipt'
	 GROUP BY t.id, 1, e.name, i.sku, l.code ORDER BY t.id`
