package transfers

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// An Order is a transfer between two sites, with both of its halves.
type Order struct {
	ID         int64           `db:"id" json:"id"`
	Number     string          `db:"number" json:"number"`
	FromSiteID int32           `db:"site_id" json:"from_site_id"`
	From       string          `db:"from_site" json:"from"`
	ToSiteID   int32           `db:"to_site_id" json:"to_site_id"`
	To         string          `db:"to_site" json:"to"`
	WantedOn   string          `db:"wanted_on" json:"wanted_on"`
	ExpectedOn string          `db:"expected_on" json:"expected_on"`
	Carrier    string          `db:"carrier" json:"carrier"`
	Reason     string          `db:"reason" json:"reason"`
	State      states.Transfer `db:"-" json:"state" enum:"on_hold,released,partly_shipped,in_transit,partly_received,received,closed,cancelled"`
	Late       bool            `db:"late" json:"late" doc:"It should have left, or be there, by now"`
	Version    int32           `db:"version" json:"version"`
	// Wanted, Shipped and Received are the sums of its lines, in base units; Transit is what was
	// shipped and did not come yet.
	Wanted    decimal.Decimal `db:"wanted" json:"wanted"`
	Shipped   decimal.Decimal `db:"shipped" json:"shipped"`
	Received  decimal.Decimal `db:"received" json:"received"`
	Transit   decimal.Decimal `db:"transit" json:"in_transit"`
	Elsewhere decimal.Decimal `db:"elsewhere" json:"elsewhere" doc:"What a case settled otherwise: back, lost or the carrier's"`
	Lines     []Line          `db:"-" json:"lines"`
	Shipments []Half          `db:"-" json:"shipments"`
	Cases     []Case          `db:"-" json:"cases" nullable:"false"`
	Expected  []Expected      `db:"-" json:"expected" nullable:"false" doc:"What is in transit of it, lot by lot"`

	FirstState states.Outbound `db:"first" json:"-"`
	documents.Sorted
}

// A Line is an item of a transfer and how far it is, in base units.
type Line struct {
	ID          int64           `db:"id" json:"id"`
	Number      int             `db:"line" json:"line"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	Planned     decimal.Decimal `db:"planned" json:"planned"`
	Picked      decimal.Decimal `db:"picked" json:"picked"`
	Shipped     decimal.Decimal `db:"shipped" json:"shipped"`
	Cancelled   decimal.Decimal `db:"cancelled" json:"cancelled"`
}

// A Half is a shipment of a transfer, and what is expected of it at the other site.
type Half struct {
	ShipmentID int64           `db:"shipment_id" json:"shipment_id"`
	Shipment   string          `db:"shipment" json:"shipment"`
	ShippedAt  time.Time       `db:"shipped_at" json:"shipped_at"`
	InboundID  int64           `db:"inbound_id" json:"inbound_id"`
	State      states.Inbound  `db:"state" json:"state" enum:"placed,partly_received,received,closed"`
	Quantity   decimal.Decimal `db:"quantity" json:"quantity"`
	Received   decimal.Decimal `db:"received" json:"received"`
	ArrivalID  *int64          `db:"arrival_id" json:"arrival_id" doc:"The arrival that is open for it, if any"`
	Arrival    string          `db:"arrival" json:"arrival"`
}

// halves sums what came of a transfer's shipments, and what did not yet.
const halves = `
	SELECT d.order_id, sum(l.received) AS received, sum((SELECT coalesce(sum(k.quantity), 0) FROM transfer_cases k
	         WHERE k.line_id = l.id AND k.kind <> 'more' AND k.outcome IN ('back', 'lost', 'carrier'))) AS elsewhere,
	       sum(CASE WHEN l.closed THEN 0 ELSE greatest(l.quantity - l.received, 0) END) AS transit
	  FROM inbound_orders n JOIN shipments d ON d.id = n.shipment_id JOIN inbound_lines l ON l.order_id = n.id
	 GROUP BY 1`

// columns are those of a transfer.
const columns = `
	SELECT o.id, o.number, o.site_id, f.name AS from_site, o.to_site_id, s.name AS to_site,
	       to_char(o.wanted_on, 'YYYY-MM-DD') AS wanted_on, to_char(o.due_on, 'YYYY-MM-DD') AS expected_on,
	       o.carrier, t.reason, o.state AS first, o.version, l.wanted, l.shipped, coalesce(h.received, 0) AS received,
	       coalesce(h.elsewhere, 0) AS elsewhere, coalesce(h.transit, 0) AS transit,
	       o.state IN ('on_hold', 'released') AND o.wanted_on < current_date
	         OR coalesce(h.transit, 0) > 0 AND o.due_on < current_date AS late
	  FROM outbound_orders o JOIN transfer_orders t ON t.order_id = o.id
	  JOIN sites f ON f.id = o.site_id JOIN sites s ON s.id = o.to_site_id
	  JOIN LATERAL (SELECT sum(quantity - cancelled) AS wanted, sum(shipped) AS shipped FROM outbound_lines
	                 WHERE order_id = o.id) AS l ON true
	  LEFT JOIN (` + halves + `) AS h ON h.order_id = o.id `

// transfers are those of a site, at either end of them; those that are open, or all.
var transfers = documents.List[Order]{
	Query: columns + `
		WHERE $1 IN (o.site_id, o.to_site_id) AND (NOT $2 OR o.state IN ('on_hold', 'released') OR coalesce(h.transit, 0) > 0)`,
	Keys: map[string]documents.SortKey{
		"number":     {Expr: "o.id::numeric", Type: "numeric"},
		"from":       {Expr: "lower(o.from_site)", Type: "text"},
		"to":         {Expr: "lower(o.to_site)", Type: "text"},
		"wanted":     {Expr: "o.wanted_on", Type: "text"},
		"expected":   {Expr: "o.expected_on", Type: "text"},
		"units":      {Expr: "o.wanted", Type: "numeric"},
		"shipped":    {Expr: "o.shipped", Type: "numeric"},
		"in_transit": {Expr: "o.transit", Type: "numeric"},
		"received":   {Expr: "o.received", Type: "numeric"},
	},
	Finish: func(rows []Order) error {
		for i := range rows {
			rows[i].follow()
		}
		return nil
	},
	Header: []string{"number", "from", "to", "wanted_on", "expected_on", "state", "carrier", "reason", "wanted", "shipped",
		"in_transit", "received"},
	Text: func(o Order) []string {
		return []string{o.Number, o.From, o.To, o.WantedOn, o.ExpectedOn, string(o.State), o.Carrier, o.Reason,
			o.Wanted.String(), o.Shipped.String(), o.Transit.String(), o.Received.String()}
	},
}

// follow lets the state follow from both halves.
func (o *Order) follow() {
	o.State = states.TransferOf(o.FirstState, o.Shipped, o.Received, o.Elsewhere)
	o.Lines, o.Shipments, o.Cases = []Line{}, []Half{}, []Case{}
	o.Expected = []Expected{}
}

// onTheFloor is what of the transfer was begun.
func (o Order) onTheFloor() decimal.Decimal {
	sum := o.Shipped
	for _, l := range o.Lines {
		sum = sum.Add(l.Planned).Add(l.Picked)
	}
	return sum
}

// readOrder reads a transfer whole.
func readOrder(ctx context.Context, q sqlx.QueryerContext, id int64) (o Order, err error) {
	if err := sqlx.GetContext(ctx, q, &o, columns+`WHERE o.id = $1`, id); err != nil {
		return o, documents.Found(err, "transfer", strconv.FormatInt(id, 10))
	}
	o.follow()
	if err := sqlx.SelectContext(ctx, q, &o.Lines, `
		SELECT l.id, l.line, l.item_id, i.sku, i.description, i.base_unit AS unit, l.quantity, l.planned, l.picked, l.shipped,
		       l.cancelled
		  FROM outbound_lines l JOIN items i ON i.id = l.item_id WHERE l.order_id = $1 ORDER BY l.line`, id); err != nil {
		return o, fmt.Errorf("reading a transfer's lines: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &o.Shipments, `
		SELECT d.id AS shipment_id, d.number AS shipment, d.shipped_at, n.id AS inbound_id, n.state, l.quantity, l.received,
		       a.id AS arrival_id, coalesce(a.number, '') AS arrival
		  FROM inbound_orders n JOIN shipments d ON d.id = n.shipment_id
		  JOIN LATERAL (SELECT sum(received) AS received, (SELECT sum(quantity) FROM shipment_lines WHERE shipment_id = d.id)
		                  AS quantity FROM inbound_lines WHERE order_id = n.id) AS l ON true
		  LEFT JOIN LATERAL (SELECT a.id, a.number FROM arrivals a JOIN arrival_orders x ON x.arrival_id = a.id
		                      WHERE x.order_id = n.id AND a.state = 'open' ORDER BY a.id LIMIT 1) AS a ON true
		 WHERE d.order_id = $1 ORDER BY d.id`, id); err != nil {
		return o, fmt.Errorf("reading a transfer's shipments: %w", err)
	}
	if o.Expected, err = readExpected(ctx, q, id); err != nil {
		return o, err
	}
	o.Cases, err = readCases(ctx, q, `WHERE o.id = $1 ORDER BY k.id`, id)
	return o, err
}

// A Transit is goods on their way between two sites, and since when.
type Transit struct {
	ID         int64           `db:"id" json:"-"`
	OrderID    int64           `db:"order_id" json:"order_id"`
	Order      string          `db:"order_number" json:"order"`
	Shipment   string          `db:"shipment" json:"shipment"`
	InboundID  int64           `db:"inbound_id" json:"inbound_id"`
	From       string          `db:"from_site" json:"from"`
	To         string          `db:"to_site" json:"to"`
	ItemID     int32           `db:"item_id" json:"item_id"`
	SKU        string          `db:"sku" json:"sku"`
	Item       string          `db:"item" json:"item"`
	Quantity   decimal.Decimal `db:"quantity" json:"quantity" doc:"What did not come yet, in base units"`
	Since      time.Time       `db:"since" json:"since"`
	Days       int             `db:"days" json:"days" doc:"How many days it is under way"`
	ExpectedOn string          `db:"expected_on" json:"expected_on"`
	Late       bool            `db:"late" json:"late"`
	documents.Sorted
}

// underWay is what is in transit from or to a site, line by line of what was shipped.
var underWay = documents.List[Transit]{
	Query: `
		SELECT l.id, o.id AS order_id, o.number AS order_number, d.number AS shipment, n.id AS inbound_id,
		       f.name AS from_site, s.name AS to_site, i.id AS item_id, i.sku, i.description AS item,
		       l.quantity - l.received AS quantity, d.shipped_at AS since,
		       (current_date - d.shipped_at::date)::int AS days, to_char(n.expected_on, 'YYYY-MM-DD') AS expected_on,
		       n.expected_on < current_date AS late
		  FROM inbound_orders n JOIN shipments d ON d.id = n.shipment_id JOIN outbound_orders o ON o.id = d.order_id
		  JOIN inbound_lines l ON l.order_id = n.id
		  JOIN items i ON i.id = l.item_id JOIN sites f ON f.id = o.site_id JOIN sites s ON s.id = o.to_site_id
		 WHERE $1 IN (o.site_id, o.to_site_id) AND NOT l.closed AND l.quantity > l.received`,
	Keys: map[string]documents.SortKey{
		"order":    {Expr: "o.order_id::numeric", Type: "numeric"},
		"shipment": {Expr: "o.shipment", Type: "text"},
		"from":     {Expr: "lower(o.from_site)", Type: "text"},
		"to":       {Expr: "lower(o.to_site)", Type: "text"},
		"item":     {Expr: "lower(o.item)", Type: "text"},
		"quantity": {Expr: "o.quantity", Type: "numeric"},
		"since":    {Expr: "o.since", Type: "timestamptz"},
		"expected": {Expr: "o.expected_on", Type: "text"},
	},
	Header: []string{"order", "shipment", "from", "to", "sku", "item", "quantity", "since", "expected_on"},
	Text: func(u Transit) []string {
		return []string{u.Order, u.Shipment, u.From, u.To, u.SKU, u.Item, u.Quantity.String(),
			u.Since.UTC().Format(time.RFC3339), u.ExpectedOn}
	},
}

// Expected is goods of a line that are in transit: what a case can be about.
type Expected struct {
	LineID   int64           `db:"line_id" json:"line_id"`
	Shipment string          `db:"shipment" json:"shipment"`
	SKU      string          `db:"sku" json:"sku"`
	Item     string          `db:"item" json:"item"`
	Tracking string          `db:"tracking" json:"tracking"`
	Lot      string          `db:"lot" json:"lot"`
	Quantity decimal.Decimal `db:"quantity" json:"quantity"`
	Units    string          `db:"units" json:"-"`
	Serials  []string        `db:"-" json:"serials" nullable:"false"`
}

// readExpected reads what is in transit of a transfer, in its cartons.
func readExpected(ctx context.Context, q sqlx.QueryerContext, order int64) ([]Expected, error) {
	out := []Expected{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT l.id AS line_id, d.number AS shipment, i.sku, i.description AS item, i.tracking, coalesce(t.code, '') AS lot,
		       sum(b.quantity) AS quantity, coalesce(string_agg(u.code, E'\n' ORDER BY u.code), '') AS units
		  FROM inbound_orders n JOIN shipments d ON d.id = n.shipment_id JOIN inbound_lines l ON l.order_id = n.id
		  JOIN carton_work w ON w.shipment_id = d.id
		  JOIN balances b ON b.carton_id = w.carton_id AND b.location_id = n.source_id AND b.item_id = l.item_id
		       AND b.quantity > 0
		  JOIN items i ON i.id = l.item_id LEFT JOIN lots t ON t.id = b.lot_id LEFT JOIN serials u ON u.id = b.serial_id
		 WHERE d.order_id = $1 AND NOT l.closed GROUP BY l.id, d.id, i.id, t.id ORDER BY d.id, l.line, t.code`, order)
	if err != nil {
		return nil, fmt.Errorf("reading what is in transit: %w", err)
	}
	for i := range out {
		if out[i].Serials = strings.Fields(out[i].Units); out[i].Serials == nil {
			out[i].Serials = []string{}
		}
	}
	return out, nil
}
